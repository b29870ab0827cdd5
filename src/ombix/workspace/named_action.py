"""The action that a user names, or describes clearly."""

from collections.abc import Mapping

from ombix.core.catalogue.actions import Action
from ombix.core.catalogue.searching import search
from ombix.core.errors import InputError, did_you_mean
from ombix.data.shipped import Shipped

_CLEAR, _AHEAD, _FEW, _NEAR = 85.0, 3.0, 4, 55.0
"""The score of words that describe an action clearly, how far ahead of the next it has to be; how many are named, and the
score of those."""


def action_called(words: str, shipped: Shipped) -> Action:
    """The action of a name, or the one that words describe clearly. Raises InputError."""
    actions = shipped.catalogue().actions
    return actions[words if words in actions else _by_words(words, shipped)]


def is_name(words: str, shipped: Shipped) -> bool:
    """Whether words are an action's name, its title, or the one word that it is called by."""
    actions = shipped.catalogue().actions
    return words in actions or any(one.title.lower() == words.lower() for one in actions.values()) or bool(
        " " not in words and _by_one_word(words, actions)
    )  # fmt: skip


def _by_words(words: str, shipped: Shipped) -> str:
    """The action that words describe, where there is one clear match. Raises InputError, with the others, where not."""
    actions = shipped.catalogue().actions
    if " " not in words and (clear := _by_one_word(words, actions)):
        return clear
    known = (_same_verb(words, actions) or did_you_mean(words, list(actions))) if "." in words else ""
    found = search(shipped.search_index(), words.replace(".", " ")) if not known else []
    if found and found[0][0] >= _CLEAR and (len(found) < 2 or found[0][0] - found[1][0] >= _AHEAD):
        return found[0][1]
    near = [one for one in found if one[0] >= _NEAR]
    several = ", ".join(f"{name} ({actions[name].title})" for _score, name in near[:_FEW])
    if several:
        raise InputError(f"several actions come near to “{words}”", f"Say which: {several}.")
    look = f"Look for it with: ombix how {words.replace('.', ' ')}"
    raise InputError(f"unknown action: {words}", known or look)


def _same_verb(name: str, actions: Mapping[str, Action]) -> str:
    """The question whether those actions were meant that are called alike in other kinds of work: edit.undo for history.undo."""
    verb = name.partition(".")[2]
    found = [one for one in actions if one.partition(".")[2] == verb]
    found.sort(key=lambda one: not actions[one].frequent)
    return f"Did you mean {' or '.join(found[:_FEW])}?" if verb and found else ""


def _by_one_word(word: str, actions: Mapping[str, Action]) -> str:
    """The action that one word names: by its title, or by its name without its kind of work, where there is one such, or one that
    is used all day. Empty where there is none."""
    titled = [name for name, action in actions.items() if action.title.lower() == word.lower()]
    named = titled if len(titled) == 1 else [name for name in actions if name.partition(".")[2] == word.lower()]
    frequent = [name for name in named if actions[name].frequent]
    found = named if len(named) == 1 else frequent
    return found[0] if len(found) == 1 else ""
