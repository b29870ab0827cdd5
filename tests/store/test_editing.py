"""Changes to a keymap file leave everything else as it was: comments, blanks, order, line ends."""

from pathlib import Path

from ombix.core.keys import parse
from ombix.store import editing

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


def test_replacing_one_entry_changes_one_line() -> None:
    changed = editing.bind(TEXT, "line.copy-down", parse("Mod+Shift+Y"))
    assert changed.text == TEXT.replace('"Mod+D"      #', '"Mod+Shift+Y"      #')
    assert changed.was == 'copy-down = "Mod+D"'


def test_a_new_entry_goes_into_its_table() -> None:
    changed = editing.bind(TEXT, "line.delete", parse("Mod+K"), where="pane is text")
    line = 'delete = { press = "Mod+K", where = "pane is text" }'
    assert changed.text == TEXT.replace('"F5"]\n', f'"F5"]\n{line}\n')


def test_a_new_table_goes_to_the_end() -> None:
    changed = editing.bind(TEXT, "app.help", parse("F1"))
    assert changed.text.startswith(TEXT)
    assert '[bind.app]\nhelp = "F1"\n' in changed.text


def test_one_more_trigger() -> None:
    changed = editing.bind(TEXT, "line.copy-down", parse("F6"), also=True)
    assert 'copy-down = ["Mod+D", "F6"]' in changed.text


def test_keys_of_one_platform() -> None:
    changed = editing.bind(TEXT, "line.copy-down", parse("Meta+D"), platform="mac")
    assert 'copy-down = { press = "Mod+D", mac = "Meta+D" }' in changed.text


def test_taking_keys_away_keeps_the_reason() -> None:
    changed = editing.remove(TEXT, "app.quit", 'it is "too near"')
    assert 'quit = { press = false, why = "it is \\"too near\\"" }' in changed.text


def test_line_ends_stay() -> None:
    changed = editing.bind(TEXT.replace("\n", "\r\n"), "app.help", parse("F1"))
    assert changed.text.count("\n") == changed.text.count("\r\n")


def test_a_layer_is_added_above_the_editors(tmp_path: Path) -> None:
    file = tmp_path / "ombix.toml"
    file.write_text('# Ours.\nformat = 1\nkeymap = "k.keys.toml"\n\n[editor.pier]\ndialect = "nano"\n', "utf-8")
    text = editing.add_layer(file, "desk.keys.toml")
    assert text.index("layers") < text.index("[editor.pier]")
    file.write_text(text, "utf-8")
    assert 'layers = ["desk.keys.toml", "more.keys.toml"]' in editing.add_layer(file, "more.keys.toml")


def test_keys_of_one_platform_leave_a_list_of_keys_to_the_others() -> None:
    changed = editing.bind(TEXT, "line.move-up", parse("Meta+U"), platform="mac")
    assert 'move-up = { press = ["Alt+U", "F5"], mac = "Meta+U" }' in changed.text
    rows = TEXT.replace('["Alt+U", "F5"]', '[{ press = "F5", where = "readonly" }]')
    changed = editing.bind(rows, "line.move-up", parse("Meta+U"), platform="mac")
    assert 'move-up = [{ press = "F5", where = "readonly" }, { mac = "Meta+U" }]' in changed.text
