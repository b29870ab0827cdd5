"""What may be pressed in a real editor: bindings that cannot start a program, and reach no file but the text's own."""

from collections.abc import Callable

from msgspec.structs import replace

from ombix.core.catalogue.actions import Catalogue
from ombix.core.errors import InputError
from ombix.core.keymap.bindings import Binding, Layer
from ombix.core.keymap.outcomes import (
    Do,
    Insert,
    Nothing,
    Only,
    Outcome,
    Press,
    Repeat,
    Step,
    Type,
    Until,
    When,
    steers,
)
from ombix.core.keys.notation import Trigger
from ombix.editors.command_effects import is_known_setting
from ombix.editors.description import CommandRow
from ombix.editors.dialect import Dialect
from ombix.editors.vocabulary import CommandPart

COULD_RUN = "could run a program"
COULD_REACH = "could reach other files"
_MOST_PARTS = 100
_DEEPEST = 5
"""Macros in macros, or in keys that they press."""


def harmless_layer(
    layer: Layer, dialect: Dialect, catalogue: Catalogue, shuts_files: bool = False
) -> tuple[Layer, dict[int, str]]:
    """A layer of an editor's file without what is not to be pressed, and of the kept lines with those alone that set what its
    commands do; and why each binding that is missing was left out, by the `id` of the binding. Where the editor is shut in so
    that it can write no other files, known actions that reach files or start programs, and are not told which, stay."""
    judge = _Judge(dialect, catalogue, layer)
    reasons = {
        id(binding): reason for binding in layer.bindings
        if (reason := judge.reason(binding)) and not (shuts_files and judge.is_told_nothing(binding, reason))
    }  # fmt: skip
    kept = [one for one in layer.kept if one.editor == dialect.name and is_known_setting(dialect, one.text)]
    bindings = [binding for binding in layer.bindings if id(binding) not in reasons]
    return replace(layer, bindings=bindings, kept=kept), reasons


class _Judge:
    """Says what outcomes may touch. What is not known may touch everything."""

    def __init__(self, dialect: Dialect, catalogue: Catalogue, layer: Layer) -> None:
        self._dialect = dialect
        self._vocabulary = dialect.vocabulary
        self._editor = dialect.name
        self._catalogue = catalogue
        self._macros = layer.macros
        self._bound: dict[Trigger, list[Binding]] = {}
        for binding in (*dialect.default_layer.bindings, *layer.bindings):
            self._bound.setdefault(binding.trigger, []).append(binding)

    def reason(self, binding: Binding) -> str:
        """Why a binding is not to be pressed; empty where it may be."""
        if self._vocabulary.syntax.keys and binding.written and self._is_about_text(binding):
            return ""
        return self._outcome(binding.outcome, binding.written)

    def is_told_nothing(self, binding: Binding, reason: str) -> bool:
        """Whether what a binding does is known, and that the binding itself tells of no file and of no program to run; what
        starts programs is a command of the description, as it stands there."""
        outcome, vocabulary = binding.outcome, self._vocabulary
        is_bare = isinstance(outcome, Do) and not outcome.arguments
        if reason == COULD_REACH:
            return is_bare
        reaches = [row.reaches or self._reach_of(row.action) for row in vocabulary.rows_of(binding.written)]
        reaches = reaches or [
            self._reach_of(action)
            for action, some in vocabulary.compositions.items() for one in some if one.command == binding.written
        ]  # fmt: skip
        return bool(reaches) and "unknown" not in reaches

    def _reach_of(self, name: str) -> str:
        action = self._catalogue.actions.get(name)
        return action.reaches if action is not None else "unknown"

    def _is_about_text(self, binding: Binding) -> bool:
        """Whether keys that are commands do nothing but change a text and type some, in every section in which they hold."""
        vocabulary, space = self._vocabulary, self._dialect.space
        states = space.parse(binding.where, binding.scope)
        names = [name for name, text in vocabulary.sections.items() if space.overlap(space.states(text), states)]
        found = [vocabulary.parts(binding.written, name) for name in names]
        return bool(found) and all(parts is not None and all(map(self._is_step, parts)) for parts in found)

    def _is_step(self, part: CommandPart) -> bool:
        row = self._vocabulary.row_of(part.command, part.section)
        if row is None:
            return part.command.startswith("type ")
        return bool(row.leads) or (bool(row.effect) and not self._row(row, row.written))

    def _outcome(self, outcome: Outcome, written: str, within: tuple[str, ...] = ()) -> str:
        """Why an outcome is not to be run; `within` are the macros around it."""
        if isinstance(outcome, Nothing):
            return ""
        if isinstance(outcome, Do):
            return self._action(outcome, written)
        if isinstance(outcome, Only):
            return self._command(outcome.command) if outcome.editor == self._editor else ""
        if isinstance(outcome, Insert):
            return ""
        macro = self._macros.get(outcome.macro)
        if macro is None or macro.name in within:
            return COULD_RUN
        reasons = (self._step(step, (*within, macro.name)) for step in macro.steps)
        return next(filter(None, reasons), "")

    def _step(self, step: Step, within: tuple[str, ...]) -> str:
        if isinstance(step, Type):
            return COULD_RUN if steers(step.text) else ""
        if isinstance(step, Press):
            # Keys may do anything; of one chord all that it can do is known.
            found = self._bound.get(step.keys, []) if len(step.keys) == 1 else []
            reasons = (self._outcome(one.outcome, one.written, (*within, "")) for one in found)
            return next(filter(None, reasons), "") if found and len(within) < _DEEPEST else COULD_RUN
        if isinstance(step, Repeat | Until | When):
            return next(filter(None, (self._step(one, within) for one in step.steps)), "")
        return self._outcome(step, "", within)

    def _action(self, outcome: Do, written: str) -> str:
        action = self._catalogue.actions.get(outcome.action)
        name = self._vocabulary.called(written)[0]
        rows = [row for row in self._vocabulary.rows_of(name) if row.action == outcome.action]
        if not rows:
            rows = [row for _name, row in self._vocabulary.by_action.get(outcome.action, ())]
        return _worst([action.reaches if action is not None else "unknown", *(row.reaches for row in rows)])

    def _command(self, command: str) -> str:
        """Why a command of the editor's own is not to be run."""
        vocabulary = self._vocabulary
        name = vocabulary.called(command)[0]
        rows = vocabulary.rows_of(name) or vocabulary.rows_of(name.rstrip(vocabulary.syntax.suffixes or " "))
        if rows:
            return next(filter(None, (self._row(row, name) for row in rows)), "")
        parts = vocabulary.chains.split(command)
        if (len(parts) < 2 and vocabulary.chains.typed_by(command) is None) or len(parts) > _MOST_PARTS:
            return COULD_RUN
        return next(filter(None, map(self._part, parts)), "")

    def _part(self, part: str) -> str:
        """Why a part of a chain is not to be run."""
        if self._vocabulary.chains.typed_by(part) is not None:
            return "" if part.isprintable() and "\\" not in part else COULD_RUN
        return self._command(part)

    def _row(self, row: CommandRow, name: str) -> str:
        return self._action(Do(row.action), name) if row.action else _worst([row.reaches or "unknown"])


def writable_layer(layer: Layer, write: Callable[[Layer], str]) -> tuple[str, dict[int, str]]:
    """The text of a layer without what cannot be written anew, and why each such binding was left out, by its `id`."""
    try:
        return write(layer), {}
    except InputError:
        pass
    reasons: dict[int, str] = {}
    for binding in layer.bindings:
        try:
            write(replace(layer, bindings=[binding]))
        except InputError as error:
            reasons[id(binding)] = error.what
    return write(
        replace(layer, bindings=[binding for binding in layer.bindings if id(binding) not in reasons])
    ), reasons


def _worst(reaches: list[str]) -> str:
    if any(reach in ("programs", "unknown") for reach in reaches):
        return COULD_RUN
    return COULD_REACH if "files" in reaches else ""
