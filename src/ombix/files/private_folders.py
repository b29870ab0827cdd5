"""Folders that are their owner's alone: where changes are noted, what is trusted, and what was worked out."""

import contextlib
import os
import stat

from ombix.core.errors import OutsideError, Place


def make_private(folder: str) -> None:
    """Make a folder that only its owner can read and write. Raises OutsideError where it cannot be made, or where it is
    somebody else's or can be written by others: then what stands in it may not be what Ombix wrote."""
    try:
        make_folder(folder)
    except OSError as error:
        raise OutsideError(
            f"the folder cannot be made: {error.strerror}", "Choose another with OMBIX_HOME.", Place(folder)
        ) from None
    why = why_not_private(folder)
    if why:
        raise OutsideError(
            f"the folder {why}", "Choose another with OMBIX_HOME, or mend its permissions.", Place(folder)
        )


def make_folder(folder: str) -> None:
    """Make a folder, and those above it that are missing, each for its owner alone."""
    if os.path.isdir(folder):  # noqa: PTH112
        return
    above = os.path.dirname(folder)  # noqa: PTH120
    if above != folder:
        make_folder(above)
    try:
        os.mkdir(folder, 0o700)  # noqa: PTH102
    except FileExistsError:
        if not os.path.isdir(folder):  # noqa: PTH112
            raise


def why_not_private(folder: str) -> str:
    """Why a folder is not to be relied on, as the end of a sentence; empty where it is, or where there is none."""
    if not hasattr(os, "geteuid"):
        return ""  # Windows keeps what is in a home folder apart by itself
    try:
        status = os.stat(folder)  # noqa: PTH116
    except OSError:
        return ""
    if status.st_uid != os.geteuid():
        return "belongs to somebody else"
    if stat.S_IMODE(status.st_mode) & 0o022:
        return "can be written by others"
    with contextlib.suppress(OSError):
        above = os.stat(os.path.dirname(folder) or ".").st_mode  # noqa: PTH116, PTH120
        if above & stat.S_IWOTH and not above & stat.S_ISVTX:
            return "lies in a folder that everybody can write to"
    return ""
