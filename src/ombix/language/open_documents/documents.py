"""All files that are being written, with the sessions in which their texts stand for what is on the disk."""

from collections.abc import Iterator
from pathlib import Path

from ombix.core.audit import audit
from ombix.core.errors import InputError, OmbixError, Place
from ombix.core.keymap.bindings import Layer
from ombix.core.keymap.changes import SIDES, KeymapChange, Settle, in_words
from ombix.core.keys.notation import write
from ombix.core.live_toml import Statements, live_document
from ombix.core.toml import Document
from ombix.files import editing, own_names
from ombix.files import workspace_file as workspaces
from ombix.files.disk import MAX_FILE_SIZE, Files, absolute
from ombix.files.keymap_reading import SUFFIX
from ombix.language.open_documents import outline
from ombix.language.open_documents.answers import CompletionList, DraftWay, OutlineEntry, PressHint
from ombix.language.open_documents.checking import DraftCheck, as_finding
from ombix.language.open_documents.completing import completions
from ombix.language.open_documents.spots import TextSpot, spot_at
from ombix.work.audit import audit_questions
from ombix.work.describe import describe_questions
from ombix.workspace import findings
from ombix.workspace.findings_answer import FindingSpot, FoundFault
from ombix.workspace.open_workspace import OpenWorkspace

DESCRIPTIONS = ("dialect.toml", "commands.toml", "defaults.toml")
"""The files of a description of an editor."""


def is_too_large(path: Path) -> bool:
    """Whether a path is no ordinary file, or one that is larger than is read; not where there is none."""
    return path.exists() and (not path.is_file() or path.stat().st_size > MAX_FILE_SIZE)


class Drafts:
    """The open files, by path. What is asked of one is asked of the workspace that it is of, else of the file alone."""

    def __init__(self) -> None:
        self.texts: dict[str, str] = {}
        self._checks: dict[str, DraftCheck] = {}
        self._statements: dict[str, Statements] = {}
        self._sessions: dict[str, tuple[int, OpenWorkspace]] = {}
        self._version = 0

    # --- what is open

    def put(self, path: Path, text: str) -> None:
        """A file is opened, or has another text."""
        self.texts[absolute(path)] = text
        self._version += 1

    def close(self, path: Path) -> None:
        """A file is closed: what is on the disk counts again."""
        name = absolute(path)
        for known in (self.texts, self._checks, self._statements, self._sessions):
            known.pop(name, None)
        self._version += 1

    def changed_outside(self) -> None:
        """Files on the disk were changed."""
        self._version += 1
        self._sessions.clear()

    def text(self, path: Path) -> str:
        """The text of a file, open or not. Raises InputError."""
        return Files(self.texts).read_text(path)

    def lines(self, path: Path) -> list[str]:
        """The lines of a file, without what ends them."""
        return [line.removesuffix("\r") for line in self.text(path).split("\n")]

    def session(self, path: Path) -> OpenWorkspace:
        """A session on the workspace of a file, or on the file alone, with all texts as they are now."""
        name = absolute(path)
        known = self._sessions.get(name)
        if known is not None and known[0] == self._version:
            return known[1]
        found = self._opened(path)
        self._sessions[name] = (self._version, found)
        return found

    def _opened(self, path: Path) -> OpenWorkspace:
        folder = str(path.parent)
        try:
            file = workspaces.find(path.parent)
        except InputError:
            return OpenWorkspace(path, kind="file", folder=folder, texts=self.texts)
        if absolute(file) == absolute(path) or path.name in DESCRIPTIONS:
            return OpenWorkspace(file, kind="workspace", folder=folder, texts=self.texts)
        session = OpenWorkspace(file, kind="workspace", folder=folder, texts=self.texts)
        try:
            layers = session.opener.layers(lenient=True)
        except OmbixError:
            return OpenWorkspace(path, kind="file", folder=folder, texts=self.texts)
        if any(absolute(path) in layer.files for layer in layers):
            return session
        return OpenWorkspace(path, kind="file", folder=folder, texts=self.texts)

    def _statements_of(self, path: Path) -> Statements:
        return self._statements.setdefault(absolute(path), Statements())

    def document(self, path: Path) -> Document:
        """A file as it can be read now."""
        return live_document(self.text(path), absolute(path), self._statements_of(path))

    # --- what is wrong

    def at_once(self, path: Path) -> tuple[FoundFault, ...] | None:
        """The findings behind a change, as far as they can be told at once; None where a full check has to be made first."""
        check = self._checks.get(absolute(path))
        try:
            return check.at_once(self.text(path)) if check is not None else None
        except InputError as error:
            return (as_finding(error, absolute(path)),)

    def in_full(self, path: Path) -> tuple[FoundFault, ...]:
        """All findings about a file. It uses nothing that other questions use, and may be asked in another thread."""
        try:
            text = self.text(path)
        except OmbixError as error:
            return (as_finding(error, absolute(path)),)
        if path.name in DESCRIPTIONS:
            return self._of_description(path)
        if path.name == workspaces.FILE_NAME:
            return self._of_workspace(path)
        check = self._checks.setdefault(absolute(path), DraftCheck(path))
        return check.in_full(self._opened(path), text)

    def _of_workspace(self, path: Path) -> tuple[FoundFault, ...]:
        try:
            session = self._opened(path)
            session.opener.needed_workspace()
            session.context()
            found = audit_questions.audit(session).findings
        except OmbixError as error:
            return (as_finding(error, absolute(path)),)
        return tuple(one for one in found if any(spot.place.file == absolute(path) for spot in one.places))

    def _of_description(self, path: Path) -> tuple[FoundFault, ...]:
        """What keeps a description from being read; of one that is right as it is, what its own check finds wrong."""
        document = self.document(path)
        if document.errors:
            return tuple(as_finding(error, absolute(path)) for error in document.errors)
        try:
            report = describe_questions.check_description(
                OpenWorkspace(folder=str(path.parent), texts=self.texts), str(path.parent)
            )
        except OmbixError as error:
            return (as_finding(error, absolute(path)),)
        faults = [fault for test in report.checks for fault in test.faults]
        spot = FindingSpot(Place(absolute(path), 1, 1), "")
        return tuple(
            FoundFault("description", "warning", (), fault, "", None, (spot,), (), None, "", ()) for fault in faults
        )

    # --- what mends it

    def ways(self, path: Path, rule: str, keys: tuple[str, ...], line: int) -> list[DraftWay]:
        """The changes that mend the finding of a rule about these keys (without keys: in this line), each tried on the text; the
        rule's own first."""
        text = self.text(path)
        session = self.session(path)
        found: list[DraftWay] = []
        try:
            for does, changes in self._changes(path, session, rule, keys, line):
                edited = editing.apply(text, changes).text
                if edited != text and self._is_read(edited, path):
                    found.append(DraftWay(does, edited, not found))
        except OmbixError:
            return found
        return found

    def _changes(
        self, path: Path, session: OpenWorkspace, rule: str, keys: tuple[str, ...], line: int
    ) -> Iterator[tuple[str, list[KeymapChange]]]:
        here = session.keymap(tells_faults=False)
        own = self.own_layer(path, session)
        if own is None:
            return
        subject = findings.subject_of(here, session.workspace_editors(), session.resources)
        for finding in audit(subject, findings.choose_rules([rule])):
            is_there = bool(keys) or any(spot.place.line == line for spot in finding.spots)
            if tuple(map(write, finding.keys)) != keys or not is_there:
                continue
            if finding.changes and (keys or finding.spots[0].place.file == absolute(path)):
                changes = list(finding.changes)
                yield "; ".join(map(in_words, changes)), changes
            places = {spot.place for spot in finding.spots}
            for one in own.unsettled if rule == "conflict" else ():
                if one.place in places:
                    ways: list[KeymapChange] = [
                        Settle(one.at, "as it is", one.keys),
                        *(Settle(one.at, side) for side in SIDES if one.at),
                    ]
                    yield from ((in_words(way), [way]) for way in ways)

    def _is_read(self, text: str, path: Path) -> bool:
        try:
            Document(text, absolute(path))
        except InputError:
            return False
        return True

    def own_layer(self, path: Path, session: OpenWorkspace) -> Layer | None:
        """The layer that a file is."""
        layers = session.keymap(tells_faults=False).keymap.layers
        return next((layer for layer in layers if absolute(path) in layer.files), None)

    # --- what stands at a place

    def spot(self, path: Path, line: int, column: int) -> TextSpot:
        """What stands at a place, its line and column from 0."""
        return spot_at(self.lines(path), line, column)

    def complete(self, path: Path, line: int, column: int) -> CompletionList:
        """What could stand at a place."""
        return completions(self.lines(path), line, column, path, self.session(path))

    def name_at(self, path: Path, line: int, column: int) -> own_names.NameUse | None:
        """The name of the file's own that stands at a place; None for another."""
        text = self.text(path)
        offset = sum(len(one) + 1 for one in text.split("\n")[:line]) + column
        try:
            Document(text, absolute(path))
        except InputError:
            return None
        found = next((use for use in own_names.uses(text) if use.start <= offset <= use.end), None)
        if found is None or found.is_definition:
            return found
        return found if self._defined(path, found) else None

    def _defined(self, path: Path, use: own_names.NameUse) -> bool:
        return any(
            one.is_definition
            for _file, text in self._around(path)
            for one in own_names.uses_of(text, use.kind, use.name)
        )

    def _around(self, path: Path) -> Iterator[tuple[Path, str]]:
        """The files that names are shared with, and their texts: those of the layers."""
        files = {absolute(path): None}
        try:
            session = self.session(path)
            files |= {file: None for layer in session.keymap(tells_faults=False).keymap.layers for file in layer.files}
        except OmbixError:
            pass
        for file in files:
            try:
                text = self.text(Path(file))
                Document(text, file)
            except OmbixError:
                continue
            yield Path(file), text

    def uses(self, path: Path, use: own_names.NameUse, definitions_only: bool = False) -> list[Place]:
        """Where a name stands, in all files that it is shared with."""
        return [
            _place(file, text, one.start, one.end)
            for file, text in self._around(path)
            for one in own_names.uses_of(text, use.kind, use.name)
            if one.is_definition or not definitions_only
        ]

    def renamed(self, path: Path, use: own_names.NameUse, new: str) -> dict[Path, str]:
        """The files with another name in place of one. Raises InputError for a name that is none, or is there already."""
        if not new.strip() or '"' in new or "\n" in new or (use.kind == "condition" and not own_names.is_word(new)):
            raise InputError(f"{new or 'nothing'} is no name for a {use.kind}", "Use letters, digits and hyphens.")
        around = list(self._around(path))
        if any(one.is_definition for _file, text in around for one in own_names.uses_of(text, use.kind, new)):
            raise InputError(f"there is a {use.kind} {new} already", "Choose another name.")
        if use.kind == "condition" and new in self.session(path).keymap(tells_faults=False).space.facts.by_name:
            raise InputError(f"{new} is a fact", "Choose another name.")
        changed = {file: own_names.with_name(text, use.kind, use.name, new) for file, text in around}
        return {file: text for (file, old), text in zip(around, changed.values(), strict=True) if text != old}

    # --- at a glance

    def outline(self, path: Path) -> tuple[OutlineEntry, ...]:
        """The tables of a file with their entries."""
        return outline.outline(self.document(path))

    def folds(self, path: Path) -> list[tuple[int, int]]:
        """The lines that can be folded."""
        return outline.folds(self.lines(path))

    def hints(self, path: Path) -> list[PressHint]:
        """How the keys of a file are pressed here."""
        try:
            session = self.session(path)
            own = self.own_layer(path, session)
            return outline.press_hints(session.keymap(tells_faults=False), own) if own is not None else []
        except OmbixError:
            return []

    def formatted(self, path: Path) -> str:
        """A file as it is usually laid out; one that cannot be read as it is."""
        text = self.text(path)
        try:
            Document(text, absolute(path))
            own = self.own_layer(path, self.session(path)) if path.name.endswith(SUFFIX) else None
        except OmbixError:
            return text
        found = outline.formatted(text.replace("\r\n", "\n"), own)
        return found.replace("\n", "\r\n") if "\r\n" in text else found


def _place(file: Path, text: str, start: int, end: int) -> Place:
    line, column = text.count("\n", 0, start) + 1, start - text.rfind("\n", 0, start)
    return Place(absolute(file), line, column, line, column + end - start)
