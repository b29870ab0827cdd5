"""How a user wants a change to be made."""

from typing import NamedTuple


class EditWishes(NamedTuple):
    """How a change is wished for: in which layer (empty: the user's own), without writing, and also where it brings new errors."""

    layer: str = ""
    dry_run: bool = False
    anyway: bool = False


PLAIN_EDIT = EditWishes()
