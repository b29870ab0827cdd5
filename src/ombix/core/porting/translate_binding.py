"""One binding after the other is translated for another editor: where it holds there, on which keys, by which command."""

from collections.abc import Iterator, Mapping, Sequence

from msgspec import Struct
from msgspec.structs import replace

from ombix.core.conditions import NEVER, States
from ombix.core.errors import Place
from ombix.core.keymap.bindings import Binding
from ombix.core.keymap.deciding import DecisionRow, DecisionTable
from ombix.core.keymap.outcomes import Do, Insert, Macro, Nothing, Only, Outcome, Play, steers
from ombix.core.keys.notation import Trigger, types_text, write
from ombix.core.porting.arrival import behaviour_when_unbound, collides_with_plain_key, falls_through, text_default
from ombix.core.porting.everyday import EverydayDifference, worst
from ombix.core.porting.macros import macro_command, macro_of, step_that_cannot, sure_steps, written_macro
from ombix.core.porting.placements import PlacedKeys, Placements
from ombix.core.porting.port_in_progress import LostBinding, PortInProgress
from ombix.core.porting.verdicts import PORT_LAYER, Judgement, PortDifference, PortEntry, TargetCommand, by_section


def translate(work: PortInProgress, row: DecisionRow, table: DecisionTable) -> None:
    """Carry over a row of the source's decision for a trigger."""
    translation = translation_of(work, row, table)
    entry, bindings = translation.run(row.binding.trigger)
    if entry.verdict == "lost" and translation.homes:
        needs_other_keys = translation.needs_other_keys
        work.lost.append(LostBinding(len(work.result.entries), row, table, translation.homes, needs_other_keys))
    work.add_entry(entry, bindings)


def translation_of(work: PortInProgress, row: DecisionRow, table: DecisionTable) -> "Translation":
    """The work for a row of the source's decision for a trigger."""
    outcome = row.binding.outcome
    said: list[PortDifference] = []
    if waits := work.time_differs(table):
        said.append(PortDifference(waits))
    if len(table.rows) == 1:
        return Translation(work, row.binding, row.states, row.states, [], said)
    same = [row.states for row in table.rows if row.binding.outcome == outcome]
    others = [row.states for row in table.rows if row.binding.outcome != outcome]
    return Translation(work, row.binding, row.states, work.space.union(same), others, said)


class Translation(Struct):
    """One binding of the source on its way. `alike` are the states in which its keys do the same in the source, `others`
    those in which they do something else."""

    work: PortInProgress
    binding: Binding
    states: States
    alike: States
    others: list[States]
    differs: list[PortDifference] = []
    remarks: list[str] = []
    homes: tuple[str, ...] = ()
    """The sections of the target where it holds."""
    needs_other_keys: bool = False
    """Whether it was the keys that the target could not have."""
    moved: str = ""
    """Which other keys it gets, and why."""
    cleared: list[tuple[Trigger, str, States, bool]] = []
    """Defaults of the target that have to go: their keys, section and states, and whether that has to be written."""
    found: dict[str, TargetCommand | None] = {}
    """The target's commands for it, by section."""

    def run(self, trigger: Trigger) -> tuple[PortEntry, list[Binding]]:
        """Put the binding on `trigger`, in those sections of the target where it holds."""
        space, target = self.work.space, self.work.target
        homes = {
            name: part for name, node in self.work.nodes.items() if (part := space.both(node, self.states)) != NEVER
        }
        if not homes:
            where = self.binding.where if self.binding.where != "always" else space.describe(self.states)
            return self._lost(f"{target.name} has nothing like {where}")
        self.homes = tuple(homes)
        outcome = self.binding.outcome
        if isinstance(outcome, Only) and outcome.editor != target.name:
            return self._lost(f"{outcome.command} is a command of {outcome.editor} only")
        if isinstance(outcome, Only) and steers(outcome.command) and not self.binding.written:
            return self._lost("its command has control characters in it")
        return self._carry(homes, trigger)

    def _carry(self, homes: dict[str, States], trigger: Trigger) -> tuple[PortEntry, list[Binding]]:
        work, target = self.work, self.work.target
        outcome = self.binding.outcome
        if (
            isinstance(outcome, Do)
            and not self.has_command(list(homes))
            and not self._is_there_by_default(homes, trigger)
        ):
            self.homes = ()
            return self._lost(self._no_command(list(homes)))
        if isinstance(outcome, Nothing) and trigger in work.request.source.by_itself:
            self.differs.append(PortDifference("where it comes from, the text does something with it by itself"))
        place, pressed = work.canonical(trigger), trigger
        bindable = any(target.can_bind(trigger, name) for name in homes)
        by_default = not bindable and all(self._is_default(place, part) for part in homes.values())
        is_itself = bindable and (place == trigger or not any(target.can_bind(place, name) for name in homes))
        if not is_itself and not by_default and (other := work.writable(trigger)) is not None and other != trigger:
            self.remarks.append(f"as {write(other)}, which arrives as the same bytes")
            trigger, bindable = other, True
        keys = PlacedKeys(trigger, place, pressed, bindable)
        placed = Placements()
        for section, part in homes.items():
            self._place_in_section(section, part, keys, placed)
        if placed.without_command:
            placed.reasons[self._no_command(placed.without_command)] = ""
        if not placed.written and not placed.kept:
            return self._lost("; ".join(placed.reasons), worst(placed.careful))
        return self._entry(keys, placed), self._bindings(trigger, place, placed.written)

    def _place_in_section(self, section: str, part: States, keys: PlacedKeys, placed: Placements) -> None:
        """Have the keys do it in a section, where that can be; each way is tried only where those before it cannot be gone: what
        the target does by default needs nothing written, and nothing that is not written can take a key from another binding."""
        work, outcome = self.work, self.binding.outcome
        held, said = self._held(section, part)
        if held == NEVER:
            placed.reasons[said] = said
            return
        of_states = PortDifference(said, self._shows(held, part)) if said else None
        rows = work.default_rows(keys.place, held)
        command = self.command(section)
        if self._is_default(keys.place, held):
            if conflict := self._conflict(keys.place, section, held):
                self._refuse(f"{write(keys.trigger)} is taken by {conflict}", placed)
                return
            if start := self._fires_before(keys.place, section):
                self._refuse(f"{write(start)} fires at once in {work.target.name}", placed)
                return
            by_default = rows[0][0].written if rows else ""
            work.give_key(by_default, section, keys.place)
            work.record_placement(keys.place, section, held, outcome)
            placed.keep(section, held, by_default, of_states, self._work_differs(section, by_default, command))
        elif not keys.bindable and rows and command and all(row.written == command.written for row, _part in rows):
            placed.keep(
                section, held, command.written, of_states, self._work_differs(section, command.written, command)
            )
        elif plain := collides_with_plain_key(work, self.binding, keys.pressed, held):
            self._refuse(plain, placed)
        elif isinstance(outcome, Nothing) and not rows and self._conflict(keys.place, section, held) is None:
            work.record_placement(keys.place, section, held, outcome)
            placed.kept.append(section)
            placed.held_states.append(held)
            placed.differs += map(PortDifference, behaviour_when_unbound(work, self.states, keys.trigger, held))
        elif (reason := self._why_not(keys.trigger, keys.place, section, held)) is not None:
            self._refuse(reason, placed)
        else:
            wanted = (
                self._taken_away(rows, keys, placed)
                if isinstance(outcome, Nothing)
                else self._written(section, command, keys, placed)
            )
            if wanted is None:
                return
            placed.differs += [of_states] if of_states is not None else []
            work.record_placement(keys.place, section, held, outcome)
            placed.written[section] = (wanted, held)
            placed.held_states.append(held)
            placed.displaced += [(section, row.outcome) for row, _part in rows if row.outcome != outcome]

    def _refuse(self, reason: str, placed: Placements) -> None:
        """Note why not these keys: others may do."""
        placed.reasons[reason] = reason
        self.needs_other_keys = True

    def _taken_away(
        self, rows: Sequence[tuple[Binding, States]], keys: PlacedKeys, placed: Placements
    ) -> Outcome | None:
        """What is written so that the keys do nothing; None where that cannot be."""
        if not self.work.target.can_take_away([row.written for row, _part in rows]):
            why = f"{self.work.target.name} cannot take its own keys away"
            placed.reasons[why] = why
            return None
        placed.differs += map(PortDifference, text_default(self.work, keys.trigger))
        return self.binding.outcome

    def _written(
        self, section: str, command: TargetCommand | None, keys: PlacedKeys, placed: Placements
    ) -> Outcome | None:
        """What is written so that the keys run a command; None where that cannot be."""
        work = self.work
        if command is None:
            placed.without_command.append(section)
            return None
        judged = self._work_differs(section, command.written, command)
        everyday = judged.everyday()
        if everyday is not None and everyday.is_careful and not work.request.writes_careful:
            why = "text could be lost" if everyday.share_of("text lost") else "it mostly does something else"
            placed.reasons[f"{why}: {judged.differs}"] = why
            placed.careful.append(everyday)
            return None
        if has_other := work.has_other_key(command.written, section, keys.place):
            placed.reasons[has_other] = has_other
            return None
        gone = work.give_key(command.written, section, keys.place)
        self.cleared += [(other, section, work.nodes[section], False) for other in gone]
        placed.judged[section] = judged
        placed.commands[section] = command.written
        placed.differs += [PortDifference(one, False) for one in falls_through(work, keys.trigger, command.written)]
        is_composed = command.is_composition
        return Only(work.target.name, command.written) if is_composed else self._played(self.binding.outcome)

    def _entry(self, keys: PlacedKeys, placed: Placements) -> PortEntry:
        """The account of a binding that has come across somewhere."""
        # What is done to a text goes before all else.
        differs = by_section({name: judged.differs for name, judged in placed.judged.items()})
        also = list(placed.differs)
        for section, held in [
            *((name, held) for name, (_o, held) in placed.written.items()),
            *placed.kept_states.items(),
        ]:
            also += map(PortDifference, self._stop_waiting(keys.place, section, held))
        cleared = [
            (other, section, row.outcome)
            for other, section, part, _is_written in self.cleared
            for row, _part in self.work.default_rows(other, part)
            if not isinstance(row.outcome, Nothing)
        ]
        sections = (*placed.kept, *placed.written)
        if placed.reasons:
            short = "; ".join(filter(None, placed.reasons.values()))
            where = f"only in {self._places_of(sections)}"
            said = f"only in {', '.join(sections)}: {'; '.join(placed.reasons)}"
            also.append(PortDifference(said, plain=f"{where}: elsewhere {short}" if short else where))
        also += self.differs
        differs += [one.said for one in also]
        found = [everyday for judged in placed.judged.values() if (everyday := judged.everyday()) is not None]
        return PortEntry(
            self.binding, "adapted" if differs or self.moved else "exact", self._how(placed.kept, placed.commands, differs),
            keys.trigger, sections, tuple(dict.fromkeys(placed.commands.values())), tuple(dict.fromkeys(placed.displaced)),
            tuple(dict.fromkeys(cleared)), states=self.work.space.union(placed.held_states),
            commands=tuple({**placed.runs, **placed.commands}.items()), macro=self._macro(), everyday=worst(found),
            is_compared=all(judged.is_known for judged in placed.judged.values()) and all(one.is_known for one in found),
            also=tuple(dict.fromkeys(one.plain or one.said for one in also if one.is_everyday)), moved=self.moved,
        )  # fmt: skip

    def _places_of(self, sections: Sequence[str]) -> str:
        """Sections of the target as one speaks of them: its modes by that name."""
        conditions = self.work.target.sections()
        modes = [name for name in sections if "mode is" in conditions[name]]
        others = [name for name in sections if name not in modes]
        said = [f"{' and '.join(modes)} mode"] if modes else []
        places = {name: conditions[name].removeprefix("pane is ") for name in others}
        return " and ".join([*said, *(f"the {place}" if place.isalpha() else name for name, place in places.items())])

    def _held(self, section: str, part: States) -> tuple[States, str]:
        """The states of a section in which the target can have the binding, and how they are not those of the source;
        NEVER and why, where there are none."""
        space, target = self.work.space, self.work.target
        node = self.work.nodes[section]
        held = target.expressible(part, node, space)
        others = [space.both(other, node) for other in self.others if not self._goes_before(other)]
        others = [target.expressible(other, node, space) for other in others if other != NEVER]
        if not any(space.overlap(held, other) for other in others):
            here = part if self.alike == self.states else space.both(self.alike, node)
            within = self.work.within
            if held == here or (within != space.possible and space.both(held, within) == space.both(here, within)):
                return held, ""
            lacking = self._inexpressible(part, held, node)
            if lacking and lacking == self.work.lacking_fact:
                return held, f"{target.name} has no {lacking}s"
            return held, f"{self._every(held, node)}, as {target.name} cannot tell {lacking}"
        narrower = held
        for other in others:
            narrower = space.minus(narrower, other)
        lacking = self._inexpressible(part, held, node)
        if space.both(narrower, part) == NEVER:
            return NEVER, f"the key means several things by {lacking}, which {target.name} cannot tell"
        return narrower, f"only when {space.describe(narrower)}, as {target.name} cannot tell {lacking}"

    def _work_differs(self, section: str, written: str, command: TargetCommand | None) -> Judgement:
        """How what the target's command does differs from what the binding does, where that can be compared."""
        judged = self.work.request.judge(self.binding, self._macro(), section, written) if written else None
        return judged if judged is not None else Judgement(command.differs if command else "")

    def _shows(self, held: States, part: States) -> bool:
        """Whether it shows in everyday use that the target has a binding in these states, and not just in its own."""
        return self.work.space.overlap(self.work.space.minus(held, part), self.work.usual)

    def _goes_before(self, other: States) -> bool:
        """Whether a target without modes has this binding and not what its keys do in the other states."""
        ranks = [
            next((rank for rank, mode in enumerate(self.work.merged) if self.work.space.meet(states, mode)), 0)
            for states in (self.states, other)
        ]
        return ranks[0] < ranks[1]

    def _every(self, held: States, node: States) -> str:
        return "in every state" if held == node else f"whenever {self.work.space.describe(held)}"

    def _inexpressible(self, part: States, held: States, node: States) -> str:
        """The facts that `part` speaks of and that the target cannot tell; where it tells something of all of them, those
        that are not held as they are in the source."""
        space = self.work.space
        # What the facts exclude is not what the binding speaks of.
        spoken = space.mentioned(space.parse(self.binding.where, self.binding.scope))
        if not spoken:  # what its action needs
            spoken = frozenset(
                fact
                for fact in space.mentioned(part)
                if space.both(space.without(part, [fact]), space.possible) != part
            )
        return self.work.inexpressible(spoken, space.mentioned(held), node)

    def _is_default(self, place: Trigger, states: States) -> bool:
        """Whether the target's defaults do the same in all these states."""
        if place not in self.work.defaults:
            return False
        rows = self.work.default_rows(place, states)
        return all(row.outcome == self.binding.outcome for row, _part in rows) and self.work.space.covers(
            self.work.space.union(part for _row, part in rows), states
        )

    def _is_there_by_default(self, homes: Mapping[str, States], trigger: Trigger) -> bool:
        """Whether the target does it on these keys by itself, somewhere, though no command of its file can be told to."""
        place = self.work.canonical(trigger)
        held = [held for name, part in homes.items() if (held := self._held(name, part)[0]) != NEVER]
        return any(self._is_default(place, one) for one in held)

    def _conflict(self, place: Trigger, section: str, held: States) -> Outcome | None:
        """What else was put on the trigger in some of these states."""
        for states, other in self.work.taken.get((place, section), ()):
            if other != self.binding.outcome and self.work.space.overlap(states, held):
                return other
        return None

    def _why_not(self, trigger: Trigger, place: Trigger, section: str, held: States) -> str | None:
        """Why the target cannot have the trigger in these states of a section, or None where it can."""
        work, target = self.work, self.work.target
        if not target.can_bind(trigger, section):
            return target.why_not(trigger)
        if (taken := self._conflict(place, section, held)) is not None:
            return f"{write(trigger)} arrives as the same bytes and is taken by {taken}"
        types = types_text(trigger[0]) and work.space.overlap(held, work.typing)
        if types and not work.space.overlap(self.states, work.typing):
            return f"{write(trigger[:1])} is typed in {target.name}"
        if target.policy.prefix == "fires" or not target.beginnings:
            return self._in_the_way(place, section)
        return None

    def _fires_before(self, place: Trigger, section: str) -> Trigger:
        """The beginning of keys that the port has bound by now, and that fires before these are complete; none where there is no
        such."""
        if self.work.target.policy.prefix != "fires":
            return ()
        starts = (place[:length] for length in range(1, len(place)))
        return next(
            (
                start for start in starts
                if any(not isinstance(one, Nothing) for _states, one in self.work.taken.get((start, section), ()))
            ),
            (),
        )  # fmt: skip

    def _in_the_way(self, place: Trigger, section: str) -> str | None:
        """Why a sequence, or its beginning, cannot be had where a chord that begins a sequence fires at once, or cannot do
        something itself."""
        work, name = self.work, self.work.target.name
        fires = work.target.policy.prefix == "fires"
        node = work.nodes[section]
        for length in range(1, len(place)):
            start = place[:length]
            rows = [row for row, _part in work.default_rows(start, node) if not isinstance(row.outcome, Nothing)]
            taken = [one for _states, one in work.taken.get((start, section), ()) if not isinstance(one, Nothing)]
            if rows and not taken and (not fires or (not work.is_bound(start) and self._can_go(rows, start, section))):
                self.cleared.append((start, section, node, fires))
            elif (rows or taken) and fires:
                return f"{write(start)} fires at once in {name}"
            elif taken:
                return f"{write(start)} does something itself, and cannot begin a sequence in {name}"
        for (other, home), found in work.taken.items():
            is_longer = home == section and len(other) > len(place) and other[: len(place)] == place
            if is_longer and not all(isinstance(one, Nothing) for _states, one in found):
                if fires:
                    return f"{write(place)} would fire before {write(other)} is complete"
                return f"{write(place)} begins {write(other)}, and can do nothing itself in {name}"
        return None

    def _stop_waiting(self, place: Trigger, section: str, held: States) -> list[str]:
        """Have the target's own sequences go that would make a key wait which does not wait in the source; where they
        cannot go, say so."""
        work = self.work
        own = work.tables.get(self.binding.trigger)
        if isinstance(self.binding.outcome, Nothing):
            return []
        waits = work.space.both(own.waits, self.states) if own is not None else NEVER
        if waits != NEVER:  # in some states it waits in the source, too; only the others count
            held = work.space.minus(work.space.both(held, self.states), waits)
        for other in work.longer(place):
            gone = work.space.union(states for states, _outcome in work.taken.get((other, section), ()))
            rest = work.space.minus(held, gone)
            rows = [row for row, _part in work.default_rows(other, rest) if not isinstance(row.outcome, Nothing)]
            if not rows or work.is_bound(other):
                continue
            if waits != NEVER or not self._can_go(rows, other, section):
                return [f"it waits, as {write(other)} begins with it"]
            self.cleared.append((other, section, rest, True))
        return []

    def _can_go(self, rows: Sequence[Binding], keys: Trigger, section: str) -> bool:
        target = self.work.target
        is_named = target.can_take_away([row.written for row in rows])
        return is_named and target.can_bind(keys, section) and not any(row.fixed for row in rows)

    def _bindings(self, trigger: Trigger, place: Trigger, written: dict[str, tuple[Outcome, States]]) -> list[Binding]:
        """What is written: one binding for sections that have the same, one for each condition, and one more wherever a
        default would be stronger than it."""
        work, target = self.work, self.work.target
        groups: dict[Outcome, list[str]] = {}
        found: list[Binding] = []
        for name, (outcome, held) in written.items():
            if held == work.nodes[name]:
                groups.setdefault(outcome, []).append(name)
            else:
                found.append(self._bound(trigger, outcome, work.space.describe(held)))
        whole = [self._bound(trigger, outcome, target.where(names)) for outcome, names in groups.items()]
        found = [*whole, *found]
        for keys, name, part, is_written in self.cleared:
            if not is_written:
                continue
            work.record_placement(keys, name, part, Nothing())
            where = target.where([name]) if part == work.nodes[name] else work.space.describe(part)
            gone = Binding(keys, Nothing(), Place("port"), PORT_LAYER, where)
            found += [gone, *self._stronger(gone, keys, name, part, work.rank(gone))]
        for name, (outcome, held) in written.items():
            own = max(work.rank(one) for one in found if one.outcome == outcome)
            found += self._stronger(self._bound(trigger, outcome, "always"), place, name, held, own)
        return found

    def _stronger(self, binding: Binding, place: Trigger, section: str, held: States, rank: int) -> Iterator[Binding]:
        """A binding under more conditions, wherever a default on these keys would be stronger than one of this rank: where the
        condition that says more wins, and not the line that comes last."""
        work = self.work
        if work.target.policy.wins not in ("innermost", "specific"):
            return
        for row, part in work.default_rows(place, held):
            if work.rank(row) > rank:
                here = work.space.describe(held) if held != work.nodes[section] else work.target.where([section])
                # A default that says nothing of when it holds holds when its action can be run, which counts for its rank.
                there = row.where if row.where != "always" else work.space.describe(part)
                parts = [text for text in (here, there) if text != "always"]
                where = " and ".join(f"({text})" if " or " in text else text for text in parts) or "always"
                yield replace(binding, where=where)

    def _bound(self, trigger: Trigger, outcome: Outcome, where: str) -> Binding:
        """A binding of the port."""
        return Binding(trigger, outcome, Place("port"), PORT_LAYER, where, instead_of=self.binding.outcome)

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

    def command(self, section: str) -> TargetCommand | None:
        """The target's command for the binding's outcome in a section, or None."""
        if section not in self.found:
            self.found[section] = self._command(section)
        return self.found[section]

    def _command(self, section: str) -> TargetCommand | None:
        outcome, target = self.binding.outcome, self.work.target
        own = target.own_command(self.binding)
        if own is not None:
            return own
        if isinstance(outcome, Do):
            return self._equal_way(target.ways_for(outcome, section), section)
        if isinstance(outcome, Only):
            return TargetCommand(outcome.command)
        macro = macro_of(self.work, outcome)
        written = macro_command(self.work, self.binding, macro, self.states, section) if macro is not None else None
        return self._equal_way([written] if written is not None else [], section) if macro is not None else None

    def _equal_way(self, ways: Sequence[TargetCommand], section: str) -> TargetCommand | None:
        """The first of the target's ways that does the same as the binding, or else commands in a row that are known to do so;
        where there are none, the first way."""
        request = self.work.request
        macro = self._macro()
        for way in ways:
            judged = request.judge(self.binding, macro, section, way.written)
            if judged is not None and not judged.differs:
                return way
        found = request.search(self.binding, macro, section)
        return TargetCommand(found, "", True) if found else ways[0] if ways else None

    def _macro(self) -> Macro | None:
        """The macro that is played, with pressed keys as what they do, where that is sure."""
        macro = macro_of(self.work, self.binding.outcome)
        return (
            replace(macro, steps=tuple(sure_steps(self.work, self.binding, macro, self.states)))
            if macro is not None
            else None
        )

    def _played(self, outcome: Outcome) -> Outcome:
        """The macro that is written: with steps of its own, where keys that it presses were replaced."""
        macro = macro_of(self.work, outcome)
        return written_macro(self.work, self.binding, macro, self.states) if macro is not None else outcome

    def _no_command(self, sections: list[str]) -> str:
        """That the target has nothing for the outcome: anywhere, or in these sections."""
        outcome, target = self.binding.outcome, self.work.target
        is_nowhere = not isinstance(outcome, Play | Insert) and not self.has_command(list(self.work.nodes))
        where = "" if is_nowhere or len(self.work.nodes) == 1 else f" in {', '.join(sections)}"
        macro = macro_of(self.work, outcome)
        if isinstance(outcome, Insert) and macro is None:
            return f"{target.name} has no key for a snippet with gaps"
        if macro is not None:
            why = step_that_cannot(self.work, self.binding, macro, self.states, sections)
            return f"not all steps of the macro can be had{where}: {why}"
        return f"{target.name} has no command for {outcome}{where}"

    def _lost(self, why: str, careful: EverydayDifference | None = None) -> tuple[PortEntry, list[Binding]]:
        return PortEntry(self.binding, "lost", why, everyday=careful), []
