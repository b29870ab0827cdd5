"""Whether an editor is running that would write over its key file when it closes, as far as the system tells (Linux, proc(5))."""

from pathlib import Path

_PROC = Path("/proc")


def is_running(program: str, home: Path) -> bool:
    """Whether a process of the user's runs a program with this home folder; no, where the system does not tell."""
    if not _PROC.is_dir():
        return False
    wanted = f"HOME={home}".encode("utf-8", "surrogateescape")
    for process in _PROC.iterdir():
        if not process.name.isdigit():
            continue
        try:
            name = (process / "comm").read_text("utf-8", "replace").strip()
            # The kernel keeps 15 characters of a name.
            if name == program[:15] and wanted in (process / "environ").read_bytes().split(b"\0"):
                return True
        except OSError:
            continue  # it has ended, or is somebody else's
    return False
