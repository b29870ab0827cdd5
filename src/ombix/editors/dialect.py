"""An editor as a value: how it writes keymaps, what its commands mean, what it binds by default, and how it decides."""

import re
from collections.abc import Callable, Iterable, Sequence
from copy import copy
from functools import cached_property
from pathlib import Path
from typing import Any, Generic, Self, TypeVar, overload

from ombix.core.conditions import Fact, Facts, Space
from ombix.core.errors import InputError, Place
from ombix.core.keymap.bindings import Binding, Layer, LayerName
from ombix.core.keymap.deciding import Policy
from ombix.core.keymap.outcomes import Only
from ombix.core.keys.notation import Trigger, parse
from ombix.core.pressing.terminals import Terminal
from ombix.editors.byte_spelling import ByteSpelling
from ombix.editors.condition_wording import Wording
from ombix.editors.description import CommandFile, Defaults, Description
from ombix.editors.key_spelling import Spelling
from ombix.editors.modal_grammar import Grammar
from ombix.editors.snippet_formats import SnippetSyntax
from ombix.editors.vocabulary import Vocabulary

_Found = TypeVar("_Found")


class _Derived(Generic[_Found]):
    """A property that follows from a description alone: it is worked out once for all that are over other facts."""

    def __init__(self, make: "Callable[[Dialect], _Found]") -> None:
        self._make = make
        self.__doc__ = make.__doc__

    @overload
    def __get__(self, one: None, kind: type) -> Self: ...

    @overload
    def __get__(self, one: "Dialect", kind: type) -> _Found: ...

    def __get__(self, one: "Dialect | None", kind: type) -> "Self | _Found":
        if one is None:
            return self
        name = self._make.__name__
        if name not in one.derived:
            one.derived[name] = self._make(one)
        found: _Found = one.derived[name]
        one.__dict__[name] = found  # the next time nobody asks here
        return found


class Dialect:
    """An editor that has a description. `facts` are the shipped ones, `terminal` the one that it runs in by default."""

    def __init__(
        self, description: Description, commands: CommandFile, defaults: Defaults, facts: Facts, terminal: Terminal,
        home: Path,
    ) -> None:  # fmt: skip
        self.description = description
        self.name = description.name
        row = description.policy
        self.policy = Policy(row.wins, row.prefix, row.wait_ms, row.unmatched)  # type: ignore[arg-type]
        self.groups = defaults.group
        self.schemes = defaults.scheme
        self.terminal = terminal
        self.home = home
        """The folder of its description."""
        self.files: tuple[Path, ...] = ()
        """The files that it was read from, those that do not ship."""
        self.grammar: Grammar | None = None
        """The commands that are an operator and a movement, where there are such."""
        self.snippets: SnippetSyntax | None = None
        """How it writes snippets, where it has any."""
        self.derived: dict[str, Any] = {}
        """What follows from the description alone, by the name of its property."""
        self._base_facts = facts
        self._commands = commands

    def over(self, facts: Facts) -> "Dialect":
        """The same editor over other facts than the shipped ones, with states of its own."""
        other = copy(self)
        other._base_facts = facts
        other.__dict__.pop("space", None)
        return other

    @_Derived
    def facts(self) -> list[Fact]:
        """The facts that only this editor knows."""
        return [
            Fact(name, tuple(row.more or row.values), row.title, row.open, adds=bool(row.more))
            for name, row in self.description.facts.items()
        ]

    def usual_places(self, platform: str) -> list[str]:
        """Where the editor looks for its file on a platform."""
        return self.description.file.usual_on.get(platform, self.description.file.usual)

    def is_for(self, version: str) -> bool:
        """Whether the description holds for a version of the editor."""
        known = self.description.versions or [self.description.version]
        return any(version == one or version.startswith((f"{one}.", f"{one}-")) for one in known)

    @property
    def edited_sections(self) -> list[str]:
        """The sections in which keys can be pressed over text."""
        program = self.description.program
        return list(program.modes if program is not None else ()) or [self.description.file.default_section]

    def settings_on(self, line: str) -> list[str]:
        """The settings on a line of the editor's file, each as if it stood alone."""
        words = line.split()
        several = self.description.file.several
        if len(words) > 1 and words[0] in several:
            return [f"{several[words[0]]} {word}" for word in words[1:]]
        return [" ".join(words)]

    @cached_property
    def space(self) -> Space:
        """All states over the facts that ship and those of this editor."""
        return Space(self._base_facts.extended(self.facts, []))

    @_Derived
    def wording(self) -> Wording | None:
        """How the editor's file writes conditions, where it has any."""
        conditions = self.description.conditions
        return Wording(conditions, self.name) if conditions is not None else None

    @_Derived
    def spelling(self) -> Spelling | ByteSpelling:
        """How the editor writes keys."""
        keys = self.description.keys
        return ByteSpelling(keys, self.terminal) if keys.bytes else Spelling(keys)

    @_Derived
    def vocabulary(self) -> Vocabulary:
        """Its commands."""
        rows = self._commands
        return Vocabulary(self.description, rows.command, rows.composition, lambda: self.spelling, self.grammar)

    @property
    def by_section(self) -> bool:
        """Whether what is written for an action is not the same in every section."""
        return self.description.commands.keys or bool(self.description.commands.typing)

    def where(self, sections: Iterable[str]) -> str:
        """The condition that means these sections."""
        conditions = [self.description.sections[name] for name in dict.fromkeys(sections)]
        if len(conditions) == 1:
            return conditions[0]
        shapes = [re.fullmatch(r"([\w-]+) is ([\w-]+)", text) for text in conditions]
        facts = {shape[1] for shape in shapes if shape}
        if all(shapes) and len(facts) == 1:
            return f"{facts.pop()} in ({', '.join(shape[2] for shape in shapes if shape)})"
        return " or ".join(f"({text})" for text in conditions)

    def states_where_text_is_edited(self, section: str = "") -> str:
        """The condition of a section, or of the one in which text is edited."""
        return self.description.sections[section or self.description.file.default_section]

    @_Derived
    def default_layer(self) -> Layer:
        """The editor's default keys as a layer. Raises InputError for a command that is not there."""
        name = LayerName(f"{self.name} defaults", f"{self.name} defaults", "defaults", self.name)
        layer = Layer(name, facts=self.facts, never=list(self.description.never))
        place = Place(name.id)
        for group in self.groups:
            where = self.where(group.sections)
            if group.where:
                where = joined_where(where, group.where)
            for keys, command in group.keys.items():
                outcome = self.vocabulary.outcome(command, group.sections[0])
                if outcome is None and self.description.commands.then and self.vocabulary.chains.split(command):
                    outcome = Only(self.name, command)
                if outcome is None:
                    raise InputError(
                        f"unknown command in the defaults: {command}",
                        self.vocabulary.advice(command) or "Add it to commands.toml.",
                        Place(str(self.home / "defaults.toml")),
                    )  # fmt: skip
                layer.bindings.append(
                    Binding(
                        parse(keys), outcome, place, name, where, None, frozenset(group.platforms), written=command,
                        fixed=group.fixed,
                    )
                )  # fmt: skip
        return layer

    @_Derived
    def default_commands(self) -> dict[str, list[tuple[Trigger, str]]]:
        """Section to the default keys in it, with the commands that they run, as they are written."""
        found: dict[str, list[tuple[Trigger, str]]] = {}
        for group in self.groups:
            keys = [(parse(text), written) for text, written in group.keys.items()]
            for section in group.sections:
                found.setdefault(section, []).extend(keys)
        return found

    @_Derived
    def default_keys(self) -> dict[tuple[str, str], list[tuple[str, Trigger]]]:
        """Section and command to its default keys in it, as they are written and as triggers; without those that cannot be
        written."""
        found: dict[tuple[str, str], list[tuple[str, Trigger]]] = {}
        for section, rows in self.default_commands.items():
            for trigger, written in rows:
                if (key := self.spelling.write(trigger)) is not None:
                    found.setdefault((section, written), []).append((str(key), trigger))
        return found

    @_Derived
    def default_sections(self) -> dict[Trigger, set[str]]:
        """Trigger to the sections in which it is bound by default."""
        found: dict[Trigger, set[str]] = {}
        for group in self.groups:
            for keys in group.keys:
                found.setdefault(parse(keys), set()).update(group.sections)
        return found

    def prefix_of(self, trigger: Trigger, section: str = "") -> tuple[str, Trigger] | None:
        """The table that the last chord of a sequence stands in, where the editor has such tables, and the keys before it."""
        if len(trigger) < 2 or any(self.spelling.write((chord,)) is None for chord in trigger):
            return None
        start = trigger[:-1]
        for name, prefix in self.description.prefixes.items():
            if parse(prefix.keys) == start and section in ("", prefix.section):
                return name, start
        if self.description.commands.declare_prefix and section in ("", self.description.file.default_section):
            return table_name(start), start
        return None


def joined_where(first: str, second: str) -> str:
    """Both conditions, with what binds less in parentheses."""
    parts = [text for text in (first, second) if text != "always"]
    return " and ".join(f"({text})" if " or " in text else text for text in parts) or "always"


def table_name(keys: Trigger) -> str:
    """A name for the table behind these keys, the same from run to run."""
    return f"after-{name_of_keys(keys)}"


def name_of_keys(keys: Trigger) -> str:
    """Keys in words of letters, digits and hyphens, for names."""
    return re.sub(r"[^a-z0-9]+", "-", " ".join(_chord_words(keys)).lower()).strip("-")


def _chord_words(keys: Trigger) -> Sequence[str]:
    from ombix.core.keys.notation import modifier_names

    return ["+".join([*modifier_names(chord.modifiers), _SIGNS.get(chord.key, chord.key)]) for chord in keys]


_SIGNS = {
    "{": "brace-left", "}": "brace-right", "[": "bracket-left", "]": "bracket-right", "\\": "backslash", "/": "slash",
    "-": "minus", "_": "underscore", ";": "semicolon", ":": "colon", ",": "comma", ".": "period", "'": "quote",
    '"': "double-quote", "<": "less", ">": "greater", "=": "equal", "^": "caret", "@": "at", "!": "exclamation",
    "?": "question", "#": "hash", "$": "dollar", "%": "percent", "&": "ampersand", "*": "asterisk",
    "(": "parenthesis-left", ")": "parenthesis-right", "|": "bar", "~": "tilde", "`": "backquote", "+": "plus",
}  # fmt: skip
