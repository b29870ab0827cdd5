"""How wide texts are in a terminal."""

import pytest
from wcwidth import wcwidth

from ombix.report.terminal_text import PLAIN, width_of


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


def test_what_is_taken_for_plain_is_one_cell_wide() -> None:
    plain = [chr(code) for code in range(0x3000) if PLAIN.fullmatch(chr(code))]
    assert len(plain) > 1000
    assert [char for char in plain if wcwidth(char) != 1] == []
