"""Whether a program and all that it started wait for something, by what the kernel says of each thread (proc_pid_status(5),
proc_pid_task(5))."""

import functools
import os

Switches = dict[str, tuple[bytes, ...]]
"""By the folder of a thread, how often it gave the processor away, and how often it was taken from it."""

_WAITING = b"STtZXx"
"""Asleep until something comes, stopped, or ended (proc_pid_stat(5), `state`); not at work, and not waiting for a disk."""
_COUNTED = (b"voluntary_ctxt_switches:", b"nonvoluntary_ctxt_switches:")


@functools.lru_cache(maxsize=1)
def is_told() -> bool:
    """Whether this machine's kernel tells what threads do."""
    try:
        waiting(os.getpid())
    except OSError:
        return False
    return True


def waiting(*processes: int) -> Switches | None:
    """What the threads of some processes have done, those of their descendants too, where all of them wait for something; None
    where one works.

    Two answers that are equal say that none worked between them. Raises OSError where the kernel does not tell.
    """
    found: Switches = {}
    left = [str(process) for process in processes]
    while left:
        threads = f"/proc/{left.pop()}/task"
        try:
            names = os.listdir(threads)  # noqa: PTH208 - hundreds of times for each key
        except FileNotFoundError:
            if not found:
                raise
            return None  # one that has just ended; what it was waited for with is awake
        for name in names:
            thread = f"{threads}/{name}"
            try:
                counted = _counted(_read(f"{thread}/status"))
                left += _read(f"{thread}/children").decode("ascii").split()
            except (FileNotFoundError, ProcessLookupError):
                return None
            if counted is None:
                return None
            found[thread] = counted
    return found


def _counted(status: bytes) -> tuple[bytes, ...] | None:
    lines = status.split(b"\n")
    state = next((line for line in lines if line.startswith(b"State:")), b"").split()
    if len(state) < 2 or state[1] not in _WAITING:
        return None
    return tuple(line for line in lines if line.startswith(_COUNTED))


def _read(file: str) -> bytes:
    end = os.open(file, os.O_RDONLY)
    try:
        return os.read(end, 65536)
    finally:
        os.close(end)
