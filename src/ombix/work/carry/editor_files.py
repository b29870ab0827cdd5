"""Where the editors of a workspace stand: what was written into their own files, what those hold now, and what they would hold."""

import contextlib
from collections.abc import Callable, Iterator, Mapping
from functools import cached_property
from pathlib import Path
from typing import NamedTuple

from ombix.core.conditions import Space
from ombix.core.errors import InputError, OmbixError, Place
from ombix.core.keymap.bindings import Binding, Layer, LayerName
from ombix.core.keymap.outcomes import Nothing
from ombix.core.keys.notation import Trigger, write
from ombix.data.platform_names import this_platform
from ombix.editors import block_installing
from ombix.editors.block_installing import Deciding, Installed
from ombix.editors.choice_setting import chosen
from ombix.editors.dialect import Dialect
from ombix.editors.file_description import ChosenBy
from ombix.editors.own_entries import Entry, entry_of, without_entries
from ombix.files.applied_files import AppliedFile, read_record, record_path
from ombix.files.disk import MAX_EDITOR_FILE_SIZE, absolute, decoded, read_bytes
from ombix.files.workspace_file import WorkspaceEditor
from ombix.work.carry import port
from ombix.work.carry.apply_answer import ChangedDefault, EditorStanding, HandEdit, Standing
from ombix.work.carry.port import MadePort
from ombix.workspace.context import Opener
from ombix.workspace.resources import Resources, user_path

_MARK = b"\xef\xbb\xbf"


class EditedBinding(NamedTuple):
    """An edit by hand, and the binding that is there now (None: none)."""

    said: HandEdit
    now: Binding | None
    trigger: Trigger


class EditorFile:
    """An editor of the workspace with its own file, as it was written, as it stands, and as it would be written now."""

    def __init__(
        self, editor: WorkspaceEditor, opener: Opener, resources: Resources, state_folder: Path,
        is_trusted: Callable[[Dialect], bool],
    ) -> None:  # fmt: skip
        self.editor = editor
        self._opener = opener
        self._resources = resources
        self._is_trusted = is_trusted
        workspace = opener.needed_workspace()
        self.home = workspace.folder
        self.record_path = record_path(state_folder, workspace.folder, editor.name)

    @cached_property
    def dialect(self) -> Dialect:
        """Its description."""
        return self._resources.dialect(self.editor)

    @cached_property
    def is_here(self) -> bool:
        """Whether it is on this platform, and on this machine where one is asked about."""
        workspace = self._opener.needed_workspace()
        is_other = bool(workspace.at) and not workspace.machines[workspace.at].may_be_here
        return self.editor.platform in ("", this_platform()) and not is_other

    @cached_property
    def path(self) -> Path:
        """The file that the editor reads: that which the workspace names, or the first of its usual ones that is there."""
        if self.editor.file:
            return Path(absolute(user_path(self.editor.file, self.home)))
        usual = [Path(absolute(user_path(place, self.home))) for place in self.dialect.usual_places(this_platform())]
        return next((one for one in usual if one.is_file()), usual[0])

    @cached_property
    def is_known_place(self) -> bool:
        """Whether it is one of the places where the editor looks for its file, or was written before: only there, inside of the
        workspace's folder, and where the user names it, is a file written.

        Where an editor looks is said by its description. One that came with the workspace could name any file of its user's
        and write anything there, so it counts only where it is trusted; what was written before does not vouch for what the
        description has become since."""
        if not self.is_trusted:
            return False
        usual = {absolute(user_path(place, self.home)) for place in self.dialect.usual_places(this_platform())}
        return str(self.path) in usual or self.record is not None

    @cached_property
    def is_trusted(self) -> bool:
        """Whether its description may say where files of its user's are."""
        return self._is_trusted(self.dialect)

    @property
    def is_in_workspace(self) -> bool:
        """Whether it is named as one inside of the workspace's folder; where a link there leads is another matter."""
        return self.path.is_relative_to(self.home)

    @cached_property
    def chooser(self) -> ChosenBy | None:
        """The setting that has the editor read the file, where that is the usual one of a description that may say so."""
        by = self.dialect.description.file.chosen_by
        usual = {absolute(user_path(place, self.home)) for place in self.dialect.usual_places(this_platform())}
        return by if by is not None and self.is_trusted and str(self.path) in usual else None

    @cached_property
    def chooser_path(self) -> Path:
        """The file with that setting."""
        assert self.chooser is not None
        return Path(absolute(user_path(self.chooser.file, self.home)))

    @cached_property
    def chooser_text(self) -> str:
        """What that file holds; empty where it is not there."""
        there = self.chooser_path.exists()
        return read_bytes(self.chooser_path, MAX_EDITOR_FILE_SIZE).decode("utf-8", "surrogateescape") if there else ""

    @property
    def is_chosen(self) -> bool:
        """Whether the editor reads the file at all."""
        return self.chooser is None or chosen(self.chooser_text, self.chooser) == self.chooser.value

    @cached_property
    def record(self) -> AppliedFile | None:
        """What was written last. Raises InputError."""
        found = read_record(self.record_path)
        return found if found is not None and found.path == str(self.path) and found.way != "removed" else None

    @cached_property
    def data(self) -> bytes | None:
        """What the file holds now; None where it is not there. Raises InputError or OutsideError."""
        return read_bytes(self.path, MAX_EDITOR_FILE_SIZE) if self.path.exists() or self.path.is_symlink() else None

    @cached_property
    def text(self) -> str | None:
        """The same as text, its line ends as they are."""
        return self.decoded(self.data) if self.data is not None else None

    def decoded(self, data: bytes) -> str:
        """The text of a content. Raises InputError."""
        return decoded(data, str(self.path), self.dialect.description.file.encodings)

    def encoded(self, text: str) -> bytes:
        """A text as this file has it: its line ends, encoding and byte-order mark."""
        old = self.data or b""
        if old.count(b"\r\n") * 2 > old.count(b"\n"):
            text = text.replace("\r\n", "\n").replace("\n", "\r\n") if b"\n" not in old.replace(b"\r\n", b"") else text
        try:
            old.decode("utf-8")
            encoding = "utf-8"
        except UnicodeDecodeError:
            encoding = self.dialect.description.file.encodings[-1]
        try:
            data = text.encode(encoding)
        except UnicodeEncodeError:
            raise InputError(
                f"the file is in {encoding}, which has not all the characters of the keymap", "Save it as UTF-8 first.",
                Place(str(self.path)),
            ) from None  # fmt: skip
        return _MARK + data if old.startswith(_MARK) and not data.startswith(_MARK) else data

    def read(self, text: str) -> Layer:
        """A text as a file of the editor, at the place of its file. Raises InputError."""
        resources = self._resources.with_texts({self.path: text})
        name = LayerName(str(self.path), self.path.name, "adopted", self.editor.name)
        return resources.read_editor_file(self.dialect, self.path, name).layer

    @cached_property
    def made(self) -> MadePort:
        """The keymap ported to it, as it is now. Raises OmbixError."""
        context = self._opener.target(self.editor.name)
        return port.port(port.origin(self._opener, self._resources), self.editor.name, context, self._resources)

    @cached_property
    def installed(self) -> Installed:
        """The file as it would be written. Raises InputError where the marks of its block are damaged."""
        with self._placed():
            return block_installing.installed(self.made.file.text, self._rest(edited=True), self._deciding, self.read)

    @cached_property
    def _deciding(self) -> Deciding:
        around = self.made.around
        return Deciding(self.dialect, around.platform, around.space, around.catalogue)

    @cached_property
    def is_rewritten(self) -> bool:
        """Whether the editor has written the file anew since, without the marks of the block."""
        record = self.record
        return record is not None and record.way == "block" and self.text is not None and not self.has_block

    @cached_property
    def own_entries(self) -> set[Entry]:
        """What the entries said that were written last."""
        if self.record is None:
            return set()
        text = self.decoded(self.record.data)
        if self.record.way == "block":
            text = block_installing.as_file(self.dialect, block_installing.block_in(self.dialect, text) or "")
        layer = self._layer(text)
        return {entry_of(binding) for binding in (layer.bindings if layer is not None else ())}

    def _rest(self, edited: bool) -> str | None:
        """What stands in the file, as it is; of one that its editor has written anew, without the entries that are Ombix's, and
        perhaps those that were edited."""
        if self.text is None or not self.is_rewritten:
            return self.text
        layer = self._layer(self.text)
        return (
            without_entries(self.dialect, self.text, layer, self.own_entries, edited)
            if layer is not None
            else self.text
        )

    @cached_property
    def others(self) -> str:
        """What stands in the file and is not Ombix's. Raises InputError where the marks of its block are damaged."""
        if self.text is None or (self.record is not None and self.record.way == "whole"):
            return ""
        with self._placed():
            return block_installing.without_block(self.dialect, self._rest(edited=False) or "")

    @property
    def common_space(self) -> Space:
        """The states that every keymap knows."""
        return self._resources.space(self._resources.shipped.facts())

    @contextlib.contextmanager
    def _placed(self) -> Iterator[None]:
        """What is wrong with the marks of the block, with the file that they stand in."""
        try:
            yield
        except InputError as error:
            if error.place is None or error.place.file:
                raise
            raise InputError(error.what, error.advice, error.place._replace(file=str(self.path))) from None

    @cached_property
    def has_block(self) -> bool:
        """Whether the keymap stands in a block of the file. Raises InputError where its marks are damaged."""
        with self._placed():
            return self.text is not None and block_installing.block_in(self.dialect, self.text) is not None

    # --- what somebody else has changed

    def edits(self) -> list[EditedBinding]:
        """What was changed by hand since it was written last, by meaning; of a block that another machine has written, in what it
        differs from what would be written. Raises InputError where that cannot be told."""
        if self.text is None or (self.record is None and not self.has_block):
            return []
        now = self.text
        before = self.decoded(self.record.data) if self.record is not None else self.installed.text
        whole = self._differing(before, now)
        if self.record is not None and self.record.way == "whole":
            return whole
        if self.is_rewritten:
            return self._edits_of_rewritten(before, now, whole)
        with self._placed():
            blocks = [
                block_installing.as_file(self.dialect, block_installing.block_in(self.dialect, text) or "")
                for text in (before, now)
            ]
        inside = {(one.trigger, one.said.section) for one in self._differing(*blocks)}
        return [
            one._replace(said=one.said._replace(is_inside=(one.trigger, one.said.section) in inside)) for one in whole
        ]

    def _edits_of_rewritten(self, before: str, now: str, found: list[EditedBinding]) -> list[EditedBinding]:
        """What somebody changed in a file that its editor has written anew: only where keys do something else by that, for an
        editor that writes its file writes all of its own keys into it."""
        tables = [self._deciding.tables(self._layer(text)) for text in (before, now)]
        own = {(keys, where) for keys, where, _command in self.own_entries}
        return [
            one._replace(said=one.said._replace(is_inside=(one.trigger, one.said.section) in own))
            for one in found if self._deciding.differ(one.trigger, tables[0], tables[1])
        ]  # fmt: skip

    def _differing(self, before: str, now: str) -> list[EditedBinding]:
        """The keys for which two texts of the file bind different things."""
        found: list[EditedBinding] = []
        if before == now:
            return found
        one, other = _by_keys(self._layer(before)), _by_keys(self._layer(now))
        for key in dict.fromkeys([*one, *other]):
            was, new = one.get(key), other.get(key)
            said, says = _does(was), _does(new)
            if said != says:
                keys, where = key
                found.append(EditedBinding(HandEdit(write(keys), where, said, says, True), new, keys))
        return found

    def _layer(self, text: str) -> Layer | None:
        return self.read(text) if text.strip() else None

    def changed_defaults(self) -> tuple[ChangedDefault, ...]:
        """The default keys that are others in the description than when the file was written."""
        if self.record is None:
            return ()
        before = {(keys, section): command for keys, section, command in self.record.defaults}
        now = {(keys, section): command for keys, section, command in default_rows(self.dialect)}
        return tuple(
            ChangedDefault(*key, before.get(key, ""), now.get(key, ""))
            for key in dict.fromkeys([*before, *now]) if before.get(key) != now.get(key)
        )  # fmt: skip

    def standing(self) -> EditorStanding:
        """Where it stands."""
        reason, way = "", ""
        edits: tuple[HandEdit, ...] = ()
        found: Standing = "elsewhere"
        if self.is_here:
            try:
                edits = tuple(edit.said for edit in self.edits())
                found, way = self._stands(edits)
            except OmbixError as error:
                found, reason = "unreadable", error.what
        described = self.dialect.description.version
        other = self.editor.version if self.editor.version and not self.dialect.is_for(self.editor.version) else ""
        record = self.record if reason == "" else None
        defaults = self.changed_defaults() if record is not None else ()
        return EditorStanding(
            self.editor.name, self.dialect.name, Place(str(self.path)), found, way, record.made if record else "",
            described, other, edits, defaults, reason,
        )  # fmt: skip

    def _stands(self, edits: tuple[HandEdit, ...]) -> tuple[Standing, str]:
        if self.record is None and not self.has_block:
            return "not applied", ""
        way = self.record.way if self.record is not None else "block"
        inside = sum(edit.is_inside for edit in edits)
        if self.data is None or (self.is_rewritten and inside and inside >= len(self.own_entries)):
            return "missing", way
        if any(edit.is_inside for edit in edits):
            return "edited by hand", way
        wanted = self.encoded(self.installed.text)
        if not self.is_chosen:
            return "not chosen", way
        return ("up to date" if wanted == self.data or self._means_the_same() else "behind"), way

    def _means_the_same(self) -> bool:
        """Whether the file binds what it would bind, though an editor has written it in another form."""
        layers = [self._layer(self.installed.text), self._layer(self.text or "")]
        if self.is_rewritten:
            one, other = map(self._deciding.tables, layers)
            return not any(self._deciding.differ(keys, one, other) for keys in dict.fromkeys([*one, *other]))
        first, second = map(_by_keys, layers)
        return {key: _does(each) for key, each in first.items()} == {key: _does(each) for key, each in second.items()}


def default_rows(dialect: Dialect) -> tuple[tuple[str, str, str], ...]:
    """An editor's default keys: keys, section, command."""
    return tuple(
        (write(keys), section, command) for section, rows in dialect.default_commands.items() for keys, command in rows
    )


def _by_keys(layer: Layer | None) -> Mapping[tuple[Trigger, str], Binding]:
    """The bindings of a file by their keys and their condition; of several the last."""
    return {(binding.trigger, binding.where): binding for binding in (layer.bindings if layer is not None else ())}


def _does(binding: Binding | None) -> str:
    """What a binding runs, as its editor writes it where that is known."""
    if binding is None:
        return ""
    return "nothing" if isinstance(binding.outcome, Nothing) else binding.command or str(binding.outcome)
