"""The shape of an editor's description: what the TOML files in its folder may hold."""

from typing import Any, TypeVar

import msgspec

Shape = TypeVar("Shape")


class Form(msgspec.Struct, forbid_unknown_fields=True, rename="kebab"):
    """A family of chords and how the editor writes them; both sides share one variable.

    `{letter}`, `{mark}` and `{char}` stand for a to z, for the other printable ASCII characters, and for both; written
    as `{LETTER}` the letter is a capital. `{key}` stands for a name in `keys.names`, `{n}` for a number in `numbers`.
    """

    chord: str
    written: str
    also: list[str] = []
    numbers: tuple[int, int] = (1, 12)
    without: list[str] = []


class Keys(msgspec.Struct, forbid_unknown_fields=True, rename="kebab"):
    """How the editor writes keys, which is also the complete list of those it can bind."""

    forms: list[Form]
    names: dict[str, str] = {}
    exact: dict[str, str] = {}
    also: dict[str, str] = {}
    modifiers: dict[str, str] = {}
    joiner: str = ""
    sequence: str = ""
    longest: int = 1


class Line(msgspec.Struct, forbid_unknown_fields=True, rename="kebab"):
    """One form of a line: its pattern with `{key}`, `{command}`, `{string}`, `{section}`, and what it means."""

    pattern: str
    means: str
    note: str = ""


class File(msgspec.Struct, forbid_unknown_fields=True, rename="kebab"):
    """The editor's key-binding file."""

    format: str
    name: str
    usual: list[str]
    default_section: str
    comment: str = "#"
    every_section: str = ""
    lines: list[Line] = []
    settings: list[str] = []


class Commands(msgspec.Struct, forbid_unknown_fields=True, rename="kebab"):
    """How commands are written: the one that does nothing, what joins a chain, what begins free text."""

    nothing: str = ""
    then: str = ""
    other_joints: list[str] = []
    free: list[str] = []
    function_in_string: str = ""
    literal_brace: str = ""
    string_keys: dict[str, str] = {}


class PolicyRow(msgspec.Struct, forbid_unknown_fields=True, rename="kebab"):
    """How the editor decides."""

    wins: str = "last"
    prefix: str = "waits"
    wait_ms: int = 1000
    unmatched: str = "types"


class FactRow(msgspec.Struct, forbid_unknown_fields=True, rename="kebab"):
    """A fact that only this editor knows."""

    values: list[str] = msgspec.field(default_factory=lambda: ["no", "yes"])
    title: str = ""
    open: bool = False


class Program(msgspec.Struct, forbid_unknown_fields=True, rename="kebab"):
    """How the editor is started for proving, and how it shows that it takes keys or asks a question instead."""

    command: list[str]
    ready: str
    package: str
    environment: dict[str, str] = {}
    questions: list[str] = []
    typing_replaces_selection: bool = False
    shows_selection_by: str = ""
    auto_indent: bool = False
    indentation: str = "\t"
    tab_width: int = 8
    comment: str = "# "
    stops_at_edges: bool = False
    column_counts: str = "characters"


class Description(msgspec.Struct, forbid_unknown_fields=True, rename="kebab"):
    """`dialect.toml`: an editor's syntax, abilities, policy and program."""

    name: str
    title: str
    version: str
    sources: list[str]
    terminal: str
    file: File
    keys: Keys
    commands: Commands
    policy: PolicyRow
    sections: dict[str, str]
    facts: dict[str, FactRow] = {}
    never: list[str] = []
    program: Program | None = None
    notes: list[str] = []


class Command(msgspec.Struct, forbid_unknown_fields=True, rename="kebab", frozen=True):
    """A row of `commands.toml`. Either `action`, or `only`: what a command does that no other editor has.

        `differs` says how the command's work differs from the action's; `sections` where it exists (none named:
    everywhere); `read` marks a command that is read as the action while another one is written for it, `fixed` one
    that only fixed default keys run.
    """

    action: str = ""
    only: str = ""
    differs: str = ""
    sections: tuple[str, ...] = ()
    read: bool = False
    fixed: bool = False
    documented: bool = True


class Group(msgspec.Struct, forbid_unknown_fields=True, rename="kebab"):
    """Default keys that hold in the same sections. `fixed` keys cannot be bound in the editor's file."""

    sections: list[str]
    keys: dict[str, str]
    fixed: bool = False
    platforms: list[str] = []


class Defaults(msgspec.Struct, forbid_unknown_fields=True, rename="kebab"):
    """`defaults.toml`: the complete default keys."""

    source: str
    group: list[Group]


class Composition(msgspec.Struct, forbid_unknown_fields=True, rename="kebab", frozen=True):
    """Commands that together do what an action does; `differs` says what else they do."""

    command: str
    differs: str = ""
    sections: tuple[str, ...] = ()


class CommandFile(msgspec.Struct, forbid_unknown_fields=True, rename="kebab"):
    """`commands.toml`: every command, and compositions for actions that have none of their own."""

    source: str
    command: dict[str, Command]
    composition: dict[str, Composition] = {}


def convert(table: Any, kind: type[Shape]) -> Shape:
    """The table as one of the shapes above. Raises msgspec.ValidationError, whose text names the key."""
    return msgspec.convert(table, kind)
