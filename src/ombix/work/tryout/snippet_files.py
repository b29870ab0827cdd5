"""Snippets carried to editors' own files, and taken in from these."""

from typing import NamedTuple

from ombix.core.errors import InputError, NotationError, Place
from ombix.core.keymap.bindings import Layer, LayerName
from ombix.core.keymap.changes import AddNamed, Change
from ombix.core.keymap.outcomes import Insert
from ombix.core.snippets.model import Snippet
from ombix.core.snippets.parsing import parse
from ombix.editors.dialect import Dialect
from ombix.editors.snippet_formats import ReadSnippet, SnippetSyntax, read_snippets, write_snippets
from ombix.files.keymap_writing import dump
from ombix.work.tryout.macro_answer import AdoptedSnippets, CarriedSnippetReport, SnippetPort
from ombix.workspace.edit_options import EditOptions
from ombix.workspace.effective_keymap import EffectiveKeymap
from ombix.workspace.keymap_editing import KeymapEditing
from ombix.workspace.keymap_file import KeymapFile
from ombix.workspace.resources import Resources


class MadeSnippets(NamedTuple):
    """A file of snippets for an editor, not written yet, with its account."""

    text: str
    file: str
    report: SnippetPort


def syntax_of(dialect: Dialect, resources: Resources) -> SnippetSyntax:
    """How an editor writes snippets. Raises InputError where it has none."""
    if dialect.snippets is None:
        known = [name for name in resources.dialects.names() if resources.dialects.load(name).snippets is not None]
        raise InputError(f"{dialect.name} has no snippets", f"Editors with snippets are {', '.join(known)}.")
    return dialect.snippets


def carry(here: EffectiveKeymap, dialect: Dialect, name: str, resources: Resources) -> MadeSnippets:
    """The keymap's snippets for an editor. Raises InputError where it has none."""
    syntax = syntax_of(dialect, resources)
    keys: dict[str, list[str]] = {}
    for table in here.tables.values():
        for row in table.rows:
            outcome = row.binding.outcome
            written = dialect.spelling.write(row.binding.trigger) if isinstance(outcome, Insert) else None
            if isinstance(outcome, Insert) and written is not None:
                keys.setdefault(outcome.snippet, []).append(written)
    made = write_snippets(syntax, list(here.keymap.snippets.values()), keys, name)
    carried = tuple(CarriedSnippetReport(*one) for one in made.carried)
    counts = {verdict: sum(one.verdict == verdict for one in carried) for verdict in ("exact", "adapted", "lost")}
    usual = syntax.usual[0] if syntax.usual else ""
    return MadeSnippets(made.text, syntax.file, SnippetPort(name, "", usual, counts, carried))


def adopt(
    text: str, file: str, dialect: Dialect, resources: Resources, editing: KeymapEditing, options: EditOptions
) -> AdoptedSnippets:  # fmt: skip
    """Take the snippets of an editor's own file into the keymap. Raises InputError for what is no such file."""
    found = read_snippets(syntax_of(dialect, resources), text, file)
    languages = _known_languages(resources)
    taken: list[str] = []
    left: list[tuple[Place, str]] = []

    def changes(keymap: KeymapFile) -> list[Change]:
        taken.clear()
        left.clear()
        names = {name for layer in keymap.layers_with_own for name in layer.snippets}
        made: list[Change] = []
        for one in found:
            name = _name(one, names)
            snippet, reason = _snippet(one, name, languages)
            if reason:
                left.append((one.place, f"{one.word}: {reason}"))
            if snippet is not None:
                names.add(name)
                taken.append(name)
                made.append(AddNamed("snippet", name, _lines(snippet)))
        if not made:
            raise InputError("there is no snippet in the file", "Name a file that has some.", Place(file))
        return made

    report = editing.change(f"adopt the snippets of {dialect.name}", changes, options)
    return AdoptedSnippets(dialect.name, tuple(taken), tuple(f"{place}  {said}" for place, said in left), report)


def _known_languages(resources: Resources) -> frozenset[str]:
    fact = next(fact for fact in resources.shipped.facts().facts if fact.name == "language")
    return frozenset(fact.values)


def _name(one: ReadSnippet, names: set[str]) -> str:
    """A name that no other snippet has: the word, with its language where others have the same."""
    base = one.word if one.word not in names else f"{one.word}-{one.language or 'any'}"
    name, number = base, 2
    while name in names:
        name, number = f"{base}-{number}", number + 1
    return name


def _snippet(one: ReadSnippet, name: str, languages: frozenset[str]) -> tuple[Snippet | None, str]:
    """A snippet as it goes into the keymap, and what was left out of it or kept as a text."""
    try:
        parts = parse(one.body)
    except NotationError as error:
        return None, error.what
    if any(char.isspace() for char in one.word):
        return None, "its word has blanks in it"
    named = (one.language,) if one.language in languages else ()
    reason = one.reason
    if one.language and not named:
        reason = "; ".join(filter(None, (reason, f"{one.language} is no language that keymaps know: for all")))
    if one.keys:
        reason = "; ".join(filter(None, (reason, f"its keys {one.keys} are not taken in: bind {name} KEYS")))
    return Snippet(name, one.word, one.body, parts, one.place, (one.word,), named), reason


def _lines(snippet: Snippet) -> str:
    layer = Layer(LayerName("", ""), snippets={snippet.name: snippet})
    return dump(layer).split("\n\n", 1)[1]
