"""Comments behind what a line says, in the files of an editor that has them."""

from pathlib import Path

import pytest

from ombix.core.errors import InputError, Place
from ombix.core.keys.notation import write
from ombix.editors.dialect import Dialect
from ombix.editors.file_reading import read_file
from ombix.editors.formats import Statement, lines
from ombix.editors.formats.lines import without_comment
from tests.helpers import DIALECTS

DESCRIPTION = """
name = "rowboat-lines"
title = "rowboat lines"
version = "1"
sources = ["a note"]
terminal = "window"

[file]
format = "lines"
name = "rows.conf"
usual = []
default-section = "all"
comment = "#"
trailing-comments = true

[[file.forms]]
pattern = "mode {section} {"
means = "open"
end = "}"

[[file.forms]]
pattern = "bind {key} {keys}"
means = "bind"

[sections]
text = "pane is text"
all = "always"

[policy]
wins = "last"
prefix = "waits"

[commands]

[keys]
joiner = "+"
modifiers = { Ctrl = "ctrl" }

[[keys.forms]]
chord = "{letter}"
written = "{letter}"
held = ["Ctrl"]

[[keys.forms]]
chord = "{mark}"
written = "{mark}"
held = ["Ctrl"]
without = ["{", "}", "+"]
"""
COMMANDS = """
source = "a note"

[command]
"save" = { action = "files.save" }
"say # aloud" = { only = "it says so" }
"undo it" = { action = "history.undo" }
"""


@pytest.fixture
def rows(tmp_path: Path) -> Dialect:
    for name, text in (
        ("dialect", DESCRIPTION),
        ("commands", COMMANDS),
        ("defaults", 'source = "a note"\ngroup = []\n'),
    ):
        (tmp_path / f"{name}.toml").write_text(text)
    return DIALECTS.load(str(tmp_path))


@pytest.mark.parametrize(
    ("line", "bare"),
    [
        ("bind ctrl+s save  # keep", "bind ctrl+s save"),
        ("bind ctrl+s save\t#", "bind ctrl+s save"),
        ("bind ctrl+s save #keep", "bind ctrl+s save #keep"),
        ("bind ctrl+# save", "bind ctrl+# save"),
        ('bind ctrl+s "save # it"', 'bind ctrl+s "save # it"'),
        ('bind ctrl+s "save # it" # "keep"', 'bind ctrl+s "save # it"'),
        ("bind ctrl+s don't # do it", "bind ctrl+s don't"),
        ("# a whole line", "# a whole line"),
    ],
)
def test_a_line_without_its_comment(line: str, bare: str) -> None:
    assert without_comment(line, "#") == bare


def test_they_are_no_part_of_what_is_said(rows: Dialect) -> None:
    text = "mode text {  # where one types\n  bind ctrl+s save # keep\n} # done\nbind ctrl+z undo it # again\nbind # save\n"
    reading = read_file(rows, text, "rows.conf")
    found = [(write(one.trigger), one.written, one.where) for one in reading.layer.bindings]
    assert found == [
        ("Ctrl+S", "save", "pane is text"), ("Ctrl+Z", "undo it", "always"), ("#", "save", "always"),
    ]  # fmt: skip
    kept = [one.written for one in lines.read(text, "rows.conf", rows.description)]
    assert kept == ["bind ctrl+s save # keep", "bind ctrl+z undo it # again", "bind # save"]


def test_what_would_become_one_is_not_written(rows: Dialect) -> None:
    said = Statement(Place(""), "", "bind", "ctrl+s", "say # aloud")
    with pytest.raises(InputError, match="would take a part of this for a comment: bind ctrl\\+s say # aloud"):
        lines.write([said], rows.description)
    assert (
        lines.write([Statement(Place(""), "", "bind", "ctrl+s", "save")], rows.description)
        == "mode all {\n    bind ctrl+s save\n}\n"
    )


def test_a_line_of_very_many_quotes_is_gone_through_once() -> None:
    line = "bind ctrl+s " + "'a' " * 500_000 + "# keep"
    assert without_comment(line, "#") == line.removesuffix(" # keep")
