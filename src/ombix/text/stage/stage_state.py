"""The state of an editor on the stage: its text, its cursors, what is selected, kept and marked, and what is asked."""

from msgspec import Struct

from ombix.core.snippets.expanding import StopPlace
from ombix.text.effects.buffer import Settings


class Cursor(Struct, frozen=True):
    """A cursor beside the main one; see `State` for what each is."""

    cursor: int
    anchor: int | None = None
    goal: int | None = None


class Prompt(Struct, frozen=True):
    """A question that is open: the action that asked it, and what was typed into it."""

    action: str
    typed: str = ""


class Column(Struct, frozen=True):
    """A selected rectangle: the line and the cell (both from 0) where it began, and those where it is drawn to."""

    line: int
    cell: int
    to_line: int
    to_cell: int


class Fold(Struct, frozen=True):
    """Lines that are folded away below their first one: the start of that, and the end of the last one, as offsets."""

    start: int
    end: int
    by_hand: bool = False


class Pasted(Struct, frozen=True):
    """What was just pasted: from where to where, and which of the kept texts it was."""

    start: int
    end: int
    index: int


class Filling(Struct, frozen=True):
    """A snippet whose stops are being filled in: where they are, and the number of the one at hand."""

    places: tuple[StopPlace, ...]
    number: int


class State(Struct, frozen=True):
    """A text with its cursors. `cursor` and `anchor` are offsets in `text`, from 0 to its length, between characters.

    With an anchor, what lies between it and the cursor is selected; `marking` tells that moving the cursor extends the
    selection instead of giving it up. `clipboard` is what was last cut or copied. `goal` is the cell, from 0, that moves up
    and down in a row keep to, where shorter lines are between. `others` are further cursors, in the order in which they
    were added. `marks` are places by name, `bookmarks` the starts of marked lines, `registers` texts by name.
    """

    text: str
    cursor: int
    anchor: int | None = None
    clipboard: str = ""
    marking: bool = False
    goal: int | None = None
    others: tuple[Cursor, ...] = ()
    marks: tuple[tuple[str, int], ...] = ()
    bookmarks: tuple[int, ...] = ()
    registers: tuple[tuple[str, str], ...] = ()
    prompt: Prompt | None = None
    searched: str = ""
    goes_round: bool = True
    """Whether a search begins anew at the other end of the text."""
    filling: Filling | None = None
    kept: tuple[str, ...] = ()
    """What was cut or copied, the last first."""
    register: str = ""
    """The name of the register that the next cutting, copying or pasting uses in place of the clipboard."""
    pasted: Pasted | None = None
    column: Column | None = None
    folds: tuple[Fold, ...] = ()
    file: str = ""
    """The path of the text's file; empty for none."""
    settings: Settings = Settings()

    @property
    def selection(self) -> tuple[int, int]:
        """Start and end of the selection; both are the cursor when nothing is selected."""
        if self.anchor is None:
            return self.cursor, self.cursor
        return min(self.anchor, self.cursor), max(self.anchor, self.cursor)

    @property
    def has_selection(self) -> bool:
        """Whether at least one character is selected."""
        start, end = self.selection
        return start != end
