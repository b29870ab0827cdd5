"""Keys of which a part stands by itself in a file: they are read as whole keys, and written in their parts again."""

from copy import deepcopy

import msgspec
import pytest

from ombix.core.errors import Place
from ombix.dialects.description import Description, KeySyntax
from ombix.dialects.file_description import FileForm
from ombix.dialects.formats import Statement
from ombix.dialects.forms import form_of_files
from ombix.dialects.keys_apart import put_together, taken_apart
from tests.helpers import dialect

KEYS = {"modifiers": {"Ctrl": "ctrl", "Shift": "shift", "Alt": "alt"}, "joiner": "+", "longest": 2, "between": " "}


def described(form: str, patterns: list[str], **keys: object) -> Description:
    found = deepcopy(dialect("micro").description)
    found.file.format, found.file.preamble = form, []
    found.file.forms = [msgspec.convert({"pattern": one, "means": "bind"}, FileForm) for one in patterns]
    found.keys = msgspec.convert(KEYS | keys, KeySyntax)
    return found


CASES = [
    ("json", ['[{"code": "{key}", "mods": ["{modifiers}"], "does": "{command}"}]'], {"modifiers-between": "\n"},
     '[{"code": "s", "mods": ["ctrl"], "does": "a"}, {"code": "z", "mods": ["ctrl", "shift"], "does": "b"},'
     ' {"code": "F3", "mods": [], "does": "c"}, {"code": "up", "does": "d"}]',
     ["ctrl+s a", "ctrl+shift+z b", "F3 c", "up d"]),
    ("json", ['[{"key": {"code": "{key}", "mods": ["{modifiers}"]}, "does": "{command}"}]'], {"modifiers-between": "\n"},
     '[{"key": {"code": "s", "mods": ["ctrl"]}, "does": "a"}, {"key": {"code": "F3"}, "does": "c"}]', ["ctrl+s a", "F3 c"]),
    ("xml", ['<keys><bind key="{key}" mods="{modifiers}" does="{command}"/></keys>'], {"modifiers-between": "|"},
     '<keys><bind key="s" mods="ctrl|shift" does="a"/><bind key="F3" mods="" does="c"/></keys>', ["ctrl+shift+s a", "F3 c"]),
    ("json", ['[{"key": "{key}", "ctrl": "{ctrl}", "shift": "{shift}", "alt": "{alt}", "does": "{command}"}]'], {},
     '[{"key": "s", "ctrl": true, "does": "a"}, {"key": "z", "ctrl": true, "shift": true, "alt": false, "does": "b"}]',
     ["ctrl+s a", "ctrl+shift+z b"]),
    ("json", ['[{"key": "{key}", "ctrl": "{ctrl}", "does": "{command}"}]'], {"held-words": ["yes", "no"]},
     '[{"key": "s", "ctrl": "yes", "does": "a"}, {"key": "F3", "ctrl": "no", "does": "c"}]', ["ctrl+s a", "F3 c"]),
    ("lines", ["{key},{ctrl},{shift},{command}"], {"held-words": ["1", "0"]}, "s,1,0,a\nF3,0,0,c\n", ["ctrl+s a", "F3 c"]),
    ("lines", ["{key},{modifiers},{command}"], {}, "s,ctrl shift,a\nF3,,c\n+,ctrl,d\n", ["ctrl+shift+s a", "F3 c", "ctrl++ d"]),
    ("lines", ["bind {modifiers} {key} {command}", "bind {key} {command}"], {"modifiers-between": "|"},
     "bind ctrl|shift s a\nbind F3 c\n", ["ctrl+shift+s a", "F3 c"]),
    ("json", ['{"{key}": "{command}"}', '{"{first}": {"{key}": "{command}"}}'], {},
     '{"ctrl+s": "a", "ctrl+k": {"ctrl+c": "b", "u": "c"}}', ["ctrl+s a", "ctrl+k ctrl+c b", "ctrl+k u c"]),
    ("toml", ['[keys]\n"{key}" = "{command}"', '[keys."{first}"]\n"{key}" = "{command}"'], {},
     '[keys]\n"ctrl+s" = "a"\n[keys."ctrl+k"]\nu = "c"\n', ["ctrl+s a", "ctrl+k u c"]),
    ("ini", ["[bind{number}]\nkey = {key}\ndoes = {command}"], {},
     "[bind1]\nkey = ctrl+s\ndoes = a\n[bind7]\nkey = F3\ndoes = c\n", ["ctrl+s a", "F3 c"]),
    ("ini", ["[keys]\n{number} = {key},{command}"], {}, "[keys]\n1 = ctrl+s,a\n2 = F3,c\n", ["ctrl+s a", "F3 c"]),
]  # fmt: skip


@pytest.mark.parametrize(("form", "patterns", "keys", "text", "said"), CASES)
def test_what_is_read_is_written_in_its_parts(
    form: str, patterns: list[str], keys: dict[str, object], text: str, said: list[str]
) -> None:
    description = described(form, patterns, **keys)
    syntax = form_of_files(form)

    def read(some: str) -> list[str]:
        found = list(syntax.read(some, "file", description))
        assert {one.kind for one in found} == {"bind"}
        return [f"{one.key} {one.command}" for one in found]

    assert read(text) == said
    written = syntax.write(syntax.read(text, "file", description), description)
    assert read(written) == said
    assert syntax.write(syntax.read(written, "file", description), description) == written
    assert "ctrl+s" not in written or "first" in "".join(patterns) or form == "ini"


def test_a_number_is_none_that_a_kept_group_has() -> None:
    description = described("ini", ["[bind{number}]\nkey = {key}\ndoes = {command}"])
    kept = Statement(Place("file"), "[bind1]\nsail = red\n", "keep")
    bound = [Statement(Place("file"), "", "bind", key, key) for key in ("a", "b")]
    for items in ([kept, *bound], [*bound, kept]):
        written = form_of_files("ini").write(items, description)
        assert written.count("[bind1]") == 1
        found = [one for one in form_of_files("ini").read(written, "file", description) if one.kind == "bind"]
        assert sorted(one.key for one in found) == ["a", "b"]


def test_parts_without_a_variable_stay_in_the_key() -> None:
    keys = msgspec.convert(KEYS, KeySyntax)
    assert taken_apart("ctrl+shift+s", {"key", "shift"}, keys) | {"key": ""} == taken_apart("", set(), keys)
    assert taken_apart("ctrl+shift+s", {"key", "ctrl"}, keys)["key"] == "shift+s"
    assert taken_apart("ctrl+k s", {"key"}, keys)["key"] == "ctrl+k s"
    assert taken_apart("ctrl++", {"modifiers"}, keys) | {"key": "+", "modifiers": "ctrl"} == taken_apart(
        "ctrl++", {"modifiers"}, keys
    )
    assert put_together({"key": "s", "ctrl": "yes", "shift": "off"}, keys) == "ctrl+s"
