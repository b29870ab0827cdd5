"""The snippet text of the Language Server Protocol 3.17: every construct, right and wrong, and what it comes to."""

import time

import pytest
from hypothesis import given
from hypothesis import strategies as st

from ombix.core.errors import InputError, NotationError
from ombix.core.snippets.expanding import expand, transformed
from ombix.core.snippets.model import GroupFormat, Part, TabStop, Text, Transformation, Variable
from ombix.core.snippets.parsing import parse, write
from ombix.core.snippets.surroundings import Enclosing, values
from tests.helpers import shipped

T = Text
RIGHT: list[tuple[str, tuple[Part, ...]]] = [
    ("", ()),
    ("plain", (T("plain"),)),
    ("$1", (TabStop(1),)),
    ("${1}", (TabStop(1),)),
    ("$0 and $12", (TabStop(0), T(" and "), TabStop(12))),
    ("${1:word}", (TabStop(1, (T("word"),)),)),
    ("${1:}", (TabStop(1),)),
    ("${1:a ${2:b} c}", (TabStop(1, (T("a "), TabStop(2, (T("b"),)), T(" c"))),)),
    ("${1:$TM_FILENAME}", (TabStop(1, (Variable("TM_FILENAME"),)),)),
    ("${1|one,two|}", (TabStop(1, (), ("one", "two")),)),
    ("${1|one|}", (TabStop(1, (), ("one",)),)),
    (r"${1|a\,b,c\|d,e\\|}", (TabStop(1, (), ("a,b", "c|d", "e\\")),)),
    ("$TM_FILENAME", (Variable("TM_FILENAME"),)),
    ("${TM_FILENAME}", (Variable("TM_FILENAME"),)),
    ("${TM_SELECTED_TEXT:none}", (Variable("TM_SELECTED_TEXT", (T("none"),)),)),
    ("${x:a $1}", (Variable("x", (T("a "), TabStop(1))),)),
    ("${x/a/b/}", (Variable("x", (), Transformation("a", (T("b"),))),)),
    ("${x/a/b/gi}", (Variable("x", (), Transformation("a", (T("b"),), "gi")),)),
    ("${x/(.*)/$1-$2/}", (Variable("x", (), Transformation("(.*)", (GroupFormat(1), T("-"), GroupFormat(2)))),)),
    ("${x/(.*)/${1}/}", (Variable("x", (), Transformation("(.*)", (GroupFormat(1),))),)),
    ("${x/a/${1:/upcase}/}", (Variable("x", (), Transformation("a", (GroupFormat(1, "upcase"),))),)),
    ("${x/a/${1:/downcase}/}", (Variable("x", (), Transformation("a", (GroupFormat(1, "downcase"),))),)),
    ("${x/a/${1:/capitalize}/}", (Variable("x", (), Transformation("a", (GroupFormat(1, "capitalize"),))),)),
    ("${x/a/${1:+yes}/}", (Variable("x", (), Transformation("a", (GroupFormat(1, None, "yes", ""),))),)),
    ("${x/a/${1:?yes:no}/}", (Variable("x", (), Transformation("a", (GroupFormat(1, None, "yes", "no"),))),)),
    ("${x/a/${1:-no}/}", (Variable("x", (), Transformation("a", (GroupFormat(1, None, None, "no"),))),)),
    ("${x/a/${1:no}/}", (Variable("x", (), Transformation("a", (GroupFormat(1, None, None, "no"),))),)),
    (r"${x/a\/b/c\/d/}", (Variable("x", (), Transformation(r"a\/b", (T("c/d"),))),)),
    ("${x/[/]/b/}", (Variable("x", (), Transformation("[/]", (T("b"),))),)),
    ("${1/a/b/}", (TabStop(1, change=Transformation("a", (T("b"),))),)),
    (r"\$1 \} \\ \n", (T(r"$1 } \ \n"),)),
    ("a } b { c", (T("a } b { c"),)),
    ("5 $ and $", (T("5 $ and $"),)),
    ("line\n\tnext", (T("line\n\tnext"),)),
]


@pytest.mark.parametrize(("text", "parts"), RIGHT, ids=[text or "nothing" for text, _parts in RIGHT])
def test_every_construct_is_read(text: str, parts: tuple[Part, ...]) -> None:
    assert parse(text) == parts
    assert parse(write(parts)) == parts


@pytest.mark.parametrize(
    ("text", "start", "what"),
    [
        ("a ${", 2, "a number or a name is missing"),
        ("${}", 0, "a number or a name is missing"),
        ("${-}", 0, "a number or a name is missing"),
        ("a ${1", 2, "${ is never closed"),
        ("${1:a", 0, "${ is never closed"),
        ("${1:a ${2:b}", 0, "${ is never closed"),
        ("${x", 0, "${ is never closed"),
        ("${1x}", 3, "behind ${1 stands x"),
        ("${x-}", 3, "behind ${x stands -"),
        ("${1|a,b", 0, "the choices are never closed"),
        ("${1|a|b|}", 5, "| stands inside a choice"),
        ("${x/a", 0, "the pattern is never closed"),
        ("${x/a/b", 0, "the replacement is never closed"),
        ("${x/a/b/", 0, "${ is never closed"),
        ("${x/(/b/}", 4, "this is no pattern"),
        ("${x/[a/b/}", 0, "the pattern is never closed"),
        ("${x/a/b/q}", 8, "q is no option"),
        ("${x/a/b/gg}", 8, "g is no option"),
        ("${x/a/${1:/up}/}", 11, "up is no change of case"),
        ("${x/a/${b}/}", 6, "the number of a group is missing"),
        ("${x/a/${1:?b}/}", 6, "the words for a group that is not there"),
        ("${1:a ${1:b}}", 6, "the stop 1 stands in its own default words"),
        ("${1:a ${2:b $1}}", 12, "the stop 1 stands in its own default words"),
        ("$12345", 0, "12345… is no number"),
    ],
)
def test_what_the_grammar_does_not_have_is_refused_at_its_place(text: str, start: int, what: str) -> None:
    with pytest.raises(NotationError) as found:
        parse(text)
    assert found.value.what.startswith(what)
    assert found.value.start == start
    assert found.value.advice


PARTS = st.recursive(
    st.one_of(
        st.builds(Text, st.text(st.characters(codec="utf-8", exclude_categories=["C"]), min_size=1, max_size=5)),
        st.builds(Variable, st.sampled_from(["TM_FILENAME", "x"])),
        st.builds(
            lambda words: TabStop(7, (), tuple(words)),
            st.lists(st.text("ab,|$}\\", max_size=4), min_size=1, max_size=3),
        ),
    ),
    lambda inner: st.builds(lambda parts: Variable("y", tuple(parts)), st.lists(inner, max_size=2)),
    max_leaves=6,
)


@given(st.lists(PARTS, max_size=5))
def test_what_is_written_is_read_again(parts: list[Part]) -> None:
    once = parse(write(tuple(parts)))
    assert parse(write(once)) == once


VALUES = {"TM_FILENAME": "north-pier.07.py", "TM_SELECTED_TEXT": None, "FULL": "two piers"}


@pytest.mark.parametrize(
    ("text", "wanted"),
    [
        ("$FULL!", "two piers!"),
        ("${TM_SELECTED_TEXT:none}", "none"),
        ("${TM_SELECTED_TEXT}", ""),
        ("${FULL:other}", "two piers"),
        ("$UNKNOWN", "UNKNOWN"),
        ("${1:a}-$1-${1}", "a-a-a"),
        ("$1-${1:a}", "a-a"),
        ("${1|low,high|} $1", "low low"),
        ("${1:a ${2:b}} $1", "a b a b"),
        ("${TM_FILENAME/[-.]/_/}", "north_pier.07.py"),
        ("${TM_FILENAME/[-.]/_/g}", "north_pier_07_py"),
        ("${TM_FILENAME/(.*)\\.(.+)$/$1/}", "north-pier.07"),
        ("${TM_FILENAME/^(.)(.*)-(.).*$/${1:/upcase}$2${3:/upcase}/}", "NorthP"),
        ("${TM_FILENAME/.*/${0:/upcase}/}", "NORTH-PIER.07.PY"),
        ("${FULL/(two)|(one)/${1:+2}${2:+1}/}", "2 piers"),
        ("${FULL/(two)|(one)/${2:?one:many}/}", "many piers"),
        ("${FULL/PIERS/docks/i}", "two docks"),
        ("${FULL/zzz/docks/}", "two piers"),
        ("${FULL/(x)?two/${1:-no x}/}", "no x piers"),
        ("${FULL/\\w+/w/g}", "w w"),
        ("${FULL/two$/w/}", "two piers"),
    ],
)
def test_what_it_comes_to(text: str, wanted: str) -> None:
    assert expand(parse(text), VALUES).text == wanted


def test_where_the_stops_are() -> None:
    found = expand(parse("f(${2:b}, ${1:a})$0 $2"), {})
    assert found.text == "f(b, a) b"
    assert [(one.number, one.start, one.end) for one in found.places] == [(1, 5, 6), (2, 2, 3), (2, 8, 9), (0, 7, 7)]
    assert expand(parse("ab"), {}).places[-1][:3] == (0, 2, 2)  # the last place is always there
    assert expand(parse("a\n\tb"), {}, "  ").text == "a\n  \tb"
    unknown = expand(parse("$one $two $one ${3:x}"), {})
    assert [one.number for one in unknown.places] == [3, 4, 4, 5, 0]


def test_a_pattern_of_ecmascript_is_its_own() -> None:
    def swapped(value: str, pattern: str, options: str = "") -> str:
        return transformed(value, Transformation(pattern, (Text("#"),), options))

    assert swapped("a\n", "$") == "a\n#"  # the very end, and not before the last line break
    assert swapped("a\nb", "$", "gm") == "a#\nb#"
    assert swapped("a\nb", "[^]") == "#\nb"
    assert swapped("a[b", "[[]") == "a#b"
    assert swapped("٣3", r"\d") == "٣#"  # digits are those of ASCII
    assert swapped("ba", "a", "y") == "ba"
    assert swapped("a\nb", "a.b", "s") == "#"


def test_a_pattern_that_would_take_for_ever_is_ended() -> None:
    started = time.monotonic()
    with pytest.raises(InputError, match="takes longer"):
        transformed("a" * 60 + "b", Transformation("^(a|aa)+$", (Text(""),)))
    assert time.monotonic() - started < 20


def test_bodies_that_are_too_much_are_refused() -> None:
    with pytest.raises(NotationError, match="longer than"):
        parse("a" * 100_001)
    with pytest.raises(NotationError, match="deep"):
        parse("${1:" * 60 + "}" * 60)
    with pytest.raises(InputError, match="comes to more"):
        expand(parse("$x" * 30_000), {"x": "a" * 100})


TEXT = """\
class Pier:
    def __init__(self):
        self.a = 1

    def open(self, at):
        if at:
            pass
        go

x = 1
"""


@pytest.mark.parametrize(
    ("place", "function", "type_"),
    [
        ("self.a", "__init__", "Pier"),
        ("pass", "open", "Pier"),
        ("go", "open", "Pier"),
        ("x =", None, None),
        ("open", "open", "Pier"),
    ],
)
def test_what_is_around_the_cursor_in_python(place: str, function: str | None, type_: str | None) -> None:
    python = shipped.languages()["python"].enclosing
    found = values(TEXT, TEXT.index(place), (0, 0), "", python)
    assert (found["ENCLOSING_FUNCTION"], found["ENCLOSING_TYPE"]) == (function, type_)


@pytest.mark.parametrize(
    ("language", "text", "function", "type_"),
    [
        ("c", "int open(int at)\n{\n    @\n}\n", "open", None),
        ("go", "func (p *Pier) Open(at int) {\n\t@\n}\n", "Open", "Pier"),
        ("rust", "impl Pier {\n    pub fn open(&self) {\n        @\n    }\n}\n", "open", "Pier"),
        (
            "java",
            "public class Pier {\n    void open(int at) {\n        if (at > 1) {\n            @\n",
            "open",
            "Pier",
        ),
        ("javascript", "class Pier {\n  open(at) {\n    @\n  }\n}\n", "open", "Pier"),
        ("lua", "function pier.open(at)\n  @\nend\n", "open", None),
        ("shell", "open() {\n  @\n}\n", "open", None),
    ],
)
def test_what_is_around_the_cursor(language: str, text: str, function: str | None, type_: str | None) -> None:
    found = values(text, text.index("@"), (0, 0), "", shipped.languages()[language].enclosing)
    assert (found["ENCLOSING_FUNCTION"], found["ENCLOSING_TYPE"]) == (function, type_)


def test_the_variables_of_the_protocol() -> None:
    found = values("one\ntwo three\n", 9, (4, 7), "/piers/north.times.py", Enclosing((), ()))
    assert found == {
        "TM_SELECTED_TEXT": "two", "TM_CURRENT_LINE": "two three", "TM_CURRENT_WORD": "three", "TM_LINE_INDEX": "1",
        "TM_LINE_NUMBER": "2", "TM_FILENAME": "north.times.py", "TM_FILENAME_BASE": "north.times", "TM_DIRECTORY": "/piers",
        "TM_FILEPATH": "/piers/north.times.py", "ENCLOSING_FUNCTION": None, "ENCLOSING_TYPE": None,
    }  # fmt: skip
    assert values("", 0, (0, 0))["TM_FILENAME"] is None
