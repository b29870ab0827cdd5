"""What is said of a merge: changes and conflicts in words, and as tables of the file."""

from typing import Any, Literal

from ombix.core.keymap.bindings import Binding
from ombix.core.keymap.outcomes import Outcome
from ombix.files import toml_pieces
from ombix.files.merging.file_merge import UnitChange
from ombix.files.merging.file_units import ABSENT, Unit
from ombix.work.versions.merge_answer import MergedChange, OpenConflict

_KINDS = {"ours": "ours", "theirs": "theirs", "both": "both sides"}


def unit_of(binding: Binding) -> Unit:
    """The entry of a binding."""
    name = str(binding.outcome)
    domain, _, verb = name.partition(".")
    return ("bind", domain, verb)


def path_of(unit: Unit) -> str:
    """The names of a unit with dots between them."""
    return ".".join(toml_pieces.key_text(name) for name in unit)


def text_of(value: Any) -> str:
    """A value as a file has it; nothing where there is none."""
    return "" if value is ABSENT else toml_pieces.field_text(value)


def entry_of(outcome: Outcome | None) -> str:
    """The entry that gives keys something to do."""
    name = str(outcome)
    return name.replace("macro ", "macro.") if name.startswith("macro ") else f"bind.{name}"


def outcome_text(value: Outcome | None) -> str:
    """What keys do; nothing where they do nothing."""
    return "" if value is None else str(value)


def change_in_words(one: UnitChange) -> MergedChange:
    """A change of an entry, as it is reported."""
    did = "added" if one.before is ABSENT else "removed" if one.after is ABSENT else "changed"
    return MergedChange(path_of(one.unit), one.side, did, text_of(one.before), text_of(one.after))  # type: ignore[arg-type]


def renamed_in_words(one: tuple[str, str, str, str]) -> str:
    """A new name, as a sentence: who gave it, to what, the old and the new one."""
    side, kind, old, new = one
    return f"{_KINDS[side]} renamed the {kind} {old} to {new}; the other side's uses follow"


def open_table(one: OpenConflict, what: Literal["at", "press"]) -> str:
    """What is open at an entry, or on keys, as a table of the file."""
    rows: list[tuple[str, str]] = [(what, one.what), ("why", one.why)]
    rows += [(side, value) for side, value in (("base", one.base), ("ours", one.ours), ("theirs", one.theirs)) if value]
    return "".join(["\n[[conflict]]\n", *(f"{key} = {_quoted(value)}\n" for key, value in rows)])


def _quoted(text: str) -> str:
    return f"'{text}'" if "'" not in text and "\n" not in text and '"' in text else toml_pieces.field_text(text)
