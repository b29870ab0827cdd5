"""Real files, as packaged, and one with every construct of a standard's text: every statement is accounted for."""

from collections import Counter
from pathlib import Path

import pytest

from ombix.core.keymap.bindings import Layer
from ombix.core.keymap.outcomes import Do, Play
from ombix.core.keys.notation import write
from ombix.editors.file_reading import read_file
from ombix.editors.file_writing import write_file
from ombix.files.disk import Files
from tests.helpers import dialect, editors_space, shipped

JOE_FILES = ("joerc", "jmacsrc", "jpicorc", "jstarrc", "rjoerc")
KAKOUNE_SCRIPTS = Path("/usr/share/kak/rc")


@pytest.mark.parametrize("name", JOE_FILES)
def test_joes_packaged_files_are_accounted_for_line_by_line(name: str) -> None:
    one = dialect("joe")
    text = Files().read_text(Path("/etc/joe") / name, one.description.file.encodings)
    reading = read_file(one, text, name)
    assert all(line.became for line in reading.account), "a line without a word"
    said = {line.place.line for line in reading.account}
    lines = text.split("\n")
    silent = [
        line
        for number, line in enumerate(lines, 1)
        if line.strip() and line[0] not in " \t" and number not in said and not lines[number - 2].endswith(",")
    ]
    assert silent == []
    bound = sum(1 for line in reading.account if "→" in line.became)
    assert bound > 140
    faults = [(line.place.line, line.written, line.became) for line in reading.account if line.is_fault]
    assert faults == []


def test_every_map_in_kakounes_packaged_scripts_is_read() -> None:
    one = dialect("kakoune")
    became: Counter[str] = Counter()
    for file in sorted(KAKOUNE_SCRIPTS.rglob("*.kak")):
        for line in read_file(one, file.read_text("utf-8"), file.name).account:
            assert line.became
            word = line.written.split()[0]
            if word in ("map", "unmap"):
                became["bound" if "→" in line.became else line.became] += 1
    assert became["bound"] >= 3, became
    assert set(became) <= {
        "bound", "it holds for one window or file only", "stands in the table man, which no key leads to",
    }, became  # fmt: skip


def test_joes_own_keys_are_those_of_its_packaged_file() -> None:
    one = dialect("joe")
    text = Files().read_text(Path("/etc/joe/joerc"), one.description.file.encodings)
    here = editors_space()
    sections = {name: here.states(text) for name, text in one.description.sections.items()}

    def said(layer: Layer) -> set[tuple[str, str, str]]:
        return {
            (write(binding.trigger), binding.written, name)
            for binding in layer.bindings
            for name, states in sections.items()
            if here.overlap(states, here.states(binding.where))
        }

    read, own = said(read_file(one, text, "joerc").layer), said(one.default_layer)
    assert own == read


# IEEE Std 1003.1, ex: Map, Unmap, Abbreviate, Unabbreviate, Set, comments, several commands on a line, Control-V.
EXRC = "\n".join([
    '" the crew\'s keys',
    "set autoindent shiftwidth=4",
    "map q :wq\x16\r",
    "map #5 dd",
    "map! \x16\x1bk x\x16\x1b",
    "map \x16 w dw",
    "map g\x16|x u|map Q ZZ",
    "unmap q",
    "map! #6 abc",
    "unmap! #6",
    "ab tt timetable",
    "abbreviate cr crossing",
    "una tt",
    "unabbreviate cr",
    ":map K yy",
    "map",
    "map!",
    "",
])  # fmt: skip


def test_an_exrc_with_every_construct_of_the_standard() -> None:
    one = dialect("ex")
    reading = read_file(one, EXRC, ".exrc")
    rows = {line.written: line.became for line in reading.account}
    assert len(reading.account) == 17
    kinds = {write(binding.trigger): binding.outcome for binding in reading.layer.bindings}
    assert kinds["F5"] == Do("edit.cut-line")
    assert "q" not in kinds  # what is taken away again is not there
    assert rows["unmap q"] == "takes q away again"
    assert isinstance(kinds["Alt+K"], Play)
    assert reading.layer.macros[kinds["Alt+K"].macro].title == "x\x1b"  # type: ignore[union-attr]
    assert isinstance(kinds["Space w"], Play)
    assert kinds["g | x"] == Do("history.undo")
    assert kinds["Shift+Q"] == Do("files.save-and-quit")
    assert "F6" not in kinds
    assert kinds["Shift+K"] == Do("edit.copy-line")
    assert rows["ab tt timetable"] == "an abbreviation, not a key binding"
    assert rows["set autoindent shiftwidth=4"] == "a setting, not a key binding"
    assert [line.written for line in reading.account if line.is_fault] == []
    # What is written for it says the same again.
    text = write_file(one, reading.layer, editors_space(), shipped.catalogue())
    again = read_file(one, text, ".exrc")
    assert {write(binding.trigger): binding.outcome for binding in again.layer.bindings} == kinds
