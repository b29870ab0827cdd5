"""Runs of lines that two sides changed, merged statement by statement: where each line says one thing, places do not count."""

from collections import Counter
from collections.abc import Hashable, Mapping, Sequence

Names = Mapping[int, Hashable]
"""What each line of a file says something of, by its number from 1; lines that are not here say nothing, as comments do."""
_Lines = dict[Hashable, bytes]


def merge_lines(
    base: Sequence[bytes], ours: Sequence[bytes], theirs: Sequence[bytes], starts: tuple[int, int, int],
    names: tuple[Names, Names, Names], joint: bytes = b"",
) -> list[bytes] | None:  # fmt: skip
    """One run of lines of three versions, which begin at the lines `starts`, as one; None where both sides changed the same
    statement, each otherwise. `joint` is what stands at the end of each line but the last one of a group."""
    old, mine, other = (
        _named(lines, start, one, joint) for lines, start, one in zip((base, ours, theirs), starts, names, strict=True)
    )
    if old is None or mine is None or other is None:
        return None
    result: _Lines = {}
    for name, line in mine.items():
        before, their_line = old.get(name), other.get(name)
        if their_line is None and before is not None:
            if before != line:
                return None
        elif their_line is None or line in (their_line, before):
            result[name] = their_line if line == before and their_line is not None else line
        elif their_line == before:
            result[name] = line
        else:
            return None
    order = list(result)
    for index, (name, line) in enumerate(other.items()):
        if name in mine:
            continue
        if name in old:
            if old[name] != line:
                return None
            continue
        known = [order.index(one) for one in list(other)[:index] if one in result]
        at = max(known, default=-1) + 1
        while known and at < len(order) and order[at] in mine and order[at] not in old and order[at] not in other:
            at += 1  # behind what ours has put there
        order.insert(at if known else len(order), name)
        result[name] = line
    merged = [result[name] for name in order]
    return _joined(merged, joint, [bool(side) and _is_joined(side[-1], joint) for side in (ours, theirs)])


def _named(lines: Sequence[bytes], start: int, names: Names, joint: bytes) -> _Lines | None:
    """The lines by what they say something of; None where two say something of the same."""
    found: _Lines = {}
    seen: Counter[bytes] = Counter()
    for number, line in enumerate(lines, start):
        name = names.get(number)
        if name is None:
            seen[line.strip()] += 1
            name = ("", line.strip(), seen[line.strip()])
        elif name in found:
            return None
        found[name] = _bare(line, joint)
    return found


def _bare(line: bytes, joint: bytes) -> bytes:
    """A line with its end, and without the joint before it."""
    end = b"\r\n" if line.endswith(b"\r\n") else b"\n"
    text = line.removesuffix(b"\n").removesuffix(b"\r")
    return (text.removesuffix(joint) if joint else text) + end


def _is_joined(line: bytes, joint: bytes) -> bool:
    return bool(joint) and line.rstrip(b"\r\n").endswith(joint)


def _joined(lines: list[bytes], joint: bytes, last: list[bool]) -> list[bytes]:
    """Lines with the joint at their ends; at that of the last one where both sides have it there."""
    if not joint:
        return lines
    filled = [index for index, line in enumerate(lines) if line.strip()]
    found = list(lines)
    for index in filled if all(last) else filled[:-1]:
        end = b"\r\n" if found[index].endswith(b"\r\n") else b"\n"
        found[index] = found[index].removesuffix(end) + joint + end
    return found
