"""Has the program run by a server of `tests.warm` with this process's streams, folder and environment."""

import json
import os
import socket
import struct
import sys
from collections.abc import Sequence
from pathlib import Path

LENGTH = struct.Struct("!I")
"""The length of a request."""
STATUS = struct.Struct("!i")
"""How a run ended: its exit status, or the number of the signal that ended it, as a negative one."""
SECONDS = 600
"""After these a run is ended."""


def asked(address: str, request: Sequence[object], streams: Sequence[int]) -> int:
    """How a run ended that a server was asked for: its arguments, folder, environment, mask of permissions and seconds."""
    sent = json.dumps(request).encode()
    with socket.socket(socket.AF_UNIX) as connection:
        connection.connect(address)
        socket.send_fds(connection, [LENGTH.pack(len(sent))], streams)
        connection.sendall(sent)
        status: int = STATUS.unpack(connection.recv(STATUS.size, socket.MSG_WAITALL))[0]
    return status


def main() -> None:
    """Ask the server at the first argument for a run with the others."""
    mask = os.umask(0)
    ended = asked(sys.argv[1], [sys.argv[2:], str(Path.cwd()), dict(os.environ), mask, SECONDS], [0, 1, 2])
    sys.exit(ended if ended >= 0 else 128 - ended)


if __name__ == "__main__":
    main()
