"""Holds the programs of an editor's commands against the editor: random cases are run by both and compared.

A case is a text, a place in it, and one to four commands in a row; at the end a marker is typed, or what was kept is put in
before it. What differs is made smaller until nothing can be left out.
"""

import random
from collections.abc import Iterator, Sequence
from itertools import islice
from typing import Literal, NamedTuple

from msgspec import Struct

from ombix.core.catalogue.actions import Catalogue
from ombix.core.conditions import NEVER
from ombix.core.errors import InputError, Place
from ombix.core.keymap.bindings import Binding, Layer, LayerName
from ombix.core.keymap.outcomes import Only
from ombix.core.keys.notation import Trigger, parse
from ombix.editors.abilities import DescribedTarget
from ombix.editors.command_effects import EffectJudge, manner_of, settings_in, typing_of
from ombix.editors.description import Mode
from ombix.editors.dialect import Dialect
from ombix.editors.file_writing import write_file
from ombix.editors.known_command_rows import ways_in
from ombix.evidence.editor_host import EditorHost, Runs
from ombix.evidence.editor_run import Pressed, Start, placed
from ombix.evidence.probes import MARKER
from ombix.evidence.sandbox import Sandbox
from ombix.text.effects.buffer import Buffer, Settings
from ombix.text.effects.execution import CommandRun
from ombix.text.effects.program_language import EffectProgram, program
from ombix.text.effects.text_motions import line_start

Tail = Literal["type", "paste"]

_LINES = (
    "", "", "a", "one two", "  in", "\tin b", "x.y (z)", "trail  ", "a_b c1", "é ü", "((a) b)", "..!", "# c", "a\tb", " ",
    "long line of some words, and signs; until its end", "日本 x", "[k] {v}", "ab", "\t", "# a", "x" * 30,
)  # fmt: skip
"""Lines that texts are made of: short and long, empty, blank, indented, with signs, accents, wide characters, comments."""


class Case(NamedTuple):
    """What is tried: in a section of the editor, from a place in a text on (an offset from 0), commands, and how it is
    looked at."""

    section: str
    text: str
    cursor: int
    commands: tuple[str, ...]
    tail: Tail = "type"


class Discrepancy(NamedTuple):
    """A case in which the editor does not what the programs say: the texts with the marker that were expected and found."""

    case: Case
    expected: str
    found: str

    def __str__(self) -> str:
        one = self.case
        before = f"{one.text[: one.cursor]}|{one.text[one.cursor :]}"
        tail = "" if one.tail == "type" else ", paste"
        return f"{one.section} {before!r} {', '.join(one.commands)}{tail}: expected {self.expected!r}, found {self.found!r}"


class Commands(Struct, frozen=True):
    """The commands of an editor in a section that have programs: the program of each, the keys that run it, and the file
    that binds these."""

    dialect: Dialect
    section: str
    programs: dict[str, EffectProgram]
    unsure: dict[str, str]
    keys: dict[str, bytes]
    config: str
    settings: Settings
    paste: str = ""
    """The command that puts in what was kept."""
    ways: dict[str, CommandRun] = {}
    """Commands in a row that are run by one key, with what they do."""


def ways_of(dialect: Dialect, section: str, catalogue: Catalogue) -> Commands:
    """The commands in a row that are written for actions in a section, where it is known what they do, each on a key of its
    own."""
    judge = EffectJudge(None, dialect, catalogue)
    written = {
        one.command
        for found in dialect.vocabulary.compositions.values()
        for one in found
        if section in dialect.vocabulary.sections_of(one)
    }
    written |= set(ways_in(dialect, section))
    ways = {one: side for one in sorted(written) if (side := judge.does(section, one)) is not None}
    keys, config = _bound(dialect, section, list(ways), set(), catalogue)
    ways = {one: side for one, side in ways.items() if one in keys}
    stay = dict.fromkeys(ways, program("stay"))
    return Commands(dialect, section, stay, dict.fromkeys(ways, ""), keys, config, settings_in(dialect, ()), ways=ways)


_SAMPLE = "b"
"""The character that commands are told which ask for one."""


def commands_of(dialect: Dialect, section: str, catalogue: Catalogue, lines: tuple[str, ...] = ()) -> Commands:
    """All commands of a section that do something to a text, each with keys of its own; `lines` stand before them in the
    editor's file, like settings."""
    programs: dict[str, EffectProgram] = {}
    unsure: dict[str, str] = {}
    fixed: set[str] = set()
    paste = ""
    for name, row in dialect.vocabulary.commands.items():
        action = catalogue.actions[row.action] if row.action else None
        written = row.written or name
        sample = (_SAMPLE,) if row.next == "character" else ()
        given = dict(row.outcome_arguments(sample))
        effect = row.effect or (action.effect if action is not None else "")
        effect = action.told(given, effect) if action is not None else effect
        if row.unsure == "always" and not row.effect:
            continue  # nothing is held against it
        if sample and effect:
            written += _SAMPLE
        if (
            not effect
            or (row.arguments and not sample)
            or row.leads
            or section not in dialect.vocabulary.sections_of(row)
        ):
            continue
        programs[written] = program(effect)
        unsure[written] = row.unsure
        if row.fixed or row.read:
            fixed.add(written)
        if row.action == "edit.paste" and not paste:
            paste = written
    keys, config = _keys(dialect, section, list(programs), fixed, catalogue)
    reached = {name: one for name, one in programs.items() if name in keys}
    config = "".join(f"{line}\n" for line in lines) + config
    settings = settings_in(dialect, lines)
    return Commands(dialect, section, reached, unsure, keys, config, settings, paste if paste in keys else "")


def _keys(
    dialect: Dialect, section: str, commands: list[str], fixed: set[str], catalogue: Catalogue
) -> tuple[dict[str, bytes], str]:
    """The keys for each command, and the file that binds them."""
    terminal = dialect.terminal
    if dialect.description.commands.keys:
        found = {}
        for command in commands:
            if dialect.description.keys.bytes is not None:
                found[command] = command.encode()
            elif not command.startswith(":"):
                sent = terminal.send(dialect.spelling.read(command))
                if isinstance(sent, bytes):
                    found[command] = sent
        return found, ""
    return _bound(dialect, section, commands, fixed, catalogue)


def _bound(
    dialect: Dialect, section: str, commands: list[str], fixed: set[str], catalogue: Catalogue
) -> tuple[dict[str, bytes], str]:
    """Keys that the editor's file binds to each command, and the file."""
    terminal, space = dialect.terminal, dialect.space
    states = space.states(dialect.description.sections[section])
    by_default: dict[str, bytes] = {}
    for binding in dialect.default_layer.bindings:
        sent = terminal.send(binding.trigger)
        if isinstance(sent, bytes) and space.both(space.states(binding.where), states) != NEVER:
            by_default.setdefault(binding.written, sent)
    free = _free_triggers(dialect, section)
    keys: dict[str, bytes] = {}
    bindings: list[Binding] = []
    name = LayerName("conforming", "conforming")
    for command in commands:
        if command in fixed:
            if command in by_default:
                keys[command] = by_default[command]
            continue
        trigger = next(free, None)
        if trigger is None:
            break
        sent = terminal.send(trigger)
        assert isinstance(sent, bytes)
        keys[command] = sent
        where = dialect.where([section])
        bindings.append(Binding(trigger, Only(dialect.name, command), Place("conforming"), name, where))
    layer = Layer(name, bindings=bindings, facts=list(dialect.facts))
    return keys, write_file(dialect, layer, space, catalogue, headings=False)


def _free_triggers(dialect: Dialect, section: str) -> Iterator[Trigger]:
    """Chords that an editor takes in a section and that nothing else needs."""
    names = [f"F{number}" for number in (2, 3, 4, 6, 7, 8, 9, 10, 11, 12)]
    names += [f"Alt+{letter}" for letter in "abcdefghijklmnpqrstuvwxyz"]
    names += [f"Ctrl+{letter}" for letter in "abdefglnoprtuvwxy"]
    names += [f"Shift+F{number}" for number in range(2, 13)]
    names += [f"Alt+{digit}" for digit in "1234567890"]
    names += [f"Ctrl+K {letter}" for letter in "abcdefghijklmnopqrstuvwxyz"]
    target = DescribedTarget(dialect)
    program = dialect.description.program
    needed = program.save.encode() if program is not None else b""
    for name in names:
        trigger = parse(name)
        sent = dialect.terminal.send(trigger)
        if target.can_bind(trigger, section) and isinstance(sent, bytes) and sent != needed:
            yield trigger


# --- running


class Reached(NamedTuple):
    """What the programs lead to: the text with the marker, and whether a command was run where it is not sure."""

    text: str
    is_sure: bool


def expected(case: Case, commands: Commands) -> Reached:
    """What the programs of a case lead to."""
    manner = manner_of(commands.dialect, case.section)
    buffer = Buffer(case.text, case.cursor, settings=commands.settings)
    is_sure = True
    for name in (*case.commands, *((commands.paste,) if case.tail == "paste" else ())):
        if name in commands.ways:
            is_sure = commands.ways[name].run(buffer) and is_sure
            continue
        if commands.unsure[name] and program(f"if {commands.unsure[name]} {{ stop }}").run(buffer) is False:
            is_sure = False
        manner.run(commands.programs[name], buffer)
    typing_of(commands.dialect, case.section, MARKER).run(buffer)
    return Reached(buffer.text, is_sure)


def run(case: Case, commands: Commands, runs: Runs, fresh: bool = False) -> Pressed:
    """The text, with the marker, that the editor comes to; with `fresh` in one that is started for it."""
    description = commands.dialect.description
    assert description.program is not None
    mode = description.program.modes.get(case.section, Mode())
    keys = [commands.keys[name] for name in case.commands]
    if case.tail == "paste":
        keys.append(commands.keys[commands.paste])
    keys.append(mode.typing.replace("{text}", MARKER).encode())
    at = placed(description.program, mode, case.text, case.cursor, commands.settings.tab_width)
    begun = Start(description.file.name, commands.config, case.text, at.line, at.column)
    save = description.program.save.encode() or _save(commands)
    return runs.press(begun, [*at.keys, *keys, *at.leaving], save, fresh)


def _save(commands: Commands) -> bytes:
    """The keys that save by default."""
    dialect = commands.dialect
    for binding in dialect.default_layer.bindings:
        if str(binding.outcome) == "files.save":
            sent = dialect.terminal.send(binding.trigger)
            if isinstance(sent, bytes) and sent not in commands.keys.values():
                return sent
    raise ValueError(f"no key saves in {dialect.name}")


def compare(case: Case, commands: Commands, runs: Runs) -> Discrepancy | str | None:
    """How the editor differs from the programs in a case; None where it does not, a sentence where it was not to be had."""
    wanted, is_sure = expected(case, commands)
    if not is_sure:
        return None
    for is_fresh in (False, True, True):  # a busy machine may swallow a key: only what is so each time is a fact
        found = run(case, commands, runs, is_fresh)
        if found.text == wanted:
            return None
    return found.reason if found.text is None else Discrepancy(case, wanted, found.text)


# --- cases


def cases(commands: Commands, count: int, seed: int, alone: bool = False) -> Iterator[Case]:
    """Random cases; each command is the last one of as many as another, or with `alone` the only one."""
    draw = random.Random(f"{commands.dialect.name} {commands.section} {seed}")
    names = sorted(commands.programs)
    for number in range(count):
        lines = [draw.choice(_LINES) for _ in range(draw.choice((1, 1, 2, 3, 3, 4, 5)))]
        text = "\n".join(lines) + draw.choice(("\n", "\n", "\n", ""))
        one = commands.dialect.description.program
        if not text.endswith("\n") and one is not None and one.ends_lines:
            text += "\n"
        row = [draw.choice(names) for _ in range(0 if alone else draw.choice((0, 0, 1, 1, 2, 3)))]
        tail: Tail = "paste" if commands.paste and draw.random() < 0.3 else "type"
        cursor = draw.randrange(len(text) + 1)
        case = Case(commands.section, text, cursor, (*row, names[number % len(names)]), tail)
        if fitting(case, commands):
            yield case


_CHANGES = [
    ("left", "right"), ("start", "end"), ("line-start", "line-end"), ("stay", "edge"), ("letters", "runs"), ("names", "letters"),
    ("cut", "delete"), ("more", ""), ("extend", "go"), ("selection", "line"), ("kill", "remove"), ("go", "stand"),
    ("line-end", "end"), ("drop; ", ""), ("not ", ""), ("break-and-indentation", "break"), ("copy", "cut"), ("below", "above"),
    ("text-start", "line-start"), ("down", "up"), ("breaks", ""), ("within", ""), ("behind", "before"), ("stop", "drop"),
]  # fmt: skip
"""Words of programs, and others in their places."""


def changed_programs(commands: Commands) -> Iterator[tuple[str, Commands]]:
    """The commands with the program of one of them changed in a word, and which one: to see whether that is noticed."""
    fields = {name: getattr(commands, name) for name in commands.__struct_fields__}
    for name, one in commands.programs.items():
        for old, new in _CHANGES if commands.unsure[name] != "always" else ():
            if old not in one.text:
                continue
            try:
                changed = program(one.text.replace(old, new, 1))
            except InputError:
                continue
            yield name, Commands(**{**fields, "programs": {**commands.programs, name: changed}})


def telling_cases(one: Commands, other: Commands, name: str, most: int) -> list[Case]:
    """Cases with a command in which two kinds of programs lead to different texts."""
    found = (
        case for case in cases(one, 4000, 77)
        if name in case.commands and expected(case, one).is_sure and expected(case, one).text != expected(case, other).text
    )  # fmt: skip
    return list(islice(found, most))


def fitting(case: Case, commands: Commands) -> bool:
    """Whether the editor can be brought to where a case begins."""
    description = commands.dialect.description
    mode = description.program.modes.get(case.section) if description.program is not None else None
    one = description.program
    if one is not None and one.ends_lines and not (case.text.endswith("\n") and case.cursor < len(case.text)):
        return False
    at_line_end = case.text[case.cursor : case.cursor + 1] in ("", "\n")
    if at_line_end and mode is not None and not mode.at_line_end:
        return case.text[line_start(case.text, case.cursor) : case.cursor] == "" and case.cursor < len(case.text)
    return True


def smaller(case: Case) -> Iterator[Case]:
    """Cases with something left out, the shortest first."""
    for index in range(len(case.commands)):
        if len(case.commands) > 1:
            yield case._replace(commands=(*case.commands[:index], *case.commands[index + 1 :]))
    if case.tail == "paste":
        yield case._replace(tail="type")
    lines = case.text.split("\n")
    offset = 0
    for index, line in enumerate(lines):
        if not offset <= case.cursor <= offset + len(line) and len(lines) > 1:
            left = [*lines[:index], *lines[index + 1 :]]
            moved = case.cursor - len(line) - 1 if case.cursor > offset else case.cursor
            yield case._replace(text="\n".join(left), cursor=moved)
        offset += len(line) + 1
    for at, char in enumerate(case.text):
        if char != "\n":
            text = case.text[:at] + case.text[at + 1 :]
            yield case._replace(text=text, cursor=case.cursor - (at < case.cursor))


def shrunk(found: Discrepancy, commands: Commands, sandbox: Sandbox, workers: int, rounds: int = 6) -> Discrepancy:
    """A smaller case that still differs: in each round all that leave one thing out are tried."""
    for _ in range(rounds):
        tried = [case for case in smaller(found.case) if fitting(case, commands)]
        less = [one for one in run_many(tried, commands, sandbox, workers) if isinstance(one, Discrepancy)]
        if not less:
            break
        found = min(less, key=lambda one: (len(one.case.commands), one.case.tail == "paste", len(one.case.text)))
    return found


def run_many(
    many: Sequence[Case], commands: Commands, sandbox: Sandbox, workers: int
) -> list[Discrepancy | str | None]:
    """Compare cases, several editors at once."""
    from concurrent.futures import ThreadPoolExecutor

    program = commands.dialect.description.program
    assert program is not None
    with Runs(program, EditorHost(sandbox)) as runs, ThreadPoolExecutor(workers) as pool:
        return list(pool.map(lambda case: compare(case, commands, runs), many))
