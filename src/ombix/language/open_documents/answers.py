"""What is said of a file while it is written."""

from typing import Literal, NamedTuple

from ombix.core.errors import Place

CompletionKind = Literal[
    "action", "keys", "fact", "value", "condition", "macro", "snippet", "file", "table", "name", "word"
]
SymbolKind = Literal["table", "entry", "condition", "macro", "snippet"]


class Completion(NamedTuple):
    """What could stand at a place: `text` goes in place of what was typed; `typed` is that, where it was found by words."""

    text: str
    kind: CompletionKind
    detail: str = ""
    more: str = ""
    typed: str = ""


class CompletionList(NamedTuple):
    """What could stand in place of columns of a line (from 0)."""

    line: int
    start: int
    end: int
    found: tuple[Completion, ...]


class OutlineEntry(NamedTuple):
    """A table or an entry of a file, with what is in it."""

    name: str
    kind: SymbolKind
    detail: str
    place: Place
    inner: tuple["OutlineEntry", ...] = ()


class PressHint(NamedTuple):
    """Behind a place: how the keys there are pressed on the layout at hand."""

    line: int
    column: int
    shown: str
    why: str


class DraftWay(NamedTuple):
    """A change that mends a finding: what it does in words, and the text of the file with it."""

    does: str
    text: str
    is_best: bool
