"""The catalogue's own check: what a reader of it, and who looks for an action, must be able to rely on."""

from collections.abc import Callable, Iterator

from ombix.core.catalogue.actions import Action, Catalogue
from ombix.core.conditions import NEVER, Space

LEAST_WORDS = 4
"""Everyday words that each action has at least."""
_TAKES_BACK = "history.undo"


def check_catalogue(catalogue: Catalogue, space: Space) -> Iterator[str]:
    """What is wrong with it: texts that are missing or not of one form, too few words, an inverse that does not point back,
    conditions that never hold, and actions that cannot be told apart."""
    actions = catalogue.actions
    for one in actions.values():
        yield from (f"{one.name}: {fault}" for fault in _faults(one, catalogue, space))
    kinds: dict[str, Callable[[Action], object]] = {
        "title": lambda one: one.title.lower(),
        "sentence": lambda one: one.does.lower(),
        "words": lambda one: frozenset(one.words),
    }
    for kind, key in kinds.items():
        seen: dict[object, str] = {}
        for one in actions.values():
            other = seen.setdefault(key(one), one.name)
            if other != one.name:
                yield f"{one.name} has the same {kind} as {other}"


def _faults(one: Action, catalogue: Catalogue, space: Space) -> Iterator[str]:
    if not one.title[:1].isupper() or one.title.endswith("."):
        yield "its title does not begin with a capital, or ends with a point"
    if not one.does.endswith(".") or not one.does[:1].isupper():
        yield "its sentence is none"
    if len(set(one.words)) < max(LEAST_WORDS, len(one.words)):
        yield f"it has fewer than {LEAST_WORDS} words, or one of them twice"
    if any(word != word.lower() or not word.strip() for word in one.words):
        yield "a word of it is empty or has capitals"
    if one.domain not in catalogue.domains:
        yield "its domain has no title"
    if one.inverse and not _points_back(one, catalogue):
        yield f"its inverse {one.inverse} does not lead back to it"
    if one.toggles and one.inverse not in (None, one.name):
        yield "it switches, and has another inverse than itself"
    known = space.facts.by_name.get(one.turns)
    if one.turns and (known is None or not known.is_flag or not one.toggles):
        yield f"{one.turns} is no fact of yes and no, or it does not switch"
    if one.over and one.domain not in ("cursor", "search", "bookmark"):
        yield "it is no movement, and says what of it is gone over"
    for condition in (one.needs, one.fits, one.enters, one.leaves, one.sets):
        if condition and space.both(space.states(condition), space.possible) == NEVER:
            yield f"{condition} never holds"


def _points_back(one: Action, catalogue: Catalogue) -> bool:
    """Whether the inverse leads back, or takes several actions back: it has no inverse itself, or is that of undoing."""
    other = catalogue.actions[one.inverse or ""]
    return other.inverse in (None, one.name) or other.name == _TAKES_BACK
