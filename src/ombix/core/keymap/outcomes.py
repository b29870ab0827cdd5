"""What keys can lead to: actions, macros, commands of one editor, or nothing; and the steps of macros."""

import re
from typing import TYPE_CHECKING, Literal

from msgspec import Struct

from ombix.core.catalogue.actions import COUNT
from ombix.core.errors import Place
from ombix.core.keys.notation import Trigger, write

if TYPE_CHECKING:
    from ombix.core.conditions import Scope

_STEERING = re.compile("[\x00-\x08\x0b-\x1f\x7f-\x9f\u2028-\u202e\u2066-\u2069]")
MAX_COUNT = 1000
"""How many times in a row an action can be run at most."""


class Do(Struct, frozen=True):
    """Run an action of the catalogue, with arguments by name. The argument `count` tells how many times in a row."""

    action: str
    arguments: tuple[tuple[str, str], ...] = ()

    @property
    def count(self) -> int:
        """How many times in a row the action is run."""
        return int(dict(self.arguments).get(COUNT, "1"))

    @property
    def once(self) -> "Do":
        """The same without its count."""
        rest = tuple(pair for pair in self.arguments if pair[0] != COUNT)
        return self if rest == self.arguments else Do(self.action, rest)

    @property
    def domain(self) -> str:
        """The kind of work that the action belongs to."""
        return self.action.partition(".")[0]

    def __str__(self) -> str:
        inner = ", ".join(f"{name}={value}" for name, value in self.arguments)
        return f"{self.action}({inner})" if inner else self.action


class Type(Struct, frozen=True):
    """Put a text where the cursor is, as if it were typed, whatever the mode."""

    text: str

    def __str__(self) -> str:
        return f"type {self.text!r}"


def steers(text: str) -> bool:
    """Whether a text has characters in it that steer what shows it: control characters but for tab and line feed, and those
    that turn the direction of a line or break it (Unicode Standard Annex 9)."""
    return _STEERING.search(text) is not None


def without_steering(text: str) -> str:
    """A text with blanks in place of what steers."""
    return _STEERING.sub(" ", text)


class Press(Struct, frozen=True):
    """Press keys; what they do is decided when they are pressed. `means` is the action, or `macro NAME`, that they are relied
    on for; empty where nothing is said."""

    keys: Trigger
    means: str = ""

    def __str__(self) -> str:
        return f"press {write(self.keys)}" + (f" for {self.means}" if self.means else "")


class Play(Struct, frozen=True):
    """Run a macro of the keymap, so many times in a row."""

    macro: str
    times: int = 1

    @property
    def key(self) -> str:
        """What a higher layer names to replace it."""
        return f"macro {self.macro}"

    def __str__(self) -> str:
        return self.key + (f" {self.times} times" if self.times > 1 else "")


class Insert(Struct, frozen=True):
    """Put a snippet of the keymap into the text."""

    snippet: str

    @property
    def key(self) -> str:
        """What a higher layer names to replace it."""
        return f"snippet {self.snippet}"

    def __str__(self) -> str:
        return self.key


class Repeat(Struct, frozen=True):
    """Do steps so many times in a row."""

    steps: "tuple[Step, ...]"
    times: int

    def __str__(self) -> str:
        return f"{self.times} times: {in_a_row(self.steps)}"


class Until(Struct, frozen=True):
    """Do steps again and again: until one of them cannot do its work (`fails`), or until the cursor is at the end of the text
    (`end`), which a step that fails ends as well; `most` times at the most."""

    steps: "tuple[Step, ...]"
    until: "Ending"
    most: int

    def __str__(self) -> str:
        ending = "one fails" if self.until == "fails" else "the text ends"
        return f"until {ending}: {in_a_row(self.steps)}"


class When(Struct, frozen=True):
    """Do steps only in the states of a condition; `scope` has the conditions with a name that it may use."""

    where: str
    steps: "tuple[Step, ...]"
    scope: "Scope | None" = None

    def __str__(self) -> str:
        return f"when {self.where}: {in_a_row(self.steps)}"


class Only(Struct, frozen=True):
    """Run a command that only one editor has, kept as that editor writes it. Ombix never runs it itself."""

    editor: str
    command: str

    def __str__(self) -> str:
        return f"{self.command} ({self.editor} only)"


class Nothing(Struct, frozen=True):
    """Nothing happens: the keys were taken away on purpose."""

    def __str__(self) -> str:
        return "nothing"


Outcome = Do | Play | Insert | Only | Nothing
Step = Do | Type | Press | Play | Insert | Only | Repeat | Until | When
Ending = Literal["fails", "end"]
"""When steps that are done again and again are done."""
ENDINGS: tuple[Ending, ...] = ("fails", "end")


def in_a_row(steps: "tuple[Step, ...]") -> str:
    """Steps in words, one after the other."""
    return ", ".join(map(str, steps))


class MacroExample(Struct, frozen=True):
    """What a macro is to do: a text before and behind it, with | for the cursor, and [ ] around what is selected."""

    before: str
    after: str
    place: Place


class Macro(Struct, frozen=True):
    """A named list of steps. `languages` are those that it is for (none named: all); `examples` it is checked against."""

    name: str
    title: str
    steps: tuple[Step, ...]
    place: Place
    languages: tuple[str, ...] = ()
    examples: tuple[MacroExample, ...] = ()
