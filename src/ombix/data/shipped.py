"""The data that ships with Ombix: the catalogue, the facts, platforms and terminals."""

from functools import lru_cache
from pathlib import Path
from typing import Any

import tomli

from ombix.core.actions import Catalogue
from ombix.core.actions import catalogue as build_catalogue
from ombix.core.conditions import Facts, facts_of
from ombix.core.errors import InputError, did_you_mean
from ombix.core.platforms import Desktop, Platform
from ombix.core.platforms import desktop as build_desktop
from ombix.core.platforms import platform as build_platform
from ombix.core.terminals import Terminal
from ombix.core.terminals import terminal as build_terminal

DATA = Path(__file__).resolve().parent

# The kinds of work in the order in which people look for them; a domain that is not named comes last.
_DOMAIN_ORDER = (
    "cursor", "select", "cursors", "edit", "line", "comment", "history", "search", "files", "tabs", "panes", "goto",
    "bookmark", "format", "problems", "program", "terminal", "macro", "mode", "view", "settings", "prompt", "mouse", "app",
)  # fmt: skip


@lru_cache(maxsize=1)
def catalogue() -> Catalogue:
    """The catalogue of actions, its domains in the order in which they are shown."""
    files = sorted((DATA / "actions").glob("*.toml"), key=lambda path: (_order(path.stem), path.stem))
    return build_catalogue((path.stem, _table(path)) for path in files)


@lru_cache(maxsize=1)
def facts() -> Facts:
    """The facts that conditions may speak of."""
    return facts_of(facts_table())


def facts_table() -> dict[str, Any]:
    """The table of the facts file."""
    return _table(DATA / "facts.toml")


def platform_names() -> list[str]:
    """The names of the platforms."""
    return _names("platforms")


@lru_cache(maxsize=8)
def platform(name: str) -> Platform:
    """The platform `name`. Raises InputError."""
    _check("platform", name, platform_names())
    return build_platform(name, platform_table(name))


@lru_cache(maxsize=8)
def terminal(name: str) -> Terminal:
    """The terminal `name`. Raises InputError."""
    _check("terminal", name, terminal_names())
    return build_terminal(name, _terminal_table(name))


def terminal_names() -> list[str]:
    """The names of the terminals."""
    return _names("terminals")


def _terminal_table(name: str) -> dict[str, Any]:
    """The table of a terminal, with what it takes from the one that it is like."""
    table = _table(DATA / "terminals" / f"{name}.toml")
    return {**_terminal_table(table["like"]), **table} if "like" in table else table


@lru_cache(maxsize=1)
def desktops() -> tuple[Desktop, ...]:
    """All systems and desktops that keep chords for themselves."""
    return tuple(build_desktop(name, _table(DATA / "desktops" / f"{name}.toml")) for name in _names("desktops"))


def desktop_names() -> list[str]:
    """The names of the desktops that a user may have or not."""
    return [one.name for one in desktops() if not one.always]


def platform_table(name: str) -> dict[str, Any]:
    """The table of a platform's data file, with its name."""
    return {"name": name, **_table(DATA / "platforms" / f"{name}.toml")}


def files() -> list[str]:
    """The data files that look-ups depend on."""
    return [
        str(path)
        for path in sorted([*DATA.glob("*.toml"), *DATA.glob("actions/*.toml"), *DATA.glob("platforms/*.toml")])
    ]


def _names(folder: str) -> list[str]:
    return sorted(path.stem for path in (DATA / folder).glob("*.toml"))


def _check(kind: str, name: str, known: list[str]) -> None:
    if name not in known:
        raise InputError(f"unknown {kind}: {name}", did_you_mean(name, known) or f"Known are {', '.join(known)}.")


def _order(domain: str) -> int:
    return _DOMAIN_ORDER.index(domain) if domain in _DOMAIN_ORDER else len(_DOMAIN_ORDER)


def _table(path: Path) -> dict[str, Any]:
    with path.open("rb") as file:
        return tomli.load(file)
