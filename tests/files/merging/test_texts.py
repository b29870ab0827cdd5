"""Texts of keymap files merged: nothing is lost, nothing is twice, and what both changed otherwise is said."""

import random

import pytest
import tomli

from ombix.files.merging.file_merge import MergedText, Version, merge_texts
from ombix.files.merging.file_units import ABSENT, Unit, meaning, units
from tests.files.merging.keymaps import Model, changed, keymap, written
from tests.helpers import seeds

SEEDS = 400


def same(one: str, other: str) -> bool:
    """Conditions are compared as they are written."""
    return one == other


def merge(base: str, ours: str, theirs: str) -> MergedText:
    return merge_texts(Version(base), Version(ours), Version(theirs), same)


def three(seed: int) -> tuple[Model, Model, Model, list[str]]:
    """A keymap, two changed ones, and their texts, often all in one style."""
    chance = random.Random(seed)
    base = keymap(chance)
    style = chance.choice((0, 0, 1, 2, 3))
    styles = [style] * 3 if chance.random() < 0.7 else [chance.choice((0, 1, 2, 3)) for _ in range(3)]
    models = (base, changed(chance, base), changed(chance, base))
    return *models, [written(model, one) for model, one in zip(models, styles, strict=True)]


def says(text: str) -> dict[Unit, object]:
    return {unit: meaning(unit, value) for unit, value in units(tomli.loads(text)).items()}


@seeds(SEEDS)
def test_what_one_side_changed_is_there_and_what_both_changed_is_merged_or_collides(seed: int) -> None:
    *_models, texts = three(seed)
    base, ours, theirs = map(says, texts)
    found = merge(*texts)
    result, open_units = says(found.text), {one.unit for one in found.conflicts}
    renamed = {name for _side, _kind, *names in found.renamed for name in names}
    for unit in {*base, *ours, *theirs, *result}:
        values = [side.get(unit, ABSENT) for side in (base, ours, theirs, result)]
        if unit in open_units or renamed & set(str(values).replace("'", " ").split()) or renamed & set(unit):
            continue
        if values[1] == values[0]:
            assert values[3] == values[2], unit
        elif values[2] in (values[0], values[1]):
            assert values[3] == values[1], unit
        else:  # put together: each side's rows that are new are there
            rows = values[3] if isinstance(values[3], list) else [values[3]]
            assert rows and values[3] is not ABSENT


@seeds(SEEDS)
def test_the_sides_can_be_exchanged(seed: int) -> None:
    *_models, (base, ours, theirs) = three(seed)
    one, other = merge(base, ours, theirs), merge(base, theirs, ours)
    assert {each.unit for each in one.conflicts} == {each.unit for each in other.conflicts}
    first, second = says(one.text), says(other.text)
    assert first.keys() == second.keys()
    for unit, value in first.items():
        if unit not in {each.unit for each in one.conflicts}:
            assert value == second[unit] or sorted(map(str, value)) == sorted(map(str, second[unit])), unit  # type: ignore[call-overload]


@seeds(SEEDS)
def test_merged_with_itself_or_with_the_base_a_side_stays_to_the_byte(seed: int) -> None:
    *_models, (base, ours, _theirs) = three(seed)
    for versions in ((base, ours, base), (base, base, ours), (base, ours, ours)):
        found = merge(*versions)
        assert found.text == ours
        assert not found.conflicts


@seeds(SEEDS)
def test_comments_of_both_are_kept(seed: int) -> None:
    chance = random.Random(seed)
    base = keymap(chance)
    texts = [written(model, 0) for model in (base, changed(chance, base), changed(chance, base))]
    remarked = [
        text.replace("[bind.", f"# kept by {side}\n[bind.", 1) + f"\n# the end of {side}\n"
        for side, text in zip(("ours", "theirs"), texts[1:], strict=True)
    ]
    found = merge(texts[0], *remarked)
    for side in ("ours", "theirs"):
        assert f"# the end of {side}" in found.text
        if f"# kept by {side}" in "".join(remarked) and "[bind." in found.text:
            assert found.text.count(f"# kept by {side}") == 1
    assert found.text.count("# our keys") == 1


def test_a_move_and_a_narrower_condition_go_together() -> None:
    base = 'format = 1\n[bind.line]\ndelete = "Ctrl+K"  # gone\n'
    ours = base.replace("Ctrl+K", "Ctrl+L")
    theirs = base.replace('"Ctrl+K"', '{ press = "Ctrl+K", where = "pane is text" }')
    found = merge(base, ours, theirs)
    assert found.text == 'format = 1\n[bind.line]\ndelete = { press = "Ctrl+L", where = "pane is text" }  # gone\n'
    assert not found.conflicts


def test_keys_moved_to_two_places_collide() -> None:
    base = 'format = 1\n[bind.line]\ndelete = "Ctrl+K"\n'
    found = merge(base, base.replace("Ctrl+K", "Ctrl+L"), base.replace("Ctrl+K", "Ctrl+M"))
    (one,) = found.conflicts
    assert (one.unit, one.base, one.ours, one.theirs, one.kept) == (
        ("bind", "line", "delete"), "Ctrl+K", "Ctrl+L", "Ctrl+M", "Ctrl+L",
    )  # fmt: skip


def test_of_a_row_whose_keys_collide_one_side_is_kept_whole() -> None:
    base = 'format = 1\n[bind.line]\ndelete = "Ctrl+K"\n'
    ours = base.replace("Ctrl+K", "Ctrl+L")
    theirs = base.replace('"Ctrl+K"', '{ press = "Ctrl+M", where = "readonly" }')
    (one,) = merge(base, ours, theirs).conflicts
    assert (one.kept, one.ours, one.theirs) == ("Ctrl+L", "Ctrl+L", {"press": "Ctrl+M", "where": "readonly"})
    (one,) = merge(base, theirs, ours).conflicts
    assert (one.kept, one.ours, one.theirs) == (
        theirs_row := {"press": "Ctrl+M", "where": "readonly"},
        theirs_row,
        "Ctrl+L",
    )


@pytest.mark.parametrize(
    "base", ['sort = "F7"\n', 'sort = "F7"\ndelete = false\n', 'sort = "F7"\ndelete = ["F4", "F5"]\n']
)
@pytest.mark.parametrize("bound", ['"Ctrl+K"', '["Ctrl+K", { press = "F4", where = "readonly" }]'])
def test_keys_that_one_side_takes_away_and_the_other_binds_collide(base: str, bound: str) -> None:
    head = "format = 1\n[bind.line]\n"
    plain = head + 'sort = "F7"\n'
    without, with_keys = plain + "delete = false\n", plain + f"delete = {bound}\n"
    row = tomli.loads(f"delete = {bound}")["delete"]
    for ours, theirs, kept, other in ((without, with_keys, False, row), (with_keys, without, row, False)):
        found = merge(head + base, ours, theirs)
        is_new = (head + base) in (without, with_keys)
        assert [(one.kept, one.ours, one.theirs) for one in found.conflicts] == (
            [] if is_new else [(kept, kept, other)]
        )
        assert tomli.loads(found.text)["bind"]["line"]["delete"] == (row if is_new else kept)


def test_one_side_takes_out_what_the_other_changes() -> None:
    base = 'format = 1\n[bind.line]\ndelete = "Ctrl+K"\nsort = "F7"\n'
    for ours, theirs in ((base.replace('delete = "Ctrl+K"\n', ""), base.replace("Ctrl+K", "Ctrl+M")),) * 2:
        found = merge(base, ours, theirs)
        assert [one.unit for one in found.conflicts] == [("bind", "line", "delete")]
        assert 'delete = "Ctrl+M"' in found.text


def test_a_new_name_of_a_condition_is_followed_on_the_other_side() -> None:
    base = 'format = 1\n[where]\nediting = "pane is text"\n[bind.line]\ndelete = { press = "F7", where = "editing" }\n'
    ours = base.replace("editing", "writing")
    theirs = base + 'sort = { press = "F8", where = "editing and not readonly" }\n'
    for one, other in ((ours, theirs), (theirs, ours)):
        found = merge(base, one, other)
        assert not found.conflicts
        assert "editing" not in found.text
        assert 'sort = { press = "F8", where = "writing and not readonly" }' in found.text
        assert found.renamed[0][1:] == ("condition", "editing", "writing")


def test_what_one_side_takes_out_and_the_other_uses_stays() -> None:
    base = 'format = 1\n[where]\nediting = "pane is text"\n'
    theirs = base + '[bind.line]\nsort = { press = "F8", where = "editing" }\n'
    found = merge(base, "format = 1\n", theirs)
    assert [one.unit for one in found.conflicts] == [("where", "editing")]
    assert tomli.loads(found.text)["where"] == {"editing": "pane is text"}


def test_lists_of_files_keep_what_both_added() -> None:
    base = 'format = 1\nextends = ["house.keys.toml"]\n'
    ours = base.replace("]", ', "ours.keys.toml"]')
    theirs = base.replace('["house', '["first.keys.toml", "house')
    assert tomli.loads(merge(base, ours, theirs).text)["extends"] == [
        "house.keys.toml", "ours.keys.toml", "first.keys.toml",
    ]  # fmt: skip


def test_a_macro_merged_field_by_field() -> None:
    base = 'format = 1\n[macro.tide]\ntitle = "Tide"\npress = "F7"\nsteps = [{ do = "line.sort" }]\n'
    ours = base.replace('"F7"', '"F8"')
    theirs = base.replace("line.sort", "line.delete").replace('title = "Tide"\n', 'title = "Tide"   # shown\n')
    found = merge(base, ours, theirs)
    assert not found.conflicts
    assert found.text == theirs.replace('"F7"', '"F8"')


def test_line_ends_stay() -> None:
    base = 'format = 1\r\n[bind.line]\r\ndelete = "Ctrl+K"\r\nsort = "F7"\r\n'
    found = merge(base, base.replace("Ctrl+K", "F3"), base.replace('"F7"', '"F9"') + 'join = "F4"\r\n')
    assert found.text == 'format = 1\r\n[bind.line]\r\ndelete = "F3"\r\nsort = "F9"\r\njoin = "F4"\r\n'


@pytest.mark.parametrize("name", ['x\\"y', "a.b", "q r", "ß", "x\\\\y"])
def test_odd_names_are_merged(name: str) -> None:
    base = 'format = 1\n[macro."tide"]\npress = "F7"\nsteps = [{ do = "line.sort" }]\n'
    ours = base.replace("tide", name)
    theirs = base + '[macro.z]\npress = "F2"\nsteps = [{ play = "tide" }]\n'
    for one, other in ((ours, theirs), (theirs, ours)):
        found = tomli.loads(merge(base, one, other).text)["macro"]
        assert tomli.loads(f'x = "{name}"')["x"] in found
        assert found["z"]["steps"][0]["play"] in found


OPEN = """format = 1
name = "k"
[bind.files]
save = "F3"

[[conflict]]
at = "bind.files.save"
why = "both sides changed it"
base = '"F2"'
ours = '"F3"'
theirs = '"F4"'
"""


@pytest.mark.parametrize(("ours", "theirs"), [("F10", "F11"), ("F3", "F11"), ("F11", "F3"), ("F4", "F3")])
def test_what_was_left_open_and_is_settled_otherwise_on_both_sides_is_open_again(ours: str, theirs: str) -> None:
    settled = [OPEN.partition("\n[[conflict]]")[0].replace("F3", keys) for keys in (ours, theirs)]
    found = merge_texts(Version(OPEN), *map(Version, settled), lambda one, other: one == other)
    assert [one.unit for one in found.conflicts] == [("bind", "files", "save")]
    assert {found.conflicts[0].ours, found.conflicts[0].theirs} == {ours, theirs}


def test_what_was_left_open_and_is_settled_alike_is_settled() -> None:
    settled = OPEN.partition("\n[[conflict]]")[0].replace("F3", "F4")
    found = merge_texts(Version(OPEN), Version(settled), Version(settled + "# done\n"), lambda one, other: one == other)
    assert not found.conflicts
    half = OPEN.replace("F3", "F4", 1)  # one side has not settled it yet
    assert not merge_texts(Version(OPEN), Version(settled), Version(half), lambda one, other: one == other).conflicts


KEYS_OPEN = """format = 1
name = "k"
[bind.files]
save = "F9"
[bind.edit]
cut = "F9"

[[conflict]]
press = "F9"
why = "both sides gave these keys something to do"
ours = "files.save"
theirs = "edit.cut"
"""


def test_keys_that_were_left_open_and_are_settled_otherwise_are_open_again() -> None:
    settled = KEYS_OPEN.partition("\n[[conflict]]")[0]
    ours, theirs = settled.replace('save = "F9"', 'save = "F10"'), settled.replace('cut = "F9"', 'cut = "F11"')
    found = merge_texts(Version(KEYS_OPEN), Version(ours), Version(theirs), lambda one, other: one == other)
    assert {one.unit for one in found.conflicts} == {("bind", "files", "save"), ("bind", "edit", "cut")}
