"""How efforts are laid out."""

from ombix.report.blocks import Blank, Block, Cell, Grid, line
from ombix.report.terminal_text import Display
from ombix.work.look.effort_answer import EffortReport, KeysEffort, PressReport

_SOURCES = (
    "Presses as in the Keystroke-Level Model (Card, Moran, Newell 1983); ways by Fitts's law, with the rates of finger, wrist "
    "and arm of Langolf and others (1976); the other hand's turn as in Salthouse (1986)."
)


def effort_report(found: EffortReport, display: Display) -> list[Block]:
    """What each of the keys costs, press by press, and side by side where they are several."""
    hands = "both hands" if found.hands == "both" else f"the {found.hands} hand"
    blocks: list[Block] = [line(f"On the layout {found.layout}, keyboard {found.keyboard}, with {hands}.")]
    for effort in found.efforts:
        blocks += [Blank(), *_keys(effort)]
    known = [effort for effort in found.efforts if effort.seconds is not None]
    if len(known) > 1:
        ordered = sorted(known, key=lambda one: (one.seconds, one.keys))
        rows = [(Cell(one.shown, "key"), f"{one.seconds:.2f} s", _times(one)) for one in ordered]
        blocks += [Blank(), line("The easiest first"), Grid(rows, indent=2)]
    return [*blocks, Blank(), line(Cell(_SOURCES, "quiet"))] if known else blocks


def _keys(one: KeysEffort) -> list[Block]:
    if one.seconds is None:
        return [line(Cell(one.shown, "key"), f" cannot be pressed: {one.reason}")]
    rows = [
        (
            Cell(press.key, "strong"), press.finger or "hand", _way(press), f"{press.press_seconds:.2f} s",
            _seconds(press.way_seconds), _seconds(press.turn_seconds),
        )
        for chord in one.presses for press in chord
    ]  # fmt: skip
    head = ("key", "pressed by", "goes", "press", "way", "turn")
    return [line(Cell(one.shown, "key"), f" takes {one.seconds:.2f} s, {_times(one)}"), Grid(rows, head, 2)]


def _times(one: KeysEffort) -> str:
    return f"{one.times:.1f} times a key under the index finger"


def _way(press: PressReport) -> str:
    if press.key == "mouse button":
        return "from the keyboard to the mouse"
    if not press.moves:
        return "rests there"
    noun = "key" if f"{press.distance:.1f}" == "1.0" else "keys"
    return f"{press.distance:.1f} {noun}" + (f", by the {press.moves}" if press.moves != "finger" else "")


def _seconds(value: float) -> str:
    return f"{value:+.2f} s" if value else ""
