"""Conditions at the end of the lines of a sample: behind a word for them, named, or in brackets."""

import re
from collections.abc import Sequence
from typing import NamedTuple

_PLAIN = re.compile(r"\s(?P<word>when|if|while|unless)\s+(?P<where>[^\s=:].*)$")
_BRACKETS = re.compile(r"(?<![=:,(])\s(?P<word>\[)(?P<where>[^\[\]]*[a-z][^\[\]]*)\]$")
_NAMED = re.compile(
    r"""(?P<lead>[\s,;:({\[]*[\s,;:({\[])
    (?P<word>when|where|if|while|unless|only|in|context|condition|scope)
    (?P<sign>\s*(?:=>|[:=])\s*|(?<=:\w\w)\s+|(?<=:\w{4})\s+|(?<=:\w{5})\s+|(?<=:\w{6})\s+)
    (?P<quote>["'`]|)(?P<where>[^"'`\s][^"'`]*?)(?P=quote)
    (?P<after>[\s)}\];,]*)$""",
    re.VERBOSE,
)
"""A name, a sign, and a value, with the brackets that are their own."""
_OPENING, _CLOSING = "({[", ")}]"
_ENDS = " ,;"
_LONGEST = 1000
"""Characters of a line that a condition is looked for in."""


class PartedLine(NamedTuple):
    """What a line says beside its condition (`rest`), what that stands in (`clause`, a pattern; empty where there is none), what
    stands behind it (`after`), and the condition."""

    rest: str
    clause: str = ""
    after: str = ""
    where: str = ""

    @property
    def negates(self) -> bool:
        """Whether it holds where the condition does not."""
        return re.search(r"\bunless\b", self.clause) is not None


def parted(text: str) -> PartedLine:
    """A line in its parts."""
    if len(text) > _LONGEST:
        return PartedLine(text)
    if match := _PLAIN.search(text):
        return PartedLine(text[: match.start()], f" {match['word']} {{where}}", "", match["where"])
    if match := _BRACKETS.search(text):
        return PartedLine(text[: match.start()], " [{where}]", "", match["where"])
    match = _NAMED.search(text)
    before = text[: match.start()].rstrip() if match is not None else ""
    if match is None or not before:
        return PartedLine(text)
    where, behind = _closed(match["where"], match["after"])
    own, after = _own_brackets(match["lead"], behind)
    clause = f"{match['lead']}{match['word']}{match['sign']}{match['quote']}{{where}}{match['quote']}{own}"
    return PartedLine(text[: match.start()] + after, clause, after, where)


def with_condition(pattern: str, line: PartedLine) -> str:
    """The pattern of lines with such a condition, from that of the same without; empty where it cannot stand there."""
    if not line.after:
        return pattern + line.clause
    stem, core = pattern.rstrip(_ENDS), line.after.rstrip(_ENDS)
    return f"{stem.removesuffix(core)}{line.clause}{core}{pattern[len(stem) :]}" if stem.endswith(core) else ""


def without_condition(pattern: str) -> str:
    """The pattern of the same lines without their condition."""
    return parted(pattern.replace("{where}", "there")).rest


def _closed(where: str, after: str) -> tuple[str, str]:
    """A condition with the brackets that are its own, and what stands behind it."""
    while (
        after[:1] and after[0] in _CLOSING and where.count(_OPENING[_CLOSING.index(after[0])]) > where.count(after[0])
    ):
        where, after = where + after[0], after[1:]
    return where, after


def _own_brackets(lead: str, after: str) -> tuple[str, str]:
    """What stands behind a condition in two: with the brackets that were opened before it, and the rest."""
    wanted = [_CLOSING[_OPENING.index(sign)] for sign in reversed(lead) if sign in _OPENING]
    at = 0
    for sign in wanted:
        found = after.find(sign, at)
        if found < 0:
            return "", after
        at = found + 1
    return after[:at], after[at:]


def by_condition(texts: Sequence[str]) -> list[list[tuple[int, PartedLine]]]:
    """The lines, each with its number, by what their conditions stand in, the most of them first."""
    found: dict[tuple[str, str], list[tuple[int, PartedLine]]] = {}
    for at, text in enumerate(texts):
        line = parted(text)
        found.setdefault((line.clause, line.after.rstrip(_ENDS)), []).append((at, line))
    return sorted(found.values(), key=len, reverse=True)
