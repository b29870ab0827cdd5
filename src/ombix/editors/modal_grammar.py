"""Commands of modal editors that are made of an operator, a count and a movement: known without a row for each."""

import re
from functools import cached_property

import msgspec

from ombix.editors.description import CommandRow

MOST_TIMES = 99
"""A count that is looked into."""


class Movement(msgspec.Struct, forbid_unknown_fields=True, rename="kebab", frozen=True):
    """A movement behind an operator: which part of it is operated on (see `ombix.text.effects.operators.KINDS`), its program, how a
    count repeats it (`most`: as often as it can be; `all`: as often or not at all; empty: it takes none), and a test for states
    in which it is not sure."""

    kind: str
    effect: str
    counts: str = ""
    unsure: str = ""
    unsure_counted: str = ""
    """The same where it has a count."""


class GrammarSyntax(msgspec.Struct, forbid_unknown_fields=True, rename="kebab"):
    """A section in which commands are an operator and a movement, with a count before either. `operators` has what each does
    (see `ombix.text.effects.operators.OPERATORS`)."""

    sources: list[str]
    section: str
    operators: dict[str, str]
    movements: dict[str, Movement]
    unsure: dict[str, str] = {}
    """Operators, or operators with movements, to tests for states in which they are not sure."""
    without: list[str] = []
    """Operators with movements of which nothing is known, whatever their count."""


class Grammar:
    """Finds the commands that are made so."""

    def __init__(self, syntax: GrammarSyntax) -> None:
        self.syntax = syntax
        self._known: dict[str, CommandRow | None] = {}

    @cached_property
    def shape(self) -> re.Pattern[str]:
        """What such a command looks like."""
        operators = "|".join(map(re.escape, sorted(self.syntax.operators, key=len, reverse=True)))
        movements = "|".join(map(re.escape, sorted(self.syntax.movements, key=len, reverse=True)))
        return re.compile(
            rf"(?P<before>[1-9][0-9]?)?(?P<operator>{operators})(?P<behind>[1-9][0-9]?)?(?P<movement>{movements})"
        )

    def row_of(self, command: str) -> CommandRow | None:
        """The row of a command that is an operator and a movement; None for another one."""
        match = self.shape.fullmatch(command)
        if match is not None and command not in self._known:
            self._known[command] = self._row(match)
        return self._known[command] if match is not None else None

    def _row(self, match: re.Match[str]) -> CommandRow | None:
        syntax = self.syntax
        movement, operator = syntax.movements[match["movement"]], syntax.operators[match["operator"]]
        both = f"{match['operator']}{match['movement']}"
        if both in syntax.without:
            return None
        times = int(match["before"] or 1) * int(match["behind"] or 1)
        program = movement.effect
        if times > 1:
            if not movement.counts or times > MOST_TIMES:
                return None
            program = f"{'together' if movement.counts == 'all' else 'times'} {times} {{ {program} }}"
        counted = movement.unsure_counted if times > 1 else ""
        own = (syntax.unsure.get(one, "") for one in (match["operator"], both, f"{both} counted" if times > 1 else ""))
        tests = dict.fromkeys(filter(None, (movement.unsure, counted, *own)))
        return CommandRow(
            only=f"{operator} over what a movement goes over", sections=(syntax.section,), reaches="text", read=True,
            effect=f"over {movement.kind} {operator} {{ {program} }}", unsure=" or ".join(tests),
        )  # fmt: skip
