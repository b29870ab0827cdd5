"""Layouts from a user's own files: X11 symbols files and CLDR keyboards, written by hand from their specifications."""

from pathlib import Path

import pytest

from ombix.core.errors import InputError
from ombix.core.pressing.layouts import Layout
from ombix.files.disk import Files
from ombix.files.layout_files import find_layout, layout_file
from tests.helpers import shipped

PIER_XKB = """\
// The keyboard at the pier: German, with the slash and the semicolon in reach.
partial alphanumeric_keys
xkb_symbols "plain" { include "us(basic)" };

default partial alphanumeric_keys
xkb_symbols "pier" {
    include "de(nodeadkeys)"
    name[Group1] = "German, for the pier";
    key <AC10> { [ semicolon, colon, odiaeresis, Odiaeresis ] };
    key <AE07> { type = "FOUR_LEVEL", symbols[Group1] = [ slash, 7, U2693, NoSymbol ] };
    replace key <AB10> { [ question ] };
    augment key <AE01> { [ a, b, c, d, e ] };
    key <FK01> { [ F1 ], actions[Group1] = [ SwitchScreen(screen=1) ] };
};
"""

PIER_CLDR = """\
<?xml version="1.0" encoding="UTF-8"?>
<!DOCTYPE keyboard3 SYSTEM "keyboard3.dtd">
<keyboard3 xmlns="https://schemas.unicode.org/cldr/45/keyboard3" conformsTo="45" locale="de-t-k0-pier">
  <version number="1.0.0"/>
  <info name="Ferry German" author="the crew"/>
  <variables>
    <string id="anchor" value="\\u{2693}"/>
  </variables>
  <keys>
    <key id="sharp" output="ß"/>
    <key id="euro" output="\\u{20AC}"/>
    <key id="anchor" output="${anchor}"/>
    <key id="strike" output="\\m{strike}"/>
    <key id="grave-dead" output="\\m{grave}"/>
  </keys>
  <layers formId="iso">
    <layer id="base" modifiers="none">
      <row keys="caret 1 2 3 4 5 6 7 8 9 0 sharp strike"/>
      <row keys="q w e r t z u i o p open-square plus"/>
      <row keys="a s d f g h j k l semi-colon apos hash"/>
      <row keys="open-angle y x c v b n m comma period hyphen"/>
      <row keys="space"/>
    </layer>
    <layer id="shift" modifiers="shift">
      <row keys="gap bang double-quote hash dollar percent amp slash open-paren close-paren equal question grave-dead"/>
      <row keys="Q W E R T Z U I O P close-square asterisk"/>
      <row keys="A S D F G H J K L colon double-quote apos"/>
      <row keys="close-angle Y X C V B N M semi-colon colon underscore"/>
      <row keys="space"/>
    </layer>
    <layer id="third" modifiers="altR, ctrl alt">
      <row keys="gap gap gap gap gap gap gap open-curly gap gap close-curly backslash gap"/>
      <row keys="at gap euro"/>
      <row keys="anchor"/>
    </layer>
    <layer id="locked" modifiers="caps"><row keys="1"/></layer>
  </layers>
  <layers formId="touch" minDeviceWidth="100"><layer id="base"><row keys="q"/></layer></layers>
  <transforms type="simple">
    <transformGroup><transform from="\\m{strike}e" to="é"/></transformGroup>
  </transforms>
</keyboard3>
"""

OLD_CLDR = """\
<keyboard locale="fr-t-k0-pier">
  <names><name value="Pier French"/></names>
  <keyMap>
    <map iso="D01" to="a"/><map iso="E02" to="é"/><map iso="B00" to="&lt;"/><map iso="A03" to=" "/>
  </keyMap>
  <keyMap modifiers="shift caps"><map iso="D01" to="X"/></keyMap>
  <keyMap modifiers="shift"><map iso="D01" to="A"/><map iso="E02" to="2"/></keyMap>
  <keyMap modifiers="altR+caps? ctrlL+altL"><map iso="E02" to="\\u{7E}"/></keyMap>
</keyboard>
"""


def read_layout(file: Path, section: str = "") -> Layout:
    return layout_file(file, Files(), shipped, section)


def by_name(name: str, folder: Path, platform: str = "linux") -> Layout:
    return find_layout(name, folder, shipped.platform(platform), Files(), shipped)


def test_a_symbols_file_with_a_users_changes(tmp_path: Path) -> None:
    file = tmp_path / "pier"
    file.write_text(PIER_XKB)
    found, base = read_layout(file), shipped.layout("de-nodeadkeys")
    assert found.title == "German, for the pier"
    assert found.has_altgr
    assert found.keys["Semicolon"] == (";", ":", "ö", "Ö")
    assert found.keys["Digit7"][:3] == ("/", "7", "⚓")
    assert found.keys["Slash"] == ("?",)
    assert found.keys["Digit1"] == (*base.keys["Digit1"][:4], "e")  # augment fills only what was empty
    changed = {"Semicolon", "Digit7", "Slash", "Digit1"}
    assert {place: keys for place, keys in found.keys.items() if place not in changed} == {
        place: keys for place, keys in base.keys.items() if place not in changed
    }
    assert read_layout(file, "plain").keys["KeyY"] == ("y", "Y")


def test_a_symbols_file_may_include_one_beside_it(tmp_path: Path) -> None:
    (tmp_path / "base").write_text('xkb_symbols "a" { key <AD01> { [ x, X ] }; key <AD02> { [ y, Y ] }; };')
    (tmp_path / "mine.xkb").write_text('xkb_symbols "m" { include "base(a)+base(a):2" key <AD01> { [ z ] }; };')
    keys = read_layout(tmp_path / "mine.xkb").keys
    assert keys["KeyQ"] == ("z", "X")
    assert keys["KeyW"] == ("y", "Y")


def test_a_cldr_keyboard(tmp_path: Path) -> None:
    file = tmp_path / "pier.xml"
    file.write_text(PIER_CLDR, "utf-8")
    found = read_layout(file)
    assert (found.title, found.shape, found.has_altgr) == ("Ferry German", "iso", True)
    assert found.keys["KeyY"] == ("z", "Z")
    assert found.keys["Digit7"] == ("7", "/", "{")
    assert found.keys["Minus"] == ("ß", "?", "\\")
    assert found.keys["KeyE"] == ("e", "E", "€")
    assert found.keys["KeyA"] == ("a", "A", "⚓")
    assert found.keys["IntlBackslash"] == ("<", ">")
    assert found.keys["Backslash"] == ("#", "'")
    assert found.keys["Equal"] == ("dead_acute", "dead_grave", "")  # the first by its transform, the second by its name
    assert found.keys["Backquote"] == ("^", "", "")


def test_a_cldr_keyboard_of_the_older_form(tmp_path: Path) -> None:
    file = tmp_path / "pier.xml"
    file.write_text(OLD_CLDR, "utf-8")
    found = read_layout(file)
    assert (found.title, found.shape, found.has_altgr) == ("Pier French", "iso", True)
    assert found.keys == {"KeyQ": ("a", "A"), "Digit2": ("é", "2", "~"), "IntlBackslash": ("<",), "Space": (" ",)}


_BOMB = '<!DOCTYPE x [<!ENTITY a "aaaa"><!ENTITY b "&a;&a;&a;">]><keyboard3>&b;</keyboard3>'


@pytest.mark.parametrize(
    ("name", "text", "what"),
    [
        ("a.xml", "<keyboard3", "not XML"),
        ("a.xml", "<timetable/>", "not a CLDR keyboard"),
        ("a.xml", "<keyboard3/>", "no layer"),
        ("a.xml", _BOMB, "entities"),
        ("a.xml", '<keyboard3><layers formId="us"><layer modifiers="none"><row keys="pier"/></layer></layers></keyboard3>',
         "the key pier is not defined"),
        ("a.xml", f'<keyboard3><layers formId="us"><layer><row keys="{"a " * 20}"/></layer></layers></keyboard3>',
         "has 20 keys"),
        ("a.xkb", "", "empty"),
        ("a.xkb", "hello", "no section xkb_symbols"),
        ("a.xkb", 'xkb_symbols "a" { key <AD01> { [ x', "ends in the middle"),
        ("a.xkb", 'xkb_symbols "a" { include "nowhere" };', "no symbols file nowhere"),
        ("a.xkb", 'xkb_symbols "a" { include "a.xkb(a)" };', "circle"),
        ("a.xkb", 'xkb_symbols "a" { include "../a(b)" };', "no symbols file"),
        ("a.xkb", 'xkb_symbols "a" { key <AD01> { [ § ] }; };', "unexpected character"),
        ("a.xkb", 'xkb_symbols "a" { key <AD01> [ x ]; };', "expected {"),
    ],
)  # fmt: skip
def test_a_wrong_file_says_what_is_wrong(tmp_path: Path, name: str, text: str, what: str) -> None:
    file = tmp_path / name
    file.write_text(text, "utf-8")
    with pytest.raises(InputError) as raised:
        read_layout(file)
    assert what in raised.value.what
    assert raised.value.place is not None
    assert raised.value.place.file == str(file)


def test_a_layout_by_name_by_variant_and_by_file(tmp_path: Path) -> None:
    assert by_name("de", tmp_path).name == "de"
    assert by_name("de", tmp_path, "mac").name == "de-mac"
    assert by_name("cz", tmp_path, "mac").name == "cz"
    (tmp_path / "pier.xml").write_text(OLD_CLDR, "utf-8")
    assert by_name("pier.xml", tmp_path).title == "Pier French"
    with pytest.raises(InputError, match="unknown layout: dee"):
        by_name("dee", tmp_path)
