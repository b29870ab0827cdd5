"""Tables read as shapes (msgspec's structs)."""

import threading
from typing import Any, TypeVar

import msgspec

Shape = TypeVar("Shape")
_LOOKING = threading.Lock()


def shaped(table: Any, kind: type[Shape]) -> Shape:
    """A table as a shape. Raises msgspec.ValidationError, whose text names the key.

    msgspec looks into a shape when it is first read, and crashes where two threads do so at once: one after the other here.
    """
    with _LOOKING:
        return msgspec.convert(table, kind)
