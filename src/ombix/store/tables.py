"""The tables of TOML files that seldom change, like those that ship: read once, and kept in the cache until one changes."""

from pathlib import Path
from typing import Any

from ombix.data.seen import stamp
from ombix.data.shipped import read_table
from ombix.store.cache import Cache
from ombix.version import __version__

_NAME = f"tables-{__version__}"


class Tables:
    """Reads TOML files. With a cache, one that was read before is not read again."""

    def __init__(self, cache: Cache | None) -> None:
        self._cache = cache
        known = cache.load(_NAME) if cache is not None else None
        self._known: dict[str, tuple[str, dict[str, Any]]] = known if isinstance(known, dict) else {}
        self._has_more = False

    def read(self, path: Path) -> dict[str, Any]:
        """A file's table. Raises OSError, UnicodeDecodeError, or what the TOML reader raises."""
        name = str(path)
        now = stamp(name) if self._cache is not None else ""
        known = self._known.get(name)
        if known is not None and known[0] == now:
            return known[1]
        table = read_table(path)
        if self._cache is not None:
            self._known[name] = now, table
            self._has_more = True
        return table

    def keep(self) -> None:
        """Keep what was read."""
        if self._cache is not None and self._has_more:
            self._cache.save(_NAME, self._known)
            self._has_more = False
