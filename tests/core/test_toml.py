"""The places of keys in TOML, found by a scan that has to agree with the reader."""

import tomllib
from typing import Any

from hypothesis import given
from hypothesis import strategies as st

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
