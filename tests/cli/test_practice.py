"""`ombix practice` in a pseudo-terminal: over ten days, by a good learner and a forgetful one."""

import json
import os
import shutil
import sys
from datetime import UTC, datetime, timedelta
from pathlib import Path

import pexpect
import pytest
from fsrs import Card, Rating, Scheduler

from ombix.core.errors import InputError
from ombix.core.keys.notation import parse
from ombix.work.learn import learn_questions
from ombix.work.learn.practice import PracticeOptions, graded
from ombix.workspace.open_workspace import OpenWorkspace
from tests.helpers import ombix, shipped

START = datetime(2026, 6, 1, 9, 0, tzinfo=UTC)
END = b"\x1c"
TERMINAL = shipped.terminal("xterm")


def environment(folder: Path, at: datetime) -> dict[str, str]:
    return {
        **os.environ, "OMBIX_HOME": str(folder / "home"), "SOURCE_DATE_EPOCH": str(int(at.timestamp())), "COLUMNS": "80",
        "TERM": "xterm", "LANG": "C.UTF-8", "XKB_DEFAULT_LAYOUT": "us", "NO_COLOR": "1",
    }  # fmt: skip


def practise(folder: Path, at: datetime, known: set[str], *options: str) -> list[str]:
    """A session in which the things that are known are answered right, and others shown; the titles that were asked."""
    program = str(Path(sys.executable).parent / "ombix")
    child = pexpect.spawn(
        program, ["practice", *options], cwd=str(folder), env=environment(folder, at), encoding=None, timeout=90,
        dimensions=(50, 100),
    )  # fmt: skip
    child.delaybeforesend = 0.02
    asked: list[str] = []
    titles = {one.title: one.keys[0] for one in items(folder)}
    while True:
        found = child.expect([rb"(\d+ of \d+|once more): ([^\r\n]+)\r\n", pexpect.EOF])
        if found == 1:
            break
        title = child.match[2].decode()
        child.expect(rb"ends\.\r\n")
        if child.match and not child.before.startswith(b"once"):
            asked.append(title)
        if title in known:
            sent = TERMINAL.send(parse(titles[title]))
            assert isinstance(sent, bytes)
            child.send(sent)
            child.expect(rb"Right: ")
        else:
            child.send(b"\r")
            child.expect(rb"It is ")
    child.close()
    assert child.exitstatus == 0
    return asked


def items(folder: Path) -> list:  # type: ignore[type-arg]
    found = learn_questions.practice(OpenWorkspace(folder=str(folder), state=str(folder / "nothing"))).listed()
    return [*found.due, *found.later, *found.new]


def listed(folder: Path, at: datetime) -> dict[str, list[dict[str, str]]]:
    ran = pexpect.run(
        f"{Path(sys.executable).parent / 'ombix'} practice --json",
        cwd=str(folder),
        env=environment(folder, at),
        encoding="utf-8",
    )
    return json.loads(ran)  # type: ignore[no-any-return]


@pytest.mark.long
def test_a_good_learner_sees_less_than_a_forgetful_one(ferry: Path, tmp_path: Path) -> None:
    """Over a week, two new things a day: what is asked is what the scheduler says is due, and no more."""
    names = {one.title for one in items(ferry)}
    totals = {}
    for learner, known in (("good", names), ("forgetful", set())):
        folder = tmp_path / learner
        ferry_copy = folder / "ferry"
        folder.mkdir()

        shutil.copytree(ferry, ferry_copy)
        cards: dict[str, Card] = {}
        total = 0
        for day in range(7):
            at = START + timedelta(days=day)
            due = {title for title, card in cards.items() if card.due <= at}
            told = listed(ferry_copy, at)
            assert {one["title"] for one in told["due"]} == due, (learner, day)
            asked = practise(ferry_copy, at, known, "--count", "40", "--new", "2")
            first = list(dict.fromkeys(asked))
            assert due <= set(first)
            fresh = set(first) - due
            assert len(fresh) == 2
            for title in first:
                card = cards.get(title) or Card(card_id=1, due=at)
                rating = Rating.Good if title in known else Rating.Again
                cards[title], _log = Scheduler(enable_fuzzing=False).review_card(card, rating, at)
            total += len(first)
        totals[learner] = total
    assert totals["forgetful"] > totals["good"] >= 14


def test_a_wrong_key_says_what_it_would_have_done_and_keys_can_be_tried_again(ferry: Path) -> None:
    program = str(Path(sys.executable).parent / "ombix")
    child = pexpect.spawn(
        program,
        ["practice", "line.copy-down", "--count", "1"],
        cwd=str(ferry),
        env=environment(ferry, START),
        timeout=20,
    )
    child.expect(rb"1 of 1: Copy the line down")
    child.expect(rb"before")
    child.expect(rb"after")
    child.expect(rb"ends\.")
    child.send(b"\x0b")
    child.expect(rb"Ctrl\+K: Delete the line\. Not that\.")
    child.expect(rb"Once more\.")
    child.send(b"\x04")
    child.expect(rb"Right: Ctrl\+D")
    child.expect(rb"1 at the second try")
    child.expect(pexpect.EOF)
    later = listed(ferry, START)["later"]
    assert [(one["title"], one["right"], one["wrong"]) for one in later] == [("Copy the line down", 1, 0)]


def test_it_ends_when_its_user_wants_and_keeps_what_was_answered(ferry: Path) -> None:
    program = str(Path(sys.executable).parent / "ombix")
    child = pexpect.spawn(program, ["practice"], cwd=str(ferry), env=environment(ferry, START), timeout=20)
    child.expect(rb"1 of 4")
    child.expect(rb"ends\.")
    child.send(b"\r")
    child.expect(rb"2 of 4")
    child.expect(rb"ends\.")
    child.send(END)
    child.expect(rb"0 right at once, 1 shown\.")
    child.expect(pexpect.EOF)
    assert len(listed(ferry, START)["later"]) == 1


def test_keys_that_this_terminal_does_not_send_are_written(ferry: Path) -> None:
    (ferry / "k.keys.toml").write_text(
        'format = 1\nname = "k"\n[bind.line]\ncopy-down = "Meta+Shift+D"\ndelete = "Ctrl+1"\n'
    )
    program = str(Path(sys.executable).parent / "ombix")
    call = ["practice", "--file", "k.keys.toml", "line.copy-down"]
    child = pexpect.spawn(program, call, cwd=str(ferry), env=environment(ferry, START), timeout=20)
    child.expect(rb"This terminal does not send them: write the keys")
    child.sendline("Meta+Shfit+D")
    child.expect(rb"Shfit")
    child.sendline("Ctrl+1")
    child.expect(rb"Delete the line\. Not that")
    child.sendline("Meta+Shift+D")
    child.expect(rb"Right: ")
    child.close(force=True)


def test_what_is_remembered_is_written_out_and_forgotten(ferry: Path) -> None:
    session = OpenWorkspace(folder=str(ferry), state=str(ferry.parent / f".home-{ferry.name}" / "state"))
    practice = learn_questions.practice(session)
    practice.grade(practice.questions()[0], "good")
    ran = ombix(ferry, "practice", "--export", "known.json")
    assert ran.status == 0
    rows = json.loads((ferry / "known.json").read_text())["memories"]
    assert [one["right"] for one in rows.values()] == [1]
    assert "1 thing." in ombix(ferry, "practice", "--forget").err
    assert "Nothing was practised yet." in ombix(ferry, "practice", "--list").out
    assert "0 things." in ombix(ferry, "practice", "--forget").err


def test_two_sessions_at_once_lose_nothing_of_each_other(ferry: Path) -> None:
    one, two = (
        learn_questions.practice(OpenWorkspace(folder=str(ferry), state=str(ferry / "state"))) for _ in range(2)
    )
    first, second = one.questions()[:2]
    one.grade(first, "good")
    two.grade(second, "again")
    one.grade(second, "good")
    known = learn_questions.practice(OpenWorkspace(folder=str(ferry), state=str(ferry / "state"))).listed()
    rows = {each.name: (each.right, each.wrong) for each in (*known.due, *known.later)}
    assert rows == {first.name: (1, 0), second.name: (1, 1)}


def test_new_things_stand_beside_old_ones_and_near_misses_together(ferry: Path) -> None:
    session = OpenWorkspace(folder=str(ferry), state=str(ferry / "state"))
    first = learn_questions.practice(session, PracticeOptions())
    questions = first.questions()
    assert [one.does for one in questions] == [one.does for one in first.listed().new[: len(questions)]]
    for one in questions:
        first.grade(one, "again")
    used = learn_questions.practice(session, PracticeOptions(counts={"Alt+M": 90, "Mod+K": 7}))
    assert [one.does for one in used.listed().new[:2]] == ["cursor.matching-bracket", "line.delete"]
    limited = learn_questions.practice(session, PracticeOptions(count=3, new=1)).questions()
    assert len(limited) <= 3


def test_what_is_named_is_asked_be_it_due_or_not(ferry: Path) -> None:
    session = OpenWorkspace(folder=str(ferry), state=str(ferry / "state"))

    def asked(*names: str, editor: str = "") -> list[str]:
        found = learn_questions.practice(session, PracticeOptions(only=names), editor=editor)
        return [one.does for one in found.questions()]

    assert asked("line.copy-down", "Undo") == ["line.copy-down", "history.undo"]
    assert asked("Undo", "line.copy-down", "history") == ["history.undo", "line.copy-down", "history.redo"]
    assert asked("wrap-crossing") == asked("Wrap the line in a crossing") == ["macro wrap-crossing"]
    tabs = ["tabs.next", "tabs.previous"]
    assert sorted(asked("tabs")) == tabs
    assert learn_questions.practice(session, PracticeOptions(only=("tabs",))).know() == 2
    assert not set(tabs) & set(asked())  # which are not due
    assert sorted(asked("tabs")) == tabs
    with pytest.raises(InputError, match="tabz has no keys"):
        asked("tabz")
    with pytest.raises(InputError, match=r"program.start is not on F8 in pier: nano has no command for program.start"):
        asked("program.start", editor="pier")


def test_keys_that_arrive_as_others_are_written(ferry: Path) -> None:
    (ferry / "k.keys.toml").write_text('format = 1\nname = "k"\n[bind.tabs]\nnext = "Ctrl+Tab"\nprevious = "F6"\n')
    practice = learn_questions.practice(
        OpenWorkspace(ferry / "k.keys.toml", folder=str(ferry), state=str(ferry / "state"))
    )
    assert {one.does: one.is_sent for one in practice.questions()} == {"tabs.next": False, "tabs.previous": True}


def test_any_keys_of_the_action_are_right_and_half_a_sequence_waits(ferry: Path) -> None:
    session = OpenWorkspace(folder=str(ferry), state=str(ferry / "state"))
    practice = learn_questions.practice(session)
    save = next(one for one in practice.listed().new if one.does == "files.save")
    for keys in ("Ctrl+S", "F2"):
        sent = TERMINAL.send(parse(keys))
        assert isinstance(sent, bytes)
        answer = practice.answer(save, sent)
        assert answer is not None and answer.is_right
    wrong = practice.answer(save, b"\x0b")
    assert wrong is not None and (wrong.is_right, wrong.title) == (False, "Delete the line")
    loom = learn_questions.practice(OpenWorkspace(str(ferry / "loom" / "ombix.toml"), state=str(ferry / "state")))
    sequence = next(one for one in loom.listed().new if " " in one.keys[0])
    keys = parse(sequence.name.rpartition(" · ")[2].split(", ")[0])
    half = TERMINAL.send(keys[:1])
    assert isinstance(half, bytes)
    assert loom.answer(sequence, half) is None


@pytest.mark.parametrize(
    ("tries", "seconds", "grade"),
    [(0, None, "again"), (0, 0.1, "again"), (1, None, "good"), (2, None, "hard"), (1, 1.0, "easy"), (1, 9.0, "hard")],
)
def test_grades(tries: int, seconds: float | None, grade: str) -> None:
    assert graded(tries, seconds) == grade


@pytest.mark.parametrize(
    ("call", "said"),
    [
        (("practice",), "there is no terminal to ask at"),
        (("practice", "line.cpoy", "--list"), "line.cpoy has no keys"),
        (("practice", "--in", "pain is text", "--list"), "pain"),
        (("practice", "--count", "0"), "0"),
        (("practice", "--counts", "none.txt", "--list"), "none.txt"),
    ],
    ids=lambda value: " ".join(value) if isinstance(value, tuple) else "",
)
def test_what_is_wrong_is_said(ferry: Path, call: tuple[str, ...], said: str) -> None:
    ran = ombix(ferry, *call)
    assert ran.status == 2
    assert said in ran.err


def test_a_file_that_cannot_be_read_is_told(ferry: Path) -> None:
    folder = ferry.parent / f".home-{ferry.name}" / "state" / "practice"
    session = OpenWorkspace(folder=str(ferry), state=str(folder.parent))
    practice = learn_questions.practice(session)
    practice.grade(practice.questions()[0], "good")
    (file,) = folder.iterdir()
    file.write_text("{")
    ran = ombix(ferry, "practice", "--list")
    assert ran.status == 2
    assert "ombix practice --forget" in ran.err
