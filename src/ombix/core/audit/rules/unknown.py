"""Entries that name what there is not."""

import re
from collections.abc import Iterator

from msgspec.structs import replace

from ombix.core.audit.model import AuditSubject, Finding, Rule, Spot
from ombix.core.errors import Offer, OmbixError, Place, did_you_mean
from ombix.core.keymap.changes import Correct, KeymapChange
from ombix.core.keymap.outcomes import Insert, Play
from ombix.core.snippets.macro_steps import every_step


def check(subject: AuditSubject) -> Iterator[Finding]:
    """Entries that the reader had to leave out, and macros that are played but not there."""
    for layer in subject.own_layers:
        for error in layer.problems:
            yield replace(_found(error, layer.name.id), changes=tuple(_correction(error)))
    for problem in subject.problems:
        yield _found(problem, "")
    macros, snippets = subject.keymap.macros, subject.keymap.snippets
    for layer in subject.own_layers:
        for macro in layer.macros.values():
            for step in every_step(macro.steps):
                if isinstance(step, Play) and step.macro not in macros:
                    message = f"the macro {macro.name} plays a macro that is not there: {step.macro}"
                    mend = did_you_mean(step.macro, list(macros))
                    yield RULE.finding(message, (Spot(macro.place, macro.name),), mend=mend)
                elif isinstance(step, Insert) and step.snippet not in snippets:
                    message = f"the macro {macro.name} inserts a snippet that is not there: {step.snippet}"
                    mend = did_you_mean(step.snippet, list(snippets))
                    yield RULE.finding(message, (Spot(macro.place, macro.name),), mend=mend)


def _found(error: OmbixError, file: str) -> Finding:
    """The finding for what a reader left out of a file."""
    text = (error.excerpt or "").strip()
    spot = Spot(error.place or Place(file), text if len(text) < 60 else text[:57] + "…")
    return RULE.finding(error.what, (spot,), mend=error.advice)


def _correction(error: OmbixError) -> Iterator[KeymapChange]:
    """The best of the names that are offered, in place of the word or of its last part, whichever stands there."""
    advice, place = error.advice, error.place
    if not isinstance(advice, Offer) or place is None or not place.column:
        return
    rest = (error.excerpt or "")[place.column - 1 :]
    for start in range(len(advice.word)):
        if start and advice.word[start - 1] != ".":
            continue
        head, word = advice.word[:start], advice.word[start:]
        to = next((name[start:] for name in advice.names if name.startswith(head)), "")
        if to and re.match(rf"{re.escape(word)}(?![\w-])", rest):
            yield Correct(place.line, place.column, word, to)
            return


RULE = Rule(
    name="unknown",
    severity="error",
    what="An entry names an action, a fact, a value, a key, a macro or a snippet that does not exist, or cannot be read at all.",
    why="The entry has no effect at all, and the other commands refuse the file.",
    example="""\
format = 1
name = "example"

[bind.line]
copy-donw = "Ctrl+D"
""",
    mend="Correct the name.",
    check=check,
)
