"""What `apply` writes, in each editor as its user starts it: in a home where it was never used, with no option."""

import itertools
import json
import shutil
import tempfile
import threading
from collections.abc import Iterator
from pathlib import Path

import pytest
from msgspec.structs import replace

from ombix.core.keys.notation import parse
from ombix.evidence import editor_host
from ombix.evidence.editor_host import EditorHost
from ombix.evidence.editor_run import Home, Start
from ombix.evidence.sandbox import best_sandbox
from tests.helpers import dialect, ombix, others_long

TEXT = "one two\nthree four\nfive six\n"
CREW = """format = 1
name = "crew"
[bind.line]
delete = "F7"
[bind.edit]
delete-right = "F6"
[bind.cursor]
document-end = "F8"
line-end = "F9"
"""


USERS = {
    "kate": ("kate", "-b", "{text}"), "geany": ("geany", "{text}"), "mousepad": ("mousepad", "{text}"),
    # The manager of the machine has nano look below the home that the system has for it.
    "nano": ("nano", "--rcfile", "{home}/.nanorc", "{text}"), "micro": ("micro", "{text}"), "joe": ("joe", "{text}"),
    "ex": ("nvi", "{text}"), "kakoune": ("kak", "{text}"), "mcedit": ("mcedit", "{text}"),
    "dte": ("dte", "{text}"),
}  # fmt: skip


def workspace(folder: Path, editor: str) -> None:
    """A workspace with the crew's keys for one editor."""
    folder.mkdir()
    (folder / "crew.keys.toml").write_text(CREW)
    (folder / "ombix.toml").write_text(
        f'format = 1\nkeymap = "crew.keys.toml"\nplatform = "linux"\n[editor.quay]\ndialect = "{editor}"\n'
    )


SAVES = {
    "kate": ("Ctrl+S",), "geany": ("Ctrl+S",), "mousepad": ("Ctrl+S",), "nano": ("\x0f", "\r"), "micro": ("\x13",),
    "joe": ("\x0bd", "\r"), "ex": (":w!\r",), "kakoune": (":w\r",), "mcedit": ("\x1bOQ", "\r"), "dte": ("\x13",),
}  # fmt: skip
F = {
    "F3": "\x1bOR", "F4": "\x1bOS", "F11": "\x1b[23~", "F12": "\x1b[24~", "Ctrl+L": "\x0c", "Ctrl+T": "\x14",
    "F5": "\x1b[15~", "F6": "\x1b[17~", "F7": "\x1b[18~", "F8": "\x1b[19~", "F9": "\x1b[20~",
}  # fmt: skip
TYPED = {"F8": TEXT + "x\n", "F9": TEXT.replace("one two", "one twox")}
DONE = {"F6": TEXT[1:], "F7": TEXT.partition("\n")[2]}
MODAL = ("ex", "kakoune")


NUMBERS = itertools.count(1)


def pressed(home: Path, editor: str, keys: tuple[str, ...]) -> str:
    """The text that an editor saves behind keys, started with its user's home and nothing else."""
    program = dialect(editor).description.program
    assert program is not None
    own = {"XDG_CONFIG_HOME": "{home}/.config", "XDG_DATA_HOME": "{home}/.local/share"}
    kept = {name: value for name, value in program.environment.items() if name.startswith(("GTK", "GSETTINGS"))}
    program = replace(program, command=list(USERS[editor]), environment={**kept, **own}, files={}, again=[])
    program = program if program.window else replace(program, ready=["three four"])
    for left in home.iterdir():  # what an editor that was killed has left beside its settings, like sockets
        if not left.name.startswith(".") or left.name == ".cache":
            shutil.rmtree(left) if left.is_dir() else left.unlink()
    (home / ".local" / "share").mkdir(parents=True, exist_ok=True)
    # Some remember where the cursor was in a text.
    program = replace(program, text=f"{next(NUMBERS)}{program.text}")
    (home / program.text).write_text(TEXT)
    if editor == "nano":
        (home / ".nanorc").touch()  # which is named in the call
    start = Start("none", "", TEXT, 1, 1)
    stop = threading.Event()
    with editor_host._running(
        program, Home(home, home / "none", program.text), start, EditorHost(best_sandbox()), stop
    ) as run:
        assert run.wait_until_ready() == "", run.said()
        for key in (*keys, *SAVES[editor]):
            run.send((key if program.window else F.get(key, key)).encode())
        run.finish()
        run.wait(0.5)
    # Some editors end each text with a line break.
    return (home / program.text).read_text().rstrip("\n") + "\n"


def edit_by_hand(home: Path, place: Path, editor: str, path: Path) -> None:
    """An edit by hand is noticed by its keys alone, not written over, and given up only on wish."""
    keys = [str(dialect(editor).spelling.write(parse(one))) for one in ("F8", "F5")]
    text = path.read_text()
    line = next(one for one in text.splitlines() if keys[0] in one and (editor != "kate" or "delete_line" in one))
    path.write_text(text.replace(line, line.replace(keys[0], keys[1])))
    edited = json.loads(ombix(place, "status", "--json", HOME=str(home)).out)["editors"][0]
    assert edited["standing"] == "edited by hand"
    assert {one["keys"] for one in edited["edits"]} == {"F8", "F5"}
    assert ombix(place, "apply", HOME=str(home)).status == 1
    if editor != "kate":  # in whose scheme F5 is another command's as well
        assert pressed(home, editor, ("F5",)) == DONE["F7"]
    assert ombix(place, "apply", "--overwrite", HOME=str(home)).status == 0
    assert pressed(home, editor, ("F8",)) == DONE["F7"]


@pytest.fixture
def short_folder() -> Iterator[Path]:
    with tempfile.TemporaryDirectory(prefix="ob", ignore_cleanup_errors=True) as name:
        yield Path(name)


@pytest.mark.parametrize("editor", others_long(USERS, "kate", "nano", "kakoune"))
def test_what_apply_writes_is_what_the_editor_obeys(editor: str, tmp_path: Path, short_folder: Path) -> None:
    """Into a home where it was never used; again behind a change, and a key that is taken away; and taken back."""
    place = tmp_path / "place"
    # Sockets have short names (unix(7)), and an editor makes its own below its home.
    home = short_folder
    workspace(place, editor)
    first = ombix(place, "apply", "--yes", "--json", HOME=str(home))
    assert first.status == 0, first.out + first.err
    # What cannot be had there is said by the account, which is not asked here.
    account = json.loads(ombix(place, "port", "--to", "quay", "--dry-run", "--json", HOME=str(home)).out)
    kept = {one["keys"] for one in account["bindings"] if one["verdict"] != "lost"}
    assert len(kept) >= 2 and "F7" in kept
    for key, text in DONE.items():
        if key in kept:
            assert pressed(home, editor, (key,)) == text, key
    for key, text in TYPED.items() if editor not in MODAL else ():
        if key in kept:
            assert pressed(home, editor, (key, "x")) == text, key
    assert "up to date" in ombix(place, "status", HOME=str(home)).out
    # A key that the keymap takes away, and one that moves.
    (place / "crew.keys.toml").write_text(
        CREW.replace('delete = "F7"', 'delete = "F8"').replace('document-end = "F8"\n', "")
    )
    assert ombix(place, "apply", HOME=str(home)).status == 0
    assert pressed(home, editor, ("F8",)) == DONE["F7"]
    assert pressed(home, editor, ("F7",)) != DONE["F7"]
    # What the editor has written anew is no edit by hand.
    path = Path(json.loads(first.out)["editors"][0]["file"]["file"].replace("~", str(home), 1))
    standing = json.loads(ombix(place, "status", "--json", HOME=str(home)).out)["editors"][0]
    assert (standing["standing"], standing["edits"]) == ("up to date", [])
    if editor != "mcedit":  # which deletes a line with F8 by itself, so that nothing is written for that
        edit_by_hand(home, place, editor, path)
    # Taken out again: the keys do what they did, and what the editor wrote of its own stays.
    assert ombix(place, "apply", "--remove", HOME=str(home)).status == 0
    assert "not applied" in ombix(place, "status", HOME=str(home)).out
    assert not path.exists() or "ombix" not in path.read_text().lower()
    assert pressed(home, editor, ("F6",)) != DONE["F6"]
    assert "nothing was written for quay" in ombix(place, "apply", "--remove", "--to", "quay", HOME=str(home)).err


TEN = """format = 1
name = "crew"
[bind.cursor]
right = "F3"
down = "F4"
left = "Ctrl+L"
document-end = "F8"
document-start = "F12"
line-end = "F9"
line-start = "F11"
[bind.edit]
delete-right = "F6"
delete-left = "Ctrl+T"
[bind.line]
delete = "F7"
"""
ROWS: dict[tuple[str, ...], str] = {
    ("F6",): TEXT[1:],
    ("F3", "F6"): TEXT.replace("one", "oe", 1),
    ("F4", "F6"): TEXT.replace("three", "hree"),
    ("F4", "F7"): "one two\nfive six\n",
    ("F8", "F12", "F6"): TEXT[1:],
    ("F9", "F11", "F6"): TEXT[1:],
    ("F3", "F3", "Ctrl+L", "F6"): TEXT.replace("one", "oe", 1),
    ("F3", "F3", "Ctrl+T"): TEXT.replace("one", "oe", 1),
    ("F4", "F3", "F3", "F11", "F6", "F6", "F12", "F7"): "ree four\nfive six\n",
}
"""Keys in a row, and what they leave of the text; where the cursor went shows by what is deleted there."""

IN_WINDOWS = """format = 1
name = "crew"
[bind.select]
all = "F3"
[bind.edit]
copy = "F4"
paste = "F6"
cut = "F11"
[bind.history]
undo = "F8"
redo = "F12"
[bind.line]
delete = "F7"
copy-down = "F9"
move-down = "Ctrl+T"
move-up = "Ctrl+L"
"""
ROWS_IN_WINDOWS: dict[tuple[str, ...], str] = {
    ("F7",): DONE["F7"],
    ("F9",): "one two\n" + TEXT,
    ("F3", "F11"): "\n",
    ("F3", "F11", "F6", "F6"): TEXT + TEXT,
    ("F3", "F4", "F6", "F6"): TEXT + TEXT,
    ("F7", "F8"): TEXT,
    ("F7", "F8", "F12"): DONE["F7"],
    ("Ctrl+T",): "three four\none two\nfive six\n",
    ("Ctrl+T", "Ctrl+L"): TEXT,
}


@pytest.mark.parametrize("editor", others_long(USERS, "kate", "micro", "ex"))
def test_ten_keys_in_rows_and_taken_back(editor: str, tmp_path: Path, short_folder: Path) -> None:
    place, home = tmp_path / "place", short_folder
    workspace(place, editor)
    program = dialect(editor).description.program
    assert program is not None
    (place / "crew.keys.toml").write_text(IN_WINDOWS if program.window else TEN)
    assert ombix(place, "apply", "--yes", HOME=str(home)).status == 0
    account = json.loads(ombix(place, "port", "--to", "quay", "--dry-run", "--json", HOME=str(home)).out)
    kept = {one["keys"] for one in account["bindings"] if one["verdict"] != "lost"}
    every = ROWS_IN_WINDOWS if program.window else ROWS
    rows = {keys: text for keys, text in every.items() if kept.issuperset(keys)}
    assert len(rows) >= LEAST_ROWS.get(editor, len(every)), sorted(kept)
    assert {keys: pressed(home, editor, keys) for keys in rows} == rows
    # Behind that, with what the editor wrote while it ran: undone, or told how Ombix's part is taken out.
    undone = ombix(place, "undo", HOME=str(home))
    if undone.status:
        assert "ombix apply --remove" in undone.err, undone.err
        assert ombix(place, "apply", "--remove", HOME=str(home)).status == 0
    first = next(iter(rows))
    assert pressed(home, editor, first) != rows[first]


LEAST_ROWS = {"geany": 6, "mousepad": 8}
"""Where an editor has no command for some of the ten: how many rows there are at the least."""


@pytest.mark.long
def test_kates_search_and_terminal_have_the_keys_that_were_applied(tmp_path: Path, short_folder: Path) -> None:
    place, home = tmp_path / "place", short_folder
    workspace(place, "kate")
    (place / "crew.keys.toml").write_text(
        'format = 1\nname = "crew"\n[bind.search]\nfind = "F3"\n[bind.tools]\nfocus-terminal = "F4"\n'
        '[bind.edit]\ndelete-right = "F6"\n'
    )
    assert ombix(place, "apply", "--yes", HOME=str(home)).status == 0
    # What was found is selected; kate takes spaces off the end of a line that was changed.
    assert pressed(home, "kate", ("F3", *"four", "Enter", "Escape", "F6")) == "one two\nthree\nfive six\n"
    # What is typed behind the terminal's key does not come into the text.
    assert pressed(home, "kate", ("F4", *"echo", "Enter")) == TEXT
    assert pressed(home, "kate", tuple("echo")) == "echo" + TEXT
