"""Deciding: which binding wins in which states, and what a keymap of several layers has in force."""

import random

import pytest
from hypothesis import given
from hypothesis import strategies as st

from ombix.core.catalogue.actions import Action, Catalogue
from ombix.core.conditions import NEVER, Facts, Space
from ombix.core.errors import Place
from ombix.core.keymap.bindings import Binding, Keymap, Layer, LayerName, Removal, effective_states
from ombix.core.keymap.deciding import Decider, Overlaps, Policy, decide_all, decision
from ombix.core.keymap.outcomes import Do, Nothing
from ombix.core.keys.notation import parse, write
from tests.core.test_conditions import STATES, expressions, text_of, truth
from tests.helpers import SMALL, shipped, space

OWN, CREW = LayerName("own", "own"), LayerName("crew", "crew")
EMPTY = Catalogue({}, {})
LINUX, MAC = shipped.platform("linux"), shipped.platform("mac")


def binding(keys: str, action: str, where: str = "always", line: int = 1, layer: str = "own") -> Binding:
    return Binding(parse(keys), Do(action), Place("k.toml", line, 1), LayerName(layer, layer), where)


def matters(tree: object, name: str) -> bool:
    """Whether a change of this one fact alone can change the truth of a condition."""
    return any(
        truth(tree, state) != truth(tree, {**state, name: value})
        for state in STATES
        for value in {one[name] for one in STATES}
    )


def strongest(indexes: list[int], trees: list[object], layers: list[str], wins: str) -> int:
    """Who wins by the words of the policy alone."""
    if wins == "last":
        return indexes[-1]
    if wins == "first":
        top = next(layer for layer in ("own", "base") if any(layers[index] == layer for index in indexes))
        return next(index for index in indexes if layers[index] == top)
    if wins == "innermost":
        return max(indexes, key=lambda index: (matters(trees[index], "pane"), index))
    facts = list(STATES[0])
    return max(indexes, key=lambda index: (sum(matters(trees[index], name) for name in facts), index))


@given(
    st.lists(expressions(2), min_size=1, max_size=5),
    st.lists(expressions(1), max_size=2),
    st.integers(0, 5),
    st.sampled_from(["last", "first", "innermost", "specific"]),
)
def test_the_table_agrees_with_deciding_each_state_by_itself(
    trees: list[object], never: list[object], split: int, wins: str
) -> None:
    here = Space(Facts(SMALL.facts, tuple(text_of(tree) for tree in never)))
    possible = [state for state in STATES if not any(truth(tree, state) for tree in never)]
    layers = ["base" if index < split else "own" for index in range(len(trees))]
    candidates = [
        binding("Ctrl+K", f"a.{index}", text_of(tree), index, layers[index]) for index, tree in enumerate(trees)
    ]
    number = {id(candidate): index for index, candidate in enumerate(candidates)}
    policy = Policy(wins)  # type: ignore[arg-type]
    table = Decider(here, EMPTY, policy).decide(parse("Ctrl+K"), candidates)
    for state in possible:
        matching = [index for index, tree in enumerate(trees) if truth(tree, state)]
        row = table.at(here, state)
        one = decision(parse("Ctrl+K"), state, {parse("Ctrl+K"): table}, here, EMPTY, policy)
        if not matching:
            assert row is None
            assert here.holds(table.rest(here), state)
            assert one.kind == "nothing"
            continue
        winner = strongest(matching, trees, layers, wins)
        assert row is not None
        assert row.binding is candidates[winner]
        assert one.binding is candidates[winner]
        assert {index for index in matching if index != winner} <= {number[id(lost)] for lost in row.beaten}
        reasons = {number[id(lost)]: why for lost, why in one.lost}
        for index in range(len(candidates)):
            if index != winner:
                assert ("not true" in reasons[index]) == (index not in matching)
    known = [*(row.binding for row in table.rows), *table.losers]
    assert {number[id(one)] for one in known} == set(range(len(candidates)))


@given(
    st.lists(
        st.tuples(st.lists(st.sampled_from("abc"), min_size=1, max_size=3).map(" ".join), expressions(1)),
        min_size=1, max_size=6, unique_by=lambda row: row[0],
    ),
    st.sampled_from(["waits", "timed", "fires"]),
)  # fmt: skip
def test_sequences_and_their_beginnings(rows: list[tuple[str, object]], prefix: str) -> None:
    here = Space(SMALL)
    policy = Policy(prefix=prefix, wait_ms=300)  # type: ignore[arg-type]
    bindings = [binding(keys, f"a.{index}", text_of(tree), index) for index, (keys, tree) in enumerate(rows)]
    tables = decide_all(bindings, here, EMPTY, policy)
    for state in STATES[::3]:
        bound = {keys for keys, tree in rows if truth(tree, state)}
        for keys in {*bound, "a", "b c"}:
            one = decision(parse(keys), state, tables, here, EMPTY, policy)
            shorter = sorted((other for other in bound if keys.startswith(other + " ")), key=len)
            longer = [other for other in bound if other.startswith(keys + " ")]
            if prefix == "fires" and shorter:
                assert one.kind == "runs"
                assert one.binding is not None
                assert write(one.binding.trigger) == shorter[0]
                table = tables.get(parse(keys))
                assert table is None or here.holds(table.hidden, state)
            elif longer and (prefix != "fires" or keys not in bound):
                assert one.kind == "waits"
                assert (one.binding is not None) == (keys in bound)
                assert one.wait_ms == (300 if prefix == "timed" and keys in bound else None)
                table = tables.get(parse(keys))
                assert table is None or here.holds(table.waits, state)
            else:
                assert one.kind == ("runs" if keys in bound else "types")


def test_an_editor_that_types_nothing_does_nothing_with_an_unbound_character() -> None:
    here = Space(SMALL)
    assert decision(parse("x"), {}, {}, here, EMPTY, Policy(unmatched="nothing")).kind == "nothing"
    assert decision(parse("Ctrl+X"), {}, {}, here, EMPTY, Policy()).kind == "nothing"
    assert decision(parse("Shift+X"), {}, {}, here, EMPTY, Policy()).kind == "types"


def test_a_binding_gets_what_its_action_needs_unless_its_condition_speaks_of_it() -> None:
    here = space()
    catalogue = Catalogue({"line.delete": Action("line.delete", "", "", needs="pane is text")}, {})
    assert effective_states(binding("F1", "line.delete"), here, catalogue) == here.states("pane is text")
    own = binding("F1", "line.delete", "pane is search")
    assert effective_states(own, here, catalogue) == here.states("pane is search")
    both = binding("F1", "line.delete", "readonly")
    assert effective_states(both, here, catalogue) == here.states("pane is text and readonly")


def test_why_a_binding_does_not_run() -> None:
    rows = [
        binding("F5", "edit.cut", "readonly", layer="house"), binding("F5", "edit.copy", layer="house"),
        binding("F5", "edit.paste", "not readonly"), binding("F5", "edit.select", "readonly"),
    ]  # fmt: skip
    here = space()
    tables = decide_all(rows, here, EMPTY, Policy())
    state = {fact.name: fact.values[0] for fact in here.facts.facts} | {"readonly": "yes"}
    found = decision(parse("F5"), state, tables, here, EMPTY, Policy())
    assert found.binding is rows[3]
    assert {str(one.outcome): why for one, why in found.lost} == {
        "edit.cut": "the layer own wins over house", "edit.copy": "the layer own wins over house",
        "edit.paste": "its condition is not true",
    }  # fmt: skip
    alone = decide_all([*rows[:2]], here, EMPTY, Policy())
    assert [why for _one, why in decision(parse("F5"), state, alone, here, EMPTY, Policy()).lost] == [
        "another line of its layer wins"
    ]


def in_force(*layers: Layer, on: str = "linux") -> list[tuple[str, str]]:
    rows = Keymap(list(layers)).in_force(shipped.platform(on)).bindings
    return [(write(row.trigger), str(row.outcome)) for row in rows]


def test_an_entry_replaces_what_lower_layers_say_of_its_action() -> None:
    base = Layer(LayerName("house", "house", "shared"), [binding("F1", "app.help"), binding("F2", "files.save")])
    own = Layer(LayerName("crew", "crew"), [binding("F3", "files.save")], replaces={"files.save": frozenset()})
    assert in_force(base, own) == [("F1", "app.help"), ("F3", "files.save")]


def test_an_editors_defaults_are_replaced_key_by_key() -> None:
    defaults = Layer(
        LayerName("nano defaults", "nano defaults", "defaults"),
        [binding("F1", "app.help"), binding("F2", "files.save")],
    )
    own = Layer(LayerName("crew", "crew"), [binding("F3", "files.save")], replaces={"files.save": frozenset()})
    assert in_force(defaults, own) == [("F1", "app.help"), ("F2", "files.save"), ("F3", "files.save")]


def test_what_was_adopted_replaces_nothing_by_its_action() -> None:
    """An editor's file has its keys beside those that its user has elsewhere."""
    own = Layer(LayerName("crew", "crew"), [binding("F1", "app.help"), binding("F2", "files.save")])
    rows, says = [binding("F3", "files.save")], {"files.save": frozenset[str]()}
    adopted = Layer(LayerName("micro", "micro", "adopted", "micro"), rows, replaces=says)
    assert in_force(own, adopted) == [("F1", "app.help"), ("F2", "files.save"), ("F3", "files.save")]
    house = Layer(LayerName("house", "house", "shared"), rows, replaces=says)
    assert in_force(own, house) == [("F1", "app.help"), ("F3", "files.save")]
    # What is above an adopted layer is the user's, and does.
    assert in_force(Layer(adopted.name, own.bindings), house) == [("F1", "app.help"), ("F3", "files.save")]


def test_a_removal_takes_the_keys_of_all_lower_layers() -> None:
    defaults = Layer(
        LayerName("nano defaults", "nano defaults", "defaults"),
        [binding("Ctrl+X", "app.quit"), binding("F1", "app.help")],
    )
    own = Layer(LayerName("crew", "crew"), [], [Removal("app.quit", Place("k.toml", 1, 1), "by accident")])
    assert in_force(defaults, own) == [("F1", "app.help")]


def test_mod_platforms_and_families_are_written_out() -> None:
    place = Place("k.toml", 1, 1)
    own = Layer(CREW, [
        binding("Mod+S", "files.save"),
        Binding(parse("F5"), Do("files.open"), place, CREW, platforms=frozenset({"mac"})),
        Binding(parse("Alt+{n:1-2}"), Do("bookmark.set", (("slot", "{n}"),)), place, CREW),
    ])  # fmt: skip
    family = [("Alt+1", "bookmark.set(slot=1)"), ("Alt+2", "bookmark.set(slot=2)")]
    assert in_force(own) == [("Ctrl+S", "files.save"), *family]
    assert in_force(own, on="mac") == [("Meta+S", "files.save"), ("F5", "files.open"), *family]


def test_keys_taken_away_win_like_any_other_binding() -> None:
    here = space()
    taken = Binding(parse("F1"), Nothing(), Place("k.toml", 2, 1), OWN, "pane is text")
    table = Decider(here, EMPTY, Policy()).decide(parse("F1"), [binding("F1", "a.b"), taken])
    row = table.at(here, {"pane": "text"})
    assert row is not None
    assert row.binding is taken
    assert table.rest(here) == NEVER


def test_a_macs_user_reads_symbols() -> None:
    assert MAC.show(parse("Mod+Shift+K")) == "⇧⌘K"
    assert MAC.show(parse("Mod+Shift+ArrowUp")) == "⇧⌘↑"
    assert LINUX.show(parse("Ctrl+K")) == "Ctrl+K"
    assert shipped.platform("windows").show(parse("Meta+K")) == "Win+K"


def test_what_an_action_needs_counts_like_its_condition() -> None:
    """A binding without a condition whose action is for the text is as near to the pane as one that says so."""
    catalogue = Catalogue({"a.text": Action("a.text", "", "", needs="pane is text")}, {})
    below = binding("F9", "a.other", "pane is text", layer="base")
    for wins in ("innermost", "specific"):
        table = Decider(space(), catalogue, Policy(wins)).decide(parse("F9"), [below, binding("F9", "a.text")])  # type: ignore[arg-type]
        assert [row.binding.outcome for row in table.rows] == [Do("a.text")]
        table = Decider(space(), catalogue, Policy(wins)).decide(parse("F9"), [below, binding("F9", "a.bare")])  # type: ignore[arg-type]
        assert table.rows[0].binding.outcome == Do("a.other")


def test_keys_taken_away_make_nothing_wait_and_nothing_fire() -> None:
    start, longer = binding("F9", "a.b"), binding("F9 x", "a.c")
    gone = Binding(parse("F9 x"), Nothing(), Place("k.toml", 2), OWN)
    tables = decide_all([start, longer, gone], space(), EMPTY, Policy())
    assert tables[parse("F9")].waits == NEVER
    assert decision(parse("F9"), {}, tables, space(), EMPTY, Policy()).kind == "runs"
    fires = Policy(prefix="fires")
    start_gone = Binding(parse("F9"), Nothing(), Place("k.toml", 2), OWN)
    tables = decide_all([start, start_gone, longer], space(), EMPTY, fires)
    assert tables[parse("F9 x")].hidden == NEVER
    found = decision(parse("F9 x"), {}, tables, space(), EMPTY, fires)
    assert found.binding is longer


def test_the_space_bar_types_a_blank_where_it_is_not_bound() -> None:
    assert decision(parse("Space"), {}, {}, space(), EMPTY, Policy()).kind == "types"
    assert decision(parse("Ctrl+Space"), {}, {}, space(), EMPTY, Policy()).kind == "nothing"


@pytest.mark.parametrize("count", [1, 2, 31, 33, 70, 129])
def test_sets_that_meet_are_found_as_one_by_one(count: int) -> None:
    """Where there are many, they are asked for in halves: with the same answer."""
    space, draw = Space(SMALL), random.Random(count)
    texts = ["pane is text", "readonly", "selection is many", "pane is files and not readonly", "always"]
    some = [draw.choice([*texts, *(f"language is x{number}" for number in range(40))]) for _ in range(count)]
    sets = [space.states(text) for text in some]
    overlaps = Overlaps(space, sets)
    for index, own in enumerate(sets):
        wanted = [at for at in range(index + 1, count) if space.meet(own, sets[at])]
        assert list(overlaps.behind(index, own)) == wanted
