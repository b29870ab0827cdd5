"""Looking: what keys do in which states, what was replaced, and keys in other people's words."""

import random
from pathlib import Path

import pytest

import ombix
from ombix.core.errors import InputError
from ombix.core.keymap.deciding import Policy, decide_all
from ombix.core.keys.loose_notation import read_loosely
from ombix.core.keys.notation import parse, write
from ombix.files.workspace_file import FILE_NAME
from ombix.work.audit import audit_questions
from ombix.work.carry import carry_questions
from ombix.work.look import look_questions
from ombix.workspace.open_workspace import OpenWorkspace
from tests.helpers import shipped

HEAD = 'format = 1\nname = "k"\n'


def opened(folder: Path, keymap: str, workspace: str = "", **files: str) -> OpenWorkspace:
    """A session on a workspace with this keymap and further files, none of them on the disk."""
    texts = {
        str(folder / FILE_NAME): f'format = 1\nkeymap = "k.keys.toml"\nplatform = "linux"\n{workspace}\n',
        str(folder / "k.keys.toml"): HEAD + keymap,
        **{str(folder / name.replace("__", ".")): text for name, text in files.items()},
    }
    return ombix.open(folder / FILE_NAME, texts)


def rows(session: OpenWorkspace, keys: str, within: str = "") -> dict[str, str]:
    """Action to the condition under which keys do it."""
    return {row.does: row.when for row in look_questions.what(session, keys, within=within).decisions}


F6 = """
[bind.history]
undo = { press = "F6", where = "modified" }
[bind.panes]
text = { press = "F6", where = "modified" }
"""


def test_two_rows_never_have_the_same_condition(tmp_path: Path) -> None:
    assert rows(opened(tmp_path, F6), "F6") == {
        "panes.text": "pane is not text and modified", "history.undo": "pane is text and modified",
    }  # fmt: skip


def test_the_condition_of_each_row_means_just_the_states_in_which_it_wins(tmp_path: Path) -> None:
    """In random keymaps, with what each action needs; read back and held against the decision itself."""
    chance = random.Random(3)
    actions = [name for name, action in shipped.catalogue().actions.items() if not action.arguments]
    conditions = [
        "always",
        "modified",
        "pane is text",
        "pane is files",
        "selection is one",
        "mode is normal",
        "not readonly",
    ]
    for _ in range(20):
        text = ""
        for action in chance.sample(actions, 60):
            domain, _, verb = action.partition(".")
            text += f'[bind.{domain}]\n{verb} = {{ press = "F{chance.randint(1, 9)}", where = "{chance.choice(conditions)}" }}\n'
        domains: dict[str, list[str]] = {}
        for head, entry in zip(text.split("\n")[::2], text.split("\n")[1::2], strict=False):
            domains.setdefault(head, []).append(entry)
        session = opened(
            tmp_path, "".join(f"{head}\n" + "\n".join(found) + "\n" for head, found in domains.items() if head)
        )
        here = session.keymap()
        for trigger, table in here.tables.items():
            found = look_questions.what(session, write(trigger)).decisions
            assert len({row.when for row in found}) == len(found) == len(table.rows)
            for shown, row in zip(found, table.rows, strict=True):
                assert here.space.states(shown.when, row.binding.scope) == row.states


def test_a_condition_narrows_what_follows_and_says_what_does_not_apply(tmp_path: Path) -> None:
    session = opened(tmp_path, F6 + '[bind.bookmark]\nset = { press = "Space k {n:1-3}", with = { slot = "{n}" } }\n')
    assert [row.keys for row in look_questions.what(session, "Space").follows] == [
        "Space k 1",
        "Space k 2",
        "Space k 3",
    ]
    there = look_questions.what(session, "Space", within="pane is files")
    assert (there.follows, there.wait, there.typed) == ((), "", False)
    found = look_questions.what(session, "F6", within="pane is files")
    assert [row.does for row in found.decisions] == ["panes.text"]
    assert [(one.does, one.where) for one in found.not_applying] == [("history.undo", "modified")]
    assert {row.does for row in look_questions.show(session, within="pane is files").bindings} == {"panes.text"}


def test_arguments_and_counts_are_in_the_title(tmp_path: Path) -> None:
    keymap = '[bind.bookmark]\nset = { press = "F5", with = { slot = "3" } }\n[bind.cursor]\n'
    session = opened(tmp_path, keymap + 'down = { press = "F6", with = { count = 5 } }\n')
    titles = {row.keys: row.title for row in look_questions.show(session).bindings}
    assert titles == {"F5": "Mark the place with a number (slot 3)", "F6": "Move down, 5 times"}


# --- keys in other words


@pytest.mark.parametrize(
    ("typed", "portable"),
    [
        ("Ctrl+Slash", "Ctrl+/"), ("Ctrl-Comma", "Ctrl+,"), ("Alt+Shift+Period", "Alt+Shift+."), ("Ctrl+Backtick", "Ctrl+`"),
        ("Ctrl+Backslash", "Ctrl+\\"), ("Semicolon", ";"), ("Ctrl+At", "Ctrl+@"), ("KP_Add", "[NumpadAdd]"),
        ("Numpad5", "[Numpad5]"), ("Num+5", "[Numpad5]"), ("Ctrl+KeypadEnter", "Ctrl+[NumpadEnter]"),
        ("Ctrl+K Slash", "Ctrl+K /"), ("Ctrl-K", "Ctrl+K"), ("C-k", "Ctrl+K"), ("^K", "Ctrl+K"), ("C-x C-s", "Ctrl+X Ctrl+S"),
        ("M-x", "Alt+X"),
        ("^X^S", "Ctrl+X Ctrl+S"), ("<C-k>", "Ctrl+K"), ("Ctrl+K, Ctrl+S", "Ctrl+K Ctrl+S"), ("Shift-F5", "Shift+F5"),
        ("C--", "Ctrl+-"), ("^[", "Escape"), ("Ctrl K", "Ctrl+K"), ("C-M-Left", "Ctrl+Alt+ArrowLeft"),
    ],
)  # fmt: skip
def test_keys_as_others_write_them(tmp_path: Path, typed: str, portable: str) -> None:
    session = opened(tmp_path, f"[bind.files]\nsave = '{portable}'\n")
    found = look_questions.what(session, typed)
    assert [row.does for row in found.decisions] == ["files.save"]
    assert found.reading == f"{typed} is read as {write(parse(portable))}."


@pytest.mark.parametrize("keys", ["Ctrl+K", "Space o f", "Shift Shift", "-", "^", "Ctrl+,", "F5", "Ctrl+-", "Alt"])
def test_the_portable_notation_is_read_as_it_is(keys: str) -> None:
    assert read_loosely(keys) is None


def test_another_platforms_modifier_is_read_with_a_word_on_it(tmp_path: Path) -> None:
    session = opened(tmp_path, '[bind.files]\nsave = "Mod+S"\nopen = "Meta+O"\n')
    found = look_questions.what(session, "Cmd+S")
    assert [row.does for row in found.decisions] == ["files.save"]
    assert found.reading.startswith(
        "Meta+S itself is not bound on Linux; this is Ctrl+S, which it stands for when it is written"
    )
    assert [row.does for row in look_questions.what(session, "Cmd+O").decisions] == ["files.open"]
    assert look_questions.what(session, "Cmd+O").reading == ""
    assert "written for Linux and Windows" in look_questions.what(session, "Ctrl+S", on="mac").reading


# --- layers

TEAM = """\
format = 1
name = "k"
[where]
editing = "pane is text"
[bind.view]
bars = { press = "F11", where = "editing" }
line-numbers = "F6"
[bind.files]
save = "Ctrl+S"
"""


def layered(folder: Path, keymap: str) -> OpenWorkspace:
    return opened(folder, keymap, 'layers = ["team.keys.toml"]', team__keys__toml=TEAM)


def test_what_replaces_says_so_and_what_adds_does_not_replace(tmp_path: Path) -> None:
    session = layered(tmp_path, '[bind.view]\nbars = "F9"\nline-numbers = { also = "F7" }\n')
    keys = {row.keys: row.does for row in look_questions.show(session).bindings}
    assert keys == {"F9": "view.bars", "F6": "view.line-numbers", "F7": "view.line-numbers", "Ctrl+S": "files.save"}
    for pressed in ("F9", "F11"):
        (gone,) = look_questions.what(session, pressed).gone
        assert (gone.keys, gone.by_keys, gone.does) == ("F11", "F9", "view.bars")
    assert [(one.keys, one.by_keys) for one in look_questions.show(session).gone] == [("F11", "F9")]
    (row,) = [one for one in look_questions.show(session).bindings if one.keys == "F9"]
    assert [one.keys for one in row.replaces] == ["F11"]


def test_keys_for_one_platform_leave_those_of_the_others(tmp_path: Path) -> None:
    session = layered(tmp_path, '[bind.files]\nsave = { mac = "Meta+E" }\n')
    assert rows(session, "Ctrl+S") == {"files.save": "pane is text"}
    assert [row.does for row in look_questions.what(session, "Meta+E", on="mac").decisions] == ["files.save"]
    assert look_questions.what(session, "Ctrl+S", on="mac").decisions == ()


def test_the_reason_for_taking_keys_away_is_shown(tmp_path: Path) -> None:
    session = layered(tmp_path, '[bind.view]\nbars = { press = false, why = "hit by mistake" }\n')
    (gone,) = look_questions.what(session, "F11").gone
    assert (gone.does, gone.why) == ("view.bars", "hit by mistake")


def test_a_condition_with_a_name_means_in_each_layer_what_it_meant_there(tmp_path: Path) -> None:
    session = layered(
        tmp_path, '[where]\nediting = "pane is files"\n[bind.app]\nhelp = { press = "F1", where = "editing" }\n'
    )
    assert rows(session, "F1", "pane is files") == {"app.help": "editing"}
    assert look_questions.what(session, "F1", within="pane is text").decisions == ()
    assert rows(session, "F11", "pane is text") == {"view.bars": "editing"}


@pytest.mark.parametrize("wins", ["last", "first"])
def test_layers_are_told_apart_by_more_than_their_names(tmp_path: Path, wins: str) -> None:
    """Two layers with the same name, which ends like the name of an editor's defaults."""
    team = 'format = 1\nname = "crew defaults"\n[bind.files]\nopen = "F8"\n'
    own = 'format = 1\nname = "crew defaults"\n[bind.files]\nsave = "F8"\n[bind.view]\nbars = "F9"\nposition = "F9"\n'
    session = ombix.open(
        tmp_path / FILE_NAME,
        {
            str(
                tmp_path / FILE_NAME
            ): 'format = 1\nkeymap = "k.keys.toml"\nplatform = "linux"\nlayers = ["team.keys.toml"]\n',
            str(tmp_path / "k.keys.toml"): own,
            str(tmp_path / "team.keys.toml"): team,
        },
    )
    found = session.audit(rules=["clash", "covered", "doubled"]).findings
    assert [one.keys for one in found] == [("F9",)]  # F8 in the higher layer is meant so
    assert {row.does for row in session.show(own=True).bindings} == {"files.save", "view.position"}
    # Whichever line wins in a layer, the higher layer comes first.
    here = session.keymap()
    tables = decide_all(here.bindings, here.space, here.catalogue, Policy(wins))  # type: ignore[arg-type]
    assert str(tables[parse("F8")].rows[0].binding.outcome) == "files.save"


# --- what was read


def test_every_file_that_an_answer_depends_on_is_named(tmp_path: Path) -> None:
    session = layered(tmp_path, "")
    look_questions.what(session, "F6")
    names = {Path(name).name for name in session.files()}
    assert {FILE_NAME, "k.keys.toml", "team.keys.toml", "facts.toml", "linux.toml", "files.toml"} <= names


def test_nothing_is_read_twice(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    from ombix.files.disk import Files

    read: list[str] = []
    honest = Files.read_text

    def counting(self: Files, path: Path, *more: object) -> str:
        read.append(path.name)
        return honest(self, path, *more)  # type: ignore[arg-type]

    monkeypatch.setattr(Files, "read_text", counting)
    session = layered(tmp_path, '[bind.app]\nhelp = "F1"\n')
    for _ in range(2):
        look_questions.show(session)
        audit_questions.audit(session, severity="warning")
        carry_questions.port(session, "nano", "micro", "joe")
    keymaps = [name for name in read if name.endswith(".toml")]
    assert sorted(set(keymaps)) == sorted(keymaps)


CHART = '[bind.list]\ndown = { press = "F6", where = "pane is sea-chart and fog" }\nup = "F7"\n'
PANES = '[fact.pane]\nmore = ["sea-chart"]\n\n[fact.fog]\n'


def test_a_workspace_adds_panes_and_facts(tmp_path: Path) -> None:
    session = opened(tmp_path, CHART, PANES)
    assert rows(session, "F6") == {"list.down": "pane is sea-chart and fog"}
    assert rows(session, "F6", "pane is sea-chart") == {"list.down": "pane is sea-chart and fog"}
    assert rows(session, "F6", "pane is text") == {}
    (plain,) = [one for one in audit_questions.audit(session).findings if one.rule == "half-pair"] or [None]
    assert plain is None


@pytest.mark.parametrize(
    ("facts", "said"),
    [
        ("", "pane is never sea-chart"),
        ("[fact.mode]\n", "the fact mode is there already"),
        ('[fact.tide]\nmore = ["low"]\n', "no fact tide that could have more values"),
        ("[fact.pane]\nmroe = 1\n", "unknown key: mroe"),
        ("[fact.pane]\nmore = 1\n", "needs a list of values"),
        ("[fact]\npane = 1\n", "the fact pane is not a table"),
    ],
)
def test_what_is_wrong_with_facts_of_a_workspace_is_said(tmp_path: Path, facts: str, said: str) -> None:
    workspace = opened(tmp_path, CHART, facts)
    look_questions.what(workspace, "F6")
    assert any(said in fault for fault in workspace.faults), workspace.faults
    with pytest.raises(InputError, match=said):
        carry_questions.port(workspace, "nano")


def test_a_capital_behind_other_keys_is_told(tmp_path: Path) -> None:
    session = opened(tmp_path, '[bind.line]\ndelete = "Ctrl+K R"\n')
    said = "R is read as Shift+R: write r for the key without Shift."
    assert look_questions.what(session, "Ctrl+K R").reading == said
    assert look_questions.what(session, "Ctrl+K r").reading == ""
    assert look_questions.what(session, "Alt+R").reading == ""


def test_shift_beside_a_sign_is_the_sign_of_the_layout_and_an_assumed_one_is_told(tmp_path: Path) -> None:
    session = opened(tmp_path, '[bind.line]\ndelete = "Ctrl+?"\n')
    found = look_questions.what(session, "Ctrl+Shift+/")
    said = "Ctrl+Shift+/ is Ctrl+? on the layout English (US), which is assumed."
    assert (found.keys, found.reading) == ("Ctrl+?", said)
    assert look_questions.what(session, "Ctrl+Shift+;").reading == ""  # nothing is bound there, whichever layout it is


def test_actions_are_asked_for_by_the_state_that_they_can_be_run_in(tmp_path: Path) -> None:
    session = opened(
        tmp_path, '[bind.line]\ndelete = "F8"\n[bind.list]\ndelete = { press = "F8", where = "pane is files" }\n'
    )
    in_tree = look_questions.how(session, "delete", within="pane is files").actions
    assert "line.delete" not in {one.action for one in in_tree}
    (entry,) = [one for one in in_tree if one.action == "list.delete"]
    assert [one.keys for one in entry.keys] == ["F8"]
    in_text = look_questions.how(session, "delete line", within="pane is text").actions
    assert in_text[0].action == "line.delete"
    assert [one.keys for one in in_text[0].keys] == ["F8"]


@pytest.mark.parametrize(
    ("editor", "keys", "becomes"),
    [
        ("joe", "F7", "apart"),
        ("micro", "Alt+Q", "typed"),
        ("mousepad", "Ctrl+Shift+Z", "text"),
        ("nano", "F24", ""),
    ],
)
def test_what_becomes_of_keys_that_are_not_bound_in_an_editor(
    editor: str, keys: str, becomes: str, tmp_path: Path
) -> None:
    """Pressed in joe: F7 arrives as Escape and more, of which a tilde is typed."""
    found = look_questions.what(opened(tmp_path, '[bind.program]\nstart = "F7"\n'), keys, editor=editor)
    assert (found.decisions, found.becomes) == ((), becomes)
