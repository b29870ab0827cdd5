"""What could stand at a place: actions by words, keys that are free first, facts and their values, names, files."""

import re
from collections.abc import Iterable, Iterator
from itertools import islice
from pathlib import Path

from ombix.core.audit import all_rules
from ombix.core.errors import OmbixError
from ombix.files.keymap_reading import SUFFIX
from ombix.language.open_documents.answers import Completion, CompletionList
from ombix.language.open_documents.spots import TextSpot, spot_at
from ombix.work.look import look_questions
from ombix.workspace.named_action import action_called
from ombix.workspace.open_workspace import OpenWorkspace

MOST_KEYS = 24
_MOST = 60
_WORD = re.compile(r"[A-Za-z0-9_.+#-]*$")
_TABLES = ("where", "unbind", "only.", "macro.", "snippet.", "fact.")


def completions(lines: list[str], line: int, column: int, path: Path, session: OpenWorkspace) -> CompletionList:
    """What could stand at a place of a file, its line and column from 0."""
    spot = spot_at(lines, line, column)
    typed = lines[line][spot.start : column] if line < len(lines) else ""
    found = list(islice(_found(spot, typed, path, session), _MOST))
    start = spot.start
    if spot.kind == "condition":
        word = _WORD.search(typed)
        start = column - (len(word[0]) if word is not None else 0)
        return CompletionList(line, start, column, tuple(found))
    return CompletionList(line, start, max(column, spot.end), tuple(found))


def _found(spot: TextSpot, typed: str, path: Path, session: OpenWorkspace) -> Iterator[Completion]:
    shipped = session.resources.shipped
    names: dict[str, list[str]] = {
        "layout": shipped.layout_names(), "platform": shipped.platform_names(), "terminal": shipped.terminal_names(),
        "desktop": shipped.desktop_names(), "keyboard": shipped.keyboard_names(),
        "editor": session.resources.dialects.names() if spot.kind == "editor" else [],
        "rule": list(all_rules()) if spot.kind == "rule" else [],
    }  # fmt: skip
    match spot.kind:
        case "heading":
            yield from (
                Completion(f"bind.{name}", "table", title) for name, title in shipped.catalogue().domains.items()
            )
            yield from (Completion(name, "table") for name in _TABLES)
        case "name" if spot.path[:1] == ("bind",) and len(spot.path) == 2:
            yield from _verbs(spot.path[1], typed, session)
        case "action":
            yield from _actions(typed, session)
        case "keys":
            yield from _keys(spot, session)
        case "condition":
            yield from _conditions(typed, session)
        case "macro" | "snippet":
            keymap = session.keymap(tells_faults=False).keymap
            titles = keymap.macros if spot.kind == "macro" else keymap.snippets
            yield from (Completion(name, spot.kind, one.title) for name, one in titles.items())
        case "file":
            files = sorted(path.parent.glob(f"*{SUFFIX}"))
            yield from (Completion(file.name, "file") for file in files if file != path or spot.path[:1] == ("keymap",))
        case _:
            yield from (Completion(name, "name") for name in names.get(spot.kind, ()))


def _verbs(domain: str, typed: str, session: OpenWorkspace) -> Iterator[Completion]:
    """The actions of a kind of work, those first that the words typed so far describe."""
    actions = session.resources.shipped.catalogue().actions
    here = [name for name in actions if name.startswith(f"{domain}.")]
    described = [name for name in _described(typed, session) if name in here] if typed else []
    for name in _first_had(dict.fromkeys([*described, *here]), session):
        verb = name.partition(".")[2]
        is_other = name in described and not verb.startswith(typed)
        yield Completion(verb, "action", _title(name, session), actions[name].does, typed if is_other else "")


def _first_had(names: Iterable[str], session: OpenWorkspace) -> list[str]:
    """Actions in their order, but those last that no editor at hand has a command for."""
    editors = session.keymap(tells_faults=False).editors_at_hand.values()
    return sorted(names, key=lambda name: bool(editors) and not any(one.vocabulary.can_do(name) for one in editors))


def _title(name: str, session: OpenWorkspace) -> str:
    """The title of an action, and which editors at hand have no command for it."""
    editors = session.keymap(tells_faults=False).editors_at_hand
    lacking = [editor for editor, dialect in editors.items() if not dialect.vocabulary.can_do(name)]
    title = session.resources.shipped.catalogue().actions[name].title
    return f"{title} (not in {' or '.join(lacking)})" if lacking else title


def _actions(typed: str, session: OpenWorkspace) -> Iterator[Completion]:
    actions = session.resources.shipped.catalogue().actions
    starting = [name for name in actions if typed and name.startswith(typed)]
    names = dict.fromkeys([*starting, *(_described(typed, session) if typed else actions)])
    for name in _first_had(names, session):
        yield Completion(name, "action", _title(name, session), actions[name].does, "" if name in starting else typed)


def _described(words: str, session: OpenWorkspace) -> list[str]:
    """The actions that words describe, the best first."""
    from ombix.core.catalogue.searching import search

    shipped = session.resources.shipped
    index = shipped.search_index()
    return [name for _score, name in search(index, words.replace("-", " "))]


def _keys(spot: TextSpot, session: OpenWorkspace) -> Iterator[Completion]:
    """The keys that are free, those that suit the action first."""
    try:
        action = action_called(spot.action, session.resources.shipped).name if spot.action else ""
        found = look_questions.free(session, action, count=MOST_KEYS)
    except OmbixError:
        return
    for key in found.keys:
        takes = "; ".join(f"{loser.does} of {loser.editor} loses them" for loser in key.displaces)
        yield Completion(key.keys, "keys", f"free, {key.seconds:.2f} s", "; ".join(filter(None, [*key.reasons, takes])))


def _conditions(typed: str, session: OpenWorkspace) -> Iterator[Completion]:
    here = session.keymap(tells_faults=False)
    facts = here.space.facts.by_name
    words = re.findall(r"[A-Za-z0-9_.+#-]+|[(),]", typed)
    if typed and not typed[-1].isspace() and words and words[-1] not in "(),":
        words.pop()
    if words[-1:] == ["is"] or words[-2:] == ["is", "not"]:
        fact = words[-2] if words[-1] == "is" else words[-3] if len(words) > 2 else ""
        values = facts[fact].values if fact in facts else ()
        yield from (Completion(value, "value", f"{fact} is {value}") for value in values)
        if words[-1] == "is":
            yield Completion("not", "word")
        return
    if "in" in words and "(" in words[len(words) - 1 - words[::-1].index("in") :] and ")" not in words[-1:]:
        fact = words[len(words) - 2 - words[::-1].index("in")]
        yield from (
            Completion(value, "value", f"{fact} in (…)") for value in (facts[fact].values if fact in facts else ())
        )
        return
    if words and (words[-1] in facts and len(facts[words[-1]].values) > 2):
        yield from (Completion(word, "word") for word in ("is", "is not", "in"))
        return
    if words and words[-1] not in ("and", "or", "not", "("):
        yield from (Completion(word, "word") for word in ("and", "or"))
        return
    scope = here.keymap.scope
    for name in scope.names():
        known = scope.find(name)
        yield Completion(name, "condition", known[0] if known is not None else "")
    for name, fact_found in facts.items():
        yield Completion(name, "fact", fact_found.title, ", ".join(fact_found.values))
    yield Completion("not", "word")
