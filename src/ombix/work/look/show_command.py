"""`ombix show`: the bindings in force, by kind of work, by key or by layer."""

from typing import Any

import typer

from ombix.console.asking import editor_asked, open_session
from ombix.console.environment import Environment, Status, environment_of
from ombix.console.options import (
    ConditionOption,
    EditorOption,
    FileOption,
    JsonOption,
    LayoutOption,
    PlatformOption,
    ReportOption,
    WorkspaceOption,
)
from ombix.console.page_files import write_page
from ombix.core.errors import InputError
from ombix.work.look import look_questions, show_layout
from ombix.work.look.show_answer import EditorListing, Listing, PlatformListing, UnboundActions
from ombix.workspace.open_workspace import OpenWorkspace


def results() -> tuple[Any, ...]:
    """What `--json` prints."""
    return (Listing, PlatformListing, EditorListing, UnboundActions)


def run(
    context: typer.Context,
    by: str = typer.Option("work", "--by", metavar="ORDER", help="work, key or layer."),
    own: bool = typer.Option(False, "--own", help="Only the keymap's own bindings, no editor's defaults."),
    unbound: bool = typer.Option(False, "--unbound", help="The actions that have no keys."),
    platforms: bool = typer.Option(False, "--platforms", help="The keys on all platforms side by side."),
    differing: bool = typer.Option(False, "--differing", help="With --platforms: only what differs."),
    compared: bool = typer.Option(
        False, "--compare-editors", help="The keymap and each editor of the workspace side by side."
    ),
    editor: EditorOption = "",
    file: FileOption = None,
    on: PlatformOption = "",
    layout: LayoutOption = "",
    condition: ConditionOption = "",
    workspace: WorkspaceOption = None,
    report: ReportOption = None,
    json: JsonOption = False,
) -> Status:
    """The bindings in force, by kind of work, by key or by layer."""
    environment = environment_of(context)
    if differing and not platforms:
        raise InputError("--differing goes with --platforms", "Say ombix show --platforms --differing.")
    if condition and (platforms or unbound or compared):
        raise InputError(
            "--in goes with none of --platforms, --compare-editors and --unbound", "Leave one of them out."
        )
    if platforms + unbound + compared > 1:
        raise InputError("--platforms, --compare-editors and --unbound are three lists", "Ask for one of them.")
    session = open_session(environment, workspace, file, editor)
    named = editor_asked(file, editor)
    if platforms:
        return _platforms(
            environment,
            session,
            look_questions.show_platforms(session, own=own, differing=differing, editor=named),
            json,
        )
    if compared:
        if editor or file is not None:
            raise InputError("--compare-editors shows all editors of the workspace", "Leave --editor and --file out.")
        editors = look_questions.show_editors(session, on=on)
        environment.answer(editors, lambda display: show_layout.editor_listing(editors, display), json)
        return Status.FINE
    if unbound:
        missing = look_questions.show_unbound(session, own=own, editor=named, on=on)
        environment.answer(missing, lambda display: show_layout.unbound_actions(missing, display), json)
        return Status.FINE
    found = look_questions.show(session, by=by, own=own, editor=named, on=on, layout=layout, within=condition)
    environment.answer(found, lambda display: show_layout.listing(found, display), json)
    if not found.bindings and not json:
        environment.say(
            f"Nothing applies when {condition}." if condition else "Nothing is bound. Bind something with: ombix bind ACTION KEYS"
        )  # fmt: skip
    if report is not None:
        write_page(environment, session, report, found, lambda display: show_layout.listing(found, display))
    return Status.FINE


def _platforms(environment: Environment, session: OpenWorkspace, found: PlatformListing, json: bool) -> Status:
    if not found.bindings and not json:
        environment.say("Nothing is bound." if not found.total else "Every binding follows from one definition.")
        return Status.FINE
    environment.answer(found, lambda display: show_layout.platform_listing(found, display), json)
    return Status.FINE
