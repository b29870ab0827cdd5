"""Writes the draft of a description: what is sure as it is, what is unsure as a comment with what it may be."""

import json
import re
from collections.abc import Iterable, Iterator, Mapping, Sequence

from msgspec import Struct

from ombix.core.errors import InputError
from ombix.dialects.formats.trees.nodes import PARTING
from ombix.drafting.line_shapes import lines_shape
from ombix.drafting.listing import Listed, read_list
from ombix.drafting.proposing import Proposal, Proposer
from ombix.drafting.shapes import Shape, ShapeForm, with_alternatives
from ombix.drafting.spellings import IN_BRACKETS, SpellingGuess
from ombix.drafting.stating import ConditionWords, StateWord, state_of, wording_of
from ombix.drafting.tree_shapes import tree_shape

_WHOLE = "everywhere"
"""The section of a file that names none."""
_EVERY = frozenset({"everywhere", "always", "global", "all", "any", "general", "common"})
"""Names of sections that hold in all states."""
_HELD = ("Ctrl", "Alt", "Shift", "Meta")
_LINE = 118
_SHOWN = 60
"""Characters of a statement that are shown."""
_BEHIND_KEYS = re.compile(r"\{key\}([^\w\s])")
"""A sign that ends keys in a form, so that it is none of them."""


class Given(Struct, frozen=True):
    """What a draft is made from: samples of the key file, lists of the commands and of the default keys, each with its name;
    and what was answered: the action of a command, or the state that a word means."""

    samples: Sequence[tuple[str, str]]
    lists: Sequence[tuple[str, str]] = ()
    defaults: Sequence[tuple[str, str]] = ()
    actions: Mapping[str, str] = {}
    states: Mapping[str, str] = {}


class Draft(Struct):
    """A draft: what was found out, the three files, and what is missing."""

    name: str
    shape: Shape
    proposals: list[Proposal]
    states: list[StateWord]
    files: dict[str, str]
    missing: list[str]
    defaults: int = 0
    """How many default keys it has."""


def draft(name: str, given: Given, proposer: Proposer) -> Draft:
    """A draft of a description. Raises InputError for a sample in which no keys can be seen, with what was looked for."""
    listed = [row for _file, text in given.lists for row in read_list(text)]
    for file, text in given.lists:
        if text.strip() and not read_list(text):
            raise InputError(
                f"no list of commands can be seen in {file}",
                "Wanted is a command on each line, JSON, CSV, or a Markdown table.",
            )
    shape = _joined([_shape(file, text, frozenset(row.command for row in listed)) for file, text in given.samples])
    defaults = _defaults(given, shape, listed)
    keys_of: dict[str, list[str]] = {}
    for command, keys in [*((one.command, one.key) for one in shape.records), *defaults]:
        if portable := shape.spelling.portable(keys):
            keys_of.setdefault(command, []).append(portable)
    commands = {row.command: row.said for row in listed} | {
        one: ""
        for one in [*shape.commands, *(command for command, _keys in defaults)]
        if one not in {row.command for row in listed}
    }
    proposals = [
        Proposal(command, said, 1.0, (), given.actions[command]) if command in given.actions
        else proposer.propose(command, said, keys_of.get(command, ()))
        for command, said in commands.items()
    ]  # fmt: skip
    wording = wording_of([one.where for one in shape.records])
    states = [*(wording.words if wording is not None else ()), *map(state_of, shape.sections)]
    states = [StateWord(one.word, given.states[one.word]) if one.word in given.states else one for one in states]
    known = {one.word: one for one in states}
    states = [one for one in states if one.word != _every(shape)]
    made = Draft(name, shape, proposals, states, {}, list(_missing(given, shape, states, listed)))
    if not any(one.is_sure for one in proposals):
        made.missing.insert(0, "what its commands do: of none it is sure, so that nothing can be ported yet")
    sources = [file for file, _text in (*given.samples, *given.lists, *given.defaults)]
    made.files["dialect.toml"] = "\n".join(_dialect(name, made, wording, known, given.samples[0][0], sources)) + "\n"
    made.files["commands.toml"] = "\n".join(_commands(proposals, sources)) + "\n"
    sure = {one.command for one in proposals if one.is_sure}
    rows = [(command, shape.spelling.portable(keys)) for command, keys in defaults if command in sure]
    rows = [row for row in rows if row[1]]
    made.defaults = len(rows)
    made.files["defaults.toml"] = "\n".join(_default_keys(rows, given, _first_section(known, shape))) + "\n"
    return made


def _shape(file: str, text: str, known: frozenset[str]) -> Shape:
    if not text.strip():
        raise InputError(f"{file} is empty", "Give a key file with some bindings in it.")
    # A list may be of something else: then the sample speaks for itself.
    found = next(
        (one for each in (known, frozenset[str]()) if (one := tree_shape(text, each) or lines_shape(text, each))), None
    )
    if found is None:
        raise InputError(
            f"no keys can be seen in {file}",
            "Wanted is a key file with at least two bindings of the same form, some of them with Ctrl, Alt or a function key.",
        )
    return with_alternatives(found)


def _joined(shapes: Sequence[Shape]) -> Shape:
    """Several samples as one; all have to be of the same form."""
    first = shapes[0]
    for other in shapes[1:]:
        if other.format != first.format:
            raise InputError(
                f"the samples are of different forms: {first.format} and {other.format}",
                "Draft one description for each.",
            )
        first.forms += [form for form in other.forms if form not in first.forms]
        first.records += other.records
        first.sections += [one for one in other.sections if one not in first.sections]
        first.others += other.others
        first.alternatives = first.alternatives or other.alternatives
        first.no_keys += [one for one in other.no_keys if one not in first.no_keys]
        first.spelling.chords.update(other.spelling.chords)
    return first


def _defaults(given: Given, shape: Shape, listed: Sequence[Listed]) -> list[tuple[str, str]]:
    """The default keys: commands and their keys, as they are spelt."""
    found = [(row.command, keys) for row in listed for keys in row.keys]
    for file, text in given.defaults:
        known = frozenset([*shape.commands, *(row.command for row in listed)])
        other = tree_shape(text, known) or lines_shape(text, known)
        rows = [(one.command, one.key) for one in other.records if one.command] if other is not None else [
            (row.command, keys) for row in read_list(text, known) for keys in row.keys
        ]  # fmt: skip
        if not rows:
            raise InputError(
                f"no default keys can be seen in {file}", "Wanted is a key file, or a table of commands and keys."
            )
        found += rows
        if other is not None:
            for spelt, chords in other.spelling.chords.items():
                shape.spelling.chords.setdefault(spelt, chords)
    return found


def _missing(given: Given, shape: Shape, states: Sequence[StateWord], listed: Sequence[Listed]) -> Iterator[str]:
    """What nobody but the user can know."""
    yield "how it decides between bindings of the same keys ([policy]): taken is that the last one wins"
    yield "whether it runs in a terminal or in a window of its own (terminal): taken is a window"
    if not given.lists:
        yield "a list of its commands (--commands): known are only those of the sample"
    elif unlisted := [one for one in shape.commands if one not in {row.command for row in listed}]:
        yield f"what is not in the list of commands: {len(unlisted)} of the sample, like {_plain(unlisted[0])}"
    if not given.defaults and not any(row.keys for row in listed):
        yield "its default keys (--default-keys): without them it has none"
    unknown = [one.word for one in states if not one.means]
    if unknown:
        yield f"what is meant by {', '.join(unknown)}"
    if shape.spelling.unread:
        yield f"what keys are meant by {', '.join(shape.spelling.unread[:5])}"
    is_apart = any("{first}" in form.pattern for form in shape.forms)
    if shape.spelling.longest > 1 and shape.spelling.between == PARTING and not is_apart:
        yield "whether several keys in a list are alternatives: taken is that they are pressed one after the other"
    if shape.assigns and not shape.alternatives:
        yield "what parts several keys of a command (alternatives): taken is that each has one"
    if shape.spelling.capitals == "both":
        yield "whether a capital letter beside a modifier means Shift"
    relatives = shape.spelling.relatives()
    if relatives:
        yield f"how these are spelt: {', '.join(relatives)}"
    if not any(form.means == "remove" for form in shape.forms) and not shape.assigns:
        yield "how keys are taken away: no such statement is in the sample"
    if shape.is_conditional:
        yield "how a binding without a condition is written: taken is that the condition is left out"
    if shape.others:
        yield f"what {len(shape.others)} statements say, like: {beginning(shape.others[0])}"


def beginning(text: str) -> str:
    """The beginning of a statement, in one line."""
    flat = " ".join(text.split())
    return flat if len(flat) <= _SHOWN else flat[: _SHOWN - 1] + "…"


def _text(value: str) -> str:
    """A TOML string."""
    return json.dumps(value, ensure_ascii=False).replace("\x7f", "\\u007f")


def _plain(text: str) -> str:
    """A text for a comment, in which no control character can stand."""
    return "".join(char if char.isprintable() else " " for char in text)


def _name(key: str) -> str:
    return key if key.replace("-", "").replace("_", "").isalnum() and key.isascii() else _text(key)


def _first_section(known: Mapping[str, StateWord], shape: Shape) -> str:
    """The section of what names none: of those that are understood the one with the most bindings."""
    sure = [one for one in shape.sections if known[one].means]
    if not sure and (every := _every(shape)):
        return every
    counts = {one: sum(1 for record in shape.records if record.section == one) for one in sure}
    return max(sure, key=lambda one: counts[one], default=shape.sections[0] if shape.sections else _WHOLE)


def _every(shape: Shape) -> str:
    """The section that holds in all states, beside others; empty where there is none."""
    named = next((one for one in shape.sections if one.lower() in _EVERY), "") if len(shape.sections) > 1 else ""
    return shape.top or named


def _dialect(
    name: str,
    made: Draft,
    wording: ConditionWords | None,
    known: Mapping[str, StateWord],
    file: str,
    sources: Sequence[str],
) -> Iterator[str]:
    shape = made.shape
    yield f"# A draft of how {name} writes its keys. What is not known for sure is commented: look through it."
    yield from (f"name = {_text(name)}", f"title = {_text(name)}", 'version = "unknown"')
    yield f"sources = [{', '.join(map(_text, sources))}]"
    yield '# Not known: a terminal, like "xterm", where it runs in one.'
    yield from (
        'terminal = "window"',
        "",
        "[file]",
        f"format = {_text(shape.format)}",
        f"name = {_text(file)}",
        "usual = []",
    )
    yield f"default-section = {_text(_first_section(known, shape))}"
    is_sure = any(known[one].means for one in shape.sections)
    every = _every(shape)
    if every and is_sure:
        yield f"every-section = {_text(every)}"
    if shape.heads:
        yield f"preamble = [{', '.join(map(_text, shape.heads))}]"
    if shape.comment:
        yield f"comment = {_text(shape.comment)}"
    if shape.assigns:
        if shape.alternatives:
            yield from ('assigns = "several"', f"alternatives = {_text(shape.alternatives)}")
        else:
            yield 'assigns = "one"  # or "several"'
        if shape.no_keys:
            yield f"no-keys = [{', '.join(map(_text, shape.no_keys))}]"
    elif not any(form.means == "remove" for form in shape.forms):
        yield "takes-defaults-away = false  # no statement of the sample does"
    for form in sorted(shape.forms, key=lambda form: form.means == "bind"):  # an empty command is a command, too
        if shape.top and form.means != "open":
            yield from _form(form, shape.top)
        yield from _form(form)
    yield from ("", "[sections]")
    if every and not is_sure:
        yield f'{_name(every)} = "always"  # until the others are known'
    for one in shape.sections:
        state = known[one]
        means = state.means or ("always" if len(shape.sections) == 1 and not every else "")
        if one == every:
            continue
        if means:
            yield f"{_name(one)} = {_text(means)}"
        else:
            yield (
                f"# {_name(one)} = {_text(state.may_mean)}  # not known for sure"
                if state.may_mean
                else f"# {_name(one)} = ?"
            )
    if not is_sure and not every and len(shape.sections) > 1:
        yield f'{_name(_first_section(known, shape))} = "always"  # until the others are known'
    if not shape.sections:
        yield f'{_WHOLE} = "always"'
    if wording is not None:
        yield from _conditions(wording, known)
    yield from (
        "",
        "[policy]",
        "# Not known: taken for granted is what most editors do.",
        'wins = "last"',
        'prefix = "waits"',
    )
    yield from ("", "[commands]", "")
    yield from _keys(shape.spelling, shape)


def _form(form: ShapeForm, section: str = "") -> Iterator[str]:
    yield from ("", "[[file.forms]]")
    # As it stands, where nothing in it ends a literal text.
    is_literal = "'" not in form.pattern and all(char.isprintable() or char == "\n" for char in form.pattern)
    if not is_literal:
        yield f"pattern = {_text(form.pattern)}"
    elif "\n" in form.pattern:
        yield from ("pattern = '''", form.pattern, "'''")
    else:
        yield f"pattern = '{form.pattern}'"
    yield f"means = {_text(form.means)}"
    if form.negates:
        yield "negates = true"
    if form.end:
        yield f"end = {_text(form.end)}"
    if section:
        yield f"section = {_text(section)}"


def _conditions(wording: ConditionWords, known: Mapping[str, StateWord]) -> Iterator[str]:
    yield from ("", "[conditions]", f"both = {_text(wording.both)}", f"either = {_text(wording.either)}")
    yield from (f"negated = {_text(wording.negated)}", "", "[conditions.words]")
    for one in wording.words:
        state = known[one.word]
        if state.means:
            yield f"{_name(one.word)} = {_text(state.means)}"
        else:
            yield f"# {_name(one.word)} = {_text(state.may_mean) if state.may_mean else '?'}  # not known for sure"


def _keys(spelling: SpellingGuess, shape: Shape) -> Iterator[str]:
    names, modifiers = spelling.names, spelling.modifiers
    yield "[keys]"
    if spelling.between == IN_BRACKETS:
        yield from (f"longest = {spelling.longest}", f"pieces = {_text(IN_BRACKETS)}")
    elif spelling.longest > 1:
        yield from (f"longest = {spelling.longest}", f"between = {_text(spelling.between)}")
    if (sign := next((form.between for form in shape.forms if form.between), " ")) != " ":
        yield f"modifiers-between = {_text(sign)}"
    words = next((form.words for form in shape.forms if form.words and "{" in form.pattern), ())
    if words not in ((), ("true", "false")):
        yield f"held-words = [{', '.join(map(_text, words))}]"
    if modifiers:
        yield f"joiner = {_text(spelling.joiner)}"
        yield f"modifiers = {{ {', '.join(f'{key} = {_text(word)}' for key, word in modifiers.items())} }}"
    if other := spelling.other_modifiers:
        yield f"also-modifiers = {{ {', '.join(f'{_name(word)} = {_text(key)}' for word, key in other.items())} }}"
    for one in _HELD:
        if one not in modifiers:
            yield f"# No key of the sample has {one}: its word is not known."
    if names or spelling.relatives():
        yield from ("", "[keys.names]")
        yield from (f"{_name(key)} = {_text(word)}" for key, word in names.items())
        yield from (
            f"# {_name(key)} = {_text(word)}  # not in the sample" for key, word in spelling.relatives().items()
        )
    held = f"held = [{', '.join(_text(one) for one in modifiers)}]"
    letter = "{LETTER}" if spelling.capitals == "capital" else "{letter}"
    alone = spelling.plain
    yield from _key_form("{letter}", letter, held, not any(one.isalpha() for one in alone), modifiers)
    marked = [one for one in modifiers if one != "Shift"]
    behind = {sign for form in shape.forms for sign in _BEHIND_KEYS.findall(form.pattern)}
    signs = {*behind, *spelling.joiner, *spelling.between.strip(), shape.comment[:1], *"\"'<>&=(){}[]"} | {
        key for key in names if len(key) == 1
    }
    without = f"without = [{', '.join(_text(one) for one in sorted(signs) if one and not one.isalnum())}]"
    is_alone = any(not one.isalpha() for one in alone)
    if marked or is_alone:
        marks = f"held = [{', '.join(map(_text, marked))}]"
        yield from _key_form("{mark}", "{mark}", f"{marks}\n{without}" if marked else without, not is_alone, marked)
    if names:
        yield from _key_form("{key}", "{key}", held, False, modifiers)
    if prefix := spelling.function_key:
        yield from _key_form("F{n}", prefix, held, False, modifiers)


def _key_form(chord: str, written: str, held: str, needs_one: bool, modifiers: Iterable[str]) -> Iterator[str]:
    if needs_one and not list(modifiers):
        return
    yield from ("", "[[keys.forms]]", f"chord = {_text(chord)}", f"written = {_text(written)}")
    if list(modifiers):
        yield held
    if needs_one:
        yield "at-least = 1"


def _commands(proposals: Sequence[Proposal], sources: Sequence[str]) -> Iterator[str]:
    yield f"source = {_text(', '.join(sources))}"
    yield from ("", "[command]")
    for one in proposals:
        if one.is_sure:
            yield f"{_name(one.command)} = {{ action = {_text(one.action)} }}"
    unsure = [one for one in proposals if not one.is_sure]
    if unsure:
        yield from (
            "",
            "# Not known for sure; behind each action is how well it fits, of 100. Take the sign # from what is right.",
        )
    for one in unsure:
        said = f": {one.said}" if one.said else ""
        yield f"# {_plain(one.command + said)}"[:_LINE]
        yield from (
            f"# {_name(one.command)} = {{ action = {_text(each.action)} }}  # {each.score:.0f}"
            for each in one.candidates
        )
        if not one.candidates:
            yield f'# {_name(one.command)} = {{ only = "…" }}  # no action is like it'


def _default_keys(rows: Sequence[tuple[str, str]], given: Given, section: str) -> Iterator[str]:
    files = ", ".join(file for file, _text in given.defaults)
    yield f"source = {_text(files or 'a list of the commands' if rows else 'nothing is known of its default keys')}"
    if not rows:
        yield "group = []"
        return
    yield from ("", "[[group]]", f"sections = [{_text(section)}]", "", "[group.keys]")
    yield from (
        f"{_text(keys)} = {_text(command)}" for keys, command in {keys: command for command, keys in rows}.items()
    )
