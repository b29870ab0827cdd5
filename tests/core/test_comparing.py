"""Two keymaps, decision by decision, and what waits in one of them only; expected by hand."""

from ombix.core.conditions import Space
from ombix.core.errors import Place
from ombix.core.keymap.bindings import Binding
from ombix.core.keymap.comparing import compare, waiting
from ombix.core.keymap.deciding import DecisionTable, Policy, decide_all
from ombix.core.keymap.outcomes import Do, Nothing, Outcome
from ombix.core.keys.notation import Trigger, parse, write
from tests.helpers import shipped

CATALOGUE = shipped.catalogue()
SPACE = Space(shipped.facts())


def tables(*rows: tuple[str, Outcome, str], policy: Policy | None = None) -> dict[Trigger, DecisionTable]:
    bindings = [Binding(parse(keys), outcome, Place("k"), "k", where) for keys, outcome, where in rows]
    return decide_all(bindings, SPACE, CATALOGUE, policy or Policy())


CUT, COPY = Do("edit.cut"), Do("edit.copy")


def told(first: dict[Trigger, DecisionTable], second: dict[Trigger, DecisionTable]) -> list[tuple[str, str, str, str]]:
    found = compare(first, second, SPACE, SPACE.states("pane is text"))
    return [(write(one.trigger), SPACE.describe(one.states), str(one.first), str(one.second)) for one in found]


def test_the_states_in_which_two_decisions_differ() -> None:
    first = tables(("F5", CUT, "pane is text"))
    second = tables(("F5", CUT, "pane is text"), ("F5", COPY, "pane is text and readonly"))
    assert told(first, second) == [("F5", "pane is text and readonly", "edit.cut", "edit.copy")]
    assert told(first, first) == []


def test_what_only_one_binds() -> None:
    first = tables(("F5", CUT, "pane is text"), ("F6", Nothing(), "pane is text"))
    assert told(first, {}) == [("F5", "pane is text", "edit.cut", "None"), ("F6", "pane is text", "nothing", "None")]


def test_the_same_in_other_words_is_the_same() -> None:
    first = tables(("F5", CUT, "pane is text and not readonly"), ("F5", CUT, "pane is text and readonly"))
    assert told(first, tables(("F5", CUT, "pane is text"))) == []


def test_what_waits_in_one_only() -> None:
    plain = tables(("F5", CUT, "pane is text"))
    longer = tables(("F5", CUT, "pane is text"), ("F5 x", COPY, "pane is text and readonly"))
    (one,) = waiting(plain, longer, SPACE, SPACE.possible)
    assert (write(one.trigger), SPACE.describe(one.states), one.first_waits) == (
        "F5",
        "pane is text and readonly",
        False,
    )
    (other,) = waiting(longer, plain, SPACE, SPACE.possible)
    assert other.first_waits
    assert waiting(longer, longer, SPACE, SPACE.possible) == []
    # What was taken away does not make a key wait, and where one fires at once none does.
    gone = tables(("F5", CUT, "pane is text"), ("F5 x", COPY, "pane is text"), ("F5 x", Nothing(), "pane is text"))
    assert waiting(plain, gone, SPACE, SPACE.possible) == []
    fires = tables(("F5", CUT, "pane is text"), ("F5 x", COPY, "pane is text"), policy=Policy(prefix="fires"))
    assert waiting(plain, fires, SPACE, SPACE.possible) == []
