"""The built program, run on files in a temporary folder: what it prints, what it writes, how it ends."""

import json
import os
import pty
import re
import select
import subprocess
from pathlib import Path

import pytest

from ombix.core.audit import all_rules
from tests.helpers import ombix, program

DESK = ("adopt", "desk/bindings.json", "--editor", "desk")


def test_version_and_help(tmp_path: Path) -> None:
    assert ombix(tmp_path, "--version").out.startswith("ombix 0.")
    ran = ombix(tmp_path, "--help")
    assert ran.status == 0
    first = re.findall(r"(?m)^  ([a-z]+) ", ran.out.split("Commands:")[1].split("All commands")[0])
    assert first[:5] == ["demo", "init", "what", "how", "show"]
    assert len(first) <= 16
    # All of them, each in its group, stand behind `help`; each has help of its own.
    everything = ombix(tmp_path, "help").out
    for name in ("editors", "editors trust", "use watch", "changes blame", "adopt", "serve", *first):
        assert f"\n  {name} " in everything
    assert ombix(tmp_path, "use", "watch", "-h").out == ombix(tmp_path, "help", "use", "watch").out
    # The name of a part is enough where only one has it.
    assert ombix(tmp_path, "trust", "--help").out == ombix(tmp_path, "editors", "trust", "--help").out
    gone = ombix(tmp_path, "history")
    assert gone.status == 2
    assert "See all of them: ombix help" in gone.err


def test_python_dash_m(tmp_path: Path) -> None:
    python = str(Path(program()).parent / "python")
    done = subprocess.run(
        [python, "-m", "ombix", "--version"], capture_output=True, text=True, check=True, cwd=tmp_path
    )
    assert done.stdout.startswith("ombix 0.")


def test_starting_a_workspace(tmp_path: Path) -> None:
    folder = tmp_path / "new"
    folder.mkdir()
    assert ombix(folder, "init", "--dry-run").status == 0
    assert list(folder.iterdir()) == []
    assert ombix(folder, "init", "--name", "crew").status == 0
    assert sorted(path.name for path in folder.iterdir()) == ["crew.keys.toml", "ombix.toml"]
    assert "Nothing is bound." in ombix(folder, "show").err  # the examples are comments
    again = ombix(folder, "init")
    assert again.status == 2
    assert "there already" in again.err
    assert ombix(folder, "init", "--name", "../x").status == 2


def test_adopting_a_file_accounts_for_every_line(ferry: Path) -> None:
    ran = ombix(ferry, *DESK, "--all", "--json")
    assert ran.status == 1  # one line was not understood
    document = json.loads(ran.out)
    assert [line["place"]["line"] for line in document["lines"]] == [3, 4, 5, 6, 7, 8, 9, 10, 13, 14, 15, 18]
    assert [line["place"]["line"] for line in document["lines"] if line["kept"]] == [15]
    assert document["bindings"] == 11
    assert 'layers = ["desk.keys.toml"]' in (ferry / "ombix.toml").read_text()
    assert "# The keymap of the timetable crew" in (ferry / "ombix.toml").read_text()
    assert ombix(ferry, *DESK).status == 1
    assert (ferry / "ombix.toml").read_text().count("desk.keys.toml") == 1
    assert "Alt+D" in ombix(ferry, "show").out


def test_showing(ferry: Path) -> None:
    for order in ("work", "key", "layer"):
        ran = ombix(ferry, "show", "--by", order)
        assert ran.status == 0
        assert ran.out.count("Ctrl+S") == 1
        assert max(len(line) for line in ran.out.split("\n")) <= 80
    document = json.loads(ombix(ferry, "show", "--json").out)
    (saving,) = [row for row in document["bindings"] if row["keys"] == "F2"]
    assert saving["does"] == "files.save"
    assert saving["place"] == {"file": "crew.keys.toml", "line": 9, "column": 18, "end_line": 9, "end_column": 22}
    assert "files.browse" in ombix(ferry, "show", "--unbound").out
    assert ombix(ferry, "show", "--by", "wrok").status == 2
    own = ombix(ferry, "show", "--editor", "pier", "--own").out
    both = ombix(ferry, "show", "--editor", "pier").out
    assert "default" not in own
    assert "default" in both
    assert "⌘S" in ombix(ferry, "show", "--on", "mac").out


def test_asking_how(ferry: Path) -> None:
    ran = ombix(ferry, "how", "duplciate", "line")
    assert ran.status == 0
    assert ran.out.split("\n")[1].split() == ["Ctrl+D", "Copy", "the", "line", "down", "line.copy-down"]
    document = json.loads(ombix(ferry, "how", "undo", "--json").out)
    assert document["actions"][0]["keys"] == [{"keys": "Ctrl+Z", "where": "always", "shown": "Ctrl+Z"}]
    nothing = ombix(ferry, "how", "xyzzy")
    assert (nothing.status, nothing.out) == (1, "")


def test_asking_what(ferry: Path) -> None:
    document = json.loads(ombix(ferry, "what", "F8", "--json").out)
    assert {row["when"]: row["does"] for row in document["decisions"]} == {
        "program is running": "program.stop", "program is stopped": "program.start",
        "pane is text and program is paused": "problems.check",
    }  # fmt: skip
    beaten = [row["beats"] for row in document["decisions"] if row["does"] == "program.stop"]
    assert [one["does"] for one in beaten[0]] == ["problems.check"]
    one = json.loads(ombix(ferry, "what", "F8", "--in", "program is paused", "--json").out)
    assert [row["does"] for row in one["decisions"]] == ["problems.check"]
    assert {row["does"]: row["where"] for row in one["not_applying"]} == {
        "program.start": "program is stopped",
        "program.stop": "program is running",
    }
    assert ombix(ferry, "what", "F24").status == 1
    assert "not bound" in ombix(ferry, "what", "F24").out
    assert ombix(ferry, *DESK).status == 1
    follow = ombix(ferry, "what", "Ctrl+P")
    assert follow.status == 0
    assert "Ctrl+T" in follow.out
    assert "cursor.left" in ombix(ferry, "what", "Ctrl+B", "--editor", "nano").out
    hidden = ombix(ferry, "what", "Ctrl+P", "Ctrl+T", "--editor", "nano")  # nano fires Ctrl+P at once
    assert hidden.status == 1
    assert "is not bound in nano, on Linux" in hidden.out
    assert "“Open a new tab” (desk.keys.toml:23:1) is not on Ctrl+P Ctrl+T in nano" in hidden.out


def test_asking_what_after_the_file_has_changed(ferry: Path) -> None:
    assert "files.save" in ombix(ferry, "what", "F2").out
    file = ferry / "crew.keys.toml"
    file.write_text(file.read_text().replace('["Mod+S", "F2"]', '"Mod+S"'))
    assert "not bound" in ombix(ferry, "what", "F2").out


def test_binding_keeps_comments_and_can_be_undone(ferry: Path) -> None:
    before = (ferry / "crew.keys.toml").read_text()
    assert ombix(ferry, "bind", "line.copy-down", "Mod+Shift+D", "--dry-run").status == 0
    assert (ferry / "crew.keys.toml").read_text() == before
    ran = ombix(ferry, "bind", "line.copy-down", "Mod+Shift+D")
    assert 'instead of copy-down = "Mod+D"' in ran.out
    after = (ferry / "crew.keys.toml").read_text()
    assert after == before.replace('copy-down = "Mod+D"  ', 'copy-down = "Mod+Shift+D"  ')
    clash = ombix(ferry, "bind", "app.help", "Mod+S")
    assert "Until now, Ctrl+S was “Save”" in clash.out
    assert clash.status == 0
    assert ombix(ferry, "undo").status == 0
    assert ombix(ferry, "undo").status == 0
    assert (ferry / "crew.keys.toml").read_text() == before
    assert ombix(ferry, "undo").status == 1
    assert ombix(ferry, "unbind", "app.quit", "--why", "by accident").status == 0
    assert 'quit = { press = false, why = "by accident" }' in (ferry / "crew.keys.toml").read_text()


def test_an_action_that_nothing_below_binds_loses_its_entry(ferry: Path) -> None:
    file = ferry / "crew.keys.toml"
    before = file.read_text()
    ran = ombix(ferry, "unbind", "comment.toggle", columns=200)
    assert 'wrote crew.keys.toml, without toggle = ["Mod+/", "Alt+3"]' in ran.out
    assert ran.out.count("crew.keys.toml") == 1
    assert "needless-removal" not in ran.out
    assert "toggle = [" in before and "toggle = [" not in file.read_text()


def test_what_an_editor_makes_of_keys_is_said_before_they_are_bound(tmp_path: Path) -> None:
    (tmp_path / "ombix.toml").write_text(
        'format = 1\nkeymap = "k.keys.toml"\nplatform = "linux"\n[editor.office]\ndialect = "joe"\n[editor.hut]\n'
        'dialect = "kakoune"\n'
    )
    (tmp_path / "k.keys.toml").write_text('format = 1\nname = "k"\n')
    ran = ombix(tmp_path, "bind", "edit.delete-to-line-end", "Ctrl+K", columns=300)
    assert ran.status == 1
    assert "Not in hut: kakoune has no command for it; nearest is “Cut to the end of the text”." in ran.out
    assert "Ctrl+K begins 105 commands of office, which no longer run" in ran.out  # joe's defaults that begin with it
    assert "No key is left for saving in office." in ran.out
    assert (tmp_path / "k.keys.toml").read_text() == 'format = 1\nname = "k"\n'
    assert ombix(tmp_path, "bind", "edit.delete-to-line-end", "Ctrl+K", "--anyway").status == 0
    assert "It works in office and hut." in ombix(tmp_path, "bind", "history.undo", "F2", columns=300).out


def test_two_runs_at_once_lose_no_change(ferry: Path) -> None:
    home = ferry.parent / ".home"
    env = {**os.environ, "OMBIX_HOME": str(home)}
    runs = [
        subprocess.Popen([program(), "bind", action, keys], cwd=ferry, env=env, stdout=subprocess.DEVNULL)
        for action, keys in (
            ("app.suspend", "F13"),
            ("files.open", "F14"),
            ("tabs.new", "F15"),
            ("edit.verbatim", "F16"),
        )
    ]
    assert [run.wait(60) for run in runs] == [0, 0, 0, 0]
    text = (ferry / "crew.keys.toml").read_text()
    assert all(key in text for key in ("F13", "F14", "F15", "F16"))


def test_auditing(ferry: Path) -> None:
    ran = ombix(ferry, "audit")
    assert ran.status == 1
    assert "crew.keys.toml:81:1" in ran.out
    document = json.loads(ombix(ferry, "audit", "--json", "--rule", "clash").out)
    (clash,) = document["findings"]
    assert clash["keys"] == ["F8"]
    assert {one["does"]: one["when"] for one in clash["winners"]} == {
        "program.start": "pane is text and program is stopped", "program.stop": "pane is text and program is running",
    }  # fmt: skip
    assert ombix(ferry, "audit", "--rule", "covered").status == 0
    assert "other-meaning" in ombix(ferry, "audit").out
    assert "other-meaning" not in ombix(ferry, "audit", "--not-rule", "other-meaning").out
    assert ombix(ferry, "audit", "--severity", "warning", "--not-rule", "clash").status == 0
    assert ombix(ferry, "audit", "--severity", "grave").status == 2
    assert "What mends it" in ombix(ferry, "audit", "--explain", "clash").out
    assert ombix(ferry, "bind", "problems.check", "F4").status == 0
    assert ombix(ferry, "audit", "--severity", "warning").status == 0


@pytest.mark.parametrize("rule", sorted(all_rules()))
def test_the_example_of_each_rule_triggers_it(ferry: Path, rule: str) -> None:
    explained = json.loads(ombix(ferry, "audit", "--explain", rule, "--json").out)
    (ferry / "crew.keys.toml").write_text(explained["example"])
    if explained["workspace"]:
        text = f'format = 1\nkeymap = "crew.keys.toml"\n{explained["workspace"]}\n'
        (ferry / "ombix.toml").write_text(text)
    editor = ("--editor", "pier") if rule == "hidden-sequence" else ()
    ran = ombix(ferry, "audit", "--rule", rule, *editor)
    assert ran.status == 1
    assert f"({rule})" in ran.out


def test_an_accepted_finding_stays_quiet_and_is_a_finding_when_it_is_stale(ferry: Path) -> None:
    file = ferry / "crew.keys.toml"
    file.write_text(file.read_text() + '\n[[accept]]\nrule = "clash"\npress = "F8"\nwhy = "meant"\n')
    assert ombix(ferry, "audit", "--severity", "warning").status == 0
    assert ombix(ferry, "bind", "problems.check", "F4").status == 0
    document = json.loads(ombix(ferry, "audit", "--severity", "warning", "--json").out)
    assert [finding["rule"] for finding in document["findings"]] == ["stale-acceptance"]


def test_the_audit_reports_all_that_is_wrong_with_a_file_at_once(ferry: Path) -> None:
    file = ferry / "crew.keys.toml"
    file.write_text(
        file.read_text().replace('find = "Mod+F"', 'fnid = "Mod+F"').replace('redo = "Mod+Y"', 'redo = "Mdo+Y"')
    )
    document = json.loads(ombix(ferry, "audit", "--rule", "unknown", "--json").out)
    assert [finding["message"] for finding in document["findings"]] == [
        "unknown action: search.fnid",
        "unknown modifier: Mdo",
    ]
    assert "search.find" in document["findings"][0]["mend"]
    assert ombix(ferry, "port", "--to", "nano", "--dry-run").status == 2
    shown = ombix(ferry, "show")
    assert (shown.status, " ".join(shown.err.split()).count("It is left out; see: ombix audit")) == (0, 2)


def test_a_keymap_declares_facts_and_what_excludes_what(ferry: Path) -> None:
    file = ferry / "crew.keys.toml"
    text = file.read_text().replace('name = "crew"\n', 'name = "crew"\nnever = ["tide is low and harbour is open"]\n')
    text += '\n[fact.tide]\nvalues = ["high", "low"]\n[fact.harbour]\nvalues = ["open", "closed"]\n'
    bars = 'bars = { press = "F12", where = "tide is low and harbour is open" }'
    file.write_text(text.replace("[bind.view]\n", f"[bind.view]\n{bars}\n"))
    document = json.loads(ombix(ferry, "audit", "--rule", "impossible", "--json").out)
    assert [finding["keys"] for finding in document["findings"]] == [["F12"]]


def test_porting_writes_a_file_and_accounts_for_every_binding(ferry: Path) -> None:
    ran = ombix(ferry, "port", "--to", "pier", "--json")
    assert ran.status == 1  # some are lost
    document = json.loads(ran.out)
    assert sum(document["counts"].values()) == len(document["bindings"])
    assert all(row["how"] for row in document["bindings"])
    text = (ferry / "ported" / "pier" / "nanorc").read_text()
    assert "bind M-A home main" in text
    assert "bind ^F whereis all" in text
    elsewhere = ombix(ferry, "port", "--to", "micro", "--output", "out/b.json", "--dry-run")
    assert "would write out/b.json" in elsewhere.out
    assert not (ferry / "out").exists()
    assert "are of the same editor" in ombix(ferry, "port", "--from", "nano", "--to", "pier").err


@pytest.mark.long
def test_proving(ferry: Path) -> None:
    ran = ombix(ferry, "prove", "--to", "pier", "--json")
    document = json.loads(ran.out)
    assert ran.status == 0
    assert document["exact_that_differ"] == 0
    assert document["counts"]["agrees"] > 10
    assert ran.err == ""


@pytest.mark.long
def test_proving_a_file_that_was_changed_by_hand_finds_the_change(ferry: Path) -> None:
    assert ombix(ferry, "port", "--to", "pier").status == 1
    file = ferry / "ported" / "pier" / "nanorc"
    file.write_text(file.read_text().replace("bind M-A home main", "bind M-A end main"))
    ran = ombix(ferry, "prove", "--to", "pier", "--file", str(file))
    assert ran.status == 1
    assert "Alt+A does not do what the port says: Go to the start of the line" in " ".join(ran.out.split())
    assert "1 does not do what the port says." in ran.out


def test_a_step_of_the_demo_is_shown_whole_behind_what_it_stands_on(tmp_path: Path) -> None:
    ran = ombix(tmp_path, "demo", "--step", "36")
    assert ran.status == 0
    assert ran.out.startswith("36. Somebody on the pier edits a key by hand")
    assert "Alt+E  cursor.line-end  cursor.line-start" in ran.out
    assert "1. The desk" not in ran.out
    assert "more lines" not in ran.out
    ran = ombix(tmp_path, "demo", "--step", "40")
    assert ran.status == 2
    assert "there is no step 40" in ran.err
    assert "Its steps are 1 to 39." in ran.err


@pytest.mark.long
def test_without_the_editors_the_demo_presses_in_their_simulation_and_says_so(tmp_path: Path) -> None:
    ran = ombix(tmp_path, "demo", PATH=str(Path(program()).parent))
    assert ran.status == 0
    assert "The editor is not installed here, so they are pressed in its simulation." in " ".join(ran.out.split())
    assert "$ ombix prove --to pier --on-stage" in ran.out
    assert f"$ ombix {' '.join(DESK)}" in ran.out
    assert "more lines: ombix demo --step 33" in ran.out
    assert list(tmp_path.iterdir()) == []
    assert ombix(tmp_path, "demo", "--folder", "ferry").status == 0
    assert ombix(tmp_path, "demo", "--folder", "ferry").status == 3


def test_editors(tmp_path: Path) -> None:
    rows = {row["name"]: row for row in json.loads(ombix(tmp_path, "editors", "--json").out)["editors"]}
    assert sorted(rows) == [
        "dte", "ex", "geany", "heddle", "joe", "kakoune", "kate", "mcedit", "micro", "mousepad", "nano", "oxbow", "tarn",
    ]  # fmt: skip
    assert [name for name, row in rows.items() if row["simulated"]] == ["heddle", "oxbow", "tarn"]
    assert rows["oxbow"]["wait_ms"] == 600
    assert rows["tarn"]["can_tell"] == ["language", "pane", "popup", "program", "readonly", "selection"]
    assert "waits for 600 ms" in ombix(tmp_path, "editors", "oxbow", columns=200).out
    ran = ombix(tmp_path, "editors", "nano", "--commands", "--keys")
    assert "whereis" in ran.out
    assert ombix(tmp_path, "editors", "nnao").status == 2


@pytest.mark.parametrize(
    ("arguments", "status", "said"),
    [
        (("what", "Ctlr+K"), 2, "Did you mean Ctrl?"),
        (("what", "Ctrl+S", "--editor", "nanp"), 2, "Did you mean nano?"),
        (("what", "Ctrl+S", "--on", "lunix"), 2, "Did you mean linux?"),
        (("what", "Ctrl+S", "--in", "pain is text"), 2, "Did you mean pane?"),
        (("what", "Ctrl+S", "--in", "readonly and not readonly"), 2, "no state"),
        (("what", "Ctrl+S", "--workspace", "none.toml"), 2, "no such file"),
        (("bind", "line.copydown", "F5"), 2, "line.copy-down"),
        (("bind", "line.copy-down", "Ctrl+Entre"), 2, "Enter"),
        (("bind", "line.copy-down", "F5", "--where", "pane is txt"), 2, "text"),
        (("audit", "--rule", "clahs"), 2, "clash"),
        (("port", "--to", "nanoo"), 2, "nano"),
        (("adopt", "none.json", "--editor", "desk"), 2, "no such file"),
        (("adopt", "desk", "--editor", "desk"), 2, "a folder"),
        (("adopt", "ombix.toml"), 2, "--editor NAME"),
        (("shwo",), 2, "Did you mean show?"),
        (("show", "--nope"), 2, "--nope"),
        (("what",), 2, "KEYS"),
    ],
)
def test_what_is_wrong_gets_one_clear_error(ferry: Path, arguments: tuple[str, ...], status: int, said: str) -> None:
    before = {path: path.read_bytes() for path in ferry.rglob("*") if path.is_file()}
    ran = ombix(ferry, *arguments)
    assert ran.status == status
    assert ran.out == ""
    assert said in ran.err
    assert {path: path.read_bytes() for path in ferry.rglob("*") if path.is_file()} == before


def test_an_error_in_a_file_shows_the_line_and_a_mark_under_the_place(ferry: Path) -> None:
    file = ferry / "crew.keys.toml"
    file.write_text(file.read_text().replace('find = "Mod+F"', 'find = "Mdo+F"'))
    ran = ombix(ferry, "port", "--to", "nano", "--dry-run")
    assert ran.status == 2
    assert "  at crew.keys.toml:" in ran.err or f"  at {file}:" in ran.err
    lines = ran.err.split("\n")
    index = next(number for number, line in enumerate(lines) if 'find = "Mdo+F"' in line)
    assert lines[index].index("Mdo") == lines[index + 1].index("^^^")
    assert "Did you mean Mod?" in ran.err


# --- faults and bad input, for both readers of editors' files and for both of Ombix's own

READERS = {
    "keymap": ("crew.keys.toml", ("port", "--to", "nano", "--dry-run")),
    "workspace": ("ombix.toml", ("port", "--to", "nano", "--dry-run")),
    "micro": ("desk/bindings.json", DESK),
    "nano": ("desk/nanorc", ("adopt", "desk/nanorc", "--editor", "pier")),
}
EMPTY_IS_FINE = {"micro", "nano"}


def _put(ferry: Path, reader: str, data: bytes) -> tuple[Path, tuple[str, ...]]:
    name, arguments = READERS[reader]
    (ferry / "desk").mkdir(exist_ok=True)
    (ferry / name).write_bytes(data)
    return ferry / name, arguments


def _good(reader: str) -> bytes:
    demo = Path(__file__).parents[2] / "src" / "ombix" / "data" / "demo"
    return b"bind ^F whereis main\n" if reader == "nano" else (demo / READERS[reader][0]).read_bytes()


@pytest.mark.parametrize("reader", READERS)
@pytest.mark.parametrize(
    "data",
    [b"", b"\xff\xfe\x00", b"caf\xe9 = 1\n", b"a\0b", b"{" * 5000, b"[" * 5000, b"a = " + b"[" * 5000, b"\n" * 100_000],
    ids=["empty", "utf-16", "latin-1", "nul", "braces", "brackets", "nested", "blank"],
)
def test_a_file_that_is_wrong_ends_in_one_error_and_changes_nothing(ferry: Path, reader: str, data: bytes) -> None:
    file, arguments = _put(ferry, reader, data)
    before = {path: path.read_bytes() for path in ferry.rglob("*") if path.is_file()}
    ran = ombix(ferry, *arguments)
    fine = reader in EMPTY_IS_FINE and not data.strip(b"\n")
    kept = reader == "nano" and data[:1] in (b"{", b"[", b"a") and b"\0" not in data
    if fine or kept:
        assert ran.status in (0, 1)
        return
    assert ran.status == 2
    assert ran.err.count("error:") == 1
    assert str(file.name) in ran.err
    assert {path: path.read_bytes() for path in ferry.rglob("*") if path.is_file()} == before


@pytest.mark.parametrize("reader", READERS)
def test_a_truncated_file(ferry: Path, reader: str) -> None:
    good = _good(reader)
    cut = {"keymap": b"Mod+F", "workspace": b"nano", "micro": b"SaveAll", "nano": b"whereis"}[reader]
    _file, arguments = _put(ferry, reader, good[: good.index(cut) + 3])
    ran = ombix(ferry, *arguments)
    if reader == "nano":  # a line that is not complete is kept, and said to be so
        assert ran.status == 1
        assert "not a complete bind" in ran.out
    else:
        assert ran.status == 2
        assert ran.err.count("error:") == 1


@pytest.mark.parametrize("reader", READERS)
def test_a_byte_order_mark_and_other_line_ends_change_nothing(ferry: Path, reader: str) -> None:
    good = _good(reader)
    _file, arguments = _put(ferry, reader, good)
    plain = ombix(ferry, *arguments)
    _put(ferry, reader, b"\xef\xbb\xbf" + good.replace(b"\n", b"\r\n"))
    marked = ombix(ferry, *arguments)
    assert (marked.status, marked.out.replace(" and ombix.toml", "")) == (
        plain.status,
        plain.out.replace(" and ombix.toml", ""),
    )


@pytest.mark.parametrize("reader", READERS)
def test_a_file_of_fifty_megabytes_is_refused_at_once(ferry: Path, reader: str) -> None:
    file, arguments = _put(ferry, reader, b"")
    with file.open("wb") as stream:
        stream.write(b"# " + b"x" * 1000)
        stream.truncate(50_000_000)
    ran = ombix(ferry, *arguments)
    assert ran.status == 2
    assert "50 MB" in ran.err


@pytest.mark.parametrize("reader", READERS)
def test_a_missing_file_and_a_folder(ferry: Path, reader: str) -> None:
    file, arguments = _put(ferry, reader, b"")
    file.unlink()
    given = arguments if reader != "workspace" else (*arguments, "--workspace", "ombix.toml")
    assert ombix(ferry, *given).status == 2
    file.mkdir()
    folder = ombix(ferry, *(arguments if reader != "workspace" else (*arguments, "--workspace", "ombix.toml/.")))
    assert folder.status == 2


def test_control_characters_and_markup_from_a_file_do_not_reach_the_terminal(ferry: Path) -> None:
    _put(ferry, "nano", b'bind ^F "[bold]\x1b[31mred\x07{save}" main\nfrob\x1b]0;title\x07\n')
    ran = ombix(ferry, "adopt", "desk/nanorc", "--editor", "pier")
    shown = ombix(ferry, "show")
    for text in (ran.out + ran.err, shown.out):
        assert "\x1b" not in text
        assert "\x07" not in text
    assert "frob␛]0;title␇" in ran.out


def test_no_colour_unless_on_a_terminal(ferry: Path) -> None:
    assert "\x1b[" not in ombix(ferry, "show").out
    coloured = _on_a_terminal(ferry, {})
    assert "\x1b[36m" in coloured
    assert "\x1b[" not in _on_a_terminal(ferry, {"NO_COLOR": "1"})


def _on_a_terminal(folder: Path, environment: dict[str, str]) -> str:
    leader, follower = pty.openpty()
    env = {"PATH": os.environ["PATH"], "OMBIX_HOME": str(folder.parent / "h"), "TERM": "xterm", **environment}
    child = subprocess.Popen([program(), "what", "F2"], cwd=folder, env=env, stdout=follower, stderr=follower)
    os.close(follower)
    data = b""
    while select.select([leader], [], [], 20)[0]:
        try:
            more = os.read(leader, 4096)
        except OSError:
            break
        if not more:
            break
        data += more
    child.wait(20)
    os.close(leader)
    return data.decode()


def test_a_reader_that_stops_reading_is_no_error(ferry: Path) -> None:
    env = {**os.environ, "OMBIX_HOME": str(ferry.parent / "h")}
    done = subprocess.run(
        ["sh", "-c", f"'{program()}' show 2>err | head -1"],
        cwd=ferry,
        env=env,
        capture_output=True,
        text=True,
        check=True,
    )
    assert done.stdout
    assert (ferry / "err").read_text() == ""


def test_a_cache_that_is_damaged_or_cannot_be_written_is_no_error(ferry: Path) -> None:
    expected = ombix(ferry, "what", "F2").out
    home = ferry.parent / f".home-{ferry.name}"
    for file in (home / "cache").iterdir():
        file.write_bytes(b"{key: 5")
    assert ombix(ferry, "what", "F2").out == expected
    assert ombix(ferry, "what", "F2", OMBIX_HOME="/proc/nowhere").out == expected


@pytest.mark.parametrize("columns", [60, 80, 200])
def test_tables_fit_the_width(ferry: Path, columns: int) -> None:
    ran = ombix(ferry, "port", "--to", "pier", columns=columns)
    assert max(len(line) for line in ran.out.split("\n")) <= columns


def test_porting_to_all_editors_with_a_report_and_new_keys_for_what_lost_its_own(ferry: Path) -> None:
    ran = ombix(ferry, "port", "--dry-run")
    for name in ("desk", "pier"):
        assert re.search(rf"\d+ of 54 keys work in {name}, \d+ of them with a difference", " ".join(ran.out.split()))
    assert not (ferry / "ported").exists()
    assert len(json.loads(ombix(ferry, "port", "--dry-run", "--json").out)) == 2
    document = json.loads(ombix(ferry, "port", "--to", "pier", "--rehome", "--report", "pier.md", "--json").out)
    # Quitting the search backwards by Ctrl+Q is taken; it had no other keys, and gets the same key with others.
    moved = {row["action"]: (row["old"], row["new"]) for row in document["rehomed"]}
    assert moved["search.find-back"] == ("Ctrl+Q", "Alt+Shift+Q")
    assert moved["view.position"] == ("Alt+C", "Alt+Shift+C")
    assert "app.quit" not in moved  # it is bound by the keymap itself
    written = (ferry / "ported" / "pier" / "nanorc").read_text()
    assert "bind Sh-M-Q wherewas " in written
    report = (ferry / "pier.md").read_text()
    assert sum(document["answers"].values()) == 54
    for answer, count in document["answers"].items():
        assert report.count(f"| {answer} |") == count
    assert "## Defaults with new keys" in report
    assert ombix(ferry, "undo").status == 0
    assert not (ferry / "pier.md").exists()
    wrong = ombix(ferry, "port", "--report", "x.md")
    assert wrong.status == 2
    assert "for one editor" in wrong.err


def test_careful_keys_are_written_on_wish_alone(ferry: Path) -> None:
    def written() -> str:
        return (ferry / "ported" / "pier" / "nanorc").read_text()

    ombix(ferry, "port", "--to", "pier")
    assert "chopwordleft" not in written()
    assert "text lost" in ombix(ferry, "port", "--to", "pier", "--json", "--careful").out
    assert "bind M-H chopwordleft main" in written()
    file = ferry / "ombix.toml"
    file.write_text(file.read_text().replace('terminal = "xterm"', 'terminal = "xterm"\ncareful = true'))
    ombix(ferry, "port", "--to", "pier")
    assert "bind M-H chopwordleft main" in written()
    assert "edit.delete-word-left" in ombix(ferry, "what", "Alt+H", "--editor", "pier").out
    file.write_text(file.read_text().replace("careful = true", 'careful = "yes"'))
    assert "careful takes true or false" in ombix(ferry, "port", "--to", "pier").err


def test_comparing(ferry: Path) -> None:
    same = ombix(ferry, "compare", "crew.keys.toml", "crew.keys.toml")
    assert same.status == 0
    assert "0 decisions differ" in " ".join(same.out.split())
    differing = ombix(ferry, "compare", "desk", "pier")
    assert differing.status == 1
    document = json.loads(ombix(ferry, "compare", "micro", "nano", "--json").out)
    rows = {(row["keys"], row["when"]): (row["first"], row["second"]) for row in document["differences"]}
    assert rows["Ctrl+O", "pane is text"] == ("files.open", "files.save-as")
    assert all(row["example"] for row in document["differences"])
    ported = ombix(ferry, "port", "--to", "pier", "--output", "nanorc")
    assert ported.status == 1
    against = json.loads(ombix(ferry, "compare", "pier", "nanorc", "--editor", "nano", "--json").out)
    # The port's own losses and adaptations, and nothing else.
    assert against["same"] > 60
    (ferry / "heddle.toml").write_text('[[shed.cloth]]\ntreadle = "ctrl~t x"\nlifts = "pick-row"\n')
    later = ombix(ferry, "compare", "heddle", "heddle.toml", "--editor", "heddle")
    assert later.status == 1
    assert "Ctrl+T  Copy the line down  waits in heddle.toml  in the text" in later.out
    rows = json.loads(ombix(ferry, "compare", "heddle", "heddle.toml", "--editor", "heddle", "--json").out)["waits"]
    assert [(row["keys"], row["waits"]) for row in rows] == [("Ctrl+T", "heddle.toml")]
    for arguments, what in (
        (("nowhere", "nano"), "there is no editor and no file nowhere"), (("nnao", "micro"), "Did you mean nano"),
        (("ombix.toml", "nano"), "it cannot be told which editor"), (("nano", "desk"), ""),
    ):  # fmt: skip
        ran = ombix(ferry, "compare", *arguments)
        assert ran.status == (2 if what else 1)
        assert what in ran.err
