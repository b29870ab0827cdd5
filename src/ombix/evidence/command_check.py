"""Whether a ported key reaches its command where that does not only change a text: what follows the key is compared with what
follows when the same command is started in the way that the editor offers by itself."""

import tempfile
import threading
import time
from collections.abc import Callable, Sequence
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import NamedTuple

from msgspec.structs import replace

from ombix.core.errors import OmbixError, OutsideError
from ombix.editors.description import Mode, Program
from ombix.evidence.command_references import Bindings, Reference
from ombix.evidence.editor_host import EditorHost, opened
from ombix.evidence.editor_run import TILES_IN_A_ROW, EditorRun, Picture, Start, placed, slowness
from ombix.evidence.idle_detection import is_told
from ombix.evidence.picture_comparison import differing, is_nearly, is_row_with_other_keys, is_window_with_other_keys
from ombix.evidence.preparing_keys import Preparation, PreparedSide

_LINES = 60
_LONG = "".join(f"line {number} of (some) text, and more\n" for number in range(1, _LINES + 1))
SETTLE_SECONDS = 1.2
"""So long is waited at the most until what is to be seen no longer changes."""
_STEP_SECONDS, _PATIENT_SECONDS, _PATIENT_ROUNDS = 0.1, 0.5, 2
_NOT_THE_SAME = 0.03
"""Of what two editors show, such a share may differ where the same was done in both."""
_LATE_SECONDS = 0.6
"""So long a window is waited for at the most, on an idle machine, before it is thought that nothing follows."""
_FIRST_SECONDS = 0.25
"""How long a window has to be as it is behind what comes first: a question that opens late would take the key that is pressed."""
_BUSY = 1.5
"""How much slower than an idle one a machine is on which what agrees behind something else is pressed again, if it does not tell
when an editor is done."""
_NONE: set[int] = set()
_IN_WINDOWS, _IN_TERMINALS = 3, 4
"""Editors at once: they wait for what is shown more than they work."""
_FOLLOWING = "zz"
"""Typed behind a key after which nothing can be seen: what it does may show then."""


class CheckResult(NamedTuple):
    """What pressing showed: None where it cannot be told, with the reason."""

    agrees: bool | None
    reason: str


class KeyToCheck(NamedTuple):
    """The keys of a ported binding, as they are sent, the way to start its command, what may come first, and what is done
    instead, without what was ported, where the command cannot be run."""

    keys: bytes
    reference: Reference
    ways: tuple[Preparation, ...] = ()
    unbound: tuple[bytes, ...] = ()


class PressedFiles(NamedTuple):
    """The editor's file with what was ported, and without it, with some more bindings in each."""

    ported: Callable[[Bindings], str]
    plain: Callable[[Bindings], str]


class _Situation(NamedTuple):
    """A text, a place in it (from 0), whether something is typed there before, and what comes before and behind the keys."""

    text: str
    cursor: int
    is_changed: bool
    first: Preparation = Preparation()


_SITUATIONS = (
    _Situation(_LONG, _LONG.index("line 30 of (") + 12, False),
    _Situation("one two\nthree\t(four)  \nfive\n", 3, True),
)


class _Observation(NamedTuple):
    """What was to be seen before a key, behind it, and behind what was typed then; whether the editor had ended, the text's
    file, and the files beside it."""

    before: Picture
    after: Picture
    later: Picture
    ended: bool
    saved: str
    files: tuple[str, ...]


class Reacher:
    """Presses ported keys in an editor with the ported file, and their references in one without it."""

    def __init__(
        self, program: Program, mode: Mode, files: PressedFiles, start: Start, desk: EditorHost, tab_width: int
    ) -> None:
        self._program, self._mode, self._desk = program, mode, desk
        self._files, self._start, self._tab_width = files, start, tab_width
        self._columns = TILES_IN_A_ROW if program.caret_blinks else 0
        self._stop = threading.Event()
        self._own = threading.local()

    def press_all(
        self, wanted: Sequence[KeyToCheck], progress: Callable[[], None], is_over: Callable[[], bool]
    ) -> list[CheckResult]:
        """What pressing each shows, several editors at a time; what comes after `is_over` is not checked."""

        found: dict[int, CheckResult] = {}

        def some(numbers: Sequence[int]) -> None:
            """Those with one reference, by one worker: what follows that is looked at once."""
            self._own.__dict__["seen"] = {}
            for number in numbers:
                over = CheckResult(None, "the time for all of them was over")
                found[number] = over if is_over() else self._press(wanted[number])
                progress()

        groups: dict[tuple[object, ...], list[int]] = {}
        for number, one in enumerate(wanted):
            groups.setdefault((one.reference.keys, one.reference.said), []).append(number)
        with tempfile.TemporaryDirectory(prefix="ombix-reach-", ignore_cleanup_errors=True) as name:
            self._folders = iter([Path(name) / str(number) for number in range(64)])
            with ThreadPoolExecutor(_IN_WINDOWS if self._program.window else _IN_TERMINALS) as pool:
                try:
                    list(pool.map(some, groups.values()))
                    return [found[number] for number in range(len(wanted))]
                except BaseException:
                    self._stop.set()
                    pool.shutdown(wait=True, cancel_futures=True)
                    raise

    def _press(self, wanted: KeyToCheck) -> CheckResult:
        """In one situation after the other, until something tells; what differs is pressed again before it is believed."""
        said = wanted.reference.said
        prepared = [_SITUATIONS[0 if first.is_long else -1]._replace(first=first) for first in wanted.ways]
        tries = [(situation, 0.0) for situation in (*_SITUATIONS, *prepared)]
        # What is said late; in a window what comes first may have been shown late as well.
        late = (*_SITUATIONS, *prepared) if self._program.window else _SITUATIONS
        tries += [(situation, _PATIENT_SECONDS) for situation in late]
        for situation, stillness in tries:
            try:
                own, other = self._both(situation, wanted, stillness)
                found: bool | str | None = self._compared(situation, wanted, own, other, stillness)
                if found is False:
                    found = self._again(situation, wanted, own, other)
                elif found and situation.first != Preparation() and self._program.window and _is_slow():
                    # There what comes first may have come late on both sides.
                    patient = self._both(situation, wanted, _PATIENT_SECONDS)
                    found = self._compared(situation, wanted, *patient, _PATIENT_SECONDS) or None
            except OmbixError as error:  # the editor does not start, or its file cannot have what comes first as well
                return CheckResult(None, error.what)
            if found is False and wanted.reference.may_end:
                found = f"behind {said} pressed one by one all is done, and in a row it ends with what cannot be done"
            if isinstance(found, str):
                return CheckResult(None, found)
            if found is not None:
                return CheckResult(
                    found, f"it does what {said} does" if found else f"something else follows than behind {said}"
                )
        return CheckResult(None, f"nothing that can be seen follows {said}")

    def _both(
        self, situation: _Situation, wanted: KeyToCheck, stillness: float = 0.0
    ) -> tuple[_Observation, _Observation]:
        """What follows the ported keys, and what follows those of the reference."""
        own = self._follow(self._with(self._files.ported, situation.first.ported), situation, (wanted.keys,), stillness)
        return own, self._plain(situation, wanted.reference.keys, wanted.reference.bindings, stillness)

    def _plain(
        self, situation: _Situation, keys: tuple[bytes, ...], bindings: Bindings = (), stillness: float = 0.0
    ) -> _Observation:  # fmt: skip
        """What follows keys without what was ported; looked at once for all with one reference, but where it is looked at
        patiently."""
        side = situation.first.plain
        start = self._with(self._files.plain, side._replace(bindings=(*bindings, *side.bindings)))
        if stillness:
            return self._follow(start, situation, keys, stillness, is_ported=False)
        seen: dict[tuple[object, ...], _Observation] = self._own.__dict__.setdefault("seen", {})
        named = (start.config, *situation[:3], side.before, side.behind, keys)
        if named not in seen:
            seen[named] = self._follow(start, situation, keys, stillness, is_ported=False)
        return seen[named]

    def _with(self, file: Callable[[Bindings], str], side: PreparedSide) -> Start:
        """The start with a file that has the bindings of a side in it; what stands beside it is that of the ported one."""
        is_ported = file is self._files.ported
        return replace(self._start, config=file(side.bindings), beside=self._start.beside if is_ported else ("", ""))

    def _again(
        self, situation: _Situation, wanted: KeyToCheck, own: _Observation, other: _Observation
    ) -> bool | str | None:
        """Pressed more patiently, against each other and against the times before: a difference is one only where what follows
        each of the two was the same twice. In words, where it was not."""
        mine, theirs = [own], [other]
        for _ in range(_PATIENT_ROUNDS):
            late, later = self._both(situation, wanted, _PATIENT_SECONDS)
            pairs = [(late, later), *((late, plain) for plain in theirs), *((one, later) for one in mine)]
            verdicts = [self._compared(situation, wanted, *pair, _PATIENT_SECONDS) for pair in pairs]
            if True in verdicts:
                return True
            if None in verdicts:
                return None
            is_steady = all(
                any(self._compared(situation, wanted, one, last, _PATIENT_SECONDS) is not False for one in before)
                for before, last in ((theirs, later), (mine, late))
            )
            if is_steady:
                return False
            mine, theirs = [*mine, late], [*theirs, later]
        return f"what follows {wanted.reference.said} is not the same each time"

    def _compared(
        self, situation: _Situation, wanted: KeyToCheck, own: _Observation, other: _Observation, stillness: float = 0.0
    ) -> bool | None:
        """Whether the same follows in a situation; None where nothing tells. `stillness` is how patiently it was looked at."""
        alike = self._alike
        masked = differing(own.before, other.before)
        if situation.first != Preparation() and len(masked) > len(other.before) * _NOT_THE_SAME:
            return None  # what came first is not the same in both
        nothing = self._without(situation, stillness)
        unlike = masked | differing(nothing.before, other.before)
        wrote = (other.files, other.saved) != (nothing.files, nothing.saved)
        # What changes by itself, like what comes late of what came first, tells nothing.
        is_seen = not alike(other.before, other.after, masked) and not alike(other.after, nothing.after, unlike)
        if is_seen or other.ended or wrote:
            same = (own.ended, own.saved, own.files) == (other.ended, other.saved, other.files)
            if same and (
                own.ended or alike(own.after, other.after, masked)
                or is_nearly(own, other, masked)
                or (is_window_with_other_keys if self._program.window else is_row_with_other_keys)(own, other, masked)
            ):  # fmt: skip
                return True
            return None if self._is_not_by_command(situation, wanted, other, masked) else False
        masked = unlike
        # The same keys that show nothing at once on either side: what comes of them later comes in its own time.
        is_late = (wanted.keys,) == wanted.reference.keys and alike(own.before, own.after) and not own.ended
        if alike(other.later, nothing.later, masked):
            # Nothing tells; but where the ported key shows something, it is another command, if it is not only what comes of
            # keys to which nothing is bound, where the command cannot be run.
            is_same = not own.ended and any(alike(own.later, one, masked) for one in (nothing.later, other.later))
            return None if is_same or is_late or self._is_unbound(situation, wanted, own, masked) else False
        if alike(own.later, other.later, masked):
            return not own.ended
        return None if is_late else False

    def _alike(self, one: Picture, other: Picture, masked: set[int] = _NONE) -> bool:
        """Whether two pictures are the same, but for what is masked, and a caret that blinks."""
        if one == other:
            return True
        left = differing(one, other) - masked
        if len(one) != len(other) or not left or not self._columns:
            return len(one) == len(other) and not left
        rows, columns = ({place // self._columns for place in left}, {place % self._columns for place in left})
        return max(rows) - min(rows) <= 1 and max(columns) - min(columns) <= 1 and max(left) < len(one) - 1

    def _is_not_by_command(
        self, situation: _Situation, wanted: KeyToCheck, other: _Observation, masked: set[int]
    ) -> bool:  # fmt: skip
        """Whether the same follows the keys of a reference where they do not run the command: it could not be run there, and
        the keys did something else."""
        if not wanted.reference.without:
            return False
        alone = self._plain(situation, wanted.reference.keys, wanted.reference.without, _PATIENT_SECONDS)
        return self._alike(alone.after, other.after, masked)

    def _is_unbound(self, situation: _Situation, wanted: KeyToCheck, own: _Observation, masked: set[int]) -> bool:
        """Whether what followed is what is done instead where the command cannot be run."""
        return not own.ended and any(
            self._alike(alone.after, own.after, hidden) and self._alike(alone.later, own.later, hidden)
            for keys in wanted.unbound
            if (alone := self._plain(situation, (keys,), stillness=_PATIENT_SECONDS))
            for hidden in (masked | differing(alone.before, own.before),)
        )

    def _without(self, situation: _Situation, stillness: float) -> _Observation:
        """What is to be seen where no key is pressed, looked at as patiently as what it is compared with, and behind what comes
        first always so; found once by each worker."""
        known: dict[tuple[object, ...], _Observation] = self._own.__dict__.setdefault("known", {})
        is_patient = bool(situation.first.plain.before) or stillness > 0
        named = (situation.text, situation.first.plain.before, situation.first.plain.behind, is_patient)
        if named not in known:
            known[named] = self._plain(situation, (), stillness=_PATIENT_SECONDS if is_patient else 0.0)
        return known[named]

    def _follow(
        self, start: Start, situation: _Situation, keys: tuple[bytes, ...], stillness: float, is_ported: bool = True
    ) -> _Observation:  # fmt: skip
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
            side = situation.first.ported if is_ported else situation.first.plain
            first_still = max(stillness, _FIRST_SECONDS) if side.before and self._program.window else stillness
            for key in side.before:
                shown = one.run.picture()
                one.run.send(key)
                if self._program.window:  # a question has to be there before it is answered
                    self._changed(one.run, shown)
                    self._settled(one.run, first_still)
            there = {path.name for path in one.home.folder.iterdir()}
            before = self._settled(one.run, first_still)
            for key in keys:
                one.run.send(key)
            if keys and stillness and self._program.window:
                self._changed(one.run, before)
            after = self._settled(one.run, stillness)
            ended = one.run.ended
            for key in side.behind:
                one.run.send(key)
            if not ended:
                one.run.send(_FOLLOWING.encode() if not self._program.window else " ".join(_FOLLOWING).encode())
            later = self._settled(one.run, stillness)
            saved = one.file.read_text("utf-8", "replace") if one.file.exists() else ""
            files = sorted(
                path.name for path in one.home.folder.iterdir()
                if path.name not in there and path.is_file() and not path.name.startswith(".")
            )  # fmt: skip
            return _Observation(before, after, later, ended, saved, tuple(files))

    def _changed(self, run: EditorRun, shown: Picture) -> None:
        """Wait until something else is to be seen than what was shown, for some seconds at the most: a window may be late."""
        deadline = time.monotonic() + _LATE_SECONDS * slowness()
        while time.monotonic() < deadline and not run.ended and self._alike(run.picture(), shown):
            run.wait(_STEP_SECONDS)

    def _settled(self, run: EditorRun, stillness: float) -> Picture:
        """What is to be seen once the editor is done and that no longer changes, for a step or for some seconds; longer on a busy
        machine that does not tell when an editor is done."""
        factor = 1.0 if is_told() else slowness()
        stillness *= factor
        deadline = time.monotonic() + (SETTLE_SECONDS + 2 * stillness) * slowness()
        run.finish()
        found, unchanged = run.picture(), 0.0
        while time.monotonic() < deadline:
            run.wait(_STEP_SECONDS)
            run.finish()
            now = run.picture()
            is_still = self._alike(now, found)
            unchanged = unchanged + _STEP_SECONDS if is_still else 0.0
            if is_still and unchanged >= stillness:
                return now
            found = now
        return found


def _is_slow() -> bool:
    return not is_told() and slowness() > _BUSY
