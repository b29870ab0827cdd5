"""`ombix editors packages`: what installed packages bring for Ombix."""

from typing import Any

import typer

from ombix.console.asking import open_session
from ombix.console.environment import Status, environment_of
from ombix.console.options import JsonOption
from ombix.work.describe import describe_questions
from ombix.work.describe.packages_answer import PackagesReport
from ombix.work.describe.packages_layout import packages_report


def results() -> tuple[Any, ...]:
    """What `--json` prints."""
    return (PackagesReport,)


def run(context: typer.Context, json: JsonOption = False) -> Status:
    """What installed packages bring: editors, forms of files, rules and reports."""
    environment = environment_of(context)
    found = describe_questions.packages(open_session(environment))
    environment.answer(found, lambda _display: packages_report(found), json)
    return Status.FOUND if any(thing.fault for thing in found.things) else Status.FINE
