"""What `ombix` alone says: where things stand in the workspace, or what Ombix is for and how to begin."""

from ombix.console.asking import open_session
from ombix.console.environment import Environment
from ombix.report.blocks import Blank, Block, Cell, Grid, line
from ombix.work.audit import audit_questions
from ombix.work.carry import carry_questions


def welcome(environment: Environment) -> None:
    """Say it."""
    session = open_session(environment)
    if session.has_workspace():
        from ombix.work.audit.overview_layout import overview

        found = audit_questions.overview(session)
        environment.show(overview(found, environment.display))
        return
    files = carry_questions.files_on_this_machine(session)
    file = environment.display.home_path(str(files[0].file)) if files else "~/.nanorc"
    rows = [
        (Cell(f"ombix show --file {file}", "key"), "look at an editor's own key file as it is"),
        (Cell("ombix init", "key"), "begin a workspace here, with the key files of this machine"),
    ]
    blocks: list[Block] = [
        line("Ombix defines, audits and ports keyboard bindings across editors, with evidence."), Blank(),
        line("Two ways to begin"), Grid(rows, indent=2), Blank(),
        line("The whole job on demo data: ", Cell("ombix demo", "key"), ". All commands: ", Cell("ombix help", "key"), "."),
    ]  # fmt: skip
    environment.show(blocks)
