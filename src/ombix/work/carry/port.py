"""Ports: from a keymap, an editor's defaults or a file, to the files of other editors, with an account of each."""

from collections.abc import Iterable, Mapping
from functools import cached_property
from pathlib import Path
from typing import NamedTuple

from ombix.core.errors import InputError, Place
from ombix.core.keymap.bindings import Keymap, effective_states
from ombix.core.keymap.deciding import DecisionTable
from ombix.core.keymap.outcomes import Do, Nothing, Only, Outcome
from ombix.core.keys.notation import ALT, MOD, Chord, Trigger, write
from ombix.core.keys.platforms import Platform
from ombix.core.porting import VERDICTS, PortEntry
from ombix.core.pressing.terminals import in_terminal
from ombix.editors.abilities import DescribedTarget
from ombix.editors.command_effects import EffectJudge
from ombix.editors.dialect import Dialect
from ombix.editors.editor_porting import PortedFile, Surroundings, decisions_with, judge_of
from ombix.editors.obeyed_keymap import obeyed_keymap
from ombix.editors.sequence_effects import rows_that_differ
from ombix.files.disk import absolute
from ombix.files.workspace_file import WorkspaceEditor
from ombix.work.carry.port_answer import (
    ClearedKeys,
    EverydayCount,
    KeptLine,
    KeysTogether,
    Nearest,
    PortedBinding,
    PortReport,
    RehomedDefault,
    SectionOutcome,
)
from ombix.workspace.context import Context, Opener, terminal_of
from ombix.workspace.not_in_editor import nearest_action
from ombix.workspace.obeyed import adopted_homes, port_space
from ombix.workspace.outcome_titles import outcome_title
from ombix.workspace.reason_words import reason_in_words
from ombix.workspace.resources import Resources, user_path

FOLDER = "ported"
"""The folder below the workspace's that ports are written to."""


class PortOrigin(NamedTuple):
    """What a port comes from: a keymap, and the editor that decides it, where there is one."""

    name: str
    keymap: Keymap
    dialect: Dialect | None
    homes: Mapping[str, Dialect]
    """The editors of adopted layers, by their names in the workspace."""


class MadePort(NamedTuple):
    """A port that was made, and all that it was made of; not written yet."""

    name: str
    file: PortedFile
    target: Dialect
    around: Surroundings
    source: str
    judge: EffectJudge
    origin: PortOrigin
    path: Path
    """Where it goes, unless it is told to go somewhere else."""
    remarks: tuple[str, ...] = ()
    """What should be known of the target."""


def origin(opener: Opener, resources: Resources, source: str = "", lenient: bool = False) -> PortOrigin:
    """What is to be ported: the keymap of the workspace or the file that was opened; or, by its name, an editor's default
    keys; or what is bound in a file; a lenient one leaves out what cannot be read. Raises InputError."""
    if source and not _is_path(source, opener, resources):
        described = resources.dialect(opener.editor(source))
        return PortOrigin(f"{source}'s defaults", Keymap([described.default_layer]), described, {})
    if not source and not opener.is_file():
        layers = opener.layers(lenient)
        return PortOrigin(
            layers[-1].name.name, Keymap(list(layers)), None, adopted_homes(layers, opener.workspace(), resources)
        )
    file = opener.file(lenient) if not source else opener.open_file(user_path(source, opener.folder), lenient=lenient)
    dialect = resources.dialect(file.editor) if file.editor is not None else None
    return PortOrigin(file.layers[-1].name.name, Keymap(list(file.layers)), dialect, {})


def _is_path(source: str, opener: Opener, resources: Resources) -> bool:
    """Whether a source is a file; a name of an editor goes before a file of that name."""
    workspace = opener.workspace()
    if resources.dialects.knows(source) or (workspace is not None and source in workspace.editors):
        return False
    return "/" in source or "." in source or resources.files.is_file(user_path(source, opener.folder))


class PortOptions(NamedTuple):
    """How a port is wished for: with free keys for the target's defaults that lose their only ones; with commands that can
    throw text away where the source keeps it."""

    rehome: bool = False
    careful: bool = False


PLAIN_WISHES = PortOptions()


def port(
    origin: PortOrigin, name: str, context: Context, resources: Resources, options: PortOptions = PLAIN_WISHES
) -> MadePort:
    """Port to the editor of a context, by the name that it was asked for. Raises OmbixError."""
    assert context.editor is not None
    target = resources.dialect(context.editor)
    if origin.dialect is not None and origin.dialect.name == target.name:
        raise InputError(f"{origin.name} and {name} are of the same editor", "Choose another one.")
    space = port_space(origin.keymap, origin.dialect, target, resources)
    terminal = terminal_of(context.editor, target, resources)
    around = Surroundings(
        in_terminal(context.platform, terminal), terminal, space,
        resources.shipped.catalogue(), options.careful or context.editor.careful, origin.homes,
    )  # fmt: skip
    file = obeyed_keymap(origin.keymap, name, target, around, origin.dialect, options.rehome).file
    path = context.folder / FOLDER / name / target.description.file.name
    return MadePort(
        name,
        file,
        target,
        around,
        origin.name,
        judge_of(origin.keymap, origin.dialect, target, around.catalogue, origin.homes),
        origin,
        path,
        (*_remarks(context.editor, target), *_on_mod(origin, context.platform, around)),
    )


def _remarks(editor: WorkspaceEditor, target: Dialect) -> tuple[str, ...]:
    """That the workspace has another version of an editor than the one that is described."""
    if not editor.version or target.is_for(editor.version):
        return ()
    described = ", ".join(target.description.versions or [target.description.version])
    said = f"{editor.name} is version {editor.version}, and {target.name} is described as of {described}"
    return (f"{said}: its keys and commands may be others.",)


def _on_mod(origin: PortOrigin, platform: Platform, around: Surroundings) -> tuple[str, ...]:
    """That Mod is another modifier in a terminal than elsewhere on the platform, where the keymap has it."""
    own = [one for layer in origin.keymap.layers for one in layer.bindings]
    if around.platform == platform or not any(chord.modifiers & MOD for one in own for chord in one.keys):
        return ()
    return (f"Mod is Ctrl there: a terminal sends no {platform.show((Chord(platform.main_modifier, 's'),))}.",)


def report(made: MadePort, path: Path | None = None) -> PortReport:
    """The account of a port."""
    file, account = made.file, _Account(made)
    return PortReport(
        made.source, made.name, Place(absolute(path or made.path)),
        {verdict: file.count(verdict) for verdict in VERDICTS},
        file.answers, file.checked,
        tuple(RehomedDefault(str(one.outcome), write(one.old), write(one.new), one.sections) for one in file.rehomed),
        tuple(account.binding(entry) for entry in file.entries),
        tuple(
            KeysTogether(tuple(map(write, one.triggers)), one.sentence)
            for one in rows_that_differ(file.entries, made.judge, made.target)
        ),
        tuple(
            KeptLine(one.place, one.text, one.reason)
            for layer in made.origin.keymap.layers for one in layer.kept if one.editor != made.target.name
        ),
        made.remarks,
    )  # fmt: skip


def ported_bindings(made: MadePort, entries: Iterable[PortEntry]) -> list[PortedBinding]:
    """What became of bindings of a port."""
    return [*map(_Account(made).binding, entries)]


class _Account:
    """What is to be known of the bindings of a port."""

    def __init__(self, made: MadePort) -> None:
        self._made = made
        self._catalogue = made.around.catalogue
        self._target = DescribedTarget(made.target, made.judge.home_of, made.around.terminal)

    @cached_property
    def _tables(self) -> dict[Trigger, DecisionTable]:
        """What the target decides with the ported file."""
        return decisions_with(self._made.target, [self._made.file.layer], self._made.around)

    def binding(self, entry: PortEntry) -> PortedBinding:
        """What became of one."""
        source, everyday = entry.source, entry.everyday
        is_there = entry.answer in ("works", "works but") or entry.trigger is not None
        count = example = None
        if everyday is not None and everyday.said:
            count = EverydayCount(everyday.share, everyday.low, everyday.high, everyday.kind, everyday.model)
            example = everyday.example
        return PortedBinding(
            write(source.trigger), str(source.outcome), source.where, entry.verdict, entry.how, entry.written,
            write(entry.trigger) if entry.trigger else None, write(entry.elsewhere) if entry.elsewhere else None,
            tuple(
                SectionOutcome(section, str(outcome), self._title(outcome), self._is_frequent(outcome))
                for section, outcome in entry.displaced
            ),
            tuple(ClearedKeys(write(keys), section, str(outcome)) for keys, section, outcome in entry.cleared),
            self._title(source.outcome), entry.answer, tuple(map(reason_in_words, entry.plainly(self._made.name))), count,
            example, entry.is_compared,
            "" if is_there else self._now(entry), None if is_there else self._nearest(source.outcome),
            self._is_frequent(source.outcome),
        )  # fmt: skip

    def _is_frequent(self, outcome: Outcome) -> bool:
        action = self._catalogue.actions.get(outcome.action) if isinstance(outcome, Do) else None
        return action is not None and action.frequent

    def _title(self, outcome: Outcome) -> str:
        return outcome_title(outcome, self._catalogue, self._made.origin.keymap, self._own_title)

    def _own_title(self, outcome: Only) -> str:
        """What a command of one editor does, where its description says so."""
        made = self._made
        every = {
            each.name: each
            for each in (made.target, made.origin.dialect, *made.origin.homes.values())
            if each is not None
        }
        home = every.get(outcome.editor) or made.origin.homes.get(outcome.editor)
        row = home.vocabulary.row_of(home.vocabulary.called(outcome.command)[0]) if home is not None else None
        return row.only if row is not None else ""

    def _now(self, entry: PortEntry) -> str:
        """What the keys of a binding that is gone do in the target, as a sentence."""
        made, space = self._made, self._made.around.space
        trigger = made.around.terminal.canonical(entry.source.trigger)
        keys = write(entry.source.trigger)
        table = self._tables.get(trigger)
        states = effective_states(entry.source, space, self._catalogue)
        rows = [row for row in table.rows if space.overlap(row.states, states)] if table is not None else []
        titles = [self._title(row.binding.outcome) for row in rows if not isinstance(row.binding.outcome, Nothing)]
        if titles:
            return f"There now: {' or '.join(dict.fromkeys(titles))}."
        if any(other[: len(trigger)] == trigger and len(other) > len(trigger) for other in self._tables):
            return f"{keys} begins other keys there now."
        becomes = self._target.unbound(trigger)
        said = {
            "": "There now: nothing.", "typed": f"{keys} is typed there.", "apart": f"{keys} comes apart there.",
            "text": f"{keys} does something in the text there.",
        }  # fmt: skip
        if becomes == "apart":
            escape = f"{keys} arrives as Escape and {write((Chord(0, trigger[0].key), *trigger[1:]))} there."
            return escape if trigger[0].modifiers & ALT else f"{keys} comes apart there, into Escape and text."
        return said[becomes]

    def _nearest(self, outcome: Outcome) -> Nearest | None:
        if not isinstance(outcome, Do):
            return None
        found = nearest_action(outcome.action, self._made.target, self._catalogue, self._tables)
        return Nearest(*found) if found is not None else None
