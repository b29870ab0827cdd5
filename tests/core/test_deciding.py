"""Deciding: which binding wins in which states, and what a keymap of several layers has in force."""

from hypothesis import given
from hypothesis import strategies as st

from ombix.core.actions import Action, Catalogue
from ombix.core.conditions import NEVER, Space
from ombix.core.deciding import Policy, decide
from ombix.core.errors import Place
from ombix.core.keymap import Binding, Do, Keymap, Layer, Nothing, Removal, effective_states
from ombix.core.keys import parse, write
from ombix.store import shipped
from tests.core.test_conditions import STATES, expressions, text_of, truth
from tests.helpers import SMALL, space

EMPTY = Catalogue({}, {})
LINUX, MAC = shipped.platform("linux"), shipped.platform("mac")


def binding(keys: str, action: str, where: str = "always", line: int = 1, layer: str = "own") -> Binding:
    return Binding(parse(keys), Do(action), Place("k.toml", line, 1), layer, where)


@given(st.lists(expressions(2), min_size=1, max_size=5), st.sampled_from(["last", "first"]))
def test_the_table_agrees_with_deciding_each_state_by_itself(trees: list[object], wins: str) -> None:
    here = Space(SMALL)
    candidates = [binding("Ctrl+K", f"a.{index}", text_of(tree), index) for index, tree in enumerate(trees)]
    table = decide(parse("Ctrl+K"), candidates, here, EMPTY, Policy(wins))  # type: ignore[arg-type]
    for state in STATES:
        matching = [index for index, tree in enumerate(trees) if truth(tree, state)]
        row = table.at(here, state)
        if not matching:
            assert row is None
            assert here.holds(table.rest, state)
            continue
        winner = matching[-1] if wins == "last" else matching[0]
        assert row is not None
        assert row.binding is candidates[winner]
        assert {candidates[index] for index in matching if index != winner} <= set(row.beaten)
    assert {row.binding for row in table.rows} | set(table.losers) == set(candidates)


def test_a_binding_gets_what_its_action_needs_unless_its_condition_speaks_of_it() -> None:
    here = space()
    catalogue = Catalogue({"line.delete": Action("line.delete", "", "", needs="pane is text")}, {})
    assert effective_states(binding("F1", "line.delete"), here, catalogue) == here.states("pane is text")
    own = binding("F1", "line.delete", "pane is search")
    assert effective_states(own, here, catalogue) == here.states("pane is search")
    both = binding("F1", "line.delete", "readonly")
    assert effective_states(both, here, catalogue) == here.states("pane is text and readonly")


def in_force(*layers: Layer, on: str = "linux") -> list[tuple[str, str]]:
    rows = Keymap(list(layers)).in_force(shipped.platform(on))
    return [(write(row.trigger), str(row.outcome)) for row in rows]


def test_an_entry_replaces_what_lower_layers_say_of_its_action() -> None:
    base = Layer("house", "base", [binding("F1", "app.help"), binding("F2", "files.save")])
    own = Layer("crew", "own", [binding("F3", "files.save")])
    assert in_force(base, own) == [("F1", "app.help"), ("F3", "files.save")]


def test_an_editors_defaults_are_replaced_key_by_key() -> None:
    defaults = Layer("nano defaults", "defaults", [binding("F1", "app.help"), binding("F2", "files.save")])
    own = Layer("crew", "own", [binding("F3", "files.save")])
    assert in_force(defaults, own) == [("F1", "app.help"), ("F2", "files.save"), ("F3", "files.save")]


def test_a_removal_takes_the_keys_of_all_lower_layers() -> None:
    defaults = Layer("nano defaults", "defaults", [binding("Ctrl+X", "app.quit"), binding("F1", "app.help")])
    own = Layer("crew", "own", [], [Removal("app.quit", Place("k.toml", 1, 1), "by accident")])
    assert in_force(defaults, own) == [("F1", "app.help")]


def test_mod_platforms_and_families_are_written_out() -> None:
    place = Place("k.toml", 1, 1)
    own = Layer("crew", "own", [
        binding("Mod+S", "files.save"),
        Binding(parse("F5"), Do("files.open"), place, "crew", platforms=frozenset({"mac"})),
        Binding(parse("Alt+{n:1-2}"), Do("bookmark.set", (("slot", "{n}"),)), place, "crew"),
    ])  # fmt: skip
    family = [("Alt+1", "bookmark.set(slot=1)"), ("Alt+2", "bookmark.set(slot=2)")]
    assert in_force(own) == [("Ctrl+S", "files.save"), *family]
    assert in_force(own, on="mac") == [("Meta+S", "files.save"), ("F5", "files.open"), *family]


def test_keys_taken_away_win_like_any_other_binding() -> None:
    here = space()
    taken = Binding(parse("F1"), Nothing(), Place("k.toml", 2, 1), "own", "pane is text")
    table = decide(parse("F1"), [binding("F1", "a.b"), taken], here, EMPTY, Policy())
    row = table.at(here, {"pane": "text"})
    assert row is not None
    assert row.binding is taken
    assert table.rest == NEVER


def test_a_macs_user_reads_symbols_and_the_portable_notation_beside_them() -> None:
    assert MAC.show(parse("Mod+Shift+K")) == "⇧⌘K"
    assert MAC.show_with_portable(parse("Mod+Shift+ArrowUp")) == "⇧⌘↑ (Mod+Shift+ArrowUp)"
    assert LINUX.show_with_portable(parse("Ctrl+K")) == "Ctrl+K"
    assert shipped.platform("windows").show(parse("Meta+K")) == "Win+K"
