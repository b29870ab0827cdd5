"""The ported keys pressed in the real editor, or on the stage, and what that showed."""

import time
from collections.abc import Callable
from typing import get_args

from msgspec.structs import replace

from ombix.core.deciding import decide_all
from ombix.core.errors import OutsideError
from ombix.core.keymap import Keymap, Layer
from ombix.core.keys import Trigger, write
from ombix.core.outcomes import Do, Play, Step
from ombix.core.porting import PortEntry
from ombix.core.results.proving import PressedKeys, ProofReport
from ombix.core.terminals import as_arriving
from ombix.dialects.harmless import harmless_layer, writable_layer
from ombix.dialects.reading import read_file
from ombix.dialects.writing import write_file
from ombix.proving.driver import require
from ombix.proving.expecting import Expectation, expectations
from ombix.proving.on_stage import StagedEditor, prove_on_stage
from ombix.proving.pressing import MOST_SECONDS, Bench, Claim, KnownKeys, Proof, Result, prove
from ombix.proving.sandbox import best_sandbox
from ombix.session.porting import MadePort

Progress = Callable[[int], Callable[[], None]]
"""Called with how many keys there are; gives what is to be called after each."""

Proved = list[tuple[PortEntry, Proof]]


def require_program(made: MadePort) -> None:
    """Raise OutsideError, with the reason, where the keys of a port cannot be pressed in its editor here."""
    description = made.target.description
    if description.program is None:
        raise OutsideError(
            f"the description of {made.name} does not say how the editor is started",
            "Add [program] to its dialect.toml.",
        )
    require(description.program)


def press_all(made: MadePort, text: str, name: str, on_stage: bool, progress: Progress) -> Proved:
    """Press the keys of a port in its editor, with `text` as its file, which is called `name`."""
    layer = read_file(made.target, text, name).layer
    if on_stage:
        staged = StagedEditor(made.target, [layer], made.around)
        return prove_on_stage(made.file.entries, staged, made.macros)
    around, target = made.around, made.target
    text, layer, refused = _to_be_pressed(layer, made)
    bindings = Keymap([target.default_layer, layer]).in_force(around.platform).bindings
    decided = decide_all(as_arriving(bindings, around.terminal), around.space, around.catalogue, target.policy)
    program = target.description.program
    assert program is not None
    wanted = {
        section: [entry for entry in made.file.entries if entry.trigger is not None and section in entry.sections]
        for section in target.edited_sections
    }
    advance = progress(sum(map(len, wanted.values())))
    found: Proved = []
    deadline = time.monotonic() + MOST_SECONDS
    for section, entries in wanted.items():
        bench = Bench(target, text, decided, around.terminal, around.space, around.catalogue, section)
        claims: list[tuple[PortEntry, Claim]] = []
        shown = _shown(bench)
        for entry in entries:
            assert entry.trigger is not None
            reason = refused.get(around.terminal.canonical(entry.trigger))
            if reason is None:
                seen = _expectations(entry, bench, made, shown)
                if not seen and entry.verdict != "exact" and _is_about_text(entry, made):
                    advance()
                    found.append((entry, Proof(entry.trigger, str(entry.source.outcome), "not checked", _NOT_KNOWN)))
                    continue
                claims.append((entry, Claim(entry.trigger, entry.source, _steps(entry, made), seen)))
            else:
                advance()
                found.append((entry, Proof(entry.trigger, str(entry.source.outcome), "not checked", reason)))
        proofs = prove([claim for _entry, claim in claims], bench, lambda proof: advance(), deadline)
        found += zip([entry for entry, _claim in claims], proofs, strict=True)
    return found


def _shown(bench: Bench) -> dict[str, str]:
    """The commands whose keys show what was kept, and what is selected, by their actions."""
    program, space = bench.dialect.description.program, bench.space
    assert program is not None
    known = KnownKeys(
        bench.tables, bench.terminal, space.states(bench.dialect.description.sections[bench.section]), space
    )
    actions = [one for one in ("edit.paste", program.shows_selection_by) if one]
    return {one: known.written(one) for one in actions if known.written(one)}


_NOT_KNOWN = "it is not known for sure what it does to a text there"


def _is_about_text(entry: PortEntry, made: MadePort) -> bool:
    """Whether what a binding does is known to be about a text."""
    outcome = entry.source.outcome
    action = made.around.catalogue.actions.get(outcome.action) if isinstance(outcome, Do) else None
    return action is not None and bool(action.effect)


def _expectations(entry: PortEntry, bench: Bench, made: MadePort, shown: dict[str, str]) -> tuple[Expectation, ...]:
    """What is to be seen when a ported key is pressed in the section of a bench."""
    outcome, section = entry.source.outcome, bench.section
    macro = made.macros.get(outcome.macro) if isinstance(outcome, Play) else None
    written = next(iter(entry.written), "")
    if not written and entry.trigger is not None:  # so by default: the key's own command
        states = bench.space.states(made.target.description.sections[section])
        table = bench.tables.get(bench.terminal.canonical(entry.trigger))
        rows = table.rows if table is not None else ()
        written = next((row.binding.written for row in rows if bench.space.overlap(row.states, states)), "")
    side = made.judge.promised(entry.source, macro, section, written, entry.verdict == "exact")
    return tuple(expectations(side, made.judge, made.target, section, shown)) if side is not None else ()


def _to_be_pressed(layer: Layer, made: MadePort) -> tuple[str, Layer, dict[Trigger, str]]:
    """What is pressed of a file: written anew without kept lines and without what could run a program or reach other
    files; the layer of that; and by canonical trigger why keys were left out."""
    around, target = made.around, made.target
    safe, reasons = harmless_layer(layer, target, around.catalogue)
    text, unwritten = writable_layer(
        safe, lambda one: write_file(target, one, around.space, around.catalogue, headings=False)
    )
    reasons = {**reasons, **unwritten}
    refused = {around.terminal.canonical(one.trigger): reasons[id(one)] for one in layer.bindings if id(one) in reasons}
    bindings = [one for one in layer.bindings if id(one) not in reasons]
    return text, replace(safe, bindings=bindings), refused


def _steps(entry: PortEntry, made: MadePort) -> tuple[Step, ...]:
    """The steps of the macro that an entry plays."""
    outcome = entry.source.outcome
    macro = made.macros.get(outcome.macro) if isinstance(outcome, Play) else None
    return macro.steps if macro is not None else ()


def report(made: MadePort, proved: Proved, on_stage: bool) -> ProofReport:
    """What the pressing showed."""
    description = made.target.description
    keys = tuple(
        PressedKeys(
            write(proof.trigger), proof.action, "exact" if entry.verdict == "exact" else "adapted", entry.how, proof.result,
            proof.reason, proof.probes, proof.expected, proof.found,
        )
        for entry, proof in proved
    )  # fmt: skip
    return ProofReport(
        made.name, description.title, description.version, on_stage, "" if on_stage else best_sandbox().title, made.source,
        {result: sum(1 for one in keys if one.result == result) for result in get_args(Result)},
        sum(1 for one in keys if one.verdict == "exact" and one.result == "differs"), keys,
    )  # fmt: skip
