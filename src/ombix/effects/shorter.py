"""Which one action does what several in a row do: found by what they lead to, and held against many texts."""

import random
from collections.abc import Iterator, Mapping, Sequence
from functools import lru_cache

from ombix.effects.comparing import Seen, begun, compare_over, seen
from ombix.effects.language import EffectProgram
from ombix.effects.sides import Manner, Side
from ombix.effects.states import StartState, more_states, small_states

RANDOM_TEXTS = 10_000
_WORDS = (
    "", "", "ab", "one two", "  in", "\tx y", "(a b)", "z; q", "é_1", "# k", "..", "Tail ", "07:45 pier", "{k: [v]}",
    "it's", "\t", " ", "日本 x", "a_b c1", "long words of a line",
)  # fmt: skip
_MANNER = Manner()
_PROBES = 60


def one_action_for(row: Sequence[EffectProgram], actions: Mapping[str, EffectProgram]) -> Iterator[str]:
    """The actions of which one alone does what a row of programs does: in all small states, and on RANDOM_TEXTS random ones."""
    goal = Side(tuple(row), _MANNER)
    wanted = _led_to(goal)
    if wanted == _led_to(Side((), _MANNER)):
        return
    for name, one in actions.items():
        side = Side((one,), _MANNER)
        if _reached(one) == wanted and all(
            compare_over(goal, side, states).is_equal for states in (small_states(), more_states(), random_states())
        ):
            yield name


@lru_cache(maxsize=2048)
def _reached(one: EffectProgram) -> tuple[Seen, ...]:
    return _led_to(Side((one,), _MANNER))


def _led_to(side: Side) -> tuple[Seen, ...]:
    """What a side leads to from a few telling states."""
    found = []
    every = small_states()
    for start in every[:: len(every) // _PROBES]:
        buffer = begun(start, side.manner)
        side.run(buffer)
        found.append(seen(buffer))
    return tuple(found)


@lru_cache(maxsize=1)
def random_states() -> tuple[StartState, ...]:
    """Random texts, always the same ones, with a cursor and sometimes a selection."""
    draw = random.Random(31)
    found: list[StartState] = []
    for number in range(RANDOM_TEXTS):
        text = "\n".join(draw.choice(_WORDS) for _ in range(draw.randint(1, 6))) + "\n" * (draw.random() < 0.8)
        cursor = draw.randint(0, len(text))
        anchor = draw.randint(0, len(text)) if number % 3 == 0 else None
        kept = draw.choice(("k", "", "k m\n", "two words"))
        found.append(StartState(text, cursor, None if anchor == cursor else anchor, kept))
    return tuple(found)
