"""Whether a description that does not ship holds together: names that it uses are there, keys and conditions are such."""

import re
from collections.abc import Callable, Iterator

from ombix.core.errors import InputError, NotationError, Place, did_you_mean
from ombix.core.keys.notation import parse
from ombix.editors.dialect import Dialect

PlaceOf = Callable[..., Place]
"""Where a key of one of the three files stands: its name, and the path of the key."""

_MOST_NUMBERS = 1000
_DIALECT, _DEFAULTS = "dialect.toml", "defaults.toml"


def check_names(dialect: Dialect, place_of: PlaceOf) -> None:
    """Raise InputError for the first fault."""
    for index, form in enumerate(dialect.description.keys.forms):
        first, last = (form.numbers or (1, 1))[0], (form.numbers or (1, 1))[-1]
        if not 0 <= last - first < _MOST_NUMBERS:
            raise InputError(
                f"the form {form.chord[:40]} stands for more than {_MOST_NUMBERS} chords, or for none",
                "Write the first and the last number, like [1, 12].", place_of(_DIALECT, "keys", "forms", str(index), "numbers"),
            )  # fmt: skip
    try:
        assert dialect.spelling
    except (NotationError, ValueError) as error:
        raise InputError(
            f"the forms of keys are wrong: {error}", getattr(error, "advice", "") or "See: docs/description.md",
            place_of(_DIALECT, "keys"),
        ) from None  # fmt: skip
    for path, text in _conditions(dialect):
        try:
            dialect.space.parse(text)
        except (NotationError, ValueError) as error:
            advice = getattr(error, "advice", "")
            raise InputError(
                f"a condition of the description is wrong: {error}",
                advice or "See: docs/files.md",
                place_of(_DIALECT, *path),
            ) from None
    for index, line in enumerate(dialect.description.commands.lines):
        try:
            re.compile(line.pattern)
        except re.error as error:
            raise InputError(
                f"this is no regular expression: {error}", "See: docs/description.md",
                place_of(_DIALECT, "commands", "lines", str(index), "pattern"),
            ) from None  # fmt: skip
    description = dialect.description
    homes = description.sections
    if description.file.default_section not in homes:
        raise InputError(
            f"there is no section {description.file.default_section}",
            did_you_mean(description.file.default_section, list(homes)) or "Add it under [sections].",
            place_of(_DIALECT, "file", "default-section"),
        )  # fmt: skip
    for name, prefix in description.prefixes.items():
        _check_keys(prefix.keys, place_of(_DIALECT, "prefixes", name))
    for index, group in enumerate(dialect.groups):
        where = ("group", str(index))
        for section in group.sections or [""]:
            if section not in homes:
                raise InputError(
                    f"there is no section {section}", did_you_mean(section, list(homes)) or f"There are {', '.join(homes)}.",
                    place_of(_DEFAULTS, *where, "sections"),
                )  # fmt: skip
        for keys in group.keys:
            _check_keys(keys, place_of(_DEFAULTS, *where, "keys", keys))
    for name, scheme in dialect.schemes.items():
        for keys in scheme.keys:
            _check_keys(keys, place_of(_DEFAULTS, "scheme", name, "keys", keys))


def _conditions(dialect: Dialect) -> Iterator[tuple[tuple[str, ...], str]]:
    for name, text in dialect.description.sections.items():
        yield ("sections", name), text
    for text in dialect.description.never:
        yield ("never",), text


def _check_keys(keys: str, place: Place) -> None:
    try:
        parse(keys)
    except NotationError as error:
        advice = error.advice or "See: docs/files.md"
        raise InputError(f"{keys[:40]} is no keys: {error.what}", advice, place) from None
