"""The tables of TOML files that seldom change, like those that ship: read once, and kept in the cache until one changes."""

from functools import cached_property
from pathlib import Path
from typing import Any

from ombix.data.seen import stamp
from ombix.data.shipped import keep_in_memory, read_table, table_in_memory
from ombix.files.cache import Cache
from ombix.version import __version__

_NAME = f"tables-{__version__}"


class Tables:
    """Reads TOML files. With a cache, one that was read before is not read again."""

    def __init__(self, cache: Cache | None) -> None:
        self._cache = cache
        self._has_more = False

    @cached_property
    def _known(self) -> dict[str, tuple[str, dict[str, Any]]]:
        known = self._cache.load(_NAME) if self._cache is not None else None
        return known if isinstance(known, dict) else {}

    def read(self, path: Path) -> dict[str, Any]:
        """A file's table. Raises OSError, UnicodeDecodeError, or what the TOML reader raises."""
        if self._cache is None:
            return read_table(path)
        name = str(path)
        now = stamp(name)
        table = table_in_memory(path, now)
        if table is None:
            known = self._known.get(name)
            if known is not None and known[0] == now:
                return keep_in_memory(path, now, known[1])
            table = read_table(path)
        if name not in self._known or self._known[name][0] != now:
            self._known[name] = now, table
            self._has_more = True
        return table

    def keep(self) -> None:
        """Keep what was read."""
        if self._cache is not None and self._has_more:
            self._cache.save(_NAME, self._known)
            self._has_more = False
