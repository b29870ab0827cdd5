"""Practice: what is asked, what an answer would have done, and what is due when."""

from typing import Literal, NamedTuple

Grade = Literal["again", "hard", "good", "easy"]
"""How well a thing was known: shown, or wrong twice; right at the second try; right; right at once."""


class PracticeItem(NamedTuple):
    """A thing to be known: what is done, its title and a sentence about it, the states (empty: everywhere, or in the text), and
    its keys. `before` and `after` are a text that the action changes, with | for the cursor; empty for none. `is_sent` tells
    whether this terminal sends its keys; `due` is when it is to be asked (ISO 8601, UTC), empty for a new one."""

    name: str
    does: str
    title: str
    about: str
    when: str
    keys: tuple[str, ...]
    before: str = ""
    after: str = ""
    is_sent: bool = True
    due: str = ""
    right: int = 0
    wrong: int = 0


class PracticeList(NamedTuple):
    """What is to be asked now (`due`, in order), what comes later, and what was never asked."""

    now: str
    due: tuple[PracticeItem, ...]
    later: tuple[PracticeItem, ...]
    new: tuple[PracticeItem, ...]


class PracticeAnswer(NamedTuple):
    """What keys that were pressed for a thing do there: whether it is that thing, and what else it would have been."""

    is_right: bool
    pressed: str
    title: str
