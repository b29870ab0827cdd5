"""What the schemas of Ombix's own files are made of: the names that are known."""

from typing import Any

import msgspec

from ombix.core.audit import all_rules
from ombix.data.shipped import Shipped
from ombix.editors.description import CommandFile, Defaults, Description
from ombix.files.usage_logs import LoggedUse

FILES = ("keymap", "workspace", "description", "commands", "defaults", "use")
"""The files that have a schema."""


def names_of_actions(shipped: Shipped) -> dict[str, dict[str, str]]:
    """Kind of work to its actions, the part behind the point, with their titles."""
    found: dict[str, dict[str, str]] = {}
    for name, action in shipped.catalogue().actions.items():
        domain, _, verb = name.partition(".")
        found.setdefault(domain, {})[verb] = action.title
    return found


def known_names(shipped: Shipped) -> dict[str, list[str]]:
    """The names that a workspace file can have."""
    return {"platform": shipped.platform_names(), "desktop": shipped.desktop_names(), "rule": list(all_rules())}


def description_schema(file: str) -> dict[str, Any]:
    """The schema of one of the three files of a description, or of a line of a log of use, as it is read."""
    kinds: dict[str, Any] = {
        "description": Description,
        "commands": CommandFile,
        "defaults": Defaults,
        "use": LoggedUse,
    }
    return msgspec.json.schema(kinds[file])
