"""`ombix adopt FILE --editor NAME`: reads an editor's own file into the workspace as a layer."""

from pathlib import Path

import typer

from ombix.cli.common import dialect_of, find_setting
from ombix.cli.environment import Environment, Status, environment_of, shown_path
from ombix.cli.options import DryRunOption, EditorOption, JsonOption, WorkspaceOption
from ombix.core.errors import InputError
from ombix.dialects.reading import Line, Reading
from ombix.report.plain import Cell, table
from ombix.store import editing, keymaps
from ombix.store.files import Journal, locked, read_text


def run(
    context: typer.Context,
    file: Path = typer.Argument(metavar="FILE", help="The editor's key-binding file."),
    editor: EditorOption = "",
    name: str = typer.Option("", "--name", metavar="NAME", help="The name of the layer; without it, the editor's."),
    workspace: WorkspaceOption = None,
    everything: bool = typer.Option(False, "--all", help="Show every line, not only those that need a look."),
    dry_run: DryRunOption = False,
    json: JsonOption = False,
) -> Status:
    """Read an editor's own file into the workspace as a layer."""
    environment = environment_of(context)
    if not editor:
        raise InputError("which editor is the file for?", "Say --editor NAME; see: ombix editors")
    setting = find_setting(environment, workspace, "", editor)
    assert setting.workspace is not None
    assert setting.editor is not None
    described = dialect_of(setting.editor)
    path = environment.folder / file
    shown = shown_path(path, environment)
    encodings = described.description.file.encodings

    def opened(named: str, by: str) -> tuple[str, str]:
        inner = (environment.folder / by).parent / Path(named).expanduser()
        return shown_path(inner, environment), read_text(inner, encodings)

    reading = described.read(read_text(path, encodings), shown, name or editor, opened)
    layer_name = f"{name or editor}{keymaps.SUFFIX}"
    layer_path = setting.workspace.folder / layer_name
    if layer_path.resolve() == setting.workspace.keymap_path.resolve():
        raise InputError(f"the layer would overwrite the keymap {layer_name}", "Give it another --name.")
    note = f"Adopted from {shown} of {described.name}. Adopt the file again instead of changing this one."
    texts = {layer_path: keymaps.dump(reading.layer, note)}
    if layer_name not in setting.workspace.layers:
        texts[setting.workspace.path] = editing.add_layer(setting.workspace.path, layer_name)
    if not dry_run:
        with locked(setting.workspace.path, environment.state_folder):
            Journal(environment.state_folder).write_all(f"adopt {shown}", texts)
    if json:
        environment.json(_document(reading, described.name, layer_name))
    else:
        _print(environment, reading, everything)
        verb = "would write" if dry_run else "wrote"
        environment.out(f"{verb} {' and '.join(shown_path(path, environment) for path in texts)}")
    return Status.FOUND if any(line.is_fault for line in reading.account) else Status.FINE


def _at(line: Line, reading: Reading) -> str:
    """The line, with its file where that is another one that was read in its place."""
    is_first = line.place.file == reading.account[0].place.file
    return str(line.place.line) if is_first else f"{line.place.file}:{line.place.line}"


def _print(environment: Environment, reading: Reading, everything: bool) -> None:
    bound = sum(1 for line in reading.account if not line.is_kept and "→" in line.became)
    kept = sum(1 for line in reading.account if line.is_kept)
    replaced = len(reading.account) - bound - kept
    environment.out(
        f"{len(reading.account)} statements: {bound} bindings, {replaced} replaced or without effect, "
        f"{kept} kept as they are"
    )
    lines = [line for line in reading.account if everything or line.is_kept or "→" not in line.became]
    rows: list[list[Cell | str]] = [
        [Cell(_at(line, reading), "quiet"), line.written, Cell(line.became, "warn" if line.is_fault else "")]
        for line in lines
    ]
    environment.out(*table(rows, environment.paper, ("line", "written", "became"), 2))


def _document(reading: Reading, editor: str, layer: str) -> dict[str, object]:
    return {
        "editor": editor,
        "layer": layer,
        "bindings": len(reading.layer.bindings),
        "kept": len(reading.layer.kept),
        "lines": [
            {"file": line.place.file, "line": line.place.line, "column": line.place.column, "written": line.written,
             "became": line.became,
             "kept": line.is_kept, "fault": line.is_fault}
            for line in reading.account
        ],
    }  # fmt: skip
