"""What is told of what a pointer is on: keys with all their decisions, an action, a condition, a fact."""

import re
from pathlib import Path

from ombix.core.errors import OmbixError
from ombix.language.open_documents.documents import Drafts
from ombix.language.open_documents.spots import TextSpot
from ombix.report import markdown
from ombix.report.blocks import Block, Cell, line
from ombix.report.terminal_text import Display
from ombix.work.audit import audit_questions
from ombix.work.look import look_questions
from ombix.work.look.what_layout import explanation
from ombix.workspace.open_workspace import OpenWorkspace

_WORD = re.compile(r"[A-Za-z0-9_.+#-]+")
_WIDE = 100


def hover(desk: Drafts, path: Path, row: int, column: int) -> str:
    """What is to be told of a place (its line and column from 0), in Markdown; empty for nothing."""
    try:
        spot = desk.spot(path, row, column)
        session = desk.session(path)
        blocks = _told(spot, desk.lines(path)[row], column, session, Display(_WIDE, False, str(path.parent)))
    except (OmbixError, IndexError):
        return ""
    return markdown.part(blocks) if blocks else ""


def _told(spot: TextSpot, text: str, column: int, session: OpenWorkspace, display: Display) -> list[Block]:
    if spot.kind == "keys" and spot.text:
        return explanation(look_questions.what(session, spot.text), display)
    if spot.kind == "name" and len(spot.path) == 2 and spot.path[0] == "bind":
        return _action(f"{spot.path[1]}.{spot.text}", session)
    if spot.kind == "name" and spot.path[:1] == ("bind",) and len(spot.path) == 1:
        return _action(spot.text, session)
    if spot.kind == "action":
        return _action(spot.text, session)
    if spot.kind == "condition" or (spot.kind == "name" and spot.path == ("where",)):
        word = next((match[0] for match in _WORD.finditer(text) if match.start() <= column <= match.end()), "")
        return _word(word, session)
    if spot.kind == "rule":
        (rule,) = audit_questions.rules(session, spot.text)
        return [line(Cell(rule.rule, "strong"), f" ({rule.severity}): {rule.what} {rule.why}"), line(rule.mend)]
    return []


def _action(name: str, session: OpenWorkspace) -> list[Block]:
    action = session.resources.shipped.catalogue().actions.get(name)
    if action is None:
        return []
    keys = [row.shown for row in look_questions.show(session, own=True).bindings if row.does == name]
    blocks: list[Block] = [line(Cell(action.title, "strong")), line(action.does)]
    if action.words:
        blocks.append(line(f"Also called: {', '.join(action.words)}"))
    if action.needs != "always":
        blocks.append(line(f"It needs: {action.needs}"))
    blocks.append(line(f"Keys: {', '.join(dict.fromkeys(keys)) or 'none'}"))
    editors = session.keymap(tells_faults=False).editors_at_hand
    lacking = [editor for editor, dialect in editors.items() if not dialect.vocabulary.can_do(name)]
    if lacking:
        blocks.append(line(f"Not in {' or '.join(lacking)}"))
    return blocks


def _word(word: str, session: OpenWorkspace) -> list[Block]:
    here = session.keymap(tells_faults=False)
    named = here.keymap.scope.find(word)
    if named is not None:
        return [line(Cell(word, "strong"), f" is when {named[0]}")]
    fact = here.space.facts.by_name.get(word)
    if fact is None:
        return []
    return [
        line(Cell(word, "strong"), f": {fact.title}" if fact.title else ""),
        line(f"Values: {', '.join(fact.values)}"),
    ]
