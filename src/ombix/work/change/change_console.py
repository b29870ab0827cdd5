"""What a command that changes the keymap answers."""

from ombix.console.environment import Environment, Status
from ombix.work.change.change_layout import change_report
from ombix.workspace.change_answer import ChangeReport


def answer_change(environment: Environment, found: ChangeReport, dry_run: bool, json: bool) -> Status:
    """Print what was written, and what that brings about."""
    environment.answer(found, lambda display: change_report(found, display, dry_run), json)
    for remark in found.remarks if not json else ():
        environment.say(remark)
    return Status.FOUND if found.refused else Status.FINE
