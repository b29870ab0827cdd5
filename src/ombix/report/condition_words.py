"""Conditions as one speaks of them: "in normal mode", "in the list of files"; what is too tangled stays as it is written."""

import re

_PART = re.compile(r"(not )?([a-z][a-z-]*)(?: (is|in) (?:\(([a-z0-9, -]+)\)|([a-z0-9-]+)))?")
_SELECTED = {
    ("none",): "with nothing selected", ("one",): "with text selected", ("many",): "with several selections",
    ("one", "many"): "with text selected",
}  # fmt: skip
_PLACES = {
    "text": "the text", "files": "the list of files", "search": "the search", "replace": "the replacing", "help": "the help",
    "terminal": "the terminal", "problems": "the list of problems", "file-search": "the search for files",
    "replace-with": "the replacing", "go-to-line": "the question for a line", "save-as": "the question for a name",
    "insert-file": "the question for a file", "run-command": "the question for a command", "prompt": "a question",
    "question": "a question", "go-to-folder": "the question for a folder", "spelling": "the spelling",
}  # fmt: skip
_PROGRAM = {
    "program is running": "while the program runs", "program is stopped": "while no program runs",
    "program is paused": "while the program is paused",
}  # fmt: skip
_MOST = 2
"""Of so many places each is named; of more the first one."""


def in_words(condition: str) -> str:
    """A condition as one says it behind what happens: "in the text", "in insert mode, with text selected", "when A or B"; "" for
    always."""
    if condition in ("", "always"):
        return ""
    found = []
    for part in condition.split(" and "):
        if re.search(r"\bor\b|\(", re.sub(r"\bin \([a-z0-9, -]+\)", "", part)):
            return f"when {condition}"
        found.append(_said(part.strip()) or f"when {part.strip()}")
    return ", ".join(found)


def _said(part: str) -> str | None:
    match = _PART.fullmatch(part)
    if match is None:
        return None
    is_not, fact, how, many, one = match.groups()
    values = tuple(re.split(r",\s*", many)) if many else (one,) if one else ()
    if (how == "is") != bool(one) or (how == "in") != bool(many):
        return None
    if fact == "readonly" and not values:
        return "where the text can be changed" if is_not else "where the text is read-only"
    if fact == "program" and (part in _PROGRAM):
        return _PROGRAM[part]
    if is_not or not values:
        return None
    if fact == "pane":
        return f"in {_listed([_PLACES.get(value, f'the {value.replace(chr(45), chr(32))}') for value in values], 'places')}"
    if fact == "mode":
        return f"in {_listed(list(values), 'modes')}{' mode' if len(values) <= _MOST else ''}"
    return _SELECTED.get(values) if fact == "selection" else None


def _listed(names: list[str], what: str) -> str:
    if len(names) <= _MOST:
        return " and ".join(names)
    return f"{names[0]} and {len(names) - 1} other {what}"
