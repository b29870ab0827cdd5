"""The page: a keymap with all of its decisions, for what looks them up elsewhere."""

from typing import NamedTuple

from ombix.work.carry.port_answer import PortReport
from ombix.work.draw.picture_answer import KeyboardPicture
from ombix.work.learn.sheet_answer import Sheet
from ombix.workspace.findings_answer import FoundFault


class PageFact(NamedTuple):
    """A fact that decisions depend on: its number among all, its name, what it is about, the values that can be chosen with their
    numbers, and that which holds at first."""

    number: int
    name: str
    title: str
    values: tuple[tuple[int, str], ...]
    first: int


class PageRow(NamedTuple):
    """In the states of a set (its number) keys do this."""

    states: int
    when: str
    does: str
    title: str
    kind: str
    layer: str
    place: str
    why: str


class PageQuestion(NamedTuple):
    """A thing to be practised: its keys in the page's form, and the number of the state in which it is asked."""

    title: str
    about: str
    when: str
    before: str
    after: str
    does: str
    keys: tuple[str, ...]
    shown: tuple[str, ...]
    state: int


class PageDecisions(NamedTuple):
    """All decisions. Keys are chords like `4:d` (the sum of modifiers, and the key), with blanks between; `typing` is the set of
    the states in which what is not bound is typed, `text` of those in which keys go to the text."""

    prefix: str
    wait_ms: int
    types: bool
    typing: int
    text: int
    modifiers: dict[str, int]
    last: tuple[int, ...]
    sets: tuple[tuple[int, tuple[tuple[int, int], ...], int], ...]
    facts: tuple[PageFact, ...]
    state: tuple[int, ...]
    """The values that hold at first, by the numbers of facts."""
    triggers: dict[str, tuple[PageRow, ...]]
    shown: dict[str, str]
    pressed: dict[str, str]
    """How keys are pressed on the layout at hand, where that is not plain from them."""


class PageSearch(NamedTuple):
    """What actions are found by: see `ombix.core.searching.SearchIndex`; and each action's title, sentence, and keys."""

    rows: tuple[tuple[str, str, str, str, float, bool], ...]
    postings: dict[str, tuple[int, ...]]
    alike: dict[str, tuple[str, ...]]
    actions: dict[str, tuple[str, str, tuple[str, ...]]]
    nowhere: tuple[str, ...] = ()
    """The actions that no editor at hand has a command for: they come last."""


class PageData(NamedTuple):
    """All that the page has."""

    title: str
    about: str
    platform: str
    decisions: PageDecisions
    search: PageSearch
    sheet: Sheet
    picture: KeyboardPicture
    findings: tuple[FoundFault, ...]
    ports: tuple[PortReport, ...]
    questions: tuple[PageQuestion, ...]
    states: tuple[tuple[int, ...], ...]
    """The states of the questions: the numbers of values, by the numbers of facts."""
