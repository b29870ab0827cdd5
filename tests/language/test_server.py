"""The language server, driven over its whole protocol by a client of its own."""

import asyncio
import json
import os
import signal
import subprocess
import sys
from pathlib import Path

import pytest
import tomli
from lsprotocol import types

from tests.language.client import Editor, drive

WORKSPACE = (
    'format = 1\nkeymap = "crew.keys.toml"\nplatform = "linux"\nlayout = "de"\n\n[editor.pier]\ndialect = "nano"\n'
)
HOUSE = """\
format = 1
name = "house"

[where]
editing = "pane is text and not readonly"

[bind.line]
sort = "Alt+5"
"""
CREW = """\
# Schlüssel 🛳 der Fähre
format = 1
name = "crew"
extends = ["house.keys.toml"]

[bind.line]
copy-down = "Alt+Y"   # 🛳 tomorrow's crossing
delete = { press = "F7", where = "editing" }

[bind.comment]
toggle = "Ctrl+/"

[macro.tide]
press = "F6"
steps = [{ do = "line.delete" }]
"""


@pytest.fixture
def pier(tmp_path: Path) -> Path:
    (tmp_path / "ombix.toml").write_text(WORKSPACE)
    (tmp_path / "house.keys.toml").write_text(HOUSE)
    (tmp_path / "crew.keys.toml").write_text(CREW)
    return tmp_path


def rules(found: list[types.Diagnostic]) -> set[str]:
    return {str(one.code) for one in found}


def test_a_clash_is_shown_while_it_is_typed_and_its_code_action_mends_it(pier: Path) -> None:
    async def play(editor: Editor) -> None:
        uri = editor.open(pier / "crew.keys.toml")
        assert "clash" not in rules(await editor.findings(uri))
        editor.type(uri, '"Ctrl+/"', '"C"')
        await editor.findings(uri)
        editor.type(uri, '"C"', '"Alt+Y"')
        found = await editor.findings(uri, lambda found: "clash" in rules(found))
        (clash,) = [one for one in found if one.code == "clash"]
        assert "Alt+Y is line.copy-down and comment.toggle" in clash.message
        assert clash.severity == types.DiagnosticSeverity.Error
        assert (clash.range.start.line, clash.range.start.character) == (6, 0)
        assert clash.related_information
        actions = await editor.text_document_code_action_async(
            types.CodeActionParams(types.TextDocumentIdentifier(uri), clash.range, types.CodeActionContext([clash]))
        )
        (action,) = actions or []
        assert isinstance(action, types.CodeAction)
        assert action.edit is not None
        text = editor.apply(action.edit)[uri]
        (pier / "crew.keys.toml").write_text(text)
        ran = subprocess.run(
            [sys.executable, "-m", "ombix", "audit", "--rule", "clash"], cwd=pier, capture_output=True, check=False
        )
        assert ran.returncode == 0
        assert tomli.loads(text)["bind"]["line"]["delete"]["press"] == "F7"

    drive(play)


def test_a_misspelt_word_is_mended_by_its_own_code_action(pier: Path) -> None:
    async def play(editor: Editor) -> None:
        uri = editor.open(pier / "crew.keys.toml")
        editor.type(uri, '"Ctrl+/"', '"Crtl+/"')
        editor.type(uri, "copy-down", "copy-donw")
        found = await editor.findings(uri, lambda found: len([one for one in found if one.code == "unknown"]) == 2)
        for one in [one for one in found if one.code == "unknown"]:
            actions = await editor.text_document_code_action_async(
                types.CodeActionParams(types.TextDocumentIdentifier(uri), one.range, types.CodeActionContext([one]))
            )
            (action,) = actions or []
            assert isinstance(action, types.CodeAction)
            assert action.edit is not None
            text = editor.apply(action.edit)[uri]
            changed = "Ctrl+/" if "Crtl" in one.message else "copy-down"
            assert changed in action.title or "Ctrl" in action.title
            assert ("Crtl" in text) != ("Crtl" in one.message)
            assert ("copy-donw" in text) == ("Crtl" in one.message)

    drive(play)


def test_half_written_files_keep_their_other_findings(pier: Path) -> None:
    async def play(editor: Editor) -> None:
        path = pier / "crew.keys.toml"
        path.write_text(CREW.replace('"Ctrl+/"', '"Alt+Y"'))
        uri = editor.open(path)
        await editor.findings(uri, lambda found: "clash" in rules(found))
        editor.type(uri, 'toggle = "Alt+Y"', 'toggle = "Alt+Y"\nblock = "')
        found = await editor.findings(uri, lambda found: "unknown" in rules(found))
        assert {"clash", "unknown"} <= rules(found)
        (wrong,) = [one for one in found if one.code == "unknown"]
        assert "not TOML" in wrong.message
        assert wrong.range.start.line == 11
        editor.type(uri, 'block = "', 'block = { press = "F7", where = "editing" }')
        found = await editor.findings(uri, lambda found: "unknown" not in rules(found))
        clashes = sorted(one.message.split(",")[0] for one in found if one.code == "clash")
        assert clashes == ["Alt+Y is line.copy-down and comment.toggle", "F7 is line.delete and comment.block"]

    drive(play)


def test_what_is_said_at_once_is_what_is_said_in_full(pier: Path) -> None:
    async def play(editor: Editor) -> None:
        uri = editor.open(pier / "crew.keys.toml")
        await editor.findings(uri)
        changes = (
            ('"Ctrl+/"', '"Alt+Y"'), ('"F7", where', '"F6", where'), ("# Schl", "\n\n# Schl"), ('"Alt+Y"   #', '"Ctrl+ß"   #'),
            ("[bind.comment]", '[bind.files]\nsave = "F6"\n\n[bind.comment]'),
        )  # fmt: skip
        for old, new in changes:
            before = len(editor.told[uri])
            editor.type(uri, old, new)
            while len(editor.told[uri]) < before + 2:  # at once, and in full
                await asyncio.sleep(0.05)
            first, second = (
                sorted((str(one.code), one.range.start.line, one.message) for one in told.diagnostics)
                for told in editor.told[uri][before : before + 2]
            )
            at_once = {"clash", "covered", "no-press", "hard-press", "unknown"}
            assert [one for one in first if one[0] in at_once] == [one for one in second if one[0] in at_once]

    drive(play)


def test_how_bad_things_are_here_counts_at_once_too(pier: Path) -> None:
    (pier / "ombix.toml").write_text(WORKSPACE + '\n[severity]\nclash = "off"\ncovered = "note"\n')

    async def play(editor: Editor) -> None:
        uri = editor.open(pier / "crew.keys.toml")
        await editor.findings(uri)
        editor.type(uri, '"Ctrl+/"', '"Alt+Y"')
        assert "clash" not in rules(await editor.findings(uri))
        editor.type(uri, '"F6"', '"F7"')
        (covered,) = [one for one in await editor.findings(uri) if one.code == "covered"]
        assert covered.severity == types.DiagnosticSeverity.Information

    drive(play)


def test_hover(pier: Path) -> None:
    async def told(editor: Editor, uri: str, text: str, more: int = 1) -> str:
        found = await editor.text_document_hover_async(types.HoverParams(**editor.at(uri, text, more)))
        return found.contents.value if found is not None and isinstance(found.contents, types.MarkupContent) else ""

    async def play(editor: Editor) -> None:
        uri = editor.open(pier / "crew.keys.toml")
        keys = await told(editor, uri, "F7")
        assert "line.delete" in keys
        assert "not readonly" in keys or "editing" in keys
        assert "Copy the line down" in await told(editor, uri, "copy-down")
        assert "pane is text and not readonly" in await told(editor, uri, "editing")
        assert "Delete" in await told(editor, uri, "line.delete")
        assert await told(editor, uri, "tomorrow") == ""
        house = editor.open(pier / "house.keys.toml")
        assert "Values: text, files" in await told(editor, house, "pane is")

    drive(play)


def test_completion(pier: Path) -> None:
    async def offered(editor: Editor, uri: str, text: str, more: int) -> list[str]:
        found = await editor.text_document_completion_async(types.CompletionParams(**editor.at(uri, text, more)))
        items = found.items if isinstance(found, types.CompletionList) else found or []
        return [one.label for one in items]

    async def play(editor: Editor) -> None:
        uri = editor.open(pier / "crew.keys.toml")
        editor.type(uri, "delete = {", "duplicate\ndelete = {")
        assert "copy-down" in (await offered(editor, uri, "duplicate", 9))[:3]
        editor.type(uri, "duplicate\n", 'join = ""\n')
        keys = await offered(editor, uri, 'join = ""', 8)
        assert keys
        assert not {"Alt+Y", "F7", "Ctrl+/"} & set(keys)
        ran = subprocess.run(
            [sys.executable, "-m", "ombix", "free", "line.join", "--json"],
            cwd=pier,
            capture_output=True,
            text=True,
            check=False,
        )
        assert keys[0] == json.loads(ran.stdout)["keys"][0]["keys"]
        editor.type(uri, 'join = ""', 'join = { press = "F9", where = "pane is " }')
        values = await offered(editor, uri, '"pane is ', 9)
        assert {"text", "files", "terminal"} <= set(values)
        editor.type(uri, "pane is ", "edi")
        assert "editing" in await offered(editor, uri, '"edi', 4)
        editor.type(uri, 'do = "line.delete"', 'do = "duplicate"')
        assert "line.copy-down" in (await offered(editor, uri, 'do = "duplicate', 15))[:3]
        editor.type(uri, "[bind.comment]", "[b]")
        assert "bind.search" in await offered(editor, uri, "[b]", 2)
        editor.type(uri, 'extends = ["house.keys.toml"]', 'extends = [""]')
        assert await offered(editor, uri, 'extends = [""]', 12) == ["house.keys.toml"]
        place = editor.open(pier / "ombix.toml")
        assert "nano" in await offered(editor, place, 'dialect = "nano', 11)
        assert "us" in await offered(editor, place, 'layout = "de', 10)

    drive(play)


def test_a_condition_is_renamed_in_all_files(pier: Path) -> None:
    async def play(editor: Editor) -> None:
        uri = editor.open(pier / "crew.keys.toml")
        where = editor.at(uri, '"editing"', 3)
        may = await editor.text_document_prepare_rename_async(types.PrepareRenameParams(**where))
        assert isinstance(may, types.PrepareRenamePlaceholder)
        assert may.placeholder == "editing"
        edit = await editor.text_document_rename_async(types.RenameParams(new_name="writing", **where))
        assert edit is not None
        texts = {Path(name).name: text for name, text in editor.apply(edit).items()}
        assert texts["crew.keys.toml"] == CREW.replace("editing", "writing")
        assert texts["house.keys.toml"] == HOUSE.replace("editing", "writing")
        refused = await editor.text_document_rename_async(types.RenameParams(new_name="readonly", **where))
        assert refused is None
        assert any("readonly is a fact" in one for one in editor.messages)
        value = editor.at(uri, "Alt+Y", 2)
        assert await editor.text_document_prepare_rename_async(types.PrepareRenameParams(**value)) is None

    drive(play)


def test_definitions_and_references(pier: Path) -> None:
    async def play(editor: Editor) -> None:
        uri = editor.open(pier / "crew.keys.toml")
        where = editor.at(uri, '"editing"', 3)
        found = await editor.text_document_definition_async(types.DefinitionParams(**where))
        assert isinstance(found, list)
        ((place),) = found
        assert isinstance(place, types.Location)
        assert place.uri.endswith("house.keys.toml")
        assert (place.range.start.line, place.range.start.character, place.range.end.character) == (4, 0, 7)
        uses = await editor.text_document_references_async(
            types.ReferenceParams(types.ReferenceContext(True), where["text_document"], where["position"])
        )
        assert sorted((Path(one.uri).name, one.range.start.line) for one in uses or []) == [
            ("crew.keys.toml", 7), ("house.keys.toml", 4),
        ]  # fmt: skip

    drive(play)


def test_symbols_folds_hints_and_layout(pier: Path) -> None:
    async def play(editor: Editor) -> None:
        uri = editor.open(pier / "crew.keys.toml")
        named = types.TextDocumentIdentifier(uri)
        symbols = await editor.text_document_document_symbol_async(types.DocumentSymbolParams(named))
        tables = {one.name: one for one in symbols or [] if isinstance(one, types.DocumentSymbol)}
        assert list(tables) == ["bind.line", "bind.comment", "macro"]
        assert [(one.name, one.detail) for one in tables["bind.line"].children or []] == [
            ("copy-down", "Alt+Y"),
            ("delete", "F7"),
        ]
        folds = await editor.text_document_folding_range_async(types.FoldingRangeParams(named))
        assert (5, 7) in {(one.start_line, one.end_line) for one in folds or []}
        whole = types.Range(types.Position(0, 0), types.Position(99, 0))
        hints = await editor.text_document_inlay_hint_async(types.InlayHintParams(named, whole))
        (slash,) = [one for one in hints or [] if one.position.line == 10]
        assert slash.label == "Strg+Shift+7"
        editor.type(uri, '"Ctrl+/"', '"control+/"   ')
        editor.type(uri, "[bind.comment]", "\n\n\n[bind.comment]")
        edits = await editor.text_document_formatting_async(
            types.DocumentFormattingParams(named, types.FormattingOptions(4, True))
        )
        assert editor.apply(types.WorkspaceEdit({uri: edits or []}))[uri] == CREW

    drive(play)


def test_two_workspaces_at_once(tmp_path: Path) -> None:
    places = []
    for name, platform in (("north", "linux"), ("south", "mac")):
        folder = tmp_path / name
        folder.mkdir()
        (folder / "ombix.toml").write_text(f'format = 1\nkeymap = "{name}.keys.toml"\nplatform = "{platform}"\n')
        (folder / f"{name}.keys.toml").write_text('format = 1\n[bind.line]\nsort = "Mod+K"\ndelete = "Ctrl+K"\n')
        places.append(folder / f"{name}.keys.toml")

    async def play(editor: Editor) -> None:
        north, south = map(editor.open, places)
        assert "clash" in rules(await editor.findings(north))
        assert "clash" not in rules(await editor.findings(south))

    drive(play)


def test_a_file_outside_any_workspace_and_one_that_is_closed(tmp_path: Path) -> None:
    path = tmp_path / "alone.keys.toml"
    path.write_text('format = 1\n[bind.line]\nsort = "F7"\ndelete = "F7"\n')

    async def play(editor: Editor) -> None:
        uri = editor.open(path)
        assert "clash" in rules(await editor.findings(uri))
        editor.text_document_did_close(types.DidCloseTextDocumentParams(types.TextDocumentIdentifier(uri)))
        while editor.told[uri][-1].diagnostics:
            await asyncio.sleep(0.05)

    drive(play)


def test_workspace_and_description_files(pier: Path) -> None:
    async def play(editor: Editor) -> None:
        uri = editor.open(pier / "ombix.toml")
        assert "unknown" not in rules(await editor.findings(uri))
        editor.type(uri, '"de"', '"du"')
        found = await editor.findings(uri, lambda found: "unknown" in rules(found))
        assert "unknown layout: du" in found[0].message
        assert found[0].range.start.line == 3
        folder = pier / "rowing"
        folder.mkdir()
        (folder / "dialect.toml").write_text('format = 1\nname = "rowing\n')
        description = editor.open(folder / "dialect.toml")
        assert "not TOML" in (await editor.findings(description))[0].message

    drive(play)


def test_a_description_is_checked_as_it_is_being_written(pier: Path) -> None:
    """Nothing of it is saved: what is wrong is what the texts say, and not what is on the disk."""
    folder = pier / "rowing"
    folder.mkdir()
    (folder / "dialect.toml").write_text('like = "nano"\nname = "rowing"\ntitle = "the rowing boat"\n')
    (folder / "commands.toml").write_text('[command]\n"oars" = { action = "cursor.left" }\n')
    before = {path: path.read_bytes() for path in folder.iterdir()}

    async def play(editor: Editor) -> None:
        commands = editor.open(folder / "commands.toml")
        assert await editor.findings(commands) == []
        editor.type(commands, "cursor.left", "cursor.lft")
        found = await editor.findings(commands, bool)
        assert "cursor.lft" in found[0].message
        editor.type(commands, "cursor.lft", "cursor.left")
        assert await editor.findings(commands, lambda found: not found) == []
        dialect = editor.open(folder / "dialect.toml")
        editor.type(dialect, 'like = "nano"', 'like = "nanu"')
        assert "there is no editor nanu to be like" in (await editor.findings(dialect, bool))[0].message

    drive(play)
    assert {path: path.read_bytes() for path in folder.iterdir()} == before


def test_odd_texts_are_answered(pier: Path) -> None:
    """One after the other by the same server, with a right one between them."""
    odd = ["", "\ufeffformat = 1\n", "[" * 2000, "x = 1\n" * 5, "<<<<<<< ours\n", "\x00", '"' * 99, "format = 99\n"]

    async def play(editor: Editor) -> None:
        uri = editor.open(pier / "crew.keys.toml")
        right = await editor.findings(uri)
        named = types.TextDocumentIdentifier(uri)
        for text in odd:
            editor.type(uri, editor.texts[uri], text)
            await editor.findings(uri)
            await editor.text_document_document_symbol_async(types.DocumentSymbolParams(named))
            await editor.text_document_hover_async(types.HoverParams(named, types.Position(0, 3)))
            await editor.text_document_completion_async(types.CompletionParams(named, types.Position(0, 0)))
            await editor.text_document_formatting_async(
                types.DocumentFormattingParams(named, types.FormattingOptions(4, True))
            )
            await editor.text_document_hover_async(types.HoverParams(named, types.Position(500, 500)))
            editor.type(uri, text, CREW)
            assert await editor.findings(uri, lambda found: found == right) == right

    drive(play)


def test_changes_out_of_order_are_said(pier: Path) -> None:
    async def play(editor: Editor) -> None:
        uri = editor.open(pier / "crew.keys.toml")
        await editor.findings(uri)
        editor.versions[uri] = -3
        editor.type(uri, '"F6"', '"F9"')
        await editor.findings(uri)
        assert any("came after version" in one for one in editor.messages)

    drive(play)


def test_a_client_that_dies_takes_the_server_along(pier: Path) -> None:
    server = subprocess.Popen(
        [sys.executable, "-m", "ombix", "serve"], stdin=subprocess.PIPE, stdout=subprocess.PIPE, cwd=pier
    )
    body = json.dumps({"jsonrpc": "2.0", "id": 1, "method": "initialize", "params": {"capabilities": {}}})
    assert server.stdin is not None
    assert server.stdout is not None
    server.stdin.write(f"Content-Length: {len(body)}\r\n\r\n{body}".encode())
    server.stdin.flush()
    assert b"Content-Length" in server.stdout.readline()
    server.stdin.close()
    server.stdout.close()
    try:
        server.wait(20)
    finally:
        if server.poll() is None:
            os.kill(server.pid, signal.SIGKILL)
    assert server.returncode is not None
    assert server.returncode != -signal.SIGKILL


def test_requests_are_cancelled(pier: Path) -> None:
    """Each has an answer, or is said to be cancelled; so are requests that were never made."""

    async def play(editor: Editor) -> None:
        uri = editor.open(pier / "crew.keys.toml")
        pending = [
            asyncio.ensure_future(
                editor.text_document_completion_async(types.CompletionParams(**editor.at(uri, "Alt+Y", 1)))
            )
            for _ in range(5)
        ]
        await asyncio.sleep(0)
        made = list(editor.protocol._request_futures)
        assert len(made) == 5
        for number in [*made[1::2], *range(1, 9)]:
            editor.cancel_request(types.CancelParams(number))
        done, left = await asyncio.wait(pending, timeout=60)
        assert not left
        for one in pending[::2]:
            assert one.result()
        for one in done:
            assert one.exception() is None or "cancel" in str(one.exception())
        assert "line.delete" in str(
            await editor.text_document_hover_async(types.HoverParams(**editor.at(uri, "F7", 1)))
        )

    drive(play)


@pytest.mark.long
@pytest.mark.parametrize("line", ['"F6" = "edit.copy"\n', "x", '[[bind]]\nkeys = "F6"\ndo = "edit.copy"\n'])
def test_a_text_of_50_mb_is_answered_with_one_finding(line: str, pier: Path) -> None:
    """It is not looked at, and the server answers on: all that can be asked of it, and of another file."""
    (pier / "big.keys.toml").write_text(line * (50_000_000 // len(line)))

    async def play(editor: Editor) -> None:
        crew = editor.open(pier / "crew.keys.toml")
        await editor.findings(crew)
        uri = editor.open(pier / "big.keys.toml")
        found = await editor.findings(uri)
        assert [one.message.splitlines()[0] for one in found] == ["the file has 50 MB; at most 32 MB are read"]
        named, at = types.TextDocumentIdentifier(uri), types.Position(0, 3)
        everywhere = types.Range(types.Position(0, 0), types.Position(9, 0))
        assert not await editor.text_document_document_symbol_async(types.DocumentSymbolParams(named))
        assert not await editor.text_document_hover_async(types.HoverParams(named, at))
        assert not await editor.text_document_completion_async(types.CompletionParams(named, at))
        assert not await editor.text_document_definition_async(types.DefinitionParams(named, at))
        assert not await editor.text_document_folding_range_async(types.FoldingRangeParams(named))
        assert not await editor.text_document_inlay_hint_async(types.InlayHintParams(named, everywhere))
        assert not await editor.text_document_rename_async(types.RenameParams(named, at, "x"))
        layout = types.DocumentFormattingParams(named, types.FormattingOptions(4, True))
        assert not await editor.text_document_formatting_async(layout)
        context = types.CodeActionContext(found)
        assert not await editor.text_document_code_action_async(types.CodeActionParams(named, everywhere, context))
        editor.type(crew, '"F6"', '"F9"')
        await editor.findings(crew)

    drive(play)


def test_what_can_be_done_in_a_text_that_is_half_written(pier: Path) -> None:
    async def play(editor: Editor) -> None:
        uri = editor.open(pier / "crew.keys.toml")
        await editor.findings(uri)
        whole = types.Range(types.Position(0, 0), types.Position(99, 0))
        for length in range(5, len(CREW), len(CREW) // 40):
            editor.type(uri, editor.texts[uri], CREW[:length])
            asked = types.CodeActionParams(types.TextDocumentIdentifier(uri), whole, types.CodeActionContext([]))
            await editor.text_document_code_action_async(asked)

    drive(play)


def test_what_is_no_file_is_not_read_for_ever(pier: Path) -> None:
    async def play(editor: Editor) -> None:
        named = types.TextDocumentIdentifier("file:///dev/zero")
        at = types.Position(0, 0)
        assert not await editor.text_document_definition_async(types.DefinitionParams(named, at))
        assert not await editor.text_document_hover_async(types.HoverParams(named, at))
        options = types.FormattingOptions(4, True)
        assert not await editor.text_document_formatting_async(types.DocumentFormattingParams(named, options))

    drive(play)


def test_a_layer_is_checked_anew_where_another_open_one_changes(pier: Path) -> None:
    async def play(editor: Editor) -> None:
        house, crew = editor.open(pier / "house.keys.toml"), editor.open(pier / "crew.keys.toml")
        await editor.findings(house)
        await editor.findings(crew)
        editor.type(house, 'editing = "pane is text and not readonly"', "")
        assert "unknown" in rules(await editor.findings(crew, lambda found: "unknown" in rules(found)))

    drive(play)


def test_the_server_ends_as_it_is_told_to(pier: Path) -> None:
    """Shutdown, then exit: status 0, and no word (Language Server Protocol, exit notification)."""
    child = subprocess.Popen(
        [str(Path(sys.executable).parent / "ombix"), "serve"], cwd=pier, stdin=subprocess.PIPE, stdout=subprocess.PIPE,
        stderr=subprocess.PIPE,
    )  # fmt: skip
    messages = [
        {"id": 1, "method": "initialize", "params": {"processId": None, "rootUri": None, "capabilities": {}}},
        {"method": "initialized", "params": {}}, {"id": 2, "method": "shutdown"}, {"method": "exit"},
    ]  # fmt: skip
    sent = b"".join(
        f"Content-Length: {len(body)}\r\n\r\n{body}".encode()
        for body in (json.dumps({"jsonrpc": "2.0", **one}) for one in messages)
    )
    _out, said = child.communicate(sent, timeout=60)
    assert (child.returncode, said) == (0, b"")
