"""Conditions in words."""

import pytest

from ombix.workspace.condition_words import in_words


@pytest.mark.parametrize(
    ("condition", "words"),
    [
        ("always", ""), ("pane is text", "in the text"), ("mode is normal", "in normal mode"),
        ("pane is text and mode in (normal, select)", "in the text, in normal and select mode"),
        ("pane in (text, help, files, problems)", "in the text and 3 other places"),
        ("pane is go-to-line", "in the question for a line"), ("pane is files", "in the list of files"),
        ("pane is text and selection in (one, many)", "in the text, with text selected"),
        ("pane is text and not readonly", "in the text, where the text can be changed"),
        ("pane is text or mode is normal", "in the text or in normal mode"),
        ("(pane is text and mode is insert) or pane is files", "in the text, in insert mode; or in the list of files"),
        ("pane is text or pane is files or (pane is question and asks is choice)", "in the text, or in 2 other cases"),
        ("pane not in (question, help)", "outside a question and the help"), ("mode is not insert", "outside insert mode"),
        ("mode not in (normal, insert, line)", "outside normal and 2 other modes"),
        ("not pane is text", "when not pane is text"), ("program", "when program"),
        ("pane is text and language is python", "in the text, when language is python"),
        ("pane is text and program is paused", "in the text, while the program is paused"),
        ("pane is text and (mode is normal or readonly)", "when pane is text and (mode is normal or readonly)"),
    ],
)  # fmt: skip
def test_conditions_are_said_as_one_speaks(condition: str, words: str) -> None:
    assert in_words(condition) == words
