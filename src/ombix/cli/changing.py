"""What a command that changes the keymap answers."""

from ombix.cli.environment import Environment, Status
from ombix.core.results.files import ChangeReport
from ombix.report.changes import change_report


def answer_change(environment: Environment, found: ChangeReport, dry_run: bool, json: bool) -> Status:
    """Print what was written, and what that brings about."""
    environment.answer(found, lambda display: change_report(found, display, dry_run), json)
    for remark in found.remarks if not json else ():
        environment.say(remark)
    return Status.FOUND if found.refused else Status.FINE
