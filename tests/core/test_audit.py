"""The audit: each rule finds its own example, says where, and leaves a clean keymap alone."""

import pytest

from ombix.core.audit import Finding, Ground, audit, rules
from ombix.core.conditions import Space
from ombix.core.deciding import Policy
from ombix.core.keymap import Keymap
from ombix.store import keymaps, shipped

RULES = rules()


def findings(text: str, wins: str = "last", here: Space | None = None) -> list[Finding]:
    catalogue, facts = shipped.catalogue(), shipped.facts()
    layer = keymaps.read(text, "k.keys.toml", catalogue, facts)
    ground = Ground(
        Keymap([layer]), shipped.platform("linux"), here or Space(facts, layer.conditions), catalogue, Policy(wins)
    )  # type: ignore[arg-type]
    return audit(ground, list(RULES.values()))


@pytest.mark.parametrize("name", RULES)
def test_a_rules_example_triggers_that_rule_alone(name: str) -> None:
    assert {finding.rule for finding in findings(RULES[name].example)} == {name}


@pytest.mark.parametrize("name", RULES)
def test_a_rule_is_explained_in_whole_sentences(name: str) -> None:
    rule = RULES[name]
    for part in (rule.what, rule.why, rule.mend):
        assert part[0].isupper()
        assert part.endswith(".")


HEAD = 'format = 1\nname = "k"\n'


def test_states_that_exclude_each_other_do_not_clash() -> None:
    text = (
        HEAD
        + """[bind.program]
start = { press = "F8", where = "program is stopped" }
stop = { press = "F8", where = "program is running" }
"""
    )
    assert findings(text) == []


def test_a_clash_names_both_places_and_the_states() -> None:
    text = (
        HEAD
        + """[bind.files]
save = { press = "F8", where = "pane is text and not readonly" }
open = { press = "F8", where = "pane is text and selection is none" }
"""
    )
    here = Space(shipped.facts())
    (finding,) = findings(text, here=here)
    assert finding.rule == "clash"
    assert [binding.place.line for binding in finding.bindings] == [4, 5]
    assert "files.open wins" in finding.message
    assert finding.states == here.states("pane is text and not readonly and selection is none")


def test_the_editors_policy_says_who_is_covered() -> None:
    text = (
        HEAD
        + """[bind.files]
save = { press = "F8", where = "pane is text and not readonly" }
open = { press = "F8", where = "pane is text" }
"""
    )
    (finding,) = findings(text, "last")
    assert finding.rule == "covered"
    assert finding.bindings[0].place.line == 4
    assert findings(text, "first") == []  # the narrower one comes first and wins where it applies


def test_the_same_binding_twice_is_covered() -> None:
    text = (
        HEAD
        + """[bind.files]
save = ["F8", "F8"]
"""
    )
    assert [finding.rule for finding in findings(text)] == ["covered"]


def test_mod_and_the_modifier_that_it_is_are_the_same_keys() -> None:
    text = (
        HEAD
        + """[bind.files]
save = "Mod+S"
open = "Ctrl+S"
"""
    )
    assert [finding.rule for finding in findings(text)] == ["clash"]


def test_another_layer_may_take_keys_over() -> None:
    catalogue, facts = shipped.catalogue(), shipped.facts()
    low = keymaps.read(HEAD + '[bind.files]\nsave = "F8"\n', "a.keys.toml", catalogue, facts, "base")
    high = keymaps.read('format = 1\nname = "h"\n[bind.files]\nopen = "F8"\n', "b.keys.toml", catalogue, facts)
    ground = Ground(Keymap([low, high]), shipped.platform("linux"), Space(facts), catalogue, Policy())
    assert audit(ground, list(RULES.values())) == []
