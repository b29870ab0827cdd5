"""`ombix demo`: copies the demo workspace to a temporary folder and walks through the whole job on it."""

import shutil
import tempfile
from pathlib import Path

import typer

from ombix.cli.environment import Environment, Status, environment_of
from ombix.core.errors import OutsideError
from ombix.data.shipped import DATA

STEPS: tuple[tuple[str, tuple[str, ...]], ...] = (
    ("The desk's editor has keys of its own. Take them into the workspace.",
     ("adopt", "desk/bindings.json", "--editor", "desk")),
    ("What is bound now?", ("show",)),
    ("How do I …? In your own words.", ("how", "duplicate", "line")),
    ("What does a key do, and why?", ("what", "F8")),
    ("What is wrong with the keymap?", ("audit", "--severity", "warning")),
    ("Mend it: the check gets a key of its own.", ("bind", "problems.check", "F4")),
    ("Is it mended?", ("audit", "--severity", "warning")),
    ("What do the keys do to a text, step by step?", ("press", "Alt+C", "Mod+D", "--at", "2:3")),
    ("The laptop has a German keyboard. How is it pressed there?", ("what", "Ctrl+/", "--layout", "de")),
    ("The same keymap on the ticket office's machine: what cannot be pressed there?",
     ("audit", "--workspace", "keyboards", "--on", "windows", "--severity", "warning")),
    ("And with the keymap that was mended for all keyboards?",
     ("audit", "--workspace", "keyboards/mended.toml", "--on", "windows", "--severity", "warning")),
    ("The terminal on the pier has another editor. Write its file.", ("port", "--to", "pier")),
    ("Do the keys do the same there? Press them.", ("prove", "--to", "pier")),
)  # fmt: skip
"""What the demo runs, each with the sentence that comes before it."""


def run(
    context: typer.Context,
    folder: Path | None = typer.Option(
        None, "--folder", metavar="FOLDER", help="Copy to this new folder, and leave it there."
    ),
) -> Status:
    """Walk through the whole job on demo data, in a temporary folder."""
    environment = environment_of(context)
    if folder is not None:
        copy(folder)
        environment.out(f"wrote {folder}")
        environment.say(f"Next: cd {folder}; ombix show")
        return Status.FINE
    with tempfile.TemporaryDirectory(prefix="ombix-demo-") as name:
        place = Path(name) / "ferry"
        copy(place)
        _walk(environment, place, Path(name))
    environment.out("", "That is the whole job. For a copy to play with: ombix demo --folder ferry")
    return Status.FINE


def copy(folder: Path) -> None:
    """Copy the demo workspace to a new folder. Raises OutsideError when the folder is there already."""
    try:
        shutil.copytree(DATA / "demo", folder)
    except FileExistsError:
        raise OutsideError(f"{folder} is there already", "Name a new folder.") from None
    except OSError as error:
        raise OutsideError(f"{folder} cannot be written: {error.strerror}") from None


def _walk(environment: Environment, place: Path, scratch: Path) -> None:
    from ombix.cli.main import run as run_command

    inner = Environment(
        environment.out_stream, environment.out_stream, environment.paper, environment.paper, place,
        scratch / "cache", scratch / "state", environment.is_terminal,
    )  # fmt: skip
    style = environment.paper.style
    for number, (sentence, arguments) in enumerate(STEPS, 1):
        words = [f'"{word}"' if " " in word else word for word in arguments]
        environment.out(*([] if number > 1 else [f"The ferry crew's keymap, in {len(STEPS)} steps."]), "")
        environment.out(style(f"{number}. {sentence}", "strong"), style(f"$ ombix {' '.join(words)}", "key"))
        environment.out_stream.flush()
        run_command(list(arguments), inner)
