"""Folding: three platforms' keys as one definition; writing the definition out again gives the same keys."""

import random

import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from ombix.core.errors import Place
from ombix.core.keymap.bindings import Binding, Keymap, Layer, LayerName, Removal
from ombix.core.keymap.folding import Definition, fold, fold_layers
from ombix.core.keymap.outcomes import Do, Macro, Play, Type
from ombix.core.keys.notation import CTRL, META, MOD, Chord, parse, write
from ombix.files import keymap_reading, keymap_writing
from tests.helpers import shipped

PLACE, K = Place("k"), LayerName("k", "k")
PLATFORMS = [shipped.platform(name) for name in ("linux", "mac", "windows")]
NAMES = [platform.name for platform in PLATFORMS]


def keys(**by_platform: str) -> dict[str, list[tuple[Chord, ...]]]:
    return {name: [parse(text) for text in texts.split(", ") if text] for name, texts in by_platform.items()}


@pytest.mark.parametrize(
    ("given_keys", "press", "exceptions"),
    [
        (keys(linux="Ctrl+S", mac="Meta+S", windows="Ctrl+S"), "Mod+S", {}),
        (keys(linux="Ctrl+S", mac="Ctrl+S", windows="Ctrl+S"), "Ctrl+S", {}),
        (keys(linux="F4", mac="Ctrl+Enter", windows="F4"), "F4", {"mac": "Ctrl+Enter"}),
        (keys(linux="Alt+W", mac="Meta+W", windows="Ctrl+W"), "Mod+W", {"linux": "Alt+W"}),
        (keys(linux="Ctrl+B", mac="Alt+B", windows="Ctrl+B"), "Mod+B", {"mac": "Alt+B"}),
        (keys(linux="Ctrl+B", mac="", windows="Ctrl+B"), "Mod+B", {"mac": ""}),
        (keys(linux="Alt+W"), "Alt+W", {"mac": "", "windows": ""}),
        (keys(linux="Ctrl+K Ctrl+S", mac="Meta+K Meta+S", windows="Ctrl+K Ctrl+S"), "Mod+K Mod+S", {}),
        (keys(linux="Ctrl+K Alt+S", mac="Meta+K Alt+S", windows="Ctrl+K Alt+S"), "Mod+K Alt+S", {}),
        (keys(linux="Ctrl+S, F2", mac="Meta+S, F2", windows="Ctrl+S, F2"), "Mod+S, F2", {}),
    ],
)  # fmt: skip
def test_definitions(given_keys: dict, press: str, exceptions: dict[str, str]) -> None:
    found = fold(given_keys, PLATFORMS)
    assert ", ".join(map(write, found.press)) == press
    assert {name: ", ".join(map(write, texts)) for name, texts in found.exceptions.items()} == exceptions


_chords = st.builds(Chord, st.sampled_from([0, CTRL, META, CTRL | META, 8, 32 | CTRL]), st.sampled_from("abc"))
_concrete = st.lists(st.lists(_chords, min_size=1, max_size=2).map(tuple), max_size=3, unique=True)


@given(st.fixed_dictionaries(dict.fromkeys(NAMES, _concrete)))
def test_writing_out_what_was_folded_gives_the_same_keys(by_platform: dict) -> None:
    found = fold(by_platform, PLATFORMS)
    for platform in PLATFORMS:
        assert set(found.on(platform)) == set(by_platform[platform.name])


_portable = st.lists(
    st.lists(st.builds(Chord, st.sampled_from([0, MOD, 8, MOD | 32]), st.sampled_from("abc")), min_size=1, max_size=2)
    .map(tuple), min_size=1, max_size=3, unique=True,
)  # fmt: skip


@given(_portable, st.sampled_from(["", *NAMES]), _concrete)
def test_folding_what_was_written_out_is_the_identity(press: list, platform_name: str, other: list) -> None:
    exceptions = {platform_name: tuple(other)} if platform_name else {}
    definition = Definition(tuple(press), exceptions)
    # An exception that is none, or that the other platforms' keys would be one to, is not how anybody writes it.
    for platform in PLATFORMS:
        if platform.name == platform_name:
            assume({platform.resolve(trigger) for trigger in press} != set(other))
    found = fold({platform.name: definition.on(platform) for platform in PLATFORMS}, PLATFORMS)
    if found.exceptions.keys() == exceptions.keys():
        assert found == definition
    else:  # another platform is the exception to the same keys, or none is
        assert len(found.exceptions) <= len(exceptions)
        assert all(set(found.on(platform)) == set(definition.on(platform)) for platform in PLATFORMS)


def test_two_hundred_bindings_with_five_exceptions() -> None:
    chance = random.Random(4)
    actions = [f"{name}({copy})" for name in shipped.catalogue().actions for copy in "ab"][:200]
    assert len(actions) == 200
    layers = {name: Layer(LayerName(name, name)) for name in NAMES}
    special = set(chance.sample(range(200), 5))
    for number, action in enumerate(actions):
        letter, second = "abcdefghijklmnopqrstuvwxyz"[number % 26], "abcdefgh"[number // 26]
        for platform in PLATFORMS:
            main = "Meta" if platform.name == "mac" else "Ctrl"
            text = f"{main}+K {letter} {second}"
            if number in special and platform.name == ("mac" if number % 2 else "windows"):
                text = f"Alt+{letter.upper()} {second}"
            layers[platform.name].bindings.append(Binding(parse(text), Do(action), PLACE, K))
    folded = fold_layers(layers, PLATFORMS, "crew")
    assert len({binding.outcome for binding in folded.bindings}) == 200
    limited = [binding for binding in folded.bindings if len(binding.platforms) == 1]
    assert len(limited) == 5
    assert sum(1 for binding in folded.bindings if not binding.platforms) == 195
    for platform in PLATFORMS:
        back = {(one.outcome, one.trigger) for one in Keymap([folded]).in_force(platform).bindings}
        assert back == {(one.outcome, one.trigger) for one in layers[platform.name].bindings}


def test_what_contradicts_is_not_folded() -> None:
    one, other = Layer(K, removals=[Removal("app.quit", PLACE)]), Layer(K)
    with pytest.raises(ValueError, match="quit is taken away on some platforms only"):
        fold_layers({"linux": one, "mac": other}, PLATFORMS[:2], "k")
    one, other = (Layer(K, macros={"wrap": Macro("wrap", "Wrap", (Type(text),), PLACE)}) for text in ("left", "right"))
    with pytest.raises(ValueError, match="the macro wrap"):
        fold_layers({"linux": one, "mac": other}, PLATFORMS[:2], "k")


def test_a_folded_layer_is_written_as_one_entry_for_each_definition_and_read_back() -> None:
    def layer(**by_action: str) -> Layer:
        rows = [
            Binding(trigger, Do(action.replace("_", ".", 1).replace("_", "-")), PLACE, K)
            for action, texts in by_action.items()
            for trigger in keys(x=texts)["x"]
        ]
        return Layer(K, bindings=rows, macros={"wrap": Macro("wrap", "Wrap", (Type("("),), PLACE)})

    desk = layer(files_save="Ctrl+S, F2", files_rename="F4", view_soft_wrap="Alt+W", line_delete="Ctrl+K")
    mac = layer(files_save="Meta+S, F2", files_rename="Ctrl+Enter, F6", line_delete="Meta+K")
    windows = layer(files_save="Ctrl+S, F2", files_rename="F4", line_delete="Ctrl+Shift+K")
    for one, text in ((desk, "Alt+C"), (mac, "Ctrl+C"), (windows, "Alt+C")):
        one.bindings.append(Binding(parse(text), Play("wrap"), PLACE, K))
    folded = fold_layers({"linux": desk, "mac": mac, "windows": windows}, PLATFORMS, "k")
    text = keymap_writing.dump(folded)
    for line in (
        'save = ["Mod+S", "F2"]', 'rename = { press = "F4", mac = ["Ctrl+Enter", "F6"] }',
        'soft-wrap = { linux = "Alt+W" }', 'delete = { press = "Mod+K", windows = "Ctrl+Shift+K" }',
        'press = "Alt+C"\nmac = "Ctrl+C"',
    ):  # fmt: skip
        assert line in text
    back = keymap_reading.read(text, "k.keys.toml", shipped.catalogue(), shipped.facts())
    for platform, source in zip(PLATFORMS, (desk, mac, windows), strict=True):
        found = {(one.outcome, one.trigger) for one in Keymap([back]).in_force(platform).bindings}
        assert found == {(one.outcome, one.trigger) for one in source.bindings}
