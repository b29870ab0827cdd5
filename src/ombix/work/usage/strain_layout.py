"""How loads on fingers and hands are laid out."""

from ombix.report.blocks import Blank, Block, Cell, Grid, line
from ombix.report.terminal_text import Display
from ombix.work.usage.savings_layout import short_time
from ombix.work.usage.strain_answer import FingerLoad, StrainReport


def strain_report(found: StrainReport, display: Display) -> list[Block]:
    """Which fingers, hands, rows and modifiers bear what."""
    if not found.presses:
        return [line("No keys were used that are known of.")]
    blocks: list[Block] = [
        line(
            f"{found.presses:,.0f} presses a day in {short_time(found.seconds)}, over {found.days} day{'s' * (found.days != 1)}."
        )
    ]
    for title, loads in (
        ("Fingers", found.fingers), ("Hands", found.hands), ("Rows", found.rows), ("Modifiers", found.modifiers)
    ):  # fmt: skip
        if loads:
            blocks += [
                Blank(),
                line(Cell(title, "strong")),
                Grid([_load(load) for load in loads], ("", "presses", "time", ""), 2),
            ]
    blocks += [
        Blank(),
        line(
            f"{found.same_finger:.1%} of the presses are by the finger that pressed the key before; "
            f"{found.held_by_the_same_hand:.1%} are made while the same hand holds a modifier."
        ),
    ]
    if found.unknown:
        blocks.append(line(f"{found.unknown:,} uses are left out: their keys cannot be pressed on this keyboard."))
    return blocks


def _load(one: FingerLoad) -> tuple[str, str, str, str]:
    return (
        one.name.replace("-", " "), f"{one.presses:.0%}", f"{one.seconds:.0%}", "█" * round(30 * one.seconds)
    )  # fmt: skip
