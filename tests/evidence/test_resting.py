"""Whether a program has taken its keys: seen by what its threads do, not by how long it is silent."""

import os
import threading
import time
from collections.abc import Iterator
from pathlib import Path

import pytest

from ombix.editors.description import Program
from ombix.evidence import idle_detection, pseudo_terminal, terminal_run
from ombix.evidence.editor_run import Home, Start
from ombix.evidence.idle_detection import waiting
from ombix.evidence.pseudo_terminal import PseudoTerminal
from ombix.evidence.sandbox import Sandbox
from ombix.evidence.terminal_run import TerminalRun

_RAW = "stty raw -echo; echo ready; "
_WORKS = "i=0; while [ $i -lt 100000 ]; do i=$((i+1)); done; "
"""For a shell: some tenths of a second of the processor, without a word."""


@pytest.fixture
def started(tmp_path: Path) -> Iterator[list[PseudoTerminal]]:
    """What a test has started; ended behind it."""
    found: list[PseudoTerminal] = []
    yield found
    for one in found:
        one.close()


def _terminal(script: str, folder: Path, started: list[PseudoTerminal]) -> PseudoTerminal:
    """A shell in a terminal, which has said that it is ready."""
    started.append(PseudoTerminal(["/bin/sh", "-c", script], {"PATH": os.defpath}, folder, 24, 80))
    assert _until(started[-1], b"ready")
    return started[-1]


def _until(terminal: PseudoTerminal, wanted: bytes) -> bool:
    seen = b""
    deadline = time.monotonic() + 20
    while wanted not in seen and time.monotonic() < deadline:
        seen += terminal.read(0.1) or b""
    return wanted in seen


def _rests(terminal: PseudoTerminal) -> bool:
    deadline = time.monotonic() + 20
    while time.monotonic() < deadline:
        if (found := terminal.resting()) is not None and not found.is_unread:
            return True
        time.sleep(0.001)
    return False


def test_what_waits_for_a_key_rests(tmp_path: Path, started: list[PseudoTerminal]) -> None:
    terminal = _terminal(f"{_RAW} head -c 1 >/dev/null", tmp_path, started)
    assert _rests(terminal)


@pytest.mark.parametrize("work", [_WORKS, f"( {_WORKS} ); ", f"( {_WORKS} ) | cat; "], ids=["itself", "child", "pipe"])
def test_what_works_without_a_word_does_not_rest_until_it_is_done(
    work: str, tmp_path: Path, started: list[PseudoTerminal]
) -> None:
    terminal = _terminal(f"{_RAW} head -c 1 >/dev/null; {work} echo > done; exec cat", tmp_path, started)
    assert _rests(terminal)
    before = terminal.resting()
    terminal.send(b"a")
    while (now := terminal.resting()) is None or now == before:
        time.sleep(0.001)
    assert (tmp_path / "done").exists()


def test_a_key_that_was_not_read_yet_is_waited_for(tmp_path: Path, started: list[PseudoTerminal]) -> None:
    terminal = _terminal(f"{_RAW} exec sleep 60", tmp_path, started)
    assert _rests(terminal)
    terminal.send(b"a")
    deadline = time.monotonic() + 20
    while not ((found := terminal.resting()) is not None and found.is_unread):
        assert time.monotonic() < deadline
        time.sleep(0.001)  # it is on its way to the terminal


def test_what_has_ended_rests_and_says_nothing(tmp_path: Path, started: list[PseudoTerminal]) -> None:
    terminal = _terminal("echo ready", tmp_path, started)
    while terminal.read(1.0) is not None:
        pass
    assert _rests(terminal)
    assert terminal.read(0.1) is None


def test_a_process_that_is_not_there_is_not_told_of() -> None:
    with pytest.raises(OSError, match="No such"):
        waiting(2**22 + 1)  # above the most that there can be: proc_sys_kernel(5), pid_max


def _run(work: str, folder: Path, first: str = "") -> TerminalRun:
    """A running editor that writes each key behind its text, after some work."""
    editor = (
        f'stty raw -echo; {first} echo ready; while true; do key=$(head -c 1); {work} printf %s "$key" >> "$1"; done'
    )
    program = Program(command=["sh", "-c", editor, "sh", "{text}"], ready=["ready"], package="none", text="text")
    folder.mkdir()
    home = Home(folder, folder / "config", "text")
    start = Start("config", "", "")
    home.put(start, 1)
    return TerminalRun(program, home, start, Sandbox((), "by nothing"), threading.Event())


@pytest.mark.parametrize("work", [_WORKS, f"( {_WORKS} ) & wait; "], ids=["itself", "child"])
def test_a_key_is_pressed_until_all_that_it_does_is_done(work: str, tmp_path: Path) -> None:
    run = _run(work, tmp_path / "home")
    try:
        assert not run.wait_until_ready()
        for number, key in enumerate(b"abc", 1):
            run.send(bytes([key]))
            assert (tmp_path / "home/text").read_text() == "abc"[:number]
    finally:
        run.close()


def test_where_the_kernel_does_not_tell_a_silence_is_waited_for(
    monkeypatch: pytest.MonkeyPatch, tmp_path: Path
) -> None:
    def hidden(_process: int) -> None:
        raise PermissionError

    monkeypatch.setattr(pseudo_terminal, "waiting", hidden)
    run = _run("", tmp_path / "home")
    try:
        assert not run.wait_until_ready()
        waits = []
        read = run._terminal.read

        def noted(seconds: float) -> bytes | None:
            data = read(seconds)
            waits.append((seconds, data))
            return data

        monkeypatch.setattr(run._terminal, "read", noted)
        run.send(b"a")
        assert waits[-1] == (terminal_run.QUIET_SECONDS, b"")
        while (tmp_path / "home/text").read_text() != "a":
            run.wait(0.01)
    finally:
        run.close()


@pytest.mark.parametrize("hidden", ["children", "status"])
def test_a_kernel_that_tells_only_half_is_not_asked(hidden: str, monkeypatch: pytest.MonkeyPatch) -> None:
    """Where a kernel is built without lists of children, or something stands in for one that counts nothing."""
    read = idle_detection._read

    def partly(file: str) -> bytes:
        if file.endswith("children") and hidden == "children":
            raise FileNotFoundError
        return b"State:\tR (running)\n" if file.endswith("status") and hidden == "status" else read(file)

    assert idle_detection.is_told.__wrapped__()
    monkeypatch.setattr(idle_detection, "_read", partly)
    assert not idle_detection.is_told.__wrapped__()


def test_an_editor_that_reads_no_key_is_not_waited_for_forever(tmp_path: Path) -> None:
    run = _run("exec sleep 60; ", tmp_path / "home")
    try:
        assert not run.wait_until_ready()
        run.send(b"a")
        run.send(b"b")
        assert not run.ended
    finally:
        run.close()


def test_an_editor_that_works_all_the_time_is_waited_for_once(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """Like one with a child that is never done: behind its start a silence has to do."""
    monkeypatch.setattr(terminal_run, "_MOST_SECONDS", 1.0)
    monkeypatch.setattr(terminal_run, "slowness", lambda: 1.0)
    run = _run("", tmp_path / "home", first="(while :; do :; done) &")
    try:
        assert not run.wait_until_ready()
        told = []
        for key in b"abcdefgh":
            told.append(run._is_told)
            run.send(bytes([key]))
        assert not any(told)
        while (tmp_path / "home/text").read_text() != "abcdefgh":
            run.wait(0.01)
    finally:
        run.close()
