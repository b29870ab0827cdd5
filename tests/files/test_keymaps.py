"""Keymap files: what they mean, where each binding stands, and one clear error for each fault."""

from pathlib import Path

import pytest

from ombix.core.conditions import Facts
from ombix.core.errors import InputError
from ombix.core.keymap.bindings import Keymap, Layer
from ombix.core.keymap.outcomes import Do, Nothing, Only, Play, Press, Type
from ombix.core.keys.notation import parse, write
from ombix.data.platform_names import PLATFORMS
from ombix.data.shipped import DATA
from ombix.files import keymap_reading, keymap_writing
from tests.helpers import shipped

HEAD = 'format = 1\nname = "crew"\n'


def read(text: str) -> Layer:
    return keymap_reading.read(text, "crew.keys.toml", shipped.catalogue(), shipped.facts())


def rows(layer: Layer) -> list[tuple[str, str, str]]:
    return [(write(one.trigger), str(one.outcome), one.where) for one in layer.bindings]


def test_every_form_of_an_entry() -> None:
    layer = read(
        HEAD
        + """
[where]
editing = "pane is text and not readonly"

[bind.line]
copy-down = "Mod+Shift+Y"
move-up = ["Mod+Shift+PageUp", "Space l u"]
delete = { press = "Mod+Shift+Backspace", where = "editing", why = "far from home" }

[bind.bookmark]
set = { press = "Space k {n:1-5}", with = { slot = "{n}" } }

[bind.app]
quit = { press = false, why = "too easy to hit by mistake" }
help = false

[unbind]
"Ctrl+U" = { where = "pane is text", why = "hit by mistake" }

[only.micro]
"command:pwd" = "Alt+P"

[macro.wrap]
title = "Wrap"
press = "Space s c"
steps = [{ do = "cursor.line-start" }, { type = "crossing(" }, { press = "End" }, { play = "other" }]
"""
    )
    assert rows(layer) == [
        ("Mod+Shift+Y", "line.copy-down", "always"),
        ("Mod+Shift+PageUp", "line.move-up", "always"),
        ("Space l u", "line.move-up", "always"),
        ("Mod+Shift+Backspace", "line.delete", "editing"),
        ("Space k {n:1-5}", "bookmark.set(slot={n})", "always"),
        ("Ctrl+U", "nothing", "pane is text"),
        ("Alt+P", "command:pwd (micro only)", "always"),
        ("Space s c", "macro wrap", "always"),
    ]
    assert [(one.action, one.why) for one in layer.removals] == [
        ("app.quit", "too easy to hit by mistake"), ("app.help", "")
    ]  # fmt: skip
    assert layer.macros["wrap"].steps == (
        Do("cursor.line-start"),
        Type("crossing("),
        Press(parse("End")),
        Play("other"),
    )
    assert isinstance(layer.bindings[5].outcome, Nothing)
    assert layer.bindings[6].outcome == Only("micro", "command:pwd")


def test_a_platforms_keys_stand_in_place_of_the_others() -> None:
    layer = read(HEAD + '[bind.files]\nsave = { press = "F4", mac = "Ctrl+Enter", windows = false }\n')
    assert [(write(one.trigger), sorted(one.platforms)) for one in layer.bindings] == [
        ("F4", [one for one in PLATFORMS if one not in ("mac", "windows")]), ("Ctrl+Enter", ["mac"])
    ]  # fmt: skip


def test_each_binding_knows_its_line_and_column() -> None:
    text = (
        HEAD
        + """
[bind.line]
copy-down = "Mod+D"   # here
  move-up = [
    "Alt+U",
    { press = "Alt+I" },
  ]
"quoted" = "x"
""".replace('"quoted" = "x"\n', "")
    )
    places = [(one.place.line, one.place.column) for one in read(text).bindings]
    assert places == [(5, 1), (7, 5), (8, 5)]


@pytest.mark.parametrize(
    ("text", "line", "column", "what", "advice"),
    [
        ('name = "x"\n', 1, 1, "format", "format = 1"),
        ("format = 7\n", 1, 1, "format 7", ""),
        (HEAD + "[bind.line]\ncopy-donw = 'F1'\n", 4, 1, "line.copy-donw", "line.copy-down"),
        (HEAD + "[bind.line]\ncopy-down = 'Ctlr+D'\n", 4, 14, "Ctlr", "Ctrl"),
        (HEAD + "[bind.line]\ncopy-down = ['F1', 'F2x']\n", 4, 21, "F2x", "F2"),
        (HEAD + "[bind.line]\ncopy-down = { pres = 'F1' }\n", 4, 1, "pres", "press"),
        (HEAD + "[bind.line]\ncopy-down = { press = 'F1', where = 'pain is text' }\n", 4, 38, "pain", "pane"),
        (HEAD + "[bind.line]\ncopy-down = 5\n", 4, 1, "5", "Ctrl+K"),
        (HEAD + "[bind.line]\ncopy-down = []\n", 4, 1, "no keys", ""),
        (HEAD + "[bind]\nline = 'F1'\n", 4, 1, "kind of work", "[bind.line]"),
        (HEAD + "[bnd.line]\n", 3, 1, "bnd", "bind"),
        (HEAD + "[where]\na = 'b'\nb = 'a'\n", 4, 6, "b → a → b", ""),
        (HEAD + "[where]\npane = 'readonly'\n", 4, 1, "fact already", ""),
        (HEAD + "[macro.m]\ntitle = 'M'\n", 3, 1, "no steps", "steps"),
        (HEAD + "[macro.m]\nsteps = [{ doo = 'x' }]\n", 4, 1, "not a step", "do (an action)"),
        (HEAD + "[bind.bookmark]\nset = { press = 'F1', with = { slot = '{n}' } }\n", 4, 1, "{n}", ""),
        (HEAD + "[bind.line]\ncopy-down = 'F1\n", 4, 16, "not TOML", ""),
        (HEAD + "[bind.line]\ncopy-down = 'F1'\ncopy-down = 'F2'\n", 5, 17, "not TOML", ""),
        (HEAD + "[fact.and]\nvalues = ['a', 'b']\n", 3, 1, "operator", "another name"),
        (HEAD + "[fact.pane]\nvalues = ['a', 'b']\n", 3, 1, "there already", "another name"),
        (HEAD + "[[accept]]\nrule = 'clash'\n", 3, 1, "a why", ""),
        (HEAD + "[[kept]]\neditor = 'nano'\n", 3, 1, "kept piece", ""),
    ],
)
def test_a_fault_gets_its_place_and_what_to_do(text: str, line: int, column: int, what: str, advice: str) -> None:
    with pytest.raises(InputError) as caught:
        read(text)
    error = caught.value
    assert error.place is not None
    assert (error.place.file, error.place.line, error.place.column) == ("crew.keys.toml", line, column)
    assert what in error.what
    assert advice in error.advice
    assert error.excerpt == text.split("\n")[line - 1]


def test_the_demo_keymap_has_at_least_forty_bindings_and_survives_being_written() -> None:
    layer = read((DATA / "demo" / "crew.keys.toml").read_text("utf-8"))
    assert len(layer.bindings) >= 40
    again = read(keymap_writing.dump(layer))
    assert rows(again) == sorted(rows(layer), key=rows(again).index)
    assert again.macros["wrap-crossing"].steps == layer.macros["wrap-crossing"].steps
    assert again.scope.own == layer.scope.own


def test_extends_reads_the_base_first_and_once(tmp_path: Path) -> None:
    folder = tmp_path
    write_file = lambda name, text: (folder / name).write_text(text, "utf-8")  # noqa: E731
    write_file(
        "house.keys.toml", 'format = 1\nname = "house"\n[where]\nediting = "not readonly"\n[bind.files]\nsave = "F2"\n'
    )
    write_file("team.keys.toml", 'format = 1\nname = "team"\nextends = ["house.keys.toml"]\n')
    own = 'format = 1\nname = "own"\nextends = ["team.keys.toml", "house.keys.toml"]\n'
    own += '[bind.app]\nhelp = { press = "F1", where = "editing" }\n'
    write_file("own.keys.toml", own)
    layers = keymap_reading.load(folder / "own.keys.toml", shipped.catalogue(), shipped.facts())
    assert [(layer.name.name, layer.name.kind) for layer in layers] == [
        ("house", "shared"),
        ("team", "shared"),
        ("own", "own"),
    ]


def test_keymaps_that_extend_each_other_are_refused(tmp_path: Path) -> None:
    for name, other in (("a", "b"), ("b", "a")):
        text = f'format = 1\nname = "{name}"\nextends = ["{other}.keys.toml"]\n'
        (tmp_path / f"{name}.keys.toml").write_text(text, "utf-8")
    with pytest.raises(InputError, match="circle"):
        keymap_reading.load(tmp_path / "a.keys.toml", shipped.catalogue(), Facts(()))


@pytest.mark.parametrize(
    ("row", "what", "advice"),
    [
        ('{ press = "F5", with = { slto = "1" } }', "bookmark.set takes no slto", "slot"),
        ('{ press = "F5", with = { count = 0 } }', "not a count: 0", "from 1 to 1000"),
        ('{ press = "F5", with = { count = "many" } }', "not a count: many", "from 1 to 1000"),
        ('{ press = "F5", with = { count = 1001 } }', "not a count: 1001", "from 1 to 1000"),
        ('{ press = "F5", with = "1" }', "with takes a table", "slot"),
    ],
)
def test_wrong_arguments_are_named(row: str, what: str, advice: str) -> None:
    with pytest.raises(InputError, match=what) as caught:
        keymap_reading.read(
            f"format = 1\nname = 'k'\n[bind.bookmark]\nset = {row}\n", "k", shipped.catalogue(), shipped.facts()
        )
    assert advice in caught.value.advice
    assert caught.value.place is not None
    assert caught.value.place.line == 4


def test_arguments_come_in_the_order_of_their_names() -> None:
    text = (
        "format = 1\nname = 'k'\n[bind.bookmark]\nset = { press = 'Alt+{n:1-2}', with = { slot = '{n}', count = 2 } }\n"
    )
    layer = keymap_reading.read(text, "k", shipped.catalogue(), shipped.facts())
    bound = Keymap([layer]).in_force(shipped.platform("linux"))
    assert [str(one.outcome) for one in bound.bindings] == [
        "bookmark.set(count=2, slot=1)",
        "bookmark.set(count=2, slot=2)",
    ]
    again = keymap_reading.read(keymap_writing.dump(layer), "k", shipped.catalogue(), shipped.facts())
    assert [one.outcome for one in again.bindings] == [one.outcome for one in layer.bindings]


def test_a_lenient_reader_notes_every_fault_and_keeps_what_is_right() -> None:
    text = HEAD + (
        '[where]\nediting = "pane is txet"\n[bind.files]\nsave = "F1"\nopne = "F2"\nrename = "F3x"\n'
        'open = { press = "F4", where = "editing" }\n[bind.line\ndelete = "F5"\n'
    )
    layer = keymap_reading.read(text, "crew.keys.toml", shipped.catalogue(), shipped.facts(), lenient=True)
    assert ("F1", "files.save", "always") in rows(layer)
    assert ("F5", "line.delete", "always") in rows(layer)
    faults = {(error.place.line, error.what) for error in layer.problems if error.place is not None}
    assert {line for line, _what in faults} >= {4, 7, 8, 10}
    assert all(error.place is not None and error.place.end_line for error in layer.problems)


def test_every_binding_has_a_place_with_an_end_and_an_absolute_path(tmp_path: Path) -> None:
    file = tmp_path / "crew.keys.toml"
    file.write_text(HEAD + '[bind.line]\ncopy-down = ["Mod+D",   "F2"]\n', "utf-8")
    (layer,) = keymap_reading.load(file, shipped.catalogue(), shipped.facts())
    assert [tuple(one.place) for one in layer.bindings] == [
        (str(file), 4, 14, 4, 21), (str(file), 4, 25, 4, 29),
    ]  # fmt: skip


def test_a_known_fact_gets_more_values() -> None:
    text = (
        HEAD
        + '[fact.pane]\nmore = ["sea-chart"]\n\n[bind.list]\ndown = { press = "F6", where = "pane is sea-chart" }\n'
    )
    layer = read(text)
    assert rows(layer) == [("F6", "list.down", "pane is sea-chart")]
    facts = Keymap([layer]).facts(shipped.facts())
    assert facts.by_name["pane"].values[-1] == "sea-chart"
    assert facts.by_name["pane"].values[:-1] == shipped.facts().by_name["pane"].values
    again = read(keymap_writing.dump(layer))
    assert (again.facts, rows(again)) == (layer.facts, rows(layer))


def test_only_a_fact_that_is_there_gets_more_values() -> None:
    with pytest.raises(InputError, match="no fact tide that could have more values"):
        read(HEAD + '[fact.tide]\nmore = ["low"]\n')
