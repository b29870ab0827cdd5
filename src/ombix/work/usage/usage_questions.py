"""What is used: the questions, each a function of an opened workspace."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from ombix.core.usage.counts import UseCounts
    from ombix.files.usage_days import UseDays
    from ombix.work.usage.savings import SavingsOptions
    from ombix.work.usage.savings_answer import SavingsReport
    from ombix.work.usage.strain_answer import StrainReport
    from ombix.work.usage.suggest import SuggestOptions
    from ombix.work.usage.suggest_answer import SuggestReport
    from ombix.work.usage.use import ReadUse, UseMeaning, UseOptions
    from ombix.work.usage.use_answer import UseReport
    from ombix.work.usage.watch import WatchedKeys
    from ombix.workspace.open_workspace import OpenWorkspace


def watch(workspace: OpenWorkspace, command: str, *, editor: str = "", file: str = "") -> WatchedKeys:
    """What counts the keys that go to an editor in a terminal: the program `command`, or `editor`; by its own key file."""
    from ombix.core.errors import OmbixError
    from ombix.work.tryout import stage_session
    from ombix.work.usage import watch
    from ombix.work.usage.command_guard import CommandGuard
    from ombix.workspace.context import terminal_of

    found = watch.watched_editor(command, editor, workspace.opener, workspace.resources)
    place = stage_session.place_on(stage_session.TEXT, "1:1", "always")
    own = str(workspace.path(file)) if file else found.file
    try:
        staged = stage_session.put_own_on_stage(found.editor, own, place, workspace.opener, workspace.resources)
    except OmbixError as error:
        if not own or file:
            raise
        workspace.say(f"its key file cannot be read, so its defaults decide what keys do: {error.what} ({own})")
        staged = stage_session.put_own_on_stage(found.editor, "", place, workspace.opener, workspace.resources)
    chosen = workspace.opener.editor(found.editor)
    dialect = workspace.resources.dialect(chosen)
    terminal = terminal_of(chosen, dialect, workspace.resources)
    guard = CommandGuard(dialect, workspace.resources.shipped.catalogue())
    return watch.WatchedKeys(staged, terminal, found.editor, dialect.vocabulary, guard)


def keep_use(workspace: OpenWorkspace, counts: UseCounts) -> None:
    """Add what was counted to what is kept."""
    if counts:
        use_days(workspace).add(counts)


def forget_use(workspace: OpenWorkspace, until: str = "") -> int:
    """Forget what was used up to a day (YYYY-MM-DD; empty: on all); how many days that were. Raises InputError."""
    from ombix.core.usage.counts import check_day

    check_day(until)
    return use_days(workspace).forget(until)


def use(workspace: OpenWorkspace, options: UseOptions | None = None) -> UseReport:
    """What was used: of the logs that are named, or of what is kept."""
    from ombix.work.usage.use import UseOptions

    wanted = options or UseOptions()
    return use_meaning(workspace).report(read_use(workspace, wanted), wanted)


def savings(workspace: OpenWorkspace, words: Sequence[str], options: SavingsOptions, logs: UseOptions) -> SavingsReport:
    """What keys save: for estimates in words like `line.copy-down 100/day`, or else for what was used."""
    from ombix.work.usage import savings

    meaning = use_meaning(workspace)
    by_hand = savings.estimates(words, meaning)
    if by_hand:
        options = options._replace(by_hand=by_hand)
        used = [
            savings.ActionUse(name, {options.by: times}, *meaning.first_keys("", name))
            for name, times in by_hand.items()
        ]
    else:
        used = savings.uses(read_use(workspace, logs).counts, meaning)
    return savings.savings(used, options, workspace.resources.shipped.keystroke_model())


def suggest(workspace: OpenWorkspace, logs: UseOptions, options: SuggestOptions) -> SuggestReport:
    """Better keys for what is used, and with `take` written into the keymap, as one change that can be taken back."""
    from ombix.work.mend.fixes import FixSearch, SettleScope
    from ombix.work.usage import savings, suggest
    from ombix.workspace.keymap_editing import layer_path

    editing = workspace.editing()
    platform = workspace.opener.platform(options.on).name
    ways = FixSearch(editing, editing.read(layer_path("", workspace.opener)), SettleScope((), platform))
    used = savings.uses(read_use(workspace, logs).counts, use_meaning(workspace))
    weights = workspace.opener.needed_workspace().weights
    found = suggest.Suggesting(ways, used, weights, workspace.resources.shipped.keystroke_model()).suggest(options.most)
    return suggest.carried_out(found, ways, options, workspace.writer())


def used_keys(workspace: OpenWorkspace, logs: UseOptions) -> dict[str, int]:
    """How often keys were used, by the keys; what is no keys is left out."""
    from ombix.work.usage.strain import keys_of

    return keys_of(read_use(workspace, logs).counts, logs.editor)


def strain(workspace: OpenWorkspace, logs: UseOptions, *, on: str = "", keyboard: str = "") -> StrainReport:
    """What the keys that are used load on fingers, hands, rows and modifiers, on the keyboard at hand."""
    from ombix.work.usage.strain import strain_of

    here = workspace.opener.hands_context(on)
    return strain_of(read_use(workspace, logs).counts, here, workspace.resources, keyboard)


def read_use(workspace: OpenWorkspace, options: UseOptions) -> ReadUse:
    """The counts of it."""
    from ombix.core.usage.counts import check_day
    from ombix.work.usage.use import UseReading

    check_day(options.since)
    check_day(options.until)
    workspace_file = workspace.opener.workspace() if not workspace.opener.is_file() else None
    columns = workspace_file.use_columns if workspace_file is not None else {}
    return UseReading(
        use_days(workspace), workspace.path, columns, lambda: watch_recording(workspace, options.editor)
    ).read(options)


def watch_recording(workspace: OpenWorkspace, editor: str) -> WatchedKeys:
    """What counts the keys of a recording. Raises InputError where nobody said of which editor it is."""
    from ombix.core.errors import InputError

    if not editor:
        raise InputError("a recording does not say in which editor it was made", "Say it: --editor micro")
    return watch(workspace, "", editor=editor)


def use_days(workspace: OpenWorkspace) -> UseDays:
    from ombix.files.usage_days import UseDays

    return UseDays(workspace.state_folder())


def use_meaning(workspace: OpenWorkspace) -> UseMeaning:
    from ombix.work.usage.use import UseMeaning

    return UseMeaning(lambda editor: workspace.keymap(editor), workspace.resources)
