"""How an answer to `what` is laid out."""

from ombix.report.blocks import Blank, Block, Cell, Grid, line
from ombix.report.terminal_text import Display
from ombix.workspace.condition_words import in_words
from ombix.workspace.reason_words import for_it
from ombix.workspace.what_answer import DecisionLine, Explanation, GoneBinding, LayoutPress, NotInEditor

_BECOMES = {
    "apart": ", and comes apart into Escape and what follows, which may be typed",
    "typed": ", and is typed",
    "text": ", and the text does something with it by itself",
}
"""What becomes of keys that are not bound in an editor."""
_MOST_FOLLOWING = 24
"""So many keys are listed that may follow."""


def explanation(found: Explanation, display: Display) -> list[Block]:
    """What keys do, and why."""
    name = found.shown if found.shown == found.keys else f"{found.shown} ({found.keys})"
    shown = Cell(name, "key")
    blocks: list[Block] = [line(found.about)] if found.about else []
    if found.reading:
        blocks.append(line(found.reading))
    presses = [line(_press(press), indent=2) for press in found.presses if not press.plain]
    if found.decisions:
        blocks += [line(shown, f" {_subject(found)}"), *presses, _decisions(found, display)]
        notes = [*_notes(found, display), *_gone(found, display)]
        blocks += [Blank(), *(line(note, indent=2) for note in notes)] if notes else []
    elif found.follows:
        when = f" {in_words(found.state)}" if found.state else ""
        blocks += [line(shown, f" does nothing of its own{when}."), *presses]
        blocks += [line(note, indent=2) for note in [*_notes(found, display), *_gone(found, display)]]
    else:
        blocks += [line(shown, f" {_not_bound(found)}."), *presses]
        blocks += [line(note, indent=2) for note in [*_notes(found, display), *_gone(found, display)]]
        if found.nearby:
            blocks.append(line(f"Bound nearby: {', '.join(found.nearby)}", indent=2))
    blocks += [line(Cell(not_here_note(one, found.editor, display), "warn"), indent=2) for one in found.not_here]
    for row in found.before:
        text = f"{row.keys} alone runs {row.does} at once, where that is bound, and the rest is not reached."
        blocks.append(line(Cell(text, "warn"), indent=2))
    if found.wait:
        blocks.append(line(Cell(found.wait, "warn"), indent=2))
    if found.follows:
        rows = [_following(row, found.keys) for row in found.follows[:_MOST_FOLLOWING]]
        blocks += [Blank(), line("After it may follow"), Grid(rows, indent=2)]
        more = len(found.follows) - _MOST_FOLLOWING
        blocks += [line(f"and {more} more: --json has all of them")] if more > 0 else []
    return blocks


def _press(one: LayoutPress) -> str:
    return f"On the layout {one.title}: {one.press}" if one.press else f"Not to be pressed: {one.why_not}"


def _decisions(found: Explanation, display: Display) -> Grid:
    rows = [
        (_state(row.when), Cell(row.title, "strong"), row.does, Cell(display.place(row.place), "quiet"))
        for row in found.decisions
    ]
    return Grid(rows, ("when", "does", "action", "bound in"), 2)


def _notes(found: Explanation, display: Display) -> list[str]:
    notes = []
    for row in found.decisions:
        if row.kind == "nothing" and row.why:
            notes.append(f"Taken away on purpose: {row.why}")
        if row.how:
            notes.append(f"{row.does}: {row.how}")
        for other in row.beats:
            place = display.place(other.place)
            where = f", {other.order}" if place != other.layer else ""
            notes.append(f"{row.does} beats {other.does} ({place}{where})")
    for one in found.not_applying:
        reason = f"its condition is {one.where}" if one.where != "always" else "what it needs is not there"
        notes.append(f"{one.does} does not apply ({display.place(one.place)}): {reason}")
    return notes


def _gone(found: Explanation, display: Display) -> list[str]:
    return [gone_note(one, display) for one in found.gone]


def _subject(found: Explanation) -> str:
    """Whose answer it is: an editor's, with the keymap in its file, or the keymap's by itself."""
    if found.about and not found.editor:
        return f"on {found.platform_title}"
    return f"in {found.editor or 'the keymap'}, on {found.platform_title}"


def not_here_note(one: NotInEditor, editor: str, display: Display) -> str:
    """That the editor cannot have a binding of the keymap on its keys, why, and what there is in its place."""
    said = f"“{one.title}” ({display.place(one.place)}) is not on {one.shown} in {editor}: {for_it(one.why, one.does)}."
    if one.moved and not one.why.startswith("on "):
        return f"{said} It is on {' and '.join(one.moved)} there."
    near = one.nearest
    if near is None:
        return said
    keys = f" on {', '.join(near.keys)}" if near.keys else ", without keys"
    return f"{said} Nearest: {near.title} ({near.action}){keys}."


def gone_note(one: GoneBinding, display: Display) -> str:
    """That a binding of a lower layer no longer holds, and why."""
    place = display.place(one.place)
    by = display.place(one.by_place) if one.by_place is not None else one.by_layer
    if one.by_keys:
        return f"{one.does} had {one.keys} ({place}); it has {one.by_keys} instead ({by})"
    reason = f": {one.why}" if one.why else ""
    return f"{one.does} had {one.keys} ({place}); it was taken away ({by}){reason}"


def _not_bound(found: Explanation) -> str:
    if found.hidden:
        return f"is bound, but never comes into force {_subject(found)}"
    when = f" {in_words(found.state)}" if found.state else ""
    typed = ", and is typed where text is typed" if found.typed else ""
    return f"is not bound {_subject(found)}{when}{typed or _BECOMES.get(found.becomes, '')}"


def _state(when: str) -> str:
    return in_words(when) or "everywhere"


def _following(row: DecisionLine, keys: str) -> tuple[Cell | str, ...]:
    rest = row.keys[len(keys) + 1 :]
    when = Cell(in_words(row.when), "quiet")
    return Cell(rest, "key"), row.title, Cell(row.does, "quiet"), when
