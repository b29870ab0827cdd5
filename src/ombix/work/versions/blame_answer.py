"""Which commits gave keys the meaning that they have."""

from typing import NamedTuple

from ombix.core.errors import Place


class KeysBlame(NamedTuple):
    """A commit that gave keys their meaning: `does` is what they do in which states since then, `was` what they did before."""

    commit: str
    short: str
    author: str
    date: str
    subject: str
    place: Place | None


class KeysMeaning(NamedTuple):
    """What keys do in some states (empty: always)."""

    does: str
    when: str


class BlameReport(NamedTuple):
    """Where the meaning of keys comes from. `commits`: those that gave it (several where branches agreed); none where it is not
    committed yet, or is a default of the editor, which `note` says then."""

    keys: str
    shown: str
    platform: str
    editor: str
    now: tuple[KeysMeaning, ...]
    was: tuple[KeysMeaning, ...]
    commits: tuple[KeysBlame, ...]
    looked_at: int
    note: str
