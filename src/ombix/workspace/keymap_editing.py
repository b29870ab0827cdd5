"""Changes to a keymap file: decided on what is there when it is written, tried before, and written only where they do what was
asked for."""

from collections import Counter
from collections.abc import Callable, Sequence
from pathlib import Path
from typing import Any

from ombix.core.errors import InputError, OutsideError, Place, did_you_mean
from ombix.core.keymap.bindings import Keymap, Layer
from ombix.core.keymap.changes import AddNamed, BindNamed, Change, Correct, Settle, in_words
from ombix.core.keys.notation import Trigger, parse
from ombix.files import editing, keymap_reading
from ombix.files.disk import Files, absolute
from ombix.files.writer import Contents, Writer
from ombix.workspace.change_answer import ChangeReport, Consequences, EditReport
from ombix.workspace.consequences import AskedEdit, consequences
from ombix.workspace.context import Opener
from ombix.workspace.edit_options import EditOptions
from ombix.workspace.keymap_file import KeymapFile, command_name, entry_name
from ombix.workspace.resources import Resources
from ombix.workspace.what_if import WorkspaceWhatIf


class _Refused(Exception):
    """A change that brings new errors, takes keys from others, leaves an editor without a key to save or to leave, or
    is on keys that no editor is told of."""


class KeymapEditing:
    """Changes the keymap files of a workspace. Entries that cannot be read stay as they are."""

    def __init__(self, opener: Opener, resources: Resources, writer: Writer) -> None:
        self.opener = opener
        self.resources = resources
        self._writer = writer

    def change(
        self,
        command: str,
        decide: Callable[[KeymapFile], Sequence[Change]],
        options: EditOptions,
        remarks: Sequence[str] = (),
        asked: Callable[[KeymapFile], AskedEdit] | None = None,
    ) -> ChangeReport:
        """Write the changes that a file, as it is there then, calls for. They are refused where they bring new errors, or where
        they take keys from others than those that they are `asked` to be about. Raises InputError."""
        path = layer_path(options.layer, self.opener)
        found: list[ChangeReport] = []

        def contents() -> Contents:
            file = self.read(path)
            changes = decide(file)
            edited = editing.apply(file.text, changes)
            after = self.keymap_of(path, edited.text)
            check_reads(file.own, after.layers[-1])
            check_only_changed(file.own, after.layers[-1], changes)
            found.append(self._report(file, edited, changes, remarks, asked(file) if asked is not None else None))
            brings = found[-1].consequences
            if (brings.errors or brings.takes or brings.strands or brings.arriving) and not options.anyway:
                raise _Refused
            return {path: edited.text.encode("utf-8")} if edited.text != file.text else {}

        try:
            self._writer.change(command, contents, options.dry_run)
        except _Refused:
            return found[-1]._replace(refused=True)
        return found[-1]

    def edited(self, decide: Callable[[KeymapFile], Sequence[Change]]) -> tuple[KeymapFile, str, ChangeReport]:
        """The user's own keymap as it stands, its text with the changes that it calls for, and what these bring about; nothing is
        written. Raises InputError."""
        file = self.read(layer_path("", self.opener))
        changes = decide(file)
        edited = editing.apply(file.text, changes)
        check_only_changed(file.own, self.keymap_of(file.path, edited.text).layers[-1], changes)
        return file, edited.text, self._report(file, edited, changes, ())

    def read(self, path: Path) -> KeymapFile:
        """A keymap file as it stands now. Raises InputError."""
        return self.reread(path, self.resources.files.read_text(path))

    def reread(self, path: Path, text: str) -> KeymapFile:
        """A keymap file as it would stand with a text. Raises InputError."""
        layers = self.opener.opened_with(self.resources.with_texts({path: text})).layers(lenient=True)
        return KeymapFile(path, text, self.keymap_of(path, text), layers)

    def keymap_of(self, path: Path, text: str) -> Keymap:
        """The layers of a file with a text. Raises InputError."""
        shipped = self.resources.shipped
        files = Files({absolute(path): text})
        return Keymap(keymap_reading.load(path, shipped.catalogue(), shipped.facts(), files, lenient=True))

    def _report(
        self, file: KeymapFile, edited: editing.Edited, changes: Sequence[Change], remarks: Sequence[str],
        asked: AskedEdit | None = None,
    ) -> ChangeReport:  # fmt: skip
        edits: list[EditReport] = []
        for edit in edited.edits:
            report = EditReport(in_words(edit.change), edit.after, edit.before)
            if (
                edits and report.before and edits[-1].after == report.before
            ):  # of the same entry: what stood between is no matter
                last = edits.pop()
                report = EditReport(f"{last.does}; {report.does}", report.after, last.before)
            edits.append(report)
        return ChangeReport(
            Place(absolute(file.path)), tuple(edits), tuple(remarks), self.tried(file, edited.text, changes, asked)
        )

    def tried(
        self, file: KeymapFile, text: str, changes: Sequence[Change], asked: AskedEdit | None = None
    ) -> Consequences:
        """What another text of a file brings about."""
        before, after = (
            WorkspaceWhatIf(self.opener, self.resources, {file.path: one}, proposes=False) for one in (file.text, text)
        )
        return consequences(before, after, changes, asked)


def layer_path(name: str, opener: Opener) -> Path:
    """The file of the layer that is called so; without a name, that of the workspace's keymap. Raises InputError."""
    workspace = opener.needed_workspace()
    if not name:
        return workspace.keymap_path
    layers = [layer for layer in opener.layers(lenient=True) if layer.files]
    alike = [layer for layer in layers if name in (layer.name.name, Path(layer.files[0]).name, layer.files[0])]
    if not alike:
        known = [layer.name.name for layer in layers]
        raise InputError(f"there is no layer {name}", did_you_mean(name, known) or f"There are {', '.join(known)}.")
    if alike[0].name.kind == "adopted":
        raise InputError(
            f"the layer {name} was adopted from {alike[0].name.editor or 'an editor'}'s own file",
            "Change that file, and adopt it again; or change the keymap, which wins over it.", Place(alike[0].files[0]),
        )  # fmt: skip
    return Path(alike[0].files[0])


def check_reads(before: Layer, after: Layer) -> None:
    """Raise the InputError of what was written, where that cannot be read; what could not be read before is another's matter."""
    known = Counter(problem.what for problem in before.problems)
    for problem in after.problems:
        known[problem.what] -= 1
        if known[problem.what] < 0:
            raise problem


def check_only_changed(before: Layer, after: Layer, changes: Sequence[Change]) -> None:
    """Raise OutsideError where a layer differs in more than its changes name: then nothing is written."""
    if any(isinstance(change, Correct) for change in changes):  # an entry that could not be read means something now
        return
    names, triggers = set[str](), set[Trigger]()
    for change in changes:
        names |= {str(value) for field in ("action", "name", "command") if (value := getattr(change, field, ""))}
        names |= {f"{change.kind} {change.name}"} if isinstance(change, AddNamed | BindNamed) else set()
        if isinstance(change, Settle) and change.at:
            names.add(change.at[-1])
            triggers |= {parse(change.at[-1])} if change.at[0] == "unbind" else set()
        triggers |= {
            keys for field in ("keys", "to") if isinstance(keys := getattr(change, field, None), tuple) and keys
        }
    one, other = _facts_of(before, names, triggers), _facts_of(after, names, triggers)
    if one != other:
        raise OutsideError(
            "the change would alter more of the file than was asked for", "Nothing was written. This is a fault in Ombix.",
            Place(after.files[0]) if after.files else None,
        )  # fmt: skip


def _facts_of(layer: Layer, names: set[str], triggers: set[Trigger]) -> tuple[Any, ...]:
    """What a layer says apart from what is named."""
    bindings = Counter(
        (str(binding.outcome), binding.keys, binding.where, binding.platforms, binding.why, binding.adds)
        for binding in layer.bindings
        if binding.keys not in triggers and not names & {entry_name(binding), command_name(binding)}
    )
    removals = Counter(
        (removal.action, removal.platforms, removal.why) for removal in layer.removals if removal.action not in names
    )
    macros = {name: one.steps for name, one in layer.macros.items() if name not in names}
    snippets = {name: one.body for name, one in layer.snippets.items() if name not in names}
    return (
        bindings,
        removals,
        macros,
        snippets,
        {name: text for name, text in layer.scope.own.items() if name not in names},
        [fact for fact in layer.facts if fact.name not in names],
        layer.never,
        [one.text for one in layer.kept],
    )
