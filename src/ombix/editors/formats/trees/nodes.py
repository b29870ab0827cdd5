"""A file as a tree: groups of fields and items, and how a syntax reads and writes them."""

from typing import Literal, Protocol

from msgspec import Struct

from ombix.core.errors import InputError, Place
from ombix.editors.split_modifiers import PARTING

Kind = Literal["text", "map", "list"]
MAX_DEPTH = 100
"""Groups in groups; no keymap needs as many."""

MOST_PARTS = 150_000
"""Words, texts and groups of one file."""

_NOWHERE = Place("")


class Node(Struct, eq=False):
    """A text, or a group: fields with names (of a map, the attributes of an element), and items one after the other. Only groups
    of the same `name` are alike: the name of an element, or the sign between the names and values of a record.

    `source` is how it stands in the file, where that is known; `comment` stands before it. The `text` of a list of texts is
    all of them, separated by PARTING.
    """

    kind: Kind
    name: str = ""
    text: str = ""
    is_quoted: bool = True
    fields: list["Field"] = []
    items: list["Node"] = []
    place: Place = _NOWHERE
    source: str = ""
    comment: str = ""

    def members(self) -> list["Field | Node"]:
        """The fields, then the items."""
        return [*self.fields, *self.items]


class Field(Struct, eq=False):
    """A name and what it stands for."""

    name: str
    value: Node
    place: Place = _NOWHERE
    source: str = ""
    comment: str = ""


Member = Field | Node
Found = dict[str, str]


def too_many_parts(place: Place) -> InputError:
    """The error of a file with more than MOST_PARTS."""
    return InputError(
        f"the file has more than {MOST_PARTS} parts, which is more than is read",
        "Check that this is the file you mean.",
        place,
    )


def fold_lists(top: Node) -> None:
    """Give each list of texts in a tree its text."""
    pending = [top]
    while pending:
        node = pending.pop()
        pending += [group_of(member) for member in node.members()]
        if node.kind == "list" and node.items and not node.fields and all(_is_text(item) for item in node.items):
            node.text = PARTING.join(item.text for item in node.items)


def _is_text(node: Node) -> bool:
    return node.kind == "text" and node.is_quoted and PARTING not in node.text


def group_of(member: Member) -> Node:
    """The node that has the members of a member."""
    return member.value if isinstance(member, Field) else member


class TreeSyntax(Protocol):
    """How files of one syntax become a tree and back."""

    def __hash__(self) -> int: ...

    def parse(self, text: str, file: str) -> Node:
        """The tree of a file. Raises InputError with the place of the first fault."""

    def whole(self, text: str) -> str:
        """A piece that was kept as a file of its own."""

    def one_line(self, member: Member) -> str:
        """A member as short as it can be written."""

    def lay_out(self, top: Node) -> str:
        """The text of a file, laid out for a reader."""
