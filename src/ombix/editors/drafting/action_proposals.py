"""Proposes an action for a command of an unknown editor, by its name, by what is said of it and by its keys, with a measure of
trust."""

import re
from collections.abc import Callable, Mapping, Sequence
from functools import lru_cache

from msgspec import Struct

from ombix.core.catalogue.actions import Action, Catalogue
from ombix.core.catalogue.searching import SearchIndex, search, stems_of
from ombix.editors.drafting.sample_shape import common_start

SURE = 0.8
"""The trust from which a proposal is written."""
_MOST = 5
_SHOWN = 3
_LEAST_MARGIN = 8.0
"""By so much of 100 the best of the others has to be behind."""
_LEAST_SCORE = 70.0
_LEAST_AT_ALL = 40.0
"""What fits worse is not said."""
_SOME_NAMES = 5
"""So many names tell what they have in common."""
_CONTRADICTS = 85.0
"""The score from which what one of the texts says alone counts against another action."""
_FREQUENT = 4.0
_APART = 8.0
"""For what is used all day, and against what is at home elsewhere than in the text, and not named so."""
_AT_HOME = frozenset({"cursor", "select", "edit", "line", "history", "search", "files", "view", "app", "comment"})
_KEY_BONUS = 12.0
"""For the keys that other editors have for the same action."""
_OPPOSED: tuple[tuple[frozenset[str], frozenset[str]], ...] = tuple(
    (frozenset(one.split()), frozenset(other.split()))
    for one, other in (
        ("left back backward backwards backspace before previous prev", "right forward forwards on after next"),
        ("up upward upwards above previous prev back", "down downward downwards below under next"),
        ("start begin beginning home first top", "end finish last bottom tail rest"),
        ("upper uppercase capitals", "lower lowercase"),
        ("undo", "redo"),
        ("open unfold expand", "close shut fold collapse"),
        ("more deeper increase indent grow expand", "less shallower decrease outdent unindent dedent shrink"),
        ("larger in", "smaller out"),
        ("stage", "unstage"),
        ("show", "hide"),
    )
)
_KINDS: tuple[frozenset[str], ...] = tuple(
    frozenset(one.split())
    for one in (
        "select selection mark extend grow highlight region deselect unselect", "delete remove erase rub kill cut clear", "word",
        "page screen screenful leaf half", "paragraph block", "all everything whole", "copy duplicate clone twin",
        "move shift swap transpose", "tab", "column", "replace", "comment", "bookmark mark", "file document text buffer", "fold",
        "function", "definition", "project folder files directory", "sentence", "bracket brace", "macro",
        "window pane split panel", "find search seek", "scroll", "indent indentation", "toggle", "save write", "symbol",
        "line row lines rows",
    )
)  # fmt: skip
"""What an action is about: words of one kind."""
_UP_TO = frozenset({"to", "until"})
_ENDS = frozenset({"start", "end", "top", "bottom", "beginning", "home"})
_VAGUE = frozenset({"back", "on", "mark"})
"""Words that alone mean one thing or another: a bookmark or a selection, to the left or the one before."""
_EMPTY = frozenset(stems_of("one current whole under cursor here by clipboard document text"))
"""Words that do not tell one action from another."""


class Candidate(Struct, frozen=True):
    """An action that a command may stand for, and how well it fits (0 to 100)."""

    action: str
    score: float

    @property
    def capped(self) -> "Candidate":
        """With a score of 100 at the most."""
        return Candidate(self.action, round(min(100.0, self.score), 1))


class Proposal(Struct, frozen=True):
    """What a command may stand for, the best first, and how far the first one is to be trusted (0 to 1)."""

    command: str
    said: str
    trust: float
    candidates: tuple[Candidate, ...] = ()
    answer: str = ""
    """The action that its user said it is."""

    @property
    def is_sure(self) -> bool:
        """Whether the first candidate is written as it is."""
        return self.trust >= SURE

    @property
    def action(self) -> str:
        """The first candidate; empty where there is none."""
        return self.answer or (self.candidates[0].action if self.candidates else "")


class Proposer:
    """Proposes actions. `usual` counts in how many known editors keys do an action, by the keys as `spelt` writes them."""

    def __init__(
        self, catalogue: Catalogue, index: SearchIndex, usual: Mapping[str, Mapping[str, int]],
        spelt: Callable[[str], str] = str,
    ) -> None:  # fmt: skip
        self._catalogue, self._index, self._usual, self._spelt = catalogue, index, usual, spelt
        self._found: dict[str, list[tuple[float, str]]] = {}

    def said_by_all(self, commands: Sequence[str]) -> str:
        """What all names begin with, up to a sign, where it tells nothing of what they do: `editor.`."""
        if len(commands) < _SOME_NAMES:
            return ""
        same = common_start(commands)
        same = same[: max(same.rfind(sign) for sign in "._:/-") + 1]
        domains = {action.partition(".")[0] for action in self._catalogue.actions} - {"app"}
        return "" if domains & {*words_of(same).split()} else same

    def propose(self, command: str, said: str = "", keys: Sequence[str] = (), before: str = "") -> Proposal:
        """What a command may stand for: its name, without what stands `before` all of them, what is said of it, and the keys that
        it has."""
        name = words_of(command.removeprefix(before))
        texts = [text for text in (said, name, f"{name} {said}" if said and name else "") if text]
        weights = {3: (0.6, 0.15, 0.25), 2: (0.6, 0.4), 1: (1.0,), 0: ()}[len(texts)]
        scores: dict[str, float] = {}
        for text, weight in zip(texts, weights, strict=True):
            for score, action in self._search(text):
                scores[action] = scores.get(action, 0.0) + weight * score
        alone = [found[0] for text in ([said, name] if said else [name]) if (found := self._search(text))]
        against = {action for score, action in alone if score >= _CONTRADICTS}
        pressed = {action: count for key in keys for action, count in self._usual.get(self._spelt(key), {}).items()}
        for action in scores:
            scores[action] += min(_KEY_BONUS, 4.0 * pressed.get(action, 0))
            scores[action] += _FREQUENT if self._catalogue.actions[action].frequent else 0.0
        asked = _plain(f"{name} {said}")
        ranked = sorted(
            (Candidate(action, score - self._against(asked, action)) for action, score in scores.items()),
            key=lambda one: (-one.score, one.action),
        )
        ranked = [one for one in ranked if one.score >= _LEAST_AT_ALL][:_MOST]
        contradicted = bool(ranked) and (
            bool(against - {ranked[0].action})
            or not self._is_said(said or name, ranked[0].action, not said)
            or (not said and bool(_VAGUE & {*name.split()}))
            or self._has_rival(said or name, [one.action for one in ranked])
        )
        return Proposal(
            command, said, self._trust(asked, ranked, contradicted), tuple(one.capped for one in ranked[:_SHOWN])
        )

    def _search(self, text: str) -> list[tuple[float, str]]:
        if text not in self._found:
            self._found[text] = search(self._index, text, _MOST * 3)
        return self._found[text]

    def _against(self, asked: frozenset[str], action: str) -> float:
        """What speaks against an action: it goes the other way, or is about something else."""
        told = self._told(action)
        wrong = sum(
            1
            for one, other in (pair for pairs in _OPPOSED for pair in (pairs, pairs[::-1]))
            if asked & one and not asked & other and told & other and not told & one
        )
        missing = sum(1 for kind in _KINDS if bool(asked & kind) and not told & kind)
        added = sum(1 for kind in _KINDS if bool(self._named(action) & kind) and not asked & kind)
        domain, _, verb = action.partition(".")
        more = [
            stem for stem in stems_of(verb.replace("-", " ")) if not ({stem, *self._index.alike.get(stem, ())} & asked)
        ]
        apart = domain not in _AT_HOME and not _plain(domain) & asked
        return 30.0 * wrong + 6.0 * missing + 3.0 * added + 4.0 * len(more) + _APART * apart

    def _is_said(self, text: str, action: str, is_name: bool) -> bool:
        """Whether the words of a text, or of what is more than a name words like them, are those of an action, and all of one of
        its phrases are among them."""
        one = self._catalogue.actions[action]
        asked = {*stems_of(text)} - _EMPTY
        phrases = [{*stems_of(each)} - _EMPTY for each in _called(one)]
        told = {*stems_of(one.does), *stems_of(one.name)}.union(*phrases)
        said = {*words_of(text).split()}
        if said & _UP_TO and said & _ENDS and not _UP_TO & _plain(f"{one.name} {one.title} {one.does}"):
            return False
        is_told = all(
            one in told or (not is_name and not told.isdisjoint(self._index.alike.get(one, ()))) for one in asked
        )
        return is_told and any(phrase <= asked for phrase in phrases if phrase)

    def _has_rival(self, text: str, ranked: Sequence[str]) -> bool:
        """Whether two actions of the same place are called just so, and the first is not one of those that are used all day."""
        asked = {*stems_of(text)}
        actions = [self._catalogue.actions[action] for action in ranked]
        called = [action for action in actions if any(asked == {*stems_of(each)} for each in _called(action))]
        best = actions[0]
        return not best.frequent and any(one is not best and one.needs == best.needs for one in called)

    def _trust(self, asked: frozenset[str], ranked: Sequence[Candidate], contradicted: bool) -> float:
        if not ranked:
            return 0.0
        best = ranked[0]
        behind = best.score - (ranked[1].score if len(ranked) > 1 else 0.0)
        trust = min(1.0, max(0.0, best.score) / 100)
        is_doubtful = contradicted or behind < _LEAST_MARGIN or self._against(asked, best.action) > 0
        if best.score < _LEAST_SCORE or is_doubtful:
            trust = min(trust, SURE - 0.05)
        else:
            trust = max(trust, SURE)
        return round(trust, 2)

    def _told(self, action: str) -> frozenset[str]:
        """The words that an action is described by."""
        one = self._catalogue.actions[action]
        return _plain(" ".join([one.name, one.title, one.does, *one.words]))

    def _named(self, action: str) -> frozenset[str]:
        """The words of its name and title."""
        one: Action = self._catalogue.actions[action]
        return _plain(f"{one.name.partition('.')[2]} {one.title}")


def _called(action: Action) -> tuple[str, ...]:
    """What an action is called: its title, its name in its domain, and its everyday words."""
    return action.title, action.name.partition(".")[2].replace("-", " "), *action.words


def words_of(command: str) -> str:
    """The words in a name: `moveLineUp`, `move-line-up` and `lines.moveUp` are of words."""
    parted = re.sub(r"(?<=[a-z0-9])(?=[A-Z])|(?<=[A-Z])(?=[A-Z][a-z])", " ", command)
    return " ".join(re.findall(r"[^\W_]+", parted)).lower()


@lru_cache(maxsize=4096)
def _plain(text: str) -> frozenset[str]:
    words = re.findall(r"[^\W_]+", words_of(text))
    return frozenset({*words, *(word[:-1] for word in words if word.endswith("s") and len(word) > 3), *stems_of(text)})
