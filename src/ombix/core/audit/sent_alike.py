"""Keys that a terminal cannot tell apart."""

from collections.abc import Iterator

from ombix.core.audit import Finding, Ground, Rule, at, is_own
from ombix.core.conditions import NEVER
from ombix.core.keymap import Binding
from ombix.core.keys import write


def check(ground: Ground) -> Iterator[Finding]:
    """Different triggers with different outcomes that arrive as the same bytes, in states that both have."""
    for names, terminal in ground.terminals_by_kind():
        by_bytes: dict[bytes, list[Binding]] = {}
        for binding in ground.bindings:
            sent = terminal.send(binding.trigger)
            if isinstance(sent, bytes):
                by_bytes.setdefault(sent, []).append(binding)
        for group in by_bytes.values():
            if len({binding.trigger for binding in group}) < 2:
                continue
            for index, first in enumerate(group):
                for second in group[index + 1 :]:
                    if first.trigger == second.trigger or first.outcome == second.outcome:
                        continue
                    both = ground.space.both(ground.states(first), ground.states(second))
                    if both != NEVER and (is_own(first) or is_own(second)):
                        message = (
                            f"{write(first.trigger)} for {first.outcome} and {write(second.trigger)} for {second.outcome} "
                            f"arrive alike in {names}"
                        )
                        if len(first.trigger) != len(second.trigger):  # Alt beside a key, and Escape before it
                            message += f"; Escape waits {terminal.escape_ms} ms to tell"
                        yield RULE.finding(message, at(first, second), first.trigger, both)


RULE = Rule(
    name="sent-alike",
    severity="warning",
    what="An editor of the workspace runs in a terminal, and two different keys arrive there as the same bytes: Ctrl+I and "
    "Tab, Ctrl+Shift and Ctrl beside a letter, Alt and an Escape before the key.",
    why="Only one of the two can work there.",
    example="""\
format = 1
name = "example"

[bind.line]
delete = "Ctrl+K"

[bind.edit]
cut-line = "Ctrl+Shift+K"
""",
    workspace='[editor.pier]\ndialect = "nano"\nterminal = "xterm"',
    mend="Give one of the two other keys, at least for the editor in the terminal.",
    check=check,
)
