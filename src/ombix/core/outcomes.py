"""What keys can lead to: actions, macros, commands of one editor, or nothing; and the steps of macros."""

import re

from msgspec import Struct

from ombix.core.actions import COUNT
from ombix.core.errors import Place
from ombix.core.keys import Trigger, write

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
    """Press keys; what they do is decided when they are pressed."""

    keys: Trigger

    def __str__(self) -> str:
        return f"press {write(self.keys)}"


class Play(Struct, frozen=True):
    """Run a macro of the keymap."""

    macro: str

    def __str__(self) -> str:
        return f"macro {self.macro}"


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


Outcome = Do | Play | Only | Nothing
Step = Do | Type | Press | Play | Only


class Macro(Struct, frozen=True):
    """A named list of steps."""

    name: str
    title: str
    steps: tuple[Step, ...]
    place: Place
