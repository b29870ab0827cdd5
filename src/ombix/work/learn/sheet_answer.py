"""Sheets: what is bound, to be printed and looked at; for one or several editors, platforms and layouts side by side."""

from typing import Literal, NamedTuple

SheetChange = Literal["", "new", "moved", "gone"]


class SheetKeys(NamedTuple):
    """Keys as they are printed on the keyboard at hand, and how they are pressed there (`press`), where that is not plain from
    them; `why_not` where they cannot be pressed."""

    keys: str
    press: str = ""
    why_not: str = ""


class SheetRow(NamedTuple):
    """One thing that is bound, in the states `when`, with the keys that each column has for it (none: an empty one). `change` is
    what became of it since what it is compared with, and `was` the keys that it had there."""

    does: str
    title: str
    when: str
    keys: tuple[tuple[SheetKeys, ...], ...]
    is_default: bool = False
    change: SheetChange = ""
    was: tuple[str, ...] = ()


class SheetGroup(NamedTuple):
    """Rows under a title."""

    title: str
    rows: tuple[SheetRow, ...]


class Sheet(NamedTuple):
    """A sheet. `columns` are the titles of what stands side by side; `notes` say what is left out."""

    title: str
    about: str
    order: str
    columns: tuple[str, ...]
    groups: tuple[SheetGroup, ...]
    notes: tuple[str, ...] = ()
