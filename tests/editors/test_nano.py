"""nano's file: every construct, every function that its manual page names, and the packaged sample."""

import re
import shutil
import subprocess
from pathlib import Path

import pytest

from ombix.core.conditions import ALWAYS
from ombix.core.keymap.bindings import Keymap
from ombix.core.keymap.comparing import compare
from ombix.core.keymap.deciding import decide_all
from ombix.core.keymap.outcomes import Do, Press, Type
from ombix.core.keys.notation import parse, write
from ombix.editors.file_reading import FileReading, read_file
from ombix.editors.file_writing import write_file
from ombix.files import keymap_reading, keymap_writing
from tests.helpers import dialect, shipped, space

NANO = dialect("nano")
DATA = Path(__file__).parent / "data"


def read(text: str) -> FileReading:
    return read_file(NANO, text, "nanorc")


def rows(reading: FileReading) -> list[tuple[str, str, str]]:
    return [(write(one.trigger), str(one.outcome), one.where) for one in reading.layer.bindings]


def rejected_by_nano(tmp_path: Path, lines: list[str]) -> str:
    """What the real program complains of when it starts with these lines, seen when it has ended."""
    import pexpect

    assert shutil.which("nano"), "nano is not installed; make test installs it"
    (tmp_path / "rc").write_text("\n".join(lines) + "\n", "utf-8")
    environment = {"TERM": "xterm", "HOME": str(tmp_path), "PATH": "/usr/bin:/bin", "LANG": "C.UTF-8"}
    child = pexpect.spawn(
        "nano", ["--rcfile", str(tmp_path / "rc")], env=environment, encoding="utf-8", dimensions=(40, 200), timeout=10
    )
    child.expect("GNU nano")
    child.send("\x18")
    child.expect(pexpect.EOF)
    child.close(force=True)
    return str(child.before)


def test_nano_itself_accepts_each_function_in_each_of_its_sections_and_in_no_other(tmp_path: Path) -> None:
    sections = list(NANO.description.sections)
    functions = {name: row for name, row in NANO.vocabulary.commands.items() if not row.fixed}
    wanted = {(name, section) for name, row in functions.items() for section in NANO.vocabulary.sections_of(row)}
    lines = [f"bind F5 {name} {section}" for name in functions for section in sections]
    complaints = rejected_by_nano(tmp_path, lines)
    refused = set(re.findall(r"Function '(\w+)' does not exist in menu '(\w+)'", complaints))
    everything = {(name, section) for name in functions for section in sections}
    assert everything - refused == wanted
    assert "Unknown function" not in complaints


def test_every_function_of_the_manual_page_is_known() -> None:
    page = subprocess.run(
        ["zcat", "/usr/share/man/man5/nanorc.5.gz"], capture_output=True, text=True, check=False
    ).stdout
    if page:
        page = page[page.index(".SH REBINDING KEYS") :]
        names = re.findall(r"^\.TP(?: 2)?\n\.B (\w+)\n", page[: page.index("\n.B main\n")], re.MULTILINE)
        assert len(names) == 102
        assert set(names) == {name for name, row in NANO.vocabulary.commands.items() if row.documented}
    # Where a system leaves manual pages out, the program itself is the witness: see the test above.
    assert sum(1 for row in NANO.vocabulary.commands.values() if row.documented) == 102


EVERY_CONSTRUCT = r"""# a comment
set linenumbers
include "/usr/share/nano/*.nanorc"
bind ^Z suspend main
bind m-k comment main
bind F5 cut all
unbind ^U all
bind ^Q exit all
bind ^H exit help
bind ^K "{mark}{end}{zap}" main
bind Sh-M-U "{nextword}{execute}|sed 's/a/{{}/'{enter}" main
bind ^S "{savefile}" main
bind Ins insert main
bind ^Space nextword main
bind ^/ gotoline main
bind M-[ cut main
bind Up cut main
bind ^T exti main
bind ^T cut mian
bind ^T speller help
bind ^T
frobnicate
  bind   F6   whereis   main
"""


def test_every_construct() -> None:
    reading = read(EVERY_CONSTRUCT)
    editable = "pane in (text, search, replace, replace-with, go-to-line, save-as, insert-file, files, file-search, "
    assert rows(reading) == [
        ("Ctrl+Z", "app.suspend", "pane is text"),
        ("Alt+K", "comment.toggle", "pane is text"),
        ("F5", "edit.cut", editable + "go-to-folder, run-command, spelling, problems)"),
        ("Ctrl+U", "nothing", editable.replace("files, ", "") + "go-to-folder, run-command, spelling)"),
        ("Ctrl+Q", "app.quit", "pane in (text, help, files)"),
        ("Ctrl+H", "app.quit", "pane is help"),
        ("Ctrl+K", "macro on-ctrl-k", "pane is text"),
        ("Alt+Shift+U", "macro on-alt-shift-u", "pane is text"),
        ("Ctrl+S", "files.save", "pane is text"),
        ("Insert", "files.insert", "pane is text"),
        ("Ctrl+Space", "cursor.next-word", "pane is text"),
        ("Ctrl+_", "go.line", "pane is text"),
        ("F6", "search.find", "pane is text"),
    ]
    assert reading.layer.macros["on-alt-shift-u"].steps == (
        Do("cursor.next-word"), Do("terminal.insert-output"), Type("|sed 's/a/{/'"), Press(parse("Enter"))
    )  # fmt: skip
    kept = {line.place.line: line.became for line in reading.account if line.is_kept}
    assert set(kept) == {2, 3, 16, 17, 18, 19, 20, 21, 22}
    assert "setting" in kept[2]
    assert "included" in kept[3]
    assert "exit" in kept[18]
    assert "main" in kept[19]
    assert "does not exist in help" in kept[20]
    assert "not a complete bind" in kept[21]
    assert "no command frobnicate" in kept[22]
    assert len(reading.account) == 22


def test_nano_refuses_what_ombix_says_it_refuses(tmp_path: Path) -> None:
    complaints = rejected_by_nano(tmp_path, ["bind Up cut main", "bind ^T exti main", "bind ^T cut mian"])
    assert len(re.findall(r"on line \d", complaints)) == 3


def test_the_packaged_sample_with_its_bindings_uncommented() -> None:
    sample = Path("/usr/share/doc/nano/examples/sample.nanorc")
    text = sample.read_text("utf-8") if sample.exists() else (DATA / "sample-bindings.nanorc").read_text("utf-8")
    text = re.sub(r"(?m)^#\s*((un)?bind\b)", r"\1", text)
    expected = len(re.findall(r"(?m)^\s*(un)?bind\b", text))
    assert expected == 40
    reading = read(text)
    assert len(reading.account) == expected
    assert [line.written for line in reading.account if line.is_kept] == []
    here = space()
    written = write_file(NANO, reading.layer, here, shipped.catalogue())
    again = read(written)
    first, second = (
        decide_all(
            Keymap([one.layer]).in_force(shipped.platform("linux")).bindings, here, shipped.catalogue(), NANO.policy
        )
        for one in (reading, again)
    )
    assert compare(first, second, here, ALWAYS) == []
    assert again.layer.macros == {
        name: type(macro)(macro.name, macro.title, macro.steps, again.layer.macros[name].place)
        for name, macro in reading.layer.macros.items()
    }
    third = keymap_reading.read(keymap_writing.dump(reading.layer), "k", shipped.catalogue(), shipped.facts())
    assert len(third.bindings) == len(reading.layer.bindings)


@pytest.mark.parametrize("text", ["", "\n\n", "# only a comment", "\ufeffbind F5 cut main\r\n", "bind F5 cut main"])
def test_odd_files(text: str) -> None:
    assert len(read(text).layer.bindings) == (1 if "bind" in text else 0)


def test_a_key_that_is_taken_away_where_it_is_not_bound_changes_nothing() -> None:
    reading = read("unbind F20 all\n")
    assert reading.layer.bindings == []
    assert "changes nothing" in reading.account[0].became
