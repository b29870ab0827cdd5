"""Conditions as one speaks of them: "in normal mode", "in the list of files"; what is too tangled stays as it is written."""

import re
from functools import lru_cache
from typing import Any

from ombix.data.shipped import DATA, read_table

_PART = re.compile(r"([a-z][a-z-]*) (?:is ([a-z0-9-]+)|in \(([a-z0-9, -]+)\))")
_VALUES = re.compile(r"\bin \([a-z0-9, -]+\)")
_MOST = 2
"""Of so many places each is named; of more the first one."""


def in_words(condition: str) -> str:
    """A condition as one says it behind what happens: "in the text", "in insert mode, with text selected", "when A or B"; "" for
    always."""
    if condition in ("", "always"):
        return ""
    if re.search(r"\bor\b|\(", _VALUES.sub("", condition)):
        return f"when {condition}"
    return ", ".join(_said(part.strip()) for part in condition.split(" and "))


def _said(part: str) -> str:
    """A condition on one fact."""
    words = _words()
    if part in words["phrases"]:
        return str(words["phrases"][part])
    match = _PART.fullmatch(part)
    if match is None or match[1] not in words["names"]:
        return f"when {part}"
    fact = match[1]
    values = re.split(r",\s*", match[3]) if match[3] else [match[2]]
    are_places = fact in words
    names = [
        words.get(fact, {}).get(value) or (f"the {value.replace('-', ' ')}" if are_places else value)
        for value in values
    ]
    if len(names) > _MOST:
        return f"in {names[0]} and {len(names) - 1} other {words['names'][fact]}"
    return f"in {' and '.join(names)}{'' if are_places else f' {fact}'}"


@lru_cache(maxsize=1)
def _words() -> dict[str, Any]:
    return read_table(DATA / "condition-words.toml")
