"""Which editor a file is of: by its place, its name, and what stands in it."""

from pathlib import Path
from typing import NamedTuple

from ombix.core.errors import InputError, OmbixError, Place
from ombix.core.keymap.bindings import LayerName
from ombix.core.keymap.outcomes import Do
from ombix.core.toml import Document
from ombix.editors.dialect import Dialect
from ombix.editors.file_reading import FileReading
from ombix.files.disk import absolute
from ombix.files.keymap_reading import SUFFIX
from ombix.workspace.resources import Resources


class Recognised(NamedTuple):
    """The editor that a file is of; why that is thought, and whether it is sure."""

    dialect: str
    why: str
    is_sure: bool


def is_keymap_file(path: Path, resources: Resources) -> bool:
    """Whether a file is one of Ombix's own keymap files, broken or not."""
    return path.name.endswith(SUFFIX) or _has_top_keys(path, resources, {"format", "bind"}, "keymap")


def is_workspace_file(path: Path, resources: Resources) -> bool:
    """Whether a file is a workspace file."""
    return _has_top_keys(path, resources, {"format", "keymap"}, "bind")


def _has_top_keys(path: Path, resources: Resources, wanted: set[str], unwanted: str) -> bool:
    if path.suffix != ".toml":
        return False
    try:
        table = Document(resources.files.read_text(path), absolute(path), recover=True).table
    except OmbixError:
        return False
    return wanted <= set(table) and unwanted not in table


def recognise(path: Path, resources: Resources) -> Recognised:
    """The editor whose file this is. Raises InputError where nothing tells, or the file cannot be read."""
    names = resources.dialects.names()
    for name in names:
        file = resources.dialects.load(name).description.file
        for usual in file.usual:
            if absolute(Path(usual).expanduser()) == absolute(path):
                return Recognised(name, f"that is where {name} has its file", True)
    called = [name for name in names if _is_called(path, resources.dialects.load(name))]
    understood = {name: _understood(path, resources.dialects.load(name), resources) for name in called or names}
    if len(called) == 1 and (understood[called[0]] is None or understood[called[0]] != _NOTHING):
        return Recognised(called[0], f"its name is that of {called[0]}'s file", True)
    if called and not any(understood.values()):
        understood = {name: _understood(path, resources.dialects.load(name), resources) for name in names}
    shares = {name: share for name, share in understood.items() if share}
    best = max(shares, key=lambda name: shares[name], default="")
    if not best or shares[best] == _NOTHING:
        raise InputError(
            "it cannot be told which editor this file is for", "Say --editor NAME; see: ombix editors",
            Place(absolute(path)),
        )  # fmt: skip
    rivals = [name for name, share in shares.items() if name != best and share.bound > _RIVAL]
    return Recognised(best, f"it reads as {best}'s file does", not rivals and shares[best].bound > _SURE)


def read_as(path: Path, dialect: Dialect, resources: Resources, name: LayerName) -> FileReading:
    """A file read as that of an editor that was named. Raises InputError, which names the other editor where it is that one's."""
    try:
        reading = resources.read_editor_file(dialect, path, name)
    except InputError as error:
        if error.place is None or not error.place.line or not (other := _another(path, dialect, resources)):
            raise
        raise InputError(error.what, _whose(other), error.place, error.excerpt, error.width) from None
    is_nothing = any(one.is_fault for one in reading.account) and not any(one.is_bound for one in reading.account)
    if is_nothing and (other := _another(path, dialect, resources)):
        raise InputError(f"no line of it is a key of {dialect.name}", _whose(other), Place(absolute(path)))
    return reading


def _another(path: Path, dialect: Dialect, resources: Resources) -> str:
    """The other editor whose file this clearly is; empty where none."""
    try:
        found = recognise(path, resources)
    except InputError:
        return ""
    return found.dialect if found.is_sure and found.dialect != dialect.name else ""


def _whose(other: str) -> str:
    return f"It reads as a file of {other}: leave --editor out, or say --editor {other}."


def _is_called(path: Path, dialect: Dialect) -> bool:
    """Whether a file has the name that an editor's file has, perhaps with a point before it."""
    file = dialect.description.file
    usual = {file.name, *(Path(one).name for one in file.usual)}
    return path.name in usual or path.name.lstrip(".") in {name.lstrip(".") for name in usual}


class Understood(NamedTuple):
    """The shares of a file's statements that bind keys in an editor, and that bind them to an action; from 0 to 1."""

    bound: float
    actions: float


_NOTHING = Understood(0.0, 0.0)
_SURE, _RIVAL = 0.8, 0.5


def _understood(path: Path, dialect: Dialect, resources: Resources) -> Understood | None:
    """How well a file is understood as an editor's; None for a file in which nothing stands."""
    try:
        reading = resources.read_editor_file(dialect, path, LayerName(str(path), path.name))
    except InputError as error:
        if error.place is None or not error.place.line:
            raise  # there is no such file, or it is no text
        return _NOTHING
    if not reading.account:
        return None
    bound = sum(1 for one in reading.account if one.is_bound)
    faults = sum(1 for one in reading.account if one.is_fault)
    actions = sum(1 for binding in reading.layer.bindings if isinstance(binding.outcome, Do))
    return Understood(bound / (bound + faults), actions / (bound + faults)) if bound else _NOTHING
