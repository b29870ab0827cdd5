"""What people call what keys do."""

from collections.abc import Callable

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
