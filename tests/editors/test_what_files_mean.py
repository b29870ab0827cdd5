"""Odd but legal constructs in editors' files: maps through maps, tables behind a prefix, what is taken away again, settings
beside the file, keys of another language."""

from itertools import pairwise

import pytest
from msgspec.structs import replace

from ombix.core.conditions import Space
from ombix.core.errors import Place
from ombix.core.keymap.bindings import Binding, Keymap, Layer, LayerName
from ombix.core.keymap.outcomes import Do, Nothing, Outcome, Play, Press, Type
from ombix.core.keys.notation import parse, write
from ombix.editors.command_effects import EffectJudge, check_settings, settings_in, with_commands
from ombix.editors.dialect import Dialect
from ombix.editors.editor_porting import PortedFile, port_keymap
from ombix.editors.file_reading import FileReading, read_file
from ombix.editors.file_writing import write_file
from tests.helpers import REAL, STAND_INS, around, dialect, editors_space, shipped

CATALOGUE = shipped.catalogue()
LINUX = shipped.platform("linux")


def read(name: str, text: str, beside: str = "") -> FileReading:
    settings = (dialect(name).description.file.beside, beside) if beside else None
    return read_file(dialect(name), text, "file", beside=settings)


def bound(reading: FileReading) -> dict[str, Outcome]:
    return {write(one.trigger): one.outcome for one in reading.layer.bindings}


def steps(reading: FileReading, keys: str) -> tuple[object, ...]:
    outcome = bound(reading)[keys]
    assert isinstance(outcome, Play)
    return reading.layer.macros[outcome.macro].steps


def became(reading: FileReading) -> dict[str, str]:
    return {line.written: line.became for line in reading.account}


def port(reading: FileReading, source: str, target: str) -> PortedFile:
    return port_layer(reading.layer, target, dialect(source))


def port_layer(layer: Layer, target: str, source: Dialect | None = None) -> PortedFile:
    keymap = Keymap([layer])
    here = around(editors_space(), terminal=dialect(target).description.terminal)
    return port_keymap(keymap, keymap.in_force(LINUX).bindings, source, dialect(target), here)


def one_binding(keys: str, outcome: Outcome) -> Binding:
    return Binding(parse(keys), outcome, Place("k"), LayerName("k", "k"), "pane is text")


def account(file: PortedFile) -> dict[str, tuple[str, str]]:
    return {write(one.source.trigger): (one.verdict, one.how) for one in file.entries}


# --- maps through maps: IEEE Std 1003.1, ex, map: with remap on, which it is by default, maps are mapped again


def test_keys_go_through_other_maps_unless_the_file_says_not() -> None:
    maps = "map K dd\nmap J K\nmap Q jK\n"
    followed = read("ex", maps)
    assert bound(followed)["Shift+J"] == Do("edit.cut-line")
    assert steps(followed, "Shift+Q") == (Do("cursor.down"), Do("edit.cut-line"))
    assert read("ex", "map d x\nmap Q dd\n").layer.bindings[1].written == "xx"
    plain = read("ex", "set noremap\n" + maps)
    assert bound(plain)["Shift+J"] != Do("edit.cut-line")
    assert read("ex", maps + "set noremap\nset remap\n").layer.bindings[1].written == "dd"


def test_maps_of_a_stranger_end_soon() -> None:
    """Doubling at each of many maps, long chains of them, long rows, and counts without end."""
    letters = "abcdefghijklmnopqrstuvwxyz"
    doubling = "".join(f"map {one} {other}{other}\n" for one, other in pairwise(letters))
    assert any(
        "more than is looked into" in one.became or "too many" in one.became for one in read("ex", doubling).account
    )
    chain = "".join(f"map \x16{chr(0x4E00 + n)} {chr(0x4E01 + n)}\n" for n in range(3000))
    assert len(read("ex", chain).account) == 3000
    judge = EffectJudge(dialect("ex"), dialect("nano"), CATALOGUE)
    for row in ("999j" * 400, "999j", "j" * 1500, "j" * 500_000):
        reading = read("ex", f"map Q {row}\n")
        for one in reading.layer.bindings:
            assert judge.source_side(one, None, "main") is None
    many = read("micro", '{"F5": "' + ",".join(["CursorDown"] * 5000) + '"}')
    assert account(port(many, "micro", "nano"))["F5"][0] != "exact"


def test_what_a_map_begins_with_of_its_own_keys_is_not_mapped_again() -> None:
    assert read("ex", "map x xj\n").layer.bindings[0].written == "xj"


@pytest.mark.parametrize(
    "maps",
    [
        "map a b\nmap b a\n",
        "map! jk zz\nmap Q ijk\x16\x1b\n",
        "map s x\nmap Q :set ts=8\x16\r\n",
        "map w x\nmap Q dw\n",
    ],
)
def test_maps_that_cannot_be_followed_bind_nothing_and_say_so(maps: str) -> None:
    reading = read("ex", maps)
    last = reading.account[-1]
    assert last.is_fault
    assert "other maps" in last.became or "come to themselves" in last.became
    assert last.written not in [one.text for one in reading.layer.kept]


def test_a_return_at_the_end_of_a_map_is_a_key_and_a_line_end_is_none() -> None:
    assert bound(read("ex", "map S :w\r\nmap Q x\n"))["Shift+S"] == Do("files.save")
    dos = read("ex", "map Q x\r\nmap S dd\r\n")
    assert bound(dos) == {"Shift+Q": Do("edit.delete-right"), "Shift+S": Do("edit.cut-line")}


def test_a_vertical_tab_is_a_key() -> None:
    assert bound(read("ex", "map \x0b dd\n"))["Ctrl+K"] == Do("edit.cut-line")


def test_a_map_that_is_taken_away_is_not_there_and_the_editor_stops_where_there_is_none() -> None:
    reading = read("ex", "map q dd\nunmap q\nmap Q x\nunmap z\nmap K dd\n")
    assert bound(reading) == {"Shift+Q": Do("edit.delete-right")}
    assert became(reading)["unmap q"] == "takes q away again"
    assert became(reading)["map K dd"] == "ex does not read this: it stops at line 4"
    other = read(
        "kakoune", "unmap global normal Q\nmap global normal q d\nmap global insert jk <esc>\nmap global normal D d\n"
    )
    assert bound(other) == {"q": Do("edit.cut")}
    assert became(other)["map global normal D d"] == "kakoune does not read this: it stops at line 3"


def test_keys_that_begin_others_run_at_once() -> None:
    reading = read("ex", "map g dd\nmap gg x\n")
    assert bound(reading) == {"g": Do("edit.cut-line")}
    assert "run at once" in became(reading)["map gg x"]


# --- keys as commands


def test_keys_are_read_as_what_they_run_and_type() -> None:
    reading = read("ex", "map Q 3jixy\x16\x1b\nmap! \x16\x01 \x16\x1b0i\nmap K oBerth 7\x16\x1b\nmap J dw\n")
    assert steps(reading, "Shift+Q") == (*[Do("cursor.down")] * 3, Type("xy"))
    assert bound(reading)["Ctrl+A"] == Do("cursor.line-start")
    assert steps(reading, "Shift+K") == (Do("cursor.line-end"), Do("edit.newline"), Type("Berth 7"))
    assert steps(reading, "Shift+J") == (Press(parse("d w")),)


def test_keys_in_an_insert_map_are_escape_and_a_letter() -> None:
    assert steps(read("ex", "map! \x16\x04 \x16\x1bxi\n"), "Ctrl+D") == (Do("edit.delete-right"),)
    assert steps(read("ex", "map! \x16\x04 \x16\x1bQi\n"), "Ctrl+D") == (
        Press(parse("Escape Q i".replace("Q", "Shift+Q"))),
    )


def test_a_table_behind_keys_takes_the_first_key_for_its_own() -> None:
    reading = read("kakoune", "map global goto m e\nmap global goto n <esc>x\nmap global user w d\n")
    assert bound(reading) == {"g m": Do("cursor.document-end"), "g n": Do("select.line"), "Space w": Do("edit.cut")}
    text = write_file(dialect("kakoune"), reading.layer, editors_space(), CATALOGUE, headings=False)
    assert "map global goto n <esc>x" in text
    assert "map global user w d" in text
    assert bound(read("kakoune", text)) == bound(reading)


def test_keys_that_mean_something_else_in_another_editor_are_lost_with_the_reason() -> None:
    file = port(read("ex", "map Q dw\n"), "ex", "kakoune")
    assert account(file)["Shift+Q"] == (
        "lost",
        "not all steps of the macro can be had in normal: what d w does is ex's own",
    )
    assert "map " not in file.text


def test_keys_of_an_adopted_layer_are_not_carried_as_letters_either() -> None:
    reading = read("ex", "map Q dw\n")
    name = LayerName("ex", "ex", "adopted", "pier")
    layer = replace(reading.layer, name=name, bindings=[replace(one, layer=name) for one in reading.layer.bindings])
    for homes in ({"pier": dialect("ex")}, {}):
        here = replace(around(editors_space(), terminal="xterm"), homes=homes)
        keymap = Keymap([layer])
        file = port_keymap(keymap, keymap.in_force(LINUX).bindings, None, dialect("kakoune"), here)
        assert account(file)["Shift+Q"][0] == "lost"
        assert "what d w does is" in account(file)["Shift+Q"][1]


def test_a_map_never_swallows_the_next_line() -> None:
    """nvi takes Control-V at the end of a map for one that quotes the end of the line."""
    file = port(read("nano", "bind F5 verbatim main\nbind F6 home main\n"), "nano", "ex")
    assert account(file)["F5"][0] == "lost"
    assert not any(line.endswith("\x16") for line in file.text.split("\n"))
    assert dialect("ex").vocabulary.macro_text([Press(parse("Ctrl+V"))], "input") is None


def test_the_step_that_cannot_be_had_is_named() -> None:
    file = port(read("micro", '{"Alt-w": "SelectWordRight,Copy"}'), "micro", "nano")
    assert account(file)["Alt+W"][1].endswith("nano has no command for select.word-right")
    file = port(read("nano", 'bind F5 "Berth 7" main\n'), "nano", "micro")
    assert account(file)["F5"][1].endswith("micro cannot have type 'Berth 7' in a macro")


def test_nothing_on_keys_that_have_nothing_is_exact_and_ordinary_commands_have_their_headings() -> None:
    file = port(read("micro", '{"Alt-q": "None", "F6": "EndOfLine,InsertNewline"}'), "micro", "nano")
    assert account(file)["Alt+Q"][0] == "exact"
    assert "# Macros" in file.text
    assert "Commands that only" not in file.text
    keys = read("kakoune", "map global normal D xd\n")
    there = port(keys, "kakoune", "nano")
    assert "# Change text" in there.text


def test_literal_braces_are_typed() -> None:
    file = port(read("nano", 'bind M-1 "{{}ferry}" main\n'), "nano", "joe")
    assert '"{ferry}"' in file.text
    assert dialect("nano").vocabulary.parts('"x', "main")[0].command == 'type "\\"x"'  # type: ignore[index]


# --- settings


@pytest.mark.parametrize(
    ("name", "lines", "expected"),
    [
        ("nano", ["set tabsize 3", "set tabstospaces"], {"tab_width": 3, "soft_tabs": True}),
        ("nano", ["set wordbounds", "set softwrap"], {"unknown": {"words", "rows"}}),
        ("nano", ["set linenumbers", "set mouse"], {"unknown": set()}),
        ("micro", ['"tabsize": 2', '"autoindent": false'], {"tab_width": 2, "auto_indent": False}),
        ("micro", ['"ft:go": { "tabsize": 8 }'], {"unknown": {"all"}, "tab_width": 4}),
        ("ex", ["set ai ts=4 nu"], {"auto_indent": True, "tab_width": 4, "shift_width": 8}),
        ("ex", ["se sw=2", "se noai"], {"shift_width": 2, "auto_indent": False}),
        ("joe", ["-tab 4", "-autoindent"], {"tab_width": 4, "auto_indent": True}),
        ("joe", ["-smarthome", "-istep 2"], {"unknown": {"line-start", "tabs"}}),
        ("kakoune", ["set-option global indentwidth 0"], {"indentation": "\t"}),
        (
            "kakoune",
            ["set global indentwidth 2", "hook global InsertChar k %{nop}"],
            {"indentation": "  ", "unknown": {"all"}},
        ),
    ],
)
def test_settings_that_change_what_commands_do(name: str, lines: list[str], expected: dict[str, object]) -> None:
    found = settings_in(dialect(name), lines)
    assert {key: getattr(found, key) for key in expected} == expected


@pytest.mark.parametrize("value", ["0", "-3", "abc", "²", "99999999999999999999", "1e3"])
def test_a_width_that_is_none_makes_tabs_unsure(value: str) -> None:
    assert settings_in(dialect("nano"), [f"set tabsize {value}"]).unknown >= {"tabs"}
    found = settings_in(dialect("kakoune"), [f"set-option global indentwidth {value}"])
    assert found.indentation == "\t" if value == "0" else "tabs" in found.unknown
    assert settings_in(dialect("micro"), [f'"tabsize": {value}']).tab_width > 0


@pytest.mark.parametrize("name", REAL)
def test_the_settings_of_a_description_are_such(name: str) -> None:
    assert list(check_settings(dialect(name))) == []


def test_settings_in_the_file_beside_are_taken_in_and_never_written_into_the_key_file() -> None:
    reading = read(
        "micro", '{"F5": "IndentLine"}', beside='{ "tabstospaces": true, // blanks\n "tabsize": 2, "mouse": true }'
    )
    kept = [(one.text, one.is_beside) for one in reading.layer.kept]
    assert kept == [('"tabstospaces": true', True), ('"tabsize": 2', True)]
    assert "tabsize" not in write_file(dialect("micro"), reading.layer, editors_space(), CATALOGUE)
    assert reading.account[-1].became == "a setting: tab width 2"
    broken = read("micro", "{}", beside="[1")
    assert broken.account[-1].is_fault


def test_a_setting_that_is_not_described_makes_only_what_it_is_about_unsure() -> None:
    judge = EffectJudge(dialect("nano"), dialect("micro"), CATALOGUE, {"nano": ["set wordbounds"]})
    reading = read("nano", "bind F5 nextword main\nbind F6 home main\n")
    word, home = reading.layer.bindings
    assert not judge.compare(word, None, "buffer", "WordRight").is_sure  # type: ignore[union-attr]
    assert judge.compare(home, None, "buffer", "StartOfLine").is_sure  # type: ignore[union-attr]


# --- what was adopted keeps what it was


def test_an_adopted_layer_is_compared_by_the_commands_that_it_was() -> None:
    reading = read("ex", "map Q ddP\nmap K P\n")
    layer = Layer(reading.layer.name, with_commands(dialect("ex"), reading.layer.bindings), macros=reading.layer.macros)
    assert [one.command for one in layer.bindings] == ["ddP", "P"]
    homes = {"": dialect("ex")}
    judge = EffectJudge(None, dialect("nano"), CATALOGUE, {}, homes)
    as_file = EffectJudge(dialect("ex"), dialect("nano"), CATALOGUE)
    for one, other in zip(layer.bindings, reading.layer.bindings, strict=True):
        adopted = one.layer.editor
        assert adopted == ""
        assert judge.compare(one, None, "main", "paste") == as_file.compare(other, None, "main", "paste")


# --- keys that take the next one


def test_a_key_that_takes_a_character_is_read_and_written_with_it() -> None:
    reading = read("ex", "map K fx\nmap Q rbj\nmap g t\n")
    assert bound(reading)["Shift+K"] == Do("cursor.to-character", (("character", "x"),))
    assert steps(reading, "Shift+Q") == (Do("edit.replace-character", (("character", "b"),)), Do("cursor.down"))
    assert bound(reading)["g"] == Do("cursor.before-character")  # asks
    text = write_file(dialect("ex"), reading.layer, editors_space(), CATALOGUE, headings=False)
    assert [line for line in text.splitlines() if line.startswith("map")] == ["map K fx", "map g t", "map Q rbj"]


def test_what_it_does_is_compared_and_what_asks_is_not_known() -> None:
    file = port(read("ex", "map K f.\nmap g f\n"), "ex", "kakoune")
    verdict, how = account(file)["Shift+K"]
    assert verdict == "adapted"
    assert how.startswith("written as f.")
    assert "something else is selected" in how  # it selects up to there, and goes over line ends
    verdict, how = account(file)["g"]
    assert verdict == "adapted"
    assert how.startswith("written as f; whether it does the same is not known for sure")


def test_a_character_that_cannot_be_said_is_not_written() -> None:
    layer = Layer(LayerName("k", "k"), [one_binding("F5", Do("edit.surround", (("sign", "("),)))])
    file = port_layer(layer, "heddle")
    assert account(file)["F5"] == ("lost", "heddle has no command for edit.surround(sign=()")
    said = Layer(LayerName("k", "k"), [one_binding("F5", Do("edit.surround", (("sign", "["),)))])
    assert account(port_layer(said, "heddle"))["F5"][0] == "exact"


HOSTILE = ("\t", "\x1b", "\x16", "\x00", "\n", "ab", "a;b", '"x"', "(1)", "", "😀", "é")


@pytest.mark.parametrize("target", [*REAL, *STAND_INS])
def test_whatever_an_action_is_told_it_is_carried_or_lost(target: str) -> None:
    """No sign in a value breaks the file: what was written is read back, or the binding is lost with its reason."""
    for action, argument in (("cursor.to-character", "character"), ("edit.surround", "sign")):
        told = (*map(chr, range(0x20, 0x7F)), *HOSTILE)
        for values in (told[start : start + 8] for start in range(0, len(told), 8)):
            bindings = [one_binding(f"F{at}", Do(action, ((argument, value),))) for at, value in enumerate(values, 1)]
            entries = port_layer(Layer(LayerName("k", "k"), bindings), target).entries
            assert len(entries) == len(values)
            for entry in entries:
                assert entry.verdict in ("exact", "adapted") or "has no command for" in entry.how, entry
                if entry.verdict == "exact":
                    assert target in STAND_INS


# --- keys to which nothing is bound


@pytest.mark.parametrize(
    ("keys", "target", "said"),
    [
        ("Alt+6", "micro", "it is typed in micro"),
        ("Alt+A", "joe", "it arrives as Escape and another key in joe"),
        ("Ctrl+K", "joe", "it waits in joe, as Ctrl+K"),
        ("Ctrl+G", "ex", "it is typed in ex"),
    ],
)
def test_nothing_on_keys_is_what_they_are_there(keys: str, target: str, said: str) -> None:
    (entry,) = port_layer(Layer(LayerName("k", "k"), [one_binding(keys, Nothing())]), target).entries
    assert entry.verdict == "adapted"
    assert said in entry.how


@pytest.mark.parametrize("name", [*REAL, *STAND_INS])
def test_each_command_stands_for_an_action_that_its_editor_can_run(name: str) -> None:
    """An action of a mode that the editor never is in would be bound, and do nothing."""
    described, actions = dialect(name), shipped.catalogue().actions
    space = Space(shipped.facts().extended(described.facts, described.description.never))
    for command, row in described.vocabulary.commands.items():
        if row.action in actions:
            needs = space.states(actions[row.action].fits or actions[row.action].needs)
            sections = described.vocabulary.sections_of(row)
            there = [space.states(described.description.sections[section]) for section in sections]
            assert any(space.overlap(needs, states) for states in there), command
