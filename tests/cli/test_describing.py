"""An editor of a user's own: the invented one of the guide, and what is wrong with a wrong description."""

import json
import shutil
from pathlib import Path

import pytest

from tests.helpers import ROOT, ombix


def test_the_invented_editor_holds_and_is_used_like_any_other(ferry: Path) -> None:
    checked = ombix(ferry, "describe", "--check", "rowboat")
    assert checked.status == 0, checked.out
    assert "No fault." in checked.out
    adopted = ombix(ferry, "adopt", "rowboat/rowboat.keys", "--editor", "skiff", "--workspace", "rowboat", "--all")
    assert adopted.status == 0
    assert "Ctrl+S → files.save, pane is text" in adopted.out
    ported = ombix(ferry, "port", "--to", "skiff", "--from", "nano", "--workspace", "rowboat", "--output", "skiff.keys")
    assert ported.status == 1  # much is lost
    text = (ferry / "skiff.keys").read_text()
    assert "on deck press ctrl.s to stow" in text
    assert "on deck press ctrl.e to stern" in text
    assert "files.save" in ombix(ferry, "what", "F2", "--editor", "skiff", "--workspace", "rowboat").out
    back = ombix(ferry, "compare", "skiff", "nano", "--workspace", "rowboat")
    assert back.status == 1
    assert ombix(ferry, "audit", "--workspace", "rowboat", "--editor", "skiff", "--rule", "impossible").status == 0
    proved = ombix(ferry, "prove", "--to", "skiff", "--workspace", "rowboat")
    assert proved.status == 3
    assert "does not say how the editor is started" in proved.err


@pytest.mark.parametrize(
    ("file", "old", "new", "status", "what"),
    [
        ("commands.toml", '"cursor.down"', '"cursor.donw"', 1, "commands.toml:4: row-on has an unknown action: cursor.donw"),
        ("commands.toml", '"cursor.down"', '"cursor.down", arguments = ["slot"]', 1, "does not take: slot"),
        ("commands.toml", '"cursor.down"', '"bookmark.set", arguments = ["slot"]', 1, "commands.call does not say how"),
        ("commands.toml", 'only = "sounds the horn"', 'only = ""', 1, "sound-horn needs either an action"),
        ("commands.toml", '["deck"]', '["dekc"]', 1, "unknown section: dekc"),
        ("defaults.toml", '"moor"', '"mooor"', 1, "unknown command in the defaults: mooor"),
        ("defaults.toml", '"Ctrl+Z"', '"Ctrl+ArrowUp"', 1, "Ctrl+ArrowUp is a default key, but cannot be bound"),
        ("dialect.toml", 'hold = "pane is files"', 'hold = "pane is text"', 1, "deck and hold hold in the same states"),
        ("dialect.toml", 'hold = "pane is files"', 'hold = "pain is files"', 2, "unknown fact: pain"),
        ("dialect.toml", 'written = "alt.{char}"', 'written = "ctrl.{char}"', 1, "is written like Ctrl+"),
        ("dialect.toml", "on {section} press {key} to {command}", "on {section} press {command} to {key}", 0, "No fault."),
        ("dialect.toml", "on {section} forget {key}", "on {section} forget", 2, "has not what it needs"),
        ("dialect.toml", "press {key} to {command}", "press {key}{command}", 2, "two variables stand side by side"),
        ("dialect.toml", "press {key} to {command}", "press {key} to {keys} {rest}", 2, "two variables may have blanks"),
        ("dialect.toml", "[keys.names]", '[keys.unbound]\ntext = ["Ctrl+Boat"]\n\n[keys.names]', 1, "Ctrl+Boat among its keys"),
        ("dialect.toml", "[keys.names]", '[keys.unbound]\ncommands = ["sink"]\n\n[keys.names]', 1, "have sink among them"),
        ("dialect.toml", 'wins = "last"', "wins = 1", 2, "policy.wins"),
        ("dialect.toml", 'version = "1"', 'vesrion = "1"', 2, "unknown field `vesrion`"),
        ("dialect.toml", 'name = "rowboat"', "name = ", 2, "the description is wrong"),
        ("dialect.toml", 'name = "rowboat"', 'like = "nnao"', 2, "there is no editor nnao to be like"),
        ("dialect.toml", 'format = "lines"', 'format = "pages"', 2, "there is no form of files called pages"),
    ],
)  # fmt: skip
def test_a_wrong_description_is_found(ferry: Path, file: str, old: str, new: str, status: int, what: str) -> None:
    path = ferry / "rowboat" / file
    text = path.read_text()
    assert old in text
    path.write_text(text.replace(old, new))
    ran = ombix(ferry, "describe", "--check", "rowboat", columns=200)
    assert ran.status == status, ran.out + ran.err
    assert what in ran.out + ran.err
    if status == 2:
        assert f"rowboat/{file}" in ran.err
        line = next(
            (
                at
                for at, (a, b) in enumerate(zip(text.split("\n"), path.read_text().split("\n"), strict=False), 1)
                if a != b
            )
        )
        assert f"rowboat/{file}:{line}" in ran.err or "is missing" in ran.err or "nnao" in ran.err, ran.err


def test_an_editor_like_another_says_only_what_is_different(ferry: Path) -> None:
    folder = ferry / "dinghy"
    folder.mkdir()
    (folder / "dialect.toml").write_text('like = "nano"\nname = "dinghy"\ntitle = "the dinghy"\n')
    (folder / "commands.toml").write_text('[command]\nbail = { only = "bails out the water", sections = ["main"] }\n')
    assert ombix(ferry, "describe", "--check", "dinghy").status == 0
    document = json.loads(ombix(ferry, "describe", "--check", "dinghy", "--json").out)
    assert document["name"] == "dinghy"
    nano = json.loads(ombix(ferry, "editors", "nano", "--json").out)
    counts = {check["title"]: check["tested"] for check in document["checks"]}
    assert counts["commands"] == len(nano["commands"]) + 1
    assert counts["default keys"] == nano["default_keys"]


_GRAMMAR = """
sources = ["the handbook"]
section = "deck"
without = ["dh"]

[operators]
d = "delete"

[movements]
h = { kind = "exclusive", effect = "go left" }
w = { kind = "words", counts = "most", effect = "go next-start runs" }
"""
_SNIPPETS = """
sources = ["the handbook"]
file = "texts.list"
gap = "<gap>"
last = "<end>"
everywhere = "all"
written = { "\\n" = '\\n', "\\t" = '\\t', "\\\\" = '\\\\' }
"""


@pytest.mark.parametrize(
    ("file", "old", "new", "what"),
    [
        ("grammar.toml", "", "", "No fault."),
        ("grammar.toml", '"deck"', '"dekc"', "the grammar has an unknown section: dekc"),
        ("grammar.toml", '["dh"]', '["dx"]', "dx is no operator of the grammar, nor one with a movement"),
        ("grammar.toml", '"delete"', '"wash"', "dw: there is no wash in over words wash"),
        ("grammar.toml", "next-start runs", "next-strat runs", "dw: the step go next-strat runs is not complete"),
        ("grammar.toml", '"words", ', '"words", unsure = "tired", ', "dw: there is no test tired"),
        ("snippets.toml", "", "", "No fault."),
        ("snippets.toml", ', "\\\\" = \'\\\\\'', "", "lines was written as"),
        ("snippets.toml", 'everywhere = "all"', 'never = ["<c>"]', "lines cannot be written: <c> stands in its text"),
    ],
)  # fmt: skip
def test_operators_and_snippets_of_a_description_are_tested(
    ferry: Path, file: str, old: str, new: str, what: str
) -> None:
    text = _GRAMMAR if file == "grammar.toml" else _SNIPPETS
    assert old in text
    (ferry / "rowboat" / file).write_text(text.replace(old, new) if old else text)
    ran = ombix(ferry, "describe", "--check", "rowboat", columns=200)
    assert ran.status == (0 if what == "No fault." else 1), ran.out + ran.err
    assert what in ran.out
    assert ("operators  1" if file == "grammar.toml" else "snippets  3") in ran.out


@pytest.mark.parametrize("name", ["ex", "kate", "geany", "heddle", "micro", "dte"])
def test_a_description_that_ships_holds_as_a_users_own(ferry: Path, name: str) -> None:
    shutil.copytree(ROOT / "src/ombix/editors" / name, ferry / "own")
    path = ferry / "own" / "dialect.toml"
    path.write_text(path.read_text().replace(f'name = "{name}"', 'name = "tern"', 1))
    ran = ombix(ferry, "describe", "--check", "own")
    assert ran.status == 0, ran.out + ran.err


def test_a_command_that_the_workspace_explains_is_an_action(ferry: Path) -> None:
    (ferry / "desk" / "bindings.json").write_text('{ "F11": "lua:crossing.mark" }')
    before = ombix(ferry, "adopt", "desk/bindings.json", "--editor", "desk", "--all")
    assert "F11 → lua:crossing.mark (micro only)" in before.out
    file = ferry / "ombix.toml"
    file.write_text(file.read_text() + '\n[editor.desk.actions]\n"lua:crossing.mark" = "bookmark.toggle"\n')
    after = ombix(ferry, "adopt", "desk/bindings.json", "--editor", "desk", "--all")
    assert "F11 → bookmark.toggle" in after.out
    # And it is written for the action, as the editor has no other command for it.
    written = ombix(ferry, "port", "--to", "desk", "--output", "out.json")
    assert written.status == 1
    assert '"lua:crossing.mark"' in (ferry / "out.json").read_text()
    file.write_text(file.read_text().replace('"bookmark.toggle"', '"bookmark.togle"'))
    wrong = ombix(ferry, "what", "F11")
    assert wrong.status == 1
    assert "unknown action: bookmark.togle" in wrong.err
    assert "Did you mean bookmark.toggle" in " ".join(wrong.err.split())


def test_files_that_a_file_reads_are_read_in_their_places(ferry: Path) -> None:
    (ferry / "more").mkdir()
    (ferry / "kakrc").write_text("map global normal <F5> w\nsource more/tides.kak\nmap global normal <F7> b\n")
    (ferry / "more" / "tides.kak").write_text("map global normal <F5> b\nmap global normal <F6> w\nsource deeper.kak\n")
    (ferry / "more" / "deeper.kak").write_text(
        "source ../more/tides.kak\nsource nowhere.kak\nmap global normal <F7> w\n"
    )
    ran = ombix(ferry, "adopt", "kakrc", "--editor", "kakoune", "--name", "own", "--all", columns=160)
    assert ran.status == 1  # two of the files cannot be read
    said = {" ".join(line.split()) for line in ran.out.split("\n")}
    assert "1 map global normal <F5> w replaced by more/tides.kak:1" in said
    assert "2 source more/tides.kak reads more/tides.kak" in said
    assert any(
        line.startswith("more/deeper.kak:2 source nowhere.kak another file, which cannot be read: ") for line in said
    )
    assert any("which is being read already" in line for line in said)
    shown = ombix(ferry, "show", "--editor", "kakoune", "--by", "key", columns=160).out
    assert "own.keys.toml" in (ferry / "ombix.toml").read_text()
    assert "F6" in shown


def test_a_described_editor_says_how_a_file_reads_another_one(ferry: Path) -> None:
    described = ferry / "rowboat" / "dialect.toml"
    described.write_text(
        described.read_text().replace(
            "[sections]", '[[file.forms]]\npattern = "see {file}"\nmeans = "include"\n\n[sections]'
        )
    )
    (ferry / "rowboat" / "more.keys").write_text("on deck press f.3 to stow\n")
    (ferry / "rowboat" / "own.keys").write_text("see more.keys\non hold press f.4 to seek\n")
    ran = ombix(ferry, "adopt", "rowboat/own.keys", "--editor", "skiff", "--workspace", "rowboat", "--all", columns=120)
    assert ran.status == 0, ran.out
    assert "F3 → files.save, pane is text" in ran.out
    assert "rowboat/more.keys:1" in ran.out
