"""How it is laid out what keys save, what would be better, and what strains: `savings`, `suggest`, `use --strain`."""

from collections.abc import Sequence

from ombix.report.blocks import Blank, Block, Cell, Grid, line
from ombix.report.terminal_text import Display
from ombix.work.usage.savings_answer import ActionSavings, Range, SavingsReport

MOST = 15
_HEAD = ("action", "a day", "now", "keys", "saved", "could be", "deserves keys?")
_MINUTE, _HOUR = 60.0, 3600.0


def savings_report(found: SavingsReport, display: Display, everything: bool) -> list[Block]:
    """What keys save, by action."""
    if not found.actions:
        return [
            line("Nothing was used that is known of."),
            line("Say it by hand, like: ombix use savings line.copy-down 100/day; or count it: ombix use watch -- nano FILE"),
        ]  # fmt: skip
    rows = [_row(action) for action in found.actions]
    shown = rows if everything else rows[:MOST]
    blocks: list[Block] = [Grid(shown, _HEAD)]
    if len(rows) > len(shown):
        blocks.append(line(Cell(f"and {len(rows) - len(shown)} more: --all", "quiet"), indent=2))
    blocks += [Blank(), *_sums(found)]
    said = (
        f"By the Keystroke-Level Model (Card, Moran, Newell 1980), for a typist with {found.skill} skill; ranges from the next "
        "quicker hands without a thought to the next slower ones with one thought more. Assumed: "
    )
    blocks.append(line(f"{said}{'; '.join(found.assumed)}."))
    return blocks


def _row(one: ActionSavings) -> tuple[Cell | str, ...]:
    return (
        one.action, f"{one.a_day:,.0f}" if one.a_day >= 10 else f"{one.a_day:.1f}",
        f"{one.now.usual:.1f} s", f"{one.by_keys.usual:.1f} s",
        time_range(one.saved) if one.saved.usual > 0 else "", time_range(one.could) if one.could.usual > 0 else "", one.deserves,
    )  # fmt: skip


def _sums(found: SavingsReport) -> list[Block]:
    rows: list[Sequence[Cell | str]] = []
    for name, total in (("saved by keys", found.saved), ("could be saved", found.could)):
        if total.usual > 0:
            week, year = 5, found.working_days
            rows.append((
                name, f"{time_range(total)} a day", f"{time_range(_by(total, week))} a week",
                f"{time_range(_by(total, year))} a year"
            ))  # fmt: skip
    skills = ", ".join(f"{skill} {short_time(saved + could)}" for skill, (saved, could) in found.by_skill.items())
    return [Grid(rows), line(f"Both a day, by skill: {skills}.")] if rows else []


def _by(one: Range, times: float) -> Range:
    return Range(*(value * times for value in one))


def time_range(one: Range) -> str:
    """A range in the unit that suits it."""
    top = max(abs(one.usual), abs(one.most))
    unit, name = (_HOUR, "h") if top >= 2 * _HOUR else (_MINUTE, "min") if top >= 2 * _MINUTE else (1.0, "s")
    low, high = one.least / unit, one.most / unit
    digits = 0 if max(abs(low), abs(high)) >= 10 else 1
    return f"{low:.{digits}f}–{high:.{digits}f} {name}"


def short_time(seconds: float) -> str:
    """Seconds, or from a minute on minutes."""
    return f"{seconds / _MINUTE:.1f} min" if abs(seconds) >= _MINUTE else f"{seconds:.0f} s"
