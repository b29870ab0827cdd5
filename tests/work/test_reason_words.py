"""Reasons of a port in words."""

import pytest

from ombix.workspace.reason_words import for_it, reason_in_words


@pytest.mark.parametrize(
    ("sentence", "words"),
    [
        ("nano has nothing like pane is files", "nano has nothing like this: in the list of files"),
        ("Nano has nothing like mode is insert.", "Nano has nothing like this: in insert mode."),
        ("In every state, as joe cannot tell pane.", "Everywhere, as joe cannot tell where one is."),
        ("in every state, as joe cannot tell pane and mode", "everywhere, as joe cannot tell where one is and which mode it is in"),
        ("the key means several things by program, which micro cannot tell",
         "the key does several things, and micro cannot tell whether a program runs"),
        ("whenever pane is text, as dte cannot tell readonly", "in the text, as dte cannot tell whether the text can be changed"),
        ("Only when pane in (text, files), as geany cannot tell kind.",
         "Only in the text and the list of files, as geany cannot tell kind."),
        ("On Alt+S, as ex cannot bind Ctrl+S.", "On Alt+S, as ex cannot bind Ctrl+S."),
    ],
)  # fmt: skip
def test_a_reason_is_said_as_one_speaks(sentence: str, words: str) -> None:
    assert reason_in_words(sentence) == words


def test_what_is_meant_is_not_said_twice() -> None:
    assert for_it("nano has no command for tabs.new", "tabs.new") == "nano has no command for it"
    assert for_it("nano cannot bind Escape", "tabs.new") == "nano cannot bind Escape"
