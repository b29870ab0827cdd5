"""What of a keymap an editor cannot have, why, and what comes nearest."""

from collections.abc import Iterable, Iterator, Mapping

from ombix.core.catalogue.actions import Catalogue
from ombix.core.conditions import Space
from ombix.core.keymap.bindings import Binding, effective_states
from ombix.core.keymap.deciding import DecisionTable
from ombix.core.keymap.outcomes import Do, Only
from ombix.core.keys.notation import Trigger, write
from ombix.core.porting import PortEntry
from ombix.editors.dialect import Dialect
from ombix.editors.obeyed_keymap import ObeyedKeymap
from ombix.workspace.effective_keymap import EffectiveKeymap
from ombix.workspace.reason_words import said_of
from ombix.workspace.what_answer import NearestAction, NotInEditor

_NEAR = 0.3
"""Of the words of two actions of one kind of work so many are the same, at the least, where one is offered for the other."""


def not_in_editor(here: EffectiveKeymap) -> list[NotInEditor]:
    """The bindings of the keymap that the editor of a context cannot have on their keys; none where no editor is meant."""
    obeyed = here.obeyed
    if obeyed is None:
        return []
    return [
        NotInEditor(
            write(binding.trigger), here.context.platform.show(binding.trigger), str(binding.outcome),
            here.title(binding.outcome), binding.where, binding.place, binding.layer.name,
            said_of(entry, obeyed.name),
            tuple(map(write, other_keys(entry, obeyed))), _nearest(binding, here),
        )
        for entry in missing_entries(obeyed, here.tables, here.space, here.catalogue)
        for binding in (entry.source,)
    ]  # fmt: skip


def missing_entries(
    obeyed: ObeyedKeymap, tables: Mapping[Trigger, DecisionTable], space: Space, catalogue: Catalogue
) -> Iterator[PortEntry]:
    """What became of the bindings that the editor, whose decisions are `tables`, does not have on their own keys. What these keys
    do there by default is there, whatever became of the binding; and another editor's own command was never meant for it."""
    canonical = obeyed.around.terminal.canonical
    for entry in obeyed.file.entries:
        source = entry.source
        own = canonical(source.trigger)
        if entry.trigger is not None and canonical(entry.trigger) == own:
            continue
        if isinstance(source.outcome, Only) and source.outcome.editor not in (obeyed.name, obeyed.dialect.name):
            continue
        states = effective_states(source, space, catalogue)
        rows = tables[own].rows if own in tables else ()
        if not any(row.binding.outcome == source.outcome and space.overlap(row.states, states) for row in rows):
            yield entry


def other_keys(entry: PortEntry, obeyed: ObeyedKeymap) -> Iterator[Trigger]:
    """The keys that a binding, or what it does, has there in place of its own."""
    for keys in (entry.trigger, entry.elsewhere):
        if keys is not None:
            yield obeyed.around.terminal.canonical(keys)


def _nearest(binding: Binding, here: EffectiveKeymap) -> NearestAction | None:
    outcome, dialect = binding.outcome, here.context.dialect
    if not isinstance(outcome, Do) or dialect is None:
        return None
    return nearest_action(outcome.action, dialect, here.catalogue, here.tables)


def nearest_action(
    name: str, dialect: Dialect, catalogue: Catalogue, tables: Mapping[Trigger, DecisionTable]
) -> NearestAction | None:
    """The action that comes nearest to one that an editor has no command for, with its keys there; None where none is near, and
    for one that it has a command for. The opposite is never near."""
    if dialect.vocabulary.can_do(name):
        return None
    found = near_actions(name, dialect, catalogue)
    other = next(iter(found), "")
    if not other:
        return None
    keys = [write(trigger) for trigger, table in tables.items() if _does(table, other)]
    return NearestAction(other, catalogue.title(other), tuple(keys[:3]))


def near_actions(name: str, dialect: Dialect, catalogue: Catalogue) -> list[str]:
    """The actions of an editor that come near to one, the nearest first."""
    action = catalogue.actions.get(name)
    domain, _, verb = name.partition(".")
    words = set(verb.split("-"))
    scored: list[tuple[float, int, str]] = []
    for other in _actions_of(dialect, catalogue):
        if not other.startswith(f"{domain}.") or other == name or (action is not None and action.inverse == other):
            continue
        theirs = set(other.partition(".")[2].split("-"))
        score = len(words & theirs) / len(words | theirs)
        if score >= _NEAR and not _opposed(words, theirs):
            scored.append((-score, len(scored), other))
    return [other for _score, _number, other in sorted(scored)]


_OPPOSED = (
    ("up", "down"), ("left", "right"), ("next", "previous"), ("start", "end"), ("first", "last"), ("above", "below"),
    ("open", "close"), ("more", "less"), ("in", "out"), ("upper", "lower"), ("forward", "back"),
)  # fmt: skip
"""Words for the opposite of each other: what goes the other way is not near."""


_BACK = {"up", "left", "previous", "start", "first", "above", "back", "last-used"}
_ON = {"down", "right", "next", "end", "last", "below", "forward"}
"""Words for going back and for going on."""


def _opposed(words: set[str], others: set[str]) -> bool:
    ways = [(bool(each & _BACK), bool(each & _ON)) for each in (words, others)]
    if ways in ([(True, False), (False, True)], [(False, True), (True, False)]):
        return True
    return any(
        (one in words and other in others) or (other in words and one in others)
        for one, other in _OPPOSED
        if not {one, other} <= words
    )


def _actions_of(dialect: Dialect, catalogue: Catalogue) -> Iterable[str]:
    return (name for name in catalogue.actions if dialect.vocabulary.can_do(name))


def _does(table: DecisionTable, action: str) -> bool:
    return any(isinstance(row.binding.outcome, Do) and row.binding.outcome.action == action for row in table.rows)
