"""The part of a drafted description that says how keys are spelt, and how its texts are quoted."""

import json
import re
from collections.abc import Iterable, Iterator

from ombix.editors.drafting.sample_shape import Shape
from ombix.editors.drafting.spellings import IN_BRACKETS, SIDE_BY_SIDE, SpellingGuess

_HELD = ("Ctrl", "Alt", "Shift", "Meta")
_BEHIND_KEYS = re.compile(r"\{key\}([^\w\s])")
"""A sign that ends keys in a form, so that it is none of them."""


def quoted(value: str) -> str:
    """A TOML string."""
    return json.dumps(value, ensure_ascii=False).replace("\x7f", "\\u007f")


def in_one_line(text: str) -> str:
    """A text for a comment, in which no control character can stand."""
    return "".join(char if char.isprintable() else " " for char in text)


def key_of_table(key: str) -> str:
    """A key of a TOML table, in quotes where it needs them."""
    return key if key.replace("-", "").replace("_", "").isalnum() and key.isascii() else quoted(key)


def key_lines(spelling: SpellingGuess, shape: Shape) -> Iterator[str]:
    """The lines of `[keys]` for keys that are spelt so."""
    names, modifiers = spelling.names, spelling.modifiers
    yield "[keys]"
    if spelling.between == IN_BRACKETS:
        yield from (f"longest = {spelling.longest}", f"pieces = {quoted(IN_BRACKETS)}")
    elif spelling.longest > 1 and spelling.between == SIDE_BY_SIDE:
        yield from (f"longest = {spelling.longest}", f"sequence = {quoted(SIDE_BY_SIDE)}")
    elif spelling.longest > 1:
        yield from (f"longest = {spelling.longest}", f"between = {quoted(spelling.between)}")
    if (sign := next((form.between for form in shape.forms if form.between), " ")) != " ":
        yield f"modifiers-between = {quoted(sign)}"
    if none := next((form.none for form in shape.forms if form.none), ""):
        yield f"no-modifiers = {quoted(none)}"
    words = next((form.words for form in shape.forms if form.words and "{" in form.pattern), ())
    if words not in ((), ("true", "false")):
        yield f"held-words = [{', '.join(map(quoted, words))}]"
    if modifiers:
        yield f"joiner = {quoted(spelling.joiner)}"
        yield f"modifiers = {{ {', '.join(f'{key} = {quoted(word)}' for key, word in modifiers.items())} }}"
    if other := spelling.other_modifiers:
        yield f"also-modifiers = {{ {', '.join(f'{key_of_table(word)} = {quoted(key)}' for word, key in other.items())} }}"
    for one in _HELD:
        if one not in modifiers:
            yield f"# No key of the sample has {one}: its word is not known."
    if names or spelling.relatives():
        yield from ("", "[keys.names]")
        yield from (f"{key_of_table(key)} = {quoted(word)}" for key, word in names.items())
        yield from (
            f"# {key_of_table(key)} = {quoted(word)}  # not in the sample" for key, word in spelling.relatives().items()
        )
    held = _held_by(modifiers)
    letter = "{LETTER}" if spelling.capitals == "capital" else "{letter}"
    alone = spelling.plain
    letters_alone = any(one.isalpha() for one in alone)
    capital = spelling.capital_modifiers
    if capital:
        yield from _key_form("{letter}", "{LETTER}", _held_by(capital), True, capital)
        small = [modifier for modifier in modifiers if modifier not in capital]
        yield from _key_form("{letter}", "{letter}", _held_by(small), not letters_alone, small)
    else:
        yield from _key_form("{letter}", letter, held, not letters_alone, modifiers)
    marked = [modifier for modifier in modifiers if modifier != "Shift"]
    behind = {sign for form in shape.forms for sign in _BEHIND_KEYS.findall(form.pattern)}
    signs = {
        *behind,
        *spelling.joiner,
        *spelling.between.replace(SIDE_BY_SIDE, "").strip(),
        shape.comment[:1],
        *"\"'<>&=(){}[]",
    } | {key for key in names if len(key) == 1}
    without = f"without = [{', '.join(quoted(sign) for sign in sorted(signs) if sign and not sign.isalnum())}]"
    is_alone = any(not one.isalpha() for one in alone)
    if marked or is_alone:
        yield from _key_form(
            "{mark}", "{mark}", f"{_held_by(marked)}\n{without}" if marked else without, not is_alone, marked
        )
    if names:
        yield from _key_form("{key}", "{key}", held, False, modifiers)
    if prefix := spelling.function_key:
        yield from _key_form("F{n}", prefix, held, False, modifiers)


def _held_by(modifiers: Iterable[str]) -> str:
    """The line for the modifiers that may be held."""
    return f"held = [{', '.join(map(quoted, modifiers))}]"


def _key_form(chord: str, written: str, held: str, needs_one: bool, modifiers: Iterable[str]) -> Iterator[str]:
    if needs_one and not list(modifiers):
        return
    yield from ("", "[[keys.forms]]", f"chord = {quoted(chord)}", f"written = {quoted(written)}")
    if list(modifiers):
        yield held
    if needs_one:
        yield "at-least = 1"
