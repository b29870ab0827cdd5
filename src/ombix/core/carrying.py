"""One binding after the other is carried over to another editor: where it holds there, on which keys, by which command."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import lru_cache

from ombix.core.conditions import NEVER, Space
from ombix.core.deciding import Policy, Row, Table
from ombix.core.errors import Place
from ombix.core.keymap import Binding, Do, Macro, Nothing, Only, Outcome, Play, Press, Step
from ombix.core.keys import Trigger, types_text, write
from ombix.core.verdicts import Command, Entry, Means, Port

TYPING = "pane is text and mode in (plain, insert)"
"""Where a character that is not bound is typed."""

MODES = ("plain", "insert", "normal", "select", "line")
"""The modes in the order in which their keys go to an editor without modes."""


@dataclass(frozen=True, slots=True)
class Lost:
    """A binding that was lost though the target has its sections: the entry's index, and whether it was the keys that the
    target could not have."""

    index: int
    row: Row
    table: Table
    homes: tuple[str, ...]
    needs_other_keys: bool


class Ground:
    """A port that is being made: the source, the target, and what was written so far."""

    def __init__(
        self, tables: Sequence[Table], macros: dict[str, Macro], target: Means, defaults: Mapping[Trigger, Table],
        canonical: Callable[[Trigger], Trigger], space: Space, source_policy: Policy | None,
        source_differs: Callable[[Binding], str], rank: Callable[[Binding], int],
    ) -> None:  # fmt: skip
        self.result = Port()
        self.tables = {table.trigger: table for table in tables}
        self.macros = macros
        self.target = target
        self.defaults = defaults
        self.canonical = lru_cache(maxsize=None)(canonical)
        self.space = space
        self.source_policy = source_policy
        self.source_differs = source_differs
        self.rank = rank
        self.nodes = {name: space.states(text) for name, text in target.sections().items()}
        self.taken: dict[tuple[Trigger, str], list[tuple[int, Outcome]]] = {}
        """What was put on a trigger in a section, and in which states."""
        self.lost: list[Lost] = []
        self._told: dict[tuple[str, int], bool] = {}
        self._untold: dict[tuple[frozenset[str], frozenset[str], int], str] = {}
        self._facts_of = {
            self.nodes[name]: space.mentioned(space.parse(text)) for name, text in target.sections().items()
        }
        self._places: dict[tuple[Outcome, str], Trigger] = {}
        self._defaults_of: dict[Outcome, list[tuple[Trigger, int]]] = {}
        for keys, table in defaults.items():
            for row in table.rows:
                self._defaults_of.setdefault(row.binding.outcome, []).append((keys, row.states))
        self._bound = {canonical(table.trigger) for table in tables}
        self._longer: dict[Trigger, list[Trigger]] = {}
        for keys in defaults:
            for length in range(1, len(keys)):
                self._longer.setdefault(keys[:length], []).append(keys)
        self._alike: dict[Trigger, Trigger] = {}
        for trigger in target.bindable():
            self._alike.setdefault(canonical(trigger), trigger)
        has_typing = {"pane", "mode"} <= set(space.facts.by_name)
        self.typing = space.states(TYPING) if has_typing and target.policy.unmatched == "types" else NEVER

        self.within = space.possible
        """The states that the source can be in."""
        self.modes: list[int] = []
        """The states of each mode, those first whose keys a target without modes has; none where the target has modes."""
        can_be = space.minus(space.possible, space.union(map(space.parse, target.never)))
        if has_typing and not space.overlap(can_be, space.parse("mode is not plain")):
            self.modes = [space.states(f"mode is {name}") for name in MODES]
        self._written: set[tuple[Trigger, Outcome, str]] = set()

    def job(self, row: Row, table: Table) -> "Job":
        """The work for a row of the source's decision for a trigger."""
        outcome = row.binding.outcome
        differs = self.source_differs(row.binding)
        said = [f"in the source, {differs}"] if differs else []
        if waits := self.time_differs(table):
            said.append(waits)
        if len(table.rows) == 1:
            return Job(self, row.binding, row.states, row.states, [], said)
        same = [one.states for one in table.rows if one.binding.outcome == outcome]
        others = [one.states for one in table.rows if one.binding.outcome != outcome]
        return Job(self, row.binding, row.states, self.space.union(same), others, said)

    def carry(self, row: Row, table: Table) -> None:
        """Carry over a row of the source's decision for a trigger."""
        job = self.job(row, table)
        made = job.run(row.binding.trigger)
        if made[0].verdict == "lost" and job.homes:
            self.lost.append(Lost(len(self.result.entries), row, table, job.homes, job.needs_other_keys))
        self.put(made)

    def put(self, made: "tuple[Entry, list[Binding]]") -> None:
        """Add an entry and its bindings to the result."""
        entry, bindings = made
        self.result.entries.append(entry)
        self.write(bindings)

    def write(self, bindings: Sequence[Binding]) -> None:
        """Add bindings to what is written."""
        for binding in bindings:
            key = (binding.trigger, binding.outcome, binding.where)
            if key in self._written:
                continue
            self._written.add(key)
            self.result.layer.bindings.append(binding)

    def writable(self, trigger: Trigger) -> Trigger | None:
        """A trigger that the target's file can have and that it cannot tell from this one."""
        return self._alike.get(self.canonical(trigger))

    def default_rows(self, place: Trigger, states: int) -> list[tuple[Binding, int]]:
        """What the target's defaults have on a trigger in these states, each with its own part of them."""
        table = self.defaults.get(place)
        parts = [(row.binding, self.space.both(row.states, states)) for row in table.rows] if table else []
        return [(binding, part) for binding, part in parts if part != NEVER]

    def is_bound(self, place: Trigger) -> bool:
        """Whether the source binds these keys."""
        return place in self._bound

    def longer(self, place: Trigger) -> list[Trigger]:
        """The keys of the target's defaults that begin with `place` and go on."""
        return self._longer.get(place, [])

    def untold(self, spoken: frozenset[str], told: frozenset[str], section: int) -> str:
        """Of the facts that a condition speaks of, those that the target cannot tell in a section; `told` are those that
        it speaks of there."""
        key = (spoken, told, section)
        if key not in self._untold:
            beside = sorted(spoken - self._facts_of.get(section, frozenset()))
            found = [fact for fact in beside if not self.is_told(fact, section)]
            self._untold[key] = ", ".join(found or sorted(set(beside) - told) or beside or sorted(spoken))
        return self._untold[key]

    def is_told(self, fact: str, section: int) -> bool:
        """Whether the target tells any value of a fact from the others in a section."""
        known = self._told.get((fact, section))
        if known is None:
            known = False
            for value in self.space.facts.by_name[fact].values:
                has = self.space.both(self.space.literal(fact, [value]), section)
                told = self.target.tell(has, section, self.space) if has != NEVER else section
                known = known or not self.space.overlap(told, self.space.minus(section, has))
            self._told[fact, section] = known
        return known

    def take(self, place: Trigger, section: str, states: int, outcome: Outcome) -> None:
        """Note what was put on a trigger."""
        self.taken.setdefault((place, section), []).append((states, outcome))
        self._places.setdefault((outcome, section), place)

    def keys_of(self, outcome: Outcome, section: str) -> Trigger | None:
        """Keys that an outcome has in a section by now, by the port or by default."""
        place = self._places.get((outcome, section))
        if place is not None:
            return place
        for keys, states in self._defaults_of.get(outcome, ()):
            if (keys, section) not in self.taken and self.space.both(states, self.nodes[section]) != NEVER:
                return keys
        return None

    def time_differs(self, table: Table) -> str:
        """How the target waits otherwise for what may follow these keys."""
        source, target = self.source_policy, self.target.policy
        if source is None or table.waits == NEVER or "timed" not in (source.prefix, target.prefix):
            return ""
        if source.prefix == "timed" and target.prefix == "waits":
            return f"it runs when another key does not go on, and not after {source.wait_ms} ms"
        if target.prefix == "timed" and (source.prefix, source.wait_ms) != (target.prefix, target.wait_ms):
            before = (
                f"after {source.wait_ms} ms" if source.prefix == "timed" else "only when another key does not go on"
            )
            return f"it runs after {target.wait_ms} ms, and not {before}"
        return ""

    def sure(self, keys: Trigger, states: int) -> list[Step] | None:
        """What pressed keys do in the source, where each of them does one thing in all these states, whatever happened
        before; None where that is not sure."""
        steps: list[Step] = []
        for chord in keys:
            table = self.tables.get((chord,))
            if table is None or table.waits != NEVER:
                return None
            rows = [row for row in table.rows if self.space.both(row.states, states) != NEVER]
            if len(rows) != 1 or not self.space.covers(rows[0].states, states):
                return None
            outcome = rows[0].binding.outcome
            if not isinstance(outcome, Do) or outcome.action.partition(".")[0] in _MOVING_ON:
                return None
            steps.append(outcome)
        return steps


_MOVING_ON = ("mode", "panes", "prompt", "files", "tabs", "app", "terminal", "search", "goto", "macro")
"""Kinds of work after which other keys hold."""


@dataclass(slots=True)
class Job:
    """One binding of the source on its way. `alike` are the states in which its keys do the same in the source, `others`
    those in which they do something else."""

    ground: Ground
    binding: Binding
    states: int
    alike: int
    others: list[int]
    differs: list[str] = field(default_factory=list)
    remarks: list[str] = field(default_factory=list)
    homes: tuple[str, ...] = ()
    """The sections of the target where it holds."""
    needs_other_keys: bool = False
    """Whether it was the keys that the target could not have."""
    moved: str = ""
    """Which other keys it gets, and why."""
    cleared: list[tuple[Trigger, str, int, bool]] = field(default_factory=list)
    """Defaults of the target that have to go: their keys, section and states, and whether that has to be written."""

    def run(self, trigger: Trigger) -> tuple[Entry, list[Binding]]:
        """Put the binding on `trigger`, in those sections of the target where it holds."""
        space, target = self.ground.space, self.ground.target
        homes = {
            name: part for name, node in self.ground.nodes.items() if (part := space.both(node, self.states)) != NEVER
        }
        if not homes:
            where = self.binding.where if self.binding.where != "always" else space.describe(self.states)
            return self._lost(f"{target.name} has nothing like {where}")
        self.homes = tuple(homes)
        outcome = self.binding.outcome
        if isinstance(outcome, Only) and outcome.editor != target.name:
            return self._lost(f"{outcome.command} is a command of {outcome.editor} only")
        return self._carry(homes, trigger)

    def _carry(self, homes: dict[str, int], trigger: Trigger) -> tuple[Entry, list[Binding]]:
        ground, target, space = self.ground, self.ground.target, self.ground.space
        outcome = self.binding.outcome
        if isinstance(outcome, Do) and not self.has_command(list(homes)):
            self.homes = ()
            return self._lost(self._no_command(list(homes)))
        place = ground.canonical(trigger)
        bindable = any(target.can_bind(trigger, name) for name in homes)
        by_default = not bindable and all(self._is_default(place, part) for part in homes.values())
        if not bindable and not by_default and (other := ground.writable(trigger)) is not None:
            trigger, bindable = other, True
            self.remarks.append(f"as {write(other)}, which arrives as the same bytes")
        written: dict[str, tuple[Outcome, int]] = {}
        kept: list[str] = []
        kept_states: dict[str, int] = {}
        told_states: list[int] = []
        displaced: list[tuple[str, Outcome]] = []
        commands: dict[str, str] = {}
        differs: list[str] = []
        reasons: list[str] = []
        without: list[str] = []
        for name, part in homes.items():
            told, said = self._told(name, part)
            if told == NEVER:
                reasons.append(said)
                continue
            rows = ground.default_rows(place, told)
            command = self.command(name)
            if self._is_default(place, told):
                if self._conflict(place, name, told) is None:
                    ground.take(place, name, told, outcome)
                    kept.append(name)
                    kept_states[name] = told
                    told_states.append(told)
                    differs += [one for one in (said, command.differs if command else "") if one]
                else:
                    self.needs_other_keys = True
                    reasons.append(f"{write(trigger)} is taken by {self._conflict(place, name, told)}")
                continue
            if not bindable and rows and command and all(row.written == command.written for row, _part in rows):
                kept.append(name)
                kept_states[name] = told
                told_states.append(told)
                differs += [one for one in (said, command.differs) if one]
                continue
            if (reason := self._why_not(trigger, place, name, told)) is not None:
                reasons.append(reason)
                self.needs_other_keys = True
                continue
            if isinstance(outcome, Nothing):
                if not rows:
                    kept.append(name)
                    told_states.append(told)
                    continue
                wanted: Outcome = outcome
            elif command is None:
                without.append(name)
                continue
            else:
                differs += [command.differs] if command.differs else []
                wanted = Only(target.name, command.written) if command.is_composition else self._played(outcome)
                commands[name] = command.written
            differs += [said] if said else []
            ground.take(place, name, told, outcome)
            written[name] = (wanted, told)
            told_states.append(told)
            displaced += [(name, row.outcome) for row, _part in rows if row.outcome != outcome]
        if without:
            reasons.append(self._no_command(without))
        if not written and not kept:
            return self._lost("; ".join(dict.fromkeys(reasons)))
        for name, told in [*((name, told) for name, (_outcome, told) in written.items()), *kept_states.items()]:
            differs += self._stop_waiting(place, name, told)
        cleared = [
            (keys, name, row.outcome)
            for keys, name, part, _is_written in self.cleared
            for row, _part in ground.default_rows(keys, part)
            if not isinstance(row.outcome, Nothing)
        ]
        if reasons:
            differs.append("only in " + ", ".join([*kept, *written]) + ": " + "; ".join(dict.fromkeys(reasons)))
        differs += self.differs
        entry = Entry(
            self.binding, "adapted" if differs or self.moved else "exact", self._how(kept, commands, differs), trigger,
            (*kept, *written), tuple(dict.fromkeys(commands.values())), tuple(dict.fromkeys(displaced)),
            tuple(dict.fromkeys(cleared)),
            states=space.union(told_states),
        )  # fmt: skip
        return entry, self._bindings(trigger, place, written)

    def _told(self, section: str, part: int) -> tuple[int, str]:
        """The states of a section in which the target can have the binding, and how they are not those of the source;
        NEVER and why, where there are none."""
        space, target = self.ground.space, self.ground.target
        node = self.ground.nodes[section]
        told = target.tell(part, node, space)
        others = [space.both(other, node) for other in self.others if not self._goes_before(other)]
        others = [target.tell(other, node, space) for other in others if other != NEVER]
        if not any(space.overlap(told, other) for other in others):
            here = part if self.alike == self.states else space.both(self.alike, node)
            within = self.ground.within
            if told == here or (within != space.possible and space.both(told, within) == space.both(here, within)):
                return told, ""
            untold = self._untold(part, told, node)
            if untold == "mode" and self.ground.modes:
                return told, f"{target.name} has no modes"
            return told, f"{self._every(told, node)}, as {target.name} cannot tell {untold}"
        narrower = told
        for other in others:
            narrower = space.minus(narrower, other)
        untold = self._untold(part, told, node)
        if space.both(narrower, part) == NEVER:
            return NEVER, f"the key means several things by {untold}, which {target.name} cannot tell"
        return narrower, f"only when {space.describe(narrower)}, as {target.name} cannot tell {untold}"

    def _goes_before(self, other: int) -> bool:
        """Whether a target without modes has this binding and not what its keys do in the other states."""
        ranks = [
            next((rank for rank, mode in enumerate(self.ground.modes) if self.ground.space.meet(states, mode)), 0)
            for states in (self.states, other)
        ]
        return ranks[0] < ranks[1]

    def _every(self, told: int, node: int) -> str:
        return "in every state" if told == node else f"whenever {self.ground.space.describe(told)}"

    def _untold(self, part: int, told: int, node: int) -> str:
        """The facts that `part` speaks of and that the target cannot tell; where it tells something of all of them, those
        that are not told as they are in the source."""
        space = self.ground.space
        # What the facts exclude is not what the binding speaks of.
        spoken = space.mentioned(space.parse(self.binding.where))
        if not spoken:  # what its action needs
            spoken = frozenset(
                fact
                for fact in space.mentioned(part)
                if space.both(space.without(part, [fact]), space.possible) != part
            )
        return self.ground.untold(spoken, space.mentioned(told), node)

    def _is_default(self, place: Trigger, states: int) -> bool:
        """Whether the target's defaults do the same in all these states."""
        if place not in self.ground.defaults:
            return False
        rows = self.ground.default_rows(place, states)
        return all(row.outcome == self.binding.outcome for row, _part in rows) and self.ground.space.covers(
            self.ground.space.union(part for _row, part in rows), states
        )

    def _conflict(self, place: Trigger, section: str, told: int) -> Outcome | None:
        """What else was put on the trigger in some of these states."""
        for states, other in self.ground.taken.get((place, section), ()):
            if other != self.binding.outcome and self.ground.space.overlap(states, told):
                return other
        return None

    def _why_not(self, trigger: Trigger, place: Trigger, section: str, told: int) -> str | None:
        """Why the target cannot have the trigger in these states of a section, or None where it can."""
        ground, target = self.ground, self.ground.target
        if not target.can_bind(trigger, section):
            return target.why_not(trigger)
        if (taken := self._conflict(place, section, told)) is not None:
            return f"{write(trigger)} arrives as the same bytes and is taken by {taken}"
        types = types_text(trigger[0]) and ground.space.overlap(told, ground.typing)
        if types and not ground.space.overlap(self.states, ground.typing):
            return f"{write(trigger[:1])} is typed in {target.name}"
        if target.policy.prefix == "fires" or not target.beginnings:
            return self._in_the_way(place, section)
        return None

    def _in_the_way(self, place: Trigger, section: str) -> str | None:
        """Why a sequence, or its beginning, cannot be had where a chord that begins a sequence fires at once, or cannot do
        something itself."""
        ground, name = self.ground, self.ground.target.name
        fires = ground.target.policy.prefix == "fires"
        node = ground.nodes[section]
        for length in range(1, len(place)):
            start = place[:length]
            rows = [row for row, _part in ground.default_rows(start, node) if not isinstance(row.outcome, Nothing)]
            taken = [one for _states, one in ground.taken.get((start, section), ()) if not isinstance(one, Nothing)]
            if (
                rows
                and not taken
                and (not fires or (not ground.is_bound(start) and self._can_go(rows, start, section)))
            ):
                self.cleared.append((start, section, node, fires))
            elif (rows or taken) and fires:
                return f"{write(start)} fires at once in {name}"
            elif taken:
                return f"{write(start)} does something itself, and cannot begin a sequence in {name}"
        for (other, home), found in ground.taken.items():
            is_longer = home == section and len(other) > len(place) and other[: len(place)] == place
            if is_longer and not all(isinstance(one, Nothing) for _states, one in found):
                if fires:
                    return f"{write(place)} would fire before {write(other)} is complete"
                return f"{write(place)} begins {write(other)}, and can do nothing itself in {name}"
        return None

    def _stop_waiting(self, place: Trigger, section: str, told: int) -> list[str]:
        """Have the target's own sequences go that would make a key wait which does not wait in the source; where they
        cannot go, say so."""
        ground = self.ground
        own = ground.tables.get(self.binding.trigger)
        if isinstance(self.binding.outcome, Nothing) or (own and ground.space.both(own.waits, self.states) != NEVER):
            return []
        for other in ground.longer(place):
            gone = ground.space.union(states for states, _outcome in ground.taken.get((other, section), ()))
            rest = ground.space.minus(told, gone)
            rows = [row for row, _part in ground.default_rows(other, rest) if not isinstance(row.outcome, Nothing)]
            if not rows or ground.is_bound(other):
                continue
            if not self._can_go(rows, other, section):
                return [f"it waits, as {write(other)} begins with it"]
            self.cleared.append((other, section, rest, True))
        return []

    def _can_go(self, rows: Sequence[Binding], keys: Trigger, section: str) -> bool:
        target = self.ground.target
        return target.can_take_away() and target.can_bind(keys, section) and not any(row.fixed for row in rows)

    def _bindings(self, trigger: Trigger, place: Trigger, written: dict[str, tuple[Outcome, int]]) -> list[Binding]:
        """What is written: one binding for sections that have the same, one for each condition, and one more wherever a
        default would be stronger than it."""
        ground, target = self.ground, self.ground.target
        groups: dict[Outcome, list[str]] = {}
        found: list[Binding] = []
        for name, (outcome, told) in written.items():
            if told == ground.nodes[name]:
                groups.setdefault(outcome, []).append(name)
            else:
                found.append(Binding(trigger, outcome, Place("port"), "port", ground.space.describe(told)))
        whole = [
            Binding(trigger, outcome, Place("port"), "port", target.where(names)) for outcome, names in groups.items()
        ]
        found = [*whole, *found]
        for keys, name, part, is_written in self.cleared:
            if not is_written:
                continue
            ground.take(keys, name, part, Nothing())
            where = target.where([name]) if part == ground.nodes[name] else ground.space.describe(part)
            found.append(Binding(keys, Nothing(), Place("port"), "port", where))
        for name, (outcome, told) in written.items() if target.policy.wins in ("innermost", "specific") else ():
            own = max(ground.rank(one) for one in found if one.outcome == outcome)
            for row, _part in ground.default_rows(place, told):
                if ground.rank(row) > own:
                    here = ground.space.describe(told) if told != ground.nodes[name] else target.where([name])
                    parts = [text for text in (here, row.where) if text != "always"]
                    where = " and ".join(f"({text})" if " or " in text else text for text in parts)
                    found.append(Binding(trigger, outcome, Place("port"), "port", where))
        return found

    def _how(self, kept: list[str], commands: dict[str, str], differs: list[str]) -> str:
        parts = [*([self.moved] if self.moved else []), *self.remarks]
        if commands:
            parts.append("written as " + ", ".join(dict.fromkeys(commands.values())))
        elif kept and isinstance(self.binding.outcome, Nothing):
            parts.append("not bound there either")
        elif kept:
            parts.append("so by default")
        elif not parts:
            parts.append("taken away")
        return "; ".join([*parts, *dict.fromkeys(differs)])

    def has_command(self, sections: Sequence[str]) -> bool:
        """Whether the target has anything for the binding's outcome in one of the sections."""
        return any(self.command(name) for name in sections)

    def command(self, section: str) -> Command | None:
        """The target's command for the binding's outcome in a section, or None."""
        outcome, target = self.binding.outcome, self.ground.target
        if isinstance(outcome, Do):
            return target.command_for(outcome, section)
        if isinstance(outcome, Only):
            return Command(outcome.command)
        if isinstance(outcome, Play):
            macro = self.ground.macros.get(outcome.macro)
            if macro is None:
                return None
            steps = self._sure_steps(macro)
            found = [target.command_for(step, section) for step in steps if isinstance(step, Do)]
            text = target.macro_text(steps, section)
            if None in found or text is None:
                return None
            differs = [one.differs for one in found if one is not None and one.differs]
            if any(isinstance(step, Press) for step in steps):
                differs.append("what the keys do in it is decided there")
            return Command(text, ", ".join(dict.fromkeys(differs)))
        return None

    def _sure_steps(self, macro: Macro) -> list[Step]:
        """The steps of a macro, with pressed keys as what they do, where that is sure."""
        steps: list[Step] = []
        for step in macro.steps:
            sure = self.ground.sure(step.keys, self.states) if isinstance(step, Press) else None
            for one in sure if sure is not None else [step]:
                steps += [one.once] * one.count if isinstance(one, Do) else [one]
        return steps

    def _played(self, outcome: Outcome) -> Outcome:
        """The macro that is written: with steps of its own, where keys that it presses were replaced."""
        macro = self.ground.macros.get(outcome.macro) if isinstance(outcome, Play) else None
        if macro is None:
            return outcome
        steps = tuple(self._sure_steps(macro))
        known = self.ground.result.layer.macros
        name, number = macro.name, 2
        while name in known and known[name].steps != steps:
            name, number = f"{macro.name}-{number}", number + 1
        known[name] = replace(macro, name=name, steps=steps)
        return Play(name)

    def _no_command(self, sections: list[str]) -> str:
        """That the target has nothing for the outcome: anywhere, or in these sections."""
        outcome, target = self.binding.outcome, self.ground.target
        is_nowhere = not isinstance(outcome, Play) and not self.has_command(list(self.ground.nodes))
        where = "" if is_nowhere or len(self.ground.nodes) == 1 else f" in {', '.join(sections)}"
        if isinstance(outcome, Play):
            return f"{target.name} cannot write the steps of the macro {outcome.macro}{where}"
        return f"{target.name} has no command for {outcome}{where}"

    def _lost(self, why: str) -> tuple[Entry, list[Binding]]:
        return Entry(self.binding, "lost", why), []
