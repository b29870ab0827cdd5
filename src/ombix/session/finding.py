"""How something is done: actions by words, with their keys, answered from an index."""

from ombix.core.results.finding import ActionKeys, FoundAction, FoundActions
from ombix.core.searching import search
from ombix.session.index import ActionIndex


def find(index: ActionIndex, words: str) -> FoundActions:
    """The actions that words describe, the best first."""
    rows = {row[0]: row for row in index.actions}
    found = []
    for score, name in search((row[:4] for row in index.actions), words):
        _name, title, does, _words, keys = rows[name]
        found.append(FoundAction(name, title, does, score, tuple(ActionKeys(*one) for one in keys)))
    return FoundActions(words, index.platform["name"], tuple(found), index.about)
