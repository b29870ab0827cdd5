"""How something is done: actions by words, with their keys, answered from an index."""

from ombix.core.catalogue.searching import SearchIndex, nearest_domains, search, stems_of
from ombix.core.errors import InputError, did_you_mean
from ombix.workspace.decision_index import ActionIndex
from ombix.workspace.how_answer import ActionKeys, FoundAction, FoundActions, KindOfWork

_MOST = 12
_MANY = 200
_OWN_SCORE = 100.0


def find(index: ActionIndex, words: str, domain: str = "", everything: bool = False) -> FoundActions:
    """The actions that words describe, the best first; with `domain` only those of one kind of work, with `everything` all of
    them. Where there are none, the kinds of work that come nearest. Raises InputError for an unknown domain."""
    if domain and domain not in index.domains:
        known = f"Known are {', '.join(index.domains)}."
        raise InputError(f"unknown kind of work: {domain}", did_you_mean(domain, list(index.domains)) or known)
    searched = SearchIndex(*index.searched)
    found = []
    for score, name in search(searched, words, _MANY if everything else _MOST, (domain,) if domain else ()):
        title, does, keys, lacking = index.actions[name]
        found.append(FoundAction(name, title, does, score, tuple(ActionKeys(*key) for key in keys), tuple(lacking)))
    found.sort(key=lambda action: _is_nowhere(action, index))
    if not domain:
        found[:0] = _own(index, words)
    within = dict.fromkeys(one.action.partition(".")[0] for one in found if " " not in one.action)
    near = list(within) if found else nearest_domains(searched, words)
    kinds = tuple(KindOfWork(name, index.domains[name]) for name in near)
    return FoundActions(
        words, index.platform["name"], tuple(found), index.about, kinds, index.editor, tuple(index.editors)
    )


def _own(index: ActionIndex, words: str) -> list[FoundAction]:
    """The macros and snippets whose title, or name, or word, has all the words."""
    stems = set(stems_of(words))
    found = []
    for name, title, does, keys in index.own:
        if stems and stems <= {*stems_of(title), *stems_of(name.replace("-", " ")), *stems_of(does)}:
            found.append(FoundAction(name, title, does, _OWN_SCORE, tuple(ActionKeys(*key) for key in keys)))
    return found


def _is_nowhere(action: FoundAction, index: ActionIndex) -> bool:
    """Whether no editor at hand has a command for an action: those that can be had come first."""
    return bool(index.editors) and len(action.lacking) == len(index.editors)
