"""Conditions in an editor's own words: read, written, and what its words cannot tell."""

import re

import pytest
from hypothesis import given
from hypothesis import strategies as st

from ombix.core.conditions import ALWAYS, NEVER
from ombix.core.errors import InputError
from ombix.editors.condition_wording import Wording, check_wording
from ombix.editors.description import Conditions
from ombix.editors.file_reading import read_file
from tests.helpers import STAND_INS, dialect, editors_space

HEDDLE, TARN = dialect("heddle"), dialect("tarn")


def wording(name: str) -> Wording:
    found = dialect(name).wording
    assert found is not None
    return found


@pytest.mark.parametrize(
    ("name", "text", "means"),
    [
        ("heddle", "picked", "selection is not none"),
        ("heddle", "!knotted", "not readonly"),
        ("heddle", "picked & !knotted", "selection is not none and not readonly"),
        ("heddle", "picked&!(knotted|frayed)", "selection is not none and not readonly and not modified"),
        ("heddle", "yarn:python | yarn:c++", "language in (python, c++)"),
        ("heddle", "!!noting", "recording"),
        ("heddle", "  ( treading )  ", "program is running"),
        ("tarn", "afloat and no catch", "pane is text and selection is none"),
        ("tarn", "no (reeds or jetty)", "pane not in (files, terminal)"),
        ("tarn", "tongue-lua", "language is lua"),
    ],
)
def test_the_words_mean_what_they_say(name: str, text: str, means: str) -> None:
    space = editors_space()
    assert space.parse(wording(name).read(text)) == space.parse(means)


@pytest.mark.parametrize(
    ("text", "what"),
    [("pickd", "heddle has no condition pickd"), ("picked & yarn:", "heddle has no condition yarn:")],
)
def test_a_word_that_the_editor_does_not_have_is_named(text: str, what: str) -> None:
    with pytest.raises(InputError, match=re.escape(what)) as caught:
        wording("heddle").read(text)
    assert "picked" in caught.value.advice or text != "pickd"


@pytest.mark.parametrize("text", ["picked &", "picked knotted", "(picked", "picked)", "& picked", "!"])
def test_what_is_no_condition_is_kept_and_said(text: str) -> None:
    reading = read_file(HEDDLE, f'[[shed.cloth]]\ntreadle = "f2"\nlifts = "store"\nwhile = "{text}"\n', "file")
    assert reading.layer.bindings == []
    assert [line.is_fault for line in reading.account] == [True]


@pytest.mark.parametrize(
    ("name", "states", "within", "text"),
    [
        ("heddle", "pane is text", "pane is text", ""),
        ("heddle", "pane is text and selection is not none", "pane is text", "picked"),
        ("heddle", "pane is text and selection is none", "pane is text", "!picked"),
        ("heddle", "pane is text and program is stopped", "pane is text", "resting"),
        ("heddle", "pane is text and program is not stopped", "pane is text", "!resting"),
        ("heddle", "pane is text and language in (lua, python)", "pane is text", "yarn:lua | yarn:python"),
        ("heddle", "pane is text and language not in (lua, python)", "pane is text", "!(yarn:lua | yarn:python)"),
        ("heddle", "pane is text and readonly and modified", "pane is text", "knotted & frayed"),
        ("tarn", "pane in (text, files)", "always", "afloat or reeds"),
        ("tarn", "pane not in (text, files)", "always", "no (afloat or reeds)"),
        ("tarn", "mode is normal", "always", None),
        ("tarn", "pane is help", "always", None),
        ("tarn", "recording", "always", None),
    ],
)
def test_states_are_written_in_the_editors_words(name: str, states: str, within: str, text: str | None) -> None:
    space = editors_space()
    assert wording(name).write(space.parse(states), space.states(within), space) == text


@pytest.mark.parametrize(
    ("name", "states", "told"),
    [
        ("heddle", "selection is one and mode is normal", "selection is one"),
        ("heddle", "selection is many", "selection is many"),
        ("tarn", "selection is one", "selection is one"),
        ("tarn", "program is paused and recording", "program is paused"),
        ("tarn", "pane is search", "pane in (search, replace, replace-with, go-to-line, save-as, question, command)"),
        ("tarn", "language is python and mode is insert", "language is python"),
    ],
)
def test_the_least_that_the_words_can_tell(name: str, states: str, told: str) -> None:
    space = editors_space()
    assert wording(name).expressible(space.parse(states), space) == space.parse(told)


FACTS = {
    "selection": ("none", "one", "many"), "readonly": ("no", "yes"), "program": ("stopped", "running", "paused"),
    "popup": ("none", "suggestions", "menu"), "language": ("python", "lua"), "mode": ("plain", "insert"),
}  # fmt: skip


@st.composite
def conditions(draw: st.DrawFn) -> str:
    """A random condition over the facts above."""

    def literal() -> str:
        name = draw(st.sampled_from(sorted(FACTS)))
        word = draw(st.sampled_from(("is", "is not")))
        return f"{name} {word} {draw(st.sampled_from(FACTS[name]))}"

    terms = [" and ".join(literal() for _ in range(draw(st.integers(1, 3)))) for _ in range(draw(st.integers(1, 3)))]
    return " or ".join(f"({term})" for term in terms)


@pytest.mark.parametrize("name", [name for name in STAND_INS if dialect(name).wording is not None])
def test_what_can_be_told_is_written_and_read_as_the_same_states(name: str) -> None:
    space, words = editors_space(), wording(name)
    within = space.states("pane is text")

    @given(conditions())
    def check_one(text: str) -> None:
        states = space.both(space.parse(text), within)
        told = space.both(words.expressible(states, space), within)
        assert space.covers(told, states)
        assert space.both(words.expressible(told, space), within) == told  # no more is needed
        if told == NEVER:
            return
        written = words.write(told, within, space)
        assert written is not None, text
        again = space.parse(words.read(written)) if written else ALWAYS
        assert space.both(again, within) == told

    check_one()


def test_a_wrong_word_is_found() -> None:
    space = editors_space()
    rows = Conditions(words={"a": "selection is noen", "b": "pane is text and pane is files", "c": "readonly or not readonly",
                             "d": "readonly"})  # fmt: skip
    found = list(check_wording(Wording(rows, "skiff"), rows, space))
    assert len(found) == 3
    assert "selection is never noen" in found[0]
    assert "holds never" in found[1]
    assert "holds always" in found[2]
