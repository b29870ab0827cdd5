"""How often a ported key does something else in everyday use, and what is answered by that: works, works but, careful, gone."""

from typing import Literal, NamedTuple, get_args

DifferenceKind = Literal["text lost", "another text", "blanks", "clipboard", "cursor", "selection"]
"""What a difference changes, the worst first."""
KINDS: tuple[DifferenceKind, ...] = get_args(DifferenceKind)
WEIGHTS: dict[DifferenceKind, float] = {
    "text lost": 10, "another text": 5, "blanks": 2, "clipboard": 2, "cursor": 1, "selection": 0.2
}  # fmt: skip
"""How bad each kind is: what is lost has to be typed again, another text has to be put right, a cursor is moved by a key."""
Answer = Literal["works", "works but", "careful", "gone"]
"""`works`: as it did, or otherwise in under 1 % of everyday presses, and without losing text. `works but`: otherwise more often.
`careful`: there is a command for it that mostly does something else, or can lose text. `gone`: there is nothing for it."""
ANSWERS: tuple[Answer, ...] = get_args(Answer)
RARE = 0.01
"""A difference in a smaller share of everyday presses is not spoken of, unless text is lost."""
_MOSTLY = 0.5
_UNKNOWN = 0.05
"""Where a larger share of everyday presses is not known, nothing is said to have been compared."""


class EverydayExample(NamedTuple):
    """A few lines of a text before a press, as they are wanted behind it, and as they are: | is the cursor, [ or ] the other end
    of what is selected."""

    before: tuple[str, ...]
    wanted: tuple[str, ...]
    found: tuple[str, ...]


class EverydayDifference(NamedTuple):
    """How often one everyday press, or the one after it, shows a difference: a probability with its interval (95 %), in that of
    the models of everyday work in which it is worst. `kind`: what it changes at worst; `shares`: how often which. `unknown`: how
    often nothing is known. `said`: a sentence with {editor} for the editor's name."""

    share: float
    low: float
    high: float
    kind: DifferenceKind
    shares: tuple[tuple[DifferenceKind, float], ...]
    unknown: float
    model: str
    said: str
    example: EverydayExample | None = None
    at_once: float = 0.0
    """How often the text is another one before anything else is pressed."""

    @property
    def weight(self) -> float:
        """How bad it is: the shares, each times what its kind weighs."""
        return sum(WEIGHTS[kind] * share for kind, share in self.shares)

    def share_of(self, *kinds: DifferenceKind) -> float:
        """How often it is one of these kinds."""
        return sum(share for kind, share in self.shares if kind in kinds)

    @property
    def is_careful(self) -> bool:
        """Whether text can be lost, or the text mostly becomes another one."""
        return self.share_of("text lost") > 0 or self.at_once >= _MOSTLY

    @property
    def is_rare(self) -> bool:
        """Whether it is not worth speaking of."""
        return self.share < RARE and not self.is_careful

    @property
    def is_known(self) -> bool:
        """Whether enough was compared."""
        return self.unknown < _UNKNOWN


def worst(found: list[EverydayDifference]) -> EverydayDifference | None:
    """The difference that weighs most; None where there is none."""
    return max(found, key=lambda one: (one.weight, one.unknown), default=None)
