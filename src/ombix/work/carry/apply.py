"""The keymap written into the editors' own files, and what was changed there by hand taken into the keymap."""

import contextlib
import difflib
from collections.abc import Callable, Iterable, Mapping, Sequence
from datetime import UTC, datetime
from pathlib import Path
from types import MappingProxyType
from typing import Literal, NamedTuple

from msgspec import structs
from msgspec.structs import replace

from ombix.core.errors import InputError, OmbixError, OutsideError, Place
from ombix.core.keymap.bindings import Binding
from ombix.core.keymap.changes import Bind, BindCommand, Change, Move, Remove, Unbind, in_words
from ombix.core.keymap.outcomes import Do, Nothing, Only
from ombix.core.keys.notation import Trigger, write
from ombix.core.porting import VERDICTS
from ombix.data.platform_names import this_platform
from ombix.editors.choice_setting import chosen, is_left_open, with_choice, without_choice
from ombix.editors.dialect import Dialect
from ombix.files.applied_files import AppliedFile, encoded, record_bytes, records_of
from ombix.files.disk import absolute, read_bytes
from ombix.files.workspace_file import WorkspaceEditor
from ombix.files.writer import Contents, Writer
from ombix.work.carry.apply_answer import Applied, ApplyReport, StatusReport
from ombix.work.carry.editor_files import EditedBinding, EditorFile, default_rows
from ombix.work.carry.running_editors import is_running
from ombix.workspace.context import Opener
from ombix.workspace.keymap_editing import KeymapEditing
from ombix.workspace.keymap_file import KeymapFile, entry_name
from ombix.workspace.resources import Resources, user_path

NO_TEXTS: Mapping[Path, str] = MappingProxyType({})


class ApplyOptions(NamedTuple):
    """How a user wants files to be applied: to which editors (none: to all); for which of them the first time is agreed to (`all`
    for all); with hand edits taken into the keymap, or written over; without writing; also where adopting brings new errors."""

    to: tuple[str, ...] = ()
    agreed: tuple[str, ...] = ()
    adopt: bool = False
    overwrite: bool = False
    dry_run: bool = False
    anyway: bool = False
    remove: bool = False
    """Whether Ombix's part is taken out of the files again; also of an editor that the workspace names no more."""
    into: str = ""
    """The file, where it is none that the editor looks for by itself: then it has to be named."""


class Applying:
    """Writes the files of the editors of a workspace. `writer` makes what writes to files given by name."""

    def __init__(
        self, opener: Opener, resources: Resources, state_folder: Path, writer: Callable[..., Writer],
        is_trusted: Callable[[Dialect], bool],
    ) -> None:  # fmt: skip
        self._opener = opener
        self._resources = resources
        self._state = state_folder
        self._writer = writer
        self._is_trusted = is_trusted

    def status(self, names: Sequence[str] = ()) -> StatusReport:
        """Where the editors stand. Raises InputError."""
        at = self._opener.needed_workspace().at
        return StatusReport(this_platform(), tuple(file.standing() for file in self._files(names)), at)

    def apply(self, options: ApplyOptions) -> ApplyReport:
        """Write the keymap into the editors' files, all as one change. Raises InputError and OutsideError."""
        if options.remove:
            return self._remove(options)
        names = [file.editor.name for file in self._files(options.to)]
        adopted = self._adopted(names, options) if options.adopt else _NOTHING
        plans = [self._plan(name, adopted, options) for name in names]
        self._write([plan for plan in plans if plan.did == "written"], adopted, options.dry_run)
        return ApplyReport(tuple(_report(plan, adopted.does.get(plan.file.editor.name, ())) for plan in plans))

    def _remove(self, options: ApplyOptions) -> ApplyReport:
        """Take out what was written. Raises InputError where nothing was written for an editor that is named."""
        workspace = self._opener.needed_workspace()
        known = {one.editor: one for one in records_of(self._state, workspace.folder)}
        for name in options.to:
            if name not in known:
                raise InputError(
                    f"nothing was written for {name}",
                    f"Something was written for {', '.join(known)}." if known else "See: ombix status",
                )
        plans = []
        for name in options.to or known:
            record = known[name]
            editor = workspace.editors.get(name) or WorkspaceEditor(name, record.dialect)
            plans.append(self._removal(EditorFile(
                replace(editor, file=record.path), self._opener, self._resources, self._state, self._is_trusted
            ), options))  # fmt: skip
        self._write([plan for plan in plans if plan.did == "written"], _NOTHING, options.dry_run, "remove")
        return ApplyReport(tuple(map(_removal_report, plans)))

    def _removal(self, file: EditorFile, options: ApplyOptions) -> "_Plan":
        if running := _running(file):
            return _Plan(file, "refused", (), running)
        is_ours = file.record is not None and file.record.way == "whole" and file.data == file.record.data
        is_whole = file.record is not None and file.record.way == "whole" and file.data is not None
        if is_whole and not is_ours and not options.overwrite:
            said = "the whole of it was written, and it was changed since: take it away with --overwrite"
            return _Plan(file, "refused", (), said)
        others = dict[Path, bytes]()
        if file.chooser is not None and file.is_chosen:
            text = without_choice(file.chooser_text, file.chooser)
            others[file.chooser_path] = text.encode("utf-8", "surrogateescape")
        return _Plan(file, "written", (), "", file.encoded(file.others), others)

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
        return EditorFile(opener.editor(name), opener, resources, self._state, self._is_trusted)

    def _plan(self, name: str, adopted: "_Adopted", options: ApplyOptions) -> "_Plan":
        """What is to become of an editor's file."""
        file = self._file(name, adopted.texts)
        if not file.is_here:
            there = self._opener.needed_workspace().at or file.editor.platform
            return _Plan(file, "elsewhere", (), f"it is on {there}: run ombix apply there")
        self._check_place(file, options.into)
        if running := _running(file):
            return _Plan(file, "refused", (), running)
        edits = tuple(file.edits())
        if name in adopted.does:
            edits = ()
        elif any(edit.said.is_inside for edit in edits) and not options.overwrite:
            said = "it was edited by hand: take that into the keymap with --adopt, or write over it with --overwrite"
            return _Plan(file, "refused", edits, said)
        is_first = file.record is None
        if is_first and name not in options.agreed and "all" not in options.agreed:
            return _Plan(file, "refused", edits, "it is the first time: agree with --yes")
        is_missed = bool(file.installed.lost or file.installed.gone)  # only where the whole file is written over
        if file.installed.way == "whole" and is_missed and is_first and not options.overwrite:
            what = "keys of it" if file.installed.lost else "what stands in it"
            said = f"the whole file would be written over, and {what} lost: adopt it (ombix adopt FILE), or say --overwrite"
            return _Plan(file, "refused", edits, said)
        by, others = file.chooser, dict[Path, bytes]()
        if by is not None and not file.is_chosen:
            if not is_left_open(file.chooser_text, by) and not options.overwrite:
                other = chosen(file.chooser_text, by)
                said = f"{file.dialect.name} uses “{other}”, which somebody chose; to have it use this one: --overwrite"
                return _Plan(file, "refused", edits, said)
            others[file.chooser_path] = with_choice(file.chooser_text, by).encode("utf-8", "surrogateescape")
        wanted = file.encoded(file.installed.text)
        is_there = wanted == file.data and file.record is not None and file.record.data == wanted and not others
        return _Plan(file, "unchanged" if is_there else "written", edits, "", wanted, others)

    def _check_place(self, file: EditorFile, into: str) -> None:
        """Raise InputError for a file that no editor looks for, that does not belong to the workspace, and that nobody named."""
        is_named = bool(into) and Path(absolute(user_path(into, self._opener.folder))) == file.path
        if not (is_named or file.is_known_place or file.is_in_workspace):
            if not file.is_trusted:
                raise InputError(
                    f"this is outside of the workspace's folder, and the description of {file.editor.name}, which names it, came "
                    "with the workspace",
                    "Look at the description, and trust it: ombix editors trust FOLDER; or name the file: "
                    f"ombix apply --to {file.editor.name} --into FILE",
                    Place(str(file.path)),
                )  # fmt: skip
            usual = " or ".join(file.dialect.usual_places(this_platform()))
            raise InputError(
                f"this is outside of the workspace's folder, and {file.dialect.name} looks for its keys in {usual}",
                f"Name the file, if you mean it: ombix apply --to {file.editor.name} --into {file.editor.file}",
                Place(str(file.path)),
            )  # fmt: skip

    def _write(self, plans: Sequence["_Plan"], adopted: "_Adopted", dry_run: bool, done: str = "apply") -> None:
        """Write the files, the notes of them, and the keymap where edits were adopted, as one change."""
        if not plans and not adopted.texts:
            return
        now = datetime.now(UTC).isoformat(timespec="seconds")

        def contents() -> Contents:
            found: dict[Path, str | bytes | None] = {path: text.encode("utf-8") for path, text in adopted.texts.items()}
            files = self._resources.with_texts({}).files
            is_changed = any(files.read_text(path) != text for path, text in adopted.before.items())
            for plan in plans:
                path = plan.file.path
                is_changed |= (path.read_bytes() if path.exists() else None) != plan.file.data
                for other in plan.others:
                    now_there = other.read_bytes() if other.exists() else b""
                    is_changed |= now_there != plan.file.chooser_text.encode("utf-8", "surrogateescape")
                # A file that has nothing else in it goes: joe ends where it finds an empty one.
                goes = done == "remove" and not plan.wanted.strip()
                found |= {path: None if goes else plan.wanted, **plan.others}
                if done == "apply":
                    found[plan.file.record_path] = record_bytes(_record(plan, now))
                if done == "remove" and plan.file.record is not None:
                    removed = structs.replace(plan.file.record, way="removed", content=encoded(plan.wanted), made=now)
                    found[plan.file.record_path] = record_bytes(removed)
            if is_changed:
                raise OutsideError("a file was changed while this was being written", "Apply it again.")
            return found

        names = [plan.file.editor.name for plan in plans]
        given = [plan.file.record_path for plan in plans]
        # Of a file in the workspace's folder it is looked where it really leads, as with all that is written there.
        given += [plan.file.path for plan in plans if not plan.file.is_in_workspace]
        given += [other for plan in plans for other in plan.others]
        self._writer(*given).change(
            f"{done} to {' and '.join(names) or 'the keymap'}".replace("remove to", "remove from"), contents, dry_run
        )
        for plan in plans if not dry_run and done == "apply" else ():
            self._check_read_back(plan.file, plan.wanted)

    def _check_read_back(self, file: EditorFile, wanted: bytes) -> None:
        """Raise OutsideError where the file does not hold and mean what was written."""
        now = read_bytes(file.path)
        layer = file.read(file.decoded(now))
        means = {(binding.trigger, binding.where, str(binding.outcome)) for binding in layer.bindings}
        meant = {
            (binding.trigger, binding.where, str(binding.outcome))
            for binding in file.read(file.installed.text).bindings
        }
        if now != wanted or means != meant:
            raise OutsideError(
                "the file does not hold what was written into it",
                "Take it back with: ombix undo",
                Place(str(file.path)),
            )

    # --- what was edited by hand

    def _adopted(self, names: Sequence[str], options: ApplyOptions) -> "_Adopted":
        """The keymap with what was edited by hand in these editors' files. Raises InputError where that brings new errors."""
        found = _Adopted({}, {}, {})
        edited: dict[Trigger, tuple[str, str]] = {}
        for name in names:
            file = self._file(name, found.texts)
            edits = file.edits() if file.is_here else []
            if not edits:
                continue
            _check_edited_alike(name, edits, edited, file)
            resources = self._resources.with_texts(found.texts)
            editing = KeymapEditing(self._opener.opened_with(resources), resources, self._writer())
            changes: list[Change] = []

            def decide(
                keymap: KeymapFile,
                file: EditorFile = file,
                edits: Sequence[EditedBinding] = edits,
                changes: list[Change] = changes,
            ) -> list[Change]:
                changes[:] = _changes(file, edits, keymap)
                return changes

            keymap, after, report = editing.edited(decide)
            if report.consequences.errors and not options.anyway:
                new = report.consequences.errors[0].finding
                raise InputError(
                    f"what was edited in {name} brings a new error: {new.message}",
                    "Settle it in the file by hand, or take it all the same with --anyway.", Place(str(file.path)),
                )  # fmt: skip
            found.before.setdefault(keymap.path, keymap.text)
            found.texts[keymap.path] = after
            found.does[name] = tuple(map(in_words, changes))
        return found


def _check_edited_alike(
    name: str, edits: Sequence[EditedBinding], edited: dict[Trigger, tuple[str, str]], file: EditorFile
) -> None:
    """Raise InputError where the same keys were edited in two editors, each otherwise: one of them would be lost."""
    for edit in edits:
        does = str(edit.now.outcome) if edit.now is not None else ""
        other, did = edited.setdefault(edit.trigger, (name, does))
        if other != name and did != does:
            raise InputError(
                f"{write(edit.trigger)} was edited in {other} ({did or 'nothing'}) and in {name} ({does or 'nothing'})",
                f"Adopt one of them: ombix apply --adopt --to {other}; then the other one's edit is seen again.",
                Place(str(file.path)),
            )  # fmt: skip


class _Adopted(NamedTuple):
    """The keymap with what was edited by hand: files and their texts before and after; and by editor what was done, in words."""

    before: dict[Path, str]
    texts: dict[Path, str]
    does: dict[str, tuple[str, ...]]


_NOTHING = _Adopted({}, {}, {})


class _Plan(NamedTuple):
    """What is to become of an editor's file: written, with what; or why it is not."""

    file: EditorFile
    did: Literal["written", "unchanged", "refused", "elsewhere"]
    edits: tuple[EditedBinding, ...]
    needs: str
    wanted: bytes = b""
    others: Mapping[Path, bytes] = MappingProxyType({})
    """Files with settings that have the editor read it, and what they are to hold."""


def _record(plan: _Plan, now: str) -> AppliedFile:
    file = plan.file
    return AppliedFile(
        file.editor.name, str(file.path), file.installed.way, encoded(plan.wanted), file.dialect.name,
        file.dialect.description.version, default_rows(file.dialect), now,
    )  # fmt: skip


def _removal_report(plan: _Plan) -> Applied:
    file = plan.file
    lines = _changed_lines(file.text or "", file.decoded(plan.wanted)) if plan.did == "written" else ()
    return Applied(
        file.editor.name, Place(str(file.path)), "removed" if plan.did == "written" else plan.did,
        file.record.way if file.record is not None else "", False, {}, 0, (), (), (), (), plan.needs, (), lines,
    )  # fmt: skip


def _report(plan: _Plan, adopted: tuple[str, ...]) -> Applied:
    file = plan.file
    place, name = Place(str(file.path)), file.editor.name
    if plan.did == "elsewhere":
        return Applied(name, place, plan.did, "", False, {}, 0, (), (), (), (), plan.needs)
    port = file.made.file
    return Applied(
        name, place, plan.did, file.installed.way, file.record is None, {verdict: port.count(verdict) for verdict in VERDICTS},
        port.checked, tuple(edit.said for edit in plan.edits), file.changed_defaults(), tuple(map(write, file.installed.lost)),
        adopted, plan.needs, file.installed.gone, (
            *_changed_lines(file.text or "", file.installed.text),
            *(
                f"{line} (in {other})" for other, data in plan.others.items()
                for line in _changed_lines(file.chooser_text, data.decode("utf-8", "surrogateescape"))
            ),
        ), tuple(port.answers.items()),
    )  # fmt: skip


def _running(file: EditorFile) -> str:
    """Why a file is not written while its editor runs; empty where it can be."""
    description = file.dialect.description
    program = description.program.command[0] if description.program is not None else ""
    if not description.file.written_at_end or not is_running(program.rpartition("/")[2], Path.home()):
        return ""
    return f"{file.dialect.name} is running, and writes its own keys over this when it closes: close it first"


_MOST_COMPARED = 4000
"""Lines that are compared one by one; of more, all of the old ones go and all of the new ones come."""


def _changed_lines(before: str, after: str) -> tuple[str, ...]:
    """The lines that go and come between two texts, in order."""
    old, new = before.splitlines(), after.splitlines()
    if len(old) + len(new) > _MOST_COMPARED:
        return (*(f"- {one}" for one in old), *(f"+ {one}" for one in new))
    found = difflib.unified_diff(old, new, n=0, lineterm="")
    return tuple(f"{one[0]} {one[1:]}" for one in list(found)[2:] if not one.startswith("@@"))


def _where(binding: Binding, file: EditorFile, keymap: KeymapFile) -> str:
    """The condition of a binding as the keymap can say it; empty for all states, also where only the editor has such states."""
    if binding.where == file.dialect.states_where_text_is_edited():
        return ""
    with contextlib.suppress(OmbixError):
        file.common_space.states(binding.where, keymap.keymap.scope)
        return binding.where
    return ""


def _changes(file: EditorFile, edits: Sequence[EditedBinding], keymap: KeymapFile) -> list[Change]:
    """The changes of the keymap that say what was edited by hand."""
    ported: dict[Trigger, Binding] = {}
    for entry in file.made.file.entries:
        if entry.trigger is not None:
            ported.setdefault(entry.trigger, entry.source)
    resolve = file.made.around.platform.resolve
    gone = [
        own for edit in edits if edit.said.was and (source := ported.get(edit.trigger)) is not None
        for own in keymap.own.bindings
        if entry_name(own) and own.outcome == source.outcome and own.where == source.where
        and resolve(own.keys) == resolve(source.keys)
    ]  # fmt: skip
    found: list[Change] = []
    moved: list[Binding] = []
    for edit in edits:
        binding = edit.now
        if binding is None:
            continue
        where = _where(binding, file, keymap)
        outcome = binding.outcome
        if any(
            isinstance(each, Move) and each.name == entry_name(binding) and each.to == edit.trigger for each in found
        ):
            continue  # it was moved there, in all of its states
        if isinstance(outcome, Do):
            old = next((each for each in gone if each.outcome == outcome and each not in moved), None)
            if old is not None:
                moved.append(old)
                found.append(Move(outcome.action, old.keys, old.where, edit.trigger))
            else:
                found.append(Bind(outcome.action, edit.trigger, where, "", True, outcome.arguments))
        elif isinstance(outcome, Only):
            found.append(BindCommand(file.editor.name, outcome.command, edit.trigger, where, "", True))
        elif isinstance(outcome, Nothing) and edit.trigger not in ported:
            found.append(Unbind(edit.trigger, where))
    removals: list[Change] = [
        Remove(entry_name(one), one.keys, one.where) for one in gone if one not in moved and entry_name(one)
    ]
    lower = [
        Unbind(edit.trigger, "") for edit in edits
        if edit.now is None and edit.trigger in ported and ported[edit.trigger].layer.id != keymap.own.name.id
    ]  # fmt: skip
    return [*dict.fromkeys(removals), *found, *lower]
