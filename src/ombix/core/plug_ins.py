"""What installed packages bring along, by entry points: forms of files, editors, rules, reports.

Only what a user installed is found. The folder that Ombix is started in is never searched, and no file that Ombix reads can
name code that is to be loaded.
"""

import glob
import sys
from collections.abc import Iterator, Mapping
from contextlib import contextmanager, suppress
from functools import lru_cache
from pathlib import Path
from types import MappingProxyType
from typing import Any, NamedTuple

from ombix.core.errors import InputError, OmbixError

FORMATS, EDITORS, RULES, REPORTS = "ombix.formats", "ombix.editors", "ombix.rules", "ombix.reports"
GROUPS = {EDITORS: "editor", FORMATS: "form of files", RULES: "rule", REPORTS: "report"}
"""The groups of entry points, and what one of them brings."""


class PlugIn(NamedTuple):
    """One thing that a package brings: the group, its name, the module (`module` or `module:name`), the package with its version,
    and the folder that the package is installed in."""

    group: str
    name: str
    value: str
    package: str
    folder: Path

    def load(self) -> Any:
        """The object; this runs the package's code. Raises InputError where that fails."""
        from importlib.metadata import EntryPoint

        try:
            return EntryPoint(self.name, self.value, self.group).load()
        except Exception as error:
            raise InputError(
                f"the {GROUPS[self.group]} {self.name} of the package {self.package} does not load: {error}",
                "Install that package anew, or take it out.",
            ) from None

    @contextmanager
    def running(self) -> Iterator[None]:
        """Its code runs in here. Raises InputError where that fails."""
        try:
            yield
        except OmbixError:
            raise
        except Exception as error:
            raise InputError(
                f"the {GROUPS[self.group]} {self.name} of the package {self.package} failed: {type(error).__name__}: {error}",
                "This is a fault of that package: tell its authors, or take it out.",
            ) from None  # fmt: skip


def plug_ins(group: str) -> Mapping[str, PlugIn]:
    """What installed packages bring in a group, by its name; of two of one name the first found."""
    return _found(tuple(_searched())).get(group, MappingProxyType({}))


def _searched() -> list[str]:
    """The folders in which packages are installed: not the one that Ombix is started in, which Python also searches sometimes."""
    here = ""
    with suppress(OSError):
        here = str(Path.cwd())
    return [folder for folder in sys.path if folder not in ("", ".", here)]


@lru_cache(4)
def _found(folders: tuple[str, ...]) -> Mapping[str, Mapping[str, PlugIn]]:
    offering = [folder for folder in folders if _offers(folder)]
    if not offering:
        return {}
    from importlib.metadata import distributions

    found: dict[str, dict[str, PlugIn]] = {}
    for distribution in distributions(path=offering):
        for entry in distribution.entry_points:
            if entry.group in GROUPS:
                package = f"{distribution.metadata['Name']} {distribution.version}"
                known = PlugIn(entry.group, entry.name, entry.value, package, Path(str(distribution.locate_file(""))))
                found.setdefault(entry.group, {}).setdefault(entry.name, known)
    return found


def _offers(folder: str) -> bool:
    """Whether a package that is installed in a folder may bring something: a look at the files that say so, as the library that
    reads them takes longer to load than a look-up."""
    if Path(folder).is_file():
        return True  # an archive
    for path in glob.glob(f"{glob.escape(folder)}/*-info/entry_points.txt"):  # noqa: PTH207
        with suppress(OSError):
            if "[ombix." in Path(path).read_text("utf-8", "replace"):
                return True
    return False
