"""Macros recorded from keys: what these do, as steps, where that is what they do in every state."""

from collections.abc import Sequence
from typing import NamedTuple

from ombix.core.audit.macro_keys import said
from ombix.core.errors import InputError, Place
from ombix.core.keymap.bindings import Binding, Layer, LayerName
from ombix.core.keymap.changes import AddNamed, Change
from ombix.core.keymap.deciding import DecisionTable
from ombix.core.keymap.outcomes import Do, Insert, Macro, Only, Play, Press, Step, Type
from ombix.core.keys.notation import Chord, Trigger, write
from ombix.files.keymap_writing import dump
from ombix.text.stage.macro_player import Happening
from ombix.work.look.what import read_keys
from ombix.work.tryout.macro_answer import RecordReport
from ombix.work.tryout.stage_session import StagePlace, keymap_machine
from ombix.workspace.edit_options import EditOptions
from ombix.workspace.effective_keymap import EffectiveKeymap
from ombix.workspace.keymap_editing import KeymapEditing
from ombix.workspace.keymap_file import KeymapFile

MOST_KEYS = 5000
"""Keys of one recording."""


class RecordOptions(NamedTuple):
    """What a recording is to be called, and the keys that are to run it (empty: none)."""

    name: str
    title: str = ""
    press: str = ""
    where: str = ""


class Recorded(NamedTuple):
    """The steps that keys came to, and what is to be known of them."""

    steps: tuple[Step, ...]
    remarks: tuple[str, ...]


def keys_in(text: str) -> list[Chord]:
    """The keys of a text that has them one after the other; what is behind `#` at the start of a line is not read. Raises
    InputError."""
    words = [word for line in text.split("\n") if not line.lstrip().startswith("# ") for word in line.split()]
    if len(words) > MOST_KEYS:
        raise InputError(f"these are more than {MOST_KEYS:,} keys", "Record less at once.")
    return [chord for word in words for chord in read_keys(word)[0]]


def recorded(keys: Sequence[Chord], place: StagePlace, here: EffectiveKeymap) -> Recorded:
    """What keys do, as steps: an action where that is what they run in every state in which text is edited, else the keys with
    what they are relied on for."""
    machine = keymap_machine(here, place)
    resolved = here.context.platform.resolve(tuple(keys))
    machine.press(resolved)
    machine.finish()
    steps: list[Step] = []
    remarks: list[str] = []
    for one in machine.happened:
        if one.kind == "waits":
            continue
        step = _step(one, here)
        if isinstance(step, Press):
            what = f"is kept as a key: it is {step.means} here, and may be something else elsewhere" if step.means else (
                "does nothing here, and is kept as a key"
            )  # fmt: skip
            remarks.append(f"{here.context.platform.show(step.keys)} {what}")
        _add(steps, step)
    if machine.waits_for_more:
        remarks.append(f"{here.context.platform.show(machine.waits_for_more)} waits for more keys at the end")
    if not steps:
        raise InputError("nothing was recorded", "Press at least one key.")
    return Recorded(tuple(steps), tuple(dict.fromkeys(remarks)))


def _step(one: Happening, here: EffectiveKeymap) -> Step:
    outcome = one.outcome
    if one.kind == "types":
        return Type(one.text)
    if one.kind == "nothing" or outcome is None:
        return Press(one.keys)
    if isinstance(outcome, Do | Play | Insert | Only) and _is_sure(here.tables.get(one.keys), here):
        return outcome
    return Press(one.keys, "" if isinstance(outcome, Only) else said(outcome))


def _is_sure(table: DecisionTable | None, here: EffectiveKeymap) -> bool:
    """Whether keys run the same wherever text is edited."""
    space = here.space
    rows = [row for row in table.rows if space.overlap(row.states, space.text)] if table is not None else []
    return len({row.binding.outcome for row in rows}) == 1


def _add(steps: list[Step], step: Step) -> None:
    """Add a step; what is typed goes on, and an action that is done again is counted."""
    last = steps[-1] if steps else None
    if isinstance(step, Type) and isinstance(last, Type):
        steps[-1] = Type(last.text + step.text)
    elif isinstance(step, Do) and isinstance(last, Do) and last.once == step.once and step.once == step:
        steps[-1] = Do(step.action, tuple(sorted((*step.arguments, ("count", str(last.count + 1))))))
    else:
        steps.append(step)


def write_recording(
    found: Recorded, keys: Trigger, wanted: RecordOptions, editing: KeymapEditing, options: EditOptions
) -> RecordReport:
    """Put a recorded macro into the keymap. Raises InputError where there is one of this name."""
    if not wanted.name or not wanted.name.isprintable():
        raise InputError("the macro needs a name", "Say one, like wrap-line.")
    layer, place = Layer(LayerName("", "")), Place("what was recorded")
    layer.macros[wanted.name] = Macro(wanted.name, wanted.title or wanted.name, found.steps, place)
    if wanted.press:
        trigger = read_keys(wanted.press)[0]
        layer.bindings.append(Binding(trigger, Play(wanted.name), place, layer.name, wanted.where or "always"))
    text = dump(layer).split("\n\n", 1)[1]

    def changes(file: KeymapFile) -> list[Change]:
        if any(wanted.name in one.macros for one in file.layers_with_own):
            raise InputError(f"there is a macro {wanted.name} already", "Say another name, or take it out first.")
        return [AddNamed("macro", wanted.name, text)]

    report = editing.change(f"record the macro {wanted.name}", changes, options)
    return RecordReport(wanted.name, write(keys), tuple(map(str, found.steps)), found.remarks, report)
