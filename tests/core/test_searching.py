"""Finding actions by words that people use for them."""

import pytest

from ombix.core.searching import search
from tests.helpers import shipped

ENTRIES = [(one.name, one.title, one.does, one.words) for one in shipped.catalogue().actions.values()]


@pytest.mark.parametrize(
    ("words", "action"),
    [
        ("duplicate line", "line.copy-down"),
        ("duplciate lin", "line.copy-down"),
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
        name
        for name, title, _does, _words in ENTRIES
        if name not in [found for _score, found in search(ENTRIES, title)[:5]]
    ]
    assert missing == []
