"""What several commands do: find the workspace, choose the platform and the editor, decide everything."""

from dataclasses import dataclass, replace
from functools import cached_property
from pathlib import Path

from ombix.cli.environment import Environment
from ombix.core.actions import Catalogue
from ombix.core.audit import View
from ombix.core.conditions import Space
from ombix.core.deciding import Policy, Row, Table, decide_all
from ombix.core.errors import InputError, Place, did_you_mean
from ombix.core.keymap import Binding, Do, Keymap, Layer, Only, Outcome, Play, effective_states
from ombix.core.keys import Trigger
from ombix.core.layouts import Seat, as_pressed
from ombix.core.platforms import Platform, Reserved, reserved_on
from ombix.core.terminals import Terminal
from ombix.data import shipped
from ombix.dialects import loading
from ombix.dialects.engine import Dialect
from ombix.dialects.porting import narrowed
from ombix.store import layouts
from ombix.store import workspace as workspaces
from ombix.store.workspace import Editor, Workspace


@dataclass(frozen=True, slots=True)
class Setting:
    """Where a command works: the workspace (None outside one), the platform and the editor (None: none is meant)."""

    workspace: Workspace | None
    platform: Platform
    editor: Editor | None
    seats: tuple[Seat, ...] = ()
    """The layouts at hand, the one that is asked for first; none where none is named."""
    seat_files: tuple[str, ...] = ()

    @property
    def dialect(self) -> str:
        """The name of the editor's dialect, or an empty text."""
        return self.editor.dialect if self.editor else ""


@dataclass
class Stand:
    """A keymap as it stands in a setting: the layers with the editor's defaults below them, and all decisions."""

    setting: Setting
    keymap: Keymap
    catalogue: Catalogue
    space: Space
    policy: Policy
    files: list[str]

    @cached_property
    def bindings(self) -> list[Binding]:
        """The bindings in force on the platform, the lowest layer first, by what the layout at hand has at a place."""
        found = self.keymap.in_force(self.setting.platform)
        return as_pressed(found, self.setting.seats[0]) if self.setting.seats else found

    def settled(self, trigger: Trigger) -> Trigger:
        """A trigger that a user typed, written as the bindings are."""
        trigger = self.setting.platform.resolve(trigger)
        return self.setting.seats[0].typed_all(trigger) if self.setting.seats else trigger

    @cached_property
    def tables(self) -> dict[Trigger, Table]:
        """The complete decisions by trigger."""
        return decide_all(self.bindings, self.space, self.catalogue, self.policy)

    def when(self, row: Row) -> str:
        """The condition of a row: as it is written, where the binding wins in all of its states."""
        if row.binding.where != "always" and row.states == effective_states(row.binding, self.space, self.catalogue):
            return row.binding.where
        return self.space.describe(row.states)


def find_setting(
    environment: Environment,
    workspace: Path | None,
    on: str,
    editor: str,
    needs_workspace: bool = True,
    layout: str = "",
) -> Setting:
    """The setting that the options ask for. Raises InputError."""
    found: Workspace | None = None
    try:
        found = workspaces.load(workspaces.find(environment.folder, workspace))
    except InputError as error:
        if needs_workspace or workspace is not None or (error.place and error.place.line):
            raise
    chosen = choose_editor(found, editor) if editor else None
    name = on or (chosen.platform if chosen else "") or (found.platform if found else "") or workspaces.this_platform()
    platform = shipped.platform(name)
    names = (layout,) if layout else found.layouts_on(platform.name) if found else ()
    folder = environment.folder if layout or found is None else found.folder
    seats = tuple(_seat(one, folder, found, platform) for one in names)
    return Setting(found, platform, chosen, seats, tuple(layouts.files_of(names, folder)) if names else ())


def _seat(layout: str, folder: Path, workspace: Workspace | None, platform: Platform) -> Seat:
    found = layouts.layout_or_file(layout, folder, platform.layout_variant)
    keyboard = (workspace.keyboard_on(platform.name) if workspace else "") or platform.keyboard
    return Seat(found, layouts.keyboard(keyboard, found.shape), platform)


def reserved(setting: Setting) -> list[Reserved]:
    """What does not reach an editor: what the system keeps, the workspace's desktop, and what the workspace names."""
    workspace, platform = setting.workspace, setting.platform
    found = reserved_on(platform, shipped.desktops(), workspace.desktop if workspace else "")
    for own in workspace.reserved if workspace else ():
        if own.platform in ("", platform.name):
            source = str(workspace.path) if workspace else ""
            found += [Reserved(platform.resolve(own.trigger)[0], own.does, "something of one's own", True, source)]
    return found


def terminals(setting: Setting) -> dict[str, Terminal]:
    """The editors that are meant (the chosen one, or all of the workspace on this platform) to their terminals."""
    if setting.editor:
        return {setting.editor.name: terminal_of(setting, dialect_of(setting.editor))}
    found = {}
    for name, editor in (setting.workspace.editors if setting.workspace else {}).items():
        if editor.platform in ("", setting.platform.name):
            dialect = dialect_of(choose_editor(setting.workspace, name))
            found[name] = shipped.terminal(editor.terminal or dialect.description.terminal)
    return found


def stand(
    environment: Environment,
    workspace: Path | None,
    on: str,
    editor: str,
    needs_workspace: bool = True,
    lenient: bool = False,
    layout: str = "",
) -> Stand:
    """The keymap as it stands. Raises InputError; a lenient reader leaves wrong entries out and notes them."""
    setting = find_setting(environment, workspace, on, editor, needs_workspace, layout)
    catalogue, facts = shipped.catalogue(), shipped.facts()
    files = [*shipped.files(), *setting.seat_files]
    layers: list[Layer] = []
    policy = Policy()
    if setting.editor:
        dialect = dialect_of(setting.editor)
        policy = dialect.policy
        layers.append(dialect.default_layer)
        files += [str(path) for path in sorted(loading.folder(setting.dialect).glob("*.toml"))]
    if setting.workspace:
        layers += setting.workspace.load_keymap(catalogue, facts, lenient).layers
        files += [str(setting.workspace.path.resolve()), *(file for layer in layers for file in layer.files)]
    keymap = Keymap(layers)
    return Stand(setting, keymap, catalogue, keymap.space(facts), policy, list(dict.fromkeys(files)))


def views(here: Stand) -> list[View]:
    """The editors of the workspace, each with the keymap on top of its defaults."""
    workspace = here.setting.workspace
    found: list[View] = []
    if workspace is None:
        return found
    for name in workspace.editors:
        dialect = dialect_of(choose_editor(workspace, name))
        layers = [layer for layer in here.keymap.layers if layer.kind != "defaults" and layer.name in _own(here, name)]
        keymap = Keymap([dialect.default_layer, *layers])
        terminal = shipped.terminal(workspace.editors[name].terminal or dialect.description.terminal)
        bindings = narrowed(keymap.in_force(here.setting.platform), terminal)
        decided = decide_all(bindings, here.space, here.catalogue, dialect.policy)
        section = dialect.description.sections[dialect.description.file.default_section]
        found.append(View(name, decided, here.space.states(section)))
    return found


def _own(here: Stand, editor: str) -> list[str]:
    """The layers that are for an editor: all but those adopted from another one."""
    others = set(here.setting.workspace.editors if here.setting.workspace else ()) - {editor}
    return [layer.name for layer in here.keymap.layers if not (layer.kind == "adopted" and layer.name in others)]


def choose_editor(workspace: Workspace | None, name: str) -> Editor:
    """An editor of the workspace, or one that Ombix knows. Raises InputError with the nearest names."""
    editors = workspace.editors if workspace else {}
    known = loading.known()
    if name in editors:
        editor = editors[name]
        if "/" in editor.dialect and workspace is not None:
            return replace(editor, dialect=str((workspace.folder / editor.dialect).resolve()))
        if editor.dialect not in known:
            raise InputError(
                f"the editor {name} has an unknown dialect: {editor.dialect}",
                did_you_mean(editor.dialect, known) or f"Ombix knows {', '.join(known)}.",
                Place(str(workspace.path)) if workspace else None,
            )
        return editor
    if name in known:
        return Editor(name, name)
    names = [*editors, *known]
    raise InputError(f"unknown editor: {name}", did_you_mean(name, names) or f"Known are {', '.join(names)}.")


def dialect_of(editor: Editor) -> Dialect:
    """How an editor writes keymaps, with the commands that the workspace explains. Raises InputError."""
    return loading.dialect(editor.dialect, editor.actions)


def terminal_of(setting: Setting, dialect: Dialect) -> Terminal:
    """The terminal that the editor runs in."""
    name = setting.editor.terminal if setting.editor and setting.editor.terminal else dialect.description.terminal
    return shipped.terminal(name)


def outcome_title(outcome: Outcome, catalogue: Catalogue, keymap: Keymap) -> str:
    """What an outcome is called for people."""
    if isinstance(outcome, Do):
        return catalogue.title(outcome.action)
    if isinstance(outcome, Play):
        macro = keymap.macros.get(outcome.macro)
        return macro.title if macro else outcome.macro
    if isinstance(outcome, Only):
        return f"a command of {outcome.editor}"
    return "Nothing, on purpose"


def keys_with_press(trigger: Trigger, setting: Setting) -> str:
    """Keys as the platform's users write them, and in parentheses how they are pressed on the layout at hand, where that
    is not plain from the keys."""
    shown = setting.platform.show(trigger)
    if not setting.seats or setting.seats[0].is_plain(trigger):
        return shown
    seat = setting.seats[0]
    found = seat.press_sequence(trigger)
    return f"{shown} (no such key)" if isinstance(found, str) else f"{shown} ({seat.show(trigger)})"


def presses_of(trigger: Trigger, setting: Setting) -> list[dict[str, object]]:
    """For each layout at hand how a trigger is pressed, or why it cannot be; for documents."""
    found: list[dict[str, object]] = []
    for seat in setting.seats:
        presses = seat.press_sequence(trigger)
        can = not isinstance(presses, str)
        found.append({
            "layout": seat.layout.name, "title": seat.layout.title, "press": seat.show(trigger) if can else None,
            "why_not": None if can else presses, "plain": seat.is_plain(trigger),
        })  # fmt: skip
    return found
