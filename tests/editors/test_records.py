"""Records of lines: read into a tree and laid out again."""

import pytest

from ombix.core.errors import InputError
from ombix.editors.formats.records import lay_out, one_line, parse

TWO = """\
# Keys of the pier.
command: save
keys:    Ctrl+S

; moved
command: find
keys: F3
when: a = b: c
"""


def test_a_record_ends_at_an_empty_line_or_a_line_of_signs() -> None:
    for between in ("\n", "  \n", "---\n", "\n=====\n\n"):
        top = parse(f"a: 1\nb: 2\n{between}a: 3\n", "k")
        assert [[(one.name, one.value.text) for one in record.fields] for record in top.items] == [
            [("a", "1"), ("b", "2")],
            [("a", "3")],
        ]


def test_values_end_with_their_line_and_may_have_the_sign() -> None:
    first, second = parse(TWO, "k").items
    assert [(one.name, one.value.text) for one in first.fields] == [("command", "save"), ("keys", "Ctrl+S")]
    assert second.fields[2].value.text == "a = b: c"
    assert [one.place.line for one in second.fields] == [6, 7, 8]
    assert parse("keys: Ctrl+:\nnone:\n", "k").items[0].fields[0].value.text == "Ctrl+:"
    assert parse("keys=Ctrl+=\n", "k").items[0].fields[0].value.text == "Ctrl+="


def test_what_is_laid_out_is_read_as_it_was() -> None:
    top = parse(TWO, "k")
    assert lay_out(top) == "command: save\nkeys: Ctrl+S\n\ncommand: find\nkeys: F3\nwhen: a = b: c\n"
    assert one_line(parse("a=1\nb = 2\n", "k").items[0]) == "a = 1\nb = 2"
    top.items[1].comment = "Moved"
    again = parse(lay_out(top), "k")
    assert [one_line(one) for one in again.items] == [one_line(one) for one in top.items]
    assert lay_out(parse("", "k")) == ""


def test_a_record_of_very_many_lines_is_read_or_refused() -> None:
    """Were each name looked for in all before it, it would take hours, and the limit of a test ends it."""
    assert len(parse("".join(f"n{number}: x\n" for number in range(100_000)), "k").items[0].fields) == 100_000
    with pytest.raises(InputError, match="more than"):
        parse("a: 1\n\n" * 100_000, "k")


@pytest.mark.parametrize(
    ("text", "said", "line"),
    [
        ("a: 1\nb\n", "this is no entry", 2),
        ("a: 1\n\na: 2\na: 3\n", "a stands twice in this record", 4),
        ("a: 1\nb = 2\n", "here stands = and above it :", 2),
        ("\ufeff[a]\n", "this is no entry", 1),
    ],
)
def test_what_is_no_record_is_said_with_its_place(text: str, said: str, line: int) -> None:
    with pytest.raises(InputError, match=said.replace("+", r"\+")) as found:
        parse(text, "k")
    assert found.value.place is not None
    assert found.value.place.line == line
