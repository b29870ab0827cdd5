"""How files, editors and layouts are laid out: `adopt`, `bind`, `undo`, `fold`, `editors`, `layouts`, `init`, and more."""

from datetime import datetime

from ombix.core.results.files import (
    AdoptedLine,
    Adoption,
    DescriptionReport,
    EditorAbilities,
    EditorList,
    FoldReport,
    History,
    KnownHardware,
    Overview,
    PackagesReport,
    StartReport,
    TrustReport,
    UndoReport,
)
from ombix.report.blocks import Blank, Block, Cell, Grid, line
from ombix.report.plain import Display
from ombix.report.written import written

_MOST_FAULTS = 8
_WINS = {"last": "last", "first": "first", "innermost": "innermost", "specific": "most specific"}
_FORMATS = {
    "json": "JSON with comments", "toml": "TOML", "ini": "settings under headings", "xml": "XML",
    "lists": "lists in parentheses", "lines": "line by line", "headed": "lines under headings", "words": "commands of words",
    "yaml": "YAML", "records": "records of lines",
}  # fmt: skip


def adoption(found: Adoption, display: Display, everything: bool, dry_run: bool) -> list[Block]:
    """What became of each line of a file."""
    bound = sum(1 for one in found.lines if one.bound)
    kept = sum(1 for one in found.lines if one.kept)
    replaced = len(found.lines) - bound - kept
    counts = f"{len(found.lines)} statements: {bound} bindings, {replaced} replaced or without effect, {kept} kept as they are"
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


def undo_report(found: UndoReport, display: Display, dry_run: bool) -> list[Block]:
    """What was taken back."""
    names = ", ".join(display.path(one.file) for one in found.files)
    done, would = ("forgot", "would forget") if found.skipped else ("took back", "would take back")
    kept = [line("What was changed since in the same files is kept.")] if found.kept_later else []
    return [line(f"{would if dry_run else done} “{found.command}”{f': {names}' if names else ''}"), *kept]


_UNDOES = {"restore": "", "merge": "keeps what was changed since", "collides": "the same lines were changed since"}


def history(found: History, display: Display) -> list[Block]:
    """The changes that can be taken back, a row each."""
    if not found.changes:
        return [line("There is nothing to take back here.")]
    rows = [
        (
            Cell(one.name, "key"), Cell(_local(one.made), "quiet"), one.command,
            ", ".join(display.path(file.file) for file in one.files),
            Cell(_UNDOES[one.undo], "warn" if one.undo == "collides" else ""),
        )
        for one in found.changes
    ]  # fmt: skip
    rest = found.known - len(found.changes)
    more = [line(f"and {rest} more: --count {found.known} lists all")] if rest > 0 else []
    return [Grid(rows, ("change", "made", "what", "files", "undo")), *more]


def _local(moment: str) -> str:
    return datetime.fromisoformat(moment).astimezone().strftime("%Y-%m-%d %H:%M")


def trust_report(found: TrustReport, display: Display) -> list[Block]:
    """What a description would start, and where keys would be written."""
    said = {"trusted": "You trust it as it is.", "changed": "It has changed since you trusted it.", "new": ""}
    rows: list[tuple[Cell | str, ...]] = [("files", " ".join(display.path(one) for one in found.files))]
    if found.command:
        rows.append(("starts", Cell(" ".join(found.command), "strong")))
        rows += [("with", f"{name}={value}") for name, value in found.environment.items()]
    rows += [("writes", Cell(one, "strong")) for one in found.writes]
    blocks: list[Block] = [
        line(f"{display.place(found.folder)} describes {found.title}."),
        Grid(rows, indent=2),
    ]
    if not found.command:
        blocks.append(line("It starts no program."))
    return [*blocks, line(said[found.is_trusted])] if said[found.is_trusted] else blocks


def packages_report(found: PackagesReport) -> list[Block]:
    """What installed packages bring."""
    if not found.things:
        return [line("No installed package brings anything for Ombix.")]
    rows = [
        (one.kind, Cell(one.name, "strong"), one.package, Cell(one.fault, "warn") if one.fault else "is used")
        for one in found.things
    ]
    return [Grid(rows, ("what", "name", "package", ""))]


def fold_report(found: FoldReport, display: Display, dry_run: bool) -> list[Block]:
    """What keymaps were folded into."""
    rows = [(one.does, Cell(one.keys, "key"), " and ".join(one.platforms)) for one in found.bindings if one.platforms]
    blocks: list[Block] = [line(f"{found.definitions} definitions, {found.exceptions} of them with an exception.")]
    blocks += [Grid(rows, ("action", "keys", "on"), 2)] if rows else []
    return [*blocks, written((found.file,), dry_run, display)]


# --- editors


def editor_list(found: EditorList, display: Display) -> list[Block]:
    """The editors that Ombix knows, a row each."""
    rows = [
        (
            Cell(one.name, "strong"), one.version, str(len(one.sections)), str(one.chords), str(one.longest_sequence),
            str(one.documented_commands), str(one.default_keys),
            "simulated" if one.simulated else "yes" if one.installed else "no",
        )
        for one in found.editors
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
        bound = [(Cell(each.keys, "key"), each.does, Cell(each.when, "quiet")) for each in one.keys]
        blocks += [Blank(), Grid(bound, ("keys", "action", "when"), 2)]
    return blocks


def description_report(found: DescriptionReport, display: Display) -> list[Block]:
    """The tests of a description."""
    blocks: list[Block] = [line(Cell(found.title, "strong"), f" {found.version}")]
    for one in found.checks:
        good = not one.faults
        result = Cell("holds" if good else f"{len(one.faults)} wrong", "good" if good else "bad")
        blocks.append(Grid([(result, one.title, Cell(str(one.tested), "quiet"))], indent=2))
        blocks += [line(fault, indent=6) for fault in one.faults[:_MOST_FAULTS]]
        if len(one.faults) > _MOST_FAULTS:
            blocks.append(line(f"and {len(one.faults) - _MOST_FAULTS} more: --json has all of them", indent=6))
    noun = "fault" if found.faults == 1 else "faults"
    said = (
        f"{found.faults} {noun}. What is not tested yet is tested when they are mended."
        if found.faults
        else "No fault."
    )
    return [*blocks, Blank(), line(said)]


def known_hardware(found: KnownHardware, display: Display) -> list[Block]:
    """Layouts, keyboards, terminals and desktops."""
    rows = [
        (Cell(one.name, "strong"), one.title, one.shape.upper(), "AltGr" if one.altgr else "") for one in found.layouts
    ]
    blocks: list[Block] = [Grid(rows, ("layout", "title", "shape", "third level"))]
    for title, names in (
        ("Keyboards", found.keyboards), ("Terminals", found.terminals), ("Desktops", found.desktops),
    ):  # fmt: skip
        blocks += [Blank(), line(f"{title}: {', '.join(names)}")]
    return blocks


# --- workspaces


def start_report(found: StartReport, display: Display, dry_run: bool) -> list[Block]:
    """A workspace that was started, and what can be done next."""
    blocks: list[Block] = []
    if found.found:
        blocks.append(line("Key files on this machine"))
        rows = [
            (
                Cell(one.editor, "strong"), display.path(one.file.file), _count(one.bindings, "binding", "bindings"),
                _count(one.faults, "line looks like a mistake", "lines look like mistakes") if one.faults else "",
                Cell("adopted" if one.editor in found.adopted else "", "good"),
            )
            for one in found.found
        ]  # fmt: skip
        blocks += [Grid(rows, indent=2), Blank()]
    blocks += [written((one,), dry_run, display) for one in found.written]
    return blocks


def _count(number: int, one: str, several: str) -> str:
    return f"{number} {one if number == 1 else several}"


def next_steps(steps: tuple[str, ...]) -> list[Block]:
    """What can be done next."""
    return [line("Next"), *(line(Cell(f"ombix {step}", "key"), indent=2) for step in steps)]


def overview(found: Overview, display: Display) -> list[Block]:
    """Where things stand in a workspace."""
    layers = f", on top of {', '.join(found.layers)}" if found.layers else ""
    editors = ", ".join(f"{name} ({dialect})" for name, dialect in found.editors.items()) or "none named"
    counts = ", ".join(_count(count, noun, f"{noun}s") for noun, count in found.findings.items() if count)
    rows = [
        ("keymap", f"{display.path(found.keymap.file)}, {_count(found.bindings, 'binding', 'bindings')}{layers}"),
        ("editors", editors),
        ("findings", counts or "none"),
    ]
    return [Grid(rows), Blank(), *next_steps(found.next_steps)]
