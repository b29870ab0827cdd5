"""How long it takes to start something: by keys, by menu, by mouse, by a command's name, as the Keystroke-Level Model has it.

Card, Moran and Newell, The keystroke-level model for user performance time with interactive systems, Communications of the ACM
23 (1980). The figures, and what the model leaves open, stand in `data/keystroke-model.toml`.
"""

import math
import re
from collections.abc import Mapping
from typing import Any, NamedTuple

from msgspec import Struct

from ombix.core.errors import InputError, did_you_mean
from ombix.core.keys.notation import MODIFIERS, Trigger, is_mouse
from ombix.core.usage.counts import By

_OPERATOR = re.compile(r"(\d*)(BB|[KPHBMR])")


class KeystrokeModel(Struct, frozen=True):
    """The figures, in seconds; `skill`: kind of typist to the seconds of a key."""

    point: float
    home: float
    mental: float
    click: float
    skill: Mapping[str, float]
    start: float
    slope: float
    menu_depth: int
    name_letters: int
    response: float
    look_up: float
    look_ups: tuple[int, int]

    def seconds(self, operators: str, key: float) -> float:
        """The seconds of a method as it is written with the model's letters, like `H P BB H M 5K`; `key` are those of K. Raises
        InputError."""
        seconds = {
            "K": key, "P": self.point, "H": self.home, "B": self.click / 2, "BB": self.click, "M": self.mental, "R": self.response
        }  # fmt: skip
        total = 0.0
        for word in operators.split():
            if not (re.fullmatch(rf"(?:{_OPERATOR.pattern})+", word)):
                raise InputError(f"{word} is no operator of the model", "They are K, P, H, B, BB, M and R.")
            total += sum(int(count or 1) * seconds[name] for count, name in _OPERATOR.findall(word))
        return total

    def pointing(self, distance: float, size: float) -> float:
        """The seconds for pointing over a distance at a target of a size, in the same unit."""
        return self.start + self.slope * math.log2(distance / size + 0.5)

    def key_of(self, skill: str) -> float:
        """The seconds of a key for a skill. Raises InputError."""
        if skill not in self.skill:
            known = list(self.skill)
            raise InputError(f"unknown skill: {skill}", did_you_mean(skill, known) or f"Skills are {', '.join(known)}.")
        return self.skill[skill]


class Method(NamedTuple):
    """A way to start something, in the model's letters, and what it takes: with quick fingers and no thought at all, as usual,
    and slowly (seconds)."""

    operators: str
    least: float
    usual: float
    most: float

    @property
    def seconds(self) -> tuple[float, float, float]:
        """The three."""
        return self.least, self.usual, self.most


class Methods:
    """The ways to start something, for one skill and those beside it."""

    def __init__(self, model: KeystrokeModel, skill: str = "average", depth: int = 0) -> None:
        self.model = model
        self.key = model.key_of(skill)
        self._depth = depth or model.menu_depth
        order = sorted(model.skill.values())
        at = order.index(self.key)
        self.quick, self.slow = order[max(0, at - 1)], order[min(len(order) - 1, at + 1)]

    def keys(self, trigger: Trigger) -> Method:
        """By keys: each modifier and each key is a press; a mouse click takes the hand along. Practised keys need no thought,
        keys that are still looked for one M."""
        presses = sum(1 + _held(chord.modifiers) for chord in trigger if not is_mouse(chord))
        clicks = [chord for chord in trigger if is_mouse(chord)]
        operators = f"{presses}K" if presses else ""
        for chord in clicks:
            held = _held(chord.modifiers)
            operators += f" {held}K" if held else ""
            operators += " H P BB H"
        operators = operators.strip()
        return Method(
            f"M {operators}", self.model.seconds(operators, self.quick), self.model.seconds(f"M {operators}", self.key),
            self.model.seconds(f"2M {operators}", self.slow),
        )  # fmt: skip

    def by(self, way: By) -> Method:
        """By menu, mouse or command line; by keys that nobody has named, with one modifier."""
        model, depth = self.model, self._depth
        match way:
            case "menu":
                return self._method("H " + "M P BB " + "P BB " * (depth - 1) + "H")
            case "mouse":
                return self._method("H M P BB H")
            case "command line":
                return self._method(f"M 2K R {model.name_letters}K M K")
        return self._method("M 2K")

    def _method(self, operators: str) -> Method:
        hasty = " ".join(word for word in operators.split() if word != "M")
        slow = operators.replace("M", "2M") if "M" in operators else operators
        return Method(
            operators.strip(), self.model.seconds(hasty, self.quick), self.model.seconds(operators, self.key),
            self.model.seconds(slow, self.slow),
        )  # fmt: skip


def _held(modifiers: int) -> int:
    return sum(bool(modifiers & bit) for bit in MODIFIERS.values())


def keystroke_model(table: Mapping[str, Any]) -> KeystrokeModel:
    """The model from its data file's table."""
    operators, assumed = table["operators"], table["assumed"]
    first, last = assumed["look-ups"]
    return KeystrokeModel(
        float(operators["point"]), float(operators["home"]), float(operators["mental"]), float(operators["click"]),
        {name: float(value) for name, value in table["skill"].items()}, float(table["pointing"]["start"]),
        float(table["pointing"]["slope"]), int(assumed["menu-depth"]), int(assumed["name-letters"]), float(assumed["response"]),
        float(assumed["look-up"]), (int(first), int(last)),
    )  # fmt: skip
