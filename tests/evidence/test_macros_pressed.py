"""Random macros of several steps, ported to the real editors and pressed there: they do what was said of them."""

import sys

import pytest

from tests.helpers import ROOT

sys.path.insert(0, str(ROOT / "tools"))
import try_macros

EACH = 20
WITH_MACROS = {"dte": 10, "ex": 10, "joe": 10, "kakoune": 10, "nano": 10}
"""Editors whose keys can run several commands and type, and how many macros at the least are carried to each."""


@pytest.mark.long
@pytest.mark.parametrize("editor", WITH_MACROS)
def test_macros_are_what_was_said_of_them(editor: str) -> None:
    found = try_macros.tried(editor, EACH, f"{editor} 2")
    done = ("agrees", "reached")  # of macros with steps that do not only change a text, that they run
    assert [one for one in found.keys if one.result not in done] == []
    assert sum(one.result == "agrees" for one in found.keys) >= WITH_MACROS[editor] // 2
    assert sum(one.action.startswith("macro ") for one in found.keys) >= WITH_MACROS[editor]


@pytest.mark.parametrize("editor", ["geany", "kate", "mcedit", "mousepad"])
def test_where_one_key_runs_one_command_macros_are_lost_with_the_reason(editor: str) -> None:
    reasons = try_macros.lost(editor, EACH, editor)
    assert len(reasons) == EACH
    assert all(f"{editor} cannot" in one or f"{editor} has no command" in one for one in reasons)
