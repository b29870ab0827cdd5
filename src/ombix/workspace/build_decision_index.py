"""Makes the indexes of a keymap: see `index`."""

from collections.abc import Mapping, Sequence
from typing import Any

from ombix.core.catalogue.search_index import search_index
from ombix.core.conditions import NEVER, States
from ombix.core.keymap.bindings import Binding
from ombix.core.keymap.deciding import DecisionRow, DecisionTable
from ombix.core.keymap.outcomes import Do, Insert, Play
from ombix.core.keys.notation import MODIFIERS, Trigger, parse, write
from ombix.core.snippets.model import Snippet
from ombix.editors.dialect import Dialect
from ombix.workspace.decision_index import ActionIndex, DecisionIndex, Rows
from ombix.workspace.effective_keymap import EffectiveKeymap, kind_of
from ombix.workspace.how_answer import ActionKeys
from ombix.workspace.not_in_editor import not_in_editor
from ombix.workspace.reason_words import said_of
from ombix.workspace.what_answer import GoneBinding, NotInEditor


def decision_index(here: EffectiveKeymap, within: States | None = None) -> DecisionIndex:
    """All decisions; with `within`, as far as they hold in these states."""
    triggers: dict[str, list[tuple[object, ...]]] = {}
    hidden = []
    for trigger, table in here.tables.items():
        rows = list(_rows(table, here, within))
        if rows:
            triggers[write(trigger)] = rows
        elif not table.rows:
            hidden.append(write(trigger))
    gone: dict[str, list[GoneBinding]] = {}
    for one in here.gone:
        for keys in dict.fromkeys([one.keys, *filter(None, one.by_keys.split(", "))]):
            gone.setdefault(keys, []).append(one)
    context = here.context
    return DecisionIndex(
        _about(here), here.policy.prefix,
        here.policy.wait_ms, _types(here, within), [setup.layout.title for setup in context.setups], triggers,
        _presses(here), gone, hidden, context.about, _editor(here), _not_here(here),
    )  # fmt: skip


def _editor(here: EffectiveKeymap) -> str:
    return here.context.editor.name if here.context.editor is not None else ""


def _not_here(here: EffectiveKeymap) -> Mapping[str, Rows]:
    """What the editor cannot have, by the keys as the keymap has them and as they arrive."""
    if here.obeyed is None:
        return {}
    canonical = here.obeyed.around.terminal.canonical
    found: dict[str, list[NotInEditor]] = {}
    for missing in not_in_editor(here):
        for keys in dict.fromkeys((missing.keys, write(canonical(parse(missing.keys))))):
            found.setdefault(keys, []).append(missing)
    return found


def _types(here: EffectiveKeymap, within: States | None) -> bool:
    """Whether a character that is not bound is typed in some of the states."""
    return here.policy.unmatched == "types" and (within is None or here.space.meet(within, here.space.typing))


def _rows(table: DecisionTable, here: EffectiveKeymap, within: States | None) -> "list[tuple[object, ...]]":
    found = []
    for row in table.rows:
        states = row.states if within is None else here.space.both(row.states, within)
        if states != NEVER:
            found.append(_row(row, states, here))
    return found


def _row(row: DecisionRow, states: States, here: EffectiveKeymap) -> tuple[object, ...]:
    binding, outcome = row.binding, row.binding.outcome
    beats = [
        (str(one.outcome), one.place, one.layer.name, _order(one, binding))
        for one in row.beaten
        if one.outcome != outcome  # that it beats the same tells nothing
    ]  # fmt: skip
    return (
        here.when(row, states), str(outcome), here.title(outcome), kind_of(outcome), binding.place, binding.layer.name,
        binding.why, beats, _how(binding, here),
    )  # fmt: skip


def _how(binding: Binding, here: EffectiveKeymap) -> str:
    """How the editor does otherwise than the keymap asks."""
    entry = here.verdict_of(binding)
    return said_of(entry, _editor(here)) if entry is not None and entry.verdict == "adapted" else ""


def _order(beaten: Binding, winner: Binding) -> str:
    """Where a binding stands that was beaten, seen from the one that beats it."""
    if beaten.layer.id != winner.layer.id:
        return f"in the layer {beaten.layer.name}"
    return "earlier in the same layer" if beaten.place.line < winner.place.line else "later in the same layer"


def _presses(here: EffectiveKeymap) -> Mapping[str, Rows]:
    setups = here.context.setups
    return {
        write(trigger): here.presses(trigger)
        for trigger in here.tables
        if not all(setup.is_plain(trigger) for setup in setups)
    }


def _about(here: EffectiveKeymap) -> dict[str, Any]:
    """The platform as the editor has it: in a terminal Mod may be another modifier."""
    platform = here.context.platform
    main = next(name for name, bit in MODIFIERS.items() if bit == platform.main_modifier)
    return here.shipped.platform_table(platform.name) | {"name": platform.name, "main-modifier": main}


def action_index(here: EffectiveKeymap, within: States | None = None, searched: Sequence[Any] = ()) -> ActionIndex:
    """All actions, each with the keys on which it wins somewhere; with `within`, those that can be run in these states, with
    the keys that they have there. `searched` is the index of words, where it is known (`words_of`)."""
    keys: dict[str, list[ActionKeys]] = {}
    shown: dict[Trigger, str] = {}
    for trigger, table in here.tables.items():
        for row in table.rows:
            outcome = row.binding.outcome
            states = row.states if within is None else here.space.both(row.states, within)
            if isinstance(outcome, Do) and states != NEVER:
                asked = here.as_asked(row.binding)
                if asked not in shown:
                    shown[asked] = here.shown(asked)
                found = ActionKeys(write(trigger), _where(row, here), shown[asked])
                keys.setdefault(outcome.action, []).append(found)
    actions = {
        action.name: action for action in here.catalogue.actions.values()
        if within is None or action.name in keys or here.space.meet(here.space.states(action.fits or action.needs), within)
    }  # fmt: skip
    at_hand = here.editors_at_hand
    rows = {
        action.name: (action.title, action.does, keys.get(action.name, []), _lacking(action.name, at_hand))
        for action in actions.values()
    }
    about = _about(here)
    if within is not None or not searched:
        searched = search_index(actions.values(), here.shipped.synonyms())
    return ActionIndex(
        about, rows, here.context.about, here.catalogue.domains, searched, _editor(here), list(at_hand),
        _own(here, within),
    )  # fmt: skip


def _own(here: EffectiveKeymap, within: States | None) -> Rows:
    """The macros and snippets of a keymap, with their keys."""
    keys: dict[str, list[ActionKeys]] = {}
    for trigger, table in here.tables.items():
        for row in table.rows:
            outcome = row.binding.outcome
            is_there = within is None or here.space.meet(row.states, within)
            if isinstance(outcome, Play | Insert) and is_there:
                found = ActionKeys(write(trigger), _where(row, here), here.shown(trigger))
                keys.setdefault(outcome.key, []).append(found)
    macros = [
        (Play(name).key, macro.title, "A macro of the keymap.", keys.get(Play(name).key, []))
        for name, macro in here.keymap.macros.items()
    ]
    return [
        *macros,
        *(
            (Insert(name).key, one.title, _snippet(one), keys.get(Insert(name).key, []))
            for name, one in here.keymap.snippets.items()
        ),
    ]


def _snippet(one: Snippet) -> str:
    words = f", which {' or '.join(one.words)} expands to" if one.words else ""
    return f"A snippet of the keymap{words}."


def _lacking(action: str, editors: Mapping[str, Dialect]) -> list[str]:
    """The editors that have no command for an action."""
    return [name for name, dialect in editors.items() if not dialect.vocabulary.can_do(action)]


def words_of(here: EffectiveKeymap) -> Sequence[Any]:
    """What all actions are found by."""
    return here.shipped.search_index()


def _where(row: DecisionRow, here: EffectiveKeymap) -> str:
    """The condition of keys: empty words where nothing else is bound to them and their own condition says nothing."""
    binding = row.binding
    if binding.where == "always" and not row.beaten:
        return "always"
    return here.when(row)
