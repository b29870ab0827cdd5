"""Finding actions by words: people forget names, not intentions."""

import re
from bisect import insort
from collections.abc import Mapping, Sequence
from functools import lru_cache
from math import log, sqrt
from typing import NamedTuple

MOST_WORDS = 24
"""Words of a question that are looked at, and"""
_MOST_CHARACTERS = 400
"""characters of it."""
_LEAST = 34
"""The score of what is an answer at all,"""
_NEAR = 0.75
"""and the part of the best score that others have to have, unless"""
_MANY = 100
"""so many are asked for."""
_BY_PHRASE, _BY_WORDS, _EXACTLY = 62, 38, 3.0
"""What the best phrase, the words that are had, and a title that is the question give to a score at the most."""
_INITIALS = 72.0
"""The score of what is asked for by its initials."""
MOST_BONUS = 2.0
"""The most that a row's bonus can be."""
FILLERS = frozenset({
    "a", "an", "the", "to", "do", "i", "how", "of", "my", "this", "that", "it", "is", "for", "on", "with", "and", "or", "not",
    "me", "can", "want", "you", "please", "be", "are", "there",
})  # fmt: skip
BESIDES = ("does", "what", "which", "one", "its", "from", "by")
"""Words that tell little, beside the fillers, and are left out where something else is there."""


class SearchRow(NamedTuple):
    """An action as it is searched for. `phrases` are the stems of its title, its name and its everyday words, each phrase
    between bars; `sentence` are those of its sentence. `bonus` is for what is used all day, and against what is risky."""

    name: str
    phrases: str
    sentence: str
    initials: str
    bonus: float
    loses_work: bool = False


class SearchIndex(NamedTuple):
    """What questions are answered from: the actions, in which of them each stem is (by their numbers from 0), and stems that
    mean nearly the same."""

    rows: Sequence[SearchRow]
    postings: Mapping[str, Sequence[int]]
    alike: Mapping[str, Sequence[str]]


def search(index: SearchIndex, wanted: str, most: int = 12, domains: Sequence[str] = ()) -> list[tuple[float, str]]:
    """The actions that `wanted` describes, the best first, each with its score (0 to 100); with `domains` only theirs.

    A word counts where it is one of the action's, another form of one, one that means nearly the same, the beginning of one,
    or spelt nearly like one; the initials of a title or of everyday words count too. Nothing that loses work is found by a
    near spelling.
    """
    stems = stems_of(wanted[:_MOST_CHARACTERS])[:MOST_WORDS]
    if not stems:
        return []
    asked = _Asked(wanted, index)
    letters = "".join(re.findall(r"[^\W_]+", wanted.lower()))
    initials = f" {letters} " if len(stems) == 1 and 2 <= len(letters) <= 5 else ""
    part = _NEAR if most < _MANY else 0.5
    at_most = asked.at_most()
    if initials:
        at_most.update((number, 100.0) for number, row in enumerate(index.rows) if initials in row[3])
    scored: list[tuple[float, str]] = []
    ranks: list[float] = []
    least = 0.0
    for number, bound in sorted(at_most.items(), key=lambda pair: -pair[1]):
        if bound + MOST_BONUS < least:
            break  # nor can any that follows be an answer
        row = SearchRow(*index.rows[number])
        if domains and row.name.partition(".")[0] not in domains:
            continue
        score = max(asked.score(row), _INITIALS if initials and initials in row.initials else 0.0)
        if score >= _LEAST:
            score += row.bonus
            scored.append((score, row.name))
            insort(ranks, score)
            least = max(_LEAST, ranks[-1] * part, ranks[-most] if len(ranks) >= most else 0.0)
    scored.sort(key=lambda pair: (-pair[0], pair[1]))
    return [(round(min(100.0, score), 1), name) for score, name in scored[:most] if score >= scored[0][0] * part]


def nearest_domains(index: SearchIndex, wanted: str, most: int = 5) -> list[str]:
    """The kinds of work in which most of the words are at home, the best first; none where no word is known."""
    asked = _Asked(wanted, index)
    sums: dict[str, float] = {}
    for number in asked.worth_a_look(0.0):
        domain = index.rows[number][0].partition(".")[0]
        sums[domain] = sums.get(domain, 0.0) + asked.score(SearchRow(*index.rows[number])) ** 2
    return sorted(sums, key=lambda name: (-sums[name], name))[:most]


class _Asked:
    """What is asked for: each word with the stems that it may mean, and how much it tells."""

    def __init__(self, wanted: str, index: SearchIndex) -> None:
        stems = stems_of(wanted[:_MOST_CHARACTERS])[:MOST_WORDS]
        short = {stem_of(word) for word in re.findall(r"[^\W_]+", wanted[:_MOST_CHARACTERS].lower()) if len(word) < 4}
        self._stems = set(stems)
        self._index = index
        self._meant = [list(_meant(stem, index, stem not in short).items()) for stem in stems]
        self._sure = [stem in index.postings or stem in index.alike for stem in stems]
        self._known: dict[str, float] = {}
        self._weights = [
            max((self._weight(one) for one, _how in some), default=self._weight("")) for some in self._meant
        ]
        self._whole = sum(self._weights)

    def _weight(self, stem: str) -> float:
        """How much a stem tells: the more, the fewer actions have it."""
        if stem not in self._known:
            self._known[stem] = log(1 + len(self._index.rows) / max(1, len(self._index.postings.get(stem, ()))))
        return self._known[stem]

    def worth_a_look(self, least: float = 0.2) -> dict[int, float]:
        """The numbers of the actions that have at least this part of what is asked for, each with how much of it (0 to 1) it can
        have at the most."""
        weights: dict[int, float] = {}
        had: dict[int, float] = {}
        for some, weight in zip(self._meant, self._weights, strict=True):
            here: dict[int, float] = {}
            for one, how in sorted(some, key=lambda meant: meant[1]):
                here.update(dict.fromkeys(self._index.postings.get(one, ()), how))
            for number, how in here.items():
                weights[number] = weights.get(number, 0.0) + weight
                had[number] = had.get(number, 0.0) + weight * how
        return {
            number: had[number] / self._whole for number, weight in weights.items() if weight >= least * self._whole
        }

    def at_most(self) -> dict[int, float]:
        """What actions can score at the most, by their numbers: `_near` is no more than the root of the part that is had, since
        (sum of weight * how) squared is no more than (sum of weight) * (sum of weight * how * how)."""
        return {
            number: _BY_PHRASE * sqrt(part) + _BY_WORDS * part + (_EXACTLY if part > 0.98 else 0.0) + 1e-6
            for number, part in self.worth_a_look().items()
        }

    def score(self, row: SearchRow) -> float:
        """How well an action answers: how well its best phrase does, and how much of what is asked for is in its words."""
        held: list[dict[str, float]] = []
        covered = 0.0
        is_guessed = False
        phrases = _phrases_of(row.phrases)
        named = _words_of(row.phrases)
        for some, weight, is_sure in zip(self._meant, self._weights, self._sure, strict=True):
            inside = {one: how for one, how in some if one in named}
            best = max(inside.values()) if inside else 0.0
            if best < 0.7:
                said = _words_of(row.sentence)
                hows = [how for one, how in some if one in said]
                best = max(best, 0.62 * max(hows)) if hows else best
            covered += weight * best
            is_guessed = is_guessed or (best > 0 and not is_sure)
            held.append(inside)
        if not covered or (row.loses_work and is_guessed):
            return 0.0
        best_phrase = exactly = 0.0
        told = set[str]().union(*held)
        for number, words in enumerate(phrases if told else ()):
            if told.isdisjoint(words):
                continue
            near = self._near(words, held, told)
            if number == 0 and near > 0.99 and len(words) == len(self._stems) and self._stems.issuperset(words):
                exactly = _EXACTLY
            best_phrase = max(best_phrase, near * (0.97 if number == 1 else 1.0))
        return _BY_PHRASE * best_phrase + _BY_WORDS * covered / self._whole + exactly

    def _near(self, words: Sequence[str], held: Sequence[Mapping[str, float]], told: set[str]) -> float:
        """How near a phrase is to what is asked for (0 to 1): what both have, against what only one has. `told`: all in `held`."""
        both = found = 0.0
        for inside, weight in zip(held, self._weights, strict=True):
            hows = [inside[word] for word in words if word in inside] if inside else []
            if hows:
                both += max(hows) * weight
                found += weight
        if not found:
            return 0.0
        rest = sum([self._weight(word) for word in words if word not in told])
        return both / sqrt(self._whole * (found + rest))


@lru_cache(maxsize=4096)
def _phrases_of(text: str) -> tuple[tuple[str, ...], ...]:
    """The words of each phrase of an action."""
    return tuple(tuple(phrase.split()) for phrase in text.strip("|").split("|"))


@lru_cache(maxsize=8192)
def _words_of(text: str) -> frozenset[str]:
    """The words of an action's phrases, or of its sentence."""
    return frozenset(text.replace("|", " ").split())


def _meant(stem: str, index: SearchIndex, is_word: bool) -> dict[str, float]:
    """The stems that a word may mean, each with how surely; only what is long enough for a word is taken for a misspelt one."""
    found = {stem: 1.0} if stem in index.postings else {}
    for one in index.alike.get(stem, ()):
        found.setdefault(one, 0.7)
    if len(stem) >= 2 and stem not in index.postings:
        found.update((posting, 0.75) for posting in index.postings if posting not in found and posting.startswith(stem))
    if stem not in index.postings and stem not in index.alike and is_word:
        found.update((posting, 0.7) for posting in index.postings if posting not in found and _is_near(stem, posting))
    return found


def _is_near(one: str, other: str) -> bool:
    """Whether words differ by a letter that is missing, added, another one, or two that are exchanged; long ones by two."""
    most = 2 if len(one) >= 7 else 1
    if abs(len(one) - len(other)) > most or len(other) < 3 or (one[0] != other[0] and one[1:2] != other[1:2]):
        return False
    before: list[int] = []
    row = list(range(len(other) + 1))
    for at, char in enumerate(one, 1):
        following = [at]
        for to, there in enumerate(other, 1):
            cost = min(row[to] + 1, following[-1] + 1, row[to - 1] + (char != there))
            if at > 1 and to > 1 and char == other[to - 2] and one[at - 2] == there:
                cost = min(cost, before[to - 2] + 1)
            following.append(cost)
        if min(following) > most:
            return False
        before, row = row, following
    return row[-1] <= most


def initials_of(text: str) -> set[str]:
    """The first letters of a phrase, with and without small words."""
    words = re.findall(r"[^\W_]+", text.lower())
    return {
        "".join(word[0] for word in some) for some in (words, [word for word in words if word not in FILLERS]) if some
    }


def stems_of(text: str) -> list[str]:
    """The stems of a text's words, without those that tell nothing, if there are others."""
    words = re.findall(r"[^\W_]+", text.lower())
    telling = [word for word in words if word not in FILLERS] or words
    telling = [word for word in telling if word not in BESIDES] or telling
    return list(dict.fromkeys(map(stem_of, telling)))


@lru_cache(maxsize=8192)
def stem_of(word: str) -> str:
    """A word without its endings: `lines` and `line`, `sorting` and `sort`, `colour` and `color` have the same stem."""
    word = word.replace("isation", "ization").replace("ise", "ize") if len(word) > 5 else word
    word = word.replace("our", "or") if len(word) > 4 else word
    word = word[:-2] + "er" if len(word) > 4 and word.endswith("tre") else word
    for ending, instead in (("ies", "y"), ("sses", "ss"), ("ing", ""), ("ed", ""), ("es", "e"), ("s", "")):
        if word.endswith(ending) and len(word) - len(ending) >= 3 and not word.endswith("ss"):
            word = word[: -len(ending)] + instead
            if ending in ("ing", "ed") and len(word) > 3 and word[-1] == word[-2] and word[-1] not in "ls":
                word = word[:-1]
            break
    return word[:-1] if len(word) > 3 and word.endswith("e") else word
