"""The shape of a sample that says one thing on each line, in blocks or without them."""

import re
from collections import Counter
from collections.abc import Iterator, Sequence
from itertools import takewhile
from typing import NamedTuple

from msgspec.structs import replace

from ombix.editors.drafting.line_blocks import (
    CLOSING,
    OPENING,
    SampleLine,
    SampleLines,
    blocks_of,
    headings_of,
    in_blocks,
    run_of,
)
from ombix.editors.drafting.line_conditions import by_condition, with_condition, without_condition
from ombix.editors.drafting.line_removals import NO_COMMAND, removals_of
from ombix.editors.drafting.line_tables import table_of, with_blanks, with_tabs_for_blanks
from ombix.editors.drafting.modifier_columns import ModifiersApart, joined, modifiers_apart, signs_of
from ombix.editors.drafting.sample_shape import (
    CHAIN,
    TAKES_AWAY,
    Columns,
    Shape,
    ShapeForm,
    ShownBinding,
    columns_of,
    commandness,
    common_start,
    is_nothing,
)
from ombix.editors.drafting.spellings import guess
from ombix.editors.formats.lines import expression_of

_COMMENTS = ("#", "//", ";", "--", '"', "!")
_SIGNS = (" = ", "=", " : ", ": ", " -> ", " => ", "\t", " ")
_VERB = re.compile(r"([A-Za-z_][\w.-]*)(?:(?:[ \t]+-{1,2}[A-Za-z][\w-]*)+(?:=|(?=\s))|(?=[\s(]))")
"""A word that a statement begins with, and the options behind it."""
_BETWEEN = re.compile(r"[^\w+^<>~\t-]* [A-Za-z_]+[ :=][^\w+^<>~\t-]*|[^\w+^<>~-]+")
_FRONT = re.compile(r"\\|[A-Za-z]{2,}[_.:]|[A-Za-z][\w.-]*\s*(?::=|=>|->|=|:)\s*(?=\S)")
"""What may stand before each key: a sign, or a word with one."""
_EQUALS = re.compile(r"(?::=|=>|->|=|:)\s+")
"""What no keys begin with: the sign between a word and them."""
_BINDS_IN = re.compile(r"[A-Za-z]+[-_]?(?:nore|re)?(?:map|bind|key)|(?:map|bind|key)[-_][A-Za-z]+")
"""A word for binding keys in something."""
_AFTER = re.compile(r"(?:<[A-Za-z]+>|\\[nr])$")
"""What may end all commands: a key that is pressed behind them."""
_WORDS = re.compile(r"[A-Za-z][\w .:/-]*")
_SOME = 5
"""Lines of a sample, beside which one alone tells nothing of its form."""
_TOP = "everywhere"
"""The section of what stands in none."""


def shape_of_lines(text: str, known: frozenset[str]) -> Shape | None:
    """The form of a file with a statement on each line; None where no keys stand in it."""
    if tabbed := with_tabs_for_blanks(text):
        aligned = shape_of_lines(tabbed, known)
        return with_blanks(aligned) if aligned is not None else None
    raw = [_plain(line) for line in text.lstrip("\ufeff").splitlines() if line.strip()]
    comment = next(iter(begun_comments([line.strip() for line in raw])), "#")
    said = [line for line in raw if not _begins(line.strip(), comment)] or raw
    lines, heads = in_blocks(said), list[str]()
    if (table := table_of([line.strip() for line in said], known)) is not None:
        heads = [line.strip() for line in text.splitlines() if _plain(line).strip() in table.heads]
        lines = SampleLines([SampleLine(line.strip()) for line in said], {})
        found: _Found | None = table.forms, [(lines.said[at], one) for at, one in table.rows], table.others
    else:
        found = _bindings(lines.said, known)
    if found is None and lines.ends:
        lines = SampleLines([SampleLine(line.strip()) for line in said], {})
        found = _bindings(lines.said, known)
    if found is None:
        return None
    forms, rows, others = found
    blocks = blocks_of(lines, rows)
    headed: dict[int, str] = {}
    if not lines.ends and others and not heads:
        blocks, headed, others = headings_of(lines.said, rows, others)
    records, is_top = [], False
    for line, record in rows:
        section = record.section or next(
            (blocks.section_of[one] for one in reversed(line.around) if blocks.section_of.get(one)), ""
        ) or headed.get(id(line), "")  # fmt: skip
        is_top = is_top or not section
        records.append(ShownBinding(record.key, record.command, record.where, section))
    sections = list(dict.fromkeys(record.section for record in records if record.section))
    spelling = guess([record.key for record in records if not is_nothing(record.key)])
    if spelling is None or not any(form.means == "bind" for form in forms):
        return None
    shape = Shape("lines", [*forms, *blocks.forms], records, spelling, comment, sections, others=others)
    shape.heads = heads
    conditional = [form for form in forms if form.means == "bind" and "{where}" in form.pattern]
    if not heads and conditional and all(form in conditional for form in forms if form.means == "bind"):
        shape.is_conditional = True
        shape.forms.append(replace(conditional[0], pattern=without_condition(conditional[0].pattern), negates=False))
    if sections and is_top:
        shape.top = _TOP
    shape.assigns = not heads and any(
        re.search(r"\{(command|keys)\}.*\{key\}", form.pattern) for form in forms if form.means == "bind"
    )
    return shape


def _begins(line: str, comment: str) -> bool:
    """Whether a line is a comment; what stands in quotes is none, and no key is."""
    is_one = line.count('"') % 2 == 1 if comment == '"' else comment != "!" or line[1:2] in ("", " ", "!")
    return line.startswith(comment) and is_one


def _plain(line: str) -> str:
    """A line with one blank for several between its words, and none at its end."""
    inner = line.strip()
    return line[: len(line) - len(line.lstrip())] + re.sub(r" {2,}", " ", inner)


def begun_comments(lines: Sequence[str]) -> list[str]:
    """What may begin a comment: the signs with which some lines begin, but not nearly all, the most frequent first."""
    begun = Counter(sign for line in lines for sign in _COMMENTS if _begins(line, sign))
    some = [sign for sign in begun if begun[sign] < 0.7 * len(lines)]
    return sorted(some, key=lambda sign: (-begun[sign], -len(sign)))


_Found = tuple[list[ShapeForm], list[tuple[SampleLine, ShownBinding]], list[str]]


def _bindings(lines: Sequence[SampleLine], known: frozenset[str]) -> _Found | None:
    """The forms of lines that bind keys or take them away, those lines with what they say, and the others."""
    matches = [_VERB.match(line.text) for line in lines]
    verbs = [match[0] if match is not None else "" for match in matches]
    counts = Counter(match[1] for match in matches if match is not None)
    used = [word for word, count in counts.items() if count > 1 and guess([word] * 2) is None and word not in known]
    by_verbs = _with_verbs(lines, verbs, known) if sum(counts[word] for word in used) >= 0.6 * len(lines) else None
    if by_verbs is not None and not by_verbs[2]:
        return by_verbs
    plain = _with_verbs(lines, [""] * len(lines), known)
    found = [one for one in (by_verbs, plain) if one is not None]
    return min(found, key=lambda one: len(one[2]), default=None)


def _with_verbs(lines: Sequence[SampleLine], verbs: Sequence[str], known: frozenset[str]) -> _Found | None:
    """The same, where these are the words that the lines begin with."""
    forms: list[ShapeForm] = []
    rows: list[tuple[SampleLine, ShownBinding]] = []

    def taken(verb: str, group: Sequence[SampleLine]) -> list[SampleLine]:
        """Take the lines that bind keys, and leave the others."""
        understood: set[int] = set()
        for form, some in _forms_of(verb, group, known):
            forms.append(form)
            rows.extend(some)
            understood |= {id(line) for line, _record in some}
        return [line for line in group if id(line) not in understood]

    left: dict[str, list[SampleLine]] = {}
    for verb in dict.fromkeys(verbs):
        group = [line for line, word in zip(lines, verbs, strict=True) if word == verb]
        # What its word says to take away is looked at when it is known how keys are spelt; what stands once, beside many of
        # another form, is no binding because it could be one.
        is_single = len(group) == 1 and len(lines) > _SOME and bool(verb)
        left[verb] = group if TAKES_AWAY.match(verb) or is_single else taken(verb, group)
    spelling = guess([record.key for _line, record in rows])
    others: list[str] = []
    for verb, some in left.items():
        removed = removals_of(verb, some, forms, spelling) if spelling is not None and some else None
        if removed is None:
            again = TAKES_AWAY.match(verb) and len(some) > 1
            others += [line.text for line in (taken(verb, some) if again else some)]
        else:
            forms.append(removed[0])
            rows += removed[1]
    rows, forms = _by_first_word(rows, forms)
    # What says the most comes first: a shorter form may fit the beginning of a longer one.
    forms.sort(key=lambda form: (-form.pattern.count("{"), " -" in form.pattern))
    return (forms, rows, others) if any(form.means == "bind" for form in forms) else None


def _by_first_word(
    rows: list[tuple[SampleLine, ShownBinding]], forms: list[ShapeForm]
) -> tuple[list[tuple[SampleLine, ShownBinding]], list[ShapeForm]]:
    """Where forms of bindings are the same but for a first word, and these are parts of a word for binding (`nmap`, `imap`), each
    of them stands for a section."""
    behind: dict[str, list[str]] = {}
    for form in forms:
        word, blank, rest = form.pattern.partition(" ")
        if form.means == "bind" and blank and _BINDS_IN.fullmatch(word) and "{section}" not in rest:
            behind.setdefault(rest, []).append(word)
    words = {word for some in behind.values() if len(some) > 1 for word in some}

    def section(text: str) -> str:
        word = text.partition(" ")[0]
        return word if word in words else ""

    return [(line, replace(record, section=record.section or section(line.text))) for line, record in rows], [
        replace(form, section=section(form.pattern)) for form in forms
    ]


def _forms_of(
    verb: str, group: Sequence[SampleLine], known: frozenset[str]
) -> Iterator[tuple[ShapeForm, list[tuple[SampleLine, ShownBinding]]]]:
    """The forms of lines that begin with the same word, or with none."""
    known_forms: list[tuple[ShapeForm, _Numbered]] = []
    for some in by_condition([line.text[len(verb) :] for line in group]):
        rests = [one.rest for _at, one in some]
        found_forms = list(_plain_forms(verb, rests, known))
        if not found_forms:
            found_forms = [
                (form, also)
                for form, records in known_forms
                if form.means == "bind" and (also := list(_also(form, verb, [*enumerate(rests)], records)))
            ][:1]
        known_forms += found_forms
        first = some[0][1]
        for form, found in found_forms:
            pattern = with_condition(form.pattern, first)
            if not pattern or (first.clause and "{keys}" in form.pattern):
                continue  # where a command of several words ends could not be told
            yield replace(form, pattern=pattern, negates=first.negates), [
                (group[some[at][0]], ShownBinding(one.key, one.command, some[at][1].where, one.section))
                for at, one in found
            ]  # fmt: skip


_Numbered = list[tuple[int, ShownBinding]]


def _plain_forms(verb: str, rests: list[str], known: frozenset[str]) -> Iterator[tuple[ShapeForm, _Numbered]]:
    """The forms of what stands behind a word; what each says has the number of its line."""
    rows = list(enumerate(rests))
    binding = line_form(verb, rows, known)
    if binding is None:
        some = [(at, rest) for at, rest in rows if not NO_COMMAND.search(rest)]
        binding = line_form(verb, some, known) if len(some) < len(rows) else None
    binding = binding or _most_alike(verb, rows, known)
    if binding is not None:
        yield from _without_nothing(*binding)


def _without_nothing(form: ShapeForm, found: _Numbered) -> Iterator[tuple[ShapeForm, _Numbered]]:
    """A form of bindings; those whose command stands for none take keys away."""
    gone = [(at, one) for at, one in found if is_nothing(one.command)]
    if gone and len(gone) < len(found):
        word = gone[0][1].command
        yield ShapeForm(form.pattern.replace("{command}", word).replace("{keys}", word), "remove"), [
            (at, ShownBinding(one.key, "", section=one.section)) for at, one in gone
        ]  # fmt: skip
    if len(gone) < len(found):
        yield form, [pair for pair in found if pair not in gone]


def line_form(verb: str, rows: Sequence[tuple[int, str]], known: frozenset[str]) -> tuple[ShapeForm, _Numbered] | None:
    """The form of lines that bind keys: columns, or two parts with a sign between them."""
    if not rows:
        return None
    rests = [rest for _at, rest in rows]
    parting = max(",;", key=lambda sign: sum(rest.endswith(sign) for rest in rests))
    ended = sum(rest.endswith(parting) for rest in rests)
    if ended > 0.5 * len(rests) or ended == len(rests) - 1 > 0:
        rests = [rest if rest.endswith(parting) else rest + parting for rest in rests]  # the last one may be without it
    start = run_of(rests, OPENING)
    end = run_of([rest[::-1] for rest in rests], CLOSING + ",")[::-1]
    if len(set(rests)) > 1 and (
        after := _AFTER.search(common_start([rest.removesuffix(end)[::-1] for rest in rests])[::-1])
    ):
        end = after[0] + end
    inner = [rest[len(start) : len(rest) - len(end)] for rest in rests]
    best = max([*_in_columns(inner, known), *_in_two(inner, end, known)], key=lambda one: one.value, default=None)
    if best is None:
        return None
    numbers = [at for at, _rest in rows]
    form = ShapeForm(f"{verb}{start}{best.pattern}{end}", "bind", **signs_of(best.apart))
    return form, list(zip(numbers, best.records, strict=True))


class _LineGuess(NamedTuple):
    """What lines may be: how much that is worth, the form, what each says, and how modifiers stand beside keys."""

    value: float
    pattern: str
    records: list[ShownBinding]
    apart: ModifiersApart | None = None


def _in_columns(rests: Sequence[str], known: frozenset[str]) -> Iterator[_LineGuess]:
    """The lines as rows of words, or of what stands between signs, with more than two columns."""
    for sign in dict.fromkeys(["", *_candidates(rests)]):
        table = [rest.split(sign) if sign else rest.split() for rest in rests]
        width = len(table[0])
        if len(rests) < 2 or width < 3 or any(len(row) != width for row in table):
            continue
        apart = modifiers_apart([dict(zip(_numbers(width), row, strict=True)) for row in table], _numbers(width))
        whole = [_whole(row, apart) for row in table]
        found = columns_of([""] * width, whole, known)
        if found is None or found.command is None:
            continue
        named = {found.key: "{key}", found.command: "{command}"}
        if apart is not None and apart.key == str(found.key):
            named |= {int(name): part for name, part in apart.parts.items()}
            named[found.key] = f"{apart.before}{{key}}"
        if found.section is not None:
            before, after = _around([row[found.section] for row in whole])
            named[found.section] = f"{before}{{section}}{after}"
            for row in whole:
                row[found.section] = row[found.section].removeprefix(before).removesuffix(after)
        if found.where is not None and sign:
            named[found.where] = "{where}"
        if found.title is not None and sign:
            named[found.title] = "{title}"
        if all(len({row[index] for row in table}) == 1 for index in range(width) if index not in named):
            pattern = (sign or " ").join(named.get(index, word) for index, word in enumerate(table[0]))
            yield _LineGuess(200.0 + len(table), pattern, [_record(row, found) for row in whole], apart)


def _around(cells: Sequence[str]) -> tuple[str, str]:
    """The signs that all texts of a column begin and end with."""
    before, after = ("".join(takewhile(lambda char: not char.isalnum(), common_start(texts)))
                     for texts in (cells, [cell[::-1] for cell in cells]))  # fmt: skip
    return before, after[::-1]


def _numbers(width: int) -> list[str]:
    return [str(index) for index in range(width)]


def _whole(row: Sequence[str], apart: ModifiersApart | None) -> list[str]:
    """A row with its modifiers in the column of the key, and nothing in theirs."""
    cells = [cell.strip() for cell in row]
    if apart is not None:
        cells[int(apart.key)] = joined(dict(zip(_numbers(len(cells)), cells, strict=True)), apart)
        for name in apart.parts:
            cells[int(name)] = ""
    return cells


def _record(row: Sequence[str], found: Columns) -> ShownBinding:
    def cell(index: int | None) -> str:
        return row[index].strip() if index is not None else ""

    return ShownBinding(cell(found.key), cell(found.command), cell(found.where), cell(found.section))


def _in_two(rests: Sequence[str], end: str, known: frozenset[str]) -> Iterator[_LineGuess]:
    """The lines as keys and commands with a sign between them, whichever comes first."""
    for sign in dict.fromkeys([*_SIGNS, *_candidates(rests)]):
        for is_first, is_key_first in ((True, True), (True, False), (False, True), (False, False)):
            parts = [rest.partition(sign) if is_first else rest.rpartition(sign) for rest in rests]
            if any(not middle or not one or not other for one, middle, other in parts):
                break
            keys = [(one if is_key_first else other).strip() for one, _sign, other in parts]
            commands = [(other if is_key_first else one).strip() for one, _sign, other in parts]
            quotes = [_quote(column) for column in (keys, commands)]
            keys, commands = ([text.strip(mark) if mark else text for text in column]
                              for column, mark in zip((keys, commands), quotes, strict=True))  # fmt: skip
            front, keys = _fronted(keys)
            spelt = guess(keys)
            value = _value(commands, known)
            if spelt is None or value < 0.6:
                continue
            parted = sum(" " in command for command in commands)
            has_blanks = parted > 0
            is_shut = bool(quotes[1]) or sign[-1:] in "\"'`\t" or (end[:1] in "\"'`" and bool(end))
            more = sum(" " in command and not CHAIN.fullmatch(command) for command in commands)
            if 0 < more < 0.5 * len(commands) and not is_shut:
                continue  # some of the lines say more
            command = "{keys}" if has_blanks and not is_shut and is_key_first else "{command}"
            key, command = (
                f"{mark}{part}{mark}" for mark, part in zip(quotes, (front + "{key}", command), strict=True)
            )
            pattern = f"{key}{sign}{command}" if is_key_first else f"{command}{sign}{key}"
            records = [ShownBinding(*pair) for pair in zip(keys, commands, strict=True)]
            yield _LineGuess(100 * value + len(spelt.chords) + len(sign) / 100, pattern, records)


def _fronted(keys: list[str]) -> tuple[str, list[str]]:
    """What stands before all keys and is no part of them, like `KEY_`, and the keys without it; nothing where that makes no keys of
    what is none."""
    equals = _EQUALS.match(keys[0])
    match = equals or _FRONT.match(keys[0])
    if match is None or len(keys) < 2 or not all(key.startswith(match[0]) for key in keys):
        return "", keys
    if equals is None and guess(keys) is not None:
        return "", keys
    rest = [key.removeprefix(match[0]) for key in keys]
    return (match[0], rest) if guess(rest) is not None else ("", keys)


def _candidates(rests: Sequence[str]) -> list[str]:
    """Signs that stand in all lines."""
    found = dict.fromkeys(one for rest in rests[:3] for one in _BETWEEN.findall(rest))
    return [one for one in found if all(one in rest for rest in rests) and one not in ('"', "'")]


def _quote(column: Sequence[str]) -> str:
    """The sign in which all texts of a column stand; nothing where they stand in none."""
    is_in = (mark for mark in "\"'`" if all(len(one) > 2 and one[0] == one[-1] == mark for one in column))
    return next(is_in, "")


def _value(commands: Sequence[str], known: frozenset[str]) -> float:
    """How much these are commands; words with blanks between them are such, too, where they are all different."""
    value = commandness(commands, known)
    named = [command for command in commands if _WORDS.fullmatch(command)]
    if not known and value < 0.6 and len(named) > 0.9 * len(commands) and len(set(named)) > 0.6 * len(commands) > 1:
        return 0.6
    return value


def _most_alike(
    verb: str, rows: Sequence[tuple[int, str]], known: frozenset[str]
) -> tuple[ShapeForm, _Numbered] | None:
    """The form of most of the lines, where some are something else: those that have the same signs in them."""
    by_signs: dict[tuple[str, ...], list[tuple[int, str]]] = {}
    for at, rest in rows:
        signs = tuple(one.strip() or " " for one in re.findall(r"[^\w+^<>~,.-]+", rest))
        by_signs.setdefault(signs, []).append((at, rest))
    for some in sorted(by_signs.values(), key=len, reverse=True):
        if len(some) > 1 and (found := line_form(verb, some, known)) is not None:
            form, records = found
            return form, [*records, *_also(form, verb, [row for row in rows if row not in some], records)]
    return None


def _also(
    form: ShapeForm, verb: str, rows: Sequence[tuple[int, str]], records: _Numbered
) -> Iterator[tuple[int, ShownBinding]]:
    """What other lines say that are of a form as well."""
    expression, spelling = expression_of(form.pattern, ""), guess([one.key for _at, one in records])
    for at, rest in rows:
        match = expression.fullmatch(verb + rest)
        if match is not None and spelling is not None and spelling.reads(match["key"]):
            parts = match.groupdict()
            command = parts.get("command") or parts.get("keys") or ""
            yield at, ShownBinding(match["key"], command, parts.get("where") or "", parts.get("section") or "")
