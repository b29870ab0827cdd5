"""Results as JSON documents, and the JSON Schema of each kind of result.

A named tuple is an object with its fields. A `Place` has its path as people name it, from the folder they are in.
"""

import json
import types
from collections.abc import Mapping, Sequence
from typing import Any, Literal, Union, get_args, get_origin, get_type_hints

from ombix.core.errors import Place
from ombix.report.terminal_text import Display

SCHEMA = "https://json-schema.org/draft/2020-12/schema"
FORMAT = 1
"""Of the documents: it changes where a field goes or means something else, not where one comes."""


def text(result: Any, display: Display) -> str:
    """A result as one document; an object says the format of documents."""
    found = document(result, display)
    return dump({"document": FORMAT, **found} if isinstance(found, dict) else found)


def dump(value: Any) -> str:
    """Plain values as one document, in which all that cannot be printed is escaped."""
    written = json.dumps(value, ensure_ascii=False, indent=2)
    return written if written.isascii() and "\x7f" not in written else "".join(map(_escaped, written))


def _escaped(char: str) -> str:
    if char == "\n" or char.isprintable():
        return char
    return json.dumps(char)[1:-1] if char != "\x7f" else "\\u007f"


def document(value: Any, display: Display) -> Any:
    """A result as objects, arrays and plain values."""
    if isinstance(value, Place):
        return {**value._asdict(), "file": display.path(value.file)}
    if isinstance(value, tuple) and hasattr(value, "_asdict"):
        return {name: document(one, display) for name, one in value._asdict().items()}
    if isinstance(value, tuple | list):
        return [document(one, display) for one in value]
    if isinstance(value, dict):
        return {str(name): document(one, display) for name, one in value.items()}
    return value


def schema_of_any(kinds: Sequence[Any]) -> dict[str, Any]:
    """The JSON Schema of a result that is of one of several kinds."""
    definitions: dict[str, Any] = {}
    found = [_top(kind, definitions) for kind in kinds]
    top = found[0] if len(found) == 1 else {"anyOf": found}
    return {"$schema": SCHEMA, **top, "$defs": definitions}


def _top(kind: Any, definitions: dict[str, Any]) -> dict[str, Any]:
    """The schema of a whole document."""
    found = _schema(kind, definitions)
    return (
        {**found, "properties": {"document": {"const": FORMAT}}, "required": ["document"]} if "$ref" in found else found
    )


def _schema(kind: Any, definitions: dict[str, Any]) -> dict[str, Any]:
    plain = {str: "string", int: "integer", float: "number", bool: "boolean", type(None): "null"}
    if kind in plain:
        return {"type": plain[kind]}
    origin, inner = get_origin(kind), get_args(kind)
    if origin is Literal:
        return {"enum": list(inner)}
    if origin in (Union, types.UnionType):
        return {"anyOf": [_schema(one, definitions) for one in inner]}
    if origin in (dict, Mapping):
        return {"type": "object", "additionalProperties": _schema(inner[1], definitions)}
    if origin is tuple and inner[-1:] == (Ellipsis,):
        return {"type": "array", "items": _schema(inner[0], definitions)}
    if origin is tuple:
        items = [_schema(one, definitions) for one in inner]
        return {"type": "array", "prefixItems": items, "minItems": len(items), "maxItems": len(items)}
    name = kind.__name__
    if name not in definitions:
        definitions[name] = {}  # it may hold itself
        hints = get_type_hints(kind)
        definitions[name] = {
            "type": "object", "description": (kind.__doc__ or "").strip().split("\n\n")[0].replace("\n    ", " "),
            "properties": {field: _schema(hints[field], definitions) for field in kind._fields},
            "required": list(kind._fields),
        }  # fmt: skip
    return {"$ref": f"#/$defs/{name}"}
