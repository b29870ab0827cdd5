"""`ombix practice`: asks for keys, a few at a time, and again when they would be forgotten."""

from pathlib import Path
from typing import Annotated, Any

import typer

from ombix.console.asking import editor_asked, open_session
from ombix.console.environment import Status, environment_of
from ombix.console.options import (
    ConditionOption,
    EditorOption,
    FileOption,
    JsonOption,
    PlatformOption,
    WorkspaceOption,
)
from ombix.console.page_files import counted_lines
from ombix.core.errors import InputError
from ombix.work.learn import learn_questions
from ombix.work.learn.practice import PracticeOptions, now
from ombix.work.learn.practice_answer import PracticeList
from ombix.work.learn.practice_layout import practice_list, tally_blocks


def results() -> tuple[Any, ...]:
    """What `--json` prints."""
    return (PracticeList,)


NamesArgument = Annotated[
    list[str] | None,
    typer.Argument(metavar="[WHAT…]", help="Only this: actions or their titles, macros, kinds of work like cursor."),
]


def run(
    context: typer.Context,
    names: NamesArgument = None,
    count: int = typer.Option(10, "--count", metavar="N", min=1, max=200, help="How many are asked."),
    new: int = typer.Option(4, "--new", metavar="N", min=0, max=200, help="How many new ones at the most."),
    listed: bool = typer.Option(False, "--list", help="Only show what is due, and ask nothing."),
    timed: bool = typer.Option(False, "--timed", help="Show the seconds, and have them count."),
    counts: Path | None = typer.Option(
        None, "--counts", metavar="FILE", help="How often keys are used, for what comes first: lines of KEYS NUMBER."
    ),
    export: Path | None = typer.Option(None, "--export", metavar="FILE", help="Write what is remembered to a file of JSON."),
    known: bool = typer.Option(False, "--known", help="Take what is named as known, and ask nothing."),
    forget: bool = typer.Option(False, "--forget", help="Forget all that is remembered of this keymap."),
    condition: ConditionOption = "",
    editor: EditorOption = "",
    file: FileOption = None,
    on: PlatformOption = "",
    workspace: WorkspaceOption = None,
    json: JsonOption = False,
) -> Status:  # fmt: skip
    """Practise keys, a few at a time: press or write them, and be asked again before you forget."""
    environment = environment_of(context)
    session = open_session(environment, workspace, file, editor)
    if forget:
        many = learn_questions.progress(session).forget()
        environment.say(f"Forgotten: {many} {'thing' if many == 1 else 'things'}.")
        return Status.FINE
    if export is not None:
        text = learn_questions.progress(session).exported()
        for path in session.write(f"practice --export {export.name}", {str(export): text}):
            environment.say(f"wrote {environment.messages.display.path(str(path))}")
        return Status.FINE
    numbers = counted_lines(session, counts) if counts is not None else {}
    options = PracticeOptions(count, new, tuple(names or ()), numbers, condition)
    practice = learn_questions.practice(session, options, editor=editor_asked(file, editor), on=on)
    if known:
        if not names:
            raise InputError("what is known?", "Name it: ombix practice cursor --known")
        many = practice.know()
        environment.say(f"Taken as known: {many} {'thing' if many == 1 else 'things'}. They are asked again later.")
        return Status.FINE
    if listed or json:
        found = practice.listed()
        environment.answer(found, lambda display: practice_list(found, display), json)
        return Status.FINE
    if not environment.can_ask or not environment.is_terminal:
        raise InputError("there is no terminal to ask at", "See what is due with: ombix practice --list")
    questions = practice.questions()
    if not questions:
        environment.show(practice_list(practice.listed(), environment.display))
        environment.say("Nothing is due, and nothing is new.")
        return Status.FINE
    from ombix.work.learn.practice_console import ask_all

    tally = ask_all(environment, practice, questions, timed)
    environment.show(tally_blocks(*tally, now().isoformat()))
    return Status.FINE
