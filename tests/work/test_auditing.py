"""The audit of whole workspaces: each finding is right, said once, and in words that help."""

from pathlib import Path

import pytest

from ombix.core.errors import InputError
from ombix.files.keymap_writing import dump
from ombix.work.audit import audit_questions
from ombix.workspace.findings_answer import FoundFault
from tests.helpers import dialect, known
from tests.work.test_looking import opened

PIER = '[editor.pier]\ndialect = "nano"\nterminal = "xterm"'


def found(folder: Path, keymap: str, workspace: str, *rules: str) -> tuple[FoundFault, ...]:
    return audit_questions.audit(opened(folder, keymap, workspace), rules=rules).findings


@pytest.mark.parametrize("name", known())
@pytest.mark.parametrize("chosen", ["", "desk"])
def test_an_editor_with_facts_of_its_own_in_the_workspace_is_no_error(tmp_path: Path, name: str, chosen: str) -> None:
    workspace = f'[editor.e]\ndialect = "{name}"\n[editor.desk]\ndialect = "micro"'
    session = opened(tmp_path, '[bind.files]\nsave = "F2"\n', workspace)
    assert audit_questions.audit(session, editor=chosen).rules


def test_a_clash_names_the_true_winner_of_each_set_of_states(tmp_path: Path) -> None:
    keymap = """[bind.edit]
cut = { press = "F7", where = "language is python or selection is one" }
paste = { press = "F7", where = "not readonly and language is not python" }
copy = { press = "F7", where = "selection is one" }
"""
    session = opened(tmp_path, keymap)
    (clash,) = audit_questions.audit(session, rules=["clash"]).findings
    assert [(one.does, one.beats) for one in clash.winners] == [("edit.copy", ("edit.paste",))]
    here = session.keymap()
    table = here.tables[here.bindings[0].trigger]
    for winner in clash.winners:
        states = here.space.states(winner.when)
        assert any(
            str(row.binding.outcome) == winner.does and here.space.covers(row.states, states) for row in table.rows
        )


def test_three_bindings_on_one_key_are_one_finding(tmp_path: Path) -> None:
    keymap = '[bind.files]\nsave = { press = "F8", where = "modified" }\nopen = { press = "F8", where = "recording" }\n'
    keymap += 'rename = { press = "F8", where = "readonly" }\n'
    (clash,) = found(tmp_path, keymap, "", "clash")
    assert [one.text for one in clash.places] == ["files.save", "files.open", "files.rename"]
    assert {one.does: one.beats for one in clash.winners} == {
        "files.open": ("files.save",), "files.rename": ("files.open", "files.save"),
    }  # fmt: skip


def test_a_leader_over_typed_text_is_slow(tmp_path: Path) -> None:
    (slow,) = found(tmp_path, '[bind.files]\nsave = "Space s"\n', "", "slow-key")
    assert "typing Space has to wait" in slow.message
    narrow = '[bind.files]\nsave = { press = "Space s", where = "mode is normal" }\n'
    assert found(tmp_path, narrow, "", "slow-key") == ()


WAY = """[bind.edit]
suggest = {{ press = "F7", where = "popup is none" }}
{}
[bind.line]
delete = {{ press = "F8", where = "popup is suggestions" }}
"""


@pytest.mark.parametrize(
    ("out", "count"),
    [
        ('accept-suggestion = { press = "F7", where = "popup is suggestions" }', 0),  # on the same key
        ('accept-suggestion = { press = "F9", where = "popup is suggestions and readonly" }', 1),  # in some states only
        ("", 1),
    ],
)
def test_a_way_back_is_one_that_works_in_every_state(tmp_path: Path, out: str, count: int) -> None:
    assert len(found(tmp_path, WAY.format(out), "", "no-way-back")) == count


def test_what_leads_out_of_another_thing_is_no_way_back(tmp_path: Path) -> None:
    keymap = '[bind.mode]\nselect = "F7"\n[bind.files]\nsave = { press = "F8", where = "mode is select" }\n'
    keymap += '[bind.prompt]\ncancel = { press = "F9", where = "mode is select" }\n'
    assert len(found(tmp_path, keymap, "", "no-way-back")) == 1


@pytest.mark.parametrize("name", known())
def test_an_editors_own_defaults_are_fit(tmp_path: Path, name: str) -> None:
    layer = dialect(name).default_layer
    text = "\n".join(dump(layer).split("\n")[2:])
    assert [one.message for one in found(tmp_path, text, "", "unfit")] == []


def test_what_closes_or_quits_beside_a_key_of_every_day_is_a_slip(tmp_path: Path) -> None:
    keymap = '[bind.files]\nsave = "F4"\n[bind.app]\nquit = "F5"\n'
    (slip,) = found(tmp_path, keymap, "", "slip")
    assert "F5 for app.quit is beside F4 for files.save" in slip.message
    sequence = '[bind.files]\nsave = "Ctrl+K s"\n[bind.app]\nquit = "Ctrl+K d"\n'
    (slip,) = found(tmp_path, sequence, "", "slip")
    assert "sequence" not in slip.mend  # it is on one


def test_one_modifier_more_is_a_slip_as_long_as_the_arm_rests(tmp_path: Path) -> None:
    beside = '[bind.files]\nsave = "Ctrl+S"\nrevert = "Ctrl+Shift+S"\n'
    (slip,) = found(tmp_path, beside, "", "slip")
    # Shift by the ring finger takes 0.22 + 0.05 s; S, now by the middle finger, 0.23 s instead of 0.22 + 0.05 s.
    assert (
        slip.message == "Ctrl+Shift+S for files.revert is one modifier from Ctrl+S for files.save: 0.22 s more to press"
    )
    less = '[bind.files]\nsave = "Ctrl+Shift+S"\nrevert = "Ctrl+S"\n'
    assert "s less to press" in found(tmp_path, less, "", "slip")[0].message
    # Alt holds a thumb; the logo key beside it takes the hand along, or the other one across.
    far = '[bind.files]\nsave = "Alt+S"\nrevert = "Super+Alt+S"\n'
    assert found(tmp_path, far, "", "slip") == ()


def test_what_is_no_fault_is_not_found(tmp_path: Path) -> None:
    assert found(tmp_path, '[bind.search]\nfind = "F9"\n', "", "half-pair") == ()
    taken = '[bind.files]\nsave = "F6"\nopen = "F6 x"\n[unbind]\n"F6 y" = true\n'
    session = opened(tmp_path, taken)
    hidden = audit_questions.audit(session, rules=["hidden-sequence"], editor="nano").findings
    assert all("nothing" not in one.message for one in hidden)
    assert found(tmp_path, '[bind.edit]\ndelete-right = "Delete"\n', 'layout = "de"', "other-press", "hard-press") == ()


def test_what_arrives_alike_is_said_once(tmp_path: Path) -> None:
    keymap = '[bind.line]\ndelete = "Enter"\ncopy-down = "Ctrl+M"\n[bind.files]\nsave = { press = "Ctrl+M", where = "readonly" }\n'
    (alike,) = found(tmp_path, keymap, PIER, "sent-alike")
    assert set(alike.keys) == {"Enter", "Ctrl+M"}


@pytest.mark.parametrize(("keys", "takes"), [("Ctrl+[", "Escape"), ("Ctrl+I", "Tab"), ("Ctrl+M", "Enter")])
def test_a_chord_that_is_another_key_in_a_terminal_is_found_alone(tmp_path: Path, keys: str, takes: str) -> None:
    (alike,) = found(tmp_path, f'[bind.program]\nstart = "{keys}"\n', PIER, "sent-alike")
    assert f" is {takes} in pier: {takes} would run " in alike.message


def test_nine_keys_behind_fn_are_one_finding(tmp_path: Path) -> None:
    actions = ["files.save", "files.open", "line.delete", "line.copy-down", "app.help", "edit.cut", "edit.copy"]
    keymap = "".join(
        f'[bind.{domain}]\n' + "".join(f'{action.partition(".")[2]} = "F{number}"\n' for number, action in enumerate(actions, 1)
                                       if action.startswith(f"{domain}."))
        for domain in dict.fromkeys(action.partition(".")[0] for action in actions)
    )  # fmt: skip
    workspace = 'layout = "us"\nkeyboard = "mac-laptop"'
    (hard,) = found(tmp_path, keymap, workspace, "hard-press")
    assert len(hard.keys) == len(actions)


def test_many_differences_between_editors_are_one_table(tmp_path: Path) -> None:
    both = '[editor.desk]\ndialect = "micro"\n[editor.pier]\ndialect = "nano"'
    (other,) = found(tmp_path, "", both, "other-meaning")
    assert other.table is not None
    assert other.table.head == ("keys", "desk", "pier")
    assert len(other.table.rows) == len(other.keys) > 5


def test_messages_have_the_keys_as_their_user_wrote_them(tmp_path: Path) -> None:
    keymap = '[bind.files]\nsave = "Ctrl+Shift+\\\\"\n'
    for one in found(tmp_path, keymap, 'layout = "de"'):
        assert "¿" not in one.message
        assert one.message.startswith("Ctrl+Shift+\\") or "Ctrl" not in one.message


def test_a_key_taken_away_is_said_to_be_so(tmp_path: Path) -> None:
    (covered,) = found(tmp_path, '[bind.files]\nsave = "F6"\n[unbind]\nF6 = true\n', "", "covered")
    assert covered.message == "F6 never runs files.save: the keys are taken away wherever it does"


@pytest.mark.parametrize(
    ("layout", "platform", "count"), [("ch", "windows", 0), ("ch", "mac", 0), ("de", "windows", 0)]
)
def test_third_levels_are_those_of_the_platform(tmp_path: Path, layout: str, platform: str, count: int) -> None:
    """X11 has ß on the third level of S; Windows has nothing there, and a Mac's are not told."""
    session = opened(tmp_path, '[bind.files]\nsave = "Ctrl+Alt+S"\n')
    findings = audit_questions.audit(session, rules=["swallowed-text"], on=platform, layout=layout).findings
    assert len(findings) == count
    assert len(audit_questions.audit(session, rules=["swallowed-text"], on="windows", layout=layout).findings) == 0


def test_what_windows_has_on_its_third_level_is_found(tmp_path: Path) -> None:
    session = opened(tmp_path, '[bind.files]\nopen = "Ctrl+Alt+E"\n')
    for layout in ("ch", "de", "fr"):
        (one,) = audit_questions.audit(session, rules=["swallowed-text"], on="windows", layout=layout).findings
        assert "€" in one.message


@pytest.mark.parametrize(
    ("row", "said"),
    [
        ('"F9"', "tabs.show has to be told its number"),
        ('{ press = "F9", with = { number = "x" } }', "is a number from 1 on, not x"),
        ('{ press = "F9", with = { number = "0" } }', "is a number from 1 on, not 0"),
    ],
)
def test_arguments_that_are_missing_or_wrong(tmp_path: Path, row: str, said: str) -> None:
    (one,) = found(tmp_path, f"[bind.tabs]\nshow = {row}\n", "", "argument")
    assert said in one.message


def test_a_finding_has_the_changes_that_mend_it(tmp_path: Path) -> None:
    """Applied to the file, they make it go away."""
    from ombix.files.editing import apply
    from ombix.workspace import findings

    text = '[bind.files]\nsave = "F8"\nopen = "F8"\n'
    session = opened(tmp_path, text)
    here = session.keymap()
    made = findings.find(here, [], session.resources, findings.choose_rules(["clash"]))
    (finding,) = made.findings
    assert finding.changes
    mended = apply('format = 1\nname = "k"\n' + text, finding.changes).text
    again = opened(tmp_path, mended.split("\n", 2)[2])
    assert audit_questions.audit(again, rules=["clash"]).findings == ()


def test_who_follows_all_proposals_makes_no_clash(tmp_path: Path) -> None:
    from ombix.files.editing import apply
    from ombix.workspace import findings

    text = '[bind.files]\nsave = "F8"\nopen = "F8"\n[bind.edit]\ncut = "Shift+F8"\ncopy = "Shift+F8"\n'
    text += '[bind.line]\ndelete = "Alt+F8"\nindent = "Alt+F7"\noutdent = "Alt+Space"\njoin = "F4"\n'
    workspace = 'desktop = "gnome"'
    session = opened(tmp_path, text, workspace)
    here = session.keymap()
    rules = findings.choose_rules(["clash", "desktop-key"])
    changes = [one for finding in findings.find(here, [], session.resources, rules).findings for one in finding.changes]
    assert len(changes) == 5
    mended = apply('format = 1\nname = "k"\n' + text, changes).text
    again = opened(tmp_path, mended.split("\n", 2)[2], workspace)
    assert audit_questions.audit(again, rules=["clash", "desktop-key", "doubled"]).findings == ()


def test_one_name_in_the_place_of_a_list_is_an_error_that_says_so(tmp_path: Path) -> None:
    session = opened(tmp_path, '[bind.files]\nsave = "Ctrl+S"\n')
    for wrong in ({"rules": "clash"}, {"without": "clash"}):
        with pytest.raises(InputError, match="a list of names: 'clash' is one name"):
            audit_questions.audit(session, **wrong)
