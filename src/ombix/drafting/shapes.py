"""What a sample of a key file shows: its form, and where in it keys, commands, conditions and sections stand."""

import re
from collections import Counter
from collections.abc import Iterable, Sequence
from typing import Literal

from msgspec import Struct

from ombix.drafting.spellings import SpellingGuess, guess

Part = Literal["key", "command", "where", "title", "section"]
_NOTHING = frozenset({"", "null", "none", "nil", "nothing", "unbound", "false", "~"})
_IDENTIFIER = re.compile(r"[\w.:/!?*+<>-]+(?:\(\))?")
_OPERATOR = re.compile(r"&|\||!|\b(?:and|or|not|no)\b|==")
_WHERE_NAMES = frozenset({"when", "where", "if", "while", "condition", "context", "in", "only", "scope"})
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
    means: Literal["bind", "remove", "keep"]


class Shape(Struct):
    """The form of a file: `format` as in descriptions; `assigns`: each command is followed by its key."""

    format: str
    forms: list[ShapeForm]
    records: list[ShownBinding]
    spelling: SpellingGuess
    comment: str = ""
    sections: list[str] = []
    assigns: bool = False
    others: list[str] = []
    """What was not understood, a piece each."""

    @property
    def commands(self) -> list[str]:
        """The commands of the sample, each once."""
        return list(dict.fromkeys(one.command for one in self.records if one.command))


class Columns(Struct, frozen=True):
    """Which of the columns of a table of texts is what; None where there is none."""

    key: int
    command: int | None
    where: int | None = None
    title: int | None = None
    section: int | None = None


def columns_of(names: Sequence[str], rows: Sequence[Sequence[str | None]], known: frozenset[str]) -> Columns | None:
    """Tells the columns of rows from each other by what stands in them; a missing value is None. None without keys."""
    values = [[row[index] for row in rows if row[index] is not None] for index in range(len(names))]
    texts = [[str(one) for one in column] for column in values]
    spelt = {index: found for index, column in enumerate(texts) if (found := guess(column)) is not None}
    if not spelt:
        return None
    key = max(spelt, key=lambda index: (len(spelt[index].chords), len(set(texts[index]))))
    rest = [index for index in range(len(names)) if index != key and texts[index]]
    ranked = sorted(rest, key=lambda index: (-_commandness(texts[index], known), index))
    command = next((index for index in ranked if _commandness(texts[index], known) > 0), None)
    where = title = section = None
    for index in (one for one in rest if one != command):
        distinct, name = set(texts[index]), names[index].lower()
        if len(distinct) == 1 and len(texts[index]) == len(rows):
            continue
        if name in _WHERE_NAMES or any(_OPERATOR.search(one) for one in distinct):
            where = index if where is None else where
        elif name in _TITLE_NAMES or any(" " in one for one in distinct):
            title = index if title is None else title
        elif len(distinct) <= max(2, len(rows) // 4):
            section = index if section is None else section
    return Columns(key, command, where, title, section)


def _commandness(values: Iterable[str], known: frozenset[str]) -> float:
    """How much a column is one of commands: by those that are known, or by what looks like names."""
    some = [one for one in values if one.lower() not in _NOTHING]
    if not some:
        return 0.0
    if known:
        return sum(1 for one in some if one in known) / len(some)
    named = sum(1 for one in some if _IDENTIFIER.fullmatch(one) and len(one) > 2)
    return (named / len(some)) * (len(set(some)) / len(some)) if named > 0.8 * len(some) else 0.0


def is_nothing(command: str) -> bool:
    """Whether a word stands for no command."""
    return command.lower() in _NOTHING


# --- lines


_COMMENTS = ("#", "//", ";", "--", '"', "!")
_SIGNS = (" = ", "=", " : ", ": ", " -> ", " => ", "\t", " ")


def lines_shape(text: str, known: frozenset[str]) -> Shape | None:
    """The form of a file with a statement on each line; None where no keys stand in it."""
    lines = [line.strip() for line in text.lstrip("\ufeff").splitlines() if line.strip()]
    begun = Counter(sign for line in lines for sign in _COMMENTS if line.startswith(sign))
    comment = max(begun, key=lambda sign: (begun[sign], len(sign)), default="#")
    said = [line for line in lines if not line.startswith(comment)] or lines
    words = Counter(line.split()[0] for line in said)
    verbs = [word for word, count in words.items() if count > 1 and guess([word, word]) is None and word not in known]
    if sum(words[word] for word in verbs) >= 0.6 * len(said):
        groups = {word: [line for line in said if line.split()[0] == word] for word in words}
    else:
        groups = {"": said}
    shape: Shape | None = None
    forms: list[ShapeForm] = []
    records: list[ShownBinding] = []
    others: list[str] = []
    for verb, group in groups.items():
        found = _line_form(verb, [line[len(verb) :].strip() for line in group], known)
        if found is None:
            others += group
            continue
        form, some = found
        forms.append(form)
        records += some
    spelling = guess([one.key for one in records])
    if spelling is not None and any(form.means == "bind" for form in forms):
        shape = Shape("lines", forms, records, spelling, comment, others=others)
        shape.assigns = any(
            form.pattern.find("{command}") < form.pattern.find("{key}") for form in forms if form.means == "bind"
        )
    return shape


def _line_form(verb: str, rests: list[str], known: frozenset[str]) -> tuple[ShapeForm, list[ShownBinding]] | None:
    """The form of lines that begin with the same word, or with none; and what they say."""
    head = f"{verb} " if verb else ""
    tokens = [rest.split() for rest in rests]
    counts = {len(row) for row in tokens}
    if len(counts) == 1 and len(rests) > 1 and next(iter(counts)) > 2:
        found = columns_of([""] * len(tokens[0]), tokens, known)
        if found is not None and found.command is not None:
            named = {found.key: "{key}", found.command: "{command}", found.section: "{section}"}
            pattern = " ".join(named.get(index, word) for index, word in enumerate(tokens[0]))
            is_one = all(
                len({row[index] for row in tokens}) == 1 for index in range(len(tokens[0])) if index not in named
            )
            if is_one:
                part = found.section
                records = [
                    ShownBinding(row[found.key], row[found.command], section=row[part] if part is not None else "")
                    for row in tokens
                ]
                return ShapeForm(head + pattern, "bind"), records
    best: tuple[int, ShapeForm, list[ShownBinding]] | None = None
    for sign in _SIGNS:
        pairs = [(rest.partition(sign), rest.rpartition(sign)) for rest in rests]
        for key_first in (True, False):
            split = [(last if key_first else first) for first, last in pairs]
            if any(not middle for _one, middle, _other in split):
                continue
            keys = [(one if key_first else other).strip() for one, _sign, other in split]
            commands = [(other if key_first else one).strip() for one, _sign, other in split]
            quote = next(
                (mark for mark in "\"'`" if all(len(key) > 2 and key[0] == key[-1] == mark for key in keys)), ""
            )
            keys = [key.strip(quote) if quote else key for key in keys]
            spelt = guess(keys)
            if spelt is None or _commandness(commands, known) < 0.6:
                continue
            value = round(100 * _commandness(commands, known)) + len(spelt.chords)
            key = f"{quote}{{key}}{quote}"
            pattern = f"{head}{key}{sign}{{command}}" if key_first else f"{head}{{command}}{sign}{key}"
            if best is None or value > best[0]:
                best = (
                    value,
                    ShapeForm(pattern, "bind"),
                    [ShownBinding(*pair) for pair in zip(keys, commands, strict=True)],
                )
    if best is not None:
        return best[1], best[2]
    if verb and all(_key_like(rest) for rest in rests):
        return ShapeForm(head + "{key}", "remove"), [ShownBinding(rest, "") for rest in rests]
    return None


def _key_like(text: str) -> bool:
    return guess([text, text]) is not None
