"""The ported keys pressed in the real editor, or on the stage, and what that showed."""

import time
from collections.abc import Callable, Sequence
from typing import Literal, NamedTuple, get_args

from ombix.core.errors import InputError, OutsideError
from ombix.core.keys.notation import write
from ombix.core.porting import PortEntry
from ombix.editors.command_effects import EffectJudge
from ombix.editors.dialect import Dialect
from ombix.editors.editor_porting import kept_lines
from ombix.editors.file_reading import read_file
from ombix.evidence.editor_host import require
from ombix.evidence.key_proof import MOST_SECONDS, Proof, Result
from ombix.evidence.sandbox import best_sandbox
from ombix.evidence.stage_proof import StagedEditor, prove_on_stage
from ombix.work.carry.port import MadePort, ported_bindings
from ombix.work.carry.port_answer import PortedBinding
from ombix.work.carry.prove_answer import PressedKeys, PressedSource, ProofReport, Works
from ombix.work.carry.terminal_editor import PressedEditor, WantedKey, command_in

PressedIn = Literal["target", "stage", "both"]
"""Where ported keys are pressed: in the target's real editor, in its simulation, or in the source's editor as well."""
Progress = Callable[[int], Callable[[], None]]
"""Called with how many keys there are; gives what is to be called after each."""


class ProvedKey(NamedTuple):
    """What pressing showed of a ported binding: in the target, and in the source, where that was pressed as well."""

    entry: PortEntry
    proof: Proof
    in_source: Proof | None = None


def require_program(dialect: Dialect, name: str) -> None:
    """Raise OutsideError, with the reason, where no keys can be pressed in an editor here."""
    description = dialect.description
    if description.program is None:
        raise OutsideError(
            f"the description of {name} does not say how the editor is started",
            "Add [program] to its dialect.toml.",
        )
    require(description.program)


def require_source(made: MadePort) -> Dialect:
    """The editor that a port comes from. Raises InputError where it comes from none, OutsideError where that cannot be
    pressed in here."""
    source = made.origin.dialect
    if source is None:
        raise InputError(
            f"{made.source} is a keymap, and of no editor that could be pressed in",
            "Name an editor or its file with --from.",
        )
    require_program(source, source.name)
    return source


def press_all(
    made: MadePort, text: str, name: str, on_stage: bool, progress: Progress, against: Dialect | None = None
) -> list[ProvedKey]:
    """Press the keys of a port in its editor, with `text` as its file, which is called `name`; with `against` in the editor
    that it comes from as well. Raises OutsideError where an editor does not take its file."""
    layer = read_file(made.target, text, name).layer
    if on_stage:
        staged = StagedEditor(made.target, [layer], made.around)
        return [ProvedKey(*one) for one in prove_on_stage(made.file.entries, staged)]
    deadline = time.monotonic() + MOST_SECONDS
    if lines := [one.text for one in layer.kept]:  # settings of the user's own that change what commands do
        origin = made.origin
        judge = EffectJudge(origin.dialect, made.target, made.around.catalogue, {made.target.name: lines}, origin.homes)
        made = made._replace(judge=judge)
    target = PressedEditor(made.target, [layer], made, made.judge)
    sections = {
        section: [entry for entry in made.file.entries if entry.trigger is not None and section in entry.sections]
        for section in made.target.edited_sections
    }
    count = sum(map(len, sections.values()))
    source = _source_editor(made, against) if against is not None else None
    advance = progress(count * 2 if source is not None else count)
    found: list[ProvedKey] = []
    for section, entries in sections.items():
        bench = target.bench(section)
        wanted = [
            WantedKey(entry, entry.trigger, command_in(entry, bench), entry.verdict == "exact") for entry in entries
        ]
        found += map(ProvedKey, entries, target.press(bench, wanted, advance, deadline))
    return _pressed_in_source(found, source, advance, deadline) if source is not None else found


def _source_editor(made: MadePort, source: Dialect) -> "PressedEditor":
    """The editor that a port comes from, with its file."""
    keymap = made.origin.keymap
    lines = kept_lines(keymap, source)
    judge = EffectJudge(source, source, made.around.catalogue, {source.name: lines})
    layers = [layer for layer in keymap.layers if layer.name != source.default_layer.name]
    return PressedEditor(source, layers, made, judge)


def _pressed_in_source(
    found: list[ProvedKey], source: "PressedEditor", advance: Callable[[], None], deadline: float
) -> list[ProvedKey]:
    """The same bindings, pressed where they come from."""
    space, dialect = source.made.around.space, source.dialect
    by_section: dict[str, list[ProvedKey]] = {}
    for one in found:
        states = space.parse(one.entry.source.where, one.entry.source.scope)
        names = (
            name
            for name in dialect.edited_sections
            if space.overlap(space.states(dialect.description.sections[name]), states)
        )
        by_section.setdefault(next(names, ""), []).append(one)
    proofs: dict[int, Proof] = {}
    for section, some in by_section.items():
        if not section:
            continue
        wanted = [WantedKey(one.entry, one.entry.source.trigger, one.entry.source.written, False) for one in some]
        pressed = source.press(source.bench(section), wanted, advance, deadline)
        proofs.update((id(one), proof) for one, proof in zip(some, pressed, strict=True))
    nowhere = "it is not where text is edited there"
    return [
        one._replace(
            in_source=proofs.get(id(one))
            or Proof(one.entry.source.trigger, str(one.entry.source.outcome), "not checked", nowhere)
        )
        for one in found
    ]


def report(made: MadePort, proved: Sequence[ProvedKey], on_stage: bool, against: Dialect | None = None) -> ProofReport:
    """What the pressing showed, also in `against`, the editor that the port comes from."""
    description = made.target.description
    bindings = ported_bindings(made, [one.entry for one in proved])
    keys = tuple(map(_pressed_keys, proved, bindings))
    source = PressedSource(against.description.title, against.description.version) if against is not None else None
    return ProofReport(
        made.name, description.title, description.version, on_stage, "" if on_stage else best_sandbox().title, made.source,
        source,
        {result: sum(1 for key in keys if key.result == result) for result in get_args(Result)},
        sum(1 for key in keys if key.verdict == "exact" and key.result == "differs"),
        sum(1 for key in keys if key.verdict == "adapted" and key.differs_otherwise), keys,
        {works: sum(1 for key in keys if key.works == works) for works in get_args(Works)},
        sum(1 for key in keys if does_not_work(key)),
    )  # fmt: skip


def does_not_work(key: PressedKeys) -> bool:
    """Whether the port says that keys work, and they did not."""
    return key.answer == "works" and key.works in ("with a difference", "something else")


def _works(one: ProvedKey, binding: PortedBinding) -> Works:
    """Whether keys did what was wanted."""
    proof = one.proof
    if proof.result == "not checked" or (proof.result == "reached" and not proof.places):
        return "not compared"
    if proof.places:
        if proof.as_wanted == proof.places:
            return "works"
        # Where the text is as wanted and the cursor elsewhere each time, the port said so, and it is no other command.
        is_told = binding.answer == "works but" and proof.result == "agrees" and not _is_other_text(binding)
        return "with a difference" if proof.as_wanted or is_told else "something else"
    if one.entry.verdict == "exact":
        return "works" if proof.result == "agrees" else "something else"
    if proof.is_unsaid:
        return "something else"
    # It does what the port says of it, so it works as far as the port says so.
    if binding.answer == "works":
        return "works" if binding.is_compared and proof.result == "agrees" else "not compared"
    return "with a difference"


def _is_other_text(binding: PortedBinding) -> bool:
    """Whether what differs mostly is the text."""
    return binding.everyday is not None and binding.everyday.kind in ("text lost", "another text")


def _pressed_keys(one: ProvedKey, binding: PortedBinding) -> PressedKeys:
    entry, proof, source = one
    keys = PressedKeys(
        write(proof.trigger), proof.action, "exact" if entry.verdict == "exact" else "adapted", entry.how, proof.result,
        proof.reason, proof.probes, proof.expected, proof.found, source.result if source is not None else "not pressed",
        source.reason if source is not None and source.result == "not checked" else "",
        proof.is_unsaid or (source is not None and source.result == "differs"),
        binding.title, binding.answer, binding.says,
        _works(one, binding), proof.places, proof.as_wanted,
    )  # fmt: skip
    if source is None or source.result != "differs":
        return keys
    # What the source does is not what it is taken to do: nothing that was said of the two holds.
    return keys._replace(
        result="differs",
        works="something else",
        reason=f"in the source, {source.reason}",
        expected=source.expected,
        found=source.found,
    )
