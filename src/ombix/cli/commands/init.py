"""`ombix init`: starts a workspace here."""

import typer

from ombix.cli.environment import Status, environment_of
from ombix.cli.options import DryRunOption
from ombix.core.errors import InputError, Place
from ombix.store.files import Journal
from ombix.store.keymaps import SUFFIX
from ombix.store.workspace import FILE_NAME

_WORKSPACE = """\
# Which keymap, and which editors it is for. See: ombix editors
format = 1
keymap = "{keymap}"

# [editor.desk]
# dialect = "micro"
# file = "~/.config/micro/bindings.json"
"""

_KEYMAP = """\
# Arranged by what you want to do. Find an action's name with: ombix how WORDS
format = 1
name = "{name}"

[where]                                # conditions with a name
editing = "pane is text and not readonly"

[bind.app]
command-line = "Mod+Shift+P"

[bind.line]
copy-down = {{ press = "Mod+Shift+Y", where = "editing" }}
"""


def run(
    context: typer.Context,
    name: str = typer.Option("mine", "--name", metavar="NAME", help="The name of the keymap."),
    dry_run: DryRunOption = False,
) -> Status:
    """Start a workspace here: a workspace file and a keymap file."""
    environment = environment_of(context)
    if not name or not all(char.isalnum() or char in "-_" for char in name):
        raise InputError(f"not a name for a keymap: {name}", "Use letters, digits, - and _.")
    keymap = name + SUFFIX
    texts = {
        environment.folder / FILE_NAME: _WORKSPACE.format(keymap=keymap),
        environment.folder / keymap: _KEYMAP.format(name=name),
    }
    for path in texts:
        if path.exists():
            raise InputError("this file is there already", "Nothing was changed.", Place(path.name))
    if not dry_run:
        Journal(environment.state_folder).write_all("init", texts)
    for path in texts:
        environment.out(f"{'would write' if dry_run else 'wrote'} {path.name}")
    environment.say("Next: ombix adopt FILE --editor NAME, or ombix bind ACTION KEYS")
    return Status.FINE
