"""Editors' own files read into a workspace as layers; and workspaces started with those that are on this machine."""

import os
from collections.abc import Sequence
from pathlib import Path
from typing import NamedTuple

from msgspec.structs import replace

from ombix.core.errors import InputError, OmbixError, Place, did_you_mean
from ombix.core.keymap.bindings import LayerName
from ombix.core.keymap.changes import AddEditor, AddLayer, Change
from ombix.core.keymap.outcomes import Do
from ombix.core.keys.notation import write
from ombix.data.platform_names import this_platform
from ombix.editors.command_effects import with_commands
from ombix.editors.dialect import Dialect
from ombix.editors.file_reading import FileReading
from ombix.files import editing, keymap_reading, keymap_writing
from ombix.files import workspace_file as workspaces
from ombix.files.disk import absolute
from ombix.files.keymap_reading import SUFFIX
from ombix.files.workspace_file import FILE_NAME, WorkspaceEditor
from ombix.files.writer import Contents, Writer
from ombix.work.carry.adopt_answer import AdoptedLine, Adoption, FoundFile, MachineLayout, StartReport
from ombix.workspace.context import Opener
from ombix.workspace.editor_recognition import read_as, recognise
from ombix.workspace.resources import Resources, user_path
from ombix.workspace.system_settings import system_layout

_WORKSPACE = """\
# Which keymap, and which editors it is for. See: ombix editors
format = 1
keymap = "{keymap}"
"""

_EDITOR_EXAMPLE = """
# [editor.desk]
# dialect = "micro"
# file = "~/.config/micro/bindings.json"
"""

_KEYMAP = """\
# Arranged by what you want to do. Find an action's name with: ombix how WORDS
# Take the sign # away from an example, or bind with: ombix bind ACTION KEYS
format = 1
name = "{name}"

# [where]                                # conditions with a name
# editing = "pane is text and not readonly"

# [bind.app]
# command-line = "Mod+Shift+P"           # Mod is Ctrl, on a Mac Cmd

# [bind.line]
# copy-down = {{ press = "Mod+Shift+Y", where = "editing" }}
"""


class Read(NamedTuple):
    """An editor's file that was read as a layer, not written yet."""

    editor: WorkspaceEditor
    dialect: Dialect
    file: Path
    layer: str
    """The name of the layer's file."""
    reading: FileReading


def read(file: Path, editor: str, name: str, opener: Opener, resources: Resources) -> Read:
    """Read an editor's file as a layer called `name`, or like the editor. Raises InputError where it is not known whose
    file it is."""
    chosen = opener.editor(editor) if editor else _recognised(file, opener, resources)
    dialect = resources.dialect(chosen)
    called = name or chosen.name
    _check_name(called)
    layer_name = LayerName(absolute(file), called, "adopted", chosen.name)
    return Read(chosen, dialect, file, f"{called}{SUFFIX}", read_as(file, dialect, resources, layer_name))


def _recognised(file: Path, opener: Opener, resources: Resources) -> WorkspaceEditor:
    """The editor of the workspace whose file this is, or else one that Ombix knows."""
    dialect = recognise(file, resources).dialect
    workspace = opener.workspace()
    alike = [editor for editor in (workspace.editors.values() if workspace else ()) if editor.dialect == dialect]
    if len(alike) > 1:
        names = " or ".join(one.name for one in alike)
        raise InputError(
            "it cannot be told which editor this file is for", f"Say --editor {names}.", Place(absolute(file))
        )
    return alike[0] if alike else WorkspaceEditor(dialect, dialect)


def _check_name(name: str) -> None:
    if not name or not all(char.isalnum() or char in "-_" for char in name):
        raise InputError(f"not a name for a keymap: {name}", "Use letters, digits, - and _.")


def adopt(found: Read, opener: Opener, resources: Resources, writer: Writer, dry_run: bool) -> Adoption:
    """Write a file that was read into the workspace, as a layer. Raises InputError."""
    workspace = opener.needed_workspace()
    layer_path = workspace.folder / found.layer
    if layer_path.resolve() == workspace.keymap_path.resolve():
        raise InputError(f"the layer would overwrite the keymap {found.layer}", "Give it another --name.")

    def decide() -> Contents:
        texts: dict[Path, str | bytes] = {layer_path: _layer_text(found, workspace.folder, resources)}
        before = resources.files.read_text(workspace.path)
        now = workspaces.read(before, workspace.path, resources.files, resources.shipped)
        changes: list[Change] = [AddLayer(found.layer)] if found.layer not in now.layers else []
        is_new = found.editor.name not in now.editors and "/" not in found.editor.name
        if is_new:  # so that questions mean it
            usual = {absolute(Path(one).expanduser()) for one in found.dialect.description.file.usual}
            own = _with_home(found.file) if absolute(found.file) in usual else ""
            changes.append(AddEditor(found.editor.name, found.dialect.name, own))
        if changes:
            after = editing.apply(before, changes).text
            read_back = workspaces.read(after, workspace.path, resources.files, resources.shipped)
            editors = {*now.editors, *([found.editor.name] if is_new else [])}
            if found.layer not in read_back.layers or read_back.editors.keys() != editors:
                raise InputError(
                    "the layer cannot be put into this workspace file", f'Write "{found.layer}" into its layers by hand.',
                    Place(absolute(workspace.path)),
                )  # fmt: skip
            texts[workspace.path] = after.encode("utf-8")
        return texts

    written = writer.change(f"adopt {found.file.name}", decide, dry_run)
    return _adoption(found, written)


def _layer_text(found: Read, folder: Path, resources: Resources) -> str:
    """The text of a layer, which was read back. Raises InputError where that does not give what was read."""
    file = absolute(found.file)
    shown = os.path.relpath(file, folder) if file.startswith(f"{folder}/") else file
    shown = shown.encode("utf-8", "backslashreplace").decode()
    note = f"Adopted from {shown} of {found.dialect.name}. Adopt the file again instead of changing this one."
    layer = replace(found.reading.layer, bindings=with_commands(found.dialect, found.reading.layer.bindings))
    text, shipped = keymap_writing.dump(layer, note), resources.shipped
    try:
        again = keymap_reading.read(text, found.layer, shipped.catalogue(), shipped.facts(), "adopted")
    except InputError as error:
        raise InputError(
            f"the file cannot be adopted: {error.what}", "Nothing was written. Take what is meant out of the file.",
            Place(file), error.excerpt,
        ) from None  # fmt: skip
    if keymap_writing.entries_in(again) != keymap_writing.entries_in(found.reading.layer):
        raise InputError(
            "the file cannot be adopted: not all of it can be written", "Nothing was written.", Place(file)
        )
    return text


def _adoption(found: Read, written: Sequence[Path]) -> Adoption:
    lines = tuple(
        AdoptedLine(one.place, one.written, one.became, one.is_bound, one.is_kept, one.is_fault, one.other)
        for one in found.reading.account
    )
    return Adoption(
        found.dialect.name, Place(absolute(found.file)), found.layer, len(found.reading.layer.bindings),
        len(found.reading.layer.kept), lines, tuple(Place(absolute(path)) for path in written),
    )  # fmt: skip


# --- workspaces started


def on_this_machine(opener: Opener, resources: Resources) -> list[Read]:
    """The key files of known editors at their usual places, read; those that cannot be read are left out."""
    found = []
    for name in resources.dialects.names():
        for usual in resources.dialects.load(name).usual_places(this_platform()):
            path = user_path(usual, opener.folder)
            if not resources.files.is_file(path):
                continue
            try:
                found.append(read(path, name, "", opener, resources))
            except OmbixError:
                continue
            break  # the editor reads the first that is there
    return found


def choose(found: Sequence[Read], names: Sequence[str]) -> list[Read]:
    """Those that a user names, or `all`. Raises InputError for one that is not there."""
    if "all" in names:
        return list(found)
    by_name = {one.editor.name: one for one in found}
    for name in names:
        if name not in by_name:
            advice = did_you_mean(name, list(by_name)) or f"There are {', '.join(by_name) or 'none'}."
            raise InputError(f"there is no key file of {name} at its usual place", advice)
    return [by_name[name] for name in dict.fromkeys(names)]


def start(
    name: str, found: Sequence[Read], chosen: Sequence[Read], folder: Path, resources: Resources, writer: Writer,
    dry_run: bool,
) -> StartReport:  # fmt: skip
    """Start a workspace in a folder, with the files that were chosen as its layers, and with this machine's layout, where that is
    known. Raises InputError."""
    _check_name(name)
    layout = _layout_here(resources)
    keymap, path = f"{name}{SUFFIX}", folder / FILE_NAME

    def decide() -> Contents:
        texts = {path: _workspace_text(keymap, chosen, layout), folder / keymap: _KEYMAP.format(name=name)}
        texts |= {folder / one.layer: _layer_text(one, folder, resources) for one in chosen}
        for text in texts:
            if text.exists():
                raise InputError("this file is there already", "Nothing was changed.", Place(absolute(text)))
        if len(texts) < 2 + len(chosen):
            raise InputError(f"a layer would be called {name}, like the keymap", "Give the keymap another --name.")
        return texts

    written = writer.change("init", decide, dry_run)
    return StartReport(
        tuple(Place(absolute(one)) for one in written),
        tuple(
            FoundFile(
                one.editor.name, Place(absolute(one.file)), len(one.reading.layer.bindings),
                sum(1 for line in one.reading.account if line.is_fault),
            )
            for one in found
        ),
        tuple(one.editor.name for one in chosen), _next_steps(found, chosen), layout,
    )  # fmt: skip


def _layout_here(resources: Resources) -> MachineLayout | None:
    """This machine's keyboard layout, where it is one that ships."""
    found = system_layout(resources.files, os.environ)
    name = (
        f"{found.name}-{found.variant}"
        if found is not None and found.variant
        else found.name
        if found is not None
        else ""
    )
    if found is None or name not in resources.shipped.layout_names():
        return None
    return MachineLayout(name, resources.shipped.layout(name).title, found.source)


def _workspace_text(keymap: str, chosen: Sequence[Read], layout: MachineLayout | None) -> str:
    text = _WORKSPACE.format(keymap=keymap)
    if layout is not None:
        text += f'layout = "{layout.name}"  # this machine\'s\n'
    if not chosen:
        return text + _EDITOR_EXAMPLE
    changes: list[Change] = [AddLayer(one.layer) for one in chosen]
    changes += [AddEditor(one.editor.name, one.dialect.name, _with_home(one.file)) for one in chosen]
    return editing.apply(text, changes).text


def _with_home(path: Path) -> str:
    """A path with `~` for the home folder."""
    home = str(Path("~").expanduser())
    text = absolute(path)
    return f"~{text[len(home) :]}" if text.startswith(f"{home}/") else text


def _next_steps(found: Sequence[Read], chosen: Sequence[Read]) -> tuple[str, ...]:
    """Three steps that can be typed as they are."""
    if not chosen:
        first = f"adopt {_with_home(found[0].file)}" if found else "editors"
        return (first, "how save", "bind files.save Mod+S")
    bound = [binding for each in chosen for binding in each.reading.layer.bindings if isinstance(binding.outcome, Do)]
    keys = write(bound[0].trigger) if bound else "Ctrl+S"
    quoted = keys if keys.replace("+", "").isalnum() else f"'{keys}'"
    other = "joe" if chosen[0].dialect.name != "joe" else "micro"
    return (f"what {quoted}", "audit", f"port --to {other} --dry-run")
