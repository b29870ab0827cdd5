"""Three-way merges of texts, and changes taken back after later ones."""

from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from ombix.core.errors import InputError
from ombix.files.line_merge import Collision, merge, without_lines
from ombix.files.writer import Writer

BASE = b"one\ntwo\nthree\nfour\nfive\n"
LINES = st.lists(st.sampled_from([b"a\n", b"b\n", b"c\n", b"d\n", b"\n"]), max_size=12).map(b"".join)


def test_changes_of_both_sides_are_kept() -> None:
    assert merge(BASE, BASE.replace(b"one", b"ONE"), BASE.replace(b"five\n", b"")) == b"ONE\ntwo\nthree\nfour\n"
    assert merge(BASE, b"zero\n" + BASE, BASE + b"six\n") == b"zero\n" + BASE + b"six\n"
    assert merge(BASE, BASE.replace(b"two", b"TWO"), BASE.replace(b"two", b"TWO")) == BASE.replace(b"two", b"TWO")


def test_the_same_lines_changed_otherwise_collide() -> None:
    found = merge(BASE, BASE.replace(b"two", b"TWO"), BASE.replace(b"two", b"zwei"))
    assert found == Collision(2, (b"TWO\n",), (b"zwei\n",))


@given(LINES, LINES)
def test_where_one_side_changed_nothing_the_other_is_taken(base: bytes, other: bytes) -> None:
    assert merge(base, other, base) == other
    assert merge(base, base, other) == other
    assert merge(base, other, other) == other


@given(LINES, LINES, LINES)
def test_it_does_not_matter_which_side_is_which(base: bytes, one: bytes, other: bytes) -> None:
    first, second = merge(base, one, other), merge(base, other, one)
    assert isinstance(first, Collision) == isinstance(second, Collision)
    if isinstance(first, bytes):
        assert first == second


@pytest.fixture
def writer(tmp_path: Path) -> Writer:
    (tmp_path / "home").mkdir()
    return Writer(tmp_path / "state", tmp_path / "home")


def test_a_change_is_taken_back_after_later_ones(writer: Writer, tmp_path: Path) -> None:
    file = tmp_path / "home" / "k.keys.toml"
    texts = ["a = 1\nb = 1\nc = 1\n", "a = 2\nb = 1\nc = 1\n", "a = 2\nb = 1\nc = 2\n"]
    for number, text in enumerate(texts):
        writer.change(f"write {number}", lambda text=text: {file: text})  # type: ignore[misc]
    newest, middle, _first = writer.history()
    assert [plan.how for plan in middle.plans] == ["merge"]
    assert [plan.how for plan in newest.plans] == ["restore"]
    taken = writer.undo(middle.noted.name)
    assert taken is not None
    assert taken.was_merged
    assert file.read_text() == "a = 1\nb = 1\nc = 2\n"
    assert [one.noted.record.command for one in writer.history()] == ["write 2", "write 0"]
    writer.undo()
    assert file.read_text() == "a = 1\nb = 1\nc = 1\n"


def test_a_change_in_the_same_lines_collides(writer: Writer, tmp_path: Path) -> None:
    file = tmp_path / "home" / "k.keys.toml"
    for text in ("a = 1\n", "a = 2\n", "a = 3\n"):
        writer.change(f"write {text}", lambda text=text: {file: text})  # type: ignore[misc]
    middle = writer.history()[1]
    assert middle.plans[0].how == "collides"
    with pytest.raises(InputError, match="in the same lines") as caught:
        writer.undo(middle.noted.name)
    assert caught.value.place is not None
    assert caught.value.place.line == 1
    assert file.read_text() == "a = 3\n"
    writer.undo(middle.noted.name, force=True)
    assert file.read_text() == "a = 1\n"


def test_a_merge_that_would_be_no_toml_collides(writer: Writer, tmp_path: Path) -> None:
    file = tmp_path / "home" / "k.keys.toml"
    writer.change("one", lambda: {file: "[a]\nx = 1\n"})
    writer.change("two", lambda: {file: "y = 2\n[a]\nx = 1\n"})
    writer.change("three", lambda: {file: "y = 2\n[a]\nx = 1\ny = 3\n"})
    assert [one.plans[0].how for one in writer.history()][1] == "merge"
    file.write_text("[a]\ny = 2\nx = 1\n")
    assert writer.history()[0].plans[0].how in ("merge", "collides")


def test_names_that_are_not_there_are_refused(writer: Writer) -> None:
    with pytest.raises(InputError, match="there is no change"):
        writer.undo("abcdef")
    assert writer.undo() is None


@pytest.mark.parametrize(
    ("before", "after", "now", "wanted"),
    [
        (b"", b"[A]\nx=1\n", b"[0]\nq=2\n\n[A]\nx=1\n\n[B]\ny=3\n", b"[0]\nq=2\n\n\n[B]\ny=3\n"),
        (b"[A]\nx=0\n", b"[A]\nx=1\n", b"[B]\ny=3\n\n[A]\nx=1\nz=4\n", b"[B]\ny=3\n\n[A]\nx=0\nz=4\n"),
        # What was put in is another, stands twice, or its heading has more below it.
        (b"", b"[A]\nx=1\n", b"[A]\nx=2\n", None),
        (b"", b"x=1\n", b"x=1\ny=2\nx=1\n", None),
        (b"", b"[A]\nx=1\n", b"[A]\nx=1\nw=5\n", None),
    ],
)
def test_lines_that_were_put_in_are_taken_out_wherever_they_stand(
    before: bytes, after: bytes, now: bytes, wanted: bytes | None
) -> None:
    assert without_lines(before, after, now) == wanted
