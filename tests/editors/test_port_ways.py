"""The ways in which a binding comes across, each by an example, from the best to the least."""

from pathlib import Path

import pytest

from ombix.core.errors import OutsideError, Place
from ombix.core.keymap.bindings import Binding, Keymap, Layer, LayerName
from ombix.core.keymap.deciding import Policy
from ombix.core.keymap.outcomes import Do, Macro, Nothing, Outcome, Play, Press, Type, When
from ombix.core.keys.notation import parse, write
from ombix.editors import editor_porting
from ombix.editors.dialect import Dialect
from ombix.editors.editor_porting import PortedFile, port_keymap
from ombix.editors.file_reading import FileReading, read_file
from ombix.files import keymap_reading
from tests.helpers import around, dialect, editors_space, ombix, shipped

CATALOGUE = shipped.catalogue()
LINUX = shipped.platform("linux")
TEXT = "pane is text"


def port(layer: Layer, target: str, source: str = "", rehome: bool = False) -> PortedFile:
    keymap, goal = Keymap([layer]), dialect(target)
    origin = dialect(source) if source else None
    here = around(editors_space(), terminal=goal.description.terminal)
    return port_keymap(keymap, keymap.in_force(LINUX).bindings, origin, goal, here, rehome)


def own(*rows: tuple[str, Outcome, str], macros: dict[str, Macro] | None = None) -> Layer:
    bindings = [Binding(parse(keys), outcome, Place("k"), LayerName("k", "k"), where) for keys, outcome, where in rows]
    return Layer(LayerName("k", "k"), bindings, macros=macros or {})


def told(file: PortedFile) -> list[tuple[str, str, str]]:
    """The keys in the source, the verdict, and the keys in the target."""
    return [(write(one.source.trigger), one.verdict, write(one.trigger) if one.trigger else "") for one in file.entries]


def how(file: PortedFile, keys: str) -> str:
    return next(one.how for one in file.entries if write(one.source.trigger) == keys)


# --- conditions


START, STOP = Do("program.start"), Do("program.stop")


def test_a_condition_that_the_target_can_tell_comes_across_exactly() -> None:
    file = port(own(("F8", START, "program is stopped"), ("F8", STOP, "program is running")), "heddle")
    assert [one.verdict for one in file.entries] == ["exact", "exact"]
    assert file.text.count('while = "resting"') == file.text.count('while = "treading"') == 12  # each shed


def test_a_wider_condition_is_said() -> None:
    file = port(own(("F5", Do("edit.cut"), f"{TEXT} and readonly and recording")), "tarn")
    assert how(file, "F5").endswith("whenever pane is text and readonly, as tarn cannot tell recording")
    assert 'while="afloat and iced"' in file.text


def test_a_narrower_condition_is_said() -> None:
    file = port(
        own(
            ("F5", Do("edit.cut"), f"{TEXT} and (selection is none or recording)"),
            ("F5", Do("edit.copy"), f"{TEXT} and selection is not none and not recording"),
        ),
        "tarn",
    )
    copied, cut = file.entries  # the last of the file comes first
    assert (copied.verdict, cut.verdict) == ("lost", "adapted")
    assert "only when pane is text and selection is none, as tarn cannot tell recording" in cut.how
    assert "the key means several things by recording" in copied.how


def test_a_language_is_told_by_kakoune_and_not_by_nano() -> None:
    layer = own(("F5", Do("files.save"), f"{TEXT} and language in (python, lua)"))
    (entry,) = port(layer, "kakoune").entries
    assert entry.verdict == "exact"
    (entry,) = port(layer, "nano").entries
    assert entry.how.endswith("in every state, as nano cannot tell language")


def test_a_default_that_would_be_stronger_is_beaten_in_its_own_states() -> None:
    """In tarn the binding whose condition speaks of more facts wins: over its Enter for suggestions one more is needed."""
    file = port(own(("Enter", Do("cursor.down"), TEXT)), "tarn")
    assert [one.verdict for one in file.entries] == ["exact"]
    assert file.text.count("swim-south") == 2
    assert 'while="afloat and net"' in file.text


# --- arguments and families


def test_arguments_are_carried_where_the_command_takes_them() -> None:
    layer = own(("F5", Do("bookmark.set", (("slot", "7"),)), TEXT))
    assert 'lifts = "thread-mark(7)"' in port(layer, "heddle").text
    assert "buoy/7" in port(layer, "oxbow").text
    assert 'stirs="float-at[7]"' in port(layer, "tarn").text
    assert "nano has no command for bookmark.set(slot=7)" in port(layer, "nano").entries[0].how


def test_a_family_comes_across_member_by_member() -> None:
    row = '{ press = "Space j {n:1-5}", with = { slot = "{n}" }, where = "mode is normal" }'
    text = f'format = 1\nname = "k"\n[bind.bookmark]\njump = {row}\n'
    file = port(keymap_reading.read(text, "k.keys.toml", CATALOGUE, shipped.facts()), "oxbow")
    assert told(file) == [(f"Space j {n}", "exact", f"Space j {n}") for n in range(1, 6)]
    assert '(stroke "space j 5" to-buoy/5)' in file.text
    assert "to-buoy/3" not in file.text  # so by default


@pytest.mark.parametrize(
    ("target", "written"),
    [
        ("kakoune", ("3l", "<right><right><right>")), ("nano", ("{right}{right}{right}",)),
        ("micro", ("CursorRight,CursorRight,CursorRight",)), ("joe", ("rtarw,rtarw,rtarw",)),
        ("heddle", ("shuttle-right,shuttle-right,shuttle-right",)), ("oxbow", ("{drift-right}{drift-right}{drift-right}",)),
    ],
)  # fmt: skip
def test_a_count_is_written_as_one_or_as_the_command_so_many_times(target: str, written: tuple[str, ...]) -> None:
    (entry,) = port(own(("F5", Do("cursor.right", (("count", "3"),)), TEXT)), target).entries
    # What is marked stays so in joe, and nothing is sure yet of kakoune's keys.
    assert (entry.verdict, entry.written) == ("adapted" if target in ("joe", "kakoune") else "exact", written)


@pytest.mark.parametrize("action", ["cursor.down", "edit.cut-line", "edit.delete-right"])
def test_a_command_with_a_count_is_not_taken_for_so_many_commands(action: str) -> None:
    """In vi 3j does nothing where there are fewer lines, and 3dd keeps all three of them."""
    (entry,) = port(own(("F5", Do(action, (("count", "3"),)), "pane is text and mode is normal")), "ex").entries
    assert entry.verdict != "exact"


def test_a_count_is_read_where_the_editor_has_counts() -> None:
    reading = read_file(dialect("kakoune"), "map global normal <F5> 12j\nmap global normal <F6> 12w\n", "kakrc")
    assert [str(one.outcome) for one in reading.layer.bindings] == ["cursor.down(count=12)", "macro on-f6"]


def test_a_great_count_is_lost_where_there_are_no_counts() -> None:
    layer = own(("F5", Do("cursor.down", (("count", "400"),)), TEXT))
    assert port(layer, "nano").entries[0].verdict == "lost"
    assert "400j" in port(layer, "kakoune").text


def test_the_steps_of_a_macro_have_counts() -> None:
    macro = Macro("m", "m", (Do("cursor.down", (("count", "2"),)), Do("cursor.line-end")), Place("k"))
    assert how(port(own(("F5", Play("m"), TEXT), macros={"m": macro}), "nano"), "F5") == "written as {down}{down}{end}"


# --- macros


def test_a_macro_of_exact_commands_is_exact() -> None:
    macro = Macro("m", "m", (Do("cursor.line-start"), Type("# "), Do("cursor.down")), Place("k"))
    (entry,) = port(own(("F5", Play("m"), TEXT), macros={"m": macro}), "heddle").entries
    assert (entry.verdict, entry.how) == ("exact", 'written as edge-left,"# ",shuttle-down')


def test_pressed_keys_are_carried_as_what_they_surely_do() -> None:
    macro = Macro("m", "m", (Press(parse("F6 F7")),), Place("k"))
    rows = (("F6", Do("cursor.line-end"), TEXT), ("F7", Do("cursor.down"), TEXT), ("F5", Play("m"), TEXT))
    assert how(port(own(*rows, macros={"m": macro}), "nano"), "F5") == "written as {end}{down}"
    unsure = (*rows[1:], ("F6", Do("cursor.line-end"), f"{TEXT} and readonly"))
    assert "nano cannot have press F6 F7 in a macro" in how(port(own(*unsure, macros={"m": macro}), "nano"), "F5")
    moved = (("F6", Do("mode.insert"), TEXT), *rows[1:])  # after it, other keys hold
    assert "nano cannot have press F6 F7 in a macro" in how(port(own(*moved, macros={"m": macro}), "nano"), "F5")


def test_a_macro_that_is_carried_in_two_ways_is_written_twice() -> None:
    """Its step under a condition is decided where the macro is bound."""
    steps = (When("readonly", (Do("cursor.down"),)), Do("cursor.line-end"))
    macro = Macro("m", "m", steps, Place("k"))
    rows = (("F5", Play("m"), f"{TEXT} and readonly"), ("F6", Play("m"), f"{TEXT} and not readonly"))
    file = port(own(*rows, macros={"m": macro}), "tarn")
    assert [one.written for one in file.entries] == [("swim-south; east-shore",), ("east-shore",)]
    again = (("F5", Play("m"), TEXT), ("F6", Play("m"), TEXT))
    plain = Macro("m", "m", steps[1:], Place("k"))
    written = port(own(*again, macros={"m": plain}), "tarn").entries
    assert [one.written for one in written] == [("east-shore",), ("east-shore",)]


def test_pressed_keys_are_relied_on_for_what_is_said_beside_them() -> None:
    rows = (("F6", Do("cursor.line-end"), f"{TEXT} and readonly"), ("F5", Play("m"), TEXT))
    right, wrong = (
        Macro("m", "m", (Press(parse("F6"), means),), Place("k")) for means in ("cursor.line-end", "cursor.line-start")
    )
    assert how(port(own(*rows, macros={"m": right}), "nano"), "F5") == "written as {end}"
    assert "nano cannot have press F6" in how(port(own(*rows, macros={"m": wrong}), "nano"), "F5")


def test_keys_of_another_editor_are_not_carried_in_a_macro() -> None:
    """A macro of joe's own presses what joe decides."""
    macro = Macro("m", "m", (Press(parse("F6")), Do("cursor.down")), Place("k"))
    (entry,) = port(own(("F5", Play("m"), TEXT), macros={"m": macro}), "nano", "joe").entries
    assert (entry.verdict, "what F6 does is joe's own" in entry.how) == ("lost", True)


def test_a_key_that_arrives_as_a_plain_one_is_refused_where_that_does_something_else() -> None:
    tab, cut = ("Tab", Do("edit.insert-tab"), TEXT), ("Ctrl+I", Do("edit.cut"), TEXT)
    assert "it arrives as Tab in nano" in how(port(own(cut), "nano"), "Ctrl+I")
    assert "it arrives as Tab in nano" in how(port(own(tab, cut), "nano"), "Ctrl+I")
    same = ("Ctrl+I", Do("edit.insert-tab"), TEXT)
    assert port(own(tab, same), "nano").entries[1].verdict != "lost"
    in_part = (
        "Tab",
        Do("edit.insert-tab"),
        f"{TEXT} and readonly",
    )  # Tab itself does it in a part of these states only
    assert "it arrives as Tab in nano" in how(port(own(in_part, same), "nano"), "Ctrl+I")
    assert port(own(("Ctrl+I x", Do("edit.cut"), TEXT)), "heddle").entries[0].verdict == "exact"


# --- other keys


def test_the_nearest_free_keys_are_the_same_key_with_other_modifiers() -> None:
    file = port(own(("AltGr+E", Do("cursor.line-start"), TEXT)), "heddle")
    assert told(file) == [("AltGr+E", "adapted", "Alt+E")]
    assert how(file, "AltGr+E").startswith("on Alt+E, as heddle cannot bind AltGr+E; ")


def test_for_a_tap_or_a_click_it_is_the_lowest_free_function_key() -> None:
    file = port(own(("Shift Shift", Do("cursor.line-start"), TEXT), ("Ctrl+F5", Do("edit.cut"), TEXT)), "heddle")
    assert told(file) == [("Shift Shift", "adapted", "F5"), ("Ctrl+F5", "exact", "Ctrl+F5")]
    taken = port(own(("Shift Shift", Do("cursor.line-start"), TEXT), ("F5", Do("edit.cut"), TEXT)), "heddle")
    assert told(taken)[0] == ("Shift Shift", "adapted", "F8")  # F6 and F7 have meanings by default


def test_an_action_that_has_other_keys_stays_lost_and_they_are_named() -> None:
    file = port(own(("Shift Shift", Do("edit.cut"), TEXT)), "heddle")
    assert told(file) == [("Shift Shift", "lost", "")]
    assert file.entries[0].elsewhere == parse("Ctrl+X")


def test_a_leader_is_exchanged_for_all_sequences_at_once() -> None:
    origin = dialect("oxbow")
    file = port(origin.default_layer, "heddle", "oxbow")
    leaders = {
        one.trigger[:1]
        for one in file.entries
        if one.trigger and len(one.trigger) > 1 and one.source.trigger[0].key == "Space"
    }
    assert leaders == {parse("Ctrl+Space")}
    moved = [one for one in file.entries if one.trigger and one.trigger[:1] == parse("Ctrl+Space")]
    assert len(moved) >= 20
    assert all(one.trigger is not None and one.trigger[1:] == one.source.trigger[1:] for one in moved)


# --- modes


def test_a_source_with_modes_fills_a_target_without_them() -> None:
    """What a key does while text is typed goes before what it does where keys are commands."""
    file = port(
        own(
            ("F5", Do("edit.cut"), f"{TEXT} and mode is insert"),
            ("F5", Do("edit.copy"), f"{TEXT} and mode is normal"),
            ("F6", Do("cursor.up"), f"{TEXT} and mode is normal"),
            ("F6", Do("select.up"), f"{TEXT} and mode is select"),
            ("k", Do("cursor.line-start"), f"{TEXT} and mode is normal"),
        ),
        "heddle",
    )
    verdicts = {(str(one.source.outcome)): one.verdict for one in file.entries}
    assert verdicts == {
        "edit.cut": "adapted", "edit.copy": "lost", "cursor.up": "adapted", "select.up": "lost",
        "cursor.line-start": "adapted",
    }  # fmt: skip
    assert how(file, "k").startswith("on Alt+K, as k is typed in heddle; ")
    assert "heddle has no modes" in how(file, "k")


def test_a_condition_of_a_source_without_modes_is_wider_in_a_target_that_cannot_tell_it() -> None:
    """Source and target share no mode; that makes no condition the same as another one."""
    layer = own(("F5", Do("edit.copy"), f"{TEXT} and selection is one"))
    (entry,) = port(layer, "oxbow", "heddle").entries
    assert entry.verdict == "adapted"
    assert "in every state, as oxbow cannot tell selection" in entry.how


def test_a_source_without_modes_fills_all_modes() -> None:
    (entry,) = port(own(("F5", Do("edit.copy"), TEXT)), "oxbow").entries
    assert (entry.verdict, entry.sections) == ("exact", ("calm", "rapids", "eddy"))


# --- sequences and time


def test_a_default_that_would_make_a_key_wait_is_taken_away_and_named() -> None:
    file = port(own(("Ctrl+K", Do("edit.cut"), TEXT)), "heddle")
    (entry,) = file.entries
    assert entry.verdict == "exact"
    assert [(write(keys), str(outcome)) for keys, _section, outcome in entry.cleared][:2] == [
        ("Ctrl+K 1", "bookmark.set(slot=1)"), ("Ctrl+K 2", "bookmark.set(slot=2)"),
    ]  # fmt: skip
    assert file.text.index('untied = "ctrl~k 1"') < file.text.index('treadle = "ctrl~k"')
    again = port(own(("Ctrl+K", Do("edit.cut"), TEXT)), "heddle", rehome=True)
    assert parse("Ctrl+K 1") in [one.old for one in again.rehomed]


def test_a_key_that_waits_in_the_source_may_wait_in_the_target() -> None:
    file = port(own(("Ctrl+K", Do("edit.cut"), TEXT), ("Ctrl+K t", Do("edit.copy"), TEXT)), "heddle")
    assert [one.cleared for one in file.entries] == [(), ()]


@pytest.mark.parametrize(
    ("source", "target", "said"),
    [
        ("oxbow", "heddle", "it runs when another key does not go on, and not after 600 ms"),
        ("heddle", "oxbow", "it runs after 600 ms, and not only when another key does not go on"),
        ("heddle", "tarn", ""),
    ],
)
def test_how_long_a_beginning_waits_is_said(source: str, target: str, said: str) -> None:
    where = f"{TEXT} and mode is insert" if source == "oxbow" else TEXT
    layer = own(("Ctrl+J", Do("edit.cut"), where), ("Ctrl+J t", Do("edit.copy"), where))
    first, second = port(layer, target, source).entries
    assert said in first.how
    assert first.verdict == ("adapted" if said else "exact")
    assert "ms" not in second.how


@pytest.mark.parametrize(
    ("source", "target", "said"),
    [
        (Policy("last", "timed", 600), Policy("innermost", "timed", 900), "it runs after 900 ms, and not after 600 ms"),
        (Policy("last", "timed", 600), Policy("innermost", "timed", 600), ""),
        (Policy("last", "timed", 600), Policy("innermost", "waits", 600), "and not after 600 ms"),
        (
            Policy("last", "waits", 600),
            Policy("innermost", "timed", 600),
            "and not only when another key does not go on",
        ),
        (Policy("last", "waits", 600), Policy("innermost", "waits", 900), ""),
    ],
)
def test_what_two_waiting_times_have_to_do_with_each_other(
    source: Policy, target: Policy, said: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(dialect("oxbow"), "policy", source)
    monkeypatch.setattr(dialect("heddle"), "policy", target)
    where = f"{TEXT} and mode is insert"
    first, second = port(
        own(("Ctrl+J", Do("edit.cut"), where), ("Ctrl+J t", Do("edit.copy"), where)), "heddle", "oxbow"
    ).entries
    assert first.how.endswith(said)
    assert (" ms" in first.how, " ms" in second.how) == (bool(said), False)


def test_a_shorter_key_that_the_source_binds_is_not_taken_away_for_a_sequence(monkeypatch: pytest.MonkeyPatch) -> None:
    """heddle's Ctrl+Home goes for a sequence, unless the source wants it there itself: then the sequence has to go elsewhere."""
    monkeypatch.setattr(dialect("heddle"), "policy", Policy("innermost", "fires"))
    sequence = ("Ctrl+Home t", Do("edit.cut"), TEXT)
    (alone,) = port(own(sequence), "heddle").entries
    assert (alone.verdict, [write(keys) for keys, *_ in alone.cleared]) == ("exact", ["Ctrl+Home"])
    kept = port(own(("Ctrl+Home", Do("cursor.document-start"), TEXT), sequence), "heddle")
    assert "as Ctrl+Home fires at once in heddle" in how(kept, "Ctrl+Home t")
    assert [write(keys) for entry in kept.entries for keys, *_ in entry.cleared] == []


def test_a_text_is_typed_in_a_macro_only_where_text_is_edited() -> None:
    macro = Macro("m", "m", (Type("# "), Do("cursor.down")), Place("k"))
    typed = port(own(("F5", Play("m"), TEXT), macros={"m": macro}), "heddle").entries[0]
    assert (typed.verdict, typed.how) == ("exact", 'written as "# ",shuttle-down')
    elsewhere = port(own(("F5", Play("m"), "pane is files"), macros={"m": macro}), "heddle").entries[0]
    assert (elsewhere.verdict, elsewhere.how) == (
        "lost",
        "not all steps of the macro can be had in basket: no text is typed there",
    )
    moved = Macro("m", "m", (Do("cursor.down"),), Place("k"))  # without a text, nothing is in its way
    assert port(own(("F5", Play("m"), "pane is files"), macros={"m": moved}), "heddle").entries[0].verdict != "lost"


def test_where_a_beginning_fires_a_default_goes_for_a_sequence(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(dialect("heddle"), "policy", Policy("innermost", "fires"))
    file = port(own(("Ctrl+J t", Do("edit.cut"), TEXT)), "heddle")
    assert [(one.verdict, [write(keys) for keys, *_ in one.cleared]) for one in file.entries] == [("exact", ["Ctrl+J"])]
    both = port(own(("Ctrl+J", Do("edit.copy"), TEXT), ("Ctrl+J t", Do("edit.cut"), TEXT)), "heddle")
    assert told(both) == [("Ctrl+J", "exact", "Ctrl+J"), ("Ctrl+J t", "adapted", "Ctrl+Alt+J t")]
    assert both.entries[1].how.startswith("on Ctrl+Alt+J t, as Ctrl+J fires at once in heddle; ")


def test_where_a_beginning_can_do_nothing_itself_the_first_is_kept() -> None:
    """In kakoune a key leads to a table of keys, or runs a command."""
    file = port(own(("F5", Do("edit.cut"), TEXT), ("F5 t", Do("edit.copy"), TEXT)), "kakoune")
    assert [one.verdict for one in file.entries] != ["exact", "exact"]
    assert "F5 does something itself, and cannot begin a sequence in kakoune" in file.entries[1].how


def test_where_a_command_cannot_be_run_its_keys_may_do_something_else() -> None:
    """Pressed in kate: with nothing selected, Alt and a character types it."""
    file = port(own(("Alt+Q", Do("select.clear"), TEXT), ("F8", Do("select.clear"), TEXT)), "kate")
    assert [one.verdict for one in file.entries] == ["adapted", "exact"]
    assert how(file, "Alt+Q").endswith("where edit_deselect cannot be run, kate types it")


def test_keys_that_the_text_of_the_source_takes_are_not_nothing() -> None:
    """Pressed in mousepad: where undo has other keys, Ctrl+Z still undoes in the text."""
    file = port(own(("Ctrl+Z", Nothing(), TEXT), ("Ctrl+N", Nothing(), TEXT)), "nano", "mousepad")
    assert [one.verdict for one in file.entries] == ["adapted", "exact"]
    assert "where it comes from, the text does something with it by itself" in how(file, "Ctrl+Z")
    there = port(own(("Ctrl+Z", Nothing(), TEXT), ("Ctrl+N", Nothing(), TEXT)), "mousepad")
    assert [one.verdict for one in there.entries] == ["adapted", "exact"]
    assert "mousepad does something in the text with it" in how(there, "Ctrl+Z")


def test_a_longer_sequence_than_the_target_allows() -> None:
    file = port(own(("Ctrl+K a b c", Do("cursor.line-start"), TEXT)), "tarn")
    assert file.entries[0].how.startswith("so by default") or "at most 3 chords" in file.entries[0].how


def test_a_key_that_waits_for_a_sequence_that_arrives_alike_is_said() -> None:
    """A terminal sends Ctrl+I as Tab: what follows the one follows the other."""
    keymap = Keymap([own(("Tab", Do("edit.insert-tab"), TEXT), ("Ctrl+I t", Do("edit.copy"), TEXT))])
    file = port_keymap(keymap, keymap.in_force(LINUX).bindings, None, dialect("heddle"), around(editors_space()))
    assert how(file, "Tab").endswith("it waits, as Tab t begins with the same bytes")
    assert [one.verdict for one in file.entries] == ["adapted", "exact"]


# --- the check


def read_instead(monkeypatch: pytest.MonkeyPatch, written: str, changed: str) -> None:
    """Have the file that was written be read with one thing changed."""
    honest = editor_porting.read_file

    def read(one: Dialect, text: str, file: str, layer: LayerName | None = None) -> FileReading:
        return honest(one, text.replace(written, changed), file, layer)

    monkeypatch.setattr(editor_porting, "read_file", read)


def test_an_exact_key_that_waits_all_the_same_makes_the_port_fail(monkeypatch: pytest.MonkeyPatch) -> None:
    read_instead(monkeypatch, 'untied = "ctrl~k 1"', 'untied = "ctrl~k 9"')
    with pytest.raises(OutsideError, match=r"Ctrl\+K waits in heddle for what may follow, and not in the source"):
        port(own(("Ctrl+K", Do("line.delete"), TEXT)), "heddle")


def test_an_adapted_binding_that_is_not_there_makes_the_port_fail(monkeypatch: pytest.MonkeyPatch) -> None:
    layer = own(("F5", Do("line.delete"), f"{TEXT} and mode is normal"))
    assert [one.verdict for one in port(layer, "heddle").entries] == ["adapted"]
    read_instead(monkeypatch, "drop-row", "repeat-row")
    with pytest.raises(OutsideError, match=r"F5 is line.delete in the source and line.copy-down in heddle"):
        port(layer, "heddle")


def test_a_statement_that_is_not_read_back_makes_the_port_fail(monkeypatch: pytest.MonkeyPatch) -> None:
    read_instead(monkeypatch, "treadle", "tredale")
    with pytest.raises(OutsideError, match=r"tredale.* was written, and is not read"):
        port(own(("F5", Do("line.delete"), TEXT)), "heddle")


def test_keys_taken_away_stay_away() -> None:
    file = port(own(("Ctrl+Shift+Q", Nothing(), "always")), "heddle")
    assert [one.verdict for one in file.entries] == ["exact"]
    assert file.text.count('untied = "ctrl~shift~q"') == 10  # where heddle has it by default


def test_an_editors_own_command_is_carried_to_it_in_the_mode_that_has_it(tmp_path: Path) -> None:
    """It is named by the editor's name in the workspace; while typing, its keys would stand in the text."""
    place = tmp_path / "place"
    place.mkdir()
    (place / "k.keys.toml").write_text(
        'format = 1\nname = "k"\n[only.quay]\n"normal <a-x>" = "F6"\n[only.hut]\nJ = "F8"\n[only.pier]\nflipnewbuffer = "Alt+Z"\n'
    )
    editors = {"quay": "kakoune", "hut": "ex", "pier": "nano"}
    (place / "ombix.toml").write_text(
        'format = 1\nkeymap = "k.keys.toml"\nplatform = "linux"\n'
        + "".join(f'[editor.{name}]\ndialect = "{dialect}"\n' for name, dialect in editors.items())
    )
    assert ombix(place, "port").status in (0, 1)
    written = {name: next((place / "ported" / name).iterdir()).read_text() for name in editors}
    assert "map global normal <F6> <a-x>" in written["quay"]
    assert "insert" not in written["quay"]
    assert "map #8 J" in written["hut"] and "map!" not in written["hut"]
    assert "bind M-Z flipnewbuffer" in written["pier"]


def test_a_macro_with_a_line_break_presses_enter_in_nano(tmp_path: Path) -> None:
    place = tmp_path / "place"
    place.mkdir()
    (place / "k.keys.toml").write_text(
        'format = 1\nname = "k"\n[macro.two]\npress = "F5"\nsteps = [{ type = "one {\\ntwo" }]\n'
    )
    (place / "ombix.toml").write_text('format = 1\nkeymap = "k.keys.toml"\n[editor.pier]\ndialect = "nano"\n')
    ran = ombix(place, "port", "--to", "pier")
    assert ran.status in (0, 1), ran.err
    assert 'bind F5 "one {{}{enter}two" main' in (place / "ported" / "pier" / "nanorc").read_text()
