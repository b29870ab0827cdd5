"""The notation of keys: what it means, both ways, and what is said of a wrong one."""

import string

import pytest
from hypothesis import given
from hypothesis import strategies as st

from ombix.core.errors import NotationError
from ombix.core.keys import notation
from ombix.core.keys.notation import ALT, CTRL, META, MOD, SHIFT, Chord, parse, write

_CHARACTERS = st.one_of(
    st.sampled_from(string.ascii_lowercase + string.digits + string.punctuation),
    st.characters(min_codepoint=0xA1, max_codepoint=0x24FF, categories=["Ll", "Lo", "Sm", "Sc", "Po"]),
).filter(lambda char: len(char.lower()) == 1 and char.lower() == char and char not in "⌃⌥⌘⇧⏎⇥⌫⌦⎋↑↓←→⇞⇟↖↘␣")
_KEYS = st.one_of(
    _CHARACTERS,
    st.sampled_from(notation.NAMED_KEYS),
    st.sampled_from(notation.MOUSE),
    st.sampled_from([f"[{place}]" for place in notation.PLACES]),
    st.sampled_from(["{n:1-5}", "F{n:1-12}", "{c:a-f}", "{slot:1,3,5}"]),
)
_MODIFIERS = st.sets(st.sampled_from(list(notation.MODIFIERS.values()))).map(sum)


@st.composite
def chords(draw: st.DrawFn) -> Chord:
    """Any chord in canonical form."""
    if draw(st.integers(0, 9)) == 0:  # a tap; of several modifiers, the last in writing order is the key
        held = sorted(
            draw(st.sets(st.sampled_from(list(notation.MODIFIERS)), min_size=1)), key=list(notation.MODIFIERS).index
        )
        return Chord(sum(notation.MODIFIERS[name] for name in held[:-1]), held[-1])
    return Chord(draw(_MODIFIERS), draw(_KEYS))


triggers = st.lists(chords(), min_size=1, max_size=4).map(tuple)


@given(triggers)
def test_what_is_written_is_read_as_the_same(trigger: notation.Trigger) -> None:
    assert parse(write(trigger)) == trigger


_PIECES = ["ctrl", "Control", "Mod", "alt", "Shift", "cmd", "K", "k", "?", "+", "F5", "esc", "[KeyK]", "{n:1-3}", "Up"]


@given(st.lists(st.lists(st.sampled_from(_PIECES), min_size=1, max_size=3).map("+".join), min_size=1, max_size=3))
def test_writing_what_was_read_is_a_fixed_point(parts: list[str]) -> None:
    try:
        written = write(parse(" ".join(parts)))
    except NotationError:
        return
    assert write(parse(written)) == written


@pytest.mark.parametrize(
    ("text", "trigger"),
    [
        ("Ctrl+Shift+K", (Chord(CTRL | SHIFT, "k"),)),
        ("Ctrl+k", (Chord(CTRL, "k"),)),
        ("K", (Chord(SHIFT, "k"),)),
        ("k", (Chord(0, "k"),)),
        ("É", (Chord(SHIFT, "é"),)),
        ("Mod+J Mod+L", (Chord(MOD, "j"), Chord(MOD, "l"))),
        ("Space o f", (Chord(0, "Space"), Chord(0, "o"), Chord(0, "f"))),
        ("Shift Shift", (Chord(0, "Shift"), Chord(0, "Shift"))),
        ("Ctrl+Shift", (Chord(CTRL, "Shift"),)),
        ("Ctrl++", (Chord(CTRL, "+"),)),
        ("+", (Chord(0, "+"),)),
        ("Ctrl+?", (Chord(CTRL, "?"),)),
        ("Ctrl+[Slash]", (Chord(CTRL, "[Slash]"),)),
        ("Ctrl+[", (Chord(CTRL, "["),)),
        ("Alt+{", (Chord(ALT, "{"),)),
        ("Ctrl+Click", (Chord(CTRL, "Click"),)),
        ("alt+wheelup", (Chord(ALT, "WheelUp"),)),
        ("Alt+{n:1-5}", (Chord(ALT, "{n:1-5}"),)),
        ("⇧⌘P", (Chord(SHIFT | META, "p"),)),
        ("Option+Esc", (Chord(ALT, "Escape"),)),
        ("ctrl+pgdn", (Chord(CTRL, "PageDown"),)),
    ],
)
def test_meaning(text: str, trigger: notation.Trigger) -> None:
    assert parse(text) == trigger


@pytest.mark.parametrize(
    ("text", "start", "end", "advice"),
    [
        ("Ctlr+K", 0, 4, "Ctrl"),
        ("Mod+K Alt+Entre", 10, 15, "Enter"),
        ("Ctrl+", 4, 5, "Add the key"),
        ("Ctrl+K+L", 5, 6, "Write the modifiers first"),
        ("[KeyKK]", 0, 7, "KeyK"),
        ("Ctrl+Ctrl+K", 5, 9, "double tap"),
        ("{n:5-1}", 0, 7, "{n:1-5}"),
        ("F{n:60-70}", 0, 10, "F6"),
        ("", 0, 1, "Write keys"),
        ("a \x07", 2, 3, "name"),
    ],
)
def test_a_wrong_notation_gets_the_place_and_the_nearest_right_one(
    text: str, start: int, end: int, advice: str
) -> None:
    with pytest.raises(NotationError) as caught:
        parse(text)
    assert (caught.value.start, caught.value.end) == (start, end)
    assert advice in caught.value.advice


def test_a_family_has_each_of_its_members_with_the_value_of_its_variable() -> None:
    members = [(write(trigger), values) for trigger, values in notation.expand(parse("Space k {n:1-3}"))]
    assert members == [("Space k 1", {"n": "1"}), ("Space k 2", {"n": "2"}), ("Space k 3", {"n": "3"})]
    assert [write(trigger) for trigger, _ in notation.expand(parse("Shift+F{n:1,4}"))] == ["Shift+F1", "Shift+F4"]


def test_a_variable_that_stands_twice_has_one_value() -> None:
    assert [write(trigger) for trigger, _ in notation.expand(parse("{n:1-2} {n:1-2}"))] == ["1 1", "2 2"]


def test_a_huge_family_is_refused() -> None:
    with pytest.raises(NotationError, match="1000"):
        parse("F{a:1-64} F{b:1-64}")


def test_mod_is_the_platforms_main_modifier() -> None:
    assert write(notation.resolve(parse("Mod+Shift+K"), META)) == "Meta+Shift+K"
    assert write(notation.resolve(parse("Mod Mod"), CTRL)) == "Ctrl Ctrl"


# W3C UI Events KeyboardEvent key Values has 15 sections for keyboards; one key of each.
@pytest.mark.parametrize(
    "name",
    [
        "CapsLock", "Enter", "ArrowUp", "Backspace", "ContextMenu", "PrintScreen", "Compose", "HangulMode",
        "ZenkakuHankaku", "F24", "Soft1", "MediaPlayPause", "Key11", "AudioVolumeUp", "SpeechInputToggle",
        "LaunchMail", "BrowserBack",
    ],
)  # fmt: skip
def test_every_section_of_the_standard_has_its_keys(name: str) -> None:
    assert parse(name.upper()) == (Chord(0, name),)


def test_a_very_long_text_is_refused_at_once() -> None:
    with pytest.raises(NotationError, match="longer than 500"):
        parse("a " * 1_000_000)
