"""A command, or several in a row, as an editor runs them: under its settings, with what holds for all of its commands."""

from typing import Literal, NamedTuple

from ombix.text.effects.buffer import PLAIN, Buffer, Change, Settings
from ombix.text.effects.program_language import EffectProgram, program

Selects = Literal["", "anchor", "mark", "held"]
"""How something is selected: not at all; from an anchor to the cursor, until it moves; from a mark on; or apart from it."""


class EditorConventions(NamedTuple):
    """What holds for all commands of an editor, or of a section of it.

    `fit` is run behind each command; what is cut adds up only `in_a_row`, or also with something between; a row of commands
    `ends` with one that could not do its work; a text always ends with a line break (`ends_lines`); `on_characters`: the
    cursor is never behind the last character of a line. `unsure`: nothing is sure of what the commands do.
    """

    settings: Settings = PLAIN
    fit: EffectProgram | None = None
    in_a_row: bool = False
    ends: bool = False
    ends_lines: bool = False
    on_characters: bool = False
    selects: Selects = "anchor"
    unsure: bool = False

    def run(self, one: EffectProgram, buffer: Buffer) -> bool:
        """Run a command; whether it could do its work."""
        text, cursor, buffer.moment = buffer.text, buffer.cursor, None
        done = one.run(buffer)
        if buffer.text != text and "take-back" not in one.about:
            buffer.past = (*buffer.past, Change(text, cursor, buffer.cursor, buffer.moment))
        if self.in_a_row and not one.adds_up:
            buffer.adds_up = buffer.adds_copies = False
        if self.fit is not None:
            goal = buffer.goal
            self.fit.run(buffer)
            buffer.goal = goal
        return done


class CommandRun(NamedTuple):
    """Commands in a row in an editor. `unsure` are tests for states in which a command's program is not sure; `manners` are
    those of the sections that each command is run in, where that is not always the same one."""

    programs: tuple[EffectProgram, ...]
    manner: EditorConventions = EditorConventions()
    unsure: tuple[str, ...] = ()
    manners: tuple[EditorConventions, ...] = ()

    @property
    def has_facts(self) -> bool:
        """Whether something is done beside the text."""
        return any(one.has_facts for one in self.programs)

    @property
    def is_sure_without_a_text(self) -> bool:
        """Whether nothing is done to a text, and nothing goes by it or is unsure."""
        return not any(self.unsure) and all(one.is_only_facts for one in self.programs)

    def run(self, buffer: Buffer) -> bool:
        """Run on a buffer; whether all that was run is sure."""
        is_sure = True
        for index, one in enumerate(self.programs):
            if buffer.has_ended:
                break
            test = self.unsure[index] if self.unsure else ""
            if test and not program(f"if {test} {{ stop }}").run(buffer):
                is_sure = False
            manner = self.manners[index] if self.manners else self.manner
            if not manner.run(one, buffer) and manner.ends:
                return is_sure and manner == self.manner  # else it stays in another section
        return is_sure
