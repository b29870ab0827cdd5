"""Typefaces: how wide a text is, and which of them has a character. The one that ships is DejaVu Sans Condensed; characters that
it has not are looked for in the typefaces of the machine."""

import os
import sys
import unicodedata
from collections.abc import Iterable, Iterator
from functools import cached_property
from importlib import resources
from pathlib import Path
from typing import TYPE_CHECKING, NamedTuple

if TYPE_CHECKING:
    from PIL.ImageFont import FreeTypeFont

_SIZE = 100
"""Points in which texts are measured."""
_MOST_LOOKED_INTO = 400
_ENDINGS = (".ttf", ".otf", ".ttc")


class Run(NamedTuple):
    """A part of a text, and the file of the typeface that has all of its characters."""

    text: str
    file: str


class Typefaces:
    """The typefaces for what is drawn. `missing` are the characters that none has, as far as texts were asked about."""

    def __init__(self, folders: Iterable[Path] | None = None) -> None:
        own = resources.files("ombix.data") / "fonts"
        self._own = {bold: str(own / f"DejaVuSansCondensed{'-Bold' if bold else ''}.ttf") for bold in (False, True)}
        self._folders = list(_folders()) if folders is None else list(folders)
        self._measured: dict[tuple[str, bool], float] = {}
        self._loaded: dict[tuple[str, float], FreeTypeFont] = {}
        self._known: dict[str, frozenset[int]] = {}
        self._homes: dict[str, str] = {}
        self.missing: dict[str, None] = {}

    def width(self, text: str, size: float, bold: bool = False) -> float:
        """The width of a text in points."""
        found = self._measured.get((text, bold))
        if found is None:
            found = sum(self.loaded(run.file, _SIZE).getlength(run.text) for run in self.runs(text, bold))
            self._measured[text, bold] = found
        return found * size / _SIZE

    def loaded(self, file: str, size: float) -> "FreeTypeFont":
        """A typeface in a size."""
        if (file, size) not in self._loaded:
            from PIL import ImageFont

            self._loaded[file, size] = ImageFont.truetype(file, size)
        return self._loaded[file, size]

    def runs(self, text: str, bold: bool = False) -> list[Run]:
        """A text in parts, each with the typeface that has it; characters that none has are shown as that which ships does."""
        own = self._own[bold]
        if text.isascii():
            return [Run(text, own)]
        found: list[Run] = []
        for char in text:
            file = self._home(char, own)
            if found and (found[-1].file == file or unicodedata.combining(char)):
                found[-1] = Run(found[-1].text + char, found[-1].file)
            else:
                found.append(Run(char, file))
        return found

    def _home(self, char: str, own: str) -> str:
        if ord(char) in self._characters(own) or unicodedata.category(char) in ("Cf", "Mn", "Zs"):
            return own
        if char not in self._homes:
            home = next((file for file in self._others if ord(char) in self._characters(file)), "")
            self._homes[char] = home
            if not home:
                self.missing[char] = None
        return self._homes[char] or own

    def _characters(self, file: str) -> frozenset[int]:
        if file not in self._known:
            from fontTools.ttLib import TTFont, TTLibError

            try:
                with TTFont(file, lazy=True, fontNumber=0) as font:
                    self._known[file] = frozenset(font.getBestCmap() or ())
            except (TTLibError, OSError, AssertionError, KeyError, ValueError):
                self._known[file] = frozenset()
        return self._known[file]

    @cached_property
    def _others(self) -> list[str]:
        """The typefaces of the machine, those first that are made for many scripts."""
        found = [str(path) for folder in self._folders for path in _typefaces_in(folder)]
        found.sort(key=lambda one: ("cjk" not in one.lower(), "noto" not in one.lower(), one))
        return found[:_MOST_LOOKED_INTO]


def _folders() -> Iterator[Path]:
    """Where systems keep typefaces: the XDG Base Directory Specification, and what other systems document."""
    home = Path.home()
    if sys.platform == "darwin":
        yield from (home / "Library/Fonts", Path("/Library/Fonts"), Path("/System/Library/Fonts"))
    elif sys.platform == "win32":
        yield Path(os.environ.get("WINDIR", "C:/Windows")) / "Fonts"
    else:
        data = os.environ.get("XDG_DATA_HOME") or str(home / ".local/share")
        yield from (Path(data) / "fonts", home / ".fonts", Path("/usr/local/share/fonts"), Path("/usr/share/fonts"))


def _typefaces_in(folder: Path) -> Iterator[Path]:
    for at, _folders_below, names in os.walk(folder):
        yield from (Path(at) / name for name in sorted(names) if name.lower().endswith(_ENDINGS))
