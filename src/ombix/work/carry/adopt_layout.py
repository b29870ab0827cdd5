"""How adopted files, and workspaces that were started, are laid out: `adopt`, `init`."""

from ombix.report.blocks import Blank, Block, Cell, Grid, line
from ombix.report.counted import counted
from ombix.report.terminal_text import Display
from ombix.report.written import written
from ombix.work.carry.adopt_answer import AdoptedLine, Adoption, StartReport


def adoption(found: Adoption, display: Display, everything: bool, dry_run: bool) -> list[Block]:
    """What became of each line of a file."""
    bound = sum(1 for one in found.lines if one.bound)
    kept = sum(1 for one in found.lines if one.kept)
    replaced = len(found.lines) - bound - kept
    read = f"{counted(len(found.lines), 'statement', 'statements')}: {counted(bound, 'binding', 'bindings')}"
    counts = f"{read}, {replaced} replaced or without effect, {kept} kept as they are"
    lines = [one for one in found.lines if everything or not one.bound]
    rows = [
        (Cell(_at(one, found, display), "quiet"), one.written, Cell(_became(one, display), "warn" if one.fault else ""))
        for one in lines
    ]
    table = Grid(rows, ("line", "written", "became"), 2)
    return [line(counts), *([table] if rows else []), written(found.written, dry_run, display)]


def _became(one: AdoptedLine, display: Display) -> str:
    if one.other is None:
        return one.became
    if one.other.file == one.place.file:
        return f"{one.became} line {one.other.line}"
    return f"{one.became} {display.path(one.other.file)}:{one.other.line}"


def _at(one: AdoptedLine, found: Adoption, display: Display) -> str:
    """The line, with its file where that is another one that was read in its place."""
    if one.place.file == found.file.file:
        return str(one.place.line)
    return f"{display.path(one.place.file)}:{one.place.line}"


def start_report(found: StartReport, display: Display, dry_run: bool) -> list[Block]:
    """A workspace that was started, and what can be done next."""
    blocks: list[Block] = []
    if found.found:
        blocks.append(line("Key files on this machine"))
        rows = [
            (
                Cell(one.editor, "strong"), display.path(one.file.file), counted(one.bindings, "binding", "bindings"),
                counted(one.faults, "line looks like a mistake", "lines look like mistakes") if one.faults else "",
                Cell("adopted" if one.editor in found.adopted else "", "good"),
            )
            for one in found.found
        ]  # fmt: skip
        blocks += [Grid(rows, indent=2), Blank()]
    blocks += [written((one,), dry_run, display) for one in found.written]
    if found.layout is not None:
        blocks.append(line(f"The keyboard layout is {found.layout.title}, as {found.layout.source} says."))
    return blocks
