"""Keys on their way to an editor in a terminal, counted: what they do there, in which mode, and of text only how much.

What keys do is decided by the editor's own key file and its defaults, on the stage, where an action that leads to another mode or
pane has its effect. No text is kept: what is typed is a number, what is pasted is a number, and of keys with any character behind
them (`f{char}`) only that they were pressed.
"""

import re
from collections.abc import Iterator
from datetime import datetime
from typing import NamedTuple

from msgspec.structs import replace

from ombix.core.errors import InputError
from ombix.core.keys import CTRL, SHIFT, Chord, Trigger, write
from ombix.core.outcomes import Do, Only
from ombix.core.terminals import Terminal
from ombix.core.use import Gathering, Moment, UseCounts, Used
from ombix.dialects.description import Description
from ombix.dialects.vocabulary import Vocabulary
from ombix.session.context import Opener
from ombix.session.pressing import OnStage
from ombix.session.recording import keys_sent
from ombix.session.resources import Resources, user_path
from ombix.stage.playing import Happening
from ombix.store.workspace import this_platform

LONGEST_TEXT = 4000
"""Characters on the stage: where more were typed, the stage begins anew with the mode and pane that it is in."""
MOST_HAPPENED = 500
"""Things that happened on the stage until it begins anew: hours of typing are not to fill the memory."""
_PANE, _TEXT = "pane", "text"
_ENTER = Chord(0, "Enter")
_AWAY = (Chord(0, "Escape"), Chord(CTRL, "c"), Chord(CTRL, "g"))
"""What puts a question away, in most editors of terminals."""
_QUESTIONS = {"replace": 2}
"""Pane to how many things are asked there one after the other."""
_PASTE_BEGIN, _PASTE_END = b"\x1b[200~", b"\x1b[201~"
_MOUSE = re.compile(rb"\x1b\[<\d+;\d+;\d+[Mm]|\x1b\[M[\x20-\xff]{3}")
_REPLY = re.compile(
    rb"\x1b\[[?>=]?[\d;]*[Rcny]|\x1b\[\?[\d;$]*u|\x1b\[[IO]|\x1b[P\]^_][^\x07\x1b]*(?:\x07|\x1b\\)", re.DOTALL
)
"""What a terminal answers to questions, and where the window gets and loses the focus (ECMA-48, and xterm's control sequences)."""
_CURSOR_KEY = re.compile(rb"\x1b([\[O])([A-DHF])")
_UNFINISHED = re.compile(rb"\x1b(?:\[[\x30-\x3f]*[\x20-\x2f]*|[P\]^_][^\x07\x1b]*)?\Z|\x1b\[M.{0,2}\Z", re.DOTALL)


class WatchedKeys:
    """Counts keys that a terminal sends to an editor."""

    def __init__(self, staged: OnStage, terminal: Terminal, editor: str, vocabulary: Vocabulary) -> None:
        self._machine, _title, platform = staged
        self._vocabulary = vocabulary
        self._takes_next = False
        """Whether the next key is given to the command before it, as the character that it goes to."""
        self._terminal = terminal
        self._editor = editor
        self._platform = platform.name
        self._gathering = Gathering()
        self._rest = b""
        self._is_pasting = False
        self._plain = self._machine.state
        self._known = terminal.standing()
        self._answers = 0

    def taken(self) -> UseCounts:
        """What was counted since it was taken last."""
        counts, self._gathering.counts = self._gathering.counts, UseCounts()
        return counts

    @property
    def is_unfinished(self) -> bool:
        """Whether what came last may be the beginning of more, and means something else where none comes."""
        return bool(self._rest) or self._machine.waits_for_time

    def note(self, data: bytes, now: datetime) -> None:
        """Count what the terminal sent at a time."""
        for kind, part in self._parts(self._rest + data):
            if kind == "keys":
                self._press(part, now)
            elif kind == "paste":
                self._typed(len(part.decode("utf-8", "replace")), now)

    def pause(self, milliseconds: int, now: datetime) -> None:
        """Nothing came for a while: what looked like the beginning of more was all."""
        if self._is_pasting:
            return
        rest, self._rest = self._rest, b""
        if rest:
            self._press(rest, now)
        before = len(self._machine.happened)
        waited = self._machine.waits_for_more
        self._machine.pause(milliseconds)
        if waited and not self._machine.waits_for_more and not self._may_be_text(waited):
            self._used("", write(waited), "", now, "wait")
        self._happened(before, now)

    def _may_be_text(self, keys: Trigger) -> bool:
        """Whether keys that waited were typed: where characters go into the text, they are nobody's business."""
        is_typing = self._machine.facts.get("mode", "plain") in ("plain", "insert")
        return is_typing and all(len(chord.key) == 1 and not chord.modifiers & ~SHIFT for chord in keys)

    def _parts(self, data: bytes) -> Iterator[tuple[str, bytes]]:
        """Keys, and what is pasted; without the mouse, and without what the terminal says by itself."""
        self._rest = b""
        while data:
            if self._is_pasting:
                pasted, end, data = data.partition(_PASTE_END)
                if not end:
                    keep = next(
                        (size for size in range(len(_PASTE_END) - 1, 0, -1) if pasted.endswith(_PASTE_END[:size])), 0
                    )
                    self._rest = pasted[len(pasted) - keep :] if keep else b""
                    pasted = pasted[: len(pasted) - keep]
                self._is_pasting = not end
                if pasted:
                    yield "paste", pasted
                continue
            at = data.find(b"\x1b")
            if at != 0:
                yield "keys", data if at < 0 else data[:at]
                data = b"" if at < 0 else data[at:]
                continue
            if data.startswith(_PASTE_BEGIN):
                self._is_pasting, data = True, data[len(_PASTE_BEGIN) :]
                continue
            known = _MOUSE.match(data) or _REPLY.match(data)
            if known is not None:
                data = data[known.end() :]
            elif _UNFINISHED.match(data):
                self._rest, data = data, b""
            else:
                behind = data.find(b"\x1b", 2 if data.startswith(b"\x1b\x1b") else 1)
                yield "keys", data if behind < 0 else data[:behind]
                data = b"" if behind < 0 else data[behind:]

    def _as_described(self, found: re.Match[bytes]) -> bytes:
        """A cursor key as the terminal's description has it: programs switch between the two ways in which it is sent."""
        other = b"\x1b" + (b"O" if found[1] == b"[" else b"[") + found[2]
        return other if found[0] not in self._known and other in self._known else found[0]

    def _press(self, data: bytes, now: datetime) -> None:
        for chord in keys_sent(_CURSOR_KEY.sub(self._as_described, data), self._terminal)[0]:
            if self._is_answer(chord, now):
                continue
            before = len(self._machine.happened)
            mode = self._machine.facts.get("mode", "")
            waited = self._machine.waits_for_more
            self._machine.press([chord])
            self._happened(before, now, mode, bool(waited) and _goes_nowhere(self._machine.happened[before:], chord))
        machine = self._machine
        if machine.state.prompt is None and (
            len(machine.state.text) > LONGEST_TEXT or len(machine.happened) > MOST_HAPPENED
        ):
            machine.begin_anew(self._plain)

    def _is_answer(self, chord: Chord, now: datetime) -> bool:
        """Whether a key goes to a command or a question: it is text, or the answer's end, or puts the question away."""
        machine = self._machine
        if self._takes_next:
            self._takes_next = False
            self._typed(int(chord not in _AWAY), now)
            return True
        if machine.facts.get(_PANE, _TEXT) == _TEXT or machine.waits_for_more:
            return False
        is_end, is_away = chord == _ENTER, chord in _AWAY
        self._answers = self._answers + 1 if is_end else 0 if is_away else self._answers
        if is_end and self._answers < _QUESTIONS.get(machine.facts[_PANE], 1):
            return True
        if is_end or is_away:
            self._answers = 0
            machine.facts[_PANE] = _TEXT
            machine.state = replace(machine.state, prompt=None)
        elif len(chord.key) == 1 and not chord.modifiers & ~SHIFT:
            self._typed(1, now)
        else:
            return chord in (Chord(0, "Space"), Chord(0, "Backspace"))
        return True

    def _happened(self, before: int, now: datetime, mode: str | None = None, is_vain: bool = False) -> None:
        mode = self._machine.facts.get("mode", "") if mode is None else mode
        for one in self._machine.happened[before:]:
            if one.kind == "types":
                self._typed(len(one.text), now)
            elif one.kind == "runs" and one.binding is not None:
                self._used(*_said(one), mode, now, "use")
                self._takes_next = any(row.next for row in self._vocabulary.rows_of(one.binding.written))
            elif one.kind == "nothing" and is_vain:
                self._used("", write(one.keys[:-1]), mode, now, "wait")

    def _used(self, done: str, keys: str, mode: str, now: datetime, kind: str) -> None:
        is_action = "." in done and ":" not in done
        used = Used(
            now.date().isoformat(), self._editor, self._platform, done if is_action else "",
            "" if is_action else done.partition(":")[2] or done, keys, "keys", mode,
        )  # fmt: skip
        self._gathering.note(Moment(used, now.timestamp(), 1, "wait" if kind == "wait" else "use"))

    def _typed(self, number: int, now: datetime) -> None:
        if not number:
            return
        used = Used(now.date().isoformat(), self._editor, self._platform, "", "", "", "keys", "")
        self._gathering.note(Moment(used, now.timestamp(), number, "typed"))


def _goes_nowhere(happened: list[Happening], chord: Chord) -> bool:
    return bool(happened) and happened[-1].kind == "nothing" and happened[-1].keys[-1:] == (chord,)


def _said(one: Happening) -> tuple[str, str]:
    """What was done, and on which keys: as the binding names them, so that no character of a text is among them."""
    assert one.binding is not None
    outcome = one.outcome
    done = outcome.action if isinstance(outcome, Do) else str(outcome)
    if isinstance(outcome, Only):
        done = f"{outcome.editor}:{outcome.command}"
    return done, write(one.binding.keys)


class WatchedEditor(NamedTuple):
    """An editor that is watched: its name, and its own key file (empty: none)."""

    editor: str
    file: str


def watched_editor(command: str, editor: str, opener: Opener, resources: Resources) -> WatchedEditor:
    """The editor that a program is, by its name, or as it is told; its key file is where the workspace or the editor has it. Raises
    InputError where that is not known."""
    name = editor or _editor_of(command, opener, resources)
    chosen = opener.editor(name)
    dialect = resources.dialect(chosen)
    named = [user_path(chosen.file, opener.folder)] if chosen.file else []
    usual = [user_path(one, opener.folder) for one in dialect.usual_places(this_platform())]
    file = next((str(one) for one in [*named, *usual] if one.is_file()), "")
    return WatchedEditor(name, file)


def _editor_of(command: str, opener: Opener, resources: Resources) -> str:
    program = command.rpartition("/")[2]
    workspace = opener.workspace()
    dialects = resources.dialects
    found = [name for name in dialects.names() if program in _programs(dialects.load(name).description)]
    if not found:
        raise InputError(
            f"{program} is no editor that Ombix knows", "Say which it is: ombix watch --editor NAME -- COMMAND"
        )
    for name, one in (workspace.editors if workspace is not None else {}).items():
        if one.dialect == found[0]:
            return name
    return found[0]


def _programs(description: Description) -> set[str]:
    """The names of the programs of an editor: its own, and that which is started to press keys in it."""
    command = description.program.command if description.program is not None else []
    return {description.name, *(word.rpartition("/")[2] for word in command[:1])}
