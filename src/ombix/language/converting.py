"""Places, findings and proposals in the words of the protocol (Language Server Protocol 3.17)."""

from collections.abc import Iterator, Sequence
from pathlib import Path

from lsprotocol import types
from pygls import uris
from pygls.workspace import ServerTextPosition, ServerTextRange, TextDocument

from ombix.core.errors import Place
from ombix.core.text_changes import alike
from ombix.language.open_documents.answers import Completion, CompletionKind, CompletionList, OutlineEntry, SymbolKind
from ombix.report.terminal_text import visible
from ombix.workspace.findings_answer import FoundFault

SOURCE = "ombix"
_SEVERITIES = {
    "error": types.DiagnosticSeverity.Error, "warning": types.DiagnosticSeverity.Warning,
    "note": types.DiagnosticSeverity.Information,
}  # fmt: skip
_COMPLETIONS: dict[CompletionKind, types.CompletionItemKind] = {
    "action": types.CompletionItemKind.Function, "keys": types.CompletionItemKind.Value, "fact": types.CompletionItemKind.Field,
    "value": types.CompletionItemKind.EnumMember, "condition": types.CompletionItemKind.Variable,
    "macro": types.CompletionItemKind.Function, "snippet": types.CompletionItemKind.Snippet, "file": types.CompletionItemKind.File,
    "table": types.CompletionItemKind.Module, "name": types.CompletionItemKind.Constant, "word": types.CompletionItemKind.Keyword,
}  # fmt: skip
_SYMBOLS: dict[SymbolKind, types.SymbolKind] = {
    "table": types.SymbolKind.Namespace, "entry": types.SymbolKind.Key, "condition": types.SymbolKind.Boolean,
    "macro": types.SymbolKind.Function, "snippet": types.SymbolKind.String,
}  # fmt: skip


def path_of(uri: str) -> Path:
    """The path of a file."""
    return Path(uris.to_fs_path(uri) or uri)


def uri_of(path: Path | str) -> str:
    """The address of a file."""
    return uris.from_fs_path(str(path)) or Path(path).as_uri()


def span(first: int, column: int, last: int, end: int, document: TextDocument | None) -> types.Range:
    """A span of lines and columns (from 0), in the units of the client where its document is known."""
    if document is None or last >= len(document.lines):
        return types.Range(types.Position(first, column), types.Position(last, end))
    where = ServerTextRange(ServerTextPosition(first, column), ServerTextPosition(last, end))
    return document.range_to_client_units(where)


def range_of(place: Place, document: TextDocument | None) -> types.Range:
    """A place, in the units of the client where its document is known."""
    first, column = max(0, place.line - 1), max(0, place.column - 1)
    last = max(first, place.end_line - 1) if place.end_line else first
    return span(first, column, last, max(0, place.end_column - 1) if place.end_line else column + 1, document)


def diagnostics(found: Sequence[FoundFault], path: str, document: TextDocument) -> Iterator[types.Diagnostic]:
    """The findings of a file: each at its first place there, with its other places beside it."""
    for one in found:
        here = next((spot for spot in one.places if spot.place.file == path), None)
        if here is None:
            continue
        others = [
            types.DiagnosticRelatedInformation(
                types.Location(uri_of(spot.place.file), range_of(spot.place, document if spot.place.file == path else None)),
                visible(spot.text) or "here",
            )
            for spot in one.places if spot is not here
        ]  # fmt: skip
        when = f", when {one.when}" if one.when else ""
        text = "\n".join(visible(part) for part in (f"{one.message}{when}", one.mend) if part)
        yield types.Diagnostic(
            range_of(here.place, document), text, _SEVERITIES[one.severity], one.rule, source=SOURCE,
            related_information=others or None, data={"rule": one.rule, "keys": list(one.keys)},
        )  # fmt: skip


def completion_items(found: CompletionList, document: TextDocument) -> types.CompletionList:
    """What could stand at a place, in the order in which it was found."""
    where = span(found.line, found.start, found.line, found.end, document)
    return types.CompletionList(True, [_item(one, number, where) for number, one in enumerate(found.found)])


def _item(one: Completion, number: int, where: types.Range) -> types.CompletionItem:
    return types.CompletionItem(
        one.text, kind=_COMPLETIONS[one.kind], detail=one.detail or None, documentation=one.more or None,
        sort_text=f"{number:04}", filter_text=one.typed or None, text_edit=types.TextEdit(where, one.text),
    )  # fmt: skip


def symbol(one: OutlineEntry, document: TextDocument) -> types.DocumentSymbol:
    """A table or an entry."""
    where = range_of(one.place, document)
    return types.DocumentSymbol(
        one.name or "?", _SYMBOLS[one.kind], where, types.Range(where.start, where.start), one.detail or None,
        children=[symbol(each, document) for each in one.inner],
    )  # fmt: skip


def replacement(old: str, new: str, document: TextDocument) -> list[types.TextEdit]:
    """The lines that differ between two texts, as one edit."""
    if old == new:
        return []
    before, after = old.split("\n"), new.split("\n")
    first, same = alike(before, after)
    end, lines = len(before) - same, after[first : len(after) - same]
    if same:  # whole lines, up to the beginning of the first that stays
        return [types.TextEdit(span(first, 0, end, 0, document), "".join(f"{line}\n" for line in lines))]
    if end <= first:  # lines are added behind the last one
        behind = len(before[-1])
        where = span(end - 1, behind, end - 1, behind, document)
        return [types.TextEdit(where, "".join(f"\n{line}" for line in lines))]
    return [types.TextEdit(span(first, 0, end - 1, len(before[-1]), document), "\n".join(lines))]
