"""Steps that change whole lines."""

from collections.abc import Callable, Sequence

from msgspec.structs import replace

from ombix.text.effects import text_motions
from ombix.text.effects.buffer import Buffer, Settings
from ombix.text.effects.edit_steps import change
from ombix.text.effects.program_words import Run, range_of, touched_lines

Change = Callable[[str, Settings], str]


def indented(line: str, settings: Settings) -> str:
    """A line one step further to the right; an empty one stays so."""
    return settings.one_step + line if line else line


def indented_empty(line: str, settings: Settings) -> str:
    """A line one step further to the right, an empty one, too."""
    return settings.one_step + line


def outdented_by_signs(line: str, settings: Settings) -> str:
    """A line without as many blanks at its start as the indentation has characters."""
    blanks = len(line) - len(line.lstrip(" \t"))
    return line[min(blanks, len(settings.one_step)) :]


def outdented(line: str, settings: Settings) -> str:
    """A line one step further to the left: without a tab, or blanks for one step."""
    if line.startswith("\t"):
        return line[1:]
    width = settings.tab_width if settings.one_step == "\t" else len(settings.one_step)
    blanks = len(line) - len(line.lstrip(" "))
    return line[min(blanks, width) :]


def change_lines(b: Buffer, changing: Callable[[str], str], lines: tuple[int, int], sticky: bool = False) -> None:
    """Change each of the touched lines; the cursor and the anchor keep their characters. With `sticky`, a cursor at the
    start of its line stays there."""
    start, end = lines
    places_before = (b.cursor, b.anchor, *(b.held or (None, None)))
    moved = list(places_before)
    offset = start
    pieces = []
    for line in b.text[start:end].split("\n"):
        changed = changing(line)
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


def by_line(changing: Change) -> Callable[[Sequence[str]], Run]:
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
                _change_held(b, lambda line: changing(line, settings), lines)
                return
            column, size = b.cursor - text_motions.line_start(b.text, b.cursor), len(b.text)
            change_lines(b, lambda line: changing(line, settings), lines, sticky)
            if twice:
                line, gone = text_motions.line_start(b.text, b.cursor), size - len(b.text)
                column = min(column, max(text_motions.line_end(b.text, b.cursor) - line - 1, 0))
                b.cursor = line + (column - gone if column >= gone else column)
            start, end = b.selection
            if within and start < end and b.text[end - 1] == "\n" and b.text[start:end].split("\n")[-2] != last:
                b.held = (start, end - 1)

        return run

    return build


def _change_held(b: Buffer, changed: Callable[[str], str], lines: tuple[int, int]) -> None:
    """Change each line by what it gains or loses at its start, so that what is held keeps its characters."""
    at = lines[0]
    for line in b.text[slice(*lines)].split("\n"):
        new = changed(line)
        common = 0 if len(new) > len(line) else len(line) - len(new)
        change(b, at, at + common, new[: len(new) - (len(line) - common)])
        at += len(new) + 1


def comment(words: Sequence[str]) -> Run:
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


def comment_line(words: Sequence[str]) -> Run:
    """The line becomes a comment behind its indentation, without blanks at its end, or text again; the cursor moves by the
    mark, within the line."""

    def run(b: Buffer) -> None:
        start, end = text_motions.line_start(b.text, b.cursor), text_motions.line_end(b.text, b.cursor)
        line, mark = b.text[start:end], b.settings.comment
        blanks = len(line) - len(line.lstrip(" \t"))
        rest = line[blanks:]
        by = len(mark)
        if rest.startswith(mark.rstrip()):
            changed, by = line[:blanks] + rest.removeprefix(mark.rstrip()).lstrip(" \t"), -by
        else:
            changed = line[:blanks] + mark + rest.rstrip(" \t")
        cursor = b.cursor
        if not b.has_selection:
            b.drop()
        change(b, start, end, changed)
        b.cursor = min(max(start, cursor + by), start + len(changed))

    return run


def commented(line: str, settings: Settings) -> str:
    """A line with the sign of a comment before its text; a blank one as it is."""
    blanks = len(line) - len(line.lstrip(" \t"))
    return line[:blanks] + settings.comment + line[blanks:] if line.strip() else line


def uncommented(line: str, settings: Settings) -> str:
    """A line without the sign of a comment before its text, and without the blank behind that."""
    blanks, mark = len(line) - len(line.lstrip(" \t")), settings.comment.rstrip()
    rest = line[blanks:]
    return line[:blanks] + rest.removeprefix(mark).removeprefix(" ") if rest.startswith(mark) else line


def _cells_line(line: str, by: int, settings: Settings) -> str:
    """A line that begins so many cells further to the right, its blanks written with as many tabs as they can be."""
    blanks = len(line) - len(line.lstrip(" \t"))
    width = max(0, text_motions.cells(line[:blanks], settings.tab_width) + by)
    return "\t" * (width // settings.tab_width) + " " * (width % settings.tab_width) + line[blanks:]


def indented_cells(line: str, settings: Settings) -> str:
    """A line one step in cells further to the right; an empty one stays so."""
    return _cells_line(line, settings.shift_width or settings.tab_width, settings) if line else line


def indented_all_cells(line: str, settings: Settings) -> str:
    """A line one step in cells further to the right, an empty one, too."""
    return _cells_line(line, settings.shift_width or settings.tab_width, settings)


def outdented_cells(line: str, settings: Settings) -> str:
    """A line one step in cells further to the left."""
    return _cells_line(line, -(settings.shift_width or settings.tab_width), settings)


def _shift(b: Buffer, text: str, by: int) -> None:
    b.text = text
    b.cursor = min(b.cursor + by, len(text))
    if b.anchor is not None:
        b.anchor = min(b.anchor + by, len(text))


def swap_up(words: Sequence[str]) -> Run:
    """The touched lines change places with the one above; with `breaks`, the last line of a text gets a line break."""
    breaks = "breaks" in words

    def swap(b: Buffer) -> None:
        start, end = touched_lines(b)
        if start == 0:
            return
        above, text = text_motions.line_start(b.text, start - 1), b.text
        joined = text[:above] + text[start:end] + "\n" + text[above : start - 1] + text[end:]
        _shift(b, joined + "\n" if breaks and end == len(text) else joined, above - start)

    return swap


def swap_down(words: Sequence[str]) -> Run:
    """The touched lines change places with the one below; with `breaks`, the last line of a text gets a line break."""
    breaks = "breaks" in words

    def swap(b: Buffer) -> None:
        start, end = touched_lines(b)
        if end == len(b.text):
            return
        below, text = text_motions.line_end(b.text, end + 1), b.text
        joined = text[:start] + text[end + 1 : below] + "\n" + text[start:end] + text[below:]
        _shift(b, joined + "\n" if breaks and below == len(text) else joined, below - end)

    return swap


def duplicate(words: Sequence[str]) -> Run:
    """The selection stands twice, one behind the other; or the line, one below the other; the cursor is at the copy's end.
    With `selected`, both are selected, and the cursor only moves where it was at their end; with `above`, it stays in the
    first of the two; with `below`, it is where it was, in the second."""
    found = range_of(words)
    stays, moves = "above" in words, "below" in words
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
        b.cursor = b.cursor if stays else b.cursor + len(piece) if moves else end + len(piece)
        b.drop()

    return duplicate


def strip_above(words: Sequence[str]) -> Run:
    """The line above is emptied, where it has nothing but blanks."""

    def strip(b: Buffer) -> None:
        end = text_motions.line_start(b.text, b.cursor) - 1
        start = text_motions.line_start(b.text, max(end, 0))
        if start < end and not b.text[start:end].strip(" \t"):
            b.replace(start, end, "")
            b.cursor -= end - start

    return strip
