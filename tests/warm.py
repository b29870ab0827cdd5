"""Runs of the installed program that begin behind its imports: a server makes these once, reads what ships, and each run is a
fork of it.

A run has its own folder, environment, mask of permissions, standard streams and process, as if it had been started; what it
saves is the reading of modules, which is most of a short run. What is asked of a start itself (its speed, its streams'
encoding, signals, a terminal) is started.
"""

import atexit
import gc
import importlib
import importlib.metadata
import json
import os
import pkgutil
import signal
import socket
import struct
import subprocess
import sys
import tempfile
import threading
from collections.abc import Callable, Mapping, Sequence
from functools import lru_cache
from pathlib import Path
from typing import IO, NoReturn

_BESIDES = ("matplotlib.figure", "matplotlib.backends.backend_agg", "scipy.optimize", "scipy.sparse")
"""What the program reads only for some commands, and takes long."""
_LENGTH = struct.Struct("!I")
_STATUS = struct.Struct("!i")
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
    seconds: int = 600,
) -> int:
    """Run the program in a folder with nothing to read, and return its exit status (negative: the signal that ended it).

    Raises subprocess.TimeoutExpired where it takes longer than these seconds.
    """
    with _LOCK:
        address = _server()
        mask = os.umask(0)
        os.umask(mask)
    request = json.dumps([list(arguments), str(folder), dict(environment), mask, seconds]).encode()
    with socket.socket(socket.AF_UNIX) as connection:
        connection.connect(address)
        socket.send_fds(connection, [_LENGTH.pack(len(request))], [out.fileno(), err.fileno()])
        connection.sendall(request)
        answer = connection.recv(_STATUS.size, socket.MSG_WAITALL)
    status: int = _STATUS.unpack(answer)[0]
    if status == -signal.SIGALRM:
        raise subprocess.TimeoutExpired(list(arguments), seconds)
    return status


@lru_cache(maxsize=1)
def _server() -> str:
    """Where the server of this process listens; it is started with the first call, and ends with this process."""
    folder = tempfile.TemporaryDirectory(prefix="ombix-warm-")
    address = f"{folder.name}/runs"
    code = f"import sys; sys.path.insert(0, {str(Path(__file__).parents[1])!r}); from tests.warm import serve; serve({address!r})"
    server = subprocess.Popen(
        [sys.executable, "-c", code], stdin=subprocess.PIPE, stdout=subprocess.PIPE,
        env={"PATH": os.environ["PATH"], "LANG": "C.UTF-8"}, cwd=folder.name,
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
    import ombix

    for module in pkgutil.walk_packages(ombix.__path__, "ombix."):
        if module.name.rpartition(".")[2] != "__main__":
            importlib.import_module(module.name)
    for name in _BESIDES:
        importlib.import_module(name)
    _read_what_ships()
    (entry,) = importlib.metadata.entry_points(group="console_scripts", name="ombix")
    program = entry.load()
    signal.signal(signal.SIGCHLD, signal.SIG_IGN)  # nobody asks how the forks that answer ended
    with socket.socket(socket.AF_UNIX) as listening:
        listening.bind(address)
        listening.listen(64)
        threading.Thread(target=_end_with_input, daemon=True).start()
        print("ready", flush=True)
        gc.collect()
        gc.freeze()
        while True:
            connection, _address = listening.accept()
            with connection:
                if os.fork() == 0:
                    _answer(connection, program)


def _read_what_ships() -> None:
    """Have what ships in memory, which is the same again while its files do not change."""
    from ombix.data.shipped import Shipped
    from ombix.dialects.loading import Dialects

    shipped = Shipped()
    shipped.search_index()
    dialects = Dialects(shipped)
    for name in dialects.names():
        one = dialects.load(name)
        assert one.default_layer.bindings and one.default_keys and one.default_sections


def _end_with_input() -> None:
    while os.read(0, 1):  # not by the stream, whose lock a fork would keep
        pass
    os._exit(0)


def _answer(connection: socket.socket, program: Callable[[], None]) -> NoReturn:
    """Run the program once, in a process of its own, and send how it ended."""
    signal.signal(signal.SIGCHLD, signal.SIG_DFL)
    head, streams, _flags, _address = socket.recv_fds(connection, _LENGTH.size, 2)
    request = connection.recv(_LENGTH.unpack(head)[0], socket.MSG_WAITALL)
    arguments, folder, environment, mask, seconds = json.loads(request)
    running = os.fork()
    if running == 0:
        connection.close()
        for number, stream in enumerate([os.open(os.devnull, os.O_RDONLY), *streams]):
            os.dup2(stream, number)
            os.close(stream)
        os.chdir(folder)
        os.umask(mask)
        os.environ.clear()
        os.environ.update(environment)
        sys.argv = ["ombix", *arguments]
        signal.alarm(seconds)
        _run(program)
    _pid, status = os.waitpid(running, 0)
    connection.sendall(_STATUS.pack(os.waitstatus_to_exitcode(status)))
    os._exit(0)


def _run(program: Callable[[], None]) -> NoReturn:
    """End as the interpreter does behind the program."""
    status = 1
    try:
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
