"""The words of the language of effects: places, ranges, tests, and the steps that change a buffer."""

from collections.abc import Callable, Sequence

from msgspec.structs import replace

from ombix.effects import places
from ombix.effects.buffer import Buffer, Settings

Test = Callable[[Buffer], bool]
Run = Callable[[Buffer], None]
Place = Callable[[Buffer], int]
Range = Callable[[Buffer], tuple[int, int]]


class Stop(Exception):
    """A step could not do its work; nothing more of the program is run."""


# --- places


def _left(options: Sequence[str]) -> Place:
    if "line" in options:
        return lambda b: max(places.line_start(b.text, b.cursor), b.cursor - 1)
    return lambda b: max(0, b.cursor - 1)


def _right(options: Sequence[str]) -> Place:
    if "line" in options:
        return lambda b: min(places.line_end(b.text, b.cursor), b.cursor + 1)
    return lambda b: min(len(b.text), b.cursor + 1)


_FAR = 1_000_000
"""A cell that no line has."""


def _cells_before(b: Buffer) -> int:
    return places.cells(b.text[places.line_start(b.text, b.cursor) : b.cursor], b.settings.tab_width)


def _cell(b: Buffer, options: Sequence[str]) -> int:
    """The cell that moves up and down keep to, noted for those that follow: on a tab, with `tabs`, its last one."""
    if b.goal is None:
        b.goal = _cells_before(b)
        if "tabs" in options and b.text[b.cursor : b.cursor + 1] == "\t":
            b.goal += b.settings.tab_width - b.goal % b.settings.tab_width - 1
    return b.goal


def _onto(b: Buffer, at: int) -> int:
    """A place on a character: that before the line end of a line that has some."""
    is_end = at == len(b.text) or b.text[at] == "\n"
    return at - 1 if is_end and at > places.line_start(b.text, at) else at


def _up(options: Sequence[str]) -> Place:
    def up(b: Buffer) -> int:
        cell = _cell(b, options)
        start = places.line_start(b.text, b.cursor)
        if start == 0:
            if "edge" in options:
                return 0
            stays = "stay" in options or b.settings.stops_at_edges
            return (_onto(b, b.cursor) if "clamped" in options else b.cursor) if stays else 0
        found = places.at_cell(b.text, places.line_start(b.text, start - 1), cell, b.settings.tab_width)
        return _onto(b, found) if "onto" in options else found

    return up


def _down(options: Sequence[str]) -> Place:
    def down(b: Buffer) -> int:
        cell = _cell(b, options)
        end = places.line_end(b.text, b.cursor)
        if end == len(b.text):
            if "edge" in options:
                return end
            return b.cursor if "stay" in options or b.settings.stops_at_edges else end
        if "full" in options and end + 1 == len(b.text):
            return _onto(b, b.cursor) if "clamped" in options else b.cursor
        found = places.at_cell(b.text, end + 1, cell, b.settings.tab_width)
        return _onto(b, found) if "onto" in options else found

    return down


def _at(find: Callable[[str, int], int]) -> Callable[[Sequence[str]], Place]:
    return lambda options: lambda b: find(b.text, b.cursor)


def _of_kind(find: Callable[[str, int, places.Kind], int]) -> Callable[[Sequence[str]], Place]:
    """A place that depends on what a word is: `words`, `names` or `runs`."""

    def build(options: Sequence[str]) -> Place:
        kind = places.KINDS[options[0]]
        return lambda b: find(b.text, b.cursor, kind)

    return build


PLACES: dict[str, Callable[[Sequence[str]], Place]] = {
    "here": lambda options: lambda b: b.cursor,
    "left": _left,
    "right": _right,
    "up": _up,
    "down": _down,
    "line-start": _at(places.line_start),
    "line-end": _at(places.line_end),
    "line-after": _at(lambda text, at: min(len(text), places.line_end(text, at) + 1)),
    "line-above": _at(lambda text, at: places.line_start(text, max(0, places.line_start(text, at) - 1))),
    "text-start": _at(places.text_start),
    "text-start-or-line-start": _at(places.text_start_or_line_start),
    "start": _at(lambda text, at: 0),
    "end": _at(lambda text, at: len(text)),
    "last-sign": lambda options: lambda b: _onto(b, places.line_end(b.text, b.cursor)),
    "last-of-text": lambda options: lambda b: _onto(b, max(0, len(b.text) - 1)),
    "last-full-line": _at(lambda text, at: places.line_start(text, max(0, len(text) - 1))),
    "last-line": _at(lambda text, at: places.line_start(text, len(text))),
    "past-word": _at(places.word_right),
    "before-word": lambda options: (
        _rebounding if "rebound" in options else lambda b: places.word_left(b.text, b.cursor)
    ),
    "next-start": _of_kind(places.next_start),
    "previous-start": _of_kind(places.previous_start),
    "next-end": _of_kind(places.next_end),
    "chop-right": _of_kind(places.chop_right),
    "chop-left": _of_kind(places.chop_left),
    "previous-blank": _at(places.previous_blank),
    "next-blank": _at(places.next_blank),
    "next-blank-or-end": _at(places.next_blank_or_end),
    "block-start": _at(places.block_start),
    "next-block": _at(places.next_block),
    "matching": _at(places.matching),
    "matching-beside": _at(places.matching_beside),
    "matching-ahead": _at(places.matching_ahead),
    "run-left": _at(places.run_left),
    "run-right": _at(places.run_right),
    "selection-start": lambda options: lambda b: b.selection[0],
    "selection-end": lambda options: lambda b: b.selection[1],
}


def _rebounding(b: Buffer) -> int:
    """Before the word at the left; where that would be before the start of the text, behind a sign there."""
    text, at = b.text, b.cursor
    if at <= 1 and text and not (text[0].isspace() or text[0].isalnum() or text[0] == "_"):
        return 1
    return places.word_left(text, at)


def _place(words: Sequence[str]) -> Place:
    return PLACES[words[0]](words[1:])


# --- ranges


def whole_line(b: Buffer) -> tuple[int, int]:
    """Start and end of the line that the cursor is in, with its line break."""
    return places.line_start(b.text, b.cursor), min(len(b.text), places.line_end(b.text, b.cursor) + 1)


def touched_lines(b: Buffer) -> tuple[int, int]:
    """Start and end of the lines that the cursor or the selection touches, without the last line break."""
    start, end = b.selection
    if end > start and b.text[end - 1] == "\n":
        end -= 1
    return places.line_start(b.text, start), places.line_end(b.text, end)


def _range(words: Sequence[str]) -> Range:
    name = words[0]
    if name == "to":
        place = _place(words[1:])

        def to(b: Buffer) -> tuple[int, int]:
            at = place(b)
            return (at, b.cursor) if at < b.cursor else (b.cursor, at)

        return to
    return RANGES[name]


RANGES: dict[str, Range] = {
    "selection": lambda b: b.selection,
    "line": whole_line,
    "line-text": lambda b: (places.line_start(b.text, b.cursor), places.line_end(b.text, b.cursor)),
    "all": lambda b: (0, len(b.text)),
    "characters": lambda b: _characters(b),
    "lines": lambda b: (touched_lines(b)[0], min(len(b.text), touched_lines(b)[1] + 1)),
}


# --- tests

TESTS: dict[str, Test] = {
    "at-newline": lambda b: b.text[_on(b)[1] : _on(b)[1] + 1] == "\n",
    "short": lambda b: b.goal is not None and b.goal > _cells_before(b),
    "at-last-sign": lambda b: b.cursor + 1 >= places.line_end(b.text, b.cursor),
    "at-last-of-text": lambda b: (
        not b.text[b.cursor + 1 :].strip("\n") and b.cursor + 1 >= places.line_end(b.text, b.cursor)
    ),
    "always": lambda b: True,
    "has-line-below": lambda b: places.line_end(b.text, b.cursor) + 1 < len(b.text),
    "one-line": lambda b: b.text.count("\n") <= 1,
    "selected": lambda b: b.has_selection,
    "marking": lambda b: b.marking,
    "anchored": lambda b: b.anchor is not None,
    "kept": lambda b: bool(b.clipboard),
    "by-lines": lambda b: b.by_lines,
    "adds-up": lambda b: b.adds_up,
    "adds-copies": lambda b: b.adds_copies,
    "first-line": lambda b: "\n" not in b.text[: b.cursor],
    "last-line": lambda b: "\n" not in b.text[b.cursor :],
    "second-last-line": lambda b: b.text.count("\n", b.cursor) == 1 and b.text.endswith("\n"),
    "at-start": lambda b: b.cursor == 0,
    "at-end": lambda b: b.cursor == len(b.text),
    "at-line-start": lambda b: b.cursor == 0 or b.text[b.cursor - 1] == "\n",
    "at-line-end": lambda b: b.cursor == len(b.text) or b.text[b.cursor] == "\n",
    "empty-line": lambda b: places.line_start(b.text, b.cursor) == places.line_end(b.text, b.cursor),
    "blank-line": lambda b: not b.text[places.line_start(b.text, b.cursor) : places.line_end(b.text, b.cursor)].strip(),
    "before-text": lambda b: b.cursor <= places.text_start(b.text, b.cursor),
    "in-indentation": lambda b: b.cursor < places.text_start(b.text, b.cursor),
    "indented": lambda b: places.text_start(b.text, b.cursor) > places.line_start(b.text, b.cursor),
    "backwards": lambda b: b.anchor is not None and b.cursor < b.anchor,
    "many-lines": lambda b: "\n" in b.text[slice(*b.selection)],
    "on-closing": lambda b: b.text[b.cursor : b.cursor + 1] in (")", "]", "}"),
    "on-bracket": lambda b: b.text[b.cursor : b.cursor + 1] in tuple("()[]{}"),
    "newline-ends": lambda b: b.text.endswith("\n"),
    "empty": lambda b: not b.text,
    "auto-indent": lambda b: b.settings.auto_indent,
    "cut-from-cursor": lambda b: b.settings.cut_from_cursor,
    "smart-home": lambda b: b.settings.smart_home,
    "after-ends": lambda b: b.settings.after_ends,
    "typing-replaces": lambda b: b.settings.typing_replaces_selection,
}


# --- steps


def _go(words: Sequence[str]) -> Run:
    """The cursor goes there; the selection is given up, unless the mark is set."""
    place = _place(words)

    def go(b: Buffer) -> None:
        b.cursor = place(b)
        b.held = None
        if not b.marking:
            b.anchor = None

    return go


def _stand(words: Sequence[str]) -> Run:
    """The cursor goes there; what is selected stays so."""
    place = _place(words)

    def stand(b: Buffer) -> None:
        if b.held is None and b.has_selection:
            b.held = b.selection
        b.cursor = place(b)
        if b.held is None:
            b.anchor = None

    return stand


def _hold(words: Sequence[str]) -> Run:
    """A range is selected, the cursor stays where it is."""
    found = _range(words)

    def hold(b: Buffer) -> None:
        b.held = found(b)
        b.anchor = b.held[0]

    return hold


def _extend(words: Sequence[str]) -> Run:
    """The selection is extended to there; with `held`, from where the cursor is, if that is no end of what is held."""
    keeps = "held" in words
    place = _place([word for word in words if word != "held"])

    def extend(b: Buffer) -> None:
        if keeps:
            _extend_held(b, place)
            return
        if b.anchor is None or not (b.has_selection or b.marking):
            b.anchor = b.cursor
        b.held = None
        b.cursor = place(b)

    return extend


def _extend_held(b: Buffer, place: Place) -> None:
    start, end = b.held or (b.cursor, b.cursor)
    other = start if b.cursor == end else end if b.cursor == start else b.cursor
    b.cursor = place(b)
    b.held = (min(other, b.cursor), max(other, b.cursor)) if other != b.cursor else None
    b.anchor = None


def _drop(words: Sequence[str]) -> Run:
    """Nothing is selected any more."""

    return Buffer.drop


def _mark(words: Sequence[str]) -> Run:
    """What moves from here on selects."""

    def mark(b: Buffer) -> None:
        b.anchor = b.cursor
        b.marking = True

    return mark


def _select(words: Sequence[str]) -> Run:
    """A range is selected, the cursor at its end."""
    found = _range(words)

    def select(b: Buffer) -> None:
        b.anchor, b.cursor = found(b)

    return select


def _turn(words: Sequence[str]) -> Run:
    """The cursor goes to the other end of the selection."""

    def turn(b: Buffer) -> None:
        if b.anchor is not None:
            b.anchor, b.cursor = b.cursor, b.anchor

    return turn


def _copy(words: Sequence[str]) -> Run:
    """A range is kept: `lines` as lines, `more` behind what was kept where that adds up, `break` with a line break that its
    end lacks."""
    options = [word for word in words if word in ("lines", "more", "break")]
    found = _range([word for word in words if word not in options])
    by_lines, more, ends = "lines" in options, "more" in options, "break" in options

    def copy(b: Buffer) -> None:
        start, end = found(b)
        text = b.text[start:end]
        if ends and not text.endswith("\n"):
            text += "\n"
        b.clipboard = b.clipboard + text if more else text
        b.by_lines = by_lines

    return copy


def change(b: Buffer, start: int, end: int, text: str) -> None:
    """Put `text` in place of what is between two offsets; cursor, anchor and what is held keep their characters."""
    b.replace(start, end, text)
    gone, new = end - start, len(text)

    def kept(at: int) -> int:
        return at if at <= start else at - gone + new if at >= end else start

    b.cursor = kept(b.cursor)
    if b.anchor is not None:
        b.anchor = kept(b.anchor)
    if b.held is not None:
        b.held = (kept(b.held[0]), kept(b.held[1]))
        if b.held[0] == b.held[1]:
            b.held = None


def _remove(words: Sequence[str]) -> Run:
    """A range is taken away; what is selected stays so."""
    found = _range(words)
    return lambda b: change(b, *found(b), "")


def _kill(words: Sequence[str]) -> Run:
    """A range is kept, in its place before or behind what was kept where that adds up, and taken away."""
    found = _range(words)

    def kill(b: Buffer) -> None:
        start, end = found(b)
        if start == end:
            return
        text = b.text[start:end]
        if b.adds_up:
            text = text + b.clipboard if end == b.cursor else b.clipboard + text
        b.clipboard, b.by_lines, b.adds_up = text, False, True
        change(b, start, end, "")

    return kill


def _delete(words: Sequence[str]) -> Run:
    """A range is taken away, the cursor comes to where it was, and nothing is selected."""
    found = _range(words)

    def delete(b: Buffer) -> None:
        start, end = found(b)
        b.text = b.text[:start] + b.text[end:]
        b.cursor = start
        b.drop()

    return delete


def _cut(words: Sequence[str]) -> Run:
    """A range is kept and taken away."""
    copy, delete = _copy(words), _delete([word for word in words if word not in ("lines", "more", "break")])

    def cut(b: Buffer) -> None:
        copy(b)
        delete(b)

    return cut


def _put(b: Buffer, text: str) -> None:
    start, end = b.selection
    b.replace(start, end, text)
    b.cursor = start + len(text)
    b.drop()


def _paste(words: Sequence[str]) -> Run:
    """What was kept is put in place of the selection, the cursor behind it."""
    return lambda b: _put(b, b.clipboard)


def _insert(words: Sequence[str]) -> Run:
    """Something is put in at the cursor, which goes behind it; selection and mark keep their places."""
    text = _text(words[0])

    def insert(b: Buffer) -> None:
        piece = text(b)
        at = b.cursor
        if not (b.marking or b.has_selection):
            b.drop()
        b.replace(at, at, piece)
        b.cursor = at + len(piece)
        if b.anchor is not None and b.anchor > at:
            b.anchor += len(piece)
        if b.held is not None:
            first, last = b.held
            b.held = first + len(piece) * (first >= at), last + len(piece) * (last >= at)

    return insert


def _type(words: Sequence[str]) -> Run:
    """Something is typed: in place of the selection, the cursor behind it."""
    text = _text(words[0])
    return lambda b: _put(b, text(b))


def _text(word: str) -> Callable[[Buffer], str]:
    if word == "kept":
        return lambda b: b.clipboard
    if word == "indentation":
        return lambda b: b.settings.indentation
    if word == "break":
        return lambda b: "\n"
    if word == "break-and-indentation":
        return _break_and_indentation
    if word == "line-text":
        return lambda b: b.text[places.line_start(b.text, b.cursor) : places.line_end(b.text, b.cursor)]
    if word == "selection":
        return lambda b: b.text[slice(*b.selection)]
    if word[0] != '"':
        raise KeyError(word)
    said = word[1:-1].replace("\\t", "\t").replace("\\n", "\n").replace('\\"', '"')
    return lambda b: said


def _break_and_indentation(b: Buffer) -> str:
    at = b.selection[0]
    start = places.line_start(b.text, at)
    first = min(places.text_start(b.text, at), at)
    return "\n" + (b.text[start:first] if b.settings.auto_indent else "")


def _strip_above(words: Sequence[str]) -> Run:
    """The line above is emptied, where it has nothing but blanks."""

    def strip(b: Buffer) -> None:
        end = places.line_start(b.text, b.cursor) - 1
        start = places.line_start(b.text, max(end, 0))
        if start < end and not b.text[start:end].strip(" \t"):
            b.replace(start, end, "")
            b.cursor -= end - start

    return strip


def _fill(words: Sequence[str]) -> Run:
    """Something is put in at the cursor, which goes behind it; what is selected keeps its characters."""
    text = _text(words[0])

    def fill(b: Buffer) -> None:
        piece, at = text(b), b.cursor
        change(b, at, at, piece)
        b.cursor = at + len(piece)

    return fill


def _paste_stay(words: Sequence[str]) -> Run:
    """What was kept is put in at the cursor, which stays."""

    def put(b: Buffer) -> None:
        change(b, b.cursor, b.cursor, b.clipboard)

    return put


def _cells_line(line: str, by: int, settings: Settings) -> str:
    """A line that begins so many cells further to the right, its blanks written with as many tabs as they can be."""
    blanks = len(line) - len(line.lstrip(" \t"))
    width = max(0, places.cells(line[:blanks], settings.tab_width) + by)
    return "\t" * (width // settings.tab_width) + " " * (width % settings.tab_width) + line[blanks:]


def _indented_cells(line: str, settings: Settings) -> str:
    return _cells_line(line, settings.tab_width, settings) if line else line


def _outdented_cells(line: str, settings: Settings) -> str:
    return _cells_line(line, -settings.tab_width, settings)


# --- where the cursor is on a character, and what is selected has it in it


def _on(b: Buffer) -> tuple[int, int]:
    """The character that a selection began with, and the one that the cursor is on; the same where nothing is selected."""
    if b.anchor is None or b.anchor == b.cursor:
        return b.cursor, b.cursor
    return (b.anchor, b.cursor - 1) if b.anchor < b.cursor else (b.anchor - 1, b.cursor)


def _select_on(b: Buffer, first: int, last: int) -> None:
    """Select from one character to another, with both, the cursor on the second."""
    b.held, b.marking = None, False
    if first == last:
        b.anchor, b.cursor = None, last
    elif first < last:
        b.anchor, b.cursor = first, last + 1
    else:
        b.anchor, b.cursor = first + 1, last


def _step_on(words: Sequence[str]) -> Run:
    """The cursor goes onto another character; with `extend`, what is between is selected."""
    extends = words[0] == "extend"
    place = _place(words[1:] if extends else words)

    def go(b: Buffer) -> None:
        first, last = _on(b)
        b.cursor = last
        to = max(0, min(place(b), len(b.text) - 1))
        _select_on(b, first if extends else to, to)

    return go


def _select_to_on(words: Sequence[str]) -> Run:
    """What is between the cursor's character and another one is selected, with both."""
    place = _place(words)

    def select(b: Buffer) -> None:
        _first, last = _on(b)
        b.cursor, b.anchor = last, None
        _select_on(b, last, max(0, min(place(b), len(b.text) - 1)))

    return select


def _characters(b: Buffer) -> tuple[int, int]:
    """What is selected; where nothing is, the character that the cursor is on."""
    start, end = b.selection
    return (start, end) if start < end else (start, min(len(b.text), start + 1))


def _put_beside(words: Sequence[str]) -> Run:
    """What was kept is put in behind or before the selection, lines below or above its lines, and selected."""
    behind = words[0] == "behind"

    def put(b: Buffer) -> None:
        start, end = _characters(b)
        if b.clipboard.endswith("\n"):
            at = min(len(b.text), places.line_end(b.text, end - 1) + 1) if behind else places.line_start(b.text, start)
        else:
            at = end if behind else start
        b.replace(at, at, b.clipboard)
        b.cursor, b.anchor = at, None
        _select_on(b, at, at + max(len(b.clipboard), 1) - 1)

    return put


def _complete(words: Sequence[str]) -> Run:
    """The text ends with a line break, and the cursor is on a character."""

    def complete(b: Buffer) -> None:
        if not b.text.endswith("\n"):
            b.text += "\n"
        if b.cursor >= len(b.text) and (b.anchor is None or b.anchor == b.cursor):
            b.cursor, b.anchor = len(b.text) - 1, None

    return complete


def _goal(words: Sequence[str]) -> Run:
    """What moves up and down next goes to the ends of the lines."""

    def goal(b: Buffer) -> None:
        b.goal = _FAR

    return goal


def _lines_below(words: Sequence[str]) -> Run:
    """What was kept is put in below the line, the cursor at its start."""

    def put(b: Buffer) -> None:
        at = places.line_end(b.text, b.cursor) + 1
        kept = b.clipboard if b.clipboard.endswith("\n") else b.clipboard + "\n"
        b.text = b.text[:at] + kept + b.text[at:]
        b.cursor = at
        b.drop()

    return put


def _lines_above(words: Sequence[str]) -> Run:
    """What was kept is put in above the line, the cursor at its start."""

    def put(b: Buffer) -> None:
        at = places.line_start(b.text, b.cursor)
        kept = b.clipboard if b.clipboard.endswith("\n") else b.clipboard + "\n"
        b.text = b.text[:at] + kept + b.text[at:]
        b.cursor = at
        b.drop()

    return put


def _add_up(words: Sequence[str]) -> Run:
    """Whether what is cut next, or copied next, adds to what was kept."""
    cuts, copies = words[0] == "yes", words[0] == "copies"

    def add_up(b: Buffer) -> None:
        b.adds_up, b.adds_copies = cuts, copies

    return add_up


def _stop(words: Sequence[str]) -> Run:
    """Nothing more is done."""

    def stop(b: Buffer) -> None:
        raise Stop

    return stop


# --- lines


Change = Callable[[str, Settings], str]


def _indented(line: str, settings: Settings) -> str:
    return settings.indentation + line if line else line


def _indented_empty(line: str, settings: Settings) -> str:
    return settings.indentation + line


def _outdented_by_signs(line: str, settings: Settings) -> str:
    blanks = len(line) - len(line.lstrip(" \t"))
    return line[min(blanks, len(settings.indentation)) :]


def _outdented(line: str, settings: Settings) -> str:
    if line.startswith("\t"):
        return line[1:]
    width = settings.tab_width if settings.indentation == "\t" else len(settings.indentation)
    blanks = len(line) - len(line.lstrip(" "))
    return line[min(blanks, width) :]


def change_lines(b: Buffer, change: Callable[[str], str], lines: tuple[int, int], sticky: bool = False) -> None:
    """Change each of the touched lines; the cursor and the anchor keep their characters. With `sticky`, a cursor at the
    start of its line stays there."""
    start, end = lines
    places_before = (b.cursor, b.anchor, *(b.held or (None, None)))
    moved = list(places_before)
    offset = start
    pieces = []
    for line in b.text[start:end].split("\n"):
        changed = change(line)
        grown = len(changed) - len(line)
        first = offset + (len(line) - len(line.lstrip(" \t")) if grown > 0 and not changed.endswith(line) else 0)
        for index, place in enumerate(places_before):
            now = moved[index]
            if place is None or now is None or place < first or (sticky and not index and place == offset):
                continue
            moved[index] = now + max(grown, first - place)
        offset += len(line) + 1
        pieces.append(changed)
    b.replace(start, end, "\n".join(pieces))
    cursor, b.anchor, first_held, last_held = moved
    assert cursor is not None
    b.cursor = cursor
    b.held = None if first_held is None or last_held is None else (first_held, last_held)


def _lines(change: Change) -> Callable[[Sequence[str]], Run]:
    """Each touched line is changed; with `sticky` a cursor at the start of its line stays there, with `within` a selection
    that ended with a line break ends before it; with `twice` the cursor goes back by what was taken away, from its column or
    the new end of the line, where it can; a text is taken for the indentation."""

    def build(words: Sequence[str]) -> Run:
        sticky, within, twice = "sticky" in words, "within" in words, "twice" in words
        own = next((word[1:-1].replace("\\t", "\t") for word in words if word[0] == '"'), None)

        def run(b: Buffer) -> None:
            settings = b.settings if own is None else replace(b.settings, indentation=own)
            held, lines = b.held, touched_lines(b)
            last = b.text[lines[0] : lines[1]].split("\n")[-1]
            if held is not None and own is not None:  # what is held keeps its characters
                _change_held(b, lambda line: change(line, settings), lines)
                return
            column, size = b.cursor - places.line_start(b.text, b.cursor), len(b.text)
            change_lines(b, lambda line: change(line, settings), lines, sticky)
            if twice:
                line, gone = places.line_start(b.text, b.cursor), size - len(b.text)
                column = min(column, max(places.line_end(b.text, b.cursor) - line - 1, 0))
                b.cursor = line + (column - gone if column >= gone else column)
            start, end = b.selection
            if within and start < end and b.text[end - 1] == "\n" and b.text[start:end].split("\n")[-2] != last:
                b.held = (start, end - 1)

        return run

    return build


def _change_held(b: Buffer, changed: Callable[[str], str], lines: tuple[int, int]) -> None:
    at = lines[0]
    for line in b.text[slice(*lines)].split("\n"):
        new = changed(line)
        common = 0 if len(new) > len(line) else len(line) - len(new)
        change(b, at, at + common, new[: len(new) - (len(line) - common)])
        at += len(new) + 1


def _comment(words: Sequence[str]) -> Run:
    """The touched lines become comments, or text again; with `blanks` those that are blank, too, where they become some."""
    sticky, blanks = "sticky" in words, "blanks" in words

    def run(b: Buffer) -> None:
        start, end = touched_lines(b)
        whole = b.settings.comment
        mark = whole.rstrip()
        lines = [line for line in b.text[start:end].split("\n") if line.strip()]
        if lines and all(line.startswith(mark) for line in lines):
            change_lines(b, lambda line: line.removeprefix(whole if line.startswith(whole) else mark), (start, end))
        else:
            change_lines(b, lambda line: whole + line if blanks or line.strip() else line, (start, end), sticky)

    return run


def _comment_line(words: Sequence[str]) -> Run:
    """The line becomes a comment behind its indentation, or text again; the cursor moves by the mark, within the line."""

    def run(b: Buffer) -> None:
        start, end = places.line_start(b.text, b.cursor), places.line_end(b.text, b.cursor)
        line, mark = b.text[start:end], b.settings.comment
        blanks = len(line) - len(line.lstrip(" \t"))
        rest = line[blanks:]
        by = len(mark)
        if rest.startswith(mark.rstrip()):
            changed, by = line[:blanks] + rest.removeprefix(mark.rstrip()).lstrip(" \t"), -by
        else:
            changed = line[:blanks] + mark + rest
        cursor = b.cursor
        change(b, start, end, changed)
        b.cursor = min(max(start, cursor + by), start + len(changed))

    return run


def _shift(b: Buffer, text: str, by: int) -> None:
    b.text = text
    b.cursor += by
    if b.anchor is not None:
        b.anchor += by


def _swap_up(words: Sequence[str]) -> Run:
    """The touched lines change places with the one above; with `breaks`, the last line of a text gets a line break."""
    breaks = "breaks" in words

    def swap(b: Buffer) -> None:
        start, end = touched_lines(b)
        if start == 0:
            return
        above, text = places.line_start(b.text, start - 1), b.text
        joined = text[:above] + text[start:end] + "\n" + text[above : start - 1] + text[end:]
        _shift(b, joined + "\n" if breaks and end == len(text) else joined, above - start)

    return swap


def _swap_down(words: Sequence[str]) -> Run:
    """The touched lines change places with the one below; with `breaks`, the last line of a text gets a line break."""
    breaks = "breaks" in words

    def swap(b: Buffer) -> None:
        start, end = touched_lines(b)
        if end == len(b.text):
            return
        below, text = places.line_end(b.text, end + 1), b.text
        joined = text[:start] + text[end + 1 : below] + "\n" + text[start:end] + text[below:]
        _shift(b, joined + "\n" if breaks and below == len(text) else joined, below - end)

    return swap


def _settle(words: Sequence[str]) -> Run:
    """The cursor comes to stand on a character: never behind the last one of a line that has some."""

    def settle(b: Buffer) -> None:
        text, at = b.text, b.cursor
        if at == len(text) and at and text[at - 1] == "\n":
            at -= 1
        if (at == len(text) or text[at] == "\n") and at and text[at - 1] != "\n":
            at -= 1
        b.cursor = at

    return settle


def _duplicate(words: Sequence[str]) -> Run:
    """The selection stands twice, one behind the other; or the line, one below the other; the cursor is at the copy's end.
    With `selected`, both are selected, and the cursor only moves where it was at their end."""
    found = _range(words)
    joint = "\n" if words[0] == "line-text" else ""
    selects = "selected" in words

    def duplicate(b: Buffer) -> None:
        start, end = found(b)
        piece = joint + b.text[start:end]
        b.replace(end, end, piece)
        if selects:
            b.held = (start, end + len(piece))
            b.cursor += len(piece) * (b.cursor >= end)
            return
        b.cursor = end + len(piece)
        b.drop()

    return duplicate


STEPS: dict[str, Callable[[Sequence[str]], Run]] = {
    "go": _go,
    "stand": _stand,
    "hold": _hold,
    "extend": _extend,
    "drop": _drop,
    "mark": _mark,
    "select": _select,
    "turn": _turn,
    "copy": _copy,
    "delete": _delete,
    "remove": _remove,
    "kill": _kill,
    "fill": _fill,
    "step-on": _step_on,
    "select-to-on": _select_to_on,
    "put-beside": _put_beside,
    "complete": _complete,
    "goal": _goal,
    "paste-stay": _paste_stay,
    "indent-cells": _lines(_indented_cells),
    "outdent-cells": _lines(_outdented_cells),
    "lines-below": _lines_below,
    "lines-above": _lines_above,
    "cut": _cut,
    "paste": _paste,
    "insert": _insert,
    "type": _type,
    "adds-up": _add_up,
    "stop": _stop,
    "strip-above": _strip_above,
    "indent": _lines(_indented),
    "indent-empty": _lines(_indented_empty),
    "outdent-signs": _lines(_outdented_by_signs),
    "outdent": _lines(_outdented),
    "comment": _comment,
    "comment-line": _comment_line,
    "swap-up": _swap_up,
    "swap-down": _swap_down,
    "duplicate": _duplicate,
    "settle": _settle,
}
