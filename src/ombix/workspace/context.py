"""What a question is about: which layers, on which platform, in which editor, under which hands."""

import os
from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Literal, NamedTuple

from msgspec import Struct
from msgspec.structs import replace

from ombix.core.errors import InputError, Place, did_you_mean
from ombix.core.keymap.bindings import Layer, LayerName
from ombix.core.keys.platforms import Platform, Reserved, reserved_on
from ombix.core.pressing.layouts import KeyboardSetup, Layout
from ombix.core.pressing.terminals import Terminal, in_terminal
from ombix.data.platform_names import this_platform
from ombix.editors.dialect import Dialect
from ombix.files import keymap_reading
from ombix.files import workspace_file as workspaces
from ombix.files.disk import absolute
from ombix.files.workspace_file import WorkspaceEditor, WorkspaceFile
from ombix.workspace.resources import Resources, user_path

if TYPE_CHECKING:
    from ombix.editors.dialect import Dialect

USUAL_LAYOUT = "us"
"""The layout that keys are looked for on where nothing names one."""

SourceKind = Literal["", "workspace", "file"]


class Source(NamedTuple):
    """What a session was opened on: a path from the folder of the call (None: the nearest workspace), and what it is
    (empty: what stands in it tells), and the editor that a file is of, where that was said."""

    path: Path | None
    kind: SourceKind = ""
    editor: str = ""
    machine: str = ""
    """The machine of the workspace that is asked about; empty: the one at hand, where it is one of them."""


class Context(Struct, frozen=True):
    """What a question is about. `workspace` is None outside one, `editor` and `dialect` where no editor is meant.

    `layers` are those of the keymap, the lowest first, without an editor's defaults. `setups` are the layouts at hand, the
    first one asked for; none where none is known. `about` says what was looked at where that is no workspace.
    """

    workspace: WorkspaceFile | None
    platform: Platform
    layers: tuple[Layer, ...]
    editor: WorkspaceEditor | None
    dialect: "Dialect | None"
    setups: tuple[KeyboardSetup, ...]
    desktop: str
    folder: Path
    """That which names of files are relative to."""
    about: str = ""


class OpenedFile(NamedTuple):
    """A file that is looked at without a workspace: its layers, the editor that it is of, and what was recognised."""

    layers: tuple[Layer, ...]
    editor: WorkspaceEditor | None
    about: str
    is_keymap: bool = False
    """Whether it is one of Ombix's own keymap files; `editor` is the one that it is looked at in, then."""


class Opener:
    """Opens what a session was pointed to, once, and makes contexts of it. `folder` is that of the call."""

    def __init__(self, folder: Path, source: Source, resources: Resources) -> None:
        self.folder = folder
        self._source = source
        self._resources = resources
        self._workspace: WorkspaceFile | None = None
        self._found_workspace = False
        self._layers: dict[bool, tuple[Layer, ...]] = {}
        self._file: dict[bool, OpenedFile] = {}

    def opened_with(self, resources: Resources) -> "Opener":
        """Another opener of the same, that reads with other resources."""
        return Opener(self.folder, self._source, resources)

    # --- what was opened

    def is_file(self) -> bool:
        """Whether one file is looked at, and no workspace."""
        kind, path = self._source.kind, self._source.path
        if kind or path is None:
            return kind == "file"
        from ombix.workspace.editor_recognition import is_workspace_file

        path = user_path(path, self.folder)
        return not (path.is_dir() or path.name == workspaces.FILE_NAME or is_workspace_file(path, self._resources))

    def workspace(self) -> WorkspaceFile | None:
        """The workspace; None where there is none. Raises InputError where it is wrong, or was named and is not there."""
        if not self._found_workspace:
            self._workspace = self._load_workspace()
            self._found_workspace = True
        return self._workspace

    def _load_workspace(self) -> WorkspaceFile | None:
        given = None if self._source.path is None or self.is_file() else user_path(self._source.path, self.folder)
        try:
            path = workspaces.find(self.folder, given)
        except InputError:
            return None  # there is none above
        try:
            found = workspaces.load(path, self._resources.files, self._resources.shipped, lenient=True)
            self._resources.shipped.add_facts(found.facts)
            self._check_names(found)
            return self._on_machine(found)
        except InputError:
            if self.is_file():
                return None  # what is wrong with it is not asked
            raise

    def _on_machine(self, workspace: WorkspaceFile) -> WorkspaceFile:
        """The workspace on the machine that was named, or on the one at hand, where it is one of its own."""
        name = self._source.machine or workspace.machine_here()
        if not name:
            return workspace
        machines = workspace.machines
        if name not in machines:
            raise InputError(
                f"the workspace names no machine {name}",
                did_you_mean(name, list(machines)) or f"Its machines are {', '.join(machines) or 'none'}.",
                Place(str(workspace.path)),
            )  # fmt: skip
        there = workspace.on_machine(machines[name])
        # Where one machine is asked about, no other one counts; on one of them, what is free has to be so on all.
        return replace(there, machines={name: machines[name]}) if self._source.machine else there

    def _check_names(self, workspace: WorkspaceFile) -> None:
        """Raise InputError where an editor of the workspace is called like another one that Ombix knows."""
        for name, editor in workspace.editors.items():
            if editor.dialect != name and self._resources.dialects.knows(name):
                raise InputError(
                    f"the editor {name} is called like one that Ombix knows, and is another",
                    "Give it a name of its own.", editor.place,
                )  # fmt: skip

    def needed_workspace(self) -> WorkspaceFile:
        """The workspace. Raises InputError where there is none."""
        found = None if self.is_file() else self.workspace()
        if found is None:
            raise InputError(
                f"there is no {workspaces.FILE_NAME} here or in a folder above",
                "Start a workspace with: ombix init", Place(absolute(self.folder)),
            )  # fmt: skip
        return found

    def layers(self, lenient: bool = False) -> tuple[Layer, ...]:
        """The layers of the workspace's keymap. Raises InputError; a lenient reader notes what is wrong in the layers."""
        other = self._layers.get(not lenient)
        if lenient not in self._layers and other is not None and not self._has_faults(other):
            return other
        if lenient not in self._layers:
            workspace = self.needed_workspace()
            if workspace.problems and not lenient:
                raise workspace.problems[0]
            found = workspace.load_layers(self._resources.files, self._resources.shipped, lenient)
            self._layers[lenient] = tuple(found)
        return self._layers[lenient]

    def _has_faults(self, layers: Sequence[Layer]) -> bool:
        return bool(self.needed_workspace().problems) or any(layer.problems for layer in layers)

    def file(self, lenient: bool = False) -> OpenedFile:
        """The file that is looked at without a workspace. Raises InputError."""
        if lenient not in self._file:
            assert self._source.path is not None
            path = user_path(self._source.path, self.folder)
            self._file[lenient] = self.open_file(path, self._source.editor, lenient)
        return self._file[lenient]

    def open_file(self, path: Path, editor: str = "", lenient: bool = False) -> OpenedFile:
        """A keymap file, or an editor's own file. Raises InputError."""
        from ombix.workspace.editor_recognition import is_keymap_file, read_as, recognise

        resources = self._resources
        if is_keymap_file(path, resources):
            shipped = resources.shipped
            layers = keymap_reading.load(path, shipped.catalogue(), shipped.facts(), resources.files, lenient=lenient)
            chosen = self.editor(editor) if editor else None
            return OpenedFile(tuple(layers), chosen, f"{path.name} is a keymap file", True)
        if editor:
            owner, said = self.editor(editor), ""
        else:
            found = recognise(path, resources)
            owner = WorkspaceEditor(found.dialect, found.dialect)
            doubt = "" if found.is_sure else "; if it is another's, say --editor NAME"
            said = f": {found.why}{doubt}"
        dialect = resources.dialect(owner)
        reading = read_as(path, dialect, resources, LayerName(absolute(path), path.name, "adopted", owner.name))
        title = f"{dialect.description.title} {dialect.description.version}"
        return OpenedFile((reading.layer,), owner, f"{path.name} is read as a file of {title}{said}")

    # --- contexts

    def editor(self, name: str) -> WorkspaceEditor:
        """An editor of the workspace, or one that Ombix knows. Raises InputError with the nearest names."""
        dialects = self._resources.dialects
        workspace = self.workspace()
        editors = workspace.editors if workspace else {}
        if name in editors:
            editor = editors[name]
            if "/" not in editor.dialect and not dialects.knows(editor.dialect):
                known = dialects.names()
                raise InputError(
                    f"the editor {name} has an unknown dialect: {editor.dialect}",
                    did_you_mean(editor.dialect, known) or f"Ombix knows {', '.join(known)}.",
                    Place(str(workspace.path)) if workspace else None,
                )  # fmt: skip
            return editor
        if dialects.knows(name):
            return WorkspaceEditor(name, name)
        if "/" in name:
            return WorkspaceEditor(name, absolute(user_path(name, self.folder)))
        if called := dialects.called(name):
            return WorkspaceEditor(called, called)
        names = [*editors, *dialects.names()]
        raise InputError(f"unknown editor: {name}", did_you_mean(name, names) or f"Known are {', '.join(names)}.")

    def context(self, editor: str = "", on: str = "", layout: str = "", lenient: bool = False) -> Context:
        """What a question with these options is about. Raises InputError."""
        if self.is_file():
            return self._file_context(self.file(lenient), editor, on, layout)
        workspace = self.workspace()
        if workspace is None:
            return self._bare_context(editor, on, layout)
        chosen = self.editor(editor) if editor else None
        platform = self._in_its_terminal(self.platform(on, chosen), chosen)
        names = (layout,) if layout else workspace.layouts_on(platform.name)
        folder = self.folder if layout else workspace.folder
        keyboard = workspace.keyboard_on(platform.name)
        setups = [self._setup(self._layout(name, folder, platform), keyboard, platform) for name in names]
        return Context(
            workspace, platform, self.layers(lenient), chosen, self._dialect(chosen), tuple(setups), workspace.desktop,
            workspace.folder,
        )  # fmt: skip

    def target(self, name: str, on: str = "") -> Context:
        """The context of an editor that is ported to, without layers: those come from somewhere else."""
        workspace = self.workspace()
        chosen = self.editor(name)
        platform = self.platform(on, chosen)
        folder = workspace.folder if workspace is not None and not self.is_file() else self.folder
        return Context(workspace, platform, (), chosen, self._dialect(chosen), (), "", folder)

    def platform(self, on: str = "", editor: WorkspaceEditor | None = None) -> Platform:
        """The platform: that which was named, the editor's, the workspace's, or that of this machine."""
        workspace = None if self.is_file() else self.workspace()
        return self._platform(on or (editor.platform if editor else "") or (workspace.platform if workspace else ""))

    def _bare_context(self, editor: str, on: str, layout: str) -> Context:
        """An editor's defaults, without a workspace."""
        if not editor:
            raise InputError(
                f"there is no {workspaces.FILE_NAME} here or in a folder above",
                "Name a file with --file FILE, or start a workspace with: ombix init", Place(absolute(self.folder)),
            )  # fmt: skip
        return self._file_context(OpenedFile((), self.editor(editor), f"{editor}'s default keys"), "", on, layout)

    def hands_context(self, on: str = "", layout: str = "") -> Context:
        """The context of a question about the keyboard alone: of the workspace, or without one, of this machine."""
        if self.workspace() is not None and not self.is_file():
            return self.context("", on, layout, lenient=True)
        return self._file_context(OpenedFile((), None, ""), "", on, layout)

    def bare(self, file: OpenedFile, on: str = "") -> Context:
        """The context of a file that was opened beside what the session is about."""
        return self._file_context(file, "", on, "")

    def _file_context(self, file: OpenedFile, editor: str, on: str, layout: str) -> Context:
        chosen = self.editor(editor) if editor else file.editor
        platform = self._in_its_terminal(self._platform(on or (chosen.platform if chosen else "")), chosen)
        setups, said = self._setups_of_system(platform, layout)
        from ombix.workspace.system_settings import system_desktop

        desktop = system_desktop(os.environ, self._resources.shipped) if platform.name == this_platform() else ""
        title = next((one.title for one in self._resources.shipped.desktops() if one.name == desktop), "")
        said += [f"desktop {title}"] if title else []
        about = f"{file.about}{'; ' if said else ''}{', '.join(said)}."
        return Context(None, platform, file.layers, chosen, self._dialect(chosen), setups, desktop, self.folder, about)

    def _setups_of_system(self, platform: Platform, layout: str) -> tuple[tuple[KeyboardSetup, ...], list[str]]:
        """The layout that was named, or else that of this machine, and what is to be said of it."""
        if layout:
            return (self._setup(self._layout(layout, self.folder, platform), "", platform),), []
        if platform.name != this_platform():
            return (), []
        from ombix.workspace.system_settings import load_system_layout, system_layout

        files, shipped = self._resources.files, self._resources.shipped
        found = system_layout(files, os.environ)
        if found is None:
            return (), []
        loaded = load_system_layout(found, platform, files, shipped)
        if loaded is None:
            return (), [f"this machine's layout {found.name} is not known to Ombix"]
        return (self._setup(loaded, "", platform),), [f"this machine's layout is {loaded.title}"]

    def _platform(self, name: str) -> Platform:
        return self._resources.shipped.platform(name or this_platform())

    def _in_its_terminal(self, platform: Platform, editor: WorkspaceEditor | None) -> Platform:
        """The platform as an editor has it: where it runs in a terminal, Mod is a modifier that this sends."""
        dialect = self._dialect(editor)
        if editor is None or dialect is None:
            return platform
        return in_terminal(platform, terminal_of(editor, dialect, self._resources))

    def _dialect(self, editor: WorkspaceEditor | None) -> "Dialect | None":
        return self._resources.dialect(editor) if editor is not None else None

    def _layout(self, name: str, folder: Path, platform: Platform) -> Layout:
        from ombix.files.layout_files import find_layout

        return find_layout(name, folder, platform, self._resources.files, self._resources.shipped)

    def _setup(self, layout: Layout, keyboard: str, platform: Platform) -> KeyboardSetup:
        return self._resources.setup(layout, keyboard or platform.keyboard, platform)


def setup_at_hand(context: Context, resources: Resources, keyboard: str = "") -> KeyboardSetup:
    """The first layout of a context, or the usual one; on the keyboard named, or its own. Raises InputError."""
    platform, shipped = context.platform, resources.shipped
    known = context.setups[0] if context.setups else None
    if known is not None and not keyboard:
        return known
    layout = known.layout if known is not None else shipped.layout_on(USUAL_LAYOUT, platform)
    return resources.setup(layout, keyboard or platform.keyboard, platform)


def terminal_of(editor: WorkspaceEditor, dialect: "Dialect", resources: Resources) -> Terminal:
    """The terminal that an editor runs in."""
    return resources.shipped.terminal(editor.terminal or dialect.description.terminal)


def terminals(context: Context, editors: Sequence[WorkspaceEditor], resources: Resources) -> dict[str, Terminal]:
    """The editors that are meant (the chosen one, or these on the context's platform) to their terminals."""
    if context.editor is not None and context.dialect is not None:
        return {context.editor.name: terminal_of(context.editor, context.dialect, resources)}
    return {
        editor.name: terminal_of(editor, resources.dialect(editor), resources)
        for editor in editors
        if editor.platform in ("", context.platform.name)
    }


def reserved(context: Context, resources: Resources) -> list[Reserved]:
    """What does not reach an editor: what the system keeps, the desktop, and what the workspace names."""
    workspace, platform = context.workspace, context.platform
    found = reserved_on(platform, resources.shipped.desktops(), context.desktop)
    for own in workspace.reserved if workspace else ():
        if own.platform in ("", platform.name):
            source = str(workspace.path) if workspace else ""
            found.append(Reserved(platform.resolve(own.trigger)[0], own.does, "something of one's own", True, source))
    return found


def platforms_of(
    workspace: WorkspaceFile | None, resources: Resources, layers: Sequence[Layer] = ()
) -> tuple[str, ...]:
    """The platforms that a workspace speaks of, or where it speaks of none, that of this machine, as nobody has the others; and
    those for which the layers of its keymap have lines of their own."""
    if workspace is None:
        return ()
    known = resources.shipped.platform_names()
    named = {
        workspace.platform,
        *(editor.platform for editor in workspace.editors.values()),
        *workspace.layouts,
        *workspace.keyboards,
        *(machine.platform for machine in workspace.machines.values()),
    } & set(known)
    rows = [binding.platforms for layer in layers for binding in layer.bindings]
    rows += [removal.platforms for layer in layers for removal in layer.removals]
    named = (named or {this_platform()}) | {name for platforms in rows if len(platforms) == 1 for name in platforms}
    return tuple(one for one in known if one in named)
