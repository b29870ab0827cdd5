"""Every shipped layout, key and level against libxkbcommon, which compiles the same XKB data with its own code."""

import ctypes
import ctypes.util
import importlib.util
from functools import lru_cache
from typing import Any

import pytest

from ombix.core.pressing.layouts import LEVELS, Stroke
from ombix.files.xkb import PLACE_OF_KEY
from tests.helpers import ROOT, shipped


class _Names(ctypes.Structure):
    _fields_ = [(name, ctypes.c_char_p) for name in ("rules", "model", "layout", "variant", "options")]


@lru_cache(maxsize=1)
def library() -> Any:
    found = ctypes.util.find_library("xkbcommon")
    assert found, "libxkbcommon is missing: run make editors"
    lib = ctypes.CDLL(found)
    for name, result, arguments in (
        ("xkb_context_new", ctypes.c_void_p, [ctypes.c_int]),
        ("xkb_keymap_new_from_names", ctypes.c_void_p, [ctypes.c_void_p, ctypes.POINTER(_Names), ctypes.c_int]),
        ("xkb_keymap_key_by_name", ctypes.c_uint32, [ctypes.c_void_p, ctypes.c_char_p]),
        ("xkb_keymap_num_levels_for_key", ctypes.c_uint32, [ctypes.c_void_p, ctypes.c_uint32, ctypes.c_uint32]),
        ("xkb_keymap_key_get_syms_by_level", ctypes.c_int,
         [ctypes.c_void_p, ctypes.c_uint32, ctypes.c_uint32, ctypes.c_uint32, ctypes.POINTER(ctypes.POINTER(ctypes.c_uint32))]),
        ("xkb_keysym_to_utf32", ctypes.c_uint32, [ctypes.c_uint32]),
        ("xkb_keysym_get_name", ctypes.c_int, [ctypes.c_uint32, ctypes.c_char_p, ctypes.c_size_t]),
    ):  # fmt: skip
        function = getattr(lib, name)
        function.restype, function.argtypes = result, arguments
    return lib


def sources() -> dict[str, tuple[str, str]]:
    """Name to XKB layout and variant, as the script that makes the data has them."""
    spec = importlib.util.spec_from_file_location("make_layouts", ROOT / "tools" / "make_layouts.py")
    assert spec is not None
    assert spec.loader is not None
    module = importlib.util.module_from_spec(spec)
    spec.loader.exec_module(module)
    return {name: (xkb, variant) for name, xkb, variant, _shape in module.LAYOUTS}


def theirs(name: str) -> dict[str, list[str]]:
    """Place to its levels, by libxkbcommon: a character, a keysym's name, or an empty text."""
    lib = library()
    xkb, variant = sources()[name]
    names = _Names(b"evdev", b"pc105", xkb.encode(), variant.encode(), b"")
    keymap = lib.xkb_keymap_new_from_names(lib.xkb_context_new(0), ctypes.byref(names), 0)
    assert keymap
    found = {}
    for key, place in PLACE_OF_KEY.items():
        code = lib.xkb_keymap_key_by_name(keymap, key.encode())
        levels = []
        for level in range(lib.xkb_keymap_num_levels_for_key(keymap, code, 0) if code != 0xFFFFFFFF else 0):
            symbols = ctypes.POINTER(ctypes.c_uint32)()
            count = lib.xkb_keymap_key_get_syms_by_level(keymap, code, 0, level, ctypes.byref(symbols))
            levels.append(symbol_text(symbols[0]) if count else "")
        if any(levels):
            found.setdefault(place, levels)
    return found


def symbol_text(symbol: int) -> str:
    point = library().xkb_keysym_to_utf32(symbol)
    if point >= 0x20 and point != 0x7F:
        return chr(point)
    name = ctypes.create_string_buffer(64)
    library().xkb_keysym_get_name(symbol, name, 64)
    return name.value.decode().replace("VoidSymbol", "")


def without_empty_end(levels: list[str]) -> list[str]:
    while levels and not levels[-1]:
        levels = levels[:-1]
    return levels


def test_there_are_at_least_24_layouts() -> None:
    assert len(shipped.layout_names()) >= 24
    assert sorted(sources()) == shipped.layout_names()


@pytest.mark.parametrize("name", shipped.layout_names())
def test_every_key_and_level_is_what_libxkbcommon_says(name: str) -> None:
    mine = {place: without_empty_end(list(levels)) for place, levels in shipped.layout(name).keys.items()}
    assert mine == {place: without_empty_end(levels) for place, levels in theirs(name).items()}


@pytest.mark.parametrize("name", ["de", "us", "gr", "jp"])
def test_a_stroke_gives_the_symbol_of_its_level(name: str) -> None:
    here, levels_of = shipped.layout(name), theirs(name)
    for place, levels in levels_of.items():
        for level, symbol in enumerate(levels[: 4 if here.has_altgr else 2]):
            assert here.symbol(Stroke(place, LEVELS[level])) == symbol, (place, level)
