"""How wide texts are in a terminal."""

import pytest

from ombix.report.terminal_text import width_of


@pytest.mark.parametrize(
    ("text", "width"),
    [
        ("Ctrl+K", 6), ("⌘K", 2), ("漢字", 4), ("é", 1), ("e\u0301", 1),
        # Emoji of several signs are one (Unicode Technical Standard 51, emoji presentation).
        ("👍🏽", 2), ("👨‍👩‍👧", 2),
    ],
)  # fmt: skip
def test_what_is_one_sign_takes_the_cells_of_one(text: str, width: int) -> None:
    assert width_of(text) == width
