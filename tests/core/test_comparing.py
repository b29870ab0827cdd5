"""Two keymaps, decision by decision, and what waits in one of them only; expected by hand."""

from ombix.core.conditions import Scope, Space
from ombix.core.errors import Place
from ombix.core.keymap.bindings import Binding
from ombix.core.keymap.comparing import are_alike, compare, differences, waiting
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


def test_alike_conditions_of_other_meanings_are_not_alike() -> None:
    """A name under [where] means in each file what it means there."""
    one, other = (
        Binding(parse("F5"), CUT, Place("k"), "k", "busy", Scope({"busy": meaning}))
        for meaning in ("pane is text and readonly", "pane is text and not readonly")
    )
    tables_of = [decide_all([binding], SPACE, CATALOGUE, Policy()) for binding in (one, other)]
    assert not are_alike(tables_of[0][parse("F5")], tables_of[1][parse("F5")])
    assert [(states, first) for _keys, states, first, _second in told(*tables_of)] == [
        ("pane is text and readonly", "edit.cut"),
        ("pane is text and not readonly", "None"),
    ]


def test_what_is_alike_has_the_same_outcomes_under_the_same_conditions_in_the_same_order() -> None:
    def table(*rows: tuple[str, Outcome, str], prefix: str = "waits") -> DecisionTable:
        return tables(*rows, policy=Policy(prefix=prefix))[parse("F5 x")]  # type: ignore[arg-type]

    whole = table(("F5 x", CUT, "pane is text"))
    assert are_alike(whole, table(("F5 x", CUT, "pane is text")))
    assert not are_alike(whole, table(("F5 x", COPY, "pane is text")))
    assert not are_alike(whole, table(("F5 x", CUT, "pane is text and readonly")))
    assert not are_alike(whole, table(("F5 x", CUT, "pane is text"), ("F5 x", COPY, "readonly")))
    shorter = ("F5", COPY, "readonly")  # which fires first, in an editor that does not wait
    assert not are_alike(whole, table(("F5 x", CUT, "pane is text"), shorter, prefix="fires"))


def test_keys_that_are_hidden_do_nothing() -> None:
    fires = tables(("F5 x", CUT, "pane is text"), ("F5", COPY, "readonly"), policy=Policy(prefix="fires"))
    plain = tables(("F5 x", CUT, "pane is text"))
    assert told(plain, fires) == [
        ("F5 x", "pane is text and readonly", "edit.cut", "None"),
        ("F5", "pane is text and readonly", "None", "edit.copy"),
    ]


def test_what_neither_has_is_no_difference() -> None:
    assert differences(parse("F5"), None, None, SPACE, SPACE.possible) == []
    table = tables(("F5", CUT, "pane is text"))[parse("F5")]
    assert [one.first for one in differences(parse("F5"), table, None, SPACE, SPACE.possible)] == [CUT]
    assert [one.second for one in differences(parse("F5"), None, table, SPACE, SPACE.possible)] == [CUT]
