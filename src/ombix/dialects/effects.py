"""What the commands of an editor do to a text: their programs, under its settings; and how a port's two sides compare."""

import re
from collections.abc import Iterable, Sequence

from msgspec.structs import replace

from ombix.core.actions import Catalogue
from ombix.core.keymap import Binding
from ombix.core.outcomes import Do, Macro, Play, Step, Type
from ombix.dialects.description import EffectRow
from ombix.dialects.dialect import Dialect
from ombix.effects.buffer import Settings
from ombix.effects.comparing import Comparison, compare
from ombix.effects.language import EffectProgram, program
from ombix.effects.sides import Manner, Side

_TYPING = "if typing-replaces { type kept } else { insert kept }"
"""What typing does where a description does not say otherwise; `kept` stands for the text."""
_UNKNOWN = Comparison(False, is_sure=False)


def settings_of(dialect: Dialect) -> Settings:
    """What an editor is set to: as it is started for proving, or as it stands on the stage."""
    one, row = dialect.description.program, dialect.description.stands_on
    if one is None:
        return Settings(
            row.indentation, row.tab_width, row.auto_indent, row.comment,
            typing_replaces_selection=row.typing_replaces_selection,
        )  # fmt: skip
    return Settings(
        one.indentation, one.tab_width, one.auto_indent, one.comment, one.stops_at_edges, one.typing_replaces_selection
    )


def manner_of(dialect: Dialect, section: str) -> Manner:
    """What holds for all commands of a section."""
    description = dialect.description
    row = description.effects.get(section, EffectRow())
    mode = description.program.modes.get(section) if description.program is not None else None
    return Manner(
        settings_of(dialect), program(row.fit) if row.fit else None, row.in_a_row, row.ends,
        description.program is not None and description.program.ends_lines,
        mode is not None and not mode.at_line_end, row.selects, row.unsure,
    )  # fmt: skip


def typing_of(dialect: Dialect, section: str, text: str) -> EffectProgram:
    """What typing a text does in a section."""
    row = dialect.description.effects.get(section, EffectRow())
    return program((row.typing or _TYPING).replace("kept", _quoted(text)))


def settings_in(dialect: Dialect, lines: Iterable[str]) -> Settings:
    """What an editor is set to by lines of its file that bind nothing."""
    found = settings_of(dialect)
    for line in lines:
        for pattern, name in dialect.description.effect_settings.items():
            match = re.fullmatch(pattern, line.strip())
            if match is None:
                continue
            field, _, said = name.replace("-", "_").partition("=")
            value = match[1] if match.groups() else said or "yes"
            found = replace(found, **{field: int(value) if value.isdigit() else value == "yes"})
    return found


class EffectJudge:
    """Compares what a binding does in the source of a port with what a command does in its target.

    `lines` are those of the source's file that bind nothing: some are settings that change what its commands do.
    """

    def __init__(
        self, source: Dialect | None, target: Dialect, catalogue: Catalogue, lines: Iterable[str] = ()
    ) -> None:  # fmt: skip
        self._settings = settings_in(source, lines) if source is not None else None
        self._source = source
        self._target = target
        self._catalogue = catalogue
        self._manners: dict[tuple[str, str], Manner] = {}

    def compare(self, binding: Binding, macro: Macro | None, section: str, written: str) -> Comparison | None:
        """How the target's command compares with the binding; None where neither is about a text."""
        one = self._source_side(binding, macro, section)
        other = self._command_side(self._target, section, written)
        if other is None and one is None:
            return None
        action = self._catalogue.actions.get(binding.outcome.action) if isinstance(binding.outcome, Do) else None
        if one is None and action is not None and not action.effect:
            return None  # it is not only about a text: the action tells
        if one is None or other is None:
            return _UNKNOWN
        if not one.programs and not other.programs:
            return None
        return compare(one, other)

    def promised(
        self, binding: Binding, macro: Macro | None, section: str, written: str, is_exact: bool
    ) -> Side | None:
        """What is to be seen when a ported key is pressed: of an exact binding what it does in the source, of another what
        the command does that was written for it. None where that is not about a text, or not known."""
        side = self.does(section, written) if written else None
        return self._source_side(binding, macro, section) if is_exact and side is not None else side

    def does(self, section: str, written: str) -> Side | None:
        """What a command of the target does; None where that is not about a text, or not known."""
        side = self._command_side(self._target, section, written)
        return side if side is not None and side.programs else None

    # --- the source

    def _source_side(self, binding: Binding, macro: Macro | None, section: str) -> Side | None:
        outcome, source = binding.outcome, self._source
        if isinstance(outcome, Play):
            return self._steps_side(macro.steps if macro is not None else (), section)
        if source is not None and binding.written:
            for name in source.description.sections:
                side = self._command_side(source, name, binding.written)
                if side is not None:
                    return side
            return None
        if not isinstance(outcome, Do):
            return None
        return self._steps_side((outcome,), section)

    def _steps_side(self, steps: Sequence[Step], section: str) -> Side | None:
        """What actions promise, under the settings of the source, or else of the target."""
        texts: list[str] = []
        for step in steps:
            if isinstance(step, Type):
                texts.append("type " + _quoted(step.text))
            elif isinstance(step, Do):
                action = self._catalogue.actions.get(step.action)
                if action is None or not action.effect:
                    return None
                texts += [action.effect] * step.count
            else:
                return None
        source = self._source
        if source is not None:
            manner = self._manner(source, source.description.file.default_section)
        else:
            manner = Manner(settings_of(self._target), selects=self._manner(self._target, section).selects)
        return Side(tuple(map(program, texts)), manner)

    # --- commands

    def _manner(self, dialect: Dialect, section: str) -> Manner:
        key = (dialect.name, section)
        if key not in self._manners:
            found = manner_of(dialect, section)
            if dialect is self._source and self._settings is not None:
                found = found._replace(settings=self._settings)
            self._manners[key] = found
        return self._manners[key]

    def _command_side(self, dialect: Dialect, section: str, written: str) -> Side | None:
        """The programs of what stands in a file, in a section; None where one of them has none."""
        vocabulary = dialect.vocabulary
        found: list[tuple[str, str]] = []
        parts = vocabulary.parts(written, section)
        if parts is None:
            return None
        for part in parts:
            known = self._effect(dialect, section, part)
            if known is None:
                return None
            found.append(known)
        programs = tuple(program(effect) for effect, _unsure in found)
        unsure = tuple(test for _effect, test in found)
        manner = self._manner(dialect, section)
        if manner.unsure or manner.settings.unknown:
            unsure = ("always",) * len(programs)
        return Side(programs, manner, unsure if any(unsure) else ())

    def _effect(self, dialect: Dialect, section: str, part: str) -> tuple[str, str] | None:
        """The program of one command, and the test for where it is not sure."""
        if part.startswith("type "):
            return part, ""
        vocabulary = dialect.vocabulary
        name = vocabulary.called(part)[0]
        row = vocabulary.row_of(name, section)
        if row is None:
            return None
        action = self._catalogue.actions.get(row.action) if row.action else None
        effect = row.effect or (action.effect if action is not None else "")
        return (effect, row.unsure) if effect else None


def _quoted(text: str) -> str:
    return '"' + text.replace("\\", "\\\\").replace('"', '\\"').replace("\n", "\\n").replace("\t", "\\t") + '"'
