"""What a program of effects runs on: a text with its cursor, what is selected, kept and remembered."""

from typing import NamedTuple

from msgspec import Struct


class Settings(Struct, frozen=True):
    """What an editor is set to, whichever key runs an action.

    The text of one step of indentation; the width of a tab in cells; whether a new line is indented like the one
    before; what begins a comment; whether going up from the first line or down from the last does nothing; whether what is
    typed takes the place of what is selected; whether a command without a selection cuts from the cursor on; whether the
    key for the start of the line goes to its first word first; whether the way over words stops at their ends; whether
    blanks up to the next multiple of the tab's width are put in instead of a tab.
    """

    indentation: str = "\t"
    tab_width: int = 8
    auto_indent: bool = False
    comment: str = "# "
    stops_at_edges: bool = False
    typing_replaces_selection: bool = True
    cut_from_cursor: bool = False
    smart_home: bool = False
    after_ends: bool = False
    soft_tabs: bool = False
    text_width: int = 72
    """The cells that a line of a paragraph has at the most."""
    shift_width: int = 0
    """The cells of one step of commands that count in cells; 0: the tab's width."""
    unknown: frozenset[str] = frozenset()
    """What is changed by something that is set, without its being known how: topics of programs, or `all`."""

    @property
    def one_step(self) -> str:
        """The text of one step of indentation at the start of a line."""
        return " " * self.tab_width if self.soft_tabs else self.indentation


PLAIN = Settings()


class Selected(NamedTuple):
    """A cursor, the anchor, and the ends of what is selected where the cursor is at neither of them."""

    cursor: int
    anchor: int | None
    held: tuple[int, int] | None


class Change(NamedTuple):
    """A change of the text by one command: the text and the cursor before it, the cursor behind it, and what was selected
    when text was taken away."""

    text: str
    cursor: int
    after: int
    moment: Selected | None


class Buffer:
    """A text that is being edited. Offsets are from 0 to the text's length, between characters.

    With an `anchor`, what lies between it and the cursor is selected; `marking` tells that moving the cursor extends that.
    `by_lines`: what was kept are whole lines, and is put back as such. `adds_up`: what is cut next is added to what was
    kept, in some editors only just before or behind the place `killed_at` (with `adds_copies`: what is copied next). `goal`
    is the cell that moves up and down in a row keep to. `held` are the ends of what is selected where the cursor is at
    neither of them. `facts` are what became of the editor beside its text, in order: actions that were done, and facts with
    their values; `saved` is the text of the file (None: another one than at the start), `has_ended` whether the editor is
    closed. `past` are the changes that can be taken back, `taken_back` is how many have been; `moment` is what was selected
    when a command took text away.
    """

    __slots__ = (
        "adds_copies", "adds_up", "anchor", "by_lines", "clipboard", "cursor", "facts", "goal", "has_ended", "held",
        "killed_at", "marking", "moment", "past", "saved", "settings", "taken_back", "text",
    )  # fmt: skip

    def __init__(
        self, text: str, cursor: int = 0, anchor: int | None = None, clipboard: str = "", settings: Settings = PLAIN
    ) -> None:
        self.text = text
        self.cursor = cursor
        self.anchor = anchor
        self.clipboard = clipboard
        self.settings = settings
        self.marking = False
        self.by_lines = False
        self.adds_up = self.adds_copies = False
        self.goal: int | None = None
        self.killed_at = -1
        self.held: tuple[int, int] | None = None
        self.facts: tuple[str, ...] = ()
        self.saved: str | None = text
        self.has_ended = False
        self.past: tuple[Change, ...] = ()
        self.taken_back = 0
        self.moment: Selected | None = None

    def copy(self) -> "Buffer":
        """Another one like this."""
        other = Buffer(self.text, self.cursor, self.anchor, self.clipboard, self.settings)
        other.marking, other.by_lines, other.adds_up, other.goal = self.marking, self.by_lines, self.adds_up, self.goal
        other.held, other.adds_copies = self.held, self.adds_copies
        other.facts, other.saved, other.has_ended, other.past = self.facts, self.saved, self.has_ended, self.past
        other.taken_back, other.moment, other.killed_at = self.taken_back, self.moment, self.killed_at
        return other

    def become(self, other: "Buffer") -> None:
        """Be as another one is."""
        for name in self.__slots__:
            setattr(self, name, getattr(other, name))

    @property
    def selection(self) -> tuple[int, int]:
        """Start and end of the selection; both are the cursor when nothing is selected."""
        if self.held is not None:
            return self.held
        anchor, cursor = self.anchor, self.cursor
        if anchor is None:
            return cursor, cursor
        return (anchor, cursor) if anchor < cursor else (cursor, anchor)

    @property
    def has_selection(self) -> bool:
        """Whether at least one character is selected."""
        start, end = self.selection
        return start != end

    def drop(self) -> None:
        """Nothing is selected any more."""
        self.anchor = self.held = None
        self.marking = False

    def replace(self, start: int, end: int, text: str) -> None:
        """Put `text` in place of what is between two offsets; cursor and anchor are left to the caller."""
        self.text = self.text[:start] + text + self.text[end:]

    def seen(self) -> tuple[str, int, tuple[int, int] | None, str]:
        """What can be told apart: text, cursor, what is selected, and what is kept."""
        return self.text, self.cursor, self.selection if self.has_selection else None, self.clipboard
