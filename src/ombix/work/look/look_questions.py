"""Looking: the questions, each a function of an opened workspace."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from ombix.core.conditions import States
    from ombix.core.keymap.bindings import Layer
    from ombix.core.keys.notation import Trigger
    from ombix.work.look.effort_answer import EffortReport
    from ombix.work.look.free import FreeSearch
    from ombix.work.look.free_answer import FreeReport
    from ombix.work.look.layouts_answer import KnownHardware, LayoutKeys
    from ombix.work.look.show_answer import EditorListing, Listing, PlatformListing, UnboundActions
    from ombix.workspace.effective_keymap import EffectiveKeymap
    from ombix.workspace.how_answer import FoundActions
    from ombix.workspace.open_workspace import OpenWorkspace
    from ombix.workspace.what_answer import Explanation, NotApplying


def what(
    workspace: OpenWorkspace, keys: str, *, editor: str = "", on: str = "", layout: str = "", within: str = ""
) -> Explanation:
    """What happens when keys are pressed, and why; what may follow."""
    from ombix.work.look.what import explain

    look_ups = workspace.look_ups(editor, on, layout)
    if not within:
        return explain(look_ups.decisions, keys, look_ups.settle)
    from ombix.workspace.build_decision_index import decision_index

    here = workspace.keymap(editor, on, layout)
    states = here.within(within)
    return explain(decision_index(here, states), keys, look_ups.settle, within, _not_applying(here, states))


def names_an_action(words: str) -> bool:
    """Whether words are the name of an action, or its title, or the one word that it is called by."""
    from ombix.data.shipped import Shipped
    from ombix.workspace.named_action import is_name

    return is_name(words, Shipped())


def how(
    workspace: OpenWorkspace,
    words: str,
    *,
    editor: str = "",
    on: str = "",
    layout: str = "",
    domain: str = "",
    everything: bool = False,
    within: str = "",
) -> FoundActions:
    """The actions that words describe, with their keys; of one `domain`, or `everything` that comes near; with a condition,
    those that can be run in its states. Without a workspace and an editor, the actions alone."""
    from ombix.work.look.how import find

    if not editor and workspace.path_given is None and not workspace.has_workspace():
        from ombix.workspace.build_decision_index import action_index
        from ombix.workspace.effective_keymap import EffectiveKeymap

        bare = EffectiveKeymap(workspace.opener.hands_context(on, layout), workspace.resources)
        states = bare.space.states(within) if within else None
        return find(action_index(bare, states), words, domain, everything)._replace(about="", has_keymap=False)
    if not within:
        return find(workspace.look_ups(editor, on, layout).actions, words, domain, everything)
    from ombix.workspace.build_decision_index import action_index

    here = workspace.keymap(editor, on, layout)
    return find(action_index(here, here.within(within)), words, domain, everything)


def show(
    workspace: OpenWorkspace,
    *,
    by: str = "work",
    own: bool = False,
    editor: str = "",
    on: str = "",
    layout: str = "",
    within: str = "",
) -> Listing:
    """The bindings in force, by kind of `work`, by `key` or by `layer`; with `own` without an editor's defaults."""
    from ombix.work.look.show import listing

    return listing(workspace.keymap(editor, on, layout), by, own, within)


def show_platforms(
    workspace: OpenWorkspace, *, own: bool = False, differing: bool = False, editor: str = ""
) -> PlatformListing:
    """The keys on all platforms side by side; `differing`: only where they are not those of one definition."""
    from ombix.work.look.show import platform_listing

    return platform_listing(workspace.keymap(editor), workspace.resources.shipped.platforms(), own, differing)


def show_editors(workspace: OpenWorkspace, *, on: str = "") -> EditorListing:
    """What the keymap binds, beside what each editor of the workspace would obey."""
    from ombix.work.look.show import editor_listing

    here = workspace.keymap("", on)
    names = [
        editor.name for editor in workspace.workspace_editors() if editor.platform in ("", here.context.platform.name)
    ]
    return editor_listing(here, [workspace.keymap(name, on) for name in names])


def show_unbound(workspace: OpenWorkspace, *, own: bool = False, editor: str = "", on: str = "") -> UnboundActions:
    """The actions that have no keys."""
    from ombix.work.look.show import unbound_actions

    return unbound_actions(workspace.keymap(editor, on), own)


def effort(
    workspace: OpenWorkspace, *keys: str, hands: str = "both", keyboard: str = "", on: str = "", layout: str = ""
) -> EffortReport:
    """What each of the keys costs the hands."""
    from ombix.work.look import effort
    from ombix.workspace.context import setup_at_hand

    context = workspace.opener.hands_context(on, layout)
    setup = setup_at_hand(context, workspace.resources, keyboard)
    return effort.report(keys, setup, effort.hands_called(hands), workspace.resources)


def free(
    workspace: OpenWorkspace,
    words: str = "",
    *,
    keys: str = "",
    where: str = "",
    count: int = 10,
    editor: str = "",
    on: str = "",
    layout: str = "",
) -> FreeReport:
    """The keys that are free, for the action that words name or describe; or whether these `keys` are."""
    found = free_search(workspace, words, where=where, editor=editor, on=on, layout=layout)
    return found.asked(keys) if keys else found.report(count)


def free_search(
    workspace: OpenWorkspace, words: str = "", *, where: str = "", editor: str = "", on: str = "", layout: str = ""
) -> FreeSearch:
    """A look for free keys; see `free`."""
    from ombix.work.look import free
    from ombix.workspace.context import platforms_of
    from ombix.workspace.named_action import action_called

    action = action_called(words, workspace.resources.shipped) if words else None
    platforms = (on,) if on else platforms_of(workspace.file(), workspace.resources, _layers(workspace))
    places = [workspace.keymap(editor, platform, layout) for platform in platforms or ("",)]
    return free.search(places, workspace.workspace_editors(), workspace.resources, action, where)


def hardware(workspace: OpenWorkspace) -> KnownHardware:
    """The layouts, keyboards, terminals, desktops and platforms that Ombix knows."""
    from ombix.work.look import layouts

    return layouts.hardware(workspace.resources)


def layout(workspace: OpenWorkspace, name: str) -> LayoutKeys:
    """What is on the keys of a layout."""
    from ombix.work.look import layouts

    return layouts.layout(name, workspace.opener.folder, workspace.resources)


def _layers(workspace: OpenWorkspace) -> Sequence[Layer]:
    """The layers of the workspace's keymap; none where there is no workspace."""
    return workspace.opener.layers(lenient=True) if workspace.file() is not None else ()


def _not_applying(here: EffectiveKeymap, within: States | None) -> Callable[[Trigger], tuple[NotApplying, ...]]:
    """The bindings of keys that do not apply in these states."""
    from ombix.core.keymap.bindings import effective_states
    from ombix.workspace.what_answer import NotApplying

    def find_them(trigger: Trigger) -> tuple[NotApplying, ...]:
        table = here.tables.get(trigger)
        if table is None or within is None:
            return ()
        bound = [*(row.binding for row in table.rows), *table.losers]
        return tuple(
            NotApplying(str(one.outcome), one.place, one.layer.name, one.where)
            for one in bound
            if not here.space.overlap(within, effective_states(one, here.space, here.catalogue))
        )

    return find_them
