"""What a description says of the editor's key-binding file (see docs/description.md)."""

from typing import Literal

import msgspec


class FileForm(msgspec.Struct, forbid_unknown_fields=True, rename="kebab", frozen=True):
    """One form of what a file says: its pattern with `{key}`, `{command}`, `{keys}`, `{string}`, `{section}`, and what it
    means: `bind`, `remove`, `keep`, `inherit` (the section takes over the keys of `{other}`), `include` (the file
    `{file}` is read there), or in files of lines `open`: what follows belongs to the `{section}`, up to the line `end`, or
    without one up to the next such line; an `open` without a section is around all bindings.

    It may have `{where}` and `{title}`, too. In a line `{command}` is one word, `{keys}` the rest of the line. In a file that is a
    tree the pattern is a small file (see formats/tree), and may have `{platform}`. `section` is meant where none is named;
    what is `read` only is never written.
    """

    pattern: str
    means: Literal["bind", "remove", "keep", "inherit", "include", "open"]
    note: str = ""
    section: str = ""
    read: bool = False
    end: str = ""
    negates: bool = False
    """Whether its `{where}` says when it does not hold; such a form is read, and never written."""


class Headed(msgspec.Struct, forbid_unknown_fields=True, rename="kebab"):
    """Lines under headings: see formats/headed. `directives` gives the meaning of each word behind the sign; `taken_as` how keys
    are spelt, perhaps in several ways, where they are taken away."""

    sign: str = ":"
    directives: dict[str, str] = {}
    settings: list[str] = []
    blocks: dict[str, str] = {}
    taken_as: dict[str, list[str]] = {}
    preamble: list[str] = []


class Words(msgspec.Struct, forbid_unknown_fields=True, rename="kebab"):
    """Commands of words in quotes: see formats/words. `forms` are patterns of words; `switches` take one more word."""

    forms: list[FileForm]
    switches: dict[str, str] = {}
    block: str = ""
    language: str = ""
    aliases: dict[str, str] = {}


class ChosenBy(msgspec.Struct, forbid_unknown_fields=True, rename="kebab", frozen=True):
    """A setting without which the editor does not read its key file: `key` under `group` in an INI `file` has to be `value`.
    `unchosen` are the values that the editor has of its own, and no choice of its user's."""

    file: str
    group: str
    key: str
    value: str
    unchosen: tuple[str, ...] = ()


class FileRow(msgspec.Struct, forbid_unknown_fields=True, rename="kebab"):
    """The editor's key-binding file."""

    format: str
    name: str
    usual: list[str]
    default_section: str
    usual_on: dict[str, list[str]] = {}
    """Where the file usually is on platforms on which that is somewhere else."""
    written_at_end: bool = False
    """Whether a running editor writes the keys that it has over the file when it closes, or when its settings are changed."""
    chosen_by: ChosenBy | None = None
    """The setting in another file that has the editor read the usual one."""
    comment: str = "#"
    """What begins a comment, where the form of the file leaves it open."""
    trailing_comments: bool = False
    """Whether a comment may stand behind a statement of a line, with a blank before it."""
    every_section: str = ""
    forms: list[FileForm] = []
    settings: list[str] = []
    preamble: list[str] = []
    headed: Headed | None = None
    words: Words | None = None
    leading: str = ""
    """Signs before a statement that mean nothing."""
    separator: str = ""
    """What ends a statement before the end of its line."""
    encodings: tuple[str, ...] = ("utf-8",)
    """How the bytes are read, tried in this order."""
    takes_defaults_away: bool = True
    """Whether the file can take the editor's own keys away."""
    stops_at_errors: bool = False
    """Whether the editor reads no further behind a statement that it refuses."""
    several: dict[str, str] = {}
    """Words behind which several settings can stand on a line, and the word that each is known behind."""
    beside: str = ""
    """The name of a JSON file with settings, in the same folder."""
    assigns: Literal["", "one", "several"] = ""
    """Whether the file gives each command its keys, in place of its default ones: one chord, or several."""
    same_keys: Literal["first", "default", "neither"] = "first"
    """What is run where such a file leaves several commands the same keys: the first of them in the order of `commands.toml`,
    that whose default keys they are, or nothing."""
    names_all: bool = False
    """Whether a command that such a file does not name has no keys."""
    alternatives: str = ""
    """What parts several keys of a command."""
    no_keys: list[str] = []
    """Words for no keys, the first of which is written."""
