"""`ombix packages`: what installed packages bring for Ombix."""

from typing import Any

import typer

from ombix.cli.asking import open_session
from ombix.cli.environment import Status, environment_of
from ombix.cli.options import JsonOption
from ombix.core.results.files import PackagesReport
from ombix.report.known import packages_report


def results() -> tuple[Any, ...]:
    """What `--json` prints."""
    return (PackagesReport,)


def run(context: typer.Context, json: JsonOption = False) -> Status:
    """What installed packages bring: editors, forms of files, rules and reports."""
    environment = environment_of(context)
    found = open_session(environment).packages()
    environment.answer(found, lambda _display: packages_report(found), json)
    return Status.FOUND if any(one.fault for one in found.things) else Status.FINE
