"""`ombix macro`: lists macros and snippets, shows one, tries one on a text, and records one."""

from pathlib import Path
from typing import Annotated, Any

import typer

from ombix.console.asking import open_session
from ombix.console.environment import Status, environment_of
from ombix.console.key_recording import keys_at_terminal, keys_into
from ombix.console.options import (
    AnywayOption,
    AtOption,
    ConditionOption,
    DryRunOption,
    EditorOption,
    JsonOption,
    LayerOption,
    PlatformOption,
    TextFileOption,
    TextOption,
    ToOption,
    WorkspaceOption,
)
from ombix.core.errors import InputError
from ombix.work.tryout import tryout_questions
from ombix.work.tryout.macro_answer import (
    AdoptedSnippets,
    MacroList,
    MacroReport,
    MacroTrial,
    RecordReport,
    SnippetPort,
)
from ombix.work.tryout.macro_layout import (
    adopted_snippets,
    macro_list,
    macro_report,
    macro_trial,
    record_report,
    snippet_port,
)
from ombix.work.tryout.sample_text import text_asked

app = typer.Typer(
    help="Several steps, or a text with gaps, under one name: list them, look at one, try one on a text.",
    rich_markup_mode=None, add_completion=False, invoke_without_command=True,
)  # fmt: skip


def _macros(incomplete: str) -> list[tuple[str, str]]:
    from ombix.core.errors import OmbixError
    from ombix.workspace.open_workspace import OpenWorkspace

    try:
        found = tryout_questions.macros(OpenWorkspace())
    except OmbixError:
        return []
    return [(one.name, one.title) for one in found.found if one.name.startswith(incomplete)]


NameArgument = Annotated[
    str, typer.Argument(metavar="NAME", help="A macro or a snippet of the keymap.", autocompletion=_macros)
]


def results() -> tuple[Any, ...]:
    """What `--json` prints."""
    return (MacroList, MacroReport, MacroTrial, RecordReport, SnippetPort, AdoptedSnippets)


@app.callback()
def first(context: typer.Context) -> None:
    """Several steps, or a text with gaps, under one name: list them, look at one, try one on a text, record one."""
    if context.invoked_subcommand is None:
        raise typer.Exit(list_them(context))


@app.command("list")
def list_them(
    context: typer.Context, editor: EditorOption = "", on: PlatformOption = "", workspace: WorkspaceOption = None,
    json: JsonOption = False,
) -> Status:  # fmt: skip
    """All macros and snippets of the keymap, with what runs them."""
    environment = environment_of(context)
    found = tryout_questions.macros(open_session(environment, workspace), editor=editor, on=on)
    environment.answer(found, lambda display: macro_list(found, display), json)
    return Status.FINE


@app.command("show")
def show_one(
    context: typer.Context, name: NameArgument, editor: EditorOption = "", on: PlatformOption = "",
    workspace: WorkspaceOption = None, json: JsonOption = False,
) -> Status:  # fmt: skip
    """One macro or snippet in full: its steps and what its keys do here, or its text, gaps and variables."""
    environment = environment_of(context)
    found = tryout_questions.macro(open_session(environment, workspace), name, editor=editor, on=on)
    environment.answer(found, lambda display: macro_report(found, display), json)
    return Status.FOUND if found.circle else Status.FINE


@app.command("try")
def try_one(
    context: typer.Context,
    name: NameArgument,
    text: TextOption = None,
    text_file: TextFileOption = None,
    at: AtOption = "1:1",
    select: str = typer.Option("", "--select", metavar="LINE:COLUMN", help="Select from here to the cursor."),
    times: int = typer.Option(1, "--times", metavar="NUMBER", help="Run it so many times."),
    fill: list[str] | None = typer.Option(
        None, "--fill", metavar="GAP=TEXT", help="What goes into a gap of a snippet; repeatable."
    ),
    before: list[str] | None = typer.Option(
        None, "--before", metavar="TEXT", help="An example, with | for the cursor; repeatable."
    ),
    after: list[str] | None = typer.Option(None, "--after", metavar="TEXT", help="What --before is to become."),
    write: bool = typer.Option(False, "--write", help="Write the text behind it to --text-file."),
    condition: ConditionOption = "always",
    editor: EditorOption = "",
    on: PlatformOption = "",
    workspace: WorkspaceOption = None,
    json: JsonOption = False,
) -> Status:
    """Run it on a text and show each step; nothing is written without --write."""
    from ombix.work.tryout.macro_trial import TrialOptions
    from ombix.work.tryout.stage_session import place_on

    environment = environment_of(context)
    session = open_session(environment, workspace)
    if write and text_file is None:
        raise InputError("--write goes with --text-file", "Name the file with the text.")
    if len(before or ()) != len(after or ()):
        raise InputError("each --before goes with one --after", "Give both, in the same order.")
    file = str(text_file) if text_file is not None else ""
    place = place_on(
        text_asked(session, text, text_file), at, tryout_questions.state_of(session, file, condition), select, file
    )
    options = TrialOptions(times, tuple(fill or ()), tuple(zip(before or (), after or (), strict=True)))
    found = tryout_questions.try_macro(session, name, place, options, editor=editor, on=on, file=file if write else "")
    environment.answer(found, lambda display: macro_trial(found, display), json)
    return Status.FINE if found.is_as_expected else Status.FOUND


@app.command("record")
def record_one(
    context: typer.Context,
    name: Annotated[str, typer.Argument(metavar="NAME", help="What the macro is to be called.")],
    keys: list[str] = typer.Argument(
        None, metavar="[KEYS]", help="Keys one after the other; without them, those pressed at the terminal."
    ),
    keys_file: Path | None = typer.Option(None, "--keys-file", metavar="FILE", help="A file with keys."),
    inside: bool = typer.Option(
        False, "--inside", help="The words behind NAME are a program; record what is pressed in it."
    ),
    title: str = typer.Option("", "--title", metavar="TEXT", help="What people call it."),
    press: str = typer.Option("", "--press", metavar="KEYS", help="Keys that run it."),
    where: str = typer.Option("", "--where", metavar="CONDITION", help="Only under this condition."),
    editor: EditorOption = "",
    layer: LayerOption = "",
    anyway: AnywayOption = False,
    workspace: WorkspaceOption = None,
    dry_run: DryRunOption = False,
    json: JsonOption = False,
) -> Status:
    """Put what keys do into the keymap as a macro: actions, where keys do the same in every state."""
    from ombix.work.tryout.macro_recording import RecordOptions, keys_in
    from ombix.work.tryout.stage_session import TEXT, StagePlace
    from ombix.workspace.edit_options import EditOptions

    environment = environment_of(context)
    session = open_session(environment, workspace)
    if keys_file is not None and (keys or inside):
        raise InputError("there are two places for keys", "Give keys, --keys-file or --inside.")
    if keys_file is not None:
        found = keys_in(session.read(str(keys_file)))
    elif keys and not inside:
        found = keys_in(" ".join(keys))
    else:
        data = keys_into(keys or [], environment) if inside else keys_at_terminal(environment)
        found, lost = tryout_questions.keys_of(session, data, editor)
        if lost:
            environment.say(f"{lost} bytes stand for no key, and were left out.")
    wanted = RecordOptions(name, title, press, where)
    report = tryout_questions.record(
        session, found, StagePlace(TEXT, 0, "always"), wanted, EditOptions(layer, dry_run, anyway), editor=editor
    )
    environment.answer(report, lambda display: record_report(report, display, dry_run), json)
    return Status.FOUND if report.change.refused else Status.FINE


@app.command("port")
def port_snippets(
    context: typer.Context,
    to: ToOption = "",
    output: Path | None = typer.Option(None, "--output", metavar="FILE", help="Write to this file instead of ported/."),
    workspace: WorkspaceOption = None,
    dry_run: DryRunOption = False,
    json: JsonOption = False,
) -> Status:
    """Write the snippets into a file of an editor's own form, with an account of each."""
    environment = environment_of(context)
    session = open_session(environment, workspace)
    found = tryout_questions.port_snippets(
        session, session.editor_meant(to), output=str(output) if output is not None else "", dry_run=dry_run
    )
    environment.answer(found, lambda display: snippet_port(found, display, dry_run), json)
    return Status.FOUND if found.counts["lost"] else Status.FINE


@app.command("adopt")
def adopt_snippets(
    context: typer.Context,
    file: Annotated[str, typer.Argument(metavar="FILE", help="An editor's own file of snippets.")],
    editor: EditorOption = "",
    layer: LayerOption = "",
    workspace: WorkspaceOption = None,
    dry_run: DryRunOption = False,
    json: JsonOption = False,
) -> Status:
    """Take the snippets of an editor's own file into the keymap."""
    from ombix.workspace.edit_options import EditOptions

    environment = environment_of(context)
    if not editor:
        raise InputError("whose file is it?", "Say --editor NAME.")
    found = tryout_questions.adopt_snippets(
        open_session(environment, workspace), file, editor, EditOptions(layer, dry_run)
    )
    environment.answer(found, lambda display: adopted_snippets(found, display, dry_run), json)
    return Status.FOUND if found.left else Status.FINE
