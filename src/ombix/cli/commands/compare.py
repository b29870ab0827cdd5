"""`ombix compare A B`: two keymaps or editors, decision by decision, over all states at once."""

from dataclasses import dataclass, field
from pathlib import Path

import typer

from ombix.cli.common import Setting, choose_editor, dialect_of, find_setting
from ombix.cli.environment import Environment, Status, environment_of
from ombix.cli.options import JsonOption, PlatformOption, WorkspaceOption
from ombix.core.comparing import Difference, Waiting, compare, waiting
from ombix.core.conditions import ALWAYS, Space
from ombix.core.deciding import Policy, Table, decide_all
from ombix.core.errors import InputError, did_you_mean
from ombix.core.keymap import Keymap, Layer
from ombix.core.keys import Trigger, write
from ombix.core.platforms import Platform
from ombix.core.terminals import Terminal
from ombix.data import shipped
from ombix.dialects import loading
from ombix.dialects.engine import Dialect
from ombix.dialects.porting import narrowed
from ombix.report.plain import Cell, table
from ombix.store import keymaps
from ombix.store.files import read_text


@dataclass
class _Side:
    """One of the two: its layers, and the editor that decides, where there is one."""

    name: str
    layers: list[Layer]
    dialect: Dialect | None = None
    terminal: Terminal | None = None
    sections: list[str] = field(default_factory=list)

    @property
    def policy(self) -> Policy:
        return self.dialect.policy if self.dialect else Policy()


def run(
    context: typer.Context,
    first: str = typer.Argument(metavar="A", help="An editor, a keymap file, or an editor's file."),
    second: str = typer.Argument(metavar="B", help="The other one."),
    editor: str = typer.Option("", "--editor", metavar="NAME", help="The editor whose file A or B is."),
    everything: bool = typer.Option(False, "--all", help="Show what only one of the two binds as well."),
    on: PlatformOption = "",
    workspace: WorkspaceOption = None,
    json: JsonOption = False,
) -> Status:
    """Two keymaps or editors, decision by decision."""
    environment = environment_of(context)
    setting = find_setting(environment, workspace, on, "", needs_workspace=False)
    one, other = (_side(environment, setting, text, editor) for text in (first, second))
    space = _space(one, other)
    decided = [_decisions(side, one.terminal or other.terminal, setting.platform, space) for side in (one, other)]
    within = space.possible
    for side in (one, other):
        if side.sections:
            within = space.both(within, space.union(space.states(text) for text in side.sections))
    found = compare(decided[0], decided[1], space, within)
    waits = waiting(decided[0], decided[1], space, within)
    different = [each for each in found if each.first is not None and each.second is not None]
    lacking = [each for each in found if each.first is None or each.second is None]
    touched = {each.trigger for each in found}
    same = sum(1 for trigger in decided[0] if trigger in decided[1] and trigger not in touched)
    if json:
        environment.json({
            "first": one.name, "second": other.name, "same": same,
            "differences": [_document(each, space) for each in found],
            "waits": [
                {
                    "keys": write(each.trigger), "action": str(each.outcome), "when": space.describe(each.states),
                    "waits": one.name if each.first_waits else other.name,
                }
                for each in waits
            ],
        })  # fmt: skip
    else:
        _print(environment, one, other, same, different, lacking, waits, space, setting.platform, everything)
    return Status.FOUND if found or waits else Status.FINE


def _side(environment: Environment, setting: Setting, text: str, editor: str) -> _Side:
    workspace = setting.workspace
    editors = workspace.editors if workspace else {}
    if text in editors or text in loading.known():
        chosen = choose_editor(workspace, text)
        one = dialect_of(chosen)
        own = (
            workspace.load_keymap(shipped.catalogue(), shipped.facts()).layers if workspace and text in editors else []
        )
        terminal = shipped.terminal(chosen.terminal or one.description.terminal)
        return _Side(text, [one.default_layer, *own], one, terminal, list(one.description.sections.values()))
    path = environment.folder / text
    if not path.exists():
        names = [*editors, *loading.known()]
        raise InputError(
            f"there is no editor and no file {text}", did_you_mean(text, names) or f"Editors are {', '.join(names)}."
        )
    if editor and not text.endswith(keymaps.SUFFIX):
        one = dialect_of(choose_editor(workspace, editor))
        reading = one.read(read_text(path, one.description.file.encodings), text, text)
        layers = [one.default_layer, reading.layer]
        return _Side(
            text, layers, one, shipped.terminal(one.description.terminal), list(one.description.sections.values())
        )
    if not text.endswith(".toml"):
        raise InputError(f"which editor's file is {text}?", "Say --editor NAME; see: ombix editors")
    return _Side(text, keymaps.load(Path(path), shipped.catalogue(), shipped.facts()))


def _space(one: _Side, other: _Side) -> Space:
    """The states of both; what an editor excludes holds in that editor only."""
    facts = shipped.facts()
    for side in (one, other):
        if side.dialect:
            facts = facts.extended(side.dialect.facts, [])
    own = [layer for side in (one, other) for layer in side.layers if layer.kind != "defaults"]
    return Keymap(own).space(facts)


def _decisions(side: _Side, terminal: Terminal | None, platform: Platform, space: Space) -> dict[Trigger, Table]:
    bindings = Keymap(side.layers).in_force(platform)
    return decide_all(narrowed(bindings, terminal) if terminal else bindings, space, shipped.catalogue(), side.policy)


def _print(
    environment: Environment, one: _Side, other: _Side, same: int, different: list[Difference],
    lacking: list[Difference], waits: list[Waiting], space: Space, platform: Platform, everything: bool,
) -> None:  # fmt: skip
    paper = environment.paper
    environment.out(
        f"{one.name} and {other.name} on {platform.title}: {same} keys do the same, {len(different)} decisions differ, "
        f"{len(lacking)} are in one only."
    )
    chosen = [*different, *(lacking if everything else ())]
    if chosen:
        rows: list[list[Cell | str]] = [
            [
                Cell(platform.show(each.trigger), "key"), str(each.first or "not bound"), str(each.second or "not bound"),
                Cell(_when(each.states, space), "quiet"),
            ]
            for each in chosen
        ]  # fmt: skip
        environment.out("", *table(rows, paper, ("keys", one.name, other.name, "when"), 2))
    if waits:
        environment.out("", "The same, but one waits for what may follow")
        later: list[list[Cell | str]] = [
            [
                Cell(platform.show(each.trigger), "key"), str(each.outcome),
                f"waits in {one.name if each.first_waits else other.name}", Cell(_when(each.states, space), "quiet"),
            ]
            for each in waits
        ]  # fmt: skip
        environment.out(*table(later, paper, indent=2))
    if lacking and not everything:
        environment.out("", "What only one of the two binds: --all")


def _when(states: int, space: Space) -> str:
    return "in every state" if states in (ALWAYS, space.possible) else space.describe(states)


def _document(each: Difference, space: Space) -> dict[str, object]:
    return {
        "keys": write(each.trigger), "first": str(each.first) if each.first else None,
        "second": str(each.second) if each.second else None, "when": space.describe(each.states),
        "example": space.example(each.states),
    }  # fmt: skip
