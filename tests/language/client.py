"""A client that drives the server as an editor of texts does: over its standard streams."""

import asyncio
import os
from collections.abc import Awaitable, Callable
from pathlib import Path
from typing import Any

from lsprotocol import types
from pygls.lsp.client import LanguageClient

from tests import warm

SECONDS = 30.0


class Editor(LanguageClient):
    """An editor of texts, with the documents that it has open, and what the server said of them."""

    def __init__(self) -> None:
        super().__init__("test editor", "1")
        self.texts: dict[str, str] = {}
        self.versions: dict[str, int] = {}
        self.told: dict[str, list[types.PublishDiagnosticsParams]] = {}
        self.messages: list[str] = []
        self._news = asyncio.Event()

        @self.feature(types.TEXT_DOCUMENT_PUBLISH_DIAGNOSTICS)
        def told(params: types.PublishDiagnosticsParams) -> None:
            self.told.setdefault(params.uri, []).append(params)
            self._news.set()

        @self.feature(types.WINDOW_LOG_MESSAGE)
        def logged(params: types.LogMessageParams) -> None:
            self.messages.append(params.message)

        @self.feature(types.WINDOW_SHOW_MESSAGE)
        def shown(params: types.ShowMessageParams) -> None:
            self.messages.append(params.message)

    async def start(self, encodings: list[types.PositionEncodingKind] | None = None) -> types.InitializeResult:
        """Start the server, and introduce the editor."""
        await self.start_io(*warm.command("serve"), env={**os.environ, "XKB_DEFAULT_LAYOUT": "us"})
        general = types.GeneralClientCapabilities(position_encodings=encodings) if encodings else None
        found = await self.initialize_async(
            types.InitializeParams(types.ClientCapabilities(general=general), process_id=os.getpid())
        )
        self.initialized(types.InitializedParams())
        return found

    async def leave(self) -> None:
        """Say good-bye."""
        await self.shutdown_async(None)
        self.exit(None)
        await self.stop()

    # --- documents

    def open(self, path: Path) -> str:
        """Open a file; its address."""
        uri = path.as_uri()
        self.texts[uri], self.versions[uri] = path.read_text(), 1
        item = types.TextDocumentItem(uri, "toml", 1, self.texts[uri])
        self.text_document_did_open(types.DidOpenTextDocumentParams(item))
        return uri

    def type(self, uri: str, old: str, new: str) -> None:
        """Put a text in place of another, as one change of some characters (in UTF-16 units)."""
        text = self.texts[uri]
        start = text.index(old)
        where = types.Range(position(text, start), position(text, start + len(old)))
        self.texts[uri] = text[:start] + new + text[start + len(old) :]
        self.versions[uri] += 1
        change = types.TextDocumentContentChangePartial(where, new)
        named = types.VersionedTextDocumentIdentifier(self.versions[uri], uri)
        self.text_document_did_change(types.DidChangeTextDocumentParams(named, [change]))

    def apply(self, edit: types.WorkspaceEdit) -> dict[str, str]:
        """The texts with what an edit changes."""
        found = {}
        for uri, edits in (edit.changes or {}).items():
            text = self.texts.get(uri) or Path(uri.removeprefix("file://")).read_text()
            for one in sorted(edits, key=lambda one: (one.range.start.line, one.range.start.character), reverse=True):
                start, end = (offset(text, at) for at in (one.range.start, one.range.end))
                text = text[:start] + one.new_text + text[end:]
            found[uri] = text
        return found

    def at(self, uri: str, text: str, more: int = 0) -> dict[str, Any]:
        """The document and the place behind a text, as requests name them."""
        place = position(self.texts[uri], self.texts[uri].index(text) + more)
        return {"text_document": types.TextDocumentIdentifier(uri), "position": place}

    async def findings(
        self, uri: str, wanted: Callable[[list[types.Diagnostic]], bool] = lambda found: True
    ) -> list[types.Diagnostic]:
        """The findings of the document's newest version that are as wanted, when they come."""

        def newest() -> list[types.Diagnostic] | None:
            for one in reversed(self.told.get(uri, [])):
                if one.version == self.versions.get(uri) and wanted(list(one.diagnostics)):
                    return list(one.diagnostics)
            return None

        async with asyncio.timeout(SECONDS):
            while (found := newest()) is None:
                self._news.clear()
                await self._news.wait()
        return found


def position(text: str, at: int) -> types.Position:
    """A place in a text, in lines and UTF-16 units."""
    line = text.count("\n", 0, at)
    before = text[text.rfind("\n", 0, at) + 1 : at]
    return types.Position(line, len(before.encode("utf-16-le")) // 2)


def offset(text: str, at: types.Position) -> int:
    """The other way round."""
    start = sum(len(line) + 1 for line in text.split("\n")[: at.line])
    line = text[start:].split("\n", 1)[0]
    return start + len(line.encode("utf-16-le")[: at.character * 2].decode("utf-16-le"))


def drive(play: Callable[[Editor], Awaitable[None]]) -> None:
    """Have an editor do something with a server of its own."""

    async def run() -> None:
        editor = Editor()
        await editor.start()
        await asyncio.wait_for(play(editor), 4 * SECONDS)
        await editor.leave()

    asyncio.run(run())
