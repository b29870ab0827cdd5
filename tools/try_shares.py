"""Count the shares of differences anew, in other everyday states: python tools/try_shares.py DIFFERENCES STATES SEED.

Of the differences between the known editors that ship in the table some are drawn. Each is counted again, in the model whose share
was told; how many are within the interval that was told, and how many within the error of both counts, is printed by kind.
"""

import multiprocessing
import random
import sys
import tempfile
from collections import Counter
from itertools import permutations

from ombix.core.porting.everyday import EverydayDifference
from ombix.data.shipped import Shipped
from ombix.editors import command_effects, known_comparisons
from ombix.editors.description_loading import Dialects
from ombix.editors.everyday_models import everyday_models
from ombix.text.effects.everyday_comparison import everyday_difference
from ombix.text.effects.execution import CommandRun
from ombix.text.effects.program_comparison import Comparison
from ombix.work.carry import carry_questions
from ombix.workspace.open_workspace import OpenWorkspace

SIDES: dict[str, tuple[CommandRun, CommandRun]] = {}
_SEED = 4711
"""Of the states of the second count: another one than ships."""


def collect() -> None:
    """The sides of all comparisons that ports between the known editors make."""
    known = command_effects.compared

    def noted(one: CommandRun, other: CommandRun) -> Comparison:
        found = known(one, other)
        if not found.is_equal:
            SIDES[known_comparisons.key_of(one, other)] = (one, other)
        return found

    command_effects.compared = noted
    with tempfile.TemporaryDirectory() as folder:
        for source, target in permutations(Dialects(Shipped()).names(), 2):
            carry_questions.make_ports(OpenWorkspace(folder=folder, state=f"{folder}/state"), target, source=source)


def counted(asked: tuple[str, int]) -> tuple[EverydayDifference, float] | None:
    """What is told of a difference, and its share in other states of the same model."""
    key, states = asked
    told = everyday_difference(*SIDES[key], everyday_models())
    if told is None or not told.said:
        return None
    models = [model for model in everyday_models() if model.title == told.model]
    again = everyday_difference(*SIDES[key], models, states, _SEED)
    return told, again.share if again is not None else 0.0


def main(differences: int, states: int, seed: int) -> None:
    collect()
    drawn = random.Random(seed).sample(sorted(SIDES), min(len(SIDES), 2 * differences))
    within: Counter[str] = Counter()
    near: Counter[str] = Counter()
    number: Counter[str] = Counter()
    with multiprocessing.get_context("fork").Pool() as pool:
        for found in pool.imap(counted, [(key, states) for key in drawn]):
            if found is None or sum(number.values()) == differences:
                continue
            told, share = found
            spread = 1.96 * (share * (1 - share) / states) ** 0.5
            number[told.kind] += 1
            within[told.kind] += told.low <= share <= told.high
            near[told.kind] += told.low - spread <= share <= told.high + spread
    for kind in sorted(number):
        print(f"{kind:14} {number[kind]:4} differences, {within[kind]:4} within, {near[kind]:4} within both errors")
    count = sum(number.values())
    print(
        f"all            {count:4} differences, {sum(within.values()):4} within, {sum(near.values()):4} within both errors"
    )


if __name__ == "__main__":
    main(*map(int, sys.argv[1:4]))
