"""Which files an answer depends on, and what they were when they were looked at."""

import os


class SeenFiles(dict[str, str]):
    """Files by absolute path, each with its stamp from before it was read: so an answer that was made while a file changed
    is known to be stale."""

    def note(self, file: str) -> None:
        """A file is about to be looked at, whether it is there or not."""
        if file not in self:
            self[file] = stamp(file)


def stamp(file: str) -> str:
    """What changes when a file does; a hyphen where there is none."""
    try:
        status = os.stat(file)  # noqa: PTH116
    except (OSError, ValueError):
        return "-"
    return f"{status.st_size}.{status.st_mtime_ns}.{status.st_ctime_ns}.{status.st_ino}"
