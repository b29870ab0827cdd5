"""Macros that press keys which do not do what they are pressed for."""

from collections.abc import Iterator

from ombix.core.audit.macro_keys import runs
from ombix.core.audit.model import AuditSubject, Finding, Rule, Spot
from ombix.core.keymap.deciding import decide_all
from ombix.core.keymap.outcomes import Macro, Press
from ombix.core.keys.notation import Trigger
from ombix.core.snippets.macro_steps import every_step


def check(subject: AuditSubject) -> Iterator[Finding]:
    """Keys of own macros that do nothing, something else than is said beside them, or another thing on another platform or in
    an editor of the workspace."""
    for layer in subject.own_layers:
        for macro in layer.macros.values():
            for step in every_step(macro.steps):
                if isinstance(step, Press):
                    yield from _faults(macro, step, subject)


def _faults(macro: Macro, step: Press, subject: AuditSubject) -> Iterator[Finding]:
    text = subject.space.text
    keys = subject.settled(subject.platform.resolve(step.keys))
    here = runs(keys, subject.tables, text, subject)
    shown = subject.show(step.keys)
    if step.means:
        if here != step.means:
            now = f"does {here}" if here else "does nothing"
            yield _finding(macro, keys, f"the macro {macro.name} presses {shown} for {step.means}, and that {now} here")
    elif not here and not subject.editor_views():
        yield _finding(macro, keys, f"the macro {macro.name} presses {shown}, which does nothing here")
    wanted = step.means or here
    if not wanted:
        return
    for name, other in _on_platforms(step, subject):
        if other != wanted:
            now = f"does {other}" if other else "does nothing"
            yield _finding(
                macro, keys, f"the macro {macro.name} presses {shown} for {wanted}, and that {now} on {name}"
            )
    for view in subject.editor_views():
        other = runs(keys, view.tables, view.over_text, subject)
        if other != wanted:
            now = f"does {other}" if other else "does nothing"
            yield _finding(
                macro, keys, f"the macro {macro.name} presses {shown} for {wanted}, and that {now} in {view.name}"
            )


def _on_platforms(step: Press, subject: AuditSubject) -> Iterator[tuple[str, str]]:
    """The other platforms, with what the keys do there."""
    if "platform tables" not in subject.notes:  # made once for all macros
        subject.notes["platform tables"] = [
            (
                platform,
                decide_all(
                    subject.keymap.in_force(platform).bindings, subject.space, subject.catalogue, subject.policy
                ),
            )
            for platform in subject.platforms
            if platform.name != subject.platform.name and not subject.has_editor()
        ]
    for platform, tables in subject.notes["platform tables"]:
        yield platform.title, runs(platform.resolve(step.keys), tables, subject.space.text, subject)


def _finding(macro: Macro, keys: Trigger, message: str) -> Finding:
    return RULE.finding(message, (Spot(macro.place, macro.name),), keys)


RULE = Rule(
    name="pressed-keys",
    severity="warning",
    what="A macro presses keys that do nothing, or not what is said beside them; or that do something else on another platform, "
    "or in an editor of the workspace.",
    why="The macro goes on with its other steps, on a text that is not what it was made for.",
    example="""\
format = 1
name = "example"

[bind.line]
copy-down = "Alt+F6"

[macro.two-more]
steps = [{ press = "Alt+F5", means = "line.copy-down" }, { press = "Alt+F5", means = "line.copy-down" }]
""",
    mend="Have it do the action in place of the keys, or say the keys that do it now.",
    check=check,
)
