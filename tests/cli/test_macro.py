"""`ombix macro`, on the demo's data: what it prints, what it writes, and what is wrong."""

import json
import sys
from pathlib import Path

import pexpect
import pytest

from tests.helpers import ombix


@pytest.fixture
def steps(ferry: Path) -> Path:
    return ferry / "macros"


def test_all_macros_and_snippets_are_listed(steps: Path) -> None:
    for call in (("macro",), ("macro", "list")):
        ran = ombix(steps, *call)
        assert ran.status == 0
        assert "Alt+X, “xing”," in ran.out
        assert "language is python" in ran.out
    found = json.loads(ombix(steps, "macro", "list", "--json").out)["found"]
    assert [(one["name"], one["kind"]) for one in found] == [
        ("wrap-crossing", "macro"), ("cancel-two", "macro"), ("close-lines", "macro"), ("first-of-day", "macro"),
        ("crossing", "snippet"), ("round-trip", "snippet"), ("notice", "snippet"),
    ]  # fmt: skip


def test_a_keymap_without_macros_says_so(tmp_path: Path) -> None:
    assert ombix(tmp_path, "init").status == 0
    ran = ombix(tmp_path, "macro")
    assert (ran.status, ran.out.split("\n")[0]) == (0, "The keymap has no macros and no snippets.")
    assert "has none yet" in ombix(tmp_path, "macro", "show", "x").err


def test_one_is_shown_in_full(steps: Path) -> None:
    ran = ombix(steps, "macro", "show", "first-of-day")
    assert "press Alt+D for line.copy-down" in ran.out
    assert "here: line.copy-down, by steps" in ran.out
    ran = ombix(steps, "macro", "show", "round-trip")
    assert "1: north, in 2 places" in ran.out
    assert "ENCLOSING_FUNCTION: the name of the function around the cursor" in ran.out
    ran = ombix(steps, "macro", "show", "corssing")
    assert (ran.status, "Did you mean crossing" in ran.err) == (2, True)


def test_trying_shows_each_step_and_writes_nothing(steps: Path) -> None:
    text = steps / "times.txt"
    text.write_text("north\nsouth\n", "utf-8")
    ran = ombix(steps, "macro", "try", "wrap-crossing", "--text-file", "times.txt", "--at", "2:1")
    assert ran.status == 0
    assert "+ 2: crossing(south)" in ran.out
    assert "1 of 1 examples hold." in ran.out
    assert "Nothing was written." in ran.out
    assert text.read_text("utf-8") == "north\nsouth\n"
    ran = ombix(steps, "macro", "try", "wrap-crossing", "--text-file", "times.txt", "--write")
    assert text.read_text("utf-8") == "crossing(north)\nsouth\n"
    assert "Written: times.txt" in ran.out
    assert ombix(steps, "undo").status == 0
    assert text.read_text("utf-8") == "north\nsouth\n"


def test_examples_of_the_call_are_checked(steps: Path) -> None:
    good = ("--before", "a|\\nb", "--after", "crossing(a)|\\nb")
    assert ombix(steps, "macro", "try", "wrap-crossing", *good).status == 0
    ran = ombix(steps, "macro", "try", "wrap-crossing", *good, "--before", "|a", "--after", "(a)|")
    assert ran.status == 1
    assert "2 of 3 examples hold." in ran.out
    assert "crossing(a)|" in ran.out


def test_a_snippet_is_tried_in_the_language_of_the_file(steps: Path) -> None:
    (steps / "times.py").write_text("def sail():\n    x\n", "utf-8")
    ran = ombix(
        steps,
        "macro",
        "try",
        "round-trip",
        "--text-file",
        "times.py",
        "--at",
        "2:6",
        "--select",
        "2:5",
        "--fill",
        "2=skerry",
    )
    assert ran.status == 0
    assert "for pier in (north, skerry):" in ran.out
    assert "x  # north and Skerry, in sail" in ran.out


@pytest.mark.parametrize(
    ("call", "said"),
    [
        (("try", "nothing"), "there is no macro or snippet nothing"),
        (("try", "notice", "--times", "0"), "not a number of times: 0"),
        (("try", "notice", "--at", "9:9"), "the text has no place 9:9"),
        (("try", "notice", "--write"), "--write goes with --text-file"),
        (("try", "notice", "--text", "a", "--text-file", "b"), "there are two texts"),
        (("try", "notice", "--text-file", "none.txt"), "none.txt"),
        (("try", "notice", "--before", "a|"), "each --before goes with one --after"),
        (("try", "notice", "--before", "a", "--after", "b|"), "has not one |"),
        (("try", "crossing", "--fill", "9=x"), "the snippet has no gap 9"),
        (("record", "new"), "no terminal to read them from"),
        (("record", "new", "--inside", "nano"), "no terminal for the program"),
        (("record", "new", "Crtl+K"), "Crtl"),
        (("record", "new", "F5", "--keys-file", "k"), "two places for keys"),
        (("record", "notice", "F5", "--press", "Nokey+"), "Nokey"),
        (("record", "cancel-two", "F5"), "there is a macro cancel-two already"),
        (("shwo", "notice"), "shwo"),
    ],
    ids=lambda value: " ".join(value) if isinstance(value, tuple) else "",
)
def test_what_is_wrong_is_said(steps: Path, call: tuple[str, ...], said: str) -> None:
    before = (steps / "steps.keys.toml").read_bytes()
    ran = ombix(steps, "macro", *call)
    assert ran.status == 2
    assert said in ran.err
    assert "Traceback" not in ran.err
    assert (steps / "steps.keys.toml").read_bytes() == before


def test_keys_are_recorded_from_a_file(steps: Path) -> None:
    (steps / "keys.txt").write_text("# twice\nAlt+D Alt+D\nh i\n", "utf-8")
    ran = ombix(steps, "macro", "record", "two", "--keys-file", "keys.txt", "--press", "F7", "--title", "Two more")
    assert ran.status == 0
    assert "line.copy-down(count=2)" in ran.out
    ran = ombix(steps, "what", "F7")
    assert "macro two" in ran.out
    ran = ombix(steps, "macro", "try", "two", "--text", "a")
    assert "+ 2: a" in ran.out
    ran = ombix(steps, "macro", "record", "three", "F9", "--dry-run")
    assert "would write" in ran.out
    assert "macro.three" not in (steps / "steps.keys.toml").read_text("utf-8")


def test_a_macro_and_a_snippet_are_given_keys(steps: Path) -> None:
    assert ombix(steps, "bind", "close-lines", "F6").status == 0
    assert ombix(steps, "bind", "snippet notice", "F8", "--also").status == 0
    text = (steps / "steps.keys.toml").read_text("utf-8")
    assert 'press = ["Alt+N", "F8"]' in text
    assert "# to the end of the timetable" in text
    assert "macro close-lines" in ombix(steps, "what", "F6").out
    assert ombix(steps, "unbind", "F8").status == 0
    assert ombix(steps, "move", "notice", "F9").status == 2
    assert ombix(steps, "move", "Alt+N", "F9").status == 0
    assert 'press = "F9"' in (steps / "steps.keys.toml").read_text("utf-8")


def spawned(folder: Path, *call: str) -> pexpect.spawn:
    program = str(Path(sys.executable).parent / "ombix")
    environment = {
        "PATH": f"{Path(sys.executable).parent}:/usr/bin:/bin", "HOME": str(folder), "OMBIX_HOME": str(folder / "home"),
        "TERM": "xterm", "LANG": "C.UTF-8",
    }  # fmt: skip
    return pexpect.spawn(program, list(call), cwd=str(folder), env=environment, timeout=20, dimensions=(24, 80))


def test_keys_are_recorded_at_a_terminal(steps: Path) -> None:
    child = spawned(steps, "macro", "record", "typed")
    child.expect("ends it")
    child.send(b"\x1bdab\x1d")
    child.expect(pexpect.EOF)
    text = (steps / "steps.keys.toml").read_text("utf-8")
    assert 'steps = [{ do = "line.copy-down" }, { type = "ab" }]' in text


def test_keys_are_recorded_inside_an_editor(steps: Path) -> None:
    child = spawned(steps, "macro", "record", "inside", "--inside", "--editor", "north", "--", "nano", "-I", "new.txt")
    child.expect("GNU nano")
    for keys in (b"fog", b"\x01", b"x", b"\x05", b"\x0f", b"\r", b"\x18"):
        child.send(keys)
        child.expect(pexpect.TIMEOUT, timeout=0.3)
    child.expect(pexpect.EOF)
    assert (steps / "new.txt").read_text("utf-8") == "xfog\n"
    text = (steps / "steps.keys.toml").read_text("utf-8")
    assert '{ type = "fog" }, { do = "cursor.line-start" }, { type = "x" }, { do = "cursor.line-end" }' in text


def test_a_command_in_a_macro_is_never_run(steps: Path) -> None:
    keymap = steps / "steps.keys.toml"
    mark = steps / "ran"
    keymap.write_text(
        keymap.read_text("utf-8")
        + f'\n[macro.shell]\npress = "F4"\nsteps = [{{ only = "ExecuteCommand touch {mark}", editor = "micro" }}]\n', "utf-8"
    )  # fmt: skip
    for call in (("macro",), ("macro", "show", "shell"), ("macro", "try", "shell"), ("audit",), ("port", "--dry-run"),
                 ("prove", "--to", "north"), ("press", "F4")):  # fmt: skip
        ran = ombix(steps, *call)
        assert ran.status in (0, 1), ran.err
        assert not mark.exists()


@pytest.mark.parametrize(
    ("before", "after"),
    [
        (b"a\r\nb\r\nc", b"a\r\nnotice\r\nb\r\nc"),
        (b"a\nb\r\nc\n", b"a\nnotice\nb\r\nc\n"),
        (b"\xef\xbb\xbfa\r\nb\r\n", b"\xef\xbb\xbfa\r\nnotice\r\nb\r\n"),
    ],
)
def test_a_text_that_is_written_keeps_its_line_ends(steps: Path, before: bytes, after: bytes) -> None:
    (steps / "steps.keys.toml").write_text(
        'format = 1\nname = "s"\n\n[macro.put]\nsteps = [{ type = "notice\\n" }]\n', "utf-8"
    )
    (steps / "t.txt").write_bytes(before)
    assert ombix(steps, "macro", "try", "put", "--text-file", "t.txt", "--at", "2:1").status == 0
    assert (steps / "t.txt").read_bytes() == before
    ran = ombix(steps, "macro", "try", "put", "--text-file", "t.txt", "--at", "2:1", "--write")
    assert ran.status == 0, ran.err
    assert (steps / "t.txt").read_bytes() == after


@pytest.mark.parametrize("table", ["macro", "snippet"])
def test_a_macro_or_a_snippet_without_a_name_is_refused(steps: Path, table: str) -> None:
    body = 'steps = [{ type = "x" }]' if table == "macro" else 'body = "x"'
    (steps / "steps.keys.toml").write_text(f'format = 1\nname = "s"\n\n[{table}.""]\n{body}\n', "utf-8")
    ran = ombix(steps, "macro", "list")
    assert ran.status == 0
    assert "steps.keys.toml:4" in ran.err
    assert "Traceback" not in ran.err
