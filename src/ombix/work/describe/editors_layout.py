"""How editors and what they can express are laid out: `editors`."""

from ombix.report.blocks import Blank, Block, Cell, Grid, line
from ombix.report.terminal_text import Display
from ombix.work.describe.editors_answer import DescriptionReport, EditorAbilities, EditorList

_MOST_FAULTS = 8


_WINS = {"last": "last", "first": "first", "innermost": "innermost", "specific": "most specific"}


_FORMATS = {
    "json": "JSON with comments", "toml": "TOML", "ini": "settings under headings", "xml": "XML",
    "lists": "lists in parentheses", "lines": "line by line", "headed": "lines under headings", "words": "commands of words",
    "yaml": "YAML", "records": "records of lines",
}  # fmt: skip


def editor_list(found: EditorList, display: Display) -> list[Block]:
    """The editors that Ombix knows, a row each."""
    rows = [
        (
            Cell(editor.name, "strong"), editor.version, str(len(editor.sections)), str(editor.chords),
            str(editor.longest_sequence),
            str(editor.documented_commands), str(editor.default_keys),
            "simulated" if editor.simulated else "yes" if editor.installed else "no",
        )
        for editor in found.editors
    ]  # fmt: skip
    head = ("editor", "version", "sections", "chords", "in a row", "commands", "default keys", "installed")
    return [Grid(rows, head)]


def editor_abilities(one: EditorAbilities, display: Display, commands: bool, keys: bool) -> list[Block]:
    """An editor in full."""
    prefix = {"timed": f"waits for {one.wait_ms} ms", "waits": "waits"}.get(one.prefix, "fires at once")
    own = one.documented_commands - one.mapped_commands
    facts = [
        ("file", f"{one.file}, {_FORMATS.get(one.format, one.format)}"),
        ("usually at", ", ".join(one.usual)),
        ("can bind", f"{one.chords} chords, at most {one.longest_sequence} in a row"),
        ("can tell", ", ".join(one.can_tell) or "its sections only"),
        ("decides", f"the {_WINS[one.wins]} of several wins; a chord that begins a sequence {prefix}"),
        ("commands", f"{one.documented_commands} documented, {one.mapped_commands} of them actions, {own} its own"),
        ("default keys", str(one.default_keys)),
        ("sections", ", ".join(f"{name} ({where})" for name, where in one.sections.items())),
        ("known from", "; ".join(one.known_from)),
    ]
    blocks: list[Block] = [line(Cell(one.title, "strong"), f" {one.version}"), Grid(facts, indent=2)]
    blocks += [line(note, indent=2) for note in one.notes]
    if commands:
        rows = []
        for name, row in one.commands.items():
            meaning = row.action or f"only here: {row.only}"
            rows.append((Cell(name, "strong"), meaning + (f" ({row.differs})" if row.differs else "")))
        blocks += [Blank(), Grid(rows, ("command", "action"), 2)]
    if keys:
        bound = [(Cell(key.keys, "key"), key.does, Cell(key.when, "quiet")) for key in one.keys]
        blocks += [Blank(), Grid(bound, ("keys", "action", "when"), 2)]
    return blocks


def description_report(found: DescriptionReport, display: Display) -> list[Block]:
    """The tests of a description."""
    blocks: list[Block] = [line(Cell(found.title, "strong"), f" {found.version}")]
    for check in found.checks:
        good = not check.faults
        result = Cell("holds" if good else f"{len(check.faults)} wrong", "good" if good else "bad")
        blocks.append(Grid([(result, check.title, Cell(str(check.tested), "quiet"))], indent=2))
        blocks += [line(fault, indent=6) for fault in check.faults[:_MOST_FAULTS]]
        if len(check.faults) > _MOST_FAULTS:
            blocks.append(line(f"and {len(check.faults) - _MOST_FAULTS} more: --json has all of them", indent=6))
    noun = "fault" if found.faults == 1 else "faults"
    said = (
        f"{found.faults} {noun}. What is not tested yet is tested when they are mended."
        if found.faults
        else "No fault."
    )
    return [*blocks, Blank(), line(said)]
