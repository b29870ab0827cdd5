"""Finding actions by words that people use for them."""

from pathlib import Path

import pytest

from ombix.core.catalogue.search_index import search_index
from ombix.core.catalogue.searching import nearest_domains, search, stem_of
from tests.helpers import shipped

ACTIONS = shipped.catalogue().actions
ENTRIES = search_index(ACTIONS.values(), shipped.synonyms())
QUESTIONS = [
    (words, tuple(right.split(", ")))
    for words, _, right in (
        line.partition(" | ")
        for line in (Path(__file__).parent / "data" / "questions.txt").read_text("utf-8").splitlines()
    )
]
"""What people ask for, and the actions that answer it: every second one was never looked at to make the answers better."""


@pytest.mark.parametrize(
    ("words", "action"),
    [
        ("duplicate line", "line.copy-down"),
        ("duplciate lin", "line.copy-down"),
        ("svae flie", "files.save"),
        ("opne flie", "files.open"),
        ("clone", "line.copy-down"),
        ("dedent", "line.outdent"),
        ("take back", "history.undo"),
        ("where is", "search.find"),
        ("uncomment", "comment.toggle"),
        ("how do I save the file", "files.save"),
        ("smart home", "cursor.text-start-or-line-start"),
        ("beginning of line", "cursor.line-start"),
        ("justfy", "format.paragraph"),
        ("multiple cursors", "cursors.add-next-match"),
        ("exit", "app.quit"),
        ("bookmark", "bookmark.toggle"),
        ("jtl", "go.line"),
        ("line.copy-down", "line.copy-down"),
    ],
)
def test_the_first_four_answers_have_what_is_meant(words: str, action: str) -> None:
    assert action in [name for _score, name in search(ENTRIES, words)[:4]]


def test_nonsense_finds_nothing() -> None:
    assert search(ENTRIES, "xyzzy plugh") == []
    assert search(ENTRIES, "") == []
    assert search(ENTRIES, "…") == []


def test_every_action_is_found_by_its_own_title() -> None:
    missing = [
        name for name, one in ACTIONS.items() if name not in [found for _score, found in search(ENTRIES, one.title)[:5]]
    ]
    assert missing == []


@pytest.mark.parametrize("half", [0, 1])
def test_questions_get_the_right_answer_first(half: int) -> None:
    asked = QUESTIONS[half::2]
    answers = [[name for _score, name in search(ENTRIES, words)[:5]] for words, _right in asked]
    first = sum(bool(found) and found[0] in right for found, (_words, right) in zip(answers, asked, strict=True))
    within = sum(bool({*found} & {*right}) for found, (_words, right) in zip(answers, asked, strict=True))
    assert len(asked) >= 200
    assert first >= 0.95 * len(asked)
    assert within >= 0.99 * len(asked)


def test_a_harmless_question_never_gets_an_answer_first_that_loses_work() -> None:
    for words, right in QUESTIONS:
        found = search(ENTRIES, words)
        if found and not any(ACTIONS[name].risk == "loses work" for name in right):
            assert ACTIONS[found[0][1]].risk != "loses work", words


def test_nothing_that_loses_work_is_found_by_a_near_spelling_or_a_beginning() -> None:
    assert search(ENTRIES, "delete branch")[0][1] == "versions.delete-branch"
    for words in ("brnch delet", "delte brach", "revrt hunk"):
        assert all(ACTIONS[name].risk != "loses work" for _score, name in search(ENTRIES, words)[:1])


@pytest.mark.parametrize(
    ("one", "other"),
    [
        ("lines", "line"), ("sorting", "sort"), ("matches", "match"), ("colour", "color"), ("centre", "center"),
        ("organise", "organize"), ("splitting", "split"), ("entries", "entry"), ("closed", "close"), ("duplicated", "duplicate"),
    ],
)  # fmt: skip
def test_forms_of_a_word_have_one_stem(one: str, other: str) -> None:
    assert stem_of(one) == stem_of(other)


def test_questions_of_one_kind_of_work() -> None:
    found = [name for _score, name in search(ENTRIES, "next", 50, ("debug", "tests"))]
    assert found
    assert {name.partition(".")[0] for name in found} <= {"debug", "tests"}


def test_where_nothing_fits_the_nearest_kinds_of_work_are_named() -> None:
    words = "stage quantum flux of hunks in zyxel"
    assert nearest_domains(ENTRIES, words)[0] == "versions"
    assert nearest_domains(ENTRIES, "xyzzy") == []


@pytest.mark.parametrize(
    "words", ["a" * 10_000, "go " * 5000, "\x00\x1b[31m", "日本語 の 行", "the of to", "…!?", "' \" \\"]
)
def test_odd_questions_end_soon(words: str) -> None:
    assert len(search(ENTRIES, words)) <= 12
