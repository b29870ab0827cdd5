"""An editor's commands: what each means, which is written for an action, and how several are joined."""

import re
from collections.abc import Callable, Mapping, Sequence
from functools import cached_property
from typing import NamedTuple

from ombix.core.errors import OmbixError, did_you_mean
from ombix.core.keymap.outcomes import MAX_COUNT, Do, Nothing, Only, Outcome, Press, Step, Type, steers
from ombix.core.keys.notation import SHIFT, Chord, parse, types_text, write
from ombix.editors.byte_spelling import ByteSpelling
from ombix.editors.command_chains import Chains, unescaped
from ombix.editors.description import CommandRow, Composition, Description
from ombix.editors.key_spelling import Spelling
from ombix.editors.modal_grammar import Grammar

_LONGEST_COMMAND = 24
"""Characters of a command that is keys."""
_LONGEST_ROW = 2000
"""Characters of a row of keys that is looked into."""
_COUNT = re.compile("[1-9][0-9]{0,2}")
"""A count before a command."""
_TYPED = re.compile(r"<[^<>\s]+>|.", re.DOTALL)
"""A key as it stands in a row of keys: a name in brackets, or a character."""


class CommandPart(NamedTuple):
    """A command that is run in a section, or `type "…"` for a text that is typed there."""

    section: str
    command: str
    times: int = 1


class Vocabulary:
    """The commands of an editor, by what stands in its file; `spelling` tells how it writes keys."""

    def __init__(
        self, description: Description, commands: Mapping[str, CommandRow],
        compositions: Mapping[str, Composition | list[Composition]], spelling: Callable[[], Spelling | ByteSpelling],
        grammar: Grammar | None = None,
    ) -> None:  # fmt: skip
        self.editor = description.name
        self.syntax = description.commands
        self.sections = description.sections
        self._main_section = description.file.default_section
        self.commands = commands
        self.compositions: dict[str, tuple[Composition, ...]] = {
            action: tuple(found) if isinstance(found, list) else (found,) for action, found in compositions.items()
        }
        self._spelling = spelling
        self._grammar = grammar
        self.chains = Chains(description.commands)
        self._quote = description.keys.bytes.quote if description.keys.bytes is not None else ""

    # --- rows

    @cached_property
    def _rows(self) -> dict[str, list[CommandRow]]:
        """What stands in a file to the rows that it may be, by the section."""
        found: dict[str, list[CommandRow]] = {}
        for name, row in self.commands.items():
            found.setdefault(row.written or name, []).append(row)
        return found

    @cached_property
    def _takers(self) -> list[str]:
        """What stands in a file for commands that take the next key as a character."""
        return list(
            dict.fromkeys(row.written or name for name, row in self.commands.items() if row.next == "character")
        )

    @cached_property
    def by_action(self) -> dict[str, list[tuple[str, CommandRow]]]:
        """Action to the rows that can be written for it, with their names."""
        found: dict[str, list[tuple[str, CommandRow]]] = {}
        for name, row in self.commands.items():
            if row.action and not row.read and not row.fixed:
                found.setdefault(row.action, []).append((name, row))
        return found

    def can_do(self, action: str) -> bool:
        """Whether the editor has a command for an action, or several that do it together."""
        return action in self.by_action or action in self.compositions

    def has(self, written: str) -> bool:
        """Whether this stands for a command of the table."""
        return written in self._rows

    def rows_of(self, written: str) -> Sequence[CommandRow]:
        """The rows of what stands in a file, in any section."""
        return self._rows.get(written, ())

    def row_of(self, written: str, section: str = "") -> CommandRow | None:
        """The row of what stands in a file, in a section; without one, or in a table of keys, the first."""
        rows: Sequence[CommandRow] = self._rows.get(written, ())
        if not rows and self._grammar is not None and (made := self._grammar.row_of(written)) is not None:
            rows = (made,)
        is_any = section not in self.sections
        return next((row for row in rows if is_any or section in self.sections_of(row)), None)

    def sections_of(self, row: CommandRow | Composition | None) -> tuple[str, ...]:
        """The sections in which a command exists."""
        return row.sections if row is not None and row.sections else tuple(self.sections)

    def advice(self, command: str) -> str:
        """The nearest commands, as a sentence."""
        return did_you_mean(command, list(self.commands))

    # --- from commands to meanings

    def meaning(self, command: str) -> Do | Only:
        """What a command of the table means; where it takes arguments, with the argument 1."""
        row = self.commands[command]
        if not row.action:
            return Only(self.editor, row.written or command)
        return Do(row.action, row.outcome_arguments(("1",) * len(row.arguments)))

    def outcome(self, command: str, section: str = "") -> Outcome | None:
        """What a command in a file means, or None where the editor does not know it."""
        syntax = self.syntax
        if syntax.nothing and command == syntax.nothing:
            return Nothing()
        name, values = self.called(command)
        row = self.row_of(name, section) if name in self._rows else None
        if row is not None and values and len(values) != len(row.arguments):
            return None
        if row is not None and row.next == "character" and not values:
            return Do(row.action) if row.action and not row.given else Only(self.editor, command)
        if row is not None and row.action and (row.arguments or row.given):
            return Do(row.action, row.outcome_arguments(values)) if len(values) == len(row.arguments) else None
        if row is None and section in syntax.counts and (outcome := self._counted_outcome(command, section)):
            return outcome
        if row is None and syntax.suffixes:
            row = self.row_of(command.rstrip(syntax.suffixes), section)
            if row is not None:
                return Only(self.editor, command)
        if row is not None:
            return Do(row.action) if row.action else Only(self.editor, command)
        if (action := self.action_of_row(command, section)) is not None:
            return Do(action)
        if any(command.startswith(prefix) for prefix in syntax.free) and self.chains.typed_by(command) is None:
            return Only(self.editor, command)
        return None

    def action_of_row(self, command: str, section: str) -> str | None:
        """The action that is all that several commands in a row do in a section; None where there is none."""
        if not self.syntax.keys and section not in ("", self._main_section):
            return None
        for action, found in self.compositions.items():
            if any(one.exact and one.command == command and section in self.sections_of(one) for one in found):
                return action
        return None

    def _counted_outcome(self, command: str, section: str) -> Do | None:
        """The action that is run several times, where a command has a count before it."""
        match = self._count_shape(self.syntax.counts[section]).fullmatch(command)
        row = self.row_of(match["command"], section) if match else None
        if match is None or row is None or not row.counts or not 1 <= int(match["count"]) <= MAX_COUNT:
            return None
        return Do(row.action, (("count", match["count"]),))

    def called(self, command: str) -> tuple[str, tuple[str, ...]]:
        """A command's name and the arguments that it is called with."""
        syntax = self.syntax
        if command in self._rows:
            return command, ()
        for name in self._takers if syntax.keys else ():
            key = command.removeprefix(name)
            if key != command and (char := self._key_char(key)):
                return name, (char,)
        if not syntax.call:
            return command, ()
        match = self._call_shape.fullmatch(command)
        if match is None:
            return command, ()
        return match["name"], tuple(part.strip() for part in match["arguments"].split(syntax.between.strip() or None))

    def parts(self, written: str, section: str, may_leave: bool = False) -> "list[CommandPart] | None":
        """What stands in a file as the commands that it is when it is run in a section, one after the other; None where it is
        not known to be such a row, or ends in another section, unless it `may_leave`."""
        if self.syntax.keys:
            return self._keys_in_a_row(written, section, may_leave)
        found = self._pieces(written, section)
        return [CommandPart(section, one) for one in found] if found is not None else None

    def _pieces(self, written: str, section: str) -> list[str] | None:
        if self.row_of(self.called(written)[0], section) is not None:
            return [written]
        syntax = self.syntax
        if syntax.function_in_string:
            found: list[str] = []
            text = ""
            for brace, name, typed in self._in_string.findall(written):
                text += "{" if brace else typed
                if name:
                    found += [_typing_step(text)] * bool(text) + [name]
                    text = ""
            return [*found, *([_typing_step(text)] if text else [])] or None
        pieces = ((one, self.chains.typed_by(one)) for one in self.chains.split(written))
        return [one if text is None else _typing_step(text) for one, text in pieces] or None

    def _keys_in_a_row(self, written: str, section: str, may_leave: bool = False) -> "list[CommandPart] | None":
        """Keys as the commands that they run, the longest first, or as the text that they type, each in the section that holds
        when they are pressed."""
        found: list[CommandPart] = []
        here, once, at = section, "", 0
        while at < len(written):
            made = self._grammar.shape.match(written, at) if self._grammar is not None else None
            count, at = (1, at) if made is not None else self._count_at(written, at, here)
            size = next(
                (
                    size
                    for size in range(min(_LONGEST_COMMAND, len(written) - at), 0, -1)
                    if self.row_of(written[at : at + size], here) is not None
                ),
                0,
            )
            command = written[at : at + size]
            row = self.row_of(command, here) if size else None
            if count > 1 and (row is None or not row.counts):
                return None
            if row is None:
                typed = _TYPED.match(written, at)
                char = self._typed_char(typed[0], here) if typed is not None else ""
                if not char or typed is None:
                    return None
                command, size = _typing_step(char), len(typed[0])
            at += size
            if row is not None and row.next:
                more = _TYPED.match(written, at)
                if row.next == "keys" and more is None:
                    return None if found else [CommandPart(here, command, count)]
                if row.next == "keys" or more is None or not (char := self._key_char(more[0])):
                    return None
                command, at = command + char, more.end()
            found.append(CommandPart(here, command, count))
            if once:
                here, once = once, ""
                if row is not None and row.leads:
                    return None
            elif row is not None and row.leads:
                here, once = row.leads, here if row.once else ""
        return found if (here == section or may_leave) and not once else None

    def _count_at(self, written: str, at: int, section: str) -> tuple[int, int]:
        """The count that stands at a place, and the place behind it."""
        shape = _COUNT.match(written, at) if section in self.syntax.counts else None
        if shape is None or self.row_of(written[at : shape.end() + 1], section) is not None:
            return 1, at
        return int(shape[0]), shape.end()

    def key_steps(self, written: str, section: str) -> tuple[Step, ...]:
        """Keys as steps of a macro: the actions that they run and the text that they type; none where that is not all of
        it."""
        found: list[Step] = []
        if len(written) > _LONGEST_ROW:
            return ()
        for part in self._keys_in_a_row(written, section) or ():
            if len(found) > MAX_COUNT:
                return ()
            name, values = self.called(part.command)
            row = self.row_of(name, part.section)
            if row is None:
                before = found.pop().text if found and isinstance(found[-1], Type) else ""  # type: ignore[union-attr]
                found.append(Type(before + unescaped(part.command.removeprefix("type ")[1:-1])))
            elif row.stands_for:
                found += map(Do, row.stands_for)
            elif (
                not row.action
                or len(values) != len(row.arguments)
                or row.next == "keys"
                or (row.leads and not row.action.startswith("mode."))
            ):
                return ()
            elif not row.leads:
                found += [Do(row.action, row.outcome_arguments(values))] * part.times
        return tuple(found)

    def _typed_char(self, written: str, section: str) -> str:
        """The character that a key types in a section; empty where it types none."""
        return self._key_char(written) if self.syntax.typing.get(section) == "{text}" else ""

    def _key_char(self, written: str) -> str:
        """The character that a key stands for where it is typed; empty where it stands for none."""
        if len(written) == 1:
            return written if written.isprintable() else ""
        try:
            (chord,) = self._spelling().read(written)
        except (OmbixError, ValueError):
            return ""
        return _typed_by(chord) if types_text(chord) else ""

    @cached_property
    def _in_string(self) -> re.Pattern[str]:
        """A brace, a function, or a character, as they stand in a text with functions in it."""
        function = re.escape(self.syntax.function_in_string.replace("{name}", "\0")).replace("\0", "([a-z-]+)")
        return re.compile(f"({re.escape(self.syntax.literal_brace)})|{function}|(.)", re.DOTALL)

    @cached_property
    def _call_shape(self) -> re.Pattern[str]:
        """What a call looks like; made once."""
        shape = re.escape(self.syntax.call).replace(r"\{name\}", r"(?P<name>[^\s(),]+)")
        return re.compile(shape.replace(r"\{arguments\}", r"(?P<arguments>[^()]+)"))

    @cached_property
    def _count_shapes(self) -> dict[str, re.Pattern[str]]:
        return {}

    def _count_shape(self, pattern: str) -> re.Pattern[str]:
        if pattern not in self._count_shapes:
            shape = re.escape(pattern).replace(r"\{count\}", "(?P<count>[1-9][0-9]{0,3})")
            self._count_shapes[pattern] = re.compile(shape.replace(r"\{command\}", "(?P<command>.+)"))
        return self._count_shapes[pattern]

    # --- from meanings to commands

    def command_for(self, outcome: Do, section: str = "") -> str | None:
        """The command that is written for an action in a section; None where there is none.

        A command that takes no arguments stands only for an action without any.
        """
        values = dict(outcome.arguments)
        names = values.keys()
        for name, row in self.by_action.get(outcome.action, ()):
            if section and section not in self.sections_of(row):
                continue
            if row.next == "character" and not names and not row.given:
                return row.written or name  # it asks
            if {*row.arguments, *row.given} != names or any(values[key] != value for key, value in row.given.items()):
                continue
            written = row.written or name
            if row.arguments:
                base, said = written, tuple(values[key] for key in row.arguments)
                written = self._call(row, written, said)
                if self.called(written) != (base, said) or not all(map(self._can_be_told, said)):
                    continue  # a value that the editor's file cannot have there
            return written
        return None

    def _can_be_told(self, value: str) -> bool:
        """Whether a value can stand in the editor's file."""
        return value.isprintable() and not any(sign in value for sign in self.syntax.outside)

    def _call(self, row: CommandRow, name: str, values: Sequence[str]) -> str:
        """A command with the values of its arguments."""
        if row.next == "character":
            return name + ("".join(self._typed_keys(values[0]) or ()) if len(values[0]) == 1 else "")
        return self.syntax.call.replace("{name}", name).replace("{arguments}", self.syntax.between.join(values))

    def composition_for(self, action: str, section: str) -> Composition | None:
        """The commands that together do an action in a section, or None."""
        return next((one for one in self.compositions.get(action, ()) if section in self.sections_of(one)), None)

    def counted(self, command: str, count: int, section: str) -> str | None:
        """The command with a count before it, or None where it takes none."""
        pattern = self.syntax.counts.get(section)
        row = self.row_of(command, section)
        if pattern is None or row is None or not row.counts:
            return None
        return pattern.replace("{count}", str(count)).replace("{command}", command)

    def macro_text(self, steps: Sequence[Step], section: str = "") -> str | None:
        """The steps as one command of this editor in a section, or None where it cannot express them."""
        syntax = self.syntax
        pieces: list[str] = []
        for step in steps:
            piece = self._step_text(step, section)
            if piece is None and isinstance(step, Do) and not step.arguments:
                one = self.composition_for(step.action, section)
                if one is not None:
                    is_name = bool(syntax.function_in_string) and self.has(one.command)
                    pieces.append(syntax.function_in_string.replace("{name}", one.command) if is_name else one.command)
                    continue
            if piece is None:
                return None
            is_typed = isinstance(step, Type) or (isinstance(step, Press) and self._is_text(step, section))
            is_function = bool(syntax.function_in_string) and not is_typed
            pieces.append(syntax.function_in_string.replace("{name}", piece) if is_function else piece)
        if syntax.keys and not self.can_have("".join(pieces)):
            return None
        if syntax.function_in_string or syntax.keys:
            return "".join(pieces)
        return syntax.then.join(pieces) if syntax.then else None

    def can_have(self, command: str) -> bool:
        """Whether a command can stand in the file: the sign that quotes others cannot be quoted itself."""
        return not self._quote or self._quote not in command

    def _step_text(self, step: Step, section: str) -> str | None:
        """One step as a command, or None."""
        syntax = self.syntax
        if isinstance(step, Do):
            return self.command_for(step, section)
        if isinstance(step, Only):
            return step.command if step.editor == self.editor else None
        if isinstance(step, Type):
            return self._typing(step.text, section)
        if not isinstance(step, Press):
            return None
        if syntax.keys:
            written = [self._spelling().write((chord,)) for chord in step.keys]
            return None if None in written else self._spelling().unquoted("".join(map(str, written)))
        if self._is_text(step, section):
            if syntax.typing[section] == "{text}":
                return None
            return "".join(map(_typed_by, step.keys)).replace("{", syntax.literal_brace)
        return syntax.string_keys.get(write(step.keys)) if len(step.keys) == 1 else None

    def _is_text(self, step: Press, section: str) -> bool:
        """Whether pressed keys are written as a text: where keys are commands, a text is keys that are pressed."""
        return section in self.syntax.typing and not self.syntax.keys and all(map(types_text, step.keys))

    def _typing(self, text: str, section: str) -> str | None:
        """What types a text in a section, or None; what steers is no text."""
        syntax = self.syntax
        if steers(text):
            return None
        if syntax.function_in_string:
            if syntax.typing and section not in syntax.typing:
                return None
            if "\n" in text and "Enter" not in syntax.string_keys:
                return None  # a string ends with its line
            written = text.replace("{", syntax.literal_brace)
            enter = syntax.function_in_string.replace("{name}", syntax.string_keys.get("Enter", ""))
            return syntax.typing.get(section, "{text}").replace("{text}", written.replace("\n", enter))
        if syntax.free_text:
            return self.chains.typing(text)
        if syntax.keys and section in syntax.typing:
            typed = self._typed_keys(text)
            return None if typed is None else syntax.typing[section].replace("{text}", typed)
        return None

    def _typed_keys(self, text: str) -> str | None:
        """A text as the keys that type it."""
        names = {" ": "Space", "\t": "Tab", "\n": "Enter"}
        found = []
        for char in text:
            chord = parse(names[char])[0] if char in names else parse(char)[0] if char.isprintable() else None
            spelt = self._spelling().write((chord,)) if chord is not None else None
            if spelt is None:
                return None
            found.append(spelt)
        return self._spelling().unquoted("".join(found))


def _typing_step(text: str) -> str:
    """The step of a program that types a text."""
    escaped = text.replace("\\", "\\\\").replace('"', '\\"').replace("\t", "\\t").replace("\n", "\\n")
    return f'type "{escaped}"'


def _typed_by(chord: Chord) -> str:
    """The character that a key types."""
    return " " if chord.key == "Space" else chord.key.upper() if chord.modifiers & SHIFT else chord.key
