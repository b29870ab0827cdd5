"""Changes to a keymap or a workspace as values: what is to be changed, and what that is in words.

Nothing is changed here. `ombix.files.editing` applies a list of changes to a file's text, comments kept.
"""

from typing import Literal

from msgspec import Struct

from ombix.core.keys.notation import Trigger, write

Arguments = tuple[tuple[str, str], ...]
NamedKind = Literal["macro", "snippet"]
"""What an entry of a keymap can be that has a name of the user's own."""


class Bind(Struct, frozen=True):
    """Give an action keys. With `platform` only there; `adds`: beside the keys that it has, here and in lower layers. `without`:
    platforms on which it has none, whatever lower layers say."""

    action: str
    keys: Trigger
    where: str = ""
    platform: str = ""
    adds: bool = False
    arguments: Arguments = ()
    why: str = ""
    without: tuple[str, ...] = ()


class BindCommand(Struct, frozen=True):
    """Give a command that only one editor has keys."""

    editor: str
    command: str
    keys: Trigger
    where: str = ""
    platform: str = ""
    adds: bool = False


class BindNamed(Struct, frozen=True):
    """Give a macro or a snippet keys, in place of those that it has; `adds`: beside them."""

    kind: NamedKind
    name: str
    keys: Trigger
    where: str = ""
    platform: str = ""
    adds: bool = False


class AddNamed(Struct, frozen=True):
    """Put a macro or a snippet into the keymap, as its lines stand in a file."""

    kind: NamedKind
    name: str
    text: str


class TakeAway(Struct, frozen=True):
    """Take all keys of an action away, in this keymap and all below it, with the reason kept."""

    action: str
    why: str = ""


class Unbind(Struct, frozen=True):
    """Have keys do nothing, whatever lower layers and the editor's defaults bind them to."""

    keys: Trigger
    where: str = ""
    why: str = ""


class Remove(Struct, frozen=True):
    """Take one binding out of the keymap: that of `name` (an action, or a macro) on these keys, under this condition."""

    name: str
    keys: Trigger
    where: str = "always"


class RemoveUnbind(Struct, frozen=True):
    """Take the entry out that has keys do nothing."""

    keys: Trigger


class RemoveTakeAway(Struct, frozen=True):
    """Take the entry out that takes an action's keys away."""

    action: str


class Narrow(Struct, frozen=True):
    """Have one binding hold under another condition."""

    name: str
    keys: Trigger
    where: str
    to: str


class Move(Struct, frozen=True):
    """Put one binding on other keys."""

    name: str
    keys: Trigger
    where: str
    to: Trigger


class Accept(Struct, frozen=True):
    """Have a finding stay quiet, for all keys or for these."""

    rule: str
    why: str
    keys: Trigger = ()


class RemoveAccept(Struct, frozen=True):
    """Take an acceptance out."""

    rule: str
    keys: Trigger = ()


class Correct(Struct, frozen=True):
    """Write a word in place of one that means nothing, at a line and a column of the file (both from 1)."""

    line: int
    column: int
    word: str
    to: str


CommandRun = Literal["ours", "theirs"]
SIDES: tuple[CommandRun, ...] = ("ours", "theirs")
"""The two sides of a merge."""


class Settle(Struct, frozen=True):
    """Settle what a merge left open: an entry as it stands, or as `ours` or `theirs` had it; or `keys` that both use, as they
    are bound."""

    at: tuple[str, ...]
    take: Literal["as it is", "ours", "theirs"]
    keys: Trigger = ()

    @property
    def name(self) -> str:
        """What a binding of the entry is named by."""
        return (":" if self.at[:1] == ("only",) else ".").join(self.at[1:])


class MapCommand(Struct, frozen=True):
    """In a workspace: say which action an editor's command stands for."""

    editor: str
    command: str
    action: str


class AddLayer(Struct, frozen=True):
    """In a workspace: put one more layer above those that it has."""

    file: str


class AddEditor(Struct, frozen=True):
    """In a workspace: name an editor."""

    name: str
    dialect: str
    file: str = ""
    terminal: str = ""


KeymapChange = (
    Bind
    | BindCommand
    | BindNamed
    | AddNamed
    | TakeAway
    | Unbind
    | Remove
    | RemoveUnbind
    | RemoveTakeAway
    | Narrow
    | Move
    | Accept
    | RemoveAccept
    | Settle
    | Correct
)
WorkspaceChange = MapCommand | AddLayer | AddEditor
Change = KeymapChange | WorkspaceChange


def in_words(change: Change) -> str:
    """What a change does, as a short sentence without a full stop."""
    match change:
        case Bind(action=name, keys=keys, where=where, platform=platform, adds=adds):
            return f"bind {name} to {write(keys)}{' as well' * adds}{_on(platform)}{_when(where)}"
        case BindCommand(editor=editor, command=command, keys=keys, where=where, platform=platform):
            return f"bind {editor}'s command {command} to {write(keys)}{_on(platform)}{_when(where)}"
        case BindNamed(kind=kind, name=name, keys=keys, where=where, platform=platform, adds=adds):
            return f"bind the {kind} {name} to {write(keys)}{' as well' * adds}{_on(platform)}{_when(where)}"
        case AddNamed(kind=kind, name=name):
            return f"add the {kind} {name}"
        case TakeAway(action=name, why=why):
            return f"take the keys of {name} away{_because(why)}"
        case Unbind(keys=keys, where=where, why=why):
            return f"have {write(keys)} do nothing{_when(where)}{_because(why)}"
        case Remove(name=name, keys=keys, where=where):
            return f"take {name} off {write(keys)}{_when(where)}"
        case RemoveUnbind(keys=keys):
            return f"take the entry out that has {write(keys)} do nothing"
        case RemoveTakeAway(action=name):
            return f"take the entry out that takes the keys of {name} away"
        case Narrow(name=name, keys=keys, to=to):
            return f"have {name} on {write(keys)} hold only when {to}"
        case Move(name=name, keys=keys, to=to):
            return f"move {name} from {write(keys)} to {write(to)}"
        case Accept(rule=rule, keys=keys, why=why):
            return f"accept {rule}{_for(keys)}{_because(why)}"
        case RemoveAccept(rule=rule, keys=keys):
            return f"no longer accept {rule}{_for(keys)}"
        case Settle(at=at, take=take, keys=keys):
            what = ".".join(at) or write(keys)
            return f"leave {what} as it is" if take == "as it is" else f"take {what} as {take} had it"
        case Correct(word=word, to=to):
            return f"write {to} instead of {word}"
        case MapCommand(editor=editor, command=command, action=action):
            return f"take {editor}'s command {command} as {action}"
        case AddLayer(file=file):
            return f"add the layer {file}"
        case AddEditor(name=name, dialect=dialect):
            return f"add the editor {name}, which is {dialect}"


def _on(platform: str) -> str:
    return f" on {platform}" if platform else ""


def _when(where: str) -> str:
    return f" when {where}" if where not in ("", "always") else ""


def _because(why: str) -> str:
    return f": {why}" if why else ""


def _for(keys: Trigger) -> str:
    return f" for {write(keys)}" if keys else ""
