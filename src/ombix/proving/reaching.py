"""Whether a ported key reaches its command where that does not only change a text: what follows the key is compared with what
follows when the same command is started in the way that the editor offers by itself."""

import contextlib
import os
import tempfile
import threading
from collections.abc import Callable, Sequence
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import NamedTuple

from msgspec.structs import replace

from ombix.core.actions import Catalogue
from ombix.core.conditions import NEVER
from ombix.core.errors import InputError, OmbixError, OutsideError
from ombix.core.keymap import Binding, Layer, LayerName
from ombix.core.keys import write
from ombix.core.outcomes import Nothing
from ombix.core.terminals import Terminal
from ombix.dialects.description import Mode, Program
from ombix.dialects.dialect import Dialect
from ombix.dialects.writing import write_file
from ombix.proving.driver import Desk, opened
from ombix.proving.running import EditorRun, Picture, Start, placed

_LINES = 60
_LONG = "".join(f"line {number} of (some) text, and more\n" for number in range(1, _LINES + 1))
SETTLE_SECONDS = 1.2
"""So long is waited at the most until what is to be seen no longer changes."""
_STEP_SECONDS, _PATIENT_SECONDS, _PATIENT_ROUNDS = 0.1, 0.5, 2
_SLOWEST = 4.0
_PAGE, _NEARLY = 300, 0.75
"""So many new characters are a page, and such a share of them has to be the same."""
_WITHOUT = LayerName("without", "without")
_FOLLOWING = "zz"
"""Typed behind a key after which nothing can be seen: what it does may show then."""


class Reference(NamedTuple):
    """A way that an editor offers by itself to start a command: the keys, and that in words; and of an editor whose file can take
    its keys away, a file in which these run nothing."""

    keys: tuple[bytes, ...]
    said: str
    without: str = ""
    may_end: bool = False
    """Whether the same keys, where a file binds them, may end on their way, and these do not."""


class Reach(NamedTuple):
    """What pressing showed: None where it cannot be told, with the reason."""

    agrees: bool | None
    reason: str


class Wanted(NamedTuple):
    """The keys of a ported binding, as they are sent, and the way to start its command."""

    keys: bytes
    reference: Reference


class _Situation(NamedTuple):
    """A text, a place in it (from 0), and whether something is typed there before."""

    text: str
    cursor: int
    is_changed: bool


_SITUATIONS = (
    _Situation(_LONG, _LONG.index("line 30 of (") + 12, False),
    _Situation("one two\nthree (four)\nfive\n", 3, True),
)


class _Followed(NamedTuple):
    """What was to be seen before a key, behind it, and behind what was typed then; whether the editor had ended, the text's
    file, and the files beside it."""

    before: Picture
    after: Picture
    later: Picture
    ended: bool
    saved: str
    files: tuple[str, ...]


def reference(dialect: Dialect, terminal: Terminal, section: str, written: str) -> Reference | None:
    """How the editor starts a command by itself in a section: by a default key, or where there is none, by its command line.
    None where it offers nothing of the kind."""
    description, space = dialect.description, dialect.space
    states = space.states(description.sections[section])
    for binding in dialect.default_layer.bindings:
        sent = terminal.send(binding.trigger)
        is_here = space.both(space.parse(binding.where, binding.scope), states) != NEVER
        if binding.written == written and is_here and isinstance(sent, bytes) and sent:
            return Reference((sent,), f"its default key {write(binding.trigger)}", _file_without(dialect, binding))
    program = description.program
    row = dialect.vocabulary.row_of(dialect.vocabulary.called(written)[0], section)
    if row is not None and row.next == "character":
        return None  # what it asks for looks otherwise where it is asked for by another way
    if description.commands.keys:
        sent, may_end = _as_keys(dialect, terminal, written), _may_end(dialect, section, written)
        return Reference((sent,), f"its own keys {written}", may_end=may_end) if sent else None
    if program is not None and program.command_line:
        typed = tuple(one.replace("{command}", written).encode() for one in program.command_line)
        return Reference(typed, "its command line")
    return None


def _may_end(dialect: Dialect, section: str, written: str) -> bool:
    """Whether keys in a row end with the first that cannot do its work where the file binds them, which they do not where they
    are pressed one by one."""
    row = dialect.description.effects.get(section)
    parts = dialect.vocabulary.parts(written, section, may_leave=True)
    return row is not None and row.ends and parts is not None and len(parts) > 1


def _file_without(dialect: Dialect, binding: Binding) -> str:
    """A file in which a default binding's command has not this key; empty where the editor's file gives no command its keys."""
    if not dialect.description.file.assigns:
        return ""
    gone = Binding(binding.trigger, Nothing(), binding.place, _WITHOUT, binding.where)
    try:
        return write_file(dialect, Layer(_WITHOUT, [gone]), dialect.space, Catalogue({}, {}), headings=False)
    except InputError:
        return ""


def _as_keys(dialect: Dialect, terminal: Terminal, written: str) -> bytes:
    if dialect.description.keys.bytes is not None:
        return written.encode()
    with contextlib.suppress(OmbixError):
        sent = terminal.send(dialect.spelling.read_row(written))
        return sent if isinstance(sent, bytes) else b""
    return b""


class Reacher:
    """Presses ported keys in an editor with the ported file, and their references in one without it."""

    def __init__(self, program: Program, mode: Mode, ported: Start, plain: Start, desk: Desk, tab_width: int) -> None:
        self._program, self._mode, self._desk = program, mode, desk
        self._ported, self._plain, self._tab_width = ported, plain, tab_width
        self._stop = threading.Event()
        self._own = threading.local()

    def press_all(
        self, wanted: Sequence[Wanted], progress: Callable[[], None], is_over: Callable[[], bool]
    ) -> list[Reach]:
        """What pressing each shows, several editors at a time; what comes after `is_over` is not checked."""

        def one(each: Wanted) -> Reach:
            try:
                return self._press(each) if not is_over() else Reach(None, "the time for all of them was over")
            finally:
                progress()

        with tempfile.TemporaryDirectory(prefix="ombix-reach-", ignore_cleanup_errors=True) as name:
            self._folders = iter([Path(name) / str(number) for number in range(64)])
            with ThreadPoolExecutor(2 if self._program.window else 4) as pool:
                try:
                    return list(pool.map(one, wanted))
                except BaseException:
                    self._stop.set()
                    pool.shutdown(wait=True, cancel_futures=True)
                    raise

    def _press(self, wanted: Wanted) -> Reach:
        """In one situation after the other, until something tells; what differs is pressed again before it is believed."""
        said = wanted.reference.said
        for situation in _SITUATIONS:
            try:
                own, other = self._both(situation, wanted)
                found: bool | str | None = self._compared(situation, wanted, own, other)
                if found is False:
                    found = self._again(situation, wanted, own, other)
            except OutsideError as error:
                return Reach(None, error.what)
            if found is False and wanted.reference.may_end:
                found = f"behind {said} pressed one by one all is done, and in a row it ends with what cannot be done"
            if isinstance(found, str):
                return Reach(None, found)
            if found is not None:
                return Reach(
                    found, f"it does what {said} does" if found else f"something else follows than behind {said}"
                )
        return Reach(None, f"nothing that can be seen follows {said}")

    def _both(self, situation: _Situation, wanted: Wanted, stillness: float = 0.0) -> tuple[_Followed, _Followed]:
        """What follows the ported keys, and what follows those of the reference."""
        other = self._follow(self._plain, situation, wanted.reference.keys, stillness)
        return self._follow(self._ported, situation, (wanted.keys,), stillness), other

    def _again(self, situation: _Situation, wanted: Wanted, own: _Followed, other: _Followed) -> bool | str | None:
        """Pressed more patiently, against each other and against the times before: a difference is one only where what follows
        each of the two was the same twice. In words, where it was not."""
        mine, theirs = [own], [other]
        for _ in range(_PATIENT_ROUNDS):
            late, later = self._both(situation, wanted, _PATIENT_SECONDS)
            pairs = [(late, later), *((late, one) for one in theirs), *((one, later) for one in mine)]
            verdicts = [self._compared(situation, wanted, *pair) for pair in pairs]
            if True in verdicts:
                return True
            if None in verdicts:
                return None
            is_steady = all(
                any(self._compared(situation, wanted, one, last) is not False for one in before)
                for before, last in ((theirs, later), (mine, late))
            )
            if is_steady:
                return False
            mine, theirs = [*mine, late], [*theirs, later]
        return f"what follows {wanted.reference.said} is not the same each time"

    def _compared(
        self, situation: _Situation, wanted: Wanted, own: _Followed, other: _Followed
    ) -> bool | None:  # fmt: skip
        """Whether the same follows in a situation; None where nothing tells."""
        masked = {at for at, pair in enumerate(zip(own.before, other.before, strict=False)) if pair[0] != pair[1]}
        if _left(other.before, masked) != _left(other.after, masked) or other.ended or other.files:
            same = (own.ended, own.saved, own.files) == (other.ended, other.saved, other.files)
            if same and (own.ended or _is_same(own.after, other.after, other.before, masked)):
                return True
            return None if self._is_not_by_command(situation, wanted, other, masked) else False
        nothing = self._without(situation)
        masked |= {at for at, pair in enumerate(zip(nothing.before, other.before, strict=False)) if pair[0] != pair[1]}
        if _left(other.later, masked) == _left(nothing.later, masked):
            # Nothing tells; but where the ported key shows something, it is another command.
            return None if _left(own.later, masked) == _left(nothing.later, masked) and not own.ended else False
        return _left(own.later, masked) == _left(other.later, masked) and not own.ended

    def _is_not_by_command(
        self, situation: _Situation, wanted: Wanted, other: _Followed, masked: set[int]
    ) -> bool:  # fmt: skip
        """Whether the same follows the keys of a reference where they do not run the command: it could not be run there, and
        the keys did something else."""
        if not wanted.reference.without:
            return False
        start = replace(self._plain, config=wanted.reference.without)
        alone = self._follow(start, situation, wanted.reference.keys)
        return _left(alone.after, masked) == _left(other.after, masked)

    def _without(self, situation: _Situation) -> _Followed:
        """What is to be seen where no key is pressed; found once by each worker."""
        known: dict[_Situation, _Followed] = self._own.__dict__.setdefault("known", {})
        if situation not in known:
            known[situation] = self._follow(self._plain, situation, ())
        return known[situation]

    def _follow(
        self, start: Start, situation: _Situation, keys: tuple[bytes, ...], stillness: float = 0.0
    ) -> _Followed:  # fmt: skip
        """Press keys in an editor that is started for them, and look when nothing has changed for some seconds. Raises
        OutsideError where it does not start."""
        folder: Path = self._own.__dict__.setdefault("folder", None) or next(self._folders)
        self._own.folder = folder
        at = placed(self._program, self._mode, situation.text, situation.cursor, self._tab_width)
        begun = Start(start.config_name, start.config, situation.text, at.line, at.column, start.beside)
        with opened(self._program, begun, self._desk._replace(folder=folder), self._stop) as one:
            if reason := one.run.wait_until_ready():
                raise OutsideError(reason, "")
            for key in at.keys:
                one.run.send(key)
            if situation.is_changed:
                one.run.send(self._mode.typing.replace("{text}", "q").encode())
            there = {path.name for path in one.home.folder.iterdir()}
            before = _settled(one.run, stillness)
            for key in keys:
                one.run.send(key)
            after = _settled(one.run, stillness)
            ended = one.run.ended
            if not ended:
                one.run.send(_FOLLOWING.encode() if not self._program.window else " ".join(_FOLLOWING).encode())
            later = _settled(one.run, stillness)
            saved = one.file.read_text("utf-8", "replace") if one.file.exists() else ""
            files = sorted(
                path.name for path in one.home.folder.iterdir()
                if path.name not in there and path.is_file() and not path.name.startswith(".")
            )  # fmt: skip
            return _Followed(before, after, later, ended, saved, tuple(files))


def _is_same(one: Picture, other: Picture, before: Picture, masked: set[int]) -> bool:
    """Whether two pictures are the same; of one that is new for the most part, like a page of help that has keys in it, whether
    nearly all that is written there is."""
    own, wanted, first = _left(one, masked), _left(other, masked), _left(before, masked)
    if own == wanted:
        return True
    new = [
        (mine, theirs) for mine, theirs, old in zip(own, wanted, first, strict=False)
        if theirs != old and _is_written(mine, theirs)
    ]  # fmt: skip
    return len(new) > _PAGE and sum(mine == theirs for mine, theirs in new) > _NEARLY * len(new)


def _is_written(*cells: object) -> bool:
    """Whether one of the cells of a terminal has a character in it."""
    return any(isinstance(cell, tuple) and isinstance(cell[0], str) and cell[0].strip() for cell in cells)


def _left(picture: Picture, masked: set[int]) -> list[object]:
    return [one for at, one in enumerate(picture) if at not in masked]


def _slowness() -> float:
    """How many times longer than on an idle machine something may take here now: processes that want to run for each that can."""
    try:
        return min(max(os.getloadavg()[0] / (os.cpu_count() or 1), 1.0), _SLOWEST)
    except OSError:
        return 1.0


def _settled(run: EditorRun, stillness: float) -> Picture:
    """What is to be seen once that no longer changes, for a step or for some seconds; longer on a busy machine."""
    slowness = _slowness()
    stillness *= slowness
    found, unchanged = run.picture(), 0.0
    for _ in range(int((SETTLE_SECONDS * slowness + 2 * stillness) / _STEP_SECONDS)):
        run.wait(_STEP_SECONDS)
        now = run.picture()
        unchanged = unchanged + _STEP_SECONDS if now == found else 0.0
        if now == found and unchanged >= stillness:
            return now
        found = now
    return found
