"""File formats: text to statements and back. A format knows its syntax and nothing of keys or commands."""

from collections.abc import Iterable, Iterator
from typing import Literal, NamedTuple, Protocol

from msgspec import Struct

from ombix.core.errors import Place
from ombix.editors.description import Conditions, Description
from ombix.editors.file_description import FileForm


class Statement(Struct, frozen=True):
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


class Heading(Struct, frozen=True):
    """A comment before a group of statements."""

    text: str


class FormFault(NamedTuple):
    """Something wrong with a description's table `file`: the key that it stands at, what it is, and what to do."""

    keys: tuple[str, ...]
    what: str
    advice: str


def said_where(form: FileForm, where: str, description: Description) -> str:
    """The condition of a statement of a form, in the editor's words."""
    where = where.strip()
    if not form.negates or not where:
        return where
    signs = description.conditions or Conditions()
    start, end = signs.group
    return f"{signs.negated} {start}{where}{end}"


class FileFormat(Protocol):
    """How files of one form become statements and back."""

    def read(self, text: str, file: str, description: Description) -> Iterator[Statement]:
        """The statements of a file. Raises InputError with the place of the first fault of its syntax."""

    def write(self, items: Iterable[Statement | Heading], description: Description) -> str:
        """A file that says `items`."""

    def check(self, description: Description) -> Iterator[FormFault]:
        """What is wrong with a description's table for files of this form."""
