"""What became of the keys of a port, in a few words; and which of them are told first."""

from collections.abc import Mapping, Sequence

from ombix.core.porting.everyday import WEIGHTS, Answer
from ombix.work.carry.port_answer import PortedBinding

_FREQUENT = 2
"""So many times as much counts what is done all day."""


def in_short(answers: Mapping[Answer, int]) -> str:
    """How many keys work, as in "48 of 54 keys work, 13 with a difference; 3 need care and 3 are gone"; without a full stop."""
    works, rest = works_of(answers), rest_of(answers)
    different = f", {answers['works but']} with a difference" if answers.get("works but") else ""
    return f"{works}{different}{f'; {rest}' if rest else ''}"


def works_of(answers: Mapping[Answer, int], editor: str = "") -> str:
    """How many of the keys work."""
    every = sum(answers.values())
    works = answers.get("works", 0) + answers.get("works but", 0)
    return f"{works} of {every} {'key works' if every == 1 else 'keys work'}{f' in {editor}' if editor else ''}"


def rest_of(answers: Mapping[Answer, int]) -> str:
    """How many need care, and how many are gone; empty where none are."""
    careful, gone = answers.get("careful", 0), answers.get("gone", 0)
    said = [f"{careful} need{'s' if careful == 1 else ''} care"] if careful else []
    said += [f"{gone} {'is' if gone == 1 else 'are'} gone"] if gone else []
    return " and ".join(said)


def by_weight(found: Sequence[PortedBinding]) -> list[PortedBinding]:
    """Bindings with those first whose difference bites most: how often, how badly, and how much the key is used."""

    def weight(one: PortedBinding) -> float:
        share = WEIGHTS[one.everyday.kind] * one.everyday.share if one.everyday is not None else 0.0
        return -share * (_FREQUENT if one.is_frequent else 1)

    return sorted(found, key=weight)


def in_a_hundred(one: PortedBinding) -> str:
    """In how many of a hundred everyday presses a difference shows; empty where that was not counted."""
    if one.everyday is None:
        return ""
    count = round(100 * one.everyday.share)
    return str(count) if count else "<1"


def instead(one: PortedBinding) -> list[str]:
    """Why keys are gone, what does it there or comes nearest, and what they do now."""
    said = list(one.says) if not one.how.endswith(f"has no command for {one.action}") else []
    if one.other_target_keys:
        said.append(f"It is on {one.other_target_keys} there.")
    elif one.nearest is not None and one.keys not in one.nearest.keys:
        keys = f" on {' or '.join(one.nearest.keys)}" if one.nearest.keys else ", without keys"
        said.append(f"Nearest there: {one.nearest.title}{keys}.")
    return [*said, one.now] if one.now else said
