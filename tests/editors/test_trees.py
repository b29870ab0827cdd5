"""Files that are trees or lines in blocks, each syntax with an invented editor of its own: what is written is read, and nothing
is lost."""

import re
import shutil
from pathlib import Path

import pytest
from hypothesis import given, settings

from ombix.core.errors import InputError
from ombix.core.keymap.bindings import Layer
from ombix.core.keys.notation import write
from ombix.data.shipped import DATA
from ombix.editors.dialect import Dialect
from ombix.editors.file_reading import read_file
from ombix.editors.file_writing import write_file
from ombix.editors.formats import ini
from ombix.editors.formats.lines import expression_of
from ombix.editors.formats.trees.patterns import match_text
from tests.editors.test_conformance import layers
from tests.helpers import MORE, dialect, ombix, shipped, space

PATTERNS = {
    "json": ['{ "{section}": [ { "oar": "{key}", "pull": "{command}", "title": "{title}" } ] }',
             '{ "{section}": [ { "ship": "{key}" } ] }'],
    "toml": ['["{section}".oars]\n"{key}" = "{command}"', '["{section}".shipped]\n"{key}" = "nothing"'],
    "ini": ["[{section}]\n{key} = {command}", "[{section}]\n{key} ="],
    "xml": ['<boat><part name="{section}"><oar on="{key}" title="{title}">{command}</oar></part></boat>',
            '<boat><part name="{section}"><ship on="{key}"/></part></boat>'],
    "lists": ['(part {section} (oar "{key}" {command}))', '(part {section} (ship "{key}"))'],
    "yaml": ['"{section}":\n- oar: "{key}"\n  pull: "{command}"\n  title: "{title}"', '"{section}": [{ship: "{key}"}]'],
    "blocks": ["oar {key} {command}", "ship {key}", ("part {section} {", "}")],
    "tables": ['["{key}"] = "{command}",', '["{key}"] = false,', ("oars = {", "}"), ("{section} = {", "},")],
    "headings": ["{key}: {command}", "{key}: nothing", ("[{section}]", "")],
    "calls": ['oar("{key}", "{command}", "{title}");', 'ship("{key}");', ('part("{section}", () => {', "});")],
}  # fmt: skip

SAMPLES = {
    "json": '{\n  // the mate\'s\n  "deck": [ {"oar": "ctrl.s", "pull": "stow"}, {"ship": "alt.x"}, {"oar": "f.5"} ],\n'
    '  "hold": [{"oar": "f.2", "pull": "row-on", "title": "on"}],\n  "flag": "red"\n}\n',
    "toml": '# the mate\'s\nflag = "red"\n\n[deck.oars]\n"ctrl.s" = "stow"\n"f.5" = 5\n\n[deck.shipped]\n"alt.x" = "nothing"\n\n'
    '[hold.oars]\n"f.2" = "row-on"\n',
    "ini": "; the mate's\nflag = red\n\n[deck]\nctrl.s = stow\nalt.x =\nf.5 = sotw\n\n[hold]\nf.2 = row-on\n",
    "xml": '<boat>\n <!-- the mate\'s -->\n <part name="deck"><oar on="ctrl.s">stow</oar><ship on="alt.x"/><oar on="f.5"/></part>\n'
    ' <part name="hold"><oar on="f.2" title="on">row-on</oar></part>\n <flag>red</flag>\n</boat>\n',
    "lists": '; the mate\'s\n(part deck\n  (oar "ctrl.s" stow)\n  (ship "alt.x")\n  (oar "f.5"))\n'
    '(part hold (oar "f.2" row-on))\n(flag red)\n',
    "yaml": "# the mate's\nflag: red\n\ndeck:\n- {oar: ctrl.s, pull: stow}\n- ship: 'alt.x'\n- oar: f.5\n\n"
    "hold:\n  - oar: f.2\n    pull: row-on\n    title: \"on\"\n",
    "blocks": "; the mate's\nflag red\npart deck {\n  oar ctrl.s stow\n  ship alt.x\n  oar f.5\n}\n"
    "part hold {\n  oar f.2 row-on\n}\n",
    "tables": "; the mate's\nflag = 'red'\noars = {\n  deck = {\n    [\"ctrl.s\"] = \"stow\",\n    [\"alt.x\"] = false,\n"
    '    ["f.5"]\n  },\n  hold = {\n    ["f.2"] = "row-on"\n  }\n}\n',
    "headings": "; the mate's\nflag red\n\n[deck]\nctrl.s: stow\nalt.x: nothing\nf.5\n\n[hold]\nf.2: row-on\n",
    "calls": '; the mate\'s\nflag red\npart("deck", () => {\n  oar("ctrl.s", "stow", "");\n  ship("alt.x");\n  oar("f.5");\n});\n'
    'part("hold", () => {\n  oar("f.2", "row-on", "on");\n});\n',
}  # fmt: skip


def skiff(folder: Path, form: str) -> Dialect:
    """The demo's invented editor with its file in another syntax."""
    home = folder / f"skiff-{form}"
    shutil.copytree(DATA / "demo" / "rowboat", home)
    text = (home / "dialect.toml").read_text()
    start, end = text.index("[[file.forms]]"), text.index("[sections]")
    bind, remove, *opened = PATTERNS[form]
    rows = [(str(bind), "bind", ""), (str(remove), "remove", ""), *((one, "open", closing) for one, closing in opened)]
    if form in ("ini", "headings"):  # an empty value would do for both: the form that takes keys away stands first
        rows[:2] = rows[1::-1]
    forms = "settings = ['flag']\n\n" + "".join(
        f"[[file.forms]]\npattern = '''{pattern}'''\nmeans = '{means}'\nend = '{closing}'\n\n"
        for pattern, means, closing in rows
    )
    text = text[:start] + forms + text[end:]
    if form in ("tables", "calls"):  # whose keys stand in quotes
        text = text.replace('written = "alt.{char}"', 'written = "alt.{char}"\nwithout = [\'"\']')
    syntax = form if not opened else "lines"
    text = text.replace('format = "lines"', f'format = "{syntax}"').replace("; one line", " one line")
    (home / "dialect.toml").write_text(text)
    return dialect(str(home))


@pytest.fixture(params=list(PATTERNS))
def form(request: pytest.FixtureRequest) -> str:
    return str(request.param)


def test_what_stands_in_a_file_is_read_or_kept(tmp_path: Path, form: str) -> None:
    one = skiff(tmp_path, form)
    reading = read_file(one, SAMPLES[form], "oars")
    found = {(write(row.trigger), str(row.outcome), row.where) for row in reading.layer.bindings}
    assert found == {
        ("Ctrl+S", "files.save", "pane is text"), ("Alt+X", "nothing", "pane is text"),
        ("F2", "cursor.down", "pane is files"),
    }  # fmt: skip
    kept = {line.written: line for line in reading.account if line.is_kept}
    assert len(kept) == 2
    (flag,) = [line for text, line in kept.items() if "flag" in text]
    assert not flag.is_fault
    (wrong,) = [line for text, line in kept.items() if "f.5" in text]
    assert wrong.is_fault
    line = next(number for number, text in enumerate(SAMPLES[form].split("\n"), 1) if "f.5" in text)
    assert wrong.place.line == line


def test_written_and_read_again_it_is_the_same(tmp_path: Path, form: str) -> None:
    one = skiff(tmp_path, form)
    reading = read_file(one, SAMPLES[form], "oars")
    text = write_file(one, reading.layer, space(), shipped.catalogue())
    again = read_file(one, text, "oars")
    rows = [{(row.trigger, row.outcome, row.where) for row in each.layer.bindings} for each in (reading, again)]
    assert rows[0] == rows[1]
    kept = [[line.written for line in each.account if line.is_kept] for each in (reading, again)]
    assert sorted(kept[0]) == sorted(kept[1])
    assert write_file(one, again.layer, space(), shipped.catalogue()) == text
    assert ("title" in text or '"on"' in text) == (
        form in ("json", "xml", "yaml", "calls")
    )  # where the file has a place for it


def test_a_random_keymap_is_the_same_after_writing_and_reading(tmp_path: Path, form: str) -> None:
    one, here = skiff(tmp_path, form), space()

    @settings(max_examples=40 * MORE)
    @given(layers(one))
    def check(layer: Layer) -> None:
        text = write_file(one, layer, here, shipped.catalogue())
        reading = read_file(one, text, "oars")
        assert not reading.layer.kept
        rows = [{(row.trigger, row.outcome, row.where) for row in each.bindings} for each in (layer, reading.layer)]
        assert rows[0] == rows[1]
        assert write_file(one, reading.layer, here, shipped.catalogue()) == text

    check()


@pytest.mark.parametrize(
    ("line", "key", "value"),
    [
        ("a = b", "a", "b"), ("a=b", "a", "b"), ("  a  =  b c ", "a", "b c"), ("alt.= = stow", "alt.=", "stow"),
        ("alt.= =", "alt.=", ""), ("a =", "a", ""), ("a=", "a", ""), ("a = b = c", "a", "b = c"), ("a=b=c", "a", "b=c"),
        ("= = x", "=", "x"),
    ],
)  # fmt: skip
def test_entries_of_settings_under_headings(line: str, key: str, value: str) -> None:
    (entry,) = ini.parse(line, "file").fields
    assert (entry.name, entry.value.text) == (key, value)


@pytest.mark.parametrize(("line", "key"), [("alt.:: bow", "alt.:"), (":: bow", ":"), ("alt.x: bow", "alt.x")])
def test_a_key_may_be_the_sign_behind_keys(line: str, key: str) -> None:
    match = expression_of("{key}: {command}", "").fullmatch(line)
    assert match is not None
    assert (match["key"], match["command"]) == (key, "bow")


@pytest.mark.parametrize("form_of_texts", ["{key}:{command};", "{key} to {command} in {section}."])
def test_a_text_of_a_million_signs_is_gone_through_once(form_of_texts: str) -> None:
    """Gone through once for each of its signs, it would take hours, and the limit of a test ends it."""
    for text in (":" * 1_000_000, " to " * 300_000, "a" * 1_000_000, ": " * 500_000 + ";"):
        match_text(form_of_texts, text, {})
        expression_of(form_of_texts, "").fullmatch(text)


def test_texts_with_several_variables() -> None:
    assert match_text("on {key} do {command}", "on ctrl.x do stow it", {}) == {"key": "ctrl.x", "command": "stow it"}
    assert match_text("{key}={command}", "==x", {}) == {"key": "=", "command": "x"}
    assert match_text("{key}={command}", "a b=x", {}) is None
    assert match_text("{key}", "", {}) == {"key": ""}
    assert match_text("{key}", "a", {"key": "b"}) is None
    assert match_text("on {key}", "off x", {}) is None


def test_the_program_finds_no_fault_in_the_description(tmp_path: Path, form: str) -> None:
    skiff(tmp_path, form)
    ran = ombix(tmp_path, "describe", "--check", f"skiff-{form}")
    assert ran.status == 0, ran.out
    assert "No fault." in ran.out


@pytest.mark.parametrize(
    ("form", "text", "line", "column", "what"),
    [
        ("toml", "[deck.oars]\n= 5\n", 2, 1, "this is not TOML"),
        ("toml", "x = '''a", 1, 9, "this is not TOML"),
        ("ini", "[deck]\nrow\n", 2, 1, "neither a heading nor an entry"),
        ("xml", "<boat>\n<part>\n</boat>", 3, 3, "this is not XML"),
        ("xml", '<!DOCTYPE boat [<!ENTITY a "b">]>\n<boat/>', 1, 16, "document types and entities"),
        ("xml", "<boat/>\n<boat/>", 2, 1, "this is not XML"),
        ("lists", '(part deck\n  (oar "ctrl.s" stow)', 1, 1, "before this ( is closed"),
        ("lists", "(part deck))", 1, 12, "closes nothing"),
        ("lists", '(part "deck', 1, 7, "never closed"),
        ("json", '{"deck": [}', 1, 11, "closes nothing"),
        ("json", "[]", 1, 1, "expected names with values"),
        ("lists", "(" * 200, 1, 102, "levels of nesting"),
        ("xml", "<a>" * 200, 1, 301, "levels of nesting"),
    ],
)
def test_broken_syntax_gets_its_place(tmp_path: Path, form: str, text: str, line: int, column: int, what: str) -> None:
    with pytest.raises(InputError, match=re.escape(what)) as caught:
        read_file(skiff(tmp_path, form), text, "oars")
    place = caught.value.place
    assert place is not None
    assert (place.line, place.column) == (line, column)


def test_an_unknown_section_is_named_with_the_nearest(tmp_path: Path, form: str) -> None:
    reading = read_file(skiff(tmp_path, form), SAMPLES[form].replace("hold", "hodl"), "oars")
    (line,) = [line for line in reading.account if "hodl" in line.became]
    assert "has no section hodl" in line.became
    assert "hold" in line.became.replace("hodl", "")


@pytest.mark.parametrize(
    ("form", "pattern", "what"),
    [
        ("json", '{ "{section}": ', "a pattern is wrong"),
        ("xml", "<boat><oar/></boat>", "no variable"),
        ("lists", '(oar "{command}")', "has not what it needs"),
        ("toml", "= 5", "this is not TOML"),
        ("json", '{ "{section}": [ { "oar": "{key}{command}" } ] }', "two variables stand side by side"),
    ],
)
def test_a_wrong_pattern_names_its_file(tmp_path: Path, form: str, pattern: str, what: str) -> None:
    with pytest.raises(InputError, match=re.escape(what)):
        _with_pattern(tmp_path, form, pattern)


def _with_pattern(folder: Path, form: str, pattern: str) -> Dialect:
    skiff(folder, form)
    home = folder / f"skiff-{form}"
    text = (home / "dialect.toml").read_text()
    other = folder / "other"
    shutil.copytree(home, other)
    (other / "dialect.toml").write_text(text.replace(PATTERNS[form][0], pattern))
    return dialect(str(other))


PLUG_IN = '''
"""Keys in columns: the first half of each line is a key, the rest a command."""

from ombix.core.errors import Place
from ombix.editors.formats import Heading, Statement


def read(text, file, description):
    for number, line in enumerate(text.split("\\n"), 1):
        if line.strip():
            yield Statement(Place(file, number, 1), line, "bind", line[:10].strip(), line[10:].strip())


def write(items, description):
    rows = [item for item in items if not isinstance(item, Heading)]
    return "".join(f"{row.key:<10}{row.command}\\n" for row in rows if row.section in ("", "deck"))
'''


def test_a_form_of_files_comes_from_a_plug_in(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    site = tmp_path / "site"
    (site / "columns-1.dist-info").mkdir(parents=True)
    (site / "columns.py").write_text(PLUG_IN)
    (site / "columns-1.dist-info" / "METADATA").write_text("Metadata-Version: 2.1\nName: columns\nVersion: 1\n")
    entry_points = "[ombix.formats]\ncolumns = columns\nbroken = no_such_module\n"
    (site / "columns-1.dist-info" / "entry_points.txt").write_text(entry_points)
    monkeypatch.syspath_prepend(site)
    home = tmp_path / "skiff"
    shutil.copytree(DATA / "demo" / "rowboat", home)
    text = (home / "dialect.toml").read_text()
    start, end = text.index("[[file.forms]]"), text.index("[sections]")
    (home / "dialect.toml").write_text((text[:start] + text[end:]).replace('"lines"', '"columns"'))
    one = dialect(str(home))
    reading = read_file(one, "ctrl.s    stow\n", "oars")
    assert [(write(row.trigger), str(row.outcome)) for row in reading.layer.bindings] == [("Ctrl+S", "files.save")]
    assert write_file(one, reading.layer, space(), shipped.catalogue()) == "ctrl.s    stow\n"
    broken = tmp_path / "broken"
    shutil.copytree(home, broken)
    (broken / "dialect.toml").write_text((home / "dialect.toml").read_text().replace('"columns"', '"broken"'))
    with pytest.raises(InputError, match="the form of files broken of the package columns 1 does not load"):
        dialect(str(broken))
