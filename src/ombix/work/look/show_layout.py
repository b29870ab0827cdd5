"""How what is bound is laid out: `show`."""

from ombix.report.blocks import Blank, Block, Cell, Grid, Groups, Title, line
from ombix.report.terminal_text import Display
from ombix.work.look.show_answer import EditorListing, ListedBinding, Listing, PlatformListing, UnboundActions
from ombix.workspace.condition_words import in_words
from ombix.workspace.what_answer import NotInEditor


def listing(found: Listing, display: Display) -> list[Block]:
    """The bindings in force, in groups."""
    groups: dict[str, list[tuple[Cell | str, ...]]] = {}
    for binding in found.bindings:
        groups.setdefault(binding.group, []).append(_row(binding, found, display))
    blocks: list[Block] = [line(found.about)] if found.about else []
    blocks.append(Groups(list(groups.items())))
    if found.gone:
        rows: list[tuple[Cell | str, ...]] = [
            (
                Cell(one.keys, "key"), one.does, Cell(f"{display.place(one.place)}", "quiet"),
                f"now {one.by_keys}" if one.by_keys else f"taken away{': ' if one.why else ''}{one.why}",
                Cell(display.place(one.by_place) if one.by_place is not None else one.by_layer, "quiet"),
            )
            for one in found.gone
        ]  # fmt: skip
        blocks += [Blank(), Title("No longer so"), Grid(rows, indent=2)]
    if found.not_here:
        rows = [
            (Cell(one.shown, "key"), one.title, Cell(display.place(one.place), "quiet"), instead_of(one))
            for one in found.not_here
        ]
        blocks += [Blank(), Title(f"Not in {found.editor}"), Grid(rows, indent=2)]
    return blocks


def instead_of(one: NotInEditor) -> str:
    """Where a binding is that an editor cannot have on its keys, or what comes nearest, or why it is nowhere."""
    if one.moved:
        return f"on {' and '.join(one.moved)} there"
    if one.nearest is not None:
        keys = f" on {', '.join(one.nearest.keys)}" if one.nearest.keys else ""
        return f"nearest: {one.nearest.title}{keys}"
    return one.why


def _row(one: ListedBinding, found: Listing, display: Display) -> tuple[Cell | str, ...]:
    what = one.title
    when = "" if one.is_alone and one.when in ("always", "pane is text") else in_words(one.when)
    shown = one.shown
    if one.presses and not one.presses[0].plain:
        press = one.presses[0].press
        shown += f" ({press})" if press else " (no such key)"
    cells: list[Cell | str] = [Cell(shown, "key"), Cell(what, "quiet" if one.is_default else ""), Cell(when, "quiet")]
    if found.editor:
        cells.append(Cell("default" if one.is_default else display.place(one.place), "quiet"))
    return tuple(cells)


def platform_listing(found: PlatformListing, display: Display) -> list[Block]:
    """What is bound on all platforms, side by side."""
    rows: list[tuple[Cell | str, ...]] = [
        (
            row.title, *(Cell(row.shown[name] or "no keys", "key") for name in found.platforms),
            Cell("" if row.when in ("always", "pane is text") else in_words(row.when), "quiet"),
        )
        for row in found.bindings
    ]  # fmt: skip
    return [Grid(rows, ("what it does", *found.platforms.values(), "when"))]


def editor_listing(found: EditorListing, display: Display) -> list[Block]:
    """What the keymap binds, beside what each editor would obey."""
    rows: list[tuple[Cell | str, ...]] = [
        (
            row.title, *(
                Cell(", ".join(keys), "key") if (keys := row.shown[name]) else Cell("not there", "warn")
                for name in ("", *found.editors)
            ),
        )
        for row in found.bindings
    ]  # fmt: skip
    return [Grid(rows, ("what it does", "the keymap", *found.editors))]


def unbound_actions(found: UnboundActions, display: Display) -> list[Block]:
    """The actions that have no keys."""
    return [Grid([(Cell(one.action, "strong"), one.title) for one in found.unbound])]
