"""What the keys that are used load on fingers, hands, rows and modifiers, on the keyboard at hand."""

from collections import Counter
from contextlib import suppress

from ombix.core.errors import NotationError
from ombix.core.keys.notation import Trigger, parse, write
from ombix.core.pressing.effort import effortful
from ombix.core.usage.counts import UseCounts
from ombix.core.usage.strain import Strain, strain
from ombix.work.usage.strain_answer import FingerLoad, StrainReport
from ombix.workspace.context import Context, setup_at_hand
from ombix.workspace.resources import Resources


def strain_of(counts: UseCounts, here: Context, resources: Resources, keyboard: str = "") -> StrainReport:
    """The strain a day on which anything was used."""
    setup = setup_at_hand(here, resources, keyboard)
    days = len({one.day for one in counts.used}) or 1
    used: Counter[Trigger] = Counter()
    unread = 0
    for one, times in counts.used.items():
        if one.keys and one.by == "keys":
            try:
                used[here.platform.resolve(parse(one.keys))] += times
            except NotationError:
                unread += times
    found = strain(used.items(), effortful(resources.shipped.effort(), setup), setup.keyboard)
    return StrainReport(
        days, round(found.total_presses / days, 1), round(found.total_seconds / days, 1), _loads(found, "finger"),
        _loads(found, "hand"), _loads(found, "row"), _loads(found, "modifier"),
        round(found.same_finger / (found.total_presses or 1), 4),
        round(found.held_by_the_same_hand / (found.total_presses or 1), 4), found.unknown + unread,
    )  # fmt: skip


def keys_of(counts: UseCounts, editor: str = "") -> dict[str, int]:
    """How often keys were used, in an editor or in all, by the keys in the portable notation."""
    found: Counter[str] = Counter()
    for one, times in counts.used.items():
        if one.keys and one.by == "keys" and editor in ("", one.editor):
            with suppress(NotationError):
                found[write(parse(one.keys))] += times
    return dict(found)


def _loads(found: Strain, kind: str) -> tuple[FingerLoad, ...]:
    presses, seconds = found.presses[kind], found.seconds[kind]
    return tuple(
        FingerLoad(
            name,
            round(presses[name] / (found.total_presses or 1), 4),
            round(seconds[name] / (found.total_seconds or 1), 4),
        )
        for name in sorted(seconds, key=lambda name: (-seconds[name], name))
    )
