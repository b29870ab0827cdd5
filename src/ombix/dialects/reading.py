"""Reads a file of an editor: which statement is in force at the end, what it means, and what became of each."""

import re
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING

from ombix.core.conditions import ALWAYS
from ombix.core.errors import InputError, NotationError, OmbixError, Place, did_you_mean
from ombix.core.keymap import Binding, Do, Kept, Layer, Macro, Nothing, Only, Outcome, Play, Press, Step, Type
from ombix.core.keys import Chord, Trigger, parse, write
from ombix.dialects.bytes import NotSent
from ombix.dialects.formats import Statement

if TYPE_CHECKING:
    from ombix.dialects.engine import Dialect

_FUNCTION = re.compile(r"\{\{\}|\{([^{}]*)\}")


@dataclass(frozen=True, slots=True)
class Line:
    """What became of one statement of a file that was read."""

    place: Place
    written: str
    became: str
    is_kept: bool = False
    is_fault: bool = False
    """Whether it looks like a mistake."""


@dataclass(frozen=True, slots=True)
class Reading:
    """A file that was read: its layer, and an account of every statement in it."""

    layer: Layer
    account: tuple[Line, ...]


class FileReader:
    """The reading of one file: which statement is in force at the end, and what became of each."""

    def __init__(self, dialect: "Dialect", layer: Layer, statements: list[Statement]) -> None:
        self.dialect = dialect
        self.layer = layer
        self.given = self._scheme_statements()
        """Statements of the editor's own schemes, which stand before those of the file."""
        statements = self.statements = [*self.given, *statements]
        self.became = [""] * len(statements)
        self.kept: set[int] = set()
        self.faults: set[int] = {index for index, one in enumerate(statements) if one.is_fault}
        self.tables = {
            *dialect.description.tables, *dialect.schemes,
            *(one.section for one in statements if one.kind == "inherit"),
        }  # fmt: skip
        """Names of tables that are no section, but that sections may take keys over from."""
        self.defined: dict[str, str] = {}
        self._described: dict[str, str] = {}
        self.declared: set[str] = set()
        self.prefixes: dict[str, tuple[str, Trigger]] = {
            name: (row.section, parse(row.keys)) for name, row in dialect.description.prefixes.items()
        }

    def read(self) -> Reading:
        """The layer and the account of every statement."""
        layer = self.layer
        self._find_definitions()
        self._find_prefixes()
        force: dict[tuple[Trigger, str, str], int] = {}
        outcomes: dict[tuple[int, str], Outcome] = {}
        replaced_by: dict[int, Place] = {}
        existing = self.dialect.default_sections
        for index, statement in enumerate(self.statements):
            if statement.kind in ("keep", "define", "inherit", "structure"):
                self.became[index] = self.became[index] or statement.note
                self.kept.add(index)
                if statement.kind == "inherit" and statement.key not in (
                    *self.tables, *self.dialect.description.sections,
                ):  # fmt: skip
                    self.faults.add(index)
                    self.became[index] = f"{self.dialect.name} knows no {statement.key} to take keys over from"
                for (trigger, home, where), other in list(force.items()) if statement.kind == "inherit" else ():
                    if home == statement.key:
                        force[trigger, statement.section, where] = other
                continue
            if self.became[index]:
                continue  # it leads to a table of keys
            declaration = self.dialect.description.commands.declare_prefix.replace("{name}", statement.section)
            is_declared = bool(declaration) and any(one.written == declaration for one in self.statements)
            if statement.section not in self.prefixes and is_declared:
                self.became[index] = f"stands in the table {statement.section}, which no key leads to"
                self.kept.add(index)
                continue
            try:
                section, trigger = self._trigger(statement)
                self._where_of(statement)
                self._platforms_of(statement)
                added = {home for (bound, home, _) in force if bound == trigger}
                sections = self._sections(statement, section, existing.get(trigger, set()) | added)
                for home in sections or ("",):
                    self._outcome(statement, trigger, home)
            except OmbixError as error:
                self.became[index] = error.what + (f" ({error.advice})" if error.advice else "")
                self.kept.add(index)
                if not isinstance(error, NotSent):
                    self.faults.add(index)
                continue
            for home in sections:
                where = " on ".join((statement.where, statement.platform))
                before = force.get((trigger, home, where))
                if before is not None and self.dialect.policy.wins == "first":
                    replaced_by[index] = self.statements[before].place
                    continue
                if before is not None:
                    replaced_by[before] = statement.place
                force[trigger, home, where] = index
            if not sections:
                self.became[index] = "changes nothing: the key is bound in no such section"
        homes: dict[int, dict[Outcome, list[str]]] = {}
        triggers: dict[int, Trigger] = {}
        for (trigger, home, _where), index in force.items():
            if home in self.dialect.description.sections:
                outcomes[index, home] = self._outcome(self.statements[index], trigger, home)
                homes.setdefault(index, {}).setdefault(outcomes[index, home], []).append(home)
                triggers[index] = trigger
        used = {one.macro for found in homes.values() for one in found if isinstance(one, Play)}
        layer.macros = {name: macro for name, macro in layer.macros.items() if name in used}
        order = list(self.dialect.description.sections).index
        for index, statement in enumerate(self.statements):
            if index in self.kept:
                if statement.kind not in ("structure", "inherit") and statement.written not in self.declared:
                    text = statement.whole or statement.written
                    layer.kept.append(Kept(self.dialect.name, text, statement.place, self.became[index]))
                continue
            if index not in homes:
                after = replaced_by.get(index)
                self.became[index] = self.became[index] or (
                    f"replaced by {_line(after, statement.place)}"
                    if after
                    else "a section of its own has other keys there"
                )
                continue
            said = []
            for outcome, names in homes[index].items():
                where = self.dialect.where(sorted(names, key=order))
                if condition := self._where_of(statement):
                    where = joined_where(where, condition)
                    if self.dialect.wording is not None:
                        where = self._shorter(where)
                layer.bindings.append(
                    Binding(triggers[index], outcome, statement.place, layer.name, where,
                            self._platforms_of(statement), statement.title, statement.command)
                )  # fmt: skip
                said.append(f"{write(triggers[index])} → {outcome}, {where}")
            self.became[index] = "; ".join(said)
        account = tuple(
            Line(statement.place, statement.written, self.became[index], index in self.kept, index in self.faults)
            for index, statement in enumerate(self.statements)
            if index >= len(self.given)
        )
        return Reading(layer, account)

    def _scheme_statements(self) -> list[Statement]:
        """What the editor's own schemes say, the lower ones first."""
        found: list[Statement] = []
        place = Place(f"{self.dialect.name}/defaults.toml")
        for name, scheme in self.dialect.schemes.items():
            if scheme.over:
                found.append(Statement(place, "", "inherit", scheme.over, "", name))
            where, wording = "", self.dialect.wording
            if scheme.where and wording is not None:
                space = self.dialect.space
                node = space.parse(scheme.where)
                where = wording.write(node, ALWAYS, space, space.mentioned(node)) or ""
            for keys, command in scheme.keys.items():
                written = str(self.dialect.spelling.write(parse(keys)))
                nothing = command == self.dialect.description.commands.nothing
                found.append(Statement(place, "", "remove" if nothing else "bind", written, command, name, where=where))
        return found

    def _where_of(self, statement: Statement) -> str:
        """The statement's own condition in Ombix's words. Raises OmbixError."""
        wording = self.dialect.wording
        if wording is None or not statement.where:
            return statement.where
        text = wording.read(statement.where)
        try:
            self.dialect.space.parse(text)
        except NotationError as error:
            raise InputError(f"{statement.where} is no condition: {error.what}") from None
        return text

    def _shorter(self, where: str) -> str:
        """A condition in few words that speaks of the same facts."""
        space = self.dialect.space
        known = self._described.get(where)
        if known is None:
            short = space.describe(space.parse(where))
            is_same = space.mentioned(space.parse(short)) == space.mentioned(space.parse(where))
            known = self._described[where] = short if is_same else where
        return known

    def _platforms_of(self, statement: Statement) -> frozenset[str]:
        if not statement.platform:
            return frozenset()
        words = self.dialect.description.platforms
        if statement.platform not in words:
            raise InputError(
                f"{self.dialect.name} knows no platform {statement.platform}",
                did_you_mean(statement.platform, list(words)),
            )
        return frozenset((words[statement.platform],))

    def _find_definitions(self) -> None:
        for index, statement in enumerate(self.statements):
            if statement.kind == "define":
                self.defined[statement.key] = statement.command
                self.became[index] = f"defines {statement.key}"

    def _find_prefixes(self) -> None:
        """Statements that lead to a table of keys behind a prefix, in any order."""
        pattern = self.dialect.description.commands.enter_prefix
        if not pattern:
            return
        expression = re.compile(re.escape(pattern).replace(r"\{name\}", r"([\w-]+)"))
        pending = [
            (index, match[1])
            for index, statement in enumerate(self.statements)
            if statement.kind == "bind" and (match := expression.fullmatch(statement.command))
        ]
        for _ in range(len(pending)):
            for index, name in list(pending):
                try:
                    section, trigger = self._trigger(self.statements[index])
                except OmbixError:
                    continue
                if section in self.dialect.description.sections:
                    declaration = self.dialect.description.commands.declare_prefix
                    self.declared.add(declaration.replace("{name}", name))
                    self.prefixes.setdefault(name, (section, trigger))
                    self.became[index] = f"{write(trigger)} waits for a key of {name}"
                    pending.remove((index, name))

    def _trigger(self, statement: Statement) -> tuple[str, Trigger]:
        """The section and the trigger; keys of a table behind a prefix have the prefix before them."""
        trigger = self.dialect.spelling.read(statement.key)
        section = statement.section or self.dialect.description.file.default_section
        if section in self.prefixes:
            home, start = self.prefixes[section]
            return home, (*start, *trigger)
        return section, trigger

    def _outcome(self, statement: Statement, trigger: Trigger, section: str) -> Outcome:
        dialect = self.dialect
        if statement.kind == "remove":
            return Nothing()
        if statement.is_string:
            steps = self._typed(self._string_steps(statement), statement, section)
            if len(steps) == 1 and isinstance(steps[0], Do | Only):
                return steps[0]
            return self._macro(statement, trigger, steps)
        command = statement.command
        outcome = dialect.outcome(command, section)
        if outcome is not None:
            return outcome
        if command in self.defined:
            return Only(dialect.name, command)
        syntax = dialect.description.commands
        if syntax.keys:
            keys = dialect.spelling.read(command)
            return self._macro(statement, trigger, (Press(keys),))
        parts = dialect.split(command)
        if len(parts) > 1 or (parts and syntax.free_text and parts[0].startswith('"')):
            steps_found = [self._part(part, statement, section) for part in parts]
            only_then = syntax.free_text or command.count(syntax.then) == len(parts) - 1
            if only_then and all(isinstance(one, Do | Only | Type) for one in steps_found):
                return self._macro(statement, trigger, tuple(steps_found))  # type: ignore[arg-type]
            return Only(dialect.name, command)
        raise self._unknown(command, statement)

    def _part(self, part: str, statement: Statement, section: str) -> Outcome | Type:
        syntax = self.dialect.description.commands
        if syntax.free_text and part.startswith('"'):
            text = part.rstrip(syntax.suffixes)[1:-1]
            return Type(re.sub(r"\\(.)", lambda match: {"t": "\t", "r": "\r", "n": "\n"}.get(match[1], match[1]), text))
        outcome = self.dialect.outcome(part, section)
        if outcome is None and part.rstrip(syntax.suffixes or " ") in self.defined:
            outcome = Only(self.dialect.name, part)
        if outcome is None:
            raise self._unknown(part, statement)
        return outcome

    def _unknown(self, command: str, statement: Statement) -> InputError:
        name = self.dialect.name
        return InputError(
            f"{name} has no command {command}", did_you_mean(command, list(self.dialect.commands)), statement.place
        )

    def _macro(self, statement: Statement, trigger: Trigger, steps: tuple[Step, ...]) -> Play:
        base = "on-" + re.sub(r"[^a-z0-9]+", "-", speakable(write(trigger)).lower()).strip("-")
        name, number = base, 2
        macros = self.layer.macros
        while name in macros and macros[name].steps != steps:
            name, number = f"{base}-{number}", number + 1
        macros[name] = Macro(name, statement.title or statement.command, steps, statement.place)
        return Play(name)

    def _string_steps(self, statement: Statement) -> tuple[Step, ...]:
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
            outcome = self.dialect.outcome(match[1])
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

    def _sections(self, statement: Statement, name: str, existing: set[str]) -> list[str]:
        dialect, sections = self.dialect, self.dialect.description.sections
        if name == dialect.description.file.every_section and name:
            row = None if statement.is_string else dialect.row_of(statement.command)
            if statement.kind == "remove" or statement.is_string:
                return [section for section in sections if section in existing]
            return list(dialect.sections_of(row))
        if name in self.tables:
            return [name]
        if name not in sections:
            raise InputError(
                f"{dialect.name} has no section {name}", did_you_mean(name, list(sections)), statement.place
            )
        if dialect.description.commands.keys:
            return [name]
        row = None if statement.is_string else dialect.row_of(statement.command)
        if row is not None and name not in dialect.sections_of(row) and dialect.row_of(statement.command, name) is None:
            raise InputError(f"{dialect.name} refuses this: {statement.command} does not exist in {name}", "")
        return [name]


def _line(place: Place, seen_from: Place) -> str:
    """A place in words: the line alone, where it is in the same file."""
    return f"line {place.line}" if place.file == seen_from.file else f"{place.file}:{place.line}"


def _key_for(char: str) -> Chord:
    """The key that types a character."""
    return parse({" ": "Space", "\t": "Tab", "\n": "Enter"}.get(char, char))[0]


def joined_where(first: str, second: str) -> str:
    """Both conditions, with what binds less in parentheses."""
    parts = [text for text in (first, second) if text != "always"]
    return " and ".join(f"({text})" if " or " in text else text for text in parts) or "always"


def speakable(keys: str) -> str:
    """Keys in words of letters, digits and hyphens, for names."""
    names = {"{": "brace-left", "}": "brace-right", "[": "bracket-left", "]": "bracket-right", "\\": "backslash",
             "/": "slash", "-": "minus", "_": "underscore", ";": "semicolon", ":": "colon", ",": "comma", ".": "period",
             "'": "quote", '"': "double-quote", "<": "less", ">": "greater", "=": "equal", "^": "caret", "@": "at",
             "!": "exclamation", "?": "question", "#": "hash", "$": "dollar", "%": "percent", "&": "ampersand",
             "*": "asterisk", "(": "parenthesis-left", ")": "parenthesis-right", "|": "bar", "~": "tilde",
             "`": "backquote"}  # fmt: skip
    chords = []
    for chord in parse(keys):
        name = names.get(chord.key, "plus" if chord.key == "+" else chord.key)
        chords.append(write((Chord(chord.modifiers, "a"),))[:-1] + name if chord.modifiers else name)
    return " ".join(chords)
