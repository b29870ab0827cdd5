"""Keys and macros tried: each a function of an opened workspace."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

from ombix.workspace.edit_options import PLAIN_EDIT, EditOptions

if TYPE_CHECKING:
    from ombix.core.keys.notation import Chord
    from ombix.work.tryout.live_stage import LiveStage
    from ombix.work.tryout.macro_answer import (
        AdoptedSnippets,
        MacroList,
        MacroReport,
        MacroTrial,
        RecordReport,
        SnippetPort,
    )
    from ombix.work.tryout.macro_recording import RecordOptions
    from ombix.work.tryout.macro_trial import TrialOptions
    from ombix.work.tryout.press_answer import StageReport
    from ombix.work.tryout.stage_session import StagePlace
    from ombix.workspace.open_workspace import OpenWorkspace

_TERMINAL = "xterm"
"""What keys come from where they are pressed one by one; nearly all send what it sends."""


def press(
    workspace: OpenWorkspace,
    *keys: str,
    place: StagePlace | None = None,
    editor: str = "",
    file: str = "",
    on: str = "",
) -> StageReport:
    """Press keys on the stage, on a text: in the keymap by itself, or in an editor with the keymap, or with `file`."""
    from ombix.work.tryout import stage_session

    workspace.tell_faults()
    chosen = place or stage_session.place_on(stage_session.TEXT, "1:1", "always")
    setting = stage_session.StageSetting(editor, file, on)
    staged = stage_session.put_on_stage(setting, chosen, workspace.opener, workspace.resources)
    return stage_session.report(staged, stage_session.strokes(keys, staged.platform))


def live(
    workspace: OpenWorkspace, place: StagePlace | None = None, *, editor: str = "", file: str = "", on: str = ""
) -> LiveStage:
    """The same, for keys that come from a terminal one by one."""
    from ombix.work.tryout import stage_session
    from ombix.work.tryout.live_stage import LiveStage

    workspace.tell_faults()
    chosen = place or stage_session.place_on(stage_session.TEXT, "1:1", "always")
    staged = stage_session.put_on_stage(
        stage_session.StageSetting(editor, file, on), chosen, workspace.opener, workspace.resources
    )
    return LiveStage(staged, workspace.resources.shipped.terminal(_TERMINAL))


def macros(workspace: OpenWorkspace, *, editor: str = "", on: str = "") -> MacroList:
    """The macros and snippets of the keymap."""
    from ombix.work.tryout.macros import all_macros

    return all_macros(workspace.keymap(editor, on))


def macro(workspace: OpenWorkspace, name: str, *, editor: str = "", on: str = "") -> MacroReport:
    """One macro or snippet in full."""
    from ombix.work.tryout.macros import one_macro

    return one_macro(name, workspace.keymap(editor, on))


def state_of(workspace: OpenWorkspace, file: str, within: str) -> str:
    """The condition of a state in which a file is edited: in the language that its name tells, where `within` says none."""
    from pathlib import PurePath

    if "language" in within:
        return within
    ending = PurePath(file).suffix
    found = (
        language.name for language in workspace.resources.shipped.languages().values() if ending in language.endings
    )
    name = next(found, "")
    own = f"language is {name}"
    return within if not name else own if within == "always" else f"({within}) and {own}"


def try_macro(
    workspace: OpenWorkspace,
    name: str,
    place: StagePlace,
    options: TrialOptions,
    *,
    editor: str = "",
    on: str = "",
    file: str = "",
) -> MacroTrial:
    """Try a macro or a snippet on a text; the text behind it is written to `file`, where one is named and it differs."""
    from ombix.work.tryout.macro_trial import try_on

    found = try_on(name, place, workspace.keymap(editor, on), options, file)
    if found.written:
        from ombix.files.line_keeping import with_lines_of

        workspace.write(f"macro try {name} --write", {file: with_lines_of(found.text, workspace.read(file))})
    return found


def record(
    workspace: OpenWorkspace, keys: Sequence[Chord], place: StagePlace, wanted: RecordOptions, options: EditOptions = PLAIN_EDIT, *,
    editor: str = "",
) -> RecordReport:  # fmt: skip
    """Put what keys do into the keymap, as a macro."""
    from ombix.work.tryout.macro_recording import recorded, write_recording

    found = recorded(keys, place, workspace.keymap(editor))
    return write_recording(found, tuple(keys), wanted, workspace.editing(), options)


def keys_of(workspace: OpenWorkspace, data: bytes, editor: str = "") -> tuple[list[Chord], int]:
    """The keys that a terminal sent as bytes, and how many of these stand for none."""
    from ombix.core.pressing.sent_keys import keys_sent
    from ombix.workspace.context import terminal_of

    shipped = workspace.resources.shipped
    if not editor:
        return keys_sent(data, shipped.terminal("xterm"))
    one = workspace.opener.editor(editor)
    return keys_sent(data, terminal_of(one, workspace.resources.dialect(one), workspace.resources))


def port_snippets(workspace: OpenWorkspace, to: str, *, output: str = "", dry_run: bool = False) -> SnippetPort:
    """Write the keymap's snippets into a file of an editor's own form."""
    from ombix.work.carry import port
    from ombix.work.tryout import snippet_files
    from ombix.workspace.resources import user_path

    dialect = workspace.resources.dialect(workspace.opener.editor(to))
    here = workspace.keymap()
    made = snippet_files.carry(here, dialect, to, workspace.resources)
    if not made.text:
        return made.report
    usual = here.context.folder / port.FOLDER / to / made.file
    path = user_path(output, workspace.opener.folder) if output else usual
    workspace.writer(*([path] if output else [])).change(f"macro port --to {to}", lambda: {path: made.text}, dry_run)
    return made.report._replace(file=str(path))


def adopt_snippets(
    workspace: OpenWorkspace, file: str, editor: str, options: EditOptions = PLAIN_EDIT
) -> AdoptedSnippets:
    """Take the snippets of an editor's own file into the keymap."""
    from ombix.work.tryout import snippet_files

    dialect = workspace.resources.dialect(workspace.opener.editor(editor))
    return snippet_files.adopt(workspace.read(file), file, dialect, workspace.resources, workspace.editing(), options)
