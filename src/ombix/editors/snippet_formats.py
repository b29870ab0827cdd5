"""Files of snippets that editors have: written from the keymap's snippets and read into them, by `snippets.toml` of the editor's
folder."""

import re
from collections.abc import Iterator, Mapping, Sequence
from typing import Literal, NamedTuple

import msgspec

from ombix.core.errors import InputError, Place, xml_advice
from ombix.core.snippets.macro_steps import in_languages
from ombix.core.snippets.model import Part, Snippet, TabStop, Text, Variable, every_part
from ombix.core.snippets.parsing import write


class ElementNames(msgspec.Struct, forbid_unknown_fields=True, rename="kebab"):
    """What the elements of a file of XML are called: the outermost one, one for each snippet, and in that its word and its text.
    Of the outermost one the attributes with its name and with its languages, which stand `between` a sign; what these are for
    `all`; and `more` attributes that are always there."""

    root: str
    item: str
    word: str
    text: str
    name: str = ""
    languages: str = ""
    between: str = ";"
    all: str = "*"
    more: dict[str, str] = {}


class SnippetSyntax(msgspec.Struct, forbid_unknown_fields=True, rename="kebab"):
    """How an editor writes snippets: entries of words and texts under headings, or, where `elements` says their names, XML.

    `gap` is written where something is filled in, with `{number}` and `{words}` where it has them; `last` where the cursor is
    in the end. `everywhere` is the heading for all languages, `keys` that of keys; `languages` has what each is called;
    `written` what signs are written as, and `read` what else stands for a text; `variables` those that it has; `never` what a
    text must not have in it, because the editor would do something else with it.
    """

    file: str
    sources: list[str]
    gap: str
    last: str
    usual: list[str] = []
    everywhere: str = ""
    keys: str = ""
    special: str = ""
    """The heading of parts that others are made of, and how these stand in a text, with `{name}`."""
    part: str = ""
    languages: dict[str, str] = {}
    written: dict[str, str] = {}
    read: dict[str, str] = {}
    variables: dict[str, str] = {}
    mark: str = ""
    """What stands in a gap until it is gone to, but for the first."""
    never: list[str] = []
    elements: ElementNames | None = None
    """Of XML: the names."""
    worked_out: str = ""
    """How a gap stands there that a script fills, with `{words}` and `{script}`; none is written, and none is run."""


class CarriedSnippet(NamedTuple):
    """What became of a snippet on its way to an editor: exact, adapted or lost, and how."""

    name: str
    verdict: Literal["exact", "adapted", "lost"]
    how: str


class SnippetFile(NamedTuple):
    """A file of snippets for an editor, and what became of each."""

    text: str
    carried: tuple[CarriedSnippet, ...]


class ReadSnippet(NamedTuple):
    """A snippet of an editor's file: its word, its text in the grammar that keymaps have, its language (empty: all), its keys as
    they are written there, and what could not be read of it."""

    word: str
    body: str
    language: str
    keys: str
    place: Place
    reason: str = ""


# --- written


def write_snippets(
    syntax: SnippetSyntax, snippets: Sequence[Snippet], keys: Mapping[str, Sequence[str]], name: str
) -> SnippetFile:
    """A file with the snippets that the editor can have; `keys` has, by a snippet's name, how the editor writes its keys."""
    carried: list[CarriedSnippet] = []
    found: list[tuple[Snippet, str]] = []
    for snippet in snippets:
        text, verdict = _carried(snippet, syntax, bool(keys.get(snippet.name)))
        carried.append(verdict)
        if verdict.verdict != "lost":
            found.append((snippet, text))
    names = syntax.elements
    text = _entries(found, keys, syntax) if names is None else _elements(found, syntax, names, name)
    return SnippetFile(text if found else "", tuple(carried))


def _carried(one: Snippet, syntax: SnippetSyntax, has_keys: bool) -> tuple[str, CarriedSnippet]:
    lost = next(_reasons(one, syntax), "")
    if lost:
        return "", CarriedSnippet(one.name, "lost", lost)
    said: list[str] = []
    words = _words(one, syntax)
    note = "" if one.words else f"its name {one.name} is the word for it"
    if note and not (has_keys and syntax.keys):
        said.append(note)
    if one.words and len(words) < len(one.words):
        said.append(f"without {', '.join(word for word in one.words if word not in words)}, which is no word there")
    numbers = [part.number for part in every_part(one.parts) if isinstance(part, TabStop) and part.number]
    given = {
        part.number: part
        for part in reversed(list(every_part(one.parts)))
        if isinstance(part, TabStop) and part != TabStop(part.number)
    }
    text = "".join(
        _part(given.get(part.number, part) if isinstance(part, TabStop) else part, syntax, said) for part in one.parts
    )
    if "{number}" not in syntax.gap and "{words}" not in syntax.gap:
        if numbers != sorted(numbers):
            said.append("its gaps are filled in in the order of the text")
        if len(set(numbers)) < len(numbers):
            said.append("what is in several places is filled in in each")
    if syntax.mark and text.count(syntax.gap) > 1:
        said.append(f"its other gaps show {syntax.mark} until they are gone to")
    unlike = [name for name in one.languages if name not in syntax.languages]
    if unlike:
        said.append(f"also for {', '.join(unlike)}, which the editor has no name for" if len(unlike) < len(one.languages) else (
            "for all languages"
        ))  # fmt: skip
    if has_keys and not syntax.keys:
        said.append("its keys are not carried: only words expand a snippet there")
    if len(words) > 1:
        said.append(f"once for each of its words {', '.join(words)}")
    if one.where not in ("always", in_languages(one.languages)):
        said.append(f"in all states, and not only when {one.where}")
    return text, CarriedSnippet(one.name, "adapted" if said else "exact", "; ".join(dict.fromkeys(said)) or note)


def _reasons(one: Snippet, syntax: SnippetSyntax) -> Iterator[str]:
    """Why an editor cannot have a snippet."""
    if not _words(one, syntax):
        yield f"{', '.join(one.words or (one.name,))} cannot be a word there"
    for part in every_part(one.parts):
        if isinstance(part, Text):
            if not part.text.replace("\n", "").replace("\t", "").isprintable():
                yield "there is a control character in its text"
            wrong = next((sign for sign in syntax.never if sign in part.text), "")
            if wrong:
                yield f"{wrong} stands in its text, with which the editor would do something else"
        elif part.change is not None:
            yield f"it has no transformations like {write((part,))}"
        elif isinstance(part, Variable) and part.name not in syntax.variables:
            yield f"it has no variable {part.name}"


def _words(one: Snippet, syntax: SnippetSyntax) -> list[str]:
    """The words for a snippet that can stand in the file: its own, or where it has none its name."""

    def can_stand(word: str) -> bool:
        is_entry = syntax.elements is not None or ("=" not in word and _ENTRY.fullmatch(f"{word}=") is not None)
        return is_entry and word.isprintable() and not any(map(str.isspace, word))

    return [word for word in one.words or (one.name,) if can_stand(word)]


def _part(part: Part, syntax: SnippetSyntax, said: list[str]) -> str:
    if isinstance(part, Text):
        return _escaped(part.text, syntax)
    if isinstance(part, Variable):
        if part.default:
            said.append(f"{part.name} without its default words")
        return syntax.variables[part.name]
    if part.number == 0:
        return syntax.last
    words = "".join(one.text for one in part.default if isinstance(one, Text)) if part.default else ""
    if part.choices:
        said.append(f"the choices of gap {part.number} are not shown")
        words = part.choices[0]
    elif any(not isinstance(one, Text) for one in part.default):
        said.append(f"gap {part.number} without the gaps in it")
    if "{words}" not in syntax.gap:
        if words:
            said.append(f"gap {part.number} is empty, without “{words}”")
        return syntax.gap
    name = re.sub(r"\W+", "_", words).strip("_")
    if not name or name[0].isdigit():
        name = f"gap{part.number}"
    if name != words:
        said.append(f"gap {part.number} shows “{name}”" + (f" in place of “{words}”" if words else ""))
    return syntax.gap.replace("{words}", name).replace("{number}", str(part.number))


def _escaped(text: str, syntax: SnippetSyntax) -> str:
    found = "".join(syntax.written.get(char, char) for char in text)
    if syntax.elements is None:
        return found
    from xml.sax.saxutils import escape  # which takes as long to load as all the rest

    return escape(found)


def _entries(found: Sequence[tuple[Snippet, str]], keys: Mapping[str, Sequence[str]], syntax: SnippetSyntax) -> str:
    groups: dict[str, list[str]] = {}
    pressed: list[str] = []
    for one, text in found:
        known = [syntax.languages[name] for name in one.languages if name in syntax.languages]
        blank = syntax.written.get(" start", " ")
        text = f"{blank}{text[1:]}" if text.startswith(" ") else text
        for heading in known or [syntax.everywhere]:
            groups.setdefault(heading, []).extend(f"{word}={text}" for word in _words(one, syntax))
        if syntax.keys:
            pressed += [f"{_words(one, syntax)[0]}={each}" for each in keys.get(one.name, ())]
    lines: list[str] = []
    for heading, rows in (*groups.items(), (syntax.keys, pressed)):
        if rows:
            lines += [f"[{heading}]", *rows, ""]
    return "\n".join(lines)


def _elements(
    found: Sequence[tuple[Snippet, str]], syntax: SnippetSyntax, names: ElementNames, name: str
) -> str:  # fmt: skip
    from xml.sax.saxutils import escape, quoteattr

    known = [
        syntax.languages[language] for one, _text in found for language in one.languages if language in syntax.languages
    ]
    is_for_all = not known or any(not one.languages for one, _text in found)
    languages = names.all if is_for_all else names.between.join(dict.fromkeys(known))
    attributes = {names.name: name, names.languages: languages, **names.more}
    said = "".join(f" {key}={quoteattr(value)}" for key, value in attributes.items() if key)
    lines = [f"<{names.root}{said}>"]
    for one, text in found:
        for word in _words(one, syntax):
            inner = (f"  <{names.word}>{escape(word)}</{names.word}>", f"  <{names.text}>{text}</{names.text}>")
            lines += [f" <{names.item}>", *inner, f" </{names.item}>"]
    return "\n".join([*lines, f"</{names.root}>", ""])


# --- read


def read_snippets(syntax: SnippetSyntax, text: str, file: str) -> list[ReadSnippet]:
    """The snippets of an editor's file. Nothing that stands in one is ever run. Raises InputError for what is no such file."""
    names = syntax.elements
    return list(_read_entries(syntax, text, file) if names is None else _read_elements(syntax, names, text, file))


_HEADING, _ENTRY = re.compile(r"\[([^\]]+)\]\s*"), re.compile(r"([^\s=#;\[][^=]*?)\s*=\s*(.*)")


def _read_entries(syntax: SnippetSyntax, text: str, file: str) -> Iterator[ReadSnippet]:
    heading = ""
    rows: list[tuple[str, str, str, int]] = []
    for number, line in enumerate(text.split("\n"), 1):
        if match := _HEADING.fullmatch(line.strip()):
            heading = match[1]
        elif line.strip() and line.lstrip()[0] not in "#;":
            entry = _ENTRY.fullmatch(line.rstrip("\r"))
            if entry is None or not heading:
                raise InputError(
                    "this is no entry of a file of snippets",
                    "Write word=text below a [heading].",
                    Place(file, number, 1),
                    line,
                )
            rows.append((heading, entry[1], entry[2], number))
    parts = {word: value for where, word, value, _number in rows if where == syntax.special}
    keys = {word: value for where, word, value, _number in rows if where == syntax.keys}
    names = {called: name for name, called in syntax.languages.items()}
    for where, word, value, number in rows:
        if where in (syntax.special, syntax.keys):
            continue
        language = "" if where == syntax.everywhere else names.get(where, where.lower())
        body, reason = _read_text(value, syntax, parts)
        yield ReadSnippet(word, body, language, keys.get(word, ""), Place(file, number, 1), reason)


def _read_text(value: str, syntax: SnippetSyntax, parts: Mapping[str, str]) -> tuple[str, str]:
    """A text in the grammar of keymaps, and what could not be read of it."""
    if syntax.part:
        before, after = (re.escape(one) for one in syntax.part.split("{name}"))
        shape = re.compile(f"{before}([a-z_]+){after}")
        value = shape.sub(lambda match: parts.get(match[1], match[0]), value)
    stands = {written: sign for sign, written in syntax.written.items() if len(sign) == 1} | syntax.read
    variables = {written: name for name, written in syntax.variables.items()}
    known = sorted({*stands, *variables, syntax.last} - {syntax.gap}, key=len, reverse=True)
    gap = _shape_of(syntax.gap, "words", "")
    made = _shape_of(syntax.worked_out, "made", "script") if syntax.worked_out else "(?!)(?P<made>)"
    shape = re.compile(
        "|".join([*map(re.escape, known), f"(?P<by>{made})", f"(?P<gap>{gap})", "(?P<sign>.)"]), re.DOTALL
    )
    gaps = value.count(syntax.gap)
    found, numbers, scripts = "", dict[str, int](), list[str]()
    for match in shape.finditer(value):
        token = match[0]
        if match["sign"]:
            found += _as_text(token)
        elif match["gap"] or match["by"]:
            scripts += [token] * bool(match["by"])
            words = match["made"] if match["by"] else match.groupdict().get("words") or ""
            is_first = words not in numbers or not words
            number = numbers.setdefault(words or str(len(numbers)), len(numbers) + 1)
            is_last = syntax.last == syntax.gap and number == gaps
            found += "$0" if is_last else f"${{{number}:{words}}}" if words and is_first else f"${{{number}}}"
        elif token == syntax.last:
            found += "$0"
        else:
            found += f"${{{variables[token]}}}" if token in variables else _as_text(stands[token])
    wrong = next((sign for sign in syntax.never if sign in value and sign not in (*known, syntax.gap)), "")
    reasons = [f"{wrong} is the editor's own, and kept as a text"] * bool(wrong)
    reasons += [f"{script} is filled by a script of the editor's own, and kept as a gap" for script in scripts]
    return found, "; ".join(reasons)


def _shape_of(written: str, words: str, script: str) -> str:
    """A pattern for how a gap is written."""
    shape = re.escape(written).replace(r"\{words\}", rf"(?P<{words}>[A-Za-z_]\w*)")
    return shape.replace(r"\{script\}", "[^{}]*") if script else shape


def _as_text(text: str) -> str:
    return "".join(f"\\{char}" if char in "$}\\" else char for char in text)


def _read_elements(syntax: SnippetSyntax, names: ElementNames, text: str, file: str) -> Iterator[ReadSnippet]:
    from defusedxml import ElementTree
    from defusedxml.common import DefusedXmlException

    try:
        root = ElementTree.fromstring(text)
    except ElementTree.ParseError as error:
        line, column = error.position
        what = str(error).partition(":")[0]
        raise InputError(f"this is no XML: {what}", xml_advice(what), Place(file, line, column + 1)) from None
    except DefusedXmlException:
        raise InputError("the file has entities in it", "Write what they stand for.", Place(file)) from None
    if root.tag != names.root:
        advice = "Name the editor's own file of snippets."
        raise InputError(f"this is no file of snippets, but of {root.tag}", advice, Place(file))
    known = {called: name for name, called in syntax.languages.items()}
    said = [one for one in root.get(names.languages, names.all).split(names.between) if one and one != names.all]
    for item in root.iter(names.item):
        word, raw = (item.findtext(tag) or "" for tag in (names.word, names.text))
        if word.strip():
            body, reason = _read_text(raw, syntax, {})
            language = known.get(said[0], said[0].lower()) if len(said) == 1 else ""
            yield ReadSnippet(word.strip(), body, language, "", Place(file), reason)
