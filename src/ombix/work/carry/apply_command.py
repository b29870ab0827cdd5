"""`ombix apply`: writes the keymap into the editors' own files."""

from typing import Any

import typer

from ombix.console.asking import machines_asked, open_session
from ombix.console.environment import Environment, Status, environment_of
from ombix.console.options import (
    AnywayOption,
    DryRunOption,
    JsonOption,
    MachinesOption,
    ToManyOption,
    WorkspaceOption,
)
from ombix.core.errors import InputError
from ombix.report.blocks import Blank, Block
from ombix.report.terminal_text import Display
from ombix.work.carry import carry_questions
from ombix.work.carry.apply_answer import Applied, ApplyReport
from ombix.work.carry.apply_layout import apply_report, file_lines
from ombix.work.carry.prove_layout import proof_report
from ombix.workspace.open_workspace import OpenWorkspace


def results() -> tuple[Any, ...]:
    """What `--json` prints."""
    return (ApplyReport,)


def run(
    context: typer.Context,
    to: ToManyOption = None,
    yes: bool = typer.Option(False, "--yes", help="Agree to the first time that a file is written."),
    adopt: bool = typer.Option(False, "--adopt", help="Take what was edited by hand into the keymap first."),
    overwrite: bool = typer.Option(False, "--overwrite", help="Write over what was edited by hand."),
    into: str = typer.Option(
        "", "--into", metavar="FILE", help="With one editor: its file, where that is none of its usual places."
    ),
    remove: bool = typer.Option(
        False,
        "--remove",
        help="Take Ombix's part out again; with --to also for an editor that the workspace names no more.",
    ),
    prove: bool = typer.Option(False, "--prove", help="Press the keys of each file that was written, in its editor."),
    anyway: AnywayOption = False,
    machine: MachinesOption = None,
    workspace: WorkspaceOption = None,
    dry_run: DryRunOption = False,
    json: JsonOption = False,
) -> Status:
    """Write the keymap into the editors' own files; the rest of each file stays as it is."""
    from ombix.work.carry.apply import ApplyOptions

    environment = environment_of(context)
    if adopt and overwrite:
        raise InputError("--adopt and --overwrite are two ways to go on", "Choose one of them.")
    if remove and (adopt or into or prove):
        raise InputError("--remove goes with none of --adopt, --into and --prove", "Say it alone.")
    if into and len(to or ()) != 1:
        raise InputError("--into is for one editor", "Name it with --to.")
    session = open_session(environment, workspace)
    sessions = machines_asked(session, machine)
    options = ApplyOptions(tuple(to or ()), ("all",) if yes else (), adopt, overwrite, dry_run, anyway, remove, into)
    editors: dict[tuple[str, str], Applied] = {}
    for one in sessions:
        if environment.can_ask and not (remove or yes or json or dry_run):
            options = options._replace(agreed=_agreed(environment, one, options))
        for editor in carry_questions.apply(one, options).editors:
            known = editors.setdefault((editor.editor, editor.file.file), editor)
            if known.did == "elsewhere":  # on this machine, or nowhere
                editors[editor.editor, editor.file.file] = editor
    found = ApplyReport(tuple(editors.values()))
    if prove and not dry_run:
        pressed = [editor for editor in found.editors if editor.did in ("written", "unchanged")]
        proofs = tuple(carry_questions.prove(session, one.editor, file=one.file.file) for one in pressed)
        found = found._replace(proofs=proofs)

    def blocks(display: Display) -> list[Block]:
        proofs = (block for proof in found.proofs for block in (Blank(), *proof_report(proof, display, False)))
        return [*apply_report(found, display, dry_run), *proofs]

    environment.answer(found, blocks, json)
    if remove and not found.editors and not json:
        environment.say("Nothing was written for any editor here.")
    is_wrong = any(editor.did == "refused" for editor in found.editors)
    differs = any(key.result == "differs" for proof in found.proofs for key in proof.keys)
    return Status.FOUND if is_wrong or differs else Status.FINE


def _agreed(environment: Environment, session: OpenWorkspace, options: Any) -> tuple[str, ...]:
    """The editors for which a user at a terminal agrees to the first time."""
    plan = carry_questions.apply(session, options._replace(agreed=("all",), dry_run=True))
    agreed = []
    for editor in plan.editors:
        if not editor.first or editor.did != "written":
            agreed.append(editor.editor)
            continue
        how = "a block in" if editor.way == "block" else "the whole of"
        # What is agreed to is what would stand there, so all of it is shown, however long.
        environment.tell(file_lines(editor.lines, environment.messages.display))
        said = f"Write {how} {environment.messages.display.path(editor.file.file)} for {editor.editor}?"
        if typer.confirm(said, default=False, err=True):
            agreed.append(editor.editor)
    return tuple(agreed)
