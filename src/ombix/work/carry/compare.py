"""Two keymaps or editors, decision by decision, over all states at once."""

from collections.abc import Iterator, Mapping
from typing import NamedTuple

from ombix.core.conditions import ALWAYS, NEVER, Space, States
from ombix.core.errors import InputError, did_you_mean
from ombix.core.keymap.bindings import Keymap, Layer
from ombix.core.keymap.comparing import compare, waiting
from ombix.core.keymap.deciding import DecisionTable, Policy, decide_all
from ombix.core.keymap.outcomes import Nothing, Outcome
from ombix.core.keys.notation import Trigger, write
from ombix.core.keys.platforms import Platform
from ombix.core.pressing.terminals import Terminal, as_arriving
from ombix.editors.dialect import Dialect
from ombix.files.workspace_file import WorkspaceEditor, WorkspaceFile
from ombix.work.carry.compare_answer import AlikeKeys, ComparisonReport, KeyDifference, WaitingKeys
from ombix.workspace.context import Opener, terminal_of
from ombix.workspace.obeyed import decided_in, obeyed
from ombix.workspace.outcome_titles import titles_of
from ombix.workspace.resources import Resources, user_path


class ComparedSide(NamedTuple):
    """One of the two: its layers, and the editor that decides, where there is one."""

    name: str
    layers: list[Layer]
    dialect: Dialect | None = None
    terminal: Terminal | None = None
    editor: WorkspaceEditor | None = None
    workspace: WorkspaceFile | None = None

    @property
    def policy(self) -> Policy:
        """How it decides."""
        return self.dialect.policy if self.dialect is not None else Policy()


def side(text: str, editor: str, opener: Opener, resources: Resources) -> ComparedSide:
    """What a text names: an editor of the workspace with the keymap, an editor's defaults, a keymap file, or an editor's
    own file (that of `editor`, or the one that it is recognised as) with its defaults. Raises InputError."""
    workspace = opener.workspace()
    editors = workspace.editors if workspace else {}
    if text in editors or resources.dialects.knows(text):
        own = list(opener.layers(lenient=True)) if text in editors else []
        return _editor_side(text, opener.editor(text), own, resources)._replace(workspace=workspace)
    path = user_path(text, opener.folder)
    if not resources.files.is_file(path) and not path.exists():
        names = [*editors, *resources.dialects.names()]
        raise InputError(
            f"there is no editor and no file {text}", did_you_mean(text, names) or f"Editors are {', '.join(names)}."
        )
    file = opener.open_file(path, editor, lenient=True)
    if file.editor is None:
        return ComparedSide(text, list(file.layers))
    return _editor_side(text, file.editor, list(file.layers), resources)


def _editor_side(text: str, editor: WorkspaceEditor, layers: list[Layer], resources: Resources) -> ComparedSide:
    dialect = resources.dialect(editor)
    terminal = terminal_of(editor, dialect, resources)
    return ComparedSide(text, [dialect.default_layer, *layers], dialect, terminal, editor)


def report(
    first: ComparedSide, second: ComparedSide, platform: Platform, resources: Resources, condition: str = ""
) -> ComparisonReport:
    """Where the two differ on a platform, and in which states; with a condition in its states only. Raises InputError for one that
    no state fulfils."""
    space = _space(first, second, resources)
    terminal = first.terminal or second.terminal
    one, other = (_decisions(side, side.terminal or terminal, platform, space, resources) for side in (first, second))
    within = space.possible
    for each in (first, second):
        if each.dialect is not None:
            sections = each.dialect.description.sections.values()
            within = space.both(within, space.union(space.states(text) for text in sections))
    if condition:
        within = space.both(within, space.states(condition))
        if within == NEVER:
            raise InputError("no state of both fulfils this condition", "", None, condition, len(condition))
    found = compare(one, other, space, within)
    alike = list(_alike(one, other, space, within))
    outcomes = [
        *(side for each in found for side in (each.first, each.second) if side),
        *(does for _keys, does, _when in alike),
    ]
    names = dict.fromkeys(map(str, outcomes))
    titles = titles_of(names, resources.shipped.catalogue(), Keymap([*first.layers, *second.layers]))
    return ComparisonReport(
        first.name, second.name, platform.name, platform.title,
        len({trigger for trigger, _does, _states in alike}),
        tuple(
            KeyDifference(
                write(each.trigger), platform.show(each.trigger), str(each.first) if each.first else None,
                str(each.second) if each.second else None, _when(each.states, space), space.example(each.states),
            )
            for each in found
        ),
        tuple(
            WaitingKeys(
                write(each.trigger), platform.show(each.trigger), str(each.outcome), _when(each.states, space),
                first.name if each.first_waits else second.name,
            )
            for each in waiting(one, other, space, within)
        ),
        condition,
        tuple(
            AlikeKeys(
                write(trigger), platform.show(trigger), str(does),
                "always" if space.covers(states, within) else _when(states, space),
            )
            for trigger, does, states in alike
        ),
        titles,
    )  # fmt: skip


def _alike(
    one: Mapping[Trigger, DecisionTable], other: Mapping[Trigger, DecisionTable], space: Space, within: States
) -> Iterator[tuple[Trigger, Outcome, States]]:
    """What keys do the same in both, and in which states."""
    for trigger, table in one.items():
        for row in table.rows if trigger in other else ():
            outcome = row.binding.outcome
            if isinstance(outcome, Nothing):
                continue
            there = space.union(each.states for each in other[trigger].rows if each.binding.outcome == outcome)
            states = space.both(space.both(row.states, there), within)
            if states != NEVER:
                yield trigger, outcome, states


def _when(states: States, space: Space) -> str:
    return "always" if states in (ALWAYS, space.possible) else space.describe(states)


def _space(one: ComparedSide, other: ComparedSide, resources: Resources) -> Space:
    """The states of both; what an editor excludes holds in that editor only."""
    facts = resources.shipped.facts()
    for each in (one, other):
        if each.dialect is not None:
            facts = facts.extended(each.dialect.facts, [])
    own = [layer for each in (one, other) for layer in each.layers if layer.name.kind != "defaults"]
    return Keymap(own).space(facts)


def _decisions(
    side: ComparedSide, terminal: Terminal | None, platform: Platform, space: Space, resources: Resources
) -> dict[Trigger, DecisionTable]:
    if side.editor is not None:
        found = obeyed(side.layers, side.editor, platform, side.workspace, resources)
        return decided_in(found, side.layers, side.editor, platform, space, resources).tables
    bindings = Keymap(side.layers).in_force(platform).bindings
    arriving = as_arriving(bindings, terminal) if terminal is not None else bindings
    return decide_all(arriving, space, resources.shipped.catalogue(), side.policy)
