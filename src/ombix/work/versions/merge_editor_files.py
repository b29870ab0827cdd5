"""Three versions of an editor's own key file merged: statement by statement, and held against what its keys do."""

from collections import Counter
from collections.abc import Hashable, Iterator
from functools import cached_property
from pathlib import Path

from ombix.core.conditions import NEVER, States
from ombix.core.errors import InputError, OmbixError, TangledError
from ombix.core.keymap.bindings import Layer, LayerName
from ombix.core.keymap.merge_decisions import MergeSides, collisions, unforeseen
from ombix.core.keymap.outcomes import Outcome
from ombix.core.keys.notation import write
from ombix.data.platform_names import this_platform
from ombix.editors.block_installing import Deciding
from ombix.editors.dialect import Dialect
from ombix.editors.file_forms import form_of_files
from ombix.editors.formats import Statement
from ombix.files import line_merge as lines
from ombix.files.disk import absolute
from ombix.files.merging.statement_merge import Names, merge_lines
from ombix.work.versions.merge import Merging, Versions
from ombix.work.versions.merge_answer import MergedChange, MergeReport, OpenConflict, UnforeseenKeys
from ombix.workspace.context import Opener
from ombix.workspace.editor_recognition import recognise
from ombix.workspace.resources import Resources, user_path

_JOINTS = {"json": b","}
"""What stands between the lines of a form of files."""


class MergedEditorFile:
    """The merge of three texts of one editor's file."""

    def __init__(self, path: Path, texts: tuple[str, str, str], dialect: Dialect, resources: Resources) -> None:
        self._path = path
        self._texts = texts
        self._dialect = dialect
        self._resources = resources
        self._statements = tuple(list(self._read(text)) for text in texts)
        names = tuple(map(self._names, self._statements))
        self._by_line: tuple[Names, Names, Names] = (names[0], names[1], names[2])
        joint = _JOINTS.get(dialect.description.file.format, b"")
        data = [text.encode("utf-8") for text in texts]

        def settle(chunk: lines.Chunk) -> list[bytes] | None:
            return merge_lines(chunk.base, chunk.ours, chunk.theirs, chunk.starts, self._by_line, joint)

        merged, left = lines.merge_with_marks(data[0], data[1], data[2], settle)
        if not left and not self._is_read(merged.decode("utf-8")):
            merged, left = lines.merge_with_marks(data[0], data[1], data[2])
        self.text = merged.decode("utf-8") if left else self._without_doubles(merged.decode("utf-8"))
        self._left = left

    def _read(self, text: str) -> Iterator[Statement]:
        form = form_of_files(self._dialect.description.file.format)
        return form.read(text, absolute(self._path), self._dialect.description)

    def _is_read(self, text: str) -> bool:
        try:
            return bool(list(self._read(text))) or not text.strip()
        except InputError:
            return False

    def _without_doubles(self, text: str) -> str:
        """The merged text without what both sides moved, each to another place, and so stands there twice."""
        known = [Counter(names.values()) for names in self._by_line[1:]]
        seen: dict[tuple[Hashable, str], int] = {}
        kept = []
        names = self._names(list(self._read(text)))
        for number, line in enumerate(text.splitlines(keepends=True), 1):
            name = names.get(number)
            if name is not None:
                key = (name, line.strip())
                seen[key] = seen.get(key, 0) + 1
                if seen[key] > max(1, *(one[name] for one in known)):
                    continue
            kept.append(line)
        return "".join(kept)

    def _names(self, statements: list[Statement]) -> Names:
        """What the lines of a version say something of."""
        found: dict[int, tuple[Hashable, ...]] = {}
        for statement in statements:
            for number in range(statement.place.line, max(statement.place.line, statement.place.end_line) + 1):
                found[number] = (*found.get(number, ()), (*self._name(statement), number - statement.place.line))
        return found

    def _name(self, one: Statement) -> tuple[str, ...]:
        """What a statement says something of: keys, or a command where the file gives each its keys."""
        about = one.command if self._dialect.description.file.assigns and one.kind == "bind" else one.key
        if one.kind in ("bind", "remove"):
            return "keys", one.section, about.casefold() if about == one.command else about, one.where, one.platform
        return one.kind, one.section, one.key or one.written

    # --- what became of it

    @cached_property
    def changes(self) -> tuple[MergedChange, ...]:
        """What each side changed, statement by statement."""
        base, ours, theirs = self._written
        found = []
        for name in dict.fromkeys([*base, *ours, *theirs]):
            old, mine, other = base.get(name, ""), ours.get(name, ""), theirs.get(name, "")
            for side, new in (("both", mine),) if mine == other else (("ours", mine), ("theirs", other)):
                if new != old:
                    did = "removed" if not new else "changed" if old else "added"
                    what = " ".join(part for part in name[1:3] if part)
                    found.append(MergedChange(what, side, did, old, new))  # type: ignore[arg-type]
        return tuple(found)

    def conflicts(self) -> list[OpenConflict]:
        """What both sides changed, each otherwise: lines that stand between marks, or keys."""
        found = [self._open_lines(chunk) for chunk in self._left]
        if self._left:
            return found
        found += self._given_twice()
        for collision in collisions(self._sides, self._deciding.space, self._deciding.space.possible):
            base, ours, theirs, merged = map(
                _said, (collision.base, collision.ours, collision.theirs, collision.merged)
            )
            when, example = self._in_words(collision.states)
            why = "both sides gave these keys something to do"
            found.append(OpenConflict(write(collision.trigger), why, base, ours, theirs, merged, when, example))
        return found

    def _given_twice(self) -> Iterator[OpenConflict]:
        """What both sides gave or changed, each otherwise and in another place of the file."""
        old, ours, theirs = self._written
        merged = [(self._name(one), one.written.strip()) for one in self._read(self.text)]
        for name in ours:
            mine, other = ours[name], theirs.get(name, "")
            if mine != other and other and old.get(name, "") not in (mine, other):
                kept = " and ".join(text for known, text in merged if known == name)
                what = " ".join(part for part in name[1:3] if part)
                why = "both sides gave it, each otherwise"
                yield OpenConflict(what, why, old.get(name, ""), mine, other, kept, "", None)

    @cached_property
    def _written(self) -> list[dict[tuple[str, ...], str]]:
        """What each version says, by what it says something of."""
        return [
            {
                self._name(statement): statement.written.strip()
                for statement in statements
                if statement.kind != "structure"
            }
            for statements in self._statements
        ]

    def unforeseen(self) -> tuple[UnforeseenKeys, ...]:
        """Keys that do what they do on neither side."""
        if self._left:
            return ()
        return tuple(
            UnforeseenKeys(write(one.trigger), self._in_words(one.states)[0], *map(_or_none, one[2:]))
            for one in unforeseen(self._sides, self._deciding.space, self._deciding.space.possible)
        )

    def _open_lines(self, chunk: lines.Chunk) -> OpenConflict:
        base, ours, theirs = (
            b" ".join(line.strip() for line in part).decode() for part in (chunk.base, chunk.ours, chunk.theirs)
        )
        what = f"line {chunk.starts[1]} of {self._path.name}"
        return OpenConflict(what, "both sides changed it", base, ours, theirs, "", "", None)

    @cached_property
    def _deciding(self) -> Deciding:
        shipped = self._resources.shipped
        space = self._resources.space(shipped.facts().extended(self._dialect.facts, []))
        return Deciding(self._dialect, shipped.platform(this_platform()), space, shipped.catalogue())

    @cached_property
    def _sides(self) -> MergeSides:
        return MergeSides(*(self._deciding.tables(self._layer(text)) for text in (*self._texts, self.text)))

    def _layer(self, text: str) -> Layer | None:
        if not text.strip():
            return None
        name = LayerName(str(self._path), self._path.name, "adopted", self._dialect.name)
        resources = self._resources.with_texts({self._path: text})
        return resources.read_editor_file(self._dialect, self._path, name).layer

    def _in_words(self, states: States) -> tuple[str, dict[str, str] | None]:
        space = self._deciding.space
        if states in (NEVER, space.possible):
            return "", None
        try:
            return space.describe(states), space.example(states)
        except TangledError:
            return "a part of all states", space.example(states)


def merge(found: Versions, opener: Opener, resources: Resources) -> Merging | None:
    """Merge three versions of an editor's file; None where it is none that Ombix knows, or one of the versions cannot be read."""
    if found.path.suffix == ".toml":
        return None
    dialect = _dialect_of(found.path, found.ours or found.theirs, opener, resources)
    if dialect is None:
        return None
    try:
        merged = MergedEditorFile(found.path, found.texts, dialect, resources)
        conflicts, strange = tuple(merged.conflicts()), merged.unforeseen()
    except InputError:
        return None
    return Merging(
        merged.text, MergeReport(absolute(found.path), "meaning", (), merged.changes, conflicts, strange, ())
    )


def _dialect_of(path: Path, text: str, opener: Opener, resources: Resources) -> Dialect | None:
    """The editor whose file it is: the workspace's, or one that its name and content tell."""
    try:
        workspace = opener.workspace()
        for name, one in (workspace.editors if workspace is not None else {}).items():
            if one.file and absolute(user_path(one.file, opener.needed_workspace().folder)) == absolute(path):
                return resources.dialect(opener.editor(name))
        found = recognise(path, resources.with_texts({path: text}))
    except OmbixError:
        return None
    return resources.dialects.load(found.dialect) if found.is_sure else None


def _said(outcome: Outcome | None) -> str:
    return str(outcome) if outcome is not None else ""


def _or_none(outcome: Outcome | None) -> str | None:
    return str(outcome) if outcome is not None else None
