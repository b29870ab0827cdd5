"""Finding actions by words: people forget names, not intentions."""

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
            texts = (title, *everyday)
            initials = {"".join(word[0] for word in _words(text, ())) for text in texts}
            initials |= {"".join(word[0] for word in part) for part in (name_words[1:], title_words) if part}
            if joined in initials:
                score = max(score, 80.0)
        if score >= 38:
            scored.append((round(min(100.0, score), 1), name))
    scored.sort(key=lambda pair: (-pair[0], pair[1]))
    if scored:
        scored = [pair for pair in scored if pair[0] >= scored[0][0] * 0.72]
    return scored[:most]


_FILLERS = frozenset({"a", "an", "the", "to", "do", "i", "how", "of", "my", "this", "that", "it", "in", "is", "for"})


def _words(text: str, fillers: Collection[str] = _FILLERS) -> list[str]:
    words = "".join(char.lower() if char.isalnum() else " " for char in text).split()
    return [word for word in words if word not in fillers] or words
