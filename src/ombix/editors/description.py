"""The shape of an editor's description: what the TOML files in its folder may hold."""

from typing import Literal

import msgspec

from ombix.core.catalogue.actions import Reach
from ombix.editors.file_description import FileRow


class KeyForm(msgspec.Struct, forbid_unknown_fields=True, rename="kebab"):
    """A family of chords and how the editor writes them; both sides share one variable.

    `{letter}`, `{mark}` and `{char}` stand for a to z, for the other printable ASCII characters, and for both; written
    as `{LETTER}` the letter is a capital. `{key}` stands for a name in `keys.names`, `{n}` for a number in `numbers`.
    With `held` the form has each group of these modifiers before it in turn, as `keys.modifiers` and `keys.joiner` say;
    `at-least` one of them, where that is 1; names that are `shifted` are signs that the editor has together with Shift."""

    chord: str
    written: str
    also: list[str] = []
    numbers: tuple[int, int] = (1, 12)
    without: list[str] = []
    held: list[str] = []
    at_least: int = 0
    shifted: list[str] = []


class KeyBytes(msgspec.Struct, forbid_unknown_fields=True, rename="kebab"):
    """Keys written as the bytes that the terminal sends.

    With a `joiner` each byte is a word: a control code by `control`, other ones by `names`; without it, the bytes stand
    as they are, control codes and what is in `quoted` behind `quote`. `named` are words for whole keys.
    """

    joiner: str = ""
    control: str = "^{char}"
    names: dict[str, str] = {}
    quote: str = ""
    quoted: str = ""
    named: dict[str, str] = {}
    without: list[str] = []
    events: list[str] = []
    """Words for events that are no keys."""


class Unbound(msgspec.Struct, forbid_unknown_fields=True, rename="kebab", frozen=True):
    """What becomes of keys to which nothing is bound: a chord with Alt comes `apart` into Escape and the key, or its key is
    `typed`; one with Ctrl is `typed` as a control character; with these in `text` the text does something by itself. The keys of
    some `commands` are such keys, too, where the command cannot be run."""

    text: tuple[str, ...] = ()
    commands: tuple[str, ...] = ()
    alt: Literal["", "apart", "typed"] = ""
    control: Literal["", "typed"] = ""


class KeySyntax(msgspec.Struct, forbid_unknown_fields=True, rename="kebab"):
    """How the editor writes keys, which is also the complete list of those it can bind."""

    forms: list[KeyForm] = []
    bytes: KeyBytes | None = None
    names: dict[str, str] = {}
    exact: dict[str, str] = {}
    also: dict[str, str] = {}
    read_only: list[str] = []
    """Chords that a file can name and that are never written, since pressing them runs another key's command."""
    modifiers: dict[str, str] = {}
    also_modifiers: dict[str, str] = {}
    """Other words for modifiers, which are read."""
    joiner: str = ""
    sequence: str = ""
    between: str = ""
    """What stands between the chords of a sequence."""
    longest: int = 1
    unbound: Unbound = Unbound()
    beginnings: bool = True  # whether a chord that begins a sequence can do something itself, too
    plainest: bool = False  # whether it knows of chords that arrive as the same bytes the plainest only
    modifiers_between: str = " "
    """What stands between modifiers that are beside their key in a file; a line feed: they are the texts of a list."""
    no_modifiers: str = ""
    """The word for no modifiers, where they are beside their key."""
    held_words: tuple[str, str] = ("true", "false")
    """How a file says that a modifier is held, and that it is not, where it says that of each beside the key."""
    pieces: str = ""
    """The two brackets around a key that is not one character, in keys that stand one behind the other without a sign."""


class CommandLine(msgspec.Struct, forbid_unknown_fields=True, rename="kebab", frozen=True):
    """Lines at the question for a command, as a regular expression (fully matched), behind which the editor takes keys as
    commands again: at once, or when the way out was pressed `ways_out` times more."""

    pattern: str
    ways_out: int = 0


class CommandSyntax(msgspec.Struct, forbid_unknown_fields=True, rename="kebab"):
    """How commands are written: the one that does nothing, what joins a chain, what begins free text."""

    nothing: str = ""
    then: str = ""
    other_joints: list[str] = []
    free: list[str] = []
    function_in_string: str = ""
    literal_brace: str = ""
    string_keys: dict[str, str] = {}
    free_text: str = ""
    """What text in quotes types, as `"{text}"`, where a command may be such a text."""
    keys: bool = False
    """Whether a command is keys that are pressed in its place."""
    remapping: dict[str, bool] = {}
    """Where keys of a command go through the other ones of the file: the settings that say so, and those that deny it."""
    typing: dict[str, str] = {}
    """Section to what types a text there, with `{text}`, where a command is keys, or text with commands in it."""
    enter_prefix: str = ""
    """The command that waits for a key of a table of its own, with `{name}`."""
    declare_prefix: str = ""
    """The statement that declares such a table, with `{name}`."""
    suffixes: str = ""
    """Signs that may stand behind a command's name and change how it fails or repeats."""
    call: str = ""
    """A command with arguments, as `{name}` and `{arguments}`."""
    between: str = ", "
    """What stands between two arguments."""
    outside: str = ""
    """Signs that no argument can have, as they end a command in the file."""
    counts: dict[str, str] = {}
    """Section to how a command is run several times there, as `{count}` and `{command}`."""
    lines: list[CommandLine] = []
    """Of an editor with modes: what is known of lines at the question for a command, the first that matches."""
    ways_out: int = 0
    """How often the key that leads back to commands has to be pressed, one press behind the other, until it is sure that they
    are taken as such, whatever was run before; 0: there is no number that suffices."""


class Conditions(msgspec.Struct, forbid_unknown_fields=True, rename="kebab"):
    """How a file writes conditions: words joined by signs, in groups.

    `words` has each of the editor's own words for states with the condition that it stands for; `{value}` in both stands
    for any value of an open fact.
    """

    both: str = "and"
    either: str = "or"
    negated: str = "not"
    group: tuple[str, str] = ("(", ")")
    words: dict[str, str] = {}


class PolicyRow(msgspec.Struct, forbid_unknown_fields=True, rename="kebab"):
    """How the editor decides."""

    wins: str = "last"
    prefix: str = "waits"
    wait_ms: int = 1000
    unmatched: str = "types"


class FactRow(msgspec.Struct, forbid_unknown_fields=True, rename="kebab"):
    """A fact that only this editor knows, or `more` values of one that is known to all, like a pane of its own."""

    values: list[str] = msgspec.field(default_factory=lambda: ["no", "yes"])
    title: str = ""
    open: bool = False
    more: list[str] = []


class Mode(msgspec.Struct, forbid_unknown_fields=True, rename="kebab"):
    """How the cursor is put in its place and a section is entered from the start (at the end of a line by `enter-at-end`,
    where that is another way), how a text is typed in it, and how it is left before saving. `{right}` in `enter` stands for
    `right` once for each character before the cursor."""

    enter: str = ""
    enter_at_end: str = ""
    right: str = ""
    typing: str = "{text}"
    leave: str = ""
    at_line_end: bool = True
    """Whether the cursor can be put behind the last character of a line."""


class Program(msgspec.Struct, forbid_unknown_fields=True, rename="kebab"):
    """How the editor is started for proving, and texts on the screen: that it takes keys, or asks a question instead."""

    command: list[str]
    ready: list[str]
    package: str
    environment: dict[str, str] = {}
    questions: list[str] = []
    typing_replaces_selection: bool = False
    shows_selection_by: str = ""
    auto_indent: bool = False
    indentation: str = "\t"
    tab_width: int = 8
    shift_width: int = 0
    comment: str = "# "
    stops_at_edges: bool = False
    ends_lines: bool = False
    """Whether a text always ends with a line break."""
    column_counts: str = "characters"
    escape_seconds: float = 0.0
    """How long the editor waits behind Escape for what may be a key together with it."""
    text: str = "text.sh"
    """The name of the file with the text."""
    config: str = ""
    """Where the file is read from, below the home folder, where the command cannot name it."""
    save: str = ""
    """Keys that save, where no bound key does."""
    window: bool = False
    """Whether the editor has a window of its own: `ready` are then parts of its title, with `{name}` for the text's file, and
    keys are pressed as key events."""
    caret_blinks: bool = False
    """Whether the caret of an editor in a window blinks, with nothing to be set about it."""
    bus: bool = False  # whether it needs a message bus of the session (D-Bus)
    command_line: list[str] = []
    """Keys, pressed one after the other, that run a `{command}` by its name, by default."""
    again: list[str] = []
    """The command that shows another text in the running editor."""
    files: dict[str, str] = {}
    """Files that are put into its home before it starts, by their paths in it."""
    settles_seconds: float = 0.1
    """How long an editor in a window takes behind its start before keys reach it."""
    again_settles_seconds: float = 0.1
    """How long it takes so behind another text."""
    key_seconds: float = 0.01
    """How long an editor in a window takes for a key."""
    modes: dict[str, Mode] = {}
    """Section to how one gets there and types, where that is not by typing alone."""


class EffectRow(msgspec.Struct, forbid_unknown_fields=True, rename="kebab"):
    """What holds for all commands of a section, as programs of `ombix.text.effects`: `fit` is run behind each command; `typing`
    is how a text, for which `kept` stands, is typed."""

    fit: str = ""
    typing: str = ""
    in_a_row: bool = False
    """Whether what is cut adds up only where nothing is between the cuts."""
    ends: bool = False
    """Whether a row of commands ends with one that cannot do its work."""
    selects: Literal["", "anchor", "mark", "held"] = "anchor"
    """How something is selected there: see `ombix.text.effects.execution`."""
    back: str = ""
    """What is run where the section holds again behind a single command of another one."""
    unsure: bool = False
    """Whether nothing is sure yet of what its commands do to a text."""


class StandInSettings(msgspec.Struct, forbid_unknown_fields=True, rename="kebab", frozen=True):
    """What a stand-in is set to: see stage/text."""

    indentation: str = "\t"
    tab_width: int = 4
    auto_indent: bool = False
    comment: str = "# "
    typing_replaces_selection: bool = True


class Prefix(msgspec.Struct, forbid_unknown_fields=True, rename="kebab"):
    """Keys behind which a table of its own holds: in which section, and behind which keys. With `leave`, keys that a command is
    are taken for others of that table, until they leave it with these."""

    section: str
    keys: str
    leave: str = ""


class Description(msgspec.Struct, forbid_unknown_fields=True, rename="kebab"):
    """`dialect.toml`: an editor's syntax, abilities, policy and program."""

    name: str
    title: str
    version: str
    sources: list[str]
    terminal: str
    file: FileRow
    keys: KeySyntax
    commands: CommandSyntax
    policy: PolicyRow
    sections: dict[str, str]
    also_called: list[str] = []
    """Other names of the editor, like that of its program."""
    versions: list[str] = []
    """The versions that it holds for, or their beginnings: `22.12` is that of 22.12.3, too; none: its own one only."""
    conditions: Conditions | None = None
    """How conditions are written; without it, a binding holds in all states of its section."""
    platforms: dict[str, str] = {}
    """The editor's words for platforms, where its file can say that a binding is for one only."""
    tables: list[str] = []
    """Names of tables of keys that are no section themselves, but that a file's sections may take keys over from."""
    prefixes: dict[str, Prefix] = {}
    """Names that stand in place of a section for keys behind a prefix."""
    facts: dict[str, FactRow] = {}
    never: list[str] = []
    program: Program | None = None
    effects: dict[str, EffectRow] = {}
    effect_settings: dict[str, str] = {}
    """Lines of the editor's file that change what its commands do to a text, to the setting that each is of
    `ombix.text.effects.buffer.Settings`. `{value}` stands for a word, which is its value, `{word}` for any word, and `{rest}` at
    the end for anything. `unknown=…`: how it changes programs about these topics is
    not described; `unchanged`: it changes none."""
    simulated: bool = False
    """Whether there is no such program, but a simulation of it in Ombix: a stand-in."""
    stands_on: StandInSettings = StandInSettings()
    """Of a stand-in: what it is set to."""
    notes: list[str] = []


class CommandRow(msgspec.Struct, forbid_unknown_fields=True, rename="kebab", frozen=True):
    """A row of `commands.toml`. Either `action`, or `only`: what a command does that no other editor has.

    `sections` says where it exists (none named: everywhere); `read` marks a command that is read as the action while
    another one is written for it, `fixed` one that only fixed default keys run. `reaches` says what it may touch; without
    it, what its action may, and of a command without one nothing is known. `effect` is what it does to a text with its
    cursor, as a program of `ombix.text.effects`; `facts` in the same language what it does beside a text; without both, what its
    action does. `unsure` is a test of the same language for states in which that is not so. `leads`: the section that holds
    behind it, with `once` for one command only. `next`: the key behind it is a character, its argument, or it waits for keys
    that are not looked into. `counts`: it takes a count, and is run as often as it can be (`most`), or
    as often or not at all (`all`). `stands_for`: actions in a row that it is read as in a macro.
    """

    action: str = ""
    only: str = ""
    sections: tuple[str, ...] = ()
    written: str = ""
    read: bool = False
    fixed: bool = False
    documented: bool = True
    arguments: tuple[str, ...] = ()
    given: dict[str, str] = {}
    counts: Literal["", "most", "all"] = ""
    effect: str = ""
    facts: str = ""
    unsure: str = ""
    leads: str = ""
    once: bool = False
    next: Literal["", "character", "keys"] = ""
    stands_for: tuple[str, ...] = ()
    reaches: Reach | Literal["unknown", ""] = ""

    def outcome_arguments(self, values: tuple[str, ...] = ()) -> tuple[tuple[str, str], ...]:
        """The action's arguments, for the values that the command is called with."""
        return tuple(sorted({**self.given, **dict(zip(self.arguments, values, strict=False))}.items()))


class DefaultGroup(msgspec.Struct, forbid_unknown_fields=True, rename="kebab"):
    """Default keys that hold in the same sections, in the states of `where`. `fixed`: no file can bind them."""

    sections: list[str]
    keys: dict[str, str]
    fixed: bool = False
    platforms: list[str] = []
    where: str = ""


class Scheme(msgspec.Struct, forbid_unknown_fields=True, rename="kebab"):
    """A named set of keys that a file's table may take over: its own, in the states of `where`, above those of `over`."""

    over: str = ""
    where: str = ""
    keys: dict[str, str] = {}


class Defaults(msgspec.Struct, forbid_unknown_fields=True, rename="kebab"):
    """`defaults.toml`: the complete default keys."""

    source: str
    group: list[DefaultGroup]
    scheme: dict[str, Scheme] = {}


class Composition(msgspec.Struct, forbid_unknown_fields=True, rename="kebab", frozen=True):
    """Commands that come near to what an action does, or with `exact` are read as it. `facts` are what they do where they
    are no row of commands, as a program of `ombix.text.effects`."""

    command: str
    facts: str = ""
    sections: tuple[str, ...] = ()
    exact: bool = False


class CommandFile(msgspec.Struct, forbid_unknown_fields=True, rename="kebab"):
    """`commands.toml`: every command, and compositions for actions that have none of their own."""

    source: str
    command: dict[str, CommandRow]
    composition: dict[str, Composition | list[Composition]] = {}
