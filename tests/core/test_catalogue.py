"""The catalogue of actions: its own check, and that the check finds what is wrong."""

from collections import Counter
from fnmatch import fnmatchcase

import pytest
from msgspec.structs import replace

from ombix.core.catalogue.actions import Action, Catalogue
from ombix.core.catalogue.catalogue_check import check_catalogue
from ombix.core.keys.notation import parse, write
from ombix.core.preparation import first_step
from tests.helpers import shipped, space

CATALOGUE = shipped.catalogue()


def test_nothing_is_wrong_with_the_catalogue() -> None:
    assert list(check_catalogue(CATALOGUE, space())) == []


def test_it_has_what_people_put_on_keys() -> None:
    by_domain = Counter(one.domain for one in CATALOGUE.actions.values())
    assert len(CATALOGUE.actions) >= 900
    assert set(by_domain) == set(CATALOGUE.domains)
    assert all(count >= 2 for count in by_domain.values())
    assert {"go", "fold", "refactor", "debug", "tests", "versions", "panes", "view"} <= by_domain.keys()


def test_panes_are_shown_hidden_switched_and_gone_to() -> None:
    for name in ("files", "versions", "terminal", "tests", "problems", "outline"):
        show, hide = CATALOGUE.actions[f"tools.show-{name}"], CATALOGUE.actions[f"tools.hide-{name}"]
        assert (show.inverse, hide.inverse) == (hide.name, show.name)
        assert CATALOGUE.actions[f"tools.toggle-{name}"].toggles
        assert CATALOGUE.actions[f"tools.focus-{name}"].enters.startswith("pane is ")


@pytest.mark.parametrize(
    ("change", "said"),
    [
        ({"title": "delete the line"}, "its title"),
        ({"title": "Copy the line down"}, "the same title as"),
        ({"does": "deletes"}, "its sentence is none"),
        ({"words": ("one", "two", "three")}, "fewer than 4 words"),
        ({"words": ("one", "two", "three", "three")}, "one of them twice"),
        ({"words": ("One", "two", "three", "four")}, "has capitals"),
        ({"words": CATALOGUE.actions["line.copy-down"].words}, "the same words as"),
        ({"does": CATALOGUE.actions["line.copy-down"].does}, "the same sentence as"),
        ({"inverse": "view.larger-text"}, "does not lead back"),
        ({"toggles": True, "inverse": "line.copy-down"}, "another inverse than itself"),
        ({"needs": "pane is text and pane is help"}, "never holds"),
    ],
)
def test_what_is_wrong_is_found(change: dict[str, object], said: str) -> None:
    one: Action = replace(CATALOGUE.actions["line.delete"], **change)
    broken = Catalogue({**CATALOGUE.actions, one.name: one}, CATALOGUE.domains)
    assert any(said in fault for fault in check_catalogue(broken, space())), list(check_catalogue(broken, space()))


@pytest.mark.parametrize(
    ("action", "given", "said"),
    [
        ("tabs.show", {}, ["tabs.show has to be told its number"]),
        ("tabs.show", {"number": "0"}, ["the number of tabs.show is a number from 1 on, not 0"]),
        ("tabs.show", {"number": "3"}, []),
        ("cursor.to-character", {}, []),  # it asks
        ("cursor.to-character", {"character": "ab"}, ["the character of cursor.to-character is one character, not ab"]),
        ("cursor.to-character", {"character": "é"}, []),
        ("app.menu-by-letter", {"letter": "7"}, ["the letter of app.menu-by-letter is a letter, not 7"]),
        (
            "panes.move-text",
            {"direction": "north"},
            ["the direction of panes.move-text is left, right, up or down, not north"],
        ),
        ("panes.move-text", {"direction": "up"}, []),
        ("bookmark.set", {"slot": "a b"}, ["the slot of bookmark.set is a word of letters and digits, not a b"]),
        ("line.delete", {"count": "0"}, ["the count of line.delete is a number from 1 on, not 0"]),
    ],
)
def test_arguments_are_of_their_kinds(action: str, given: dict[str, str], said: list[str]) -> None:
    assert list(CATALOGUE.actions[action].faults(given)) == said


def test_what_is_told_stands_in_the_program() -> None:
    one = CATALOGUE.actions["cursor.to-character"]
    assert one.program({"character": '"'}) == 'go character "\\""'
    assert one.program({}) == one.program({"character": "ab"}) == ""
    assert CATALOGUE.actions["cursor.column"].program({"number": "12"}) == "go column 12"


def test_a_fact_that_is_switched_is_one_of_yes_and_no() -> None:
    one: Action = replace(CATALOGUE.actions["view.full-screen"], turns="pane")
    broken = Catalogue({**CATALOGUE.actions, one.name: one}, CATALOGUE.domains)
    assert any("pane is no fact of yes and no" in fault for fault in check_catalogue(broken, space()))


def test_what_comes_first_is_about_actions_and_keys() -> None:
    actions = shipped.catalogue().actions
    for way in shipped.comes_first():
        assert way.first or way.then
        for pattern in way.actions:
            assert any(way.is_for(name) for name in actions if fnmatchcase(name, pattern)), pattern
        for step in map(first_step, (*way.first, *way.then)):
            if step.kind == "action":
                assert step.what in actions
            elif step.kind == "press":
                assert write(parse(step.what)) == step.what
            else:
                assert step.what.isascii()
    with pytest.raises(ValueError, match="no step"):
        first_step("push Enter")
