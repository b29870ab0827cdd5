"""`ombix demo`: copies the demo workspace to a temporary folder and walks through the whole job on it."""

import io
import shutil
import tempfile
from itertools import pairwise
from pathlib import Path
from typing import NamedTuple

import typer

from ombix.console.environment import Environment, Folders, Status, environment_of
from ombix.core.errors import InputError, OutsideError
from ombix.data.shipped import DATA
from ombix.report.blocks import Blank, Cell, line


class DemoStep(NamedTuple):
    """A step: the sentence that comes before it, its command line, the exit status that it has to end with, and how many lines
    of its output are shown where not all are asked for."""

    sentence: str
    arguments: tuple[str, ...]
    status: Status = Status.FINE
    by_hand: tuple[str, str, str] = ("", "", "")
    """What is done by hand before: in a file, a text instead of another."""
    lines: int = 6


STEPS = (
    DemoStep("The desk's editor has keys of its own. What are they? Nothing has to be set up to look.",
         ("show", "--own", "--file", "desk/bindings.json")),
    DemoStep("Take them into the workspace.", ("adopt", "desk/bindings.json", "--editor", "desk"), Status.FOUND),
    DemoStep("What is bound now?", ("show",), lines=8),
    DemoStep("How do I …? In your own words.", ("how", "duplicate", "line")),
    DemoStep("What does a key do, and why?", ("what", "F8"), lines=7),
    DemoStep("The function keys, drawn.", ("picture", "--with", "none", "--output", "pictures/before.svg")),
    DemoStep("What is wrong with the keymap?", ("audit", "--severity", "warning"), Status.FOUND, lines=11),
    DemoStep("What are the ways out? Each was tried: it adds no finding.", ("settle", "--rule", "clash"), Status.FOUND, lines=8),
    DemoStep("The crew knows better: the check gets a key of its own.", ("bind", "problems.check", "F4")),
    DemoStep("Is it mended?", ("audit", "--severity", "warning")),
    DemoStep("The function keys now.", ("picture", "--with", "none", "--output", "pictures/after.svg")),
    DemoStep("Six weeks of the crew's use, counted. What is done by menu and mouse, and in too many steps?",
             ("use", "use/crew.jsonl", "--plot", "pictures/use.svg")),
    DemoStep("How much time do keys save, and what deserves some?", ("use", "savings", "--log", "use/crew.jsonl"), lines=8),
    DemoStep("Which keys would be better? Each was tried.", ("use", "suggest", "--log", "use/crew.jsonl", "--take", "all"),
             lines=7),
    DemoStep("A sheet for the wall: on two platforms, on two keyboards.",
             ("sheet", "--on", "linux", "--on", "mac", "--layout", "us", "--layout", "de", "--output", "keys.pdf")),
    DemoStep("A page to press keys on, with what becomes of them on the pier.", ("page", "--to", "pier")),
    DemoStep("And to learn them, a few at a time: ombix practice. What would it ask?",
             ("practice", "--list", "line.copy-down")),
    DemoStep("What do the keys do to a text, step by step?", ("press", "Alt+C", "Mod+D", "--at", "2:3"), lines=12),
    DemoStep("Four things of the crew take several steps, and three texts are written all day.",
         ("macro", "list", "--workspace", "macros")),
    DemoStep("Is a macro to be trusted? Try it on a text: nothing is written.",
         ("macro", "try", "cancel-two", "--workspace", "macros")),
    DemoStep("A text with gaps, in a file of a program, around what is selected.",
         ("macro", "try", "crossing", "--fill", "1=north", "--fill", "2=skerry", "--text", "", "--workspace", "macros")),
    DemoStep("Put the fourth macro on keys.", ("bind", "close-lines", "Alt+Q", "--workspace", "macros")),
    DemoStep("Carry them to the editors of three piers.", ("port", "--workspace", "macros"), Status.FOUND),
    DemoStep("Do they do the same there? Press them, on the northern pier,",
         ("prove", "--workspace", "macros", "--all", "--to", "north")),
    DemoStep("on the southern one,", ("prove", "--workspace", "macros", "--all", "--to", "south")),
    DemoStep("and on the skerry.", ("prove", "--workspace", "macros", "--all", "--to", "skerry")),
    DemoStep("And the texts to an editor in a window, in its own form.",
         ("macro", "port", "--to", "geany", "--workspace", "macros"), Status.FOUND),
    DemoStep("The booking desk works in panes: one key shows one, and puts it away. Pressed twice, on a stage:",
         ("press", "Mod+1", "Mod+1", "--workspace", "loom/ombix.toml")),
    DemoStep("And what does F9 do there?", ("what", "F9", "--workspace", "loom/ombix.toml")),
    DemoStep("The laptop has a German keyboard. How is it pressed there?", ("what", "Ctrl+/", "--layout", "de")),
    DemoStep("The same keymap on the ticket office's machine: what cannot be pressed there?",
         ("audit", "--workspace", "keyboards", "--on", "windows", "--severity", "warning"), Status.FOUND),
    DemoStep("And with the keymap that was mended for all keyboards?",
         ("audit", "--workspace", "keyboards/mended.toml", "--on", "windows", "--severity", "warning")),
    DemoStep("The terminal on the pier has another editor. Write its file.", ("port", "--to", "pier"), Status.FOUND, lines=22),
    DemoStep("Do the keys do the same there? Press them.", ("prove", "--to", "pier"), lines=14),
    DemoStep("Write the keymap into the files that three editors read. What else stands there stays.",
             ("apply", "--yes", "--workspace", "machines.toml"), lines=3),
    DemoStep("Somebody on the pier edits a key by hand: Alt+E goes to the start of the line. It is noticed.",
             ("status", "--workspace", "machines.toml"), Status.FOUND,
             ("machine/nanorc", "bind M-E end main", "bind M-E home main"), lines=10),
    DemoStep("Take that into the keymap, for all editors.", ("apply", "--adopt", "--workspace", "machines.toml")),
    DemoStep("It was a mistake. Take it back in the pier's file and in the keymap.",
             ("undo", "--workspace", "machines.toml")),
    DemoStep("Two piers changed one keymap, each for itself. Put both together, by what they mean.",
             ("merge", "two-piers/before.keys.toml", "two-piers/north.keys.toml", "two-piers/south.keys.toml"), Status.FOUND,
             lines=14),
)  # fmt: skip
"""What the demo runs."""
_SIMULATED = ("--on-stage",)
_WRITING = (("adopt",), ("bind",), ("apply",), ("undo",), ("use", "suggest"))
"""The commands on whose changes later steps stand."""


def run(
    context: typer.Context,
    folder: Path | None = typer.Option(
        None, "--folder", metavar="FOLDER", help="Copy to this new folder, and leave it there."
    ),
    step: int | None = typer.Option(
        None, "--step", metavar="NUMBER", help="Show one step alone, with all of its output."
    ),
    everything: bool = typer.Option(False, "--all", help="Show all of the output of every step."),
) -> Status:
    """Walk through the whole job on demo data, in a temporary folder."""
    environment = environment_of(context)
    if step is not None and not 1 <= step <= len(STEPS):
        raise InputError(f"there is no step {step}", f"Its steps are 1 to {len(STEPS)}.")
    if folder is not None:
        copy(environment.folders.here / folder)
        environment.show([line(f"wrote {folder}")])
        environment.say(f"Next: cd {folder}; ombix show")
        return Status.FINE
    with tempfile.TemporaryDirectory(prefix="ombix-demo-") as name:
        place = Path(name).resolve() / "ferry"
        copy(place)
        wrong = _walk(environment, place, step, everything)
    if wrong is not None:
        environment.say(f"The demo went otherwise than it should, at step {wrong}.")
        return Status.OUTSIDE
    if step is not None:
        return Status.FINE
    environment.show(
        [Blank(), line("That is the whole job. For a copy to play with: ", Cell("ombix demo --folder ferry", "key"))]
    )
    return Status.FINE


def copy(folder: Path) -> None:
    """Copy the demo workspace to a new folder. Raises OutsideError when the folder is there already."""
    try:
        shutil.copytree(DATA / "demo", folder)
    except FileExistsError:
        raise OutsideError(f"{folder} is there already", "Name a new folder.") from None
    except OSError as error:
        raise OutsideError(f"{folder} cannot be written: {error.strerror}") from None


def _walk(environment: Environment, place: Path, only: int | None, everything: bool) -> int | None:
    """Run the steps, or one alone behind those whose changes it stands on; the number of the first that ended otherwise than it
    says, or None."""
    if only is None:
        environment.show([line(f"The ferry crew's keymap, in {len(STEPS)} steps.")])
    for number, step in enumerate(STEPS, 1):
        is_shown = only in (None, number)
        if only is not None and number > only:
            break
        if step.by_hand[0]:
            file, old, new = step.by_hand
            (place / file).write_text((place / file).read_text("utf-8").replace(old, new), "utf-8")
        if not is_shown and not any(step.arguments[: len(one)] == one for one in _WRITING):
            continue
        arguments, note = step.arguments, ""
        if arguments[0] == "prove" and not _can_be_pressed(arguments, place):
            arguments = (*arguments, *_SIMULATED)
            note = " The editor is not installed here, so they are pressed in its simulation."
        if is_shown:
            words = [f'"{word}"' if " " in word or not word else word for word in arguments]
            environment.show([
                *([Blank()] if only is None else []),
                line(Cell(f"{number}. {step.sentence}{note}", "strong")),
                line(Cell(f"$ ombix {' '.join(words)}", "key")),
            ])  # fmt: skip
            environment.results.stream.flush()
        status, printed = _run(environment, place, arguments)
        if is_shown:
            is_whole = everything or only is not None or status != step.status
            _show_lines(environment, printed, len(printed) if is_whole else step.lines, number)
        if status != step.status:
            return number
    return None


def _run(environment: Environment, place: Path, arguments: tuple[str, ...]) -> tuple[Status, list[str]]:
    """Run a command on the demo data: its exit status, and the lines that it prints."""
    from ombix.cli.main import run as run_command

    display = environment.display._replace(folder=str(place))
    folders = Folders(place, place.parent / "cache", place.parent / "state")
    printed = io.StringIO()
    results = environment.results._replace(stream=printed, display=display)
    status = run_command(list(arguments), Environment(results, results, folders, environment.is_terminal))
    return status, printed.getvalue().splitlines()


def _show_lines(environment: Environment, printed: list[str], most: int, number: int) -> None:
    """The first lines of what a step printed, and how to see the others."""
    shown = printed if len(printed) <= most + 1 else printed[:most]
    while shown and not shown[-1].strip():
        shown = shown[:-1]
    environment.results.write(shown)
    if left := len(printed) - len(shown):
        environment.show([line(Cell(f"… {left} more lines: ombix demo --step {number}", "quiet"))])
    environment.results.stream.flush()


def _can_be_pressed(arguments: tuple[str, ...], place: Path) -> bool:
    """Whether keys can be pressed here in the editor that a proof is of."""
    from ombix.evidence.editor_host import is_ready
    from ombix.workspace.open_workspace import OpenWorkspace

    told = dict(pairwise(arguments))
    dialect = OpenWorkspace(folder=str(place / told.get("--workspace", "."))).opener.target(told["--to"]).dialect
    return dialect is not None and dialect.description.program is not None and is_ready(dialect.description.program)
