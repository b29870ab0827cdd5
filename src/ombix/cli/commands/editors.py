"""`ombix editors`: the editors that Ombix knows, and what each can express."""

from pathlib import Path

import typer

from ombix.cli.environment import Environment, Status, environment_of
from ombix.cli.options import JsonOption
from ombix.core.errors import InputError, did_you_mean
from ombix.core.keys import write
from ombix.data import shipped
from ombix.dialects import checking
from ombix.dialects.engine import Dialect
from ombix.dialects.loading import dialect, known
from ombix.report.plain import Cell, table, wrap
from ombix.store import workspace as workspaces


def run(
    context: typer.Context,
    name: str = typer.Argument("", metavar="[NAME]", help="One editor, in full."),
    commands: bool = typer.Option(False, "--commands", help="With NAME: every command and its action."),
    keys: bool = typer.Option(False, "--keys", help="With NAME: the default keys."),
    check: Path | None = typer.Option(
        None, "--check", metavar="FOLDER", help="Test a description of one's own; see the guide in docs/describing.md."
    ),
    json: JsonOption = False,
) -> Status:
    """Editors that Ombix knows: what each can express."""
    environment = environment_of(context)
    if check is not None:
        return _check(environment, check, json)
    if name and name not in known():
        raise InputError(f"unknown editor: {name}", did_you_mean(name, known()) or f"Ombix knows {', '.join(known())}.")
    chosen = [dialect(one) for one in ([name] if name else known())]
    if json:
        environment.json([_document(one) for one in chosen])
    elif name:
        _one(environment, chosen[0], commands, keys)
    else:
        rows: list[list[Cell | str]] = [
            [
                Cell(one.name, "strong"),
                one.description.version,
                *(str(number) for number in _numbers(one)),
                _installed(one),
            ]
            for one in chosen
        ]
        head = ("editor", "version", "sections", "chords", "in a row", "commands", "default keys", "installed")
        environment.out(*table(rows, environment.paper, head))
    return Status.FINE


def _check(environment: Environment, folder: Path, json: bool) -> Status:
    home = str(folder) if "/" in str(folder) else f"./{folder}"
    one = dialect(home)
    terminal = shipped.terminal(one.description.terminal)
    platform = shipped.platform(workspaces.this_platform())
    found = list(checking.check(one, shipped.catalogue(), shipped.facts(), platform, terminal, Path(home)))
    faults = sum(len(each.faults) for each in found)
    if json:
        environment.json({
            "name": one.name,
            "checks": [{"title": each.title, "count": each.count, "faults": list(each.faults)} for each in found],
        })  # fmt: skip
        return Status.FOUND if faults else Status.FINE
    paper = environment.paper
    environment.out(f"{paper.style(one.description.title, 'strong')} {one.description.version}")
    for each in found:
        good = not each.faults
        number = "holds" if good else f"{len(each.faults)} wrong"
        row: list[Cell | str] = [Cell(number, "good" if good else "bad"), each.title, Cell(str(each.count), "quiet")]
        environment.out(*table([row], paper, indent=2))
        for fault in each.faults[:_MOST_FAULTS]:
            environment.out(*wrap(fault, paper, 6))
        if len(each.faults) > _MOST_FAULTS:
            environment.out(f"      and {len(each.faults) - _MOST_FAULTS} more: --json has all of them")
    noun = "fault" if faults == 1 else "faults"
    environment.out(
        "", f"{faults} {noun}. What is not tested yet is tested when they are mended." if faults else "No fault."
    )
    return Status.FOUND if faults else Status.FINE


_MOST_FAULTS = 8


def _numbers(one: Dialect) -> tuple[int, int, int, int, int]:
    description = one.description
    documented = sum(1 for row in one.commands.values() if row.documented)
    return (
        len(description.sections), len(one.spelling.chords()), description.keys.longest, documented,
        len(one.default_layer.bindings),
    )  # fmt: skip


def _installed(one: Dialect) -> str:
    from ombix.proving.driver import is_installed

    program = one.description.program
    if one.description.simulated:
        return "simulated"
    return "yes" if program is not None and is_installed(program) else "no"


def _one(environment: Environment, one: Dialect, commands: bool, keys: bool) -> None:
    paper, description = environment.paper, one.description
    _sections, chords, longest, documented, defaults = _numbers(one)
    mapped = sum(1 for row in one.commands.values() if row.action and row.documented)
    environment.out(f"{paper.style(description.title, 'strong')} {description.version}")
    facts: list[list[Cell | str]] = [
        ["file", f"{description.file.name}, {_FORMATS.get(description.file.format, description.file.format)}"],
        ["usually at", ", ".join(description.file.usual)],
        ["can bind", f"{chords} chords, at most {longest} in a row"],
        ["can tell", ", ".join(_tellable(one)) or "its sections only"],
        ["decides", f"the {_WINS[one.policy.wins]} of several wins; a chord that begins a sequence {_prefix(one)}"],
        ["commands", f"{documented} documented, {mapped} of them actions, {documented - mapped} its own"],
        ["default keys", str(defaults)],
        ["sections", ", ".join(f"{name} ({where})" for name, where in description.sections.items())],
        ["known from", "; ".join(description.sources)],
    ]
    environment.out(*table(facts, paper, indent=2))
    for note in description.notes:
        environment.out(*wrap(note, paper, 2))
    if commands:
        rows: list[list[Cell | str]] = []
        for command, row in one.commands.items():
            meaning = row.action or f"only here: {row.only}"
            rows.append([Cell(command, "strong"), meaning + (f" ({row.differs})" if row.differs else "")])
        environment.out("", *table(rows, paper, ("command", "action"), 2))
    if keys:
        bound: list[list[Cell | str]] = [
            [Cell(write(one_binding.trigger), "key"), str(one_binding.outcome), Cell(one_binding.where, "quiet")]
            for one_binding in one.default_layer.bindings
        ]
        environment.out("", *table(bound, paper, ("keys", "action", "when"), 2))


_WINS = {"last": "last", "first": "first", "innermost": "innermost", "specific": "most specific"}


def _prefix(one: Dialect) -> str:
    """What a chord does that begins a sequence."""
    if one.policy.prefix == "timed":
        return f"waits for {one.policy.wait_ms} ms"
    return "waits" if one.policy.prefix == "waits" else "fires at once"


def _tellable(one: Dialect) -> list[str]:
    """The facts that a binding's condition may speak of, beside its section."""
    words = one.description.file.words
    found = [words.language] if words is not None and words.language else []
    conditions = one.description.conditions
    if conditions is not None:
        meanings = [meaning.replace("{value}", "x") for meaning in conditions.words.values()]
        found += [name for meaning in meanings for name in one.space.mentioned(one.space.parse(meaning))]
    return sorted(set(found))


_FORMATS = {
    "json": "JSON with comments",
    "toml": "TOML",
    "ini": "settings under headings",
    "xml": "XML",
    "lists": "lists in parentheses",
    "lines": "line by line",
    "headed": "lines under headings",
    "words": "commands of words",
}


def _document(one: Dialect) -> dict[str, object]:
    _sections, chords, longest, documented, defaults = _numbers(one)
    return {
        "name": one.name, "version": one.description.version, "file": one.description.file.name,
        "sections": one.description.sections, "chords": chords, "longest_sequence": longest,
        "documented_commands": documented, "default_keys": defaults, "installed": _installed(one) == "yes",
        "simulated": one.description.simulated, "can_tell": _tellable(one), "wait_ms": one.policy.wait_ms,
        "wins": one.policy.wins, "prefix": one.policy.prefix,
        "commands": {
            command: {"action": row.action or None, "only": row.only or None, "differs": row.differs or None}
            for command, row in one.commands.items()
        },
    }  # fmt: skip
