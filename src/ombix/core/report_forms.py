"""Reports that an installed package brings: results as texts of another form, by its name or the ending of a file's name."""

import re
from collections.abc import Callable
from typing import Any

from msgspec import Struct

from ombix.core.errors import InputError
from ombix.core.plug_ins import REPORTS, PlugIn, plug_ins

OWN = ("text", "json", "sarif", "markdown", "junit", "annotations")
"""The forms in which Ombix itself prints an audit."""
_NAME = re.compile(r"[a-z][a-z0-9-]{0,40}")


class ReportForm(Struct, frozen=True):
    """A form of report. `takes` are the types of answers that `write` makes a text of; `ending` is that
    of the names of its files, like `.csv`."""

    takes: tuple[type, ...]
    ending: str
    write: Callable[[Any], str]


def report_names(result: type) -> list[str]:
    """The names of the forms that take results of a type. Raises InputError where one does not load."""
    return [name for name, one in _brought().items() if result in load(one).takes]


def report_endings() -> list[str]:
    """The endings of the names of files that such reports are written to. Raises InputError where one does not load."""
    return [load(one).ending for one in _brought().values()]


def report_named(name: str, result: Any) -> str:
    """A result in a form. Raises InputError."""
    return _written(_brought()[name], result)


def report_for(ending: str, result: Any) -> str | None:
    """A result in the form that files with this ending have; None where no package brings one for it. Raises InputError."""
    for one in _brought().values():
        if load(one).ending == ending and isinstance(result, load(one).takes):
            return _written(one, result)
    return None


def _brought() -> dict[str, PlugIn]:
    return {name: one for name, one in plug_ins(REPORTS).items() if _NAME.fullmatch(name)}


def load(one: PlugIn) -> ReportForm:
    """The form that a package brings. Raises InputError where it does not load, or is none."""
    found = one.load()
    if not isinstance(found, ReportForm):
        raise InputError(
            f"the report {one.name} of the package {one.package} is no ReportForm", "See: docs/editors-packages.md"
        )
    return found


def _written(one: PlugIn, result: Any) -> str:
    form = load(one)
    with one.running():
        text = form.write(result)
        if not isinstance(text, str):
            raise TypeError("what it wrote is no text")
    return text
