"""What keys save, and could save, by the Keystroke-Level Model: in ranges, as nobody's hands are the model's."""

import re
from collections import Counter, defaultdict
from collections.abc import Mapping, Sequence
from typing import NamedTuple

from msgspec.structs import replace

from ombix.core.errors import InputError, did_you_mean
from ombix.core.keys.notation import Trigger
from ombix.core.usage.counts import BYS, By, UseCounts
from ombix.core.usage.keystroke_model import KeystrokeModel, Method, Methods
from ombix.work.usage.savings_answer import ActionSavings, Range, SavingsReport
from ombix.work.usage.use import UseMeaning

_A_DAY = {"hour": 8.0, "day": 1.0, "week": 0.2}
"""Working hours of a day, and days of a week."""
WORKING_DAYS = 220


class SavingsOptions(NamedTuple):
    """What is reckoned: estimates given by hand, as actions to times a day; how these are started now; the typist's skill; working
    days a year; and how many levels a menu has (0: as the model assumes)."""

    by_hand: Mapping[str, float] = {}
    by: By = "menu"
    skill: str = "average"
    working_days: int = WORKING_DAYS
    depth: int = 0
    pointing: tuple[float, float] | None = None
    """How far the mouse has to go, and how large its target is, in the same unit; None: the mean."""


class ActionUse(NamedTuple):
    """An action with how often a day it is started in each way, and its keys, where it has some."""

    action: str
    by: Mapping[By, float]
    keys: str
    trigger: Trigger


def estimates(words: Sequence[str], meaning: UseMeaning) -> dict[str, float]:
    """Actions to times a day, of words like `line.copy-down 100/day`. Raises InputError."""
    found: dict[str, float] = {}
    for name, rate in zip(words[::2], words[1::2], strict=False):
        match = re.fullmatch(r"(\d{1,7}(?:\.\d+)?)(?:/(hour|day|week))?", rate)
        if match is None:
            raise InputError(f"{rate} is not how often", "Write it like 100/day, 12/hour or 3/week.")
        if not meaning.is_known(name):
            advice = did_you_mean(name, meaning.names()) or "Find it with: ombix how WORDS"
            raise InputError(f"unknown action: {name}", advice)
        found[name] = found.get(name, 0.0) + float(match[1]) * _A_DAY[match[2] or "day"]
    if len(words) % 2:
        raise InputError(f"how often is {words[-1]}?", "Write it like: ombix use savings line.copy-down 100/day")
    return found


def uses(counts: UseCounts, meaning: UseMeaning) -> list[ActionUse]:
    """What was used, a day on which anything was: each action that is known."""
    days = len({one.day for one in counts.used}) or 1
    by: dict[str, Counter[By]] = defaultdict(Counter)
    editors: dict[str, Counter[str]] = defaultdict(Counter)
    for one, times in counts.used.items():
        what = meaning.what(one)
        if meaning.is_known(what) and one.by in BYS:
            by[what][one.by] += times
            editors[what][one.editor] += times
    found = []
    for action, ways in by.items():
        editor = editors[action].most_common(1)[0][0]
        keys, trigger = meaning.first_keys(editor, action)
        found.append(ActionUse(action, {way: times / days for way, times in ways.items()}, keys, trigger))
    return found


def savings(used: Sequence[ActionUse], options: SavingsOptions, model: KeystrokeModel) -> SavingsReport:
    """What keys save, the most first. Raises InputError for a skill that there is not."""
    if options.pointing is not None:
        model = replace(model, point=model.pointing(*options.pointing))
    methods = Methods(model, options.skill, options.depth)
    rows = sorted(
        (_of_action(one, methods, options, model) for one in used),
        key=lambda one: (-(one.could.usual + one.saved.usual), one.action),
    )
    by_skill = {}
    for skill in model.skill:
        others = [_of_action(one, Methods(model, skill, options.depth), options, model) for one in used]
        by_skill[skill] = (
            round(sum(other.saved.usual for other in others), 1), round(sum(other.could.usual for other in others), 1)
        )  # fmt: skip
    return SavingsReport(
        options.skill, options.working_days, tuple(rows), _summed([row.saved for row in rows]),
        _summed([row.could for row in rows]), by_skill,
        (
            f"pointing takes {model.point:.2f} s",
            f"a menu has {options.depth or model.menu_depth} levels",
            f"a command is found by {model.name_letters} letters of its name",
            f"what is not told is started by {options.by}" if options.by_hand else "what keys do now would be done by menu",
            f"keys are looked up {model.look_ups[0]} to {model.look_ups[1]} times while they are learnt, {model.look_up:g} s each",
        ),
    )  # fmt: skip


def _of_action(one: ActionUse, methods: Methods, options: SavingsOptions, model: KeystrokeModel) -> ActionSavings:
    by_keys = methods.keys(one.trigger) if one.trigger else methods.by("keys")
    ways: dict[By, Method] = {way: by_keys if way == "keys" else methods.by(way) for way in one.by}
    a_day = sum(one.by.values())
    parts = [(method, one.by[way] / a_day) for way, method in ways.items()] if a_day else []
    now = _summed([_times(Range(*method[1:]), share) for method, share in parts])
    saved = _times(_less(methods.by("menu"), by_keys), one.by.get("keys", 0.0))
    could = _summed([_times(_less(method, by_keys), one.by[way]) for way, method in ways.items() if way != "keys"])
    learning = Range(
        *(model.look_up * times for times in (model.look_ups[0], sum(model.look_ups) / 2, model.look_ups[1]))
    )
    pays = None
    if could.usual > 0:
        worst = learning.most / could.least if could.least > 0 else float("inf")
        pays = Range(
            round(learning.least / could.most, 1), round(learning.usual / could.usual, 1), round(min(worst, 9999.0), 1)
        )
    return ActionSavings(
        one.action, round(a_day, 2), one.keys, bool(one.trigger), {way: round(times, 2) for way, times in one.by.items()}, now,
        Range(*(round(value, 3) for value in by_keys[1:])), saved, could, _deserves(one, pays, options.working_days), pays,
    )  # fmt: skip


def _deserves(one: ActionUse, pays: Range | None, working_days: int) -> str:
    """Whether an action deserves keys, in a word or two."""
    if pays is None:
        return "has them" if one.trigger else "no: not quicker"
    if pays.most <= working_days:
        return "use them" if one.trigger else f"yes, in {_days(pays.usual)}"
    if pays.usual <= working_days:
        return "use them, perhaps" if one.trigger else f"perhaps, in {_days(pays.usual)}"
    return "no: too seldom"


def _days(number: float) -> str:
    days = max(1, round(number))
    return f"{days} day{'s' * (days != 1)}"


def _less(other: Method, keys: Method) -> Range:
    """What keys are quicker: with quick hands, as usual, with slow ones, in order."""
    found = sorted((other.least - keys.least, other.usual - keys.usual, other.most - keys.most))
    return Range(found[0], other.usual - keys.usual, found[2])


def _times(one: Range, number: float) -> Range:
    return Range(*(round(value * number, 3) for value in one))


def _summed(ranges: Sequence[Range]) -> Range:
    return Range(*(round(sum(values), 3) for values in zip(*ranges, strict=True))) if ranges else Range(0.0, 0.0, 0.0)
