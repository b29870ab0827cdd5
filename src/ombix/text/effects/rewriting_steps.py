"""Steps that write a range of the text otherwise: in other letters, encoded, in another order, filled."""

import json
import math
import operator
import re
from collections.abc import Callable, Sequence
from itertools import groupby
from typing import Any

from ombix.text.effects import text_motions, text_units
from ombix.text.effects.buffer import Buffer, Settings
from ombix.text.effects.program_words import Run, Stop, range_of, unquoted

Writing = Callable[[str, Settings], str]
"""How a text is written otherwise. Raises ValueError for a text that cannot be written so."""

# --- letters


def _each_word(how: Callable[[str], str]) -> Writing:
    return lambda text, settings: re.sub(r"[^\W_]+(?:'[^\W_]+)*", lambda match: how(match[0]), text)


def _each_letter(how: Callable[[str], str]) -> Writing:
    """Letter by letter, where that is one letter again."""
    return lambda text, settings: "".join(new if len(new := how(char)) == 1 else char for char in text)


def _sentence_case(text: str, settings: Settings) -> str:
    small = text.lower()
    return "".join(
        char.upper() if (at == 0 and not char.isspace()) or text_units.starts_sentence(small, at) else char
        for at, char in enumerate(small)
    )


def _joined_by(sign: str) -> Writing:
    """The words and the parts of words of each line joined by a sign, in small letters; what is before and behind stays."""

    def write(text: str, settings: Settings) -> str:
        return _around_words(text, lambda parts: sign.join(part.lower() for part in parts))

    return write


def _with_capitals(text: str, settings: Settings) -> str:
    return _around_words(text, lambda parts: parts[0].lower() + "".join(map(str.capitalize, parts[1:])))


def _around_words(text: str, how: Callable[[list[str]], str]) -> str:
    return re.sub(r"[^\W_](?:[\w .-]*[^\W_])?", lambda match: how(_parts(match[0])), text)


def _parts(text: str) -> list[str]:
    starts = [at for at in range(len(text)) if text_units.starts_part(text, at)]
    pieces = [text[start:end] for start, end in zip(starts, [*starts[1:], len(text)], strict=True)]
    return [re.sub(r"[\W_]+\Z", "", piece) for piece in pieces]


# --- encoded


def _encoded_base64(text: str, settings: Settings) -> str:
    import base64

    return base64.b64encode(text.encode()).decode()


def _decoded_base64(text: str, settings: Settings) -> str:
    import base64

    return base64.b64decode(text, validate=True).decode()


def _encoded_html(text: str, settings: Settings) -> str:
    import html

    return html.escape(text)


def _decoded_html(text: str, settings: Settings) -> str:
    import html

    return html.unescape(text)


def _encoded_url(text: str, settings: Settings) -> str:
    import urllib.parse

    return urllib.parse.quote(text, safe="")


def _encoded_string(text: str, settings: Settings) -> str:
    return json.dumps(text, ensure_ascii=False)[1:-1]


def _decoded_string(text: str, settings: Settings) -> str:
    found = str(json.loads('"' + re.sub(r'(\\.)|"', lambda match: match[1] or '\\"', text) + '"', strict=False))
    found.encode()  # half of a pair of surrogates is no character
    return found


def _decoded_url(text: str, settings: Settings) -> str:
    import urllib.parse

    return urllib.parse.unquote(text, errors="strict")


# --- sums

_OPERATORS: dict[str, Callable[[float, float], float]] = {
    "Add": operator.add, "Sub": operator.sub, "Mult": operator.mul, "Div": operator.truediv,
    "FloorDiv": operator.floordiv, "Mod": operator.mod,
}  # fmt: skip
_LONGEST_SUM = 200


def _evaluated(text: str, settings: Settings) -> str:
    """The result of a sum of numbers with + - * / // % and round brackets."""
    import ast

    if len(text) > _LONGEST_SUM:
        raise ValueError(text)
    try:
        found = _value(ast.parse(text.strip(), mode="eval").body)
        if not math.isfinite(found):
            raise ValueError(text)
        return str(int(found)) if float(found).is_integer() else repr(round(found, 12))
    except (SyntaxError, ZeroDivisionError, OverflowError, RecursionError, MemoryError) as error:
        raise ValueError(text) from error


def _value(node: Any) -> float:
    """The value of a part of a sum, as `ast` reads it."""
    kind, sign = type(node).__name__, type(getattr(node, "op", None)).__name__
    if kind == "Constant" and isinstance(node.value, (int, float)) and not isinstance(node.value, bool):
        return node.value
    if kind == "BinOp" and sign in _OPERATORS:
        return _OPERATORS[sign](_value(node.left), _value(node.right))
    if kind == "UnaryOp" and sign in ("USub", "UAdd"):
        return -_value(node.operand) if sign == "USub" else _value(node.operand)
    raise ValueError(kind)


# --- blanks


def _spaces_of_tabs(text: str, settings: Settings) -> str:
    return "\n".join(_with_spaces(line, settings.tab_width) for line in text.split("\n"))


def _with_spaces(line: str, width: int) -> str:
    found = ""
    for char in line:
        found += " " * (width - text_motions.cells(found, width) % width) if char == "\t" else char
    return found


def _tabs_of_spaces(text: str, settings: Settings) -> str:
    width = settings.tab_width

    def one(line: str) -> str:
        return re.sub(r"[ \t]{2,}", lambda match: _with_tabs(line[: match.start()], match[0], width), line)

    return "\n".join(map(one, text.split("\n")))


def _with_tabs(before: str, run: str, width: int) -> str:
    start = text_motions.cells(before, width)
    end = text_motions.cells(before + run, width)
    tabs = end // width - start // width
    return "\t" * tabs + " " * (end % width) if tabs else run


def _trimmed(text: str, settings: Settings) -> str:
    return re.sub(r"[ \t]+(?=\n|\Z)", "", text)


def _joined(text: str, settings: Settings, space: str = " ") -> str:
    first, *others = text.split("\n")
    for line in others:
        first, line = first.rstrip(" \t") if space else first, line.lstrip(" \t")
        first += space * bool(first.strip() and line) + line
    return first


def _split(text: str, settings: Settings) -> str:
    """A line end behind each comma, semicolon or bar, with the blanks that the line begins with."""
    start = text[: len(text) - len(text.lstrip(" \t"))]
    return re.sub(r"([,;|])[ \t]*(?=\S)", lambda match: f"{match[1]}\n{start}", text)


def _filled(text: str, settings: Settings) -> str:
    """Paragraphs with lines as long as they can be, each with the blanks that its first line begins with."""
    return "".join(
        "".join(lines) if is_blank else _filled_one("".join(lines), settings)
        for is_blank, lines in groupby(text.splitlines(keepends=True), lambda line: not line.strip())
    )


def _filled_one(text: str, settings: Settings) -> str:
    import textwrap

    blanks = text[: len(text) - len(text.lstrip(" \t"))]
    lines = textwrap.wrap(
        " ".join(text.split()), settings.text_width, initial_indent=blanks, subsequent_indent=blanks,
        break_long_words=False, break_on_hyphens=False,
    )  # fmt: skip
    return "\n".join(lines) + ("\n" if text.endswith("\n") else "")


def _unfilled(text: str, settings: Settings) -> str:
    return _joined(text.rstrip("\n"), settings) + ("\n" if text.endswith("\n") else "")


def _centred(text: str, settings: Settings) -> str:
    line = text.strip(" \t")
    return " " * max(0, (settings.text_width - text_motions.cells(line, 1)) // 2) + line if line else text


def _numbered(text: str, settings: Settings) -> str:
    return "\n".join(f"{number}. {line}" for number, line in enumerate(text.split("\n"), 1))


def _aligned(text: str, settings: Settings, sign: str) -> str:
    """Spaces before the first of a sign in each line, so that it stands in the same cell in all."""
    lines = [line.partition(sign) for line in text.split("\n")]
    widths = [text_motions.cells(before.rstrip(" "), settings.tab_width) for before, found, _rest in lines if found]
    if not sign or not widths:
        raise ValueError(text)
    column = max(widths) + any(found and before.endswith(" ") for before, found, _rest in lines)

    def one(before: str, found: str, rest: str) -> str:
        head = before.rstrip(" ")
        return head + " " * (column - text_motions.cells(head, settings.tab_width)) + found + rest if found else before

    return "\n".join(one(*line) for line in lines)


def _number_by(step: int) -> Writing:
    def write(text: str, settings: Settings) -> str:
        value = str(int(text) + step)
        digits = len(text.lstrip("-"))
        return value.zfill(digits + value.startswith("-")) if text.lstrip("-").startswith("0") else value

    return write


WRITINGS: dict[str, Writing] = {
    "upper": lambda text, settings: text.upper(),
    "lower": lambda text, settings: text.lower(),
    "swapped-case": lambda text, settings: text.swapcase(),
    "upper-each": _each_letter(str.upper),
    "lower-each": _each_letter(str.lower),
    "swapped-each": _each_letter(str.swapcase),
    "title-case": _each_word(lambda word: word[:1].upper() + word[1:]),
    "sentence-case": _sentence_case,
    "capitals": _with_capitals,
    "underscores": _joined_by("_"),
    "hyphens": _joined_by("-"),
    "dots": _joined_by("."),
    "url": _encoded_url,
    "from-url": _decoded_url,
    "html": _encoded_html,
    "from-html": _decoded_html,
    "base64": _encoded_base64,
    "from-base64": _decoded_base64,
    "string": _encoded_string,
    "from-string": _decoded_string,
    "evaluated": _evaluated,
    "number-up": _number_by(1),
    "number-down": _number_by(-1),
    "tabs": _tabs_of_spaces,
    "spaces": _spaces_of_tabs,
    "trimmed": _trimmed,
    "joined": _joined,
    "joined-tight": lambda text, settings: _joined(text, settings, ""),
    "split": _split,
    "filled": _filled,
    "unfilled": _unfilled,
    "centred": _centred,
    "numbered": _numbered,
}
_WITH_TEXT: dict[str, Callable[[str, Settings, str], str]] = {
    "aligned": _aligned,
    "each": lambda text, settings, sign: sign * len(text),
}
_KEEP_SIGNS = frozenset(
    ("tabs", "spaces", "trimmed", "joined", "joined-tight", "split", "filled", "unfilled", "centred", "aligned")
)
"""Ways of writing that change only blanks: the cursor keeps its character."""
_KEEP_LETTERS = frozenset(("capitals", "underscores", "hyphens", "dots"))
"""Ways of writing that keep letters and digits: the cursor keeps its own."""


def rewrite(words: Sequence[str]) -> Run:
    """A range is written in another way; what was selected stays so, and the cursor keeps its character, or its place in the
    range as far as that is there. A text that cannot be written so ends the program."""
    found, how = range_of(words[:1]), words[1]
    keeps = _is_sign if how in _KEEP_SIGNS else str.isalnum if how in _KEEP_LETTERS else None
    text = unquoted(words[2]) if how in _WITH_TEXT else ""
    write: Writing = (
        (lambda old, settings: _WITH_TEXT[how](old, settings, text)) if how in _WITH_TEXT else WRITINGS[how]
    )

    def run(b: Buffer) -> None:
        start, end = found(b)
        if start == end:
            raise Stop
        old = b.text[start:end]
        try:
            new = write(old, b.settings)
        except ValueError:
            raise Stop from None
        is_selection = b.has_selection and (start, end) == b.selection
        if is_selection:
            b.replace(start, end, new)
            backwards = b.anchor is not None and b.cursor < b.anchor
            b.anchor, b.cursor = (start + len(new), start) if backwards else (start, start + len(new))
            b.held = None
            return

        def moved(at: int) -> int:
            if not start < at <= end:
                return at if at <= start else at + len(new) - len(old)
            return start + (_same_sign(old, new, at - start, keeps) if keeps else min(at - start, len(new)))

        b.cursor, b.anchor = moved(b.cursor), None if b.anchor is None else moved(b.anchor)
        if b.held is not None:
            b.held = moved(b.held[0]), moved(b.held[1])
        b.replace(start, end, new)

    return run


def _is_sign(char: str) -> bool:
    return not char.isspace()


def _same_sign(old: str, new: str, at: int, is_kept: Callable[[str], bool]) -> int:
    """The place in the new text that has as many of the characters that are kept before it, right behind the last of them; then
    over as many blanks and line ends as before, where they are there."""
    count = sum(map(is_kept, old[:at]))
    place = 0
    while count:
        count -= is_kept(new[place])
        place += 1
    for char in old[len(old[:at].rstrip()) : at]:
        if place == len(new) or not new[place].isspace():
            break
        rest = len(new) - len(new[place:].lstrip(" \t"))
        if char == "\n":
            place = rest + 1 if new[rest : rest + 1] == "\n" else place + 1
        elif new[place] != "\n":
            place += 1
    return place
