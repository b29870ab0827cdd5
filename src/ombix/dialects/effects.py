"""What the commands of an editor do to a text: their programs, and what holds for all of a section."""

from ombix.dialects.description import EffectRow
from ombix.effects.buffer import Buffer
from ombix.effects.language import Program, program


def run_in(row: EffectRow, one: Program, buffer: Buffer) -> bool:
    """Run a command's program in a section; whether it came to its end."""
    done = one.run(buffer)
    if row.in_a_row and not one.adds_up:
        buffer.adds_up = False
    if row.fit:
        goal = buffer.goal
        program(row.fit).run(buffer)
        buffer.goal = goal
    return done
