"""The macros and snippets of a keymap file."""

from collections.abc import Callable, Sequence
from typing import Any, NamedTuple

from ombix.core.catalogue.actions import Catalogue
from ombix.core.conditions import Scope
from ombix.core.errors import InputError, NotationError, did_you_mean
from ombix.core.keymap.outcomes import (
    ENDINGS,
    MAX_COUNT,
    Do,
    Insert,
    Macro,
    MacroExample,
    Only,
    Play,
    Press,
    Repeat,
    Step,
    Type,
    Until,
    When,
)
from ombix.core.keys.notation import Trigger
from ombix.core.snippets.macro_steps import MOST_ROUNDS, MOST_STEPS, in_languages
from ombix.core.snippets.model import Snippet
from ombix.core.snippets.parsing import parse
from ombix.core.toml import Document
from ombix.data.platform_names import PLATFORMS

MACRO_KEYS = (
    "title",
    "press",
    "where",
    "why",
    "command",
    "steps",
    "languages",
    "with",
    "example",
    *PLATFORMS,
)
SNIPPET_KEYS = ("title", "words", "press", "where", "why", "body", "languages", *PLATFORMS)
_STEPS = {
    "do": "an action", "type": "a text", "press": "keys", "play": "a macro", "insert": "a snippet", "only": "a command",
    "repeat": "a number of times", "until": "fails or end",
}  # fmt: skip
_MORE = {
    "do": ("with",), "press": ("means",), "play": ("times",), "only": ("editor",), "repeat": ("steps",),
    "until": ("steps", "most"),
}  # fmt: skip
_DEEPEST = 20

KeyPath = tuple[str, ...]


class EntryReading(NamedTuple):
    """What the reader of a file does for an entry: reads keys and arguments, and checks a condition, each at a path; `scope`
    has the conditions with a name."""

    document: Document
    catalogue: Catalogue
    keys: Callable[[Any, KeyPath], Trigger]
    arguments: Callable[[str, dict[str, Any], KeyPath], tuple[tuple[str, str], ...]]
    check_condition: Callable[..., None]
    scope: Scope | None

    def check_keys(self, table: dict[str, Any], allowed: Sequence[str], *path: str) -> None:
        """Raise InputError for a key that is not allowed."""
        for key in table:
            if key not in allowed:
                advice = did_you_mean(key, list(allowed)) or f"Known are {', '.join(allowed)}."
                raise self.document.error(f"unknown key: {key}", advice, *path, key)

    def texts(self, table: dict[str, Any], key: str, path: KeyPath) -> tuple[str, ...]:
        """A list of texts, or one. Raises InputError."""
        value = table.get(key, ())
        value = [value] if isinstance(value, str) else value
        if not isinstance(value, list | tuple) or not all(isinstance(one, str) and one for one in value):
            raise self.document.error(f"{key} takes a list of texts", f'Write {key} = ["…"].', *path, key)
        return tuple(value)


def languages_of(entry: dict[str, Any], path: KeyPath, reading: EntryReading) -> tuple[tuple[str, ...], str]:
    """The languages that an entry is for, and its condition with them. Raises InputError."""
    where = entry.get("where", "always")
    if not isinstance(where, str):
        raise reading.document.error("where takes a condition in quotes", 'Write where = "pane is text".', *path)
    languages = reading.texts(entry, "languages", path)
    if not languages:
        return (), where
    only = in_languages(languages)
    try:
        reading.check_condition(only, *path, "languages")
    except InputError as error:
        raise reading.document.error(error.what, error.advice, *path, "languages") from None
    return languages, only if where == "always" else f"({where}) and {only}"


def read_macro(name: str, entry: Any, path: KeyPath, reading: EntryReading) -> Macro:
    """A macro from its table. Raises InputError."""
    document = reading.document
    if not isinstance(entry, dict):
        raise document.error(f"the macro {name} is not a table", f"Write [macro.{name}].", *path)
    if not name.strip():
        raise document.error("a macro has no name", "Write one, like [macro.crossing].", *path)
    reading.check_keys(entry, MACRO_KEYS, *path)
    raw = entry.get("steps")
    if not isinstance(raw, list) or not raw:
        raise document.error(f"the macro {name} has no steps", 'Write steps = [{ do = "…" }].', *path)
    if len(raw) > MOST_STEPS:
        raise document.error(
            f"the macro {name} has more than {MOST_STEPS:,} steps", "Repeat them instead.", *path, "steps"
        )
    steps = _steps(raw, (*path, "steps"), reading)
    languages, _where = languages_of(entry, path, reading)
    examples = tuple(
        _example(row, (*path, "example", str(index)), reading)
        for index, row in enumerate(_examples(entry, path, reading))
    )
    return Macro(name, str(entry.get("title", name)), steps, document.place(*path), languages, examples)


def times_of(entry: dict[str, Any], path: KeyPath, reading: EntryReading) -> int:
    """How many times a macro is run by its keys. Raises InputError."""
    told = entry.get("with", {})
    if not isinstance(told, dict):
        raise reading.document.error("with takes a table", "Write with = { count = 3 }.", *path, "with")
    reading.check_keys(told, ("count",), *path, "with")
    return _number(told, "count", 1, (*path, "with"), reading)


def read_snippet(name: str, entry: Any, path: KeyPath, reading: EntryReading) -> Snippet:
    """A snippet from its table. Raises InputError, for what is wrong in its text with the place there."""
    document = reading.document
    if not isinstance(entry, dict):
        raise document.error(f"the snippet {name} is not a table", f"Write [snippet.{name}].", *path)
    if not name.strip():
        raise document.error("a snippet has no name", "Write one, like [snippet.crossing].", *path)
    reading.check_keys(entry, SNIPPET_KEYS, *path)
    raw = entry.get("body")
    lines = [raw] if isinstance(raw, str) else raw
    if not isinstance(lines, list) or not lines or not all(isinstance(line, str) for line in lines):
        raise document.error(f"the snippet {name} has no body", 'Write body = "crossing(${1:from}, $2)".', *path)
    body = "\n".join(lines)
    try:
        parts = parse(body)
    except NotationError as error:
        raise _body_error(error, raw, lines, path, document) from None
    words = reading.texts(entry, "words", path)
    wrong = next((word for word in words if any(char.isspace() for char in word)), "")
    if wrong:
        raise document.error(f"“{wrong}” is no word", "A word that expands a snippet has no blanks.", *path, "words")
    languages, where = languages_of(entry, path, reading)
    return Snippet(
        name, str(entry.get("title", name)), body, parts, document.place(*path), words, languages, where, reading.scope
    )


def _body_error(error: NotationError, raw: Any, lines: list[str], path: KeyPath, document: Document) -> InputError:
    """What is wrong with a body, at its place in the file."""
    start, number = error.start, 0
    if not isinstance(raw, str):
        while number < len(lines) - 1 and start > len(lines[number]):
            start -= len(lines[number]) + 1
            number += 1
        line, end = lines[number], min(start + error.end - error.start, len(lines[number]))
        return document.error_in_text(
            error.what, error.advice, line, start, max(end, start + 1), *path, "body", str(number)
        )
    return document.error_in_text(error.what, error.advice, raw, error.start, error.end, *path, "body")


# --- steps


def _steps(raw: Any, path: KeyPath, reading: EntryReading, depth: int = 0) -> tuple[Step, ...]:
    if not isinstance(raw, list) or not raw:
        raise reading.document.error("there are no steps", 'Write steps = [{ do = "…" }].', *path)
    if depth > _DEEPEST:
        raise reading.document.error(
            f"steps stand in each other more than {_DEEPEST} deep", "Make a macro of some.", *path
        )
    return tuple(_step(one, path, reading, depth) for one in raw)


def _step(step: Any, path: KeyPath, reading: EntryReading, depth: int) -> Step:
    document = reading.document
    if not isinstance(step, dict) or not any(key in step for key in (*_STEPS, "steps")):
        kinds = ", ".join(f"{key} ({what})" for key, what in _STEPS.items())
        raise document.error(f"not a step: {_shown(step)}", f"A step has one of {kinds}.", *path)
    where = step.get("where", "always")
    kind = next((key for key in _STEPS if key in step), "")
    if not kind:  # several steps under a condition
        reading.check_keys(step, ("where", "steps"), *path)
        found = _steps(step["steps"], path, reading, depth + 1)
    else:
        reading.check_keys(step, (kind, "where", *_MORE.get(kind, ())), *path)
        found = (_plain_step(kind, step, path, reading, depth),)
    if where == "always":
        return found[0] if len(found) == 1 else Repeat(found, 1)
    if not isinstance(where, str):
        raise document.error("where takes a condition in quotes", 'Write where = "selection is none".', *path)
    reading.check_condition(where, *path)
    return When(where, found, reading.scope)


def _plain_step(kind: str, step: dict[str, Any], path: KeyPath, reading: EntryReading, depth: int) -> Step:
    document, value = reading.document, step[kind]
    if kind == "repeat":
        return Repeat(_steps(step.get("steps"), path, reading, depth + 1), _number(step, "repeat", 0, path, reading))
    if not isinstance(value, str):
        raise document.error(f"{kind} takes {_STEPS[kind]}", "Write it in quotes.", *path)
    if kind == "do":
        if value not in reading.catalogue.actions:
            advice = did_you_mean(value, list(reading.catalogue.actions))
            raise document.error_in_text(f"unknown action: {value}", advice, value, 0, len(value), *path)
        return Do(value, reading.arguments(value, step, path))
    if kind == "type":
        return Type(value)
    if kind == "press":
        return Press(reading.keys(value, path), _meaning(step, path, reading))
    if kind == "only":
        return Only(str(step.get("editor", "")), value)
    if kind == "insert":
        return Insert(value)
    if kind == "until":
        ending = next((one for one in ENDINGS if one == value), None)
        if ending is None:
            raise document.error(f"not an ending: {value}", 'Write until = "fails", or until = "end".', *path)
        steps = _steps(step.get("steps"), path, reading, depth + 1)
        return Until(steps, ending, _number(step, "most", MOST_ROUNDS, path, reading))
    return Play(value, _number(step, "times", 1, path, reading))


def _meaning(step: dict[str, Any], path: KeyPath, reading: EntryReading) -> str:
    """What pressed keys are relied on for. Raises InputError for what they can never mean."""
    means = step.get("means", "")
    if not isinstance(means, str) or (
        means and not means.startswith(("macro ", "snippet ")) and means not in reading.catalogue.actions
    ):
        advice = (
            did_you_mean(str(means), list(reading.catalogue.actions)) or "Write the name of an action, or macro NAME."
        )
        raise reading.document.error(f"unknown action: {_shown(means)}", advice, *path)
    return means


def _number(table: dict[str, Any], key: str, usual: int, path: KeyPath, reading: EntryReading) -> int:
    value = table.get(key, usual)
    if not isinstance(value, int) or isinstance(value, bool) or not 1 <= value <= MAX_COUNT:
        raise reading.document.error(
            f"not a number of times: {_shown(value)}", f"Write one from 1 to {MAX_COUNT}.", *path
        )
    return value


def _shown(value: Any) -> str:
    text = str(value)
    return text if len(text) < 60 else text[:57] + "…"


# --- examples


def _examples(entry: dict[str, Any], path: KeyPath, reading: EntryReading) -> list[Any]:
    rows = entry.get("example", [])
    if not isinstance(rows, list):
        raise reading.document.error(
            "example takes a list of tables", f"Write [[{'.'.join(path)}.example]].", *path, "example"
        )
    return rows


def _example(row: Any, path: KeyPath, reading: EntryReading) -> MacroExample:
    if not isinstance(row, dict) or not all(isinstance(row.get(key), str) for key in ("before", "after")):
        raise reading.document.error(
            "an example has a text before and after", 'Write before = "a|b", after = "ab|".', *path
        )
    reading.check_keys(row, ("before", "after"), *path)
    for key in ("before", "after"):
        if row[key].count("|") != 1:
            raise reading.document.error(
                f"the text {key} has not one | for the cursor", 'Write it where the cursor is, like "a|b".', *path, key
            )
    return MacroExample(row["before"], row["after"], reading.document.place(*path))
