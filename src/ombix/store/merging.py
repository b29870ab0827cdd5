"""Three-way merge of texts, line by line: what one side changed is taken over where the other left the lines as they were."""

from collections.abc import Iterator, Sequence
from difflib import SequenceMatcher
from typing import NamedTuple


class Collision(NamedTuple):
    """Both sides changed the same lines: the number of the first in `ours`, from 1, and what stands there."""

    line: int
    ours: tuple[bytes, ...]
    theirs: tuple[bytes, ...]


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
            return Collision(chunk.line, tuple(my_lines), tuple(their_lines))
    return b"".join(result)


class _Chunk(NamedTuple):
    line: int
    base: Sequence[bytes]
    ours: Sequence[bytes]
    theirs: Sequence[bytes]


def _chunks(base: Sequence[bytes], ours: Sequence[bytes], theirs: Sequence[bytes]) -> Iterator[_Chunk]:
    """Runs of lines that all three share, and between them those that are not."""
    mine, other = _partners(base, ours), _partners(base, theirs)
    at = my_at = their_at = 0
    for index in range(len(base)):
        my_index, their_index = mine.get(index), other.get(index)
        if my_index is None or their_index is None:
            continue
        if (index, my_index, their_index) != (at, my_at, their_at):
            yield _Chunk(my_at + 1, base[at:index], ours[my_at:my_index], theirs[their_at:their_index])
        yield _Chunk(
            my_index + 1, base[index : index + 1], ours[my_index : my_index + 1], theirs[their_index : their_index + 1]
        )
        at, my_at, their_at = index + 1, my_index + 1, their_index + 1
    if (at, my_at, their_at) != (len(base), len(ours), len(theirs)):
        yield _Chunk(my_at + 1, base[at:], ours[my_at:], theirs[their_at:])


def _partners(base: Sequence[bytes], other: Sequence[bytes]) -> dict[int, int]:
    """Which lines of a text are which of another."""
    blocks = SequenceMatcher(None, base, other, autojunk=False).get_matching_blocks()
    return {block.a + step: block.b + step for block in blocks for step in range(block.size)}
