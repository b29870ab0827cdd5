"""The data that ships with Ombix: the catalogue, the facts, platforms, terminals, desktops, layouts and keyboards."""

from collections.abc import Callable, Iterable, Iterator, Sequence
from operator import is_
from pathlib import Path
from typing import TYPE_CHECKING, Any, TypeVar

from ombix.core.catalogue.actions import Catalogue
from ombix.core.catalogue.actions import catalogue as build_catalogue
from ombix.core.conditions import Fact, Facts, facts_of
from ombix.core.errors import InputError, did_you_mean
from ombix.core.keys.keyboards import Keyboard, place_of
from ombix.core.keys.keyboards import keyboard as build_keyboard
from ombix.core.keys.platforms import Desktop, Platform
from ombix.core.keys.platforms import platform as build_platform
from ombix.core.pressing.layouts import Layout
from ombix.core.pressing.terminals import Terminal
from ombix.core.pressing.terminals import terminal as build_terminal
from ombix.data.seen import SeenFiles, stamp

if TYPE_CHECKING:
    from ombix.core.catalogue.kinds_of_work import Family
    from ombix.core.catalogue.searching import SearchIndex
    from ombix.core.preparation import ComesFirst
    from ombix.core.pressing.effort import EffortModel
    from ombix.core.snippets.surroundings import Language
    from ombix.core.usage.keystroke_model import KeystrokeModel

DATA = Path(__file__).resolve().parent
_ACTIONS, _SYNONYMS = DATA / "actions", DATA / "synonyms.toml"

# The kinds of work in the order in which people look for them; a domain that is not named comes last.
_DOMAIN_ORDER = (
    "cursor", "select", "cursors", "edit", "line", "comment", "history", "search", "go", "bookmark", "fold", "files", "tabs",
    "panes", "tools", "list", "windows", "view", "format", "refactor", "snippets", "problems", "program", "run", "debug", "tests",
    "versions", "terminal", "macro", "mode", "settings", "keys", "prompt", "mouse", "assistant", "notes", "app",
)  # fmt: skip

_MOST_BYTES = 4 * 1024 * 1024
_Loaded = TypeVar("_Loaded")
_TABLES: dict[str, tuple[str, dict[str, Any]]] = {}
"""What was read of the files that ship, with their stamps; nobody changes it."""
_MADE: dict[str, tuple[tuple[object, ...], Any]] = {}
"""What was made last of such tables, by its kind."""


class Shipped:
    """Loads what ships with Ombix when it is first asked for, and keeps it. `seen` has the files that it has read."""

    def __init__(self, read: "Callable[[Path], dict[str, Any]] | None" = None, seen: SeenFiles | None = None) -> None:
        self.seen = SeenFiles() if seen is None else seen
        self.read = read or read_table
        """Reads a TOML file."""
        self._known: dict[tuple[str, ...], Any] = {}
        self._more_facts: tuple[Fact, ...] = ()

    def catalogue(self) -> Catalogue:
        """The catalogue of actions, its domains in the order in which they are shown."""

        def load() -> Catalogue:
            files = sorted(_ACTIONS.glob("*.toml"), key=lambda path: (_order(path.stem), path.stem))
            tables = [self._table(path) for path in files]
            return made_once(
                "catalogue", tables,
                lambda: build_catalogue((path.stem, table) for path, table in zip(files, tables, strict=True)),
            )  # fmt: skip

        return self._once(("catalogue",), load)

    def search_index(self) -> "SearchIndex":
        """What questions for actions of the catalogue are answered from."""
        from ombix.core.catalogue.search_index import search_index

        parts = (self.catalogue(), self.synonyms())
        return made_once("search index", parts, lambda: search_index(parts[0].actions.values(), parts[1]))

    def found_in(self) -> list[str]:
        """The files that actions are found by, and the folder that more of them may come into."""
        return [str(path) for path in (_ACTIONS, *sorted(_ACTIONS.glob("*.toml")), _SYNONYMS)]

    def examples(self, domain: str) -> dict[str, Any]:
        """The table of worked examples of a domain's actions; empty where there are none."""
        path = DATA / "examples" / f"{domain}.toml"
        return self._table(path) if path.is_file() else {}

    def synonyms(self) -> list[list[str]]:
        """Groups of words that mean nearly the same to people who look for an action."""
        return self._once(("synonyms",), lambda: self._table(_SYNONYMS)["alike"])

    def facts(self) -> Facts:
        """The facts that conditions may speak of."""
        return self._once(("facts",), lambda: facts_of(self._table(DATA / "facts.toml")).extended(self._more_facts, []))

    def add_facts(self, facts: Iterable[Fact]) -> None:
        """Facts of a workspace, for all that is read from here on. Raises ValueError where one is there already."""
        more = tuple(fact for fact in facts if fact not in self._more_facts)
        if more:
            self._more_facts += more
            self._known.pop(("facts",), None)

    def platform_names(self) -> list[str]:
        """The names of the platforms."""
        return _names("platforms")

    def platform(self, name: str) -> Platform:
        """The platform `name`. Raises InputError."""

        def load() -> Platform:
            _check("platform", name, self.platform_names())
            return build_platform(name, self.platform_table(name))

        return self._once(("platform", name), load)

    def platform_table(self, name: str) -> dict[str, Any]:
        """The table of a platform's data file."""
        return self._table(DATA / "platforms" / f"{name}.toml")

    def platforms(self) -> list[Platform]:
        """All platforms."""
        return [self.platform(name) for name in self.platform_names()]

    def terminal_names(self) -> list[str]:
        """The names of the terminals."""
        return _names("terminals")

    def terminal(self, name: str) -> Terminal:
        """The terminal `name`. Raises InputError."""

        def load() -> Terminal:
            _check("terminal", name, self.terminal_names())
            tables = list(self._terminal_tables(name))

            def make() -> Terminal:
                return build_terminal(name, {key: value for table in reversed(tables) for key, value in table.items()})

            return made_once(f"terminal {name}", tables, make)

        return self._once(("terminal", name), load)

    def _terminal_tables(self, name: str) -> Iterator[dict[str, Any]]:
        """The table of a terminal, and those of the terminals that it is like, the farthest last."""
        table = self._table(DATA / "terminals" / f"{name}.toml")
        yield table
        if "like" in table:
            yield from self._terminal_tables(table["like"])

    def desktops(self) -> tuple[Desktop, ...]:
        """All systems and desktops that keep chords for themselves."""

        def load() -> tuple[Desktop, ...]:
            return tuple(Desktop(name, self._table(DATA / "desktops" / f"{name}.toml")) for name in _names("desktops"))

        return self._once(("desktops",), load)

    def desktop_names(self) -> list[str]:
        """The names of the desktops that a user may have or not."""
        return [desktop.name for desktop in self.desktops() if not desktop.always]

    def layout_names(self) -> list[str]:
        """The names of the layouts."""
        return _names("layouts")

    def layout(self, name: str) -> Layout:
        """A layout, as X11 has it. Raises InputError."""

        def load() -> Layout:
            _check("layout", name, self.layout_names())
            table = self._table(DATA / "layouts" / f"{name}.toml")
            is_variant = name.endswith("-mac")
            printed = {} if is_variant else self._table(DATA / "legends.toml").get(name.partition("-")[0], {})
            keys = {place_of(key): tuple(levels) for key, levels in table["keys"].items()}
            return Layout(name, table["title"], keys, table["altgr"], table["shape"], table["source"], printed)

        return self._once(("layout", name), load)

    def layout_on(self, name: str, platform: Platform) -> Layout:
        """A layout as a platform has it: its variant for that platform, where there is one, and else with the platform's
        own third level, as far as that is known. Raises InputError."""
        variant = f"{name}-{platform.layout_variant}"
        if platform.layout_variant and variant in self.layout_names():
            return self.layout(variant)
        found = self.layout(name)
        if not platform.has_own_third_levels or name.endswith(f"-{platform.layout_variant or '-'}"):
            return found

        def load() -> Layout:
            path = DATA / "third-levels" / f"{platform.name}.toml"
            known = self._table(path) if path.is_file() else {}
            levels = known.get("like", {}).get(name, name)
            table = known.get("keys", {}).get(levels)
            return found.with_third_level(table and {place_of(key): _pair(value) for key, value in table.items()})

        return self._once(("layout", name, platform.name), load)

    def keyboard_names(self) -> list[str]:
        """The names of the keyboards."""
        return _names("keyboards")

    def keyboard(self, name: str, shape: str) -> Keyboard:
        """A keyboard in the shape of a layout. Raises InputError."""

        def load() -> Keyboard:
            _check("keyboard", name, self.keyboard_names())
            table, shapes = self._table(DATA / "keyboards" / f"{name}.toml"), self._table(DATA / "shapes.toml")
            return build_keyboard(name, table, shapes, shape)

        return self._once(("keyboard", name, shape), load)

    def keystroke_model(self) -> "KeystrokeModel":
        """How long it takes to start something."""

        def load() -> "KeystrokeModel":
            from ombix.core.usage.keystroke_model import keystroke_model

            return keystroke_model(self._table(DATA / "keystroke-model.toml"))

        return self._once(("keystroke-model",), load)

    def effort(self) -> "EffortModel":
        """What pressing keys costs."""

        def load() -> "EffortModel":
            from ombix.core.pressing.effort import effort_model

            return effort_model(self._table(DATA / "effort.toml"))

        return self._once(("effort",), load)

    def languages(self) -> "dict[str, Language]":
        """The languages that more is known of than their names, by these."""

        def load() -> "dict[str, Language]":
            from ombix.core.snippets.surroundings import Enclosing, Language

            table = self._table(DATA / "languages.toml")
            return {
                name: Language(name, tuple(row["endings"]), Enclosing(row.get("function", ()), row.get("type", ())))
                for name, row in table.items()
            }

        return self._once(("languages",), load)

    def families(self) -> "tuple[Family, ...]":
        """The kinds of work as pictures tell them apart."""

        def load() -> "tuple[Family, ...]":
            from ombix.core.catalogue.kinds_of_work import families

            return families(self._table(DATA / "families.toml"))

        return self._once(("families",), load)

    def comes_first(self) -> "tuple[ComesFirst, ...]":
        """What has to be done so that actions have something to do, one way after the other."""

        def load() -> "tuple[ComesFirst, ...]":
            from ombix.core.decoding import shaped
            from ombix.core.preparation import ComesFirst

            return shaped(self._table(DATA / "comes-first.toml")["ways"], tuple[ComesFirst, ...])

        return self._once(("comes first",), load)

    def keysyms(self) -> dict[str, str]:
        """X11 keysym name to its character."""
        return self._once(
            ("keysyms",),
            lambda: {name: str(text) for name, text in self._table(DATA / "keysyms.toml").items()},
        )

    def _once(self, key: tuple[str, ...], load: Callable[[], _Loaded]) -> _Loaded:
        found: _Loaded
        if key in self._known:
            found = self._known[key]
        else:
            found = self._known[key] = load()
        return found

    def _table(self, path: Path) -> dict[str, Any]:
        self.seen.note(str(path))
        return self.read(path)


def read_table(path: Path) -> dict[str, Any]:
    """The table of a TOML file, the same one again while a file that ships does not change. Raises OSError, UnicodeDecodeError, or
    what the TOML reader raises."""
    import tomli

    now = stamp(str(path))
    table = table_in_memory(path, now)
    return keep_in_memory(path, now, tomli.loads(bounded_text(path))) if table is None else table


def table_in_memory(path: Path, now: str) -> dict[str, Any] | None:
    """What was read of a file that ships, where its stamp is still the same."""
    known = _TABLES.get(str(path))
    return known[1] if known is not None and known[0] == now else None


def keep_in_memory(path: Path, now: str, table: dict[str, Any]) -> dict[str, Any]:
    """Keep a table with the stamp of its file, where that ships; the table."""
    if path.is_relative_to(DATA.parent):
        _TABLES[str(path)] = now, table
    return table


def made_once(kind: str, parts: Sequence[object], make: Callable[[], _Loaded]) -> _Loaded:
    """What is made of parts, and not changed by anyone: the same one again for the same parts, of the last ones."""
    known = _MADE.get(kind)
    if known is not None and len(known[0]) == len(parts) and all(map(is_, known[0], parts)):
        return known[1]  # type: ignore[no-any-return]
    made = make()
    _MADE[kind] = tuple(parts), made
    return made


def bounded_text(path: Path) -> str:
    """The text of a file of tables. Raises ValueError for one that is too large to be one, OSError and UnicodeDecodeError."""
    size = path.stat().st_size
    if size > _MOST_BYTES:
        raise ValueError(f"it has {size / 1e6:.0f} MB; at most {_MOST_BYTES // 1024 // 1024} MB are read")
    return path.read_text("utf-8")


def _pair(value: str | list[str]) -> tuple[str, ...]:
    return (value,) if isinstance(value, str) else tuple(value)


def _names(folder: str) -> list[str]:
    return sorted(path.stem for path in (DATA / folder).glob("*.toml"))


def _check(kind: str, name: str, known: list[str]) -> None:
    if name not in known:
        titled = [
            each for each in known if kind == "layout" and name.lower() in _title(DATA / "layouts" / f"{each}.toml")
        ]
        meant = f"Say {' or '.join(sorted(titled, key=len)[:3])}." if titled else did_you_mean(name, known)
        raise InputError(f"unknown {kind}: {name}", meant or f"Known are {', '.join(known)}.")


def _title(file: Path) -> str:
    return str(read_table(file).get("title", "")).lower()


def _order(domain: str) -> int:
    return _DOMAIN_ORDER.index(domain) if domain in _DOMAIN_ORDER else len(_DOMAIN_ORDER)
