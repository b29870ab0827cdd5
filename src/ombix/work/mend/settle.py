"""Findings settled: one after the other by the best way, as a plan says, or all at once at the least cost."""

from collections.abc import Callable, Iterable, Sequence
from typing import NamedTuple

from ombix.core.audit import Finding
from ombix.core.audit.fix_costs import Chosen, CostedFix, least_cost, one_by_one
from ombix.core.errors import InputError, OmbixError, Place
from ombix.core.keymap.bindings import Binding
from ombix.core.keymap.changes import Correct, KeymapChange, in_words
from ombix.core.toml import Document
from ombix.files import editing as text_editing
from ombix.files.disk import absolute
from ombix.files.writer import Contents, Writer
from ombix.work.mend.fixes import FixSearch, SettleScope, TriedFix, name_of
from ombix.work.mend.settle_answer import Fix, SettledFinding, SettleReport, WayCost
from ombix.work.mend.workspace_fixes import WorkspaceWaysOut
from ombix.workspace import findings
from ombix.workspace.change_answer import EditReport
from ombix.workspace.keymap_editing import KeymapEditing, layer_path
from ombix.workspace.what_if import is_same, new_findings

MOST_ROUNDS = 400
"""Findings that are settled one after the other in one run."""
_MOST_REPAIRS = 12
"""How often ways that bring new findings are taken out of the choice."""

Choose = Callable[[Finding, list[TriedFix], FixSearch], int]
"""Says which way out of a finding is taken: its number, from 1; 0 for none. Raises StopIteration to end."""


class SettledFile(NamedTuple):
    """The text of a file that was settled, and how."""

    before: FixSearch
    text: str
    findings: tuple[tuple[Finding, tuple[CostedFix, ...], int], ...]
    changes: tuple[KeymapChange, ...]
    chosen: Chosen | None = None
    greedy: float | None = None


class Settling:
    """Settles the findings of a workspace's keymap."""

    def __init__(self, editing: KeymapEditing, of: SettleScope) -> None:
        self._editing = editing
        self._of = of

    def begin(self) -> FixSearch:
        """Ways out in the file as it stands: in the workspace file as long as a merge left something open there, and else in the
        keymap. Raises InputError."""
        workspace = self._editing.opener.needed_workspace()
        path = layer_path("", self._editing.opener)
        if workspace.unsettled and any(rule.name == "conflict" for rule in self._of.rules):
            text = self._editing.resources.files.read_text(workspace.path)
            file = self._editing.read(path)._replace(path=workspace.path, text=text)
            return WorkspaceWaysOut(self._editing, file, self._of)
        Document(self._editing.resources.files.read_text(path), absolute(path))  # what is no TOML is not edited
        return FixSearch(self._editing, self._editing.read(path), self._of)

    # --- one after the other

    def in_turn(self, choose: Choose) -> SettledFile:
        """One finding after the other by the way that is chosen; the next is looked for in what then stands."""
        before = here = self.begin()
        taken: list[tuple[Finding, tuple[CostedFix, ...], int]] = []
        passed: list[Finding] = []
        for _ in range(MOST_ROUNDS):
            finding = next(
                (finding for finding in here.findings if not any(is_same(finding, other) for other in passed)), None
            )
            if finding is None:
                break
            ways = here.ways(finding)
            try:
                number = choose(finding, ways, here)
            except StopIteration:
                break
            taken.append((finding, tuple(way.way for way in ways), number))
            if number:
                here = here.with_text(ways[number - 1].text)
            else:
                passed.append(finding)
        changes = tuple(change for _f, ways, number in taken if number for change in ways[number - 1].changes)
        return SettledFile(before, here.file.text, tuple(taken), changes)

    # --- all at once

    def at_once(self) -> SettledFile:
        """The changes that leave no finding of the chosen rules, at the least cost in all. Nothing else is touched. What is
        misspelt is corrected first: only then can be seen what it brings."""
        before = here = self.begin()
        corrected: list[tuple[Finding, CostedFix]] = []
        tried: list[Finding] = []
        while misspelt := [
            finding for finding in here.findings
            if any(isinstance(change, Correct) for change in finding.changes)
            and not any(is_same(finding, other) for other in tried)
        ]:  # fmt: skip
            tried.append(misspelt[0])
            way = here.proposed(misspelt[0])
            text = here.tried(way, misspelt[0])
            if text is not None:
                here = here.with_text(text)
                corrected.append((misspelt[0], way))
        rest = self._least(here)
        extra = sum(way.cost for _finding, way in corrected)
        chosen = rest.chosen
        return SettledFile(
            before, rest.text, (*((finding, (way,), 1) for finding, way in corrected), *rest.findings),
            (*(change for _f, way in corrected for change in way.changes), *rest.changes),
            chosen and chosen._replace(cost=chosen.cost + extra, bound=chosen.bound + extra),
            None if rest.greedy is None else rest.greedy + extra,
        )  # fmt: skip

    def _least(self, here: FixSearch) -> SettledFile:
        candidates, obligations = _all_candidates(here)
        for _ in range(_MOST_REPAIRS):
            chosen = least_cost(candidates, obligations)
            picked = [candidates[index] for index in chosen.ways]
            made = _apply_all(here, picked)
            if not made.bringing and not made.leaving:
                greedy = one_by_one(candidates, obligations)
                return _settled_at_once(here, made.text, picked, chosen, greedy.cost if not greedy.open else None)
            forbidden = {way.changes for way in made.bringing}
            useless = {_fix_signature(way) for way in made.leaving}
            candidates = [
                way for way in candidates if way.changes not in forbidden and _fix_signature(way) not in useless
            ]
        raise InputError(
            "the findings cannot be settled all at once: each choice brings new ones",
            "Settle them one by one: ombix settle",
        )


def _all_candidates(here: FixSearch) -> tuple[list[CostedFix], list[str]]:
    """All ways out of all findings, with what each makes right, and the names of all that is to be made right."""
    found: dict[tuple[KeymapChange, ...], CostedFix] = {}
    obligations: list[str] = []

    def note(way: CostedFix, names: Iterable[str]) -> None:
        known = found.get(way.changes)
        settles = frozenset(names) | (known.settles if known is not None else frozenset())
        found[way.changes] = (known or way)._replace(settles=settles)

    for number, finding in enumerate(here.findings):
        concerned = here.concerned(finding)
        pairs = _conflicting_pairs(finding, concerned, here)
        if not pairs:
            obligations.append(str(number))
            for way in here.candidates(finding, many=True):
                note(way, [str(number)])
            continue
        names = {pair: f"{number}: {name_of(pair[0])} | {name_of(pair[1])}" for pair in pairs}
        obligations += names.values()
        for one in concerned:
            mine = [pair for pair in pairs if one in pair]
            for way in here.out_of_the_way(one):
                note(way, [names[pair] for pair in mine])
            for pair in mine:
                other = pair[1] if pair[0] is one else pair[0]
                for way in here.narrowed_against(one, other):
                    note(way, [names[pair]])
    return list(found.values()), obligations


def _conflicting_pairs(
    finding: Finding, concerned: Sequence[Binding], here: FixSearch
) -> list[tuple[Binding, Binding]]:
    """Of a finding on several bindings that beat each other, the pairs of which one has to give way."""
    found: dict[tuple[int, int], tuple[Binding, Binding]] = {}
    by_place = {one.place: one for one in concerned}
    for winner in finding.winners:
        first = by_place.get(winner.binding.place)
        for beaten in winner.beaten:
            second = by_place.get(beaten.place)
            if first is not None and second is not None and first is not second:
                key = (min(id(first), id(second)), max(id(first), id(second)))
                found[key] = (first, second)
    return list(found.values())


class _AppliedTogether(NamedTuple):
    """The text with all ways, those of them that bring new findings, and those that leave what they were to make right."""

    text: str
    bringing: tuple[CostedFix, ...] = ()
    leaving: tuple[CostedFix, ...] = ()


def _fix_signature(way: CostedFix) -> tuple[object, ...]:
    """What ways have in common that do the same to the same binding, whatever the keys are."""
    return way.kind, way.touches, way.settles


def _apply_all(here: FixSearch, picked: Sequence[CostedFix]) -> _AppliedTogether:
    if not picked:
        return _AppliedTogether(here.file.text)
    try:
        text = here.after([change for way in picked for change in way.changes])
    except OmbixError:
        return _AppliedTogether(here.file.text, tuple(way for way in picked if not _can_be(here, way)) or (picked[-1],))
    trial = here.trial_of(text)
    new: list[Finding] = []
    for platform in here.trial.platforms:
        new += new_findings(here.trial.findings(platform), trial.findings(platform))
    now = trial.findings(here.of.platform, here.of.rules)
    wanted = {name.partition(":")[0] for way in picked for name in way.settles}
    left = [at for at, one in enumerate(here.findings) if str(at) in wanted and any(is_same(one, each) for each in now)]
    leaving = [way for way in picked for at in left if any(name.partition(":")[0] == str(at) for name in way.settles)]
    if not new:
        return _AppliedTogether(text, (), tuple(dict.fromkeys(leaving)))
    keys = {keys for one in new for keys in one.keys}
    texts = {spot.text for one in new for spot in one.spots}
    resolve = here.subject.platform.resolve
    bringing = [
        way for way in picked
        if {resolve(one) for one in way.takes} & keys or any(name.split(" ")[0] in texts for name in way.touches)
    ]  # fmt: skip
    return _AppliedTogether(text, tuple(bringing) or tuple(picked), tuple(dict.fromkeys(leaving)))


def _can_be(here: FixSearch, way: CostedFix) -> bool:
    try:
        here.after(way.changes)
    except OmbixError:
        return False
    return True


def _settled_at_once(
    here: FixSearch, text: str, picked: Sequence[CostedFix], chosen: Chosen, greedy: float | None
) -> SettledFile:
    taken = []
    for number, finding in enumerate(here.findings):
        mine = tuple(way for way in picked if any(name.split(":")[0] == str(number) for name in way.settles))
        taken.append((finding, mine, 1 if mine else 0))
    changes = tuple(change for way in picked for change in way.changes)
    return SettledFile(here, text, tuple(taken), changes, chosen, greedy)


# --- written, and said


def write_settled(settled: SettledFile, editing: KeymapEditing, writer: Writer, dry_run: bool) -> SettleReport:
    """Write what was settled as one change. Raises InputError where the file was changed meanwhile."""
    path = settled.before.file.path

    def contents() -> Contents:
        if editing.resources.with_texts({}).files.read_text(path) != settled.before.file.text:
            raise InputError(
                "the file was changed while it was being settled", "Settle it again.", Place(absolute(path))
            )
        return {path: settled.text.encode("utf-8")} if settled.text != settled.before.file.text else {}

    count = sum(1 for _finding, _ways, number in settled.findings if number)
    writer.change(f"settle {count} finding{'s' * (count != 1)}", contents, dry_run)
    return report(settled, editing)


def report(settled: SettledFile, editing: KeymapEditing) -> SettleReport:
    """What was settled, or would be."""
    before = settled.before
    edited = text_editing.apply(before.file.text, settled.changes) if settled.changes else None
    edits = tuple(
        EditReport(in_words(edit.change), edit.after, edit.before)
        for edit in (edited.edits if edited is not None else ())
    )
    after = before.with_text(settled.text) if settled.text != before.file.text else before
    chosen = settled.chosen
    taken = {
        way.changes: way.cost for _f, ways, number in settled.findings if number for way in _taken(ways, number, chosen)
    }
    return SettleReport(
        Place(absolute(before.file.path)),
        tuple(
            SettledFinding(findings.in_words(finding, before.subject), tuple(map(way_out, ways)), number)
            for finding, ways, number in settled.findings
        ),
        edits, len(after.findings), round(sum(taken.values()), 3), None if chosen is None else round(chosen.bound, 3),
        None if settled.greedy is None else round(settled.greedy, 3),
        editing.tried(before.file, settled.text, settled.changes),
    )  # fmt: skip


def _taken(ways: Sequence[CostedFix], number: int, chosen: Chosen | None) -> Sequence[CostedFix]:
    """The ways of a finding that are taken: one by its number, or where all was settled at once, all that were chosen."""
    return ways if chosen is not None else ways[number - 1 : number]


def way_out(way: CostedFix) -> Fix:
    """A way in words."""
    return Fix(
        tuple(map(in_words, way.changes)), way.kind, round(way.cost, 3),
        tuple(WayCost(round(cost.habits, 3), cost.why) for cost in way.costs),
    )  # fmt: skip


def best(finding: Finding, ways: list[TriedFix], here: FixSearch) -> int:
    """The cheapest way, where there is one."""
    return 1 if ways else 0
