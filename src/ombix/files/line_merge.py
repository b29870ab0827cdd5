"""Three-way merge of texts, line by line: what one side changed is taken over where the other left the lines as they were."""

from bisect import bisect_left
from collections import Counter
from collections.abc import Callable, Iterator, Sequence
from difflib import SequenceMatcher
from typing import NamedTuple


class Collision(NamedTuple):
    """Both sides changed the same lines: the number of the first in `ours`, from 1, and what stands there."""

    line: int
    ours: tuple[bytes, ...]
    theirs: tuple[bytes, ...]


class Chunk(NamedTuple):
    """A run of lines of all three, and the numbers of its first line in each, from 1."""

    starts: tuple[int, int, int]
    base: Sequence[bytes]
    ours: Sequence[bytes]
    theirs: Sequence[bytes]


def merge(base: bytes, ours: bytes, theirs: bytes) -> bytes | Collision:
    """`ours` with what `theirs` changed in `base`; or the first lines that both changed, each otherwise.

    The lines that are the same in all three divide the texts (Khanna, Kunal and Pierce, A formal investigation of diff3, 2007).
    """
    old, mine, other = (text.splitlines(keepends=True) for text in (base, ours, theirs))
    result: list[bytes] = []
    for chunk in _chunks(old, mine, other):
        base_lines, my_lines, their_lines = chunk.base, chunk.ours, chunk.theirs
        if their_lines == base_lines or my_lines == their_lines:
            result += my_lines
        elif my_lines == base_lines:
            result += their_lines
        else:
            return Collision(chunk.starts[1], tuple(my_lines), tuple(their_lines))
    return b"".join(result)


def merge_with_marks(
    base: bytes, ours: bytes, theirs: bytes, settle: Callable[[Chunk], list[bytes] | None] | None = None
) -> tuple[bytes, list[Chunk]]:
    """The same, with both between marks where they collide, and `settle` knows no way; and those runs of lines."""
    old, mine, other = (text.splitlines(keepends=True) for text in (base, ours, theirs))
    result: list[bytes] = []
    left: list[Chunk] = []
    for chunk in _chunks(old, mine, other):
        if chunk.theirs == chunk.base or chunk.ours == chunk.theirs:
            result += chunk.ours
        elif chunk.ours == chunk.base:
            result += chunk.theirs
        elif settle is not None and (merged := settle(chunk)) is not None:
            result += merged
        else:
            left.append(chunk)
            for mark, part in ((b"<<<<<<< ours", chunk.ours), (b"=======", chunk.theirs)):
                result += [mark + b"\n", *(line if line.endswith(b"\n") else line + b"\n" for line in part)]
            result.append(b">>>>>>> theirs\n")
    return b"".join(result), left


def _chunks(base: Sequence[bytes], ours: Sequence[bytes], theirs: Sequence[bytes]) -> Iterator[Chunk]:
    """Runs of lines that all three share, and between them those that are not."""
    mine, other = _partners(base, ours), _partners(base, theirs)
    at = my_at = their_at = 0
    for index in range(len(base)):
        my_index, their_index = mine.get(index), other.get(index)
        if my_index is None or their_index is None:
            continue
        if (index, my_index, their_index) != (at, my_at, their_at):
            yield Chunk(
                (at + 1, my_at + 1, their_at + 1), base[at:index], ours[my_at:my_index], theirs[their_at:their_index]
            )
        yield Chunk(
            (index + 1, my_index + 1, their_index + 1), base[index : index + 1], ours[my_index : my_index + 1],
            theirs[their_index : their_index + 1],
        )  # fmt: skip
        at, my_at, their_at = index + 1, my_index + 1, their_index + 1
    if (at, my_at, their_at) != (len(base), len(ours), len(theirs)):
        yield Chunk((at + 1, my_at + 1, their_at + 1), base[at:], ours[my_at:], theirs[their_at:])


def _partners(base: Sequence[bytes], other: Sequence[bytes]) -> dict[int, int]:
    """Which lines of a text are which of another."""
    found: dict[int, int] = {}
    pending = [(0, len(base), 0, len(other))]
    while pending:
        at, end, other_at, other_end = pending.pop()
        while at < end and other_at < other_end and base[at] == other[other_at]:
            found[at] = other_at
            at, other_at = at + 1, other_at + 1
        while at < end and other_at < other_end and base[end - 1] == other[other_end - 1]:
            end, other_end = end - 1, other_end - 1
            found[end] = other_end
        if at == end or other_at == other_end:
            continue
        anchors = _anchors(base[at:end], other[other_at:other_end])
        if not anchors:
            blocks = SequenceMatcher(
                None, base[at:end], other[other_at:other_end], autojunk=False
            ).get_matching_blocks()
            found.update(
                (at + block.a + step, other_at + block.b + step) for block in blocks for step in range(block.size)
            )
            continue
        before = (at, other_at)
        for index, partner in anchors:
            found[at + index] = other_at + partner
            pending.append((before[0], at + index, before[1], other_at + partner))
            before = (at + index + 1, other_at + partner + 1)
        pending.append((before[0], end, before[1], other_end))
    return found


def _anchors(base: Sequence[bytes], other: Sequence[bytes]) -> list[tuple[int, int]]:
    """The lines that each text has once, as many as are in the same order in both (the longest increasing subsequence)."""
    count, their_count = Counter(base), Counter(other)
    places = {line: index for index, line in enumerate(other) if their_count[line] == 1}
    pairs = [(index, places[line]) for index, line in enumerate(base) if count[line] == 1 and line in places]
    ends: list[int] = []
    last: list[int] = []
    before: list[int] = []
    for number, (_index, partner) in enumerate(pairs):
        length = bisect_left(ends, partner)
        before.append(last[length - 1] if length else -1)
        ends[length : length + 1] = [partner]
        last[length : length + 1] = [number]
    found = []
    number = last[-1] if last else -1
    while number >= 0:
        found.append(pairs[number])
        number = before[number]
    return found[::-1]


def without_lines(before: bytes, after: bytes, now: bytes) -> bytes | None:
    """What a file holds now, without what a change from `before` to `after` put in, wherever that stands now; None where that is
    not there as it was put in, or where a heading of it has got other lines below it."""
    old, new, lines = before.splitlines(True), after.splitlines(True), now.splitlines(True)
    for kind, start, end, first, last in reversed(SequenceMatcher(None, old, new, False).get_opcodes()):
        if kind == "equal":
            continue
        put = [line for line in new[first:last] if line.strip()]
        places = [at for at in range(len(lines)) if lines[at : at + len(put)] == put]
        if not put or len(places) != 1:
            return None
        at, behind = places[0], places[0] + len(put)
        is_heading = any(line.lstrip().startswith(b"[") for line in put)
        if is_heading and behind < len(lines) and lines[behind].strip() and not lines[behind].lstrip().startswith(b"["):
            return None
        lines[at:behind] = [line for line in old[start:end] if line.strip()]
    return b"".join(lines)
