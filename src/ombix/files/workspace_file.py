"""The workspace file: which keymap, which layers below it, which layout, and which editors it is for."""

import re
from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import Any, NamedTuple, TypeVar

from msgspec import Struct
from msgspec.structs import replace

from ombix.core.audit import SEVERITIES, all_rules
from ombix.core.conditions import Fact
from ombix.core.errors import InputError, NotationError, Place, did_you_mean
from ombix.core.keymap.bindings import Layer, Unsettled
from ombix.core.keys.notation import Trigger, parse
from ombix.core.toml import Document
from ombix.core.usage.counts import COLUMNS
from ombix.core.usage.key_assignment import MOST_WEIGHT, WEIGHTS
from ombix.data.shipped import Shipped
from ombix.files import keymap_reading, open_conflicts
from ombix.files.disk import Files, absolute
from ombix.files.machines import WorkspaceMachine, machine

FILE_NAME = "ombix.toml"
FORMAT = 1
_NAME = re.compile(r"\w[\w.-]{0,63}")
"""What an editor may be called: its ports are in a folder with that name."""
_TOP = (
    "format",
    "keymap",
    "layers",
    "platform",
    "layout",
    "keyboard",
    "desktop",
    "reserved",
    "editor",
    "fact",
    "severity",
    "use",
    "machine",
    "conflict",
)
_EDITOR = ("dialect", "version", "platform", "terminal", "file", "careful", "actions")


class WorkspaceEditor(Struct, frozen=True):
    """An editor of the workspace, or one that Ombix knows. `dialect` is a name, or the absolute path of a description."""

    name: str
    dialect: str
    platform: str = ""
    terminal: str = ""
    file: str = ""
    actions: tuple[tuple[str, str], ...] = ()
    """Commands that Ombix does not know, or knows as something else, each with the action that it stands for."""
    place: Place | None = None
    """Where it stands in the workspace."""
    version: str = ""
    """Which version it is, where that is said."""
    careful: bool = False
    """Whether what can lose text, or mostly makes another text, is written into its file."""


class ReservedChord(NamedTuple):
    """A chord that something of the user's own takes: what it does, and on which platform (none named: on all)."""

    trigger: Trigger
    does: str
    platform: str


class WorkspaceFile(Struct, frozen=True):
    """A workspace that was read. Names of files are relative to its folder."""

    path: Path
    keymap: str
    layers: tuple[str, ...] = ()
    platform: str = ""
    layouts: dict[str, tuple[str, ...]] = {}
    """Platform to the layouts that are used there, the one at hand first; under "" those for all platforms."""
    keyboards: dict[str, str] = {}
    """Platform to the keyboard; under "" that for all platforms."""
    desktop: str = ""
    reserved: tuple[ReservedChord, ...] = ()
    editors: dict[str, WorkspaceEditor] = {}
    facts: tuple[Fact, ...] = ()
    """Facts of its own, and those that it gives more values."""
    unsettled: tuple[Unsettled, ...] = ()
    """What a merge left open in the file."""
    severities: dict[str, str] = {}
    """Rule to how bad its findings are here: error, warning, note, or off."""
    use_columns: dict[str, str] = {}
    """What a column of a table of use is, to its name there."""
    weights: dict[str, float] = {}
    """What counts how much where better keys are looked for."""
    machines: dict[str, WorkspaceMachine] = {}
    at: str = ""
    """The machine that this is the workspace on; empty for none."""
    problems: tuple[InputError, ...] = ()
    """What was wrong in the file, and left out, where the reader was told to go on."""

    def machine_here(self) -> str:
        """The machine that Ombix runs on, where it is one of those named; empty for another."""
        return next((name for name, one in self.machines.items() if one.is_here), "")

    def on_machine(self, machine: WorkspaceMachine) -> "WorkspaceFile":
        """The workspace as it is on a machine."""
        platform = machine.platform or self.platform
        is_same = platform == self.platform
        layouts = machine.layouts or self.layouts.get(platform, self.layouts.get("", ()))
        keyboard = machine.keyboard or self.keyboard_on(platform)
        editors = {
            name: replace(
                one, platform=one.platform or platform, terminal=machine.terminal or one.terminal,
                version=machine.versions.get(name, one.version),
            )
            for name, one in self.editors.items()
            if (not machine.editors or name in machine.editors) and one.platform in ("", platform)
        }  # fmt: skip
        return replace(
            self, platform=platform, layouts={"": layouts} if layouts else {}, keyboards={"": keyboard} if keyboard else {},
            desktop=machine.desktop or (self.desktop if is_same else ""), editors=editors, at=machine.name,
        )  # fmt: skip

    def layouts_on(self, platform: str) -> tuple[str, ...]:
        """The layouts that are used on a platform, the one at hand first, then those of the machines that have this platform."""
        own = self.layouts.get(platform, self.layouts.get("", ()))
        machines = (one for one in self.machines.values() if (one.platform or self.platform) == platform)
        others = [layout for machine in machines for layout in machine.layouts]
        return tuple(dict.fromkeys((*own, *others)))

    def keyboard_on(self, platform: str) -> str:
        """The keyboard that is used on a platform; an empty text where none is named."""
        return self.keyboards.get(platform, self.keyboards.get("", ""))

    @property
    def folder(self) -> Path:
        """The folder that the workspace file stands in."""
        return self.path.parent

    @property
    def keymap_path(self) -> Path:
        """The keymap file."""
        return self.folder / self.keymap

    def load_layers(self, files: Files, shipped: Shipped, lenient: bool = False) -> list[Layer]:
        """The layers of the workspace, the lowest first. Raises InputError."""
        catalogue, facts = shipped.catalogue(), shipped.facts()
        layers: list[Layer] = []
        for name in self.layers:
            layers.extend(keymap_reading.load(self.folder / name, catalogue, facts, files, "adopted", lenient))
        layers.extend(keymap_reading.load(self.keymap_path, catalogue, facts, files, lenient=lenient))
        return [self._quoting_own_lines(layer) for layer in layers]

    def _quoting_own_lines(self, layer: Layer) -> Layer:
        """A layer whose faults quote lines of the workspace's folder only: a workspace that somebody else wrote can name any file
        of its user's as a keymap, and what stands there is not to come into a log."""
        if not layer.problems or Path(layer.name.id).resolve().is_relative_to(self.folder.resolve()):
            return layer
        return replace(
            layer, problems=[InputError(problem.what, str(problem.advice), problem.place) for problem in layer.problems]
        )


def find(start: Path, given: Path | None = None) -> Path:
    """The workspace file: the given one (from `start` on), or the nearest above. Raises InputError when there is none."""
    if given is not None:
        given = start / given
        return given / FILE_NAME if given.is_dir() else given
    for folder in (start, *start.parents):
        if (folder / FILE_NAME).is_file():
            return folder / FILE_NAME
    raise InputError(
        f"there is no {FILE_NAME} here or in a folder above", "Start a workspace with: ombix init", Place(str(start))
    )


def load(path: Path, files: Files, shipped: Shipped, lenient: bool = False) -> WorkspaceFile:
    """Read a workspace file. Raises InputError with the place of the first fault; a lenient reader leaves out what is wrong, where
    anything is left then, and notes it in the workspace's `problems`."""
    return read(files.read_text(path), path, files, shipped, lenient)


def read(text: str, path: Path, files: Files, shipped: Shipped, lenient: bool = False) -> WorkspaceFile:
    """Read the text of a workspace file; see `load`."""
    document = Document(text, absolute(path), recover=lenient)
    return _WorkspaceReader(document, Path(absolute(path)), files, shipped, lenient).read()


_Part = TypeVar("_Part")


class _WorkspaceReader:
    def __init__(self, document: Document, path: Path, files: Files, shipped: Shipped, lenient: bool) -> None:
        self.lenient = lenient
        self.problems: list[InputError] = list(document.errors)
        self.document = document
        self.path = path
        self.files = files
        self.shipped = shipped

    def read(self) -> WorkspaceFile:
        document, table = self.document, self.document.table
        self._part(lambda: self._check_keys(table, _TOP), None)
        if table.get("format") != FORMAT:
            raise document.error(
                "the format is missing or not known", f"Begin the file with format = {FORMAT}.",
                *(("format",) if "format" in table else ()),
            )  # fmt: skip
        if not isinstance(table.get("keymap"), str):
            raise document.error("the keymap is missing", 'Write keymap = "crew.keys.toml".', "keymap")
        plain: tuple[dict[str, str], dict[str, float]] = ({}, {})
        use = self._part(self._use, plain)
        found = WorkspaceFile(
            self.path, table["keymap"], self._part(self._layers, ()), self._part(lambda: self._named("platform"), ""),
            self._part(self._layouts, {}), self._part(self._keyboards, {}), self._part(lambda: self._named("desktop"), ""),
            self._part(self._reserved, ()), self._part(self._editors, {}), self._part(self._facts, ()),
            self._part(self._unsettled, ()), self._part(self._severities, {}), *use, self._part(self._machines, {}),
        )  # fmt: skip
        return replace(found, problems=tuple(self.problems))

    def _part(self, read: Callable[[], _Part], without: _Part) -> _Part:
        """A part of the file; in a lenient reader what is wrong is noted, and the part left out."""
        try:
            return read()
        except InputError as error:
            if not self.lenient:
                raise
            self.problems.append(error)
            return without

    def _layers(self) -> tuple[str, ...]:
        layers = self.document.table.get("layers", [])
        if not isinstance(layers, list) or not all(isinstance(name, str) for name in layers):
            raise self.document.error(
                "layers takes a list of file names", 'Write layers = ["desk.keys.toml"].', "layers"
            )
        return tuple(layers)

    def _named(self, key: str) -> str:
        """The name of a platform or a desktop."""
        value = self.document.table.get(key, "")
        if not isinstance(value, str):
            raise self.document.error(f"{key} takes a name", f'Write {key} = "…".', key)
        known = self.shipped.platform_names() if key == "platform" else self.shipped.desktop_names()
        self._check_name(key, value, known, key)
        return value

    def _editors(self) -> dict[str, WorkspaceEditor]:
        rows = self.document.table.get("editor", {})
        if not isinstance(rows, dict):
            raise self.document.error("editor is not a table", "Write [editor.pier].", "editor")
        found = {name: self._part(partial(self._editor, name, row), None) for name, row in rows.items()}
        return {name: editor for name, editor in found.items() if editor is not None}

    def _machines(self) -> dict[str, WorkspaceMachine]:
        document = self.document
        rows = document.table.get("machine", {})
        if not isinstance(rows, dict):
            raise document.error("machine is not a table", "Write [machine.laptop].", "machine")
        found = {}
        for name, row in rows.items():
            one = machine(document, name, row, list(document.table.get("editor", {})))
            self._check_platform(one.platform, "machine", name, "platform")
            self._check_name("desktop", one.desktop, self.shipped.desktop_names(), "machine", name, "desktop")
            self._check_name("keyboard", one.keyboard, self.shipped.keyboard_names(), "machine", name, "keyboard")
            self._check_name("terminal", one.terminal, self.shipped.terminal_names(), "machine", name, "terminal")
            for layout in one.layouts:
                self._check_layout(layout, "machine", name, "layout")
            found[name] = one
        return found

    def _check_layout(self, name: str, *path: str) -> None:
        if "." not in name and "/" not in name and not self.files.is_file(self.path.parent / name):
            self._check_name("layout", name, self.shipped.layout_names(), *path)

    def _severities(self) -> dict[str, str]:
        rows = self.document.table.get("severity", {})
        if not isinstance(rows, dict):
            raise self.document.error("severity is not a table", "Write [severity].", "severity")
        known, rules = (*SEVERITIES, "off"), list(all_rules()) if rows else []
        for name, value in rows.items():
            if name not in rules:
                raise self.document.error(f"unknown rule: {name}", did_you_mean(name, rules), "severity", name)
            if value not in known:
                raise self.document.error(
                    f"unknown severity: {value}", f"Severities are {', '.join(known)}.", "severity", name
                )
        return {str(name): str(value) for name, value in rows.items()}

    def _use(self) -> tuple[dict[str, str], dict[str, float]]:
        """What the columns of tables of use are, and what counts how much for better keys."""
        table = self.document.table.get("use", {})
        if not isinstance(table, dict):
            raise self.document.error("use is not a table", "Write [use.columns].", "use")
        self._check_keys(table, ("columns", "weights"), "use")
        columns, weights = table.get("columns", {}), table.get("weights", {})
        for name, rows, known in (("columns", columns, COLUMNS), ("weights", weights, tuple(WEIGHTS))):
            if not isinstance(rows, dict):
                raise self.document.error(f"{name} is not a table", f"Write [use.{name}].", "use", name)
            self._check_keys(rows, known, "use", name)
        for name, value in columns.items():
            if not isinstance(value, str):
                raise self.document.error(
                    "the name of a column is a text", "Write it in quotes.", "use", "columns", name
                )
        for name, value in weights.items():
            if isinstance(value, bool) or not isinstance(value, int | float) or not 0 <= value <= MOST_WEIGHT:
                raise self.document.error(
                    f"a weight is a number from 0 to {MOST_WEIGHT}", "1 is as it is by itself.", "use", "weights", name
                )
        return dict(columns), {name: float(value) for name, value in weights.items()}

    def _unsettled(self) -> tuple[Unsettled, ...]:
        rows = self.document.table.get(open_conflicts.TABLE, [])
        if not isinstance(rows, list) or not all(isinstance(row, dict) for row in rows):
            raise self.document.error("conflict takes a list of tables", "Write [[conflict]].", open_conflicts.TABLE)
        return tuple(open_conflicts.unsettled(self.document, row, index) for index, row in enumerate(rows))

    def _facts(self) -> tuple[Fact, ...]:
        rows = self.document.table.get("fact", {})
        if not isinstance(rows, dict):
            raise self.document.error("fact is not a table", "Write [fact.pane].", "fact")
        found: list[Fact] = []
        for name, row in rows.items():
            fact = keymap_reading.read_fact(self.document, name, row)
            try:
                self.shipped.facts().extended([*found, fact], [])
            except ValueError as error:
                raise self.document.error(str(error), "Choose another name.", "fact", name) from None
            found.append(fact)
        return tuple(found)

    def _by_platform(self, key: str) -> dict[str, Any]:
        """A value for all platforms (under an empty name), or a table of values by platform."""
        value = self.document.table.get(key)
        if value is None:
            return {}
        if not isinstance(value, dict):
            return {"": value}
        for name in value:
            self._check_platform(name, key, name)
        return value

    def _layouts(self) -> dict[str, tuple[str, ...]]:
        found: dict[str, tuple[str, ...]] = {}
        for platform, value in self._by_platform("layout").items():
            path = ("layout", platform) if platform else ("layout",)
            names = [value] if isinstance(value, str) else value
            if not isinstance(names, list) or not names or not all(isinstance(name, str) for name in names):
                raise self.document.error(
                    "layout takes a name, or a list of names", 'Write layout = ["de", "us"].', *path
                )
            for name in names:
                self._check_layout(name, *path)
            found[platform] = tuple(names)
        return found

    def _keyboards(self) -> dict[str, str]:
        found: dict[str, str] = {}
        for platform, name in self._by_platform("keyboard").items():
            path = ("keyboard", platform) if platform else ("keyboard",)
            if not isinstance(name, str):
                raise self.document.error("keyboard takes a name", 'Write keyboard = "laptop".', *path)
            self._check_name("keyboard", name, self.shipped.keyboard_names(), *path)
            found[platform] = name
        return found

    def _reserved(self) -> tuple[ReservedChord, ...]:
        document = self.document
        rows = document.table.get("reserved", {})
        if not isinstance(rows, dict):
            raise document.error("reserved is not a table", "Write [reserved].", "reserved")
        found = []
        for keys, value in rows.items():
            path = ("reserved", keys)
            row = {"does": value} if isinstance(value, str) else value
            is_row = isinstance(row, dict) and isinstance(row.get("does"), str) and isinstance(row.get("on", ""), str)
            if not is_row:
                raise document.error(
                    "a reserved chord takes what it does", 'Write "Ctrl+Alt+J" = "start the clock".', *path
                )
            self._check_keys(row, ("does", "on"), *path)
            self._check_platform(row.get("on", ""), *path)
            try:
                trigger = parse(keys)
            except NotationError as error:
                raise document.error_in_text(error.what, error.advice, keys, error.start, error.end, *path) from None
            if len(trigger) > 1:
                raise document.error("a reserved chord is one chord", "Write each on a line of its own.", *path)
            found.append(ReservedChord(trigger, row["does"], row.get("on", "")))
        return tuple(found)

    def _editor(self, name: str, row: Any) -> WorkspaceEditor:
        document, path = self.document, ("editor", name)
        if not _NAME.fullmatch(name):
            raise document.error(
                f"{name} is no name for an editor", "Use letters, digits, points, hyphens and underlines.", *path
            )
        if not isinstance(row, dict):
            raise document.error(f"the editor {name} is not a table", f"Write [editor.{name}].", *path)
        self._check_keys(row, _EDITOR, *path)
        actions = row.get("actions", {})
        if not isinstance(actions, dict):
            raise document.error("actions is not a table", 'Write actions = { "command" = "line.copy-down" }.', *path)
        known = list(self.shipped.catalogue().actions) if actions else []
        for command, action in actions.items():
            if action not in known:
                advice = did_you_mean(str(action), known)
                raise document.error(f"unknown action: {action}", advice, *path, "actions", command)
        row = {key: value for key, value in row.items() if key != "actions"}
        for key, value in row.items():
            if key == "careful" and not isinstance(value, bool):
                raise document.error("careful takes true or false", "Write careful = true.", *path, key)
            if key != "careful" and not isinstance(value, str):
                raise document.error(f"{key} takes a text", "Write it in quotes.", *path, key)
        if "dialect" not in row:
            raise document.error("the dialect is missing", 'Write dialect = "nano".', *path)
        self._check_platform(row.get("platform", ""), *path, "platform")
        if "/" in row["dialect"]:
            row["dialect"] = absolute(self.path.parent / Path(row["dialect"]).expanduser())
        return WorkspaceEditor(name, actions=tuple(actions.items()), place=document.place(*path), **row)

    def _check_platform(self, platform: str, *path: str) -> None:
        self._check_name("platform", platform, self.shipped.platform_names(), *path)

    def _check_name(self, kind: str, name: str, known: list[str], *path: str) -> None:
        if name and name not in known:
            raise self.document.error(
                f"unknown {kind}: {name}", did_you_mean(name, known) or f"Known are {', '.join(known)}.", *path
            )

    def _check_keys(self, table: dict[str, Any], allowed: tuple[str, ...], *path: str) -> None:
        for key in table:
            if key not in allowed:
                raise self.document.error(
                    f"unknown key: {key}", did_you_mean(key, list(allowed)) or f"Known are {', '.join(allowed)}.",
                    *path, key,
                )  # fmt: skip
