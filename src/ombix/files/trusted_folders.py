"""What a user trusts: folders of descriptions that may start a program, each with a digest of what it held then."""

import json
from collections.abc import Mapping
from pathlib import Path

from ombix.files.disk import absolute, write_private
from ombix.files.private_folders import make_private

_NAME = "trusted.json"


class Trust:
    """The folders that a user trusts, as they were when they were looked at. Raises OutsideError where the folder that this
    is kept in is somebody else's."""

    def __init__(self, state_folder: Path) -> None:
        self._folder = state_folder
        self._file = state_folder / _NAME

    def holds(self, folder: Path, digest: str) -> bool:
        """Whether a folder is trusted as it is now."""
        return self.digest_of(folder) == digest

    def digest_of(self, folder: Path) -> str:
        """The digest that a folder had when it was trusted; empty where it never was."""
        return self._known().get(absolute(folder.resolve()), "")

    def add(self, folder: Path, digest: str) -> None:
        """From now on a folder is trusted, as long as it is what it is now."""
        self._keep({**self._known(), absolute(folder.resolve()): digest})

    def remove(self, folder: Path) -> bool:
        """A folder is trusted no longer; whether it was."""
        known = dict(self._known())
        was = known.pop(absolute(folder.resolve()), None) is not None
        if was:
            self._keep(known)
        return was

    def _known(self) -> Mapping[str, str]:
        if not self._file.exists():
            return {}
        make_private(absolute(self._folder))
        try:
            table = json.loads(self._file.read_bytes())
        except (OSError, ValueError):
            return {}
        return {str(key): str(value) for key, value in table.items()} if isinstance(table, dict) else {}

    def _keep(self, known: Mapping[str, str]) -> None:
        make_private(absolute(self._folder))
        write_private(self._file, json.dumps(known, indent=1).encode())
