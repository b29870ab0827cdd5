"""What was used: read from logs and from what is kept, with what the keymap says to it."""

import hashlib
from collections import Counter, defaultdict
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from functools import cache
from pathlib import Path
from typing import NamedTuple

from ombix.core.errors import InputError, NotationError, OmbixError, Place, did_you_mean
from ombix.core.keymap.bindings import Binding, Keymap
from ombix.core.keymap.outcomes import Do, Macro, Nothing, Only
from ombix.core.keys.notation import Trigger, parse, write
from ombix.core.usage.counts import UseCounts, Used, is_habit, shown_runs
from ombix.files.usage_days import UseDays
from ombix.files.usage_logs import LogAccount, read_log
from ombix.work.usage.terminal_recordings import read_recording
from ombix.work.usage.use_answer import (
    LogReport,
    LongWay,
    OtherWay,
    UnusedKeys,
    UsedAction,
    UsedDay,
    UsedKeys,
    UsedSlip,
    UseReport,
    VainWait,
)
from ombix.work.usage.watch import WatchedKeys
from ombix.workspace.effective_keymap import EffectiveKeymap
from ombix.workspace.resources import Resources
from ombix.workspace.shorter_ways import shorter_ways

LEAST_RUNS = 3
"""How often a run has to be done to be a way of somebody's."""
MOST_LONG_WAYS = 40
_BLOCK = 1 << 20


class UseOptions(NamedTuple):
    """What is looked at: logs (none: what is kept), from one day to another, in one editor; whether the logs are kept."""

    logs: tuple[str, ...] = ()
    since: str = ""
    until: str = ""
    editor: str = ""
    add: bool = False


class ReadUse(NamedTuple):
    """Counts, and what became of the logs that they are from."""

    counts: UseCounts
    logs: tuple[LogReport, ...]


class UseReading:
    """Reads and keeps what was used. `path_of` gives the path of a name; `columns` are the workspace's for tables; `watch` gives
    what counts the keys of a recording."""

    def __init__(
        self,
        days: UseDays,
        path_of: Callable[[str], Path],
        columns: Mapping[str, str],
        watch: Callable[[], WatchedKeys],
    ) -> None:
        self._watch = watch
        self._days = days
        self._path_of = path_of
        self._columns = columns

    def read(self, options: UseOptions) -> ReadUse:
        """The counts that are asked for. Raises InputError and OutsideError."""
        if not options.logs:
            return ReadUse(self._days.counts(options.since, options.until), ())
        counts, logs = UseCounts(), []
        for name in options.logs:
            found, account, kept = self._one(self._path_of(name), options.add)
            counts.add(found)
            logs.append(_log_report(name, account, kept))
        return ReadUse(within(counts, options.since, options.until), tuple(logs))

    def _one(self, path: Path, add: bool) -> tuple[UseCounts, LogAccount, str]:
        if not path.is_file():
            raise InputError(f"there is no log {path.name}", "Name a file of JSON Lines, .csv or .cast.")
        if path.suffix == ".cast":
            found, account = read_recording(path, self._watch())
        else:
            found, account = read_log(path, self._columns, in_order=True)
        if not add:
            return found, account, ""
        is_new = self._days.add(found, _digest(path), path.name)
        return found, account, "added" if is_new else "known"


def within(counts: UseCounts, since: str, until: str) -> UseCounts:
    """The counts of the days from one to another (empty: all)."""
    if not since and not until:
        return counts
    last = until or "9999"
    found = UseCounts()
    found.used = Counter({key: times for key, times in counts.used.items() if since <= key.day <= last})
    found.runs = Counter({key: times for key, times in counts.runs.items() if since <= key[0] <= last})
    found.slips = Counter({key: times for key, times in counts.slips.items() if since <= key[0] <= last})
    found.waits = Counter({key: times for key, times in counts.waits.items() if since <= key[0] <= last})
    found.typed = Counter({key: times for key, times in counts.typed.items() if since <= key[0] <= last})
    return found


def _digest(path: Path) -> str:
    found = hashlib.blake2b(digest_size=16)
    with path.open("rb") as file:
        while data := file.read(_BLOCK):
            found.update(data)
    return found.hexdigest()


def _log_report(name: str, account: LogAccount, kept: str) -> LogReport:
    left_out = dict(account.left_out.most_common())
    return LogReport(name, account.lines, account.events, left_out, account.back, kept, account.counted)


class UseMeaning:
    """What the keymap, and its editors, say to what was used. `keymap_of` gives the keymap in force in an editor."""

    def __init__(self, keymap_of: Callable[[str], EffectiveKeymap], resources: Resources) -> None:
        self._keymap_of = keymap_of
        self._catalogue = resources.shipped.catalogue()

        @cache
        def here(editor: str) -> EffectiveKeymap | None:
            try:
                return keymap_of(editor)
            except OmbixError:
                return None

        @cache
        def keys_of(editor: str) -> dict[str, list[Trigger]]:
            found: dict[str, list[Trigger]] = defaultdict(list)
            one = here(editor)
            for trigger, table in one.tables.items() if one is not None else ():
                for name in dict.fromkeys(_name(row.binding) for row in table.rows):
                    found[name].append(trigger)
            return found

        self.here = here
        self._triggers_of = keys_of

    def what(self, used: Used) -> str:
        """The action that was used; an editor's command, or keys, where it is none that is known."""
        return self.action(used.editor, used.action, used.command, used.keys, used.mode)

    def action(self, editor: str, action: str, command: str, keys: str, mode: str = "") -> str:
        """The same, from its parts."""
        if action:
            return action
        here = self.here(editor)
        dialect = here.context.dialect if here is not None else None
        if command and dialect is not None:
            outcome = dialect.vocabulary.outcome(command)
            return _said(outcome) if outcome is not None else f"{editor}:{command}"
        if command:
            return f"{editor}:{command}" if editor else command
        return self._by_keys(here, keys, mode) or keys

    def _by_keys(self, here: EffectiveKeymap | None, keys: str, mode: str) -> str:
        """What keys do, where they do the same in all states, or in all in which text is edited in that mode."""
        if here is None:
            return ""
        try:
            trigger = here.context.platform.resolve(parse(keys))
        except NotationError:
            return ""
        table = here.tables.get(here.arriving(trigger))
        rows = table.rows if table is not None else ()
        states = here.space.text
        if mode in here.space.facts.by_name["mode"].values:
            states = here.space.both(states, here.space.states(f"mode is {mode}"))
        found = {_name(row.binding) for row in rows if here.space.overlap(row.states, states)}
        found = found or {_name(row.binding) for row in rows}
        return found.pop() if len(found) == 1 else ""

    def keys(self, editor: str, action: str) -> tuple[str, ...]:
        """The keys of an action in an editor, the shortest first."""
        here = self.here(editor)
        if here is None:
            return ()
        triggers = sorted(self._triggers_of(editor).get(action, ()), key=lambda one: (len(one), len(write(one))))
        return tuple(dict.fromkeys(here.context.platform.show(trigger) for trigger in triggers))

    def first_keys(self, editor: str, action: str) -> tuple[str, Trigger]:
        """The shortest keys of an action in an editor, or else in the keymap by itself, as they are shown there and as they are;
        none where it has none."""
        for name in dict.fromkeys((editor, "")):
            here = self.here(name)
            triggers = sorted(
                self._triggers_of(name).get(action, ()), key=lambda one: (len(one), len(write(one)), write(one))
            )
            if here is not None and triggers:
                return here.context.platform.show(triggers[0]), triggers[0]
        return "", ()

    def names(self) -> list[str]:
        """The names of all actions."""
        return list(self._catalogue.actions)

    def is_known(self, action: str) -> bool:
        """Whether it is an action of the catalogue, or a macro or snippet of the keymap."""
        return action in self._catalogue.actions or action.startswith(("macro ", "snippet "))

    # --- the report

    def report(self, read: ReadUse, options: UseOptions) -> UseReport:
        """All that is to be said."""
        counts = read.counts
        self._check_editor(options.editor, counts)
        used = [
            (one, self.what(one), times) for one, times in counts.used.items() if options.editor in ("", one.editor)
        ]
        typed = {key: times for key, times in counts.typed.items() if options.editor in ("", key[1])}
        days = sorted({one.day for one, _what, _times in used} | {day for day, _editor in typed})
        by_day: Counter[str] = Counter()
        by_editor: Counter[str] = Counter()
        for one, _what, times in used:
            by_day[one.day] += times
            by_editor[one.editor] += times
        typed_on: Counter[str] = Counter()
        for (day, _editor), times in typed.items():
            typed_on[day] += times
        unknown = Counter[str]()
        for one, what, times in used:
            if not self.is_known(what):
                unknown[f"{what} ({one.editor})" if one.editor and ":" not in what else what] += times
        return UseReport(
            days[0] if days else "", days[-1] if days else "", len(days), sum(by_day.values()), sum(typed.values()), read.logs,
            tuple(self._actions(used, days)), tuple(self._keys(used)),
            tuple(UsedDay(day, by_day[day], typed_on[day]) for day in days), dict(by_editor.most_common()),
            tuple(self._other_ways(used)), tuple(self._slips(counts, used, options)),
            tuple(
                VainWait(keys, editor, times)
                for (keys, editor), times in _summed((key[2], key[1], times) for key, times in counts.waits.items())
                if options.editor in ("", editor)
            ),
            tuple(self._long_ways(counts, options)), tuple(self._unused(used)) if used else (), dict(unknown.most_common()),
        )  # fmt: skip

    def _check_editor(self, name: str, counts: UseCounts) -> None:
        """Raise InputError for an editor that nothing was used in, and that is none."""
        seen = sorted({one.editor for one in counts.used if one.editor})
        if name and name not in seen and self.here(name) is None:
            known = f"It was used in {', '.join(seen)}." if seen else "See: ombix editors"
            raise InputError(f"nothing was used in {name}", did_you_mean(name, seen) or known)

    def _actions(self, used: Sequence[tuple[Used, str, int]], days: Sequence[str]) -> Iterator[UsedAction]:
        by: dict[str, Counter[str]] = defaultdict(Counter)
        halves: dict[str, list[int]] = defaultdict(lambda: [0, 0])
        editors: dict[str, Counter[str]] = defaultdict(Counter)
        middle = len(days) // 2
        late = set(days[-middle:]) if middle else set()
        early = set(days[:middle])
        for one, what, times in used:
            by[what][one.by] += times
            editors[what][one.editor] += times
            if one.day in late or one.day in early:
                halves[what][one.day in late] += times
        for what, ways in sorted(by.items(), key=lambda row: (-row[1].total(), row[0])):
            before, after = halves[what]
            where = sorted(editors[what], key=lambda editor: (-editors[what][editor], editor))
            keys = dict.fromkeys(keys for editor in where for keys in self.keys(editor, what))
            trend = round(after / before, 2) if before and len(days) >= 4 else None
            yield UsedAction(what, ways.total(), dict(ways.most_common()), tuple(keys), trend)

    def _keys(self, used: Sequence[tuple[Used, str, int]]) -> Iterator[UsedKeys]:
        found: Counter[tuple[str, str, str, str]] = Counter()
        for one, what, times in used:
            if one.keys:
                found[one.keys, what, one.editor, one.mode] += times
        for key, times in sorted(found.items(), key=lambda row: (-row[1], row[0])):
            yield UsedKeys(*key, times)

    def _other_ways(self, used: Sequence[tuple[Used, str, int]]) -> Iterator[OtherWay]:
        found = _summed(((what, one.editor, one.by), times) for one, what, times in used if one.by != "keys")
        for (what, editor, way), times in found:
            keys = self.keys(editor, what)
            if keys:
                yield OtherWay(what, editor, way, times, keys)

    def _slips(
        self, counts: UseCounts, used: Sequence[tuple[Used, str, int]], options: UseOptions
    ) -> Iterator[UsedSlip]:
        pressed = Counter[tuple[str, str]]()
        for one, _what, times in used:
            pressed[one.keys, one.editor] += times
        slips = _summed(((keys, what, editor), times) for (_day, editor, keys, what), times in counts.slips.items())
        for (keys, what, editor), times in slips:
            if options.editor in ("", editor):
                yield UsedSlip(keys, what, editor, times, max(times, pressed[keys, editor]))

    def _long_ways(self, counts: UseCounts, options: UseOptions) -> Iterator[LongWay]:
        known = cache(self._one_action)
        done: dict[str, Counter[str]] = defaultdict(Counter)
        for one, times in counts.used.items():
            done[one.editor][one.what] += times
        for editor, actions, times in shown_runs(counts.runs, LEAST_RUNS, MOST_LONG_WAYS):
            if options.editor not in ("", editor) or not all(self.is_known(action) for action in actions):
                continue
            better = known(editor, actions)
            if better or (len(set(actions)) > 1 and is_habit(actions, times, done[editor])):
                yield LongWay(actions, editor, times, better)

    def _one_action(self, editor: str, actions: tuple[str, ...]) -> tuple[str, ...]:
        """The actions of which one alone does the same, proved by effect; none where one of them has none that is known."""
        if any(self._takes_arguments(action) for action in actions):
            return ()
        here = self.here(editor) or self.here("")
        keymap = here.keymap if here is not None else Keymap([])  # what actions do is the same without one
        macro = Macro("run", "", tuple(Do(action) for action in actions), Place(""))
        return tuple(way for way in shorter_ways(macro, keymap, self._catalogue) if way not in actions)

    def _takes_arguments(self, action: str) -> bool:
        known = self._catalogue.actions.get(action)
        return known is None or bool(known.arguments)

    def _unused(self, used: Sequence[tuple[Used, str, int]]) -> Iterator[UnusedKeys]:
        here = self.here("")
        done = {what for _one, what, _times in used}
        found: dict[str, list[Trigger]] = defaultdict(list)
        for binding in here.bindings if here is not None else ():
            name = _name(binding)
            if (
                binding.layer.kind != "adopted"
                and name
                and name not in done
                and not isinstance(binding.outcome, Nothing)
            ):
                found[name].append(binding.trigger)
        for name, triggers in sorted(found.items()):
            assert here is not None
            yield UnusedKeys(name, tuple(dict.fromkeys(map(here.context.platform.show, triggers))))


def _summed(pairs: Iterable[tuple]) -> list[tuple]:  # type: ignore[type-arg]
    """Pairs of a key and a number, or the parts of a key and a number, with the numbers of a key summed, the most first."""
    found: Counter[tuple] = Counter()  # type: ignore[type-arg]
    for pair in pairs:
        key = pair[0] if len(pair) == 2 else pair[:-1]
        found[key] += pair[-1]
    return sorted(found.items(), key=lambda row: (-row[1], row[0]))


def _name(binding: Binding) -> str:
    return _said(binding.outcome)


def _said(outcome: object) -> str:
    if isinstance(outcome, Do):
        return outcome.action
    if isinstance(outcome, Only):
        return f"{outcome.editor}:{outcome.command}"
    return str(outcome) if not isinstance(outcome, Nothing) else ""
