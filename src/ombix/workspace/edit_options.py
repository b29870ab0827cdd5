"""How a user wants a change to be made."""

from typing import NamedTuple


class EditOptions(NamedTuple):
    """How a change is wished for: in which layer (empty: the user's own), without writing, and also where it brings new errors."""

    layer: str = ""
    dry_run: bool = False
    anyway: bool = False


PLAIN_EDIT = EditOptions()


class AuditOptions(NamedTuple):
    """What is left out of an audit: what a `baseline` (a file) knows, and what was there in a version in git (`since`). With
    `fixes`, findings come with the lines that would mend them."""

    baseline: str = ""
    since: str = ""
    fixes: bool = False
