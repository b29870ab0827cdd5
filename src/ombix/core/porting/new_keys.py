"""Other keys for what could not have its own in a port, and for the target's defaults that lost theirs."""

from collections.abc import Iterator, Mapping

from msgspec.structs import replace

from ombix.core.errors import Place
from ombix.core.keymap.bindings import Binding
from ombix.core.keymap.outcomes import Nothing, Only, Outcome
from ombix.core.keys.notation import MOD, Trigger, write
from ombix.core.porting.port_in_progress import PortInProgress
from ombix.core.porting.translate_binding import translation_of
from ombix.core.porting.verdicts import PORT_LAYER, Rehomed
from ombix.core.pressing.nearest_keys import FreeKeys


def unused_keys(work: PortInProgress) -> FreeKeys:
    """Single chords that nothing has by default, that the source does not bind, that nothing was put on, that arrive as no
    other, and that are not to be avoided."""
    used = {work.canonical(trigger) for trigger in work.tables}
    used |= {place for place, _section in work.taken}
    starts = {trigger[:1] for trigger in (*work.defaults, *used)}
    return FreeKeys(
        trigger
        for trigger in work.target.bindable()
        if work.canonical(trigger) == trigger and trigger not in starts and not trigger[0].modifiers & MOD
        and not work.request.avoid(trigger)
    )  # fmt: skip


def give_lost_ones_keys(work: PortInProgress, free: FreeKeys) -> None:
    """Free keys for bindings that could not have their own, where the target has the action and no other keys for it.

    The rule: the same key with other modifiers, the fewest first; where there is none, or for what is no key with a name
    (a tap, a click), the lowest free function key with the fewest modifiers. A sequence gets another first chord, the same
    for all that begin alike, whether or not the action has other keys; failing that, one chord by the rule, for its last
    key.
    """
    leaders: dict[Trigger, Trigger] = {}
    for lost in work.lost:
        entry = work.result.entries[lost.index]
        old, outcome = entry.source.trigger, entry.source.outcome
        if isinstance(outcome, Nothing | Only):
            continue
        bound = [keys for name in lost.homes if (keys := work.assigned_keys(outcome, name)) is not None]
        if bound:
            entry = work.result.entries[lost.index] = replace(entry, elsewhere=bound[0])
        if not lost.needs_other_keys:
            continue
        for new in _candidates(old, free, leaders):
            if bound and len(new) == 1:
                break
            if not any(work.target.can_bind(new, name) for name in lost.homes):
                continue
            translation = translation_of(work, lost.row, lost.table)
            translation.moved = f"on {write(new)}, as {entry.how}"
            made, bindings = translation.run(new)
            if made.verdict != "lost":
                work.result.entries[lost.index] = made
                work.write(bindings)
                if len(new) == len(old) > 1:
                    leaders[old[:1]] = new[:1]
                free.remove(new[:1])
                break


def _candidates(old: Trigger, free: FreeKeys, leaders: Mapping[Trigger, Trigger]) -> Iterator[Trigger]:
    """Keys to be tried in place of `old`, the nearest first."""
    if len(old) > 1:
        known = leaders.get(old[:1])
        starts = [known] if known is not None else free.on_the_same_key(old[:1])
        yield from ((*start, *old[1:]) for start in starts)
    yield from free.on_the_same_key(old)
    yield from free.function_keys(old)


def give_defaults_keys(work: PortInProgress, free: FreeKeys) -> None:
    """Free keys for the target's defaults that lost theirs: the nearest by `FreeKeys.by_nearness`."""
    target = work.target
    lost: dict[tuple[Outcome, Trigger], list[str]] = {}
    for entry in work.result.entries:
        for section, outcome in entry.displaced:
            if not isinstance(outcome, Nothing) and work.assigned_keys(outcome, section) is None:
                place = work.canonical(entry.trigger or entry.source.trigger)
                lost.setdefault((outcome, place), []).append(section)
        for keys, section, outcome in entry.cleared:
            if work.assigned_keys(outcome, section) is None:
                lost.setdefault((outcome, keys), []).append(section)
    homed: set[tuple[Outcome, str]] = set()
    for (outcome, old), found in lost.items():
        sections = [section for section in found if (outcome, section) not in homed]
        if not sections:
            continue
        nearest = (one for one in free.by_nearness(old) if all(target.can_bind(one, section) for section in sections))
        new = next(nearest, None)
        if new is None:
            continue
        free.remove(new)
        homed.update((outcome, section) for section in sections)
        rows = work.default_rows(old, work.nodes[sections[0]])
        written = next((row.written for row, _part in rows if row.outcome == outcome), "")
        work.result.rehomed.append(Rehomed(outcome, old, new, tuple(sections)))
        work.result.layer.bindings.append(
            Binding(new, outcome, Place("port"), PORT_LAYER, target.where(sections), written=written)
        )
