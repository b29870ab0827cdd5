"""Whether a program and all that it started wait for something, by what the kernel says of each thread (proc_pid_status(5),
proc_pid_task(5))."""

import functools
import os

Switches = dict[str, bytes]
"""By the folder of a thread, how often it gave the processor away, and how often it was taken from it."""

_STATE, _COUNTED = b"\nState:\t", b"\nvoluntary_ctxt_switches:\t"
_WAITING = (b"S", b"T", b"t", b"Z", b"X")
"""Asleep until something comes, stopped, or ended (proc_pid_stat(5), `state`); not at work, and not waiting for a disk."""


@functools.lru_cache(maxsize=1)
def is_told() -> bool:
    """Whether this machine's kernel tells what threads do, and which processes a process has started."""
    try:
        _read("/proc/thread-self/children")
        status = _read("/proc/thread-self/status")
        return _STATE in status and _COUNTED in status
    except OSError:
        return False


def waiting(*processes: int) -> Switches | None:
    """What the threads of some processes have done, those of their descendants too, where all of them wait for something; None
    where one works. Raises OSError where the kernel does not tell."""
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
                counted = _counted(thread)
                if counted is None:
                    return None
                left += _read(f"{thread}/children").decode("ascii").split()
            except (FileNotFoundError, ProcessLookupError):
                return None
            found[thread] = counted
    return found


def still(switches: Switches) -> bool:
    """Whether none of these threads has worked since; so there is no other one, either, as only they could have started one."""
    try:
        return all(_counted(thread) == counted for thread, counted in switches.items())
    except OSError:
        return False


def _counted(thread: str) -> bytes | None:
    status = _read(f"{thread}/status")
    state = status.find(_STATE) + len(_STATE)
    return status[status.find(_COUNTED) :] if status[state : state + 1] in _WAITING else None


def _read(file: str) -> bytes:
    end = os.open(file, os.O_RDONLY)
    try:
        return os.read(end, 65536)
    finally:
        os.close(end)
