"""Puts an editor on the stage from its description and its file: it obeys the same policy, and nothing is installed."""

from collections.abc import Iterable, Mapping, Sequence

from msgspec.structs import replace

from ombix.core.conditions import NEVER, States
from ombix.core.keymap.bindings import Keymap, Layer, effective_states
from ombix.core.keymap.deciding import decide_all
from ombix.core.keymap.outcomes import Do, Nothing, Outcome, Step
from ombix.core.porting import PortEntry
from ombix.core.snippets.surroundings import Language
from ombix.editors.command_effects import settings_of
from ombix.editors.dialect import Dialect
from ombix.editors.editor_porting import Surroundings
from ombix.evidence.key_proof import Proof
from ombix.evidence.probes import MARKER, Probe, has_effect, probes_for, probes_for_steps
from ombix.text.stage.action_effects import program_of
from ombix.text.stage.machine import Machine, start_state
from ombix.text.stage.macro_player import StageKeymap
from ombix.text.stage.stage_state import State

_PLAIN_TEXT = Probe("one two_three four\n\tfive\n", 4)


class StagedEditor:
    """A described editor with a file of its own, ready to be put on the stage in any state."""

    def __init__(
        self, dialect: Dialect, layers: Sequence[Layer], around: Surroundings, languages: Mapping[str, Language] = {}
    ) -> None:
        keymap = Keymap([dialect.default_layer, *layers])
        self.dialect = dialect
        self.space = around.space
        self.catalogue = around.catalogue
        self.settings = settings_of(dialect)
        bindings = keymap.in_force(around.platform).bindings
        tables = decide_all(bindings, around.space, around.catalogue, dialect.policy)
        self.keymap = StageKeymap(
            tables, keymap.macros, dialect.policy, around.space, around.catalogue, keymap.snippets, languages
        )
        self._starts: dict[str | States, dict[str, str]] = {}

    def machine(self, text: str, cursor: int = 0, condition: str | States = "always") -> Machine:
        """The editor with a text, in the plainest state that fulfils a condition. Raises ValueError where there is none."""
        facts = self._starts.get(condition)
        if facts is None:
            facts = self._starts[condition] = start_state(self.space, condition, self.dialect.description.never)
        return Machine(self.keymap, State(text, cursor, settings=self.settings), dict(facts))


def prove_on_stage(entries: Iterable[PortEntry], staged: StagedEditor) -> list[tuple[PortEntry, Proof]]:
    """Press the keys of each ported binding on the stage, in a state of each section where it should hold."""
    return [(entry, _prove(entry, staged)) for entry in entries if entry.trigger is not None]


def _prove(entry: PortEntry, staged: StagedEditor) -> Proof:
    assert entry.trigger is not None
    outcome = entry.source.outcome
    what: str | tuple[Step, ...] = ()
    if entry.macro is not None and has_effect(entry.macro.steps, staged.catalogue):
        what = entry.macro.steps
    elif isinstance(outcome, Do) and program_of(outcome, staged.catalogue) is not None:
        what = (outcome.once,) * outcome.count if outcome.arguments else outcome.action
    tried = 0
    space = staged.space
    own = effective_states(entry.source, space, staged.catalogue)
    possible = space.minus(space.possible, space.union(map(space.parse, staged.dialect.description.never)))
    for name, text in staged.dialect.description.sections.items():
        states = space.both(entry.states, space.states(text))
        if name not in entry.sections or states == NEVER:
            continue
        # Where the source holds in states of the target, those are tried: others may not need the action.
        both = space.both(space.both(states, own), possible)
        states = both if both != NEVER else states
        condition = space.describe(states)
        for probe in _probes(what, states, staged):
            try:
                machine = staged.machine(probe.text, probe.cursor, states)
            except ValueError:
                break  # the target is never in this state
            tried += 1
            if (proof := _press(entry, machine, probe, what, staged, condition)) is not None:
                return proof
    title = str(outcome)
    if not tried:
        return Proof(entry.trigger, title, "not checked", f"{staged.dialect.name} is never in a state where it holds")
    return Proof(entry.trigger, title, "agrees", "", tried)


def _probes(what: str | tuple[Step, ...], states: States, staged: StagedEditor) -> list[Probe]:
    """The texts on which an action or a macro is tried: those made for it, and a plain one where there are none, or where
    the text cannot be changed."""
    space = staged.space
    if space.covers(space.means("fixed"), states):
        return [_PLAIN_TEXT]
    found = (
        probes_for(what, True, "", staged.catalogue)
        if isinstance(what, str)
        else probes_for_steps(what, staged.catalogue)
    )
    return found or [_PLAIN_TEXT]


def _press(
    entry: PortEntry, machine: Machine, probe: Probe, what: str | tuple[Step, ...], staged: StagedEditor, condition: str
) -> Proof | None:
    """What was wrong with pressing the keys in one situation, or None."""
    assert entry.trigger is not None
    outcome = entry.source.outcome
    for name in probe.before:
        machine.perform(Do(name))
    before = machine.state
    machine.press(entry.trigger)
    machine.finish()
    ran = [one for one in machine.happened if one.kind != "waits"]
    title = str(outcome)
    found = ran[0].outcome if ran else None
    wanted: Outcome | None = outcome
    if isinstance(outcome, Nothing) and found is None and machine.state == before:
        return None
    binding = ran[0].binding if ran else None
    if binding is not None and not isinstance(found, Do) and binding.written in entry.written:
        wanted = found  # several commands, or a macro: to the letter what was to be written
    if found != wanted:
        said = f"when {condition}: {ran[0].why if ran else 'nothing happened'}"
        return Proof(entry.trigger, title, "differs", said, 1, title, str(found) if found else "nothing")
    if what and probe is not _PLAIN_TEXT:
        for name in probe.after:
            machine.perform(Do(name))
        expected = probe.expected(what, replace(staged.settings, typing_replaces_selection=True), staged.catalogue)
        state = machine.state
        start, end = state.selection
        text = state.text[:start] + MARKER + state.text[end:]
        if text != expected:
            return Proof(entry.trigger, title, "differs", f"when {condition}", 1, expected, text)
    return None
