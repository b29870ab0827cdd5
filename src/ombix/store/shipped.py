"""The data that ships with Ombix: the catalogue, the facts, platforms and terminals."""

import tomllib
from functools import lru_cache
from pathlib import Path
from typing import Any

from ombix.core.actions import Catalogue
from ombix.core.actions import catalogue as build_catalogue
from ombix.core.conditions import Fact, Facts
from ombix.core.errors import InputError, did_you_mean
from ombix.core.platforms import Platform
from ombix.core.platforms import platform as build_platform
from ombix.core.terminals import Terminal
from ombix.core.terminals import terminal as build_terminal

DATA = Path(__file__).resolve().parent.parent / "data"

# The kinds of work in the order in which people look for them; a domain that is not named comes last.
_DOMAIN_ORDER = (
    "cursor", "select", "cursors", "edit", "line", "comment", "history", "search", "files", "tabs", "panes", "goto",
    "bookmark", "format", "problems", "program", "terminal", "macro", "view", "settings", "prompt", "mouse", "app",
)  # fmt: skip


@lru_cache(maxsize=1)
def catalogue() -> Catalogue:
    """The catalogue of actions, its domains in the order in which they are shown."""
    files = sorted((DATA / "actions").glob("*.toml"), key=lambda path: (_order(path.stem), path.stem))
    return build_catalogue((path.stem, _table(path)) for path in files)


@lru_cache(maxsize=1)
def facts() -> Facts:
    """The facts that conditions may speak of."""
    table = _table(DATA / "facts.toml")
    return facts_of(table)


def facts_of(table: dict[str, Any]) -> Facts:
    """Facts from the table of a facts file."""
    return Facts(
        tuple(
            Fact(name, tuple(row["values"]), row.get("title", ""), row.get("open", False))
            for name, row in table["fact"].items()
        ),
        tuple(table.get("never", ())),
    )


def platform_names() -> list[str]:
    """The names of the platforms."""
    return _names("platforms")


@lru_cache(maxsize=8)
def platform(name: str) -> Platform:
    """The platform `name`. Raises InputError."""
    _check("platform", name, platform_names())
    return build_platform(name, _table(DATA / "platforms" / f"{name}.toml"))


@lru_cache(maxsize=8)
def terminal(name: str) -> Terminal:
    """The terminal `name`. Raises InputError."""
    _check("terminal", name, _names("terminals"))
    return build_terminal(name, _table(DATA / "terminals" / f"{name}.toml"))


def stamp() -> str:
    """A text that changes when the shipped data does."""
    parts = []
    for path in sorted([*DATA.glob("*.toml"), *(DATA / "actions").glob("*.toml"), *(DATA / "platforms").glob("*.toml")]):
        status = path.stat()
        parts.append(f"{path.name}:{status.st_size}:{status.st_mtime_ns}")
    return "|".join(parts)


def _names(folder: str) -> list[str]:
    return sorted(path.stem for path in (DATA / folder).glob("*.toml"))


def _check(kind: str, name: str, known: list[str]) -> None:
    if name not in known:
        raise InputError(f"unknown {kind}: {name}", did_you_mean(name, known) or f"Known are {', '.join(known)}.")


def _order(domain: str) -> int:
    return _DOMAIN_ORDER.index(domain) if domain in _DOMAIN_ORDER else len(_DOMAIN_ORDER)


def _table(path: Path) -> dict[str, Any]:
    with path.open("rb") as file:
        return tomllib.load(file)
