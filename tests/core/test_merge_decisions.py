"""What two sides of a merge do with the same keys, state by state; expected by hand."""

from ombix.core.conditions import Space
from ombix.core.errors import Place
from ombix.core.keymap.bindings import Binding
from ombix.core.keymap.deciding import DecisionTable, Policy, decide_all
from ombix.core.keymap.merge_decisions import MergeSides, collisions, unforeseen
from ombix.core.keymap.outcomes import Do, Nothing, Outcome
from ombix.core.keys.notation import Trigger, parse, write
from tests.helpers import shipped

SPACE = Space(shipped.facts())
TEXT = SPACE.states("pane is text")
CUT, COPY, PASTE = Do("edit.cut"), Do("edit.copy"), Do("edit.paste")
WRITABLE, READONLY = "pane is text and not readonly", "pane is text and readonly"

Rows = tuple[tuple[str, Outcome, str], ...]
Told = tuple[str, str, str, str, str, str]


def tables(rows: Rows) -> dict[Trigger, DecisionTable]:
    bindings = [Binding(parse(keys), outcome, Place("k"), "k", where) for keys, outcome, where in rows]
    return decide_all(bindings, SPACE, shipped.catalogue(), Policy())


def told(base: Rows, ours: Rows, theirs: Rows, merged: Rows) -> tuple[list[Told], list[Told]]:
    """The collisions and what is unforeseen: keys, states, and what base, ours, theirs and the merged keymap do."""
    sides = MergeSides(*map(tables, (base, ours, theirs, merged)))
    both = (collisions(sides, SPACE, TEXT), unforeseen(sides, SPACE, TEXT))
    first, second = (
        [
            (
                write(one.trigger),
                SPACE.describe(one.states),
                *(str(outcome) for outcome in (one.base, one.ours, one.theirs, one.merged)),
            )
            for one in found
        ]
        for found in both
    )
    return first, second  # type: ignore[return-value]


def test_two_sides_that_change_one_key_in_different_states_do_not_collide() -> None:
    base = (("F5", CUT, "pane is text"),)
    ours = (*base, ("F5", COPY, READONLY))
    theirs = (*base, ("F5", PASTE, WRITABLE))
    assert told(base, ours, theirs, (*ours, ("F5", PASTE, WRITABLE))) == ([], [])


def test_two_sides_that_change_one_key_in_states_that_meet_collide_in_those() -> None:
    base = (("F5", CUT, "pane is text"),)
    ours, theirs = (*base, ("F5", COPY, READONLY)), (("F5", PASTE, "pane is text"),)
    merged = (*theirs, ("F5", COPY, READONLY))
    collided = [("F5", READONLY, "edit.cut", "edit.copy", "edit.paste", "edit.copy")]
    assert told(base, ours, theirs, merged) == (collided, [])


def test_a_change_of_one_side_that_the_other_left_is_wanted() -> None:
    base = (("F5", CUT, "pane is text"),)
    ours = (*base, ("F5", COPY, READONLY))
    lost = [("F5", READONLY, "edit.cut", "edit.copy", "edit.cut", "edit.cut")]
    assert told(base, ours, base, base) == ([], lost)
    assert told(base, base, ours, base) == (
        [],
        [("F5", READONLY, "edit.cut", "edit.cut", "edit.copy", "edit.cut")],
    )
    assert told(base, ours, base, ours) == told(base, base, ours, ours) == ([], [])


def test_new_keys_of_both_sides_collide_where_they_do_not_do_the_same() -> None:
    ours, theirs = (("F5", CUT, "pane is text"),), (("F5", CUT, WRITABLE), ("F5", COPY, READONLY))
    collided = [("F5", READONLY, "None", "edit.cut", "edit.copy", "edit.cut")]
    assert told((), ours, theirs, ours) == (collided, [])
    assert told((), ours, ours, ours) == ([], [])


def test_what_one_side_removed_and_the_other_changed_is_one_of_the_two() -> None:
    base = (("F5", CUT, "pane is text"),)
    ours = (("F5", COPY, "pane is text"),)
    assert told(base, ours, (), ours) == told(base, ours, (), ()) == ([], [])
    assert told(base, ours, (), base) == (
        [],
        [("F5", "pane is text", "edit.cut", "edit.copy", "None", "edit.cut")],
    )


def test_what_neither_side_does_is_said() -> None:
    base = (("F5", CUT, "pane is text"),)
    merged = (*base, ("F5", Nothing(), READONLY))
    assert told(base, base, base, merged) == (
        [],
        [("F5", READONLY, "edit.cut", "edit.cut", "edit.cut", "nothing")],
    )
    new = [("F6", "pane is text", "None", "None", "None", "edit.copy")]
    assert told(base, base, base, (*base, ("F6", COPY, "pane is text"))) == ([], new)
