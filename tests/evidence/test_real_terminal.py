"""The bytes that the terminal tables predict, beside those that a program in a real xterm receives."""

from itertools import product

import pytest

from ombix.core.keys.notation import ALT, ALTGR, CTRL, SHIFT, Chord, write_chord
from ombix.core.keys.platforms import reserved_on
from ombix.core.pressing.layouts import Layout, Stroke, as_typed
from tests.evidence.real_terminal import KEYCODES, missing_programs, sent_by_xterm
from tests.helpers import others_long, shipped

RESOURCES = {
    "xterm": [],
    "xterm-numbered": ["modifyOtherKeys: 2"],
    "csi-u": ["modifyOtherKeys: 2", "formatOtherKeys: 1"],
}
_PARTING = Stroke("F12", CTRL | ALT | SHIFT)


def strokes_on(layout: Layout) -> list[Stroke]:
    """Every key with every group of modifiers, but for dead keys, keys that write nothing, and what parts the answers."""
    found = []
    for place in KEYCODES:
        if place.startswith("Intl") and place not in layout.keys:
            continue
        third = (0, ALTGR) if layout.has_altgr and place in layout.keys else (0,)
        for bits in product((0, CTRL), (0, ALT), (0, SHIFT), third):
            stroke = Stroke(place, sum(bits))
            key = as_typed(stroke, layout).key
            if key and not key.startswith("dead_") and stroke != _PARTING:
                found.append(stroke)
    return found


@pytest.mark.parametrize("terminal_name", RESOURCES)
@pytest.mark.parametrize("layout_name", others_long(["us", "de"], "de"))
def test_predicted_bytes_arrive(layout_name: str, terminal_name: str) -> None:
    assert not missing_programs(), "run make editors"
    layout, terminal = shipped.layout(layout_name), shipped.terminal(terminal_name)
    kept = {one.chord for one in reserved_on(shipped.platform("linux"), shipped.desktops())}
    strokes = strokes_on(layout)
    assert len(strokes) >= 500
    answers = sent_by_xterm(strokes, layout_name, RESOURCES[terminal_name])
    wrong = []
    for stroke, got in zip(strokes, answers, strict=True):
        chord = as_typed(stroke, layout, bool(terminal.other))
        expected = "the system keeps it" if Chord(stroke.held, stroke.place) in kept else terminal.arrives(chord)
        if (b"" if isinstance(expected, str) else expected) != got:
            wrong.append(f"{write_chord(Chord(stroke.held, stroke.place))}: expected {expected!r}, got {got!r}")
    assert wrong == []
