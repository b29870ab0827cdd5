"""How Ombix is set up in version control, and what is wrong with what is staged."""

from typing import Literal, NamedTuple


class SetUpPart(NamedTuple):
    """A part of the set-up: where it stands, and how it is there."""

    part: str
    file: str
    stands: Literal["right", "missing", "other", "not there for a user"]
    says: str


class SetUpReport(NamedTuple):
    """The set-up of a repository (`where`: its folder), or of a user (`where` is empty), behind what was `did`."""

    where: str
    did: Literal["set up", "checked", "removed"]
    parts: tuple[SetUpPart, ...]
    wrote: tuple[str, ...]
