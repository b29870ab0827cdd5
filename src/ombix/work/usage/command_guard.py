"""Whether an editor takes keys as commands just now, or as text: what cannot be known to be a command is text.

The stage follows an editor by its description, and a description has gaps. A letter that is counted as a command while it went
into a password would be kept, so this is asked beside the stage, and only ever errs to one side: it is sure that keys are
commands from the start of the editor, behind commands that are known to leave it so, and behind the key that leads back to
commands, as often as the description says that this takes. Behind anything else it is not sure, until that key comes.
"""

import contextlib
import re
from collections.abc import Sequence
from typing import Literal

import regex

from ombix.core.catalogue.actions import Catalogue
from ombix.core.keys.notation import ALT, SHIFT, Chord
from ombix.editors.description import CommandRow
from ombix.editors.dialect import Dialect

_MODE = re.compile(r"\bmode is (\w[\w-]*)")
_TYPING = ("plain", "insert")
"""Modes in which a character goes into the text."""
_NEVER = 1_000_000
"""More keys than anybody presses: it is not known again until the editor is started anew."""
_STAYS = ("cursor.", "view.", "history.", "select.", "line.")
"""Kinds of actions that never ask anything and lead to no other mode, also where their exact effect is not described."""
_STAYS_TOO = frozenset(
    {
        "search.next",
        "search.previous",
        "search.selection",
        "edit.repeat",
        "edit.swap-case",
        "edit.change-case",
        "app.suspend",
    }
)
_PATIENCE = 0.05
"""Seconds for which a line is compared with a pattern."""
_COMMAND_LINE = "app.command-line"
_QUESTIONS = (_COMMAND_LINE, "search.find", "search.find-back")
"""Actions that ask for one line, and take commands again behind it."""
_OPTIONS_THAT_RUN = re.compile(r"\+(?!\d*\Z)|-\w*[ceEfs]")
"""Arguments by which an editor is told to do something at its start."""

Taking = Literal["commands", "text", "unknown"]


def is_sign(chord: Chord) -> bool:
    """Whether a key could be a character of a text."""
    return chord.key in ("Space", "Tab") or (len(chord.key) == 1 and not chord.modifiers & ~SHIFT)


class CommandGuard:
    """Follows what an editor takes keys as, by the rows of its description."""

    def __init__(self, dialect: Dialect, catalogue: Catalogue) -> None:
        self._catalogue = catalogue
        self._sections = {
            name: found[1] for name, where in dialect.description.sections.items() if (found := _MODE.search(where))
        }
        self.command_mode = next((mode for mode in self._sections.values() if mode not in _TYPING), "")
        """The mode in which letters are commands; empty for an editor that has none: there letters always go into the text."""
        syntax = dialect.description.commands
        self._lines = [(regex.compile(line.pattern), line.ways_out) for line in syntax.lines]
        self._way_outs = max(1, syntax.ways_out)
        self._is_lost_by_unknown = not syntax.ways_out
        self._ways_out = {
            keys[-1]
            for section, rows in dialect.default_commands.items() if self._sections.get(section) in _TYPING
            for keys, command in rows for row in dialect.vocabulary.rows_of(command) if section in row.sections
            if len(keys) == 1 and row.leads and not row.once and self._sections.get(row.leads) == self.command_mode
        }  # fmt: skip
        self.splits_alt = dialect.description.keys.unbound.alt == "apart"
        self._takes: Taking = "commands"
        self._needed = self._missing = 0
        self._operator: CommandRow | None = None

    def start(self, arguments: Sequence[str]) -> None:
        """The editor is started with arguments."""
        if any(_OPTIONS_THAT_RUN.match(argument) for argument in arguments):
            self.lose(for_good=True)

    @property
    def is_modal(self) -> bool:
        """Whether letters are commands in some mode."""
        return bool(self.command_mode)

    @property
    def takes(self) -> Taking:
        """What keys are taken as."""
        return self._takes if self.is_modal else "commands"

    def is_in(self, row: CommandRow) -> bool:
        """Whether a command exists in what keys are taken as."""
        if not self.is_modal or not row.sections:
            return True
        is_command = self._takes == "commands"
        return any((self._sections.get(section) == self.command_mode) == is_command for section in row.sections)

    def lose(self, times: int = 1, for_good: bool = False) -> None:
        """It is not known what keys are, until the way out is pressed so often without another key between."""
        self._takes, self._operator = "unknown", None
        self._needed = self._missing = _NEVER if for_good else max(times, self._needed if self._missing else 0)

    def pressed_in_unknown(self, chord: Chord) -> bool:
        """A key while nothing is known; whether it is known behind it that keys are commands."""
        self._missing = self._missing - 1 if chord in self._ways_out else self._needed
        if self._missing:
            return False
        self._takes, self._needed = "commands", 0
        return True

    def nothing_done(self, chord: Chord) -> None:
        """A key came to which nothing is bound, as far as is known."""
        if self._takes == "commands":
            self.lose()
        elif not is_sign(chord):
            self.lose(2)

    def is_typing(self) -> None:
        """The editor is known to take text."""
        if self._takes == "commands":
            self._takes, self._operator = "text", None

    def ran(self, rows: Sequence[CommandRow], is_default: bool, asks: bool) -> None:
        """A command was run: one of these rows (none: it is not known which); whether a question is known to be open behind it."""
        operator, self._operator = self._operator, None
        if not rows:
            self.lose(self._way_outs, self._is_lost_by_unknown and not is_default)
            return
        row = rows[0]
        if asks and row.action in _QUESTIONS and self._takes == "commands" and operator is None:
            return  # until it is answered
        leads = self._sections.get(row.leads, "")
        if self._takes == "text":
            if leads == self.command_mode and not row.once:
                self._takes = "commands"
            elif not self._stays(row):
                self.lose(max(2, self._way_outs))
        elif operator is not None and not self._is_movement(row):
            self.lose()
        elif operator is not None:
            self._lead(self._sections.get(operator.leads, ""))
        elif row.next == "keys":
            if self._operates(row):
                self._operator = row
            else:
                self.lose(self._way_outs, row.reaches == "programs" and self._is_lost_by_unknown)
        elif row.action == "macro.play" or (row.reaches == "programs" and row.action not in _STAYS_TOO):
            self.lose(self._way_outs, self._is_lost_by_unknown)
        elif row.leads:
            self._lead(leads)
        elif not self._stays(row):
            self.lose()

    def answered(self, question: str, line: str) -> None:
        """A question was answered with a line."""
        if question != _COMMAND_LINE:
            if question not in _QUESTIONS:
                self.lose()
            return
        for pattern, ways_out in self._lines:
            with contextlib.suppress(TimeoutError):  # a pattern of a stranger's may take for ever
                if pattern.fullmatch(line, timeout=_PATIENCE):
                    if ways_out:
                        self.lose(ways_out)
                    return
        self.lose(self._way_outs, self._is_lost_by_unknown)

    def _lead(self, mode: str) -> None:
        if mode in _TYPING:
            self._takes = "text"
        elif mode and mode != self.command_mode:
            self.lose()

    def _operates(self, row: CommandRow) -> bool:
        action = self._catalogue.actions.get(row.action)
        return action is not None and bool(action.operator) and row.reaches != "programs"

    def _is_movement(self, row: CommandRow) -> bool:
        """Whether an operator has with this what it works on, and asks for no more."""
        return not row.leads and not row.next and row.action.startswith("cursor.")

    def _stays(self, row: CommandRow) -> bool:
        """Whether keys are taken as before behind a command."""
        if row.leads or row.next == "keys":
            return False
        return bool(row.effect) or row.action.startswith(_STAYS) or row.action in _STAYS_TOO


def split_alt(chord: Chord) -> tuple[Chord, ...]:
    """A key with Alt as an editor takes it that knows no Alt: Escape, and the key."""
    if not chord.modifiers & ALT:
        return (chord,)
    return Chord(0, "Escape"), Chord(chord.modifiers & ~ALT, chord.key)
