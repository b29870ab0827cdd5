"""Reads keyboard layouts from Unicode CLDR keyboards (LDML keyboard XML): those of version 45 and later, and older ones.

Source: Unicode Technical Standard 35, part 7, Keyboards. Read are the layers of a hardware form and the keys on them, the
output with its escapes, variables, and markers as dead keys; transforms tell which mark a marker stands for.
"""

import re
import unicodedata
from typing import Any, NoReturn

from ombix.core.errors import InputError, Place, xml_advice
from ombix.core.keys.notation import ALTGR, SHIFT
from ombix.core.pressing.layouts import DEAD_MARKS, Layout

MAX_ELEMENTS = 100_000
"""Elements of one file; the largest keyboard of CLDR has about 2,000."""

_ROW_E = ("Backquote", *(f"Digit{digit}" for digit in (*range(1, 10), 0)), "Minus", "Equal")
_ROW_D = (*(f"Key{letter}" for letter in "QWERTYUIOP"), "BracketLeft", "BracketRight")
_ROW_C = (*(f"Key{letter}" for letter in "ASDFGHJKL"), "Semicolon", "Quote")
_ROW_B = (*(f"Key{letter}" for letter in "ZXCVBNM"), "Comma", "Period", "Slash")
# UTS 35 part 7, element form: the implied forms, by the places of their scan codes.
_FORMS: dict[str, tuple[str, tuple[tuple[str, ...], ...]]] = {
    "us": ("ansi", (_ROW_E, (*_ROW_D, "Backslash"), _ROW_C, _ROW_B, ("Space",))),
    "iso": ("iso", (_ROW_E, _ROW_D, (*_ROW_C, "Backslash"), ("IntlBackslash", *_ROW_B), ("Space",))),
    "abnt2": ("iso", (_ROW_E, _ROW_D, (*_ROW_C, "Backslash"), ("IntlBackslash", *_ROW_B, "IntlRo"), ("Space",))),
    "jis": ("jis", ((*_ROW_E[1:], "IntlYen"), _ROW_D, (*_ROW_C, "Backslash"), (*_ROW_B, "IntlRo"), ("Space",))),
    "ks": ("ansi", (_ROW_E, (*_ROW_D, "Backslash"), _ROW_C, _ROW_B, ("Space",))),
}
# ISO/IEC 9995-1 positions, which the older form names keys by.
_POSITIONS = {
    **{f"E{number:02}": place for number, place in enumerate(_ROW_E)}, "E13": "IntlYen",
    **{f"D{number:02}": place for number, place in enumerate(_ROW_D, 1)}, "D13": "Backslash",
    **{f"C{number:02}": place for number, place in enumerate(_ROW_C, 1)}, "C12": "Backslash",
    "B00": "IntlBackslash", **{f"B{number:02}": place for number, place in enumerate(_ROW_B, 1)}, "B11": "IntlRo",
    "A03": "Space",
}  # fmt: skip
# UTS 35 part 7, import: the keys of ASCII that every keyboard has (keys-Latn-implied.xml).
_IMPLIED = {
    **{char: char for char in "abcdefghijklmnopqrstuvwxyzABCDEFGHIJKLMNOPQRSTUVWXYZ0123456789"},
    "space": " ", "bang": "!", "double-quote": '"', "hash": "#", "dollar": "$", "percent": "%", "amp": "&", "apos": "'",
    "open-paren": "(", "close-paren": ")", "asterisk": "*", "plus": "+", "comma": ",", "hyphen": "-", "period": ".",
    "slash": "/", "colon": ":", "semi-colon": ";", "open-angle": "<", "equal": "=", "close-angle": ">", "question": "?",
    "at": "@", "open-square": "[", "backslash": "\\", "close-square": "]", "caret": "^", "underscore": "_", "grave": "`",
    "open-curly": "{", "pipe": "|", "close-curly": "}", "tilde": "~",
}  # fmt: skip
_ESCAPE = re.compile(r"\\u\{([0-9A-Fa-f ]+)\}|\\m\{([^{}]+)\}|\$\{([^{}]+)\}|\\(.)")
_LEVEL_OF = {0: 0, SHIFT: 1, ALTGR: 2, SHIFT | ALTGR: 3}


def read_keyboard(text: str, file: str) -> Layout:
    """The layout of a CLDR keyboard. Raises InputError."""
    root = _parse(text, file)
    name = _local(root)
    if name not in ("keyboard3", "keyboard"):
        _fail(
            file, f"this is not a CLDR keyboard: it begins with <{name}>", "It begins with <keyboard3> or <keyboard>."
        )
    if sum(1 for _ in root.iter()) > MAX_ELEMENTS:
        _fail(file, f"the file has more than {MAX_ELEMENTS} elements", "No keyboard needs that.")
    found = _Keyboard3(root, file).read() if name == "keyboard3" else _old_keyboard(root, file)
    if not found.keys:
        _fail(file, "there is no layer for a keyboard of keys in this file", 'Write <layers formId="us">.')
    return found


def _parse(text: str, file: str) -> Any:
    from xml.etree.ElementTree import ParseError

    from defusedxml import DefusedXmlException
    from defusedxml.ElementTree import fromstring

    try:
        return fromstring(text.encode("utf-8"), forbid_dtd=False)
    except ParseError as error:
        line, column = error.position
        lines = text.split("\n")
        excerpt = lines[line - 1] if 0 < line <= len(lines) else None
        what = re.sub(r": line \d+, column \d+$", "", str(error))
        raise InputError(f"this is not XML: {what}", xml_advice(what), Place(file, line, column + 1), excerpt) from None
    except LookupError as error:
        raise InputError(f"this is not XML: {error}", xml_advice("encoding"), Place(file, 1, 1)) from None
    except (DefusedXmlException, ValueError) as error:
        reason = type(error).__name__
        raise InputError(
            f"the file declares entities of its own ({reason})", "Write characters as they are.", Place(file)
        ) from None


class _Keyboard3:
    """The form of version 45 and later."""

    def __init__(self, root: Any, file: str) -> None:
        self.root = root
        self.file = file
        self.variables = {
            str(one.get("id", "")): str(one.get("value", "")) for one in root.iter() if _local(one) == "string"
        }
        self.outputs = dict(_IMPLIED)
        for one in root.iter():
            if _local(one) == "key" and one.get("id"):
                self.outputs[one.get("id")] = one.get("output", "")
        self.dead = self._dead_keys()

    def read(self) -> Layout:
        info = next((one for one in self.root if _local(one) == "info"), None)
        title = (info.get("name") if info is not None else None) or self.root.get("locale") or self.file
        best: tuple[str, dict[str, list[str]], bool] | None = None
        for layers in self.root.iter():
            if _local(layers) != "layers" or layers.get("formId") not in _FORMS:
                continue
            shape, places = _FORMS[layers.get("formId")]
            keys: dict[str, list[str]] = {}
            has_altgr = False
            for layer in layers:
                if _local(layer) != "layer":
                    continue
                level = _level(layer.get("modifiers", "none"))
                if level is None:
                    continue
                has_altgr = has_altgr or level >= 2
                rows = [row for row in layer if _local(row) == "row"]
                for row, row_places in zip(rows, places, strict=False):
                    names = row.get("keys", "").split()
                    if len(names) > len(row_places):
                        _fail(
                            self.file, f"a row of the form {layers.get('formId')} has {len(names)} keys: {' '.join(names)}",
                            f"It has room for {len(row_places)}.",
                        )  # fmt: skip
                    for place, key in zip(row_places, names, strict=False):
                        _put(keys, place, level, self._symbol(key))
            if best is None or shape == "iso":
                best = (shape, keys, has_altgr)
        shape, keys, has_altgr = best or ("ansi", {}, False)
        return _layout(str(title), keys, has_altgr, shape, self.file)

    def _symbol(self, key: str) -> str:
        if key == "gap":
            return ""
        if key not in self.outputs:
            _fail(self.file, f"the key {key} is not defined", f'Write <key id="{key}" output="…"/>.')
        output = self.outputs[key]
        if match := re.fullmatch(r"\\m\{([^{}]+)\}", output):
            return self.dead.get(match[1], f"dead_{match[1]}")
        return self._text(output)

    def _text(self, output: str, depth: int = 0) -> str:
        def one(match: re.Match[str]) -> str:
            if match[1]:
                codes = [int(code, 16) for code in match[1].split()]
                if any(code > 0x10FFFF for code in codes):
                    _fail(self.file, f"there is no such character: {match[0]}", "")
                return "".join(map(chr, codes))
            if match[2]:
                return ""
            if match[3]:
                return self._text(self.variables.get(match[3], ""), depth + 1) if depth < 8 else ""
            return match[4]

        return _ESCAPE.sub(one, output)

    def _dead_keys(self) -> dict[str, str]:
        """Marker to the dead key that it is, by what the transforms make of it, or by its name."""
        marks = {mark: dead for dead, (_spacing, mark) in DEAD_MARKS.items()}
        found = {dead.removeprefix("dead_"): dead for dead in DEAD_MARKS}  # a name is the weaker sign
        for one in self.root.iter():
            if _local(one) == "transform" and (match := re.match(r"\\m\{([^{}]+)\}", one.get("from", ""))):
                parts = unicodedata.normalize("NFD", self._text(one.get("to", "")))
                if len(parts) == 2 and parts[1] in marks:
                    found[match[1]] = marks[parts[1]]
        return found


def _old_keyboard(root: Any, file: str) -> Layout:
    """The form before version 45: maps of ISO positions, one for each group of modifiers."""
    keys: dict[str, list[str]] = {}
    has_altgr = False
    for one in root:
        if _local(one) != "keyMap":
            continue
        level = _level(one.get("modifiers", "none"))
        if level is None:
            continue
        has_altgr = has_altgr or level >= 2
        for key in one:
            place = _POSITIONS.get(key.get("iso", ""))
            if _local(key) == "map" and place is not None:
                _put(
                    keys,
                    place,
                    level,
                    _ESCAPE.sub(lambda match: chr(int(match[1], 16)) if match[1] else match[0], key.get("to", "")),
                )
    names = [one.get("value") for one in root.iter() if _local(one) == "name"]
    title = next(iter(names), None) or root.get("locale") or file
    return _layout(str(title), keys, has_altgr, "iso" if "IntlBackslash" in keys else "ansi", file)


def _level(modifiers: str) -> int | None:
    """The level (from 0) that an attribute `modifiers` chooses; None for what layouts here do not have."""
    for group in re.split(r",| (?=[A-Za-z]+\+)", modifiers.strip() or "none"):
        held = {word.rstrip("?") for word in re.split(r"[ +]+", group.strip()) if word and not word.endswith("?")}
        held.discard("none")
        shift = SHIFT if held & {"shift", "shiftL", "shiftR"} else 0
        held -= {"shift", "shiftL", "shiftR"}
        if not held:
            return _LEVEL_OF[shift]
        if held in ({"altR"}, {"opt"}, {"optR"}, {"alt"}, {"ctrl", "alt"}, {"ctrlL", "altL"}):
            return _LEVEL_OF[shift | ALTGR]
    return None


def _put(keys: dict[str, list[str]], place: str, level: int, symbol: str) -> None:
    levels = keys.setdefault(place, [])
    levels.extend([""] * (level + 1 - len(levels)))
    levels[level] = levels[level] or symbol


def _layout(title: str, keys: dict[str, list[str]], has_altgr: bool, shape: str, file: str) -> Layout:
    return Layout(title, title, {place: tuple(levels) for place, levels in keys.items()}, has_altgr, shape, file)


def _local(element: Any) -> str:
    return str(element.tag).rpartition("}")[2]


def _fail(file: str, what: str, advice: str) -> NoReturn:
    raise InputError(what, advice, Place(file))
