"""Keys of which a part stands by itself in a file: modifiers beside the key, in a text (`{modifiers}`) or as a yes or no each
(`{ctrl}`), or the first chord around those that follow it (`{first}`)."""

import re
from collections.abc import Mapping, Set
from typing import Any

from ombix.editors.description import KeySyntax

PARTING = "\n"
"""What parts the texts of a list that is read as one text."""
SWITCHES = {"ctrl": "Ctrl", "alt": "Alt", "shift": "Shift", "meta": "Meta"}
"""Variables that say by yes or no whether a modifier is held."""
YES, NO = frozenset({"true", "yes", "on", "1"}), frozenset({"false", "no", "off", "0"})


def put_together(found: Mapping[str, Any], keys: KeySyntax) -> str:
    """The keys of a statement as one text, from the variables of its pattern."""
    said = map(str.strip, re.split(_sign(keys), found.get("modifiers") or ""))
    held = [one for one in said if one and one != keys.no_modifiers]
    held += [keys.modifiers.get(name, name) for variable, name in SWITCHES.items()
             if str(found.get(variable, "")).lower() in YES]  # fmt: skip
    key = keys.joiner.join([*held, found.get("key") or ""])
    return f"{first}{keys.between or ' '}{key}" if (first := found.get("first")) else key


def taken_apart(key: str, variables: Set[str], keys: KeySyntax) -> dict[str, str]:
    """The parts of keys that have a variable among these; others are empty, and stay in the key."""
    first = ""
    if "first" in variables and keys.longest > 1:
        before, _sign, rest = key.partition(keys.between or " ")
        first, key = (before, rest) if rest else ("", key)
    names = {word: name for name, word in keys.modifiers.items()} | keys.also_modifiers
    parts = dict.fromkeys(SWITCHES, keys.held_words[1])
    held: list[str] = []
    while word := next(
        (name for name in names if key.startswith(name + keys.joiner) and key != name + keys.joiner), ""
    ):
        if names[word].lower() in variables:
            parts[names[word].lower()] = keys.held_words[0]
        elif "modifiers" in variables:
            held.append(word)
        else:
            break
        key = key[len(word + keys.joiner) :]
    return parts | {
        "key": key,
        "first": first,
        "modifiers": (keys.modifiers_between or PARTING).join(held) or keys.no_modifiers,
    }


def _sign(keys: KeySyntax) -> str:
    return re.escape(PARTING if keys.modifiers_between == PARTING else keys.modifiers_between.strip()) or r"\s+"
