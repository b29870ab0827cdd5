"""The commands of the rooms, and how they are called: parsed by Typer, listed in the order of the work."""

from collections.abc import Sequence
from typing import Any

import typer
import typer.core
import typer.main

from ombix.console.command_files import command_modules
from ombix.console.environment import Environment, Status, environment_of

GROUPS: dict[str, tuple[str, ...]] = {
    "See the whole job first": ("demo",),
    "Look at keys": ("what", "how", "show", "free", "effort"),
    "See what deserves keys": ("watch", "use", "savings", "suggest"),
    "Print and learn": ("sheet", "picture", "page", "practice"),
    "Begin a workspace": ("init", "adopt", "editors", "describe", "layouts", "packages"),
    "Change keys": ("bind", "unbind", "move", "narrow", "fold", "history", "undo"),
    "Put several steps or a text on keys": ("macro",),
    "Find what is wrong, and mend it": ("audit", "settle"),
    "Carry keys over": ("port", "compare", "prove", "apply", "status", "trust", "press"),
    "In version control": ("changes", "blame", "merge", "git"),
    "For programs": ("serve", "schema"),
}
"""The commands in the order of the work; one that is not named comes last."""
_OTHERS = "More"


class _Commands(typer.core.TyperGroup):
    """Commands that are imported when they are called: one file a command, and nothing else to register."""

    def list_commands(self, ctx: Any) -> list[str]:
        found = command_modules()
        order = [name for names in GROUPS.values() for name in names]
        return sorted(found, key=lambda name: (order.index(name) if name in order else len(order), name))

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
        single.command(cmd_name, help=module.run.__doc__, no_args_is_help=False)(module.run)
        return typer.main.get_command(single)

    def format_commands(self, ctx: Any, formatter: Any) -> None:
        groups: dict[str, list[tuple[str, str]]] = {title: [] for title in (*GROUPS, _OTHERS)}
        titles = {name: title for title, names in GROUPS.items() for name in names}
        for name in self.list_commands(ctx):
            command = self.get_command(ctx, name)
            sentence = (command.help or "").strip().split("\n")[0]
            groups[titles.get(name, _OTHERS)].append((name, sentence))
        for title, rows in groups.items():
            if rows:
                with formatter.section(title):
                    formatter.write_dl(rows)


_STATUSES = (
    "Exit status: 0 fine; 1 findings, differences or losses; 2 the call or the input is wrong; 3 something outside failed; "
    "4 a fault in Ombix; 129, 130 and 143 stopped."
)
app = typer.Typer(
    cls=_Commands, rich_markup_mode=None, invoke_without_command=True, add_completion=True, epilog=_STATUSES
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
        advice = did_you_mean(name, known) or f"Commands are {', '.join(known)}."
    elif context is not None:
        advice = f"See: {context.command_path} --help"
    text = text[:1].lower() + text[1:]
    from ombix.core.errors import InputError

    environment.show_error(InputError(text, advice))
    return Status.WRONG
