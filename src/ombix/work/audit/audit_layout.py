"""How findings are laid out: `audit`."""

from collections.abc import Iterator

from ombix.report.blocks import Blank, Block, Cell, Code, Grid, Style, Title, line
from ombix.report.terminal_text import Display
from ombix.workspace.condition_words import in_words
from ombix.workspace.findings_answer import AuditReport, FoundFault, RuleExplanation
from ombix.workspace.outcome_titles import with_titles
from ombix.workspace.reason_words import for_it

_STYLES: dict[str, Style] = {"error": "bad", "warning": "warn", "note": "quiet"}


def audit_report(report: AuditReport, display: Display) -> list[Block]:
    """All findings, and their number."""
    blocks: list[Block] = [line(report.about)] if report.about else []
    for found in report.findings:
        blocks += [*finding_blocks(found, display), Blank()]
    noun = "finding" if len(report.findings) == 1 else "findings"
    bindings = "binding" if report.bindings == 1 else "bindings"
    rules = "rule" if len(report.rules) == 1 else "rules"
    where = f"{report.platform_title}, on the machine {report.machine}" if report.machine else report.platform_title
    where += f", and on {' and '.join(report.machines)}" if report.machines else ""
    count = f"{len(report.findings)} {noun} in {report.bindings} {bindings} on {where}"
    known = f"; {report.left_out} known before left out" if report.left_out else ""
    return [*blocks, line(f"{count}, by {len(report.rules)} {rules}{known}")]


def finding_blocks(found: FoundFault, display: Display) -> Iterator[Block]:
    """One finding."""
    yield line(Cell(f"{found.severity} ({found.rule})", _STYLES[found.severity]), f": {said(found)}")
    if found.table is not None:
        rows: list[list[Cell | str]] = [
            [Cell(row[0], "key"), *(with_titles(for_it(cell, row[1]), found.titles, "{}") for cell in row[1:])]
            for row in found.table.rows
        ]
        yield Grid(rows, found.table.head, 4)
    else:
        for spot in found.places:
            yield line(f"at {display.place(spot.place)}  {spot.text}".rstrip(), indent=2)
    if len(found.winners) > 1:
        for winner in found.winners:
            yield line(
                f"{in_words(winner.when) or 'everywhere'}: {with_titles(winner.does, found.titles)} wins", indent=2
            )
    elif found.when:
        yield line(_when(found), indent=2)
    yield line(found.mend, indent=2)
    for change in found.changes:
        yield line(f"For example: {change.does}.", indent=2)


def said(found: FoundFault) -> str:
    """What a finding says, with the titles of what it names."""
    return with_titles(found.message, found.titles)


def _when(found: FoundFault) -> str:
    example = found.example or {}
    plain = " and ".join(f"{name} is {value}" for name, value in example.items())
    if not example or plain == found.when or not (set("(") & set(found.when) or " or " in found.when):
        return in_words(found.when)
    shown = ", ".join(f"{name} {value}" for name, value in example.items())
    return f"when {found.when}; for example {shown}"


def rule_explanation(rule: RuleExplanation, display: Display) -> list[Block]:
    """What a rule finds, why that matters, an example, what mends it."""
    blocks: list[Block] = [line(Cell(rule.rule, "strong"), f" ({rule.severity})"), Blank()]
    for title, text in (("What it finds", rule.what), ("Why it matters", rule.why)):
        blocks += [Title(title), line(text, indent=2), Blank()]
    how = "Example, in a workspace of two editors whose defaults differ" if rule.compares_editors else "Example"
    how += ", in an editor that does not wait for more keys" if rule.fires else ""
    how += ", in a workspace with" if rule.workspace else ""
    blocks.append(Title(how))
    if rule.workspace:
        blocks += [Code(tuple(rule.workspace.split("\n"))), Blank(), Title("and the keymap")]
    blocks += [Code(tuple(rule.example.rstrip().split("\n"))), Blank()]
    return [*blocks, Title("What mends it"), line(rule.mend, indent=2)]
