"""What keys can lead to: actions, macros, commands of one editor, or nothing; and the steps of macros."""

from msgspec import Struct

from ombix.core.actions import COUNT
from ombix.core.errors import Place
from ombix.core.keys import Trigger, write

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
