"""Plans to settle: written as a file, reviewed by hand, and carried out."""

import re
from collections.abc import Iterator, Sequence
from typing import Any, NamedTuple

import tomli
import tomlkit

from ombix.core.audit import Finding
from ombix.core.audit.fix_costs import CostedFix
from ombix.core.errors import InputError, Place
from ombix.core.keymap.changes import in_words
from ombix.work.mend.fixes import FixSearch, TriedFix
from ombix.work.mend.settle_answer import SettleReport
from ombix.workspace import findings

FORMAT = 1
_HEAD = """\
# A plan to settle {file}. For each finding `take` is the number of the way that is taken, from 1; 0 leaves it as it is.
# Carry it out with: ombix settle --plan {plan}
format = {format}
"""
_COST = re.compile(r" {2}\(cost [^()]*\)$")


class PlannedFinding(NamedTuple):
    """What a plan says of a finding: its rule and message, and the way that is taken, in words (empty: none)."""

    rule: str
    message: str
    way: str
    line: int


def plan_text(found: SettleReport, file: str, plan: str) -> str:
    """A plan with all findings, their ways, and the one that is taken."""
    lines = [_HEAD.format(file=file, plan=plan, format=FORMAT)]
    for finding in found.findings:
        lines += [
            "[[finding]]", f"rule = {_quoted(finding.finding.rule)}", f"message = {_quoted(finding.finding.message)}",
            f"take = {finding.taken}",
        ]  # fmt: skip
        ways = [f"  {_quoted(f'{_said(way.does)}  (cost {way.cost:.2f})')}," for way in finding.ways]
        lines += ["ways = [", *ways, "]", ""] if ways else ["ways = []", ""]
    return "\n".join(lines)


def read_plan(text: str, file: str) -> list[PlannedFinding]:
    """What a plan says. Raises InputError with the place of the first fault."""
    try:
        table = tomli.loads(text)
    except tomli.TOMLDecodeError as error:
        raise InputError(f"the plan is no TOML: {error}", "Mend it, or draft it anew.", Place(file)) from None
    if table.get("format") != FORMAT:
        raise InputError("this is no plan to settle", "Draft one with: ombix settle --draft FILE", Place(file))
    return list(_findings(table.get("finding", []), text, file))


def _findings(rows: Any, text: str, file: str) -> Iterator[PlannedFinding]:
    places = [number for number, line in enumerate(text.split("\n"), 1) if line.strip() == "[[finding]]"]
    if not isinstance(rows, list) or not all(isinstance(row, dict) for row in rows):
        raise InputError("the findings of a plan are tables", "Write each under [[finding]].", Place(file))
    for index, row in enumerate(rows):
        line = places[index] if index < len(places) else 1
        take, ways = row.get("take", 0), row.get("ways", [])
        is_row = isinstance(row.get("rule"), str) and isinstance(row.get("message"), str) and isinstance(ways, list)
        if not is_row or not isinstance(take, int) or isinstance(take, bool) or not 0 <= take <= len(ways):
            raise InputError(
                "take is the number of one of the ways, or 0" if is_row else "a finding has a rule, a message and ways",
                "Mend it, or draft the plan anew.", Place(file, line, 1),
            )  # fmt: skip
        way = _COST.sub("", str(ways[take - 1])) if take else ""
        yield PlannedFinding(row["rule"], row["message"], way, line)


class Planned:
    """Takes the ways that a plan says. `missing` has what it says and what is no longer there."""

    def __init__(self, plan: Sequence[PlannedFinding], file: str) -> None:
        self._plan = {(one.rule, one.message): one for one in plan}
        self._file = file

    def choose(self, finding: Finding, ways: list[TriedFix], here: FixSearch) -> int:
        """The number of the way that is taken. Raises InputError where the plan names one that there is not."""
        message = findings.in_words(finding, here.subject).message
        planned = self._plan.pop((finding.rule, message), None)
        if planned is None or not planned.way:
            return 0
        for number, one in enumerate(ways, 1):
            if _words(one.way) == planned.way:
                return number
        raise InputError(
            f"there is no such way out of “{message}” any more: {planned.way}",
            "The keymap or the plan was changed. Draft it anew with: ombix settle --draft FILE", Place(self._file, planned.line, 1),
        )  # fmt: skip

    def left(self) -> list[PlannedFinding]:
        """What the plan wanted settled and was not found."""
        return [one for one in self._plan.values() if one.way]


def _words(way: CostedFix) -> str:
    return _said(tuple(map(in_words, way.changes)))


def _said(does: Sequence[str]) -> str:
    return "; ".join(does)


def _quoted(text: str) -> str:
    return str(tomlkit.item(text).as_string())
