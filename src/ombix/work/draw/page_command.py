"""`ombix page`: a keymap as one page, to press keys on."""

from pathlib import Path
from typing import Annotated, Any

import typer

from ombix.console import options
from ombix.console.asking import editor_asked, open_session
from ombix.console.environment import Status, environment_of
from ombix.core.errors import InputError
from ombix.work.draw import draw_questions
from ombix.work.draw.page_answer import PageData
from ombix.work.draw.page_console import serve
from ombix.work.draw.page_layout import page


def results() -> tuple[Any, ...]:
    """What `--json` prints."""
    return (PageData,)


ToEditors = Annotated[
    list[str] | None, typer.Option("--to", metavar="NAME", help="An editor whose port is on it; repeatable.")
]


def run(
    context: typer.Context,
    output: Path | None = typer.Option(None, "--output", metavar="FILE", help="Where to write; without it, keys.html."),
    to: ToEditors = None,
    serving: bool = typer.Option(False, "--serve", help="Show it at an address of this machine, and keep it up to date."),
    port: int = typer.Option(0, "--port", metavar="N", min=0, max=65535, help="With --serve: the port; without it, a free one."),
    editor: options.EditorOption = "",
    file: options.FileOption = None,
    on: options.PlatformOption = "",
    layout: options.LayoutOption = "",
    keyboard: options.KeyboardOption = "",
    workspace: options.WorkspaceOption = None,
    json: options.JsonOption = False,
) -> Status:  # fmt: skip
    """The keymap as one page: press keys on it and see what they do and why, find actions, practise."""
    environment = environment_of(context)
    if serving and (output is not None or json):
        raise InputError("--serve writes nothing", "Leave --output and --json out.")

    named = editor_asked(file, editor)
    sessions = [open_session(environment, workspace, file, editor)]
    shown: list[str] = []

    def data() -> PageData:
        session = open_session(environment, workspace, file, editor)
        if shown and session.faults:
            session.opener.context(named, on, layout)  # it raises what is wrong, and the last page that was right stays
        found = draw_questions.page(session, editor=named, on=on, layout=layout, keyboard=keyboard, to=tuple(to or ()))
        sessions[:] = [session]
        shown.append(found.title)
        return found

    if serving:
        sessions[0].keymap(named, on, layout)
        serve(environment, data, lambda: sessions[0].files().keys(), port)
        return Status.FINE
    found = data()
    if json:
        environment.answer(found, lambda display: (), json)
        return Status.FINE
    name = str(output or "keys.html")
    text = page(found, environment.display._replace(colour=False))
    for path in open_session(environment, workspace, file, editor).write(f"page {name}", {name: text}):
        environment.say(f"wrote {environment.messages.display.path(str(path))}")
    return Status.FINE
