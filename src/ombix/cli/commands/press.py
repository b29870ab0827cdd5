"""`ombix press KEYS`: runs keys on a text, step by step, in a simulated editor."""

import re
from pathlib import Path

import typer

from ombix.cli.common import choose_editor, dialect_of, find_setting, stand
from ombix.cli.environment import Environment, Status, environment_of, shown_path
from ombix.cli.options import ConditionOption, EditorOption, JsonOption, PlatformOption, WorkspaceOption
from ombix.cli.ported import ported
from ombix.core.conditions import Space
from ombix.core.deciding import Policy
from ombix.core.errors import InputError
from ombix.core.keys import Chord, parse, write
from ombix.core.platforms import Platform
from ombix.data import shipped
from ombix.proving.simulated import Stage
from ombix.report.plain import Cell, table, visible
from ombix.stage.editor import Editor, Happened, start_state
from ombix.stage.text import Page
from ombix.store.files import read_text

TEXT = "07:10 north pier to skerry\n07:45 skerry to north pier\n08:20 north pier to south pier\n"
"""What is pressed on where no text is given: a morning's timetable."""

_PAUSE = re.compile(r"(\d+)ms")
_LONGEST_TEXT = 1_000_000
"""Characters; what is pressed on is a sample."""


def run(
    context: typer.Context,
    keys: list[str] = typer.Argument(metavar="KEYS", help="Keys one after the other; 700ms is a pause."),
    editor: EditorOption = "",
    file: Path | None = typer.Option(
        None, "--file", metavar="FILE", help="The editor's own file; without it, the workspace's keymap, ported."
    ),
    text: str | None = typer.Option(None, "--text", metavar="TEXT", help="The text; \\n is a new line."),
    text_file: Path | None = typer.Option(None, "--text-file", metavar="FILE", help="A file with the text."),
    at: str = typer.Option("1:1", "--at", metavar="LINE:COLUMN", help="Where the cursor stands, counted from 1."),
    condition: ConditionOption = "always",
    on: PlatformOption = "",
    workspace: WorkspaceOption = None,
    json: JsonOption = False,
) -> Status:
    """Run keys on a text, step by step, in a simulated editor."""
    environment = environment_of(context)
    sample = _text(environment, text, text_file)
    page = Page(sample, _offset(sample, at))
    made, platform, title = _editor(environment, workspace, on, editor, file, page, condition)
    steps: list[tuple[str, list[Happened]]] = []
    facts = dict(made.facts)
    for word, chords in _strokes(keys, platform):
        before = len(made.happened)
        if isinstance(chords, int):
            made.pause(chords)
        else:
            made.press(chords)
        steps.append((word, made.happened[before:]))
    if json:
        environment.json(_document(steps, made, title))
    else:
        _print(environment, steps, made, page, facts, title, platform)
    return Status.FINE if any(one.kind in ("runs", "types") for one in made.happened) else Status.FOUND


def _text(environment: Environment, text: str | None, file: Path | None) -> str:
    if text is not None and file is not None:
        raise InputError("there are two texts", "Give --text or --text-file.")
    found = read_text(environment.folder / file) if file else TEXT if text is None else text.replace("\\n", "\n")
    if len(found) > _LONGEST_TEXT:
        raise InputError(f"the text is longer than {_LONGEST_TEXT:,} characters", "Press on a sample of it.")
    return found


def _offset(text: str, at: str) -> int:
    match = re.fullmatch(r"(\d+)(?::(\d+))?", at)
    if match is None:
        raise InputError(f"{at} is no place in a text", "Write a line and a column, like 2:7.")
    lines = text.split("\n")
    line, column = int(match[1]), int(match[2] or 1)
    if not 1 <= line <= len(lines) or not 1 <= column <= len(lines[line - 1]) + 1:
        raise InputError(f"the text has no place {at}", f"It has {len(lines)} lines.")
    return sum(len(one) + 1 for one in lines[: line - 1]) + column - 1


def _strokes(words: list[str], platform: Platform) -> list[tuple[str, list[Chord] | int]]:
    """Each chord by itself, and each pause in milliseconds."""
    found: list[tuple[str, list[Chord] | int]] = []
    for word in " ".join(words).split():
        pause = _PAUSE.fullmatch(word)
        if pause is not None:
            found.append((word, int(pause[1])))
        else:
            found += [(platform.show((chord,)), [chord]) for chord in platform.resolve(parse(word))]
    if not found:
        raise InputError("no keys are given", "Write keys like Ctrl+Shift+K or Space o f.")
    return found


def _editor(
    environment: Environment, workspace: Path | None, on: str, name: str, file: Path | None, page: Page, condition: str
) -> tuple[Editor, Platform, str]:
    """The editor on the stage, its platform, and what it is called."""
    catalogue = shipped.catalogue()
    if not name:
        if file is not None:
            raise InputError("whose file is this?", "Say --editor NAME, too.")
        here = stand(environment, workspace, on, "")
        facts = _start(here.space, condition, ["mode is not plain"], "an editor")
        made = Editor(here.tables, here.keymap.macros, Policy(), here.space, catalogue, page, facts)
        return made, here.setting.platform, f"The keymap {here.keymap.layers[-1].name} by itself"
    setting = find_setting(environment, workspace, on, name, needs_workspace=False)
    dialect = dialect_of(choose_editor(setting.workspace, name))
    kind = dialect.description.title
    said = kind if dialect.description.simulated else f"{kind}, simulated by its description"
    space = Space(shipped.facts().extended(dialect.facts, []))
    layers = []
    if file is not None:
        layers = [dialect.read(read_text(environment.folder / file), shown_path(file, environment)).layer]
        said += f", with {shown_path(file, environment)}"
    elif setting.workspace is not None:
        work = ported(environment, workspace, on, name, "")
        space = work.here.space
        layers = [dialect.read(work.file.text, "the ported file").layer]
        said += f", with the ported keymap {work.source_name}"
    stage = Stage(dialect, layers, setting.platform, space, catalogue)
    _start(space, condition, dialect.description.never, dialect.name)
    return stage.editor(page, condition), setting.platform, said


def _start(space: Space, condition: str, never: list[str], name: str) -> dict[str, str]:
    try:
        return start_state(space, condition, never)
    except ValueError:
        raise InputError(f"{name} is never in this state", "", None, condition, len(condition)) from None


def _print(
    environment: Environment, steps: list[tuple[str, list[Happened]]], made: Editor, start: Page, facts: dict[str, str],
    title: str, platform: Platform,
) -> None:  # fmt: skip
    paper = environment.paper
    environment.out(*table([[f"{title.replace('the stand-in', 'The stand-in', 1)}, on {platform.title}."]], paper), "")
    rows: list[list[Cell | str]] = []
    page = start
    for word, happened in steps:
        for number, one in enumerate(happened):
            rows.append([
                Cell("" if number else word, "key"), Cell(_what(one), _STYLES[one.kind]), one.why,
                _line(one.page) if one.page != page else "",
            ])  # fmt: skip
            changed = [f"{name} is {value}" for name, value in one.facts.items() if facts.get(name, value) != value]
            if changed:
                rows.append(["", Cell(f"now {', '.join(changed)}", "quiet"), "", ""])
            page, facts = one.page, one.facts
        if not happened:
            rows.append([Cell(word, "key"), "", "nothing was waiting, or it waits longer", ""])
    environment.out(*table(rows, paper, ("keys", "does", "because", "the line then"), 2))
    if made.waits_for_more:
        waits = platform.show(made.waits_for_more)
        environment.out("", *table([[Cell(f"{waits} still waits for more keys.", "warn")]], paper))
    environment.out("", "The text then")
    environment.out(*(f"  {visible(line)}" for line in _marked(made.page).rstrip("\n").split("\n")))


_STYLES = {"runs": "strong", "types": "", "waits": "warn", "nothing": "quiet"}


def _what(one: Happened) -> str:
    if one.kind == "types":
        return f"types {one.text!r}"
    if one.kind == "waits":
        return "waits"
    return str(one.outcome) if one.outcome is not None and one.kind == "runs" else "nothing"


def _line(page: Page) -> str:
    """The line with the cursor."""
    marked = _marked(page)
    at = marked.index("|") if "|" not in page.text else page.cursor
    start, end = marked.rfind("\n", 0, at) + 1, marked.find("\n", at)
    return visible(marked[start : end if end >= 0 else None])


def _marked(page: Page) -> str:
    """The text with the cursor as `|`, and what is selected in brackets."""
    start, end = page.selection
    if start == end:
        return f"{page.text[: page.cursor]}|{page.text[page.cursor :]}"
    inside = f"[{page.text[start:end]}]"
    inside = f"{inside}|" if page.cursor == end else f"|{inside}"
    return page.text[:start] + inside + page.text[end:]


def _document(steps: list[tuple[str, list[Happened]]], made: Editor, title: str) -> dict[str, object]:
    return {
        "editor": title,
        "steps": [
            {
                "pressed": word, "keys": write(one.keys), "kind": one.kind, "does": _what(one), "because": one.why,
                "text": one.page.text, "cursor": one.page.cursor, "selection": list(one.page.selection),
                "facts": one.facts,
            }
            for word, happened in steps
            for one in happened
        ],
        "waits": write(made.waits_for_more) if made.waits_for_more else None,
        "text": made.page.text,
        "cursor": made.page.cursor,
        "selection": list(made.page.selection),
    }  # fmt: skip
