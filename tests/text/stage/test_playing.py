"""What must always be so on the stage: an undo takes back what was done, a macro does what its steps do, n repeats are n runs."""

from collections.abc import Sequence
from typing import Literal

from hypothesis import given, settings
from hypothesis import strategies as st

from ombix.core.conditions import Space
from ombix.core.errors import Place
from ombix.core.keymap.bindings import Keymap
from ombix.core.keymap.deciding import Policy, decide_all
from ombix.core.keymap.outcomes import Do, Macro, Play, Repeat, Step, Type, Until
from ombix.core.keys.notation import parse
from ombix.text.stage.machine import Machine, start_state
from ombix.text.stage.macro_player import StageKeymap
from ombix.text.stage.marks_and_search import REMEMBERING
from ombix.text.stage.stage_state import State
from tests.helpers import WITH_EFFECT, layer_of, shipped, told

KEYS = """\
format = 1
name = "k"
[bind.history]
undo = "F6"
redo = "F7"
earlier = "F8"
later = "F9"
"""
_SPACE = Space(shipped.facts())
_BINDINGS = Keymap([layer_of(KEYS)]).in_force(shipped.platform("linux")).bindings
_TABLES = decide_all(_BINDINGS, _SPACE, shipped.catalogue(), Policy())
_OWN = [name for name in WITH_EFFECT if not name.startswith(("history.", "macro.", "snippets.", "view."))]
_BESIDE = [
    name
    for name in REMEMBERING
    if not name.startswith(("prompt.", "search.find", "go.")) and name != "edit.paste-earlier"
]

_STATES = st.builds(
    lambda text, cursor, kept: State(text, min(cursor, len(text)), clipboard=kept),
    st.lists(st.sampled_from(["", "one two", "  in", "\tx", "a(b)", "end."]), min_size=1, max_size=4).map("\n".join),
    st.integers(0, 24), st.sampled_from(["", "kept", "line\n"]),
)  # fmt: skip
_STEPS = st.lists(
    st.one_of(
        st.sampled_from(_OWN).map(lambda name: Do(name, tuple(sorted(told(name).items())))),
        st.text("ab \n", min_size=1, max_size=3).map(Type),
    ),
    min_size=1,
    max_size=6,
)


def machine(start: State, **macros: Sequence[Step]) -> Machine:
    known = {name: Macro(name, name, tuple(steps), Place("k")) for name, steps in macros.items()}
    stage = StageKeymap(_TABLES, known, Policy(), _SPACE, shipped.catalogue(), {}, {})
    return Machine(stage, start, start_state(_SPACE, "always", []))


def content(state: State) -> tuple[str, int, int | None, str]:
    return state.text, state.cursor, state.anchor, state.clipboard


@given(_STATES, st.lists(st.sampled_from([*_OWN, *_BESIDE]), min_size=1, max_size=6))
@settings(deadline=None)
def test_undo_takes_each_change_back_and_redo_does_it_again(start: State, actions: list[str]) -> None:
    """Text, cursors, selections, folds, registers and what was kept are as before the change."""
    one = machine(start)
    before, after = [], []
    for name in actions:
        state = one.state
        one.perform(Do(name, tuple(sorted(told(name).items()))))
        if one.state.text != state.text:
            before.append(state)
            after.append(one.state)
    for state in reversed(before):
        one.press(parse("F6"))
        assert one.state == state
    first = one.state
    one.press(parse("F6"))  # nothing is left to take back
    assert one.state == first
    for state in after:
        one.press(parse("F7"))
        assert one.state.text == state.text
    one.press(parse("F7"))
    assert one.state.text == (after[-1].text if after else first.text)


@given(_STATES, st.lists(st.sampled_from(["a", "b", "F6", "F7", "F8", "F9"]), max_size=20))
@settings(deadline=None)
def test_nothing_that_ever_was_is_lost(start: State, keys: list[str]) -> None:
    """Whatever is pressed, going back through time comes by every text that there was."""
    one = machine(start)
    seen = {one.state.text}
    for key in keys:
        one.press(parse(key))
        seen.add(one.state.text)
    met = {one.state.text}
    for key in ("F8", "F9"):
        for _ in range(len(keys) + 1):
            one.press(parse(key))
            met.add(one.state.text)
    assert met == seen


@given(_STATES, _STEPS)
@settings(deadline=None)
def test_a_macro_does_what_its_steps_do(start: State, steps: list[Step]) -> None:
    whole = machine(start, m=steps)
    single = machine(start, **_single(steps))
    whole.play("m")
    for number in range(len(steps)):
        single.play(f"m{number}")
    assert content(whole.state) == content(single.state)
    assert whole.facts == single.facts
    assert whole.changes == single.changes


@given(_STATES, _STEPS, st.integers(1, 4))
@settings(deadline=None)
def test_so_many_repeats_are_so_many_runs(start: State, steps: list[Step], times: int) -> None:
    repeated, played = machine(start, m=[Repeat(tuple(steps), times)]), machine(start, m=steps)
    counted = machine(start, m=[Play("n", times)], n=steps)
    for one, count in ((repeated, 1), (played, times), (counted, 1)):
        for _ in range(count):
            one.play("m")
    assert content(repeated.state) == content(played.state) == content(counted.state)


@given(_STATES, _STEPS, st.sampled_from(["fails", "end"]), st.integers(1, 12))
@settings(deadline=None)
def test_what_goes_on_until_it_ends_does_so_many_whole_rounds(
    start: State, steps: list[Step], until: Literal["fails", "end"], most: int
) -> None:
    """Its text is that of some number of rounds, the last one up to a step."""
    looped, plain = machine(start, m=[Until(tuple(steps), until, most)]), machine(start, **_single(steps))
    looped.play("m")
    met = [content(plain.state)]
    for _ in range(most):
        for number in range(len(steps)):
            plain.play(f"m{number}")
            met.append(content(plain.state))
    assert content(looped.state) in met
    if until == "end" and looped.state.cursor < len(looped.state.text):
        ends = [one.why for one in looped.happened if one.kind == "nothing"]
        assert ends or content(looped.state) in met[:-1]  # a step failed, in the last round at the latest


def _single(steps: Sequence[Step]) -> dict[str, Sequence[Step]]:
    return {f"m{number}": [step] for number, step in enumerate(steps)}
