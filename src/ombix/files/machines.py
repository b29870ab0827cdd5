"""The machines of a workspace: what each has of its own, and the workspace as it is on one of them."""

import platform as system
from typing import Any

from msgspec import Struct

from ombix.core.errors import Place, did_you_mean
from ombix.core.toml import Document

FIELDS = ("host", "platform", "layout", "keyboard", "desktop", "terminal", "editors", "version")


class WorkspaceMachine(Struct, frozen=True):
    """A machine: the names of its host by which it is recognised, and what it has in place of what the workspace says."""

    name: str
    place: Place
    hosts: tuple[str, ...] = ()
    platform: str = ""
    layouts: tuple[str, ...] = ()
    keyboard: str = ""
    desktop: str = ""
    terminal: str = ""
    editors: tuple[str, ...] = ()
    """Those of the workspace that are there; none named: all."""
    versions: dict[str, str] = {}
    """Editor to the version that it has there."""

    @property
    def is_here(self) -> bool:
        """Whether this is, by the name of its host, the machine that Ombix runs on."""
        here = system.node().lower()
        return any(host.lower() in (here, here.partition(".")[0]) for host in self.hosts)

    @property
    def may_be_here(self) -> bool:
        """Whether nothing says that it is another machine."""
        return not self.hosts or self.is_here


def machine(document: Document, name: str, row: Any, editors: list[str]) -> WorkspaceMachine:
    """A machine from its table. Raises InputError."""
    path = ("machine", name)
    if not isinstance(row, dict):
        raise document.error(f"the machine {name} is not a table", f"Write [machine.{name}].", *path)
    for key in row:
        if key not in FIELDS:
            raise document.error(
                f"unknown key: {key}", did_you_mean(key, FIELDS) or f"Known are {', '.join(FIELDS)}.", *path, key
            )
    for key in ("platform", "keyboard", "desktop", "terminal"):
        if not isinstance(row.get(key, ""), str):
            raise document.error(f"{key} takes a name", f'Write {key} = "…".', *path, key)
    named = _texts(document, row, "editors", path)
    versions = row.get("version", {})
    if not isinstance(versions, dict) or not all(isinstance(version, str) for version in versions.values()):
        raise document.error("version takes a table of editors", 'Write version = { pier = "7.2" }.', *path, "version")
    for editor in (*named, *versions):
        if editor not in editors:
            advice = did_you_mean(editor, editors) or f"Its editors are {', '.join(editors) or 'none'}."
            raise document.error(
                f"the workspace names no editor {editor}", advice, *path, "editors" if editor in named else "version"
            )
    return WorkspaceMachine(
        name, document.place(*path), _texts(document, row, "host", path), row.get("platform", ""),
        _texts(document, row, "layout", path), row.get("keyboard", ""), row.get("desktop", ""), row.get("terminal", ""), named,
        dict(versions),
    )  # fmt: skip


def _texts(document: Document, row: dict[str, Any], key: str, path: tuple[str, ...]) -> tuple[str, ...]:
    value = row.get(key, ())
    texts = [value] if isinstance(value, str) else list(value) if isinstance(value, list | tuple) else None
    if texts is None or not all(isinstance(text, str) and text for text in texts):
        raise document.error(f"{key} takes a name, or a list of names", f'Write {key} = ["…"].', *path, key)
    return tuple(texts)
