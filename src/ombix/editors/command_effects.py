"""What the commands of an editor do to a text: their programs, under its settings; and how a port's two sides compare."""

import re
from collections.abc import Iterable, Iterator, Mapping, Sequence
from functools import lru_cache

from msgspec.structs import replace

from ombix.core.catalogue.actions import Action, Catalogue, quoted
from ombix.core.errors import did_you_mean
from ombix.core.keymap.bindings import Binding
from ombix.core.keymap.outcomes import Do, Insert, Macro, Outcome, Play, Step, Type
from ombix.core.porting.everyday import EverydayDifference
from ombix.editors.description import EffectRow
from ombix.editors.dialect import Dialect
from ombix.editors.known_comparisons import compared, counted
from ombix.editors.vocabulary import CommandPart
from ombix.text.effects.buffer import Settings
from ombix.text.effects.execution import CommandRun, EditorConventions
from ombix.text.effects.program_comparison import Comparison
from ombix.text.effects.program_language import TOPICS, EffectProgram, program

_TYPING = "if typing-replaces { type kept } else { insert kept }"
"""What typing does where a description does not say otherwise; `kept` stands for the text."""
_MODE = re.compile(r"\bmode is ([a-z-]+)")
_YES = ("yes", "true", "on")
_WIDTHS = {"tab_width": 1, "shift_width": 1, "indent_width": 0}
"""Settings that are numbers of cells, and the least that each can be."""
_WIDEST = 80
_LONGEST = 2000
MOST_COMMANDS = 60
"""Commands in a row, counts and typed characters included, that are looked into; of longer rows nothing is known."""
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
        one.indentation, one.tab_width, one.auto_indent, one.comment, one.stops_at_edges, one.typing_replaces_selection,
        shift_width=one.shift_width,
    )  # fmt: skip


def manner_of(dialect: Dialect, section: str) -> EditorConventions:
    """What holds for all commands of a section."""
    description = dialect.description
    row = description.effects.get(section, EffectRow())
    mode = description.program.modes.get(section) if description.program is not None else None
    return EditorConventions(
        settings_of(dialect), program(row.fit) if row.fit else None, row.in_a_row, row.ends,
        description.program is not None and description.program.ends_lines,
        mode is not None and not mode.at_line_end, row.selects, row.unsure,
    )  # fmt: skip


def typing_of(dialect: Dialect, section: str, text: str) -> EffectProgram:
    """What typing a text does in a section."""
    row = dialect.description.effects.get(section, EffectRow())
    return program((row.typing or _TYPING).replace("kept", quoted(text)))


def settings_in(dialect: Dialect, lines: Iterable[str]) -> Settings:
    """What an editor is set to by lines of its file that bind nothing."""
    found = settings_of(dialect)
    for line in lines:
        for name, value in _settings(dialect, line):
            if name in _WIDTHS:
                width = int(value) if re.fullmatch("[0-9]{1,6}", value) else -1
                if not _WIDTHS[name] <= width <= _WIDEST:  # it says nothing, or what no one would set
                    found = replace(found, unknown=found.unknown | {"tabs", "rows"})
                elif name == "indent_width":
                    found = replace(found, indentation=" " * width or "\t")
                else:
                    found = replace(found, **{name: width})
            elif name == "unknown":
                found = replace(found, unknown=found.unknown | frozenset(value.split()))
            elif name != "unchanged":
                found = replace(found, **{name: value in _YES})
    return found


def is_known_setting(dialect: Dialect, line: str) -> bool:
    """Whether all that a line of an editor's file sets is known to change what commands do in a way that is described."""
    parts = dialect.settings_on(line)
    found = [list(_settings(dialect, part)) for part in parts]
    return all(found) and all(name != "unknown" for some in found for name, _value in some)


def settings_known(dialect: Dialect, line: str) -> str:
    """What a line changes of what commands do, in words; empty where that is nothing."""
    found = [
        f"how it changes {value} is not known" if name == "unknown" else f"{name.replace('_', ' ')} {value}"
        for name, value in _settings(dialect, line) if name != "unchanged"
    ]  # fmt: skip
    return ", ".join(found)


def check_settings(dialect: Dialect) -> Iterator[str]:
    """What is wrong with the settings that a description names."""
    names = {*Settings.__struct_fields__, "indent_width", "unchanged"}
    for said in dialect.description.effect_settings.values():
        name, _, value = said.replace("-", "_").partition("=")
        if name == "unknown" and not set(said.partition("=")[2].split()) <= set(TOPICS):
            yield f"{value} is nothing that programs are about; known are {', '.join(TOPICS)}"
        if name not in names:
            yield f"{said} is no setting; {did_you_mean(name, sorted(names))}"


def _settings(dialect: Dialect, line: str) -> Iterator[tuple[str, str]]:
    """What a line sets: names of `Settings`, and what to."""
    for part in dialect.settings_on(line):
        for pattern, name in dialect.description.effect_settings.items():
            match = _shape(pattern).fullmatch(part)
            if match is not None:
                field, _, said = name.partition("=")
                yield field.replace("-", "_"), match[1] if match.groups() else said or "yes"


@lru_cache(maxsize=1024)
def _shape(pattern: str) -> re.Pattern[str]:
    """What a line looks like; nothing in it can take long."""
    shape = re.escape(pattern.removesuffix("{rest}"))
    shape = shape.replace(r"\{value\}", r"([^\s,]+)", 1).replace(r"\{word\}", r"[^\s,]+")
    return re.compile(shape + (".*" if pattern.endswith("{rest}") else ",?"), re.DOTALL)


def with_commands(dialect: Dialect, bindings: Iterable[Binding]) -> list[Binding]:
    """Bindings that were read from an editor's file, with the commands that they stood for where these are not just what the
    editor writes for their actions, or do more or less than these."""
    return [
        replace(binding, command=binding.written) if _is_its_own(dialect, binding) else binding for binding in bindings
    ]


def _is_its_own(dialect: Dialect, binding: Binding) -> bool:
    outcome, vocabulary = binding.outcome, dialect.vocabulary
    if not isinstance(outcome, Do):
        return isinstance(outcome, Play)
    row = vocabulary.row_of(vocabulary.called(binding.written)[0])
    return row is None or bool(row.effect or row.facts or row.unsure)


class EffectJudge:
    """Compares what a binding does in the source of a port with what a command does in its target.

    `lines` are, by the name of an editor, those of its file that bind nothing: some are settings that change what commands
    do. `homes` has the editors of adopted layers, by their names in the workspace.
    """

    def __init__(
        self, source: Dialect | None, target: Dialect, catalogue: Catalogue,
        lines: Mapping[str, Sequence[str]] | None = None, homes: Mapping[str, Dialect] | None = None,
    ) -> None:  # fmt: skip
        self._homes = homes or {}
        every = [target, *([source] if source is not None else []), *self._homes.values()]
        self._settings = {one.name: settings_in(one, (lines or {}).get(one.name, ())) for one in every}
        self._source = source
        self._target = target
        self._catalogue = catalogue
        self._manners: dict[tuple[str, str], EditorConventions] = {}
        self._sides: dict[tuple[str, str, str], CommandRun | None] = {}
        self._sections: dict[tuple[str, str], list[str]] = {}

    def compare(self, binding: Binding, macro: Macro | None, section: str, written: str) -> Comparison | None:
        """How the target's command compares with the binding; None where neither is about a text."""
        home, command = self.home_of(binding)
        if home is not None and home.name == self._target.name and command == written:
            return Comparison(True)
        one = self.source_side(binding, macro, section)
        other = self._command_side(self._target, section, written)
        if other is None and one is None:
            steps = macro.steps if macro is not None else (binding.outcome,)
            return _UNKNOWN if any(map(self._is_about_text, steps)) and not self._is_on_stage() else None
        if one is None or other is None:
            return _UNKNOWN
        if not one.programs and not other.programs:
            return None
        return compared(one, other)

    def counted(self, binding: Binding, macro: Macro | None, section: str, written: str) -> EverydayDifference | None:
        """How often the target's command shows in everyday use that it is not what the binding does; None where it never does,
        or where that is not known."""
        one, other = self.source_side(binding, macro, section), self._command_side(self._target, section, written)
        return counted(one, other) if one is not None and other is not None else None

    def _is_on_stage(self) -> bool:
        """Whether both sides run on the stage, where an action is the same in all editors."""
        both = (self._source, self._target)
        return all(one is None or one.description.simulated for one in both)

    def _is_about_text(self, step: Step | Outcome) -> bool:
        action = self._catalogue.actions.get(step.action) if isinstance(step, Do) else None
        return isinstance(step, Type) or (action is not None and not action.facts)

    def promised(
        self, binding: Binding, macro: Macro | None, section: str, written: str, is_exact: bool
    ) -> CommandRun | None:
        """What is to be seen when a ported key is pressed: of an exact binding what it does in the source, of another what
        the command does that was written for it. None where that is not about a text, or not known."""
        side = self.does(section, written) if written else None
        if not is_exact or side is None:
            return side
        wanted = self.source_side(binding, macro, section)
        return wanted if wanted is not None and not wanted.has_facts else None

    def from_action(self, action: str, section: str, written: str) -> Comparison | None:
        """How a command of the target compares with what its action promises; None where one of the two is not known."""
        one, other = self._steps_side((Do(action),), section), self._command_side(self._target, section, written)
        return compared(one, other) if one is not None and other is not None else None

    def nothing(self, section: str) -> CommandRun:
        """What is seen where nothing is bound to keys in a section of the target."""
        return CommandRun((program("stay"),), self.manner(section))

    def does(self, section: str, written: str) -> CommandRun | None:
        """What a command of the target does; None where that is not about a text, or not known."""
        side = self._command_side(self._target, section, written)
        return side if side is not None and side.programs and not side.has_facts else None

    # --- the source

    def source_side(self, binding: Binding, macro: Macro | None, section: str) -> CommandRun | None:
        """What a binding does in its source, for a section of the target; None where that is not about a text, or not known."""
        outcome = binding.outcome
        home, written = self.home_of(binding)
        if home is not None and written:
            for name in self._sections_of(home, binding):
                side = self._command_side(home, name, written)
                if side is not None:
                    return side
            return None
        if isinstance(outcome, Play | Insert):
            return self._steps_side(macro.steps if macro is not None else (), section)
        if not isinstance(outcome, Do):
            return None
        return self._steps_side((outcome,), section)

    def home_of(self, binding: Binding) -> tuple[Dialect | None, str]:
        """The editor whose command a binding stands for, and the command; None and nothing where it stands for an action."""
        if self._source is not None:
            return self._source, binding.written
        home = self._homes.get(binding.layer.editor)
        if home is None or not binding.command:
            return None, ""
        # What a user changed in the layer goes before what it was adopted from.
        names = self._sections_of(home, binding)
        is_so = isinstance(binding.outcome, Play) or any(
            home.vocabulary.outcome(binding.command, name) == binding.outcome for name in names
        )
        return (home, binding.command) if is_so else (None, "")

    def _sections_of(self, home: Dialect, binding: Binding) -> Sequence[str]:
        """The sections of its editor in which a binding holds."""
        key = (home.name, binding.where)
        if key not in self._sections:
            space = home.space
            states = space.parse(binding.where, binding.scope)
            self._sections[key] = [
                name for name, text in home.description.sections.items() if space.overlap(space.states(text), states)
            ]
        return self._sections[key]

    def _steps_side(self, steps: Sequence[Step], section: str) -> CommandRun | None:
        """What actions promise, under the settings of the source, or else of the target."""
        texts: list[str] = []
        for step in steps:
            if isinstance(step, Type):
                texts.append("type " + quoted(step.text))
            elif isinstance(step, Do):
                action = self._catalogue.actions.get(step.action)
                said = _promise(action, step.once) if action is not None else ""
                if not said:
                    return None
                texts += [said] * step.count
            else:
                return None
        source = self._source
        if source is not None:
            manner = self._manner(source, source.description.file.default_section)
        else:
            manner = EditorConventions(settings_of(self._target), selects=self.manner(section).selects)
        return _side([(text, "", manner) for text in texts], manner)

    # --- commands

    def manner(self, section: str) -> EditorConventions:
        """What holds for all commands of a section of the target."""
        return self._manner(self._target, section)

    def _manner(self, dialect: Dialect, section: str) -> EditorConventions:
        key = (dialect.name, section)
        if key not in self._manners:
            self._manners[key] = manner_of(dialect, section)._replace(settings=self._settings[dialect.name])
        return self._manners[key]

    def _command_side(self, dialect: Dialect, section: str, written: str) -> CommandRun | None:
        """The programs of what stands in a file, in a section; None where one of them has none."""
        key = (dialect.name, section, written)
        if key not in self._sides:
            self._sides[key] = self._new_side(dialect, section, written)
        return self._sides[key]

    def _new_side(self, dialect: Dialect, section: str, written: str) -> CommandRun | None:
        if len(written) > _LONGEST:
            return None
        vocabulary = dialect.vocabulary
        for some in vocabulary.compositions.values():
            for one in some:
                if one.facts and one.command == written and section in vocabulary.sections_of(one):
                    return _side([(one.facts, "", self._manner(dialect, section))], self._manner(dialect, section))
        parts = vocabulary.parts(written, section, may_leave=True)
        if parts is None or sum(part.times for part in parts) > MOST_COMMANDS:
            return None
        texts: list[tuple[str, str, EditorConventions]] = []
        before, leads = section, ""
        for part in parts:
            row = dialect.vocabulary.row_of(part.command, part.section)
            manner = self._manner(dialect, row.leads if row is not None and row.leads else part.section)
            if part.section != before and not (row is not None and row.once):
                texts += self._back(dialect, part.section)
            known = self._effect(dialect, part)
            if known is None:
                return None
            texts.append((*known, manner))
            before = part.section
            leads = row.leads if row is not None and row.leads and not row.once else leads
        if leads and leads != section:
            mode = _MODE.search(dialect.description.sections[leads])
            there = f"now mode {mode[1]}" if mode is not None else f"now section {leads}"
            texts.append((there, "", self._manner(dialect, section)))
        elif before != section:
            texts += self._back(dialect, section)
        return _side([text for text in texts if text[0]], self._manner(dialect, section))

    def _back(self, dialect: Dialect, section: str) -> list[tuple[str, str, EditorConventions]]:
        """What is run where a section holds again."""
        back = dialect.description.effects.get(section, EffectRow()).back
        return [(back, "", self._manner(dialect, section))] if back else []

    def _effect(self, dialect: Dialect, part: CommandPart) -> tuple[str, str] | None:
        """The program of one command, and the test for where it is not sure."""
        vocabulary, command = dialect.vocabulary, part.command
        if command.startswith("type "):
            typing = dialect.description.effects.get(part.section, EffectRow()).typing or _TYPING
            return typing.replace("kept", command.removeprefix("type ")), ""
        row = vocabulary.row_of(vocabulary.called(command)[0], part.section)
        if row is None:
            return None
        action = self._catalogue.actions.get(row.action) if row.action else None
        effect = row.effect or row.facts
        given = dict(row.outcome_arguments(vocabulary.called(command)[1]))
        if effect and row.arguments and action is not None:
            effect = action.told(given, effect)
        elif not effect and action is not None:
            effect = _promise(action, Do(row.action, tuple(sorted(given.items()))))
        if effect and part.times > 1:
            effect = f"{'together' if row.counts == 'all' else 'times'} {part.times} {{ {effect} }}"
        return (effect, row.unsure) if effect else None


def _promise(action: Action, outcome: Do) -> str:
    """What an action does, with its arguments; empty where that depends on more than the text."""
    if action.effect or not outcome.arguments:
        return action.program(dict(outcome.arguments)) or action.facts
    return action.facts.replace(f"does {action.name}", f"does {outcome}")


def _side(texts: Sequence[tuple[str, str, EditorConventions]], home: EditorConventions) -> CommandRun:
    """Programs with their tests for where they are not sure, also where something is set of which it is not known how it
    changes them, each in its own manner."""
    programs = tuple(program(text) for text, _test, _manner in texts)
    unsure = tuple(
        "always" if manner.unsure or one.topics & manner.settings.unknown else test
        for one, (_text, test, manner) in zip(programs, texts, strict=True)
    )
    manners = tuple(manner for _text, _test, manner in texts)
    is_one = all(manner == home for manner in manners)
    return CommandRun(programs, home, unsure if any(unsure) else (), () if is_one else manners)
