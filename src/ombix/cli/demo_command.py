"""`ombix demo`: copies the demo workspace to a temporary folder and walks through the whole job on it."""

import shutil
import tempfile
from itertools import pairwise
from pathlib import Path
from typing import NamedTuple

import typer

from ombix.console.environment import Environment, Folders, Status, environment_of
from ombix.core.errors import OutsideError
from ombix.data.shipped import DATA
from ombix.report.blocks import Blank, Cell, line


class DemoStep(NamedTuple):
    """A step: the sentence that comes before it, its command line, and the exit status that it has to end with."""

    sentence: str
    arguments: tuple[str, ...]
    status: Status = Status.FINE
    by_hand: tuple[str, str, str] = ("", "", "")
    """What is done by hand before: in a file, a text in the place of another."""


STEPS = (
    DemoStep("The desk's editor has keys of its own. What are they? Nothing has to be set up to look.",
         ("show", "--own", "--file", "desk/bindings.json")),
    DemoStep("Take them into the workspace.", ("adopt", "desk/bindings.json", "--editor", "desk"), Status.FOUND),
    DemoStep("What is bound now?", ("show",)),
    DemoStep("How do I …? In your own words.", ("how", "duplicate", "line")),
    DemoStep("What does a key do, and why?", ("what", "F8")),
    DemoStep("The function keys, drawn.", ("picture", "--with", "none", "--output", "pictures/before.svg")),
    DemoStep("What is wrong with the keymap?", ("audit", "--severity", "warning"), Status.FOUND),
    DemoStep("What are the ways out? Each was tried: it adds no finding.", ("settle", "--rule", "clash"), Status.FOUND),
    DemoStep("The crew knows better: the check gets a key of its own.", ("bind", "problems.check", "F4")),
    DemoStep("Is it mended?", ("audit", "--severity", "warning")),
    DemoStep("The function keys now.", ("picture", "--with", "none", "--output", "pictures/after.svg")),
    DemoStep("Six weeks of the crew's use, counted. What is done by menu and mouse, and in too many steps?",
             ("use", "use/crew.jsonl", "--plot", "pictures/use.svg")),
    DemoStep("How much time do keys save, and what deserves some?", ("use", "savings", "--log", "use/crew.jsonl")),
    DemoStep("Which keys would be better? Each was tried.", ("use", "suggest", "--log", "use/crew.jsonl", "--take", "all")),
    DemoStep("A sheet for the wall: on two platforms, on two keyboards.",
             ("sheet", "--on", "linux", "--on", "mac", "--layout", "us", "--layout", "de", "--output", "keys.pdf")),
    DemoStep("A page to press keys on, with what becomes of them on the pier.", ("page", "--to", "pier")),
    DemoStep("And to learn them, a few at a time: ombix practice. What would it ask?",
             ("practice", "--list", "line.copy-down")),
    DemoStep("What do the keys do to a text, step by step?", ("press", "Alt+C", "Mod+D", "--at", "2:3")),
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
    DemoStep("The terminal on the pier has another editor. Write its file.", ("port", "--to", "pier"), Status.FOUND),
    DemoStep("Do the keys do the same there? Press them.", ("prove", "--to", "pier")),
    DemoStep("Write the keymap into the files that three editors read. What else stands there stays.",
             ("apply", "--yes", "--workspace", "machines.toml")),
    DemoStep("Somebody on the pier edits a key by hand: Alt+E goes to the start of the line. It is noticed.",
             ("status", "--workspace", "machines.toml"), Status.FOUND,
             ("machine/nanorc", "bind M-E end main", "bind M-E home main")),
    DemoStep("Take that into the keymap, for all editors.", ("apply", "--adopt", "--workspace", "machines.toml")),
    DemoStep("It was a mistake. Take it back in the pier's file and in the keymap.",
             ("undo", "--workspace", "machines.toml")),
    DemoStep("Two piers changed one keymap, each for itself. Put both together, by what they mean.",
             ("merge", "two-piers/before.keys.toml", "two-piers/north.keys.toml", "two-piers/south.keys.toml"), Status.FOUND),
)  # fmt: skip
"""What the demo runs."""
_SIMULATED = ("--on-stage",)


def run(
    context: typer.Context,
    folder: Path | None = typer.Option(
        None, "--folder", metavar="FOLDER", help="Copy to this new folder, and leave it there."
    ),
) -> Status:
    """Walk through the whole job on demo data, in a temporary folder."""
    environment = environment_of(context)
    if folder is not None:
        copy(environment.folders.here / folder)
        environment.show([line(f"wrote {folder}")])
        environment.say(f"Next: cd {folder}; ombix show")
        return Status.FINE
    with tempfile.TemporaryDirectory(prefix="ombix-demo-") as name:
        place = Path(name).resolve() / "ferry"
        copy(place)
        wrong = _walk(environment, place)
    if wrong is not None:
        environment.say(f"The demo went otherwise than it should, at step {wrong}.")
        return Status.OUTSIDE
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


def _walk(environment: Environment, place: Path) -> int | None:
    """Run the steps; the number of the first that ended otherwise than it says, or None."""
    from ombix.cli.main import run as run_command

    display = environment.display._replace(folder=str(place))
    folders = Folders(place, place.parent / "cache", place.parent / "state")
    results = environment.results._replace(display=display)
    inner = Environment(results, results, folders, environment.is_terminal)
    environment.show([line(f"The ferry crew's keymap, in {len(STEPS)} steps.")])
    for number, step in enumerate(STEPS, 1):
        arguments, note = step.arguments, ""
        if arguments[0] == "prove" and not _can_be_pressed(arguments, place):
            arguments = (*arguments, *_SIMULATED)
            note = " The editor is not installed here, so they are pressed in its simulation."
        if step.by_hand[0]:
            file, old, new = step.by_hand
            (place / file).write_text((place / file).read_text("utf-8").replace(old, new), "utf-8")
        words = [f'"{word}"' if " " in word else word for word in arguments]
        environment.show(
            [
                Blank(),
                line(Cell(f"{number}. {step.sentence}{note}", "strong")),
                line(Cell(f"$ ombix {' '.join(words)}", "key")),
            ]
        )
        environment.results.stream.flush()
        status = run_command(list(arguments), inner)
        if status != step.status:
            return number
    return None


def _can_be_pressed(arguments: tuple[str, ...], place: Path) -> bool:
    """Whether keys can be pressed here in the editor that a proof is of."""
    from ombix.evidence.editor_host import is_ready
    from ombix.workspace.open_workspace import OpenWorkspace

    told = dict(pairwise(arguments))
    dialect = OpenWorkspace(folder=str(place / told.get("--workspace", "."))).opener.target(told["--to"]).dialect
    return dialect is not None and dialect.description.program is not None and is_ready(dialect.description.program)
