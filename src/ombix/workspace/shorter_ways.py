"""Which one action does what a macro does, proved by effect."""

from ombix.core.catalogue.actions import Catalogue, quoted
from ombix.core.errors import InputError
from ombix.core.keymap.bindings import Keymap
from ombix.core.keymap.outcomes import Do, Macro, Type
from ombix.core.snippets.macro_steps import flat
from ombix.text.effects.program_language import EffectProgram, program
from ombix.text.effects.single_action_search import one_action_for
from ombix.text.stage.action_effects import program_of

LONGEST = 60
"""Steps of a macro that are looked into."""


def shorter_ways(macro: Macro, keymap: Keymap, catalogue: Catalogue) -> tuple[str, ...]:
    """The actions of which one alone does what a macro does, those with keys in the keymap first; none where a step is not
    about a text."""
    row = _programs(macro, keymap, catalogue)
    if len(row) < 2:
        return ()
    known = {
        name: program(text)
        for name, one in catalogue.actions.items()
        if not one.arguments and (text := one.program({}))
    }
    found = one_action_for(row, known)
    bound = {
        binding.outcome.action
        for layer in keymap.layers
        for binding in layer.bindings
        if isinstance(binding.outcome, Do)
    }
    return tuple(sorted(found, key=lambda name: (name not in bound, name)))


def _programs(macro: Macro, keymap: Keymap, catalogue: Catalogue) -> list[EffectProgram]:
    """The programs of the steps of a macro, one after the other; none where one has none."""
    try:
        steps = flat(macro.steps, keymap.macros)
    except InputError:
        return []
    found: list[EffectProgram] = []
    for step in steps:
        if isinstance(step, Type):
            found.append(program("type " + quoted(step.text)))
            continue
        known = program_of(step.once, catalogue) if isinstance(step, Do) else None
        if known is None or not isinstance(step, Do):
            return []
        found += [known] * step.count
        if len(found) > LONGEST:
            return []
    return found
