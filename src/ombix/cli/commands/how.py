"""`ombix how WORDS…`: finds actions by words that describe them, and gives their keys."""

import typer

from ombix.cli.environment import Status, environment_of
from ombix.cli.options import EditorOption, JsonOption, LayoutOption, PlatformOption, WorkspaceOption
from ombix.cli.quick import actions
from ombix.core.platforms import platform
from ombix.core.searching import search
from ombix.report.plain import Cell, table


def run(
    context: typer.Context,
    words: list[str] = typer.Argument(metavar="WORDS", help="What you want to do, in your own words."),
    editor: EditorOption = "",
    on: PlatformOption = "",
    layout: LayoutOption = "",
    workspace: WorkspaceOption = None,
    json: JsonOption = False,
) -> Status:
    """How do I …? Finds actions by words and gives their keys."""
    environment = environment_of(context)
    content = actions(environment, workspace, on, editor, layout)
    here = platform(content["platform"]["name"], content["platform"])
    rows = {row[0]: row for row in content["rows"]}
    found = search((row[:4] for row in content["rows"]), " ".join(words))
    if json:
        environment.json({
            "words": " ".join(words),
            "platform": here.name,
            "actions": [
                {
                    "action": name, "title": rows[name][1], "does": rows[name][2], "score": score,
                    "keys": [{"keys": keys, "where": where, "shown": shown} for keys, where, shown in rows[name][4]],
                }
                for score, name in found
            ],
        })  # fmt: skip
        return Status.FINE if found else Status.FOUND
    if not found:
        environment.say(f"No action is described by “{' '.join(words)}”. Try another word for it.")
        return Status.FOUND
    lines: list[list[Cell | str]] = []
    for _score, name in found:
        keys = [shown + (f" when {where}" if where != "always" else "") for _text, where, shown in rows[name][4]]
        shown = ", ".join(dict.fromkeys(keys))
        lines.append([Cell(shown or "no keys", "key" if shown else "quiet"), rows[name][1], Cell(name, "quiet")])
    environment.out(*table(lines, environment.paper, ("keys", "what it does", "action")))
    if not rows[found[0][1]][4]:
        environment.say(f"Give it keys with: ombix bind {found[0][1]} KEYS")
    return Status.FINE
