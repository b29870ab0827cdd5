"""Where the changes of a folder are noted, and whether one was left in the middle: asked at each start, so little is imported."""

from pathlib import Path

from ombix.files.disk import absolute


def has_unfinished(state_folder: Path, home: Path) -> bool:
    """Whether a run has left a change of a folder in the middle, or is in the middle of one."""
    try:
        return any(one.suffix in (".begun", ".undoing") for one in folder_of(state_folder, home.resolve()).iterdir())
    except OSError:
        return False


def folder_of(state_folder: Path, home: Path) -> Path:
    """The folder in which the changes of a folder are noted."""
    return state_folder / "changes" / digest(absolute(home).encode("utf-8", "surrogateescape"))


def digest(data: bytes) -> str:
    """A short name for bytes that no other bytes have."""
    import hashlib

    return hashlib.blake2b(data, digest_size=16).hexdigest()
