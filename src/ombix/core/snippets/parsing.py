"""Snippet texts, as the Language Server Protocol 3.17 has them, read into parts, and written again."""

import re
from collections.abc import Callable, Iterator
from typing import TypeVar

from ombix.core.errors import NotationError, did_you_mean
from ombix.core.snippets.model import (
    CASE_CHANGES,
    GroupFormat,
    Part,
    TabStop,
    Text,
    Transformation,
    Variable,
)
from ombix.core.snippets.patterns import OPTIONS, EcmaPattern

_INT, _NAME = re.compile(r"[0-9]+"), re.compile(r"[_a-zA-Z][_a-zA-Z0-9]*")
_DEEPEST = 50
_MOST_DIGITS = 4
LONGEST_BODY = 100_000
"""Characters."""
_TRANSFORMATION = "A transformation is /pattern/replacement/options."
_Placed = TypeVar("_Placed")


def parse(text: str) -> tuple[Part, ...]:
    """The parts of a snippet text. Raises NotationError, with the place in the text, for what the grammar does not have."""
    if len(text) > LONGEST_BODY:
        raise NotationError(f"the snippet is longer than {LONGEST_BODY:,} characters", text, 0, 1, "Make it shorter.")
    reader = _BodyReader(text)
    parts = reader.parts("")
    _check_circles(parts, (), reader)
    return parts


class _BodyReader:
    def __init__(self, text: str) -> None:
        self.text = text
        self.at = 0
        self.depth = 0
        self.starts: dict[int, int] = {}
        """Where the stops begin, by their identity: for errors."""

    def error(self, what: str, start: int, end: int = -1, advice: str = "") -> NotationError:
        return NotationError(what, self.text, start, end if end >= 0 else self.at, advice)

    def takes(self, sign: str) -> bool:
        if self.text.startswith(sign, self.at):
            self.at += len(sign)
            return True
        return False

    def match(self, pattern: re.Pattern[str]) -> str:
        found = pattern.match(self.text, self.at)
        self.at = found.end() if found else self.at
        return found[0] if found else ""

    def parts(self, ends: str) -> tuple[Part, ...]:
        """Parts up to a sign that ends them, which is not taken; or, without one, up to the end of the text."""
        return tuple(self.pieces(ends, "$}\\", self.placed))

    def pieces(self, ends: str, escaped: str, placed: Callable[[], _Placed | None]) -> Iterator[Text | _Placed]:
        """Texts, and what `placed` reads at a dollar sign, up to a sign that ends them, which is not taken, or to the end of the
        text; a backslash takes what is `escaped` for a text."""
        plain = ""
        while self.at < len(self.text) and not (ends and self.text[self.at] == ends):
            char = self.text[self.at]
            if char == "\\" and self.text[self.at + 1 : self.at + 2] in tuple(escaped):
                plain += self.text[self.at + 1]
                self.at += 2
                continue
            one = placed() if char == "$" else None
            if one is None:
                plain += char
                self.at += 1
                continue
            if plain:
                yield Text(plain)
            yield one
            plain = ""
        if plain:
            yield Text(plain)

    def placed(self) -> TabStop | Variable | None:
        """A stop or a variable at a dollar sign; None where the sign is a text."""
        start = self.at
        self.at += 1
        if number := self.match(_INT):
            return self.known(TabStop(self.number(number, start)), start)
        if name := self.match(_NAME):
            return Variable(name)
        if not self.takes("{"):
            self.at = start
            return None
        self.depth += 1
        if self.depth > _DEEPEST:
            raise self.error(f"stops stand in each other more than {_DEEPEST} deep", start, self.at)
        if number := self.match(_INT):
            found: TabStop | Variable = self.known(self.stop(self.number(number, start), start), start)
        elif name := self.match(_NAME):
            found = self.variable(name, start)
        else:
            advice = "Write ${1} for a stop, ${NAME} for a variable, and \\$ for the sign itself."
            raise self.error("a number or a name is missing behind ${", start, self.at, advice)
        self.depth -= 1
        return found

    def known(self, stop: TabStop, start: int) -> TabStop:
        self.starts.setdefault(id(stop), start)
        return stop

    def number(self, digits: str, start: int) -> int:
        if len(digits) > _MOST_DIGITS:
            raise self.error(f"{digits[:12]}… is no number of a stop", start, self.at, "Number stops from 1 on.")
        return int(digits)

    def stop(self, number: int, start: int) -> TabStop:
        if self.takes(":"):
            return TabStop(number, self.default(start))
        if self.takes("|"):
            return TabStop(number, (), self.choices(start))
        if self.takes("/"):
            return TabStop(number, change=self.transformation(start))
        self.close(start, f"${{{number}", ": and default words, | and choices, or }")
        return TabStop(number)

    def variable(self, name: str, start: int) -> Variable:
        if self.takes(":"):
            return Variable(name, self.default(start))
        if self.takes("/"):
            return Variable(name, (), self.transformation(start))
        self.close(start, f"${{{name}", ": and default words, / and a pattern, or }")
        return Variable(name)

    def default(self, start: int) -> tuple[Part, ...]:
        parts = self.parts("}")
        self.close(start, "the default words", "}")
        return parts

    def close(self, start: int, what: str, wanted: str) -> None:
        if not self.takes("}"):
            if self.at >= len(self.text):
                raise self.error("${ is never closed", start, start + 2, "Add } behind it.")
            raise self.error(f"behind {what} stands {self.text[self.at]}", self.at, self.at + 1, f"Write {wanted}.")

    def choices(self, start: int) -> tuple[str, ...]:
        found, one = [], ""
        while True:
            char = self.text[self.at : self.at + 1]
            if not char:
                raise self.error("the choices are never closed", start, start + 2, "Write |} behind the last one.")
            if char == "\\" and self.text[self.at + 1 : self.at + 2] in (",", "|", "\\", "$", "}"):
                one += self.text[self.at + 1]
                self.at += 2
            elif char == ",":
                found.append(one)
                one = ""
                self.at += 1
            elif char == "|":
                if not self.text.startswith("|}", self.at):
                    raise self.error(
                        "| stands inside a choice", self.at, self.at + 1, "Write \\| there, or |} at the end."
                    )
                self.at += 2
                return (*found, one)
            else:
                one += char
                self.at += 1

    # --- transformations

    def transformation(self, start: int) -> Transformation:
        at = self.at
        pattern = self.up_to_slash(start, "the pattern")
        try:
            EcmaPattern(pattern, "")
        except ValueError as error:
            raise self.error(
                f"this is no pattern: {error}", at, at + len(pattern), "See: ECMAScript, regular expressions."
            ) from None
        replacement = self.replacement(start)
        at = self.at
        options = self.match(re.compile(r"[a-zA-Z]*"))
        wrong = next((option for option in options if option not in OPTIONS or options.count(option) > 1), "")
        if wrong:
            raise self.error(
                f"{wrong} is no option of a pattern", at, self.at, f"Options are {', '.join(OPTIONS)}, each once."
            )
        self.close(start, "the transformation", "}")
        return Transformation(pattern, replacement, options)

    def up_to_slash(self, start: int, what: str) -> str:
        found, in_class = "", False
        while True:
            char = self.text[self.at : self.at + 1]
            if not char:
                raise self.error(f"{what} is never closed", start, start + 2, _TRANSFORMATION)
            if char == "\\":
                found += self.text[self.at : self.at + 2]
                self.at += 2
                continue
            self.at += 1
            if char == "/" and not in_class:
                return found
            in_class = char == "[" or (in_class and char != "]")
            found += char

    def replacement(self, start: int) -> tuple[Text | GroupFormat, ...]:
        found = tuple(self.pieces("/", "$}\\/", self.group))
        if not self.takes("/"):
            raise self.error("the replacement is never closed", start, start + 2, _TRANSFORMATION)
        return found

    def group(self) -> GroupFormat | None:
        start = self.at
        self.at += 1
        if number := self.match(_INT):
            return GroupFormat(self.number(number, start))
        if not self.takes("{"):
            self.at = start
            return None
        number = self.match(_INT)
        if not number:
            raise self.error(
                "the number of a group is missing behind ${", start, self.at, "Write ${1}, and \\$ for the sign itself."
            )
        group = self.number(number, start)
        if self.takes(":/"):
            at = self.at
            word = self.match(re.compile(r"[a-zA-Z]*"))
            case = next((one for one in CASE_CHANGES if one == word), None)
            if case is None:
                advice = did_you_mean(word, CASE_CHANGES) or f"Known are {', '.join(CASE_CHANGES)}."
                raise self.error(f"{word or 'nothing'} is no change of case", at, self.at, advice)
            found = GroupFormat(group, case)
        elif self.takes(":+"):
            found = GroupFormat(group, None, self.words("}"), "")
        elif self.takes(":?"):
            present = self.words(":")
            if not self.takes(":"):
                raise self.error(
                    "the words for a group that is not there are missing", start, self.at, "Write ${1:?yes:no}."
                )
            found = GroupFormat(group, None, present, self.words("}"))
        elif self.takes(":-") or self.takes(":"):
            found = GroupFormat(group, None, None, self.words("}"))
        else:
            found = GroupFormat(group)
        self.close(start, f"${{{group}", ":/upcase, :+, :?, :- or }")
        return found

    def words(self, ends: str) -> str:
        found = ""
        while self.at < len(self.text) and self.text[self.at] != ends:
            if self.text[self.at] == "\\" and self.text[self.at + 1 : self.at + 2] in ("$", "}", "\\", ":", "/"):
                self.at += 1
            found += self.text[self.at]
            self.at += 1
        return found


def _check_circles(parts: tuple[Part, ...], within: tuple[int, ...], reader: _BodyReader) -> None:
    for part in parts:
        if isinstance(part, TabStop):
            if part.number in within:
                start = reader.starts.get(id(part), 0)
                raise reader.error(
                    f"the stop {part.number} stands in its own default words",
                    start,
                    start + 2,
                    "Give it another number.",
                )
            _check_circles(part.default, (*within, part.number), reader)
        elif isinstance(part, Variable):
            _check_circles(part.default, within, reader)


# --- written


def write(parts: tuple[Part, ...]) -> str:
    """Parts as a snippet text; reading it gives the same parts."""
    return "".join(map(_written, parts))


def _written(one: Part) -> str:
    if isinstance(one, Text):
        return _escaped(one.text, "$}\\")
    if isinstance(one, Variable):
        if one.change is not None:
            return f"${{{one.name}/{_change_text(one.change)}}}"
        return f"${{{one.name}:{write(one.default)}}}" if one.default else f"${{{one.name}}}"
    if one.choices:
        return f"${{{one.number}|{','.join(_escaped(word, ',|$}' + chr(92)) for word in one.choices)}|}}"
    if one.change is not None:
        return f"${{{one.number}/{_change_text(one.change)}}}"
    return f"${{{one.number}:{write(one.default)}}}" if one.default else f"${{{one.number}}}"


def _change_text(change: Transformation) -> str:
    return f"{change.pattern}/{''.join(map(_group_text, change.replacement))}/{change.options}"


def _group_text(one: Text | GroupFormat) -> str:
    if isinstance(one, Text):
        return _escaped(one.text, "$}\\/")
    if one.case is not None:
        return f"${{{one.group}:/{one.case}}}"
    if one.present is not None:
        present = _escaped(one.present, "$}\\:")
        return (
            f"${{{one.group}:?{present}:{_escaped(one.absent or '', '$}' + chr(92))}}}"
            if one.absent
            else f"${{{one.group}:+{present}}}"
        )
    return (
        f"${{{one.group}:-{_escaped(one.absent, '$}' + chr(92))}}}" if one.absent is not None else f"${{{one.group}}}"
    )


def _escaped(text: str, signs: str) -> str:
    return "".join(f"\\{char}" if char in signs else char for char in text)
