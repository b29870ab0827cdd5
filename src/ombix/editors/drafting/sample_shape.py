"""What a sample of a key file shows: its form, and where in it keys, commands, conditions and sections stand."""

import re
from collections.abc import Iterable, Sequence
from itertools import takewhile
from typing import Literal

from msgspec import Struct

from ombix.editors.drafting.spellings import SpellingGuess, guess
from ombix.editors.split_modifiers import NO, PARTING, YES

Part = Literal["key", "command", "where", "title", "section"]
TAKES_AWAY = re.compile(r"un|remove|delete|clear|free|drop", re.IGNORECASE)
"""What a word for taking keys away begins with."""
REMOVALS = re.compile(r"un(?:bind|bound|map|set|assign)\w*|remov(?:ed?|als?)", re.IGNORECASE)
"""What a group of keys that are taken away may be called."""
_NOTHING = frozenset({"", "null", "none", "nil", "nothing", "unbound", "false", "~"})
_ALTERNATIVES = frozenset({",", ";", "|", "&"})
_IDENTIFIER = re.compile(r"#?'?[\w.:/!?*+<>-]+(?:\(\))?")
CHAIN = re.compile(r"[A-Za-z][\w.:/-]*(?:\s*(?:&&|;|,|\|)\s*[A-Za-z][\w.:/-]*)+")
"""Several commands, with a sign between each two."""
_OPERATOR = re.compile(r"&|\||!|\b(?:and|or|not|no)\b|==")
_WHERE_NAMES = frozenset({"when", "where", "if", "while", "condition", "context", "in", "only", "scope"})
_PLATFORMS = ("linux", "unix", "x11", "pc", "default", "win", "windows", "win32", "mac", "macos", "osx", "darwin")
_TITLE_NAMES = frozenset({"title", "label", "description", "desc", "says", "name", "comment", "text", "note", "help"})


class ShownBinding(Struct, frozen=True):
    """A binding of a sample, or with an empty command a removal."""

    key: str
    command: str
    where: str = ""
    section: str = ""


class ShapeForm(Struct, frozen=True):
    """A form of what a file says: its pattern in the file's own syntax."""

    pattern: str
    means: Literal["bind", "remove", "keep", "open"]
    end: str = ""
    between: str = ""
    """What stands between modifiers that are beside their key."""
    words: tuple[str, ...] = ()
    """How it says that a modifier is held, and that it is not."""
    none: str = ""
    """How it says that no modifier is held."""
    negates: bool = False
    """Whether its condition says when it does not hold."""
    section: str = ""
    """The section that its first word stands for."""
    note: str = ""
    """Why what is of this form is kept."""


class Shape(Struct):
    """The form of a file: `format` as in descriptions; `assigns`: each command is followed by its key."""

    format: str
    forms: list[ShapeForm]
    records: list[ShownBinding]
    spelling: SpellingGuess
    comment: str = ""
    sections: list[str] = []
    assigns: bool = False
    alternatives: str = ""
    """What parts several keys of a command in a file that assigns."""
    no_keys: list[str] = []
    """Words for no keys in such a file."""
    top: str = ""
    """The section of what stands in none, where there are others."""
    others: list[str] = []
    """What was not understood, a piece each."""
    is_conditional: bool = False
    """Whether all bindings of a file of lines have a condition, so that it is not known how others are written."""
    joint: str = ""
    """What joins several commands to a chain."""
    heads: list[str] = []
    """The lines that it begins with."""
    has_trailing_comments: bool = False
    """Whether comments stand behind what its lines say."""

    @property
    def commands(self) -> list[str]:
        """The commands of the sample, each once."""
        return list(dict.fromkeys(record.command for record in self.records if record.command))


class Columns(Struct, frozen=True):
    """Which of the columns of a table of texts is what; None where there is none."""

    key: int
    command: int | None
    where: int | None = None
    title: int | None = None
    section: int | None = None


def of_other_platforms(names: Sequence[str]) -> list[str]:
    """Of names for keys, those that name platforms on which a draft is not: it is of what names none, or of the first of _PLATFORMS
    that is there."""
    named = [name for name in names if _platform(name) in _PLATFORMS]
    if not named or len(named) < len(names):
        return named
    first = min(named, key=lambda name: _PLATFORMS.index(_platform(name)))
    return [name for name in named if name != first]


def are_platforms(names: Sequence[str]) -> bool:
    """Whether these are names of platforms, or of keys there, and of nothing else."""
    return bool(names) and all(_platform(name) in _PLATFORMS for name in names)


def _platform(name: str) -> str:
    """The word for a platform in a name like `mac` or `keys.linux`."""
    return re.sub(r"[\W_]*(?:key|binding|shortcut)s?[\W_]*", "", name.rpartition(".")[2].lower())


def columns_of(names: Sequence[str], rows: Sequence[Sequence[str | None]], known: frozenset[str]) -> Columns | None:
    """Tells the columns of rows from each other by what stands in them; a missing value is None. None without keys."""
    values = [[row[index] for row in rows if row[index] is not None] for index in range(len(names))]
    texts = [[str(one) for one in column] for column in values]
    some = [[one for one in column if not is_nothing(one)] for column in texts]
    named = [few if len(few) > 1 else column for few, column in zip(some, texts, strict=True)]
    spelt = {index: found for index, column in enumerate(named) if (found := guess(column)) is not None}
    if not spelt:
        return None
    key = max(spelt, key=lambda index: (len(spelt[index].chords), len(set(texts[index]))))
    rest = [index for index in range(len(names)) if index != key and texts[index]]
    ranked = sorted(rest, key=lambda index: (-commandness(texts[index], known), index))
    ranked = [index for index in ranked if index not in spelt]
    command = next((index for index in ranked if commandness(texts[index], known) > 0), None)
    where = title = section = None
    for index in (one for one in rest if one != command and one not in spelt):
        distinct, name = set(texts[index]), names[index].lower()
        is_one = len(distinct) == 1 and len(texts[index]) == len(rows)
        if is_one or all(one.isdigit() or one.lower() in YES | NO for one in distinct):
            continue
        if is_condition(name, distinct):
            where = index if where is None else where
        elif name in _TITLE_NAMES or any(" " in one for one in distinct):
            title = index if title is None else title
        elif len(distinct) <= max(3, len(rows) // 4) and len(distinct) < len(rows):
            section = index if section is None else section
    return Columns(key, command, where, title, section)


def is_condition(name: str, values: Iterable[str]) -> bool:
    """Whether a column is one of conditions, by its name or by the signs in it."""
    return name.lower() in _WHERE_NAMES or any(_OPERATOR.search(value) for value in values)


def commandness(values: Iterable[str], known: frozenset[str]) -> float:
    """From 0 to 1, how much a column is one of commands: by those that are known, or by what looks like names."""
    some = [value for value in values if value.lower() not in _NOTHING]
    if not some:
        return 0.0
    if known:
        return sum(1 for one in some if one in known) / len(some)
    named = sum(1 for one in some if len(one) > 2 and (_IDENTIFIER.fullmatch(one) or CHAIN.fullmatch(one)))
    return (named / len(some)) * (len(set(some)) / len(some)) if named > 0.7 * len(some) else 0.0


def with_alternatives(shape: Shape) -> Shape:
    """A shape of a file that gives each command its keys: what stands there in place of keys, and several keys of a command,
    as what they are."""
    if not shape.assigns:
        return shape
    shape.no_keys = list(dict.fromkeys(record.key for record in shape.records if is_nothing(record.key) and record.key))
    records = [record for record in shape.records if not is_nothing(record.key)]
    sign = shape.spelling.between
    if shape.spelling.longest > 1 and (sign == PARTING or sign.strip() in _ALTERNATIVES):
        split = [ShownBinding(key.strip(), record.command, record.where, record.section)
                 for record in records for key in record.key.split(sign)]  # fmt: skip
        if (spelling := guess([one.key for one in split])) is not None:
            shape.alternatives, shape.spelling, records = sign.strip() or sign, spelling, split
    shape.records = records
    return shape


def is_nothing(command: str) -> bool:
    """Whether a word stands for no command."""
    return command.lower() in _NOTHING


def common_start(texts: Sequence[str]) -> str:
    """What all texts begin with."""
    return "".join(chars[0] for chars in takewhile(lambda chars: len(set(chars)) == 1, zip(*texts, strict=False)))
