"""`ombix serve`: a language server for keymap, workspace and description files."""

import typer

from ombix.console.environment import Status
from ombix.core.errors import OutsideError


def run(
    stdio: bool = typer.Option(True, "--stdio", help="Speak on standard input and output, as editors start it."),
) -> Status:
    """A language server: what is wrong while one types, and what could stand there."""
    try:
        from ombix.language.server import make_server
    except ModuleNotFoundError as error:
        raise OutsideError(f"{error.name} is not installed", "Install it with: pip install 'ombix[serve]'") from None
    make_server().start_io()
    return Status.FINE
