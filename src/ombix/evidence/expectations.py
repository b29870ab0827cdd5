"""What is to be seen when a ported key is pressed: at several places of a text, by the programs of both sides."""

from collections.abc import Iterator
from typing import NamedTuple

from ombix.editors.command_effects import EffectJudge, typing_of
from ombix.editors.dialect import Dialect
from ombix.evidence.probes import MARKER
from ombix.text.effects.buffer import Buffer
from ombix.text.effects.compared_states import picture
from ombix.text.effects.everyday_states import purpose_of
from ombix.text.effects.execution import CommandRun
from ombix.text.effects.program_language import program

TEXT = "one two_three, four\n\tfive (six [seven]) eight\n\n  nine ten é\neleven  \nlast line\n"
_NEEDLES = ("two_", " two_", "\tfive", "five", "(six", "seven", "\n  nine", "ne ten", "\neleven", "last", "e\n")
PLACES = (0, *(TEXT.index(needle) + 1 for needle in _NEEDLES))
"""The start of the text; in and between words; in an indentation; at brackets; on an empty line; at the end of a line; in the
last line, and at its end."""
_EVERYDAY = frozenset(place for place in PLACES if 0 < place < TEXT.rindex("last"))
"""The places where people stand when they press keys: seldom at the start of a text, or in its last line."""
_WITH_A_SELECTION = ("clipboard", "select")
"""What keys are for that people press when something is selected, which it is not here."""
_TYPING = program(f'if typing-replaces {{ type "{MARKER}" }} else {{ insert "{MARKER}" }}')


class Expectation(NamedTuple):
    """A text, a cursor, an action whose key is pressed behind the one that is proved ("": none), and the text that is to be
    seen, with a marker at the cursor. `wanted`: the text that the source would show, where people stand there (None: they do
    not, or it is not known)."""

    text: str
    cursor: int
    then: str
    expected: str
    wanted: str | None = None

    @property
    def picture(self) -> str:
        """The text with | for the cursor, the line of it alone."""
        start = self.text.rfind("\n", 0, self.cursor) + 1
        end = self.text.find("\n", self.cursor)
        return picture(self.text[start : end if end >= 0 else None], self.cursor - start, None)


def expectations(
    side: CommandRun, judge: EffectJudge, target: Dialect, section: str, shown: dict[str, str],
    wanted: CommandRun | None = None,
) -> list[Expectation]:  # fmt: skip
    """What is to be seen at each place where all that is run is sure; `wanted` is what the source does.

    `shown` has commands of the target that show something, by their actions: what puts in what was kept, and what takes
    away what is selected.
    """
    found: list[Expectation] = []
    for number, cursor in enumerate(PLACES):
        is_everyday = cursor in _EVERYDAY and wanted is not None and purpose_of(wanted) not in _WITH_A_SELECTION
        there = _wanted_at(cursor, wanted) if wanted is not None and is_everyday else None
        found += [
            one if one.then else one._replace(wanted=there)
            for one in _at(side, judge, target, section, cursor, shown)
            if not one.then or number % 4 == 1
        ]
    return found


def _at(
    side: CommandRun, judge: EffectJudge, target: Dialect, section: str, cursor: int, shown: dict[str, str]
) -> Iterator[Expectation]:
    manner = judge.manner(section)
    if (manner.on_characters or side.manner.on_characters) and _is_behind_a_line(cursor):
        return
    typing = typing_of(target, section, MARKER)
    for then, command in {"": "", **shown}.items():
        buffer = Buffer(TEXT, cursor, settings=side.manner.settings)
        is_sure = side.run(buffer)
        if then:
            after = judge.does(section, command)
            if after is None or (not buffer.clipboard and then == "edit.paste"):
                continue
            if then != "edit.paste" and (not buffer.has_selection or manner.settings.typing_replaces_selection):
                continue
            is_sure = after.run(buffer) and is_sure
        buffer.settings = manner.settings
        typing.run(buffer)
        if is_sure:
            yield Expectation(TEXT, cursor, then, buffer.text)


def _wanted_at(cursor: int, wanted: CommandRun) -> str | None:
    """What the source shows at a place when it is pressed and the marker typed; None where that is not known."""
    manner = wanted.manner
    if manner.on_characters and _is_behind_a_line(cursor):
        return None
    buffer = Buffer(TEXT, cursor, settings=manner.settings)
    if not wanted.run(buffer):
        return None
    _TYPING.run(buffer)
    return buffer.text


def _is_behind_a_line(cursor: int) -> bool:
    """Whether a place is behind the last character of a line, where some editors' cursors cannot be."""
    return TEXT[cursor : cursor + 1] in ("", "\n") and TEXT[cursor - 1 : cursor] not in ("", "\n")
