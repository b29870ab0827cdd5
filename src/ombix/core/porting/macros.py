"""Macros on their way to another editor: what their steps are there, and which of them cannot be had."""

from collections.abc import Sequence

from msgspec.structs import replace

from ombix.core.conditions import States
from ombix.core.errors import InputError
from ombix.core.keymap.bindings import Binding
from ombix.core.keymap.outcomes import Do, Insert, Macro, Only, Outcome, Play, Press, Step, Type, Until, When
from ombix.core.keys.notation import write
from ombix.core.porting.port_in_progress import PortInProgress
from ombix.core.porting.verdicts import TargetCommand
from ombix.core.snippets.macro_steps import flat
from ombix.core.snippets.model import Text


def macro_of(work: PortInProgress, outcome: Outcome) -> Macro | None:
    """The macro that an outcome plays, as often as it plays it; of a snippet without gaps, one that types its text. None for
    what is neither."""
    if isinstance(outcome, Play):
        macro = work.macros.get(outcome.macro)
        return macro if macro is None or outcome.times == 1 else replace(macro, steps=macro.steps * outcome.times)
    snippet = work.snippets.get(outcome.snippet) if isinstance(outcome, Insert) else None
    if snippet is None or not all(isinstance(part, Text) for part in snippet.parts):
        return None
    return Macro(
        snippet.name,
        snippet.title,
        (Type("".join(part.text for part in snippet.parts if isinstance(part, Text))),),
        snippet.place,
    )


def sure_steps(work: PortInProgress, binding: Binding, macro: Macro, states: States) -> list[Step]:
    """The steps of a macro in these states: without repetitions and macros in it, those under a condition where that is decided,
    and with pressed keys as what they do, where that is sure."""
    try:
        found = flat(macro.steps, work.macros)
    except InputError:
        return list(macro.steps)
    return _sure(work, binding, found, states)


def _sure(work: PortInProgress, binding: Binding, found: Sequence[Step], states: States) -> list[Step]:
    steps: list[Step] = []
    for step in found:
        if isinstance(step, When):
            where = work.space.parse(step.where, step.scope)
            if work.space.covers(where, states):
                steps += _sure(work, binding, step.steps, states)
            elif work.space.overlap(where, states):
                steps.append(step)
            continue
        sure = _pressed(work, binding, step, states) if isinstance(step, Press) else None
        for one in sure if sure is not None else [step]:
            steps += [one.once] * one.count if isinstance(one, Do) else [one]
    return steps


def _pressed(work: PortInProgress, binding: Binding, step: Press, states: States) -> Sequence[Step] | None:
    """What pressed keys do in these states: where that is sure, or is what they are relied on for wherever they do anything."""
    sure = work.sure(step.keys, states, work.request.source.beneath(binding))
    table = work.tables.get(step.keys)
    if sure is not None or not step.means or table is None:
        return sure
    found = {row.binding.outcome for row in table.rows if work.space.overlap(row.states, states)}
    outcome = next(iter(found), None)
    return [outcome] if len(found) == 1 and isinstance(outcome, Do) and outcome.action == step.means else None


def written_macro(work: PortInProgress, binding: Binding, macro: Macro, states: States) -> Play:
    """The macro that is written: with steps of its own, where keys that it presses were replaced."""
    steps = tuple(sure_steps(work, binding, macro, states))
    known = work.result.layer.macros
    name, number = macro.name, 2
    while name in known and known[name].steps != steps:
        name, number = f"{macro.name}-{number}", number + 1
    known[name] = replace(macro, name=name, steps=steps)
    return Play(name)


def _foreign_keys(work: PortInProgress, binding: Binding, steps: Sequence[Step]) -> Press | None:
    """The first step that presses keys which another editor than the target decides."""
    if work.request.source.editor_of(binding) in ("", work.target.name):
        return None
    return next((step for step in steps if isinstance(step, Press)), None)


def macro_command(
    work: PortInProgress, binding: Binding, macro: Macro, states: States, section: str
) -> TargetCommand | None:
    """The target's command for the steps of a macro in a section; None where it cannot have all of them."""
    steps = sure_steps(work, binding, macro, states)
    if _foreign_keys(work, binding, steps) is not None or _types_nowhere(work, steps, section):
        return None
    found = [work.target.command_for(step, section) for step in steps if isinstance(step, Do)]
    text = work.target.macro_text(steps, section)
    if None in found or text is None:
        return None
    presses = any(isinstance(step, Press) for step in steps)
    return TargetCommand(text, "what the keys do in it is decided there" if presses else "")


def _types_nowhere(work: PortInProgress, steps: Sequence[Step], section: str) -> bool:
    """Whether a text is typed in a section in which no text is edited: its characters are keys there."""
    return any(isinstance(step, Type) for step in steps) and not work.space.overlap(
        work.nodes[section], work.space.text
    )


def step_that_cannot(
    work: PortInProgress, binding: Binding, macro: Macro, states: States, sections: Sequence[str]
) -> str:
    """Which step of a macro the target cannot do in these sections, and why."""
    target = work.target
    steps = sure_steps(work, binding, macro, states)
    foreign = _foreign_keys(work, binding, steps)
    try:
        flat(macro.steps, work.macros)
    except InputError as error:
        return error.what
    for step in steps:
        if isinstance(step, When):
            return f"{step} is decided while it runs"
        if isinstance(step, Until):
            return f"{target.name} cannot go on until something holds"
        if step is foreign:
            return f"what {write(foreign.keys)} does is {work.request.source.editor_of(binding)}'s own"
        if isinstance(step, Only) and step.editor != target.name:
            return f"{step.command} is a command of {step.editor} only"
        if isinstance(step, Do) and any(target.command_for(step, name) is None for name in sections):
            return f"{target.name} has no command for {step}"
        if isinstance(step, Type) and any(_types_nowhere(work, steps, name) for name in sections):
            return "no text is typed there"
        if any(target.macro_text([step], name) is None for name in sections):
            return f"{target.name} cannot have {step} in a macro"
    return f"{target.name} cannot run several steps with one key"
