"""Descriptions that are like another one and say in parts what is different."""

from pathlib import Path

import pytest

from ombix.core.errors import InputError
from ombix.core.keys.notation import parse
from ombix.editors.description_loading import Dialects
from ombix.editors.dialect import Dialect
from tests.helpers import dialect, ombix, shipped


def described(folder: Path, **files: str) -> Dialect:
    for name, text in files.items():
        (folder / f"{name}.toml").write_text(text)
    return Dialects(shipped).load(f"{folder}/")


LIKE = 'like = "nano"\nname = "dinghy"\n'


def test_a_list_takes_the_place_of_the_other() -> None:
    nano = dialect("nano")
    assert len(nano.description.notes) > 1


def test_notes_are_added_and_taken_away(tmp_path: Path) -> None:
    known = dialect("nano").description.notes
    one = described(tmp_path, dialect=f'{LIKE}[notes]\nadd = ["x"]\nwithout = ["{known[0]}"]\n')
    assert one.description.notes == [*known[1:], "x"]
    other = described(tmp_path, dialect=f'{LIKE}notes = ["x"]\n')
    assert other.description.notes == ["x"]


def test_a_command_is_taken_away(tmp_path: Path) -> None:
    one = described(
        tmp_path, dialect=LIKE, commands="[command]\nsuspend = false\n",
        defaults='[[group.without]]\nkeys = { "Ctrl+T" = "", "Ctrl+Z" = "" }\n',
    )  # fmt: skip
    assert "suspend" in dialect("nano").vocabulary.commands
    assert "suspend" not in one.vocabulary.commands
    assert "savefile" in one.vocabulary.commands


def test_of_the_keys_of_a_group_only_those_that_are_named_are_taken_away(tmp_path: Path) -> None:
    nano = dialect("nano")
    bound = {binding.trigger for binding in nano.default_layer.bindings if binding.written == "savefile"}
    assert parse("Ctrl+S") in bound
    one = described(
        tmp_path, dialect=LIKE,
        defaults='[[group.without]]\nkeys = { "Ctrl+S" = "" }\n[[group.add]]\nsections = ["main"]\nkeys = { "F9" = "savefile" }\n',
    )  # fmt: skip
    now = {binding.trigger for binding in one.default_layer.bindings if binding.written == "savefile"}
    assert now == (bound - {parse("Ctrl+S")}) | {parse("F9")}
    gone = [binding for binding in nano.default_layer.bindings if binding.trigger == parse("Ctrl+S")]
    assert len(one.default_layer.bindings) == len(nano.default_layer.bindings) - len(gone) + 1


def test_forms_are_taken_away_by_what_they_have(tmp_path: Path) -> None:
    one = described(tmp_path, dialect=f'{LIKE}[[file.forms.without]]\nmeans = "remove"\n')
    assert all(form.means != "remove" for form in one.description.file.forms)
    assert len(one.description.file.forms) == len(dialect("nano").description.file.forms) - 1


@pytest.mark.parametrize("where", ["/etc/cron.d/x", "../x", "a/../../x"])
@pytest.mark.parametrize("key", ["text", "config", "files"])
def test_no_description_puts_a_file_outside_of_the_home(tmp_path: Path, key: str, where: str) -> None:
    said = {"files": f'[program.files]\n"{where}" = "x"\n'}
    with pytest.raises(InputError, match="not below the home folder"):
        described(tmp_path, dialect=f'{LIKE}[program]\n{said.get(key, f"""{key} = "{where}" """)}\n')


@pytest.mark.parametrize(
    ("versions", "version", "is_for"),
    [
        ([], "7.2", True), ([], "7.2.1", True), ([], "7.20", False), ([], "8.0", False),
        (["7", "8.1"], "8.1.3", True), (["7", "8.1"], "8.2", False), (["7", "8.1"], "7.9-2", True),
    ],
)  # fmt: skip
def test_a_description_is_for_some_versions(versions: list[str], version: str, is_for: bool, tmp_path: Path) -> None:
    one = described(tmp_path, dialect=f'{LIKE}version = "7.2"\nversions = {versions}\n')
    assert one.is_for(version) == is_for


@pytest.mark.parametrize(("version", "said"), [("7.2", False), ("9.0", True)])
def test_a_port_says_where_the_workspace_has_another_version(version: str, said: bool, tmp_path: Path) -> None:
    (tmp_path / "ombix.toml").write_text(
        f'format = 1\nkeymap = "crew.keys.toml"\n[editor.pier]\ndialect = "nano"\nversion = "{version}"\n'
    )
    (tmp_path / "crew.keys.toml").write_text('format = 1\nname = "crew"\n\n[bind.files]\nsave = "F2"\n')
    ran = ombix(tmp_path, "port", "--to", "pier", "--dry-run")
    assert ran.status == 0, ran.err
    assert ("pier is version 9.0, and nano is described as of 7.2" in ran.out) == said


@pytest.mark.parametrize(
    ("held", "said"),
    [
        (["Ctrl", "Hyper"], "Hyper is no modifier"),
        ([f"M{number}" for number in range(16)], "M0 is no modifier"),
        (["Ctrl"] * 16, "stands twice"),
    ],
)
def test_modifiers_that_a_form_may_hold_are_modifiers(held: list[str], said: str, tmp_path: Path) -> None:
    names = ", ".join(f'"{one}"' for one in held)
    form = f'[[keys.forms]]\nchord = "{{letter}}"\nwritten = "{{letter}}"\nheld = [{names}]\n'
    with pytest.raises(InputError, match=said):
        _ = described(tmp_path, dialect=f'{LIKE}[keys.modifiers]\nCtrl = "C"\n{form}').spelling
