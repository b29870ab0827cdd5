"""Entries that name what there is not."""

from collections.abc import Iterator

from ombix.core.audit.model import AuditSubject, Finding, Rule, Spot
from ombix.core.errors import Place, did_you_mean
from ombix.core.macros import every_step
from ombix.core.outcomes import Insert, Play


def check(subject: AuditSubject) -> Iterator[Finding]:
    """Entries that the reader had to leave out, and macros that are played but not there."""
    for layer in subject.own_layers:
        for error in layer.problems:
            place = error.place or Place(layer.name.id)
            text = (error.excerpt or "").strip()
            spot = Spot(place, text if len(text) < 60 else text[:57] + "…")
            yield RULE.finding(error.what, (spot,), mend=error.advice)
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
