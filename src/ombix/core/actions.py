"""The catalogue: what an editor can be asked to do, named independently of any editor."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from typing import Any, Literal

Risk = Literal["none", "leaves", "loses work"]


@dataclass(frozen=True, slots=True)
class Action:
    """Something an editor can do. `name` is `domain.verb`; `needs` is the condition under which it makes sense.

    A binding whose own condition says nothing about the facts in `needs` has `needs` added to it.
    """

    name: str
    title: str
    does: str
    words: tuple[str, ...] = ()
    needs: str = "always"
    risk: Risk = "none"
    inverse: str | None = None
    toggles: bool = False
    arguments: tuple[str, ...] = ()

    @property
    def domain(self) -> str:
        """The kind of work, the part of the name before the point."""
        return self.name.partition(".")[0]


@dataclass(frozen=True, slots=True)
class Catalogue:
    """All actions by name, and the titles of the domains in their order."""

    actions: dict[str, Action]
    domains: dict[str, str]

    def title(self, name: str) -> str:
        """The action's title; an unknown name is its own title."""
        action = self.actions.get(name)
        return action.title if action else name


def catalogue(tables: Iterable[tuple[str, Mapping[str, Any]]]) -> Catalogue:
    """A catalogue from pairs of a domain's name and its table: `title` and one table for each action.

    Raises ValueError when an inverse is missing or a key is unknown.
    """
    actions: dict[str, Action] = {}
    domains: dict[str, str] = {}
    for domain, table in tables:
        for name, value in table.items():
            if name == "title":
                domains[domain] = value
                continue
            fields = dict(value)
            for key in ("words", "arguments"):
                fields[key] = tuple(fields.get(key, ()))
            actions[f"{domain}.{name}"] = Action(name=f"{domain}.{name}", **fields)
    for action in actions.values():
        if action.inverse and action.inverse not in actions:
            raise ValueError(f"{action.name} has an unknown inverse: {action.inverse}")
    return Catalogue(actions, domains)


def search(entries: Iterable[tuple[str, str, str, Iterable[str]]], wanted: str, most: int = 12) -> list[tuple[float, str]]:
    """The actions that `wanted` describes, the best first, each with its score (0 to 100).

    `entries` are name, title, sentence and everyday words of each action. A word of `wanted` counts where it is a word
    of the entry, the beginning of one, or spelt nearly like one; the initials of a title count too.
    """
    words = _words(wanted)
    if not words:
        return []
    from rapidfuzz import fuzz

    joined = "".join(words)
    scored: list[tuple[float, str]] = []
    for name, title, sentence, everyday in entries:
        name_words = _words(name.replace(".", " ").replace("-", " "))
        title_words = _words(title)
        phrases = [_words(phrase) for phrase in everyday]
        strong = {*name_words, *title_words, *(word for phrase in phrases for word in phrase)}
        weak = set(_words(sentence))
        total = 0.0
        for word in words:
            best = 0.0
            for candidate in strong:
                if candidate == word:
                    best = 100.0
                    break
                if len(word) >= 2 and candidate.startswith(word):
                    best = max(best, 85.0)
                elif len(word) >= 4 and len(candidate) >= 4:
                    ratio = fuzz.ratio(word, candidate, score_cutoff=70)
                    best = max(best, ratio * 0.8)
            if best < 60 and word in weak:
                best = 60.0
            total += best if best else -45.0
        score = total / len(words)
        if any(phrase == words for phrase in phrases) or title_words == words or name_words == words:
            score += 20
        # What is wanted names a small part of a long title: a shorter one is nearer.
        score -= 0.6 * len(title_words)
        if len(words) == 1 and 2 <= len(joined) <= 5:
            initials = {"".join(word[0] for word in part) for part in (name_words[1:], title_words, *phrases) if part}
            if joined in initials:
                score = max(score, 80.0)
        if score >= 38:
            scored.append((round(min(100.0, score), 1), name))
    scored.sort(key=lambda pair: (-pair[0], pair[1]))
    if scored:
        scored = [pair for pair in scored if pair[0] >= scored[0][0] * 0.72]
    return scored[:most]


_FILLERS = frozenset({"a", "an", "the", "to", "do", "i", "how", "of", "my", "this", "that", "it", "in", "is", "for"})


def _words(text: str) -> list[str]:
    words = "".join(char.lower() if char.isalnum() else " " for char in text).split()
    return [word for word in words if word not in _FILLERS] or words
