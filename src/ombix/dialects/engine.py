"""Reads and writes editors' key-binding files from their descriptions, and tells what an editor can express."""

import re
from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import replace
from functools import cached_property, lru_cache
from typing import Any, Literal

from ombix.core.actions import Catalogue
from ombix.core.conditions import Fact, Space
from ombix.core.deciding import Policy
from ombix.core.errors import InputError, OmbixError, Place, did_you_mean
from ombix.core.keymap import (
    MAX_COUNT,
    Binding,
    Do,
    Layer,
    Nothing,
    Only,
    Outcome,
    Play,
    Press,
    Step,
    Type,
    effective_states,
)
from ombix.core.keys import SHIFT, Chord, Trigger, parse, types_text, write
from ombix.data import shipped
from ombix.dialects.bytes import ByteSpelling
from ombix.dialects.conditions import Wording
from ombix.dialects.description import Command, CommandFile, Composition, Defaults, Description
from ombix.dialects.formats import Heading, Statement, tree
from ombix.dialects.forms import form_of_files
from ombix.dialects.reading import FileReader, Reading, joined_where, speakable
from ombix.dialects.spelling import Spelling

Opened = Callable[[str, str], tuple[str, str]]
"""Opens a file that another one reads: from its name there, and the other one's, its own name and its text."""

MOST_FILES = 20
"""Files in files."""


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
        self.schemes = defaults.scheme

    @cached_property
    def facts(self) -> list[Fact]:
        """The facts that only this editor knows."""
        return [Fact(name, tuple(row.values), row.title, row.open) for name, row in self.description.facts.items()]

    @cached_property
    def space(self) -> Space:
        """All states over the facts that ship and those of this editor."""
        return Space(shipped.facts().extended(self.facts, []))

    @cached_property
    def wording(self) -> Wording | None:
        """How the editor's file writes conditions, where it has any."""
        conditions = self.description.conditions
        return Wording(conditions, self.name) if conditions is not None else None

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

    @cached_property
    def by_action(self) -> dict[str, list[tuple[str, Command]]]:
        """Action to the rows that can be written for it, with their names."""
        found: dict[str, list[tuple[str, Command]]] = {}
        for name, row in self.commands.items():
            if row.action and not row.read and not row.fixed:
                found.setdefault(row.action, []).append((name, row))
        return found

    def row_of(self, written: str, section: str = "") -> Command | None:
        """The row of what stands in a file, in a section; without one, or in a table of keys, the first."""
        rows = self._rows.get(written, ())
        is_any = section not in self.description.sections
        return next((row for row in rows if is_any or section in self.sections_of(row)), None)

    def meaning(self, command: str) -> Do | Only:
        """What a command of the table means; where it takes arguments, with the argument 1."""
        row = self.commands[command]
        if not row.action:
            return Only(self.name, row.written or command)
        return Do(row.action, row.outcome_arguments(("1",) * len(row.arguments)))

    def command_for(self, outcome: Do, section: str = "") -> tuple[str, str] | None:
        """The command that is written for an action in a section, and how its work differs; None where there is none.

        A command that takes no arguments stands only for an action without any.
        """
        values = dict(outcome.arguments)
        names = values.keys()
        for name, row in self.by_action.get(outcome.action, ()):
            if section and section not in self.sections_of(row):
                continue
            if {*row.arguments, *row.given} != names or any(values[key] != value for key, value in row.given.items()):
                continue
            written = row.written or name
            if row.arguments:
                called = self.description.commands.between.join(values[key] for key in row.arguments)
                written = self.description.commands.call.replace("{name}", written).replace("{arguments}", called)
            return written, row.differs
        return None

    def composition_for(self, action: str, section: str) -> Composition | None:
        """The commands that together do an action in a section, or None."""
        return next((one for one in self.compositions.get(action, ()) if section in self.sections_of(one)), None)

    def counted(self, command: str, count: int, section: str) -> str | None:
        """The command with a count before it, or None where it takes none."""
        pattern = self.description.commands.counts.get(section)
        row = self.row_of(command, section)
        if pattern is None or row is None or not row.counts:
            return None
        return pattern.replace("{count}", str(count)).replace("{command}", command)

    def differs(self, binding: Binding) -> str:
        """How the work of the command that `binding` was written with differs from the action it stands for."""
        outcome = binding.outcome
        name = self._called(binding.written)[0]
        rows = [row for row in self._rows.get(name, ()) if isinstance(outcome, Do) and row.action == outcome.action]
        return rows[0].differs if rows else ""

    def _called(self, command: str) -> tuple[str, tuple[str, ...]]:
        """A command's name and the arguments that it is called with."""
        syntax = self.description.commands
        if not syntax.call or command in self._rows:
            return command, ()
        match = _call_shape(syntax.call).fullmatch(command)
        if match is None:
            return command, ()
        return match["name"], tuple(part.strip() for part in match["arguments"].split(syntax.between.strip() or None))

    def sections_of(self, row: Command | Composition | None) -> tuple[str, ...]:
        """The sections in which a command exists."""
        return row.sections if row is not None and row.sections else tuple(self.description.sections)

    # --- reading

    def outcome(self, command: str, section: str = "") -> Outcome | None:
        """What a command means, or None where the editor does not know it."""
        syntax = self.description.commands
        if syntax.nothing and command == syntax.nothing:
            return Nothing()
        name, values = self._called(command)
        row = self.row_of(name, section)
        if row is not None and values and len(values) != len(row.arguments):
            return None
        if row is not None and row.action and (row.arguments or row.given):
            return Do(row.action, row.outcome_arguments(values)) if len(values) == len(row.arguments) else None
        if row is None and section in syntax.counts and (outcome := self._counted_outcome(command, section)):
            return outcome
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
            if group.where:
                where = joined_where(where, group.where)
            for keys, command in group.keys.items():
                outcome = self.outcome(command, group.sections[0])
                if outcome is None and self.description.commands.then and self.split(command):
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

    def read(self, text: str, file: str, layer_name: str = "", opened: Opened | None = None) -> Reading:
        """Read an editor's file. Raises InputError where its syntax is broken.

        Where one statement replaces another, only what is in force at the end is in the layer, so that the order of the
        statements no longer matters; the account says which were replaced. `opened` opens a file that another one reads
        there, by its name and the file that names it; without it, such files are not read, and that is said.
        """
        layer = Layer(layer_name or self.name, "adopted", facts=list(self.facts))
        statements = list(self._statements_of(text, file, opened, ()))
        return FileReader(self, layer, statements).read()

    def _statements_of(
        self, text: str, file: str, opened: Opened | None, around: tuple[str, ...]
    ) -> Iterator[Statement]:
        """The statements of a file and of those that it has read in their places; `around` are the files around it."""
        form, description = self._format, self.description
        is_tree = hasattr(form, "parse")
        for one in tree.read(text, file, description, form) if is_tree else form.read(text, file, description):
            if one.kind != "include":
                yield one
                continue
            inner, note = None, one.note or "another file, which is not read here"
            if opened is not None and (one.key in (*around, file) or len(around) > MOST_FILES):
                note = "another file, which is being read already"
            elif opened is not None:
                try:
                    inner = opened(one.key, file)
                except OmbixError as error:
                    note = f"another file, which cannot be read: {error.what}"
            if inner is None:
                yield replace(one, kind="keep", note=note, is_fault=opened is not None)
                continue
            name, inner_text = inner
            if name in (*around, file):
                yield replace(one, kind="keep", note="another file, which is being read already", is_fault=True)
                continue
            yield replace(one, kind="structure", note=f"reads {name}")
            yield from self._statements_of(inner_text, name, opened, (*around, file))

    def _counted_outcome(self, command: str, section: str) -> Do | None:
        """The action that is run several times, where a command has a count before it."""
        match = _count_shape(self.description.commands.counts[section]).fullmatch(command)
        row = self.row_of(match["command"], section) if match else None
        if match is None or row is None or not row.counts or not 1 <= int(match["count"]) <= MAX_COUNT:
            return None
        return Do(row.action, (("count", match["count"]),))

    def split(self, command: str) -> list[str]:
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

    @property
    def can_take_away(self) -> bool:
        """Whether the editor's file can take keys away."""
        file = self.description.file
        forms = (*file.forms, *(file.words.forms if file.words else ()))
        has_directive = file.headed is not None and "delete" in file.headed.directives.values()
        return bool(self.description.commands.nothing) or has_directive or any(one.means == "remove" for one in forms)

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
        # What is taken away comes first: it may stand in the way of what is bound.
        order = [_REMOVED, *catalogue.domains.values(), _MACROS, _OTHER]
        for title in sorted(groups, key=lambda title: order.index(title) if title in order else len(order)):
            if headings:
                items.append(Heading(title))
            items.extend(groups[title])
        form = self._format
        if hasattr(form, "parse"):
            return tree.write(items, self.description, form)
        return str(form.write(items, self.description))

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
        wheres = {home: self._where_text(states, home, binding, space, catalogue) for home in homes}
        words = [
            word
            for name in sorted(binding.platforms)
            for word, one in self.description.platforms.items()
            if one == name
        ]
        platforms = words if len(words) == len(binding.platforms) else []
        if table is not None:
            kind, command, is_string = kinds[homes[0]]
            where = wheres[homes[0]]
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
            Statement(
                binding.place, "", kind, key, command, home, is_string, where=wheres[home], title=binding.why,
                platform=platform,
            )
            for home, (kind, command, is_string) in kinds.items()
            for platform in platforms or [""]
        ]  # fmt: skip

    def _where_text(self, states: int, home: str, binding: Binding, space: Space, catalogue: Catalogue) -> str:
        """The condition beside a section, as the file has it. Raises InputError where the editor has no words for it."""
        if self.wording is None:
            return self._language_where(states, space)
        section = self.description.sections[home]
        node = space.states(section)
        about: frozenset[str] = frozenset()
        if self.policy.wins in ("innermost", "specific"):  # what a condition speaks of tells how strong it is
            about = space.mentioned(space.parse(binding.where)) - space.mentioned(space.parse(section))
        # What an action needs is not written, where reading the file brings it in again.
        for wanted in (space.parse(binding.where), states):
            text = self.wording.write(wanted, node, space, about)
            if text is None:
                continue
            where = joined_where(section, self.wording.read(text)) if text else section
            again = effective_states(binding._replace(where=where), space, catalogue)
            if again == space.both(states, node):
                return text
        raise InputError(f"{self.name} has no words for {binding.where}", place=binding.place)

    def tell(self, states: int, section: int, space: Space) -> int:
        """The least set of states of a section that has `states` in it and that the file can tell."""
        if self.wording is not None:
            return space.both(self.wording.tell(space.both(states, section), space), section)
        if self._language_where(states, space):
            words = self.description.file.words
            others = space.mentioned(states) - {words.language if words else ""}
            return space.both(space.without(states, others), section)
        return section

    @property
    def _is_by_section(self) -> bool:
        """Whether what is written for an action is not the same in every section."""
        return self.description.commands.keys or bool(self.description.commands.typing)

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
        name = self._called(binding.written)[0]
        if all(self.outcome(binding.written, home) == outcome for home in homes) and name in self._rows:
            rows = [self.row_of(name, home) for home in homes]
            if all(row is not None and not row.fixed for row in rows):
                return "bind", binding.written, False
        if isinstance(outcome, Do):
            found = self.command_for(outcome)
            if found is not None and all(self.outcome(found[0], home) == outcome for home in homes):
                return "bind", found[0], False
            for name, row in self.by_action.get(outcome.action, ()):
                command = row.written or name
                if all(self.outcome(command, home) == outcome for home in homes):
                    return "bind", command, False
            raise InputError(f"{self.name} has no command for {outcome}", place=binding.place)
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
                found = self.command_for(step, section)
                if found is None:
                    return None
                piece = found[0]
            elif isinstance(step, Only) and step.editor == self.name:
                piece = step.command
            elif isinstance(step, Type) and syntax.function_in_string:
                if syntax.typing and section not in syntax.typing:
                    return None
                text = step.text.replace("{", syntax.literal_brace)
                pieces.append(syntax.typing.get(section, "{text}").replace("{text}", text))
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
            elif isinstance(step, Press) and section in syntax.typing and all(map(types_text, step.keys)):
                # Where keys are commands, a text is keys that are pressed.
                if syntax.typing[section] == "{text}":
                    return None
                text = "".join(map(_typed_by, step.keys))
                pieces.append(text.replace("{", syntax.literal_brace))
                continue
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
    def _format(self) -> Any:
        return form_of_files(self.description.file.format)


def _table_name(keys: Trigger) -> str:
    """A name for the table behind these keys, the same from run to run."""
    return "after-" + re.sub(r"[^a-z0-9]+", "-", speakable(write(keys)).lower()).strip("-")


@lru_cache(maxsize=8)
def _call_shape(call: str) -> re.Pattern[str]:
    return re.compile(
        re.escape(call).replace(r"\{name\}", r"(?P<name>[^\s(),]+)").replace(r"\{arguments\}", r"(?P<arguments>[^()]+)")
    )


@lru_cache(maxsize=8)
def _count_shape(pattern: str) -> re.Pattern[str]:
    return re.compile(
        re.escape(pattern)
        .replace(r"\{count\}", "(?P<count>[1-9][0-9]{0,3})")
        .replace(r"\{command\}", "(?P<command>.+)")
    )


_MACROS, _OTHER, _REMOVED = "Macros", "Commands that only this editor has", "Keys taken away"


def _typed_by(chord: Chord) -> str:
    """The character that a key types."""
    return " " if chord.key == "Space" else chord.key.upper() if chord.modifiers & SHIFT else chord.key


def _group(outcome: Outcome, catalogue: Catalogue) -> str:
    if isinstance(outcome, Do):
        domain = outcome.action.partition(".")[0]
        return catalogue.domains.get(domain, domain)
    if isinstance(outcome, Play):
        return _MACROS
    return _REMOVED if isinstance(outcome, Nothing) else _OTHER
