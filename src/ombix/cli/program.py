"""The commands of the rooms, and how they are called: parsed by Typer, listed in the order of the work."""

from collections.abc import Sequence
from typing import Any

import typer
import typer.core
import typer.main

from ombix.console.command_files import called, command_modules
from ombix.console.environment import Environment, Status, environment_of

FIRST = (
    "demo", "init", "what", "how", "show", "free", "bind", "move", "undo", "audit", "settle", "port", "prove", "apply", "use",
    "sheet",
)  # fmt: skip
"""What the first help shows, in the order of the work; the others stand in their groups behind `ombix help`."""
GROUPS = {
    "cli": "Begin", "look": "Look at keys", "audit": "Find what is wrong", "change": "Change keys", "mend": "Mend what is wrong",
    "carry": "Carry keys between editors", "versions": "In version control", "tryout": "Try keys and macros",
    "usage": "See what is used", "learn": "Print and learn", "draw": "Draw keys", "describe": "Describe editors",
    "language": "While you write",
}  # fmt: skip
"""The groups, by the room or the folder that a command stands in."""


class _Commands(typer.core.TyperGroup):
    """Commands that are imported when they are called; where each stands is all that is to be known of it."""

    def list_commands(self, ctx: Any) -> list[str]:
        return [*FIRST, *sorted(name for name in command_modules() if name not in FIRST)]

    def get_command(self, ctx: Any, cmd_name: str) -> Any:
        found = command_modules().get(cmd_name)
        if found is None:
            return None
        import importlib

        module = importlib.import_module(found)
        if hasattr(module, "app"):  # several commands under one name
            group = typer.main.get_command(module.app)
            group.name = cmd_name
            return group
        single = typer.Typer(add_completion=False, rich_markup_mode=None)
        single.command(cmd_name, help=module.run.__doc__, no_args_is_help=False, epilog=_parts_of(cmd_name))(module.run)
        return typer.main.get_command(single)

    def resolve_command(self, ctx: Any, args: list[str]) -> Any:
        """A command, or a part of one, whose two words come first."""
        name, count = called(args)
        return super().resolve_command(ctx, [name, *args[count:]])

    def format_commands(self, ctx: Any, formatter: Any) -> None:
        with formatter.section("Commands"):
            formatter.write_dl([(name, sentence_of(self.get_command(ctx, name))) for name in FIRST])
        formatter.write_paragraph()
        formatter.write_text("All commands, by the kind of work: ombix help")


def commands_by_group() -> dict[str, list[tuple[str, str]]]:
    """All commands and their parts by group, each with its sentence."""
    from ombix import ROOMS

    group, modules = _Commands(name="ombix"), command_modules()
    found: dict[str, list[tuple[str, str]]] = {title: [] for title in GROUPS.values()}
    order = ["cli", *ROOMS, "language"]
    for name in group.list_commands(None):
        folder = modules[name].split(".")[-2]
        found[GROUPS[folder]].append((name, sentence_of(group.get_command(None, name))))
    return {GROUPS[folder]: sorted(found[GROUPS[folder]], key=_place) for folder in order if found[GROUPS[folder]]}


def _place(row: tuple[str, str]) -> tuple[int, str]:
    """Where a command stands in its group: those of the first help first, in its order; a part behind its command."""
    first = row[0].partition(" ")[0]
    return (FIRST.index(first) if first in FIRST else len(FIRST)), row[0]


def sentence_of(command: Any) -> str:
    """What a command does, in its first sentence."""
    return str(command.help or "").strip().split("\n")[0]


def _parts_of(command: str) -> str | None:
    parts = [name for name in command_modules() if name.startswith(f"{command} ")]
    return f"Its parts, each with its own help: {', '.join(f'ombix {part}' for part in parts)}." if parts else None


_STATUSES = (
    "Exit status: 0 fine; 1 findings, differences or losses; 2 the call or the input is wrong; 3 something outside failed; "
    "4 a fault in Ombix; 129, 130 and 143 stopped."
)
app = typer.Typer(
    cls=_Commands,
    rich_markup_mode=None,
    invoke_without_command=True,
    add_completion=True,
    epilog=_STATUSES,
    context_settings={"help_option_names": ["--help", "-h"]},
)


def _version(value: bool) -> None:
    if value:
        from ombix.version import __version__

        typer.echo(f"ombix {__version__}")
        raise typer.Exit


@app.callback()
def _top(
    context: typer.Context,
    version: bool = typer.Option(False, "--version", callback=_version, is_eager=True, help="Print the version."),
) -> None:
    """Define, audit and port keyboard bindings across editors, with evidence."""
    if context.invoked_subcommand is None:
        from ombix.cli.welcome import welcome

        welcome(environment_of(context))


def call(arguments: Sequence[str], environment: Environment) -> Status:
    """Run one command line in an environment. Raises what the command raises, but nothing for a call that is wrong."""
    command = typer.main.get_command(app)
    try:
        result = command.main(list(arguments), prog_name="ombix", standalone_mode=False, obj=environment)
    except Exception as error:
        if not hasattr(error, "format_message") and type(error).__name__ not in ("Abort", "Exit"):
            raise
        return _call_error(error, environment)
    if result == Status.INTERRUPTED:  # the parser has caught what the user pressed
        environment.say("stopped")
    return Status(result) if isinstance(result, int) and result in set(Status) else Status.FINE


def _call_error(error: Any, environment: Environment) -> Status:
    """A call that is wrong: the parser's message, and the nearest command where its name is misspelt."""
    if type(error).__name__ == "Exit":
        return Status(error.exit_code) if error.exit_code in set(Status) else Status.WRONG
    if type(error).__name__ == "Abort":
        environment.say("stopped")
        return Status.INTERRUPTED
    context = getattr(error, "ctx", None)
    text = error.format_message().rstrip(".")
    advice = ""
    if text.startswith("No such command"):
        from ombix.core.errors import did_you_mean

        name = text.split("'")[1] if "'" in text else text.split('"')[1]
        text = f"there is no command {name}"
        known = _Commands(name="ombix").list_commands(None)
        advice = did_you_mean(name, known) or "See all of them: ombix help"
    elif context is not None:
        advice = f"See: {context.command_path} --help"
    text = text[:1].lower() + text[1:]
    from ombix.core.errors import InputError

    environment.show_error(InputError(text, advice))
    return Status.WRONG
