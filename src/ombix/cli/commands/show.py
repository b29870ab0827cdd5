"""`ombix show`: the bindings in force, by kind of work, by key or by layer."""

from collections.abc import Callable

import typer

from ombix.cli.common import Stand, keys_with_press, outcome_title, presses_of, stand
from ombix.cli.environment import Environment, Status, environment_of, shown_place
from ombix.cli.options import EditorOption, JsonOption, LayoutOption, PlatformOption, WorkspaceOption
from ombix.core.deciding import Row
from ombix.core.errors import InputError, did_you_mean
from ombix.core.folding import fold
from ombix.core.keymap import Do, Nothing, Only, Outcome, Play
from ombix.core.keys import Trigger, write
from ombix.core.platforms import Platform
from ombix.data import shipped
from ombix.report.plain import Cell, table, table_rows

_ORDERS = ("work", "key", "layer")


def run(
    context: typer.Context,
    by: str = typer.Option("work", "--by", metavar="ORDER", help="work, key or layer."),
    own: bool = typer.Option(False, "--own", help="Only the keymap's own bindings, no editor's defaults."),
    unbound: bool = typer.Option(False, "--unbound", help="The actions that have no keys."),
    platforms: bool = typer.Option(False, "--platforms", help="The keys on all platforms side by side."),
    differing: bool = typer.Option(False, "--differing", help="With --platforms: only what differs."),
    editor: EditorOption = "",
    on: PlatformOption = "",
    layout: LayoutOption = "",
    workspace: WorkspaceOption = None,
    json: JsonOption = False,
) -> Status:
    """The bindings in force, by kind of work, by key or by layer."""
    environment = environment_of(context)
    if by not in _ORDERS:
        raise InputError(f"unknown order: {by}", did_you_mean(by, _ORDERS) or f"Orders are {', '.join(_ORDERS)}.")
    if differing and not platforms:
        raise InputError("--differing goes with --platforms", "Say ombix show --platforms --differing.")
    here = stand(environment, workspace, on, editor, needs_workspace=not editor, layout=layout)
    if platforms:
        return _side_by_side(environment, here, own, differing, json)
    rows = [row for found in here.tables.values() for row in found.rows]
    if own:
        rows = [row for row in rows if not row.binding.layer.endswith(" defaults")]
    if unbound:
        return _unbound(environment, here, rows, json)
    if json:
        environment.json({"platform": here.setting.platform.name, "bindings": [_entry(row, here) for row in rows]})
        return Status.FINE
    if not rows:
        environment.say("Nothing is bound. Bind something with: ombix bind ACTION KEYS")
        return Status.FINE
    group = _grouping(by, here)
    groups: dict[str, list[Row]] = {}
    for row in rows:
        groups.setdefault(group(row), []).append(row)
    order = [*here.catalogue.domains.values()]
    names = (
        sorted(groups, key=lambda name: order.index(name) if name in order else len(order)) if by == "work" else groups
    )
    lines: list[list[Cell | str]] = []
    starts: dict[int, str] = {}
    has_defaults = bool(editor)
    for name in names:
        starts[len(lines)] = name
        members = groups[name]
        if by == "key":
            members = sorted(members, key=_key_order)
        lines += [_line(row, here, environment, has_defaults) for row in members]
    # One table, so that the columns of all groups stand below each other.
    printed = table_rows(lines, environment.paper, indent=2)
    for index, text in enumerate(printed):
        if index in starts:
            if index:
                environment.out("")
            environment.out(environment.paper.style(starts[index], "strong"))
        environment.out(*text)
    return Status.FINE


def _grouping(by: str, here: Stand) -> Callable[[Row], str]:
    if by == "layer":
        return lambda row: row.binding.layer
    if by == "key":
        return lambda row: _kind_of_key(row)

    def work(row: Row) -> str:
        outcome = row.binding.outcome
        if isinstance(outcome, Do):
            domain = outcome.action.partition(".")[0]
            return here.catalogue.domains.get(domain, domain)
        return {Play: "Macros", Only: "Commands that only one editor has"}.get(type(outcome), "Keys taken away")

    return work


def _key_order(row: Row) -> tuple[int, str, int]:
    """By length, then by key; F9 comes before F10."""
    trigger = row.binding.trigger
    key = trigger[-1].key
    letters = key.rstrip("0123456789")
    number = key[len(letters) :]
    return (len(trigger), letters, int(number)) if letters and number else (len(trigger), key, 0)


def _kind_of_key(row: Row) -> str:
    trigger = row.binding.trigger
    if len(trigger) > 1:
        return "Sequences"
    names = write((trigger[0],)).split("+")
    return "With " + "+".join(names[:-1]) if len(names) > 1 and trigger[0].modifiers else "Keys alone"


def _line(row: Row, here: Stand, environment: Environment, has_defaults: bool) -> list[Cell | str]:
    when = here.when(row)
    outcome = row.binding.outcome
    title = outcome_title(outcome, here.catalogue, here.keymap)
    what = title if isinstance(outcome, Do | Nothing | Play) else f"{outcome}"
    default = row.binding.layer.endswith(" defaults")
    cells: list[Cell | str] = [
        Cell(keys_with_press(row.binding.trigger, here.setting), "key"),
        Cell(what, "quiet" if default else ""),
        Cell("" if when in ("always", "pane is text") else when, "quiet"),
    ]
    if has_defaults:
        cells.append(Cell("default" if default else shown_place(row.binding.place, environment), "quiet"))
    return cells


def _side_by_side(environment: Environment, here: Stand, own: bool, differing: bool, json: bool) -> Status:
    """What is bound on each platform, a row for each action and condition."""
    names = sorted(shipped.platform_names(), key=lambda name: (name != here.setting.platform.name, name))
    on = [shipped.platform(name) for name in names]
    rows: dict[tuple[Outcome, str], dict[str, list[Trigger]]] = {}
    for platform in on:
        for binding in here.keymap.in_force(platform):
            if isinstance(binding.outcome, Nothing) or (own and binding.layer.endswith(" defaults")):
                continue
            keys = rows.setdefault((binding.outcome, binding.where), {}).setdefault(platform.name, [])
            if binding.trigger not in keys:
                keys.append(binding.trigger)
    chosen = {key: found for key, found in rows.items() if not differing or _is_platform_bound(found, on)}
    if json:
        environment.json({
            "platforms": names,
            "bindings": [
                {
                    "does": str(outcome), "title": outcome_title(outcome, here.catalogue, here.keymap), "when": where,
                    "keys": {name: [write(trigger) for trigger in found.get(name, [])] for name in names},
                }
                for (outcome, where), found in chosen.items()
            ],
        })  # fmt: skip
        return Status.FINE
    lines: list[list[Cell | str]] = [
        [
            Cell(outcome_title(outcome, here.catalogue, here.keymap), ""),
            *(Cell(", ".join(map(platform.show, found.get(platform.name, []))) or "no keys", "key") for platform in on),
            Cell("" if where in ("always", "pane is text") else where, "quiet"),
        ]
        for (outcome, where), found in chosen.items()
    ]
    if not lines:
        environment.say("Nothing is bound." if not rows else "Every binding follows from one definition.")
        return Status.FINE
    environment.out(*table(lines, environment.paper, ("what it does", *(platform.title for platform in on), "when")))
    return Status.FINE


def _is_platform_bound(keys: dict[str, list[Trigger]], platforms: list[Platform]) -> bool:
    """Whether the keys on the platforms are not those of one definition with Mod."""
    return bool(fold({platform.name: keys.get(platform.name, []) for platform in platforms}, platforms).exceptions)


def _unbound(environment: Environment, here: Stand, rows: list[Row], json: bool) -> Status:
    bound = {row.binding.outcome.action for row in rows if isinstance(row.binding.outcome, Do)}
    actions = [action for action in here.catalogue.actions.values() if action.name not in bound]
    if here.setting.editor:
        from ombix.dialects.loading import dialect

        known = dialect(here.setting.dialect).by_action
        actions = [action for action in actions if action.name in known]
    if json:
        environment.json({"unbound": [{"action": action.name, "title": action.title} for action in actions]})
        return Status.FINE
    environment.out(*table([[Cell(action.name, "strong"), action.title] for action in actions], environment.paper))
    return Status.FINE


def _entry(row: Row, here: Stand) -> dict[str, object]:
    binding = row.binding
    return {
        "keys": write(binding.trigger), "shown": here.setting.platform.show(binding.trigger),
        "presses": presses_of(binding.trigger, here.setting),
        "does": str(binding.outcome), "title": outcome_title(binding.outcome, here.catalogue, here.keymap),
        "when": here.when(row), "layer": binding.layer, "why": binding.why,
        "file": binding.place.file, "line": binding.place.line, "column": binding.place.column,
    }  # fmt: skip
