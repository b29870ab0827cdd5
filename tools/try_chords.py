"""Press each chord that the files of editors can have, bound alone to a command whose effect is known: python
tools/try_chords.py [--some NUMBER] [EDITOR…]. Prints those that the editor does not take, and ends with 1 where there are some;
with --some only so many of each editor's are drawn."""

import argparse
import random
import sys
from concurrent.futures import ThreadPoolExecutor

from ombix.core.catalogue.actions import Catalogue
from ombix.core.errors import InputError, Place
from ombix.core.keymap.bindings import Binding, Keymap, Layer, LayerName
from ombix.core.keymap.deciding import decide_all
from ombix.core.keymap.outcomes import Do
from ombix.core.keys.notation import ALT, CTRL, Chord, Trigger, parse, write
from ombix.core.pressing.terminals import as_arriving
from ombix.data.shipped import Shipped
from ombix.editors.abilities import DescribedTarget
from ombix.editors.command_effects import settings_of
from ombix.editors.description_loading import Dialects
from ombix.editors.dialect import Dialect
from ombix.editors.file_writing import write_file
from ombix.evidence.key_proof import Claim, EditorSetup, Proof, prove
from ombix.work.carry.terminal_editor import needed_keys

SHIPPED = Shipped()
DIALECTS = Dialects(SHIPPED)
ACTIONS = (
    "cursor.document-end",
    "cursor.line-end",
    "cursor.line-start",
    "cursor.down",
    "edit.delete-right",
    "line.delete",
)
_TRIED = LayerName("tried", "tried")


def action_for(one: Dialect, catalogue: Catalogue) -> Do:
    """An action that does in the editor just what it does in the catalogue, tried on a key that every file can have."""
    target, section = DescribedTarget(one), one.edited_sections[0]
    for name in ACTIONS:
        if target.command_for(Do(name), section) is not None:
            found = pressed(one, parse("F7"), Do(name), catalogue)
            if not isinstance(found, str) and found.result == "agrees":
                return Do(name)
    raise SystemExit(f"{one.name}: none of {', '.join(ACTIONS)} does there what it is to do")


def pressed(one: Dialect, trigger: Trigger, outcome: Do, catalogue: Catalogue) -> Proof | str:
    """What pressing a chord showed; in words where the file cannot have it."""
    section = one.edited_sections[0]
    binding = Binding(trigger, outcome, Place("tried"), _TRIED, one.where([section]))
    layer = Layer(_TRIED, [binding], facts=list(one.facts))
    try:
        text = write_file(one, layer, one.space, catalogue, headings=False)
    except InputError as error:
        return error.what
    bindings = Keymap([one.default_layer, layer]).in_force(SHIPPED.platform("linux")).bindings
    tables = decide_all(as_arriving(bindings, one.terminal), one.space, catalogue, one.policy)
    bench = EditorSetup(one, text, tables, one.terminal, one.space, catalogue, section, settings=settings_of(one))
    (found,) = prove([Claim(trigger, binding)], bench)
    return found


def chords_of(one: Dialect) -> list[Trigger]:
    """The chords that a file can have and the terminal sends, but for those that pressing needs itself."""
    terminal, needed = one.terminal, needed_keys(one)
    fixed = {binding.trigger for binding in one.default_layer.bindings if binding.fixed}
    sent = {trigger: terminal.send(trigger) for trigger in DescribedTarget(one).bindable()}
    return [
        trigger for trigger, keys in sent.items()
        if isinstance(keys, bytes) and keys not in needed and trigger not in fixed
        and not (terminal.direct and _is_no_key_here(trigger[0]))
    ]  # fmt: skip


def _is_no_key_here(chord: Chord) -> bool:
    """Whether the display that the windows are on has no such key, has another one without its number lock, or takes it itself."""
    is_function = chord.key[:1] == "F" and chord.key[1:].isdigit()
    is_taken = is_function and chord.modifiers & CTRL and chord.modifiers & ALT
    return "Numpad" in chord.key or bool(is_taken) or (is_function and int(chord.key[1:]) > 12)


def main() -> int:
    asked = argparse.ArgumentParser()
    asked.add_argument("--some", type=int, default=sys.maxsize)
    asked.add_argument("editors", nargs="*")
    wanted = asked.parse_args()
    catalogue = SHIPPED.catalogue()
    names = wanted.editors or [name for name in DIALECTS.names() if not DIALECTS.load(name).description.simulated]
    is_wrong = False
    for name in names:
        one = DIALECTS.load(name)
        outcome, chords = action_for(one, catalogue), chords_of(one)
        chords = random.Random(1).sample(chords, min(wanted.some, len(chords)))
        with ThreadPoolExecutor(2 if one.terminal.direct else 5) as pool:
            found = list(pool.map(lambda each, one=one, do=outcome: pressed(one, each, do, catalogue), chords))
        counts: dict[str, int] = {}
        for (chord,), proof in zip(chords, found, strict=True):
            said = proof if isinstance(proof, str) else proof.result
            counts[said] = counts.get(said, 0) + 1
            if not isinstance(proof, str) and proof.result != "agrees":
                is_wrong |= proof.result == "differs"
                print(
                    f"    {write((chord,))}: {proof.result} {proof.reason} {proof.expected!r} {proof.found!r}",
                    flush=True,
                )
        print(name, counts, flush=True)
    return 1 if is_wrong else 0


if __name__ == "__main__":
    sys.exit(main())
