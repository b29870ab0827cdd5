"""What is bound: in the order of the work, by key or by layer; on all platforms side by side; and what is not."""

from collections.abc import Callable, Iterable, Sequence
from typing import Literal, get_args

from ombix.core.conditions import NEVER, States
from ombix.core.errors import InputError, did_you_mean
from ombix.core.keymap.bindings import Binding
from ombix.core.keymap.deciding import DecisionRow
from ombix.core.keymap.folding import fold
from ombix.core.keymap.outcomes import Do, Insert, Nothing, Only, Outcome, Play
from ombix.core.keys.notation import Trigger, write
from ombix.core.keys.platforms import Platform
from ombix.work.look.show_answer import (
    EditorListing,
    EditorRow,
    ListedBinding,
    Listing,
    NamedAction,
    PlatformListing,
    PlatformRow,
    UnboundActions,
)
from ombix.workspace.effective_keymap import EffectiveKeymap, kind_of
from ombix.workspace.not_in_editor import missing_entries, not_in_editor
from ombix.workspace.reason_words import said_of
from ombix.workspace.what_answer import GoneBinding

Order = Literal["work", "key", "layer"]
ORDERS: tuple[Order, ...] = get_args(Order)

_Placed = tuple[DecisionRow, States]


def listing(here: EffectiveKeymap, by: str = "work", own: bool = False, within: str = "") -> Listing:
    """The bindings in force; with `own` without an editor's defaults, with `within` as far as they apply in a condition.

    Raises InputError for an order that is not known, or a condition that no state fulfils.
    """
    if by not in ORDERS:
        raise InputError(f"unknown order: {by}", did_you_mean(by, ORDERS) or f"Orders are {', '.join(ORDERS)}.")
    states = here.within(within)
    placed = [row for table in here.tables.values() for row in _rows(table.rows, here, states)]
    if own:
        placed = [one for one in placed if one[0].binding.layer.kind != "defaults"]
    replaced: dict[tuple[str, str], list[GoneBinding]] = {}
    for one in here.gone:
        for keys in filter(None, one.by_keys.split(", ")):
            replaced.setdefault((keys, one.by_layer), []).append(one)
    groups: dict[str, list[_Placed]] = {}
    group = _grouping(by, here)
    for row, part in placed:
        groups.setdefault(group(row.binding), []).append((row, part))
    bindings = [
        _listed(row, part, name, here, replaced)
        for name in _group_order(groups, by, here)
        for row, part in (sorted(groups[name], key=_key_order) if by == "key" else groups[name])
    ]
    editor = here.context.editor.name if here.context.editor is not None else ""
    gone = () if within else tuple(here.gone)
    missing = () if within else tuple(not_in_editor(here))
    return Listing(here.context.platform.name, by, within, editor, tuple(bindings), gone, here.context.about, missing)


def _rows(rows: Iterable[DecisionRow], here: EffectiveKeymap, within: States | None) -> Iterable[_Placed]:
    for row in rows:
        states = row.states if within is None else here.space.both(row.states, within)
        if states != NEVER:
            yield row, states


def _listed(
    row: DecisionRow,
    states: States,
    group: str,
    here: EffectiveKeymap,
    replaced: dict[tuple[str, str], list[GoneBinding]],
) -> ListedBinding:
    binding, outcome = row.binding, row.binding.outcome
    keys = write(binding.trigger)
    is_alone = len(here.tables[binding.trigger].rows) == 1
    also = replaced.get((write(binding.keys), binding.layer.name), ())
    asked = here.as_asked(binding)
    return ListedBinding(
        keys, here.context.platform.show(asked), here.presses(asked), str(outcome), here.title(outcome),
        kind_of(outcome), here.when(row, states), is_alone, binding.layer.name, binding.layer.kind == "defaults",
        binding.why, binding.place, group, tuple(one for one in also if one.does == str(outcome)),
    )  # fmt: skip


def _grouping(by: str, here: EffectiveKeymap) -> Callable[[Binding], str]:
    if by == "layer":
        return lambda binding: binding.layer.name
    if by == "key":
        return lambda binding: _kind_of_key(binding.trigger)

    def work(binding: Binding) -> str:
        outcome = binding.outcome
        if isinstance(outcome, Do):
            return here.catalogue.domains.get(outcome.domain, outcome.domain)
        return {Play: "Macros", Insert: "Snippets", Only: "Commands that only one editor has"}.get(
            type(outcome), "Keys taken away"
        )

    return work


def _group_order(groups: dict[str, list[_Placed]], by: str, here: EffectiveKeymap) -> list[str]:
    if by != "work":
        return list(groups)
    order = [*here.catalogue.domains.values()]
    return sorted(groups, key=lambda name: order.index(name) if name in order else len(order))


def _key_order(placed: _Placed) -> tuple[int, str, int]:
    """By length, then by key; F9 comes before F10."""
    trigger = placed[0].binding.trigger
    key = trigger[-1].key
    letters = key.rstrip("0123456789")
    number = key[len(letters) :]
    return (len(trigger), letters, int(number)) if letters and number else (len(trigger), key, 0)


def _kind_of_key(trigger: Trigger) -> str:
    if len(trigger) > 1:
        return "Sequences"
    names = write((trigger[0],)).split("+")
    return "With " + "+".join(names[:-1]) if len(names) > 1 and trigger[0].modifiers else "Keys alone"


def platform_listing(
    here: EffectiveKeymap, platforms: list[Platform], own: bool = False, differing: bool = False
) -> PlatformListing:
    """What is bound on each platform, a row for each action and condition; `differing`: only where one definition with
    Mod does not give all keys."""
    first = here.context.platform.name
    on = sorted(platforms, key=lambda one: (one.name != first, one.name))
    rows: dict[tuple[Outcome, str], dict[str, list[Trigger]]] = {}
    for platform in on:
        for binding in here.keymap.in_force(platform).bindings:
            if isinstance(binding.outcome, Nothing) or (own and binding.layer.kind == "defaults"):
                continue
            keys = rows.setdefault((binding.outcome, binding.where), {}).setdefault(platform.name, [])
            if binding.trigger not in keys:
                keys.append(binding.trigger)
    chosen = {key: found for key, found in rows.items() if not differing or _is_platform_bound(found, on)}
    listed = [
        PlatformRow(
            str(outcome), here.title(outcome), where,
            {one.name: tuple(write(keys) for keys in found.get(one.name, ())) for one in on},
            {one.name: ", ".join(map(one.show, found.get(one.name, ()))) for one in on},
        )
        for (outcome, where), found in chosen.items()
    ]  # fmt: skip
    return PlatformListing({one.name: one.title for one in on}, tuple(listed), len(rows))


def _is_platform_bound(keys: dict[str, list[Trigger]], platforms: list[Platform]) -> bool:
    """Whether the keys on the platforms are not those of one definition with Mod."""
    return bool(fold({platform.name: keys.get(platform.name, []) for platform in platforms}, platforms).exceptions)


def editor_listing(here: EffectiveKeymap, editors: Sequence[EffectiveKeymap]) -> EditorListing:
    """What a keymap binds, beside what each editor would obey with it in its file."""
    found: dict[tuple[Outcome, str], dict[str, list[str]]] = {}
    for table in here.tables.values():
        for row in table.rows:
            if not isinstance(row.binding.outcome, Nothing) and row.binding.layer.kind != "defaults":
                keys = found.setdefault((row.binding.outcome, row.binding.where), {}).setdefault("", [])
                keys.append(here.context.platform.show(row.binding.trigger))
    missing: dict[tuple[Outcome, str], dict[str, str]] = {}
    names = []
    for there in editors:
        assert there.context.editor is not None
        name = there.context.editor.name
        names.append(name)
        for table in there.tables.values():
            for row in table.rows:
                keys_there = found.get((row.binding.outcome, row.binding.where))
                if keys_there is not None and row.binding.layer.kind != "defaults":
                    keys_there.setdefault(name, []).append(there.context.platform.show(there.as_asked(row.binding)))
        if there.obeyed is not None:
            for entry in missing_entries(there.obeyed, there.tables, there.space, there.catalogue):
                said = said_of(entry, name)
                missing.setdefault((entry.source.outcome, entry.source.where), {}).setdefault(name, said)
    return EditorListing(
        tuple(names),
        tuple(
            EditorRow(
                str(outcome), here.title(outcome), where,
                {name: tuple(dict.fromkeys(keys.get(name, ()))) for name in ("", *names)}, missing.get((outcome, where), {}),
            )
            for (outcome, where), keys in found.items()
        ),
    )  # fmt: skip


def unbound_actions(here: EffectiveKeymap, own: bool = False) -> UnboundActions:
    """The actions that have no keys; in an editor those that it has a command for."""
    bound = {
        row.binding.outcome.action
        for table in here.tables.values()
        for row in table.rows
        if isinstance(row.binding.outcome, Do) and not (own and row.binding.layer.kind == "defaults")
    }
    actions = [action for action in here.catalogue.actions.values() if action.name not in bound]
    if here.context.dialect is not None:
        known = here.context.dialect.vocabulary.by_action
        actions = [action for action in actions if action.name in known]
    return UnboundActions(tuple(NamedAction(action.name, action.title) for action in actions))
