"""What was used, and what keys save, drawn by Matplotlib: as PNG or SVG."""

import io
from collections.abc import Callable, Sequence
from typing import TYPE_CHECKING, Any

from ombix.core.errors import InputError
from ombix.work.usage.savings_answer import SavingsReport
from ombix.work.usage.use_answer import UseReport

if TYPE_CHECKING:
    from matplotlib.axes import Axes

ENDINGS = (".png", ".svg")
MOST = 12
"""Actions in a plot."""
_COLOURS = {"keys": "#1f5f8b", "menu": "#d08a2e", "mouse": "#a4442f", "command line": "#6b7f3a"}
_HATCHES = {"keys": "", "menu": "//", "mouse": "xx", "command line": ".."}
"""So that the ways are told apart without colours, too."""
_INK, _QUIET = "#1d2430", "#6a7280"


def plot_use(found: UseReport, ending: str) -> bytes:
    """Uses by action and way, and by day. Raises InputError for an ending that is no form, and where nothing was used."""
    _check_any(found.actions)

    def draw(axes: "Sequence[Axes]") -> None:
        shown = found.actions[:MOST][::-1]
        left = [0.0] * len(shown)
        for way in _COLOURS:
            values = [float(one.by.get(way, 0)) for one in shown]
            if any(values):
                axes[0].barh(
                    range(len(shown)), values, left=left, color=_COLOURS[way], hatch=_HATCHES[way], edgecolor="white", label=way
                )  # fmt: skip
                left = [before + value for before, value in zip(left, values, strict=True)]
        axes[0].set_yticks(range(len(shown)), [one.action for one in shown])
        axes[0].set_xlim(0, 1.03 * max((one.times for one in shown), default=1))
        axes[0].set_title("Used most, and by which way", loc="left")
        axes[0].set_xlabel("times")
        axes[0].legend(frameon=False, loc="lower right")
        days = range(len(found.by_day))
        axes[1].bar(days, [one.times for one in found.by_day], color=_COLOURS["keys"], width=0.8)
        step = max(1, len(found.by_day) // 8)
        axes[1].set_xticks(days[::step], [one.day[5:] for one in found.by_day][::step])
        axes[1].set_title("Uses a day", loc="left")

    return _drawn(draw, ending, (3, 1))


def plot_savings(found: SavingsReport, ending: str) -> bytes:
    """Seconds a day that keys save already, and that they could, by action, with the ranges. Raises InputError."""
    _check_any(found.actions)

    def draw(axes: "Sequence[Axes]") -> None:
        shown = [action for action in found.actions if action.saved.most > 0 or action.could.most > 0][:MOST][::-1]
        for shift, name, colour, hatch, ranges in (
            (0.2, "saved", _COLOURS["keys"], "", [one.saved for one in shown]),
            (-0.2, "could be saved", _COLOURS["menu"], "//", [one.could for one in shown]),
        ):
            usual = [one.usual / 60 for one in ranges]
            errors = [
                [(one.usual - one.least) / 60 for one in ranges], [(one.most - one.usual) / 60 for one in ranges]
            ]  # fmt: skip
            alone = [not (one.saved.usual > 0 and one.could.usual > 0) for one in shown]
            places = [number + (0.0 if is_alone else shift) for number, is_alone in enumerate(alone)]
            axes[0].barh(
                places, usual, height=0.38, xerr=errors, color=colour, hatch=hatch, edgecolor="white", label=name,
                error_kw={"ecolor": _INK, "elinewidth": 1, "capsize": 2},
            )  # fmt: skip
        axes[0].set_yticks(range(len(shown)), [one.action for one in shown])
        axes[0].set_xlabel("minutes a day, with the range")
        axes[0].set_title("What keys save", loc="left")
        axes[0].legend(frameon=False, loc="lower right")

    return _drawn(draw, ending, (1,))


def _check_any(rows: Sequence[object]) -> None:
    if not rows:
        raise InputError("there is nothing to draw", "Nothing was used that is known of.")


def _drawn(draw: "Callable[[Sequence[Axes]], None]", ending: str, heights: Sequence[int]) -> bytes:
    if ending not in ENDINGS:
        raise InputError(
            f"a plot is no {ending or 'file without an ending'}", f"Let its name end in {' or '.join(ENDINGS)}."
        )
    from matplotlib import rc_context
    from matplotlib.backends.backend_agg import FigureCanvasAgg
    from matplotlib.figure import Figure

    style: Any = {
        "font.size": 10, "text.color": _INK, "axes.labelcolor": _INK, "axes.edgecolor": _QUIET, "xtick.color": _QUIET,
        "ytick.color": _INK, "axes.spines.top": False, "axes.spines.right": False, "svg.hashsalt": "ombix",
        "axes.titleweight": "bold",
    }  # fmt: skip
    with rc_context(style):
        figure = Figure(figsize=(9.6, 6.4), dpi=120, layout="constrained")
        FigureCanvasAgg(figure)
        axes = figure.subplots(len(heights), 1, height_ratios=list(heights), squeeze=False)
        draw([row[0] for row in axes])
        file = io.BytesIO()
        # No date, so that the same numbers give the same file.
        figure.savefig(file, format=ending[1:], metadata={"Date": None} if ending == ".svg" else {"Software": None})
    return file.getvalue()
