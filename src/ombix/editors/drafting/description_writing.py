"""Writes the draft of a description: what is sure as it is, what is unsure as a comment with what it may be."""

import re
from collections import Counter
from collections.abc import Callable, Iterator, Mapping, Sequence

from msgspec import Struct

from ombix.core.errors import InputError
from ombix.editors.drafting.action_proposals import Proposal, Proposer
from ombix.editors.drafting.command_lists import Listed, read_list
from ombix.editors.drafting.condition_words import ConditionWords, StateWord, state_of, wording_of
from ombix.editors.drafting.key_lines import in_one_line, key_lines, key_of_table, quoted
from ombix.editors.drafting.line_comments import lines_shape
from ombix.editors.drafting.sample_shape import Shape, ShapeForm, with_alternatives
from ombix.editors.drafting.tree_shapes import is_strictly, refuse_broken, tree_shape
from ombix.editors.split_modifiers import PARTING

_WHOLE = "everywhere"
"""The section of a file that names none."""
_EVERY = frozenset({"everywhere", "always", "global", "all", "any", "general", "common"})
"""Names of sections that hold in all states."""
_JOINTS = ("&&", ";", ",", "|", " then ", "+")
"""Signs that may stand between the commands of a chain."""
_COMMAND = re.compile(r"[A-Za-z][\w.:/-]*")
_LINE = 118
_SHOWN = 60
"""Characters of a statement that are shown."""


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


def draft(name: str, given: Given, proposer: Proposer, overlap: Callable[[str, str], bool]) -> Draft:
    """A draft of a description; `overlap` tells whether two conditions can hold at once. Raises InputError for a sample in which
    no keys can be seen, with what was looked for."""
    listed = [row for _file, text in given.lists for row in read_list(text)]
    for file, text in given.lists:
        if text.strip() and not read_list(text):
            raise InputError(
                f"no list of commands can be seen in {file}",
                "Wanted is a command on each line, JSON, CSV, or a Markdown table.",
            )
    shape = _joined([_shape(file, text, frozenset(row.command for row in listed)) for file, text in given.samples])
    shape.joint = _joint(shape.commands)
    defaults = _defaults(given, shape, listed)
    keys_of: dict[str, list[str]] = {}
    for command, keys in [*((record.command, record.key) for record in shape.records), *defaults]:
        if portable := shape.spelling.portable(keys):
            keys_of.setdefault(command, []).append(portable)
    commands = {row.command: row.said for row in listed} | {
        part: ""
        for part in [*_parts(shape), *(command for command, key_lines in defaults)]
        if part not in {row.command for row in listed}
    }
    before = proposer.said_by_all([*commands])
    proposals = [
        Proposal(command, said, 1.0, (), given.actions[command]) if command in given.actions
        else proposer.propose(command, said, keys_of.get(command, ()), before)
        for command, said in commands.items()
    ]  # fmt: skip
    wording = wording_of([record.where for record in shape.records])
    words = wording.words if wording is not None else ()
    states = [_answered(word, given) for word in words]
    states += _apart([_answered(state_of(section), given) for section in shape.sections], shape, given, overlap)
    known = {state.word: state for state in states}
    states = [state for state in states if state.word != _every(shape)]
    made = Draft(name, shape, proposals, states, {}, list(_missing(given, shape, states, listed)))
    if not any(proposal.is_sure for proposal in proposals):
        made.missing.insert(0, "what its commands do: of none it is sure, so that nothing can be ported yet")
    sources = [file for file, quoted in (*given.samples, *given.lists, *given.defaults)]
    made.files["dialect.toml"] = "\n".join(_dialect(name, made, wording, known, given.samples[0][0], sources)) + "\n"
    made.files["commands.toml"] = "\n".join(_commands(proposals, sources)) + "\n"
    sure = {proposal.command for proposal in proposals if proposal.is_sure}
    rows = [(command, shape.spelling.portable(keys)) for command, keys in defaults if command in sure]
    rows = [row for row in rows if row[1]]
    made.defaults = len(rows)
    made.files["defaults.toml"] = "\n".join(_default_keys(rows, given, _first_section(known, shape))) + "\n"
    return made


def _answered(one: StateWord, given: Given) -> StateWord:
    return StateWord(one.word, given.states[one.word]) if one.word in given.states else one


def _apart(
    sections: Sequence[StateWord], shape: Shape, given: Given, overlap: Callable[[str, str], bool]
) -> list[StateWord]:
    """The states of sections, of which no two hold at once: of those that would, the one with more bindings is kept as it is, and
    what the other means is not known."""
    counts = Counter(record.section for record in shape.records)
    kept: list[str] = []
    unknown: set[str] = set()
    for section in sorted(sections, key=lambda one: (one.word not in given.states, -counts[one.word])):
        if section.word not in given.states and section.means and any(overlap(section.means, other) for other in kept):
            unknown.add(section.word)
        elif section.means and section.word != _every(shape):
            kept.append(section.means)
    return [StateWord(section.word, "", section.means) if section.word in unknown else section for section in sections]


def _shape(file: str, text: str, known: frozenset[str]) -> Shape:
    if not text.strip():
        raise InputError(f"{file} is empty", "Give a key file with some bindings in it.")
    # A list may be of something else: then the sample speaks for itself.
    known_or_not = (known, frozenset[str]())
    found = next((one for each in known_or_not if (one := tree_shape(text, each))), None)
    if found is None and not is_strictly(file.rpartition(".")[2].lower(), text, file):
        found = next((one for each in known_or_not if (one := lines_shape(text, each))), None)
    if found is None:
        refuse_broken(text, file)
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
        first.sections += [section for section in other.sections if section not in first.sections]
        first.others += other.others
        first.has_trailing_comments = first.has_trailing_comments or other.has_trailing_comments
        first.alternatives = first.alternatives or other.alternatives
        first.no_keys += [key for key in other.no_keys if key not in first.no_keys]
        first.spelling.chords.update(other.spelling.chords)
    return first


def _defaults(given: Given, shape: Shape, listed: Sequence[Listed]) -> list[tuple[str, str]]:
    """The default keys: commands and their keys, as they are spelt."""
    found = [(row.command, keys) for row in listed for keys in row.keys]
    for file, text in given.defaults:
        known = frozenset([*shape.commands, *(row.command for row in listed)])
        other = tree_shape(text, known) or lines_shape(text, known)
        rows = [(record.command, record.key) for record in other.records if record.command] if other is not None else [
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


def _joint(commands: Sequence[str]) -> str:
    """The sign that joins several commands to a chain, with the blanks around it; empty where there is none: both sides of it have
    to be names, and most of these commands by themselves."""
    single = {command for command in commands if _COMMAND.fullmatch(command)}
    for sign in _JOINTS:
        chains = [[part.strip() for part in command.split(sign)] for command in commands if sign in command]
        parts = [part for chain in chains for part in chain]
        if parts and all(map(_COMMAND.fullmatch, parts)) and sum(part in single for part in parts) > 0.5 * len(parts):
            blanks = re.search(rf"\s*{re.escape(sign)}\s*", next(command for command in commands if sign in command))
            return blanks[0] if blanks is not None else sign
    return ""


def _parts(shape: Shape) -> list[str]:
    """The commands of a sample, each once, without chains of them, but with those in chains."""
    sign = shape.joint
    parts = [
        part.strip() for command in shape.commands for part in (command.split(sign.strip()) if sign else [command])
    ]
    return list(dict.fromkeys(parts))


def _missing(given: Given, shape: Shape, states: Sequence[StateWord], listed: Sequence[Listed]) -> Iterator[str]:
    """What nobody but the user can know."""
    yield "how it decides between bindings of the same keys ([policy]): taken is that the last one wins"
    yield "whether it runs in a terminal or in a window of its own (terminal): taken is a window"
    if not given.lists:
        yield "a list of its commands (--commands): known are only those of the sample"
    elif unlisted := [part for part in _parts(shape) if part not in {row.command for row in listed}]:
        yield f"what is not in the list of commands: {len(unlisted)} of the sample, like {in_one_line(unlisted[0])}"
    if not given.defaults and not any(row.keys for row in listed):
        yield "its default keys (--default-keys): without them it has none"
    unknown = [state.word for state in states if not state.means]
    if unknown:
        yield f"what is meant by {', '.join(unknown)}"
    if shape.spelling.unread:
        yield f"what keys are meant by {', '.join(shape.spelling.unread[:5])}"
    if guessed := shape.spelling.guessed:
        yield f"whether {', '.join(f'{sign} means {name}' for sign, name in guessed.items())}: taken is that"
    is_apart = any("{first}" in form.pattern for form in shape.forms)
    if shape.spelling.longest > 1 and shape.spelling.between == PARTING and not is_apart:
        yield "whether several keys in a list are alternatives: taken is that they are pressed one after the other"
    if shape.assigns and not shape.alternatives:
        yield "what parts several keys of a command (alternatives): taken is that each has one"
    if shape.spelling.capitals == "both" and not shape.spelling.capital_modifiers:
        yield "whether a capital letter beside a modifier means Shift"
    relatives = shape.spelling.relatives()
    if relatives:
        yield f"how these are spelt: {', '.join(relatives)}"
    if not any(form.means == "remove" for form in shape.forms) and not shape.assigns:
        yield "how keys are taken away: no such statement is in the sample"
    if shape.has_trailing_comments and shape.comment not in ("#", "//"):
        yield f"whether {shape.comment} begins a comment behind a binding, too: taken is that it does"
    if shape.is_conditional:
        yield "how a binding without a condition is written: taken is that the condition is left out"
    if any("{else}" in form.pattern or form.note for form in shape.forms):
        yield "keys for other platforms: those of one are read, and the others stay as they are"
    if shape.others:
        count = "1 statement says" if len(shape.others) == 1 else f"{len(shape.others)} statements say"
        yield f"what {count}, like: {beginning(shape.others[0])}"


def beginning(text: str) -> str:
    """The beginning of a statement, in one line."""
    flat = " ".join(text.split())
    return flat if len(flat) <= _SHOWN else flat[: _SHOWN - 1] + "…"


def _first_section(known: Mapping[str, StateWord], shape: Shape) -> str:
    """The section of what names none: of those that are understood the one with the most bindings."""
    sure = [section for section in shape.sections if known[section].means]
    if not sure and (every := _every(shape)):
        return every
    counts = {one: sum(1 for record in shape.records if record.section == one) for one in sure}
    return max(sure, key=lambda one: counts[one], default=shape.sections[0] if shape.sections else _WHOLE)


def _every(shape: Shape) -> str:
    """The section that holds in all states, beside others; empty where there is none."""
    named = (
        next((section for section in shape.sections if section.lower() in _EVERY), "")
        if len(shape.sections) > 1
        else ""
    )
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
    yield from (f"name = {quoted(name)}", f"title = {quoted(name)}", 'version = "unknown"')
    yield f"sources = [{', '.join(map(quoted, sources))}]"
    yield '# Not known: a terminal, like "xterm", where it runs in one.'
    yield from ('terminal = "window"', "")
    yield from _file_table(shape, known, file)
    for form in sorted(shape.forms, key=lambda form: form.means == "bind"):  # an empty command is a command, too
        if shape.top and form.means != "open" and not form.section:
            yield from _form(form, shape.top)
        known_here = not form.section or known[form.section].means or form.section == _first_section(known, shape)
        yield from _form(form, form.section, bool(known_here))
    yield from _sections_table(shape, known)
    if wording is not None:
        yield from _conditions(wording, known)
    yield from ("", "[policy]", "# Not known: taken for granted is what most editors do.")
    yield from ('wins = "last"', 'prefix = "waits"', "", "[commands]")
    if shape.joint:
        yield f"then = {quoted(shape.joint)}"
    yield ""
    yield from key_lines(shape.spelling, shape)


def _file_table(shape: Shape, known: Mapping[str, StateWord], file: str) -> Iterator[str]:
    """How the file is laid out, and what its lines can say."""
    yield from ("[file]", f"format = {quoted(shape.format)}", f"name = {quoted(file)}", "usual = []")
    yield f"default-section = {quoted(_first_section(known, shape))}"
    if (every := _every(shape)) and _is_sure(shape, known):
        yield f"every-section = {quoted(every)}"
    if shape.heads:
        yield f"preamble = [{', '.join(map(quoted, shape.heads))}]"
    if shape.comment:
        yield f"comment = {quoted(shape.comment)}"
    if shape.has_trailing_comments:
        yield "trailing-comments = true"
    if shape.assigns:
        if shape.alternatives:
            yield from ('assigns = "several"', f"alternatives = {quoted(shape.alternatives)}")
        else:
            yield 'assigns = "one"  # or "several"'
        if shape.no_keys:
            yield f"no-keys = [{', '.join(map(quoted, shape.no_keys))}]"
    elif not any(form.means == "remove" for form in shape.forms):
        yield "takes-defaults-away = false  # no statement of the sample does"


def _is_sure(shape: Shape, known: Mapping[str, StateWord]) -> bool:
    """Whether it is known of any section in which states it holds."""
    return any(known[section].means for section in shape.sections)


def _sections_table(shape: Shape, known: Mapping[str, StateWord]) -> Iterator[str]:
    """The states in which each section holds."""
    every, is_sure = _every(shape), _is_sure(shape, known)
    yield from ("", "[sections]")
    if every and not is_sure:
        yield f'{key_of_table(every)} = "always"  # until the others are known'
    for section in shape.sections:
        state = known[section]
        means = state.means or ("always" if len(shape.sections) == 1 and not every else "")
        if section == every:
            continue
        if means:
            yield f"{key_of_table(section)} = {quoted(means)}"
        elif state.may_mean:
            yield f"# {key_of_table(section)} = {quoted(state.may_mean)}  # not known for sure"
        else:
            yield f"# {key_of_table(section)} = ?"
    if not is_sure and not every and len(shape.sections) > 1:
        yield f'{key_of_table(_first_section(known, shape))} = "always"  # until the others are known'
    if not shape.sections:
        yield f'{_WHOLE} = "always"'


def _form(form: ShapeForm, section: str = "", is_known: bool = True) -> Iterator[str]:
    yield from ("", "[[file.forms]]")
    # As it stands, where nothing in it ends a literal text.
    is_literal = "'" not in form.pattern and all(char.isprintable() or char == "\n" for char in form.pattern)
    if not is_literal:
        yield f"pattern = {quoted(form.pattern)}"
    elif "\n" in form.pattern:
        yield from ("pattern = '''", form.pattern, "'''")
    else:
        yield f"pattern = '{form.pattern}'"
    if not is_known:
        yield f'means = "keep"  # {quoted(form.means)}, when it is known what {section} means'
        yield from (f"note = {quoted(f'it is not known what {section} means')}", f"# section = {quoted(section)}")
        return
    yield f"means = {quoted(form.means)}"
    if form.negates:
        yield "negates = true"
    if form.note:
        yield f"note = {quoted(form.note)}"
    if form.end:
        yield f"end = {quoted(form.end)}"
    if section:
        yield f"section = {quoted(section)}"


def _conditions(wording: ConditionWords, known: Mapping[str, StateWord]) -> Iterator[str]:
    yield from ("", "[conditions]", f"both = {quoted(wording.both)}", f"either = {quoted(wording.either)}")
    yield from (f"negated = {quoted(wording.negated)}", "", "[conditions.words]")
    for word in wording.words:
        state = known[word.word]
        if state.means:
            yield f"{key_of_table(word.word)} = {quoted(state.means)}"
        else:
            yield f"# {key_of_table(word.word)} = {quoted(state.may_mean) if state.may_mean else '?'}  # not known for sure"


def _commands(proposals: Sequence[Proposal], sources: Sequence[str]) -> Iterator[str]:
    yield f"source = {quoted(', '.join(sources))}"
    yield from ("", "[command]")
    for one in proposals:
        if one.is_sure:
            yield f"{key_of_table(one.command)} = {{ action = {quoted(one.action)} }}"
    unsure = [proposal for proposal in proposals if not proposal.is_sure]
    if unsure:
        yield from (
            "",
            "# Not known for sure; behind each action is how well it fits, of 100. Take the sign # from what is right.",
        )
    for one in unsure:
        said = f": {one.said}" if one.said else ""
        yield f"# {in_one_line(one.command + said)}"[:_LINE]
        yield from (
            f"# {key_of_table(one.command)} = {{ action = {quoted(candidate.action)} }}  # {candidate.score:.0f}"
            for candidate in one.candidates
        )
        if not one.candidates:
            yield f'# {key_of_table(one.command)} = {{ only = "…" }}  # no action is like it'


def _default_keys(rows: Sequence[tuple[str, str]], given: Given, section: str) -> Iterator[str]:
    files = ", ".join(file for file, quoted in given.defaults)
    yield f"source = {quoted(files or 'a list of the commands' if rows else 'nothing is known of its default keys')}"
    if not rows:
        yield "group = []"
        return
    yield from ("", "[[group]]", f"sections = [{quoted(section)}]", "", "[group.keys]")
    yield from (
        f"{quoted(keys)} = {quoted(command)}" for keys, command in {keys: command for command, keys in rows}.items()
    )
