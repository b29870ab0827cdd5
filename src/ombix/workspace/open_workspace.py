"""A workspace, a keymap file or an editor's own file, opened once: what questions share, and what they write with."""

import os
from collections.abc import Callable, Iterable, Mapping
from typing import TYPE_CHECKING

from ombix.files.cache import Cache

if TYPE_CHECKING:
    from os import PathLike
    from pathlib import Path

    from ombix.editors.dialect import Dialect
    from ombix.files.trusted_folders import Trust
    from ombix.files.workspace_file import WorkspaceEditor, WorkspaceFile
    from ombix.files.writer import Writer
    from ombix.workspace.context import Context, Opener, SourceKind
    from ombix.workspace.effective_keymap import EffectiveKeymap
    from ombix.workspace.keymap_editing import KeymapEditing
    from ombix.workspace.lookup_cache import LookUps
    from ombix.workspace.resources import Resources

_WORKSPACE_FILE = "ombix.toml"


class OpenWorkspace:
    """Opened on `path`: a workspace (its file or its folder), a keymap file, or an editor's own file; without one, on the
    nearest workspace. `kind` says which it is, where what stands in it is not to tell; `editor` whose file it is.

    Nothing is read before the first question, and nothing twice. The questions take the same options: `editor` (one of
    the workspace, or one that Ombix knows), `on` (a platform), `layout` (a name, or a file), `within` (a condition). Names
    of files are relative to `folder`, which is that of the call where it is empty. Each raises
    `ombix.core.errors.InputError` for what cannot be, and `OutsideError` for what fails outside.
    """

    def __init__(
        self, path: "str | PathLike[str] | None" = None, *, kind: "SourceKind" = "", editor: str = "", folder: str = "",
        texts: Mapping[str, str | None] | None = None, cache: str = "", state: str = "",
    ) -> None:  # fmt: skip
        self.folder = folder or os.getcwd()  # noqa: PTH109
        self.path_given = os.fspath(path) if path is not None else None
        self._kind: SourceKind = kind
        self._editor = editor
        self._texts = texts
        self._machine = ""
        self._cache = Cache(cache) if cache and not texts else None
        self._state = state
        self.say: Callable[[str], None] = lambda text: None
        """Told what else there is to be known, in sentences: like what an earlier run left in the middle."""
        self.finishes = False
        """Whether that is brought to an end before the workspace is opened."""
        self._resources: Resources | None = None
        self._opener: Opener | None = None
        self._effective: dict[tuple[str, str, str], EffectiveKeymap] = {}
        self._told: set[str] = set()
        """What was told of faults."""
        self._asked: dict[str, LookUps] = {}

    # --- what is opened

    def with_texts(self, texts: Mapping[str, str | None]) -> "OpenWorkspace":
        """The same, opened so that texts, by absolute path, stand for what is on the disk."""
        return self._again({**(self._texts or {}), **texts}, self._machine)

    def _again(self, texts: Mapping[str, str | None] | None, machine: str) -> "OpenWorkspace":
        found = type(self)(
            self.path_given, kind=self._kind, editor=self._editor, folder=self.folder, texts=texts, state=self._state
        )
        found._machine = machine
        return found

    @property
    def resources(self) -> "Resources":
        """What was loaded so far."""
        if self._resources is None:
            from ombix.workspace.resources import Resources

            self._resources = Resources(self._texts, self._cache)
        return self._resources

    @property
    def opener(self) -> "Opener":
        """What opens the workspace, or the file."""
        if self._opener is None:
            from pathlib import Path

            from ombix.workspace.context import Opener, Source

            if self.finishes and self._kind != "file":
                self._finish_interrupted()
            path = Path(self.path_given) if self.path_given is not None else None
            self._opener = Opener(
                Path(self.folder), Source(path, self._kind, self._editor, self._machine), self.resources
            )
        return self._opener

    def context(self, editor: str = "", on: str = "", layout: str = "") -> "Context":
        """What a question with these options is about; what is wrong in its files is left out, and noted there."""
        return self.opener.context(editor, on, layout, lenient=True)

    def on_machine(self, machine: str) -> "OpenWorkspace":
        """The same, opened as it is on a machine of the workspace."""
        return self._again(self._texts, machine)

    def _finish_interrupted(self) -> None:
        """Bring to an end what an earlier run left in the middle, before anything is read: a workspace of which one file is as it
        was and another as it was to be may not be readable at all, and then no command that writes would come to mend it."""
        from pathlib import Path

        from ombix.files.change_folder import has_unfinished

        here = Path(self.folder)
        start = here / self.path_given if self.path_given is not None else here
        folders = (start, *start.parents) if self.path_given is None or start.is_dir() else (start.parent,)
        home = next((folder for folder in folders if (folder / _WORKSPACE_FILE).is_file()), here)
        if has_unfinished(self.state_folder(), home):
            from ombix.files.writer import Writer

            Writer(self.state_folder(), home, say=self.say).recover()

    def machines(self, *names: str) -> "tuple[str, ...]":
        """The machines of the workspace that are named; `all`: all of them. Raises InputError for one that is not there."""
        from ombix.core.errors import InputError, did_you_mean

        known = list(self.opener.needed_workspace().machines)
        for name in names:
            if name != "all" and name not in known:
                advice = did_you_mean(name, known) or f"Its machines are {', '.join(known) or 'none'}."
                raise InputError(f"the workspace names no machine {name}", advice)
        if "all" in names and not known:
            raise InputError("the workspace names no machine", "Write [machine.desk] in ombix.toml; see: docs/files.md")
        return tuple(known) if "all" in names else tuple(dict.fromkeys(names))

    def has_workspace(self) -> bool:
        """Whether there is a workspace, be it right or wrong."""
        return bool(_nearest(self.folder)) if self.path_given is None else not self.opener.is_file()

    def keymap(
        self, editor: str = "", on: str = "", layout: str = "", *, tells_faults: bool = True
    ) -> "EffectiveKeymap":
        """The keymap as it is in force. What is wrong in its files is left out, so that all else can be asked, and told once."""
        key = (editor, on, layout)
        if key not in self._effective:
            from ombix.core.gc_pause import no_garbage_collection
            from ombix.workspace.effective_keymap import EffectiveKeymap

            with no_garbage_collection():
                self._effective[key] = EffectiveKeymap(self.context(*key), self.resources)
            self.resources.tables.keep()
        if tells_faults:
            self._tell(self._effective[key].faults)
        return self._effective[key]

    def tell_faults(self) -> None:
        """Tell what is wrong in the workspace, or the file, that was opened, once; nothing where there is none."""
        if self.path_given is not None or self.has_workspace():
            self._tell(self.faults)

    def _tell(self, faults: Iterable[str]) -> None:
        for fault in faults:
            if fault not in self._told:
                self._told.add(fault)
                self.say(fault)

    @property
    def faults(self) -> tuple[str, ...]:
        """What is wrong in the files that were opened and was left out, in sentences; none where all of them could be read. The
        questions answer about the rest."""
        return tuple(self.keymap(tells_faults=False).faults)

    def files(self) -> Mapping[str, str]:
        """The absolute path of every file that the answers so far depend on, whether it was there or not, with its stamp."""
        return self.resources.seen

    # --- looking

    # --- what is wrong

    def severities(self) -> Mapping[str, str]:
        workspace = self.file()
        return workspace.severities if workspace is not None else {}

    def file(self) -> "WorkspaceFile | None":
        return None if self.opener.is_file() else self.opener.workspace()

    def workspace_editors(self) -> "list[WorkspaceEditor]":
        """The editors of the workspace; none where there is no workspace."""
        workspace = self.file()
        return [self.opener.editor(name) for name in (workspace.editors if workspace is not None else ())]

    # --- ports

    def write(self, command: str, texts: Mapping[str, str | bytes], dry_run: bool = False) -> "list[Path]":
        """Write texts, or bytes, to files, as one change that can be taken back; `command` says what made it."""
        from ombix.workspace.resources import user_path

        contents = {user_path(name, self.opener.folder): text for name, text in texts.items()}
        return self.writer(*contents).change(command, lambda: contents, dry_run)

    def hand_over(self, file: str, text: str) -> None:
        """Write a text to a file of another program's own, which takes it at once: nothing is noted, nothing can be taken back."""
        from ombix.workspace.resources import user_path

        path = user_path(file, self.opener.folder)
        new = path.with_name(f"{path.name}.new")
        try:
            new.write_bytes(text.encode("utf-8"))
            new.replace(path)  # whole or not at all
        finally:
            new.unlink(missing_ok=True)

    def read(self, file: str) -> str:
        """The text of a file that a user named."""
        from ombix.workspace.resources import user_path

        return self.resources.files.read_text(user_path(file, self.opener.folder))

    def editor_meant(self, name: str = "") -> str:
        """The editor of a name; without one the only editor of the workspace. Raises InputError where there are several, or none,
        with their names."""
        if name:
            return name
        workspace = self.file()
        names = list(workspace.editors) if workspace is not None else []
        if len(names) == 1:
            return names[0]
        from ombix.core.errors import InputError

        known = names or self.resources.dialects.names()
        raise InputError("which editor?", f"Say --to NAME: {', '.join(known[:-1])} or {known[-1]}.")

    def all_editors(self) -> list[str]:
        if not self.has_workspace():
            return [self.editor_meant()]
        editors = self.opener.needed_workspace().editors
        if not editors:
            from ombix.core.errors import InputError

            raise InputError("the workspace names no editor", "Say --to NAME, or write [editor.pier] in ombix.toml.")
        return list(editors)

    # --- evidence

    def is_trusted(self, dialect: "Dialect") -> bool:
        from ombix.workspace import description_trust

        return description_trust.is_trusted(dialect, self.resources.dialects, self.trusted())

    def trusted(self) -> "Trust":
        from ombix.files.trusted_folders import Trust

        return Trust(self.state_folder())

    # --- what is used

    # --- changes

    def editing(self) -> "KeymapEditing":
        from ombix.workspace.keymap_editing import KeymapEditing

        return KeymapEditing(self.opener, self.resources, self.writer())

    def path(self, file: str) -> "Path":
        """The path of a file that a user named."""
        from ombix.workspace.resources import user_path

        return user_path(file, self.opener.folder)

    def writer(self, *given: "Path") -> "Writer":
        """What writes here: for the workspace, or where there is none, for the folder of the call; and to files that were
        given by name."""
        from ombix.files.writer import Writer

        workspace = self.opener.workspace()
        home = workspace.folder if workspace is not None else self.opener.folder
        return Writer(self.state_folder(), home, given, self.say)

    def state_folder(self) -> "Path":
        from pathlib import Path

        if self._state:
            return Path(self._state)
        import platformdirs

        return Path(platformdirs.user_state_dir("ombix"))

    # --- what is known

    # --- look-ups

    def look_ups(self, editor: str, on: str, layout: str) -> "LookUps":
        from ombix.workspace.lookup_cache import LookUps, system_key

        path = self.path_given if self.path_given is not None else _nearest(self.folder)
        source = os.path.join(self.folder, os.path.expanduser(path)) if path else ""  # noqa: PTH111, PTH118
        here = self.folder if layout or editor or not source else ""
        key = "\0".join((source, self._kind, self._editor, editor, on, layout, here, self._machine, system_key()))
        if key not in self._asked:
            self._asked[key] = LookUps(self._cache, key, lambda: self.keymap(editor, on, layout), self.files)
        return self._asked[key]


def _nearest(folder: str) -> str:
    """The nearest workspace file from a folder on, or an empty text."""
    while True:
        candidate = os.path.join(folder, _WORKSPACE_FILE)  # noqa: PTH118
        if os.path.exists(candidate):  # noqa: PTH110
            return candidate
        above = os.path.dirname(folder)  # noqa: PTH120
        if above == folder:
            return ""
        folder = above
