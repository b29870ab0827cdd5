"""Ports: from a keymap, an editor's defaults or a file, to the files of other editors, with an account of each."""

from collections.abc import Mapping
from pathlib import Path
from typing import NamedTuple

from ombix.core.errors import InputError, Place
from ombix.core.keymap.bindings import Binding, Keymap
from ombix.core.keys.notation import write
from ombix.core.porting import VERDICTS, PortEntry
from ombix.editors.command_effects import EffectJudge
from ombix.editors.dialect import Dialect
from ombix.editors.editor_porting import PortedFile, Surroundings, judge_of
from ombix.editors.obeyed_keymap import obeyed_keymap
from ombix.editors.sequence_effects import rows_that_differ
from ombix.files.disk import absolute
from ombix.files.workspace_file import WorkspaceEditor
from ombix.work.carry.port_answer import (
    ClearedKeys,
    KeptLine,
    KeysTogether,
    PortedBinding,
    PortReport,
    RehomedDefault,
    SectionOutcome,
)
from ombix.workspace.context import Context, Opener, terminal_of
from ombix.workspace.obeyed import adopted_homes, port_space
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
    accept_loss: bool = False


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
    around = Surroundings(
        context.platform, terminal_of(context.editor, target, resources), space,
        resources.shipped.catalogue(), options.accept_loss, origin.homes,
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
        _remarks(context.editor, target),
    )


def _remarks(editor: WorkspaceEditor, target: Dialect) -> tuple[str, ...]:
    """That the workspace has another version of an editor than the one that is described."""
    if not editor.version or target.is_for(editor.version):
        return ()
    described = ", ".join(target.description.versions or [target.description.version])
    said = f"{editor.name} is version {editor.version}, and {target.name} is described as of {described}"
    return (f"{said}: its keys and commands may be others.",)


def report(made: MadePort, path: Path | None = None) -> PortReport:
    """The account of a port."""
    file = made.file
    return PortReport(
        made.source, made.name, Place(absolute(path or made.path)),
        {verdict: file.count(verdict) for verdict in VERDICTS}, file.checked,
        tuple(RehomedDefault(str(one.outcome), write(one.old), write(one.new), one.sections) for one in file.rehomed),
        tuple(map(_binding, file.entries)),
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


def _binding(entry: PortEntry) -> PortedBinding:
    source: Binding = entry.source
    return PortedBinding(
        write(source.trigger), str(source.outcome), source.where, entry.verdict, entry.how, entry.written,
        write(entry.trigger) if entry.trigger else None, write(entry.elsewhere) if entry.elsewhere else None,
        tuple(SectionOutcome(section, str(outcome)) for section, outcome in entry.displaced),
        tuple(ClearedKeys(write(keys), section, str(outcome)) for keys, section, outcome in entry.cleared),
    )  # fmt: skip
