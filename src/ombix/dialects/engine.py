"""Reads and writes editors' key-binding files from their descriptions, and tells what an editor can express."""

import importlib
import re
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from functools import cached_property, lru_cache
from pathlib import Path
from types import ModuleType
from typing import Any, Literal, TypeVar

import msgspec
import tomli

from ombix.core.actions import Catalogue
from ombix.core.conditions import Fact, Space
from ombix.core.deciding import Policy
from ombix.core.errors import InputError, NotationError, OmbixError, Place, did_you_mean
from ombix.core.keymap import (
    Binding,
    Do,
    Kept,
    Layer,
    Macro,
    Nothing,
    Only,
    Outcome,
    Play,
    Press,
    Step,
    Type,
    effective_states,
)
from ombix.core.keys import Chord, Trigger, parse, write
from ombix.data import shipped
from ombix.dialects.bytes import ByteSpelling, NotSent
from ombix.dialects.description import Command, CommandFile, Composition, Defaults, Description, convert
from ombix.dialects.formats import Heading, Statement
from ombix.dialects.spelling import Spelling

_Shape = TypeVar("_Shape")

_FOLDER = Path(__file__).parent
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


class Dialect:
    """An editor: how it writes keymaps, what it can express, what it binds by default, and how it decides."""

    def __init__(self, description: Description, commands: CommandFile, defaults: Defaults) -> None:
        self.description = description
        self.name = description.name
        row = description.policy
        self.policy = Policy(row.wins, row.prefix, row.wait_ms, row.unmatched)  # type: ignore[arg-type]
        self.commands = commands.command
        self.compositions: dict[str, tuple[Composition, ...]] = {
            action: tuple(found) if isinstance(found, list) else (found,)
            for action, found in commands.composition.items()
        }
        self.groups = defaults.group

    @cached_property
    def facts(self) -> list[Fact]:
        """The facts that only this editor knows."""
        return [Fact(name, tuple(row.values), row.title, row.open) for name, row in self.description.facts.items()]

    @cached_property
    def spelling(self) -> Spelling | ByteSpelling:
        """How the editor writes keys."""
        keys = self.description.keys
        return ByteSpelling(keys, shipped.terminal(self.description.terminal)) if keys.bytes else Spelling(keys)

    @cached_property
    def _rows(self) -> dict[str, list[Command]]:
        """What stands in a file to the rows that it may be, by the section."""
        found: dict[str, list[Command]] = {}
        for name, row in self.commands.items():
            found.setdefault(row.written or name, []).append(row)
        return found

    def row_of(self, written: str, section: str = "") -> Command | None:
        """The row of what stands in a file, in a section; without one, or in a table of keys, the first."""
        rows = self._rows.get(written, ())
        is_any = section not in self.description.sections
        return next((row for row in rows if is_any or section in self.sections_of(row)), None)

    @cached_property
    def by_action(self) -> dict[str, list[str]]:
        """Action to the commands that can be written for it, the best first."""
        found: dict[str, list[str]] = {}
        for name, row in self.commands.items():
            if row.action and not row.read and not row.fixed:
                found.setdefault(row.action, []).append(row.written or name)
        return found

    def command_for(self, action: str, section: str = "") -> tuple[str, str] | None:
        """The command that is written for an action in a section, and how its work differs; None where there is none."""
        for name, row in self.commands.items():
            usable = row.action == action and not row.read and not row.fixed
            if usable and (not section or section in self.sections_of(row)):
                return row.written or name, row.differs
        return None

    def composition_for(self, action: str, section: str) -> Composition | None:
        """The commands that together do an action in a section, or None."""
        return next((one for one in self.compositions.get(action, ()) if section in self.sections_of(one)), None)

    def differs(self, binding: Binding) -> str:
        """How the work of the command that `binding` was written with differs from the action it stands for."""
        rows = [row for row in self._rows.get(binding.written, ()) if Do(row.action) == binding.outcome]
        return rows[0].differs if rows else ""

    def sections_of(self, row: Command | Composition | None) -> tuple[str, ...]:
        """The sections in which a command exists."""
        return row.sections if row is not None and row.sections else tuple(self.description.sections)

    # --- reading

    def outcome(self, command: str, section: str = "") -> Outcome | None:
        """What a command means, or None where the editor does not know it."""
        syntax = self.description.commands
        if syntax.nothing and command == syntax.nothing:
            return Nothing()
        row = self.row_of(command, section)
        if row is None and syntax.suffixes:
            row = self.row_of(command.rstrip(syntax.suffixes), section)
            if row is not None:
                return Only(self.name, command)
        if row is not None:
            return Do(row.action) if row.action else Only(self.name, command)
        for action, found in self.compositions.items() if syntax.keys else ():
            if any(one.exact and one.command == command and section in self.sections_of(one) for one in found):
                return Do(action)
        if any(command.startswith(prefix) for prefix in syntax.free):
            return Only(self.name, command)
        return None

    @cached_property
    def default_layer(self) -> Layer:
        """The editor's default keys as a layer."""
        layer = Layer(f"{self.name} defaults", "defaults", facts=self.facts, never=list(self.description.never))
        place = Place(f"{self.name} defaults")
        for group in self.groups:
            where = self.where(group.sections)
            for keys, command in group.keys.items():
                outcome = self.outcome(command, group.sections[0])
                if outcome is None and self.description.commands.then and self._split(command):
                    outcome = Only(self.name, command)
                if outcome is None:
                    raise InputError(
                        f"unknown command in the defaults: {command}", did_you_mean(command, list(self.commands)),
                        Place(f"{self.name}/defaults.toml"),
                    )  # fmt: skip
                layer.bindings.append(
                    Binding(
                        parse(keys), outcome, place, layer.name, where, frozenset(group.platforms), written=command,
                        fixed=group.fixed,
                    )
                )  # fmt: skip
        return layer

    def where(self, sections: Iterable[str]) -> str:
        """The condition that means these sections."""
        conditions = [self.description.sections[name] for name in dict.fromkeys(sections)]
        if len(conditions) == 1:
            return conditions[0]
        values = [text.removeprefix("pane is ") for text in conditions]
        if all(re.fullmatch(r"pane is [a-z-]+", text) for text in conditions):
            return f"pane in ({', '.join(values)})"
        return " or ".join(f"({text})" for text in conditions)

    def read(self, text: str, file: str, layer_name: str = "") -> Reading:
        """Read an editor's file. Raises InputError where its syntax is broken.

        Where one statement replaces another, only what is in force at the end is in the layer, so that the order of the
        statements no longer matters; the account says which were replaced.
        """
        layer = Layer(layer_name or self.name, "adopted", facts=list(self.facts))
        reader = _FileReader(self, layer, list(self._format.read(text, file, self.description)))
        return reader.read()

    def _split(self, command: str) -> list[str]:
        """The parts of a chain; texts in quotes stay whole. Empty where it is none that can be read."""
        syntax = self.description.commands
        joints = [joint for joint in (syntax.then, *syntax.other_joints) if joint]
        if not joints:
            return []
        if not syntax.free_text:
            return re.split("|".join(re.escape(joint) for joint in joints), command)
        parts = re.findall(r'(?:"(?:[^"\\]|\\.)*"[^,]*|[^,"]+)(?:,|$)', command)
        return [part.removesuffix(",") for part in parts] if "".join(parts) == command else []

    @cached_property
    def default_sections(self) -> dict[Trigger, set[str]]:
        """Trigger to the sections in which it is bound by default."""
        found: dict[Trigger, set[str]] = {}
        for group in self.groups:
            for keys in group.keys:
                found.setdefault(parse(keys), set()).update(group.sections)
        return found

    # --- abilities

    def can_write(self, trigger: Trigger, section: str = "") -> bool:
        """Whether the editor's file can have this trigger, in a section."""
        if self.spelling.write(trigger) is not None:
            return True
        return self._prefix_of(trigger, section) is not None

    def _prefix_of(self, trigger: Trigger, section: str) -> tuple[str, Trigger] | None:
        """The table that the last chord of a sequence stands in, and the keys before it."""
        if len(trigger) < 2 or any(self.spelling.write((chord,)) is None for chord in trigger):
            return None
        start = trigger[:-1]
        for name, prefix in self.description.prefixes.items():
            if parse(prefix.keys) == start and section in ("", prefix.section):
                return name, start
        if self.description.commands.declare_prefix and section in ("", self.description.file.default_section):
            return _table_name(start), start
        return None

    # --- writing

    def write(self, layer: Layer, space: Space, catalogue: Catalogue, headings: bool = True) -> str:
        """The layer as a file of this editor, grouped by kind of work; the same layer gives the same text.

        Raises InputError for a binding that the editor cannot express.
        """
        groups: dict[str, list[Statement]] = {}
        for binding in layer.bindings:
            groups.setdefault(_group(binding.outcome, catalogue), []).extend(
                self._statements(binding, layer, space, catalogue)
            )
        items: list[Statement | Heading] = []
        kept = [Statement(one.place, one.text, "keep") for one in layer.kept if one.editor == self.name]
        if kept:
            if headings:
                items.append(Heading("Kept as it was"))
            items.extend(kept)
        tables = self._tables(layer)
        if tables:
            if headings:
                items.append(Heading("Keys that wait for another one"))
            items.extend(tables)
        order = [*catalogue.domains.values(), _MACROS, _OTHER, _REMOVED]
        for title in sorted(groups, key=lambda title: order.index(title) if title in order else len(order)):
            if headings:
                items.append(Heading(title))
            items.extend(groups[title])
        return str(self._format.write(items, self.description))

    def _tables(self, layer: Layer) -> list[Statement]:
        """The declarations of tables for the keys behind a prefix, and the keys that lead to them."""
        syntax = self.description.commands
        found: dict[Trigger, Place] = {}
        for binding in layer.bindings:
            for length in range(1, len(binding.trigger)):
                prefix = self._prefix_of(binding.trigger[: length + 1], "")
                if prefix is not None and prefix[0] not in self.description.prefixes:
                    found.setdefault(binding.trigger[:length], binding.place)
        statements: list[Statement] = []
        for keys, place in found.items():
            name = _table_name(keys)
            statements.append(Statement(place, syntax.declare_prefix.replace("{name}", name), "keep"))
            home, last = self.description.file.default_section, keys[-1:]
            if len(keys) > 1:
                home = next(
                    (one for one, row in self.description.prefixes.items() if parse(row.keys) == keys[:-1]),
                    _table_name(keys[:-1]),
                )
            command = syntax.enter_prefix.replace("{name}", name)
            statements.append(Statement(place, "", "bind", str(self.spelling.write(last)), command, home))
        return statements

    def _statements(self, binding: Binding, layer: Layer, space: Space, catalogue: Catalogue) -> list[Statement]:
        states = effective_states(binding, space, catalogue)
        nodes = {name: space.states(text) for name, text in self.description.sections.items()}
        homes = [name for name, node in nodes.items() if space.overlap(node, states)]
        key = self.spelling.write(binding.trigger)
        table = None
        if key is None or len(binding.trigger) > 1:
            table = next((one for home in homes if (one := self._prefix_of(binding.trigger, home))), None)
            if table is not None:
                key, homes = self.spelling.write(binding.trigger[-1:]), homes[:1]
        if key is None:
            raise InputError(self.spelling.why_not(binding.trigger, self.name), place=binding.place)
        kinds = {
            home: self._written_command(binding, layer, [home] if self._is_by_section else homes) for home in homes
        }
        where = self._language_where(states, space)
        if table is not None:
            kind, command, is_string = kinds[homes[0]]
            return [
                Statement(binding.place, "", kind, key, command, table[0], is_string, where=where, title=binding.why)
            ]
        every = self.description.file.every_section
        if homes and not self._is_by_section:
            kind, command, is_string = kinds[homes[0]]
            row = self.row_of(command)
            if (
                every
                and kind == "bind"
                and not is_string
                and len(homes) > 1
                and set(homes) == set(self.sections_of(row))
            ):
                return [Statement(binding.place, "", kind, key, command, every, is_string)]
        return [
            Statement(binding.place, "", kind, key, command, home, is_string, where=where, title=binding.why)
            for home, (kind, command, is_string) in kinds.items()
        ]

    @property
    def _is_by_section(self) -> bool:
        """Whether what is written for an action is not the same in every section."""
        return self.description.commands.keys

    def _language_where(self, states: int, space: Space) -> str:
        """The condition on the language, where the file can say one and the states have one."""
        words = self.description.file.words
        fact = words.language if words is not None else ""
        if not fact or fact not in space.mentioned(states):
            return ""
        values = [
            value for value in space.facts.by_name[fact].values if space.overlap(states, space.literal(fact, [value]))
        ]
        if not values or space.overlap(states, space.negate(space.literal(fact, values))):
            return ""
        return f"{fact} is {values[0]}" if len(values) == 1 else f"{fact} in ({', '.join(values)})"

    def _written_command(
        self, binding: Binding, layer: Layer, homes: Sequence[str]
    ) -> tuple[Literal["bind", "remove"], str, bool]:
        outcome = binding.outcome
        syntax = self.description.commands
        if isinstance(outcome, Nothing):
            return ("bind", syntax.nothing, False) if syntax.nothing else ("remove", "", False)
        if all(self.outcome(binding.written, home) == outcome for home in homes) and binding.written in self._rows:
            rows = [self.row_of(binding.written, home) for home in homes]
            if all(row is not None and not row.fixed for row in rows):
                return "bind", binding.written, False
        if isinstance(outcome, Do):
            for command in self.by_action.get(outcome.action, []):
                if all(self.outcome(command, home) == outcome for home in homes):
                    return "bind", command, False
            raise InputError(f"{self.name} has no command for {outcome.action}", place=binding.place)
        if isinstance(outcome, Only):
            if outcome.editor != self.name:
                raise InputError(f"{outcome.command} is a command of {outcome.editor} only", place=binding.place)
            is_string = bool(syntax.function_in_string) and outcome.command not in self._rows
            return "bind", outcome.command, is_string
        macro = layer.macros[outcome.macro]
        text = self.macro_text(macro.steps, homes[0] if homes else "")
        if text is None:
            raise InputError(f"{self.name} cannot write the macro {macro.name}", place=binding.place)
        return "bind", text, bool(syntax.function_in_string)

    def macro_text(self, steps: Sequence[Step], section: str = "") -> str | None:
        """The steps as one command of this editor in a section, or None where it cannot express them."""
        syntax = self.description.commands
        pieces: list[str] = []
        for step in steps:
            if isinstance(step, Do):
                found = self.command_for(step.action, section)
                if found is None:
                    return None
                piece = found[0]
            elif isinstance(step, Only) and step.editor == self.name:
                piece = step.command
            elif isinstance(step, Type) and syntax.function_in_string:
                pieces.append(step.text.replace("{", syntax.literal_brace))
                continue
            elif isinstance(step, Type) and syntax.free_text and "\n" not in step.text:
                piece = syntax.free_text.replace("{text}", step.text.replace("\\", "\\\\").replace('"', '\\"'))
            elif isinstance(step, Type) and syntax.keys and section in syntax.typing:
                typed = self._typed_keys(step.text)
                if typed is None:
                    return None
                piece = syntax.typing[section].replace("{text}", typed)
            elif isinstance(step, Press) and syntax.keys:
                written = [self.spelling.write((chord,)) for chord in step.keys]
                if None in written:
                    return None
                piece = "".join(map(str, written))
            elif isinstance(step, Press) and len(step.keys) == 1 and write(step.keys) in syntax.string_keys:
                piece = syntax.string_keys[write(step.keys)]
            else:
                return None
            pieces.append(syntax.function_in_string.replace("{name}", piece) if syntax.function_in_string else piece)
        if syntax.function_in_string or syntax.keys:
            return "".join(pieces)
        return syntax.then.join(pieces) if syntax.then else None

    def _typed_keys(self, text: str) -> str | None:
        """A text as the keys that type it."""
        names = {" ": "Space", "\t": "Tab", "\n": "Enter"}
        found = []
        for char in text:
            chord = parse(names[char])[0] if char in names else parse(char)[0] if char.isprintable() else None
            spelt = self.spelling.write((chord,)) if chord is not None else None
            if spelt is None:
                return None
            found.append(spelt)
        return "".join(found)

    @property
    def _format(self) -> ModuleType:
        return importlib.import_module(f"ombix.dialects.formats.{self.description.file.format}")


class _FileReader:
    """The reading of one file: which statement is in force at the end, and what became of each."""

    def __init__(self, dialect: Dialect, layer: Layer, statements: list[Statement]) -> None:
        self.dialect = dialect
        self.layer = layer
        self.statements = statements
        self.became = [""] * len(statements)
        self.kept: set[int] = set()
        self.faults: set[int] = {index for index, one in enumerate(statements) if one.is_fault}
        self.defined: dict[str, str] = {}
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
        replaced_by: dict[int, int] = {}
        existing = self.dialect.default_sections
        for index, statement in enumerate(self.statements):
            if statement.kind in ("keep", "define", "inherit", "structure"):
                self.became[index] = self.became[index] or statement.note
                self.kept.add(index)
                for (trigger, home, where), other in list(force.items()) if statement.kind == "inherit" else ():
                    if home == statement.key:
                        force[trigger, statement.section, where] = other
                continue
            if self.became[index]:
                continue  # it leads to a table of keys
            declaration = self.dialect.description.commands.declare_prefix.replace("{name}", statement.section)
            if statement.section not in self.prefixes and any(one.written == declaration for one in self.statements):
                self.became[index] = f"stands in the table {statement.section}, which no key leads to"
                self.kept.add(index)
                continue
            try:
                section, trigger = self._trigger(statement)
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
                before = force.get((trigger, home, statement.where))
                if before is not None:
                    replaced_by[before] = statement.place.line
                force[trigger, home, statement.where] = index
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
                    layer.kept.append(Kept(self.dialect.name, statement.written, statement.place, self.became[index]))
                continue
            if index not in homes:
                after = replaced_by.get(index)
                self.became[index] = self.became[index] or (
                    f"replaced by line {after}" if after else "a section of its own has other keys there"
                )
                continue
            said = []
            for outcome, names in homes[index].items():
                where = self.dialect.where(sorted(names, key=order))
                if statement.where:
                    where = (
                        f"{where} and {statement.where}" if " or " not in where else f"({where}) and {statement.where}"
                    )
                layer.bindings.append(
                    Binding(triggers[index], outcome, statement.place, layer.name, where, why=statement.title,
                            written=statement.command)
                )  # fmt: skip
                said.append(f"{write(triggers[index])} → {outcome}, {where}")
            self.became[index] = "; ".join(said)
        account = tuple(
            Line(statement.place, statement.written, self.became[index], index in self.kept, index in self.faults)
            for index, statement in enumerate(self.statements)
        )
        return Reading(layer, account)

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
            steps = self._string_steps(statement)
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
        parts = dialect._split(command)
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
        base = "on-" + re.sub(r"[^a-z0-9]+", "-", _speakable(write(trigger)).lower()).strip("-")
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

    def _sections(self, statement: Statement, name: str, existing: set[str]) -> list[str]:
        dialect, sections = self.dialect, self.dialect.description.sections
        if name == dialect.description.file.every_section and name:
            row = None if statement.is_string else dialect.row_of(statement.command)
            if statement.kind == "remove" or statement.is_string:
                return [section for section in sections if section in existing]
            return list(dialect.sections_of(row))
        if name in dialect.description.tables:
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


def _table_name(keys: Trigger) -> str:
    """A name for the table behind these keys, the same from run to run."""
    return "after-" + re.sub(r"[^a-z0-9]+", "-", _speakable(write(keys)).lower()).strip("-")


_MACROS, _OTHER, _REMOVED = "Macros", "Commands that only this editor has", "Keys taken away"


def known() -> list[str]:
    """The names of all editors that have a description."""
    return sorted(path.parent.name for path in _FOLDER.glob("*/dialect.toml"))


def folder(name: str) -> Path:
    """The folder of an editor's description: of one that Ombix knows, or a path to a user's own."""
    return Path(name) if "/" in name else _FOLDER / name


@lru_cache(maxsize=16)
def dialect(name: str, actions: tuple[tuple[str, str], ...] = ()) -> Dialect:
    """The editor called `name`, or described in the folder with this path. Raises InputError with the nearest names.

    `actions` has commands with the actions that a user says they stand for; they go before those of the description.
    """
    if "/" not in name and name not in known():
        raise InputError(f"unknown editor: {name}", did_you_mean(name, known()) or f"Ombix knows {', '.join(known())}.")
    home = folder(name)
    if not (home / "dialect.toml").is_file():
        raise InputError(
            "there is no description here", "A description is a folder with dialect.toml.", Place(str(home))
        )
    tables = [_table(home, file, ()) for file in ("dialect.toml", "commands.toml", "defaults.toml")]
    description = _converted(tables[0], Description, home / "dialect.toml")
    _check_file(description, Place(str(home / "dialect.toml")))
    tables[1]["command"] = {**tables[1].get("command", {}), **{text: {"action": action} for text, action in actions}}
    return Dialect(
        description,
        _converted(tables[1], CommandFile, home / "commands.toml"),
        _converted(tables[2], Defaults, home / "defaults.toml"),
    )


def _table(home: Path, file: str, seen: tuple[Path, ...]) -> dict[str, Any]:
    """A file's table, on top of that of the editor that this one is `like`; a list takes the other's place."""
    path = home / file
    try:
        own: dict[str, Any] = tomli.loads(path.read_text("utf-8")) if path.is_file() else {}
        like = tomli.loads((home / "dialect.toml").read_text("utf-8")).get("like", "")
    except (tomli.TOMLDecodeError, UnicodeDecodeError, OSError, RecursionError) as error:
        match = re.search(r"\(at line (\d+), column (\d+)\)", str(error))
        place = Place(str(path), int(match[1]), int(match[2])) if match else Place(str(path))
        raise InputError(f"the description is wrong: {error}", place=place) from None
    own.pop("like", None)
    if not like:
        return own
    other = folder(like) if like in known() else (home / str(like)).resolve()
    if other in seen or not (other / "dialect.toml").is_file():
        raise InputError(
            f"there is no editor {like} to be like", did_you_mean(str(like), known()), Place(str(home / "dialect.toml"))
        )
    return _joined(_table(other, file, (*seen, home)), own)


def _joined(below: dict[str, Any], above: dict[str, Any]) -> dict[str, Any]:
    joined = dict(below)
    for key, value in above.items():
        known_value = joined.get(key)
        joined[key] = (
            _joined(known_value, value) if isinstance(known_value, dict) and isinstance(value, dict) else value
        )
    return joined


def _converted(table: dict[str, Any], kind: type[_Shape], path: Path) -> _Shape:
    try:
        return convert(table, kind)
    except msgspec.ValidationError as error:
        what, _, key = str(error).partition(" - at `")
        key = key.removeprefix("$").removeprefix(".").rstrip("`")
        advice = f"It is at {key}." if key else ""
        raise InputError(f"the description is wrong: {what[:1].lower()}{what[1:]}", advice, Place(str(path))) from None


def _check_file(description: Description, place: Place) -> None:
    """Raise InputError where the form of the file is not known, or lacks what it needs."""
    file = description.file
    forms = sorted(path.stem for path in (_FOLDER / "formats").glob("[a-z]*.py"))
    if file.format not in forms:
        raise InputError(f"there is no form of files called {file.format}", f"Forms are {', '.join(forms)}.", place)
    if (file.format == "headed" and file.headed is None) or (file.format == "words" and file.words is None):
        raise InputError(f"the table file.{file.format} is missing", "See docs/describing.md.", place)
    for line in (*file.lines, *(file.words.forms if file.words else ())):
        needed = {"bind": ("{key}", "{command}", "{keys}", "{string}"), "remove": ("{key}",)}.get(line.means, ())
        has = [variable for variable in needed if variable in line.pattern]
        if needed and ("{key}" not in has or (line.means == "bind" and len(has) < 2)):
            raise InputError(
                f"the form {line.pattern!r} has not what it needs", "Write {key}, and {command} where it binds.", place
            )
        if line.means not in ("bind", "remove", "keep"):
            raise InputError(f"unknown meaning of a form: {line.means}", "It is bind, remove or keep.", place)


def _group(outcome: Outcome, catalogue: Catalogue) -> str:
    if isinstance(outcome, Do):
        domain = outcome.action.partition(".")[0]
        return catalogue.domains.get(domain, domain)
    if isinstance(outcome, Play):
        return _MACROS
    return _REMOVED if isinstance(outcome, Nothing) else _OTHER


def _speakable(keys: str) -> str:
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


__all__ = ["Dialect", "Line", "NotationError", "Reading", "dialect", "known"]
