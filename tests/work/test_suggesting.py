"""Suggestions that are taken: a part of an assignment is whole by itself."""

from ombix.core.keymap.changes import Bind, KeymapChange, Move
from ombix.core.keys.notation import parse
from ombix.work.usage.suggest import with_what_they_rest_on
from tests.helpers import shipped


def test_what_is_taken_takes_along_what_frees_its_keys() -> None:
    keys = [parse(text) for text in ("Mod+K", "Ctrl+K", "F2", "F3", "Ctrl+K Ctrl+D")]
    changes: list[list[KeymapChange]] = [
        [Bind("files.save", keys[1])], [Move("edit.cut", keys[0], "always", keys[2])],
        [Move("line.delete", keys[2], "always", keys[3])],
        [Bind("line.sort", keys[3])],
    ]  # fmt: skip
    resolve = shipped.platform("linux").resolve
    assert with_what_they_rest_on([1], changes, resolve) == [1, 2, 3]
    assert with_what_they_rest_on([3], changes, resolve) == [3]
    assert with_what_they_rest_on([4], changes, resolve) == [4]
    changes[0] = [Bind("files.save", keys[4])]
    assert with_what_they_rest_on([1], changes, resolve)[:2] == [1, 2]
