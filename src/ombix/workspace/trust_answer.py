"""What a description would start, and whether it is trusted."""

from typing import Literal, NamedTuple

from ombix.core.errors import Place


class TrustReport(NamedTuple):
    """What a description of an editor would start, where it has `apply` write, its files, and whether its user trusts it as it
    is now."""

    folder: Place
    title: str
    command: tuple[str, ...]
    environment: dict[str, str]
    files: tuple[str, ...]
    is_trusted: Literal["trusted", "changed", "new"]
    writes: tuple[str, ...] = ()
