"""`ombix schema`: the JSON Schema of what a command prints with --json."""

import importlib
import json
from typing import Annotated, Any

import typer

from ombix.console.command_files import called, command_modules
from ombix.console.environment import Status, environment_of
from ombix.core.errors import InputError, did_you_mean
from ombix.report.blocks import Cell, Grid
from ombix.report.json import schema_of_any


def results() -> dict[str, tuple[Any, ...]]:
    """Command to the kinds of results that it prints with --json."""
    found = {name: results_of(name) for name in sorted(command_modules())}
    return {name: kinds for name, kinds in found.items() if kinds}


def results_of(command: str) -> tuple[Any, ...]:
    """The kinds of results that a command prints with --json; none where it has none, or there is no such command."""
    known = command_modules()
    if command == "schema" or command not in known:
        return ()
    module = importlib.import_module(known[command])
    return tuple(module.results()) if hasattr(module, "results") else ()


def _commands(incomplete: str) -> list[str]:
    return [name for name in results() if name.startswith(incomplete)]


CommandArgument = Annotated[
    list[str] | None, typer.Argument(metavar="[COMMAND]", help="A command that has --json.", autocompletion=_commands)
]


def run(
    context: typer.Context,
    words: CommandArgument = None,
    file: str = typer.Option(
        "", "--file", metavar="KIND", help="Of a file: keymap, workspace, description, commands, defaults, use."
    ),
) -> Status:
    """The JSON Schema of what a command prints with --json, or of one of Ombix's own files."""
    environment = environment_of(context)
    command, count = called(words) if words else ("", 0)
    command = " ".join([command, *(words or ())[count:]])  # words that name no part are no command's
    if file:
        environment.results.write([json.dumps(_of_file(file), ensure_ascii=False, indent=2)])
        return Status.FINE
    if command and (kinds := results_of(command)):
        environment.results.write([json.dumps(schema_of_any(kinds), ensure_ascii=False, indent=2)])
        return Status.FINE
    known = results()
    if not command:
        rows = [
            (Cell(name, "strong"), ", ".join(_name(kind) for kind in kinds)) for name, kinds in sorted(known.items())
        ]
        environment.show([Grid(rows, ("command", "prints one of"))])
        return Status.FINE
    names = sorted(known)
    raise InputError(
        f"there is no command {command} with --json", did_you_mean(command, names) or f"There are {', '.join(names)}."
    )


def _of_file(name: str) -> Any:
    """The schema of a kind of file. Raises InputError with the nearest names."""
    from ombix.data.shipped import Shipped
    from ombix.work.describe import file_schemas
    from ombix.work.describe.schema_layout import keymap_schema, workspace_schema

    if name not in file_schemas.FILES:
        known = f"There are {', '.join(file_schemas.FILES)}."
        raise InputError(f"there is no schema of {name}", did_you_mean(name, file_schemas.FILES) or known)
    if name == "keymap":
        return keymap_schema(file_schemas.names_of_actions(Shipped()))
    if name == "workspace":
        return workspace_schema(file_schemas.known_names(Shipped()))
    return file_schemas.description_schema(name)


def _name(kind: Any) -> str:
    return (
        str(getattr(kind, "__name__", kind))
        if not getattr(kind, "__args__", ())
        else f"a list of {kind.__args__[0].__name__}"
    )
