"""Reads keyboard layouts from X11 keyboard extension (XKB) symbols files: the sections, what they include, the levels.

The format is that of the XKB protocol's text form. Only the first group is read, and from that what a layout needs: the
keysyms of each key by level, and the type where it limits their number. Actions, overlays and modifier maps are skipped.
"""

import re
from collections.abc import Callable
from pathlib import Path
from typing import NamedTuple, NoReturn

from msgspec import Struct

from ombix.core.errors import InputError, Place, did_you_mean

MAX_INCLUDES = 200
"""Inclusions in one layout; the deepest of the packaged layouts has about 20."""

PLACE_OF_KEY: dict[str, str] = {
    "TLDE": "Backquote", **{f"AE{number:02}": f"Digit{number % 10}" for number in range(1, 11)},
    "AE11": "Minus", "AE12": "Equal", "AE13": "IntlYen",
    **{f"AD{number:02}": f"Key{letter}" for number, letter in enumerate("QWERTYUIOP", 1)},
    "AD11": "BracketLeft", "AD12": "BracketRight",
    **{f"AC{number:02}": f"Key{letter}" for number, letter in enumerate("ASDFGHJKL", 1)},
    "AC10": "Semicolon", "AC11": "Quote", "BKSL": "Backslash", "LSGT": "IntlBackslash",
    **{f"AB{number:02}": f"Key{letter}" for number, letter in enumerate("ZXCVBNM", 1)},
    "AB08": "Comma", "AB09": "Period", "AB10": "Slash", "AB11": "IntlRo", "SPCE": "Space", "KPDL": "NumpadDecimal",
}  # fmt: skip
"""XKB key name to the W3C UI Events `code` of the same place (xkb-data, keycodes/evdev, and the table of its aliases)."""

_SAME_KEY = {"AC12": "BKSL", "HZTG": "TLDE", "ALGR": "RALT"}
"""Names of a key that has another name, too (xkb-data, keycodes/evdev)."""

_MERGE = ("override", "augment", "replace", "alternate")
_FLAGS = ("default", "partial", "hidden", "alphanumeric_keys", "modifier_keys", "keypad_keys", "function_keys",
          "alternate_group")  # fmt: skip
_LEVELS_OF_TYPE = {"ONE_LEVEL": 1, "TWO_LEVEL": 2, "ALPHABETIC": 2, "KEYPAD": 2, "THREE_LEVEL": 3, "FOUR_LEVEL": 4,
                   "FOUR_LEVEL_ALPHABETIC": 4, "FOUR_LEVEL_SEMIALPHABETIC": 4, "FOUR_LEVEL_MIXED_KEYPAD": 4,
                   "FOUR_LEVEL_X": 4, "FOUR_LEVEL_KEYPAD": 4, "SEPARATE_CAPS_AND_SHIFT_ALPHABETIC": 4,
                   "FOUR_LEVEL_PLUS_LOCK": 5, "PC_ALT_LEVEL2": 2, "PC_RALT_LEVEL2": 2}  # fmt: skip
"""Key type to the number of its levels (xkb-data, types/*); what is more is ignored, as the protocol says."""

_TOKEN = re.compile(
    r"""(?P<skip>\s+|//[^\n]*|\#[^\n]*|/\*.*?\*/)
    |(?P<string>"[^"\n]*")|(?P<key><[^<>\s]{1,32}>)|(?P<word>[A-Za-z0-9_.]+)|(?P<sign>[{}\[\](),;=+!~|-])""",
    re.VERBOSE | re.DOTALL,
)


class Token(NamedTuple):
    """A piece of the text; `kind` is string, key, word or sign."""

    kind: str
    text: str
    start: int


class SymbolsKey(Struct):
    """What a key has: its keysyms by level, and the name of its type where one is given."""

    levels: list[str] = []
    type: str = ""


class Symbols(Struct):
    """A section that was read with all that it includes: its title and its keys by XKB name."""

    title: str = ""
    keys: dict[str, SymbolsKey] = {}

    def levels(self, key: str) -> list[str]:
        """The keysyms of a key, as many as its type has levels."""
        found = self.keys[key]
        most = _LEVELS_OF_TYPE.get(found.type, 8)
        return found.levels[:most]


class SymbolsFile(NamedTuple):
    """A symbols file's text, and the name that errors give it."""

    text: str
    file: str


Finder = Callable[[str], SymbolsFile | None]
"""The symbols file with a name, as an include statement writes it, or None."""


def read_symbols(source: SymbolsFile, find: Finder, section: str = "", base: Symbols | None = None) -> Symbols:
    """A section of a symbols file (without a name its default one), on top of `base`. Raises InputError."""
    reading = _SymbolsReading(find)
    symbols = base or Symbols()
    reading.section(source, section, symbols, "override")
    return symbols


def folder_finder(folder: Path, read: Callable[[Path], str]) -> Finder:
    """Finds symbols files in a folder, and nothing outside of it: neither by a name nor behind a link."""
    top = folder.resolve()

    def find(name: str) -> SymbolsFile | None:
        if Path(name).is_absolute() or "\0" in name:
            return None
        path = folder / name
        try:
            if not path.resolve().is_relative_to(top) or not path.is_file():
                return None
        except (OSError, RuntimeError):  # links in a circle, or a name that is too long
            return None
        return SymbolsFile(read(path), str(path))

    return find


class _SymbolsReading:
    """One reading, with the files that it has seen and how many inclusions it has followed."""

    def __init__(self, find: Finder) -> None:
        self.find = find
        self.tokens_of: dict[str, list[Token]] = {}
        self.open: list[tuple[str, str]] = []
        self.included = 0

    def section(self, source: SymbolsFile, name: str, into: Symbols, merge: str) -> None:
        tokens = self.tokens_of.get(source.file)
        if tokens is None:
            tokens = self.tokens_of[source.file] = _tokens(source)
        _Section(self, source, tokens, name).read(into, merge)

    def include(self, text: str, into: Symbols, merge: str, at: "_Section", token: Token) -> None:
        """Follow an include statement: parts like `de(basic)`, joined by + (override) or | (augment), each with `:group`."""
        for sign, part in re.findall(r"([+|]?)([^+|]+)", text):
            match = re.fullmatch(r"\s*([^():]+)(?:\(([^()]*)\))?(?::(\d))?\s*", part)
            if match is None:
                at.fail(f"not a name to include: {part}", token, 'Write include "de(basic)".')
            name, section, group = match[1].strip(), match[2] or "", match[3]
            if group not in (None, "1"):
                continue
            self.included += 1
            if (name, section) in self.open or self.included > MAX_INCLUDES:
                at.fail(f"sections include each other in a circle: {part}", token, "Take one of them out.")
            source = self.find(name)
            if source is None:
                at.fail(f"there is no symbols file {name} to include", token, "Put it into the same folder.")
            self.open.append((name, section))
            self.section(source, section, into, "augment" if sign == "|" else merge)
            self.open.pop()


class _Section:
    """Reads one section of a file."""

    def __init__(self, reading: _SymbolsReading, source: SymbolsFile, tokens: list[Token], name: str) -> None:
        self.reading = reading
        self.source = source
        self.tokens = tokens
        self.position = 0
        self.go_to(name)

    def go_to(self, wanted: str) -> None:
        """Stand behind the opening brace of the section."""
        names: list[str] = []
        starts: list[int] = []
        default = -1
        is_default = False
        position, depth = 0, 0
        while position < len(self.tokens):
            token = self.tokens[position]
            if token.kind == "word" and token.text == "xkb_symbols":
                following = self.tokens[position + 1 : position + 3]
                name = following[0].text.strip('"') if following and following[0].kind == "string" else ""
                names.append(name)
                starts.append(position + (2 if name else 1))
                if is_default:
                    default = len(names) - 1
                is_default = False
            elif token.text == "default" and depth <= 1:
                is_default = True
            elif token.text in "{}":
                depth += 1 if token.text == "{" else -1
            position += 1
        if not names:
            self.fail("there is no section xkb_symbols in this file", None, 'Write xkb_symbols "basic" { … };')
        if wanted:
            if wanted not in names:
                self.fail(f"there is no section {wanted} in this file", None, did_you_mean(wanted, names))
            index = names.index(wanted)
        else:
            index = max(default, 0)
        self.position = starts[index]
        self.expect("{")

    def read(self, into: Symbols, merge: str) -> None:
        """Read the statements up to the closing brace."""
        while True:
            token = self.take()
            if token.text == "}" and token.kind == "sign":
                return
            if token.text == ";":
                continue
            mode = merge
            if token.text in _MERGE:
                mode = "override" if token.text == "alternate" else token.text
                token = self.take()
            if token.text == "include" or token.kind == "string":
                text = token if token.kind == "string" else self.take()
                if text.kind != "string":
                    self.fail("include takes a name in quotes", text, 'Write include "de(basic)".')
                self.reading.include(text.text.strip('"'), into, mode, self, text)
            elif token.text == "key":
                name = self.take()
                if name.kind == "key":
                    self.key(name.text.strip("<>"), into, mode)
                else:
                    self.skip_statement()
            elif token.text == "name":
                title = self.skip_statement()
                into.title = title or into.title
            else:
                self.skip_statement()

    def key(self, name: str, into: Symbols, merge: str) -> None:
        """Read `{ [ a, b ], type = "…", symbols[Group1] = [ … ] };` and merge it."""
        found = SymbolsKey()
        group = 0
        self.expect("{")
        while True:
            token = self.take()
            if token.text == "}":
                break
            if token.text == ",":
                continue
            if token.text == "[":
                group += 1
                levels = self.levels()
                if group == 1:
                    found.levels = levels
            elif token.kind == "word":
                index = self.subscript()
                if not self.peek("="):
                    continue
                self.expect("=")
                if token.text.lower() == "type" and index <= 1:
                    value = self.take()
                    found.type = value.text.strip('"')
                elif token.text.lower() == "symbols":
                    self.expect("[")
                    levels = self.levels()
                    if index <= 1:
                        found.levels = levels
                else:
                    self.skip_value()
        if self.peek(";"):
            self.take()
        name = _SAME_KEY.get(name, name)
        into.keys[name] = found if merge == "replace" else _merged(into.keys.get(name), found, merge)

    def levels(self) -> list[str]:
        """Keysyms up to the closing bracket; of several on one level the first."""
        found: list[str] = []
        while True:
            token = self.take()
            if token.text == "]":
                return found
            if token.text == ",":
                continue
            if token.text == "{":
                first = self.take()
                found.append(_symbol(first.text))
                while self.take().text != "}":
                    pass
            elif token.kind == "word":
                if self.peek("("):  # an action, not a keysym
                    self.skip_value()
                    found.append("")
                else:
                    found.append(_symbol(token.text))
            else:
                self.fail(f"expected a keysym, not {token.text}", token)

    def subscript(self) -> int:
        """The number in `[Group1]`; 0 without one."""
        if not self.peek("["):
            return 0
        self.take()
        word = self.take().text
        self.expect("]")
        digits = "".join(char for char in word if char.isdigit())
        if len(digits) > 4:
            self.fail("there is no group with so large a number", None)
        return int(digits or 1)

    def skip_value(self) -> None:
        """Skip to the comma or the closing brace that ends a value."""
        depth = 0
        while True:
            if depth == 0 and (self.peek(",") or self.peek("}") or self.peek("]")):
                return
            text = self.take().text
            depth += text in ("{", "[", "(")
            depth -= text in ("}", "]", ")")

    def skip_statement(self) -> str:
        """Skip to the semicolon; the last text in quotes on the way."""
        depth, found = 0, ""
        while True:
            if depth == 0 and self.peek("}"):
                return found
            token = self.take()
            found = token.text.strip('"') if token.kind == "string" else found
            depth += token.text in ("{", "[", "(")
            depth -= token.text in ("}", "]", ")")
            if token.text == ";" and depth <= 0:
                return found

    def peek(self, text: str) -> bool:
        """Whether the next piece is this one."""
        return self.position < len(self.tokens) and self.tokens[self.position].text == text

    def take(self) -> Token:
        """The next piece. Raises InputError at the end of the file."""
        if self.position >= len(self.tokens):
            self.fail("the file ends in the middle of a section", self.tokens[-1] if self.tokens else None)
        self.position += 1
        return self.tokens[self.position - 1]

    def expect(self, text: str) -> None:
        """Take a piece that must be this one. Raises InputError."""
        token = self.take()
        if token.text != text:
            self.fail(f"expected {text}, not {token.text}", token)

    def fail(self, what: str, token: Token | None, advice: str = "") -> NoReturn:
        """Raise an InputError at a piece of the text."""
        raise _error(self.source, what, token.start if token else -1, len(token.text) if token else 1, advice)


def _merged(into: SymbolsKey | None, new: SymbolsKey, merge: str) -> SymbolsKey:
    if into is None:
        return new
    clobber = merge != "augment"
    levels = list(into.levels)
    for index, symbol in enumerate(new.levels):
        if index >= len(levels):
            levels.append(symbol)
        elif symbol and (clobber or not levels[index]):
            levels[index] = symbol
    return SymbolsKey(levels, (new.type or into.type) if clobber else (into.type or new.type))


def _symbol(word: str) -> str:
    return "" if word.lower() in ("nosymbol", "any", "none") else word


def _tokens(source: SymbolsFile) -> list[Token]:
    found: list[Token] = []
    position = 0
    while position < len(source.text):
        match = _TOKEN.match(source.text, position)
        if match is None:
            char = source.text[position]
            shown = char if char.isprintable() else f"U+{ord(char):04X}"
            raise _error(source, f"unexpected character: {shown}", position, 1)
        if match.lastgroup != "skip":
            found.append(Token(str(match.lastgroup), match[0], position))
        position = match.end()
    return found


def _error(source: SymbolsFile, what: str, start: int, width: int, advice: str = "") -> InputError:
    advice = advice or "Look at the braces, brackets, quotes and semicolons before this place."
    if start < 0:
        return InputError(what, advice, Place(source.file))
    line = source.text.count("\n", 0, start) + 1
    column = start - source.text.rfind("\n", 0, start)
    text = source.text.split("\n")[line - 1]
    return InputError(what, advice, Place(source.file, line, column), text, width)
