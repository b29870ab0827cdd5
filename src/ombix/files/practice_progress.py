"""What somebody knows of a keymap: a memory of each thing that was asked, kept in the user's own folder."""

import hashlib
import json
from collections.abc import Mapping
from pathlib import Path
from typing import Any

from msgspec import Struct

from ombix.core.errors import InputError, Place
from ombix.files.disk import absolute, write_private
from ombix.files.private_folders import make_private

FORMAT = 1


class Memory(Struct, frozen=True):
    """What is remembered of one thing: the scheduler's card, and how often it was right and wrong."""

    card: Mapping[str, Any]
    right: int = 0
    wrong: int = 0


class Progress:
    """The memories of one workspace, or of one file, by name. Raises OutsideError where the folder is somebody else's, and
    InputError for a file that is none of these."""

    def __init__(self, state_folder: Path, home: Path) -> None:
        name = hashlib.blake2b(absolute(home.resolve()).encode("utf-8", "surrogateescape"), digest_size=12).hexdigest()
        self._folder = state_folder / "practice"
        self._file = self._folder / f"{name}.json"

    def all(self) -> dict[str, Memory]:
        """The memories, by the names of things."""
        if not self._file.exists():
            return {}
        make_private(absolute(self._folder))
        return _read(self._file)

    def keep(self, memories: Mapping[str, Memory]) -> None:
        """From now on these are the memories."""
        make_private(absolute(self._folder))
        write_private(self._file, _document(memories).encode())

    def exported(self) -> str:
        """The memories as a document of JSON."""
        return _document(self.all())

    def forget(self) -> int:
        """Forget all; how many there were."""
        count = len(self.all()) if self._file.exists() else 0
        self._file.unlink(missing_ok=True)
        return count


def _document(memories: Mapping[str, Memory]) -> str:
    rows = {name: {"card": dict(one.card), "right": one.right, "wrong": one.wrong} for name, one in memories.items()}
    return json.dumps({"format": FORMAT, "memories": rows}, ensure_ascii=False, indent=1) + "\n"


def _read(file: Path) -> dict[str, Memory]:
    try:
        table = json.loads(file.read_bytes())
        if table["format"] != FORMAT:
            raise ValueError
        return {
            str(name): Memory(dict(row["card"]), int(row["right"]), int(row["wrong"]))
            for name, row in table["memories"].items()
        }
    except (OSError, ValueError, KeyError, TypeError, AttributeError):
        raise InputError(
            "what was practised cannot be read", "Begin anew with: ombix practice --forget", Place(absolute(file))
        ) from None
