"""Keys on their way to an editor in a terminal, counted: what they do there, in which mode, and of text only how much.

What keys do is decided by the editor's own key file and its defaults, on the stage, where an action that leads to another mode or
pane has its effect. No text is kept: what is typed is a number, what is pasted is a number, and of keys with any character behind
them (`f{char}`) only that they were pressed.
"""

import re
from collections.abc import Iterator, Sequence
from datetime import datetime
from typing import NamedTuple

from msgspec.structs import replace

from ombix.core.errors import InputError
from ombix.core.keymap.bindings import Binding
from ombix.core.keymap.outcomes import Do, Only
from ombix.core.keys.notation import CTRL, SHIFT, Chord, Trigger, write
from ombix.core.pressing.sent_keys import keys_sent
from ombix.core.pressing.terminals import Terminal
from ombix.core.usage.counts import Gathering, Moment, UseCounts, Used
from ombix.data.platform_names import this_platform
from ombix.editors.description import Description
from ombix.editors.vocabulary import Vocabulary
from ombix.text.stage.macro_player import Happening
from ombix.work.tryout.stage_session import OnStage
from ombix.work.usage.command_guard import CommandGuard, is_sign, split_alt
from ombix.workspace.context import Opener
from ombix.workspace.resources import Resources, user_path

MOST_SIGNS_AT_ONCE = 8
"""Characters that come at once from a terminal in which somebody presses commands."""
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

    def __init__(
        self, staged: OnStage, terminal: Terminal, editor: str, vocabulary: Vocabulary, guard: CommandGuard
    ) -> None:
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
        self._guard = guard
        self._asked = ""
        """The last action that was run: if there is a question, it is that one's."""
        self._line = ""
        """What was answered so far at the question for a command; it decides what the editor does next, and is never kept."""
        self._is_hidden = False

    def start(self, arguments: Sequence[str]) -> None:
        """The editor is started with arguments."""
        self._guard.start(arguments)

    def hide(self, is_hidden: bool) -> None:
        """Whether somebody else than the editor reads what is pressed: then nothing of it is counted, and what the editor takes
        keys as is not known afterwards."""
        if is_hidden and not self._is_hidden:
            self._rest, self._is_pasting = b"", False
            self._gathering.forget_order(self._editor)
            self._guard.lose()
        self._is_hidden = is_hidden

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
        if self._is_hidden:
            return
        for kind, part in self._parts(self._rest + data):
            if kind == "keys":
                self._press(part, now)
            elif kind == "paste":
                self._typed(len(part.decode("utf-8", "replace")), now)
                if self._guard.takes == "commands" and self._guard.is_modal:
                    self._guard.lose()

    def pause(self, milliseconds: int, now: datetime) -> None:
        """Nothing came for a while: what looked like the beginning of more was all."""
        if self._is_pasting or self._is_hidden:
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
        chords = keys_sent(_CURSOR_KEY.sub(self._as_described, data), self._terminal)[0]
        guard = self._guard
        if guard.is_modal and sum(map(is_sign, chords)) >= MOST_SIGNS_AT_ONCE:
            # Nobody presses so many at once: they were pasted, or typed ahead of whatever asks for them.
            self._typed(sum(map(is_sign, chords)), now)
            guard.lose()
            return
        for pressed in (part for chord in chords for part in (split_alt(chord) if guard.splits_alt else (chord,))):
            if guard.takes == "unknown":
                self._press_in_unknown(pressed, now)
            else:
                self._press_known(pressed, now)
        machine = self._machine
        if machine.state.prompt is None and (
            len(machine.state.text) > LONGEST_TEXT or len(machine.happened) > MOST_HAPPENED
        ):
            machine.begin_anew(self._plain)

    def _press_in_unknown(self, chord: Chord, now: datetime) -> None:
        """A key while it is not known whether keys are commands: a character is text, and no other key is counted."""
        if self._guard.pressed_in_unknown(chord):
            self._stand_in_commands()
        elif is_sign(chord):
            self._typed(1, now)

    def _stand_in_commands(self) -> None:
        """The stage goes on from where the editor takes commands."""
        machine = self._machine
        machine.finish()  # what waits for more keys waits no longer
        machine.begin_anew(self._plain)
        machine.facts |= {"mode": self._guard.command_mode, _PANE: _TEXT}
        self._takes_next, self._answers, self._line = False, 0, ""

    def _press_known(self, chord: Chord, now: datetime) -> None:
        if self._is_answer(chord, now):
            return
        machine, guard = self._machine, self._guard
        before = len(machine.happened)
        mode = machine.facts.get("mode", "")
        waited = machine.waits_for_more
        machine.press([chord])
        self._happened(before, now, mode, bool(waited) and _goes_nowhere(machine.happened[before:], chord))
        if guard.is_modal:
            self._follow(machine.happened[before:], chord)

    def _follow(self, happened: Sequence[Happening], chord: Chord) -> None:
        """Have the mode on the stage be what the editor takes keys as behind them."""
        machine, guard = self._machine, self._guard
        if any(one.kind == "nothing" for one in happened):
            guard.nothing_done(chord)
        if guard.takes == "commands" and machine.facts.get("mode") in ("plain", "insert"):
            guard.is_typing()
        elif guard.takes == "text" and machine.facts.get("mode") not in ("plain", "insert"):
            machine.facts["mode"] = "insert"

    def _is_answer(self, chord: Chord, now: datetime) -> bool:
        """Whether a key goes to a command or a question: it is text, or the answer's end, or puts the question away."""
        machine = self._machine
        if self._takes_next:
            self._takes_next = False
            self._typed(int(chord not in _AWAY), now)
            return True
        if machine.facts.get(_PANE, _TEXT) == _TEXT or machine.waits_for_more:
            return False
        self._note_line(chord)
        is_end, is_away = chord == _ENTER, chord in _AWAY
        self._answers = self._answers + 1 if is_end else 0 if is_away else self._answers
        if is_end and self._answers < _QUESTIONS.get(machine.facts[_PANE], 1):
            return True
        if is_end or is_away:
            self._answers = 0
            line, self._line = self._line, ""
            if self._guard.is_modal:  # also where it is put away: some editors run what stands there then
                self._guard.answered(self._asked, line)
            machine.facts[_PANE] = _TEXT
            machine.state = replace(machine.state, prompt=None)
        elif is_sign(chord) and chord.key != "Tab":
            self._typed(1, now)
        else:
            return chord == Chord(0, "Backspace")
        return True

    def _note_line(self, chord: Chord) -> None:
        """Add a key to the line that is being answered; another than a character makes another line of it, as from a history."""
        if chord in (Chord(0, "Backspace"), Chord(CTRL, "h")):
            self._line = self._line[:-1]
        elif chord != _ENTER and chord not in _AWAY and len(self._line) < LONGEST_TEXT:
            self._line += " " if chord.key == "Space" else chord.key if len(chord.key) == 1 and is_sign(chord) else "\0"

    def _happened(self, before: int, now: datetime, mode: str | None = None, is_vain: bool = False) -> None:
        mode = self._machine.facts.get("mode", "") if mode is None else mode
        for one in self._machine.happened[before:]:
            if one.kind == "types":
                self._typed(len(one.text), now)
            elif one.kind == "runs" and one.binding is not None:
                self._ran(one, one.binding, mode, now)
            elif one.kind == "nothing" and is_vain:
                self._used("", write(one.keys[:-1]), mode, now, "wait")

    def _ran(self, one: Happening, binding: Binding, mode: str, now: datetime) -> None:
        is_letters = all(map(is_sign, one.keys))
        rows = [row for row in self._vocabulary.rows_of(binding.written) if self._guard.is_in(row)]
        if self._guard.is_modal and self._guard.takes != "commands" and is_letters:
            self._typed(len(one.keys), now)  # typed as far as anybody knows
        else:
            self._used(*_said(one), mode, now, "use", in_order=not (self._guard.is_modal and is_letters))
        self._takes_next = any(row.next for row in self._vocabulary.rows_of(binding.written))
        self._asked = rows[0].action if rows else ""
        if self._guard.is_modal:
            self._takes_next = bool(rows) and rows[0].next == "character"
            asks = one.facts.get(_PANE, _TEXT) != _TEXT
            self._guard.ran(rows, binding.layer.kind == "defaults", asks)

    def _used(self, done: str, keys: str, mode: str, now: datetime, kind: str, in_order: bool = True) -> None:
        is_action = "." in done and ":" not in done
        used = Used(
            now.date().isoformat(), self._editor, self._platform, done if is_action else "",
            "" if is_action else done.partition(":")[2] or done, keys, "keys", mode,
        )  # fmt: skip
        moment = Moment(used, now.timestamp(), 1, "wait" if kind == "wait" else "use")
        if in_order:
            self._gathering.note(moment)
        else:  # what single letters do one after the other could spell a word
            self._gathering.tally(moment)
            self._gathering.forget_order(self._editor)

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
    usual = [user_path(place, opener.folder) for place in dialect.usual_places(this_platform())]
    file = next((str(one) for one in [*named, *usual] if one.is_file()), "")
    return WatchedEditor(name, file)


def _editor_of(command: str, opener: Opener, resources: Resources) -> str:
    program = command.rpartition("/")[2]
    workspace = opener.workspace()
    dialects = resources.dialects
    found = [name for name in dialects.names() if program in _programs(dialects.load(name).description)]
    if not found:
        raise InputError(
            f"{program} is no editor that Ombix knows", "Say which it is: ombix use watch --editor NAME -- COMMAND"
        )
    for name, one in (workspace.editors if workspace is not None else {}).items():
        if one.dialect == found[0]:
            return name
    return found[0]


def _programs(description: Description) -> set[str]:
    """The names of the programs of an editor: its own, and that which is started to press keys in it."""
    command = description.program.command if description.program is not None else []
    return {description.name, *(word.rpartition("/")[2] for word in command[:1])}
