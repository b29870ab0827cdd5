"""Keys of a sample whose modifiers stand beside them, in a column, an attribute or a list of their own."""

import re
from collections.abc import Mapping, Sequence
from typing import NamedTuple, TypedDict

from ombix.editors.drafting.spellings import guess, is_one_key, modifier_of
from ombix.editors.split_modifiers import NO, YES

_SIGN = re.compile(r"[\s,+|&-]+")
_NO_MODIFIERS = frozenset({"0", "none", "no", "-", "nil"})
_PREFIX = re.compile(r"[A-Za-z]{2,}[_.]")
_JOINER = "+"
"""What joins them here: any sign that is in none of the words will do."""


class ModifiersApart(NamedTuple):
    """The name of the piece with the key, and the variables of those beside it: a text with the modifiers, and what stands between
    two of these, or a yes or no for each."""

    key: str
    parts: dict[str, str]
    between: str
    words: tuple[str, str] = ("true", "false")
    """What says yes, and no; the second is empty where nothing is said then."""
    none: str = ""
    """The word for no modifiers."""
    before: str = ""
    """What stands before each key, like `KEY_`."""


def modifiers_apart(rows: Sequence[Mapping[str, str]], names: Sequence[str]) -> ModifiersApart | None:
    """Which of the named pieces of these rows are a key and the modifiers beside it; None where none are."""
    switches = {name: f"{{{known.lower()}}}" for name in names if (known := modifier_of(name))
                and {row[name].lower() for row in rows if name in row} <= YES | NO}  # fmt: skip
    if switches and (found := _with_key(rows, names, switches, "")) is not None:
        said = [row[name] for row in rows for name in switches if name in row]
        yes, no = (next((one for one in said if one.lower() in some), "") for some in (YES, NO))
        is_left_out = any(name not in row for row in rows for name in switches)
        return found._replace(words=(yes, no)) if yes and (no or is_left_out) else found
    for name in names:
        values = [row[name].strip() for row in rows if row.get(name, "").strip()]
        words = [word.lower() for value in values for word in _SIGN.split(value) if word]
        none = next((value for value in values if value.lower() in _NO_MODIFIERS), "")
        words = [word for word in words if word != none.lower()]
        if not words or not all(map(modifier_of, words)) or max(map(len, words)) == 1:
            continue
        signs = [match[0] for value in values if (match := _SIGN.search(value))]
        between = max(set(signs), key=signs.count, default=" ")
        if (found := _with_key(rows, names, {name: "{modifiers}"}, between, none)) is not None:
            return found
    return None


def _with_key(
    rows: Sequence[Mapping[str, str]], names: Sequence[str], parts: dict[str, str], between: str, none: str = ""
) -> ModifiersApart | None:
    """The piece with the key to these modifiers; None where none of the others is one."""
    for key in names:
        keys = [row.get(key, "").strip() for row in rows]
        match = _PREFIX.match(keys[0])
        before = match[0] if match is not None and all(key.startswith(match[0]) for key in keys) else ""
        found = ModifiersApart(key, parts, between, none=none, before=before)
        is_key = key not in parts and all(is_one_key(key.removeprefix(before)) for key in keys)
        if is_key and guess([joined(row, found) for row in rows]) is not None:
            return found
    return None


def joined(row: Mapping[str, str], apart: ModifiersApart) -> str:
    """The keys of a row with their modifiers."""
    held: list[str] = []
    for name, variable in apart.parts.items():
        said = row.get(name, "").strip()
        if variable == "{modifiers}":
            held += [word for word in _SIGN.split(said) if word and word != apart.none]
        elif said.lower() in YES:
            held.append(variable[1:-1])
    return _JOINER.join([*held, row[apart.key].strip().removeprefix(apart.before)])


class ModifierSigns(TypedDict, total=False):
    """What a form says of modifiers beside their keys (see ShapeForm)."""

    between: str
    words: tuple[str, ...]
    none: str


def signs_of(apart: ModifiersApart | None) -> ModifierSigns:
    """What the form of rows says of their modifiers."""
    return ModifierSigns(between=apart.between, words=apart.words, none=apart.none) if apart is not None else {}


def put_together(rows: Sequence[dict[str, str]], apart: ModifiersApart | None) -> list[dict[str, str]]:
    """The rows with whole keys in them, and no modifiers beside these."""
    if apart is None:
        return list(rows)
    return [
        {name: joined(row, apart) if name == apart.key else text for name, text in row.items() if name not in apart.parts}
        for row in rows
    ]  # fmt: skip
