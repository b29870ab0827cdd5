"""The statements of a file with those of the files that it has read in their places, and no more than a key file can have."""

from collections.abc import Callable, Iterator

from msgspec.structs import replace

from ombix.core.errors import InputError, OmbixError
from ombix.editors.dialect import Dialect
from ombix.editors.file_forms import form_of_files
from ombix.editors.formats import Statement

OpenFile = Callable[[str, str], tuple[str, str]]
"""Opens a file that another one reads: from its name there, and the other one's, its own name and its text."""

MOST_FILES = 20
"""Files in files."""
MOST_STATEMENTS = 25_000
"""Statements of a file and of all that it has read; the longest key file of an editor here has about 400."""
MOST_INCLUDED = 200
"""Files that a file has read, and"""
MOST_CHARACTERS = 8 * 1024 * 1024
"""characters of them together."""


def statements_with(dialect: Dialect, text: str, file: str, opened: OpenFile | None) -> Iterator[Statement]:
    """All statements of a file; `opened` opens those that it has read. Raises InputError."""
    return _bounded(_statements_of(dialect, text, file, _counting(opened) if opened else None, ()))


def _counting(opened: OpenFile) -> OpenFile:
    """Opens files as `opened` does, and no more than a file may have read. Raises InputError."""
    files = characters = 0

    def open_next(name: str, file: str) -> tuple[str, str]:
        nonlocal files, characters
        files += 1
        if files > MOST_INCLUDED or characters > MOST_CHARACTERS:
            raise InputError(f"more than {MOST_INCLUDED} files, or {MOST_CHARACTERS >> 20} MB, would be read")
        found = opened(name, file)
        characters += len(found[1])
        return found

    return open_next


def _bounded(statements: Iterator[Statement]) -> Iterator[Statement]:
    """The statements, as long as they are no more than a key file can have. Raises InputError."""
    for number, one in enumerate(statements, 1):
        if number > MOST_STATEMENTS:
            raise InputError(
                f"the file has more than {MOST_STATEMENTS} statements, which is more than is read",
                "Check that this is the file you mean.", one.place,
            )  # fmt: skip
        yield one


def _statements_of(
    dialect: Dialect, text: str, file: str, opened: OpenFile | None, around: tuple[str, ...]
) -> Iterator[Statement]:
    """The statements of a file and of those that it has read in their places; `around` are the files around it."""
    for one in form_of_files(dialect.description.file.format).read(text, file, dialect.description):
        if one.kind != "include":
            yield one
            continue
        inner, note = None, one.note or "another file, which is not read here"
        if opened is not None and (one.key in (*around, file) or len(around) > MOST_FILES):
            note = "another file, which is being read already"
        elif opened is not None:
            try:
                inner = opened(one.key, file)
            except OmbixError as error:
                note = f"another file, which cannot be read: {error.what}"
        if inner is None:
            yield replace(one, kind="keep", note=note, is_fault=opened is not None)
            continue
        name, inner_text = inner
        if name in (*around, file):
            yield replace(one, kind="keep", note="another file, which is being read already", is_fault=True)
            continue
        yield replace(one, kind="structure", note=f"reads {one.key}")
        yield from _statements_of(dialect, inner_text, name, opened, (*around, file))
