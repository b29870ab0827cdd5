"""Options that recur: the same name, form and meaning everywhere, with completion."""

from pathlib import Path
from typing import Annotated

import typer


def _actions(incomplete: str) -> list[tuple[str, str]]:
    from ombix.data import shipped

    return [(name, action.title) for name, action in shipped.catalogue().actions.items() if name.startswith(incomplete)]


def complete_editors(incomplete: str) -> list[str]:
    from ombix.dialects.loading import known

    return [name for name in known() if name.startswith(incomplete)]


def _platforms(incomplete: str) -> list[str]:
    from ombix.data.shipped import platform_names

    return [name for name in platform_names() if name.startswith(incomplete)]


def _layouts(incomplete: str) -> list[str]:
    from ombix.store.layouts import layout_names

    return [name for name in layout_names() if name.startswith(incomplete)]


def _rules(incomplete: str) -> list[str]:
    from ombix.core.audit import rules

    return [name for name in rules() if name.startswith(incomplete)]


WorkspaceOption = Annotated[
    Path | None, typer.Option("--workspace", metavar="FILE", help="The workspace file; without it, the nearest above.")
]
PlatformOption = Annotated[
    str, typer.Option("--on", metavar="PLATFORM", help="linux, mac or windows.", autocompletion=_platforms)
]
LayoutOption = Annotated[
    str, typer.Option("--layout", metavar="NAME", help="A keyboard layout, or a file of one (XKB symbols, CLDR keyboard).",
                      autocompletion=_layouts),
]  # fmt: skip
EditorOption = Annotated[
    str, typer.Option("--editor", metavar="NAME", help="An editor of the workspace, or one that Ombix knows.",
                      autocompletion=complete_editors),
]  # fmt: skip
ConditionOption = Annotated[
    str, typer.Option("--in", metavar="CONDITION", help='A state of the editor, like "pane is text".')
]
JsonOption = Annotated[bool, typer.Option("--json", help="Print one JSON document.")]
DryRunOption = Annotated[bool, typer.Option("--dry-run", help="Say what would be written, and write nothing.")]
ActionArgument = Annotated[
    str, typer.Argument(metavar="ACTION", help="An action, like line.copy-down.", autocompletion=_actions)
]
RuleOption = Annotated[
    list[str] | None, typer.Option("--rule", metavar="RULE", help="Only this rule; may be given again.",
                                   autocompletion=_rules),
]  # fmt: skip
NotRuleOption = Annotated[
    list[str] | None, typer.Option("--not-rule", metavar="RULE", help="Not this rule; may be given again.",
                                   autocompletion=_rules),
]  # fmt: skip
