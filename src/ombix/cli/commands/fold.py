"""`ombix fold FILE`: keymaps of three platforms, folded into one portable definition."""

from pathlib import Path

import typer

from ombix.cli.environment import Environment, Status, environment_of, shown_path
from ombix.cli.options import DryRunOption, JsonOption
from ombix.core.errors import InputError
from ombix.core.folding import fold_layers
from ombix.core.keymap import Layer
from ombix.core.keys import write
from ombix.core.platforms import Platform
from ombix.data import shipped
from ombix.report.plain import Cell, table
from ombix.store import keymaps
from ombix.store.files import Journal, locked


def run(
    context: typer.Context,
    output: Path = typer.Argument(metavar="FILE", help="The keymap file to write."),
    linux: Path | None = typer.Option(None, "--linux", metavar="FILE", help="The keymap on Linux."),
    mac: Path | None = typer.Option(None, "--mac", metavar="FILE", help="The keymap on a Mac."),
    windows: Path | None = typer.Option(None, "--windows", metavar="FILE", help="The keymap on Windows."),
    dry_run: DryRunOption = False,
    json: JsonOption = False,
) -> Status:
    """Fold the keymaps of several platforms into one, with as few exceptions as can be."""
    environment = environment_of(context)
    files = {name: file for name, file in (("linux", linux), ("mac", mac), ("windows", windows)) if file is not None}
    if len(files) < 2:
        raise InputError(
            "there is nothing to fold", "Name the keymaps of two or three platforms: --linux FILE --mac FILE."
        )
    path = environment.folder / output
    name = path.name.removesuffix(keymaps.SUFFIX).removesuffix(".toml")
    platforms = [shipped.platform(one) for one in files]
    layer = _folded({one: environment.folder / file for one, file in files.items()}, platforms, name)
    if len(files) < 3:
        layer.bindings = [one if one.platforms else one._replace(platforms=frozenset(files)) for one in layer.bindings]
    text = keymaps.dump(layer)
    if not dry_run:
        with locked(path, environment.state_folder):
            Journal(environment.state_folder).write_all(f"fold {output}", {path: text})
    if json:
        environment.json(_document(layer, path))
    else:
        _print(environment, layer, platforms)
        environment.out(f"{'would write' if dry_run else 'wrote'} {shown_path(path, environment)}")
    return Status.FINE


def _folded(files: dict[str, Path], platforms: list[Platform], name: str) -> Layer:
    catalogue, facts = shipped.catalogue(), shipped.facts()
    layers: dict[str, Layer] = {}
    for platform, file in files.items():
        read = keymaps.load(file, catalogue, facts)
        if len(read) > 1:
            raise InputError(f"{file.name} extends other keymaps", "Fold those first, and extend the result.")
        layers[platform] = read[0]
    try:
        return fold_layers(layers, platforms, name)
    except ValueError as error:
        raise InputError(f"the keymaps cannot be folded: {error}", "Make the files alike there.") from None


def _print(environment: Environment, layer: Layer, platforms: list[Platform]) -> None:
    limited = [binding for binding in layer.bindings if 0 < len(binding.platforms) < len(platforms)]
    definitions = len({(binding.outcome, binding.where, binding.why) for binding in layer.bindings})
    with_exceptions = len({(binding.outcome, binding.where, binding.why) for binding in limited})
    environment.out(f"{definitions} definitions, {with_exceptions} of them with an exception.")
    rows: list[list[Cell | str]] = [
        [str(binding.outcome), Cell(write(binding.trigger), "key"), " and ".join(sorted(binding.platforms))]
        for binding in limited
    ]
    environment.out(*table(rows, environment.paper, ("action", "keys", "on"), 2))


def _document(layer: Layer, path: Path) -> dict[str, object]:
    return {
        "file": str(path),
        "bindings": [
            {"does": str(one.outcome), "keys": write(one.trigger), "when": one.where, "on": sorted(one.platforms)}
            for one in layer.bindings
        ],
    }
