"""The table of comparisons that ships: what was found for commands under their usual settings is not found again."""

import gzip
import hashlib
import json
from functools import lru_cache
from pathlib import Path
from typing import Any

from ombix.core.porting.everyday import EverydayDifference, EverydayExample
from ombix.data.shipped import DATA
from ombix.editors.everyday_models import everyday_models
from ombix.text.effects.compared_states import StartState
from ombix.text.effects.everyday_comparison import FEWER_DRAWS, everyday_difference
from ombix.text.effects.execution import CommandRun, EditorConventions
from ombix.text.effects.program_comparison import Comparison, Seen, compare

FILE = DATA / "verdicts.json.gz"
Row = list[Any]
_EVERYDAY = 8
"""Where in a row the everyday difference stands."""


def compared(one: CommandRun, other: CommandRun) -> Comparison:
    """How two sides compare: out of the table, or else on the spot."""
    if one == other or (one.programs == other.programs and one.is_sure_without_a_text and other.is_sure_without_a_text):
        return Comparison(True)
    row = _table(FILE).get(key_of(one, other))
    return _comparison(row) if row is not None else compare(one, other)


@lru_cache(maxsize=4096)
def counted(one: CommandRun, other: CommandRun) -> EverydayDifference | None:
    """How two sides that are not the same differ in everyday use: out of the table, or else on the spot; None where they do not."""
    row = _table(FILE).get(key_of(one, other))
    if row is not None and len(row) > _EVERYDAY:
        return _everyday(row[_EVERYDAY])
    return everyday_difference(one, other, everyday_models(), FEWER_DRAWS)


@lru_cache(maxsize=4096)
def key_of(one: CommandRun, other: CommandRun) -> str:
    """What a comparison is found by: a digest of all that is compared."""
    said = json.dumps([described(one), described(other)], sort_keys=True)
    return hashlib.blake2b(said.encode(), digest_size=9).hexdigest()


def described(side: CommandRun) -> list[Any]:
    """All of a side that tells it from others, as JSON has it."""
    return [
        [program.text for program in side.programs],
        list(side.unsure),
        _manner(side.manner),
        [*map(_manner, side.manners)],
    ]


@lru_cache(maxsize=256)
def _manner(manner: EditorConventions) -> list[Any]:
    settings = {name: getattr(manner.settings, name) for name in manner.settings.__struct_fields__}
    fit = manner.fit.text if manner.fit is not None else ""
    return [{**settings, "unknown": sorted(manner.settings.unknown)}, fit, *manner[2:]]


@lru_cache(maxsize=4)
def _table(file: Path) -> dict[str, Row]:
    try:
        found: dict[str, Row] = json.loads(gzip.decompress(file.read_bytes()))
    except OSError:
        return {}
    return found


def as_row(found: Comparison) -> Row:
    """A comparison as it stands in the table."""
    return [
        found.is_equal, found.when, found.what, list(found.start) if found.start is not None else None,
        list(found.one) if found.one is not None else None, list(found.other) if found.other is not None else None,
        found.loses, found.is_sure,
    ]  # fmt: skip


def as_everyday_row(found: EverydayDifference | None) -> Row | None:
    """An everyday difference as it stands in the table, behind its comparison."""
    if found is None:
        return None
    return [
        round(found.share, 4), round(found.low, 4), round(found.high, 4), found.kind,
        [[kind, round(share, 4)] for kind, share in found.shares], round(found.unknown, 4), found.model, found.said,
        [*map(list, found.example)] if found.example is not None else None, round(found.at_once, 4),
    ]  # fmt: skip


def _everyday(row: Row | None) -> EverydayDifference | None:
    if row is None:
        return None
    share, low, high, kind, shares, unknown, model, said, example, at_once = row
    return EverydayDifference(
        share, low, high, kind, tuple((name, each) for name, each in shares), unknown, model, said,
        EverydayExample(*map(tuple, example)) if example is not None else None, at_once,
    )  # fmt: skip


def _comparison(row: Row) -> Comparison:
    is_equal, when, what, start, one, other, loses, is_sure = row[:_EVERYDAY]
    return Comparison(
        is_equal,
        when,
        what,
        StartState(*start) if start is not None else None,
        _seen(one),
        _seen(other),
        loses,
        is_sure,
    )


def _seen(row: Row | None) -> Seen | None:
    if row is None:
        return None
    text, cursor, selected, kept, marks, gives_way, facts = row
    return Seen(text, cursor, tuple(selected) if selected is not None else None, kept, marks, gives_way, tuple(facts))
