"""The blocks of a sample of lines: which lines open them, what closes each, and what sections they are."""

import re
from collections import Counter
from collections.abc import Sequence
from itertools import pairwise, takewhile
from typing import NamedTuple

from ombix.editors.drafting.condition_words import state_of
from ombix.editors.drafting.sample_shape import ShapeForm, ShownBinding, common_start

_HEADS = frozenset(
    ["mode", "section", "context", "keys", "keymap", "in", "for", "layer", "state", "pane", "view", "when"]
)
END = re.compile(r"[)\]}>]+[;,]?|(?:end|done|fi|esac)\b[\w \t]*;?", re.IGNORECASE)

OPENING, CLOSING = "([{\"'`", ")]}\"'`;"
"""Signs that may stand before and behind what is said."""
_NAME = re.compile(r"[A-Za-z_][\w-]* ?[=:] ?[\"'`(\[{]+")


class SampleLine(NamedTuple):
    """A line with the lines of the blocks around it, the outermost first."""

    text: str
    around: tuple[str, ...] = ()


class SampleLines(NamedTuple):
    """The lines of a sample without comments: those in blocks and outside, and what ends each line that opens a block."""

    said: list[SampleLine]
    ends: dict[str, str]


class SampleBlocks(NamedTuple):
    """The forms of lines that open blocks, and the section of each such line."""

    forms: list[ShapeForm]
    section_of: dict[str, str]


def in_blocks(lines: Sequence[str]) -> SampleLines:
    """The lines with what is around each: a line opens a block where a later one, that has nothing but an end in it, closes it."""
    said: list[SampleLine] = []
    ends: dict[str, str] = {}
    opened: list[str] = []
    back = _back(lines)
    last_end = max((at for at, line in enumerate(lines) if END.fullmatch(line.strip())), default=-1)
    for index, line in enumerate(lines):
        text = line.strip()
        if END.fullmatch(text) and opened:
            ends.setdefault(opened.pop(), text)
            continue
        has_bracket = text[-1:] in ("{", "(", "[")
        closing = lines[back[index]].strip() if back[index] > index + 1 else ""
        has_word = bool(END.fullmatch(closing)) and closing[0].isalpha()
        if index < last_end if has_bracket else has_word:
            opened.append(text)
        else:
            said.append(SampleLine(text, tuple(opened)))
    return SampleLines(said, ends)


def _back(lines: Sequence[str]) -> list[int]:
    """For each line the next one that begins no farther to the right; 0 where there is none."""
    found = [0] * len(lines)
    waiting: list[int] = []
    for at, line in enumerate(lines):
        while waiting and _indent(line) <= _indent(lines[waiting[-1]]):
            found[waiting.pop()] = at
        waiting.append(at)
    return found


def _indent(line: str) -> int:
    return len(line) - len(line.lstrip())


def blocks_of(lines: SampleLines, rows: Sequence[tuple[SampleLine, ShownBinding]]) -> SampleBlocks:
    """The forms of the lines that open blocks with bindings in them."""
    by_depth: dict[int, list[str]] = {}
    for line, _record in rows:
        for depth, one in enumerate(line.around):
            by_depth.setdefault(depth, []).append(one)
    forms: list[ShapeForm] = []
    section_of: dict[str, str] = {}
    for openers in map(list, map(dict.fromkeys, by_depth.values())):
        ends = Counter(lines.ends.get(opener, "") for opener in openers)
        (end, _count), *_others = ends.most_common(1)
        pattern, found = _template(openers)
        forms.append(ShapeForm(pattern, "open", end))
        section_of.update(found)
    return SampleBlocks(forms, section_of)


def _template(openers: Sequence[str]) -> tuple[str, dict[str, str]]:
    """The form of lines that open blocks, and the section of each: what they differ in, or the one word of a single line that
    may mean a state."""
    if len(openers) == 1:
        (line,) = openers
        words = [one for one in re.findall(r"[\w-]+", line)[1:] if state_of(one).means or state_of(one).may_mean]
        if len(words) == 1 and len(re.findall(rf"(?<![\w-]){re.escape(words[0])}(?![\w-])", line)) == 1:
            return re.sub(rf"(?<![\w-]){re.escape(words[0])}(?![\w-])", "{section}", line), {line: words[0]}
        return line, {line: ""}
    start, end = _ends(openers)
    inner = {line: line[len(start) : len(line) - len(end)] for line in openers}
    if all(re.fullmatch(r"[\w.:-]+", one) for one in inner.values()):
        return f"{start}{{section}}{end}", inner
    return openers[0], dict.fromkeys(openers, "")


def _ends(texts: Sequence[str]) -> tuple[str, str]:
    """What all texts begin and end with, up to whole words."""
    start = common_start(texts)
    start = start[: len(start) - len("".join(takewhile(_is_in_word, reversed(start))))]
    end = common_start([text[len(start) :][::-1] for text in texts])[::-1]
    return start, end[len("".join(takewhile(_is_in_word, end))) :]


def run_of(texts: Sequence[str], signs: str) -> str:
    """The blanks and signs that all texts begin with, also behind a name for what follows."""
    start = common_start(texts)
    found = "".join(takewhile(lambda char: char in signs or char.isspace(), start))
    named = _NAME.match(start[len(found) :]) if signs == OPENING else None
    return found + (named[0] if named is not None else "")


def _is_in_word(char: str) -> bool:
    return char.isalnum() or char in "_-"


def _is_heading(text: str) -> bool:
    """Whether a line can be one that names a section: it has signs around or behind the name, or a word for such a name."""
    return not text[-1].isalnum() or not text[0].isalnum() or text.split()[0].lower() in _HEADS


def headings_of(
    lines: Sequence[SampleLine], rows: Sequence[tuple[SampleLine, ShownBinding]], others: Sequence[str]
) -> tuple[SampleBlocks, dict[int, str], list[str]]:
    """Lines that are no bindings and have a name of what follows them in them: their form, the section of each binding by its
    identity, and what is no heading either."""
    bound = {id(line) for line, _record in rows}
    verbs = {line.text.split()[0] for line, _record in rows}
    heads = [
        line.text for line, following in pairwise(lines)
        if id(line) not in bound and id(following) in bound and line.text.split()[0] not in verbs and _is_heading(line.text)
    ]  # fmt: skip
    pattern, found = _template(list(dict.fromkeys(heads))) if heads else ("", {})
    if "{section}" not in pattern:
        return SampleBlocks([], {}), {}, list(others)
    section, headed = "", {}
    for line in lines:
        section = found.get(line.text, section)
        headed[id(line)] = section
    left = [other for other in others if other not in found]
    return SampleBlocks([ShapeForm(pattern, "open")], {}), headed, left
