"""The action that a user names, or describes clearly."""

from ombix.core.catalogue.actions import Action
from ombix.core.catalogue.searching import search
from ombix.core.errors import InputError, did_you_mean
from ombix.data.shipped import Shipped

_CLEAR, _AHEAD, _FEW = 85.0, 3.0, 5
"""The score of words that describe an action clearly, how far ahead of the next it has to be, and how many are named."""


def action_called(words: str, shipped: Shipped) -> Action:
    """The action of a name, or the one that words describe clearly. Raises InputError."""
    actions = shipped.catalogue().actions
    return actions[words if words in actions else _by_words(words, shipped)]


def _by_words(words: str, shipped: Shipped) -> str:
    """The action that words describe, where there is one clear match. Raises InputError, with the others, where not."""
    actions = shipped.catalogue().actions
    found = search(shipped.search_index(), words.replace(".", " ")) if " " in words else []
    if found and found[0][0] >= _CLEAR and (len(found) < 2 or found[0][0] - found[1][0] >= _AHEAD):
        return found[0][1]
    several = ", ".join(f"{name} ({actions[name].title})" for _score, name in found[:_FEW])
    if several:
        raise InputError(f"several actions come near to “{words}”", f"Say which: {several}.")
    look = f"Look for it with: ombix how {words.replace('.', ' ')}"
    raise InputError(f"unknown action: {words}", did_you_mean(words, list(actions)) or look)
