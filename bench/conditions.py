"""Overlap and cover of random pairs of conditions, beside an SMT solver: the same answers, and how much faster.

Usage: python bench/conditions.py [PAIRS]. Needs the package z3-solver, which only this benchmark uses.
"""

import platform
import random
import sys
import time
from pathlib import Path
from typing import Any

sys.path.insert(0, str(Path(__file__).parent))
from inputs import FACTS, FLAGS, condition

from ombix.core.conditions import Fact, Facts, Space

NEVER = ("popup is suggestions and pane is not text", "recording and pane is search")


def facts() -> Facts:
    """The facts of the benchmark's conditions; a language may be another one as well."""
    named = [Fact(name, tuple(values), is_open=name == "language") for name, values in FACTS.items()]
    return Facts((*named, *(Fact(flag, ("no", "yes")) for flag in FLAGS)), NEVER)


class Solver:
    """The same language for the solver: each fact is a number within its domain."""

    def __init__(self) -> None:
        import z3

        self.z3 = z3
        self.solver = z3.Solver()
        self.variables = {fact.name: z3.Int(fact.name) for fact in facts().facts}
        self.values = {fact.name: {value: index for index, value in enumerate(fact.values)} for fact in facts().facts}
        for fact in facts().facts:
            variable = self.variables[fact.name]
            self.solver.add(variable >= 0, variable < len(fact.values) + (1 if fact.is_open else 0))
        for text in NEVER:
            self.solver.add(z3.Not(self.formula(text)))

    def formula(self, text: str) -> Any:
        """The condition as a formula. It is read anew, by the grammar of the benchmark's own conditions."""
        if text.startswith("("):
            inner, rest = text[1:].split(") and ", 1)
            return self.z3.And(self.z3.Or(*(self.formula(part) for part in inner.split(" or "))), self.formula(rest))
        parts = text.split(" and ")
        if len(parts) > 1:
            return self.z3.And(*(self.formula(part) for part in parts))
        words = text.replace("(", " ").replace(")", " ").replace(",", " ").split()
        if words[0] == "not":
            return self.variables[words[1]] == 0
        if len(words) == 1:
            return self.variables[words[0]] == 1
        name, values = words[0], [word for word in words[1:] if word not in ("is", "not", "in")]
        one = self.z3.Or(*(self.variables[name] == self.values[name][value] for value in values))
        return self.z3.Not(one) if "not" in words else one

    def possible(self, formula: Any) -> bool:
        """Whether a possible state fulfils the formula."""
        self.solver.push()
        self.solver.add(formula)
        answer = self.solver.check() == self.z3.sat
        self.solver.pop()
        return bool(answer)


def main() -> int:
    """Compare and print; status 1 when an answer differs."""
    count = int(sys.argv[1]) if len(sys.argv) > 1 else 10_000
    chance = random.Random(11)
    pairs = [(condition(chance), condition(chance)) for _ in range(count)]
    space = Space(facts())
    start = time.perf_counter()
    nodes = [(space.parse(one), space.parse(other)) for one, other in pairs]
    reading = time.perf_counter() - start
    start = time.perf_counter()
    mine = [(space.overlap(a, b), space.covers(a, b)) for a, b in nodes]
    ours = time.perf_counter() - start
    solver = Solver()
    theirs = building = 0.0
    differing = 0
    for (one, other), (overlaps, covers) in zip(pairs, mine, strict=True):
        start = time.perf_counter()
        a, b = solver.formula(one), solver.formula(other)
        negated, both = solver.z3.And(b, solver.z3.Not(a)), solver.z3.And(a, b)
        building += time.perf_counter() - start
        start = time.perf_counter()
        answers = (solver.possible(both), not solver.possible(negated))
        theirs += time.perf_counter() - start
        differing += answers != (overlaps, covers)
    overlapping = sum(1 for overlaps, _ in mine if overlaps)
    covering = sum(1 for _, covers in mine if covers)
    print(f"{platform.machine()}, Python {platform.python_version()}, {count} pairs of conditions of two to four facts")
    print(f"{overlapping} overlap, {covering} cover; {differing} answers differ from the solver's (aim: 0)")
    print(f"answers: ours {ours:.3f} s, the solver {theirs:.2f} s, ratio {theirs / ours:.0f} (aim: 50)")
    print(f"before that: reading the conditions {reading:.2f} s, building the solver's formulas {building:.2f} s")
    return 1 if differing else 0


if __name__ == "__main__":
    sys.exit(main())
