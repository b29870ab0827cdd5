"""The merged text: ours, with what theirs changed put where it stands there."""

from collections import Counter
from collections.abc import Mapping, Sequence
from typing import Any

from ombix.files import keymap_entries, toml_pieces, toml_values
from ombix.files.merging.file_units import ABSENT, ROWS, Unit, depth_of, meaning, rows_of
from ombix.files.merging.text_pieces import Piece, text_of


class Assembly:
    """Puts a text together of the pieces of three."""

    def __init__(self, base: Sequence[Piece], ours: Sequence[Piece], theirs: Sequence[Piece]) -> None:
        self._base = _by_unit(base)
        self._theirs = _by_unit(theirs)
        self._their_order = list(theirs)
        self._base_order = list(base)
        self._result = [piece.copy() for piece in ours]
        self._ours = _by_unit(self._result)

    def made(self, wanted: Mapping[Unit, Any], ours: Mapping[Unit, Any], theirs: Mapping[Unit, Any], end: str) -> str:
        """The text that has the wanted value of each unit, with the line ends `end`."""
        for unit in list(ours):
            if unit not in wanted:
                self._take_out(unit)
        later: list[Unit] = []
        for unit, value in wanted.items():
            if unit not in ours:
                later.append(unit)
            elif meaning(unit, value) != meaning(unit, ours[unit]):
                self._change(unit, value, ours[unit], theirs.get(unit, ABSENT))
        self._remarks()
        self._add([unit for unit in theirs if unit in later], wanted, theirs)
        self._add_made([unit for unit in later if unit not in theirs], wanted)
        self._clear_headings()
        self._comments()
        return text_of(self._result, end)

    # --- what goes

    def _take_out(self, unit: Unit) -> None:
        before = {line for piece in self._base.get(unit, ()) for line in piece.above}
        for piece in self._ours.get(unit, ()):
            index = _index(self._result, piece)
            self._result[index : index + 1] = _remark([line for line in piece.above if line not in before], piece)

    def _clear_headings(self) -> None:
        """Take out headings that nothing stands under any more, and that theirs has not, or only as empty."""
        used = Counter(piece.table for piece in self._result if piece.kind != "heading")
        kept = {piece.path for piece in self._their_order if piece.kind == "heading"}
        filled = {piece.table for piece in self._their_order if piece.kind == "statement"}
        known = {piece.path for piece in self._base_order if piece.kind == "heading"}
        old = {piece.name: piece.above for piece in self._base_order if piece.kind == "heading"}
        result: list[Piece] = []
        for piece in self._result:
            is_plain = piece.kind == "heading" and not piece.unit and not used[piece.path]
            if is_plain and piece.path in known and (piece.path not in kept or piece.path not in filled):
                result += _remark([line for line in piece.above if line not in old.get(piece.name, ())], piece)
            else:
                result.append(piece)
        self._result = result

    # --- what stays or changes

    def _remarks(self) -> None:
        """Have the comments of both beside and above what both have."""
        other = {piece.name: piece for piece in self._their_order if piece.kind != "comment"}
        before = {piece.name: piece for piece in self._base_order if piece.kind != "comment"}
        for index, piece in enumerate(self._result):
            their_piece, old = other.get(piece.name), before.get(piece.name)
            if piece.kind == "comment" or their_piece is None:
                continue
            if piece.kind == "statement":
                self._result[index] = self._with_comments(piece, their_piece, old)
            else:
                piece.above = _comment_lines(old.above if old is not None else [], piece.above, their_piece.above)
                if old is not None and piece.lines == old.lines:
                    piece.lines = list(their_piece.lines)

    def _with_comments(self, mine: Piece, other: Piece, before: Piece | None) -> Piece:
        """Our piece with the comments of both: those above it, and the one behind it."""
        old = before.behind if before is not None else ""
        behind = _three_way(old.strip(), mine.behind.strip(), other.behind.strip())
        if behind is None:  # both wrote one
            behind = "; ".join(
                [mine.behind.strip(), *([other.behind.strip().lstrip("# ")] if other.behind.strip() else [])]
            )
        if behind == mine.behind.strip():
            text = mine.behind
        else:
            gap = (
                mine.behind[: len(mine.behind) - len(mine.behind.lstrip())]
                or other.behind[: len(other.behind) - len(other.behind.lstrip())]
            )
            text = f"{gap or '  '}{behind}" if behind else ""
        found = mine.with_value(mine.value_text, text)
        found.above = _comment_lines(before.above if before is not None else [], mine.above, other.above)
        return found

    def _change(self, unit: Unit, value: Any, ours: Any, theirs: Any) -> None:
        """Give a unit of ours another value."""
        mine, other = self._ours[unit], self._theirs.get(unit, [])
        is_theirs = theirs is not ABSENT and meaning(unit, value) == meaning(unit, theirs)
        if len(mine) == 1 and mine[0].kind == "statement":
            if is_theirs and len(other) == 1 and other[0].kind == "statement":
                text = other[0].value_text
            else:
                text = _value_text(unit, value, ours, mine[0].value_text)
            self._result[_index(self._result, mine[0])] = mine[0].with_value(text)
            return
        if (
            isinstance(value, dict)
            and isinstance(ours, dict)
            and all(len(one.path) <= len(unit) + 1 for one in (*mine, *other))
        ):
            self._change_fields(unit, value, ours)
            return
        if is_theirs and other and {piece.kind for piece in other} == {piece.kind for piece in mine}:
            index = _index(self._result, mine[0])
            self._result = [piece for piece in self._result if not any(piece is one for one in mine)]
            self._result[index:index] = [piece.copy() for piece in other]
            return
        self._take_out(unit)
        self._add_made([unit], {unit: value})

    def _change_fields(self, unit: Unit, value: Any, ours: Any) -> None:
        """Change the fields of a unit that stand in statements of their own."""
        mine = {piece.path[len(unit) :]: piece for piece in self._ours[unit] if piece.kind == "statement"}
        other = {piece.path[len(unit) :]: piece for piece in self._theirs.get(unit, ()) if piece.kind == "statement"}
        last = self._ours[unit][-1]
        for key in dict.fromkeys([*ours, *value]):
            if value.get(key, ABSENT) == ours.get(key, ABSENT):
                continue
            piece = mine.get((key,))
            if key not in value:
                self._result = [
                    one for one in self._result if not (one.unit == unit and one.path[len(unit) :][:1] == (key,))
                ]
            elif piece is not None:
                text = other[key,].value_text if (key,) in other else toml_pieces.field_text(value[key])
                self._result[_index(self._result, piece)] = piece.with_value(text)
            else:
                line = f"{toml_pieces.key_text(key)} = {toml_pieces.field_text(value[key])}"
                new = (
                    other[key,].copy()
                    if (key,) in other
                    else Piece("statement", unit, (*unit, key), last.table, 0, [], [line])
                )
                new.table = last.table
                self._result.insert(self._end_of(last.table), new)

    # --- what comes

    def _add(self, added: Sequence[Unit], wanted: Mapping[Unit, Any], theirs: Mapping[Unit, Any]) -> None:
        """Put in what only theirs has, where it stands there."""
        new = set(added)
        done: set[Unit] = set()
        for index, piece in enumerate(self._their_order):
            if piece.unit not in new or piece.unit in done:
                continue
            if meaning(piece.unit, wanted[piece.unit]) != meaning(piece.unit, theirs[piece.unit]):
                done.add(piece.unit)
                self._add_made([piece.unit], wanted)
            elif piece.kind == "heading":
                done.add(piece.unit)
                block = [one.copy() for one in self._theirs[piece.unit]]
                at = self._after_section(index)
                block[0].blanks = max(1, block[0].blanks)
                self._result[at:at] = block
                if at + len(block) < len(self._result):
                    self._result[at + len(block)].blanks = max(1, self._result[at + len(block)].blanks)
            else:
                self._add_statement(piece, index)

    def _add_statement(self, piece: Piece, index: int) -> None:
        new = piece.copy()
        table = self._table_for(piece)
        if table != piece.table:
            self._place_made(new, table)
            return
        if table and not any(one.kind == "heading" and one.path == table for one in self._result):
            head = next(one for one in self._their_order if one.kind == "heading" and one.path == table).copy()
            at = self._after_section(
                next(n for n, one in enumerate(self._their_order) if one.kind == "heading" and one.path == table)
            )
            head.blanks = max(1, head.blanks)
            self._result[at:at] = [head, new]
            if at + 2 < len(self._result):
                self._result[at + 2].blanks = max(1, self._result[at + 2].blanks)
            return
        at = self._after_neighbour(index, table)
        is_first = at == 0 or self._result[at - 1].kind == "heading"
        new.blanks = 0 if is_first and at else new.blanks
        self._result.insert(at, new)

    def _place_made(self, new: Piece, table: Unit) -> None:
        """Put a statement of theirs into another table than it stands in there."""
        rest = new.path[len(table) :]
        text, behind = new.value_text, new.behind
        name = ".".join(toml_pieces.key_text(one) for one in rest)
        line = f"{name} = {text}{behind}"
        made = Piece("statement", new.unit, new.path, table, 0, new.above, line.split("\n"))
        self._result.insert(self._end_of(table, new.path[:-1] if not table else ()), made)

    def _table_for(self, piece: Piece) -> Unit:
        """The table of ours that a statement of theirs goes to."""
        paths = {one.path for one in self._result if one.kind == "heading"}
        if piece.table in paths:
            return piece.table
        parents = [piece.path[:length] for length in range(len(piece.path) - 1, 0, -1)]
        headed = next((parent for parent in parents if parent in paths), ())
        if headed:
            return headed
        whole = piece.path[:-1]
        dotted = any(
            one.kind == "statement" and not one.table and one.path[: len(whole)] == whole for one in self._result
        )
        return () if dotted and whole else piece.table

    def _add_made(self, added: Sequence[Unit], wanted: Mapping[Unit, Any]) -> None:
        """Put in what neither side has so."""
        for unit in added:
            if unit[0] in ROWS:
                lines = [
                    f"[[{unit[0]}]]",
                    *(f"{toml_pieces.key_text(k)} = {toml_pieces.field_text(v)}" for k, v in wanted[unit].items()),
                ]
                self._result.append(Piece("heading", unit, (unit[0], "0"), unit, 1, [], lines))
                continue
            other = next((one for one in self._theirs.get(unit, ()) if one.kind == "statement"), None)
            path = other.path[: depth_of(unit[0])] if other is not None else unit
            line = f"{toml_pieces.key_text(path[-1])} = {_plain_text(unit, wanted[unit])}"
            made = Piece("statement", unit, path, path[:-1], 0, other.above if other is not None else [], [line])
            made.start, made.end = (0, line.index(" = ") + 3), (0, len(line))
            table = self._table_for(made)
            if table == path[:-1] and (
                not table or any(one.kind == "heading" and one.path == table for one in self._result)
            ):
                self._result.insert(self._end_of(table), made)
            elif table != path[:-1]:
                self._place_made(made, table)
            else:
                head = Piece(
                    "heading", (), table, table, 1, [], [f"[{'.'.join(toml_pieces.key_text(one) for one in table)}]"]
                )
                self._result += [head, made]

    # --- places

    def _end_of(self, table: Unit, beside: Unit = ()) -> int:
        """The index behind the last statement of a table, or of those beside which a dotted one goes."""
        found = 0
        for index, piece in enumerate(self._result):
            if piece.table == table and piece.kind != "comment" and (not beside or piece.path[: len(beside)] == beside):
                found = index + 1
        return found or (self._end_of(table) if beside else 0)

    def _after_neighbour(self, index: int, table: Unit) -> int:
        """The index behind the nearest piece that stands before one of theirs in its table."""
        names = {piece.name: number for number, piece in enumerate(self._result) if piece.table == table}
        for piece in reversed(self._their_order[:index]):
            if piece.table != table:
                break
            if piece.name in names:
                return names[piece.name] + 1
        for piece in self._their_order[index + 1 :]:
            if piece.table != table:
                break
            if piece.name in names:
                return names[piece.name]
        return self._end_of(table)

    def _after_section(self, index: int) -> int:
        """The index behind the nearest section that stands before a heading of theirs, or before the one that stands behind it."""
        ends: dict[tuple[Any, ...], int] = {}
        heads: dict[tuple[Any, ...], int] = {}
        name: tuple[Any, ...] = ()
        for number, piece in enumerate(self._result):
            if piece.kind == "heading":
                name = piece.name
                heads[name] = number
            if piece.kind != "comment" or piece.blanks == 0:
                ends[name] = number + 1
        for piece in reversed(self._their_order[:index]):
            if piece.kind == "heading" and piece.name in ends:
                return ends[piece.name]
        for piece in self._their_order[index + 1 :]:
            if piece.kind == "heading" and piece.name in heads:
                return heads[piece.name]
        return len(self._result)

    # --- comments that stand by themselves

    def _comments(self) -> None:
        before = Counter(piece.name for piece in self._base_order if piece.kind == "comment")
        here = Counter(piece.name for piece in self._result if piece.kind == "comment")
        there = Counter(piece.name for piece in self._their_order if piece.kind == "comment")
        for index in reversed(range(len(self._result))):
            name = self._result[index].name
            if name in before and there[name] < before[name] and here[name] >= before[name]:
                here[name] -= 1
                del self._result[index]
        attached = {line for piece in self._result if piece.kind != "comment" for line in piece.above}
        known = {piece.name for piece in self._result}
        old = {line for piece in self._base_order for line in piece.above}
        for index, each in enumerate(self._their_order):
            piece = each
            if (
                each.kind != "comment"
                and each.name not in known
                and (lines := [one for one in each.above if one not in old])
            ):
                piece = _remark(lines, each)[0]
                there[piece.name] += 1
            is_new = piece.kind == "comment" and piece.name not in before and here[piece.name] < there[piece.name]
            if not is_new or attached.issuperset(piece.lines):
                continue
            here[piece.name] += 1
            at = 0
            for one in reversed(self._their_order[:index]):
                if one.name in known:
                    at = next(number for number, each in enumerate(self._result) if each.name == one.name) + 1
                    break
            new = piece.copy()
            new.table = self._result[at - 1].table if at else ()
            if at < len(self._result) and not self._result[at].blanks:
                self._result[at].blanks = 1
            self._result.insert(at, new)
            known.add(new.name)


def _remark(lines: list[str], piece: Piece) -> list[Piece]:
    """Comments that stood above a piece that goes, by themselves."""
    return [Piece("comment", table=piece.table, blanks=piece.blanks, lines=lines)] if lines else []


def _by_unit(found: Sequence[Piece]) -> dict[Unit, list[Piece]]:
    units: dict[Unit, list[Piece]] = {}
    for piece in found:
        if piece.unit:
            units.setdefault(piece.unit, []).append(piece)
    return units


def _index(found: Sequence[Piece], piece: Piece) -> int:
    return next(index for index, one in enumerate(found) if one is piece)


def _three_way(base: str, ours: str, theirs: str) -> str | None:
    """The text that was changed; None where both changed it, each otherwise."""
    if theirs in (base, ours):
        return ours
    return theirs if ours == base else None


def _comment_lines(base: list[str], ours: list[str], theirs: list[str]) -> list[str]:
    if theirs in (base, ours):
        return ours
    if ours == base:
        return list(theirs)
    return [*ours, *(line for line in theirs if line not in ours and line not in base)]


# --- texts of values


def _value_text(unit: Unit, value: Any, ours: Any, text: str) -> str:
    """The text of a value that neither side has, made of ours so that its rows and comments stay as they are."""
    if unit[0] not in ("bind", "only") or len(unit) != 3:
        if isinstance(value, list) and isinstance(ours, list) and text.startswith("["):
            for index in reversed(range(len(ours))):
                if ours[index] not in value:
                    text = toml_values.without_part(text, index)
            for one in value:
                if one not in ours:
                    text = toml_values.with_one_more(text, toml_pieces.field_text(one))
            return text
        return _plain_text(unit, value)
    wanted, known = rows_of(value), rows_of(ours)
    if not text.startswith("["):
        first, *more = [_row_text(row) for row in wanted]
        text = text if wanted[0] == known[0] else first
        for another in more:
            text = keymap_entries.with_row(text, another)
        return text
    kept = min(len(wanted), len(known))
    mine = [row for row in known if row in wanted]
    if len(mine) == len(known):  # only new ones
        for row in wanted:
            if row not in known:
                text = keymap_entries.with_row(text, _row_text(row))
        return text
    for index in range(kept):
        if wanted[index] != known[index]:
            text = toml_values.with_part(text, index, _row_text(wanted[index]))
    for index in reversed(range(kept, len(known))):
        text = toml_values.without_part(text, index)
    for row in wanted[kept:]:
        text = keymap_entries.with_row(text, _row_text(row))
    return text


def _row_text(row: Mapping[str, Any]) -> str:
    keys = row["press"] if list(row) == ["press"] else None
    return toml_pieces.field_text(keys if isinstance(keys, str) else dict(row))


def _plain_text(unit: Unit, value: Any) -> str:
    if unit[0] in ("bind", "only") and len(unit) == 3:
        rows = [_row_text(row) for row in rows_of(value)]
        return rows[0] if len(rows) == 1 else f"[{', '.join(rows)}]"
    return toml_pieces.field_text(value)
