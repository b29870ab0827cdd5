"""Facts: their values, what is added to them, and the order in which they are asked for."""

import pytest

from ombix.core.conditions import MAX_CONDITION_LENGTH, Fact, Facts, Space
from ombix.core.conditions.facts import ANY_OTHER
from ombix.core.errors import NotationError

PANE = Fact("pane", ("text", "files", "help"), plainest=("help", "text"))
LANGUAGE = Fact("language", ("lua", "python"), is_open=True)
READONLY = Fact("readonly", ("no", "yes"))
FACTS = Facts((PANE, LANGUAGE, READONLY), ("pane is help and readonly",))


def test_the_values_of_a_fact_and_their_order() -> None:
    assert PANE.domain == ("text", "files", "help")
    assert LANGUAGE.domain == ("lua", "python", ANY_OTHER)
    assert PANE.plain_order == ("help", "text", "files")
    assert (READONLY.is_flag, PANE.is_flag) == (True, False)


def test_a_fact_is_closed_unless_it_is_said_to_be_open() -> None:
    space = Space(FACTS)
    assert space.states("pane is not text and pane is not files") == space.states("pane is help")
    assert space.states("language is not lua") != space.states("language is python")


def test_more_values_for_a_fact_that_is_there() -> None:
    more = FACTS.extended([Fact("pane", ("map", "text"), adds=True)], [])
    assert more.by_name["pane"].values == ("text", "files", "help", "map")
    assert [fact.name for fact in more.facts] == ["pane", "language", "readonly"]
    with pytest.raises(ValueError, match="there is no fact tide that could have more values"):
        FACTS.extended([Fact("tide", ("low",), adds=True)], [])


def test_a_fact_that_is_there_is_the_same_or_refused() -> None:
    assert FACTS.extended([READONLY], []) is FACTS
    with pytest.raises(ValueError, match="the fact readonly is there already"):
        FACTS.extended([Fact("readonly", ("yes", "no"))], [])
    assert [fact.name for fact in FACTS.extended([Fact("tide", ("low", "high"))], []).facts][-1] == "tide"


def test_what_is_excluded_is_excluded_once() -> None:
    more = FACTS.extended([], ["pane is help and readonly", "pane is files and readonly"])
    assert more.never == ("pane is help and readonly", "pane is files and readonly")
    assert FACTS.extended([], ["pane is help and readonly"]) is FACTS


def test_the_order_in_which_facts_are_asked_for() -> None:
    assert [fact.name for fact in FACTS.in_order()] == ["pane", "language", "readonly"]
    ordered = FACTS.ordered(("readonly", "nowhere", "language"))
    assert [fact.name for fact in ordered.in_order()] == ["readonly", "language", "pane"]
    assert (ordered.never, ordered.extended([Fact("tide", ("low",))], []).order) == (FACTS.never, ordered.order)
    assert FACTS.ordered(()) is FACTS


@pytest.mark.parametrize(
    ("text", "start", "end", "said"),
    [
        ("pane is sea", 8, 11, "pane is never sea"),
        ("readonly and pain is text", 13, 17, "unknown fact: pain"),
        ("pane in (text, sea)", 15, 18, "pane is never sea"),
    ],
)
def test_what_is_wrong_in_a_condition_is_told_with_its_place(text: str, start: int, end: int, said: str) -> None:
    with pytest.raises(NotationError) as caught:
        Space(FACTS).parse(text)
    assert (caught.value.start, caught.value.end, caught.value.what) == (start, end, said)


def test_the_values_that_are_offered_are_twelve_at_the_most() -> None:
    few, many = (Fact("tide", tuple(f"v{number}" for number in range(count))) for count in (12, 13))
    for fact, end in ((few, "v11."), (many, "v11, ….")):
        with pytest.raises(NotationError) as caught:
            Space(Facts((fact,))).parse("tide is sea-water")
        assert str(caught.value.advice).endswith(end)


def test_a_condition_that_is_too_long_is_quoted_by_its_beginning() -> None:
    with pytest.raises(NotationError) as caught:
        Space(FACTS).parse("readonly or " * (MAX_CONDITION_LENGTH // 10) + "readonly")
    assert caught.value.text == ("readonly or " * 5) + "…"
