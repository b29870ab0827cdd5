"""What is used, saved, suggested and strained, by the program: the crew's six weeks, recordings, logs with planted habits."""

import json
import subprocess
import sys
from pathlib import Path
from random import Random
from typing import Any

import jsonschema
import pytest
import tomli

from tests.helpers import ROOT, ombix, others_long

LOG = "use/crew.jsonl"


def told(folder: Path, *arguments: str) -> Any:
    ran = ombix(folder, *arguments, "--json")
    assert ran.status in (0, 1), ran.err
    return json.loads(ran.out)


def test_the_crews_six_weeks(ferry: Path) -> None:
    found = told(ferry, "use", LOG)
    assert (found["first"], found["last"], found["days"]) == ("2026-05-04", "2026-06-12", 30)
    by_name = {one["action"]: one for one in found["actions"]}
    assert by_name["line.join"]["by"] == {"menu": by_name["line.join"]["times"]}
    assert by_name["line.join"]["trend"] > 1.5
    assert {(one["action"], one["by"]) for one in found["other_ways"]} == {
        ("files.save", "mouse"),
        ("edit.paste", "menu"),
    }
    assert {(one["keys"], one["does"]) for one in found["slips"]} == {("Alt+J", "line.move-down")}
    assert {one["keys"] for one in found["waits"]} == {"Ctrl+K"}
    assert {(tuple(one["actions"]), tuple(one["better"])) for one in found["long_ways"]} == {
        (("cursor.line-start", "edit.delete-to-line-end"), ("edit.change-line",))
    }
    unused = {one["action"] for one in found["unused"]}
    assert "app.quit" in unused
    assert not unused & set(by_name)
    lines = [json.loads(line) for line in (ferry / LOG).read_text().splitlines()]
    assert found["times"] == sum(one.get("count", 1) for one in lines if not one.get("typed") and not one.get("waited"))
    assert found["typed"] == sum(one.get("typed", 0) for one in lines)
    schema = json.loads(ombix(ferry, "schema", "--file", "use").out)
    for line in lines[:200]:
        jsonschema.validate(line, schema)


def test_the_log_is_what_its_maker_writes(ferry: Path) -> None:
    made = subprocess.run(
        [sys.executable, "-c", "import json, make_use\nfor e in make_use.events(): print(json.dumps(e, separators=(',', ':')))"],
        cwd=ROOT / "tools", capture_output=True, text=True, check=True,
    )  # fmt: skip
    assert made.stdout == (ferry / LOG).read_text()


def test_without_a_workspace_long_ways_are_proved_all_the_same(ferry: Path, tmp_path: Path) -> None:
    empty = tmp_path / "empty"
    empty.mkdir()
    (empty / "crew.jsonl").write_text((ferry / LOG).read_text())
    assert {tuple(one["better"]) for one in told(empty, "use", "crew.jsonl")["long_ways"]} == {("edit.change-line",)}


def test_counts_are_kept_once_and_forgotten(ferry: Path) -> None:
    assert "It is kept now" in ombix(ferry, "use", LOG, "--add").out
    assert "It was kept already" in ombix(ferry, "use", LOG, "--add").out
    kept, read = told(ferry, "use"), told(ferry, "use", LOG)
    assert {**kept, "logs": [], "long_ways": []} == {**read, "logs": [], "long_ways": []}
    assert told(ferry, "use", "--since", "2026-06-01", "--until", "2026-06-05")["days"] == 5
    assert "forgot 20 days" in ombix(ferry, "use", "--forget", "--until", "2026-05-29").err
    assert told(ferry, "use")["days"] == 10
    assert "forgot 10 days" in ombix(ferry, "use", "--forget").err
    assert "Nothing was used" in ombix(ferry, "use").out
    assert "2026-6-1 is no day" in ombix(ferry, "use", "--since", "2026-6-1").err
    assert "there is nothing to add" in ombix(ferry, "use", "--add").err


def test_planted_habits_are_found_and_none_is_invented(ferry: Path) -> None:
    chance = Random(11)
    names = [
        "cursor.up",
        "cursor.down",
        "edit.paste",
        "files.save",
        "search.find",
        "tabs.next",
        "line.delete",
        "edit.copy-selection",
    ]
    log = ferry / "planted.jsonl"

    def written(planted: bool) -> None:
        seconds = 1_780_000_000.0
        lines = []
        for _ in range(4000):
            seconds += chance.uniform(3, 60)
            steps: list[dict[str, Any]] = [{"action": chance.choice(names)}]
            if planted and chance.random() < 0.02:
                steps = [{"action": "search.find", "by": "menu"}]
            elif planted and chance.random() < 0.02:
                steps = [{"action": "line.delete", "keys": "Ctrl+K"}, {"action": "history.undo", "keys": "Ctrl+Z"}]
            elif planted and chance.random() < 0.02:
                steps = [{"action": "cursor.line-start"}, {"action": "edit.delete-to-line-end"}]
            for one in steps:
                seconds += 1
                lines.append(json.dumps({"time": seconds, "editor": "desk", **one}))
        log.write_text("\n".join(lines))

    written(planted=False)
    found = told(ferry, "use", "planted.jsonl")
    assert (found["other_ways"], found["slips"], found["waits"], found["long_ways"]) == ([], [], [], [])
    written(planted=True)
    found = told(ferry, "use", "planted.jsonl")
    assert [(one["action"], one["by"]) for one in found["other_ways"]] == [("search.find", "menu")]
    assert [one["keys"] for one in found["slips"]] == ["Ctrl+K"]
    assert [one["better"] for one in found["long_ways"]] == [["edit.change-line"]]


def test_a_recording_of_a_terminal(ferry: Path) -> None:
    sent = [
        "a",
        "b",
        "\x13",
        "\x1bf",
        "\x1b[A",
        "\x1bOB",
        "\x18",
        "secret",
        "\x1b[200~pasted\x1b[20",
        "1~",
        "\x1b[<0;3;4M",
        "\x1b[?1;2c",
    ]
    for version in (2, 3):
        lines: list[Any] = [{"version": version, "width": 80, "height": 24, "timestamp": 1780000000}]
        for number, data in enumerate(sent, 1):
            lines += [[number if version == 2 else 0.5, "i", data], [number if version == 2 else 0.5, "o", "secret"]]
        (ferry / "r.cast").write_text("\n".join(map(json.dumps, lines)) + "\nnope\n[1]\n")
        found = told(ferry, "use", "r.cast", "--editor", "desk")
        used = {one["keys"]: one["does"] for one in found["keys"]}
        assert used == {
            "Ctrl+S": "files.save", "Alt+F": "cursor.word-right", "ArrowUp": "cursor.up", "ArrowDown": "cursor.down",
            "Ctrl+X": "edit.cut",
        }  # fmt: skip
        assert found["typed"] == len("ab") + len("secret") + len("pasted")
        assert found["logs"][0]["lines"] == len(lines) + 2
        assert found["logs"][0]["left_out"] == {
            "what the terminal showed": len(sent), "not JSON": 1, "not an event": 1, "the header": 1
        }  # fmt: skip
        assert "secret" not in json.dumps(found)
    assert "Say it: --editor micro" in ombix(ferry, "use", "r.cast").err
    (ferry / "r.cast").write_text('{"version": 1}\n')
    assert "no recording of a terminal" in ombix(ferry, "use", "r.cast", "--editor", "desk").err


def test_savings_by_hand_and_by_use(ferry: Path) -> None:
    found = told(ferry, "savings", "line.copy-down", "100/day", "app.about", "1/week")
    copy, about = found["actions"]
    # By menu 4.75 s (H M P BB P BB H), by Ctrl+D 1.75 s (M 2K): 3 s, a hundred times.
    assert copy["could"]["usual"] == pytest.approx(300, abs=0.01)
    assert copy["could"]["least"] <= 300 <= copy["could"]["most"]
    assert (copy["deserves"], about["deserves"]) == ("use them", "no: too seldom")
    assert about["a_day"] == 0.2
    # 170 s of learning at the usual, 3 s each of five a day.
    (join,) = told(ferry, "savings", "line.join", "5/day")["actions"]
    assert join["pays_after"]["usual"] == pytest.approx(170 / 15, abs=0.05)
    assert join["deserves"] == "yes, in 11 days"
    assert told(ferry, "savings", "line.join", "1/hour")["actions"][0]["a_day"] == 8
    used = told(ferry, "savings", "--log", LOG)
    assert used["saved"]["usual"] == pytest.approx(sum(one["saved"]["usual"] for one in used["actions"]), abs=0.1)
    assert used["by_skill"]["average"][0] == pytest.approx(used["saved"]["usual"], abs=0.1)
    quick = told(ferry, "savings", "line.join", "5/day", "--skill", "best")["actions"][0]
    slow = told(ferry, "savings", "line.join", "5/day", "--skill", "unfamiliar")["actions"][0]
    assert quick["could"]["usual"] > slow["could"]["usual"]


def test_pointing_by_distance_and_size(ferry: Path) -> None:
    (mean,) = told(ferry, "savings", "line.join", "5/day", "--by", "mouse")["actions"]
    (far,) = told(ferry, "savings", "line.join", "5/day", "--by", "mouse", "--pointing", "930/20")["actions"]
    # 0.8 s and 0.1 s for each of log2(930 / 20 + 0.5) = 5.5546 bits, in place of 1.1 s.
    assert far["now"]["usual"] - mean["now"]["usual"] == pytest.approx(0.8 + 0.55546 - 1.1, abs=2e-3)
    assert "is no way of the mouse" in ombix(ferry, "savings", "line.join", "5/day", "--pointing", "5/0").err


def test_a_picture_of_what_is_used(ferry: Path) -> None:
    found = told(ferry, "picture", "--log", LOG, "--with", "Alt")
    assert found["value"] == "times"
    shown = [key["value"] for panel in found["panels"] for key in panel["keys"] if key.get("value")]
    assert max(shown) == 772  # Alt+F
    assert "several scales" in ombix(ferry, "picture", "--log", LOG, "--strain").err
    assert ombix(ferry, "picture", "--used").status == 0


@pytest.mark.parametrize(
    ("call", "said"),
    [
        (("savings", "line.copy-dwn", "3/day"), "Did you mean line.copy-down"),
        (("savings", "line.copy-down", "often"), "often is not how often"),
        (("savings", "line.copy-down"), "how often is line.copy-down?"),
        (("savings", "line.copy-down", "3/day", "--by", "mose"), "Did you mean mouse"),
        (("savings", "line.copy-down", "3/day", "--skill", "goood"), "Did you mean good"),
        (("savings", "line.copy-down", "3/day", "--log", LOG), "there are estimates and a log"),
        (("savings", "line.copy-down", "3/day", "--plot", "x.gif"), "a plot is no .gif"),
        (("suggest", "--log", LOG, "--take", "9"), "there is no suggestion 9"),
        (("use", "nope.jsonl"), "there is no log nope.jsonl"),
        (("use", LOG, "--editor", "peer"), "Did you mean pier"),
        (("use", LOG, "--plot", "x"), "a plot is no file without an ending"),
        (("use", LOG, "--forget"), "--forget forgets what is kept"),
    ],
)  # fmt: skip
def test_calls_that_are_wrong(call: tuple[str, ...], said: str, ferry: Path) -> None:
    ran = ombix(ferry, *call)
    assert ran.status == 2
    assert said in " ".join(ran.err.split())


@pytest.mark.long
def test_suggestions_are_written_and_taken_back(ferry: Path) -> None:
    before = (ferry / "crew.keys.toml").read_text()
    found = told(ferry, "suggest", "--log", LOG)
    assert found["gap"] <= 0.01
    assert found["after"] < found["before"]
    assert (ferry / "crew.keys.toml").read_text() == before
    first = found["changes"][0]
    assert first["action"] == "line.join"
    # 9.7 a day: by menu 4.75 s, by two keys 1.75 s.
    assert first["saves"]["usual"] == pytest.approx(3 * 290 / 30, abs=0.1)
    findings = json.loads(ombix(ferry, "audit", "--json").out)["findings"]
    taken = ombix(ferry, "suggest", "--log", LOG, "--take", "1")
    assert taken.status == 0
    table = tomli.loads((ferry / "crew.keys.toml").read_text())
    assert table["bind"]["line"]["join"] == first["after"].replace("Ctrl", "Mod")
    assert table["bind"] | {"line": None} == tomli.loads(before)["bind"] | {"line": None}
    assert len(json.loads(ombix(ferry, "audit", "--json").out)["findings"]) <= len(findings)
    assert ombix(ferry, "undo").status == 0
    assert (ferry / "crew.keys.toml").read_text() == before
    assert told(ferry, "suggest", "--log", LOG, "--most", "1")["changes"] == [first]


def test_weights_of_the_workspace_count(ferry: Path) -> None:
    with (ferry / "ombix.toml").open("a") as file:
        file.write("\n[use.weights]\nhabits = 100\n")
    assert told(ferry, "suggest", "--log", LOG)["changes"] == []
    text = (ferry / "ombix.toml").read_text()
    for wrong, said in (("habits = -1", "a weight is a number from 0 to 100"), ("habit = 1", "Did you mean habits")):
        (ferry / "ombix.toml").write_text(text.replace("habits = 100", wrong))
        assert said in " ".join(ombix(ferry, "audit").out.split())


def test_an_often_used_action_moves_to_better_keys(tmp_path: Path) -> None:
    (tmp_path / "ombix.toml").write_text('format = 1\nkeymap = "k.keys.toml"\nplatform = "linux"\n')
    (tmp_path / "k.keys.toml").write_text(
        'format = 1\nname = "k"\n[bind.line]\nsort = "Ctrl+Alt+Shift+F12"\njoin = "Alt+5"\n'
    )
    lines = [json.dumps({"time": "2026-05-04", "action": "line.sort", "keys": "Ctrl+Alt+Shift+F12", "count": 400})]
    (tmp_path / "use.jsonl").write_text("\n".join(lines))
    found = told(tmp_path, "suggest", "--log", "use.jsonl")
    (change,) = found["changes"]
    assert (change["action"], change["before"]) == ("line.sort", "Ctrl+Alt+Shift+F12")
    assert change["saves"]["usual"] > 100
    assert "400 times a day" in change["why"][0]


def test_strain(ferry: Path) -> None:
    (ferry / "one.jsonl").write_text(
        '{"time":"2026-05-04","keys":"Ctrl+S","count":10}\n{"time":"2026-05-04","keys":"Hyper+Q"}\n'
    )
    found = told(ferry, "use", "one.jsonl", "--strain")
    # Ctrl by the left little finger, S by the left ring finger: two presses, of which one is made while that hand holds Ctrl.
    assert found["presses"] == 20
    assert [(one["name"], one["presses"]) for one in found["fingers"]] == [("left-little", 0.5), ("left-ring", 0.5)]
    assert [(one["name"], one["presses"]) for one in found["hands"]] == [("left", 1.0)]
    assert {one["name"]: one["presses"] for one in found["rows"]} == {"bottom": 0.5, "home": 0.5}
    assert [one["name"] for one in found["modifiers"]] == ["Ctrl"]
    assert found["held_by_the_same_hand"] == 0.5
    assert found["unknown"] == 1
    crew = told(ferry, "use", LOG, "--strain")
    for kind in ("fingers", "hands", "rows"):
        assert sum(one["seconds"] for one in crew[kind]) == pytest.approx(1, abs=0.01)


@pytest.mark.parametrize("call", [("use", "none.jsonl"), ("savings", "--log", "none.jsonl")])
def test_of_nothing_there_is_no_plot(call: tuple[str, ...], ferry: Path) -> None:
    (ferry / "none.jsonl").write_text("")
    ran = ombix(ferry, *call, "--plot", "x.png")
    assert ran.status == 2
    assert "there is nothing to draw" in ran.err
    assert "Warning" not in ran.err
    assert not (ferry / "x.png").exists()


@pytest.mark.parametrize(
    "name", others_long(["use.png", "use.svg", "savings.png", "savings.svg"], "use.png", "savings.svg")
)
def test_plots(name: str, ferry: Path) -> None:
    call = ("use", LOG) if name.startswith("use") else ("savings", "--log", LOG)
    assert ombix(ferry, *call, "--plot", name).status == 0
    data = (ferry / name).read_bytes()
    assert data.startswith(b"\x89PNG" if name.endswith("png") else b"<?xml")
    if name.endswith("svg"):
        assert b"line.join" in data or b"DejaVu" in data
    assert ombix(ferry, *call, "--plot", name).status == 0
    assert (ferry / name).read_bytes() == data
