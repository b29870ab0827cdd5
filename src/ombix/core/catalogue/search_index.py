"""The index that questions in everyday words are answered from."""

from collections.abc import Iterable, Sequence

from ombix.core.catalogue.actions import Action
from ombix.core.catalogue.searching import MOST_BONUS, SearchIndex, SearchRow, initials_of, stems_of

_BONUS = {"none": 0, "leaves": -1, "closes": -1, "loses work": -3}
"""For what is risky, on equal match; and for what is used all day:"""
_FREQUENT = MOST_BONUS


def search_index(actions: Iterable[Action], synonyms: Iterable[Sequence[str]] = ()) -> SearchIndex:
    """The index of actions; `synonyms` are groups of words that mean nearly the same."""
    rows: list[SearchRow] = []
    postings: dict[str, list[int]] = {}
    for number, one in enumerate(actions):
        verb = one.name.partition(".")[2].replace("-", " ")
        texts = (one.title, one.name.replace(".", " "), verb, *one.words)
        phrases = [stems_of(text) for text in texts]
        if one.toggles and phrases[0][0] == "show":
            phrases.append(phrases[0][1:])
        sentence = stems_of(one.does)
        for stem in {*sentence, *(stem for phrase in phrases for stem in phrase)}:
            postings.setdefault(stem, []).append(number)
        bonus = _FREQUENT * one.frequent + _BONUS[one.risk]
        # The title stands first, and is a phrase, too.
        said = "".join(f"| {' '.join(phrase)} " for phrase in phrases) + "|"
        initials = " ".join(sorted({found for text in texts[:1] + texts[3:] for found in initials_of(text)}))
        rows.append(
            SearchRow(one.name, said, f" {' '.join(sentence)} ", f" {initials} ", bonus, one.risk == "loses work")
        )
    alike: dict[str, list[str]] = {}
    for group in synonyms:
        stems = [stem for word in group for stem in stems_of(word)[:1]]
        for stem in stems:
            alike.setdefault(stem, []).extend(other for other in stems if other != stem and other not in alike[stem])
    return SearchIndex(rows, postings, alike)
