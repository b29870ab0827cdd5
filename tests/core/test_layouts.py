"""Presses: expected ones are read off the layouts as they are printed (DIN 2137, ANSI INCITS 154 and the makers' pictures)."""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from ombix.core.errors import Place
from ombix.core.keymap.bindings import Binding, LayerName
from ombix.core.keymap.outcomes import Do
from ombix.core.keys.notation import ALT, ALTGR, CTRL, SHIFT, Chord, parse, write
from ombix.core.pressing.layouts import KeyboardSetup, Stroke, as_pressed, as_typed
from tests.helpers import setup, shipped


def show(keys: str, here: KeyboardSetup) -> str:
    return here.show(here.platform.resolve(parse(keys)))


@pytest.mark.parametrize(
    ("layout", "platform", "keyboard", "keys", "shown"),
    [
        ("us", "linux", "full", "Ctrl+/", "Ctrl+/"),
        ("us", "linux", "full", "Ctrl+?", "Ctrl+Shift+/"),
        ("de", "linux", "full", "Ctrl+/", "Strg+Shift+7"),
        ("de", "linux", "full", "Ctrl+Z", "Strg+Z"),
        ("de", "linux", "full", "Ctrl+[KeyZ]", "Strg+Y"),
        ("de", "linux", "full", "Alt+{", "Alt+AltGr+7"),
        ("de", "linux", "full", "@", "AltGr+Q"),
        ("de", "linux", "full", "Ctrl+^", "Strg+^"),
        ("de", "linux", "full", "é", "´, then E"),
        ("de", "linux", "full", "Delete", "Entf"),
        ("de", "linux", "laptop", "Home", "Fn+←"),
        ("de", "windows", "full", "Ctrl+Alt+Q", "Strg+Alt+Q"),
        ("de", "windows", "full", "@", "AltGr+Q"),
        ("de", "mac", "mac-laptop", "Mod+L", "command+L"),
        ("de-mac", "mac", "mac-laptop", "@", "option+L"),
        ("us-mac", "mac", "mac-laptop", "F8", "Fn+F8"),
        ("fr", "linux", "full", "Ctrl+1", "Ctrl+Shift+&"),
        ("fr", "linux", "full", "é", "é"),
        ("gr", "linux", "full", "Ctrl+K", "Ctrl+K"),
        ("ru", "linux", "full", "Alt+7", "Alt+7"),
        ("us-dvorak", "linux", "full", "Ctrl+[KeyS]", "Ctrl+O"),
        ("us", "linux", "full", "Space o f", "Space O F"),
        ("us", "linux", "full", "Shift Shift", "Shift Shift"),
    ],
)  # fmt: skip
def test_how_it_is_pressed(layout: str, platform: str, keyboard: str, keys: str, shown: str) -> None:
    assert show(keys, setup(layout, platform, keyboard)) == shown


@pytest.mark.parametrize(
    ("layout", "platform", "keyboard", "keys", "why"),
    [
        ("us", "linux", "full", "Ctrl+ß", "has no ß"),
        ("us", "linux", "full", "AltGr+E", "has no AltGr"),
        ("us", "linux", "laptop", "Ctrl+[Numpad1]", "does not have the place Numpad1"),
        ("us", "linux", "full", "Ctrl+Click", "done with the mouse"),
        ("de", "windows", "full", "Alt+{", "only types it"),
        ("de-mac", "mac", "mac-laptop", "Alt+@", "only types it"),
        ("gr", "linux", "full", "k", "has no k"),
    ],
)  # fmt: skip
def test_why_it_cannot_be_pressed(layout: str, platform: str, keyboard: str, keys: str, why: str) -> None:
    found = setup(layout, platform, keyboard).press_sequence(parse(keys))
    assert isinstance(found, str)
    assert why in found


def test_all_presses_of_a_chord_the_easiest_first() -> None:
    found = setup("us").presses(parse("Ctrl+1")[0])
    assert isinstance(found, list)
    assert [press.stroke for press in found] == [Stroke("Digit1", CTRL), Stroke("Numpad1", CTRL)]
    enter = setup("us").presses(parse("Enter")[0])
    assert [press.stroke.place for press in enter if not isinstance(press, str)] == ["Enter", "NumpadEnter"]


def test_a_letter_of_another_script_is_taken_by_its_latin_place() -> None:
    (press,) = [one for one in setup("ru").presses(parse("Ctrl+C")[0]) if not isinstance(one, str)]
    assert press.stroke == Stroke("KeyC", CTRL)
    assert press.is_borrowed


@pytest.mark.parametrize(
    ("layout", "a", "b", "common"),
    [
        ("us", "Ctrl+/", "Ctrl+[Slash]", Stroke("Slash", CTRL)),
        ("us", "Ctrl+?", "Ctrl+Shift+[Slash]", Stroke("Slash", CTRL | SHIFT)),
        ("de", "Ctrl+-", "Ctrl+[Slash]", Stroke("Slash", CTRL)),
        ("de", "Ctrl+/", "Ctrl+Shift+7", Stroke("Digit7", CTRL | SHIFT)),
        ("de", "Ctrl+/", "Ctrl+[Slash]", None),
        ("us", "Ctrl+/", "Ctrl+K", None),
    ],
)  # fmt: skip
def test_two_chords_overlap_when_a_press_is_both(layout: str, a: str, b: str, common: Stroke | None) -> None:
    here = setup(layout)
    both = set(here.strokes(parse(b)[0]))
    assert next((stroke for stroke in here.strokes(parse(a)[0]) if stroke in both), None) == common
    assert (here.typed_all(parse(a)) == here.typed_all(parse(b))) == (common is not None)


def test_bindings_on_the_same_press_get_the_same_trigger() -> None:
    def bound(keys: str) -> Binding:
        return Binding(parse(keys), Do("files.save"), Place("k"), LayerName("k", "k"))

    first, second, third = as_pressed([bound("Ctrl+[Slash]"), bound("Ctrl+-"), bound("Ctrl+K")], setup("de"))
    assert first.trigger == second.trigger == parse("Ctrl+-")
    assert first.as_written == parse("Ctrl+[Slash]")
    assert third.as_written == ()


@pytest.mark.parametrize("keys", ["Ctrl+K", "F8", "Shift+F3", "A", "Ctrl+1", "ArrowUp", "Alt+Enter"])
def test_what_is_pressed_as_it_reads_is_plain(keys: str) -> None:
    assert setup("us").is_plain(parse(keys))


@pytest.mark.parametrize("keys", ["Ctrl+?", "Ctrl+ß", "Alt+{", "Shift+PageUp X {"])
def test_what_is_pressed_otherwise_is_not_plain(keys: str) -> None:
    assert not setup("us").is_plain(parse(keys))


@given(st.sampled_from(shipped.layout_names()), st.data())
def test_every_stroke_is_among_the_presses_of_what_it_types(name: str, data: st.DataObject) -> None:
    here = setup(name)
    place = data.draw(st.sampled_from(sorted(here.layout.keys.keys() & here.keyboard.positions.keys())))
    third = [0, ALTGR, ALTGR | SHIFT] if here.layout.has_altgr else [0]
    stroke = Stroke(place, data.draw(st.sampled_from([0, SHIFT, *third])) | data.draw(st.sampled_from([0, CTRL, ALT])))
    chord = as_typed(stroke, here.layout)
    if len(chord.key) == 1:
        assert stroke in here.strokes(chord), write((chord,))


@given(st.sampled_from(shipped.layout_names()), st.sampled_from("abcdefghijklmnopqrstuvwxyz0123456789/;{]"))
def test_every_press_of_a_character_types_it(name: str, key: str) -> None:
    here = setup(name)
    found = here.presses(Chord(CTRL, key))
    for press in [] if isinstance(found, str) else found:
        if press.first is None and not press.is_dead and not press.is_borrowed and "Numpad" not in press.stroke.place:
            assert as_typed(press.stroke, here.layout) == Chord(CTRL, key)


def test_neighbours_and_distances_on_a_keyboard() -> None:
    keyboard = setup("us").keyboard
    assert set(keyboard.neighbours("KeyG")) == {"KeyF", "KeyH", "KeyT", "KeyY", "KeyV", "KeyB"}
    assert "F4" in keyboard.neighbours("F5")  # over the gap between the groups of function keys
    assert "F3" not in keyboard.neighbours("F5")
    assert math.dist(keyboard.middle("KeyA"), keyboard.middle("KeyS")) == 1
    assert math.dist(keyboard.middle("KeyF"), keyboard.middle("KeyJ")) == 3
    assert set(setup("de").keyboard.neighbours("KeyZ")) >= {"IntlBackslash", "KeyX"}
    with pytest.raises(KeyError):
        setup("us", keyboard="laptop").keyboard.middle("Numpad1")
