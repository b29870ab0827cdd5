"""An editor with a file, ready for its keys to be pressed: what in the file is safe, and what is to be seen."""

import re
import time
from collections.abc import Callable, Collection, Sequence
from typing import NamedTuple

from msgspec.structs import replace

from ombix.core.errors import Place
from ombix.core.keymap.bindings import Binding, Keymap, Layer, LayerName
from ombix.core.keymap.deciding import DecisionTable, decide_all
from ombix.core.keymap.outcomes import Do, Nothing, Only
from ombix.core.keys.notation import Trigger
from ombix.core.porting import PortEntry
from ombix.core.pressing.terminals import as_arriving
from ombix.data.shipped import Shipped
from ombix.editors.abilities import DescribedTarget
from ombix.editors.command_effects import EffectJudge
from ombix.editors.dialect import Dialect
from ombix.editors.file_writing import write_file
from ombix.editors.safe_to_press import harmless_layer, writable_layer
from ombix.evidence.command_check import KeyToCheck
from ombix.evidence.command_references import Bindings, Reference, reference
from ombix.evidence.expectations import Expectation, expectations
from ombix.evidence.key_proof import Claim, EditorSetup, KnownKeys, Proof, Result, check_start, prove, reacher
from ombix.evidence.preparing_keys import Preparer
from ombix.evidence.probes import MARKER, has_effect
from ombix.evidence.sandbox import best_sandbox
from ombix.work.carry.port import MadePort

_SEQUENCE = re.compile(r"\x1b(?:\[[0-9;]*[A-Za-z~]|O.|[^\[O])")
"""What a key sends behind Escape."""
_PROVING = LayerName("proving", "proving")
_SOME = 4
"""Of so many places one is tried with keys that do nothing."""
_NOT_KNOWN = "it is not known for sure what it does to a text there"
_NOT_ONLY_TEXT = "what it does is not only done to the text"
_IS_NEEDED = "is needed to show what the other keys do"


class WantedKey(NamedTuple):
    """What is to be pressed for a ported binding: keys, the command that they run there ("": not known), and whether that is
    to do just what the binding does in the source."""

    entry: PortEntry
    trigger: Trigger | None
    written: str
    is_exact: bool


def _reached(wanted: WantedKey, is_same: bool | None, dialect: Dialect) -> Result:
    """What it means that keys do, or do not, what their command does. Where that command itself was asked for, by its own name,
    there is nothing else to compare; where an action was, what the command does may still be something else."""
    if is_same is None:
        return "not checked"
    if not is_same:
        return "differs"
    outcome = wanted.entry.source.outcome
    return "agrees" if isinstance(outcome, Only) and outcome.editor == dialect.name else "reached"


class PressedEditor:
    """An editor with a file in which keys of a port are pressed: what could run a program or reach other files is left out."""

    def __init__(self, dialect: Dialect, layers: Sequence[Layer], made: MadePort, judge: EffectJudge) -> None:
        around = made.around
        self.dialect = dialect
        self.made = made
        self.judge = judge
        self._terminal = around.terminal if dialect is made.target else dialect.terminal
        self._refused: dict[Trigger, str] = {}
        self._unreached: dict[Trigger, str] = {}
        """Keys that are not pressed, and why: to see what they do to a text, and to see whether they reach their command."""
        harmless = [(layer, *self._harmless(layer)) for layer in layers]
        self._reaching = [self._to_be_reached(*one) for one in harmless] or [Layer(_PROVING)]
        self._reached = self._decide(self._reaching)
        safe = [self._to_be_pressed(*one) for one in harmless] or [Layer(_PROVING)]
        self._decided = self._decide(safe)
        if (save := self._saving(safe)) is not None:
            safe[0] = replace(safe[0], bindings=[*safe[0].bindings, save])
            self._decided = self._decide(safe)
        self._text = "".join(write_file(dialect, one, around.space, around.catalogue, headings=False) for one in safe)
        beside = [kept.text for one in safe for kept in one.kept if kept.is_beside]
        self._beside = "{" + ", ".join(beside) + "}" if beside else ""
        check_start(self.bench(dialect.edited_sections[0]))

    def _decide(self, layers: Sequence[Layer]) -> dict[Trigger, DecisionTable]:
        around = self.made.around
        bindings = Keymap([self.dialect.default_layer, *layers]).in_force(around.platform).bindings
        return decide_all(as_arriving(bindings, self._terminal), around.space, around.catalogue, self.dialect.policy)

    def _saving(self, layers: Sequence[Layer]) -> Binding | None:
        """A key that saves, where the file has taken away those that do; None where there are some, or none can be had."""
        dialect, space = self.dialect, self.made.around.space
        program, section = dialect.description.program, dialect.edited_sections[0]
        assert program is not None
        bound = [self._terminal.send(row.trigger) for layer in layers for row in layer.bindings]
        taken = tuple(sent for sent in bound if isinstance(sent, bytes))
        known = KnownKeys(self._decided, self._terminal, space.states(dialect.description.sections[section]), space)
        if known.bytes_for("files.save") or (program.save and not program.save.encode().startswith(taken)):
            return None
        if DescribedTarget(dialect).command_for(Do("files.save"), section) is None:
            return None
        for trigger in DescribedTarget(dialect).bindable():
            is_plain = trigger[0].key[:1] == "F" and trigger[0].key[1:].isdigit() and not trigger[0].modifiers
            if is_plain and trigger not in self._decided and isinstance(self._terminal.send(trigger), bytes):
                return Binding(trigger, Do("files.save"), Place("proving"), _PROVING, dialect.where([section]))
        return None

    def bench(self, section: str) -> EditorSetup:
        """A section of the editor, ready to be pressed in."""
        around = self.made.around
        return EditorSetup(
            self.dialect, self._text, self._decided, self._terminal, around.space, around.catalogue, section,
            settings=self.judge.manner(section).settings, beside=self._beside,
        )  # fmt: skip

    def press(
        self, bench: EditorSetup, wanted: Sequence[WantedKey], advance: Callable[[], None], deadline: float
    ) -> list[Proof]:
        """What pressing each of them in a section shows; `advance` is called behind each."""
        shown = _shown(bench)
        proofs: dict[int, Proof] = {}
        claims: list[tuple[int, Claim]] = []
        for index, one in enumerate(wanted):
            assert one.trigger is not None
            reason = self._refused.get(self._terminal.canonical(one.trigger), "")
            seen = self._expectations(one, bench, shown) if not reason else ()
            if not reason and not seen and _is_about_text(one.entry, self.made):
                reason = _NOT_ONLY_TEXT if one.is_exact else _NOT_KNOWN
            if reason:
                proofs[index] = Proof(one.trigger, str(one.entry.source.outcome), "not checked", reason)
            else:
                steps = one.entry.macro.steps if one.entry.macro is not None else ()
                claims.append((index, Claim(one.trigger, one.entry.source, steps, seen)))
        found = prove(
            [claim for _index, claim in claims], bench, lambda proof: None if _is_open(proof) else advance(), deadline
        )
        proofs.update((index, proof) for (index, _claim), proof in zip(claims, found, strict=True))
        self._reach(bench, wanted, proofs, advance, deadline)
        return [proofs[index] for index in range(len(wanted))]

    def _reach(
        self, bench: EditorSetup, wanted: Sequence[WantedKey], proofs: dict[int, Proof], advance: Callable[[], None],
        deadline: float,
    ) -> None:  # fmt: skip
        """Where what keys do to a text was not checked: whether they reach their command."""
        ways: list[tuple[int, KeyToCheck]] = []
        preparer = Preparer(
            self.dialect, self._terminal, bench.section, bench.space, self._reached,
            lambda trigger, written: not self._why_not_pressed(trigger, written, bench.section),
        )  # fmt: skip
        by_default = {self._terminal.send(binding.trigger) for binding in self.dialect.default_layer.bindings}
        for index, one in enumerate(wanted):
            proof = proofs[index]
            if not _is_open(proof):
                continue
            way = self._way(one, proof, bench)
            if isinstance(way, str):
                proofs[index] = replace(proof, reason=way)
                advance()
            else:
                sent, known = way
                first = preparer.ways(str(one.entry.source.outcome), Shipped().comes_first(), (sent, *known.keys))
                ways.append((index, KeyToCheck(sent, known, tuple(first), self._unbound(proof.trigger, by_default))))
        if not ways:
            return
        reached = reacher(bench, self._with).press_all(
            [one for _index, one in ways], advance, lambda: time.monotonic() > deadline
        )
        for (index, pressed), found in zip(ways, reached, strict=True):
            result = _reached(wanted[index], found.agrees, self.dialect)
            proofs[index] = replace(
                proofs[index], result=result, reason=found.reason, is_unsaid=result == "differs",
                expected=pressed.reference.said if result == "differs" else "",
                found="something else" if result == "differs" else "",
            )  # fmt: skip

    def _unbound(self, trigger: Trigger, by_default: Collection[bytes | str]) -> tuple[bytes, ...]:
        """What may be done instead of a command that cannot be run: what the keys do without the port, where no default key is
        among their beginnings, and in a window what the last of them does, when the others are passed over."""
        sent = [self._terminal.send(trigger[: size + 1]) for size in range(len(trigger))]
        last = self._terminal.send(trigger[-1:])
        program = self.dialect.description.program
        found = [sent[-1]] if not any(one in by_default for one in sent) else []
        found += [last] if program is not None and program.window and len(trigger) > 1 else []
        return tuple(dict.fromkeys(one for one in found if isinstance(one, bytes)))

    def _way(self, one: WantedKey, proof: Proof, bench: EditorSetup) -> tuple[bytes, Reference] | str:
        """What is pressed to see whether keys reach their command, and with what it is compared; in words, why nothing is."""
        sent = self._terminal.send(proof.trigger)
        if not one.written:
            return proof.reason
        if isinstance(sent, str):
            return sent
        refused = self._unreached.get(self._terminal.canonical(proof.trigger), "")
        if reason := refused or self._why_not_pressed(proof.trigger, one.written, bench.section):
            return reason
        known = reference(self.dialect, self._terminal, bench.section, one.written, (sent,))
        if known is None:
            return f"{proof.reason}, and no other key can have {one.written} in {self.dialect.name}"
        return sent, known

    def _with(self, more: Bindings) -> str:
        """The file whose keys are to reach their commands, with more bindings in it."""
        around, (first, *others) = self.made.around, self._reaching
        layers = [replace(first, bindings=[*first.bindings, *more]), *others]
        return "".join(
            write_file(self.dialect, layer, around.space, around.catalogue, headings=False) for layer in layers
        )

    def _why_not_pressed(self, trigger: Trigger, written: str, section: str) -> str:
        """Why a command is not to be pressed; empty where it may be."""
        outcome = self.dialect.vocabulary.outcome(written, section)
        where = self.dialect.where([section])
        binding = Binding(trigger, outcome or Nothing(), Place("proving"), _PROVING, where, written=written)
        _safe, reasons = harmless_layer(
            Layer(_PROVING, [binding]), self.dialect, self.made.around.catalogue, best_sandbox().shuts_files
        )
        return reasons.get(id(binding), "")

    def _expectations(self, one: WantedKey, bench: EditorSetup, shown: dict[str, str]) -> tuple[Expectation, ...]:
        """What is to be seen when keys are pressed in the section of a bench."""
        outcome = one.entry.source.outcome
        if isinstance(outcome, Nothing):
            assert one.trigger is not None
            if not self._waits(one.trigger[:-1]):
                return ()
            side = self.judge.nothing(bench.section) if one.is_exact else None
            # That keys do nothing shows anywhere.
            return (
                tuple(expectations(side, self.judge, self.dialect, bench.section, {})[::_SOME])
                if side is not None
                else ()
            )
        macro = one.entry.macro
        side = self.judge.promised(one.entry.source, macro, bench.section, one.written, False)
        if one.is_exact and side is not None:
            side = self.made.judge.promised(one.entry.source, macro, bench.section, one.written, True)
        if side is None:
            return ()
        wanted = self.made.judge.source_side(one.entry.source, macro, bench.section)
        return tuple(expectations(side, self.judge, self.dialect, bench.section, shown, wanted))

    def _waits(self, beginning: Trigger) -> bool:
        """Whether the editor waits behind these keys for more; what follows them is else a key of its own."""
        size = len(beginning)
        longer = [table for keys, table in self._decided.items() if len(keys) > size and keys[:size] == beginning]
        return not beginning or any(not isinstance(row.binding.outcome, Nothing) for one in longer for row in one.rows)

    def _to_be_reached(self, layer: Layer, safe: Layer, left_out: dict[int, str]) -> Layer:
        """What is pressed of a file to see whether it reaches its command: the layer without what could run a program, or reach
        other files, or cannot be written, or is needed to come to a place; why keys were left out is noted."""
        unwritten = self._unwritten(safe)
        bindings = [
            replace(binding, outcome=Only(self.dialect.name, binding.written))
            if id(binding) in unwritten and binding.written
            else binding
            for binding in safe.bindings
        ]
        safe = replace(safe, bindings=bindings)
        reasons = left_out | self._unwritten(safe)
        needed = _placing_keys(self.dialect)
        reasons.update(
            (id(binding), _IS_NEEDED) for binding in bindings if self._terminal.send(binding.trigger) in needed
        )
        return self._left(layer, safe, reasons, self._unreached)

    def _to_be_pressed(self, layer: Layer, safe: Layer, left_out: dict[int, str]) -> Layer:
        """What is pressed of a file to see what it does to a text: also without what is needed to see that."""
        around = self.made.around
        needed, typed = needed_keys(self.dialect), _typed_to_save(self.dialect)
        reasons = left_out | self._unwritten(safe) | {
            id(binding): _IS_NEEDED for binding in safe.bindings
            if (sent := self._terminal.send(binding.trigger)) in needed
            or (sent in typed and around.space.overlap(around.space.parse(binding.where, binding.scope), around.space.typing))
        }  # fmt: skip
        return self._left(layer, safe, reasons, self._refused)

    def _harmless(self, layer: Layer) -> tuple[Layer, dict[int, str]]:
        return harmless_layer(layer, self.dialect, self.made.around.catalogue, best_sandbox().shuts_files)

    def _unwritten(self, layer: Layer) -> dict[int, str]:
        """What cannot be written anew, by its `id`, and why."""
        around = self.made.around
        return writable_layer(
            layer, lambda one: write_file(self.dialect, one, around.space, around.catalogue, headings=False)
        )[1]

    def _left(self, layer: Layer, safe: Layer, reasons: dict[int, str], noted: dict[Trigger, str]) -> Layer:
        """What is left of a layer; the reasons are noted by the keys."""
        canonical = self._terminal.canonical
        noted.update(
            (canonical(binding.trigger), reasons[id(binding)])
            for binding in (*layer.bindings, *safe.bindings) if id(binding) in reasons
        )  # fmt: skip
        return replace(safe, bindings=[binding for binding in safe.bindings if id(binding) not in reasons])


def _placing_keys(dialect: Dialect) -> set[bytes]:
    """The keys that bring the cursor to its place, where an editor's file can bind them."""
    program = dialect.description.program
    assert program is not None
    found = "".join(
        (mode.enter + mode.enter_at_end).replace("{right}", mode.right) + mode.typing.replace("{text}", "")
        for mode in program.modes.values()
    )
    return _keys_in(found)


def needed_keys(dialect: Dialect) -> set[bytes]:
    """The keys that bring the cursor to its place, type the marker, and save, where an editor's file can bind them."""
    program = dialect.description.program
    assert program is not None
    found = program.save[:1]
    for mode in program.modes.values():
        typed = mode.typing.replace("{text}", MARKER)
        found += typed + (mode.enter + mode.enter_at_end).replace("{right}", mode.right) + mode.leave
    return _keys_in(found)


def _keys_in(sent: str) -> set[bytes]:
    """The single keys of what is sent: the sequences of a terminal's keys, and all characters."""
    found = {one.encode() for one in (*_SEQUENCE.findall(sent), *sent)}
    # A terminal sends them in one of two ways, as the program has asked for it.
    return found | {b"\x1bO" + one[2:] for one in found if one.startswith(b"\x1b[") and len(one) == 3}


def _typed_to_save(dialect: Dialect) -> set[bytes]:
    """The keys behind the first of those that save, which an editor may take as it takes what is typed into a text."""
    program = dialect.description.program
    assert program is not None
    return {char.encode() for char in program.save[1:]}


def command_in(entry: PortEntry, bench: EditorSetup) -> str:
    """The command that a ported key runs in the section of a bench: what was written, or the key's own by default."""
    written = dict(entry.commands).get(bench.section, "")
    if not written and entry.trigger is not None:
        states = bench.space.states(bench.dialect.description.sections[bench.section])
        table = bench.tables.get(bench.terminal.canonical(entry.trigger))
        rows = table.rows if table is not None else ()
        written = next((row.binding.written for row in rows if bench.space.overlap(row.states, states)), "")
    return written


def _is_open(proof: Proof) -> bool:
    """Whether what keys do to a text was not checked."""
    return proof.result == "not checked"


def _shown(bench: EditorSetup) -> dict[str, str]:
    """The commands whose keys show what was kept, and what is selected, by their actions."""
    program, space = bench.dialect.description.program, bench.space
    assert program is not None
    known = KnownKeys(
        bench.tables, bench.terminal, space.states(bench.dialect.description.sections[bench.section]), space
    )
    actions = [one for one in ("edit.paste", program.shows_selection_by) if one]
    return {action: known.written(action) for action in actions if known.written(action)}


def _is_about_text(entry: PortEntry, made: MadePort) -> bool:
    """Whether what a binding does is known to be about a text."""
    outcome = entry.source.outcome
    if entry.macro is not None:
        return has_effect(entry.macro.steps, made.around.catalogue)
    action = made.around.catalogue.actions.get(outcome.action) if isinstance(outcome, Do) else None
    return action is not None and bool(action.effect)
