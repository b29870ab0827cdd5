"""The Keystroke-Level Model against its authors' worked examples, and by hand."""

import math

import pytest

from ombix.core.errors import InputError
from ombix.core.keys.notation import parse
from ombix.core.usage.keystroke_model import Methods
from tests.helpers import shipped

MODEL = shipped.keystroke_model()


@pytest.mark.parametrize(
    ("method", "seconds"),
    [
        # Card, Moran and Newell, The keystroke-level model …, Communications of the ACM 23 (1980): a five-letter word replaced
        # by another one in the line below, K = 0.20 s. In the line editor POET: jump to the line, the substitute command with both
        # words, and its end: 4 M and 15 K.
        ("MK MK 5K MK 5K MK K", 8.4),
        # In the display editor DISPED: the mouse to the word, a button, back to the keyboard, the command, the word, Escape.
        ("H P K H MK 5K MK", 6.2),
    ],
)  # fmt: skip
def test_the_authors_examples(method: str, seconds: float) -> None:
    assert MODEL.seconds(method, MODEL.key_of("average")) == pytest.approx(seconds)


def test_the_published_operators() -> None:
    assert (MODEL.point, MODEL.home, MODEL.mental, MODEL.click) == (1.10, 0.40, 1.35, 0.20)
    assert [MODEL.skill[name] for name in ("best", "good", "average", "casual", "unfamiliar")] == [
        0.08,
        0.12,
        0.20,
        0.28,
        1.20,
    ]


def test_pointing_by_distance_and_size() -> None:
    # 0.8 s and 0.1 s a bit: a target that is as wide as it is far is half a bit of log2(1.5).
    assert MODEL.pointing(16, 1) == pytest.approx(0.8 + 0.1 * math.log2(16.5))
    assert MODEL.pointing(1, 1) == pytest.approx(0.8585, abs=1e-4)


def test_ways_to_start_something() -> None:
    methods = Methods(MODEL)
    keys = methods.keys(parse("Ctrl+Shift+K"))
    assert keys.operators == "M 3K"
    assert keys.seconds == pytest.approx((3 * 0.12, 1.35 + 3 * 0.20, 2 * 1.35 + 3 * 0.28))
    # The hand to the mouse, a thought, the menu, its entry, and back: 0.4 + 1.35 + (1.1 + 0.2) * 2 + 0.4.
    assert methods.by("menu").usual == pytest.approx(4.75)
    assert Methods(MODEL, depth=4).by("menu").usual == pytest.approx(4.75 + 2 * 1.3)
    assert methods.by("mouse").usual == pytest.approx(0.4 + 1.35 + 1.3 + 0.4)
    # A thought, two keys for the list, the list, six letters, a thought, Enter.
    assert methods.by("command line").usual == pytest.approx(1.35 + 0.4 + 0.1 + 1.2 + 1.35 + 0.2)
    assert methods.keys(parse("Ctrl+Click")).operators == "M 1K H P BB H"
    assert methods.keys(parse("g g")).usual == pytest.approx(1.35 + 0.4)


def test_what_is_no_operator_and_no_skill() -> None:
    with pytest.raises(InputError, match="X is no operator"):
        MODEL.seconds("M X", 0.2)
    with pytest.raises(InputError, match="unknown skill: averge"):
        Methods(MODEL, "averge")
