"""Files: bounded reading, whole writing, locks, and taking changes back."""

import os
import signal
import subprocess
import sys
import time
from pathlib import Path

import pytest

from ombix.core.errors import InputError, OutsideError
from ombix.store.files import MAX_FILE_SIZE, Files, write_bytes
from ombix.store.writing import Writer


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

    def refuse(path: Path) -> bytes:  # whoever runs the tests as root may read everything
        raise PermissionError(13, "Permission denied", str(path))

    monkeypatch.setattr(Path, "read_bytes", refuse)
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
        write_bytes(tmp_path / "file" / "below", b"text")


_WRITER = """
import sys
from pathlib import Path
from ombix.store.files import write_bytes
file = Path(sys.argv[1])
print("ready", flush=True)
while True:
    write_bytes(file, b"a" * 300_000 + b"\\n")
    write_bytes(file, b"b" * 300_000 + b"\\n")
"""


def test_a_kill_at_any_moment_leaves_the_old_file_or_the_new_one(tmp_path: Path) -> None:
    file = tmp_path / "k"
    for delay in (0.0, 0.003, 0.008, 0.013, 0.021, 0.034):
        file.write_text("c" * 300_000 + "\n", "utf-8")
        with subprocess.Popen([sys.executable, "-c", _WRITER, str(file)], stdout=subprocess.PIPE) as child:
            assert child.stdout is not None
            child.stdout.readline()
            time.sleep(delay)
            child.send_signal(signal.SIGKILL)
        text = file.read_text("utf-8")
        assert len(text) == 300_001
        assert len(set(text[:-1])) == 1


def test_the_second_run_waits_for_the_first(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("ombix.store.writing.LOCK_SECONDS", 0.1)
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
