"""What a change to the keymap brings about: what its keys did before, what stops working, and what it newly clashes with."""

from collections.abc import Iterable, Iterator, Mapping, Sequence
from typing import Literal, NamedTuple

from ombix.core.audit import Finding
from ombix.core.audit.model import AuditSubject, EditorView
from ombix.core.catalogue.actions import Catalogue
from ombix.core.conditions import NEVER, Space, States
from ombix.core.errors import TangledError
from ombix.core.keymap.bindings import Binding
from ombix.core.keymap.changes import BindCommand, Change
from ombix.core.keymap.comparing import compare
from ombix.core.keymap.deciding import DecisionTable
from ombix.core.keymap.outcomes import Do, Nothing, Outcome
from ombix.core.keys.notation import Trigger, expand, is_family, write
from ombix.workspace import findings
from ombix.workspace.change_answer import (
    Consequences,
    DidBefore,
    EndedSequences,
    InEditor,
    PlatformFinding,
    StopsWorking,
)
from ombix.workspace.keymap_file import entry_name, entry_name_of
from ombix.workspace.outcome_titles import titles_of
from ombix.workspace.what_if import WorkspaceWhatIf, gone_findings, new_findings


class AskedEdit(NamedTuple):
    """What a change is about: the names of entries, and the keys (none: all that these have); those that they are put on."""

    names: frozenset[str]
    keys: tuple[Trigger, ...] = ()
    to: tuple[Trigger, ...] = ()


def consequences(
    before: WorkspaceWhatIf, after: WorkspaceWhatIf, changes: Sequence[Change], asked: AskedEdit | None = None
) -> Consequences:
    """What changes bring about, on all platforms of the workspace; with `asked` also what they take from others."""
    did: dict[tuple[str, str, str], DidBefore] = {}
    stops: dict[tuple[str, str], StopsWorking] = {}
    new: dict[tuple[str, str], PlatformFinding] = {}
    mended: dict[tuple[str, str], PlatformFinding] = {}
    comes: dict[tuple[str, str, str], DidBefore] = {}
    takes: dict[tuple[str, str, str], DidBefore] = {}
    held: dict[tuple[str, str, str], InEditor] = {}
    ends: dict[tuple[str, str], EndedSequences] = {}
    strands: dict[tuple[str, str], StopsWorking] = {}
    for platform in before.platforms:
        for held_in in _in_editors(after, changes, platform):
            held.setdefault((held_in.editor, held_in.keys, held_in.does), held_in)
        for end in _ends(before, after, changes, platform):
            ends.setdefault((end.editor, end.keys), end)
        for stop in _strands(before, after, changes, platform):
            strands.setdefault((stop.editor, stop.does), stop)
        for one in _did(before, after, changes, platform):
            did.setdefault((one.editor, one.keys, one.does), one)
        for stop in _stops(before, after, platform):
            stops.setdefault((stop.editor, stop.does), stop)
        for one in _comes(before, after, changes, platform):
            comes.setdefault((one.editor, one.keys, one.does), one)
        for one in _takes(before, after, asked, platform) if asked is not None else ():
            takes.setdefault((one.editor, one.keys, one.does), one)
        old, now = before.findings(platform), after.findings(platform)
        for finding in new_findings(old, now):
            _note(finding, after, platform, new)
        for finding in gone_findings(old, now):
            _note(finding, before, platform, mended)
    told: list[DidBefore | StopsWorking | InEditor] = [
        *did.values(),
        *stops.values(),
        *comes.values(),
        *takes.values(),
        *held.values(),
    ]
    names = [*(one.does for one in told), *(name for end in ends.values() for name in end.does)]
    names += [one.nearest for one in held.values()]
    titles = titles_of(
        dict.fromkeys(names), after.subject(after.platforms[0]).catalogue, after.subject(after.platforms[0]).keymap
    )
    return Consequences(
        tuple(did.values()), tuple(stops.values()), tuple(new.values()), tuple(mended.values()), tuple(comes.values()),
        tuple(takes.values()), tuple(held.values()), tuple(ends.values()), tuple(strands.values()), titles,
    )  # fmt: skip


def _note(
    finding: Finding, trial: WorkspaceWhatIf, platform: str, found: dict[tuple[str, str], PlatformFinding]
) -> None:
    """Put a finding to the others, or its platform to the same one."""
    report = findings.in_words(finding, trial.subject(platform))
    key = (finding.rule, " ".join(map(write, finding.keys)) or report.message)
    known = found.get(key)
    platforms = (*known.platforms, platform) if known is not None else (platform,)
    found[key] = PlatformFinding(known.finding if known is not None else report, platforms)


def _did(
    before: WorkspaceWhatIf, after: WorkspaceWhatIf, changes: Sequence[Change], platform: str
) -> Iterator[DidBefore]:
    """What keys that are given to something did before, in the keymap and in the editors, and no longer do."""
    subject, later = before.subject(platform), after.subject(platform)
    for written, keys in _given(changes, before, platform):
        settled = subject.settled(keys)
        yield from _no_longer(subject.tables.get(settled), later.tables.get(settled), "", written, before, platform)
        views = {view.name: view for view in later.editor_views()}
        for view in subject.editor_views():
            known = _at(view, keys, before, platform), _at(views.get(view.name), keys, after, platform)
            yield from _no_longer(*known, view.name, written, before, platform)


def _in_editors(after: WorkspaceWhatIf, changes: Sequence[Change], platform: str) -> Iterator[InEditor]:
    """Whether the editors of the workspace can have what is bound to keys."""
    later = after.subject(platform)
    names = _names(changes)
    for _written, keys in _given(changes, after, platform):
        for view in later.editor_views():
            for missing in view.missing:
                if missing.binding.trigger == keys and entry_name(missing.binding) in names:
                    yield InEditor(
                        view.name, write(keys), str(missing.binding.outcome), "missing", missing.why,
                        tuple(map(write, dict.fromkeys(missing.moved))), missing.nearest, _arrives(keys, view, later),
                    )  # fmt: skip
            table = _at(view, keys, after, platform)
            for row in table.rows if table is not None else ():
                if _is_keymaps(row.binding) and entry_name(row.binding) in names:
                    how = view.otherwise.get(id(row.binding), "")
                    verdict: Literal["works", "otherwise"] = "otherwise" if how else "works"
                    yield InEditor(view.name, write(keys), str(row.binding.outcome), verdict, how)


def _arrives(keys: Trigger, view: EditorView, subject: AuditSubject) -> str:
    """The other keys that keys arrive as in an editor; empty for themselves."""
    terminal = subject.terminals.get(view.name)
    other = terminal.canonical(keys) if terminal is not None else keys
    return subject.show(other) if other != keys else ""


def _ends(
    before: WorkspaceWhatIf, after: WorkspaceWhatIf, changes: Sequence[Change], platform: str
) -> Iterator[EndedSequences]:
    """The editors' own sequences that begin with keys of a change, and no longer run what they ran."""
    subject, later = before.subject(platform), after.subject(platform)
    views = {view.name: view for view in later.editor_views()}
    for written, keys in _given(changes, before, platform):
        for view in subject.editor_views():
            if view.name not in views:
                continue
            terminal = subject.terminals.get(view.name)
            place = terminal.canonical(keys) if terminal is not None else keys
            gone: dict[str, bool] = {}
            number = 0
            for longer, table in view.tables.items():
                if len(longer) <= len(place) or longer[: len(place)] != place:
                    continue
                lost = list(_no_longer_run(table, views[view.name].tables.get(longer), view.over_text, subject.space))
                number += bool(lost)
                gone |= {name: _is_frequent(name, subject.catalogue) for name in lost}
            if gone:
                names = sorted(gone, key=lambda name: (_group_of(name) == "", not gone[name]))
                yield EndedSequences(view.name, write(written), subject.show(keys), number, tuple(names))


def _no_longer_run(old: DecisionTable, new: DecisionTable | None, within: States, space: Space) -> Iterator[str]:
    """What keys ran in some of these states, and no longer do."""
    for row in old.rows:
        outcome = row.binding.outcome
        if isinstance(outcome, Nothing):
            continue
        still = space.union(one.states for one in (new.rows if new else ()) if one.binding.outcome == outcome)
        if space.minus(space.both(row.states, within), still) != NEVER:
            yield str(outcome)


def _is_frequent(name: str, catalogue: Catalogue) -> bool:
    action = catalogue.actions.get(name)
    return action is not None and action.frequent


def _strands(
    before: WorkspaceWhatIf, after: WorkspaceWhatIf, changes: Sequence[Change], platform: str
) -> Iterator[StopsWorking]:
    """Saving and leaving, of which an editor has no key any more. What was asked to be taken away is no surprise."""
    named = {_group_of(name) for name in _names(changes)}
    space = before.subject(platform).space
    views = {view.name: view for view in after.subject(platform).editor_views()}
    for view in before.subject(platform).editor_views():
        if view.name in views:
            had, has = ({_group_of(name) for name in _over_text(one, space)} for one in (view, views[view.name]))
            yield from (StopsWorking(view.name, group) for group in sorted((had - has) - named - {""}))


def _over_text(view: EditorView, space: Space) -> Iterator[str]:
    """What keys of an editor run while text is edited."""
    for table in view.tables.values():
        for row in table.rows:
            if not isinstance(row.binding.outcome, Nothing) and space.both(row.states, view.over_text) != NEVER:
                yield str(row.binding.outcome)


def _group_of(name: str) -> str:
    """Which of the two things that nobody can do without an outcome is: empty for neither."""
    if name.startswith(("files.save", "app.save")):
        return "saving"
    return "leaving" if name.startswith("app.quit") else ""


def _names(changes: Sequence[Change]) -> set[str]:
    """The names of what changes are about."""
    names = {str(value) for change in changes for field in ("action", "name") if (value := getattr(change, field, ""))}
    return names | {f"{change.editor}:{change.command}" for change in changes if isinstance(change, BindCommand)}


def _at(view: EditorView | None, keys: Trigger, trial: WorkspaceWhatIf, platform: str) -> DecisionTable | None:
    terminal = trial.subject(platform).terminals.get(view.name) if view is not None else None
    return view.tables.get(terminal.canonical(keys) if terminal is not None else keys) if view is not None else None


def _no_longer(
    old: DecisionTable | None,
    new: DecisionTable | None,
    editor: str,
    keys: Trigger,
    trial: WorkspaceWhatIf,
    platform: str,
) -> Iterator[DidBefore]:
    space = trial.subject(platform).space
    shown = trial.subject(platform).show(keys) if len(trial.platforms) == 1 else write(keys)
    for row in old.rows if old is not None else ():
        binding = row.binding
        if isinstance(binding.outcome, Nothing) or (editor and binding.layer.kind != "defaults"):
            continue
        still = space.union(row.states for row in (new.rows if new else ()) if row.binding.outcome == binding.outcome)
        gone = space.minus(row.states, still)
        if gone != NEVER:
            yield DidBefore(write(keys), shown, editor, str(binding.outcome), _when(binding, gone, space))


def _comes(
    before: WorkspaceWhatIf, after: WorkspaceWhatIf, changes: Sequence[Change], platform: str
) -> Iterator[DidBefore]:
    """What keys that are taken away from something do then, in the keymap and in the editors, that they did not do before."""
    names = _names(changes)
    subject, later = before.subject(platform), after.subject(platform)
    for written, keys in _given(changes, before, platform):
        views = {view.name: view for view in subject.editor_views()}
        known = [("", subject.tables.get(subject.settled(keys)), later.tables.get(later.settled(keys)))]
        for view in later.editor_views():
            was = _at(views.get(view.name), keys, before, platform)
            known.append((view.name, was, _at(view, keys, after, platform)))
        for editor, old, new in known:
            for row in new.rows if new is not None else ():
                outcome, space = row.binding.outcome, later.space
                if (
                    isinstance(outcome, Nothing)
                    or entry_name(row.binding) in names
                    or (_is_keymaps(row.binding) and editor)
                ):
                    continue
                already = space.union(row.states for row in (old.rows if old else ()) if row.binding.outcome == outcome)
                states = space.minus(row.states, already)
                if states != NEVER:
                    shown = later.show(written) if len(after.platforms) == 1 else write(written)
                    yield DidBefore(write(written), shown, editor, str(outcome), _when(row.binding, states, space))


def _is_keymaps(binding: Binding) -> bool:
    return binding.layer.kind != "defaults"


def _takes(before: WorkspaceWhatIf, after: WorkspaceWhatIf, asked: AskedEdit, platform: str) -> Iterator[DidBefore]:
    """What keys do otherwise behind a change that was not asked for: decisions that are neither taken from nor given to what the
    change is about, or not on its keys."""
    subject, later = before.subject(platform), after.subject(platform)
    space = later.space
    resolve = later.platform.resolve
    keys = {subject.settled(resolve(member)) for member in _members(asked.keys)}
    to = {subject.settled(resolve(member)) for member in _members(asked.to)}
    for one in compare(subject.tables, later.tables, space, space.possible):
        names = [_entry(outcome) for outcome in (one.first, one.second)]
        is_here = not keys or one.trigger in keys | to
        is_free = one.first is None or isinstance(one.first, Nothing)
        if names[0] in asked.names and is_here:
            continue
        if is_free and (one.trigger in to if names[1] in asked.names else one.first is None):
            continue  # put there; or something else comes where nothing was, which is told
        shown = later.show(one.trigger) if len(after.platforms) == 1 else write(one.trigger)
        when = "" if one.states == space.possible else _in_words(one.states, space)
        yield DidBefore(write(one.trigger), shown, "", str(one.first or "nothing"), when)


def _in_words(states: States, space: Space) -> str:
    try:
        return space.describe(states)
    except TangledError:
        return "a part of all states"


def _entry(outcome: Outcome | None) -> str:
    return entry_name_of(outcome) if outcome is not None else ""


def _when(binding: Binding, states: States, space: Space) -> str:
    """States in words; empty for all, and of those that are too many for words, whose part they are."""
    if states == space.possible:
        return ""
    try:
        return space.describe(states)
    except TangledError:
        return f"a part of: {binding.where}"


def _given(changes: Iterable[Change], trial: WorkspaceWhatIf, platform: str) -> Iterator[tuple[Trigger, Trigger]]:
    """The keys that changes name, as they are written and as they are on a platform; families written out."""
    resolve = trial.keymap(platform).context.platform.resolve
    for change in changes:
        for field in ("to", "keys"):
            keys = getattr(change, field, ())
            if keys and isinstance(keys, tuple):
                yield from ((member, resolve(member)) for member in _members((keys,)))


def _members(triggers: Iterable[Trigger]) -> Iterator[Trigger]:
    """Triggers, families written out."""
    for keys in triggers:
        yield from (member for member, _values in expand(keys)) if is_family(keys) else (keys,)


def _stops(before: WorkspaceWhatIf, after: WorkspaceWhatIf, platform: str) -> Iterator[StopsWorking]:
    """What could be run by keys before, in the keymap or in an editor, and now cannot."""
    yield from (
        StopsWorking("", name) for name in _lost(before.subject(platform).tables, after.subject(platform).tables)
    )
    views = {view.name: view for view in after.subject(platform).editor_views()}
    for view in before.subject(platform).editor_views():
        if view.name in views:
            yield from (StopsWorking(view.name, name) for name in _lost(view.tables, views[view.name].tables))


def _lost(old: Mapping[Trigger, DecisionTable], new: Mapping[Trigger, DecisionTable]) -> list[str]:
    one, other = _outcomes(old), _outcomes(new)
    return [name for name in one if name not in other]


def _outcomes(tables: Mapping[Trigger, DecisionTable | None]) -> dict[str, None]:
    return dict.fromkeys(
        str(row.binding.outcome.once if isinstance(row.binding.outcome, Do) else row.binding.outcome)
        for table in tables.values() if table is not None for row in table.rows if not isinstance(row.binding.outcome, Nothing)
    )  # fmt: skip
