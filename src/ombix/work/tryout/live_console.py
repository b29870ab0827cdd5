"""Keys shown while they are pressed: what each would do, in large letters for those who look over the shoulder."""

import os
import sys
from collections import deque

from ombix.console.environment import Environment
from ombix.core.errors import InputError
from ombix.report.blocks import Cell, line
from ombix.report.drawing.typefaces import Typefaces
from ombix.report.large_letters import large
from ombix.report.terminal_text import render, visible
from ombix.work.tryout.live_stage import LiveStage
from ombix.work.tryout.press_answer import StagePress

_END, _END_NAME = b"\x1c", "Ctrl+\\"
_BEGIN_SCREEN, _END_SCREEN, _CLEAR = "\x1b[?1049h\x1b[?25l", "\x1b[?25h\x1b[?1049l", "\x1b[H\x1b[2J"
"""xterm's other screen, and ECMA-48."""
_LAST = 6
_ROWS = 7


def show_live(environment: Environment, stage: LiveStage) -> None:
    """Show what keys do until Ctrl+\\ is pressed. Raises InputError without a terminal."""
    if not environment.can_ask or not environment.is_terminal:
        raise InputError("there is no terminal to press keys at", "Name keys: ombix press Ctrl+S")
    import termios
    import tty

    number, stream = sys.stdin.fileno(), environment.results.stream
    before = termios.tcgetattr(number)
    last: deque[StagePress] = deque(maxlen=_LAST)
    typefaces = Typefaces()
    try:
        stream.write(_BEGIN_SCREEN)
        tty.setraw(number)
        while True:
            _show(environment, stage, last, typefaces)
            data = os.read(number, 256)
            if not data or _END in data:
                return
            last.extend(stage.press(data))
    finally:
        stream.write(_END_SCREEN)
        stream.flush()
        termios.tcsetattr(number, termios.TCSADRAIN, before)


def _show(environment: Environment, stage: LiveStage, last: "deque[StagePress]", typefaces: Typefaces) -> None:
    display, lines = environment.display, list[str]()
    if last:
        newest = last[-1]
        lines += [
            display.style(row, "key") for row in large(visible(newest.pressed), _ROWS, display.width - 1, typefaces)
        ]
        lines.append("")
        for step in newest.steps or ():
            lines += render([line(Cell(step.does, "strong"), Cell(f"  {step.because}", "quiet"))], display)
    else:
        lines.append("Press keys.")
    lines.append("")
    for press in list(last)[-2::-1]:
        does = ", ".join(step.does for step in press.steps) or "waits"
        lines += render([line(Cell(press.pressed, "key"), f"  {does}")], display)
    state = ", ".join(f"{name} is {value}" for name, value in stage.state().items())
    lines += ["", *render([line(Cell(state, "quiet"))], display)]
    lines += render([line(Cell(f"{stage.title}. {_END_NAME} ends.", "quiet"))], display)
    environment.results.stream.write(_CLEAR + "\r\n".join(lines))
    environment.results.stream.flush()
