"""What the target does on a key already, and what the keys of a macro do in the editor that it comes from."""

import pytest

from ombix.core.keymap.outcomes import Do
from ombix.core.porting import PortEntry
from ombix.editors.editor_porting import PortedFile
from ombix.editors.file_reading import read_file
from tests.editors.test_porting import own, port
from tests.helpers import dialect


def only(file: PortedFile) -> PortEntry:
    (entry,) = file.entries
    return entry


@pytest.mark.parametrize(
    ("target", "keys", "action"),
    [
        ("mousepad", "ArrowLeft", "cursor.left"),
        ("geany", "Delete", "edit.delete-right"),
        ("geany", "Shift+ArrowLeft", "select.left"),
    ],
)
def test_what_a_key_does_by_default_needs_no_command(target: str, keys: str, action: str) -> None:
    """These are no commands that the editor's file could name."""
    assert not dialect(target).vocabulary.by_action.get(action)
    entry = only(port(own((keys, Do(action), "pane is text")), None, target))
    assert entry.verdict == "exact"
    assert entry.how == "so by default"


def test_a_default_of_another_action_is_no_default_for_it() -> None:
    """Kate copies the line where nothing is selected, and the action copies what is selected: that is another one."""
    entry = only(port(own(("Ctrl+C", Do("edit.copy-selection"), "pane is text")), None, "kate"))
    assert entry.verdict == "lost"


def test_a_default_whose_keys_another_binding_takes_is_not_counted_on() -> None:
    """In a terminal Ctrl+H is Backspace: what is bound to it first has the key."""
    layer = own(("Ctrl+H", Do("search.find"), "pane is text"), ("Backspace", Do("edit.delete-left"), "pane is text"))
    file = port(layer, None, "dte")
    by_action = {str(entry.source.outcome): entry for entry in file.entries}
    found = by_action["search.find"].trigger, by_action["edit.delete-left"].trigger
    assert len(set(found)) == 2


@pytest.mark.parametrize(
    ("keys", "target", "written"),
    [
        ('"{end}{enter}"', "micro", "EndOfLine,InsertNewline"), ('"{end}{enter}"', "joe", "eol,rtn"),
        ('"{home}{mark}{down}{cut}"', "joe", "bol"),
    ],
)  # fmt: skip
def test_keys_that_a_macro_presses_are_what_they_do_where_it_comes_from(keys: str, target: str, written: str) -> None:
    """Enter and Down are nobody's commands in nano: it takes them by itself."""
    nano = dialect("nano")
    layer = read_file(nano, f"bind M-Q {keys} main\n", "nanorc").layer
    entry = only(port(layer, nano, target))
    assert entry.verdict == "adapted"
    assert written in " ".join(entry.written)


def test_of_a_text_that_is_left_nobody_sees_the_cursor() -> None:
    """In the exact comparison it stands: Escape, by which ex begins, moves the cursor."""
    nano = dialect("nano")
    entry = only(port(read_file(nano, "bind ^Q exit main\n", "nanorc").layer, nano, "ex"))
    assert entry.everyday is None
    assert "cursor" not in " ".join(entry.plainly("ex"))
    assert entry.answer == "works but"  # on other keys


def test_a_binding_may_be_partly_written_and_partly_there_already() -> None:
    """Ctrl+H goes left in ex' command mode; what is written for its input mode is another command."""
    file = port(own(("Ctrl+H", Do("cursor.left"), "pane is text")), None, "ex")
    assert only(file).verdict in ("exact", "adapted")
    assert file.checked == 1
