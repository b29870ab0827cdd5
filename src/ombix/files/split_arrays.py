"""Arrays of tables that stand in several places of a file, kept there while it is edited.

The editing reader gathers all tables of one array where the first stands. So those that stand further down, or are spelt in
another way, go by a name of their own meanwhile: `[[accept]]` behind another table by `[["accept 0"]]`.
"""

import re
from collections.abc import Iterator, Mapping
from typing import Any, NamedTuple

from tomlkit.items import AoT

_HEAD = re.compile(r"""(?m)^([ \t]*)\[(\[[ \t]*["']?(accept|conflict)["']?[ \t]*\])?""")
_RENAMED = re.compile(r'(?m)^([ \t]*)\[\["(?:accept|conflict) (\d+)"\]')


class Apart(NamedTuple):
    """A text in which each array of tables stands in one place, and how the heads that were renamed stood."""

    text: str
    heads: tuple[str, ...] = ()

    def joined(self, text: str) -> str:
        """A text made of this one, with the heads as they stood."""
        return _RENAMED.sub(lambda one: f"{one[1]}{self.heads[int(one[2])]}", text) if self.heads else text


def apart(text: str) -> Apart:
    """The text with its scattered arrays told apart."""
    heads: list[str] = []
    first: set[str] = set()
    before = ""

    def renamed(found: re.Match[str]) -> str:
        nonlocal before
        name = found[3] or ""
        is_plain = found[0].strip() == f"[[{name}]" and (name not in first or name == before)
        before = name if is_plain else ""
        if not name or is_plain:
            first.add(name)
            return found[0]
        heads.append(found[0].strip())
        return f'{found[1]}[["{name} {len(heads) - 1}"]'

    return Apart(_HEAD.sub(renamed, text), tuple(heads))


def rows_of(document: Mapping[str, Any], name: str) -> Iterator[tuple[str, AoT, int]]:
    """The tables of an array, wherever they stand: the name that each goes by, the array there, and its number in it."""
    for key in document:
        rows = document[key]
        if isinstance(rows, AoT) and (key == name or re.fullmatch(rf"{re.escape(name)} \d+", key)):
            yield from ((key, rows, index) for index in range(len(rows)))
