"""Reads a file of an editor: which statement is in force at the end, what it means, and what became of each."""

import re

from msgspec import Struct
from msgspec.structs import replace

from ombix.core.conditions import ALWAYS
from ombix.core.errors import InputError, NotationError, OmbixError, Place, did_you_mean
from ombix.core.keymap.bindings import Binding, Kept, Layer, LayerName
from ombix.core.keymap.outcomes import Outcome, Play
from ombix.core.keys.notation import MAX_NOTATION_LENGTH, Trigger, parse, write
from ombix.editors.assigning import single_statements
from ombix.editors.byte_spelling import NotSent
from ombix.editors.dialect import Dialect, joined_where
from ombix.editors.formats import Statement
from ombix.editors.included_files import OpenFile, statements_with
from ombix.editors.remap import NotFollowed, RemapResolver
from ombix.editors.settings_file import settings_beside
from ombix.editors.statement_meaning import StatementMeaning

_REPLACED = "replaced by"


class FileLine(Struct, frozen=True):
    """What became of one statement of a file that was read."""

    place: Place
    written: str
    became: str
    is_kept: bool = False
    is_fault: bool = False
    """Whether it looks like a mistake."""
    is_bound: bool = False
    """Whether keys are bound by it."""
    other: Place | None = None
    """The place that `became` goes on with: that of the statement in its place."""


class FileReading(Struct, frozen=True):
    """A file that was read: its layer, and an account of every statement in it."""

    layer: Layer
    account: tuple[FileLine, ...]


def read_file(
    dialect: Dialect, text: str, file: str, layer: LayerName | None = None, opened: OpenFile | None = None,
    beside: tuple[str, str] | None = None,
) -> FileReading:  # fmt: skip
    """Read an editor's file. Raises InputError where its syntax is broken.

    Where one statement replaces another, only what is in force at the end is in the layer, so that the order of the
    statements no longer matters; the account says which were replaced. `opened` opens a file that another one reads
    there, by its name and the file that names it; without it, such files are not read, and that is said. `beside` are the
    name and the text of the file with settings that belongs to it.
    """
    name = layer or LayerName(file, dialect.name, "adopted")
    statements = list(statements_with(dialect, text, file, opened))
    found = _FileReader(dialect, Layer(name, facts=list(dialect.facts)), statements).read()
    return _with_settings(found, dialect, *beside) if beside is not None else found


def _with_settings(found: FileReading, dialect: Dialect, file: str, text: str) -> FileReading:
    """A file that was read, with what stands in the one with settings."""
    try:
        kept = list(settings_beside(dialect, text, file))
    except InputError as error:
        line = FileLine(error.place or Place(file), file, f"the settings cannot be read: {error.what}", is_fault=True)
        return FileReading(found.layer, (*found.account, line))
    found.layer.kept += kept
    lines = (FileLine(one.place, one.text, one.reason, is_kept=True) for one in kept)
    return FileReading(found.layer, (*found.account, *lines))


def _outside(statement: Statement, dialect: Dialect) -> Statement:
    """A statement of a table behind keys, its command as it would be written outside of that."""
    prefix = dialect.description.prefixes.get(statement.section)
    if prefix is None or not prefix.leave or statement.kind != "bind":
        return statement
    if statement.command.startswith(prefix.leave):
        return replace(statement, command=statement.command.removeprefix(prefix.leave))
    return replace(statement, command=f"{dialect.spelling.write(parse(prefix.keys))}{statement.command}")


class _FileReader:
    """The reading of one file: which statement is in force at the end, and what became of each."""

    def __init__(self, dialect: Dialect, layer: Layer, statements: list[Statement]) -> None:
        self.dialect = dialect
        self.layer = layer
        self.given = self._scheme_statements()
        """Statements of the editor's own schemes, which stand before those of the file."""
        if dialect.description.file.assigns:
            statements = single_statements(dialect, statements)
        statements = self.statements = [_outside(one, dialect) for one in (*self.given, *statements)]
        self.became = [""] * len(statements)
        self.kept: set[int] = set()
        self.bound: set[int] = set()
        self.faults: set[int] = {index for index, one in enumerate(statements) if one.is_fault}
        self.tables = {
            *dialect.description.tables, *dialect.schemes,
            *(statement.section for statement in statements if statement.kind == "inherit"),
        }  # fmt: skip
        """Names of tables that are no section, but that sections may take keys over from."""
        self.defined = {statement.key: statement.command for statement in statements if statement.kind == "define"}
        self.meaning = StatementMeaning(dialect, layer, self.defined, RemapResolver(dialect, statements))
        self.declared: set[str] = set()
        self.prefixes: dict[str, tuple[str, Trigger]] = {
            name: (row.section, parse(row.keys)) for name, row in dialect.description.prefixes.items()
        }
        self.force: dict[tuple[Trigger, str, str], int] = {}
        """Trigger, section and what else it depends on, to the statement that is in force."""
        self._homes: dict[Trigger, set[str]] = {}
        """Trigger to the sections in which statements bind it."""
        self._written = {statement.written for statement in statements}
        self.replaced_by: dict[int, Place] = {}
        self._described: dict[str, str] = {}
        self._refused_at: Place | None = None
        """The statement that the editor stops reading at."""

    def read(self) -> FileReading:
        """The layer and the account of every statement."""
        self._find_prefixes()
        for index, statement in enumerate(self.statements):
            if self._refused_at is not None:
                self.became[index] = f"{self.dialect.name} does not read this: it stops at line {self._refused_at.line}"
                self.kept.add(index)
                self.faults.add(index)
            elif statement.kind in ("keep", "define", "inherit", "structure"):
                self._keep(index, statement)
            elif not self.became[index]:  # else it leads to a table of keys
                self._put_in_force(index, statement)
        self._bind()
        account = tuple(
            FileLine(
                statement.place, statement.written, self.became[index], index in self.kept, index in self.faults,
                index in self.bound, self.replaced_by.get(index) if self.became[index] == _REPLACED else None,
            )
            for index, statement in enumerate(self.statements)
            if index >= len(self.given)
        )  # fmt: skip
        return FileReading(self.layer, account)

    def _keep(self, index: int, statement: Statement) -> None:
        """A statement that binds nothing itself."""
        self.kept.add(index)
        self.became[index] = f"defines {statement.key}" if statement.kind == "define" else statement.note
        if statement.kind == "inherit":
            if statement.key not in (*self.tables, *self.dialect.description.sections):
                self.faults.add(index)
                self.became[index] = f"{self.dialect.name} knows no {statement.key} to take keys over from"
            for (trigger, home, where), other in list(self.force.items()):
                if home == statement.key:
                    self.force[trigger, statement.section, where] = other
                    self._homes.setdefault(trigger, set()).add(statement.section)

    def _put_in_force(self, index: int, statement: Statement) -> None:
        """A statement that binds or takes away: what it means is looked at, and what it replaces."""
        declaration = self.dialect.description.commands.declare_prefix.replace("{name}", statement.section)
        is_declared = bool(declaration) and declaration in self._written
        if statement.section not in self.prefixes and is_declared:
            self.became[index] = f"stands in the table {statement.section}, which no key leads to"
            self.kept.add(index)
            return
        try:
            section, trigger = self._trigger(statement)
            if len(write(trigger)) > MAX_NOTATION_LENGTH:
                raise InputError(f"its keys are longer than {MAX_NOTATION_LENGTH} characters", "", statement.place)
            self._where_of(statement)
            self._platforms_of(statement)
            existing = self.dialect.default_sections.get(trigger, set())
            added = self._homes.get(trigger, set())
            sections = self._sections(statement, section, existing | added)
            for home in sections or ("",):
                self.meaning.outcome(statement, trigger, home)
        except OmbixError as error:
            self.became[index] = self._why_not(error, statement)
            if not isinstance(error, NotFollowed):
                self.kept.add(index)
            if not isinstance(error, NotSent):
                self.faults.add(index)
            return
        if statement.kind == "remove" and not self.dialect.description.file.takes_defaults_away:
            self._take_away(index, statement, trigger, sections)
            return
        for home in sections:
            key = (trigger, home, " on ".join((statement.where, statement.platform)))
            before = self.force.get(key)
            if before is not None and self.dialect.policy.wins == "first":
                self.replaced_by[index] = self.statements[before].place
                continue
            if before is not None:
                self.replaced_by[before] = statement.place
            self.force[key] = index
            self._homes.setdefault(trigger, set()).add(home)
        if not sections:
            self.became[index] = "changes nothing: the key is bound in no such section"

    def _take_away(self, index: int, statement: Statement, trigger: Trigger, sections: list[str]) -> None:
        """A statement that takes away what the file bound before, and no keys of the editor's own."""
        where = " on ".join((statement.where, statement.platform))
        gone = [one for home in sections if (one := self.force.pop((trigger, home, where), None)) is not None]
        for one in gone:
            self.replaced_by[one] = statement.place
        if gone:
            self.became[index] = f"takes {write(trigger)} away again"
        elif self.dialect.description.commands.remapping:
            self.became[index] = f"{self.dialect.name} refuses this: the file has nothing on these keys before"
            self.faults.add(index)
            self._refused_at = statement.place
        else:
            self.became[index] = "changes nothing: the file has nothing on these keys before"

    def _why_not(self, error: OmbixError, statement: Statement) -> str:
        """What is wrong with a statement; where neither its keys nor its command are any, that it may not be a binding."""
        said = error.what + (f" ({error.advice})" if error.advice else "")
        if isinstance(error, NotationError) and not isinstance(error, NotSent) and statement.command:
            try:
                known = self.dialect.vocabulary.outcome(statement.command) is not None
            except OmbixError:
                known = False
            if not known and not self.dialect.description.commands.keys:
                return f"{statement.key} is no key, and {statement.command} no command"
        return said

    def _bind(self) -> None:
        """The bindings that are in force, and what became of the statements that are not."""
        sections = self.dialect.description.sections
        self._without_beginnings()
        homes: dict[int, dict[Outcome, list[str]]] = {}
        triggers: dict[int, Trigger] = {}
        for (trigger, home, _where), index in self.force.items():
            if home in sections:
                outcome = self.meaning.outcome(self.statements[index], trigger, home)
                homes.setdefault(index, {}).setdefault(outcome, []).append(home)
                triggers[index] = trigger
        used = {one.macro for found in homes.values() for one in found if isinstance(one, Play)}
        self.layer.macros = {name: macro for name, macro in self.layer.macros.items() if name in used}
        for index, statement in enumerate(self.statements):
            if index in self.kept:
                if statement.kind not in ("structure", "inherit") and statement.written not in self.declared:
                    text = statement.whole or statement.written
                    self.layer.kept.append(Kept(self.dialect.name, text, statement.place, self.became[index]))
            elif index in homes:
                self._bind_one(index, statement, triggers[index], homes[index])
            elif not self.became[index]:
                after = self.replaced_by.get(index)
                self.became[index] = _REPLACED if after else "a section of its own has other keys there"

    def _without_beginnings(self) -> None:
        """Keys behind which others of the file would be, where a chord that begins keys cannot do something itself: those that
        do so are run at once, and the longer ones cannot be pressed."""
        description = self.dialect.description
        if description.keys.beginnings or description.policy.prefix != "waits":
            return
        bound = {(trigger, home) for trigger, home, _where in self.force}
        for trigger, home, where in list(self.force):
            begun = (trigger[:size] for size in range(1, len(trigger)) if (trigger[:size], home) in bound)
            start = next(begun, None)
            if start is not None:
                index = self.force.pop((trigger, home, where))
                self.became[index] = f"cannot be pressed: {write(start)} is bound itself, and is run at once"
                self.faults.add(index)
                self.kept.add(index)

    def _bind_one(self, index: int, statement: Statement, trigger: Trigger, outcomes: dict[Outcome, list[str]]) -> None:
        order = list(self.dialect.description.sections).index
        said = []
        for outcome, names in outcomes.items():
            where = self.dialect.where(sorted(names, key=order))
            if condition := self._where_of(statement):
                where = joined_where(where, condition)
                if self.dialect.wording is not None:
                    where = self._shorter(where)
            self.layer.bindings.append(
                Binding(
                    trigger, outcome, statement.place, self.layer.name, where, None, self._platforms_of(statement),
                    statement.title, self.meaning.follower.follow(statement),
                )
            )  # fmt: skip
            said.append(f"{write(trigger)} → {outcome}, {where}")
        self.bound.add(index)
        self.became[index] = "; ".join(said)

    def _scheme_statements(self) -> list[Statement]:
        """What the editor's own schemes say, the lower ones first."""
        found: list[Statement] = []
        place = Place(str(self.dialect.home / "defaults.toml"))
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
        if len(trigger) > 1 == self.dialect.description.keys.longest:
            self._refused_at = statement.place if self.dialect.description.file.stops_at_errors else None
            raise InputError(f"{self.dialect.name} refuses this: {self.dialect.spelling.why_not(trigger, 'it')}", "")
        section = statement.section or self.dialect.description.file.default_section
        if section in self.prefixes:
            home, start = self.prefixes[section]
            return home, (*start, *trigger)
        return section, trigger

    def _sections(self, statement: Statement, name: str, existing: set[str]) -> list[str]:
        dialect, sections = self.dialect, self.dialect.description.sections
        vocabulary = dialect.vocabulary
        if name == dialect.description.file.every_section and name:
            row = None if statement.is_string else vocabulary.row_of(statement.command)
            if statement.kind == "remove" or statement.is_string:
                return [section for section in sections if section in existing]
            return list(vocabulary.sections_of(row))
        if name in self.tables:
            return [name]
        if name not in sections:
            raise InputError(
                f"{dialect.name} has no section {name}", did_you_mean(name, list(sections)), statement.place
            )
        if dialect.description.commands.keys:
            return [name]
        command = statement.command
        row = None if statement.is_string else vocabulary.row_of(command)
        if row is not None and name not in vocabulary.sections_of(row) and vocabulary.row_of(command, name) is None:
            raise InputError(f"{dialect.name} refuses this: {command} does not exist in {name}", "")
        return [name]
