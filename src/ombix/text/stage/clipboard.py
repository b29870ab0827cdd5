"""What was cut and copied: registers with names, the texts kept before, and what is pasted of them."""

import re
from collections.abc import Callable

from msgspec.structs import replace

from ombix.core.keymap.outcomes import Do
from ombix.text.effects import text_motions
from ombix.text.stage.cursors import Effect, all_cursors, with_texts
from ombix.text.stage.stage_state import Cursor, Pasted, State

MOST_KEPT = 30
"""Texts that are kept, the last one among them."""


def _slot(do: Do) -> str:
    return dict(do.arguments).get("slot", "")


def _selected(state: State) -> str:
    """What is selected; of several cursors the stretches in their order in the text, a line each."""
    found = sorted(
        (min(cursor.anchor, cursor.cursor), max(cursor.anchor, cursor.cursor))
        for cursor in all_cursors(state)
        if cursor.anchor is not None
    )
    return "\n".join(state.text[start:end] for start, end in found if end > start)


def _with_register(state: State, name: str, text: str) -> State:
    rest = tuple(pair for pair in state.registers if pair[0] != name)
    return replace(state, registers=tuple(sorted((*rest, (name, text)))))


def _copy_to(state: State, do: Do) -> State:
    text = _selected(state)
    return _with_register(state, _slot(do), text) if text and _slot(do) else state


def _cut_to(state: State, do: Do) -> State:
    kept = _copy_to(state, do)
    if kept is state:
        return state
    cut = with_texts(kept, [""] * (len(kept.others) + 1))
    return replace(cut, anchor=None, others=tuple(Cursor(other.cursor) for other in cut.others))


def _put(state: State, text: str) -> State:
    """A text in place of what each cursor has selected, the cursors behind it."""
    after = with_texts(state, [text] * (len(state.others) + 1))
    return replace(after, anchor=None, marking=False, others=tuple(Cursor(other.cursor) for other in after.others))


def _paste_from(state: State, do: Do) -> State:
    text = dict(state.registers).get(_slot(do))
    return state if text is None else _put(state, text)


def _use(state: State, do: Do) -> State:
    return replace(state, register=_slot(do))


def kept_text(state: State, typed: str) -> State:
    """One of the texts that were kept, put in: by its number, 1 for the last one."""
    match = re.fullmatch(r"\s*(\d{1,3})\s*", typed)
    number = int(match[1]) if match else 0
    return _put(state, state.kept[number - 1]) if 0 < number <= len(state.kept) else state


def _paste_previous(state: State, do: Do) -> State:
    pasted = state.pasted
    if pasted is None or pasted.index + 1 >= len(state.kept):
        return state
    text = state.kept[pasted.index + 1]
    end = pasted.start + len(text)
    whole = state.text[: pasted.start] + text + state.text[pasted.end :]
    return replace(
        state, text=whole, cursor=end, anchor=None, goal=None, pasted=Pasted(pasted.start, end, pasted.index + 1)
    )


def _paste_column(state: State, do: Do) -> State:
    """The kept lines below each other, in the cell of the cursor; lines that are too short or not there are filled up."""
    if not state.clipboard:
        return state
    start, width = state.selection[0], state.settings.tab_width
    text = state.text[:start] + state.text[state.selection[1] :]
    line_start = text_motions.line_start(text, start)
    cell = text_motions.cells(text[line_start:start], width)
    rows = text[line_start:].split("\n")
    pieces = state.clipboard.removesuffix("\n").split("\n")
    rows += [""] * (len(pieces) - len(rows))
    for number, piece in enumerate(pieces):
        row = rows[number]
        at = text_motions.at_cell(row, 0, cell, width)
        blanks = " " * (cell - text_motions.cells(row[:at], width))
        rows[number] = row[:at] + blanks + piece + row[at:]
    whole = text[:line_start] + "\n".join(rows)
    return replace(state, text=whole, cursor=start + len(pieces[0]), anchor=None, goal=None)


def with_kept(before: State, run: Callable[[State], tuple[State, bool]], action: str) -> tuple[State, bool]:
    """What an action leads to, with the register that it was told to use in place of the clipboard, and with what was cut
    or copied before still kept. Which of the kept texts was pasted is known until something else is done."""
    slot = before.register if action not in KEEPING else ""
    start = replace(before, clipboard=dict(before.registers).get(slot, "")) if slot else before
    after, is_done = run(start)
    if slot:
        text = after.clipboard
        after = replace(after, clipboard=before.clipboard, register="")
        after = after if text == start.clipboard else _with_register(after, slot, text)
    if after.clipboard and after.clipboard != before.clipboard:
        kept = (after.clipboard, *(one for one in before.kept if one != after.clipboard))
        after = replace(after, kept=kept[:MOST_KEPT])
    if action == "edit.paste-previous":
        return after, is_done and after.text != before.text
    is_paste = action.startswith("edit.paste") and not (slot or after.others)
    return replace(after, pasted=_pasted(before, after) if is_paste else None), is_done


def _pasted(before: State, after: State) -> Pasted | None:
    """Where the text that was kept last now stands, where it was put in whole."""
    text = before.clipboard
    start, end = before.selection
    here = start if after.text[start : start + len(text)] == text else text_motions.line_start(before.text, start)
    grown = before.text[:here] + text + before.text[here + (end - start) :]
    return Pasted(here, here + len(text), 0) if text and before.kept[:1] == (text,) and grown == after.text else None


KEEPING: dict[str, Effect] = {
    "edit.copy-to-register": _copy_to,
    "edit.cut-to-register": _cut_to,
    "edit.paste-register": _paste_from,
    "edit.use-register": _use,
    "edit.paste-previous": _paste_previous,
    "edit.paste-column": _paste_column,
}
"""Actions about what was cut and copied that are no programs, and what they do."""
