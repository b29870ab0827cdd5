"""Keys of which a part stands by itself in a file: they are read as whole keys, and written in their parts again."""

import re
from copy import deepcopy

import msgspec
import pytest

from ombix.core.errors import NotationError, Place
from ombix.core.keys.notation import parse
from ombix.editors.description import Description, KeySyntax
from ombix.editors.file_description import FileForm
from ombix.editors.file_forms import form_of_files
from ombix.editors.formats import Statement
from ombix.editors.key_spelling import Spelling
from ombix.editors.split_modifiers import put_together, taken_apart
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
    ("lines", ["{ {modifiers}, KEY_{key}, {command} },"], {"modifiers-between": " | ", "no-modifiers": "0"},
     "{ ctrl | shift, KEY_s, a },\n{ 0, KEY_F3, c },\n", ["ctrl+shift+s a", "F3 c"]),
    ("json", ['[{"key": "{key}", "ctrl": "{ctrl}", "does": "{command}"}]'], {"held-words": ["true", ""]},
     '[{"key": "s", "ctrl": true, "does": "a"}, {"key": "F3", "does": "c"}]', ["ctrl+s a", "F3 c"]),
    ("json", ['[{"does": "{command}", "keys": {"linux": "{key}", "mac": "{else}", "win": "{else}"}}]'], {},
     '[{"does": "a", "keys": {"linux": "ctrl+s", "mac": "cmd+s", "win": "f2"}}, {"does": "c", "keys": {"linux": "F3"}}]',
     ["ctrl+s a", "F3 c"]),
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
    assert "ctrl+s" not in written or {"first", "else"} & set(re.findall(r"\w+", str(patterns))) or form == "ini"


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


CONDITIONS_AROUND = [
    ("json", '[{"context": "{where}", "bindings": {"{key}": "{command}"}}]'),
    ("xml", '<all><keys when="{where}"><key on="{key}" does="{command}"/></keys></all>'),
    ("yaml", '- context: "{where}"\n  keys:\n    "{key}": "{command}"'),
    ("toml", '[[group]]\nwhere = "{where}"\n[group.keys]\n"{key}" = "{command}"'),
]


@pytest.mark.parametrize(("form", "pattern"), CONDITIONS_AROUND)
@pytest.mark.parametrize(
    ("said", "groups"),
    [
        ([("a", "one", ""), ("b", "two", "x"), ("c", "three", "y"), ("d", "four", ""), ("e", "five", "x")], 3),
        ([("z", "zero", ""), ("a", "one", "x"), ("a", "two", ""), ("b", "three", "x"), ("a", "four", "x")], 4),
        ([("a", "one", "x"), ("b", "two", "")], 2),
    ],
)
def test_a_condition_around_keys_is_that_of_its_own_keys_in_their_order(
    form: str, pattern: str, said: list[tuple[str, str, str]], groups: int
) -> None:
    """Of the same key the last statement decides, so that a group may only get more keys where no later one has them."""
    description, syntax = described(form, [pattern]), form_of_files(form)
    text = syntax.write(
        [Statement(Place("f"), "", "bind", key, does, where=where) for key, does, where in said], description
    )
    back = [(one.key, one.command, one.where) for one in syntax.read(text, "f", description)]
    assert sorted(back) == sorted(said)
    for key in {one[0] for one in said}:
        assert [one for one in back if one[0] == key] == [one for one in said if one[0] == key]
    parts = {"json": '"bindings"', "xml": "<keys", "yaml": "keys:", "toml": "[[group]]"}
    assert text.count(parts[form]) == groups


@pytest.mark.parametrize(
    ("written", "keys"),
    [("^X^C", "Ctrl+X Ctrl+C"), ("^Xk", "Ctrl+X k"), ("^S", "Ctrl+S"), ("M-u", "Alt+U"), ("^XM-u", "Ctrl+X Alt+U")],
)
def test_chords_stand_side_by_side(written: str, keys: str) -> None:
    spelling = Spelling(
        msgspec.convert(
            {
                "longest": 2, "sequence": "{chord}", "joiner": "", "modifiers": {"Ctrl": "^", "Alt": "M-"},
                "forms": [
                    {"chord": "{letter}", "written": "{LETTER}", "held": ["Ctrl"], "at-least": 1},
                    {"chord": "{letter}", "written": "{letter}", "held": ["Alt"]},
                ],
            },
            KeySyntax,
        )
    )  # fmt: skip
    assert spelling.read(written) == parse(keys)
    assert spelling.write(parse(keys)) == written
    with pytest.raises(NotationError):
        spelling.read(f"{written}?")
