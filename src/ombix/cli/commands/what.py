"""`ombix what KEYS`: what happens when these keys are pressed, and why; what may follow."""

from pathlib import Path
from typing import Any

import typer

from ombix.cli.environment import Environment, Status, environment_of, shown_place
from ombix.cli.options import (
    ConditionOption,
    EditorOption,
    JsonOption,
    LayoutOption,
    PlatformOption,
    WorkspaceOption,
)
from ombix.cli.quick import decisions
from ombix.core.errors import Place
from ombix.core.keys import Trigger, parse, write
from ombix.core.platforms import Platform, platform
from ombix.report.plain import Cell, table


def run(
    context: typer.Context,
    keys: list[str] = typer.Argument(metavar="KEYS", help="Keys, like Ctrl+Shift+K or Space o f."),
    condition: ConditionOption = "",
    editor: EditorOption = "",
    on: PlatformOption = "",
    layout: LayoutOption = "",
    workspace: WorkspaceOption = None,
    json: JsonOption = False,
) -> Status:
    """What happens when I press this, and why; what may follow."""
    environment = environment_of(context)
    found = decisions(environment, workspace, on, editor, layout)
    here = platform(found["platform"]["name"], found["platform"])
    asked = trigger = here.resolve(parse(" ".join(keys)))
    triggers = found["triggers"]
    presses = found["presses"].get(write(trigger), [])
    if found["layouts"] and write(trigger) not in triggers:
        from ombix.cli.common import find_setting, presses_of

        setting = find_setting(environment, workspace, on, editor, not editor, layout)
        trigger = setting.seats[0].typed_all(trigger)
        presses = [one for one in presses_of(trigger, setting) if not one["plain"]]
    text = write(trigger)
    rows = triggers.get(text, [])
    out_of_it: list[list[Any]] = []
    if condition:
        rows, out_of_it = _within(condition, trigger, environment, workspace, on, editor, layout)
    following = {keys: rows for keys, rows in triggers.items() if keys.startswith(text + " ")}
    starts = [write(trigger[:length]) for length in range(1, len(trigger))]
    before = {keys: triggers[keys] for keys in starts if keys in triggers}
    if json:
        environment.json(_document(text, here, rows, following, before, out_of_it, presses))
    else:
        if trigger != asked:
            environment.out(f"{here.show(asked)} is {here.show(trigger)} on the layout {found['layouts'][0]}.")
        _print(environment, trigger, here, rows, following, before, found, condition, out_of_it, presses)
    return Status.FINE if rows or following else Status.FOUND


def _within(
    condition: str,
    trigger: Trigger,
    environment: Environment,
    workspace: Path | None,
    on: str,
    editor: str,
    layout: str,
) -> tuple[list[list[Any]], list[list[Any]]]:
    """The rows of the decision for the states of one condition only, and the bindings whose own condition is true in
    none of them."""
    from ombix.cli.common import stand
    from ombix.cli.quick import row_of
    from ombix.core.conditions import NEVER
    from ombix.core.errors import InputError
    from ombix.core.keymap import effective_states

    here = stand(environment, workspace, on, editor, needs_workspace=not editor, layout=layout)
    within = here.space.states(condition)
    if within == NEVER:
        raise InputError("no state of an editor fulfils this condition", "", None, condition, len(condition))
    found = here.tables.get(trigger)
    parts = [(here.space.both(row.states, within), row) for row in found.rows] if found else []
    bound = [*(row.binding for row in found.rows), *found.losers] if found else []
    outside = [
        [str(one.outcome), one.place.file, one.place.line, one.place.column, one.layer, one.where]
        for one in bound
        if not here.space.overlap(within, effective_states(one, here.space, here.catalogue))
    ]
    return [row_of(row, here, states) for states, row in parts if states != NEVER], outside


def _print(
    environment: Environment, trigger: Trigger, here: Platform, rows: list[list[Any]],
    following: dict[str, list[list[Any]]], before: dict[str, list[list[Any]]], found: dict[str, Any],
    condition: str, out_of_it: list[list[Any]], presses: list[dict[str, Any]],
) -> None:  # fmt: skip
    paper = environment.paper
    shown = here.show_with_portable(trigger)
    how = [
        [
            Cell(
                f"On the layout {one['title']}: {one['press']}"
                if one["press"]
                else f"Not to be pressed: {one['why_not']}"
            )
        ]
        for one in presses
    ]
    if rows:
        environment.out(f"{paper.style(shown, 'key')} on {here.title}")
        environment.out(*table(how, paper, indent=2))
        lines = [
            [Cell(_state(row[0])), Cell(row[2], "strong"), row[1], Cell(_place(environment, *row[4:7]), "quiet")]
            for row in rows
        ]
        environment.out(*table(lines, paper, ("when", "does", "action", "bound in"), 2))
        notes = []
        for _when, does, _title, kind, _file, line, _column, layer, why, beaten in rows:
            if kind == "nothing" and why:
                notes.append(f"Taken away on purpose: {why}")
            for other, *place, other_layer in beaten:
                order = "earlier" if place[1] < line else "later"
                where = f", {order} in the same layer" if other_layer == layer else f", in the layer {other_layer}"
                where = "" if place[0] == other_layer else where
                notes.append(f"{does} beats {other} ({_place(environment, *place)}{where})")
        for other, *place, _layer, where in out_of_it:
            reason = f"its condition is {where}" if where != "always" else "what it needs is not there"
            notes.append(f"{other} does not apply ({_place(environment, *place)}): {reason}")
        if notes:
            environment.out("", *(line for note in notes for line in table([[note]], paper, indent=2)))
    elif not following:
        when = f" when {condition}" if condition else ""
        is_bound = write(trigger) in found["triggers"] and not condition
        state = "is bound, but never comes into force" if is_bound else "is not bound"
        environment.out(f"{paper.style(shown, 'key')} {state} on {here.title}{when}.")
        environment.out(*table(how, paper, indent=2))
        near = [] if condition or is_bound else _near(trigger, found["triggers"])
        if near:
            environment.out(*table([[f"Bound nearby: {', '.join(near)}"]], paper, indent=2))
    else:
        environment.out(f"{paper.style(shown, 'key')} does nothing of its own.", *table(how, paper, indent=2))
    fires = found["prefix"] == "fires"
    for keys, others in before.items():
        for other in others:
            if fires:
                text = f"{keys} alone runs {other[1]} at once, where that is bound, and the rest is not reached."
                environment.out(*table([[Cell(text, "warn")]], paper, indent=2))
    if rows and following:
        wait = (
            f"for {found['wait_ms']} ms" if found["prefix"] == "timed" else "until they come or another key is pressed"
        )
        text = (
            "It fires at once: what follows is not reached."
            if fires
            else f"It waits {wait}, where more keys may follow."
        )
        environment.out(*table([[Cell(text, "warn")]], paper, indent=2))
    if following:
        environment.out("", "After it may follow")
        more = [
            [Cell(here.show(parse(keys)[len(trigger) :]), "key"), row[2], Cell(row[1], "quiet")]
            for keys, others in following.items()
            for row in others
        ]
        environment.out(*table(more, paper, indent=2))


def _place(environment: Environment, file: str, line: int, column: int) -> str:
    return shown_place(Place(file, line, column), environment)


def _state(when: str) -> str:
    return "in every state" if when == "always" else when


def _near(trigger: Trigger, triggers: dict[str, Any]) -> list[str]:
    from ombix.core.errors import nearest

    key = trigger[-1].key
    same = [text for text in triggers if len(parse(text)) == len(trigger) and parse(text)[-1].key == key]
    return same[:5] or nearest(write(trigger), list(triggers), 3, 75)


def _document(
    text: str, here: Platform, rows: list[list[Any]], following: dict[str, list[list[Any]]],
    before: dict[str, list[list[Any]]], out_of_it: list[list[Any]], presses: list[dict[str, Any]],
) -> dict[str, object]:  # fmt: skip
    def entry(keys: str, row: list[Any]) -> dict[str, object]:
        when, does, title, kind, file, line, column, layer, why, beaten = row
        return {
            "keys": keys, "when": when, "does": does, "title": title, "kind": kind, "layer": layer, "why": why,
            "file": file, "line": line, "column": column,
            "beats": [dict(zip(("does", "file", "line", "column", "layer"), one, strict=True)) for one in beaten],
        }  # fmt: skip

    return {
        "keys": text,
        "shown": here.show(parse(text)),
        "platform": here.name,
        "presses": presses,
        "decisions": [entry(text, row) for row in rows],
        "follows": [entry(keys, row) for keys, others in following.items() for row in others],
        "before": [entry(keys, row) for keys, others in before.items() for row in others],
        "not_applying": [
            dict(zip(("does", "file", "line", "column", "layer", "where"), one, strict=True)) for one in out_of_it
        ],
    }
