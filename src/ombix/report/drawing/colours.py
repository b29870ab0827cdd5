"""Colours: how light one is, how far two are apart for each kind of sight, and which text is read on one.

sRGB: IEC 61966-2-1. L*a*b*: CIE 15, for the white D65. Contrast: WCAG 2.2. The three kinds of colour blindness: the matrices of
Machado, Oliveira and Fernandes (2009), severity 1.
"""

import math
from collections.abc import Sequence
from typing import Literal

from ombix.report.drawing.drawn_items import INK

Sight = Literal["usual", "protan", "deutan", "tritan", "grey"]
SIGHTS: tuple[Sight, ...] = ("usual", "protan", "deutan", "tritan", "grey")
_Triple = tuple[float, float, float]
_SEEN: dict[Sight, tuple[_Triple, _Triple, _Triple]] = {
    "protan": ((0.152286, 1.052583, -0.204868), (0.114503, 0.786281, 0.099216), (-0.003882, -0.048116, 1.051998)),
    "deutan": ((0.367322, 0.860646, -0.227968), (0.280085, 0.672501, 0.047413), (-0.011820, 0.042940, 0.968881)),
    "tritan": ((1.255528, -0.076749, -0.178779), (-0.078411, 0.930809, 0.147602), (0.004733, 0.691367, 0.303900)),
}
_XYZ = ((0.4124564, 0.3575761, 0.1804375), (0.2126729, 0.7151522, 0.0721750), (0.0193339, 0.1191920, 0.9503041))
_WHITE = (0.95047, 1.0, 1.08883)
_COOL, _WARM = (0xF3, 0xF1, 0xEA), (0x6E, 0x1F, 0x3F)
"""The ends of the scale for numbers: from light to dark, so that it holds in grey."""


def linear(colour: str) -> _Triple:
    """A CSS colour like `#8dafe8` as linear light, each from 0 to 1."""
    red, green, blue = (int(colour[at : at + 2], 16) / 255 for at in (1, 3, 5))
    return tuple(one / 12.92 if one <= 0.04045 else ((one + 0.055) / 1.055) ** 2.4 for one in (red, green, blue))  # type: ignore[return-value]


def _times(rows: Sequence[_Triple], light: _Triple) -> _Triple:
    found = [sum(row[at] * light[at] for at in range(3)) for row in rows]
    return found[0], found[1], found[2]


def lab(colour: str, sight: Sight = "usual") -> _Triple:
    """A colour in CIE L*a*b* as it is seen; for `grey` with its lightness alone."""
    light = _times(_SEEN[sight], linear(colour)) if sight in _SEEN else linear(colour)
    clipped = tuple(min(max(one, 0.0), 1.0) for one in light)
    x, y, z = (
        one / white for one, white in zip(_times(_XYZ, (clipped[0], clipped[1], clipped[2])), _WHITE, strict=True)
    )
    a, b, c = (one ** (1 / 3) if one > 216 / 24389 else (24389 / 27 * one + 16) / 116 for one in (x, y, z))
    return (116 * b - 16, 0.0, 0.0) if sight == "grey" else (116 * b - 16, 500 * (a - b), 200 * (b - c))


def apart(first: str, second: str, sight: Sight = "usual") -> float:
    """How far two colours are apart: their distance in L*a*b* (CIE 1976)."""
    return math.dist(lab(first, sight), lab(second, sight))


def contrast(first: str, second: str) -> float:
    """The contrast of two colours, from 1 to 21."""
    light, dark = sorted((_times(_XYZ, linear(one))[1] for one in (first, second)), reverse=True)
    return (light + 0.05) / (dark + 0.05)


def contrasting(fill: str) -> str:
    """The colour of a text on a fill: dark or light, whichever is read better."""
    return max((INK, "#ffffff"), key=lambda ink: contrast(ink, fill))


def heat(part: float) -> str:
    """A colour for a number, by its part of the way from the least (0) to the greatest (1)."""
    part = min(max(part, 0.0), 1.0)
    return "#" + "".join(f"{round(low + (high - low) * part):02x}" for low, high in zip(_COOL, _WARM, strict=True))
