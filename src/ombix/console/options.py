"""Options that recur: the same name, form and meaning everywhere, with completion."""

from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

if TYPE_CHECKING:
    from ombix.files.workspace_file import WorkspaceFile


def _actions(incomplete: str) -> list[tuple[str, str]]:
    from ombix.core.catalogue.searching import search
    from ombix.data.shipped import Shipped

    shipped = Shipped()
    actions = shipped.catalogue().actions
    found = [name for name in actions if name.startswith(incomplete)]
    if not found:  # words that describe it
        found = [name for _score, name in search(shipped.search_index(), incomplete)]
    return [(name, actions[name].title) for name in found]


def domains(incomplete: str) -> list[tuple[str, str]]:
    """The kinds of work that begin so, with their titles."""
    from ombix.data.shipped import Shipped

    return [one for one in Shipped().catalogue().domains.items() if one[0].startswith(incomplete)]


def _workspace() -> "WorkspaceFile | None":
    """The workspace of the folder that one is in, where there is one that can be read."""
    from ombix.core.errors import OmbixError
    from ombix.workspace.open_workspace import OpenWorkspace

    try:
        opened = OpenWorkspace()
        return opened.file() if opened.has_workspace() else None
    except OmbixError:
        return None


def _editors(incomplete: str) -> list[str]:
    from ombix.data.shipped import Shipped
    from ombix.editors.description_loading import Dialects

    workspace = _workspace()
    names = dict.fromkeys([*(workspace.editors if workspace is not None else ()), *Dialects(Shipped()).names()])
    return [name for name in names if name.startswith(incomplete)]


def _machines(incomplete: str) -> list[str]:
    workspace = _workspace()
    return [
        name for name in (*(workspace.machines if workspace is not None else ()), "all") if name.startswith(incomplete)
    ]


def _severities(incomplete: str) -> list[str]:
    from ombix.core.audit import SEVERITIES

    return [name for name in SEVERITIES if name.startswith(incomplete)]


def _platforms(incomplete: str) -> list[str]:
    from ombix.data.shipped import Shipped

    return [name for name in Shipped().platform_names() if name.startswith(incomplete)]


def _layouts(incomplete: str) -> list[str]:
    from ombix.data.shipped import Shipped

    return [name for name in Shipped().layout_names() if name.startswith(incomplete)]


def _layers(incomplete: str) -> list[str]:
    from pathlib import Path

    return sorted(path.name for path in Path().glob("*.keys.toml") if path.name.startswith(incomplete))


def _keyboards(incomplete: str) -> list[str]:
    from ombix.data.shipped import Shipped

    return [name for name in Shipped().keyboard_names() if name.startswith(incomplete)]


def _hands(incomplete: str) -> list[str]:
    from ombix.core.pressing.effort import HANDS

    return [name for name in HANDS if name.startswith(incomplete)]


def _rules(incomplete: str) -> list[str]:
    from ombix.core.audit import all_rules

    return [name for name in all_rules() if name.startswith(incomplete)]


MachinesOption = Annotated[
    list[str] | None, typer.Option("--machine", metavar="NAME", help="A machine of the workspace; repeatable; all.",
                                     autocompletion=_machines),
]  # fmt: skip
SeverityOption = Annotated[
    str,
    typer.Option(
        "--severity", metavar="LEAST", help="error, warning or note, and what is worse.", autocompletion=_severities
    ),
]
WorkspaceOption = Annotated[
    Path | None, typer.Option("--workspace", metavar="FILE", help="The workspace file; without it, the nearest above.")
]
FileOption = Annotated[
    Path | None, typer.Option("--file", metavar="FILE", help="An editor's own file, or a keymap file, in place of a workspace.")
]  # fmt: skip
PlatformOption = Annotated[
    str, typer.Option("--on", metavar="PLATFORM", help="linux, mac or windows.", autocompletion=_platforms)
]
LayoutOption = Annotated[
    str, typer.Option("--layout", metavar="NAME", help="A keyboard layout, or a file of one (XKB symbols, CLDR keyboard).",
                      autocompletion=_layouts),
]  # fmt: skip
KeyboardOption = Annotated[
    str,
    typer.Option(
        "--keyboard", metavar="NAME", help="Another keyboard, like laptop or split.", autocompletion=_keyboards
    ),
]
HandsOption = Annotated[
    str, typer.Option("--hands", metavar="WHICH", help="both, left or right.", autocompletion=_hands)
]
LayoutArgument = Annotated[
    str, typer.Argument(metavar="[NAME]", help="One layout by its name, or a file (XKB symbols, CLDR keyboard).",
                        autocompletion=_layouts),
]  # fmt: skip
EditorOption = Annotated[
    str, typer.Option("--editor", metavar="NAME", help="An editor of the workspace, or one that Ombix knows.",
                      autocompletion=_editors),
]  # fmt: skip
EditorArgument = Annotated[str, typer.Argument(metavar="[NAME]", help="One editor, in full.", autocompletion=_editors)]
ConditionOption = Annotated[
    str, typer.Option("--in", metavar="CONDITION", help='A state of the editor, like "pane is text".')
]
TextOption = Annotated[str | None, typer.Option("--text", metavar="TEXT", help="The text; \\n is a new line.")]
TextFileOption = Annotated[Path | None, typer.Option("--text-file", metavar="FILE", help="A file with the text.")]
AtOption = Annotated[str, typer.Option("--at", metavar="LINE:COLUMN", help="Where the cursor stands, counted from 1.")]
JsonOption = Annotated[bool, typer.Option("--json", help="Print one JSON document.")]
ReportOption = Annotated[
    Path | None, typer.Option("--report", metavar="FILE", help="Write the answer to a file, too: .md, .html or .json.")
]
DryRunOption = Annotated[bool, typer.Option("--dry-run", help="Say what would be written, and write nothing.")]
ActionArgument = Annotated[
    str, typer.Argument(metavar="ACTION", help="An action, like line.copy-down.", autocompletion=_actions)
]
FreeArgument = Annotated[
    list[str] | None,
    typer.Argument(
        metavar="[ACTION]", help="An action, like line.copy-down, or words for it.", autocompletion=_actions
    ),
]
BoundArgument = Annotated[
    list[str], typer.Argument(metavar="WHAT", help="An action, like line.copy-down; keys, like F3; or both.",
                              autocompletion=_actions),
]  # fmt: skip
MovedArgument = Annotated[
    list[str], typer.Argument(metavar="WHAT KEYS", help="An action, keys, or both, like in unbind; and then the new keys.",
                              autocompletion=_actions),
]  # fmt: skip
LayerOption = Annotated[
    str,
    typer.Option(
        "--layer",
        metavar="NAME",
        help="Another keymap that this one stands on, in place of one's own.",
        autocompletion=_layers,
    ),
]
AnywayOption = Annotated[bool, typer.Option("--anyway", help="Write it also where it brings new errors.")]
RuleOption = Annotated[
    list[str] | None, typer.Option("--rule", metavar="RULE", help="Only this rule; repeatable.",
                                   autocompletion=_rules),
]  # fmt: skip
NotRuleOption = Annotated[
    list[str] | None, typer.Option("--not-rule", metavar="RULE", help="Not this rule; repeatable.",
                                   autocompletion=_rules),
]  # fmt: skip
TakeOption = Annotated[
    str, typer.Option("--take", metavar="WHICH", help="best: one finding after the other by its cheapest way; all: all at once.",
                      autocompletion=lambda: ["best", "all"]),
]  # fmt: skip
ExplainOption = Annotated[
    str, typer.Option("--explain", metavar="RULE", help="Explain one rule, with an example.", autocompletion=_rules)
]
ToOption = Annotated[
    str,
    typer.Option(
        "--to",
        metavar="NAME",
        help="The editor to write for; without it, the one of the workspace.",
        autocompletion=_editors,
    ),
]
ToManyOption = Annotated[
    list[str] | None,
    typer.Option("--to", metavar="NAME", help="An editor to write for; repeatable; without it, all of the workspace.",
                 autocompletion=_editors),
]  # fmt: skip
FromOption = Annotated[
    str, typer.Option("--from", metavar="NAME", help="An editor, for its default keys, or a file, for what it binds.",
                      autocompletion=_editors),
]  # fmt: skip
RehomeOption = Annotated[
    bool, typer.Option("--rehome", help="Give the target's defaults that lose their only keys free ones near the old.")
]
CarefulOption = Annotated[
    bool,
    typer.Option("--careful", help="Write the careful ones, too: what can lose text, or mostly does something else."),
]
AdoptOption = Annotated[
    list[str] | None, typer.Option("--adopt", metavar="NAME", help="Take this editor's key file in; repeatable; all.",
                                   autocompletion=_editors),
]  # fmt: skip
