"""File formats: text to statements and back. A format knows its syntax and nothing of keys or commands."""

from dataclasses import dataclass
from typing import Literal

from ombix.core.errors import Place


@dataclass(frozen=True, slots=True)
class Statement:
    """One thing that an editor's file says: that a key has a command, or none any more, or something to be kept; that a
    name stands for a command (`define`); that a section takes over the keys that another one has so far (`inherit`); that
    another file, `key`, is read there (`include`); or it is a part of the file's frame (`structure`), which is written
    anew.

    `is_string` tells text in quotes from a command's name, where the editor tells them apart.
    """

    place: Place
    written: str
    kind: Literal["bind", "remove", "keep", "define", "inherit", "include", "structure"]
    key: str = ""
    command: str = ""
    section: str = ""
    is_string: bool = False
    note: str = ""
    where: str = ""
    """A condition of its own, where the file has one beside the section: in the editor's words, where it has words."""
    title: str = ""
    is_fault: bool = False
    """Of something to be kept: whether it looks like a mistake."""
    platform: str = ""
    """The editor's word for the one platform that it holds on, where the file has one."""
    whole: str = ""
    """The statement with what is around it, so that it can be read by itself; empty where `written` can."""


@dataclass(frozen=True, slots=True)
class Heading:
    """A comment before a group of statements."""

    text: str
