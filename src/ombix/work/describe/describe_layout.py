"""A draft of a description, as it is shown."""

from ombix.report.blocks import Blank, Block, Cell, Code, Grid, Title, line
from ombix.report.terminal_text import Display
from ombix.report.written import written
from ombix.work.describe.describe_answer import CommandProposal, DraftReport

_MOST_UNSURE = 12
_MOST_CANDIDATES = 2


def draft_report(found: DraftReport, display: Display, everything: bool, dry_run: bool) -> list[Block]:
    """What was found out, what is unsure, and what is missing."""
    sure = [command for command in found.commands if command.action]
    unsure = [command for command in found.commands if not command.action]
    blocks: list[Block] = [
        line(
            Cell(found.name, "strong"),
            f": {len(sure)} of {len(found.commands)} commands are sure, {len(unsure)} {'is' if len(unsure) == 1 else 'are'} not.",
        ),
        Blank(),
    ]
    shown = ", ".join(f"{word} is {name}" for name, word in found.modifiers.items()) or "none"
    rows = [
        ("form", found.form), ("bindings read", str(found.bindings)), ("modifiers", shown), ("named keys", str(found.named_keys)),
        ("default keys", str(found.default_keys)),
    ]  # fmt: skip
    blocks.append(Grid([(Cell(title, "quiet"), text) for title, text in rows], indent=2))
    for pattern in found.patterns:
        blocks += [Blank(), Code(tuple(pattern.splitlines()))]
    if everything and sure:
        blocks += [
            Blank(),
            Title(f"sure ({len(sure)})"),
            Grid([(one.command, Cell(one.action, "good"), one.said) for one in sure], indent=2),
        ]
    if unsure:
        most = len(unsure) if everything else _MOST_UNSURE
        blocks += [
            Blank(),
            Title(f"unsure ({len(unsure)})"),
            Grid([_row(one) for one in unsure[:most]], ("command", "said", "may be"), 2),
        ]
        if len(unsure) > most:
            blocks.append(line(f"and {len(unsure) - most} more: --all shows them", indent=2))
    states = [state for state in found.states if not state.means]
    if states:
        rows_of_states = [
            (state.word, f"may mean: {state.may_mean}" if state.may_mean else "not known") for state in states
        ]
        blocks += [Blank(), Title("states that are not known"), Grid(rows_of_states, indent=2)]
    blocks += [Blank(), Title("missing")]
    blocks += [line(text, indent=2) for text in found.missing]
    blocks += [Blank(), Title("tests")]
    for check in found.checks:
        result = Cell(
            "holds" if not check.faults else f"{len(check.faults)} wrong", "good" if not check.faults else "bad"
        )
        blocks.append(Grid([(result, check.title, Cell(str(check.tested), "quiet"))], indent=2))
        blocks += [line(fault, indent=6) for fault in check.faults[:3]]
    return [*blocks, Blank(), written(found.written, dry_run, display)]


def _row(one: CommandProposal) -> tuple[Cell | str, ...]:
    candidates = [f"{candidate.action} {candidate.score:.0f}" for candidate in one.candidates[:_MOST_CANDIDATES]]
    return Cell(one.command, "strong"), one.said, ", ".join(candidates) or Cell("no action is like it", "quiet")
