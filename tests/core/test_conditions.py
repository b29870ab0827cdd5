"""Conditions are sets of states: every answer is held against going through all states."""

from itertools import product
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from ombix.core.conditions import ALWAYS, ANY_OTHER, NEVER, Fact, Facts, Scope, Space
from ombix.core.errors import NotationError
from tests.helpers import SMALL, space

_DOMAINS = {fact.name: (*fact.values, "other") if fact.is_open else fact.values for fact in SMALL.facts}
STATES = [dict(zip(_DOMAINS, values, strict=True)) for values in product(*_DOMAINS.values())]


# An expression as a tree: its text, and what it is for one state by the rules of logic alone.
@st.composite
def expressions(draw: st.DrawFn, depth: int = 3) -> Any:
    kind = draw(st.sampled_from(["is", "is not", "in", "not in", "bare", *(["and", "or", "not"] * depth)]))
    if kind in ("and", "or"):
        return (kind, draw(expressions(depth - 1)), draw(expressions(depth - 1)))
    if kind == "not":
        return (kind, draw(expressions(depth - 1)))
    if kind == "bare":
        return ("is", "readonly", ["yes"], "readonly")
    name = draw(st.sampled_from(list(_DOMAINS)))
    values = [value for value in _DOMAINS[name] if value != "other"]
    chosen = draw(st.lists(st.sampled_from(values), min_size=1, max_size=2, unique=True))
    return (kind, name, chosen if "in" in kind else chosen[:1], "")


def text_of(tree: Any) -> str:
    if tree[0] in ("and", "or"):
        return f"({text_of(tree[1])}) {tree[0]} ({text_of(tree[2])})"
    if tree[0] == "not":
        return f"not ({text_of(tree[1])})"
    kind, name, values, bare = tree
    if bare:
        return str(bare)
    return f"{name} {kind} ({', '.join(values)})" if "in" in kind else f"{name} {kind} {values[0]}"


def short_text_of(tree: Any, around: int = 0) -> str:
    """Without the parentheses that "not" before "and" before "or" makes needless."""
    binds = {"or": 1, "and": 2, "not": 3}.get(tree[0], 4)
    if binds == 4:
        return text_of(tree)
    if tree[0] == "not":
        text = f"not {short_text_of(tree[1], 3)}"
    else:
        text = f"{short_text_of(tree[1], binds)} {tree[0]} {short_text_of(tree[2], binds)}"
    return f"({text})" if binds < around else text


def truth(tree: Any, state: dict[str, str]) -> bool:
    if tree[0] == "and":
        return truth(tree[1], state) and truth(tree[2], state)
    if tree[0] == "or":
        return truth(tree[1], state) or truth(tree[2], state)
    if tree[0] == "not":
        return not truth(tree[1], state)
    return (state[tree[1]] in tree[2]) == (tree[0] in ("is", "in"))


@given(expressions())
def test_a_condition_holds_in_the_states_that_logic_says(tree: Any) -> None:
    here = Space(SMALL)
    node = here.parse(text_of(tree))
    assert [here.holds(node, state) for state in STATES] == [truth(tree, state) for state in STATES]
    assert here.parse(short_text_of(tree)) == node


@given(expressions(), expressions(), st.lists(expressions(1), max_size=2))
def test_overlap_cover_and_emptiness_agree_with_going_through_all_states(a: Any, b: Any, never: list[Any]) -> None:
    here = Space(Facts(SMALL.facts, tuple(text_of(tree) for tree in never)))
    possible = [state for state in STATES if not any(truth(tree, state) for tree in never)]
    in_a = [truth(a, state) for state in possible]
    in_b = [truth(b, state) for state in possible]
    node_a, node_b = here.states(text_of(a)), here.states(text_of(b))
    assert here.overlap(node_a, node_b) == any(x and y for x, y in zip(in_a, in_b, strict=True))
    assert here.covers(node_a, node_b) == all(x or not y for x, y in zip(in_a, in_b, strict=True))
    assert (node_a == NEVER) == (not any(in_a))
    assert here.fulfillable(here.parse(text_of(a))) == any(in_a)
    assert here.share_facts(node_a, node_b) == bool(here.mentioned(node_a) & here.mentioned(node_b))
    assert (node_a == node_b) == (in_a == in_b)
    difference = here.minus(node_a, node_b)
    assert [here.holds(difference, state) for state in possible] == [
        x and not y for x, y in zip(in_a, in_b, strict=True)
    ]


@given(expressions(), st.lists(expressions(1), max_size=2))
def test_a_description_reads_back_as_the_same_states(tree: Any, never: list[Any]) -> None:
    here = Space(Facts(SMALL.facts, tuple(text_of(one) for one in never)))
    node = here.states(text_of(tree))
    assert here.states(here.describe(node)) == node


@given(expressions())
def test_an_example_is_a_state_of_the_set(tree: Any) -> None:
    here = Space(SMALL)
    node = here.parse(text_of(tree))
    if node == NEVER:
        with pytest.raises(ValueError, match="empty"):
            here.example(node)
    else:
        assert here.holds(node, here.example(node))


@given(expressions())
def test_what_is_left_when_a_fact_is_unknown(tree: Any) -> None:
    here = Space(SMALL)
    left = here.without(here.parse(text_of(tree)), ["selection"])
    for state in STATES:
        expected = any(truth(tree, {**state, "selection": value}) for value in _DOMAINS["selection"])
        assert here.holds(left, state) == expected
    assert "selection" not in here.mentioned(left)


@pytest.mark.parametrize(
    ("text", "short"),
    [
        ("pane is text and not readonly", "pane is text and not readonly"),
        ("not (pane is text)", "pane is not text"),
        ("pane is text or pane is files", "pane in (text, files)"),
        ("not not readonly", "readonly"),
        ("readonly is no", "not readonly"),
        ("language in (python, lua) and pane is text", "pane is text and language in (lua, python)"),
        ("pane is text or not (pane is text)", "always"),
        ("readonly and not readonly", "never"),
        ("popup is suggestions and pane is text", "popup is suggestions"),
    ],
)
def test_descriptions_are_short(text: str, short: str) -> None:
    here = space()
    assert here.describe(here.states(text)) == short


@pytest.mark.parametrize(
    ("text", "start", "advice"),
    [
        ("pain is text", 0, "pane"),
        ("pane is txt", 8, "text"),
        ("pane is text adn readonly", 13, ""),
        ("pane", 0, "pane is text"),
        ("(pane is text", 0, ""),
        ("pane is text)", 12, ""),
        ("pane is text and", 15, ""),
        ("", 0, ""),
        ("pane in text", 8, ""),
        ("pane is and", 8, ""),
        ("pane = text", 5, ""),
    ],
)
def test_a_wrong_condition_gets_its_place_and_the_nearest_name(text: str, start: int, advice: str) -> None:
    with pytest.raises(NotationError) as caught:
        space().parse(text)
    assert caught.value.start == start
    assert advice in caught.value.advice


def test_conditions_with_names_may_use_each_other_but_not_in_a_circle() -> None:
    here = Space(SMALL)
    scope = Scope({"editing": "writable and pane is text", "writable": "not readonly", "a": "b", "b": "not a"})
    assert here.parse("editing", scope) == here.parse("pane is text and not readonly")
    with pytest.raises(NotationError, match="a → b → a"):
        here.parse("a", scope)


def test_a_name_means_in_each_layer_what_it_meant_there() -> None:
    here = Space(SMALL)
    below = Scope({"editing": "pane is text", "typing": "editing and not readonly"})
    above = Scope({"editing": "pane is files"}, [below])
    assert here.parse("editing", above) == here.parse("pane is files")
    assert here.parse("typing", above) == here.parse("pane is text and not readonly")
    assert here.parse("editing", below) == here.parse("pane is text")
    assert above.names() == ["editing", "typing"]


def test_a_thousand_levels_are_answered() -> None:
    here = Space(SMALL)
    assert here.parse("(" * 1000 + "readonly" + ")" * 1000) == here.parse("readonly")
    assert here.parse("not " * 1000 + "readonly") == here.parse("readonly")


def test_a_chain_of_a_thousand_names_is_answered() -> None:
    chain = {f"c{index}": f"not c{index + 1}" for index in range(1000)} | {"c1000": "readonly"}
    here = Space(SMALL)
    assert here.parse("c0", Scope(chain)) == here.parse("readonly")


def test_a_condition_may_be_named_like_a_value() -> None:
    here = Space(SMALL)
    assert here.parse("text", Scope({"text": "pane is text"})) == here.parse("pane is text")


def test_a_domain_of_ten_thousand_values() -> None:
    here = Space(Facts((Fact("port", tuple(f"p{index}" for index in range(10_000))),)))
    some = here.parse("port in (p17, p9999)")
    assert here.holds(some, {"port": "p9999"})
    assert not here.holds(some, {"port": "p18"})
    assert here.negate(here.negate(some)) == some


def test_a_fact_cannot_be_named_like_an_operator() -> None:
    with pytest.raises(ValueError, match="and"):
        Facts((Fact("and", ("a", "b")),))


def test_an_open_domain_has_other_values_too() -> None:
    here = Space(SMALL)
    assert here.parse("language in (python, lua)") != ALWAYS
    assert here.parse("language is cobol or language is not cobol") == ALWAYS
    assert here.example(here.parse("language not in (python, lua)")) == {"language": "any other"}


@given(expressions(), st.lists(st.sampled_from(["one", "many", "none"]), min_size=2, max_size=3, unique=True))
def test_the_least_set_that_cannot_tell_some_values(tree: Any, group: list[str]) -> None:
    """A state is in it where one that differs only within the group is in the set."""
    space = Space(SMALL)
    coarse = space.coarsened(space.parse(text_of(tree)), {"selection": [group]})
    for state in STATES:
        values = group if state["selection"] in group else [state["selection"]]
        assert space.holds(coarse, state) == any(truth(tree, {**state, "selection": value}) for value in values)


@given(expressions())
def test_the_values_of_an_open_domain_that_cannot_be_told(tree: Any) -> None:
    space = Space(SMALL)
    coarse = space.coarsened(space.parse(text_of(tree)), {"language": [["lua", ANY_OTHER]]})
    for state in STATES:
        values = [state["language"]] if state["language"] == "python" else ["lua", "other"]
        assert space.holds(coarse, state) == any(truth(tree, {**state, "language": value}) for value in values)


@given(expressions(), expressions())
def test_the_alternatives_say_the_same_where_it_matters(tree: Any, where: Any) -> None:
    space = Space(SMALL)
    terms = space.terms(space.parse(text_of(tree)), space.parse(text_of(where)))
    for state in STATES:
        if truth(where, state):
            true = [all((state[fact] in values) == is_so for fact, values, is_so in term) for term in terms]
            assert any(true) == truth(tree, state)
            assert sum(true) <= 1
