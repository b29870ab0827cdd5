"""Settings in a file of their own beside an editor's key file: what in them changes what the keys do."""

from collections.abc import Iterator

from ombix.core.errors import InputError
from ombix.core.keymap.bindings import Kept
from ombix.editors.command_effects import settings_known
from ombix.editors.dialect import Dialect
from ombix.editors.formats import json


def settings_beside(dialect: Dialect, text: str, file: str) -> Iterator[Kept]:
    """Each setting of a file that changes what commands do, with what it changes. Raises InputError where the file is none."""
    top = json.parse(text, file)
    if top.kind != "map":
        raise InputError(f"{file} is no file of settings", "It has to be one JSON object.", top.place)
    for one in top.fields:
        line = json.one_line(one)
        known = settings_known(dialect, line)
        if known:
            yield Kept(dialect.name, line, one.place, f"a setting: {known}", True)
