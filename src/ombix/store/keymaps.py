"""Keymap files: TOML arranged by action, read into layers with the place of every binding, and written for adoption."""

import contextlib
import re
from collections.abc import Iterable, Iterator
from functools import lru_cache
from pathlib import Path
from typing import Any

from ombix.core.actions import Catalogue
from ombix.core.collecting import paused
from ombix.core.conditions import Fact, Facts, Space
from ombix.core.errors import InputError, NotationError, did_you_mean
from ombix.core.keymap import (
    MAX_COUNT,
    Accepted,
    Binding,
    Do,
    Kept,
    Keymap,
    Layer,
    Macro,
    Nothing,
    Only,
    Outcome,
    Play,
    Press,
    Removal,
    Step,
    Type,
)
from ombix.core.keys import Trigger, parse, variables, write
from ombix.core.toml import Document
from ombix.store.files import read_text

FORMAT = 1
SUFFIX = ".keys.toml"
_TOP = ("format", "name", "extends", "fact", "never", "where", "bind", "unbind", "only", "macro", "accept", "kept")
_ENTRY = ("press", "where", "with", "why", "linux", "mac", "windows")
_MACRO = ("title", "press", "where", "why", "steps", "linux", "mac", "windows")
_EVERYWHERE: frozenset[str] = frozenset()
_PLAIN = frozenset(("press", "where", "why"))
_PLATFORMS = ("linux", "mac", "windows")
_STEPS = {"do": "an action", "type": "a text", "press": "keys", "play": "a macro", "only": "a command"}


def load(path: Path, catalogue: Catalogue, facts: Facts, kind: str = "own", lenient: bool = False) -> list[Layer]:
    """The layers of a keymap file: those it extends first, then its own. Raises InputError.

    A lenient reader leaves out entries that are wrong, and notes them in the layer's `problems`.
    """
    with paused():
        return _load(path, catalogue, facts, kind, [], {}, lenient)


def _load(
    path: Path,
    catalogue: Catalogue,
    facts: Facts,
    kind: str,
    above: list[Path],
    seen: dict[Path, bool],
    lenient: bool,
) -> list[Layer]:
    real = path.resolve()
    text = read_text(path)
    document = Document(text, str(path))
    layers: list[Layer] = []
    extends = document.table.get("extends", [])
    if not isinstance(extends, list) or not all(isinstance(name, str) for name in extends):
        raise document.error("extends takes a list of file names", 'Write extends = ["house.keys.toml"].', "extends")
    for name in extends:
        base = path.parent / name
        if base.resolve() in [*above, real]:
            raise document.error(
                f"keymaps extend each other in a circle: {name}", "Take one of them out of extends.", "extends"
            )
        if base.resolve() in seen:
            continue
        if not base.exists():
            raise document.error(f"there is no file {name} to extend", "Check the name.", "extends")
        layers.extend(_load(base, catalogue, facts, "base", [*above, real], seen, lenient))
    seen[real] = True
    inherited = {name: text for layer in layers for name, text in layer.conditions.items()}
    for layer in layers:
        facts = facts.extended(layer.facts, layer.never)
    above_space = layers[-1].space if layers else None
    layers.append(_Reader(document, catalogue, facts, kind, inherited, path, lenient, above_space).read())
    return layers


def read(text: str, file: str, catalogue: Catalogue, facts: Facts, kind: str = "own", lenient: bool = False) -> Layer:
    """One layer from a text that stands in `file`; `extends` is not followed. Raises InputError."""
    return _Reader(Document(text, file), catalogue, facts, kind, {}, Path(file), lenient).read()


class _Reader:
    def __init__(
        self, document: Document, catalogue: Catalogue, facts: Facts, kind: str, inherited: dict[str, str], path: Path,
        lenient: bool, above: Space | None = None,
    ) -> None:  # fmt: skip
        self.document = document
        self.catalogue = catalogue
        self.facts = facts
        self.inherited = inherited
        self.lenient = lenient
        name = document.table.get("name", path.name.removesuffix(SUFFIX).removesuffix(".toml"))
        self.layer = Layer(str(name), kind, files=[str(path.resolve())])  # type: ignore[arg-type]
        self.checked: set[str] = set()
        self.space = above
        self.is_current = False

    def read(self) -> Layer:
        table = self.document.table
        if table.get("format") != FORMAT:
            if "format" not in table:
                raise self.document.error(
                    "the line with the format is missing", f"Begin the file with format = {FORMAT}."
                )
            raise self.document.error(
                f"this is format {table['format']!r}; this Ombix reads format {FORMAT}", "", "format"
            )
        with self._entry_by_itself():
            self._check_keys(table, _TOP)
        self._declared(table)
        self._conditions(self._table(table, "where"))
        for domain, actions in self._table(table, "bind").items():
            with self._entry_by_itself():
                if not isinstance(actions, dict):
                    raise self.document.error(
                        f"{domain} is a kind of work, not an action", "Write [bind.line] and below it copy-down = …",
                        "bind", domain,
                    )  # fmt: skip
                for verb, entry in actions.items():
                    if self.lenient:
                        with self._entry_by_itself():
                            self._action(domain, verb, entry)
                    else:
                        self._action(domain, verb, entry)
        for keys, entry in self._table(table, "unbind").items():
            with self._entry_by_itself():
                self._unbind(keys, entry)
        for editor, commands in self._table(table, "only").items():
            if not isinstance(commands, dict):
                raise self.document.error("only takes editors", "Write [only.nano].", "only", editor)
            for command, entry in commands.items():
                with self._entry_by_itself():
                    self._entries(Only(editor, command), entry, _ENTRY, ("only", editor, command))
        for name, entry in self._table(table, "macro").items():
            with self._entry_by_itself():
                self._macro(name, entry)
        for index, row in enumerate(self._rows(table, "accept")):
            with self._entry_by_itself():
                self._accept(row, index)
        for index, row in enumerate(self._rows(table, "kept")):
            if not isinstance(row.get("editor"), str) or not isinstance(row.get("text"), str):
                raise self.document.error("a kept piece has an editor and a text", "", "kept", str(index))
            self.layer.kept.append(
                Kept(row["editor"], row["text"], self.document.place("kept", str(index)), str(row.get("reason", "")))
            )
        self.layer.space = self.space
        return self.layer

    @contextlib.contextmanager
    def _entry_by_itself(self) -> Iterator[None]:
        """In a lenient reader, an entry that is wrong is noted and left out."""
        try:
            yield
        except InputError as error:
            if not self.lenient:
                raise
            self.layer.problems.append(error)

    def _declared(self, table: dict[str, Any]) -> None:
        for name, row in self._table(table, "fact").items():
            path = ("fact", name)
            if not isinstance(row, dict):
                raise self.document.error(f"the fact {name} is not a table", f"Write [fact.{name}].", *path)
            self._check_keys(row, ("title", "values", "open"), *path)
            values = row.get("values", ["no", "yes"])
            if not isinstance(values, list) or not values or not all(isinstance(value, str) for value in values):
                raise self.document.error(f"the fact {name} needs a list of values", "", *path)
            fact = Fact(name, tuple(values), str(row.get("title", "")), bool(row.get("open", False)))
            try:
                self.facts = self.facts.extended([fact], [])
            except ValueError as error:
                raise self.document.error(str(error), "Choose another name.", *path) from None
            self.layer.facts.append(fact)
        never = table.get("never", [])
        if not isinstance(never, list) or not all(isinstance(text, str) for text in never):
            raise self.document.error("never takes a list of conditions", 'Write never = ["a and b"].', "never")
        for text in never:
            self._check_condition(text, "never")
            self.layer.never.append(text)
        if never:
            self.facts = self.facts.extended([], never)
            self.is_current = False
            self.checked.clear()

    def _accept(self, row: dict[str, Any], index: int) -> None:
        path = ("accept", str(index))
        self._check_keys(row, ("rule", "press", "why"), *path)
        if not isinstance(row.get("rule"), str) or not isinstance(row.get("why"), str):
            raise self.document.error("an accepted finding has a rule and a why", 'Write why = "…".', *path)
        trigger = self._keys(row["press"], path) if "press" in row else None
        self.layer.accepted.append(Accepted(row["rule"], trigger, row["why"], self.document.place(*path)))

    def _rows(self, table: dict[str, Any], key: str) -> list[dict[str, Any]]:
        rows = table.get(key, [])
        if not isinstance(rows, list):
            raise self.document.error(f"{key} takes a list of tables", f"Write [[{key}]].", key)
        for index, row in enumerate(rows):
            if not isinstance(row, dict):
                raise self.document.error(f"{key} takes a list of tables", f"Write [[{key}]].", key, str(index))
        return rows

    def _conditions(self, table: dict[str, Any]) -> None:
        for name, text in table.items():
            if not isinstance(text, str):
                raise self.document.error(f"the condition {name} is not a text", "", "where", name)
            if name in self.facts.by_name:
                raise self.document.error(
                    f"{name} is a fact already", "Give the condition another name.", "where", name
                )
            self.layer.conditions[name] = text
        for name, text in table.items():
            with self._entry_by_itself():
                self._check_condition(text, "where", name)

    def _check_condition(self, text: str, *path: str) -> None:
        if text in self.checked:
            return
        space = self._space_here()
        try:
            space.parse(text)
        except NotationError as error:
            raise self.document.error_in_text(
                error.what, error.advice, error.text, error.start, error.end, *path
            ) from None
        except ValueError as error:
            raise self.document.error(str(error), "", *path) from None
        self.checked.add(text)

    def _space_here(self) -> Space:
        if self.space is None or not self.is_current:
            named = self.inherited | self.layer.conditions
            if self.space is None or not self.space.is_over(self.facts, named):
                self.space = Space(self.facts, named)
            self.is_current = True
        return self.space

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
        if isinstance(entry, dict) and entry.get("press") is False and not any(key in entry for key in _PLATFORMS):
            self._check_keys(entry, _ENTRY, *path)
            self.layer.removals.append(Removal(name, self.document.place(*path), str(entry.get("why", ""))))
            return
        self._entries(Do(name), entry, _ENTRY, path)

    def _unbind(self, keys: str, entry: Any) -> None:
        path = ("unbind", keys)
        if entry is not True and not isinstance(entry, dict):
            raise self.document.error("unbind takes true or a table", 'Write { why = "…" }.', *path)
        row = {} if entry is True else entry
        self._check_keys(row, ("where", "why"), *path)
        self._add(Nothing(), keys, row, path, frozenset())

    def _macro(self, name: str, entry: Any) -> None:
        path = ("macro", name)
        if not isinstance(entry, dict):
            raise self.document.error(f"the macro {name} is not a table", f"Write [macro.{name}].", *path)
        self._check_keys(entry, _MACRO, *path)
        raw = entry.get("steps")
        if not isinstance(raw, list) or not raw:
            raise self.document.error(f"the macro {name} has no steps", 'Write steps = [{ do = "…" }].', *path)
        steps = tuple(self._step(step, (*path, "steps")) for step in raw)
        title = entry.get("title", name)
        self.layer.macros[name] = Macro(name, str(title), steps, self.document.place(*path))
        if any(key in entry for key in ("press", *_PLATFORMS)):
            self._entries(Play(name), {key: value for key, value in entry.items() if key in _ENTRY}, _ENTRY, path)

    def _step(self, step: Any, path: tuple[str, ...]) -> Step:
        if not isinstance(step, dict) or not any(key in step for key in _STEPS):
            kinds = ", ".join(f"{key} ({what})" for key, what in _STEPS.items())
            raise self.document.error(f"not a step: {step!r}", f"A step has one of {kinds}.", *path)
        kind = next(key for key in _STEPS if key in step)
        value = step[kind]
        self._check_keys(step, (kind, "with", "editor"), *path)
        if not isinstance(value, str):
            raise self.document.error(f"{kind} takes {_STEPS[kind]}", "", *path)
        if kind == "do":
            if value not in self.catalogue.actions:
                raise self.document.error(
                    f"unknown action: {value}", did_you_mean(value, list(self.catalogue.actions)), *path
                )
            return Do(value, self._arguments(value, step, path))
        if kind == "type":
            return Type(value)
        if kind == "press":
            return Press(self._keys(value, path))
        if kind == "only":
            return Only(str(step.get("editor", "")), value)
        return Play(value)

    def _entries(self, outcome: Outcome, entry: Any, allowed: tuple[str, ...], path: tuple[str, ...]) -> None:
        rows = entry if isinstance(entry, list) else [entry]
        if not rows:
            raise self.document.error("no keys are given", 'Write press = "Ctrl+K".', *path)
        for index, row in enumerate(rows):
            here = (*path, str(index)) if isinstance(entry, list) else path
            if type(row) is dict and type(keys := row.get("press")) is str and row.keys() <= _PLAIN:
                self._add(outcome, keys, row, here, _EVERYWHERE)  # by far the most frequent form
            else:
                self._entry(outcome, row, allowed, here, path)

    def _entry(
        self, outcome: Outcome, row: Any, allowed: tuple[str, ...], here: tuple[str, ...], path: tuple[str, ...]
    ) -> None:
        if isinstance(row, str):
            self._add(outcome, row, {}, here, frozenset())
            return
        if not isinstance(row, dict):
            raise self.document.error(f"keys are a text, not {row!r}", 'Write "Ctrl+K".', *here)
        self._check_keys(row, allowed, *here)
        if isinstance(outcome, Do) and "with" in row:
            outcome = Do(outcome.action, self._arguments(outcome.action, row, here))
        special = [name for name in _PLATFORMS if name in row]
        if "press" not in row and not special:
            raise self.document.error("the keys are missing", 'Write press = "Ctrl+K".', *here)
        others = frozenset(name for name in _PLATFORMS if name not in special) if special else _EVERYWHERE
        press = row.get("press")
        if isinstance(press, str):
            self._add(outcome, press, row, here, others)
        elif press not in (None, False):
            for keys in self._texts(press, here):
                self._add(outcome, keys, row, here, others)
        for name in special:
            if row[name] is not False:
                for keys in self._texts(row[name], here):
                    self._add(outcome, keys, row, here, frozenset({name}))

    def _add(
        self, outcome: Outcome, keys: str, row: dict[str, Any], path: tuple[str, ...], platforms: frozenset[str]
    ) -> None:
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
                raise self.document.error(f"the keys have no variable {{{min(unknown)}}}", "", *path)
        why = row.get("why", "")
        self.layer.bindings.append(
            Binding(trigger, outcome, self.document.place(*path), self.layer.name, where, platforms, str(why), keys)
        )

    def _keys(self, text: str, path: tuple[str, ...]) -> Trigger:
        try:
            return parse(text)
        except NotationError as error:
            raise self.document.error_in_text(error.what, error.advice, text, error.start, error.end, *path) from None

    def _texts(self, value: Any, path: tuple[str, ...]) -> list[str]:
        texts = value if isinstance(value, list) else [value]
        if not all(isinstance(text, str) for text in texts):
            raise self.document.error(f"keys are a text, not {value!r}", 'Write "Ctrl+K".', *path)
        return texts

    def _arguments(self, action: str, row: dict[str, Any], path: tuple[str, ...]) -> tuple[tuple[str, str], ...]:
        """The arguments by name, in the order of their names."""
        arguments = row.get("with", {})
        if not isinstance(arguments, dict):
            raise self.document.error("with takes a table", 'Write with = { slot = "{n}" }.', *path)
        known = (*self.catalogue.actions[action].arguments, "count")
        for name, value in arguments.items():
            if name not in known:
                advice = did_you_mean(name, known) or f"It takes {', '.join(known)}."
                raise self.document.error(f"{action} takes no {name}", advice, *path)
            is_number = re.fullmatch(r"[0-9]{1,4}", str(value)) and 1 <= int(value) <= MAX_COUNT
            if name == "count" and not is_number and "{" not in str(value):
                raise self.document.error(f"not a count: {value}", f"Write a number from 1 to {MAX_COUNT}.", *path)
        return tuple(sorted((str(name), str(value)) for name, value in arguments.items()))

    def _table(self, table: dict[str, Any], key: str) -> dict[str, Any]:
        value = table.get(key, {})
        if not isinstance(value, dict):
            raise self.document.error(f"{key} is not a table", f"Write [{key}].", key)
        return value

    def _check_keys(self, table: dict[str, Any], allowed: tuple[str, ...], *path: str) -> None:
        if table.keys() <= _as_set(allowed):
            return
        for key in table:
            if key not in allowed:
                raise self.document.error(
                    f"unknown key: {key}", did_you_mean(key, list(allowed)) or f"Known are {', '.join(allowed)}.",
                    *path, key,
                )  # fmt: skip


@lru_cache(maxsize=32)
def _as_set(names: tuple[str, ...]) -> frozenset[str]:
    return frozenset(names)


def keymap(path: Path, catalogue: Catalogue, facts: Facts) -> Keymap:
    """The keymap of a file and of all it extends. Raises InputError."""
    return Keymap(load(path, catalogue, facts))


# --- writing a layer


def dump(layer: Layer, comment: str = "") -> str:
    """The layer as a keymap file; reading it gives the same layer."""
    lines = [f"# {line}" for line in comment.splitlines()]
    lines += [f"format = {FORMAT}", f"name = {_string(layer.name)}"]
    for fact in layer.facts:
        lines += ["", f"[fact.{_key(fact.name)}]"]
        lines += [f"title = {_string(fact.title)}"] if fact.title else []
        lines += [f"values = [{', '.join(map(_string, fact.values))}]", *(["open = true"] if fact.is_open else [])]
    if layer.conditions:
        lines += ["", "[where]", *(f"{_key(name)} = {_string(text)}" for name, text in layer.conditions.items())]
    by_domain: dict[str, dict[str, list[Binding]]] = {}
    unbound: list[Binding] = []
    only: dict[str, dict[str, list[Binding]]] = {}
    played: dict[str, list[Binding]] = {}
    for binding in layer.bindings:
        outcome = binding.outcome
        if isinstance(outcome, Do):
            domain, _, verb = outcome.action.partition(".")
            by_domain.setdefault(domain, {}).setdefault(verb, []).append(binding)
        elif isinstance(outcome, Only):
            only.setdefault(outcome.editor, {}).setdefault(outcome.command, []).append(binding)
        elif isinstance(outcome, Play):
            played.setdefault(outcome.macro, []).append(binding)
        else:
            unbound.append(binding)
    removals: dict[str, dict[str, Removal]] = {}
    for removal in layer.removals:
        domain, _, verb = removal.action.partition(".")
        removals.setdefault(domain, {})[verb] = removal
    for domain in dict.fromkeys([*by_domain, *removals]):
        lines += ["", f"[bind.{_key(domain)}]"]
        for verb, bindings in by_domain.get(domain, {}).items():
            lines += _entry_lines(verb, bindings)
        for verb, removal in removals.get(domain, {}).items():
            why = f", why = {_string(removal.why)}" if removal.why else ""
            lines.append(f"{_key(verb)} = {{ press = false{why} }}")
    if unbound:
        # One key in two states is one entry: the conditions are joined.
        joined: dict[str, list[str]] = {}
        reasons: dict[str, str] = {}
        for binding in unbound:
            joined.setdefault(write(binding.trigger), []).append(binding.where)
            reasons[write(binding.trigger)] = binding.why
        lines += ["", "[unbind]"]
        for keys, conditions in joined.items():
            where = conditions[0] if len(conditions) == 1 else " or ".join(f"({text})" for text in conditions)
            fields = [f"where = {_string(where)}"] if where != "always" else []
            fields += [f"why = {_string(reasons[keys])}"] if reasons[keys] else []
            lines.append(f"{_string(keys)} = {{ {', '.join(fields)} }}" if fields else f"{_string(keys)} = true")
    for editor, commands in only.items():
        lines += ["", f"[only.{_key(editor)}]"]
        for command, bindings in commands.items():
            lines += _entry_lines(command, bindings)
    for name, macro in layer.macros.items():
        lines += ["", f"[macro.{_key(name)}]", f"title = {_string(macro.title)}"]
        steps = ", ".join(_step_text(step) for step in macro.steps)
        bindings = played.get(name, [])
        if bindings:
            lines += _platform_fields(bindings) or [f"press = {_texts_value(bindings)}"]
            lines += [f"where = {_string(bindings[0].where)}"] if bindings[0].where != "always" else []
        lines.append(f"steps = [{steps}]")
    for kept in layer.kept:
        lines += ["", "[[kept]]", f"editor = {_string(kept.editor)}", f"text = {_string(kept.text)}"]
        lines += [f"reason = {_string(kept.reason)}"] if kept.reason else []
    return "\n".join(lines) + "\n"


def _entry_lines(name: str, bindings: list[Binding]) -> list[str]:
    values = entry_values(bindings)
    if len(values) == 1:
        return [f"{_key(name)} = {values[0]}"]
    if all(value.startswith('"') for value in values) and sum(map(len, values)) < 80:
        return [f"{_key(name)} = [{', '.join(values)}]"]
    return [f"{_key(name)} = [", *(f"    {value}," for value in values), "]"]


def entry_values(bindings: Iterable[Binding]) -> list[str]:
    """The values of the bindings of one action, those that differ by platform alone in one."""
    groups: dict[tuple[Outcome, str, str], list[Binding]] = {}
    for binding in bindings:
        groups.setdefault((binding.outcome, binding.where, binding.why), []).append(binding)
    values = []
    for group in groups.values():
        fields = _platform_fields(group) if any(binding.platforms for binding in group) else None
        values += [_table_value(group[0], fields)] if fields else [entry_value(binding) for binding in group]
    return values


def _platform_fields(group: list[Binding]) -> list[str] | None:
    """Where all keys that are for several platforms are for the same ones: those, and the others as exceptions."""
    wide = [binding for binding in group if len(binding.platforms) != 1]
    narrow = [binding for binding in group if len(binding.platforms) == 1]
    common = {binding.platforms for binding in wide}
    if len(common) > 1:
        return None
    shared = next(iter(common), frozenset()) or (frozenset(_PLATFORMS) if wide else frozenset())
    if any(binding.platforms <= shared for binding in narrow):
        return None
    fields = [f"press = {_texts_value(wide)}"] if wide else []
    for name in _PLATFORMS:
        own = [binding for binding in narrow if name in binding.platforms]
        if own or (wide and name not in shared):
            fields.append(f"{name} = {_texts_value(own) if own else 'false'}")
    return fields


def _texts_value(bindings: list[Binding]) -> str:
    texts = [_string(write(binding.trigger)) for binding in bindings]
    return texts[0] if len(texts) == 1 else f"[{', '.join(texts)}]"


def entry_value(binding: Binding) -> str:
    """The value that stands behind the equals sign for one binding."""
    keys = _string(write(binding.trigger))
    value = _table_value(binding, _platform_fields([binding]) or [])
    return keys if value == f"{{ press = {keys} }}" else value


def _table_value(binding: Binding, fields: list[str]) -> str:
    fields = list(fields)
    if binding.where != "always":
        fields.append(f"where = {_string(binding.where)}")
    if isinstance(binding.outcome, Do) and binding.outcome.arguments:
        inner = ", ".join(f"{_key(name)} = {_string(value)}" for name, value in binding.outcome.arguments)
        fields.append(f"with = {{ {inner} }}")
    if binding.why:
        fields.append(f"why = {_string(binding.why)}")
    return f"{{ {', '.join(fields)} }}"


def _step_text(step: Step) -> str:
    if isinstance(step, Do):
        return f"{{ do = {_string(step.action)} }}"
    if isinstance(step, Type):
        return f"{{ type = {_string(step.text)} }}"
    if isinstance(step, Press):
        return f"{{ press = {_string(write(step.keys))} }}"
    if isinstance(step, Only):
        return f"{{ only = {_string(step.command)}, editor = {_string(step.editor)} }}"
    return f"{{ play = {_string(step.macro)} }}"


def _key(name: str) -> str:
    return name if name and all(char.isascii() and (char.isalnum() or char in "-_") for char in name) else _string(name)


def _string(text: str) -> str:
    escaped = "".join(
        {"\\": "\\\\", '"': '\\"', "\n": "\\n", "\t": "\\t", "\r": "\\r"}.get(char)
        or (f"\\u{ord(char):04x}" if ord(char) < 32 or ord(char) == 127 else char)
        for char in text
    )
    return f'"{escaped}"'


__all__ = ["FORMAT", "SUFFIX", "InputError", "dump", "entry_value", "keymap", "load", "read"]
