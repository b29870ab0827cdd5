"""Keymaps of several platforms put into one file."""

from collections.abc import Mapping
from pathlib import Path

from msgspec.structs import replace

from ombix.core.errors import InputError, Place
from ombix.core.keymap.bindings import Layer
from ombix.core.keymap.folding import fold_layers
from ombix.core.keys.notation import write
from ombix.files import keymap_reading, keymap_writing
from ombix.files.disk import absolute
from ombix.files.writer import Writer
from ombix.work.change.fold_answer import FoldedBinding, FoldReport
from ombix.workspace.resources import Resources


def fold(files: Mapping[str, Path], output: Path, resources: Resources, writer: Writer, dry_run: bool) -> FoldReport:
    """Put the keymaps of several platforms, by its name, into one file. Raises InputError."""
    if len(files) < 2:
        raise InputError("there is nothing to fold", "Name the keymaps of two platforms or more: linux=FILE mac=FILE.")
    name = output.name.removesuffix(keymap_reading.SUFFIX).removesuffix(".toml")
    layer = _folded(files, name, resources)
    text = keymap_writing.dump(layer)
    writer.change(f"fold {output.name}", lambda: {output: text}, dry_run)
    limited = {
        (binding.outcome, binding.where, binding.why)
        for binding in layer.bindings
        if 0 < len(binding.platforms) < len(files)
    }
    return FoldReport(
        Place(absolute(output)), len({(binding.outcome, binding.where, binding.why) for binding in layer.bindings}), len(limited),
        tuple(
            FoldedBinding(
                str(binding.outcome), write(binding.trigger), binding.where,
                tuple(sorted(binding.platforms)) if len(binding.platforms) < len(files) else (),
            )
            for binding in layer.bindings
        ),
    )  # fmt: skip


def _folded(files: Mapping[str, Path], name: str, resources: Resources) -> Layer:
    shipped = resources.shipped
    layers: dict[str, Layer] = {}
    for platform, file in files.items():
        found = keymap_reading.load(file, shipped.catalogue(), shipped.facts(), resources.files)
        if len(found) > 1:
            raise InputError(f"{file.name} extends other keymaps", "Fold those first, and extend the result.")
        layers[platform] = found[0]
    try:
        layer = fold_layers(layers, [shipped.platform(file) for file in files], name)
    except ValueError as error:
        raise InputError(f"the keymaps cannot be folded: {error}", "Make the files alike there.") from None
    if len(files) < len(shipped.platform_names()):
        layer.bindings = [
            binding if binding.platforms else replace(binding, platforms=frozenset(files)) for binding in layer.bindings
        ]
    return layer
