"""The port that `port` writes and `prove` presses."""

from dataclasses import dataclass
from pathlib import Path
from typing import Annotated

import typer

from ombix.cli.common import Stand, choose_editor, dialect_of, find_setting, stand, terminal_of
from ombix.cli.environment import Environment
from ombix.cli.options import complete_editors
from ombix.core.conditions import Space
from ombix.core.deciding import Policy
from ombix.core.errors import InputError
from ombix.core.keymap import Keymap
from ombix.core.terminals import Terminal
from ombix.data import shipped
from ombix.dialects.engine import Dialect
from ombix.dialects.porting import PortedFile, port_keymap

ToOption = Annotated[
    str, typer.Option("--to", metavar="NAME", help="The editor to write for.", autocompletion=complete_editors)
]
ToManyOption = Annotated[
    list[str] | None,
    typer.Option("--to", metavar="NAME", help="An editor to write for; may be given again; without it, all of the workspace.",
                 autocompletion=complete_editors),
]  # fmt: skip
RehomeOption = Annotated[
    bool, typer.Option("--rehome", help="Give the target's defaults that lose their only keys free ones near the old.")
]
FromOption = Annotated[
    str, typer.Option("--from", metavar="NAME", help="An editor's default keys instead of the workspace's keymap.",
                      autocompletion=complete_editors),
]  # fmt: skip


@dataclass(frozen=True, slots=True)
class Work:
    """A port that was made: what it came from, for which editor, and where its files go."""

    file: PortedFile
    target: Dialect
    terminal: Terminal
    source_name: str
    here: Stand
    folder: Path


def ported(
    environment: Environment, workspace: Path | None, on: str, to: str, source: str, rehome: bool = False
) -> Work:
    """Port the workspace's keymap, or the defaults of the editor `source`, to the editor `to`. Raises OmbixError."""
    setting = find_setting(environment, workspace, on, to, needs_workspace=not source)
    assert setting.editor is not None
    target = dialect_of(setting.editor)
    terminal = terminal_of(setting, target)
    folder = setting.workspace.folder if setting.workspace else environment.folder
    catalogue, facts = shipped.catalogue(), shipped.facts()
    if source:
        origin = dialect_of(choose_editor(setting.workspace, source))
        if origin.name == target.name:
            raise InputError(f"{source} and {to} are the same editor", "Choose another one.")
        keymap = Keymap([origin.default_layer])
        # What an editor excludes holds in that editor only: the states of both are looked at.
        space = Space(facts.extended([*origin.facts, *target.facts], []))
        here, name = Stand(setting, keymap, catalogue, space, origin.policy, []), f"{source}'s defaults"
    else:
        plain = stand(environment, workspace, on or setting.platform.name, "")
        keymap = plain.keymap
        space = keymap.space(facts.extended(target.facts, []))
        here = Stand(setting, keymap, catalogue, space, Policy(), plain.files)
        origin, name = None, keymap.layers[-1].name
    file = port_keymap(
        here.bindings,
        origin,
        here.keymap,
        target,
        setting.platform,
        terminal,
        here.space,
        here.catalogue,
        rehome,
    )
    return Work(file, target, terminal, name, here, folder)
