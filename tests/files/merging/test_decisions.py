"""Merges against a model that decides every key in every state by itself: what the merged keymap does is what one of the sides
changed, or it is said."""

import random
from itertools import product
from pathlib import Path

import pytest

from ombix.core.conditions import Space
from ombix.core.keys.notation import parse, write
from ombix.files import keymap_reading
from ombix.work.versions import versions_questions
from ombix.work.versions.merge import Merging
from ombix.work.versions.merge_answer import MergeReport
from ombix.workspace.open_workspace import OpenWorkspace
from tests.files.merging.keymaps import KEYS, Model, changed, keymap, written
from tests.helpers import seeds, shipped

STATES = [
    {"pane": "text", "readonly": readonly, "selection": selection}
    for readonly, selection in product(("yes", "no"), ("none", "one"))
]
"""All states that the keymaps' conditions can tell apart while text is edited, where all actions can be run."""
SPACE = Space(shipped.facts())


def holds(text: str, model: Model, state: dict[str, str]) -> bool:
    """Whether a condition is true, by reading it word by word."""
    for part in text.split(" and "):
        named = model["where"].get(part)
        if named is not None:
            true = holds(str(named), model, state)
        elif part.startswith(("pane is ", "selection is ")):
            fact, value = part.split(" is ")
            true = state[fact] == value
        else:
            true = (state["readonly"] == "yes") != part.startswith("not ")
        if not true:
            return False
    return True


def bindings(model: Model) -> list[tuple[str, str, str]]:
    """Keys, condition and outcome on Linux, in the order in which a file is read."""
    found = []
    domains = dict.fromkeys(name.partition(".")[0] for name in model["bind"])
    for domain in domains:
        for name, value in model["bind"].items():
            if name.partition(".")[0] != domain or value is False:
                continue
            for row in value if isinstance(value, list) else [value]:
                fields = row if isinstance(row, dict) else {"press": row}
                found.append((fields["press"], fields.get("where", "always"), name))
    found += [(keys, "always", "nothing") for keys in model["unbind"]]
    found += [(value["press"], "always", f"macro {name}") for name, value in model["macro"].items()]  # type: ignore[index]
    return [(write(parse(keys.replace("Mod+", "Ctrl+"))), where, name) for keys, where, name in found]


def decide(model: Model, keys: str, state: dict[str, str]) -> str | None:
    """What keys do in a state: the last line that applies."""
    for text, where, name in reversed(bindings(model)):
        if text == keys and (where == "always" or holds(where, model, state)):
            return name
    return None


def decided(text: str) -> dict[tuple[str, int], str | None]:
    """What the file's keys do in each state, as Ombix decides."""
    from ombix.core.keymap.bindings import Keymap
    from ombix.core.keymap.deciding import Policy, decide_all

    layer = keymap_reading.read(text, "crew.keys.toml", shipped.catalogue(), shipped.facts())
    space = Keymap([layer]).space(shipped.facts())
    tables = decide_all(
        Keymap([layer]).in_force(shipped.platform("linux")).bindings, space, shipped.catalogue(), Policy()
    )
    found: dict[tuple[str, int], str | None] = {}
    for keys in KEYS:
        trigger = parse(keys.replace("Mod+", "Ctrl+"))
        for number, state in enumerate(STATES):
            row = tables[trigger].at(space, {**EXAMPLE, **state}) if trigger in tables else None
            found[write(trigger), number] = str(row.binding.outcome) if row is not None else None
    return found


EXAMPLE = {fact.name: fact.values[0] for fact in SPACE.facts.facts}


def merged(folder: Path, *texts: str) -> Merging:
    """The base, ours and theirs, merged."""
    paths = [folder / f"{name}.keys.toml" for name in ("base", "ours", "theirs")]
    for path, text in zip(paths, texts, strict=True):
        path.write_text(text)
    return versions_questions.merge(OpenWorkspace(paths[1], kind="file", folder=str(folder)), *map(str, paths))


@seeds(250)
def test_every_key_in_every_state(seed: int, tmp_path: Path) -> None:
    chance = random.Random(seed)
    base = keymap(chance)
    models = [base, changed(chance, base, 4), changed(chance, base, 4)]
    texts = [written(model, 0) for model in models]
    found = merged(tmp_path, *texts)
    result = decided(found.text)
    for keys, number in result:
        before, ours, theirs = (decide(model, keys, STATES[number]) for model in models)
        now = result[keys, number]
        wanted = theirs if ours == before else ours
        if ours is not None and theirs is not None and before not in (ours, theirs) and ours != theirs:
            has_all = found.text in texts  # one side has made all changes of the other
            assert has_all or is_open(found.report, keys, {ours, theirs}), (keys, ours, theirs)
        elif now != wanted and (before in (ours, theirs) or now not in (ours, theirs)):
            is_named = is_an_entry_open(found.report, {before, ours, theirs})
            assert is_named or is_said(found.report, keys, number, now), (keys, before, ours, theirs, now)


def test_what_nobody_wrote_is_said_also_beside_a_conflict_on_the_same_keys(tmp_path: Path) -> None:
    head, paste = "format = 1\n", '[bind.edit]\npaste = { press = "F3", where = "pane is text" }\n'
    base, ours = head + paste, head + '[bind.search]\nfind = "F3"\n' + paste
    theirs = head + paste.replace("text", "files")
    report = merged(tmp_path, base, ours, theirs).report
    assert [(one.what, one.when) for one in report.conflicts] == [("F3", "pane is files")]
    assert [(one.keys, one.when, one.base, one.ours, one.theirs, one.merged) for one in report.unforeseen] == [
        ("F3", "pane is text", "edit.paste", "edit.paste", None, "search.find")
    ]


@pytest.mark.parametrize("more", ["", '[bind.search]\nfind = "F4"\n'])
def test_another_order_in_which_other_lines_win_is_said(more: str, tmp_path: Path) -> None:
    edit, files = '[bind.edit]\ncut = "F3"\npaste = "Alt+U"\n', '[bind.files]\nsave = "F3"\n'
    head = "format = 1\n"
    base, theirs = head + edit + files, head + files + edit + more
    report = merged(tmp_path, base, base.replace("Alt+U", "Ctrl+K"), theirs).report
    assert not report.conflicts
    assert [(one.keys, one.base, one.ours, one.theirs, one.merged) for one in report.unforeseen] == [
        ("F3", "files.save", "files.save", "edit.cut", "files.save")
    ]


def is_open(report: MergeReport, keys: str, does: set[str]) -> bool:
    """Whether a conflict says that both gave the keys something to do, or names one of the entries."""
    names = (
        {f"bind.{name}" for name in does} | {name.replace("macro ", "macro.") for name in does} | {f'unbind."{keys}"'}
    )
    alike = {keys, keys.replace("Ctrl+", "Mod+")}
    return any(one.what in names | alike or one.what.startswith("where.") for one in report.conflicts)


def is_an_entry_open(report: MergeReport, does: set[str | None]) -> bool:
    """Whether a conflict names the entry of one of these, so that the keys are what it is about."""
    names = {f"bind.{name}" for name in does} | {str(name).replace("macro ", "macro.") for name in does}
    return any(one.what in names for one in report.conflicts)


def is_said(report: MergeReport, keys: str, number: int, does: str | None) -> bool:
    """Whether it is said that keys do this on neither side, or that both sides gave them something to do in this state."""
    state = {**EXAMPLE, **STATES[number]}
    alike = (keys, keys.replace("Ctrl+", "Mod+"))
    said = [one.when for one in report.unforeseen if one.keys in alike and one.merged == does]
    said += [one.when for one in report.conflicts if one.what in alike]
    return any(not when or SPACE.holds(SPACE.states(when), state) for when in said)


@pytest.mark.parametrize("changed", ["ours", "theirs"])
def test_one_condition_changed_and_another_removed(changed: str, tmp_path: Path) -> None:
    base = 'format = 1\nname = "k"\n[where]\nediting = "pane is text"\nbusy = "program is running"\n[bind.files]\nsave = "F2"\n'
    texts = {
        "base": base, "one": base.replace("pane is text", "pane is text and not readonly"),
        "other": base.replace('busy = "program is running"\n', "").replace('"F2"', '{ press = "F3", where = "editing" }'),
    }  # fmt: skip
    for name, text in texts.items():
        (tmp_path / f"{name}.keys.toml").write_text(text)
    sides = ("one", "other") if changed == "ours" else ("other", "one")
    merged = versions_questions.merge(
        OpenWorkspace(folder=str(tmp_path)), "base.keys.toml", *(f"{side}.keys.toml" for side in sides)
    )
    assert "busy" not in merged.text and "not readonly" in merged.text and '"F3"' in merged.text
    # The condition was changed under what the other side put under it: that is said.
    assert [one.what for one in merged.report.conflicts] == ["where.editing"]
