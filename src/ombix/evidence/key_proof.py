"""Presses each binding of a keymap in the real editor and compares the result with the action's exact effect."""

import time
from collections.abc import Callable, Iterable, Mapping
from concurrent.futures import ThreadPoolExecutor
from typing import Literal

from msgspec import Struct

from ombix.core.catalogue.actions import Catalogue
from ombix.core.conditions import NEVER, Space, States
from ombix.core.errors import OutsideError
from ombix.core.keymap.bindings import Binding
from ombix.core.keymap.deciding import DecisionRow, DecisionTable
from ombix.core.keymap.outcomes import Do, Insert, Nothing, Play, Step
from ombix.core.keys.notation import Trigger
from ombix.core.pressing.layouts import KeyboardSetup
from ombix.core.pressing.terminals import Terminal
from ombix.editors.command_effects import settings_of
from ombix.editors.description import Mode, Program
from ombix.editors.dialect import Dialect
from ombix.evidence.command_check import PressedFiles, Reacher
from ombix.evidence.command_references import Bindings, plain_file
from ombix.evidence.editor_host import EditorHost, Runs, complaint
from ombix.evidence.editor_run import Pressed, Start, placed
from ombix.evidence.expectations import Expectation
from ombix.evidence.probes import MARKER, Probe, has_effect, probes_for, probes_for_steps
from ombix.evidence.sandbox import Sandbox, best_sandbox
from ombix.text.effects.buffer import Settings
from ombix.text.stage.action_effects import program_of

Result = Literal["agrees", "reached", "differs", "not checked"]
"""`agrees`: what the action does was seen. `reached`: the keys run the command that was written; whether what it does is what
was wanted was not compared."""
MOST_SECONDS = 900.0
"""For all keys of a proof; what comes after is not checked."""
_WORKERS = 8
"""Editors at once: mostly they wait for each other's files and the clock, so more than the cores of a small machine."""


class Proof(Struct, frozen=True):
    """What pressing one trigger showed. With `differs`, `expected` and `found` are texts with the marker in them."""

    trigger: Trigger
    action: str
    result: Result
    reason: str = ""
    probes: int = 0
    expected: str = ""
    found: str = ""
    is_unsaid: bool = False
    """Whether it differs from what is known of the command that was pressed, so that no verdict says it."""
    places: int = 0
    """Of the texts those at places where people stand, and of which it is known what the source does there."""
    as_wanted: int = 0
    """At so many of these the same was seen."""


class Claim(Struct, frozen=True):
    """A trigger and the action that it should run over text; of a macro, its steps."""

    trigger: Trigger
    binding: Binding
    steps: tuple[Step, ...] = ()
    expectations: tuple[Expectation, ...] = ()
    """What is to be seen, by place; none: what its action does is tried where that can be seen best."""


def claims(
    triggers: Iterable[Trigger], tables: Mapping[Trigger, DecisionTable], text_states: States, space: Space
) -> list[Claim]:
    """For each trigger what the decision over text says, where it is one binding for all states of it."""
    found = []
    for trigger in triggers:
        table = tables.get(trigger)
        row = _row_over_text(table, text_states, space) if table else None
        if row is not None:
            found.append(Claim(trigger, row.binding))
    return found


class EditorSetup(Struct, frozen=True):
    """An editor with a file as its only configuration, ready to be pressed in: in a section, in its terminal.

    `tables` are the decisions that hold with this file, by canonical trigger; they tell which keys save, select and paste.
    """

    dialect: Dialect
    config: str
    tables: Mapping[Trigger, DecisionTable]
    terminal: Terminal
    space: Space
    catalogue: Catalogue
    section: str = ""
    """Empty: the editor's default section."""
    sandbox: Sandbox | None = None
    """What the editor is shut in by; None: the best that there is here."""
    settings: Settings | None = None
    """What the file sets the editor to; None: nothing."""
    beside: str = ""
    """The text of the file with settings beside the editor's."""
    keyboard: KeyboardSetup | None = None
    """Of an editor in a window; None: a plain American one."""


def prove(
    wanted: list[Claim],
    bench: EditorSetup,
    progress: Callable[[Proof], None] = lambda proof: None,
    deadline: float = 0.0,
) -> list[Proof]:
    """Press each claim's trigger in the editor, several editors at a time.

    What comes after `deadline`, a time of the monotonic clock (0: in MOST_SECONDS), is not checked.
    """
    prover = _prover(bench)
    deadline = deadline or time.monotonic() + MOST_SECONDS

    def one(claim: Claim) -> Proof:
        if time.monotonic() > deadline:
            proof = Proof(claim.trigger, str(claim.binding.outcome), "not checked", "the time for all of them was over")
        else:
            proof = prover.prove(claim)
        progress(proof)
        return proof

    with prover.runs, ThreadPoolExecutor(_WORKERS) as pool:
        try:
            return list(pool.map(one, wanted))
        except BaseException:  # the user stopped it: what is open is closed at once
            prover.runs.stop.set()
            pool.shutdown(wait=True, cancel_futures=True)
            raise


def check_start(bench: EditorSetup) -> None:
    """Raise OutsideError where the editor complains about the file at its start, or does not come to its text."""
    prover = _prover(bench)
    started = Start(prover.config_name, prover.config, "a\n", beside=prover.beside)
    if said := complaint(prover.program, started, prover.runs.desk):
        raise OutsideError(f"{bench.dialect.description.title} does not take the file: {said}", "Nothing was pressed.")


def reacher(bench: EditorSetup, ported: Callable[[Bindings], str] | None = None) -> Reacher:
    """What presses keys that do more than change a text; `ported` gives the file with more bindings in it."""
    prover = _prover(bench)
    files = PressedFiles(ported or (lambda _more: bench.config), lambda more: plain_file(bench.dialect, more))
    start = Start(prover.config_name, prover.config, "", beside=prover.beside)
    return Reacher(prover.program, prover.mode, files, start, prover.runs.desk, prover.settings.tab_width)


def _prover(bench: EditorSetup) -> "_Prover":
    description = bench.dialect.description
    program = description.program
    assert program is not None
    section = bench.section or description.file.default_section
    over_text = bench.space.states(description.sections[section])
    known = KnownKeys(bench.tables, bench.terminal, over_text, bench.space)
    return _Prover(
        program, description.file.name, bench.config, bench.terminal, known, program.modes.get(section, Mode()),
        bench.settings or settings_of(bench.dialect),
        Runs(program, EditorHost(bench.sandbox or best_sandbox(), bench.keyboard)), bench.catalogue,
        (description.file.beside, bench.beside) if bench.beside else ("", ""),
    )  # fmt: skip


class KnownKeys:
    """Keys that run an action in the editor, whatever the state of the text."""

    def __init__(
        self, tables: Mapping[Trigger, DecisionTable], terminal: Terminal, text_states: States, space: Space
    ) -> None:
        self._by_action: dict[str, tuple[bytes, str]] = {}
        for trigger, table in tables.items():
            row = _row_over_text(table, text_states, space)
            if row is None or not isinstance(row.binding.outcome, Do):
                continue
            sent = terminal.send(trigger)
            if isinstance(sent, bytes):
                self._by_action.setdefault(row.binding.outcome.action, (sent, row.binding.written))

    def bytes_for(self, action: str) -> bytes | None:
        """The bytes of a key that runs an action, or None."""
        found = self._by_action.get(action)
        return found[0] if found is not None else None

    def written(self, action: str) -> str:
        """The command that this key runs, as it is written; empty where there is none."""
        return self._by_action.get(action, (b"", ""))[1]


class _Prover(Struct, frozen=True):
    program: Program
    config_name: str
    config: str
    terminal: Terminal
    known: KnownKeys
    mode: Mode
    settings: Settings
    runs: Runs
    catalogue: Catalogue
    beside: tuple[str, str]

    def prove(self, claim: Claim) -> Proof:
        outcome = claim.binding.outcome
        steps: tuple[Step, ...] = ()
        if isinstance(outcome, Play | Insert) and has_effect(claim.steps, self.catalogue):
            action, steps = str(outcome), claim.steps
        elif isinstance(outcome, Do):
            action = outcome.action
            if outcome.arguments:
                action, steps = str(outcome), (outcome.once,) * outcome.count
        elif claim.expectations:
            action = str(outcome)
        else:
            reason = "nothing is bound to it" if isinstance(outcome, Nothing) else "not all that it does is known"
            return Proof(claim.trigger, str(outcome), "not checked", reason)
        if not claim.expectations and not steps and program_of(Do(action), self.catalogue) is None:
            return Proof(claim.trigger, action, "not checked", "its effect is not only on text and cursor")
        sent = self.terminal.send(claim.trigger)
        if isinstance(sent, str):
            return Proof(claim.trigger, action, "not checked", sent)
        save = self.known.bytes_for("files.save") or self.program.save.encode()
        if not save:
            return Proof(claim.trigger, action, "not checked", "no key saves the text")
        if claim.expectations:
            return self._prove_by_places(claim, action, sent, save)
        replaces = self.settings.typing_replaces_selection
        tried = 0
        missing = ""
        probes = probes_for_steps(steps, self.catalogue) or probes_for(
            action, replaces, self.program.shows_selection_by, self.catalogue
        )
        for probe in probes:
            if not self.mode.at_line_end and probe.is_at_line_end:
                continue
            keys = self._keys(probe, sent)
            if isinstance(keys, str):
                missing = keys
                continue
            expected = probe.expected(steps or action, self.settings, self.catalogue)
            result = self._press(probe.text, probe.cursor, keys, save, expected)
            if result.text is None:
                return Proof(claim.trigger, action, "not checked", result.reason, tried)
            tried += 1
            if result.text != expected:
                return Proof(claim.trigger, action, "differs", "", tried, expected, result.text)
        if not tried:
            return Proof(claim.trigger, action, "not checked", missing or "nothing to try it on")
        return Proof(claim.trigger, action, "agrees", "", tried)

    def _prove_by_places(self, claim: Claim, action: str, sent: bytes, save: bytes) -> Proof:
        """Press at each place, and hold what is seen against what is expected."""
        tried = places = as_wanted = 0
        for expectation in claim.expectations:
            then = self.known.bytes_for(expectation.then) if expectation.then else b""
            if then is None:
                continue
            keys = [key for key in (sent, then, self.mode.typing.replace("{text}", MARKER).encode()) if key]
            result = self._press(expectation.text, expectation.cursor, keys, save, expectation.expected)
            if result.text is None:
                return Proof(claim.trigger, action, "not checked", result.reason, tried)
            tried += 1
            if expectation.wanted is not None:
                places += 1
                as_wanted += _with_line_end(result.text) == _with_line_end(expectation.wanted)
            if result.text != expectation.expected:
                return Proof(
                    claim.trigger,
                    action,
                    "differs",
                    f"from {expectation.picture}",
                    tried,
                    expectation.expected,
                    result.text,
                    True,
                    places,
                    as_wanted,
                )
        if not tried:
            return Proof(claim.trigger, action, "not checked", "no key is known that would show it")
        return Proof(claim.trigger, action, "agrees", "", tried, places=places, as_wanted=as_wanted)

    def _press(self, text: str, cursor: int, keys: list[bytes], save: bytes, expected: str) -> Pressed:
        """Press keys at a place; once more where that does not give what is expected: a busy machine may have swallowed a
        key, and only twice is a fact."""
        at = placed(self.program, self.mode, text, cursor, self.settings.tab_width)
        started = Start(self.config_name, self.config, text, at.line, at.column, self.beside)
        found = Pressed(None)
        for is_fresh in (False, True):
            found = self.runs.press(started, [*at.keys, *keys, *at.leaving], save, is_fresh)
            if found.text == expected or found.at_start:
                break
        return found

    def _keys(self, probe: Probe, sent: bytes) -> list[bytes] | str:
        keys: list[bytes] = []
        for name in probe.before:
            known = self.known.bytes_for(name)
            if known is None:
                return f"no key for {name}, which has to come first"
            keys.append(known)
        keys.append(sent)
        for name in probe.after:
            known = self.known.bytes_for(name)
            if known is None:
                return f"no key for {name}, which would show it"
            keys.append(known)
        keys.append(self.mode.typing.replace("{text}", MARKER).encode())
        return keys


def _with_line_end(text: str) -> str:
    """A text as it is kept in a file: some editors end its last line, and nobody misses it."""
    return text if text.endswith("\n") else f"{text}\n"


def _row_over_text(table: DecisionTable, text_states: States, space: Space) -> DecisionRow | None:
    rows = [row for row in table.rows if space.both(row.states, text_states) != NEVER]
    if len(rows) == 1 and space.covers(rows[0].states, text_states):
        return rows[0]
    return None
