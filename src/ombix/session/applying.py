"""The keymap written into the editors' own files, and what was changed there by hand taken into the keymap."""

from collections.abc import Callable, Iterable, Mapping, Sequence
from datetime import UTC, datetime
from pathlib import Path
from types import MappingProxyType
from typing import NamedTuple

from ombix.core.changes import Bind, BindCommand, Change, Move, Remove, Unbind, in_words
from ombix.core.errors import InputError, OutsideError, Place
from ombix.core.keymap import Binding
from ombix.core.keys import Trigger, write
from ombix.core.outcomes import Do, Nothing, Only
from ombix.core.porting import VERDICTS
from ombix.core.results.applying import Applied, ApplyReport, StatusReport
from ombix.session.changing import KeymapEditing, KeymapFile, entry_name
from ombix.session.context import Opener
from ombix.session.installed import EditedBinding, EditorFile, default_rows
from ombix.session.resources import Resources
from ombix.store.applied import AppliedFile, encoded, record_bytes
from ombix.store.files import read_bytes
from ombix.store.workspace import this_platform
from ombix.store.writing import Contents, Writer

NO_TEXTS: Mapping[Path, str] = MappingProxyType({})


class ApplyWishes(NamedTuple):
    """How a user wants files to be applied: to which editors (none: to all); for which of them the first time is agreed to (`all`
    for all); with hand edits taken into the keymap, or written over; without writing; also where adopting brings new errors."""

    to: tuple[str, ...] = ()
    agreed: tuple[str, ...] = ()
    adopt: bool = False
    overwrite: bool = False
    dry_run: bool = False
    anyway: bool = False


class Applying:
    """Writes the files of the editors of a workspace. `writer` makes what writes to files given by name."""

    def __init__(self, opener: Opener, resources: Resources, state_folder: Path, writer: Callable[..., Writer]) -> None:
        self._opener = opener
        self._resources = resources
        self._state = state_folder
        self._writer = writer

    def status(self, names: Sequence[str] = ()) -> StatusReport:
        """Where the editors stand. Raises InputError."""
        return StatusReport(this_platform(), tuple(one.standing() for one in self._files(names)))

    def apply(self, wishes: ApplyWishes) -> ApplyReport:
        """Write the keymap into the editors' files. Raises InputError and OutsideError."""
        return ApplyReport(tuple(self._apply(one, wishes) for one in self._files(wishes.to)))

    def _files(self, names: Sequence[str]) -> Iterable[EditorFile]:
        workspace = self._opener.needed_workspace()
        if not workspace.editors:
            raise InputError("the workspace names no editor", "Write [editor.pier] in ombix.toml.")
        for name in dict.fromkeys(names):
            if name not in workspace.editors:
                self._opener.editor(name)  # says which names are near
                raise InputError(
                    f"the workspace names no editor {name}", f"Its editors are {', '.join(workspace.editors)}."
                )
        for name in names or workspace.editors:
            yield self._file(name)

    def _file(self, name: str, texts: Mapping[Path, str] = NO_TEXTS) -> EditorFile:
        """An editor's file, with all read anew: what was written before for another one may have changed it; with texts in the
        place of files."""
        resources = self._resources.with_texts(texts)
        opener = self._opener.opened_with(resources)
        return EditorFile(opener.editor(name), opener, resources, self._state)

    def _apply(self, file: EditorFile, wishes: ApplyWishes) -> Applied:
        if not file.is_here:
            return Applied(
                file.editor.name, Place(str(file.path)), "elsewhere", "", False, {}, 0, (), (), (), (),
                f"it is on {file.editor.platform}: run ombix apply there",
            )  # fmt: skip
        edits = file.edits()
        inside = [one for one in edits if one.said.is_inside]
        adopted: _Adopted | None = None
        if edits and wishes.adopt:
            adopted = self._adopt(file, edits, wishes)
            file = self._file(file.editor.name, {adopted.path: adopted.after})
        elif inside and not wishes.overwrite:
            said = (
                "it was edited by hand since: take that into the keymap with --adopt, or write over it with --overwrite"
            )
            return self._report(file, "refused", edits, (), said)
        is_first = file.record is None
        if is_first and file.editor.name not in wishes.agreed and "all" not in wishes.agreed:
            return self._report(file, "refused", edits, (), "it is the first time: agree with --yes")
        if file.installed.way == "whole" and file.installed.lost and is_first and not wishes.overwrite:
            said = "the whole file would be written over, and keys of it lost: adopt it (ombix adopt FILE), or say --overwrite"
            return self._report(file, "refused", edits, (), said)
        is_written = self._write(file, adopted, wishes.dry_run)
        does = adopted.does if adopted is not None else ()
        return self._report(file, "written" if is_written else "unchanged", edits if adopted is None else [], does, "")

    def _write(self, file: EditorFile, adopted: "_Adopted | None", dry_run: bool) -> bool:
        """Write the file and the note of it as one change, with the keymap where edits were adopted; whether there was anything to
        be written."""
        wanted = file.encoded(file.installed.text)
        if wanted == file.data and file.record is not None and file.record.data == wanted and adopted is None:
            return False
        description = file.dialect.description
        record = AppliedFile(
            file.editor.name, str(file.path), file.installed.way, encoded(wanted), file.dialect.name, description.version,
            default_rows(file.dialect), datetime.now(UTC).isoformat(timespec="seconds"),
        )  # fmt: skip

        def contents() -> Contents:
            before = file.path.read_bytes() if file.path.exists() else None
            is_changed = before != file.data
            texts: dict[Path, str | bytes] = {file.path: wanted, file.record_path: record_bytes(record)}
            if adopted is not None:
                is_changed |= self._resources.with_texts({}).files.read_text(adopted.path) != adopted.before
                texts[adopted.path] = adopted.after.encode("utf-8")
            if is_changed:
                raise OutsideError(
                    "a file was changed while this was being written", "Apply it again.", Place(str(file.path))
                )
            return texts

        self._writer(file.path, file.record_path).change(f"apply to {file.editor.name}", contents, dry_run)
        if not dry_run:
            self._check_read_back(file, wanted)
        return True

    def _check_read_back(self, file: EditorFile, wanted: bytes) -> None:
        """Raise OutsideError where the file does not hold and mean what was written."""
        now = read_bytes(file.path)
        layer = file.read(file.decoded(now))
        means = {(one.trigger, one.where, str(one.outcome)) for one in layer.bindings}
        meant = {(one.trigger, one.where, str(one.outcome)) for one in file.read(file.installed.text).bindings}
        if now != wanted or means != meant:
            raise OutsideError(
                "the file does not hold what was written into it",
                "Take it back with: ombix undo",
                Place(str(file.path)),
            )

    def _report(
        self, file: EditorFile, did: str, edits: Sequence[EditedBinding], adopted: tuple[str, ...], needs: str
    ) -> Applied:
        counts = {verdict: file.made.file.count(verdict) for verdict in VERDICTS}
        return Applied(
            file.editor.name, Place(str(file.path)), did, file.installed.way, file.record is None, counts, file.made.file.checked,  # type: ignore[arg-type]
            tuple(one.said for one in edits), file.changed_defaults(), tuple(map(write, file.installed.lost)), adopted, needs,
        )  # fmt: skip

    # --- what was edited by hand

    def _adopt(self, file: EditorFile, edits: Sequence[EditedBinding], wishes: ApplyWishes) -> "_Adopted":
        """The keymap with what was edited by hand. Raises InputError where that brings new errors."""
        resources = self._resources.with_texts({})
        editing = KeymapEditing(self._opener.opened_with(resources), resources, self._writer())
        found: list[Change] = []

        def changes(keymap: KeymapFile) -> list[Change]:
            found[:] = _changes(file, edits, keymap)
            return found

        keymap, after, report = editing.edited(changes)
        if report.consequences.errors and not wishes.anyway:
            new = report.consequences.errors[0].finding
            raise InputError(
                f"what was edited in {file.editor.name} brings a new error: {new.message}",
                "Settle it in the file by hand, or take it all the same with --anyway.", Place(str(file.path)),
            )  # fmt: skip
        return _Adopted(keymap.path, keymap.text, after, tuple(map(in_words, found)))


class _Adopted(NamedTuple):
    """The keymap with what was edited by hand: its file, its text before and after, and what was done to it, in words."""

    path: Path
    before: str
    after: str
    does: tuple[str, ...]


def _changes(file: EditorFile, edits: Sequence[EditedBinding], keymap: KeymapFile) -> list[Change]:
    """The changes of the keymap that say what was edited by hand."""
    ported: dict[Trigger, Binding] = {}
    for entry in file.made.file.entries:
        if entry.trigger is not None:
            ported.setdefault(entry.trigger, entry.source)
    resolve = file.made.around.platform.resolve
    gone = [
        own for one in edits if one.said.was and (source := ported.get(one.trigger)) is not None
        for own in keymap.own.bindings
        if entry_name(own) and own.outcome == source.outcome and own.where == source.where
        and resolve(own.keys) == resolve(source.keys)
    ]  # fmt: skip
    found: list[Change] = []
    moved: list[Binding] = []
    for one in edits:
        binding = one.now
        if binding is None:
            continue
        where = "" if binding.where == file.dialect.states_where_text_is_edited() else binding.where
        outcome = binding.outcome
        if isinstance(outcome, Do):
            old = next((each for each in gone if each.outcome == outcome and each not in moved), None)
            if old is not None:
                moved.append(old)
                found.append(Move(outcome.action, old.keys, old.where, one.trigger))
            else:
                found.append(Bind(outcome.action, one.trigger, where, "", True, outcome.arguments))
        elif isinstance(outcome, Only):
            found.append(BindCommand(file.editor.name, outcome.command, one.trigger, where, "", True))
        elif isinstance(outcome, Nothing) and one.trigger not in ported:
            found.append(Unbind(one.trigger, where))
    removals: list[Change] = [
        Remove(entry_name(one), one.keys, one.where) for one in gone if one not in moved and entry_name(one)
    ]
    lower = [
        Unbind(one.trigger, "") for one in edits
        if one.now is None and one.trigger in ported and ported[one.trigger].layer.id != keymap.own.name.id
    ]  # fmt: skip
    return [*dict.fromkeys(removals), *found, *lower]
