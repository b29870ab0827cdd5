"""`ombix settle`: ways out of findings, tried before they are proposed, and carried out."""

from pathlib import Path
from typing import Any

import typer

from ombix.console.asking import open_session
from ombix.console.environment import Environment, Status, environment_of
from ombix.console.options import (
    DryRunOption,
    EditorOption,
    JsonOption,
    NotRuleOption,
    PlatformOption,
    RuleOption,
    SeverityOption,
    TakeOption,
    WorkspaceOption,
)
from ombix.core.audit import Finding
from ombix.core.errors import InputError, Place
from ombix.work.mend import mend_questions
from ombix.work.mend.settle_answer import SettleReport
from ombix.work.mend.settle_layout import settle_report, ways_out
from ombix.workspace.open_workspace import OpenWorkspace

_STOP = "q"


def results() -> tuple[Any, ...]:
    """What `--json` prints."""
    return (SettleReport,)


def run(
    context: typer.Context,
    take: TakeOption = "",
    rule: RuleOption = None,
    not_rule: NotRuleOption = None,
    severity: SeverityOption = "note",
    draft: Path | None = typer.Option(
        None, "--draft", metavar="FILE", help="Write a plan to be reviewed, and settle nothing."
    ),
    plan: Path | None = typer.Option(None, "--plan", metavar="FILE", help="Settle as a plan says."),
    why: str = typer.Option("", "--accept", metavar="REASON", help="A finding may be accepted, for this reason."),
    editor: EditorOption = "",
    on: PlatformOption = "",
    workspace: WorkspaceOption = None,
    dry_run: DryRunOption = False,
    json: JsonOption = False,
) -> Status:
    """Fixes for findings, the cheapest first: take them one by one, by a plan, or all at once at the least cost."""
    from ombix.work.mend import settle

    environment = environment_of(context)
    if take not in ("", "best", "all"):
        raise InputError(f"unknown way to choose: {take}", "Say --take best or --take all.")
    if plan is not None and (take or draft is not None):
        raise InputError("--plan says what is taken", "Leave out --take and --draft.")
    session = open_session(environment, workspace)
    found = mend_questions.settling(
        session, rules=rule or (), without=not_rule or (), severity=severity, editor=editor, on=on, why=why
    )
    if plan is not None:
        settled = _as_planned(session, found, str(plan))
    elif take == "all":
        settled = found.at_once()
    elif take == "best":
        settled = found.in_turn(settle.best)
    elif environment.can_ask and not json and draft is None and not dry_run:
        settled = found.in_turn(_Asking(environment).choose)
    else:
        settled = found.in_turn(lambda finding, ways, here: 0)
    if draft is not None:
        answer = mend_questions.draft_plan(session, settled, str(draft), dry_run)
    else:
        answer = mend_questions.write_settled(session, settled, dry_run)
    is_list = not (take or plan is not None) and not settled.changes
    environment.answer(answer, lambda display: settle_report(answer, display, dry_run, is_list), json)
    return Status.FOUND if answer.left else Status.FINE


def _as_planned(session: OpenWorkspace, found: Any, plan: str) -> Any:
    from ombix.work.mend.settle_plans import Planned, read_plan

    planned = Planned(read_plan(session.read(plan), plan), plan)
    settled = found.in_turn(planned.choose)
    for one in planned.left():
        raise InputError(
            f"the plan settles what is no longer found: {one.message}",
            "Draft it anew with: ombix settle --draft FILE",
            Place(plan, one.line, 1),
        )
    return settled


class _Asking:
    """Asks a user at a terminal which way out of each finding is taken."""

    def __init__(self, environment: Environment) -> None:
        self._environment = environment
        self._environment.say("A number takes a way out, Enter leaves the finding, q ends.")

    def choose(self, finding: Finding, ways: list[Any], here: Any) -> int:
        """The number of the way, or 0."""
        from ombix.work.mend.settle import way_out
        from ombix.workspace.findings import in_words

        blocks = ways_out(
            in_words(finding, here.subject), [way_out(way.way) for way in ways], self._environment.display
        )
        self._environment.show(blocks)
        if not ways:
            return 0
        answer = str(typer.prompt("  which way", default="", show_default=False, err=True)).strip()
        if answer == _STOP:
            raise StopIteration
        return int(answer) if answer.isdigit() and 1 <= int(answer) <= len(ways) else 0
