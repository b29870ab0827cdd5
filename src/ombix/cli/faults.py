"""What is said of a fault in Ombix itself."""

import os
import platform
import tempfile
import time
import traceback
from pathlib import Path

from ombix.version import __version__


def report(state: Path) -> str:
    """Keep the trace of the exception at hand in a file of the state folder, or a temporary one; what to say of it."""
    trace = f"ombix {__version__}, Python {platform.python_version()}, {platform.system()}\n{traceback.format_exc()}"
    said = "This is a fault in Ombix, not in what you did."
    for folder in (state / "faults", Path(tempfile.gettempdir())):
        try:
            folder.mkdir(parents=True, exist_ok=True, mode=0o700)
            file = folder / f"ombix-fault-{time.time_ns()}.txt"
            handle = os.open(file, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600)
            with open(handle, "w", encoding="utf-8", errors="replace") as stream:
                stream.write(trace)
        except OSError:
            continue
        return f"error: {said} Please report it with this file, and with what you had typed: {file}"
    return f"error: {said} Please report it: {trace}"
