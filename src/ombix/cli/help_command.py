"""`ombix help [COMMAND]`: all commands by the kind of work, or the help of one."""

from typing import Annotated

import typer

from ombix.console.command_files import command_modules
from ombix.console.environment import Status, environment_of
from ombix.report.blocks import Blank, Block, Cell, Grid, Title, line

CommandArgument = Annotated[
    list[str] | None,
    typer.Argument(metavar="[COMMAND]", help="A command.", autocompletion=lambda: list(command_modules())),
]


def run(context: typer.Context, command: CommandArgument = None) -> Status:
    """All commands by the kind of work, or the help of one."""
    from ombix.cli.program import call, commands_by_group

    environment = environment_of(context)
    if command:
        return call([*command, "--help"], environment)
    blocks: list[Block] = []
    for title, rows in commands_by_group().items():
        blocks += [Title(title), Grid([(Cell(name, "key"), sentence) for name, sentence in rows], indent=2), Blank()]
    blocks.append(line("One of them: ", Cell("ombix help COMMAND", "key")))
    environment.show(blocks)
    return Status.FINE
