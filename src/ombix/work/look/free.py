"""Keys that are free on every platform, layout and terminal of the workspace, and in every editor of it."""

from collections.abc import Iterator, Sequence
from functools import partial

from ombix.core.audit import AuditSubject
from ombix.core.catalogue.actions import Action
from ombix.core.conditions import NEVER, States
from ombix.core.errors import InputError
from ombix.core.keys.notation import Trigger, write
from ombix.core.pressing.effort import Hands, effortful
from ombix.core.pressing.free_triggers import (
    EditorAround,
    FreeTrigger,
    PlatformAround,
    WantedKeys,
    free_triggers,
    why_not,
)
from ombix.editors.abilities import can_write
from ombix.editors.dialect import Dialect
from ombix.files.workspace_file import WorkspaceEditor
from ombix.work.look.free_answer import Displaced, FreeKeysRow, FreeReport, TakenOn
from ombix.work.look.what import read_keys
from ombix.workspace import findings
from ombix.workspace.context import Context, setup_at_hand, terminal_of
from ombix.workspace.effective_keymap import EffectiveKeymap
from ombix.workspace.resources import Resources


def around(
    here: EffectiveKeymap,
    subject: AuditSubject,
    editors: Sequence[WorkspaceEditor],
    resources: Resources,
    hands: Hands = "both",
) -> PlatformAround:
    """A platform with all that keys have to work in there."""
    context = here.context
    setup = setup_at_hand(context, resources)
    return PlatformAround(
        subject,
        list(_editors(subject, editors, context, resources)),
        effortful(resources.shipped.effort(), setup, hands),
    )


def _editors(
    subject: AuditSubject, editors: Sequence[WorkspaceEditor], context: Context, resources: Resources
) -> Iterator[EditorAround]:
    by_name = {editor.name: editor for editor in editors if editor.platform in ("", context.platform.name)}
    for view in subject.editor_views():
        if view.name in by_name:
            dialect = resources.dialect(by_name[view.name])
            terminal = terminal_of(by_name[view.name], dialect, resources)
            yield EditorAround(view.name, view.tables, terminal, partial(_why_not, dialect, view.name))


def _why_not(dialect: Dialect, name: str, keys: Trigger) -> str:
    return "" if can_write(dialect, keys) else dialect.spelling.why_not(keys, name)


def states_in(one: PlatformAround, here: EffectiveKeymap, where: str, action: Action | None) -> States:
    """The states in which keys are to be free: those of the condition, and of what the action needs. Raises InputError."""
    space = one.subject.space
    states = space.states(where, here.keymap.scope) if where else space.possible
    if action is not None and not where and action.needs != "always":
        states = space.both(states, space.states(action.needs))
    if states == NEVER:
        raise InputError("no state of an editor fulfils this condition", "", None, where, len(where))
    return states


class FreeSearch:
    """A look for free keys on several platforms."""

    def __init__(
        self, places: Sequence[tuple[EffectiveKeymap, PlatformAround]], action: Action | None, where: str
    ) -> None:
        self.around = [one for _here, one in places]
        self.where = where
        self.action = action
        self._states = [states_in(one, here, where, action) for here, one in places]

    def best(self, near: Trigger = ()) -> list[FreeTrigger]:
        """All keys that are free, the best first."""
        return list(free_triggers(self.around, WantedKeys(self.action, near), self._states))

    def report(self, count: int) -> FreeReport:
        """The best so many."""
        found = self.best()
        return self._report(len(found), found[:count])

    def asked(self, keys: str) -> FreeReport:
        """Whether these keys are free, and where not. Raises InputError."""
        trigger, _reading = read_keys(keys)
        taken = tuple(TakenOn(*pair) for pair in why_not(self.around, trigger, self._states))
        pairs = zip(self.around, self._states, strict=True)
        displaces = tuple(dict.fromkeys(pair for one, states in pairs for pair in one.defaults(trigger, states)))
        seconds = max(one.seconds(trigger) for one in self.around)
        free = FreeTrigger(trigger, seconds, 0.0, (), displaces)
        return self._report(0, [] if taken else [free])._replace(asked=write(trigger), taken=taken)

    def _report(self, count: int, found: Sequence[FreeTrigger]) -> FreeReport:
        first = self.around[0].subject
        layouts = dict.fromkeys(setup.layout.name for one in self.around for setup in one.subject.setups)
        editors = dict.fromkeys(editor.name for one in self.around for editor in one.editors)
        return FreeReport(
            self.action.name if self.action else "", self.action.title if self.action else "", self.where,
            tuple(one.subject.platform.name for one in self.around), tuple(layouts), tuple(editors), count,
            tuple(
                FreeKeysRow(
                    write(one.keys), first.platform.show(one.keys), round(one.seconds, 3), one.reasons,
                    tuple(Displaced(*pair) for pair in one.displaces),
                )
                for one in found
            ),
        )  # fmt: skip


def search(
    places: Sequence[EffectiveKeymap],
    editors: Sequence[WorkspaceEditor],
    resources: Resources,
    action: Action | None,
    where: str,
) -> FreeSearch:
    """A look for free keys. Raises InputError for a condition that cannot be."""
    found = []
    for here in places:
        chosen = [here.context.editor] if here.context.editor is not None else editors
        found.append((here, around(here, findings.subject_of(here, chosen, resources), chosen, resources)))
    return FreeSearch(found, action, where)
