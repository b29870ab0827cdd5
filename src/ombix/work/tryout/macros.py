"""The macros and snippets of a keymap: which there are, and what is in one."""

from collections.abc import Iterator, Sequence

from ombix.core.audit.macro_keys import ran_by
from ombix.core.errors import InputError, did_you_mean
from ombix.core.keymap.bindings import Layer
from ombix.core.keymap.outcomes import Insert, Macro, Play, Press, Repeat, Step, Until, When
from ombix.core.keys.notation import write
from ombix.core.snippets.macro_steps import circle_from, every_step
from ombix.core.snippets.model import VARIABLES, Snippet, TabStop, every_part
from ombix.core.snippets.parsing import write as written
from ombix.work.tryout.macro_answer import ListedMacro, MacroList, MacroReport, MacroStep
from ombix.workspace.effective_keymap import EffectiveKeymap
from ombix.workspace.shorter_ways import shorter_ways


def all_macros(here: EffectiveKeymap) -> MacroList:
    """The macros and snippets of a keymap, in the order of its layers."""
    return MacroList(here.context.platform.name, tuple(_listed(one, layer, here) for one, layer in _every(here)))


def _every(here: EffectiveKeymap) -> Iterator[tuple[Macro | Snippet, Layer]]:
    macros, snippets = here.keymap.macros, here.keymap.snippets
    for layer in here.keymap.layers:
        yield from ((macro, layer) for name, macro in layer.macros.items() if macros[name] is macro)
        yield from ((snippet, layer) for name, snippet in layer.snippets.items() if snippets[name] is snippet)


def named(name: str, here: EffectiveKeymap) -> Macro | Snippet:
    """The macro, or else the snippet, of a name. Raises InputError."""
    macros, snippets = here.keymap.macros, here.keymap.snippets
    found = macros.get(name) or snippets.get(name)
    if found is None:
        known = [*macros, *snippets]
        advice = did_you_mean(name, known) or "See: ombix macro list"
        raise InputError(f"there is no macro or snippet {name}", advice if known else "The keymap has none yet.")
    return found


def _listed(one: Macro | Snippet, layer: Layer, here: EffectiveKeymap) -> ListedMacro:
    outcome_key = Play(one.name).key if isinstance(one, Macro) else Insert(one.name).key
    rows = [
        row for table in here.tables.values() for row in table.rows
        if isinstance(row.binding.outcome, Play | Insert) and row.binding.outcome.key == outcome_key
    ]  # fmt: skip
    conditions = dict.fromkeys(row.binding.where for row in rows if row.binding.where != "always")
    if isinstance(one, Snippet) and not rows and one.where != "always":
        conditions = {one.where: None}
    size = sum(1 for step in every_step(one.steps)) if isinstance(one, Macro) else len(one.stops)
    return ListedMacro(
        one.name, "macro" if isinstance(one, Macro) else "snippet", one.title,
        tuple(dict.fromkeys(write(row.binding.keys) for row in rows)), one.words if isinstance(one, Snippet) else (),
        " or ".join(conditions), one.languages, size, layer.name.name, one.place,
    )  # fmt: skip


def one_macro(name: str, here: EffectiveKeymap) -> MacroReport:
    """One macro or snippet in full. Raises InputError where there is none."""
    one = named(name, here)
    layer = next(layer for found, layer in _every(here) if found is one)
    listed = _listed(one, layer, here)
    if isinstance(one, Snippet):
        return MacroReport(listed, (), tuple(one.body.split("\n")), tuple(_gaps(one)), tuple(_variables(one)), (), ())
    steps = tuple(_steps(one.steps, 0, here))
    circle = circle_from(name, here.keymap.macros)
    return MacroReport(listed, steps, (), (), (), circle, shorter_ways(one, here.keymap, here.catalogue))


def _gaps(one: Snippet) -> Iterator[str]:
    places: dict[int, list[TabStop]] = {}
    for part in every_part(one.parts):
        if isinstance(part, TabStop):
            places.setdefault(part.number, []).append(part)
    for number in one.stops:
        stop = next((each for each in places[number] if each.default or each.choices), places[number][0])
        if stop.choices:
            what = f"one of {', '.join(stop.choices)}"
        elif stop.default:
            what = written(stop.default)
        else:
            what = "the last place" if number == 0 else "empty"
        yield f"{number}: {what}" + (f", in {len(places[number])} places" if len(places[number]) > 1 else "")


def _variables(one: Snippet) -> Iterator[str]:
    for name in one.variables:
        yield f"{name}: {VARIABLES.get(name, 'not known, its name becomes a gap')}"


def _steps(steps: Sequence[Step], depth: int, here: EffectiveKeymap) -> Iterator[MacroStep]:
    for step in steps:
        if isinstance(step, Repeat | Until | When):
            if isinstance(step, Repeat):
                said = f"{step.times} times"
            elif isinstance(step, Until):
                said = "until one fails" if step.until == "fails" else "until the end of the text"
                said += f", {step.most} times at the most"
            else:
                said = f"only when {step.where}"
            yield MacroStep(said, depth, "")
            yield from _steps(step.steps, depth + 1, here)
        else:
            yield MacroStep(str(step), depth, _relies_on(step, here))


def _relies_on(step: Step, here: EffectiveKeymap) -> str:
    """What the keys of a step do here, over text."""
    if not isinstance(step, Press):
        return ""
    keys = here.arriving(here.context.platform.resolve(step.keys))
    found = ran_by(keys, here.tables, here.space.text, here.space)
    if found is None:
        return "nothing"
    return ", ".join(
        " or ".join(dict.fromkeys(f"{one.outcome}, by {one.layer.name}" for one in some)) or "typed" for some in found
    )
