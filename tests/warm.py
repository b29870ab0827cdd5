"""Runs of the installed program that begin behind its imports: a server makes these once, reads what ships, and each run is a
fork of it.

A run has its own folder, environment, mask of permissions, standard streams and process, as if it had been started; what it
saves is the reading of modules, which is most of a short run. What is asked of a start itself (its speed, its streams'
encoding, signals, a terminal) is started.
"""

import atexit
import contextlib
import gc
import importlib
import importlib.metadata
import io
import json
import os
import pkgutil
import selectors
import signal
import socket
import subprocess
import sys
import tempfile
import threading
from collections.abc import Callable, Mapping, Sequence
from functools import lru_cache
from pathlib import Path
from typing import IO, NoReturn, TextIO

from tests import relay
from tests.relay import LENGTH, SECONDS, STATUS, asked

_BESIDES = ("matplotlib.figure", "matplotlib.backends.backend_agg", "highspy")
"""What the program reads only for some commands, and takes long."""
_LARGE_PAGES = {"PYTHONMALLOC": "malloc", "GLIBC_TUNABLES": "glibc.malloc.hugetlb=1"}
"""Makes a fork cheap, of which there are thousands: there are fewer pages to be told of."""
_SHARED = "OMBIX_SHARED_RUNS"
_LOCK = threading.Lock()


def texts(arguments: Sequence[str], folder: Path, environment: Mapping[str, str]) -> tuple[int, str, str]:
    """The exit status of a run, and what it says on each of its two streams."""
    with tempfile.TemporaryFile("w+", encoding="utf-8") as out, tempfile.TemporaryFile("w+", encoding="utf-8") as err:
        status = run(arguments, folder, environment, out, err)
        out.seek(0)
        err.seek(0)
        return status, out.read(), err.read()


def together(arguments: Sequence[str], folder: Path, environment: Mapping[str, str]) -> tuple[int, str]:
    """The exit status of a run, and all that it says, in its order."""
    with tempfile.TemporaryFile("w+", encoding="utf-8") as out:
        status = run(arguments, folder, environment, out, out)
        out.seek(0)
        return status, out.read()


def run(
    arguments: Sequence[str],
    folder: Path,
    environment: Mapping[str, str],
    out: IO[str],
    err: IO[str],
    seconds: int = SECONDS,
) -> int:
    """Run the program in a folder with nothing to read, and return its exit status (negative: the signal that ended it).

    Raises subprocess.TimeoutExpired where it takes longer than these seconds.
    """
    with _LOCK:
        address = _server()
        mask = os.umask(0)
        os.umask(mask)
    request = [list(arguments), str(folder), dict(environment), mask, seconds]
    with open(os.devnull, "rb") as nothing:
        status = asked(address, request, [nothing.fileno(), out.fileno(), err.fileno()])
    if status == -signal.SIGALRM:
        raise subprocess.TimeoutExpired(list(arguments), seconds)
    return status


def command(*arguments: str) -> list[str]:
    """A command that runs the program with its own streams, folder and environment, as the program's own would."""
    with _LOCK:
        return [sys.executable, "-IS", relay.__file__, _server(), *arguments]


def share() -> None:
    """Start the server now, for all processes that this one starts, too."""
    os.environ[_SHARED] = _server()


@lru_cache(maxsize=1)
def _server() -> str:
    """Where the server listens; where none is shared it is started with the first call, and ends with this process."""
    if _SHARED in os.environ:
        return os.environ[_SHARED]
    folder = tempfile.TemporaryDirectory(prefix="ombix-warm-")
    address = f"{folder.name}/runs"
    root = Path(__file__).parents[1]
    # The program is that of these tests, also in a copy of the project.
    code = f"import sys; sys.path[:0] = {[str(root), str(root / 'src')]!r}; from tests.warm import serve; serve({address!r})"
    server = subprocess.Popen(
        [sys.executable, "-c", code], stdin=subprocess.PIPE, stdout=subprocess.PIPE,
        env={"PATH": os.environ["PATH"], "LANG": "C.UTF-8", **_LARGE_PAGES}, cwd=folder.name,
    )  # fmt: skip
    assert server.stdin is not None
    assert server.stdout is not None
    assert server.stdout.readline() == b"ready\n"

    def end() -> None:
        server.communicate()
        folder.cleanup()

    atexit.register(end)
    return address


def serve(address: str) -> None:
    """Read all modules, then run the program for each call, until the standard input ends."""
    with socket.socket(socket.AF_UNIX) as listening:
        listening.bind(address)
        listening.listen(256)  # who calls waits until all is read
        print("ready", flush=True)
        program = _read_all()
        gc.collect()
        gc.freeze()
        _serve(listening, program)


def _read_all() -> Callable[[], None]:
    """Read all modules and what ships, and return the program."""
    import ombix

    for module in pkgutil.walk_packages(ombix.__path__, "ombix."):
        if module.name.rpartition(".")[2] != "__main__":
            importlib.import_module(module.name)
    for name in _BESIDES:
        importlib.import_module(name)
    _read_what_ships()
    (entry,) = importlib.metadata.entry_points(group="console_scripts", name="ombix")
    program: Callable[[], None] = entry.load()
    return program


def _serve(listening: socket.socket, program: Callable[[], None]) -> NoReturn:
    with selectors.DefaultSelector() as events:
        events.register(listening, selectors.EVENT_READ)
        events.register(0, selectors.EVENT_READ)
        while True:
            for event, _mask in events.select():
                if event.fileobj == 0:  # nothing is sent: it has ended
                    os._exit(0)
                if event.fileobj is listening:
                    connection, _address = listening.accept()
                    running = _begin(connection, program)
                    events.register(os.pidfd_open(running), selectors.EVENT_READ, (running, connection))
                else:
                    events.unregister(event.fileobj)
                    os.close(event.fd)
                    _end(*event.data)


def _read_what_ships() -> None:
    """Have what ships in memory, which is the same again while its files do not change."""
    from ombix.data.shipped import Shipped
    from ombix.editors.description_loading import Dialects

    shipped = Shipped()
    shipped.search_index()
    dialects = Dialects(shipped)
    for name in dialects.names():
        one = dialects.load(name)
        assert one.default_layer.bindings and one.default_keys and one.default_sections


def _begin(connection: socket.socket, program: Callable[[], None]) -> int:
    """Begin a run, in a process of its own, and return the number of this."""
    head, streams, _flags, _address = socket.recv_fds(connection, LENGTH.size, 3)
    request = connection.recv(LENGTH.unpack(head)[0], socket.MSG_WAITALL)
    running = os.fork()
    if running == 0:
        _answer(program, streams, *json.loads(request))
    for stream in streams:
        os.close(stream)
    return running


def _end(running: int, connection: socket.socket) -> None:
    """Tell how a run ended, if somebody still wants to know."""
    _pid, status = os.waitpid(running, 0)
    with connection, contextlib.suppress(BrokenPipeError):
        connection.sendall(STATUS.pack(os.waitstatus_to_exitcode(status)))


def _answer(
    program: Callable[[], None], streams: Sequence[int], arguments: Sequence[str], folder: str,
    environment: Mapping[str, str], mask: int, seconds: int,
) -> NoReturn:  # fmt: skip
    """Run the program once, with all that is its own, and end as the interpreter does behind it."""
    status = 1
    try:
        for number, stream in enumerate(streams):
            os.dup2(stream, number)
        os.closerange(3, 1 << 16)  # what the server has open
        sys.stdin, sys.stdout, sys.stderr = map(_again, (sys.stdin, sys.stdout, sys.stderr), "rww")
        os.chdir(folder)
        os.umask(mask)
        os.environ.clear()
        os.environ.update(environment)
        sys.argv = ["ombix", *arguments]
        signal.alarm(seconds)
        program()
        status = 0
    except SystemExit as end:
        status = end.code if isinstance(end.code, int) else int(end.code is not None)
    except BaseException:
        sys.excepthook(*sys.exc_info())  # type: ignore[arg-type]
    threading._shutdown()  # type: ignore[attr-defined]  # threads that have begun are waited for
    atexit._run_exitfuncs()
    sys.stdout.flush()
    sys.stderr.flush()
    os._exit(status)


def _again(stream: TextIO, mode: str) -> TextIO:
    """A standard stream as it is at a start: what is behind its number is another file now."""
    file = os.fdopen(stream.fileno(), f"{mode}b", closefd=False)
    return io.TextIOWrapper(file, stream.encoding, stream.errors, line_buffering=stream is sys.stderr)
