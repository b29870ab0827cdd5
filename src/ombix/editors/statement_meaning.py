"""What a statement of an editor's file does: an action, a macro, a command of that editor alone, or nothing."""

import re

from msgspec.structs import replace

from ombix.core.errors import InputError
from ombix.core.keymap.bindings import Layer
from ombix.core.keymap.outcomes import Do, Macro, Nothing, Only, Outcome, Play, Press, Step, Type
from ombix.core.keys.notation import Chord, Trigger, parse
from ombix.editors.dialect import Dialect, name_of_keys
from ombix.editors.formats import Statement
from ombix.editors.remap import RemapResolver

_FUNCTION = re.compile(r"\{\{\}|\{([^{}]*)\}")


class StatementMeaning:
    """Finds outcomes for the statements of one file. `defined` has names that the file gives to commands; macros that it
    comes across are put into the layer."""

    def __init__(self, dialect: Dialect, layer: Layer, defined: dict[str, str], follower: RemapResolver) -> None:
        self.dialect = dialect
        self.follower = follower
        self.layer = layer
        self.defined = defined

    def outcome(self, statement: Statement, trigger: Trigger, section: str) -> Outcome:
        """What a statement does on a trigger in a section. Raises InputError for a command that is not known."""
        dialect, syntax = self.dialect, self.dialect.description.commands
        if statement.kind == "remove":
            return Nothing()
        if statement.is_string:
            if (action := dialect.vocabulary.action_of_row(statement.command, section)) is not None:
                return Do(action)
            steps = self._typed(self._string_steps(statement), statement, section)
            if len(steps) == 1 and isinstance(steps[0], Do | Only):
                return steps[0]
            return self._macro(statement, trigger, steps)
        command = self.follower.follow(statement)
        outcome = dialect.vocabulary.outcome(command, section)
        if outcome is not None:
            return outcome
        if command in self.defined:
            return Only(dialect.name, command)
        if syntax.keys:
            steps = dialect.vocabulary.key_steps(command, section)
            return self._macro(statement, trigger, steps or (Press(dialect.spelling.read_row(command)),))
        parts = dialect.vocabulary.chains.split(command)
        if len(parts) > 1 or (parts and dialect.vocabulary.chains.typed_by(parts[0]) is not None):
            found = [self._part(part, statement, section) for part in parts]
            only_then = syntax.free_text or command.count(syntax.then) == len(parts) - 1
            if only_then and all(isinstance(one, Do | Only | Type) for one in found):
                return self._macro(statement, trigger, tuple(found))  # type: ignore[arg-type]
            return Only(dialect.name, command)
        raise self._unknown(command, statement)

    def _part(self, part: str, statement: Statement, section: str) -> Outcome | Type:
        """One part of a chain."""
        syntax = self.dialect.description.commands
        if (text := self.dialect.vocabulary.chains.typed_by(part)) is not None:
            return Type(text)
        outcome = self.dialect.vocabulary.outcome(part, section)
        if outcome is None and part.rstrip(syntax.suffixes or " ") in self.defined:
            outcome = Only(self.dialect.name, part)
        if outcome is None:
            raise self._unknown(part, statement)
        return outcome

    def _unknown(self, command: str, statement: Statement) -> InputError:
        advice = self.dialect.vocabulary.advice(command)
        return InputError(f"{self.dialect.name} has no command {command}", advice, statement.place)

    def _macro(self, statement: Statement, trigger: Trigger, steps: tuple[Step, ...]) -> Play:
        base = f"on-{name_of_keys(trigger)}"
        name, number = base, 2
        macros = self.layer.macros
        while name in macros and macros[name].steps != steps:
            name, number = f"{base}-{number}", number + 1
        macros[name] = Macro(name, statement.title or statement.command, steps, statement.place)
        return Play(name)

    def _string_steps(self, statement: Statement) -> tuple[Step, ...]:
        """The steps of a text with commands in it."""
        syntax = self.dialect.description.commands
        keys = {name: key for key, name in syntax.string_keys.items()}
        steps: list[Step] = []
        text = ""
        position = 0
        string = statement.command
        for match in [*_FUNCTION.finditer(string), None]:
            text += string[position : match.start() if match else None]
            if match is not None and match[0] == syntax.literal_brace:
                text += "{"
                position = match.end()
                continue
            if text:
                steps.append(Type(text))
                text = ""
            if match is None:
                break
            position = match.end()
            if match[1] in keys and len(string) > len(match[0]):
                steps.append(Press(parse(keys[match[1]])))
                continue
            outcome = self.dialect.vocabulary.outcome(match[1])
            if not isinstance(outcome, Do | Only):
                raise self._unknown(match[1], statement)
            steps.append(outcome)
        return tuple(steps)

    def _typed(self, steps: tuple[Step, ...], statement: Statement, section: str) -> tuple[Step, ...]:
        """The steps of a text in a section where keys are commands: what is typed there has to be led into, and other
        text is keys."""
        typing = self.dialect.description.commands.typing.get(section, "{text}")
        if typing == "{text}":
            return steps
        before, _, after = typing.partition("{text}")
        start, end = (self._string_steps(replace(statement, command=part)) for part in (before, after))
        found: list[Step] = []
        index = 0
        while index < len(steps):
            text = index + len(start)
            stop = text + 1 + len(end)
            is_led = steps[index:text] == start and steps[text + 1 : stop] == end
            if is_led and text < len(steps) and isinstance(steps[text], Type):
                found.append(steps[text])
                index = stop
                continue
            step = steps[index]
            found.append(Press(tuple(map(_key_for, step.text))) if isinstance(step, Type) else step)
            index += 1
        return tuple(found)


def _key_for(char: str) -> Chord:
    """The key that types a character."""
    return parse({" ": "Space", "\t": "Tab", "\n": "Enter"}.get(char, char))[0]
