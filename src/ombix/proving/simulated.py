"""Puts an editor on the stage from its description and its file: it obeys the same policy, and nothing is installed."""

from collections.abc import Iterable, Mapping, Sequence

from ombix.core.actions import Catalogue
from ombix.core.conditions import NEVER, Space
from ombix.core.deciding import Table, decide_all
from ombix.core.keymap import Do, Keymap, Layer, Macro, Nothing, Outcome, Play, Step, effective_states
from ombix.core.keys import Trigger
from ombix.core.platforms import Platform
from ombix.core.verdicts import Entry
from ombix.dialects.engine import Dialect
from ombix.proving.probes import MARKER, Probe, has_effect, probes_for, probes_for_steps
from ombix.proving.prove import Proof
from ombix.stage.editor import Editor, start_state
from ombix.stage.text import EFFECTS, Habits, Page

_PLAIN_TEXT = Probe("one two_three four\n\tfive\n", 4)


def habits_of(dialect: Dialect) -> Habits:
    """What a described editor is set to on the stage."""
    row = dialect.description.stands_on
    program = dialect.description.program
    if program is not None:
        return Habits(
            program.indentation, program.tab_width, program.auto_indent, program.comment, program.stops_at_edges
        )
    return Habits(row.indentation, row.tab_width, row.auto_indent, row.comment)


def replaces_selection(dialect: Dialect) -> bool:
    """Whether typing in a described editor takes the place of what is selected."""
    described = dialect.description.program or dialect.description.stands_on
    return described.typing_replaces_selection


class Stage:
    """A described editor with a file of its own, ready to be put on the stage in any state."""

    def __init__(
        self, dialect: Dialect, layers: Sequence[Layer], platform: Platform, space: Space, catalogue: Catalogue
    ) -> None:
        keymap = Keymap([dialect.default_layer, *layers])
        self.dialect = dialect
        self.space = space
        self.catalogue = catalogue
        self.macros: Mapping[str, Macro] = keymap.macros
        self.tables: dict[Trigger, Table] = decide_all(keymap.in_force(platform), space, catalogue, dialect.policy)

    def editor(self, page: Page, condition: str = "always") -> Editor:
        """The editor with a text, in the plainest state that fulfils a condition. Raises ValueError where there is none."""
        facts = start_state(self.space, condition, self.dialect.description.never)
        return Editor(
            self.tables, self.macros, self.dialect.policy, self.space, self.catalogue, page, facts,
            habits_of(self.dialect), replaces_selection(self.dialect),
        )  # fmt: skip


def prove_on_stage(
    entries: Iterable[Entry], stage: Stage, macros: Mapping[str, Macro] | None = None
) -> list[tuple[Entry, Proof]]:
    """Press the keys of each ported binding on the stage, in a state of each section where it should hold.

    `macros` are those of the source.
    """
    return [(entry, _prove(entry, stage, macros or {})) for entry in entries if entry.trigger is not None]


def _prove(entry: Entry, stage: Stage, macros: Mapping[str, Macro]) -> Proof:
    assert entry.trigger is not None
    outcome = entry.source.outcome
    what: str | tuple[Step, ...] = ()
    if isinstance(outcome, Play) and outcome.macro in macros and has_effect(macros[outcome.macro].steps):
        what = macros[outcome.macro].steps
    elif isinstance(outcome, Do) and outcome.action in EFFECTS:
        what = outcome.action if outcome.count == 1 else (outcome.once,) * outcome.count
    tried = 0
    space = stage.space
    own = effective_states(entry.source, space, stage.catalogue)
    possible = space.minus(space.possible, space.union(map(space.parse, stage.dialect.description.never)))
    for name, text in stage.dialect.description.sections.items():
        states = space.both(entry.states, space.states(text))
        if name not in entry.sections or states == NEVER:
            continue
        # Where the source holds in states of the target, those are tried: others may not need the action.
        both = space.both(space.both(states, own), possible)
        states = both if both != NEVER else states
        condition = space.describe(states)
        for probe in _probes(what, condition):
            try:
                editor = stage.editor(Page(probe.text, probe.cursor), condition)
            except ValueError:
                break  # the target is never in this state
            tried += 1
            if (proof := _press(entry, editor, probe, what, stage, condition)) is not None:
                return proof
    title = str(outcome)
    if not tried:
        return Proof(entry.trigger, title, "not checked", f"{stage.dialect.name} is never in a state where it holds")
    return Proof(entry.trigger, title, "agrees", "", tried)


def _probes(what: str | tuple[Step, ...], condition: str) -> list[Probe]:
    """The texts on which an action or a macro is tried: those made for it, and a plain one where there are none."""
    if "readonly" in condition and "not readonly" not in condition:
        return [_PLAIN_TEXT]
    found = probes_for(what, True, "") if isinstance(what, str) else probes_for_steps(what)
    return found or [_PLAIN_TEXT]


def _press(
    entry: Entry, editor: Editor, probe: Probe, what: str | tuple[Step, ...], stage: Stage, condition: str
) -> Proof | None:
    """What was wrong with pressing the keys in one situation, or None."""
    assert entry.trigger is not None
    outcome = entry.source.outcome
    for name in probe.before:
        editor.perform(Do(name))
    before = editor.page
    editor.press(entry.trigger)
    editor.finish()
    ran = [one for one in editor.happened if one.kind != "waits"]
    title = str(outcome)
    found = ran[0].outcome if ran else None
    wanted: Outcome | None = outcome
    if isinstance(outcome, Nothing) and found is None and editor.page == before:
        return None
    binding = ran[0].binding if ran else None
    if binding is not None and not isinstance(found, Do) and binding.written in entry.written:
        wanted = found  # several commands, or a macro: to the letter what was to be written
    if found != wanted:
        said = f"when {condition}: {ran[0].why if ran else 'nothing happened'}"
        return Proof(entry.trigger, title, "differs", said, 1, title, str(found) if found else "nothing")
    if what and probe is not _PLAIN_TEXT:
        for name in probe.after:
            editor.perform(Do(name))
        expected = probe.expected(what, habits_of(stage.dialect), True)
        page = editor.page
        start, end = page.selection
        text = page.text[:start] + MARKER + page.text[end:]
        if text != expected:
            return Proof(entry.trigger, title, "differs", f"when {condition}", 1, expected, text)
    return None
