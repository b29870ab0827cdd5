"""What changing text does: characters, words and the clipboard; and whole lines."""

from collections.abc import Callable

from msgspec.structs import replace

from ombix.core.outcomes import Do
from ombix.stage import places
from ombix.stage.moving import Effect, Move, left, right
from ombix.stage.state import Settings, State


def insert(state: State, text: str) -> State:
    """The state with `text` in place of the selection, the cursor behind it."""
    start, end = state.selection
    whole = state.text[:start] + text + state.text[end:]
    return replace(state, text=whole, cursor=start + len(text), anchor=None, marking=False, goal=None)


def _whole_line(state: State) -> tuple[int, int]:
    """Start and end of the line that the cursor is in, with its line break."""
    start, end = places.line_start(state.text, state.cursor), places.line_end(state.text, state.cursor)
    return start, min(len(state.text), end + 1)


def _delete_to(where: Move) -> Effect:
    def effect(state: State, do: Do) -> State:
        if state.has_selection:
            return insert(state, "")
        start, end = sorted((state.cursor, where(state.text, state.cursor)))
        return replace(state, text=state.text[:start] + state.text[end:], cursor=start, anchor=None)

    return effect


def _newline(state: State, do: Do) -> State:
    start = places.line_start(state.text, state.cursor)
    first = min(places.text_start(state.text, state.cursor), state.cursor)
    return insert(state, "\n" + (state.text[start:first] if state.settings.auto_indent else ""))


def _insert_tab(state: State, do: Do) -> State:
    return insert(state, state.settings.indentation)


def _insert_space(state: State, do: Do) -> State:
    return insert(state, " ")


# --- the clipboard


def _cut(state: State, do: Do) -> State:
    if not state.has_selection:
        return _cut_line(state, do)
    start, end = state.selection
    return replace(insert(state, ""), clipboard=state.text[start:end])


def _cut_line(state: State, do: Do) -> State:
    start, end = _whole_line(state)
    text = state.text[:start] + state.text[end:]
    return replace(state, text=text, cursor=start, anchor=None, marking=False, clipboard=state.text[start:end])


def _cut_to_end(state: State, do: Do) -> State:
    before, behind = state.text[: state.cursor], state.text[state.cursor :]
    return replace(state, text=before, anchor=None, marking=False, clipboard=behind)


def _discard(state: State, do: Do) -> State:
    return replace(_cut(state, do), clipboard=state.clipboard)


def _copy(state: State, do: Do) -> State:
    return _copy_selection(state, do) if state.has_selection else _copy_line(state, do)


def _copy_selection(state: State, do: Do) -> State:
    start, end = state.selection
    return replace(state, clipboard=state.text[start:end]) if state.has_selection else state


def _copy_line(state: State, do: Do) -> State:
    start, end = _whole_line(state)
    return state if state.has_selection else replace(state, clipboard=state.text[start:end])


def _paste(state: State, do: Do) -> State:
    return insert(state, state.clipboard)


# --- lines


def _touched_lines(state: State) -> tuple[int, int]:
    """Start and end of the lines that the cursor or the selection touches, without the last line break."""
    start, end = state.selection
    if end > start and state.text[end - 1] == "\n":
        end -= 1
    return places.line_start(state.text, start), places.line_end(state.text, end)


def _map_lines(state: State, change: Callable[[str], str]) -> State:
    """The state with each touched line changed; the cursor and the anchor keep their characters."""
    start, end = _touched_lines(state)
    cursor, anchor = state.cursor, state.anchor
    offset = start
    pieces = []
    new_cursor, new_anchor = cursor, anchor
    for line in state.text[start:end].split("\n"):
        changed = change(line)
        grown = len(changed) - len(line)
        first = offset + (len(line) - len(line.lstrip(" \t")) if grown > 0 and not changed.endswith(line) else 0)
        if cursor >= first:
            new_cursor += max(grown, first - cursor)
        if anchor is not None and new_anchor is not None and anchor >= first:
            new_anchor += max(grown, first - anchor)
        offset += len(line) + 1
        pieces.append(changed)
    whole = state.text[:start] + "\n".join(pieces) + state.text[end:]
    return replace(state, text=whole, cursor=new_cursor, anchor=new_anchor)


def _delete_line(state: State, do: Do) -> State:
    start, end = _whole_line(state)
    return replace(state, text=state.text[:start] + state.text[end:], cursor=start, anchor=None)


def _copy_down(state: State, do: Do) -> State:
    if state.has_selection:
        start, end = state.selection
        piece = state.text[start:end]
        return replace(state, text=state.text[:end] + piece + state.text[end:], cursor=end + len(piece), anchor=None)
    start, end = places.line_start(state.text, state.cursor), places.line_end(state.text, state.cursor)
    text = state.text[:end] + "\n" + state.text[start:end] + state.text[end:]
    return replace(state, text=text, cursor=end + 1 + (end - start), anchor=None)


def _shifted(state: State, text: str, by: int) -> State:
    return replace(
        state, text=text, cursor=state.cursor + by, anchor=None if state.anchor is None else state.anchor + by
    )


def _move_up(state: State, do: Do) -> State:
    start, end = _touched_lines(state)
    if start == 0:
        return state
    above = places.line_start(state.text, start - 1)
    text = state.text[:above] + state.text[start:end] + "\n" + state.text[above : start - 1] + state.text[end:]
    return _shifted(state, text, above - start)


def _move_down(state: State, do: Do) -> State:
    start, end = _touched_lines(state)
    if end == len(state.text):
        return state
    below = places.line_end(state.text, end + 1)
    text = state.text[:start] + state.text[end + 1 : below] + "\n" + state.text[start:end] + state.text[below:]
    return _shifted(state, text, below - end)


def _indented(line: str, settings: Settings) -> str:
    return settings.indentation + line if line else line


def _outdented(line: str, settings: Settings) -> str:
    if line.startswith("\t"):
        return line[1:]
    width = 8 if settings.indentation == "\t" else len(settings.indentation)
    blanks = len(line) - len(line.lstrip(" "))
    return line[min(blanks, width) :]


def _indent(state: State, do: Do) -> State:
    return _map_lines(state, lambda line: _indented(line, state.settings))


def _outdent(state: State, do: Do) -> State:
    return _map_lines(state, lambda line: _outdented(line, state.settings))


def _only_selected(effect: Effect) -> Effect:
    return lambda state, do: effect(state, do) if state.has_selection else state


def _only_unselected(effect: Effect) -> Effect:
    return lambda state, do: state if state.has_selection else effect(state, do)


def _comment(state: State, do: Do) -> State:
    start, end = _touched_lines(state)
    whole = state.settings.comment
    mark = whole.rstrip()
    lines = [line for line in state.text[start:end].split("\n") if line.strip()]
    if lines and all(line.startswith(mark) for line in lines):
        return _map_lines(state, lambda line: line.removeprefix(whole if line.startswith(whole) else mark))
    return _map_lines(state, lambda line: whole + line if line.strip() else line)


CHANGING: dict[str, Effect] = {
    "edit.delete-left": _delete_to(left),
    "edit.delete-right": _delete_to(right),
    "edit.delete-word-left": _delete_to(places.word_left),
    "edit.delete-word-right": _delete_to(places.word_right),
    "edit.delete-to-next-word": _delete_to(places.chop_right),
    "edit.delete-to-previous-word": _delete_to(places.chop_left),
    "edit.newline": _newline,
    "edit.insert-tab": _insert_tab,
    "edit.insert-space": _insert_space,
    "edit.cut": _cut,
    "edit.cut-line": _cut_line,
    "edit.cut-to-end": _cut_to_end,
    "edit.discard": _discard,
    "edit.copy": _copy,
    "edit.copy-selection": _copy_selection,
    "edit.copy-line": _copy_line,
    "edit.paste": _paste,
    "line.delete": _delete_line,
    "line.copy-down": _copy_down,
    "line.move-up": _move_up,
    "line.move-down": _move_down,
    "line.indent": _indent,
    "line.outdent": _outdent,
    "line.indent-selection": _only_selected(_indent),
    "line.outdent-selection": _only_selected(_outdent),
    "line.indent-line": _only_unselected(_indent),
    "line.outdent-line": _only_unselected(_outdent),
    "comment.toggle": _comment,
}
