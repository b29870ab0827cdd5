"""How an answer to `how` is laid out."""

from ombix.report.blocks import Blank, Block, Cell, Grid, Title, line
from ombix.report.terminal_text import Display
from ombix.workspace.condition_words import in_words
from ombix.workspace.how_answer import FoundAction, FoundActions


def found_actions(found: FoundActions, display: Display, by_domain: bool = False) -> list[Block]:
    """Actions with their keys, the best first, or by kind of work; where there are none, the kinds that come nearest."""
    blocks: list[Block] = [line(found.about)] if found.about else []
    if not found.actions:
        rows = [(Cell(kind.domain, "strong"), kind.title) for kind in found.kinds]
        near: list[Block] = [line("The nearest kinds of work, for --domain:"), Grid(rows, indent=2)]
        return [*blocks, *(near if rows else [])]
    if not by_domain:
        return [*blocks, Grid([_row(action, found) for action in found.actions], _head(found))]
    own = [_row(action, found) for action in found.actions if " " in action.action]
    blocks += [Grid(own, _head(found)), Blank()] if own else []
    for number, kind in enumerate(found.kinds):
        here = [_row(action, found) for action in found.actions if action.action.partition(".")[0] == kind.domain]
        blocks += [*([Blank()] if number else []), Title(kind.title), Grid(here, _head(found))]
    return blocks


def _head(found: FoundActions) -> tuple[str, ...]:
    head = ("what it does", "action")
    return (f"keys in {found.editor or 'the keymap'}", *head) if found.has_keymap else head


def _row(one: FoundAction, found: FoundActions) -> tuple[Cell | str, ...]:
    keys = [key.shown + (f" {in_words(key.where)}" if key.where != "always" else "") for key in one.keys]
    shown = ", ".join(dict.fromkeys(keys))
    title = f"{one.title} (not in {' or '.join(one.lacking)})" if one.lacking else one.title
    rest = (title, Cell(one.action, "quiet"))
    return (Cell(shown or "no keys", "key" if shown else "quiet"), *rest) if found.has_keymap else rest
