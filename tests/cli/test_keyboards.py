"""What can be pressed, as the built program tells it: layouts, platforms, terminals, folding."""

import json
from pathlib import Path

import pytest

from tests.files.test_layout_files import PIER_CLDR, PIER_XKB
from tests.helpers import ombix

RULES = ("no-press", "hard-press", "system-key", "desktop-key", "not-sent", "sent-alike", "swallowed-text",
         "one-platform", "crossed-exceptions", "other-press")  # fmt: skip


def found(folder: Path, workspace: str, platform: str) -> set[str]:
    chosen = [word for rule in RULES for word in ("--rule", rule)]
    ran = ombix(folder, "audit", "--workspace", workspace, "--on", platform, "--json", *chosen)
    return {finding["rule"] for finding in json.loads(ran.out)["findings"]}


def test_every_rule_finds_something_on_the_crews_keyboards_and_nothing_when_they_are_mended(ferry: Path) -> None:
    platforms = ("linux", "windows", "mac")
    assert set.union(*(found(ferry, "keyboards", platform) for platform in platforms)) == set(RULES)
    for platform in platforms:
        assert found(ferry, "keyboards/mended.toml", platform) == set()


def test_how_to_press_it_on_another_keyboard(ferry: Path) -> None:
    ran = ombix(ferry, "what", "Ctrl+/", "--layout", "de")
    assert ran.status == 0
    assert "On the layout German: Strg+Shift+7" in ran.out
    assert "Ctrl+/ (Strg+Shift+7)" in ombix(ferry, "how", "comment", "--layout", "de").out
    assert "Ctrl+/ (Strg+Shift+7)" in ombix(ferry, "show", "--layout", "de").out
    document = json.loads(ombix(ferry, "what", "Ctrl+/", "--layout", "de", "--json").out)
    assert document["presses"] == [
        {"layout": "de", "title": "German", "press": "Strg+Shift+7", "why_not": None, "plain": False}
    ]
    assert "the layout English (US) has no ß" in ombix(ferry, "what", "Ctrl+ß", "--layout", "us").out
    assert "layout" not in ombix(ferry, "what", "Ctrl+S", "--layout", "us").out


@pytest.mark.parametrize("keys", ["Ctrl+[Slash]", "Strg+[Slash]", "⌃[Slash]", "Control+/"])
def test_keys_in_any_words_and_by_their_place(ferry: Path, keys: str) -> None:
    assert "comment.toggle" in ombix(ferry, "what", keys, "--layout", "us").out


def test_a_place_and_a_character_on_it_clash_on_this_layout_only(ferry: Path) -> None:
    (ferry / "crew.keys.toml").write_text(
        'format = 1\nname = "crew"\n[bind.comment]\ntoggle = "Ctrl+/"\n[bind.files]\nsave = "Ctrl+[Slash]"\n'
    )
    assert ombix(ferry, "audit", "--rule", "clash", "--layout", "us").status == 1
    assert ombix(ferry, "audit", "--rule", "clash", "--layout", "de").status == 0
    assert ombix(ferry, "audit", "--rule", "clash").status == 0


def test_a_layout_of_ones_own(ferry: Path) -> None:
    (ferry / "pier.xml").write_text(PIER_CLDR, "utf-8")
    (ferry / "pier.xkb").write_text(PIER_XKB, "utf-8")
    assert "On the layout Ferry German: Ctrl+Shift+7" in ombix(ferry, "what", "Ctrl+/", "--layout", "pier.xml").out
    assert "layout" not in ombix(ferry, "what", "Ctrl+/", "--layout", "pier.xkb").out  # there it is a key of its own
    assert "Ferry German, ISO keyboard" in ombix(ferry, "layouts", "pier.xml").out
    (ferry / "pier.xml").write_text("<keyboard3", "utf-8")
    ran = ombix(ferry, "what", "Ctrl+/", "--layout", "pier.xml")
    assert ran.status == 2
    assert "this is not XML" in ran.err
    assert "pier.xml:1" in ran.err


def test_a_workspace_names_its_keyboards(ferry: Path) -> None:
    file = ferry / "ombix.toml"
    text = file.read_text()
    file.write_text(
        text.replace('platform = "linux"', 'platform = "linux"\nlayout = ["us", "de"]\nkeyboard = "laptop"')
    )
    assert "On the layout German: Strg+Shift+7" in ombix(ferry, "what", "Ctrl+/").out
    assert "Fn+←" in ombix(ferry, "what", "Home").out


@pytest.mark.parametrize(
    ("line", "what", "mark"),
    [
        ('layout = "dee"', "unknown layout: dee", "de"),
        ("layout = 1", "layout takes a name", ""),
        ("layout = { beos = \"de\" }", "unknown platform: beos", ""),
        ('keyboard = "laptpo"', "unknown keyboard: laptpo", "laptop"),
        ('desktop = "gnom"', "unknown desktop: gnom", "gnome"),
        ('reserved = "x"', "reserved is not a table", ""),
        ('reserved = { "Ctrl+Alt+J" = 1 }', "a reserved chord takes what it does", ""),
        ('reserved = { "Ctlr+J" = "x" }', "unknown modifier: Ctlr", "Ctrl"),
        ('reserved = { "Ctrl+J Ctrl+K" = "x" }', "a reserved chord is one chord", ""),
    ],
)  # fmt: skip
def test_a_wrong_line_about_keyboards_says_what_is_wrong(ferry: Path, line: str, what: str, mark: str) -> None:
    file = ferry / "ombix.toml"
    file.write_text(file.read_text().replace('platform = "linux"', line))
    ran = ombix(ferry, "port", "--to", "nano", "--dry-run")
    assert ran.status == 2
    assert what in ran.err
    assert "ombix.toml:4:" in ran.err
    assert mark in ran.err
    asked = ombix(ferry, "what", "F8")
    assert (asked.status, what in " ".join(asked.err.split())) == (0, True)


def test_platforms_side_by_side(ferry: Path) -> None:
    ran = ombix(ferry, "show", "--workspace", "keyboards", "--platforms", "--differing")
    assert ran.status == 0
    rows = [line.split("  ") for line in ran.out.split("\n")[1:-1]]
    assert [row[0] for row in rows] == [
        "Wrap long lines on the screen or not", "Show line numbers or not", "Rename the file", "Open a file",
        "Set or remove a bookmark",
    ]  # fmt: skip
    document = json.loads(ombix(ferry, "show", "--platforms", "--json").out)
    save = next(row for row in document["bindings"] if row["does"] == "files.save")
    assert save["keys"] == {"linux": ["Ctrl+S", "F2"], "mac": ["Meta+S", "F2"], "windows": ["Ctrl+S", "F2"]}
    assert ombix(ferry, "show", "--differing").status == 2


def test_folding_files(ferry: Path) -> None:
    desk, room = "keyboards/desk.keys.toml", "keyboards/drawing-room.keys.toml"
    ran = ombix(ferry, "fold", "one.keys.toml", f"linux={desk}", f"mac={room}", f"windows={desk}")
    assert ran.status == 0
    assert "4 definitions, 1 of them with an exception." in ran.out
    assert 'rename = { press = "F4", mac = "Ctrl+Enter" }' in (ferry / "one.keys.toml").read_text()
    assert ombix(ferry, "undo").status == 0
    assert not (ferry / "one.keys.toml").exists()
    two = ombix(ferry, "fold", "two.keys.toml", f"linux={desk}", f"mac={room}", "--dry-run")
    assert two.status == 0
    assert not (ferry / "two.keys.toml").exists()
    assert ombix(ferry, "fold", "x.keys.toml", f"linux={desk}").status == 2
    assert ombix(ferry, "fold", "x.keys.toml", f"linux={desk}", "mac=nowhere").status == 2
    extending = ombix(ferry, "fold", "x.keys.toml", f"linux={desk}", "mac=keyboards/crew.keys.toml")
    assert extending.status == 2
    assert "extends other keymaps" in extending.err
    for named, said in (
        ((desk, f"mac={room}"), f"it is not said which platform {desk} is for"),
        ((f"mac={desk}", f"mac={room}"), "mac has two keymaps"),
        ((f"macc={desk}", f"linux={room}"), "macc"),
    ):
        wrong = ombix(ferry, "fold", "x.keys.toml", *named)
        assert (wrong.status, said in wrong.err) == (2, True), wrong.err


def test_layouts_are_listed_and_drawn(ferry: Path) -> None:
    assert "German (Switzerland)" in ombix(ferry, "layouts").out
    assert len(json.loads(ombix(ferry, "layouts", "--json").out)["layouts"]) >= 24
    assert json.loads(ombix(ferry, "layouts", "de", "--json").out)["keys"]["KeyE"] == ["e", "E", "€", "€"]
    ran = ombix(ferry, "layouts", "ed")
    assert ran.status == 2
    assert "unknown layout: ed" in ran.err
