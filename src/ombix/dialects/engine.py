"""Reads and writes editors' key-binding files from their descriptions, and tells what an editor can express."""

import re
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from functools import cached_property, lru_cache
from pathlib import Path
from types import ModuleType
from typing import TypeVar

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
        self.compositions: dict[str, Composition] = commands.composition
        self._defaults = defaults

    @cached_property
    def spelling(self) -> Spelling:
        """How the editor writes keys."""
        return Spelling(self.description.keys)

    @cached_property
    def by_action(self) -> dict[str, list[str]]:
        """Action to the commands that can be written for it, the best first."""
        found: dict[str, list[str]] = {}
        for command, row in self.commands.items():
            if row.action and not row.read and not row.fixed:
                found.setdefault(row.action, []).append(command)
        return found

    def differs(self, binding: Binding) -> str:
        """How the work of the command that `binding` was written with differs from the action it stands for."""
        row = self.commands.get(binding.written)
        return row.differs if row is not None and row.action else ""

    def sections_of(self, row: Command | Composition | None) -> tuple[str, ...]:
        """The sections in which a command exists."""
        return row.sections if row is not None and row.sections else tuple(self.description.sections)

    # --- reading

    def outcome(self, command: str) -> Outcome | None:
        """What a command means, or None where the editor does not know it."""
        syntax = self.description.commands
        if syntax.nothing and command == syntax.nothing:
            return Nothing()
        row = self.commands.get(command)
        if row is not None:
            return Do(row.action) if row.action else Only(self.name, command)
        if any(command.startswith(prefix) for prefix in syntax.free):
            return Only(self.name, command)
        return None

    @cached_property
    def default_layer(self) -> Layer:
        """The editor's default keys as a layer."""
        facts = [Fact(name, tuple(row.values), row.title, row.open) for name, row in self.description.facts.items()]
        layer = Layer(f"{self.name} defaults", "defaults", facts=facts, never=list(self.description.never))
        place = Place(f"{self.name} defaults")
        for group in self._defaults.group:
            where = self.where(group.sections)
            for keys, command in group.keys.items():
                outcome = self.outcome(command)
                if outcome is None:
                    raise ValueError(f"{self.name}: unknown command in the defaults: {command}")
                layer.bindings.append(
                    Binding(
                        parse(keys),
                        outcome,
                        place,
                        layer.name,
                        where,
                        frozenset(group.platforms),
                        written=command,
                        fixed=group.fixed,
                    )
                )
        return layer

    def where(self, sections: Iterable[str]) -> str:
        """The condition that means these sections."""
        conditions = [self.description.sections[name] for name in dict.fromkeys(sections)]
        if len(conditions) == 1:
            return conditions[0]
        values = [text.removeprefix("pane is ") for text in conditions]
        if all(text.startswith("pane is ") for text in conditions):
            return f"pane in ({', '.join(values)})"
        return " or ".join(f"({text})" for text in conditions)

    def read(self, text: str, file: str, layer_name: str = "") -> Reading:
        """Read an editor's file. Raises InputError where its syntax is broken.

        Where one statement replaces another, only what is in force at the end is in the layer, so that the order of the
        statements no longer matters; the account says which were replaced.
        """
        layer = Layer(layer_name or self.name, "adopted")
        statements = list(self._format.read(text, file, self.description))
        became: list[str] = [""] * len(statements)
        kept: set[int] = set()
        force: dict[tuple[Trigger, str], int] = {}
        outcomes: dict[int, Outcome] = {}
        replaced_by: dict[int, int] = {}
        existing = self._default_sections
        for index, statement in enumerate(statements):
            if statement.kind == "keep":
                became[index] = statement.note
                kept.add(index)
                continue
            try:
                trigger = self.spelling.read(statement.key)
                outcome = self._read_outcome(statement, trigger, layer)
                added = {section for (bound, section), _ in force.items() if bound == trigger}
                sections = self._read_sections(statement, existing.get(trigger, set()) | added)
            except OmbixError as error:
                became[index] = error.what + (f" ({error.advice})" if error.advice else "")
                kept.add(index)
                continue
            outcomes[index] = outcome
            for section in sections:
                if (trigger, section) in force:
                    replaced_by[force[trigger, section]] = statement.place.line
                force[trigger, section] = index
            if not sections:
                became[index] = "changes nothing: the key is bound in no such section"
        homes: dict[int, list[str]] = {}
        triggers: dict[int, Trigger] = {}
        for (trigger, section), index in force.items():
            homes.setdefault(index, []).append(section)
            triggers[index] = trigger
        used_macros = {outcomes[index].macro for index in homes if isinstance(outcomes[index], Play)}  # type: ignore[union-attr]
        layer.macros = {name: macro for name, macro in layer.macros.items() if name in used_macros}
        for index, statement in enumerate(statements):
            if index in kept:
                layer.kept.append(Kept(self.name, statement.written, statement.place, became[index]))
                continue
            if index not in homes:
                became[index] = became[index] or f"replaced by line {replaced_by[index]}"
                continue
            where = self.where(sorted(homes[index], key=list(self.description.sections).index))
            outcome = outcomes[index]
            layer.bindings.append(
                Binding(triggers[index], outcome, statement.place, layer.name, where, written=statement.command)
            )
            became[index] = f"{write(triggers[index])} → {outcome}, {where}"
        account = tuple(
            Line(statement.place, statement.written, became[index], index in kept)
            for index, statement in enumerate(statements)
        )
        return Reading(layer, account)

    def _read_outcome(self, statement: Statement, trigger: Trigger, layer: Layer) -> Outcome:
        if statement.kind == "remove":
            return Nothing()
        if statement.is_string:
            steps = self._string_steps(statement)
            if len(steps) == 1 and isinstance(steps[0], Do | Only):
                return steps[0]
            return self._macro(statement, trigger, steps, layer)
        outcome = self.outcome(statement.command)
        if outcome is not None:
            return outcome
        syntax = self.description.commands
        joints = [joint for joint in (syntax.then, *syntax.other_joints) if joint]
        parts = re.split("|".join(re.escape(joint) for joint in joints), statement.command) if joints else []
        if len(parts) > 1:
            outcomes = [self.outcome(part) for part in parts]
            for part, one in zip(parts, outcomes, strict=True):
                if one is None:
                    raise self._unknown(part, statement)
            only_then = statement.command.count(syntax.then) == len(parts) - 1
            if only_then and all(isinstance(one, Do | Only) for one in outcomes):
                return self._macro(statement, trigger, tuple(outcomes), layer)  # type: ignore[arg-type]
            return Only(self.name, statement.command)
        raise self._unknown(statement.command, statement)

    def _unknown(self, command: str, statement: Statement) -> InputError:
        advice = did_you_mean(command, list(self.commands))
        return InputError(f"{self.name} has no command {command}", advice, statement.place)

    def _macro(self, statement: Statement, trigger: Trigger, steps: tuple[Step, ...], layer: Layer) -> Play:
        base = "on-" + re.sub(r"[^a-z0-9]+", "-", _speakable(write(trigger)).lower()).strip("-")
        name, number = base, 2
        while name in layer.macros and layer.macros[name].steps != steps:
            name, number = f"{base}-{number}", number + 1
        layer.macros[name] = Macro(name, statement.command, steps, statement.place)
        return Play(name)

    def _string_steps(self, statement: Statement) -> tuple[Step, ...]:
        keys = {name: key for key, name in self.description.commands.string_keys.items()}
        steps: list[Step] = []
        text = ""
        position = 0
        string = statement.command
        for match in [*_FUNCTION.finditer(string), None]:
            text += string[position : match.start() if match else None]
            if match is not None and match[0] == self.description.commands.literal_brace:
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
            outcome = self.outcome(match[1])
            if not isinstance(outcome, Do | Only):
                raise self._unknown(match[1], statement)
            steps.append(outcome)
        return tuple(steps)

    def _read_sections(self, statement: Statement, existing: set[str]) -> list[str]:
        sections = self.description.sections
        name = statement.section or self.description.file.default_section
        row = None if statement.is_string else self.commands.get(statement.command)
        if name == self.description.file.every_section and name:
            if statement.kind == "remove" or statement.is_string:
                return [section for section in sections if section in existing]
            return list(self.sections_of(row))
        if name not in sections:
            raise InputError(f"{self.name} has no section {name}", did_you_mean(name, list(sections)), statement.place)
        if row is not None and name not in self.sections_of(row):
            raise InputError(f"{self.name} refuses this: {statement.command} does not exist in {name}", "")
        return [name]

    @cached_property
    def _default_sections(self) -> dict[Trigger, set[str]]:
        found: dict[Trigger, set[str]] = {}
        for group in self._defaults.group:
            for keys in group.keys:
                found.setdefault(parse(keys), set()).update(group.sections)
        return found

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
        order = [*catalogue.domains.values(), _MACROS, _OTHER, _REMOVED]
        for title in sorted(groups, key=lambda title: order.index(title) if title in order else len(order)):
            if headings:
                items.append(Heading(title))
            items.extend(groups[title])
        return str(self._format.write(items, self.description))

    def _statements(self, binding: Binding, layer: Layer, space: Space, catalogue: Catalogue) -> list[Statement]:
        key = self.spelling.write(binding.trigger)
        if key is None:
            raise InputError(self.spelling.why_not(binding.trigger, self.name), place=binding.place)
        states = effective_states(binding, space, catalogue)
        nodes = {name: space.states(text) for name, text in self.description.sections.items()}
        homes = [name for name, node in nodes.items() if space.overlap(node, states)]
        kind, command, is_string = self._written_command(binding, layer, homes)
        every = self.description.file.every_section
        row = self.commands.get(command)
        if every and kind == "bind" and not is_string and len(homes) > 1 and set(homes) == set(self.sections_of(row)):
            homes = [every]
        return [Statement(binding.place, "", kind, key, command, home, is_string) for home in homes]  # type: ignore[arg-type]

    def _written_command(self, binding: Binding, layer: Layer, homes: Sequence[str]) -> tuple[str, str, bool]:
        outcome = binding.outcome
        syntax = self.description.commands
        if isinstance(outcome, Nothing):
            return ("bind", syntax.nothing, False) if syntax.nothing else ("remove", "", False)
        if binding.written in self.commands and self.outcome(binding.written) == outcome:
            row = self.commands[binding.written]
            if not row.fixed and all(home in self.sections_of(row) for home in homes):
                return "bind", binding.written, False
        if isinstance(outcome, Do):
            for command in self.by_action.get(outcome.action, []):
                if all(home in self.sections_of(self.commands[command]) for home in homes):
                    return "bind", command, False
            raise InputError(f"{self.name} has no command for {outcome.action}", place=binding.place)
        if isinstance(outcome, Only):
            if outcome.editor != self.name:
                raise InputError(f"{outcome.command} is a command of {outcome.editor} only", place=binding.place)
            is_string = bool(syntax.function_in_string) and outcome.command not in self.commands
            return "bind", outcome.command, is_string
        macro = layer.macros[outcome.macro]
        text = self.macro_text(macro.steps)
        if text is None:
            raise InputError(f"{self.name} cannot write the macro {macro.name}", place=binding.place)
        return "bind", text, bool(syntax.function_in_string)

    def macro_text(self, steps: Sequence[Step]) -> str | None:
        """The steps as one command of this editor, or None where it cannot express them."""
        syntax = self.description.commands
        pieces: list[str] = []
        for step in steps:
            if isinstance(step, Do):
                commands = self.by_action.get(step.action, [])
                if not commands:
                    return None
                piece = commands[0]
            elif isinstance(step, Only) and step.editor == self.name:
                piece = step.command
            elif isinstance(step, Type) and syntax.function_in_string:
                pieces.append(step.text.replace("{", syntax.literal_brace))
                continue
            elif isinstance(step, Press) and len(step.keys) == 1 and write(step.keys) in syntax.string_keys:
                piece = syntax.string_keys[write(step.keys)]
            else:
                return None
            pieces.append(syntax.function_in_string.replace("{name}", piece) if syntax.function_in_string else piece)
        if syntax.function_in_string:
            return "".join(pieces)
        return syntax.then.join(pieces) if syntax.then else None

    @property
    def _format(self) -> ModuleType:
        if self.description.file.format == "json":
            from ombix.dialects.formats import json as module
        else:
            from ombix.dialects.formats import lines as module  # type: ignore[no-redef]
        return module


_MACROS, _OTHER, _REMOVED = "Macros", "Commands that only this editor has", "Keys taken away"


def known() -> list[str]:
    """The names of all editors that have a description."""
    return sorted(path.parent.name for path in _FOLDER.glob("*/dialect.toml"))


def folder(name: str) -> Path:
    """The folder of an editor's description."""
    return _FOLDER / name


@lru_cache(maxsize=16)
def dialect(name: str) -> Dialect:
    """The editor called `name`. Raises InputError with the nearest names."""
    if name not in known():
        raise InputError(f"unknown editor: {name}", did_you_mean(name, known()) or f"Ombix knows {', '.join(known())}.")
    home = folder(name)
    return Dialect(
        _load(home / "dialect.toml", Description),
        _load(home / "commands.toml", CommandFile),
        _load(home / "defaults.toml", Defaults),
    )


def _load(path: Path, kind: type[_Shape]) -> _Shape:
    try:
        with path.open("rb") as file:
            return convert(tomli.load(file), kind)
    except (tomli.TOMLDecodeError, msgspec.ValidationError) as error:
        raise InputError(f"the description is wrong: {error}", place=Place(str(path))) from None


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
