"""Which one action does what several in a row do: found by what they lead to, and held against many texts."""

import random
from collections.abc import Iterator, Mapping, Sequence
from functools import lru_cache

from ombix.text.effects.compared_states import StartState, more_states, small_states
from ombix.text.effects.execution import CommandRun, EditorConventions
from ombix.text.effects.program_comparison import Seen, begun, compare_over, seen
from ombix.text.effects.program_language import EffectProgram

RANDOM_TEXTS = 10_000
_WORDS = (
    "", "", "ab", "one two", "  in", "\tx y", "(a b)", "z; q", "é_1", "# k", "..", "Tail ", "07:45 pier", "{k: [v]}",
    "it's", "\t", " ", "日本 x", "a_b c1", "long words of a line",
)  # fmt: skip
_MANNER = EditorConventions()
_PROBES = 60


def one_action_for(row: Sequence[EffectProgram], actions: Mapping[str, EffectProgram]) -> Iterator[str]:
    """The actions of which one alone does what a row of programs does: in all small states, and on RANDOM_TEXTS random ones."""
    goal = CommandRun(tuple(row), _MANNER)
    wanted = {number: _led_to(goal, number) for number in range(len(_probes()))}
    # Where the row does something an action that does not is told apart at once.
    telling = sorted(wanted, key=lambda number: wanted[number] == _reached((), number))
    if wanted[telling[0]] == _reached((), telling[0]):
        return
    for name, one in actions.items():
        side = CommandRun((one,), _MANNER)
        if all(_reached((one,), number) == wanted[number] for number in telling) and all(
            compare_over(goal, side, states).is_equal for states in (small_states(), more_states(), random_states())
        ):
            yield name


@lru_cache(maxsize=1)
def _probes() -> tuple[StartState, ...]:
    """A few telling states."""
    every = small_states()
    return tuple(every[:: len(every) // _PROBES])


@lru_cache(maxsize=1 << 16)
def _reached(programs: tuple[EffectProgram, ...], probe: int) -> Seen:
    return _led_to(CommandRun(programs, _MANNER), probe)


def _led_to(side: CommandRun, probe: int) -> Seen:
    """What a side leads to from one of the telling states."""
    buffer = begun(_probes()[probe], side.manner)
    side.run(buffer)
    return seen(buffer)


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
