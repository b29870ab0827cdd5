"""The program: finds the command, runs it, and turns what goes wrong into a message and an exit status."""

import sys
from collections.abc import Sequence
from pathlib import Path
from typing import Any

import typer
import typer.core
import typer.main

from ombix.cli.environment import Environment, Status, from_process
from ombix.core.errors import OmbixError

_COMMANDS = Path(__file__).parent / "commands"

ORDER = (
    "demo",
    "init",
    "editors",
    "adopt",
    "show",
    "how",
    "what",
    "bind",
    "unbind",
    "fold",
    "audit",
    "port",
    "prove",
    "press",
    "undo",
)
"""The commands in the order of the work; one that is not named comes last."""


class _Commands(typer.core.TyperGroup):
    """Commands that are imported when they are called: one file a command, and nothing else to register."""

    def list_commands(self, ctx: Any) -> list[str]:
        names = [path.stem for path in _COMMANDS.glob("*.py") if not path.stem.startswith("_")]
        return sorted(names, key=lambda name: (ORDER.index(name) if name in ORDER else len(ORDER), name))

    def get_command(self, ctx: Any, cmd_name: str) -> Any:
        if not cmd_name.isidentifier() or not (_COMMANDS / f"{cmd_name}.py").is_file():
            return None
        import importlib

        module = importlib.import_module(f"ombix.cli.commands.{cmd_name}")
        single = typer.Typer(add_completion=False, rich_markup_mode=None)
        single.command(cmd_name, help=module.run.__doc__, no_args_is_help=False)(module.run)
        return typer.main.get_command(single)


app = typer.Typer(cls=_Commands, rich_markup_mode=None, no_args_is_help=True, add_completion=True)


def _version(value: bool) -> None:
    if value:
        from ombix import __version__

        typer.echo(f"ombix {__version__}")
        raise typer.Exit


@app.callback()
def _top(
    version: bool = typer.Option(False, "--version", callback=_version, is_eager=True, help="Print the version."),
) -> None:
    """Define, audit and port keyboard bindings across editors, with evidence."""


def run(arguments: Sequence[str], environment: Environment) -> Status:
    """Run one command line in an environment and return its exit status; never raises for what a user can type."""
    command = typer.main.get_command(app)
    try:
        result = command.main(list(arguments), prog_name="ombix", standalone_mode=False, obj=environment)
    except OmbixError as error:
        environment.show_error(error)
        return Status(error.status)
    except BrokenPipeError:
        return Status.FINE
    except KeyboardInterrupt:
        environment.message("stopped")
        return Status.OUTSIDE
    except RecursionError:
        environment.message("error: the input is nested too deeply")
        return Status.WRONG
    except OSError as error:
        environment.message(f"error: {error.strerror or error}" + (f": {error.filename}" if error.filename else ""))
        return Status.OUTSIDE
    except Exception as error:
        if not hasattr(error, "format_message") and type(error).__name__ not in ("Abort", "Exit"):
            raise
        return _call_error(error, environment)
    if isinstance(result, Status):
        return result
    return Status(result) if isinstance(result, int) and result in (0, 1, 2, 3) else Status.FINE


def main() -> None:
    """The entry point."""
    environment = from_process()
    status = run(sys.argv[1:], environment)
    try:
        sys.stdout.flush()
    except BrokenPipeError:
        import os

        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
    sys.exit(int(status))


def _call_error(error: Any, environment: Environment) -> Status:
    """A call that is wrong: the parser's message, and the nearest command where its name is misspelt."""
    if type(error).__name__ == "Exit":
        return Status(error.exit_code) if error.exit_code in (0, 1, 2, 3) else Status.WRONG
    if type(error).__name__ == "Abort":
        environment.message("stopped")
        return Status.OUTSIDE
    context = getattr(error, "ctx", None)
    if type(error).__name__ == "NoArgsIsHelpError" and context is not None:
        environment.message(context.get_help())
        return Status.WRONG
    text = error.format_message().rstrip(".")
    advice = ""
    if text.startswith("No such command"):
        from ombix.core.errors import did_you_mean

        name = text.split("'")[1] if "'" in text else text.split('"')[1]
        text = f"there is no command {name}"
        known = _Commands(name="ombix").list_commands(None)
        advice = did_you_mean(name, known) or f"Commands are {', '.join(known)}."
    elif context is not None:
        advice = f"See: {context.command_path} --help"
    text = text[:1].lower() + text[1:]
    from ombix.core.errors import InputError

    environment.show_error(InputError(text, advice))
    return Status.WRONG
