"""What an editor's file can express: which keys, which conditions, whether keys can be taken away."""

from collections.abc import Callable, Sequence
from typing import Literal

from ombix.core.conditions import Space, States
from ombix.core.keymap.bindings import Binding
from ombix.core.keymap.outcomes import Do, Only, Step
from ombix.core.keys.notation import ALT, SHIFT, Chord, Trigger, parse, types_text, write
from ombix.core.porting import TargetCommand
from ombix.core.pressing.terminals import Terminal
from ombix.editors.assigning import is_in_file
from ombix.editors.dialect import Dialect

MOST_REPEATED = 50
"""How many times a command is written in a row where the editor knows no counts."""


def can_write(dialect: Dialect, trigger: Trigger, section: str = "") -> bool:
    """Whether the editor's file can have this trigger, in a section."""
    return dialect.spelling.write(trigger) is not None or dialect.prefix_of(trigger, section) is not None


def can_take_away(dialect: Dialect) -> bool:
    """Whether the editor's file can take the editor's own keys away."""
    file = dialect.description.file
    if not file.takes_defaults_away:
        return False
    if file.assigns:
        return True
    forms = (*file.forms, *(file.words.forms if file.words else ()))
    has_directive = file.headed is not None and "delete" in file.headed.directives.values()
    return bool(dialect.description.commands.nothing) or has_directive or any(form.means == "remove" for form in forms)


def expressible(dialect: Dialect, states: States, section: States, space: Space) -> States:
    """The least set of states of a section that has `states` in it and that the file can express."""
    if dialect.wording is not None:
        return space.both(dialect.wording.expressible(space.both(states, section), space), section)
    if language_where(dialect, states, space):
        words = dialect.description.file.words
        others = space.mentioned(states) - {words.language if words else ""}
        return space.both(space.without(states, others), section)
    return section


def language_where(dialect: Dialect, states: States, space: Space) -> str:
    """The condition on the language, where the file can say one and the states have one."""
    words = dialect.description.file.words
    fact = words.language if words is not None else ""
    if not fact or fact not in space.mentioned(states):
        return ""
    values = [
        value for value in space.facts.by_name[fact].values if space.overlap(states, space.literal(fact, [value]))
    ]
    if not values or space.overlap(states, space.negate(space.literal(fact, values))):
        return ""
    return f"{fact} is {values[0]}" if len(values) == 1 else f"{fact} in ({', '.join(values)})"


class DescribedTarget:
    """A described editor as the target of a port."""

    def __init__(
        self, dialect: Dialect, home_of: Callable[[Binding], tuple[Dialect | None, str]] = lambda binding: (None, ""),
        terminal: Terminal | None = None,
    ) -> None:  # fmt: skip
        self._home_of = home_of
        self.name = dialect.name
        self.policy = dialect.policy
        self.never = dialect.description.never
        self.beginnings = dialect.description.keys.beginnings
        self._dialect = dialect
        self._terminal = terminal or dialect.terminal
        self._by_itself = frozenset(map(parse, dialect.description.keys.unbound.text))
        self._commands: dict[tuple[Do, str], TargetCommand | None] = {}
        self._bindable: dict[tuple[Trigger, str], bool] = {}

    def sections(self) -> dict[str, str]:
        """The editor's sections and their conditions."""
        return self._dialect.description.sections

    def expressible(self, states: States, section: States, space: Space) -> States:
        """The least set of states of a section that has `states` in it and that the editor's file can express."""
        return expressible(self._dialect, states, section, space)

    def can_bind(self, trigger: Trigger, section: str) -> bool:
        """Whether the editor's file can have this trigger in a section."""
        known = self._bindable.get((trigger, section))
        if known is None:
            known = self._bindable[trigger, section] = self._is_told(trigger) and can_write(
                self._dialect, trigger, section
            )
        return known

    def why_not(self, trigger: Trigger) -> str:
        """Why it cannot."""
        if not self._is_told(trigger):
            return f"{write(trigger)} arrives as {write(self._terminal.canonical(trigger))} in {self.name}"
        return self._dialect.spelling.why_not(trigger, self.name)

    def bindable(self) -> list[Trigger]:
        """All single chords that the editor's file can have."""
        return [(chord,) for chord in self._dialect.spelling.chords() if self._is_told((chord,))]

    def _is_told(self, trigger: Trigger) -> bool:
        """Whether the editor can tell the trigger from what arrives as the same bytes, or is so told of all of these."""
        return not self._dialect.description.keys.plainest or self._terminal.canonical(trigger) == trigger

    def command_for(self, outcome: Do, section: str) -> TargetCommand | None:
        """The command for an action in a section; failing that, a composition."""
        if (outcome, section) not in self._commands:
            self._commands[outcome, section] = self._command_for(outcome, section)
        return self._commands[outcome, section]

    def own_command(self, binding: Binding) -> TargetCommand | None:
        """The command that a binding was adopted from, where that was one of this editor."""
        home, command = self._home_of(binding)
        if home is None or home.name != self.name or not self._dialect.vocabulary.can_have(command):
            return None
        return TargetCommand(command, "", not self._dialect.vocabulary.has(command))

    def ways_for(self, outcome: Do, section: str) -> list[TargetCommand]:
        """All commands and compositions for an action in a section, that of `command_for` first."""
        first = self.command_for(outcome, section)
        if first is None or outcome.count > 1 or outcome.arguments:
            return [first] if first is not None else []
        found = self._dialect.vocabulary.compositions.get(outcome.action, ())
        more = [
            TargetCommand(one.command, "", True)
            for one in found
            if section in self._dialect.vocabulary.sections_of(one) and one.command != first.written
        ]
        return [first, *more]

    def _command_for(self, outcome: Do, section: str) -> TargetCommand | None:
        if outcome.count > 1:
            return self._counted(outcome.once, outcome.count, section)
        outcome = outcome.once
        vocabulary = self._dialect.vocabulary
        found = vocabulary.command_for(outcome, section)
        if found is not None:
            return TargetCommand(found)
        one = None if outcome.arguments else vocabulary.composition_for(outcome.action, section)
        if one is None:
            return None
        return TargetCommand(one.command, "", True)

    def _counted(self, outcome: Do, count: int, section: str) -> TargetCommand | None:
        """A command with a count, or the same command several times in a row."""
        base = self.command_for(outcome, section)
        if base is None:
            return None
        text = self._dialect.vocabulary.counted(base.written, count, section)
        if text is None and count <= MOST_REPEATED:
            step = Only(self.name, base.written) if base.is_composition else outcome
            text = self.macro_text([step] * count, section)
        return TargetCommand(text, "", True) if text is not None else None

    def macro_text(self, steps: Sequence[Step], section: str) -> str | None:
        """Steps as one command of this editor in a section, or None."""
        return self._dialect.vocabulary.macro_text(steps, section)

    def where(self, sections: Sequence[str]) -> str:
        """The condition that means these sections."""
        return self._dialect.where(sections)

    def unbound(self, trigger: Trigger) -> Literal["", "apart", "typed", "text"]:
        """What becomes of keys to which nothing is bound: nothing, they come apart into others, as Alt and a key into Escape
        and the key, they are typed, or the text does something by itself."""
        known = self._dialect.description.keys.unbound
        if trigger in self._by_itself:
            return "text"
        sent = self._dialect.terminal.send(trigger)
        is_escape = isinstance(sent, bytes) and sent[:1] == b"\x1b" and len(sent) > 1
        if known.alt == "apart" and (is_escape or any(one.modifiers & ALT for one in trigger)):
            return "apart"
        first = trigger[0]
        if known.alt == "typed" and first.modifiers & ~SHIFT == ALT and types_text(Chord(0, first.key)):
            return "typed"
        return "typed" if known.control and isinstance(sent, bytes) and sent < b" " else ""

    def passes_on(self, written: str) -> bool:
        """Whether keys of a command, as it is written, are as if nothing were bound to them where it cannot be run."""
        name, _arguments = self._dialect.vocabulary.called(written)
        return name in self._dialect.description.keys.unbound.commands

    def can_take_away(self, written: Sequence[str] = ()) -> bool:
        """Whether the editor's file can take keys away: from these commands, as they are written."""
        if self._dialect.description.file.assigns and not all(is_in_file(self._dialect, one) for one in written):
            return False
        return can_take_away(self._dialect)

    @property
    def holds_one_key(self) -> bool:
        """Whether the editor's file has one key for each command."""
        return self._dialect.description.file.assigns == "one"
