"""The ported keys pressed in the real editor, or on the stage, and what that showed."""

import time
from collections.abc import Callable, Sequence
from typing import NamedTuple, get_args

from msgspec.structs import replace

from ombix.core.deciding import decide_all
from ombix.core.errors import InputError, OutsideError
from ombix.core.keymap import Keymap, Layer
from ombix.core.keys import Trigger, write
from ombix.core.outcomes import Do, Play, Step
from ombix.core.porting import PortEntry
from ombix.core.results.proving import PressedKeys, PressedSource, ProofReport
from ombix.core.terminals import as_arriving
from ombix.dialects.dialect import Dialect
from ombix.dialects.effects import EffectJudge
from ombix.dialects.harmless import harmless_layer, writable_layer
from ombix.dialects.porting import kept_lines
from ombix.dialects.reading import read_file
from ombix.dialects.writing import write_file
from ombix.proving.driver import require
from ombix.proving.expecting import Expectation, expectations
from ombix.proving.on_stage import StagedEditor, prove_on_stage
from ombix.proving.pressing import MOST_SECONDS, Bench, Claim, KnownKeys, Proof, Result, check_start, prove
from ombix.proving.sandbox import best_sandbox
from ombix.session.porting import MadePort

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
        return [ProvedKey(*one) for one in prove_on_stage(made.file.entries, staged, made.macros)]
    deadline = time.monotonic() + MOST_SECONDS
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
            WantedKey(entry, entry.trigger, _written(entry, bench), entry.verdict == "exact") for entry in entries
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


class WantedKey(NamedTuple):
    """What is to be pressed for a ported binding: keys, the command that they run there ("": not known), and whether that is
    to do just what the binding does in the source."""

    entry: PortEntry
    trigger: Trigger | None
    written: str
    is_exact: bool


class PressedEditor:
    """An editor with a file in which keys of a port are pressed: what could run a program or reach other files is left out."""

    def __init__(self, dialect: Dialect, layers: Sequence[Layer], made: MadePort, judge: EffectJudge) -> None:
        around = made.around
        self.dialect = dialect
        self.made = made
        self.judge = judge
        self._terminal = around.terminal if dialect is made.target else dialect.terminal
        self._refused: dict[Trigger, str] = {}
        self._text = self._beside = ""
        safe: list[Layer] = []
        for layer in layers:
            text, one, refused = self._to_be_pressed(layer)
            self._text += text
            safe.append(one)
            self._refused.update(refused)
        beside = [kept.text for one in safe for kept in one.kept if kept.is_beside]
        self._beside = "{" + ", ".join(beside) + "}" if beside else ""
        bindings = Keymap([dialect.default_layer, *safe]).in_force(around.platform).bindings
        self._decided = decide_all(
            as_arriving(bindings, self._terminal), around.space, around.catalogue, dialect.policy
        )
        check_start(self.bench(dialect.edited_sections[0]))

    def bench(self, section: str) -> Bench:
        """A section of the editor, ready to be pressed in."""
        around = self.made.around
        return Bench(
            self.dialect, self._text, self._decided, self._terminal, around.space, around.catalogue, section,
            settings=self.judge.manner(section).settings, beside=self._beside,
        )  # fmt: skip

    def press(
        self, bench: Bench, wanted: Sequence[WantedKey], advance: Callable[[], None], deadline: float
    ) -> list[Proof]:
        """What pressing each of them in a section shows."""
        shown = _shown(bench)
        proofs: dict[int, Proof] = {}
        claims: list[tuple[int, Claim]] = []
        for index, one in enumerate(wanted):
            assert one.trigger is not None
            reason = self._refused.get(self._terminal.canonical(one.trigger), "")
            seen = self._expectations(one, bench, shown) if not reason else ()
            if not reason and not seen and not one.is_exact and _is_about_text(one.entry, self.made):
                reason = "it is not known for sure what it does to a text there"
            if reason:
                advance()
                proofs[index] = Proof(one.trigger, str(one.entry.source.outcome), "not checked", reason)
            else:
                claims.append((index, Claim(one.trigger, one.entry.source, _steps(one.entry, self.made), seen)))
        found = prove([claim for _index, claim in claims], bench, lambda proof: advance(), deadline)
        proofs.update((index, proof) for (index, _claim), proof in zip(claims, found, strict=True))
        return [proofs[index] for index in range(len(wanted))]

    def _expectations(self, one: WantedKey, bench: Bench, shown: dict[str, str]) -> tuple[Expectation, ...]:
        """What is to be seen when keys are pressed in the section of a bench."""
        outcome = one.entry.source.outcome
        macro = self.made.macros.get(outcome.macro) if isinstance(outcome, Play) else None
        side = self.judge.promised(one.entry.source, macro, bench.section, one.written, False)
        if one.is_exact and side is not None:
            side = self.made.judge.promised(one.entry.source, macro, bench.section, one.written, True)
        return tuple(expectations(side, self.judge, self.dialect, bench.section, shown)) if side is not None else ()

    def _to_be_pressed(self, layer: Layer) -> tuple[str, Layer, dict[Trigger, str]]:
        """What is pressed of a file: written anew without what could run a program or reach other files; the layer of that;
        and by canonical trigger why keys were left out."""
        around, dialect = self.made.around, self.dialect
        safe, reasons = harmless_layer(layer, dialect, around.catalogue)
        text, unwritten = writable_layer(
            safe, lambda one: write_file(dialect, one, around.space, around.catalogue, headings=False)
        )
        reasons = {**reasons, **unwritten}
        canonical = self._terminal.canonical
        refused = {canonical(one.trigger): reasons[id(one)] for one in layer.bindings if id(one) in reasons}
        bindings = [one for one in layer.bindings if id(one) not in reasons]
        return text, replace(safe, bindings=bindings), refused


def _written(entry: PortEntry, bench: Bench) -> str:
    """The command that a ported key runs in the section of a bench: what was written, or the key's own by default."""
    written = dict(entry.commands).get(bench.section, "")
    if not written and entry.trigger is not None:
        states = bench.space.states(bench.dialect.description.sections[bench.section])
        table = bench.tables.get(bench.terminal.canonical(entry.trigger))
        rows = table.rows if table is not None else ()
        written = next((row.binding.written for row in rows if bench.space.overlap(row.states, states)), "")
    return written


def _shown(bench: Bench) -> dict[str, str]:
    """The commands whose keys show what was kept, and what is selected, by their actions."""
    program, space = bench.dialect.description.program, bench.space
    assert program is not None
    known = KnownKeys(
        bench.tables, bench.terminal, space.states(bench.dialect.description.sections[bench.section]), space
    )
    actions = [one for one in ("edit.paste", program.shows_selection_by) if one]
    return {one: known.written(one) for one in actions if known.written(one)}


def _is_about_text(entry: PortEntry, made: MadePort) -> bool:
    """Whether what a binding does is known to be about a text."""
    outcome = entry.source.outcome
    action = made.around.catalogue.actions.get(outcome.action) if isinstance(outcome, Do) else None
    return action is not None and bool(action.effect)


def _steps(entry: PortEntry, made: MadePort) -> tuple[Step, ...]:
    """The steps of the macro that an entry plays."""
    outcome = entry.source.outcome
    macro = made.macros.get(outcome.macro) if isinstance(outcome, Play) else None
    return macro.steps if macro is not None else ()


def report(made: MadePort, proved: Sequence[ProvedKey], on_stage: bool, against: Dialect | None = None) -> ProofReport:
    """What the pressing showed, also in `against`, the editor that the port comes from."""
    description = made.target.description
    keys = tuple(map(_pressed_keys, proved))
    source = PressedSource(against.description.title, against.description.version) if against is not None else None
    return ProofReport(
        made.name, description.title, description.version, on_stage, "" if on_stage else best_sandbox().title, made.source,
        source,
        {result: sum(1 for one in keys if one.result == result) for result in get_args(Result)},
        sum(1 for one in keys if one.verdict == "exact" and one.result == "differs"),
        sum(1 for one in keys if one.verdict == "adapted" and one.result == "differs" and one.reason), keys,
    )  # fmt: skip


def _pressed_keys(one: ProvedKey) -> PressedKeys:
    entry, proof, source = one
    keys = PressedKeys(
        write(proof.trigger), proof.action, "exact" if entry.verdict == "exact" else "adapted", entry.how, proof.result,
        proof.reason, proof.probes, proof.expected, proof.found, source.result if source is not None else "not pressed",
        source.reason if source is not None and source.result == "not checked" else "",
    )  # fmt: skip
    if source is None or source.result != "differs":
        return keys
    # What the source does is not what it is taken to do: nothing that was said of the two holds.
    return keys._replace(
        result="differs", reason=f"in the source, {source.reason}", expected=source.expected, found=source.found
    )
