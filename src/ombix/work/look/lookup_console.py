"""The two look-ups, `what` and `how`: asked all day, so that they import nothing that they do not need."""

from pathlib import Path
from typing import NamedTuple

from ombix.console.asking import editor_asked, open_session
from ombix.console.environment import Environment, Status
from ombix.core.errors import NotationError
from ombix.work.look import look_questions

_LONGEST = 60
"""Characters of a question that are said again."""


class Asked(NamedTuple):
    """What is asked: keys or words, and the options that both look-ups have."""

    text: str
    editor: str = ""
    file: Path | None = None
    on: str = ""
    layout: str = ""
    workspace: Path | None = None
    json: bool = False
    domain: str = ""
    everything: bool = False
    within: str = ""


def what(environment: Environment, asked: Asked) -> Status:
    """What keys do, and why; with a condition, in its states. Words that are no keys, and name an action, are looked up as
    such."""
    from ombix.work.look.what_layout import explanation

    session = open_session(environment, asked.workspace, asked.file, asked.editor)
    editor = editor_asked(asked.file, asked.editor)
    try:
        found = look_questions.what(
            session, asked.text, editor=editor, on=asked.on, layout=asked.layout, within=asked.within
        )
    except NotationError:
        if not look_questions.names_an_action(asked.text):
            raise
        return _as_words(environment, asked)
    environment.answer(found, lambda display: explanation(found, display), asked.json)
    if not (found.decisions or found.follows or asked.json) and look_questions.names_an_action(asked.text):
        return _as_words(environment, asked)  # Save is a key of some keyboards, and an action
    return Status.FINE if found.decisions or found.follows else Status.FOUND


def _as_words(environment: Environment, asked: Asked) -> Status:
    """What was asked of keys, asked of words."""
    environment.say(f"Read as: ombix how {asked.text}")
    return how(environment, asked)


def _shortened(words: str) -> str:
    return words if len(words) <= _LONGEST else f"{words[:_LONGEST]}…"


def how(environment: Environment, asked: Asked) -> Status:
    """The actions that words describe, and their keys."""
    from ombix.work.look.how_layout import found_actions

    session = open_session(environment, asked.workspace, asked.file, asked.editor)
    found = look_questions.how(session,
        asked.text, editor=editor_asked(asked.file, asked.editor), on=asked.on, layout=asked.layout, domain=asked.domain,
        everything=asked.everything, within=asked.within,
    )  # fmt: skip
    environment.answer(found, lambda display: found_actions(found, display, asked.everything), asked.json)
    if not found.actions and not asked.json:
        environment.say(f"No action is described by “{_shortened(found.words)}”. Try another word for it.")
    if found.actions and not found.has_keymap and not asked.json:
        environment.say(f"There is no workspace here. For an editor's keys: ombix how {asked.text} --editor nano")
    elif found.actions and not found.actions[0].keys and not asked.json and asked.file is None:
        first = found.actions[0]
        is_nowhere = bool(found.editors) and len(first.lacking) == len(found.editors)
        said = f"Give it keys with: ombix bind {first.action} KEYS"
        environment.say(f"No editor here has a command for {first.action}." if is_nowhere else said)
    return Status.FINE if found.actions else Status.FOUND
