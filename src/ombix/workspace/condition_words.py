"""Conditions as one speaks of them: "in normal mode", "in the list of files"; what is too tangled stays as it is written."""

import re
from functools import lru_cache
from typing import Any

from ombix.data.shipped import DATA, read_table

_PART = re.compile(r"([a-z][a-z-]*) (?:(is|is not) ([a-z0-9-]+)|(in|not in) \(([a-z0-9, -]+)\))")
_MOST = 2
"""Of so many places each is named; of more the first one."""


def in_words(condition: str) -> str:
    """A condition as one says it behind what happens: "in the text", "in insert mode, with text selected", "when A or B"; "" for
    always."""
    if condition in ("", "always"):
        return ""
    cases = [_all_of(case) for case in _parts(condition, " or ")]
    if "" in cases:
        return f"when {condition}"
    if len(cases) > _MOST:
        return f"{cases[0]}, or in {len(cases) - 1} other cases"
    return ("; or " if any("," in case for case in cases) else " or ").join(cases)


def asked_in_words(facts: str) -> str:
    """What is asked with facts, named one after the other: "where one is and whether text is selected"."""
    asked = _words()["asked"]
    names = re.split(r", (?:and )?| and | or ", facts)
    return " and ".join(asked.get(name, name) for name in names)


def _all_of(case: str) -> str:
    """Conditions on one fact each that all hold; empty for what is nested deeper."""
    while case.startswith("(") and len(_parts(case, " or ")) == 1 and _closes(case):
        case = case[1:-1].strip()
    parts = _parts(case, " and ")
    if len(_parts(case, " or ")) > 1 or any(part.startswith("(") for part in parts):
        return ""
    return ", ".join(map(_said, parts))


def _closes(text: str) -> bool:
    """Whether the bracket that a text begins with is closed at its end."""
    depth = 0
    for at, sign in enumerate(text):
        depth += (sign == "(") - (sign == ")")
        if depth == 0:
            return at == len(text) - 1
    return False


def _parts(text: str, joint: str) -> list[str]:
    """The parts of a condition between joints that stand in no brackets."""
    found, depth, start = [], 0, 0
    for at, sign in enumerate(text):
        depth += (sign == "(") - (sign == ")")
        if depth == 0 and text.startswith(joint, at):
            found.append(text[start:at].strip())
            start = at + len(joint)
    return [*found, text[start:].strip()]


def _said(part: str) -> str:
    """A condition on one fact."""
    words = _words()
    if part in words["phrases"]:
        return str(words["phrases"][part])
    match = _PART.fullmatch(part)
    if match is None or match[1] not in words["names"]:
        return f"when {part}"
    fact, is_not = match[1], "not" in (match[2] or match[4])
    values = re.split(r",\s*", match[5]) if match[5] else [match[3]]
    are_places = fact in words
    names = [
        words.get(fact, {}).get(value) or (f"the {value.replace('-', ' ')}" if are_places else value)
        for value in values
    ]
    more = f" and {len(names) - 1} other {words['names'][fact]}" if len(names) > _MOST else ""
    listed = f"{names[0]}{more}" if more else " and ".join(names)
    if is_not:
        return f"outside {listed}" if are_places else f"outside {listed}{'' if more else f' {fact}'}"
    return f"in {listed}{'' if are_places or more else f' {fact}'}"


@lru_cache(maxsize=1)
def _words() -> dict[str, Any]:
    return read_table(DATA / "condition-words.toml")
