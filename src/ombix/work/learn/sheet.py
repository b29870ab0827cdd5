"""Sheets: what is bound, by work, by key or by state, for several editors, platforms and layouts side by side."""

from collections.abc import Callable, Iterable, Sequence
from itertools import product
from typing import Literal, NamedTuple, get_args

from msgspec import Struct

from ombix.core.errors import InputError, Place, did_you_mean
from ombix.core.keymap.bindings import Keymap
from ombix.core.keys.notation import parse, write
from ombix.work.learn.sheet_answer import Sheet, SheetChange, SheetGroup, SheetKeys, SheetRow
from ombix.work.look.show import listing
from ombix.work.look.show_answer import ListedBinding
from ombix.workspace.effective_keymap import EffectiveKeymap

SheetOrder = Literal["work", "key", "state"]
ORDERS: tuple[SheetOrder, ...] = get_args(SheetOrder)
EVERYWHERE = "always"
PLAIN_STATES = (EVERYWHERE, "pane is text")
"""Conditions that nobody needs to read."""


class SheetOptions(Struct, frozen=True):
    """What a sheet is to have: the order, only what is one's own, or differs from the editor's defaults, the state, the names
    that alone are wanted with the place of each, and a title."""

    by: str = "work"
    own: bool = False
    differing: bool = False
    within: str = ""
    only: tuple[tuple[str, Place], ...] = ()
    title: str = ""


class _Column(NamedTuple):
    """One of the things that stand side by side."""

    title: str
    here: EffectiveKeymap
    rows: list[ListedBinding]


_Key = tuple[str, str]
"""What a row is known by: what is done, and in which states."""
_Change = tuple[SheetChange, tuple[str, ...]]
"""What became of a row, and the keys that it had."""


KeymapOf = Callable[[str, str, str], EffectiveKeymap]
"""The keymap in an editor, on a platform, on a layout; each may be empty."""


def sheet(
    keymaps: Sequence[tuple[str, KeymapOf]], options: SheetOptions, editors: Sequence[str] = (), platforms: Sequence[str] = (),
    layouts: Sequence[str] = (), before: KeymapOf | None = None,
) -> Sheet:  # fmt: skip
    """A sheet of a keymap on each of these machines, by their names; `before` is what it is compared with: then only what differs
    from that is on it.

    Raises InputError for an order or a name that is not known, and for a comparison of several columns.
    """
    if options.by not in ORDERS:
        raise InputError(
            f"unknown order: {options.by}", did_you_mean(options.by, ORDERS) or f"Orders are {', '.join(ORDERS)}."
        )
    asked = list(product(editors or [""], platforms or [""], layouts or [""]))
    columns = [
        _on_machine(name, _column(keymap, editor, on, layout, options, asked), len(asked) > 1) if len(keymaps) > 1
        else _column(keymap, editor, on, layout, options, asked)
        for name, keymap in keymaps for editor, on, layout in asked
    ]  # fmt: skip
    rows: dict[_Key, list[list[ListedBinding]]] = {}
    for number, column in enumerate(columns):
        for row in column.rows:
            found = rows.setdefault((row.does, row.when), [[] for _ in columns])
            found[number].append(row)
    changes: dict[_Key, _Change] = {}
    if before is not None:
        if len(columns) > 1:
            raise InputError(
                "what changed is shown for one editor, platform and layout", "Name one of each at the most."
            )
        rows, changes = _changed(rows, _column(before, *asked[0], options, asked).rows)
    notes: list[str] = []
    if options.only:
        rows, notes = _chosen(rows, options.only, columns)
    groups = _groups(rows, changes, columns, options.by)
    if before is None and not options.only:
        groups += _abbreviations(columns)
    about = keymaps[0][1](*asked[0]).context.about if len(keymaps) == 1 else ""
    names = [layer.name.name for layer in columns[0].here.context.layers]
    title = options.title or f"Keys of {', '.join(names) or columns[0].title}"
    titles = tuple(column.title for column in columns)
    return Sheet(title, about or _said(options, before), options.by, titles, groups, tuple(notes))


def _on_machine(name: str, column: _Column, is_told: bool) -> _Column:
    """A column under the name of its machine."""
    return column._replace(title=f"{name}, {column.title}" if is_told else name)


def _said(options: SheetOptions, before: KeymapOf | None) -> str:
    said = ["only what is one's own"] * options.own + ["only what differs from the defaults"] * options.differing
    said += [f"when {options.within}"] * bool(options.within) + ["only what changed"] * (before is not None)
    return ", ".join(said)


def _column(
    keymap: KeymapOf, editor: str, on: str, layout: str, options: SheetOptions, asked: Sequence[tuple[str, str, str]]
) -> _Column:
    here = keymap(editor, on, layout)
    found = listing(here, "key" if options.by == "key" else "work", options.own or options.differing, options.within)
    rows = [binding for binding in found.bindings if binding.kind != "nothing"]
    if options.differing:
        usual = _defaults(here)
        rows = [row for row in rows if (row.keys, row.does) not in usual]
    names = [
        here.context.dialect.description.title if here.context.dialect is not None else "",
        here.context.platform.title,
        here.context.setups[0].layout.title if here.context.setups else "",
    ]
    differs = [len({one[axis] for one in asked}) > 1 for axis in range(3)]
    title = ", ".join(name for name, is_told in zip(names, differs, strict=True) if is_told and name)
    return _Column(title or here.context.platform.title, here, rows)


def _defaults(here: EffectiveKeymap) -> set[tuple[str, str]]:
    """The keys that the editor has by itself, with what they do."""
    dialect = here.context.dialect
    if dialect is None:
        return set()
    in_force = Keymap([dialect.default_layer]).in_force(here.context.platform)
    return {(write(binding.trigger), str(binding.outcome)) for binding in in_force.bindings}


def _changed(
    rows: dict[_Key, list[list[ListedBinding]]], before: Iterable[ListedBinding]
) -> tuple[dict[_Key, list[list[ListedBinding]]], dict[_Key, _Change]]:
    """Only the rows whose keys are others than before, and those that are no longer there."""
    old: dict[_Key, list[ListedBinding]] = {}
    for one in before:
        old.setdefault((one.does, one.when), []).append(one)
    found: dict[_Key, list[list[ListedBinding]]] = {}
    changes: dict[_Key, _Change] = {}
    for key, columns in rows.items():
        known = old.get(key, [])
        if {one.keys for one in columns[0]} != {one.keys for one in known}:
            found[key] = columns
            changes[key] = ("moved" if known else "new", tuple(one.shown for one in known))
    for key, gone in old.items():
        if key not in rows:
            found[key], changes[key] = [gone], ("gone", ())
    return found, changes


def _chosen(
    rows: dict[_Key, list[list[ListedBinding]]], only: Sequence[tuple[str, Place]], columns: Sequence[_Column]
) -> tuple[dict[_Key, list[list[ListedBinding]]], list[str]]:
    """The rows that a list names: by action, by macro or snippet, or by title, in the order of the list."""
    catalogue, keymap = columns[0].here.catalogue, columns[0].here.keymap
    known = {
        **{name: name for name in catalogue.actions},
        **{action.title.lower(): action.name for action in catalogue.actions.values()},
    }
    known |= {name: f"macro {name}" for name in keymap.macros} | {name: f"snippet {name}" for name in keymap.snippets}
    found: dict[_Key, list[list[ListedBinding]]] = {}
    notes: list[str] = []
    for asked, place in only:
        name = known.get(asked) or known.get(asked.lower())
        if name is None:
            raise InputError(
                f"there is no action {asked}", did_you_mean(asked, list(known)) or "See: ombix how WORDS", place
            )
        mine = {key: row for key, row in rows.items() if key[0] == name or key[0].startswith(f"{name}(")}
        found |= mine
        if not mine:
            notes.append(f"{name} has no keys.")
    return found, notes


def _groups(
    rows: dict[_Key, list[list[ListedBinding]]], changes: dict[_Key, _Change], columns: Sequence[_Column], by: str
) -> tuple[SheetGroup, ...]:
    groups: dict[str, list[SheetRow]] = {}
    order: dict[str, int] = {}
    for (does, when), found in rows.items():
        first = next(one for row in found for one in row)
        shown = tuple(
            tuple(dict.fromkeys(_keys(one, column.here) for one in row))
            for row, column in zip(found, columns, strict=True)
        )
        title = first.does if first.kind == "only" else first.title
        is_default = all(one.is_default for row in found for one in row)
        change, was = changes.get((does, when), ("", ()))
        row = SheetRow(does, title, "" if when in PLAIN_STATES else when, shown, is_default, change, was)
        name = {"state": _state_title(when)}.get(by, first.group)
        groups.setdefault(name, []).append(row)
        order.setdefault(name, 0 if when in PLAIN_STATES else 1)
    names = sorted(groups, key=lambda name: order[name]) if by == "state" else list(groups)
    domains = list(columns[0].here.catalogue.domains.values())
    if by == "work" and len(columns) > 1:
        names.sort(key=lambda name: domains.index(name) if name in domains else len(domains))
    return tuple(SheetGroup(name, tuple(groups[name])) for name in names)


def _abbreviations(columns: Sequence[_Column]) -> tuple[SheetGroup, ...]:
    """The words that snippets are expanded from. An editor of its own has them where they were ported to it as snippets."""
    found = columns[0].here.keymap.snippets.values()
    rows = [
        SheetRow(
            f"snippet {one.name}", one.title, "" if one.where in PLAIN_STATES else one.where,
            tuple(
                tuple(SheetKeys(word) for word in one.words) if column.here.context.editor is None else ()
                for column in columns
            ),
        )
        for one in found
        if one.words
    ]  # fmt: skip
    is_there = any(keys for row in rows for keys in row.keys)
    return (SheetGroup("Words that are expanded", tuple(rows)),) if is_there else ()


def _state_title(when: str) -> str:
    return "Everywhere" if when == EVERYWHERE else f"When {when}"


_ARROWS = {"ArrowUp": "↑", "ArrowDown": "↓", "ArrowLeft": "←", "ArrowRight": "→"}
"""What is printed on them everywhere."""


def _keys(one: ListedBinding, here: EffectiveKeymap) -> SheetKeys:
    """Keys as they are printed on the keyboard at hand. A key with a name that is another one there is told by that alone."""
    shown = _with_arrows(one.shown)
    if not one.presses:
        return SheetKeys(shown)
    press = one.presses[0]
    if press.press is None:
        return SheetKeys(shown, why_not=press.why_not or "")
    pressed = _with_arrows(press.press)
    has_sign = any(len(chord.key) == 1 for chord in parse(one.keys))
    if (press.plain or not (has_sign or "Fn+" in pressed)) and not here.context.platform.symbols:
        return SheetKeys(pressed)
    return SheetKeys(shown, "" if press.plain else pressed)


def _with_arrows(text: str) -> str:
    for name, sign in _ARROWS.items():
        text = text.replace(name, sign)
    return text
