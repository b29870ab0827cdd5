"""Mod in a terminal on a Mac: no terminal sends Command, so it is Ctrl there, in every answer."""

import json
from pathlib import Path

import pytest

from ombix.core.keys.notation import CTRL, META, parse, write
from ombix.core.pressing.terminals import in_terminal
from tests.helpers import dialect, ombix, others_in_all, shipped

TEN = ["dte", "ex", "geany", "joe", "kakoune", "kate", "mcedit", "micro", "mousepad", "nano"]


def test_a_terminal_has_another_main_modifier_and_a_window_has_not() -> None:
    mac, linux = shipped.platform("mac"), shipped.platform("linux")
    there = in_terminal(mac, dialect("nano").terminal)
    assert write(there.resolve(parse("Mod+S"))) == "Ctrl+S"
    assert there.show(parse("Mod+S")) == "⌃S"
    assert there.main_modifier == CTRL and mac.main_modifier == META
    assert in_terminal(mac, dialect("kate").terminal) is mac
    assert in_terminal(linux, dialect("nano").terminal) is linux


@pytest.mark.parametrize("editor", others_in_all(TEN, "nano", "micro", "geany"))
def test_no_more_is_gone_than_on_linux(ferry: Path, editor: str) -> None:
    gone = {}
    for on in ("linux", "mac", "windows"):
        told = json.loads(ombix(ferry, "port", "--to", editor, "--on", on, "--dry-run", "--json").out)
        gone[on] = told["answers"]["gone"]
    assert gone["mac"] <= gone["linux"]
    assert gone["windows"] <= gone["linux"]


def test_it_is_said_once_and_meant_everywhere(ferry: Path) -> None:
    told = ombix(ferry, "port", "--to", "pier", "--on", "mac", "--dry-run").out
    assert told.count("Mod is Ctrl there: a terminal sends no ⌘S.") == 1
    assert "Mod is Ctrl" not in ombix(ferry, "port", "--to", "pier", "--dry-run").out
    assert "⌃S (Ctrl+S) in pier, on Mac" in ombix(ferry, "what", "Mod+S", "--editor", "pier", "--on", "mac").out
    typed = ombix(ferry, "what", "Cmd+S", "--editor", "pier", "--on", "mac").out
    assert "A terminal does not send ⌘S; this is ⌃S, which Mod is there." in typed
    assert "⌘S (Meta+S) in the keymap, on Mac" in ombix(ferry, "what", "Mod+S", "--on", "mac").out
    found = json.loads(ombix(ferry, "audit", "--on", "mac", "--json").out)
    assert not [one for one in found["findings"] if one["rule"] == "not-sent"]


def test_command_itself_still_does_not_arrive(ferry: Path) -> None:
    file = ferry / "crew.keys.toml"
    file.write_text(file.read_text().replace('quit = "Mod+Q"', 'quit = { press = "Ctrl+Q", mac = "Meta+Shift+Q" }'))
    found = json.loads(ombix(ferry, "audit", "--on", "mac", "--rule", "not-sent", "--json").out)
    (one,) = found["findings"]
    assert one["message"].startswith("⇧⌘Q for app.quit does not arrive in desk and pier")


def test_what_mod_becomes_is_told_from_what_is_bound_there_already(ferry: Path) -> None:
    file = ferry / "crew.keys.toml"
    file.write_text(file.read_text() + '\n[bind.line.sort]\npress = "Ctrl+S"\n')
    found = json.loads(ombix(ferry, "audit", "--on", "mac", "--rule", "sent-alike", "--json").out)
    (one,) = found["findings"]
    assert one["message"] == "desk and pier cannot tell ⌘S for files.save and ⌃S for line.sort apart"
