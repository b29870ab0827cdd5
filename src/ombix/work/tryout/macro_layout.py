"""How macros and snippets are laid out: `macro list`, `macro show`, `macro try`."""

from collections.abc import Sequence

from ombix.report.blocks import Blank, Block, Cell, Code, Grid, Style, Title, line
from ombix.report.terminal_text import Display
from ombix.work.change.change_layout import change_report, consequences
from ombix.work.tryout.macro_answer import (
    AdoptedSnippets,
    ListedMacro,
    MacroList,
    MacroReport,
    MacroTrial,
    RecordReport,
    SnippetPort,
    TrialStep,
)
from ombix.work.tryout.press_layout import marked_text

_MOST_STEPS = 40
_DIFFERENCE: dict[str, Style] = {"-": "bad", "+": "good"}


def macro_list(found: MacroList, display: Display) -> list[Block]:
    """All macros and snippets, with what runs them."""
    if not found.found:
        return [line("The keymap has no macros and no snippets."), Blank(), line("See: docs/macro.md")]
    rows = [
        (Cell(one.name, "strong"), one.kind, one.title, Cell(", ".join(_run_by(one)), "key"), _when(one))
        for one in found.found
    ]
    return [Grid(rows, ("name", "is a", "title", "keys or words", "when"))]


def _run_by(one: ListedMacro) -> list[str]:
    return [*one.keys, *(f"“{word}”" for word in one.words)] or ["none"]


def _when(one: ListedMacro) -> str:
    return one.when or "always"


def macro_report(found: MacroReport, display: Display) -> list[Block]:
    """One macro or snippet in full."""
    one = found.macro
    blocks: list[Block] = [
        line(Cell(one.title, "strong"), f" ({one.kind} {one.name})"),
        line("at ", display.place(one.place)),
        line("Run by ", Cell(", ".join(_run_by(one)), "key"), f", {_when(one)}.")
        if one.keys or one.words
        else line(f"No keys run it; {_when(one)}."),
        Blank(),
    ]
    if found.steps:
        rows = [
            (f"{'   ' * step.depth}{step.does}", f"here: {step.relies_on}" if step.relies_on else "")
            for step in found.steps
        ]
        blocks.append(Grid(rows, indent=2))
    if found.body:
        blocks.append(Code(found.body))
    for title, lines in (("Gaps", found.gaps), ("Variables", found.variables)):
        if lines:
            blocks += [Blank(), Title(title), Code(lines)]
    if found.circle:
        way = " plays ".join((*found.circle, found.circle[0]))
        blocks += [Blank(), line(Cell(f"It goes round in a circle, and is not run: {way}.", "bad"))]
    if found.shorter:
        blocks += [Blank(), line(f"One action does the same: {', '.join(found.shorter)}.")]
    return blocks


def macro_trial(found: MacroTrial, display: Display) -> list[Block]:
    """What came of trying: before, each step as a difference, after, and what is to be known."""
    times = f", {found.times} times" if found.times > 1 else ""
    blocks: list[Block] = [
        line(Cell(found.title, "strong"), f" ({found.kind} {found.name}{times})"),
        Blank(),
        Title("Before"),
    ]
    blocks += _text(found.start_text, found.start_cursor, found.start_selection)
    blocks += [Blank(), Title("Steps"), *_steps(found.steps, found.times > 1)]
    blocks += [
        Blank(),
        Title("After"),
        *_text(found.text, found.cursor, found.selection),
        Blank(),
        line(_counts(found)),
    ]
    for remark in found.remarks:
        blocks.append(line(Cell("Note: ", "warn"), f"{remark.said}."))
    blocks += _examples(found)
    if found.written:
        blocks.append(line(f"Written: {display.path(found.written)}. To take it back: ombix undo"))
    else:
        blocks.append(line(Cell("Nothing was written.", "quiet")))
    return blocks


def record_report(found: RecordReport, display: Display, dry_run: bool) -> list[Block]:
    """A macro that was recorded."""
    return [
        line(Cell(found.name, "strong"), ", from ", Cell(found.keys, "key")),
        *(line(step, indent=2) for step in found.steps),
        *(line(Cell("Note: ", "warn"), f"{remark}.") for remark in found.remarks),
        Blank(),
        *change_report(found.change, display, dry_run),
    ]


def snippet_port(found: SnippetPort, display: Display, dry_run: bool) -> list[Block]:
    """Snippets carried to an editor."""
    number, gone, different = len(found.snippets), found.counts["lost"], found.counts["adapted"]
    said = f"{number - gone} of {number} snippets work in {found.editor}"
    said += f", {different} of them with a difference" if different else ""
    blocks: list[Block] = [line(f"{said}{f'; {gone} cannot be had there' if gone else ''}.")]
    if found.snippets:
        rows = [
            (Cell(snippet.name, "strong"), Cell(*_ANSWERS[snippet.verdict]), snippet.how) for snippet in found.snippets
        ]
        blocks += [Blank(), Grid(rows, indent=2)]
    if found.file:
        there = f" The editor reads {found.usual}." if found.usual else ""
        blocks += [Blank(), line(f"{'would write' if dry_run else 'wrote'} {display.path(found.file)}.{there}")]
    else:
        blocks += [Blank(), line("Nothing was written.")]
    return blocks


_ANSWERS: dict[str, tuple[str, Style]] = {
    "exact": ("works", "good"), "adapted": ("works, but", "warn"), "lost": ("gone", "bad"),
}  # fmt: skip


def adopted_snippets(found: AdoptedSnippets, display: Display, dry_run: bool) -> list[Block]:
    """Snippets taken in from an editor's own file."""
    verb = "would take in" if dry_run else "took in"
    blocks: list[Block] = [line(f"{verb} {len(found.taken)} snippets of {found.editor}: {', '.join(found.taken)}")]
    blocks += [line(Cell("Note: ", "warn"), display.path(one)) for one in found.left]
    return [*blocks, *consequences(found.change.consequences)]


_MOST_LINES, _AROUND = 24, 10


def _text(text: str, cursor: int, selection: tuple[int, int]) -> list[Block]:
    """A text with its cursor, or the lines around that of a long one."""
    lines = marked_text(text, cursor, selection).rstrip("\n").split("\n")
    if len(lines) <= _MOST_LINES:
        return [Code(tuple(lines))]
    at = text.count("\n", 0, cursor)
    first = max(0, min(at - _AROUND, len(lines) - 2 * _AROUND))
    shown = lines[first : first + 2 * _AROUND]
    return [
        Code((f"… {first} lines", *shown) if first else tuple(shown)),
        *([Code((f"… {len(lines) - first - len(shown)} lines",))] if first + len(shown) < len(lines) else []),
    ]


def _steps(steps: Sequence[TrialStep], several: bool) -> list[Block]:
    blocks: list[Block] = []
    for step in steps[:_MOST_STEPS]:
        number = f"{step.round}. " if several else ""
        why = (
            "" if not step.because or step.because.startswith(("a step of", "it was asked")) else f"  ({step.because})"
        )
        blocks.append(line(number, Cell(step.does, "" if step.done else "bad"), why, indent=2))
        blocks += [line(Cell(one, _DIFFERENCE.get(one[:1], "quiet")), indent=6) for one in step.difference]
    if len(steps) > _MOST_STEPS:
        blocks.append(line(f"… and {len(steps) - _MOST_STEPS} more steps", indent=2))
    return blocks or [line("none", indent=2)]


def _counts(found: MacroTrial) -> str:
    if found.text == found.start_text:
        return "The text is as it was."
    parts = [
        f"{count} {'line' if count == 1 else 'lines'} {what}"
        for count, what in ((found.lines_changed, "changed"), (found.lines_added, "added"), (found.lines_removed, "taken away"))
        if count
    ]  # fmt: skip
    places = f"in {found.places} {'place' if found.places == 1 else 'places'}"
    return f"{', '.join(parts)}, {places}."


def _examples(found: MacroTrial) -> list[Block]:
    if not found.examples:
        return []
    agree = sum(example.agrees for example in found.examples)
    blocks: list[Block] = [line(f"{agree} of {len(found.examples)} examples hold.")]
    for example in found.examples:
        if not example.agrees:
            blocks.append(Grid([
                ("before", Cell(_one_line(example.before))), ("wanted", Cell(_one_line(example.wanted), "good")),
                ("found", Cell(_one_line(example.found), "bad")),
            ], indent=2))  # fmt: skip
    return blocks


def _one_line(text: str) -> str:
    return text.replace("\n", "⏎").replace("\t", "→")
