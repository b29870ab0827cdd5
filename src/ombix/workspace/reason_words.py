"""Why an editor cannot have keys, or has them in more states, as one says it: without the names of facts."""

import re

from ombix.core.porting import PortEntry, said_plainly
from ombix.workspace.condition_words import asked_in_words, in_words

_NOTHING_LIKE = re.compile(r"(?P<editor>\S+) has nothing like (?P<condition>[^.]+)", re.I)
_EVERYWHERE = re.compile(r"in every state, as (?P<editor>\S+) cannot tell (?P<facts>[a-z, -]+)", re.I)
_WHENEVER = re.compile(r"whenever (?P<condition>[^.;]+), as (?P<editor>\S+) cannot tell (?P<facts>[a-z, -]+)", re.I)
_ONLY = re.compile(r"only when (?P<condition>[^.;]+), as (?P<editor>\S+) cannot tell (?P<facts>[a-z, -]+)", re.I)
_SEVERAL = re.compile(r"the key means several things by (?P<facts>[a-z, -]+), which (?P<editor>\S+) cannot tell", re.I)


def reason_in_words(sentence: str) -> str:
    """A sentence of an account with conditions and facts as one speaks of them; others as they are."""
    for pattern, said in (
        (_NOTHING_LIKE, lambda one: f"{one['editor']} has nothing like this: {in_words(one['condition'])}"),
        (_EVERYWHERE, lambda one: f"everywhere, as {one['editor']} cannot tell {asked_in_words(one['facts'])}"),
        (_WHENEVER, lambda one: f"{_where(one)}, as {one['editor']} cannot tell {asked_in_words(one['facts'])}"),
        (_ONLY, lambda one: f"only {_where(one)}, as {one['editor']} cannot tell {asked_in_words(one['facts'])}"),
        (_SEVERAL, lambda one: f"the key does several things, and {one['editor']} cannot tell {asked_in_words(one['facts'])}"),
    ):  # fmt: skip
        sentence = pattern.sub(lambda found, said=said: _as_begun(found, said(found)), sentence)  # type: ignore[misc]
    return sentence


def for_it(why: str, name: str) -> str:
    """A reason that does not say again what it is of: "nano has no command for it"."""
    return f"{why.removesuffix(name)}it" if why.endswith(f" for {name}") else why


def said_of(entry: PortEntry, editor: str) -> str:
    """What shows in everyday use of what became of a binding, in one line without a full stop."""
    return reason_in_words(said_plainly(entry, editor))


def _where(found: re.Match[str]) -> str:
    return in_words(found["condition"]) or "everywhere"


def _as_begun(found: re.Match[str], said: str) -> str:
    """A sentence that begins as the one did that it stands for; the name of an editor stays as it is."""
    if found[0][0].isupper() and not said.startswith(found["editor"]):
        return said[0].upper() + said[1:]
    return said
