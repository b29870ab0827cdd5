"""What actions do to a text, exactly: pure functions from a page to a page."""

from collections.abc import Callable
from dataclasses import dataclass, replace


@dataclass(frozen=True, slots=True)
class Page:
    """A text with a cursor. `cursor` and `anchor` are offsets in `text`, from 0 to its length, between characters.

    With an anchor, what lies between it and the cursor is selected; `marking` tells that moving the cursor extends the
    selection instead of giving it up. `clipboard` is what was last cut or copied. `goal` is the cell, from 0, that moves up
    and down in a row keep to, where shorter lines are between.
    """

    text: str
    cursor: int
    anchor: int | None = None
    clipboard: str = ""
    marking: bool = False
    goal: int | None = None

    @property
    def selection(self) -> tuple[int, int]:
        """Start and end of the selection; both are the cursor when nothing is selected."""
        if self.anchor is None:
            return self.cursor, self.cursor
        return min(self.anchor, self.cursor), max(self.anchor, self.cursor)

    @property
    def has_selection(self) -> bool:
        """Whether at least one character is selected."""
        start, end = self.selection
        return start != end


@dataclass(frozen=True, slots=True)
class Habits:
    """What an editor is set to, whichever key runs an action.

    The text of one step of indentation; the width of a tab in cells; whether a new line is indented like the one
    before; what begins a comment; whether going up from the first line or down from the last does nothing.
    """

    indentation: str = "\t"
    tab_width: int = 8
    auto_indent: bool = False
    comment: str = "# "
    stops_at_edges: bool = False


Effect = Callable[[Page, Habits], Page]

EFFECTS: dict[str, Effect] = {}
"""Action name to its exact effect, for the actions that only change the text, the cursor and the selection."""


def run(action: str, page: Page, habits: Habits | None = None) -> Page:
    """The page after an action. Raises KeyError for an action without an exact effect."""
    after = EFFECTS[action](page, habits or Habits())
    return after if action in _VERTICAL or after.goal is None else replace(after, goal=None)


def _effect(*names: str) -> Callable[[Effect], Effect]:
    def register(function: Effect) -> Effect:
        for name in names:
            EFFECTS[name] = function
        return function

    return register


# --- places in a text


def line_start(text: str, at: int) -> int:
    """The offset of the start of the line that `at` is in."""
    return text.rfind("\n", 0, at) + 1


def line_end(text: str, at: int) -> int:
    """The offset of the end of the line that `at` is in, before its line break."""
    end = text.find("\n", at)
    return len(text) if end < 0 else end


def _text_start(text: str, at: int) -> int:
    start, end = line_start(text, at), line_end(text, at)
    while start < end and text[start] in " \t":
        start += 1
    return start


def cells(line: str, tab_width: int) -> int:
    """The width of the text in cells, tabs going to the next multiple of `tab_width`."""
    width = 0
    for char in line:
        width += tab_width - width % tab_width if char == "\t" else 1
    return width


def _at_cell(text: str, start: int, cell: int, tab_width: int) -> int:
    """The offset in the line from `start` on whose character covers `cell`, or the line's end."""
    end, width, at = line_end(text, start), 0, start
    while at < end:
        width += tab_width - width % tab_width if text[at] == "\t" else 1
        if width > cell:
            break
        at += 1
    return at


def _up(text: str, at: int, cell: int, habits: Habits) -> int:
    start = line_start(text, at)
    if start == 0:
        return at if habits.stops_at_edges else 0
    return _at_cell(text, line_start(text, start - 1), cell, habits.tab_width)


def _down(text: str, at: int, cell: int, habits: Habits) -> int:
    end = line_end(text, at)
    if end == len(text):
        return at if habits.stops_at_edges else end
    return _at_cell(text, end + 1, cell, habits.tab_width)


def _is_word(char: str) -> bool:
    return char.isalnum() or char == "_"


def _word_right(text: str, at: int) -> int:
    """Over blanks and a line end, then over one character and the word characters behind it."""
    while at < len(text) and text[at] in " \t\n":
        if text[at] == "\n":
            return at + 1
        at += 1
    at = min(len(text), at + 1)
    while at < len(text) and _is_word(text[at]):
        at += 1
    return at


def _word_left(text: str, at: int) -> int:
    """Back over blanks and a line end, then over one character and the word characters before it, within the line."""
    if at == 0:
        return 0
    at -= 1
    while at < len(text) and text[at] in " \t\n":
        if at == line_start(text, at):
            return at
        at -= 1
    if at == line_start(text, at):
        return at
    at -= 1
    while _is_word(text[at]):
        if at == line_start(text, at):
            return at
        at -= 1
    return at + 1


def _next_word(text: str, at: int) -> int:
    """The start of the next word of letters and digits."""
    while at < len(text) and text[at].isalnum():
        at += 1
    while at < len(text) and not text[at].isalnum():
        at += 1
    return at


def _previous_word(text: str, at: int) -> int:
    """The start of the word of letters and digits at the left."""
    while at > 0 and not text[at - 1].isalnum():
        at -= 1
    while at > 0 and text[at - 1].isalnum():
        at -= 1
    return at


def _chop_right(text: str, at: int) -> int:
    """The start of the next word, but not beyond the line's end; from there, the start of the line that has it."""
    place, end = _next_word(text, at), line_end(text, at)
    if place <= end:
        return place
    return end if at < end else line_start(text, place)


def _chop_left(text: str, at: int) -> int:
    """The start of the previous word, but not beyond the line's start; from there, the end of the line that has it."""
    place, start = _previous_word(text, at), line_start(text, at)
    if place >= start:
        return place
    return start if at > start else line_end(text, place)


def _previous_blank(text: str, at: int) -> int:
    place = line_start(text, at)
    while place > 0:
        place = line_start(text, place - 1)
        if line_end(text, place) == place:
            return place
    return 0


def _next_blank(text: str, at: int) -> int:
    place = line_start(text, at)
    while (end := line_end(text, place)) < len(text):
        place = end + 1
        if line_end(text, place) == place:
            return place
    return place


def _is_blank_line(text: str, at: int) -> bool:
    return not text[line_start(text, at) : line_end(text, at)].strip()


def _block_start(text: str, at: int) -> int:
    place = line_start(text, at)
    if place == 0:
        return 0
    place = line_start(text, place - 1)
    while place > 0 and _is_blank_line(text, place):
        place = line_start(text, place - 1)
    while place > 0 and not _is_blank_line(text, place - 1):
        place = line_start(text, place - 1)
    return place


def _next_block(text: str, at: int) -> int:
    place = line_start(text, at)
    while not _is_blank_line(text, place):
        if line_end(text, place) == len(text):
            return len(text)
        place = line_end(text, place) + 1
    while _is_blank_line(text, place):
        if line_end(text, place) == len(text):
            return len(text)
        place = line_end(text, place) + 1
    return place


_PAIRS = {"(": ")", "[": "]", "{": "}"}


def _matching(text: str, at: int) -> int:
    if at >= len(text):
        return at
    here = text[at]
    if here in _PAIRS:
        step, partner = 1, _PAIRS[here]
    elif here in _PAIRS.values():
        step, partner = -1, next(key for key, value in _PAIRS.items() if value == here)
    else:
        return at
    depth, place = 0, at
    while 0 <= place < len(text):
        if text[place] == here:
            depth += 1
        elif text[place] == partner:
            depth -= 1
            if depth == 0:
                return place
        place += step
    return at


def _text_start_or_line_start(text: str, at: int) -> int:
    start = _text_start(text, at)
    return line_start(text, at) if at == start else start


Move = Callable[[str, int], int]

_MOVES: dict[str, Move] = {
    "left": lambda text, at: max(0, at - 1),
    "right": lambda text, at: min(len(text), at + 1),
    "line-start": line_start,
    "line-end": line_end,
    "text-start": _text_start,
    "text-start-or-line-start": _text_start_or_line_start,
    "word-left": _word_left,
    "word-right": _word_right,
    "next-word": _next_word,
    "previous-word": _previous_word,
    "document-start": lambda text, at: 0,
    "document-end": lambda text, at: len(text),
    "previous-blank-line": _previous_blank,
    "next-blank-line": _next_blank,
    "block-start": _block_start,
    "next-block": _next_block,
    "matching-bracket": _matching,
}
_NOT_SELECTED = ("previous-blank-line", "next-blank-line", "block-start", "next-block", "matching-bracket")


def _move_to(page: Page, cursor: int) -> Page:
    return replace(page, cursor=cursor, anchor=page.anchor if page.marking else None)


def _select_to(page: Page, cursor: int) -> Page:
    return replace(page, cursor=cursor, anchor=page.cursor if page.anchor is None else page.anchor)


def _mover(move: Move, side: str) -> Effect:
    def effect(page: Page, habits: Habits) -> Page:
        if page.has_selection and side and not page.marking:
            start, end = page.selection
            return replace(page, cursor=start if side == "left" else end, anchor=None)
        return _move_to(page, move(page.text, page.cursor))

    return effect


def _selector(move: Move) -> Effect:
    return lambda page, habits: _select_to(page, move(page.text, page.cursor))


for _name, _move in _MOVES.items():
    EFFECTS[f"cursor.{_name}"] = _mover(_move, _name if _name in ("left", "right") else "")
    if _name not in _NOT_SELECTED:
        EFFECTS[f"select.{_name}"] = _selector(_move)


Vertical = Callable[[str, int, int, Habits], int]
_VERTICAL = ("cursor.up", "cursor.down", "select.up", "select.down")


def _vertical(go: Vertical, to: Callable[[Page, int], Page]) -> Effect:
    """A move to another line, at the cell that was started from."""

    def effect(page: Page, habits: Habits) -> Page:
        start = line_start(page.text, page.cursor)
        cell = cells(page.text[start : page.cursor], habits.tab_width) if page.goal is None else page.goal
        return replace(to(page, go(page.text, page.cursor, cell, habits)), goal=cell)

    return effect


for _name, _go in {"up": _up, "down": _down}.items():
    EFFECTS[f"cursor.{_name}"] = _vertical(_go, _move_to)
    EFFECTS[f"select.{_name}"] = _vertical(_go, _select_to)


@_effect("select.all")
def _select_all(page: Page, habits: Habits) -> Page:
    return replace(page, anchor=0, cursor=len(page.text))


@_effect("select.line")
def _select_line(page: Page, habits: Habits) -> Page:
    end = line_end(page.text, page.cursor)
    return replace(page, anchor=line_start(page.text, page.cursor), cursor=min(len(page.text), end + 1))


@_effect("select.toggle-mark")
def _toggle_mark(page: Page, habits: Habits) -> Page:
    return replace(page, anchor=page.cursor if page.anchor is None else None, marking=page.anchor is None)


@_effect("select.clear")
def _clear(page: Page, habits: Habits) -> Page:
    return replace(page, anchor=None, marking=False)


# --- changing text


def insert(page: Page, text: str) -> Page:
    """The page with `text` in place of the selection, the cursor behind it."""
    start, end = page.selection
    return replace(
        page,
        text=page.text[:start] + text + page.text[end:],
        cursor=start + len(text),
        anchor=None,
        marking=False,
        goal=None,
    )


def _delete_to(move: Move) -> Effect:
    def effect(page: Page, habits: Habits) -> Page:
        if page.has_selection:
            return insert(page, "")
        start, end = sorted((page.cursor, move(page.text, page.cursor)))
        return replace(page, text=page.text[:start] + page.text[end:], cursor=start, anchor=None)

    return effect


for _name, _move in {
    "delete-left": _MOVES["left"], "delete-right": _MOVES["right"], "delete-word-left": _word_left,
    "delete-word-right": _word_right, "delete-to-next-word": _chop_right, "delete-to-previous-word": _chop_left,
}.items():  # fmt: skip
    EFFECTS[f"edit.{_name}"] = _delete_to(_move)


@_effect("edit.newline")
def _newline(page: Page, habits: Habits) -> Page:
    start = line_start(page.text, page.cursor)
    indentation = page.text[start : min(_text_start(page.text, page.cursor), page.cursor)] if habits.auto_indent else ""
    return insert(page, "\n" + indentation)


@_effect("edit.insert-tab")
def _insert_tab(page: Page, habits: Habits) -> Page:
    return insert(page, habits.indentation)


@_effect("edit.insert-space")
def _insert_space(page: Page, habits: Habits) -> Page:
    return insert(page, " ")


@_effect("edit.cut")
def _cut(page: Page, habits: Habits) -> Page:
    if page.has_selection:
        start, end = page.selection
        return replace(insert(page, ""), clipboard=page.text[start:end])
    return _cut_line(page, habits)


@_effect("edit.cut-line")
def _cut_line(page: Page, habits: Habits) -> Page:
    start, end = line_start(page.text, page.cursor), min(len(page.text), line_end(page.text, page.cursor) + 1)
    text = page.text[:start] + page.text[end:]
    return Page(text, start, None, page.text[start:end])


@_effect("edit.cut-to-end")
def _cut_to_end(page: Page, habits: Habits) -> Page:
    return Page(page.text[: page.cursor], page.cursor, None, page.text[page.cursor :])


@_effect("edit.discard")
def _discard(page: Page, habits: Habits) -> Page:
    return replace(_cut(page, habits), clipboard=page.clipboard)


@_effect("edit.copy")
def _copy(page: Page, habits: Habits) -> Page:
    if page.has_selection:
        return _copy_selection(page, habits)
    return _copy_line(page, habits)


@_effect("edit.copy-selection")
def _copy_selection(page: Page, habits: Habits) -> Page:
    if not page.has_selection:
        return page
    start, end = page.selection
    return replace(page, clipboard=page.text[start:end])


@_effect("edit.copy-line")
def _copy_line(page: Page, habits: Habits) -> Page:
    if page.has_selection:
        return page
    start, end = line_start(page.text, page.cursor), min(len(page.text), line_end(page.text, page.cursor) + 1)
    return replace(page, clipboard=page.text[start:end])


@_effect("edit.paste")
def _paste(page: Page, habits: Habits) -> Page:
    return insert(page, page.clipboard)


# --- lines


def _lines_of(page: Page) -> tuple[int, int]:
    """Start and end of the lines that the cursor or the selection touches, without the last line break."""
    start, end = page.selection
    if end > start and page.text[end - 1] == "\n":
        end -= 1
    return line_start(page.text, start), line_end(page.text, end)


def _map_lines(page: Page, change: Callable[[str], str]) -> Page:
    """The page with each touched line changed; the cursor and the anchor keep their characters."""
    start, end = _lines_of(page)
    cursor, anchor = page.cursor, page.anchor
    offset = start
    pieces = []
    new_cursor, new_anchor = cursor, anchor
    for line in page.text[start:end].split("\n"):
        changed = change(line)
        grown = len(changed) - len(line)
        first = offset + (len(line) - len(line.lstrip(" \t")) if grown > 0 and not changed.endswith(line) else 0)
        if cursor >= first:
            new_cursor += max(grown, first - cursor)
        if anchor is not None and new_anchor is not None and anchor >= first:
            new_anchor += max(grown, first - anchor)
        offset += len(line) + 1
        pieces.append(changed)
    return replace(
        page, text=page.text[:start] + "\n".join(pieces) + page.text[end:], cursor=new_cursor, anchor=new_anchor
    )


@_effect("line.delete")
def _delete_line(page: Page, habits: Habits) -> Page:
    start, end = line_start(page.text, page.cursor), min(len(page.text), line_end(page.text, page.cursor) + 1)
    return replace(page, text=page.text[:start] + page.text[end:], cursor=start, anchor=None)


@_effect("line.copy-down")
def _copy_down(page: Page, habits: Habits) -> Page:
    if page.has_selection:
        _start, end = page.selection
        piece = page.text[_start:end]
        return replace(page, text=page.text[:end] + piece + page.text[end:], cursor=end + len(piece), anchor=None)
    start, end = line_start(page.text, page.cursor), line_end(page.text, page.cursor)
    text = page.text[:end] + "\n" + page.text[start:end] + page.text[end:]
    return replace(page, text=text, cursor=end + 1 + (end - start), anchor=None)


@_effect("line.move-up")
def _move_up(page: Page, habits: Habits) -> Page:
    start, end = _lines_of(page)
    if start == 0:
        return page
    above = line_start(page.text, start - 1)
    text = page.text[:above] + page.text[start:end] + "\n" + page.text[above : start - 1] + page.text[end:]
    shift = start - above
    return replace(
        page, text=text, cursor=page.cursor - shift, anchor=None if page.anchor is None else page.anchor - shift
    )


@_effect("line.move-down")
def _move_down(page: Page, habits: Habits) -> Page:
    start, end = _lines_of(page)
    if end == len(page.text):
        return page
    below = line_end(page.text, end + 1)
    text = page.text[:start] + page.text[end + 1 : below] + "\n" + page.text[start:end] + page.text[below:]
    shift = below - end
    return replace(
        page, text=text, cursor=page.cursor + shift, anchor=None if page.anchor is None else page.anchor + shift
    )


def _indented(line: str, habits: Habits) -> str:
    return habits.indentation + line if line else line


def _outdented(line: str, habits: Habits) -> str:
    if line.startswith("\t"):
        return line[1:]
    width = 8 if habits.indentation == "\t" else len(habits.indentation)
    blanks = len(line) - len(line.lstrip(" "))
    return line[min(blanks, width) :]


@_effect("line.indent")
def _indent(page: Page, habits: Habits) -> Page:
    return _map_lines(page, lambda line: _indented(line, habits))


@_effect("line.outdent")
def _outdent(page: Page, habits: Habits) -> Page:
    return _map_lines(page, lambda line: _outdented(line, habits))


@_effect("line.indent-selection")
def _indent_selection(page: Page, habits: Habits) -> Page:
    return _indent(page, habits) if page.has_selection else page


@_effect("line.outdent-selection")
def _outdent_selection(page: Page, habits: Habits) -> Page:
    return _outdent(page, habits) if page.has_selection else page


@_effect("line.indent-line")
def _indent_line(page: Page, habits: Habits) -> Page:
    return page if page.has_selection else _indent(page, habits)


@_effect("line.outdent-line")
def _outdent_line(page: Page, habits: Habits) -> Page:
    return page if page.has_selection else _outdent(page, habits)


@_effect("comment.toggle")
def _comment(page: Page, habits: Habits) -> Page:
    start, end = _lines_of(page)
    mark = habits.comment.rstrip()
    lines = [line for line in page.text[start:end].split("\n") if line.strip()]
    if lines and all(line.startswith(mark) for line in lines):
        return _map_lines(
            page,
            lambda line: (
                line.removeprefix(habits.comment) if line.startswith(habits.comment) else line.removeprefix(mark)
            ),
        )
    return _map_lines(page, lambda line: habits.comment + line if line.strip() else line)
