"""Keymap files: TOML arranged by action, read into layers with the place of every binding."""

import contextlib
import re
from collections.abc import Iterator, Mapping, Sequence
from pathlib import Path
from typing import Any

from ombix.core.catalogue.actions import COUNT, Catalogue
from ombix.core.conditions import Fact, Facts, Scope, Space, fact_names
from ombix.core.errors import InputError, NotationError, TangledError, did_you_mean
from ombix.core.gc_pause import no_garbage_collection
from ombix.core.keymap.bindings import Accepted, Binding, Kept, Keymap, Layer, LayerKind, LayerName, Removal
from ombix.core.keymap.outcomes import MAX_COUNT, Do, Insert, Nothing, Only, Outcome, Play
from ombix.core.keys.notation import Chord, Trigger, parse, variables
from ombix.core.toml import Document
from ombix.data.platform_names import PLATFORMS
from ombix.files.disk import Files, absolute
from ombix.files.macro_reading import EntryReading, languages_of, read_macro, read_snippet, times_of
from ombix.files.open_conflicts import unsettled

FORMAT = 1
SUFFIX = ".keys.toml"

_TOP = (
    "format", "name", "editor", "extends", "fact", "never", "where", "bind", "unbind", "only", "macro", "snippet", "accept", "kept",
    "conflict",
)  # fmt: skip
_ENTRY = ("press", "also", "where", "with", "why", "command", *PLATFORMS)
_TANGLED = 5000
"""Sets of states that one condition makes where its facts are not well ordered for it."""
_EVERYWHERE: frozenset[str] = frozenset()
_PLAIN = frozenset(("press", "where", "why"))
KeyPath = tuple[str, ...]


def load(
    path: Path, catalogue: Catalogue, facts: Facts, files: Files | None = None, kind: LayerKind = "own",
    lenient: bool = False, document: Document | None = None,
) -> list[Layer]:  # fmt: skip
    """The layers of a keymap file: those it extends first, then its own; with the file's own `document` where it was read already.
    Raises InputError.

    A lenient reader leaves out what is wrong, and notes it in the layer's `problems`.
    """
    with no_garbage_collection():
        return _Loading(catalogue, files or Files(), lenient).load(path, facts, kind, document)


def read(
    text: str, file: str, catalogue: Catalogue, facts: Facts, kind: LayerKind = "own", lenient: bool = False
) -> Layer:
    """One layer from a text that stands in `file`; `extends` is not followed. Raises InputError."""
    document = Document(text, file, recover=lenient)
    return _LayerReader(document, catalogue, facts, _name_of(document, file, kind), (), lenient).read()


def read_over(document: Document, catalogue: Catalogue, facts: Facts, below: Sequence[Layer], name: LayerName) -> Layer:
    """One layer from a document, over layers that were read before; what is wrong is left out, and noted."""
    return _LayerReader(document, catalogue, facts, name, below, lenient=True).read()


def read_fact(document: Document, name: str, row: Any) -> Fact:
    """A fact from its table in a file. Raises InputError."""
    path = ("fact", name)
    if not isinstance(row, dict):
        raise document.error(f"the fact {name} is not a table", f"Write [fact.{name}].", *path)
    known = ("title", "values", "open", "more")
    for key in row:
        if key not in known:
            raise document.error(
                f"unknown key: {key}", did_you_mean(key, known) or f"Known are {', '.join(known)}.", *path, key
            )
    values = row.get("more", row.get("values", ["no", "yes"]))
    if not isinstance(values, list) or not values or not all(isinstance(value, str) for value in values):
        raise document.error(f"the fact {name} needs a list of values", 'Write values = ["a", "b"].', *path)
    try:
        return Fact(name, tuple(values), str(row.get("title", "")), bool(row.get("open", False)), adds="more" in row)
    except ValueError as error:
        raise document.error(str(error), "Choose another name.", *path) from None


class _Loading:
    """The reading of a file with all that it extends."""

    def __init__(self, catalogue: Catalogue, files: Files, lenient: bool) -> None:
        self._catalogue = catalogue
        self._files = files
        self._lenient = lenient
        self._seen: set[Path] = set()
        self._open: list[Path] = []
        self._chords: dict[str, Chord] = {}

    def load(self, path: Path, facts: Facts, kind: LayerKind, known: Document | None = None) -> list[Layer]:
        """The layers of a file that was not read yet, over `facts`."""
        real = path.resolve()
        document = known or Document(self._files.read_text(path), absolute(path), recover=self._lenient)
        layers: list[Layer] = []
        self._open.append(real)
        for name in self._extended(document):
            base = path.parent / name
            if base.resolve() in self._open:
                raise document.error(
                    f"keymaps extend each other in a circle: {name}", "Take one of them out of extends.", "extends"
                )
            if base.resolve() in self._seen:
                continue
            if not self._files.is_file(base) and not base.exists():
                raise document.error(f"there is no file {name} to extend", "Check the name.", "extends")
            layers.extend(self.load(base, facts, "adopted" if kind == "adopted" else "shared"))
        self._open.pop()
        self._seen.add(real)
        facts = Keymap(layers).facts(facts)
        own = _name_of(document, absolute(path), kind)
        reader = _LayerReader(document, self._catalogue, facts, own, layers, self._lenient, self._chords)
        layers.append(reader.read())
        return layers

    def _extended(self, document: Document) -> list[str]:
        extends = document.table.get("extends", [])
        if not isinstance(extends, list) or not all(isinstance(name, str) for name in extends):
            raise document.error(
                "extends takes a list of file names", 'Write extends = ["house.keys.toml"].', "extends"
            )
        return extends


def _name_of(document: Document, file: str, kind: LayerKind) -> LayerName:
    usual = Path(file).name.removesuffix(SUFFIX).removesuffix(".toml")
    editor = document.table.get("editor", "")
    if not isinstance(editor, str):
        raise document.error("editor takes the name of an editor", 'Write editor = "pier".', "editor")
    return LayerName(file, str(document.table.get("name", usual)), kind, editor)


class _LayerReader:
    """The reading of one file, over the layers that it extends."""

    def __init__(
        self, document: Document, catalogue: Catalogue, facts: Facts, name: LayerName, below: Sequence[Layer],
        lenient: bool, chords: dict[str, Chord] | None = None,
    ) -> None:  # fmt: skip
        self.document = document
        self.catalogue = catalogue
        self.facts = facts
        self.lenient = lenient
        self.layer = Layer(name, files=[document.file], problems=list(document.errors))
        self.below = below
        self.scope: Scope | None = None
        self.checked: set[str] = set()
        self.space = below[-1].space if below else None
        self.chords = {} if chords is None else chords

    def read(self) -> Layer:
        table = self.document.table
        if table.get("format") != FORMAT:
            self._refuse_format(table)
        with self._entry_by_itself():
            self._check_keys(table, _TOP)
        self._declared(table)
        self._conditions(self._table(table, "where"))
        for domain, actions in self._table(table, "bind").items():
            with self._entry_by_itself():
                self._domain(domain, actions)
        for keys, entry in self._table(table, "unbind").items():
            with self._entry_by_itself():
                self._unbind(keys, entry)
        for editor, commands in self._table(table, "only").items():
            with self._entry_by_itself():
                if not isinstance(commands, dict):
                    raise self.document.error("only takes editors", "Write [only.nano].", "only", editor)
                for command, entry in commands.items():
                    with self._entry_by_itself():
                        self._entries(Only(editor, command), entry, _ENTRY, ("only", editor, command))
        for name, entry in self._table(table, "macro").items():
            with self._entry_by_itself():
                self._macro(name, entry)
        for name, entry in self._table(table, "snippet").items():
            with self._entry_by_itself():
                self._snippet(name, entry)
        for index, row in enumerate(self._rows(table, "accept")):
            with self._entry_by_itself():
                self._accept(row, index)
        for index, row in enumerate(self._rows(table, "kept")):
            with self._entry_by_itself():
                self._kept(row, index)
        for index, row in enumerate(self._rows(table, "conflict")):
            with self._entry_by_itself():
                self.layer.unsettled.append(unsettled(self.document, row, index))
        self.layer.space = self.space
        return self.layer

    def _refuse_format(self, table: Mapping[str, Any]) -> None:
        if "format" in table:
            error = self.document.error(
                f"this is format {table['format']!r}; this Ombix reads format {FORMAT}",
                f"Write format = {FORMAT}.",
                "format",
            )
        else:
            error = self.document.error(
                "the line with the format is missing", f"Begin the file with format = {FORMAT}."
            )
        if not self.lenient or ("bind" not in table and not (table and self.document.errors)):
            raise self.document.errors[0] if self.document.errors else error  # nothing is left of it
        self.layer.problems.append(error)

    @contextlib.contextmanager
    def _entry_by_itself(self) -> Iterator[None]:
        """In a lenient reader, an entry that is wrong is noted and left out."""
        try:
            yield
        except InputError as error:
            if not self.lenient:
                raise
            self.layer.problems.append(error)

    # --- facts and conditions

    def _declared(self, table: dict[str, Any]) -> None:
        for name, row in self._table(table, "fact").items():
            with self._entry_by_itself():
                self._fact(name, row)
        never = table.get("never", [])
        with self._entry_by_itself():
            if not isinstance(never, list) or not all(isinstance(text, str) for text in never):
                raise self.document.error("never takes a list of conditions", 'Write never = ["a and b"].', "never")
            for text in never:
                self._check_condition(text, "never")
                self.layer.never.append(text)
            if never:
                self.facts = self.facts.extended([], never)
                self.checked.clear()

    def _fact(self, name: str, row: Any) -> None:
        fact = read_fact(self.document, name, row)
        try:
            self.facts = self.facts.extended([fact], [])
        except ValueError as error:
            advice = 'Choose another name, or give it more values with more = ["…"].'
            raise self.document.error(str(error), advice, "fact", name) from None
        self.layer.facts.append(fact)

    def _conditions(self, table: dict[str, Any]) -> None:
        own: dict[str, str] = {}
        for name, text in table.items():
            with self._entry_by_itself():
                if not isinstance(text, str):
                    raise self.document.error(
                        f"the condition {name} is not a text", "Write it in quotes.", "where", name
                    )
                if name in self.facts.by_name:
                    raise self.document.error(
                        f"{name} is a fact already", "Give the condition another name.", "where", name
                    )
                own[name] = text
        self.layer.scope = Scope(own, [layer.scope for layer in self.below])
        if self.layer.scope.names():
            self.scope = self.layer.scope
        for name, text in own.items():
            with self._entry_by_itself():
                self._check_condition(text, "where", name)

    def _check_condition(self, text: str, *path: str) -> None:
        if text in self.checked:
            return
        try:
            self._read_condition(text)
        except TangledError:
            raise TangledError(self.document.place(*path)) from None
        except NotationError as error:
            raise self.document.error_in_text(
                error.what, error.advice, error.text, error.start, error.end, *path
            ) from None
        except ValueError as error:
            raise self.document.error(str(error), "", *path) from None
        self.checked.add(text)

    def _read_condition(self, text: str) -> None:
        """Read a condition; a tangled one once more, with its facts asked for in the order in which they stand in it."""
        if self.space is None or not self.space.is_over(self.facts):
            self.space = Space(self.facts)
        before = self.space.size
        try:
            self.space.parse(text, self.scope)
            if self.space.size - before < _TANGLED:
                return
        except TangledError:
            pass
        order = tuple(dict.fromkeys([*fact_names(text, self.scope), *self.layer.order]))
        if order != self.layer.order:
            self.layer.order = order
            self.facts = self.facts.ordered(order)
            self.space = Space(self.facts)
        self.space.parse(text, self.scope)

    # --- entries

    def _domain(self, domain: str, actions: Any) -> None:
        if not isinstance(actions, dict):
            raise self.document.error(
                f"{domain} is a kind of work, not an action",
                "Write [bind.line] and below it copy-down = …",
                "bind",
                domain,
            )
        if not self.lenient:
            for verb, entry in actions.items():
                self._action(domain, verb, entry)
            return
        for verb, entry in actions.items():
            with self._entry_by_itself():
                self._action(domain, verb, entry)

    def _action(self, domain: str, verb: str, entry: Any) -> None:
        name = f"{domain}.{verb}"
        path = ("bind", domain, verb)
        if name not in self.catalogue.actions:
            advice = did_you_mean(name, list(self.catalogue.actions))
            raise self.document.error(
                f"unknown action: {name}", advice or f"Look for it with: ombix how {verb.replace('-', ' ')}", *path
            )
        if entry is False:
            self.layer.removals.append(Removal(name, self.document.place(*path)))
            return
        if isinstance(entry, dict) and (removal := self._removal(name, entry, path)) is not None:
            self._check_keys(entry, _ENTRY, *path)
            self.layer.removals.append(removal)
            return
        self._entries(Do(name), entry, _ENTRY, path)

    def _removal(self, name: str, entry: dict[str, Any], path: KeyPath) -> Removal | None:
        """The removal that an entry is which says `false` and no keys: everywhere, or on some platforms."""
        said = [key for key in ("press", "also", *PLATFORMS) if key in entry]
        if not said or any(entry[key] is not False for key in said) or "also" in said:
            return None
        platforms = frozenset() if "press" in said else frozenset(said)
        return Removal(name, self.document.place(*path), str(entry.get("why", "")), platforms)

    def _unbind(self, keys: str, entry: Any) -> None:
        path = ("unbind", keys)
        if entry is not True and not isinstance(entry, dict):
            raise self.document.error("unbind takes true or a table", 'Write { why = "…" }.', *path)
        row = {} if entry is True else entry
        self._check_keys(row, ("where", "why"), *path)
        self._add(Nothing(), keys, row, path, _EVERYWHERE)

    def _macro(self, name: str, entry: Any) -> None:
        path = ("macro", name)
        macro = read_macro(name, entry, path, self._entry_reading())
        self.layer.macros[name] = macro
        if any(key in entry for key in ("press", *PLATFORMS)):
            self._played(Play(name, times_of(entry, path, self._entry_reading())), entry, path)

    def _snippet(self, name: str, entry: Any) -> None:
        path = ("snippet", name)
        snippet = read_snippet(name, entry, path, self._entry_reading())
        if snippet.where != "always":
            self._check_condition(snippet.where, *path)
        self.layer.snippets[name] = snippet
        if any(key in entry for key in ("press", *PLATFORMS)):
            self._played(Insert(name), entry, path)

    def _played(self, outcome: Play | Insert, entry: dict[str, Any], path: KeyPath) -> None:
        """The keys of a macro or a snippet."""
        row = {key: value for key, value in entry.items() if key in _ENTRY and key != "with"}
        _languages, where = languages_of(entry, path, self._entry_reading())
        self._entries(outcome, {**row, "where": where} if where != "always" else row, _ENTRY, path)

    def _entry_reading(self) -> EntryReading:
        return EntryReading(
            self.document, self.catalogue, self._keys, self._arguments, self._check_condition, self.scope
        )

    def _entries(self, outcome: Outcome, entry: Any, allowed: tuple[str, ...], path: KeyPath) -> None:
        rows = entry if isinstance(entry, list) else [entry]
        if not rows:
            raise self.document.error("no keys are given", 'Write press = "Ctrl+K".', *path)
        speaks_of: frozenset[str] | None = None
        for index, row in enumerate(rows):
            here = (*path, str(index)) if isinstance(entry, list) else path
            if type(row) is dict and type(keys := row.get("press")) is str and row.keys() <= _PLAIN:
                self._add(outcome, keys, row, here, _EVERYWHERE)  # by far the most frequent form
                speaks_of = _EVERYWHERE
            else:
                found = self._entry(outcome, row, allowed, here)
                if found is not None:
                    is_everywhere = _EVERYWHERE in (found, speaks_of)
                    speaks_of = _EVERYWHERE if is_everywhere else found | (speaks_of or _EVERYWHERE)
        if speaks_of is not None and isinstance(outcome, Do | Play | Insert):
            self.layer.replaces[outcome.action if isinstance(outcome, Do) else outcome.key] = speaks_of

    def _entry(self, outcome: Outcome, row: Any, allowed: tuple[str, ...], here: KeyPath) -> frozenset[str] | None:
        """Read one row of an entry; the platforms on which it says all that there is to say of its action (none named: on
        all), or None where it only adds keys."""
        if isinstance(row, str):
            self._add(outcome, row, {}, here, _EVERYWHERE)
            return _EVERYWHERE
        if not isinstance(row, dict):
            raise self.document.error(f"keys are a text, not {row!r}", 'Write "Ctrl+K".', *here)
        self._check_keys(row, allowed, *here)
        if isinstance(outcome, Do) and "with" in row:
            outcome = Do(outcome.action, self._arguments(outcome.action, row, here))
        adds = "also" in row
        if adds and "press" in row:
            raise self.document.error(
                "press and also stand in one entry",
                "press replaces the keys of lower layers, also adds to them.",
                *here,
            )
        special = [name for name in PLATFORMS if name in row]
        if not adds and "press" not in row and not special:
            raise self.document.error("the keys are missing", 'Write press = "Ctrl+K".', *here)
        others = frozenset(name for name in PLATFORMS if name not in special) if special else _EVERYWHERE
        for keys in self._texts(row.get("also" if adds else "press"), here):
            self._add(outcome, keys, row, here, others)
        for name in special:
            for keys in self._texts(row[name], here):
                self._add(outcome, keys, row, here, frozenset({name}))
        if adds:
            return None
        return _EVERYWHERE if "press" in row else frozenset(special)

    def _add(self, outcome: Outcome, keys: str, row: dict[str, Any], path: KeyPath, platforms: frozenset[str]) -> None:
        where = row.get("where", "always")
        if not isinstance(where, str):
            raise self.document.error("where takes a condition in quotes", 'Write where = "pane is text".', *path)
        if where != "always":
            self._check_condition(where, *path)
        trigger = self._keys(keys, path)
        if isinstance(outcome, Do) and outcome.arguments:
            used = {word.split("}")[0] for _name, text in outcome.arguments for word in text.split("{")[1:]}
            unknown = used - variables(trigger)
            if unknown:
                raise self.document.error(
                    f"the keys have no variable {{{min(unknown)}}}", "Write a family of keys, like {n:1-5}.", *path
                )
        self.layer.bindings.append(
            Binding(
                trigger, outcome, self.document.place(*path), self.layer.name, where,
                self.scope if where != "always" else None, platforms, str(row.get("why", "")), keys, False, "also" in row,
                command=str(row.get("command", "")),
            )
        )  # fmt: skip

    def _keys(self, text: Any, path: KeyPath) -> Trigger:
        if not isinstance(text, str):
            raise self.document.error(f"keys are a text, not {text!r}", 'Write "Ctrl+K".', *path)
        try:
            return parse(text, self.chords)
        except NotationError as error:
            raise self.document.error_in_text(error.what, error.advice, text, error.start, error.end, *path) from None

    def _texts(self, value: Any, path: KeyPath) -> list[str]:
        if value is None or isinstance(value, bool):
            return []
        texts = value if isinstance(value, list) else [value]
        if not all(isinstance(text, str) for text in texts):
            raise self.document.error(f"keys are a text, not {value!r}", 'Write "Ctrl+K".', *path)
        return texts

    def _arguments(self, action: str, row: dict[str, Any], path: KeyPath) -> tuple[tuple[str, str], ...]:
        """The arguments by name, in the order of their names."""
        arguments = row.get("with", {})
        if not isinstance(arguments, dict):
            raise self.document.error("with takes a table", 'Write with = { slot = "{n}" }.', *path)
        known = (*self.catalogue.actions[action].arguments, COUNT)
        for name, value in arguments.items():
            if name not in known:
                advice = did_you_mean(name, known) or f"It takes {', '.join(known)}."
                raise self.document.error(f"{action} takes no {name}", advice, *path)
            is_number = re.fullmatch(r"[0-9]{1,4}", str(value)) and 1 <= int(value) <= MAX_COUNT
            if name == COUNT and not is_number and "{" not in str(value):
                raise self.document.error(f"not a count: {value}", f"Write a number from 1 to {MAX_COUNT}.", *path)
        return tuple(sorted((str(name), str(value)) for name, value in arguments.items()))

    # --- what is accepted, and what is kept

    def _accept(self, row: dict[str, Any], index: int) -> None:
        path = ("accept", str(index))
        self._check_keys(row, ("rule", "press", "why"), *path)
        if not isinstance(row.get("rule"), str) or not isinstance(row.get("why"), str):
            raise self.document.error("an accepted finding has a rule and a why", 'Write why = "…".', *path)
        trigger = self._keys(row["press"], path) if "press" in row else None
        self.layer.accepted.append(Accepted(row["rule"], trigger, row["why"], self.document.place(*path)))

    def _kept(self, row: dict[str, Any], index: int) -> None:
        path = ("kept", str(index))
        if not isinstance(row.get("editor"), str) or not isinstance(row.get("text"), str):
            raise self.document.error(
                "a kept piece has an editor and a text", 'Write editor = "…" and text = "…".', *path
            )
        place, reason = self.document.place(*path), str(row.get("reason", ""))
        self.layer.kept.append(Kept(row["editor"], row["text"], place, reason, row.get("beside") is True))

    # --- tables

    def _rows(self, table: dict[str, Any], key: str) -> list[dict[str, Any]]:
        rows = table.get(key, [])
        if not isinstance(rows, list):
            raise self.document.error(f"{key} takes a list of tables", f"Write [[{key}]].", key)
        for index, row in enumerate(rows):
            if not isinstance(row, dict):
                raise self.document.error(f"{key} takes a list of tables", f"Write [[{key}]].", key, str(index))
        return rows

    def _table(self, table: dict[str, Any], key: str) -> dict[str, Any]:
        value = table.get(key, {})
        if not isinstance(value, dict):
            raise self.document.error(f"{key} is not a table", f"Write [{key}].", key)
        return value

    def _check_keys(self, table: dict[str, Any], allowed: tuple[str, ...], *path: str) -> None:
        for key in table:
            if key not in allowed:
                raise self.document.error(
                    f"unknown key: {key}", did_you_mean(key, list(allowed)) or f"Known are {', '.join(allowed)}.",
                    *path, key,
                )  # fmt: skip
