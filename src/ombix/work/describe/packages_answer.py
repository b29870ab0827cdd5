"""What installed packages bring."""

from typing import NamedTuple


class BroughtThing(NamedTuple):
    """One thing that an installed package brings: what it is (`editor`, `form of files`, `rule` or `report`), its name, the package
    with its version, the module, and why it is not used (empty: it is)."""

    kind: str
    name: str
    package: str
    module: str
    fault: str


class PackagesReport(NamedTuple):
    """What installed packages bring."""

    things: tuple[BroughtThing, ...]
