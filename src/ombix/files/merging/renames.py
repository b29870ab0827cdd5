"""What a side renamed: followed in what the other side wrote with the old name."""

from collections.abc import Mapping
from typing import Any, NamedTuple

from ombix.files.merging.file_units import meaning
from ombix.files.own_names import TABLES, NameKind, with_name

_NOT_PLAIN = set("\"'\\\n")
"""Signs that names are not followed with: they are written in several ways."""


class Renames(NamedTuple):
    """Names with another in their place: kind, old, new."""

    named: tuple[tuple[NameKind, str, str], ...] = ()

    def without_those_of(self, other: "Renames") -> "Renames":
        """Those that the other side did not rename, too."""
        known = {(kind, old) for kind, old, _new in other.named}
        return Renames(tuple(one for one in self.named if one[:2] not in known))


def renames_in(base: Mapping[str, Any], side: Mapping[str, Any]) -> Renames:
    """The names that are gone on a side, each with the new one that has the very same there."""
    found: list[tuple[NameKind, str, str]] = []
    for kind, table in TABLES.items():
        old, new = _table(base, table), _table(side, table)
        gone = {name: _content(table, old[name]) for name in old if name not in new}
        come = {name: _content(table, new[name]) for name in new if name not in old}
        for name, content in gone.items():
            alike = [one for one, other in come.items() if other == content]
            is_plain = len(alike) == 1 and not set(name + alike[0]) & _NOT_PLAIN
            if is_plain and sum(other == content for other in gone.values()) == 1:
                found.append((kind, name, alike[0]))
    return Renames(tuple(found))


def renamed(text: str, renames: Renames) -> str:
    """A text with these names in place of the old ones."""
    for kind, old, new in renames.named:
        text = with_name(text, kind, old, new)
    return text


def _table(table: Mapping[str, Any], name: str) -> Mapping[str, Any]:
    found = table.get(name, {})
    return found if isinstance(found, dict) else {}


def _content(table: str, value: Any) -> Any:
    """What has to stay the same where only the name changes: the condition, the steps, the body."""
    if not isinstance(value, dict):
        return meaning((table, ""), value)
    return value.get("steps", value.get("body"))
