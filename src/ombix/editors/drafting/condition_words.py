"""What the words of a file's conditions and the names of its sections may mean."""

import re
from collections.abc import Sequence

from msgspec import Struct

from ombix.editors.drafting.action_proposals import words_of

_BOTH = ("&&", "&", "and", ",")
_EITHER = ("||", "|", "or")
_NEGATED = ("!", "not", "no", "-")
_WORD = re.compile(r"[\w.:-]+")
_MEANINGS = (
    ("read only", "readonly"), ("readonly", "readonly"), ("has selection", "selection is not none"),
    ("selection", "selection is not none"), ("text selected", "selection is not none"), ("in text", "pane is text"),
    ("text", "pane is text"), ("editor", "pane is text"), ("in editor", "pane is text"), ("text focus", "pane is text"),
    ("editor focus", "pane is text"), ("editor text focus", "pane is text"), ("terminal", "pane is terminal"),
    ("in terminal", "pane is terminal"), ("terminal focus", "pane is terminal"), ("files", "pane is files"),
    ("in files", "pane is files"), ("file list", "pane is files"), ("search", "pane is search"), ("outline", "pane is outline"),
    ("problems", "pane is problems"), ("modified", "modified"),
)  # fmt: skip
"""Words, without their signs, that mean a state for sure."""
_GUESSES = (
    (("text", "edit", "editing", "editor", "buffer"), "pane is text"),
    (("select", "selecting", "selected"), "selection is not none"),
    (("terminal", "shell"), "pane is terminal"), (("file", "files", "tree"), "pane is files"),
    (("find", "search", "searching"), "pane is search"), (("suggest", "complete", "completion", "popup"), "popup is suggestions"),
    (("normal", "command"), "mode is normal"), (("insert", "typing"), "mode is insert"), (("visual",), "mode is select"),
    (("read", "readonly", "locked"), "readonly"), (("modified", "dirty", "changed"), "modified"),
    (("debug", "debugging"), "debugging"), (("snippet",), "in-snippet"),
)  # fmt: skip


_LETTERS = {"n": "normal", "i": "insert", "v": "select", "x": "select"}
_MAPS = re.compile(rf"([{''.join(_LETTERS)}])(?:nore)?map")
"""Words for binding keys in a mode, which begin with its letter."""


class StateWord(Struct, frozen=True):
    """A word of a condition or the name of a section: what it means for sure, or what it may mean (empty: unknown)."""

    word: str
    means: str = ""
    may_mean: str = ""


class ConditionWords(Struct, frozen=True):
    """How conditions are joined, and their words."""

    both: str
    either: str
    negated: str
    words: tuple[StateWord, ...]


def state_of(word: str) -> StateWord:
    """What a word stands for."""
    plain = words_of(word)
    sure = next((means for text, means in _MEANINGS if text == plain), "")
    if sure:
        return StateWord(word, sure)
    parts = set(plain.split())
    if (letter := _MAPS.fullmatch(word)) is not None:
        return StateWord(word, "", f"mode is {_LETTERS[letter[1]]}")
    return StateWord(word, "", next((means for texts, means in _GUESSES if parts & set(texts)), ""))


def wording_of(conditions: Sequence[str]) -> ConditionWords | None:
    """The signs and words of conditions; None where there are none."""
    texts = [text for text in conditions if text]
    if not texts:
        return None
    both = next((sign for sign in _BOTH if any(_has(text, sign) for text in texts)), "&&")
    either = next(
        (sign for sign in _EITHER if any(_has(text, sign) for text in texts)), "||" if both in ("&&", "and") else "|"
    )
    either = "or" if both == "and" else either
    negated = next(
        (sign for sign in _NEGATED if any(_has(text, sign, False) for text in texts)), "not" if both == "and" else "!"
    )
    if negated == "not" and not any(_has(text, both) for text in texts):  # words, where nothing tells
        both, either = "and", "or"
    signs = {both, either, negated}
    words = [
        word for text in texts
        for word in _WORD.findall(text.replace("!", " ").replace("&", " ").replace("|", " ").replace("==", " "))
        if word not in signs
    ]  # fmt: skip
    return ConditionWords(both, either, negated, tuple(state_of(word) for word in dict.fromkeys(words)))


def _has(text: str, sign: str, between: bool = True) -> bool:
    if sign.isalpha():
        return re.search(rf"(?:^|\s){sign}\s", text) is not None
    if sign == "&":
        return re.search(r"(?<!&)&(?!&)", text) is not None
    if sign == "|":
        return re.search(r"(?<!\|)\|(?!\|)", text) is not None
    return sign in text if between else re.search(rf"(?:^|[\s(]){re.escape(sign)}\w", text) is not None
