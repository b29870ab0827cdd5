"""The short way to a look-up: nothing is read or imported that the cache already holds.

`decisions` has `platform` (its data), `prefix` and `wait_ms` (how sequences are decided), `layouts` (the titles of those at
hand), `presses` (canonical keys to how they are pressed on each layout, where that is not plain from the keys), and
`triggers`: canonical keys to the rows of the complete decision. A row is [when, outcome, title, kind, file, line, column,
layer, why, beaten]; `beaten` lists [outcome, file, line, column, layer]. `actions` has `platform` and rows [name, title,
sentence, words, keys]; `keys` lists [canonical keys, condition, as they are shown].
"""

import os
from pathlib import Path
from typing import TYPE_CHECKING, Any

from ombix.cli.environment import Environment
from ombix.store.lookup import keep, recall

if TYPE_CHECKING:
    from ombix.cli.common import Stand
    from ombix.core.deciding import Row


def decisions(environment: Environment, workspace: Path | None, on: str, editor: str, layout: str) -> dict[str, Any]:
    """The complete decisions that the options ask for. Raises InputError."""
    return _find("decisions", environment, workspace, on, editor, layout)


def actions(environment: Environment, workspace: Path | None, on: str, editor: str, layout: str) -> dict[str, Any]:
    """All actions with their keys. Raises InputError."""
    return _find("actions", environment, workspace, on, editor, layout)


def _find(
    part: str, environment: Environment, workspace: Path | None, on: str, editor: str, layout: str
) -> dict[str, Any]:
    path = _workspace_file(str(environment.folder), workspace)
    key = "\0".join(
        (os.path.realpath(path) if path else "", on, editor, layout, str(environment.folder) if layout else "")
    )
    content = recall(part, key, environment.cache_folder)
    if content is None:
        made, files = _make(environment, workspace, on, editor, layout)
        for name, one in made.items():
            keep(name, key, one, files, environment.cache_folder)
        content = made[part]
    return content


def _workspace_file(folder: str, given: Path | None) -> str:
    if given is not None:
        return str(given / "ombix.toml" if given.is_dir() else given)
    while True:
        candidate = os.path.join(folder, "ombix.toml")  # noqa: PTH118
        if os.path.exists(candidate):  # noqa: PTH110
            return candidate
        above = os.path.dirname(folder)  # noqa: PTH120
        if above == folder:
            return ""
        folder = above


def _make(
    environment: Environment, workspace: Path | None, on: str, editor: str, layout: str
) -> tuple[dict[str, dict[str, Any]], list[str]]:
    from ombix.cli.common import keys_with_press, presses_of, stand
    from ombix.core.keymap import Do
    from ombix.core.keys import write
    from ombix.data import shipped

    here = stand(environment, workspace, on, editor, needs_workspace=not editor, layout=layout)
    setting = here.setting
    platform = shipped.platform_table(here.setting.platform.name)
    triggers = {
        write(trigger): [row_of(row, here, row.states) for row in table.rows] for trigger, table in here.tables.items()
    }
    keys: dict[str, list[list[str]]] = {}
    for binding in here.bindings:
        if isinstance(binding.outcome, Do):
            shown = keys_with_press(binding.trigger, setting)
            keys.setdefault(binding.outcome.action, []).append([write(binding.trigger), binding.where, shown])
    rows = [
        [action.name, action.title, action.does, list(action.words), keys.get(action.name, [])]
        for action in here.catalogue.actions.values()
    ]
    made: dict[str, dict[str, Any]] = {
        "decisions": {
            "platform": platform,
            "prefix": here.policy.prefix,
            "wait_ms": here.policy.wait_ms,
            "layouts": [seat.layout.title for seat in setting.seats],
            "presses": {
                write(trigger): presses_of(trigger, setting)
                for trigger in here.tables
                if not all(seat.is_plain(trigger) for seat in setting.seats)
            },
            "triggers": triggers,
        },
        "actions": {"platform": platform, "rows": rows},
    }
    return made, here.files


def row_of(row: "Row", here: "Stand", states: int) -> list[Any]:
    """One row of a decision as a plain list, for `states` of it."""
    from ombix.cli.common import outcome_title
    from ombix.core.keymap import Binding, Do, Only, Play

    def place(binding: Binding) -> list[Any]:
        return [binding.place.file, binding.place.line, binding.place.column]

    outcome = row.binding.outcome
    kind = {Do: "do", Play: "play", Only: "only"}.get(type(outcome), "nothing")
    beaten = [[str(one.outcome), *place(one), one.layer] for one in row.beaten]
    when = here.when(row) if states == row.states else here.space.describe(states)
    title = outcome_title(outcome, here.catalogue, here.keymap)
    return [when, str(outcome), title, kind, *place(row.binding), row.binding.layer, row.binding.why, beaten]
