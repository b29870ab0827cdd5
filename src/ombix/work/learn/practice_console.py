"""Questions at a terminal: one after the other, answered by pressing the keys, or by writing them."""

import os
import sys
import time
from collections.abc import Sequence
from typing import NamedTuple

from ombix.console.environment import Environment
from ombix.core.errors import InputError, NotationError
from ombix.work.learn.practice import Practice, graded
from ombix.work.learn.practice_answer import PracticeAnswer, PracticeItem
from ombix.work.learn.practice_layout import answer_blocks, question_blocks

_ENDS = {b"\x1c": "Ctrl+\\", b"\x1d": "Ctrl+]", b"\x1f": "Ctrl+_"}
"""Keys that end a session: the first that no question is about."""
_SHOWS = (b"\r", b"\n")
_TRIES = 2


class Tally(NamedTuple):
    """How a session went: how many were right at once, right at the second try, and shown; and the things as they are now."""

    right: int
    second: int
    shown: int
    items: tuple[PracticeItem, ...]


class _Ended(Exception):
    """The user ended the session."""


def ask_all(environment: Environment, practice: Practice, questions: Sequence[PracticeItem], timed: bool) -> Tally:
    """Ask all questions; what was shown is asked once more at the end."""
    written = {keys for question in questions for keys in question.keys}
    end = next((data for data, name in _ENDS.items() if name not in written), b"\x1f")
    counts = [0, 0, 0]
    items: dict[str, PracticeItem] = {}
    again: list[PracticeItem] = []
    try:
        for number, one in enumerate(questions, 1):
            tries, seconds = _ask(environment, practice, one, f"{number} of {len(questions)}", end)
            counts[tries - 1 if tries else 2] += 1
            items[one.name] = practice.grade(one, graded(tries, seconds if timed else None))
            if timed:
                environment.results.write([f"  {seconds:.1f} s"])
            if not tries:
                again.append(one)
        for one in again:
            _ask(environment, practice, one, "once more", end)
    except _Ended:
        pass
    return Tally(counts[0], counts[1], counts[2], tuple(items.values()))


def _ask(
    environment: Environment, practice: Practice, item: PracticeItem, number: str, end: bytes
) -> tuple[int, float]:
    """At which try an answer was right (0: never), and how many seconds that took."""
    environment.show(question_blocks(item, number, _ENDS[end]))
    environment.results.stream.flush()
    start = time.monotonic()
    for tries in range(1, _TRIES + 1):
        found = _pressed(practice, item, end) if item.is_sent else _written(environment, practice, item)
        is_last = found is None or tries == _TRIES
        environment.show(answer_blocks(item, found, is_last))
        environment.results.stream.flush()
        if found is not None and found.is_right:
            return tries, time.monotonic() - start
        if found is None:
            break
    return 0, time.monotonic() - start


def _pressed(practice: Practice, item: PracticeItem, end: bytes) -> PracticeAnswer | None:
    """What the keys do that are pressed now; None where they are to be shown."""
    data = b""
    while True:
        piece = _read_raw()
        if not piece or end in piece:
            raise _Ended
        if piece in _SHOWS and not data and "Enter" not in item.keys:
            return None
        data += piece
        found = practice.answer(item, data)
        if found is not None:
            return found


def _written(environment: Environment, practice: Practice, item: PracticeItem) -> PracticeAnswer | None:
    """What the keys do that are written now; None where they are to be shown."""
    while True:
        line = sys.stdin.readline()
        if not line or line.strip() == "\x1c":
            raise _Ended
        if not line.strip():
            return None
        try:
            return practice.typed(item, line.strip()) or PracticeAnswer(
                False, line.strip(), "more keys would have to follow"
            )
        except (InputError, NotationError) as error:
            environment.show_error(error)


def _read_raw() -> bytes:
    """What one key sends."""
    import termios
    import tty

    number = sys.stdin.fileno()
    before = termios.tcgetattr(number)
    try:
        tty.setraw(number)
        return os.read(number, 64)
    finally:
        termios.tcsetattr(number, termios.TCSADRAIN, before)
