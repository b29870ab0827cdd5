"""Sets of states in words: short conditions that people read, and that are read back to the same states."""

import contextlib

from ombix.core.conditions.boxes import BoxedDiagrams
from ombix.core.conditions.diagrams import ALWAYS, Literal, States
from ombix.core.conditions.facts import Fact
from ombix.core.errors import TangledError


def alternatives(terms: list[list[Literal]], space: BoxedDiagrams) -> str:
    """Alternatives as a condition."""
    if not terms:
        return "never"
    by_name = space.facts.by_name
    pieces = [
        " and ".join(literal(by_name[name], list(values), is_so) for name, values, is_so in term) or "always"
        for term in terms
    ]
    return " or ".join(pieces)


def literal(fact: Fact, values: list[str], is_so: bool) -> str:
    """That a fact has, or has not, one of these values."""
    name = fact.name
    if not fact.is_open:
        others = [value for value in fact.values if value not in values]
        if fact.is_flag:
            return name if (values == ["yes"]) == is_so else f"not {name}"
        if len(others) < len(values) or (len(others) == 1 and not is_so):
            values, is_so = others, not is_so
    if len(values) == 1:
        return f"{name} is {values[0]}" if is_so else f"{name} is not {values[0]}"
    return f"{name} in ({', '.join(values)})" if is_so else f"{name} not in ({', '.join(values)})"


def candidates(a: States, space: BoxedDiagrams) -> list[str]:
    """Conditions that may be short ones for the possible states of `a`."""
    node = space.both(a, space.possible)
    fewest = node
    for fact in space.facts.facts:  # a fact that the others imply need not be said
        if fact.name not in space.mentioned(fewest):
            continue
        rest = space.without(fewest, [fact.name])
        if rest != fewest and space.both(rest, space.possible) == node:
            fewest = rest
    ways = [(a, space.possible), (fewest, space.possible), *([(node, ALWAYS)] if a != node else [])]
    found = [text for text in (_said(*way, space) for way in ways) if text]
    if opposite := _said(space.negate(a), space.possible, space):
        found.append(f"not {opposite}" if " " not in opposite else f"not ({opposite})")
    return found


def _said(a: States, within: States, space: BoxedDiagrams) -> str:
    """The condition for a set within another one; empty where it would be too long."""
    with contextlib.suppress(TangledError):
        return alternatives(space.terms(a, within), space)
    return ""


def exact(a: States, space: BoxedDiagrams) -> str:
    """The condition for just these states, possible or not. Raises TangledError where it would be too long."""
    return alternatives(space.terms(a, ALWAYS), space)
