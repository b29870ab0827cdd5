"""What a port has to say: what it needs of the target editor, what became of each binding, and what is to be written."""

from collections.abc import Callable, Sequence
from typing import Literal, NamedTuple, Protocol

from msgspec import Struct, field

from ombix.core.conditions import NEVER, Space, States
from ombix.core.keymap.bindings import Binding, Layer, LayerName
from ombix.core.keymap.deciding import Policy
from ombix.core.keymap.outcomes import Do, Macro, Outcome, Step
from ombix.core.keys.notation import Trigger
from ombix.core.porting.everyday import Answer, EverydayDifference

Verdict = Literal["exact", "adapted", "lost"]
VERDICTS: tuple[Verdict, ...] = ("exact", "adapted", "lost")

PORT_LAYER = LayerName("port", "port", "adopted")
"""The layer that a port writes."""


class TargetCommand(Struct, frozen=True):
    """A target editor's command for an action, and how its work differs ("" where it does not)."""

    written: str
    differs: str = ""
    is_composition: bool = False


def _never_counted() -> None:
    return None


class Judgement(NamedTuple):
    """How what a command does compares with what a binding does: how it differs ("": it does not); `everyday` tells how often in
    everyday use (None: not that it is known)."""

    differs: str
    everyday: Callable[[], EverydayDifference | None] = _never_counted
    is_known: bool = True
    """Whether the two could be compared."""


class PortDifference(NamedTuple):
    """A difference beside what is done to a text: how it is said, whether it shows in everyday use, and how it is said in short
    there ("": the same)."""

    said: str
    is_everyday: bool = True
    plain: str = ""


class TargetEditor(Protocol):
    """What porting needs to know of the target editor."""

    name: str
    policy: Policy
    never: list[str]
    """The conditions that no state of the editor fulfils."""
    beginnings: bool
    """Whether a chord that begins a sequence can do something itself, too."""

    @property
    def holds_one_key(self) -> bool:
        """Whether the editor's file has one key for each command, in place of its default ones."""

    def sections(self) -> dict[str, str]:
        """The editor's sections (panes, menus) and the condition that each stands for."""

    def expressible(self, states: States, section: States, space: Space) -> States:
        """The least set of states of a section that has `states` in it and that the editor's file can express."""

    def can_bind(self, trigger: Trigger, section: str) -> bool:
        """Whether the editor's file can have this trigger in a section."""

    def why_not(self, trigger: Trigger) -> str:
        """Why it cannot."""

    def bindable(self) -> list[Trigger]:
        """All single chords that the editor's file can have."""

    def own_command(self, binding: Binding) -> TargetCommand | None:
        """The command that a binding was adopted from, where that was one of this editor."""

    def ways_for(self, outcome: Do, section: str) -> Sequence[TargetCommand]:
        """All commands and compositions for an action in a section, that of `command_for` first."""

    def command_for(self, outcome: Do, section: str) -> TargetCommand | None:
        """The command for an action in a section, or commands that do the same together."""

    def macro_text(self, steps: Sequence[Step], section: str) -> str | None:
        """Steps as one command of this editor in a section, or None."""

    def where(self, sections: Sequence[str]) -> str:
        """The condition that means these sections."""

    def unbound(self, trigger: Trigger) -> Literal["", "apart", "typed", "text"]:
        """What becomes of keys to which nothing is bound: nothing, they come apart into others, as Alt and a key into Escape
        and the key, they are typed, or the text does something by itself."""

    def passes_on(self, written: str) -> bool:
        """Whether keys of a command, as it is written, are as if nothing were bound to them where it cannot be run."""

    def can_take_away(self, written: Sequence[str] = ()) -> bool:
        """Whether the editor's file can take keys away: from these commands, as they are written."""


class PortEntry(Struct, frozen=True):
    """What became of one source binding. `trigger` is what is pressed in the target, None where the binding is lost.

    `displaced` names what the target's defaults had on these keys, by section, `cleared` what they had on others that had
    to go: on longer ones, which would make these wait, or on shorter ones, which would fire first. `sections` tells where
    the binding holds, and `states` in which states. `elsewhere`: keys that a lost action has in the target all the same.
    """

    source: Binding
    verdict: Verdict
    how: str
    trigger: Trigger | None = None
    sections: tuple[str, ...] = ()
    written: tuple[str, ...] = ()
    displaced: tuple[tuple[str, Outcome], ...] = ()
    cleared: tuple[tuple[Trigger, str, Outcome], ...] = ()
    states: States = NEVER
    elsewhere: Trigger | None = None
    commands: tuple[tuple[str, str], ...] = ()
    """The commands that the keys run, by section: what was written, or what they have by default."""
    macro: Macro | None = None
    """The macro that they play, or whose text is that of a snippet, with its steps as they were carried."""
    everyday: EverydayDifference | None = None
    """How what is done to a text differs in everyday use; of a lost one what a command does that was not written for it."""
    is_compared: bool = True
    """Whether all that is done to a text is known of both sides."""
    also: tuple[str, ...] = ()
    """What else shows in everyday use."""
    moved: str = ""
    """Why it is on other keys, where it is."""

    @property
    def answer(self) -> Answer:
        """What becomes of the keys in everyday use."""
        is_careful = self.everyday is not None and self.everyday.is_careful
        if self.verdict == "lost":
            return "careful" if is_careful else "gone"
        if is_careful:
            return "careful"
        shows = self.also or self.moved or (self.everyday is not None and not self.everyday.is_rare)
        return "works but" if shows else "works"

    def plainly(self, editor: str) -> tuple[str, ...]:
        """What of that shows in everyday use, as sentences; none where the keys just work."""
        found = [_sentence(self.moved)] if self.moved else []
        everyday = self.everyday
        if everyday is not None and everyday.said and not everyday.is_rare:
            found.append(everyday.said.format(editor=editor))
        if self.verdict == "lost" and everyday is None:
            found.append(_sentence(self.how))
        found += map(_sentence, self.also)
        if found and not self.is_compared and (everyday is None or not everyday.said):
            found.append("What it does was not compared.")
        return tuple(found)


def said_plainly(entry: PortEntry, editor: str) -> str:
    """What shows in everyday use of what became of a binding, in one line without a full stop: to go on with."""
    said = " ".join(entry.plainly(editor)).removesuffix(".")
    if entry.verdict == "lost" and entry.answer == "careful":
        return f"not written, to be safe: {said}"
    is_word = said[1:2].islower() and "+" not in said.split()[0]
    return said[:1].lower() + said[1:] if is_word or said[1:2] == " " else said


def _sentence(said: str) -> str:
    return f"{said[:1].upper()}{said[1:]}." if not said[:1].isupper() else f"{said}."


class Rehomed(Struct, frozen=True):
    """A default of the target that lost its keys, and the free ones that it got."""

    outcome: Outcome
    old: Trigger
    new: Trigger
    sections: tuple[str, ...]


class Port(Struct):
    """The result: one entry for each binding that wins somewhere, and the layer to be written."""

    entries: list[PortEntry] = []
    rehomed: list[Rehomed] = []
    layer: Layer = field(default_factory=lambda: Layer(PORT_LAYER))

    def count(self, verdict: Verdict) -> int:
        """How many entries have this verdict."""
        return sum(1 for entry in self.entries if entry.verdict == verdict)


def by_section(differs: dict[str, str]) -> list[str]:
    """How the work differs; where it does so in some sections only, or each time in another way, with the section."""
    said = {text for text in differs.values() if text}
    if len(said) == 1 and all(differs.values()):
        return [*said]
    if len(differs) < 2:
        return [*said]
    return [f"in {', '.join(name for name, each in differs.items() if each == text)}, {text}" for text in sorted(said)]
