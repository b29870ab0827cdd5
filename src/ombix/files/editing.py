"""Changes applied to the text of a keymap or workspace file: comments, order and layout are kept."""

import re
from collections.abc import MutableMapping, Sequence
from typing import Any, NamedTuple

import tomlkit
from tomlkit.exceptions import TOMLKitError
from tomlkit.items import AoT, InlineTable, Table

from ombix.core.errors import InputError, NotationError
from ombix.core.keymap.changes import (
    Accept,
    AddEditor,
    AddLayer,
    AddNamed,
    Bind,
    BindCommand,
    BindNamed,
    Change,
    Correct,
    MapCommand,
    Move,
    Narrow,
    Remove,
    RemoveAccept,
    RemoveTakeAway,
    RemoveUnbind,
    Settle,
    TakeAway,
    Unbind,
    in_words,
)
from ombix.core.keys.notation import Trigger, parse, write
from ombix.core.toml import Document
from ombix.files import keymap_entries, open_conflicts, toml_pieces
from ombix.files.line_keeping import comments_in, with_blank_lines, with_lines_of, without_empty_end, without_entry
from ombix.files.split_arrays import apart, rows_of
from ombix.files.word_correction import corrected


class Edit(NamedTuple):
    """What one change did to a file: the entry that it wrote (empty: it took one out), and the one that stood there."""

    change: Change
    after: str
    before: str = ""


class Edited(NamedTuple):
    """The text of a file after changes, and what each did."""

    text: str
    edits: tuple[Edit, ...]


def apply(text: str, changes: Sequence[Change]) -> Edited:
    """A file's text with changes, one after the other. Raises InputError for one that there is no place for."""
    corrections = [change for change in changes if isinstance(change, Correct)]
    if corrections:
        edited, lines = corrected(text, corrections)
        done = tuple(Edit(one, after, before) for one, before, after in lines)
        others = [change for change in changes if not isinstance(change, Correct)]
        rest = apply(edited, others) if others else Edited(edited, ())
        return Edited(rest.text, done + rest.edits)
    edits = []
    told_apart = apart(text)
    try:
        document, edited = tomlkit.parse(told_apart.text), told_apart.text
    except TOMLKitError as error:
        what = str(error).partition(" at line")[0]
        raise InputError(
            f"the file is not TOML: {what}", "Mend that first: what is wrong is said by ombix audit."
        ) from None
    is_written = True
    for number, change in enumerate(changes, 1):
        is_last = number == len(changes)
        is_taking = isinstance(change, Remove | RemoveTakeAway | RemoveUnbind)
        before = (edited if is_written else tomlkit.dumps(document)) if is_taking else ""
        editing = _Editing(document)
        edits.append(editing.apply(change))
        cut = without_entry(before, _path(change, before)) if before and not edits[-1].after else None
        is_written = cut is not None or bool(editing.lines or editing.end) or is_last
        if is_written:
            edited = _with_lines(tomlkit.dumps(document), editing) if cut is None else cut
            document = document if is_last else tomlkit.parse(edited)
    edited = without_empty_end(with_blank_lines(told_apart.joined(edited), text), text)
    edited = edited if edited.endswith("\n") else f"{edited}\n"
    lined = with_lines_of(edited, text)
    ends_open = bool(text) and not text.endswith("\n")
    return Edited(lined.removesuffix("\n").removesuffix("\r") if ends_open else lined, tuple(edits))


class _Editing:
    """One change. `lines` are those that are still to be put behind the first lines with dotted names, `end` those at the end."""

    def __init__(self, document: tomlkit.TOMLDocument) -> None:
        self.document: Any = document
        self.lines: list[str] = []
        self.end: list[str] = []

    def apply(self, change: Change) -> Edit:
        match change:
            case Bind():
                return self._bind(change)
            case BindCommand():
                return self._bind_command(change)
            case TakeAway(action=action, why=why):
                value = toml_pieces.inline({"press": False, **({"why": why} if why else {})})
                return self._set(change, self._domain(action), action.partition(".")[2], value)
            case RemoveTakeAway(action=action):
                return self._take(change, self._domain(action), action.partition(".")[2])
            case Unbind(keys=keys, where=where, why=why):
                fields = {name: value for name, value in (("where", where), ("why", why)) if value}
                value = toml_pieces.inline(fields) if fields else tomlkit.item(True)
                table = self._own_table("unbind")
                return self._set(change, table, _same_keys(table, keys) or write(keys), value)
            case RemoveUnbind(keys=keys):
                table = self._own_table("unbind")
                return self._take(change, table, _same_keys(table, keys))
            case Remove():
                return self._remove(change)
            case Move() | Narrow():
                return self._change_row(change)
            case AddNamed(text=text):
                self.end += text.rstrip("\n").split("\n")
                return Edit(change, text.strip().split("\n")[0])
            case BindNamed():
                return self._bind_named(change)
            case Accept():
                return self._accept(change)
            case RemoveAccept():
                return self._remove_accept(change)
            case Correct():
                raise TypeError("words are corrected in the text, before it is read")
            case Settle():
                return self._settle(change)
            case MapCommand(editor=editor, command=command, action=action):
                table = _table(_table(_table(self.document, "editor", True), editor), "actions")
                return self._set(change, table, command, tomlkit.item(action))
            case AddLayer(file=file):
                return self._add_layer(change, file)
            case AddEditor():
                return self._add_editor(change)

    def _domain(self, action: str) -> MutableMapping[str, Any]:
        domain = action.partition(".")[0]
        if domain not in self.document.get("bind", {}) and _dotted_ends(tomlkit.dumps(self.document)):
            return _Later(self.lines, f"bind.{domain}.")
        return self._own_table("bind", domain)

    def _own_table(self, *path: str) -> MutableMapping[str, Any]:
        """A table of the file; one that is not there goes to its end."""
        table = self.document
        for name in path:
            if name not in table:
                dotted = ".".join(tomlkit.key(one).as_string() for one in path)
                return _Later(self.end, "", f"[{dotted}]")
            table = table[name]
        return table  # type: ignore[no-any-return]

    # --- keys given

    def _bind(self, change: Bind) -> Edit:
        table, verb = self._domain(change.action), change.action.partition(".")[2]
        extra = {"where": change.where} if change.where else {}
        if change.arguments:
            extra["with"] = dict(change.arguments)  # type: ignore[assignment]
        if change.why:
            extra["why"] = change.why
        extra |= dict.fromkeys(change.without, False)  # type: ignore[arg-type]
        return self._give(change, table, verb, extra)

    def _bind_command(self, change: BindCommand) -> Edit:
        table = self._own_table("only", change.editor)
        return self._give(change, table, change.command, {"where": change.where} if change.where else {})

    def _bind_named(self, change: BindNamed) -> Edit:
        table = self.document.get(change.kind, {}).get(change.name)
        if table is None:
            raise InputError(f"the file has no {change.kind} {change.name}", "See: ombix macro list")
        if change.where:
            self._set(change, table, "where", tomlkit.item(change.where))
        field, keys = change.platform or "press", write(change.keys)
        old = table.get(field) if change.adds else None
        known = [old] if isinstance(old, str) else list(old or ())
        return self._set(change, table, field, toml_pieces.array([*known, keys]) if known else tomlkit.item(keys))

    def _give(
        self, change: Bind | BindCommand, table: MutableMapping[str, Any], name: str, extra: dict[str, Any]
    ) -> Edit:
        old, keys, platform = table.get(name), write(change.keys), change.platform
        is_free = old is None or _is_removal(old)
        if platform and not extra and not is_free and not change.adds and not _is_many(old):
            fields = dict(old) if isinstance(old, dict) else {"press": old}
            return self._set(change, table, name, toml_pieces.inline({**fields, platform: keys}))
        if platform:
            row: dict[str, Any] = {"also": True, platform: keys} if change.adds and is_free else {platform: keys}
        else:
            row = {"also" if change.adds and is_free else "press": keys}
        value = toml_pieces.value({**row, **extra})
        if not is_free and (change.adds or platform):
            text = keymap_entries.with_row(_entry_text(old), toml_pieces.text(value))
            return self._set(change, table, name, toml_pieces.item(text), text)
        return self._set(change, table, name, value)

    # --- bindings changed

    def _entry(self, change: Remove | Move | Narrow) -> tuple[MutableMapping[str, Any], str, str]:
        """The table and the key that an entry stands under, and the field of it that has its rows (empty: itself)."""
        editor, sign, command = change.name.partition(":")
        if sign:
            table = self.document.get("only", {}).get(editor, {})
            if command not in table:
                raise InputError(f"there is no entry to {in_words(change)}", "See: ombix show")
            return table, command, ""
        kind, name = ("snippet", change.name[8:]) if change.name.startswith("snippet ") else ("macro", change.name)
        domain, _, verb = name.partition(".") if kind == "macro" else (name, "", "")
        table = self.document.get("bind", {}).get(domain, {}) if verb else self.document.get(kind, {})
        name = verb or domain
        if name not in table:
            raise InputError(f"there is no entry to {in_words(change)}", "See: ombix show")
        return (table, name, "") if verb else (table[name], "press", "press")

    def _remove(self, change: Remove) -> Edit:
        table, name, field = self._entry(change)
        where = "" if field else change.where  # the condition of a macro stands beside its keys
        return self._replace(change, table, name, keymap_entries.removed(_entry_text(table[name]), change.keys, where))

    def _change_row(self, change: Move | Narrow) -> Edit:
        table, name, field = self._entry(change)
        where = "" if field else change.where
        if isinstance(change, Narrow):
            if field:
                return self._set(change, table, "where", tomlkit.item(change.to))
            found = keymap_entries.narrowed(_entry_text(table[name]), change.keys, where, change.to)
        else:
            found = keymap_entries.moved(_entry_text(table[name]), change.keys, where, change.to)
        return self._replace(change, table, name, found)

    def _replace(
        self, change: Remove | Move | Narrow, table: MutableMapping[str, Any], name: str, text: str | None
    ) -> Edit:
        if text is None:
            raise InputError(f"there is no binding to {in_words(change)}", "See: ombix show")
        return self._set(change, table, name, toml_pieces.item(text), text) if text else self._take(change, table, name)

    # --- what is accepted

    def _accept(self, change: Accept) -> Edit:
        row = tomlkit.table()
        row["rule"] = change.rule
        if change.keys:
            row["press"] = write(change.keys)
        row["why"] = change.why
        rows = self.document.get("accept")
        if rows is None:
            self.document["accept"] = tomlkit.aot()
            rows = self.document["accept"]
        rows.append(row)
        return Edit(change, "[[accept]] " + ", ".join(str(row.as_string()).strip().split("\n")))

    def _remove_accept(self, change: RemoveAccept) -> Edit:
        for name, rows, index in rows_of(self.document, "accept"):
            row = rows[index]
            keys = parse(row["press"]) if "press" in row else ()
            if row.get("rule") == change.rule and keys == change.keys:
                before = toml_pieces.one_line(row)
                self._take_row(name, rows, index)
                return Edit(change, "", f"[[accept]] {before}")
        raise InputError(f"there is nothing to {in_words(change)}", "See: ombix audit")

    def _settle(self, change: Settle) -> Edit:
        for name, rows, index in rows_of(self.document, open_conflicts.TABLE):
            row = rows[index]
            at, keys = open_conflicts.path_of(row.get("at", "")), _parsed(row.get("press", ""))
            if (at, keys) != (change.at, change.keys):
                continue
            text, before = str(row.get(change.take, "")), toml_pieces.one_line(row)
            if change.take != "as it is":
                self._put(change, text)
            self._take_row(name, rows, index)
            after = f"{toml_pieces.key_text(change.at[-1])} = {text}" if text else ""
            return Edit(change, after, f"[[{open_conflicts.TABLE}]] {before}")
        raise InputError(f"there is nothing to {in_words(change)}", "See: ombix audit")

    def _take_row(self, name: str, rows: AoT, index: int) -> None:
        """Take a table out of an array, and the array where it was the last one."""
        del rows[index]
        if not rows:
            del self.document[name]

    def _put(self, change: Settle, text: str) -> None:
        """Give an entry a value, as a text; take it out for an empty one."""
        table = self._own_table(*change.at[:-1])
        name = change.at[-1] if change.at[0] != "unbind" else _same_keys(table, _parsed(change.at[-1])) or change.at[-1]
        if text:
            self._set(change, table, name, toml_pieces.item(text), text)
        elif name in table:
            self._take(change, table, name)

    # --- the workspace

    def _add_layer(self, change: AddLayer, file: str) -> Edit:
        layers = self.document.get("layers")
        if layers is not None:
            before = f"layers = {toml_pieces.text(layers)}"
            layers.append(file)
            return Edit(change, f"layers = {toml_pieces.text(layers)}", before)
        value = tomlkit.array()
        value.append(file)
        document: Any = self.document
        tables = [key for key in document if isinstance(document[key], Table | AoT)]
        plain = [key for key in document if key not in tables]
        value.trivia.trail = "\n"
        document._insert_after(plain[-1], "layers", value)  # tomlkit has no public way to put a key in the middle
        return Edit(change, f"layers = {toml_pieces.text(value)}")

    def _add_editor(self, change: AddEditor) -> Edit:
        table = _table(_table(self.document, "editor", True), change.name)
        fields = {"dialect": change.dialect, "file": change.file, "terminal": change.terminal}
        for name, value in fields.items():
            if value:
                table[name] = value
        said = ", ".join(f"{name} = {tomlkit.item(value).as_string()}" for name, value in fields.items() if value)
        return Edit(change, f"[editor.{change.name}] {said}")

    # --- one key

    def _set(self, change: Change, table: MutableMapping[str, Any], key: str, value: Any, text: str = "") -> Edit:
        """Set a key; a new one goes right behind the last one, before the blanks and comments that end the table. `text` is that
        of a value in which all comments are kept already."""
        old = table.get(key)
        name = tomlkit.key(key).as_string()
        before = "" if old is None else f"{name} = {toml_pieces.text(old)}"
        keys = list(table)
        if key in keys or not keys:
            inside = comments_in(toml_pieces.text(old)) if old is not None and not text else []
            table[key] = value
            if inside:  # what stood between the rows goes behind the entry
                behind = table[key].trivia.comment.removeprefix("#").strip()
                table[key].comment("; ".join([*inside, *([behind] if behind else [])]))
        elif isinstance(table, _Later):
            table[key] = value
        elif (body := getattr(table, "value", None)) is not None and hasattr(body, "_insert_after"):
            value.trivia.trail = "\n"
            body._insert_after(keys[-1], key, value)
        else:  # a table whose parts stand in several places of the file
            table[key] = value
        return Edit(change, f"{name} = {toml_pieces.text(value)}", before)

    def _take(self, change: Change, table: MutableMapping[str, Any], key: str) -> Edit:
        """Take a key out."""
        if not key or key not in table:
            raise InputError(f"there is no entry to {in_words(change)}", "See: ombix show")
        before = f"{tomlkit.key(key).as_string()} = {toml_pieces.text(table[key])}"
        del table[key]
        return Edit(change, "", before)


def _path(change: Change, text: str) -> tuple[str, ...]:
    """Where the entry stands that a change takes out; nowhere for what stands in another way."""
    if isinstance(change, RemoveUnbind):
        return ("unbind", _same_keys(tomlkit.parse(text).get("unbind", {}), change.keys))
    name = change.name if isinstance(change, Remove) else change.action if isinstance(change, RemoveTakeAway) else ""
    if ":" in name:
        return ("only", *name.split(":", 1))
    domain, _, verb = name.partition(".")
    return ("bind", domain, verb) if verb else ()


# --- entries


def _entry_text(value: Any) -> str:
    """The text of an entry; of one that is written as tables with headings, as inline tables."""
    if isinstance(value, AoT):
        return f"[{', '.join(toml_pieces.inline(dict(row)).as_string() for row in value)}]"
    return toml_pieces.text(toml_pieces.inline(dict(value))) if isinstance(value, Table) else toml_pieces.text(value)


def _is_removal(value: Any) -> bool:
    """Whether an entry takes keys away."""
    return value is False or value == False or (isinstance(value, dict) and value.get("press") == False)  # noqa: E712


def _is_many(value: Any) -> bool:
    """Whether an entry has rows that cannot be put into one table of fields."""
    return isinstance(value, list) and not all(isinstance(row, str) for row in value)


# --- pieces of TOML


class _Later(dict[str, Any]):
    """A table that is not there yet, and is written as lines: with dotted names, as others of the file are, or under a head."""

    def __init__(self, lines: list[str], prefix: str, head: str = "") -> None:
        super().__init__()
        self._lines = lines
        self._prefix = prefix
        self._head = head

    def __setitem__(self, key: str, value: Any) -> None:
        self._lines += [self._head] if self._head else []
        self._lines.append(f"{self._prefix}{tomlkit.key(key).as_string()} = {toml_pieces.text(value)}")
        super().__setitem__(key, value)


_DOTTED = re.compile(r"[ \t]*bind[ \t]*\.")


def _dotted_ends(text: str) -> list[int]:
    """The last line of each entry that is written with a dotted name before the first heading."""
    if not re.search(f"(?m)^{_DOTTED.pattern}", text):
        return []
    document = Document(text, "")
    bound = document.table.get("bind", {})
    places = [
        document.place("bind", domain, verb)
        for domain, verbs in bound.items()
        for verb in (verbs if isinstance(verbs, dict) else {})
    ]
    return [place.end_line for place in places if _DOTTED.match(document.line(place.line))]


def _with_lines(text: str, editing: _Editing) -> str:
    """The text with lines behind the last entry that is written with a dotted name, and others at its end."""
    found = text.split("\n")
    if editing.lines:
        last = max(_dotted_ends(text))
        found[last:last] = editing.lines
    text = "\n".join(found)
    if not editing.end:
        return text
    start = "" if not text else f"{text}\n" if text.endswith("\n") else f"{text}\n\n"  # with a blank line between
    return start + "".join(f"{line}\n" for line in editing.end)


def _table(parent: MutableMapping[str, Any], key: str, is_super: bool = False) -> MutableMapping[str, Any]:
    found = parent.get(key)
    if found is None:
        is_inline = isinstance(parent, InlineTable)  # which has no others in it
        parent[key] = tomlkit.inline_table() if is_inline else tomlkit.table(is_super_table=is_super)
        found = parent[key]
    return found  # type: ignore[no-any-return]


def _parsed(text: str) -> Trigger:
    try:
        return parse(text)
    except NotationError:
        return ()


def _same_keys(table: MutableMapping[str, Any], keys: Trigger) -> str:
    """How these keys are written in a table; empty where they are not there."""
    return next((text for text in table if _parsed(text) == keys), "")
