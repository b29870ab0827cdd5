"""Changes to a keymap file leave everything else as it was: comments, blanks, order, line ends."""

import pytest

from ombix.core.errors import InputError
from ombix.core.keymap.changes import (
    Accept,
    AddEditor,
    AddLayer,
    Bind,
    BindCommand,
    Change,
    MapCommand,
    Move,
    Narrow,
    Remove,
    RemoveAccept,
    RemoveTakeAway,
    RemoveUnbind,
    TakeAway,
    Unbind,
    in_words,
)
from ombix.core.keys.notation import parse
from ombix.files.editing import Edited, apply

TEXT = """\
# Our keys.
format = 1
name = "crew"

[bind.line]
copy-down = "Mod+D"      # the one we use most
move-up = ["Alt+U", "F5"]

# Files come last.
[bind.files]
save = "Mod+S"
"""


def bind(action: str, keys: str, where: str = "", platform: str = "", adds: bool = False) -> Edited:
    return apply(TEXT, [Bind(action, parse(keys), where, platform, adds)])


def test_replacing_one_entry_changes_one_line() -> None:
    changed = bind("line.copy-down", "Mod+Shift+Y")
    assert changed.text == TEXT.replace('"Mod+D"      #', '"Mod+Shift+Y"      #')
    assert changed.edits[0].before == 'copy-down = "Mod+D"'


def test_a_new_entry_goes_into_its_table() -> None:
    changed = bind("line.delete", "Mod+K", where="pane is text")
    line = 'delete = { press = "Mod+K", where = "pane is text" }'
    assert changed.text == TEXT.replace('"F5"]\n', f'"F5"]\n{line}\n')


def test_a_new_table_goes_to_the_end() -> None:
    changed = bind("app.help", "F1")
    assert changed.text.startswith(TEXT)
    assert '[bind.app]\nhelp = "F1"\n' in changed.text


def test_one_more_trigger() -> None:
    changed = bind("line.copy-down", "F6", adds=True)
    assert 'copy-down = ["Mod+D", "F6"]' in changed.text


def test_keys_of_one_platform() -> None:
    changed = bind("line.copy-down", "Meta+D", platform="mac")
    assert 'copy-down = { press = "Mod+D", mac = "Meta+D" }' in changed.text


def test_taking_keys_away_keeps_the_reason() -> None:
    changed = apply(TEXT, [TakeAway("app.quit", 'it is "too near"')])
    assert 'quit = { press = false, why = "it is \\"too near\\"" }' in changed.text


def test_line_ends_stay() -> None:
    changed = apply(TEXT.replace("\n", "\r\n"), [Bind("app.help", parse("F1"))])
    assert changed.text.count("\n") == changed.text.count("\r\n")


WORKSPACE = '# Ours.\nformat = 1\nkeymap = "k.keys.toml"\n\n[editor.pier]\ndialect = "nano"\n'


def test_a_layer_is_added_above_the_editors() -> None:
    text = apply(WORKSPACE, [AddLayer("desk.keys.toml")]).text
    assert text.index("layers") < text.index("[editor.pier]")
    assert 'layers = ["desk.keys.toml", "more.keys.toml"]' in apply(text, [AddLayer("more.keys.toml")]).text


def test_keys_of_one_platform_leave_a_list_of_keys_to_the_others() -> None:
    changed = bind("line.move-up", "Meta+U", platform="mac")
    assert 'move-up = { press = ["Alt+U", "F5"], mac = "Meta+U" }' in changed.text
    rows = TEXT.replace('["Alt+U", "F5"]', '[{ press = "F5", where = "readonly" }]')
    changed = apply(rows, [Bind("line.move-up", parse("Meta+U"), platform="mac")])
    assert 'move-up = [{ press = "F5", where = "readonly" }, { mac = "Meta+U" }]' in changed.text


@pytest.mark.parametrize(
    ("change", "before", "after"),
    [
        (Move("line.copy-down", parse("Mod+D"), "always", parse("F9")), 'copy-down = "Mod+D" ', 'copy-down = "F9" '),
        (Move("line.move-up", parse("F5"), "always", parse("F9")), '"F5"]', '"F9"]'),
        (Narrow("files.save", parse("Mod+S"), "always", "modified"), 'save = "Mod+S"',
         'save = { press = "Mod+S", where = "modified" }'),
        (Remove("line.move-up", parse("F5")), '["Alt+U", "F5"]', '"Alt+U"'),
        (Remove("files.save", parse("Ctrl+X")), "", ""),
        (BindCommand("micro", "command:pwd", parse("Alt+P")), "", '[only.micro]\n"command:pwd" = "Alt+P"\n'),
        (Unbind(parse("F3"), "readonly", "by mistake"), "", '[unbind]\nF3 = { where = "readonly", why = "by mistake" }\n'),
        (Accept("clash", "we know", parse("F8")), "", '[[accept]]\nrule = "clash"\npress = "F8"\nwhy = "we know"\n'),
    ],
)  # fmt: skip
def test_a_change_is_one_edit(change: Change, before: str, after: str) -> None:
    if not after:
        with pytest.raises(InputError, match="no binding"):
            apply(TEXT, [change])
        return
    text = apply(TEXT, [change]).text
    assert text == TEXT.replace(before, after) if before else text.startswith(TEXT) and text.endswith(after)
    assert in_words(change)


def test_what_was_added_can_be_taken_out_again() -> None:
    added: list[Change] = [
        Unbind(parse("F3")),
        Accept("clash", "so"),
        TakeAway("app.quit"),
        Bind("app.help", parse("F1")),
    ]
    taken: list[Change] = [
        RemoveUnbind(parse("F3")), RemoveAccept("clash"), RemoveTakeAway("app.quit"), Remove("app.help", parse("F1")),
    ]  # fmt: skip
    both = apply(apply(TEXT, added).text, taken)
    assert both.text.startswith(TEXT)
    assert "F3" not in both.text
    assert "quit" not in both.text
    assert [edit.after for edit in both.edits] == [""] * 4


def test_an_editor_and_what_its_command_means_are_added_to_a_workspace() -> None:
    text = apply(
        WORKSPACE, [AddEditor("desk", "micro", "~/b.json"), MapCommand("pier", "execute", "terminal.run")]
    ).text
    assert text.startswith(WORKSPACE)
    assert '[editor.desk]\ndialect = "micro"\nfile = "~/b.json"\n' in text
    assert 'execute = "terminal.run"' in text


def test_keys_added_to_those_of_lower_layers_say_so() -> None:
    assert 'help = { also = "F1" }' in bind("app.help", "F1", adds=True).text
