"""Editors' own key files merged, against a table of their entries that is merged entry by entry by itself."""

from pathlib import Path
from random import Random
from typing import NamedTuple

import pytest

from ombix.work.versions import versions_questions
from ombix.work.versions.merge import Merging
from ombix.workspace.open_workspace import OpenWorkspace
from ombix.workspace.resources import Resources
from tests.helpers import ombix, others_long, seeds

Entries = dict[str, str]
SHARED = Resources()


class Form(NamedTuple):
    """A form of key file: what stands before and behind the entries, an entry, what joins them, and the names and values."""

    name: str
    head: str
    entry: str
    joint: str
    tail: str
    names: tuple[str, ...]
    values: tuple[str, ...]


KEYS = ("F5", "F7", "F8", "F9", "F11", "F12", "F14")
FORMS = {
    "nano": Form("nanorc", "set mouse\n", "bind {} {} main", "\n", "\n", KEYS, ("savefile", "undo", "exit", "paste")),
    "micro": Form("bindings.json", "{\n", '    "{}": "{}"', ",\n", "\n}\n", KEYS, ("Save", "Undo", "Quit", "Paste")),
    "dte": Form("rc", "set tab-width 4\n", "bind {} {}", "\n", "\n", KEYS, ("save", "undo", "close", "paste")),
    "mcedit": Form(
        "mc.keymap", "[editor]\n", "{} = {}", "\n", "\n", ("Save", "Undo", "Paste", "Quit", "Copy", "Cut"),
        ("f5", "f7", "f8", "f9", "f11", "f12"),
    ),
    "geany": Form(
        "keybindings.conf", "[Bindings]\n", "{}={}", "\n", "\n",
        ("menu_save", "menu_undo", "menu_quit", "menu_cut", "menu_copy"), ("F2", "F4", "<Primary>j", "<Alt>k", "<Alt>j"),
    ),
}  # fmt: skip


def text(form: Form, entries: Entries) -> str:
    if not entries:
        return form.head + form.tail.lstrip("\n")
    return form.head + form.joint.join(form.entry.format(*pair) for pair in entries.items()) + form.tail


def changed(chance: Random, form: Form, entries: Entries) -> Entries:
    """Entries with a few added in any place, taken out, or changed."""
    found = list(entries.items())
    for _ in range(chance.randint(0, 3)):
        name = chance.choice(form.names)
        known = [index for index, pair in enumerate(found) if pair[0] == name]
        if known and chance.random() < 0.4:
            del found[known[0]]
        elif known:
            found[known[0]] = (name, chance.choice(form.values))
        else:
            found.insert(chance.randint(0, len(found)), (name, chance.choice(form.values)))
    return dict(found)


def merged(folder: Path, form: Form, *texts: str) -> Merging:
    for name, content in zip(("base", "ours", "theirs"), texts, strict=True):
        (folder / name).write_text(content)
    session = OpenWorkspace(folder=str(folder))
    session._resources = SHARED.with_texts({})  # what ships is loaded once
    return versions_questions.merge(session, "base", "ours", "theirs", path=form.name)


def entries_of(form: Form, text: str) -> Entries:
    """The entries in a file, by a look at its lines alone."""
    lines = text.removeprefix(form.head).removesuffix(form.tail).split(form.joint)
    parts = form.entry.split("{}")
    found = {}
    for line in filter(str.strip, lines):
        name, _, value = line.strip("\n").removeprefix(parts[0]).removesuffix(parts[2]).partition(parts[1])
        assert name not in found
        found[name] = value
    return found


@pytest.mark.parametrize("editor", others_long(FORMS, "nano", "geany"))
def test_entry_by_entry(editor: str, tmp_path: Path) -> None:
    form, chance = FORMS[editor], Random(editor)
    clean = 0
    for _ in range(60):
        base = changed(
            chance, form, changed(chance, form, {form.names[0]: form.values[0], form.names[1]: form.values[1]})
        )
        ours, theirs = changed(chance, form, base), changed(chance, form, base)
        wanted: Entries = {}
        collide = False
        for name in form.names:
            old, mine, other = base.get(name), ours.get(name), theirs.get(name)
            new = other if mine == old else mine
            collide |= old not in (mine, other) and mine != other
            if new is not None:
                wanted[name] = new
        texts = [text(form, one) for one in (base, ours, theirs)]
        found = merged(tmp_path, form, *texts)
        assert found.report.by == "meaning"
        if collide:
            assert found.report.conflicts, texts
            continue
        # What two sides put on the same keys, each by an entry of its own, is a conflict, too.
        if "<<<<<<<" in found.text:
            assert found.report.conflicts, texts
            continue
        clean += 1
        assert entries_of(form, found.text) == wanted, (texts, found.text)
        assert not any("changed it" in one.why for one in found.report.conflicts)
        back = merged(tmp_path, form, texts[0], texts[2], texts[1])
        assert entries_of(form, back.text) == wanted
    assert clean > 20


Line = tuple[str, str, str]
"""Keys, a command and a menu."""
MENUS, NANO_KEYS = ("main", "search", "all"), {"F5": "F5", "F7": "F7", "^T": "Ctrl+T", "M-J": "Alt+J"}


def reordered(chance: Random, lines: list[Line]) -> list[Line]:
    """Lines with some put in, taken out, changed, or in another order."""
    found = list(lines)
    for _ in range(chance.randint(0, 3)):
        kind, at = chance.random(), chance.randrange(len(found) + 1)
        if kind < 0.4 or at == len(found):
            found.insert(at, a_line(chance))
        elif kind < 0.6:
            del found[at]
        elif kind < 0.85:
            found[at] = (found[at][0], chance.choice(FORMS["nano"].values), found[at][2])
        else:
            chance.shuffle(found)
    return found


def a_line(chance: Random) -> Line:
    return chance.choice(list(NANO_KEYS)), chance.choice(FORMS["nano"].values), chance.choice(MENUS)


def in_text(lines: list[Line], keys: str) -> str | None:
    """What keys do where text is edited: the last line of the menu, or of all of them, wins."""
    return next((command for one, command, menu in reversed(lines) if one == keys and menu in ("main", "all")), None)


@seeds(60)
def test_where_lines_win_over_others_each_key_does_what_a_side_changed_or_it_is_said(seed: int, tmp_path: Path) -> None:
    chance = Random(seed)
    base = [a_line(chance) for _ in range(chance.randint(2, 6))]
    sides = [base, reordered(chance, base), reordered(chance, base)]
    texts = ["set mouse\n" + "".join(f"bind {' '.join(line)}\n" for line in lines) for lines in sides]
    found = merged(tmp_path, FORMS["nano"], *texts)
    report = found.report
    if "<<<<<<<" in found.text:
        assert report.conflicts
        return
    lines = [(one[1], one[2], one[3]) for line in found.text.splitlines() if (one := line.split())[0] == "bind"]
    for keys, known in NANO_KEYS.items():
        old, ours, theirs, now = (in_text(one, keys) for one in (*sides, lines))
        if now != (theirs if ours == old else ours) or (None not in (ours, theirs) and len({old, ours, theirs}) == 3):
            said = [one.keys for one in report.unforeseen] + [one.what for one in report.conflicts]
            assert known in said or any(keys in one for one in said), (texts, keys)


@pytest.mark.parametrize("editor", FORMS)
def test_with_itself_and_with_the_base_it_is_itself_to_the_byte(editor: str, tmp_path: Path) -> None:
    form, chance = FORMS[editor], Random(f"{editor} itself")
    for _ in range(10):
        base = changed(chance, form, {form.names[0]: form.values[0], form.names[2]: form.values[1]})
        old, new = text(form, base), text(form, changed(chance, form, base)) + "\n"
        assert merged(tmp_path, form, old, new, new).text == new
        assert merged(tmp_path, form, old, new, old).text == new
        assert merged(tmp_path, form, old, old, new).text == new


def test_keys_that_both_gave_something_else_collide_though_their_lines_do_not(tmp_path: Path) -> None:
    form = FORMS["mcedit"]
    base = {"Save": "f2"}
    found = merged(
        tmp_path, form, text(form, base), text(form, {"Undo": "f5", **base}), text(form, {**base, "Paste": "f5"})
    )
    assert entries_of(form, found.text) == {"Undo": "f5", "Save": "f2", "Paste": "f5"}
    (conflict,) = found.report.conflicts
    assert conflict.what == "F5"
    assert {conflict.ours, conflict.theirs} == {"history.undo", "edit.paste"}


def test_comments_of_both_stay_and_the_call_says_what_was_merged(tmp_path: Path) -> None:
    base = "bind F5 savefile main\n"
    (tmp_path / "base").write_text(base)
    (tmp_path / "ours").write_text(f"{base}# ours, for the bridge\nbind F7 undo main\n")
    (tmp_path / "theirs").write_text(f"{base}# theirs\nbind F8 exit main\n")
    ran = ombix(tmp_path, "merge", "base", "ours", "theirs", "--path", "nanorc", "--output", "merged")
    assert ran.status == 0
    assert (tmp_path / "merged").read_text() == (
        f"{base}# ours, for the bridge\nbind F7 undo main\n# theirs\nbind F8 exit main\n"
    )
    assert "main F7  ours        added  bind F7 undo main" in ran.out
    (tmp_path / "theirs").write_text("bind F5 exit main\n")
    (tmp_path / "ours").write_text("bind F5 undo main\n")
    ran = ombix(tmp_path, "merge", "base", "ours", "theirs", "--path", "nanorc", "--output", "merged")
    assert ran.status == 1
    assert "conflict: line 1 of nanorc: both sides changed it" in ran.out
    assert (tmp_path / "merged").read_text().count("<<<<<<<") == 1


def test_what_is_no_file_of_that_editor_is_merged_line_by_line(tmp_path: Path) -> None:
    found = merged(tmp_path, FORMS["micro"], "{\n}\n", "{\n  a\n}\n", "{\n  b\n}\n")
    assert found.report.by == "lines"
    assert len(found.report.conflicts) == 1
