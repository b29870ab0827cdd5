"""A pane, popup, mode or begun sequence that can be entered and not left."""

from collections.abc import Iterator

from msgspec.structs import replace

from ombix.core.audit.fix_changes import free_key
from ombix.core.audit.model import AuditSubject, Finding, Rule, at, is_own
from ombix.core.audit.reachable_states import Transitions
from ombix.core.conditions import NEVER, States
from ombix.core.keymap.bindings import Binding
from ombix.core.keymap.changes import Bind
from ombix.core.keymap.outcomes import Nothing
from ombix.core.keys.notation import parse

_CALL_OFF = parse("Escape")


def check(subject: AuditSubject) -> Iterator[Finding]:
    """Places that a binding leads into, in which the keymap binds keys, but from some states of which none leads out again.

    Without an editor's defaults below, a place in which the keymap binds nothing is left to the editor.
    """
    yield from _sequences(subject)
    space = subject.space
    entered: dict[str, list[Binding]] = {}
    for name, bindings in subject.bound.items():
        action = subject.catalogue.actions.get(name)
        if action is not None and action.enters and any(map(is_own, bindings)):
            entered.setdefault(action.enters, []).extend(bindings)
    transitions = Transitions(subject) if entered else None
    for text, bindings in entered.items():
        inside = space.states(text)
        furnished = _furnished(subject, inside)
        if transitions is None or not (subject.has_editor() or furnished):
            continue
        own = {id(binding): binding for binding in bindings if is_own(binding)}
        rows = (row for trigger in {one.trigger for one in own.values()} for row in subject.tables[trigger].rows)
        stuck = transitions.with_no_way_out(inside, (row for row in rows if id(row.binding) in own))
        if stuck == NEVER:
            continue
        first = next(binding for binding in bindings if is_own(binding))
        said = "no key there leads out again"
        if stuck != inside:
            said += f" when {space.describe(stuck)}"
        message = f"{first.outcome} leads to {text}, and {said}"
        found = RULE.finding(message, at(first, *([furnished] if furnished else [])), first.trigger, stuck)
        yield _with_a_way_out(found, subject, first, stuck)


def _furnished(subject: AuditSubject, inside: States) -> Binding | None:
    """A binding of the keymap's own that is meant for these states."""
    space = subject.space
    mentioned = space.mentioned(inside)
    for binding in subject.own:
        if binding.where != "always":
            node = space.parse(binding.where, binding.scope)
            if mentioned & space.mentioned(node) and space.overlap(node, inside):
                return binding
    return None


def _with_a_way_out(found: Finding, subject: AuditSubject, first: Binding, stuck: States) -> Finding:
    """The finding with an action that leads out of these states, on Escape where that is free there."""
    space, actions = subject.space, subject.catalogue.actions
    entering = subject.action_of(first.outcome)
    back = entering.inverse if entering else None
    names = [*([back] if back else []), *(name for name, one in actions.items() if one.leaves)]
    for name in names:
        action = actions[name]
        leads_out = action.leaves and space.covers(space.parse(action.leaves), stuck)
        if leads_out and space.covers(space.parse(action.needs), stuck):
            table = subject.tables.get(_CALL_OFF)
            is_free = table is None or space.both(space.union(row.states for row in table.rows), stuck) == NEVER
            keys = _CALL_OFF if is_free else free_key(subject, _CALL_OFF)
            if keys is not None:
                where = space.describe(stuck)
                mend = f"Bind {name} there, for example to {subject.show(keys)}."
                return replace(found, mend=mend, changes=(Bind(name, keys, where, adds=name in subject.bound),))
    return found


def _sequences(subject: AuditSubject) -> Iterator[Finding]:
    """Sequences that Escape does not call off, because it is bound as their continuation; without a time limit."""
    if subject.policy.prefix != "waits":
        return
    for trigger, table in subject.tables.items():
        if len(trigger) < 2 or trigger[-1:] != _CALL_OFF:
            continue
        for row in table.rows:
            action = subject.action_of(row.binding.outcome)
            if is_own(row.binding) and not isinstance(row.binding.outcome, Nothing) and not (action and action.leaves):
                start = subject.show(row.binding.keys[:-1])
                message = f"after {start}, Escape runs {row.binding.outcome} and does not call it off"
                yield RULE.finding(message, at(row.binding), trigger, row.states)


RULE = Rule(
    name="no-way-back",
    severity="warning",
    what="A key opens a pane, a popup or a mode for which the keymap binds keys, but none of them leads out of it; or "
    "Escape, which calls off a sequence that was begun by mistake, is bound as its continuation.",
    why="Whoever gets there by mistake is stuck.",
    example="""\
format = 1
name = "example"

[bind.edit]
suggest = "Ctrl+Space"
complete-word = { press = "Tab", where = "popup is suggestions" }
""",
    mend="Bind an action that leads out, like prompt.cancel or mode.normal, in that state.",
    check=check,
)
