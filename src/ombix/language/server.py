"""The server: documents in memory, findings while one types, and answers to what an editor of texts asks."""

import asyncio
import contextlib
import functools
from collections.abc import Callable, Sequence
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import Any, TypeVar

from lsprotocol import types
from pygls.lsp.server import LanguageServer
from pygls.workspace import TextDocument

from ombix.core.errors import InputError, OmbixError, Place
from ombix.language import converting
from ombix.language.hovering import hover
from ombix.language.open_documents.documents import Drafts, is_too_large
from ombix.version import __version__
from ombix.workspace.findings_answer import FoundFault

IDLE_SECONDS = 0.4
"""How long nothing is typed before all is checked once more."""
_TRIGGERS = ['"', " ", ".", "[", "("]
_Handler = TypeVar("_Handler", bound=Callable[..., Any])


class KeymapServer(LanguageServer):
    """A server with the files that are being written."""

    def __init__(self) -> None:
        super().__init__("ombix", __version__, types.TextDocumentSyncKind.Incremental)
        self.desk = Drafts()
        self.versions: dict[str, int] = {}
        self.published: dict[str, list[types.Diagnostic]] = {}
        self._pending: dict[str, asyncio.Task[None]] = {}
        self._worker = ThreadPoolExecutor(1, "ombix check")

    def document(self, uri: str) -> TextDocument:
        """A document as the client has it; of one that it has not opened, the file. Raises InputError for what is no file, or is
        too large: it would be read for ever."""
        if uri not in self.versions:
            path = converting.path_of(uri)
            if is_too_large(path):
                raise InputError("this is no file, or is too large to be looked at", place=Place(str(path)))
        return self.workspace.get_text_document(uri)

    # --- what is open

    def opened(self, uri: str, version: int) -> None:
        """A document is opened: all of it is checked."""
        self.versions[uri] = version
        self.desk.put(converting.path_of(uri), self.document(uri).source)
        self.check(uri, 0.0)

    def changed(self, uri: str, version: int) -> None:
        """A document has another text: what the change touches is checked at once, all of it when nothing more is typed."""
        known = self.versions.get(uri)
        if known is not None and version <= known:
            self.window_log_message(
                types.LogMessageParams(
                    types.MessageType.Warning, f"a change of version {version} came after version {known}"
                )
            )
        self.versions[uri] = version
        path = converting.path_of(uri)
        self.desk.put(path, self.document(uri).source)
        found = self.desk.at_once(path)
        if found is not None:
            self.publish(uri, found)
        for other in self.versions:  # what stands in one layer changes what is right in another
            self.check(other, IDLE_SECONDS if other == uri else 2 * IDLE_SECONDS)

    def closed(self, uri: str) -> None:
        """A document is closed: nothing is said of it any more."""
        if task := self._pending.pop(uri, None):
            task.cancel()
        self.versions.pop(uri, None)
        self.published.pop(uri, None)
        self.desk.close(converting.path_of(uri))
        self.text_document_publish_diagnostics(types.PublishDiagnosticsParams(uri, []))

    def check(self, uri: str, wait: float) -> None:
        """Check all of a document after a while; a check that was to be made is put off."""
        if task := self._pending.get(uri):
            task.cancel()
        self._pending[uri] = asyncio.get_running_loop().create_task(self._checked(uri, wait))

    def check_all(self) -> None:
        """Check all open documents: what they depend on was changed."""
        self.desk.changed_outside()
        for uri in self.versions:
            self.check(uri, IDLE_SECONDS)

    async def _checked(self, uri: str, wait: float) -> None:
        await asyncio.sleep(wait)
        path, version = converting.path_of(uri), self.versions.get(uri)
        found = await asyncio.get_running_loop().run_in_executor(self._worker, self.desk.in_full, path)
        now = self.versions.get(uri)
        if now is None:
            return
        newer = self.desk.at_once(path) if now != version else None
        self.publish(uri, found if newer is None else newer)

    def publish(self, uri: str, found: Sequence[FoundFault]) -> None:
        """Tell the client what is wrong with a document."""
        told = list(converting.diagnostics(found, str(converting.path_of(uri)), self.document(uri)))
        self.published[uri] = told
        self.text_document_publish_diagnostics(types.PublishDiagnosticsParams(uri, told, self.versions.get(uri)))

    # --- what is asked

    def place(self, params: Any) -> tuple[Path, int, int]:
        """The file, the line and the column (from 0) of a request. Raises InputError for a file that cannot be read."""
        path = converting.path_of(params.text_document.uri)
        self.desk.text(path)
        at = self.document(params.text_document.uri).position_from_client_units(params.position)
        return path, at.line, at.character

    def asked(self, request: str, options: Any = None) -> Callable[[_Handler], _Handler]:
        """What answers a request; with nothing where a file cannot be read, which is said as a finding."""

        def register(answer: _Handler) -> _Handler:
            @functools.wraps(answer)
            def answered(params: Any) -> Any:
                with contextlib.suppress(OmbixError):
                    return answer(params)
                return None

            self.feature(request, options)(answered)
            return answer

        return register

    def uri_of(self, path: Path) -> str:
        """The address of a file, as the client writes it where it has it open."""
        return next(
            (version for version in self.versions if converting.path_of(version) == path), converting.uri_of(path)
        )

    def edit(self, texts: dict[Path, str]) -> types.WorkspaceEdit:
        """Files with other texts, as edits."""
        changes = {}
        for path, text in texts.items():
            uri = self.uri_of(path)
            changes[uri] = converting.replacement(self.desk.text(path), text, self.document(uri))
        return types.WorkspaceEdit(changes)


def make_server() -> KeymapServer:
    """The server with all that it answers."""
    server = KeymapServer()
    _documents(server)
    _looks(server)
    _names(server)
    _layout(server)
    return server


def _documents(server: KeymapServer) -> None:
    @server.feature(types.TEXT_DOCUMENT_DID_OPEN)
    def opened(params: types.DidOpenTextDocumentParams) -> None:
        server.opened(params.text_document.uri, params.text_document.version)

    @server.feature(types.TEXT_DOCUMENT_DID_CHANGE)
    def changed(params: types.DidChangeTextDocumentParams) -> None:
        server.changed(params.text_document.uri, params.text_document.version)

    @server.feature(types.TEXT_DOCUMENT_DID_SAVE)
    def saved(params: types.DidSaveTextDocumentParams) -> None:
        server.check_all()

    @server.feature(types.TEXT_DOCUMENT_DID_CLOSE)
    def closed(params: types.DidCloseTextDocumentParams) -> None:
        server.closed(params.text_document.uri)

    @server.feature(types.WORKSPACE_DID_CHANGE_WATCHED_FILES)
    def changed_outside(params: types.DidChangeWatchedFilesParams) -> None:
        server.check_all()


def _looks(server: KeymapServer) -> None:
    @server.asked(types.TEXT_DOCUMENT_HOVER)
    def told(params: types.HoverParams) -> types.Hover | None:
        text = hover(server.desk, *server.place(params))
        return types.Hover(types.MarkupContent(types.MarkupKind.Markdown, text)) if text else None

    @server.asked(types.TEXT_DOCUMENT_COMPLETION, types.CompletionOptions(trigger_characters=_TRIGGERS))
    def completed(params: types.CompletionParams) -> types.CompletionList | None:
        path, line, column = server.place(params)
        found = server.desk.complete(path, line, column)
        return (
            converting.completion_items(found, server.document(params.text_document.uri)) if found is not None else None
        )

    @server.asked(
        types.TEXT_DOCUMENT_CODE_ACTION, types.CodeActionOptions(code_action_kinds=[types.CodeActionKind.QuickFix])
    )
    def mended(params: types.CodeActionParams) -> list[types.CodeAction]:
        path = converting.path_of(params.text_document.uri)
        found = []
        for one in server.published.get(params.text_document.uri, []):  # not every client gives back what came with one
            data: Any = one.data
            if one.range.end.line < params.range.start.line or one.range.start.line > params.range.end.line:
                continue
            keys = tuple(map(str, data.get("keys", ())))
            ways = server.desk.ways(path, str(data.get("rule", "")), keys, one.range.start.line + 1)
            found += [
                types.CodeAction(
                    way.does[:1].upper() + way.does[1:], types.CodeActionKind.QuickFix, [one], is_preferred=way.is_best,
                    edit=server.edit({path: way.text}),
                )
                for way in ways
            ]  # fmt: skip
        return found

    @server.asked(types.TEXT_DOCUMENT_INLAY_HINT)
    def hinted(params: types.InlayHintParams) -> list[types.InlayHint]:
        document = server.document(params.text_document.uri)
        first, last = params.range.start.line, params.range.end.line
        hints = server.desk.hints(converting.path_of(params.text_document.uri))
        return [
            types.InlayHint(
                converting.span(hint.line, hint.column, hint.line, hint.column, document).start, hint.shown, tooltip=hint.why,
                padding_left=True,
            )
            for hint in hints if first <= hint.line <= last
        ]  # fmt: skip


def _names(server: KeymapServer) -> None:
    def locations(params: Any, definitions_only: bool) -> list[types.Location]:
        path, line, column = server.place(params)
        use = server.desk.name_at(path, line, column)
        if use is None:
            return []
        found = []
        for place in server.desk.uses(path, use, definitions_only):
            uri = server.uri_of(Path(place.file))
            found.append(types.Location(uri, converting.range_of(place, server.document(uri))))
        return found

    @server.asked(types.TEXT_DOCUMENT_DEFINITION)
    def defined(params: types.DefinitionParams) -> list[types.Location]:
        return locations(params, True)

    @server.asked(types.TEXT_DOCUMENT_REFERENCES)
    def used(params: types.ReferenceParams) -> list[types.Location]:
        return locations(params, False)

    @server.asked(types.TEXT_DOCUMENT_PREPARE_RENAME)
    def may_be_renamed(params: types.PrepareRenameParams) -> types.PrepareRenamePlaceholder | None:
        path, line, column = server.place(params)
        use = server.desk.name_at(path, line, column)
        if use is None:
            return None
        document = server.document(params.text_document.uri)
        places = server.desk.uses(path, use)
        here = next(
            place for place in places if place.line == line + 1 and place.column - 1 <= column <= place.end_column - 1
        )
        return types.PrepareRenamePlaceholder(converting.range_of(here, document), use.name)

    @server.asked(types.TEXT_DOCUMENT_RENAME, types.RenameOptions(prepare_provider=True))
    def renamed(params: types.RenameParams) -> types.WorkspaceEdit | None:
        path, line, column = server.place(params)
        use = server.desk.name_at(path, line, column)
        if use is None:
            return None
        try:
            return server.edit(server.desk.renamed(path, use, params.new_name))
        except OmbixError as error:
            server.window_show_message(
                types.ShowMessageParams(types.MessageType.Error, f"{error.what}. {error.advice}")
            )
            return None


def _layout(server: KeymapServer) -> None:
    @server.asked(types.TEXT_DOCUMENT_DOCUMENT_SYMBOL)
    def outlined(params: types.DocumentSymbolParams) -> list[types.DocumentSymbol]:
        document = server.document(params.text_document.uri)
        found = server.desk.outline(converting.path_of(params.text_document.uri))
        return [converting.symbol(one, document) for one in found]

    @server.asked(types.TEXT_DOCUMENT_FOLDING_RANGE)
    def folded(params: types.FoldingRangeParams) -> list[types.FoldingRange]:
        found = server.desk.folds(converting.path_of(params.text_document.uri))
        return [types.FoldingRange(first, last) for first, last in found]

    @server.asked(types.TEXT_DOCUMENT_FORMATTING)
    def laid_out(params: types.DocumentFormattingParams) -> list[types.TextEdit]:
        path, document = converting.path_of(params.text_document.uri), server.document(params.text_document.uri)
        return converting.replacement(document.source, server.desk.formatted(path), document)
