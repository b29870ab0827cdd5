"""Where a step of a program is about: places, ranges, and tests of a buffer."""

import re
from collections.abc import Callable, Sequence

from ombix.text.effects import text_motions, text_units
from ombix.text.effects.buffer import Buffer, Change

Test = Callable[[Buffer], bool]
Run = Callable[[Buffer], None]
Place = Callable[[Buffer], int]
"""An offset in the text of a buffer, from 0 to its length."""
Range = Callable[[Buffer], tuple[int, int]]
"""Two offsets in the text of a buffer, the first not behind the second."""


class Stop(Exception):
    """A step could not do its work; nothing more of the program is run."""


def _left(options: Sequence[str]) -> Place:
    if "line" in options:
        return lambda b: max(text_motions.line_start(b.text, b.cursor), b.cursor - 1)
    return lambda b: max(0, b.cursor - 1)


def _right(options: Sequence[str]) -> Place:
    if "line" in options:
        return lambda b: min(text_motions.line_end(b.text, b.cursor), b.cursor + 1)
    return lambda b: min(len(b.text), b.cursor + 1)


FAR = 1_000_000
"""A cell that no line has: the last character of each."""
BEHIND = FAR + 1
"""The end of each line, behind its last character."""


def _cells_before(b: Buffer) -> int:
    return text_motions.cells(b.text[text_motions.line_start(b.text, b.cursor) : b.cursor], b.settings.tab_width)


def cell_kept_to(b: Buffer, options: Sequence[str]) -> int:
    """The cell that moves up and down keep to, noted for those that follow: on a tab or a wide character, with `last`, its last
    one."""
    if b.goal is None:
        b.goal = _cells_before(b)
        here = b.text[b.cursor : b.cursor + 1]
        if "last" in options and here not in ("", "\n"):
            b.goal = (
                text_motions.cells(
                    b.text[text_motions.line_start(b.text, b.cursor) : b.cursor + 1], b.settings.tab_width
                )
                - 1
            )
    return b.goal


def _onto(b: Buffer, at: int) -> int:
    """A place on a character: that before the line end of a line that has some."""
    is_end = at == len(b.text) or b.text[at] == "\n"
    return at - 1 if is_end and at > text_motions.line_start(b.text, at) else at


def _up(options: Sequence[str]) -> Place:
    def up(b: Buffer) -> int:
        cell = cell_kept_to(b, options)
        start = text_motions.line_start(b.text, b.cursor)
        if start == 0:
            if "edge" in options:
                return 0
            stays = "stay" in options or b.settings.stops_at_edges
            return (_onto(b, b.cursor) if "clamped" in options and cell != BEHIND else b.cursor) if stays else 0
        find = _cell_finder(options)
        found = find(b.text, text_motions.line_start(b.text, start - 1), cell, b.settings.tab_width)
        return _onto(b, found) if "onto" in options and cell != BEHIND else found

    return up


def _down(options: Sequence[str]) -> Place:
    def down(b: Buffer) -> int:
        cell = cell_kept_to(b, options)
        end = text_motions.line_end(b.text, b.cursor)
        if end == len(b.text):
            if "edge" in options:
                return end
            return b.cursor if "stay" in options or b.settings.stops_at_edges else end
        if "full" in options and end + 1 == len(b.text):
            return _onto(b, b.cursor) if "clamped" in options and cell != BEHIND else b.cursor
        find = _cell_finder(options)
        found = find(b.text, end + 1, cell, b.settings.tab_width)
        return _onto(b, found) if "onto" in options and cell != BEHIND else found

    return down


def _cell_finder(options: Sequence[str]) -> Callable[[str, int, int, int], int]:
    """How the place in another line is found that belongs to a cell inside a tab: at the tab's start, or at its `near` end, of
    two equally near the one behind, or with `close` the one before."""
    return (
        text_motions.near_cell
        if "near" in options
        else text_motions.close_cell
        if "close" in options
        else text_motions.at_cell
    )


def _top(b: Buffer) -> int:
    return text_motions.at_cell(b.text, 0, cell_kept_to(b, ()), b.settings.tab_width)


def _bottom(b: Buffer) -> int:
    return text_motions.at_cell(
        b.text, text_motions.line_start(b.text, len(b.text)), cell_kept_to(b, ()), b.settings.tab_width
    )


def _at(find: Callable[[str, int], int]) -> Callable[[Sequence[str]], Place]:
    return lambda options: lambda b: find(b.text, b.cursor)


def _of_kind(find: Callable[[str, int, text_motions.Kind], int]) -> Callable[[Sequence[str]], Place]:
    """A place that depends on what a word is: `words`, `names` or `runs`."""

    def build(options: Sequence[str]) -> Place:
        kind = text_motions.KINDS[options[0]]
        return lambda b: find(b.text, b.cursor, kind)

    return build


def _rebounding(b: Buffer) -> int:
    """Before the word at the left; where that would be before the start of the text, behind a sign there."""
    found = text_motions.word_left(b.text, b.cursor)
    is_sign = bool(b.text) and not (b.text[0].isspace() or b.text[0].isalnum() or b.text[0] == "_")
    return 1 if not found and is_sign else found


def _there(b: Buffer, found: int | None) -> int:
    """A place that is there. Raises Stop where it is not."""
    if found is None:
        raise Stop
    return found


def _level(find: Callable[..., int | None], *more: int) -> Callable[[Sequence[str]], Place]:
    """A place in another line, by indentation."""
    return lambda options: lambda b: _there(b, find(b.text, b.cursor, b.settings.tab_width, *more))


def _argument(step: int) -> Callable[[Sequence[str]], Place]:
    def find(b: Buffer) -> int:
        starts = [start for start, _end in text_units.arguments(b.text, b.cursor)]
        others = [start for start in starts if (start > b.cursor if step > 0 else start < b.cursor)]
        return _there(b, (others[0] if step > 0 else others[-1]) if others else None)

    return lambda options: find


def _bracket(b: Buffer) -> int:
    found = text_units.brackets(b.text, b.cursor)
    if found is not None and found[0] == b.cursor:
        found = text_units.brackets(b.text, b.cursor - 1) if b.cursor else None
    return _there(b, found and found[0])


def _character(options: Sequence[str]) -> Place:
    """A character on the line, or `far`, in the text: the next one, or `back`; `before` or `behind` it, but not here; or `short`
    of it, where it may be here."""
    wanted = [unquoted(option) for option in options if option[0] == '"'].pop()
    is_back, is_far = "back" in options, "far" in options
    step = "before" in options or "behind" in options
    beside = step or "short" in options

    def find(b: Buffer) -> int:
        if is_back:
            start = 0 if is_far else text_motions.line_start(b.text, b.cursor)
            found = b.text.rfind(wanted, start, max(b.cursor - step, 0))
            return _there(b, None if found < 0 else found + beside * len(wanted))
        end = len(b.text) if is_far else text_motions.line_end(b.text, b.cursor)
        found = b.text.find(wanted, b.cursor + 1 + step, end)
        return _there(b, None if found < 0 else found - beside)

    return find


def _sign(b: Buffer, step: int) -> int:
    """The next (1) or previous (-1) bracket or quote."""
    there = range(b.cursor + 1, len(b.text)) if step > 0 else range(b.cursor - 1, -1, -1)
    return _there(b, next((at for at in there if text_units.is_sign_of_pair(b.text, at)), None))


def _column(options: Sequence[str]) -> Place:
    cell = int(options[0]) - 1
    return lambda b: text_motions.at_cell(b.text, text_motions.line_start(b.text, b.cursor), cell, b.settings.tab_width)


def _percent(options: Sequence[str]) -> Place:
    share = min(int(options[0]), 100)

    def find(b: Buffer) -> int:
        starts = [0, *(at + 1 for at, char in enumerate(b.text) if char == "\n" and at + 1 < len(b.text))]
        return starts[max(0, -(-share * len(starts) // 100) - 1)]

    return find


def unquoted(word: str) -> str:
    """The text that stands in quotes in a program. Raises KeyError for another word."""
    if word[0] != '"':
        raise KeyError(word)
    return _ESCAPED.sub(lambda match: _ESCAPES.get(match[1], match[1]), word[1:-1])


_ESCAPED = re.compile(r"\\(.)")
_ESCAPES = {"t": "\t", "n": "\n"}

PLACES: dict[str, Callable[[Sequence[str]], Place]] = {
    "here": lambda options: lambda b: b.cursor,
    "left": _left,
    "right": _right,
    "up": _up,
    "down": _down,
    "top": lambda options: _top,
    "bottom": lambda options: _bottom,
    "line-start": _at(text_motions.line_start),
    "line-end": _at(text_motions.line_end),
    "line-after": _at(lambda text, at: min(len(text), text_motions.line_end(text, at) + 1)),
    "line-above": _at(lambda text, at: text_motions.line_start(text, max(0, text_motions.line_start(text, at) - 1))),
    "text-start": _at(text_motions.text_start),
    "text-start-or-line-start": _at(text_motions.text_start_or_line_start),
    "line-end-or-text-end": _at(text_motions.line_end_or_text_end),
    "start": _at(lambda text, at: 0),
    "end": _at(lambda text, at: len(text)),
    "last-sign": lambda options: lambda b: _onto(b, text_motions.line_end(b.text, b.cursor)),
    "last-full-line": _at(lambda text, at: text_motions.line_start(text, max(0, len(text) - 1))),
    "last-line": _at(lambda text, at: text_motions.line_start(text, len(text))),
    "past-word": _at(text_motions.word_right),
    "before-word": lambda options: (
        _rebounding if "rebound" in options else lambda b: text_motions.word_left(b.text, b.cursor)
    ),
    "next-start": _of_kind(text_motions.next_start),
    "previous-start": _of_kind(text_motions.previous_start),
    "next-end": _of_kind(text_motions.next_end),
    "chop-right": _of_kind(text_motions.chop_right),
    "chop-left": _of_kind(text_motions.chop_left),
    "previous-blank": _at(text_motions.previous_blank),
    "next-blank": _at(text_motions.next_blank),
    "next-blank-or-end": _at(text_motions.next_blank_or_end),
    "block-start": _at(text_motions.block_start),
    "next-block": _at(text_motions.next_block),
    "paragraph-on": _at(text_motions.paragraph_on),
    "paragraph-back": _at(text_motions.paragraph_back),
    "matching": _at(text_motions.matching),
    "matching-beside": _at(text_motions.matching_beside),
    "matching-ahead": _at(text_motions.matching_ahead),
    "matching-across": lambda options: lambda b: _there(b, text_motions.matching_across(b.text, b.cursor)),
    "run-left": _at(text_motions.run_left),
    "run-right": _at(text_motions.run_right),
    "word-last": _of_kind(text_units.last_of_word),
    "previous-last": _of_kind(text_units.previous_last_of_word),
    "next-part": _at(text_units.next_where(text_units.starts_part)),
    "previous-part": _at(text_units.previous_where(text_units.starts_part)),
    "next-sentence": _at(text_units.next_where(text_units.starts_sentence)),
    "previous-sentence": _at(text_units.previous_where(text_units.starts_sentence)),
    "paragraph-start": _at(text_units.previous_where(text_units.starts_paragraph)),
    "paragraph-end": _at(text_units.next_where(text_units.ends_paragraph)),
    "less-indented": _level(text_units.less_indented),
    "level-above": _level(text_units.same_level, -1),
    "level-below": _level(text_units.same_level, 1),
    "next-argument": _argument(1),
    "previous-argument": _argument(-1),
    "enclosing-bracket": lambda options: _bracket,
    "next-sign": lambda options: lambda b: _sign(b, 1),
    "previous-sign": lambda options: lambda b: _sign(b, -1),
    "character": _character,
    "column": _column,
    "percent": _percent,
    "next-same-word": lambda options: lambda b: _there(b, text_units.same_word(b.text, b.cursor, 1)),
    "previous-same-word": lambda options: lambda b: _there(b, text_units.same_word(b.text, b.cursor, -1)),
    "selection-start": lambda options: lambda b: b.selection[0],
    "selection-end": lambda options: lambda b: b.selection[1],
}


def place_of(words: Sequence[str]) -> Place:
    """The place that words name: its own, then options. Raises KeyError or IndexError where there is none."""
    return PLACES[words[0]](words[1:])


def whole_line(b: Buffer) -> tuple[int, int]:
    """Start and end of the line that the cursor is in, with its line break."""
    return text_motions.line_start(b.text, b.cursor), min(len(b.text), text_motions.line_end(b.text, b.cursor) + 1)


def touched_lines(b: Buffer) -> tuple[int, int]:
    """Start and end of the lines that the cursor or the selection touches, without the last line break."""
    start, end = b.selection
    if end > start and b.text[end - 1] == "\n":
        end -= 1
    return text_motions.line_start(b.text, start), text_motions.line_end(b.text, end)


def characters_on(b: Buffer) -> tuple[int, int]:
    """The character that a selection began with, and the one that the cursor is on; the same where nothing is selected."""
    if b.anchor is None or b.anchor == b.cursor:
        return b.cursor, b.cursor
    return (b.anchor, b.cursor - 1) if b.anchor < b.cursor else (b.anchor - 1, b.cursor)


def selected_characters(b: Buffer) -> tuple[int, int]:
    """What is selected; where nothing is, the character that the cursor is on."""
    start, end = b.selection
    return (start, end) if start < end else (start, min(len(b.text), start + 1))


def range_of(words: Sequence[str]) -> Range:
    """The range that words name, or `to` and a place. Raises KeyError or IndexError where there is none."""
    name = words[0]
    if name == "to":
        place = place_of(words[1:])

        def to(b: Buffer) -> tuple[int, int]:
            at = place(b)
            return (at, b.cursor) if at < b.cursor else (b.cursor, at)

        return to
    return RANGES[name]


def _unit(find: Callable[[str, int], text_units.Span]) -> Range:
    """A unit around the cursor. Raises Stop where there is none."""

    def found(b: Buffer) -> tuple[int, int]:
        span = find(b.text, b.cursor)
        if span is None:
            raise Stop
        return span

    return found


def _same_indentation(b: Buffer) -> tuple[int, int]:
    return _unit(lambda text, at: text_units.same_indentation(text, at, b.settings.tab_width))(b)


def _line_and_next(b: Buffer) -> tuple[int, int]:
    end = text_motions.line_end(b.text, b.cursor)
    if end + 1 > len(b.text):
        raise Stop
    return text_motions.line_start(b.text, b.cursor), text_motions.line_end(b.text, end + 1)


def _or_selection(find: Range) -> Range:
    """What is selected, or else a unit around the cursor."""
    return lambda b: b.selection if b.has_selection else find(b)


RANGES: dict[str, Range] = {
    "selection": lambda b: b.selection,
    "line": whole_line,
    "line-text": lambda b: (text_motions.line_start(b.text, b.cursor), text_motions.line_end(b.text, b.cursor)),
    "all": lambda b: (0, len(b.text)),
    "characters": selected_characters,
    "lines": lambda b: (touched_lines(b)[0], min(len(b.text), touched_lines(b)[1] + 1)),
    "whole-lines": lambda b: (touched_lines(b)[0], min(len(b.text), touched_lines(b)[1] + 1)),
    "spanned-lines": lambda b: (
        text_motions.line_start(b.text, b.selection[0]),
        min(len(b.text), text_motions.line_end(b.text, b.selection[1]) + 1),
    ),
    "touched": touched_lines,
    **{name: _unit(find) for name, find in text_units.UNITS.items()},
    "same-indentation": _same_indentation,
    "larger": lambda b: text_units.larger(b.text, *b.selection),
    "selection-or-word": _or_selection(_unit(text_units.word)),
    "selection-or-line": _or_selection(
        lambda b: (text_motions.line_start(b.text, b.cursor), text_motions.line_end(b.text, b.cursor))
    ),
    "line-and-next": _line_and_next,
    "touched-or-all": lambda b: touched_lines(b) if b.has_selection else (0, len(b.text)),
}


def _is_deletion(change: Change, text: str) -> bool:
    """Whether a change took a stretch of text away where the cursor is behind it, and did nothing else."""
    more, at = len(change.text) - len(text), change.after
    return more > 0 and change.text[:at] + change.text[at + more :] == text


TESTS: dict[str, Test] = {
    "at-newline": lambda b: b.text[characters_on(b)[1] : characters_on(b)[1] + 1] == "\n",
    "short": lambda b: b.goal is not None and b.goal > _cells_before(b),
    "at-last-sign": lambda b: b.cursor + 1 >= text_motions.line_end(b.text, b.cursor),
    "always": lambda b: True,
    "changed": lambda b: b.text != b.saved,
    "unchanged": lambda b: not b.past,
    "one-change": lambda b: len(b.past) < 2 and not b.taken_back,
    "one-deletion": lambda b: len(b.past) < 2 and not b.taken_back and all(_is_deletion(one, b.text) for one in b.past),
    "has-line-below": lambda b: text_motions.line_end(b.text, b.cursor) + 1 < len(b.text),
    "wide": lambda b: text_motions.cells(b.text, 1) != len(b.text),
    "one-line": lambda b: b.text.count("\n") <= 1,
    "selected": lambda b: b.has_selection,
    "marking": lambda b: b.marking,
    "anchored": lambda b: b.anchor is not None,
    "kept": lambda b: bool(b.clipboard),
    "kept-lines": lambda b: b.clipboard.endswith("\n"),
    "several-lines": lambda b: "\n" in b.text[slice(*touched_lines(b))],
    "by-lines": lambda b: b.by_lines,
    "adds-up": lambda b: b.adds_up,
    "adds-copies": lambda b: b.adds_copies,
    "first-line": lambda b: "\n" not in b.text[: b.cursor],
    "last-line": lambda b: "\n" not in b.text[b.cursor :],
    "second-last-line": lambda b: b.text.count("\n", b.cursor) == 1 and b.text.endswith("\n"),
    "before-blank": lambda b: b.text[b.cursor : b.cursor + 1] in (" ", "\t"),
    "blank-before": lambda b: not b.text[: b.cursor].strip(),
    "blank-behind": lambda b: not b.text[b.cursor :].strip(),
    "at-start": lambda b: b.cursor == 0,
    "at-end": lambda b: b.cursor == len(b.text),
    "at-line-start": lambda b: b.cursor == 0 or b.text[b.cursor - 1] == "\n",
    "at-line-end": lambda b: b.cursor == len(b.text) or b.text[b.cursor] == "\n",
    "empty-line": lambda b: text_motions.line_start(b.text, b.cursor) == text_motions.line_end(b.text, b.cursor),
    "blank-line": lambda b: (
        not b.text[text_motions.line_start(b.text, b.cursor) : text_motions.line_end(b.text, b.cursor)].strip()
    ),
    "before-text": lambda b: b.cursor <= text_motions.text_start(b.text, b.cursor),
    "in-indentation": lambda b: b.cursor < text_motions.text_start(b.text, b.cursor),
    "indented": lambda b: text_motions.text_start(b.text, b.cursor) > text_motions.line_start(b.text, b.cursor),
    "on-bracket": lambda b: b.text[b.cursor : b.cursor + 1] in tuple("()[]{}"),
    "auto-indent": lambda b: b.settings.auto_indent,
    "cut-from-cursor": lambda b: b.settings.cut_from_cursor,
    "smart-home": lambda b: b.settings.smart_home,
    "after-ends": lambda b: b.settings.after_ends,
    "typing-replaces": lambda b: b.settings.typing_replaces_selection,
}
