"""JSON Schemas of Ombix's own files, for editors of texts that check and complete TOML by them."""

from collections.abc import Mapping
from typing import Any

from ombix.core.usage.counts import COLUMNS
from ombix.core.usage.key_assignment import MOST_WEIGHT, WEIGHTS
from ombix.data.platform_names import PLATFORMS
from ombix.report.json import SCHEMA

_TEXT = {"type": "string"}
_TEXTS = {"anyOf": [_TEXT, {"type": "array", "items": _TEXT}]}
_KEYS = {"anyOf": [_TEXT, {"const": False}, {"const": True}, {"type": "array", "items": _TEXT}]}
_ARGUMENTS = {"type": "object", "additionalProperties": {"type": ["string", "integer"]}}


def _object(properties: Mapping[str, Any], required: tuple[str, ...] = (), **more: Any) -> dict[str, Any]:
    return {
        "type": "object",
        "properties": dict(properties),
        "required": list(required),
        "additionalProperties": False,
        **more,
    }


def _of_each(value: Any) -> dict[str, Any]:
    return {"type": "object", "additionalProperties": value}


_ROW_FIELDS: dict[str, Any] = {
    "press": {**_KEYS, "description": "Keys, in place of those that lower layers give; false: none."},
    "also": {**_KEYS, "description": "Keys beside those that lower layers give."},
    "where": {**_TEXT, "description": "A condition: the states in which it holds."},
    "with": {**_ARGUMENTS, "description": "What the action is told."},
    "why": {**_TEXT, "description": "The reason, kept."},
    "command": {**_TEXT, "description": "The command that it was adopted from."},
    **{name: {**_KEYS, "description": f"Other keys on {name}."} for name in PLATFORMS},
}
_ENTRY: dict[str, Any] = {
    "anyOf": [
        {"const": False, "description": "No keys."}, {**_TEXT, "description": "Keys."}, {"$ref": "#/$defs/row"},
        {"type": "array", "items": {"anyOf": [_TEXT, {"$ref": "#/$defs/row"}]}, "minItems": 1},
    ]
}  # fmt: skip
_FACT = _object(
    {
        "title": _TEXT, "values": {"type": "array", "items": _TEXT, "minItems": 1}, "open": {"type": "boolean"},
        "more": {"type": "array", "items": _TEXT, "minItems": 1},
    }
)  # fmt: skip
_CONFLICT = _object(dict.fromkeys(("at", "press", "why", "base", "ours", "theirs"), _TEXT))
_STEP: dict[str, Any] = _object({
    **dict.fromkeys(("do", "type", "press", "means", "play", "insert", "only", "editor", "where"), _TEXT),
    **{name: {"type": "integer"} for name in ("times", "repeat", "most")},
    "with": _ARGUMENTS, "until": {"enum": ["fails", "end"]}, "steps": {"type": "array", "items": {"$ref": "#/$defs/step"}},
})  # fmt: skip


def keymap_schema(actions: Mapping[str, Mapping[str, str]]) -> dict[str, Any]:
    """The schema of a keymap file. `actions`: kind of work to its actions (the part behind the point) with their titles."""
    bind = {
        domain: _object({verb: {"$ref": "#/$defs/entry", "description": title} for verb, title in verbs.items()})
        for domain, verbs in actions.items()
    }
    keyed = {name: _ROW_FIELDS[name] for name in ("press", "where", "why", *PLATFORMS)}
    macro = {
        "title": _TEXT, **keyed, "with": _object({"count": {"type": "integer"}}), "languages": _TEXTS,
        "command": _TEXT, "steps": {"type": "array", "items": {"$ref": "#/$defs/step"}, "minItems": 1},
        "example": {"type": "array", "items": _object({"before": _TEXT, "after": _TEXT}, ("before", "after"))},
    }  # fmt: skip
    snippet = {"title": _TEXT, "words": _TEXTS, **keyed, "body": _TEXTS, "languages": _TEXTS}
    top = {
        "format": {"const": 1}, "name": _TEXT, "editor": _TEXT, "extends": {"type": "array", "items": _TEXT},
        "fact": _of_each(_FACT), "never": {"type": "array", "items": _TEXT}, "where": _of_each(_TEXT), "bind": _object(bind),
        "unbind": _of_each({"anyOf": [{"const": True}, _object({"where": _TEXT, "why": _TEXT})]}),
        "only": _of_each(_of_each({"$ref": "#/$defs/entry"})), "macro": _of_each(_object(macro, ("steps",))),
        "snippet": _of_each(_object(snippet, ("body",))),
        "accept": {"type": "array", "items": _object({"rule": _TEXT, "press": _TEXT, "why": _TEXT}, ("rule", "why"))},
        "kept": {"type": "array", "items": _of_each({"type": ["string", "boolean", "integer"]})},
        "conflict": {"type": "array", "items": _CONFLICT},
    }  # fmt: skip
    definitions = {"entry": _ENTRY, "row": _object(_ROW_FIELDS), "step": _STEP}
    return {"$schema": SCHEMA, "title": "A keymap file of Ombix", **_object(top, ("format",)), "$defs": definitions}


def workspace_schema(known: Mapping[str, list[str]]) -> dict[str, Any]:
    """The schema of a workspace file. `known` has the names of platforms, desktops, terminals and rules."""
    platform = {"enum": known["platform"]}
    by_platform = dict.fromkeys(known["platform"])
    layout = {"anyOf": [_TEXTS, _object(dict.fromkeys(by_platform, _TEXTS))]}
    keyboard = {"anyOf": [_TEXT, _object(dict.fromkeys(by_platform, _TEXT))]}
    reserved = {"anyOf": [_TEXT, _object({"does": _TEXT, "on": platform}, ("does",))]}
    texts = dict.fromkeys(("dialect", "version", "terminal", "file"), _TEXT)
    editor = _object({**texts, "platform": platform, "actions": _of_each(_TEXT)}, ("dialect",))
    named = dict.fromkeys(("keyboard", "terminal"), _TEXT)
    lists = dict.fromkeys(("host", "layout", "editors"), _TEXTS)
    own = {"platform": platform, "desktop": {"enum": known["desktop"]}, "version": _of_each(_TEXT)}
    machine = _object({**named, **lists, **own})
    severities = {"enum": ["error", "warning", "note", "off"]}
    top = {
        "format": {"const": 1}, "keymap": _TEXT, "layers": {"type": "array", "items": _TEXT}, "platform": platform,
        "layout": layout, "keyboard": keyboard, "desktop": {"enum": known["desktop"]}, "reserved": _of_each(reserved),
        "editor": _of_each(editor), "fact": _of_each(_FACT), "severity": _object(dict.fromkeys(known["rule"], severities)),
        "conflict": {"type": "array", "items": _CONFLICT}, "machine": _of_each(machine),
        "use": _object({
            "columns": _object(dict.fromkeys(COLUMNS, _TEXT)),
            "weights": _object({name: {"type": "number", "minimum": 0, "maximum": MOST_WEIGHT} for name in WEIGHTS}),
        }),
    }  # fmt: skip
    return {"$schema": SCHEMA, "title": "A workspace file of Ombix", **_object(top, ("format", "keymap"))}
