"""`ombix press`, and the stand-ins in the other commands, by running the program on the demo data."""

import json
import sys
from pathlib import Path
from typing import Any

import pexpect
import pytest

from ombix.report.drawing.typefaces import Typefaces
from ombix.report.large_letters import large
from tests.helpers import ombix


def pressed(folder: Path, *arguments: str) -> dict[str, object]:
    return dict(json.loads(ombix(folder, "press", *arguments, "--json").out))


def steps_of(found: dict[str, object]) -> list[dict[str, Any]]:
    return [step for press in found["presses"] for step in press["steps"]]  # type: ignore[attr-defined]


def test_the_keymap_by_itself(ferry: Path) -> None:
    ran = ombix(ferry, "press", "Alt+C", "x", "--text", "one\\ntwo\\n", "--at", "2:3")
    assert ran.status == 0
    assert ran.out.startswith("The keymap crew by itself, on Linux.\n")
    assert "a step of wrap-crossing" in ran.out
    assert ran.out.endswith("The text then\n  one\n  crossing(two)x|\n")


def test_each_step_in_one_document(ferry: Path) -> None:
    found = pressed(ferry, "Mod+A", "Mod+X", "--text", "one\n", "--on", "mac")
    assert found["text"] == ""
    assert found["waits"] is None
    steps = steps_of(found)
    assert [press["pressed"] for press in found["presses"]] == ["⌘A", "⌘X"]  # type: ignore[attr-defined]
    assert [(one["keys"], one["does"], one["kind"]) for one in steps] == [
        ("Meta+A", "select.all", "runs"), ("Meta+X", "edit.cut", "runs"),
    ]  # fmt: skip
    assert steps[0]["selection"] == [0, 4]
    assert steps[0]["facts"]["selection"] == "one"


def test_time_and_modes_of_oxbow(tmp_path: Path) -> None:
    (tmp_path / "empty").mkdir()
    folder = tmp_path / "empty"  # no workspace: what oxbow does by itself
    waiting = ombix(folder, "press", "Space m", "--editor", "oxbow")
    assert "files.save after 600 ms" in waiting.out.replace("\n", " ").replace("  ", "")
    assert "Space m still waits for more keys." in waiting.out
    assert waiting.status == 1  # nothing has happened
    early, late = (pressed(folder, "x", pause, "x", "--editor", "oxbow") for pause in ("599ms", "600ms"))
    assert [one["does"] for one in steps_of(early)][-1] == "edit.cut-line"
    assert [one["does"] for one in steps_of(late)] == ["waits", "edit.cut", "waits"]
    assert pressed(folder, "j", "a", "j", "k", "a", "--editor", "oxbow", "--text", "-")["text"] == "a-"


def test_panes_conditions_and_platforms_of_heddle(ferry: Path) -> None:
    toggled = pressed(ferry, "F8", "F8", "--editor", "heddle")
    assert [one["does"] for one in steps_of(toggled)] == ["program.start", "program.stop"]
    own = ombix(ferry, "press", "F2", "--editor", "heddle", "--in", "pane is files").out
    assert "files.rename" in own
    assert "The stand-in heddle, with the ported keymap crew, on Linux." in own
    mac = ombix(ferry, "press", "Meta+ArrowDown", "--editor", "heddle", "--on", "mac").out
    assert "cursor.document-end" in mac
    assert "⌘↓" in mac


def test_taps_clicks_and_schemes_of_tarn(ferry: Path) -> None:
    (ferry / "shores.xml").write_text(
        '<tarn use="b"><shore name="a" over="frost"><ripple by="ctrl.drop" stirs="net-row" while="afloat"/></shore>'
        '<shore name="b" over="a"><ripple by="tap-alt tap-alt" stirs="swim-east"/></shore></tarn>'
    )
    keys = ("Alt", "Alt", "Ctrl+Click", "Ctrl+Z", "Shift", "Shift")
    found = pressed(ferry, *keys, "--editor", "tarn", "--file", "shores.xml")
    assert [one["does"] for one in steps_of(found) if one["kind"] == "runs"] == [
        "cursor.right", "select.line", "history.undo", "app.command-line",
    ]  # fmt: skip


def test_a_real_editor_is_simulated_and_that_is_said(ferry: Path) -> None:
    ran = ombix(ferry, "press", "Mod+D", "--editor", "desk")
    assert "micro, simulated by its description, with the ported keymap crew" in ran.out.replace("\n", " ")


@pytest.mark.parametrize(
    ("arguments", "what"),
    [
        (("Ctrl+Entre",), "Did you mean Enter"),
        (("F5", "--editor", "hedle"), "heddle"),
        (("F5", "--at", "9:1"), "the text has no place 9:1"),
        (("F5", "--at", "a"), "a is no place in a text"),
        (("F5", "--in", "mode is insert"), "an editor without modes is never in this state"),
        (("F5", "--in", "mode is insert", "--editor", "heddle"), "heddle is never in this state"),
        (("F5", "--in", "pain is text"), "Did you mean pane?"),
        (("F5", "--text", "a", "--text-file", "b"), "there are two texts"),
        (("F5", "--text-file", "nowhere"), "no such file"),
        (("F5", "--editor", "tarn", "--file", "nowhere"), "no such file"),
        (("F5", "--file", "ombix.toml"), "it cannot be told which editor"),
        ((" ",), "no keys are given"),
    ],
)
def test_what_is_wrong_gets_one_clear_error(ferry: Path, arguments: tuple[str, ...], what: str) -> None:
    ran = ombix(ferry, "press", *arguments)
    assert ran.status == 2
    assert what in ran.err
    assert ran.err.count("error:") == 1
    assert ran.out == ""


def test_a_text_with_control_characters_does_not_reach_the_terminal(ferry: Path) -> None:
    (ferry / "text").write_text("\x1b[31mred\x07\n")
    ran = ombix(ferry, "press", "Mod+A", "--text-file", "text")
    assert "\x1b" not in ran.out
    assert "␛[31mred␇" in ran.out


@pytest.mark.parametrize("name", ["heddle", "oxbow", "tarn"])
def test_a_stand_in_is_used_like_any_other_editor(ferry: Path, name: str) -> None:
    ported = ombix(ferry, "port", "--to", name)
    assert ported.status == (0 if name == "heddle" else 1)  # heddle has all that the crew does
    file = next((ferry / "ported" / name).iterdir())
    proved = json.loads(ombix(ferry, "prove", "--to", name, "--json").out)
    assert proved["counts"]["differs"] == proved["counts"]["not checked"] == 0
    assert proved["counts"]["agrees"] >= 30
    adopted = ombix(ferry, "adopt", str(file), "--editor", name, "--name", "back")
    assert adopted.status == 0, adopted.out + adopted.err
    shown = ombix(ferry, "editors", name)
    assert "simulates" in shown.out
    assert ombix(ferry, "audit", "--editor", name, "--rule", "clash").status in (0, 1)
    assert ombix(ferry, "compare", name, "nano").status == 1


def test_proving_with_a_file_changed_by_hand(ferry: Path) -> None:
    ombix(ferry, "port", "--to", "heddle")
    file = ferry / "ported" / "heddle" / "heddle.toml"
    file.write_text(file.read_text().replace('lifts = "repeat-row"', 'lifts = "drop-row"'))
    ran = ombix(ferry, "prove", "--to", "heddle", "--file", str(file))
    assert ran.status == 1
    assert "Ctrl+D does not do what the port says: Copy the line down" in " ".join(ran.out.split())
    assert "1 does not do what the port says." in ran.out


def test_keys_are_shown_while_they_are_pressed(ferry: Path) -> None:
    program = str(Path(sys.executable).parent / "ombix")
    child = pexpect.spawn(program, ["press", "--live"], cwd=str(ferry), timeout=20, dimensions=(40, 100))
    child.expect(b"Press keys.")
    child.send(b"\x04")
    child.expect("█".encode())
    child.expect(b"line.copy-down")
    child.send(b"\x0b")
    child.expect(b"line.delete")
    child.expect(b"line.copy-down")  # the one before
    child.expect(b"modified is yes")
    child.send(b"\x1c")
    child.expect(pexpect.EOF)
    child.close()
    assert child.exitstatus == 0
    assert ombix(ferry, "press", "--live").status == 2
    assert ombix(ferry, "press", "--live", "Mod+D").status == 2
    assert "no keys are given" in ombix(ferry, "press").err


def test_large_letters_fit_or_are_as_they_are() -> None:
    faces = Typefaces(folders=())
    rows = large("Ctrl+K", 7, 100, faces)
    assert len(rows) == 7
    assert max(map(len, rows)) <= 100
    assert {char for row in rows for char in row} <= set(" ▀▄█")
    assert len(large("Ctrl+K", 7, 40, faces)) < 7
    assert large("Ctrl+Shift+K", 7, 10, faces) == ["Ctrl+Shift+K"]
