"""Kinds of work as they are told apart on a picture: each with a sign and a colour."""

from collections.abc import Mapping
from typing import Any, NamedTuple


class Family(NamedTuple):
    """Kinds of work that belong together: a title, a sign of one character, a CSS colour, and the domains of actions."""

    name: str
    title: str
    sign: str
    colour: str
    domains: tuple[str, ...]


def families(table: Mapping[str, Any]) -> tuple[Family, ...]:
    """The families of a data file's table; the last one has what belongs to none."""
    return tuple(
        Family(name, str(row["title"]), str(row["sign"]), str(row["colour"]), tuple(row["domains"]))
        for name, row in table.items()
    )
