"""File formats: text to statements and back. A format knows its syntax and nothing of keys or commands."""

from dataclasses import dataclass
from typing import Literal

from ombix.core.errors import Place


@dataclass(frozen=True, slots=True)
class Statement:
    """One thing that an editor's file says: that a key has a command, or none any more, or something to be kept.

    `is_string` tells text in quotes from a command's name, where the editor tells them apart.
    """

    place: Place
    written: str
    kind: Literal["bind", "remove", "keep", "define"]
    key: str = ""
    command: str = ""
    section: str = ""
    is_string: bool = False
    note: str = ""
    where: str = ""
    """A condition of its own, where the file has one beside the section."""
    title: str = ""


@dataclass(frozen=True, slots=True)
class Heading:
    """A comment before a group of statements."""

    text: str
