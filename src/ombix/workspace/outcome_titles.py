"""What people call what keys do."""

import re
from collections.abc import Callable, Iterable, Mapping

from ombix.core.catalogue.actions import COUNT, Catalogue
from ombix.core.keymap.bindings import Keymap
from ombix.core.keymap.outcomes import Do, Insert, Only, Outcome, Play


def outcome_title(
    outcome: Outcome, catalogue: Catalogue, keymap: Keymap, title_of: Callable[[Only], str] = lambda outcome: ""
) -> str:  # fmt: skip
    """What an outcome is called for people, with its arguments and how many times it is run. `title_of` tells what a command of one
    editor does, where that is known."""
    if isinstance(outcome, Do):
        title = catalogue.title(outcome.action)
        told = ", ".join(f"{name} {value}" for name, value in outcome.arguments if name != COUNT)
        times = f", {outcome.count} times" if outcome.count > 1 else ""
        return f"{title}{f' ({told})' if told else ''}{times}"
    if isinstance(outcome, Play):
        macro = keymap.macros.get(outcome.macro)
        times = f", {outcome.times} times" if outcome.times > 1 else ""
        return f"{macro.title if macro else outcome.macro}{times}"
    if isinstance(outcome, Insert):
        snippet = keymap.snippets.get(outcome.snippet)
        return snippet.title if snippet else outcome.snippet
    if isinstance(outcome, Only):
        said = title_of(outcome)
        return f"{said[:1].upper()}{said[1:]}" if said else f"{outcome.editor}'s {outcome.command}"
    return "Nothing, on purpose"


_NAME = re.compile(r"(?<![\w./:~-])(?:[a-z]+(?:-[a-z]+)*\.[a-z]+(?:-[a-z]+)*|macro [\w-]+)(?![\w/-]|\.\w)")
"""What looks like the name of an action or a macro in a sentence."""


def titles_of(names: Iterable[str], catalogue: Catalogue, keymap: Keymap) -> dict[str, str]:
    """What people call the actions and macros of some names; no entry for what is none."""
    found = {}
    for name in names:
        kind, _, rest = name.partition(" ")
        if name in catalogue.actions:
            found[name] = catalogue.title(name)
        elif kind == "macro" and rest in keymap.macros:
            found[name] = keymap.macros[rest].title
    return found


def with_titles(text: str, titles: Mapping[str, str], around: str = "“{}”") -> str:
    """A sentence with the titles of the actions and macros that it names, instead of their names."""
    return _NAME.sub(lambda found: around.format(titles[found[0]]) if found[0] in titles else found[0], text)


def named_in(text: str) -> list[str]:
    """What may be names of actions and macros in a sentence."""
    return _NAME.findall(text)
