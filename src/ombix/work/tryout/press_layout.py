"""How keys pressed on the stage are laid out: `press`."""

from ombix.report.blocks import Blank, Block, Cell, Code, Grid, Style, line
from ombix.report.terminal_text import Display
from ombix.work.tryout.press_answer import StageReport, StageStep

_KIND_STYLES: dict[str, Style] = {"runs": "strong", "types": "", "waits": "warn", "nothing": "quiet"}


def stage_report(report: StageReport, display: Display) -> list[Block]:
    """Keys pressed one by one, and the text then."""
    title = f"The {report.editor.removeprefix('the ')}" if report.editor.startswith("the ") else report.editor
    rows: list[tuple[Cell | str, ...]] = []
    text, cursor, selection = report.start_text, report.start_cursor, (report.start_cursor, report.start_cursor)
    facts = report.start_facts
    for press in report.presses:
        for index, one in enumerate(press.steps):
            moved = (one.text, one.cursor, one.selection) != (text, cursor, selection)
            here = _line_of(one) if moved else ""
            shown = Cell("" if index else press.pressed, "key")
            rows.append((shown, Cell(one.does, _KIND_STYLES[one.kind]), one.because, here))
            changed = [f"{name} is {value}" for name, value in one.facts.items() if facts.get(name, value) != value]
            changed += one.beside
            if changed:
                rows.append(("", Cell(f"now {', '.join(changed)}", "quiet"), "", ""))
            text, cursor, selection, facts = one.text, one.cursor, one.selection, one.facts
        if not press.steps:
            rows.append((Cell(press.pressed, "key"), "", "nothing was waiting, or it waits longer", ""))
    head = ("keys", "does", "because", "the line then")
    blocks: list[Block] = [line(f"{title}, on {report.platform_title}."), Blank(), Grid(rows, head, 2)]
    if report.waits:
        blocks += [Blank(), line(Cell(f"{report.waits} still waits for more keys.", "warn"))]
    return [*blocks, Blank(), line("The text then"), Code(tuple(_text_then(report)))]


def _text_then(report: StageReport) -> list[str]:
    """The lines, with all cursors, and a row in place of those that are folded away."""
    text, found = report.text, []
    if report.cursors:
        marks = [(report.cursor, "|"), *((at, "¦") for at in report.cursors)]
        for at, mark in sorted(marks, reverse=True):
            text = text[:at] + mark + text[at:]
    else:
        text = marked_text(text, report.cursor, report.selection)
    for number, row in enumerate(text.rstrip("\n").split("\n"), 1):
        hiding = next(((first, last) for first, last in report.folded if first <= number <= last), None)
        if hiding is None:
            found.append(row)
        elif number == hiding[0]:
            count = hiding[1] - hiding[0] + 1
            found.append(f"… {count} {'line' if count == 1 else 'lines'} folded away")
    return found


def _line_of(step: StageStep) -> str:
    """The line with the cursor."""
    marked = marked_text(step.text, step.cursor, step.selection)
    at = marked.index("|") if "|" not in step.text else step.cursor
    start, end = marked.rfind("\n", 0, at) + 1, marked.find("\n", at)
    return marked[start : end if end >= 0 else None]


def marked_text(text: str, cursor: int, selection: tuple[int, int]) -> str:
    """The text with the cursor as `|`, and what is selected in brackets."""
    start, end = selection
    if start == end:
        return f"{text[:cursor]}|{text[cursor:]}"
    inside = f"[{text[start:end]}]"
    inside = f"{inside}|" if cursor == end else f"|{inside}"
    return text[:start] + inside + text[end:]
