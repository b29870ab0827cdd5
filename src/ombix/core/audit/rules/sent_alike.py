"""Keys that a terminal cannot tell apart."""

from collections.abc import Iterator
from itertools import combinations

from msgspec.structs import replace

from ombix.core.audit.fix_changes import move_away
from ombix.core.audit.model import AuditSubject, Finding, Rule, at, is_own
from ombix.core.conditions import NEVER, States
from ombix.core.keymap.bindings import Binding
from ombix.core.pressing.terminals import Terminal, in_terminal

CONTROL_KEYS = ("Enter", "Tab", "Escape", "Backspace")
"""Keys whose own code is a control code, which Ctrl beside a letter or a sign sends as well (ECMA-48)."""


def check(subject: AuditSubject) -> Iterator[Finding]:
    """Different triggers with different outcomes that arrive as the same bytes, in states that both have; and own bindings
    that take such a key, too."""
    for names, terminal in subject.terminals_by_kind():
        by_bytes: dict[bytes, list[Binding]] = {}
        platform = in_terminal(subject.platform, terminal)
        for binding in subject.bindings:
            sent = terminal.send(platform.resolve(binding.keys))
            if isinstance(sent, bytes):
                by_bytes.setdefault(sent, []).append(binding)
        for group in by_bytes.values():
            found = _alike(subject, group)
            if found:
                yield _finding(subject, names, terminal, found)
            else:
                yield from _taken(subject, names, terminal, group)


def _alike(subject: AuditSubject, group: list[Binding]) -> dict[Binding, States]:
    """Those of the bindings that another one, with other keys and another outcome, arrives like; each with the states in
    which that is so."""
    found: dict[Binding, States] = {}
    if len({binding.trigger for binding in group}) < 2:
        return found
    for first, second in combinations(group, 2):
        if first.trigger == second.trigger or first.outcome == second.outcome:
            continue
        both = subject.space.both(subject.states(first), subject.states(second))
        if both != NEVER and (is_own(first) or is_own(second)):
            for one in (first, second):
                found[one] = subject.space.either(found.get(one, NEVER), both)
    return found


def _finding(subject: AuditSubject, names: str, terminal: Terminal, found: dict[Binding, States]) -> Finding:
    by_keys: dict[str, list[str]] = {}
    for one in found:
        by_keys.setdefault(subject.show(one.keys), []).append(str(one.outcome))
    parts = [f"{keys} for {' and '.join(dict.fromkeys(outcomes))}" for keys, outcomes in by_keys.items()]
    message = f"{names} cannot tell {', '.join(parts[:-1])} and {parts[-1]} apart"
    if len({len(one.trigger) for one in found}) > 1:  # Alt beside a key, and Escape before it
        message += f"; Escape waits {terminal.escape_ms} ms to tell"
    finding = RULE.finding(message, at(*found), None, subject.space.union(found.values()))
    own = [one for one in found if is_own(one)]
    # What is moved is what arrives as another key, so that this one stays as it is.
    moving = [one for one in own if terminal.canonical(one.trigger) != one.trigger] or own
    changes = move_away(subject, moving[-1])
    return replace(finding, keys=tuple(dict.fromkeys(one.trigger for one in found)), changes=changes)


def _taken(subject: AuditSubject, names: str, terminal: Terminal, group: list[Binding]) -> Iterator[Finding]:
    """Own bindings on what arrives as a key of its own that nothing here is bound to."""
    for binding in group:
        stands = terminal.canonical(binding.trigger)
        pairs = zip(binding.trigger, stands, strict=True)
        if is_own(binding) and any(a != b and b.key in CONTROL_KEYS for a, b in pairs):
            keys, other = subject.show(binding.keys), subject.show(stands)
            message = f"{keys} is {other} in {names}: {other} would run {binding.outcome}, too"
            finding = RULE.finding(message, at(binding), binding.trigger, subject.states(binding))
            yield replace(finding, changes=move_away(subject, binding))


RULE = Rule(
    name="sent-alike",
    severity="warning",
    what="An editor of the workspace runs in a terminal, and different keys arrive there as the same bytes: Ctrl+I and "
    "Tab, Ctrl+Shift and Ctrl beside a letter, Alt and an Escape before the key. One of them may be bound alone: then the "
    "other one does the same.",
    why="Only one of the meanings can work there, and Ctrl+I takes Tab along.",
    example="""\
format = 1
name = "example"

[bind.line]
delete = "Ctrl+K"

[bind.edit]
cut-line = "Ctrl+Shift+K"
""",
    workspace='[editor.pier]\ndialect = "nano"\nterminal = "xterm"',
    mend="Give all but one of them other keys, at least for the editor in the terminal.",
    check=check,
)
