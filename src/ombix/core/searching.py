"""Finding actions by words: people forget names, not intentions."""

import re
from collections.abc import Collection, Iterable, Sequence
from typing import Any


def search(entries: Iterable[Sequence[Any]], wanted: str, most: int = 12) -> list[tuple[float, str]]:
    """The actions that `wanted` describes, the best first, each with its score (0 to 100).

    `entries` are name, title, sentence and everyday words of each action. A word of `wanted` counts where it is a word
    of the entry, the beginning of one, or spelt nearly like one; the initials of a title count too.
    """
    words = _words(wanted)
    if not words:
        return []
    parts = [_Entry(*entry) for entry in entries]
    vocabulary = {word for part in parts for word in part.strong}
    matches = {word: _matches(word, vocabulary) for word in words}
    joined = "".join(words)
    scored: list[tuple[float, str]] = []
    for part in parts:
        total = 0.0
        for word in words:
            best = max((score for candidate, score in matches[word].items() if candidate in part.strong), default=0.0)
            if best < 60 and word in part.sentence.lower() and word in _words(part.sentence):
                best = 60.0
            total += best or -45.0
        score = total / len(words)
        if words in part.phrases:
            score += 20
        score -= 0.6 * len(part.phrases[1])  # what is wanted is a small part of a long title: a shorter one is nearer
        if len(words) == 1 and 2 <= len(joined) <= 5 and joined in part.initials():
            score = max(score, 80.0)
        if score >= 38:
            scored.append((round(min(100.0, score), 1), part.name))
    scored.sort(key=lambda pair: (-pair[0], pair[1]))
    if scored:
        scored = [pair for pair in scored if pair[0] >= scored[0][0] * 0.72]
    return scored[:most]


_FILLERS = frozenset({"a", "an", "the", "to", "do", "i", "how", "of", "my", "this", "that", "it", "in", "is", "for"})


class _Entry:
    """An action's words: its name, its title and the everyday phrases for it."""

    def __init__(self, name: str, title: str, sentence: str, everyday: Iterable[str]) -> None:
        self.name = name
        self.texts = (title, *everyday)
        self.sentence = sentence
        self.phrases = [_words(name), *(_words(text) for text in self.texts)]
        self.strong = {word for phrase in self.phrases for word in phrase}

    def initials(self) -> set[str]:
        """The first letters of the title and of each phrase, with and without small words."""
        whole = [_words(text, ()) for text in self.texts]
        return {"".join(word[0] for word in phrase) for phrase in [*whole, *self.phrases[1:], self.phrases[0][1:]]}


def _matches(word: str, vocabulary: Collection[str]) -> dict[str, float]:
    """The words that `word` may mean, with scores: itself, those that it begins, and where there are none, those
    that are spelt nearly like it."""
    if word in vocabulary:
        found = {word: 100.0}
    else:
        found = {}
    if len(word) >= 2:
        found |= {candidate: 85.0 for candidate in vocabulary if candidate.startswith(word) and candidate != word}
    if found or len(word) < 4:
        return found
    # The standard library's matcher takes 1 ms for all words; a quicker one would take 10 ms to be imported.
    from difflib import SequenceMatcher

    matcher = SequenceMatcher(b=word)
    for candidate in vocabulary:
        matcher.set_seq1(candidate)
        if len(candidate) >= 4 and matcher.quick_ratio() >= 0.7 and matcher.ratio() >= 0.7:
            found[candidate] = matcher.ratio() * 80
    return found


def _words(text: str, fillers: Collection[str] = _FILLERS) -> list[str]:
    words = re.findall(r"[^\W_]+", text.lower())
    return [word for word in words if word not in fillers] or words
