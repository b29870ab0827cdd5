"""Files: bounded reading, whole writing, locks, and taking changes back."""

import os
import signal
import subprocess
import sys
import time
from pathlib import Path
from typing import NoReturn

import pytest

from ombix.core.errors import InputError, OutsideError
from ombix.files.disk import MAX_FILE_SIZE, Files, is_torn
from ombix.files.journal import MOST_RECORDS
from ombix.files.writer import Writer


def test_a_byte_order_mark_is_taken_off(tmp_path: Path) -> None:
    file = tmp_path / "a"
    file.write_bytes(b"\xef\xbb\xbfformat = 1\n")
    assert Files().read_text(file) == "format = 1\n"


@pytest.mark.parametrize(
    ("data", "line", "column", "what"),
    [(b"a\nb\xff", 2, 2, "UTF-8"), (b"a\n\xe9 latin", 2, 1, "UTF-8"), (b"ab\0", 1, 3, "NUL")],
)
def test_what_is_not_text_gets_its_place(tmp_path: Path, data: bytes, line: int, column: int, what: str) -> None:
    file = tmp_path / "a"
    file.write_bytes(data)
    with pytest.raises(InputError, match=what) as caught:
        Files().read_text(file)
    assert caught.value.place is not None
    assert (caught.value.place.line, caught.value.place.column) == (line, column)


def test_a_huge_file_is_refused_without_being_read(tmp_path: Path) -> None:
    file = tmp_path / "a"
    with file.open("wb") as stream:
        stream.truncate(MAX_FILE_SIZE + 1)
    with pytest.raises(InputError, match="MB"):
        Files().read_text(file)


def test_a_folder_a_pipe_and_nothing(tmp_path: Path) -> None:
    os.mkfifo(tmp_path / "pipe")
    for name, what in (("", "folder"), ("pipe", "ordinary"), ("none", "no such file")):
        with pytest.raises(InputError, match=what):
            Files().read_text(tmp_path / name)


def test_an_unreadable_file_is_an_outside_fault(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    file = tmp_path / "a"
    file.write_text("x", "utf-8")

    def refuse(path: Path, mode: str = "r") -> NoReturn:  # whoever runs the tests as root may read everything
        raise PermissionError(13, "Permission denied", str(path))

    monkeypatch.setattr(Path, "open", refuse)
    with pytest.raises(OutsideError, match="cannot be read") as caught:
        Files().read_text(file)
    assert "permissions" in caught.value.advice


def test_writing_keeps_links_permissions_and_line_ends(tmp_path: Path) -> None:
    real, link = tmp_path / "real", tmp_path / "link"
    real.write_bytes(b"old\r\n")
    real.chmod(0o640)
    link.symlink_to(real)
    Writer(tmp_path / "state", tmp_path).change("try", lambda: {link: "a\nb\n"})
    assert link.is_symlink()
    assert real.read_bytes() == b"a\r\nb\r\n"
    assert real.stat().st_mode & 0o777 == 0o640
    assert sorted(path.name for path in tmp_path.iterdir()) == ["link", "real", "state"]


def test_a_folder_that_is_no_folder_is_an_outside_fault(tmp_path: Path) -> None:
    (tmp_path / "file").write_text("x", "utf-8")
    with pytest.raises(OutsideError):
        Writer(tmp_path / "state", tmp_path).change("try", lambda: {tmp_path / "file" / "below": "text"})
    assert (tmp_path / "file").read_text("utf-8") == "x"


_WRITER = """
import sys
from pathlib import Path
from ombix.files.writer import Writer
folder = Path(sys.argv[1])
writer = Writer(folder / "state", folder)
print("ready", flush=True)
while True:
    for letter in "ab":
        writer.change(letter, lambda: {folder / name: letter * 300_000 + "\\n" for name in ("one", "two")})
"""


@pytest.mark.parametrize("has_other_names", [False, True])
def test_a_kill_at_any_moment_leaves_all_files_old_or_all_new_after_the_next_run(
    tmp_path: Path, has_other_names: bool
) -> None:
    files = [tmp_path / "one", tmp_path / "two"]
    for delay in (0.0, 0.003, 0.008, 0.013, 0.021, 0.034, 0.055):
        for file in files:
            file.write_text("c" * 300_000 + "\n", "utf-8")
            if has_other_names and not file.with_suffix(".other").exists():
                os.link(file, file.with_suffix(".other"))
        with subprocess.Popen([sys.executable, "-c", _WRITER, str(tmp_path)], stdout=subprocess.PIPE) as child:
            assert child.stdout is not None
            child.stdout.readline()
            time.sleep(delay)
            child.send_signal(signal.SIGKILL)
        Writer(tmp_path / "state", tmp_path).change("next", lambda: {tmp_path / "next": "n\n"})
        texts = {file.read_text("utf-8") for file in files}
        (text,) = texts
        assert len(text) == 300_001
        assert len(set(text[:-1])) == 1
        if has_other_names:
            assert {file.with_suffix(".other").read_text("utf-8") for file in files} == texts
        assert {path.suffix for path in tmp_path.iterdir()} <= {"", ".other"}  # no strays
        assert [path.suffix for path in (tmp_path / "state" / "changes").glob("*/*") if path.suffix != ".done"] == []


def test_an_interrupted_change_that_was_written_to_its_end_is_kept(tmp_path: Path) -> None:
    file, said = tmp_path / "one", list[str]()
    file.write_text("old\n", "utf-8")
    writer = Writer(tmp_path / "state", tmp_path, say=said.append)
    writer.change("first", lambda: {file: "new\n"})
    (note,) = (tmp_path / "state" / "changes").glob("*/*.done")
    note.rename(note.with_suffix(".begun"))  # as a run leaves it that ends before it closes its note
    writer.recover()
    assert (file.read_text("utf-8"), len(said)) == ("new\n", 1)
    assert "had written all of “first”; it is kept" in said[0]
    undone = writer.undo()
    assert undone is not None
    assert (undone.command, file.read_text("utf-8")) == ("first", "old\n")


def test_an_interrupted_change_is_taken_back_where_one_of_its_files_is_missing(tmp_path: Path) -> None:
    one, two, said = tmp_path / "one", tmp_path / "new" / "two", list[str]()
    one.write_text("old\n", "utf-8")
    writer = Writer(tmp_path / "state", tmp_path, say=said.append)
    writer.change("first", lambda: {one: "new\n", two: "new\n"})
    (note,) = (tmp_path / "state" / "changes").glob("*/*.done")
    note.rename(note.with_suffix(".begun"))
    two.unlink()
    writer.recover()
    assert (one.read_text("utf-8"), two.parent.exists(), writer.undo()) == ("old\n", False, None)
    assert said == ["An interrupted run had begun “first”; what it had written was taken back."]


def test_a_change_that_was_being_taken_back_is_taken_back_to_its_end(tmp_path: Path) -> None:
    file, said = tmp_path / "one", list[str]()
    file.write_text("old\n", "utf-8")
    writer = Writer(tmp_path / "state", tmp_path, say=said.append)
    writer.change("first", lambda: {file: "new\n"})
    (note,) = (tmp_path / "state" / "changes").glob("*/*.done")
    note.rename(note.with_suffix(".undoing"))
    writer.recover()
    assert (file.read_text("utf-8"), writer.undo()) == ("old\n", None)


def test_lines_that_a_program_wrote_in_another_order_are_known_by_what_they_say(tmp_path: Path) -> None:
    """Of a file of TOML they are not: there the table that a line stands in counts."""
    for name, is_taken_back in (("rows.conf", True), ("rows.toml", False)):
        writer, file = Writer(tmp_path / "state", tmp_path), tmp_path / name
        file.write_text("a = 1\nb = 2\nc = 3\n", "utf-8")
        writer.change(name, lambda file=file: {file: "a = 1\nb = 2\nc = 3\nd = 4\n"})  # type: ignore[misc]
        file.write_text("d = 4\nc = 3\nb = 2\na = 1\ne = 5\n", "utf-8")
        if is_taken_back:
            assert writer.undo() is not None
            assert sorted(file.read_text("utf-8").split()) == sorted(
                ["a", "=", "1", "b", "=", "2", "c", "=", "3", "e", "=", "5"]
            )
        else:
            with pytest.raises(InputError, match="in the same lines"):
                writer.undo()
            assert writer.undo(skip=True) is not None


def test_only_so_many_changes_can_be_taken_back_and_the_oldest_go_first(tmp_path: Path) -> None:
    writer = Writer(tmp_path / "state", tmp_path)
    for number in range(MOST_RECORDS + 3):
        writer.change(f"change {number}", lambda number=number: {tmp_path / "file": f"{number}\n"})  # type: ignore[misc]
    notes = list((tmp_path / "state" / "changes").glob("*/*"))
    assert len(notes) == MOST_RECORDS == 50
    names = [change.noted.record.command for change in writer.history()]
    assert names == [f"change {number}" for number in range(52, 2, -1)]


@pytest.mark.parametrize(
    ("now", "before", "after", "torn"),
    [
        (b"newold", b"oldold", b"newnew", True), (b"neo", b"ooo", b"new", True), (b"new+", b"old", b"new+more", True),
        (b"longer", b"lon", b"longer text", True), (b"other", b"old", b"new", False), (None, b"old", b"new", False),
        (b"ne", None, b"new", False),
    ],
)  # fmt: skip
def test_a_file_that_was_left_in_the_middle_is_known(
    now: bytes | None, before: bytes | None, after: bytes, torn: bool
) -> None:
    assert is_torn(now, before, after) == torn


def test_nothing_is_written_outside_of_the_workspace(tmp_path: Path) -> None:
    home, outside = tmp_path / "home", tmp_path / "outside"
    home.mkdir()
    outside.mkdir()
    target = outside / "profile"
    target.write_text("kept\n", "utf-8")
    (home / "link").symlink_to(target)
    (home / "folder").symlink_to(outside)
    writer = Writer(tmp_path / "state", home)
    for path in (home / "link", home / "folder" / "profile", home / ".." / "outside" / "profile", outside / "new"):
        for dry_run in (False, True):
            with pytest.raises(InputError, match="outside of the workspace's folder") as caught:
                writer.change("try", lambda path=path: {home / "a": "a", path: "x"}, dry_run)  # type: ignore[misc]
            assert caught.value.place is not None
            assert caught.value.place.file in (str(target), str(outside / "new"))
    assert target.read_text("utf-8") == "kept\n"
    assert sorted(path.name for path in home.iterdir()) == ["folder", "link"]
    # What the user names is written to, where it really is.
    given = Writer(tmp_path / "state", home, [home / "link"])
    given.change("try", lambda: {home / "link": "new\n"})
    assert target.read_text("utf-8") == "new\n"
    assert (home / "link").is_symlink()


def test_links_in_a_circle_are_refused(tmp_path: Path) -> None:
    (tmp_path / "a").symlink_to(tmp_path / "b")
    (tmp_path / "b").symlink_to(tmp_path / "a")
    with pytest.raises((InputError, OutsideError)):
        Writer(tmp_path / "state", tmp_path).change("try", lambda: {tmp_path / "a": "x"})


def test_a_file_that_is_read_only_or_no_file_is_refused(tmp_path: Path) -> None:
    fixed = tmp_path / "fixed"
    fixed.write_text("kept\n", "utf-8")
    fixed.chmod(0o444)
    os.mkfifo(tmp_path / "pipe")
    writer = Writer(tmp_path / "state", tmp_path)
    for name, what in (("fixed", "read-only"), ("pipe", "ordinary"), ("state", "ordinary")):
        with pytest.raises(InputError, match=what):
            writer.change("try", lambda name=name: {tmp_path / name: "x"})  # type: ignore[misc]
    assert fixed.read_text("utf-8") == "kept\n"


@pytest.mark.parametrize(
    ("before", "text", "after"),
    [
        (b"\xef\xbb\xbfa\n", "b\n", b"\xef\xbb\xbfb\n"), (b"a\r\nb\r\n", "c\n", b"c\r\n"),
        (b"a\r\nb\n", "a\r\nb\nc\n", b"a\r\nb\nc\n"), (b"\xe9\n", "e\n", b"e\n"), (None, "n\n", b"n\n"),
    ],
)  # fmt: skip
def test_undo_gives_back_every_byte(tmp_path: Path, before: bytes | None, text: str, after: bytes) -> None:
    file, other = tmp_path / "deep" / "file", tmp_path / "other"
    if before is not None:
        file.parent.mkdir()
        file.write_bytes(before)
        file.chmod(0o604)
        os.link(file, other)
    writer = Writer(tmp_path / "state", tmp_path)
    writer.change("try", lambda: {file: text})
    assert file.read_bytes() == after
    assert writer.undo() is not None
    if before is None:
        assert not file.parent.exists()
    else:
        assert file.read_bytes() == other.read_bytes() == before
        assert file.stat().st_ino == other.stat().st_ino
        assert file.stat().st_mode & 0o777 == 0o604
    assert writer.undo() is None


def test_a_change_that_no_longer_fits_does_not_block_those_below(tmp_path: Path) -> None:
    one, two = tmp_path / "one", tmp_path / "two"
    writer = Writer(tmp_path / "state", tmp_path)
    writer.change("first", lambda: {one: "1\n"})
    writer.change("second", lambda: {two: "2\n"})
    two.write_text("by hand\n", "utf-8")
    with pytest.raises(InputError, match="changed after") as caught:
        writer.undo()
    assert "--force" in caught.value.advice
    assert "--skip" in caught.value.advice
    skipped = writer.undo(skip=True)
    assert skipped is not None
    assert skipped.was_skipped
    assert two.read_text("utf-8") == "by hand\n"
    assert writer.undo() is not None
    assert not one.exists()
    writer.change("third", lambda: {two: "3\n"})
    two.write_text("by hand again\n", "utf-8")
    assert writer.undo(force=True) is not None
    assert two.read_text("utf-8") == "by hand\n"


def test_what_is_ombixs_own_is_private_and_what_is_somebody_elses_is_not_obeyed(tmp_path: Path) -> None:
    state = tmp_path / "state"
    Writer(state, tmp_path).change("try", lambda: {tmp_path / "a": "a\n"})
    for path in state.rglob("*"):
        assert path.stat().st_mode & 0o077 == 0, path
    assert (tmp_path / "a").stat().st_mode & 0o777 == 0o666 & ~_umask()
    (journal,) = (state / "changes").iterdir()
    journal.chmod(0o777)
    with pytest.raises(OutsideError, match="written by others"):
        Writer(state, tmp_path).undo()
    journal.chmod(0o700)
    if os.geteuid() == 0:
        os.chown(journal, 12345, 12345)
        with pytest.raises(OutsideError, match="somebody else"):
            Writer(state, tmp_path).undo()


def _umask() -> int:
    mask = os.umask(0o022)
    os.umask(mask)
    return mask


def test_the_second_run_waits_for_the_first(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("ombix.files.writer.LOCK_SECONDS", 0.1)
    first, second = Writer(tmp_path / "state", tmp_path), Writer(tmp_path / "state", tmp_path)
    file = tmp_path / "k"

    def meanwhile() -> dict[Path, str]:
        with pytest.raises(OutsideError, match="another run"):
            second.change("second", lambda: {file: "second\n"})
        return {file: "first\n"}

    first.change("first", meanwhile)
    assert file.read_text("utf-8") == "first\n"
    second.change("second", lambda: {file: "second\n"})
    assert file.read_text("utf-8") == "second\n"


def test_a_change_of_several_files_is_taken_back_as_one(tmp_path: Path) -> None:
    old, new = tmp_path / "old", tmp_path / "new"
    old.write_bytes(b"before\r\n")
    writer = Writer(tmp_path / "state", tmp_path)
    assert writer.change("try", lambda: {old: "after\n", new: "fresh\n"}) == [old, new]
    assert old.read_bytes() == b"after\r\n"
    taken = writer.undo()
    assert taken is not None
    assert (taken.command, taken.files) == ("try", (old, new))
    assert old.read_bytes() == b"before\r\n"
    assert not new.exists()
    assert writer.undo() is None


def test_a_file_is_restored_to_the_byte_whatever_it_holds(tmp_path: Path) -> None:
    """Latin-1, NUL and a lone carriage return are no UTF-8 text, and come back all the same; so do permissions."""
    file = tmp_path / "joerc"
    before = b" caf\xe9 \x00\r\n\xff"
    file.write_bytes(before)
    file.chmod(0o600)
    writer = Writer(tmp_path / "state", tmp_path)
    writer.change("port", lambda: {file: "ours\n"})
    file.chmod(0o600)
    writer.undo()
    assert file.read_bytes() == before
    assert file.stat().st_mode & 0o777 == 0o600


def test_each_workspace_has_changes_of_its_own(tmp_path: Path) -> None:
    one, other = tmp_path / "one", tmp_path / "other"
    writers = [Writer(tmp_path / "state", folder) for folder in (one, other)]
    for folder, writer in zip((one, other), writers, strict=True):
        folder.mkdir()
        writer.change("write", lambda folder=folder: {folder / "k": "k\n"})  # type: ignore[misc]
    writers[0].undo()
    assert not (one / "k").exists()
    assert (other / "k").exists()
    assert writers[0].undo() is None


def test_a_dry_run_writes_nothing_and_leaves_nothing_to_take_back(tmp_path: Path) -> None:
    writer = Writer(tmp_path / "state", tmp_path)
    assert writer.change("try", lambda: {tmp_path / "k": "k\n"}, dry_run=True) == [tmp_path / "k"]
    assert not (tmp_path / "k").exists()
    assert writer.undo() is None


def test_a_file_that_was_changed_since_is_not_taken_back(tmp_path: Path) -> None:
    file = tmp_path / "a"
    writer = Writer(tmp_path / "state", tmp_path)
    writer.change("try", lambda: {file: "mine\n"})
    file.write_text("theirs\n", "utf-8")
    with pytest.raises(InputError, match="try"):
        writer.undo()
    assert file.read_text("utf-8") == "theirs\n"


def test_a_change_that_cannot_be_finished_is_not_begun(tmp_path: Path) -> None:
    (tmp_path / "file").write_text("x", "utf-8")
    good = tmp_path / "good"
    writer = Writer(tmp_path / "state", tmp_path)
    with pytest.raises(OutsideError):
        writer.change("try", lambda: {good: "text\n", tmp_path / "file" / "below": "text\n"})
    assert not good.exists()
    assert writer.undo() is None


def test_what_was_read_is_noted_whether_it_was_there_or_not(tmp_path: Path) -> None:
    files = Files({str(tmp_path / "unsaved"): "text"})
    assert files.read_text(tmp_path / "unsaved") == "text"
    assert not files.is_file(tmp_path / "none")
    assert list(files.seen) == [str(tmp_path / "unsaved"), str(tmp_path / "none")]


def test_undo_follows_no_link_that_came_after(tmp_path: Path) -> None:
    home, secret = tmp_path / "home", tmp_path / "secret"
    home.mkdir()
    secret.write_text("kept\n", "utf-8")
    os.link(secret, tmp_path / "secret's other name")
    file = home / "file"
    file.write_text("before\n", "utf-8")
    writer = Writer(tmp_path / "state", home)
    writer.change("try", lambda: {file: "after\n"})
    file.unlink()
    file.symlink_to(secret)
    for force in (False, True):
        with pytest.raises(InputError):
            writer.undo(force=force)
    assert secret.read_text("utf-8") == "kept\n"
