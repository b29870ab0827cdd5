"""Ways out of findings: each that is proposed takes its finding away and adds none; all at once at the least cost."""

import random
from collections.abc import Iterator
from pathlib import Path

import pytest

from ombix.core.audit import all_rules
from ombix.core.audit.fix_costs import Cost, CostedFix, least_cost, one_by_one
from ombix.core.errors import InputError
from ombix.core.keymap.changes import Move, in_words
from ombix.core.keys.notation import parse
from ombix.files.editing import apply
from ombix.work.audit import audit_questions
from ombix.work.change import change_questions
from ombix.work.mend import mend_questions
from ombix.work.mend.settle import best
from ombix.work.versions import versions_questions
from ombix.workspace.open_workspace import OpenWorkspace
from ombix.workspace.resources import Resources
from ombix.workspace.what_if import is_same
from tests.core.test_seeded_defects import PLANTERS, WORKSPACES, clean
from tests.helpers import MORE, shipped

RULES = all_rules()
WITHOUT_WAYS = {"circle", "pressed-keys"}
"""What a macro is to do is its user's to say."""
FIRES = "dte"
"""An editor in which the beginning of a sequence fires at once."""
PLANTED = MORE
"""Defects of each rule; more take a while."""
SHARED = Resources()


def opened(folder: Path, text: str, workspace: str = 'platform = "linux"') -> OpenWorkspace:
    """A session on a keymap in a workspace with these lines; what ships is loaded once."""
    folder.mkdir(exist_ok=True)
    (folder / "k.keys.toml").write_text(text)
    (folder / "ombix.toml").write_text(f'format = 1\nkeymap = "k.keys.toml"\n{workspace}\n')
    session = OpenWorkspace(folder=str(folder), state=str(folder.parent / f"{folder.name}-state"))
    session._resources = SHARED.with_texts({})
    return session


@pytest.mark.parametrize("rule", sorted(set(PLANTERS) - WITHOUT_WAYS))
def test_every_way_out_takes_its_finding_away_and_adds_none(rule: str, tmp_path: Path) -> None:
    kinds: set[str] = set()
    for seed in range(PLANTED):
        draft = clean(
            random.Random(f"{rule}{seed}"), 12, ("line.move-up", "line.move-down", "bookmark.next", "tabs.next")
        )
        PLANTERS[rule](draft)
        lines = WORKSPACES.get(rule, "")
        lines = lines if "platform" in lines else f'platform = "linux"\n{lines}'
        fires = FIRES if RULES[rule].policy.prefix == "fires" else ""
        session = opened(tmp_path / "quay", draft.text(), lines)
        here = mend_questions.settling(session, editor=fires).begin()
        found = [one for one in here.findings if one.rule == rule]
        assert found, (seed, draft.text())
        for one in found[:1]:
            ways = here.ways(one)
            assert ways, (seed, one.message)
            if one.changes:  # what the audit proposes holds, too
                assert here.tried(here.proposed(one), one) is not None, (seed, one.message, one.changes)
            before = {(each.rule, each.message) for each in here.findings}
            for way in ways:
                kinds.add(way.way.kind)
                now = here.trial_of(way.text).findings(here.of.platform)
                assert not any(is_same(each, one) for each in now), (seed, one.message, way.way.changes)
                assert len({(each.rule, each.message) for each in now}) <= len(before)
    assert kinds


MISSPELT = """\
format = 1
name = "k"
[where]
busy = "pane is txt" # here
[bind.line]
copy-donw = "Ctrl+D"
join = { press = "Ctrll+J", where = "not readony" }
[bind]
"edit".past = ["F6", "F7"]
[macro.twice]
steps = [ { do = "line.copy-dwn" }, { do = "line.delete" } ]
press = "F9"
"""
SPELT = [
    ("txt", "text"),
    ("copy-donw", "copy-down"),
    ("Ctrll", "Ctrl"),
    ("readony", "readonly"),
    ("copy-dwn", "copy-down"),
]


@pytest.mark.parametrize("take", ["best", "all"])
def test_misspelt_words_are_written_as_the_nearest_that_mean_something(take: str, tmp_path: Path) -> None:
    session = opened(tmp_path / "quay", MISSPELT)
    settling = mend_questions.settling(session, rules=["unknown"])
    settled = settling.in_turn(best) if take == "best" else settling.at_once()
    wanted = MISSPELT
    for word, to in SPELT:
        wanted = wanted.replace(word, to)
    assert settled.text == wanted  # but for the word in quotes, which is not where its dotted name begins
    left = [finding.message for finding, _ways, number in settled.findings if not number]
    assert left == ["unknown action: edit.past"]


def test_a_word_that_was_corrected_meanwhile_is_left(tmp_path: Path) -> None:
    session = opened(tmp_path / "quay", MISSPELT)
    here = mend_questions.settling(session, rules=["unknown"]).begin()
    changes = here.findings[0].changes
    with pytest.raises(InputError, match="there is no"):
        apply(MISSPELT.replace("txt", "text"), changes)


@pytest.mark.parametrize(("take", "platform"), [("as it is", "mac"), ("ours", "mac"), ("theirs", "windows")])
def test_what_a_merge_left_open_in_the_workspace_is_settled(take: str, platform: str, tmp_path: Path) -> None:
    session = opened(tmp_path / "quay", 'format = 1\nname = "k"\n[bind.files]\nsave = "F2"\n', "")
    file = tmp_path / "quay" / "ombix.toml"
    texts = [file.read_text() + f'# where we sit\nplatform = "{name}"\n' for name in ("linux", "mac", "windows")]
    for name, text in zip(("base", "ours", "theirs"), texts, strict=True):
        (tmp_path / "quay" / name).write_text(text)
    merged = versions_questions.merge(session, "base", "ours", "theirs", path="ombix.toml")
    assert len(merged.report.conflicts) == 1
    file.write_text(merged.text)
    settling = mend_questions.settling(OpenWorkspace(folder=str(tmp_path / "quay")))
    (finding,) = settling.begin().findings
    assert finding.rule == "conflict"
    ways = settling.begin().ways(finding)
    said = {
        "as it is": "leave platform as it is",
        "ours": "take platform as ours had it",
        "theirs": "take platform as theirs had it",
    }
    found = [one for one in ways if in_words(one.way.changes[0]) == said[take]]
    if take == "ours":  # which is what stands there
        assert found == []
        return
    (way,) = found
    assert way.text.rstrip() + "\n" == texts[0].replace('"linux"', f'"{platform}"')
    settled = settling.in_turn(
        lambda finding, ways, here: ways.index(next(one for one in ways if one.text == way.text)) + 1
    )
    assert settled.text == way.text
    file.write_text(settled.text)
    assert audit_questions.audit(OpenWorkspace(folder=str(tmp_path / "quay")), rules=["conflict"]).findings == ()


def test_what_is_no_toml_is_not_settled(tmp_path: Path) -> None:
    session = opened(tmp_path / "quay", MISSPELT.replace("[bind]", "[bind"))
    with pytest.raises(InputError, match="this is not TOML"):
        mend_questions.settling(session).begin()


def _planted(number: int, seed: int) -> tuple[str, dict[str, str]]:
    """A keymap with so many clashes, and bindings that have nothing to do with them: the text of each unrelated entry."""
    chance = random.Random(seed)
    actions = [
        one.name for one in shipped.catalogue().actions.values()
        if not one.arguments and one.risk == "none" and one.needs in ("always", "pane is text") and not one.enters
        and not one.leaves and not one.frequent
    ]  # fmt: skip
    chance.shuffle(actions)
    held = (
        "Ctrl+",
        "Alt+",
        "Ctrl+Shift+",
        "Alt+Shift+",
        "Ctrl+Alt+",
        "Meta+",
        "Meta+Shift+",
        "Meta+Alt+",
        "Ctrl+Alt+Shift+",
    )
    keys = [f"{one}{key}" for one in held for key in "abdeghijkmnopqrtuwy"]
    keys += [f"{one}F{n}" for one in ("", "Ctrl+", "Alt+", "Shift+", "Ctrl+Shift+", "Ctrl+Alt+") for n in range(2, 13)]
    chance.shuffle(keys)
    halves = [("", ""), ("modified", "selection is one"), ("not readonly", "language is python")]
    entries: dict[str, str] = {}
    for key in keys[:number]:
        for condition in chance.choice(halves):
            where = f', where = "{condition}"' if condition else ""
            entries[actions.pop()] = f'{{ press = "{key}"{where} }}'
    unrelated = {}
    for at in range(100):
        name = actions.pop()
        unrelated[name] = entries[name] = f'"F1 {"abcdefghij"[at // 10]} {"abcdefghij"[at % 10]}"'
    domains: dict[str, list[str]] = {}
    for name, value in entries.items():
        domain, _, verb = name.partition(".")
        domains.setdefault(domain, []).append(f"{verb} = {value}")
    body = "".join(f"\n[bind.{domain}]\n" + "\n".join(lines) + "\n" for domain, lines in domains.items())
    return f'format = 1\nname = "k"\n{body}', unrelated


@pytest.mark.long
@pytest.mark.parametrize("seed", [1, 2])
def test_two_hundred_clashes_are_settled_at_the_least_cost_and_nothing_else_is_touched(
    seed: int, tmp_path: Path
) -> None:
    text, unrelated = _planted(237, seed)
    session = opened(tmp_path / "quay", text)
    assert len(audit_questions.audit(session, rules=["clash"]).findings) >= 200
    settling = mend_questions.settling(session, rules=["clash"])
    report = mend_questions.write_settled(session, settling.at_once())
    assert report.left == 0
    assert report.consequences.new == ()
    assert report.bound is not None
    assert report.one_by_one is not None
    assert report.cost <= report.bound * 1.01
    assert report.cost <= report.one_by_one + 1e-6
    after = (tmp_path / "quay" / "k.keys.toml").read_text()
    lines = set(after.split("\n"))
    for name, value in unrelated.items():
        assert f"{name.partition('.')[2]} = {value}" in lines
    assert audit_questions.audit(opened(tmp_path / "quay", after), rules=["clash"]).findings == ()


def test_the_cheapest_ways_together_are_cheaper_than_one_after_the_other() -> None:
    one, other = parse("F2"), parse("F3")

    def way(name: str, cost: float, settles: str, to: tuple[object, ...]) -> CostedFix:
        change = Move(name, parse("F8"), "always", to)  # type: ignore[arg-type]
        return CostedFix("move", (change,), (Cost(cost, ""),), frozenset([settles]), (to,), (name,))  # type: ignore[arg-type]

    # By hand: A takes F2 for 1 where it comes first, and B then has to pay 9; the other way round both pay 4 in all.
    ways = [way("a", 1, "A", one), way("a", 2, "A", other), way("b", 2, "B", one), way("b", 9, "B", other)]
    greedy, least = one_by_one(ways, ["A", "B"]), least_cost(ways, ["A", "B"])
    assert greedy.cost == 10
    assert least.cost == least.bound == pytest.approx(4, abs=1e-5)
    assert least.ways == (1, 2)
    hopeless = least_cost(ways[:1], ["A", "B"])
    assert hopeless.open == ("B",)


@pytest.fixture
def clashing(tmp_path: Path) -> Iterator[Path]:
    text = 'format = 1\nname = "k"\n\n[bind.view]\nsoft-wrap = "F7"   # for long crossings\n\n[bind.settings]\nhard-wrap = "F7"\n'
    opened(tmp_path / "quay", text)
    yield tmp_path / "quay"


def test_one_by_one_the_best_way_is_taken_and_comments_stay(clashing: Path) -> None:
    text = (clashing / "k.keys.toml").read_text()
    session = opened(clashing, text)
    report = mend_questions.write_settled(session, mend_questions.settling(session, rules=["clash"]).in_turn(best))
    assert report.left == 0
    assert len(report.edits) == 1
    after = (clashing / "k.keys.toml").read_text()
    assert "# for long crossings" in after
    assert sum(one != other for one, other in zip(text.split("\n"), after.split("\n"), strict=True)) == 1
    change_questions.undo(session)
    assert (clashing / "k.keys.toml").read_text() == text


def test_a_plan_is_written_reviewed_and_carried_out(clashing: Path) -> None:
    from ombix.core.errors import InputError
    from ombix.work.mend.settle_plans import Planned, read_plan

    text = (clashing / "k.keys.toml").read_text()
    session = opened(clashing, text)
    report = mend_questions.draft_plan(
        session, mend_questions.settling(session, rules=["clash"]).in_turn(best), "plan.toml"
    )
    plan = (clashing / "plan.toml").read_text()
    assert (clashing / "k.keys.toml").read_text() == text
    assert report.plan is not None
    assert "take = 1" in plan
    second = plan.replace("take = 1", "take = 2")
    planned = read_plan(second, "plan.toml")
    assert planned[0].way
    carried = mend_questions.settling(session, rules=["clash"]).in_turn(Planned(planned, "plan.toml").choose)
    assert [in_words(one) for one in carried.changes] == [planned[0].way]
    (clashing / "k.keys.toml").write_text(text.replace('hard-wrap = "F7"', 'hard-wrap = "F6"'))
    stale = Planned(planned, "plan.toml")
    opened_again = OpenWorkspace(folder=str(clashing), state=str(clashing.parent / "s"))
    mend_questions.settling(opened_again, rules=["clash"]).in_turn(stale.choose)
    assert [one.rule for one in stale.left()] == ["clash"]
    with pytest.raises(InputError, match="take is the number"):
        read_plan(plan.replace("take = 1", "take = 99"), "plan.toml")
    for wrong in ('finding = ["x", 5]', "finding = 7"):
        with pytest.raises(InputError, match="are tables"):
            read_plan(f"format = 1\n{wrong}\n", "plan.toml")
    with pytest.raises(InputError, match="no plan"):
        read_plan("x = 1\n", "plan.toml")


def test_a_reason_lets_a_finding_be_accepted(clashing: Path) -> None:
    session = opened(clashing, (clashing / "k.keys.toml").read_text())
    here = mend_questions.settling(session, rules=["clash"], why="both are wanted").begin()
    ways = here.ways(here.findings[0], 50)
    assert [one.way.kind for one in ways].count("accept") == 1
    accepted = next(one for one in ways if one.way.kind == "accept")
    assert "both are wanted" in accepted.text
    assert here.with_text(accepted.text).findings == ()


def test_of_three_on_the_same_keys_one_stays(tmp_path: Path) -> None:
    names = ("soft-wrap", "overview", "line-numbers")
    lines = "\n".join(f'{name} = "F7"' for name in names)
    session = opened(tmp_path / "quay", f'format = 1\nname = "k"\n\n[bind.view]\n{lines}\n')
    report = mend_questions.write_settled(session, mend_questions.settling(session, rules=["clash"]).in_turn(best))
    after = (tmp_path / "quay" / "k.keys.toml").read_text()
    assert report.left == 0
    assert len(report.edits) == 2
    assert sum(f'{name} = "F7"' in after for name in names) == 1
