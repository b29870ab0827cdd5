"""The audit: each rule finds its own example, says where, and leaves a clean keymap alone."""

import pytest

from ombix.core.audit import Finding, all_rules, audit
from ombix.core.audit.model import AuditSubject
from ombix.core.conditions import Space
from ombix.core.keymap.bindings import Keymap
from ombix.core.keymap.deciding import Policy
from ombix.files import keymap_reading
from tests.helpers import shipped, subject

RULES = all_rules()
MAIN = ["clash", "covered", "doubled"]


def findings(
    text: str,
    policy: Policy | None = None,
    here: Space | None = None,
    only: list[str] | None = None,
    workspace: str = "",
) -> list[Finding]:
    return audit(subject(text, policy, workspace, here), [RULES[name] for name in only or RULES])


ALONE = [name for name, rule in RULES.items() if not rule.editors]


@pytest.mark.parametrize("name", ALONE)
def test_a_rules_example_triggers_that_rule(name: str) -> None:
    found = {
        finding.rule for finding in findings(RULES[name].example, RULES[name].policy, workspace=RULES[name].workspace)
    }
    assert name in found
    assert found <= {name, "half-pair", "needless-removal"}


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
    assert findings(text, only=MAIN) == []


def test_a_clash_names_both_places_and_the_states() -> None:
    text = (
        HEAD
        + """[bind.files]
save = { press = "F8", where = "pane is text and not readonly" }
open = { press = "F8", where = "pane is text and selection is none" }
"""
    )
    here = Space(shipped.facts())
    (finding,) = findings(text, here=here, only=MAIN)
    assert finding.rule == "clash"
    assert [spot.place.line for spot in finding.spots] == [4, 5]
    assert [str(winner.binding.outcome) for winner in finding.winners] == ["files.open"]
    assert finding.states == here.states("pane is text and not readonly and selection is none")


def test_the_editors_policy_says_who_is_covered() -> None:
    text = (
        HEAD
        + """[bind.files]
save = { press = "F8", where = "pane is text and not readonly" }
open = { press = "F8", where = "pane is text" }
"""
    )
    (finding,) = findings(text, only=MAIN)
    assert finding.rule == "covered"
    assert finding.spots[0].place.line == 4
    assert findings(text, Policy("first"), only=[*MAIN]) == []  # the narrower one comes first and wins where it applies


def test_the_same_binding_twice_is_doubled() -> None:
    text = (
        HEAD
        + """[bind.files]
save = ["F8", "F8"]
"""
    )
    assert [finding.rule for finding in findings(text)] == ["doubled"]


def test_mod_and_the_modifier_that_it_is_are_the_same_keys() -> None:
    text = (
        HEAD
        + """[bind.files]
save = "Mod+S"
open = "Ctrl+S"
"""
    )
    assert "clash" in [finding.rule for finding in findings(text)]


def test_another_layer_may_take_keys_over() -> None:
    catalogue, facts = shipped.catalogue(), shipped.facts()
    low = keymap_reading.read(HEAD + '[bind.files]\nsave = "F8"\n', "a.keys.toml", catalogue, facts, "shared")
    high = keymap_reading.read('format = 1\nname = "h"\n[bind.files]\nopen = "F8"\n', "b.keys.toml", catalogue, facts)
    stack = AuditSubject(Keymap([low, high]), shipped.platform("linux"), Space(facts), catalogue, Policy())
    assert audit(stack, list(RULES.values())) == []


def test_escape_calls_a_sequence_off_unless_it_is_bound() -> None:
    stuck = HEAD + '[bind.files]\nsave = "Ctrl+K Escape"\n'
    (finding,) = findings(stuck, only=["no-way-back"])
    assert "after Ctrl+K, Escape runs files.save" in finding.message
    assert findings(stuck, Policy(prefix="timed"), only=["no-way-back"]) == []  # its time runs out
    called_off = HEAD + '[bind.prompt]\ncancel = "Ctrl+K Escape"\n[unbind]\n"Ctrl+J Escape" = true\n'
    assert findings(called_off, only=["no-way-back"]) == []
