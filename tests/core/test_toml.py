"""The places of keys in TOML, found by a scan that has to agree with the reader."""

import tomllib
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from ombix.core.errors import InputError
from ombix.core.toml import Document

TEXT = '''\
# comment = "not a key"
top = 1
"quoted.key" = "a # b"
[table]
plain = "x"
  indented = """
inside = "no key"
"""
array = [
  "a", # ]
  { x = 1 },
]
a.b = 'dotted'
[table."sub table"]
deep = [[1], [2]]
[[many]]
one = 1
[[many]]
two = '\\'
after = 2
'''


def test_places() -> None:
    document = Document(TEXT, "t.toml")
    expected = {
        ("top",): (2, 1), ("quoted.key",): (3, 1), ("table",): (4, 1), ("table", "plain"): (5, 1),
        ("table", "indented"): (6, 3), ("table", "array"): (9, 1), ("table", "array", "0"): (10, 3),
        ("table", "array", "1"): (11, 3), ("table", "a", "b"): (13, 1), ("table", "sub table", "deep"): (15, 1),
        ("many", "0", "one"): (17, 1), ("many", "1"): (18, 1), ("many", "1", "after"): (20, 1),
    }  # fmt: skip
    for path, place in expected.items():
        found = document.place(*path)
        assert (found.line, found.column) == place, path


_STRINGS = st.text(st.characters(min_codepoint=32, max_codepoint=0x2FF, exclude_characters="\x7f"), max_size=12)


def _literal(text: str) -> str:
    return '"' + text.replace("\\", "\\\\").replace('"', '\\"') + '"'


@given(
    st.lists(
        st.tuples(_STRINGS, st.lists(_STRINGS, max_size=3), st.booleans()), max_size=8, unique_by=lambda row: row[0]
    )
)
def test_every_key_is_found_on_its_line(rows: list[Any]) -> None:
    lines: list[str] = ["[t]"]
    expected = {}
    for key, values, is_long in rows:
        expected[key] = len(lines) + 1
        joint = ",\n  " if is_long else ", "
        lines += f'{_literal(key)} = [{joint.join(_literal(value) for value in values)}] # ["'.split("\n")
    text = "\n".join(lines) + "\n"
    assert set(tomllib.loads(text)["t"]) == set(expected)
    document = Document(text, "t.toml")
    assert {key: document.place("t", key).line for key in expected} == expected


HALF = """\
format = 1
name = "crew"

[bind.line
copy-down = "F1"
delete = "F2

[bind.files]
save = "F3"
open = [ "F4",
[bind.app]
help = "F5"
help = "F6"
quit =
"""


def test_a_half_written_file_gives_all_its_faults_and_all_that_can_be_read() -> None:
    document = Document(HALF, "t.toml", recover=True)
    assert document.table == {
        "format": 1, "name": "crew",
        "bind": {"line": {"copy-down": "F1"}, "files": {"save": "F3"}, "app": {"help": "F5"}},
    }  # fmt: skip
    assert [error.place.line for error in document.errors if error.place] == [4, 6, 10, 14, 13]
    place = document.place("bind", "app", "help")
    assert (place.line, place.column, place.end_line, place.end_column) == (12, 1, 12, 12)
    with pytest.raises(InputError):
        Document(HALF, "t.toml")


@given(st.text('ab="[]{}\n#,1', max_size=60))
def test_recovering_never_fails_and_reads_a_right_file_as_it_is(text: str) -> None:
    document = Document(text, "t.toml", recover=True)
    try:
        expected = tomllib.loads(text)
    except tomllib.TOMLDecodeError:
        assert document.errors
        return
    assert (document.table, document.errors) == (expected, [])
