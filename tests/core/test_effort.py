"""Efforts, by hand from the figures of the sources: the Keystroke-Level Model's operators, Fitts's law, the other hand's turn."""

from math import hypot, log2

import pytest

from ombix.core.keys.notation import parse
from ombix.core.pressing.effort import Effort, Effortful, Hands
from tests.helpers import setup, shipped

PRESS, OTHER_HAND = 0.2, -0.045  # seconds
FINGER, WRIST, ARM = 38, 23, 10  # bits a second
RING, LITTLE = 1.1, 1.2


def effort(keys: str, keyboard: str = "full", layout: str = "us", hands: Hands = "both") -> Effort:
    found = Effortful(shipped.effort(), setup(layout, keyboard=keyboard), hands).effort(parse(keys))
    assert isinstance(found, Effort)
    return found


def seconds(keys: str, keyboard: str = "full", layout: str = "us", hands: Hands = "both") -> float:
    return effort(keys, keyboard, layout, hands).seconds


def test_a_key_that_a_finger_rests_on_is_one_press() -> None:
    assert seconds("f") == seconds("j") == pytest.approx(PRESS)
    assert seconds("s") == pytest.approx(PRESS * RING)
    assert seconds("a") == pytest.approx(PRESS * LITTLE)


def test_the_way_to_a_key_is_fittss_law() -> None:
    # On a staggered keyboard R is a row above F, and a quarter of a key to the left of it.
    assert seconds("r") == pytest.approx(PRESS + log2(hypot(0.25, 1) + 1) / FINGER)
    # In straight columns it is right above.
    assert seconds("r", "columnar") == pytest.approx(PRESS + log2(1 + 1) / FINGER)


def test_a_modifier_is_a_press_of_its_own_and_the_other_hand_is_quicker() -> None:
    (ctrl, key) = effort("Ctrl+K").chords[0]
    assert (ctrl.finger, key.finger) == ("left-little", "right-middle")
    # Ctrl is 1.25 wide at the left end, two rows below A, which begins at 1.75.
    way = hypot(1.75 + 0.5 - 1.25 / 2, 2)
    assert seconds("Ctrl+K") == pytest.approx(PRESS * LITTLE + log2(way + 1) / WRIST + PRESS + OTHER_HAND)


def test_one_finger_goes_from_key_to_key() -> None:
    # E is pressed by the middle finger; D, behind it, by the same one, from E.
    middle = log2(hypot(0.25, 1) + 1) / FINGER
    assert seconds("e d") == pytest.approx(2 * PRESS + 2 * middle)
    assert seconds("d d") == pytest.approx(2 * PRESS)
    assert seconds("f j") == pytest.approx(2 * PRESS + OTHER_HAND)


def test_the_mouse_takes_the_way_of_the_hand_and_a_click() -> None:
    assert seconds("Ctrl+Click") == pytest.approx(effort("Ctrl+K").chords[0][0].seconds + 0.4 + 0.2)


def test_the_order_is_that_of_the_keystroke_level_model() -> None:
    """Card, Moran and Newell (1983): each key is a press, a modifier, too; the hand's way to the mouse is two presses more."""
    table = ["f", "Ctrl+J", "Ctrl+Shift+J", "Ctrl+Alt+Shift+J"]
    assert sorted(table, key=seconds) == table
    assert seconds("Ctrl+Alt+Shift+J") > seconds("Space d j")  # four presses against three
    assert seconds("Ctrl+J") < seconds("Ctrl+Click")


def test_the_order_of_the_fingers_is_that_of_tapping() -> None:
    """Hoke (1922), in Dvorak and others (1936): index and middle before ring before little finger."""
    assert seconds("f") == seconds("d") < seconds("s") < seconds("a")
    assert seconds("j") == seconds("k") < seconds("l") < seconds(";")


def test_the_order_of_reaches_is_that_of_fittss_law() -> None:
    """Langolf and others (1976): the finger aims faster than the wrist, and that faster than the arm."""
    ways = ["j", "u", "7", "F7"]
    assert sorted(ways, key=seconds) == ways
    assert [effort(keys).chords[0][0].moves for keys in ways] == ["", "finger", "wrist", "arm"]


def test_where_one_hand_is_busy_the_other_does_all() -> None:
    for hand in ("left", "right"):
        found = effort("Ctrl+J", hands=hand)  # type: ignore[arg-type]
        assert {press.finger.partition("-")[0] for press in found.chords[0]} == {hand}
        assert found.seconds > seconds("Ctrl+J")


def test_keys_behind_fn_and_for_the_thumbs() -> None:
    found = effort("ArrowLeft", "split").chords[0]
    assert [(press.place, press.finger) for press in found] == [("Fn", "left-thumb"), ("KeyJ", "right-index")]
    assert seconds("Home", "laptop") > seconds("Home", "full")
    assert effort("Enter", "split").chords[0][0] == effort("Enter", "split").chords[0][0]._replace(distance=0.0)


@pytest.mark.parametrize("keyboard", shipped.keyboard_names())
@pytest.mark.parametrize(
    "keys", ["Ctrl+Shift+K", "F8", "Ctrl+Home", "Space o f", "Alt+}", "Shift Shift", "Ctrl+Delete"]
)
def test_every_keyboard_has_an_effort_for_usual_keys(keyboard: str, keys: str) -> None:
    assert 0.2 <= seconds(keys, keyboard) < 2.5
    assert 0.2 <= seconds(keys, keyboard, "de") < 2.5


def test_what_cannot_be_pressed_says_why() -> None:
    found = Effortful(shipped.effort(), setup("us")).effort(parse("Ctrl+ß"))
    assert found == "the layout English (US) has no ß"
