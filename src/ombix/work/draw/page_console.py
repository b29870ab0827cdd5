"""The page shown at an address of this machine: for its user alone, and nothing else is given out."""

import contextlib
import hashlib
import os
import secrets
import socket
import sys
from collections.abc import Callable, Iterable, Mapping
from http import HTTPStatus
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from threading import Lock
from typing import Any

from ombix.console.environment import Environment
from ombix.core.errors import OmbixError, OutsideError
from ombix.work.draw.page_answer import PageData
from ombix.work.draw.page_layout import page, policy_of

LOOPBACK = "127.0.0.1"
PATIENCE = 5.0
"""Seconds for which somebody who asks may say nothing, or may take nothing."""
MOST_AT_ONCE = 16
"""Requests that are answered at once; a browser has six (RFC 9112 names no number)."""


class KeymapPage:
    """The page as it is now, made anew when a file that it depends on changed; where that is wrong, the last one that was right."""

    def __init__(
        self, environment: Environment, data: Callable[[], PageData], files: Callable[[], Iterable[str]]
    ) -> None:
        self._environment = environment
        self._data = data
        self._files = files
        self._lock = Lock()
        self._version = self._text = ""

    def current(self) -> tuple[str, str]:
        """The version and the text."""
        with self._lock:
            before = self._stamps()
            version = _digest(before)
            if version != self._version:
                try:
                    data = self._data()
                    # What changed while it was read is another version; what it was found to depend on is watched from now on.
                    version = _digest({**self._stamps(), **before})
                    self._text = page(data, self._environment.display._replace(colour=False), version)
                except OmbixError as error:
                    self._environment.show_error(error)
                    if not self._text:
                        raise
                    self._text = self._text.replace(f'"version":"{self._version}"', f'"version":"{version}"')
                self._version = version
            return self._version, self._text

    def version(self) -> str:
        """The version by the files as they are now."""
        return _digest(self._stamps())

    def _stamps(self) -> dict[str, str]:
        """When each of the files was changed, and its size."""
        found = {}
        for name in self._files():
            try:
                status = os.stat(name)  # noqa: PTH116
                found[name] = f"{status.st_mtime_ns} {status.st_size}"
            except OSError:
                found[name] = "-"
        return found


def _digest(stamps: Mapping[str, str]) -> str:
    text = "\0".join(f"{name}\0{stamp}" for name, stamp in sorted(stamps.items()))
    return hashlib.blake2b(text.encode("utf-8", "surrogateescape"), digest_size=8).hexdigest()


def serve(
    environment: Environment, data: Callable[[], PageData], files: Callable[[], Iterable[str]], port: int
) -> None:
    """Serve the page until its user stops it. Raises OutsideError where the port is taken, and OmbixError for a keymap that is
    wrong from the start."""
    shown, token = KeymapPage(environment, data, files), secrets.token_urlsafe(24)
    shown.current()
    try:
        server = _Server((LOOPBACK, port), _handler(shown, token))
    except OSError as error:
        raise OutsideError(f"port {port} cannot be used: {error.strerror}", "Name another, or none.") from None
    host = f"{LOOPBACK}:{server.server_address[1]}"
    environment.say(f"http://{host}/{token}/")
    environment.say("It is kept up to date with the keymap. Ctrl+C ends it.")
    try:
        server.serve_forever()
    finally:
        server.server_close()


class _Server(ThreadingHTTPServer):
    """Answers a few at a time, so that nobody who asks and does not listen takes more and more of the machine: where all places
    are taken, the one that was asked first is given up."""

    daemon_threads = True

    def __init__(self, address: tuple[str, int], handler: type[BaseHTTPRequestHandler]) -> None:
        self._open: dict[int, socket.socket] = {}
        self._lock = Lock()
        super().__init__(address, handler)

    def process_request(self, request: Any, client_address: Any) -> None:
        """Take a request into a thread of its own."""
        request.settimeout(PATIENCE)
        with self._lock:
            while len(self._open) >= MOST_AT_ONCE:
                oldest = self._open.pop(next(iter(self._open)))
                with contextlib.suppress(OSError):
                    oldest.shutdown(socket.SHUT_RDWR)
            self._open[id(request)] = request
        super().process_request(request, client_address)

    def shutdown_request(self, request: Any) -> None:
        """Close a request."""
        with self._lock:
            self._open.pop(id(request), None)
        super().shutdown_request(request)

    def handle_error(self, request: Any, client_address: Any) -> None:
        """Somebody who went away is no fault; anything else is, and ends the request only."""
        if not isinstance(sys.exception() if sys.version_info >= (3, 12) else sys.exc_info()[1], OSError):
            super().handle_error(request, client_address)


def _handler(shown: KeymapPage, token: str) -> type[BaseHTTPRequestHandler]:
    class _Answers(BaseHTTPRequestHandler):
        server_version, sys_version = "Ombix", ""

        def do_GET(self) -> None:
            """Give the page, or its version, to who knows the address."""
            host = f"{LOOPBACK}:{self.server.server_address[1]}"  # type: ignore[index]
            origin = self.headers.get("Origin")
            is_own = self.headers.get("Host") == host and origin in (None, f"http://{host}")
            is_foreign = self.headers.get("Sec-Fetch-Site", "none") not in ("none", "same-origin")
            path = self.path.partition("?")[0].rstrip("/")
            if (
                not is_own
                or is_foreign
                or not secrets.compare_digest("".join(path.split("/")[1:2]).encode(), token.encode())
            ):
                self._give(HTTPStatus.FORBIDDEN, "text/plain", "This address is somebody else's.\n")
            elif path == f"/{token}":
                text = shown.current()[1]
                self._give(HTTPStatus.OK, "text/html", text, policy_of(text))
            elif path == f"/{token}/version":
                self._give(HTTPStatus.OK, "text/plain", shown.version())
            else:
                self._give(HTTPStatus.NOT_FOUND, "text/plain", "There is nothing here.\n")

        def _give(self, status: HTTPStatus, kind: str, text: str, policy: str = "default-src 'none'") -> None:
            body = text.encode("utf-8", "backslashreplace")
            self.send_response(status)
            for name, value in (
                ("Content-Type", f"{kind}; charset=utf-8"), ("Content-Length", str(len(body))), ("Cache-Control", "no-store"),
                ("Content-Security-Policy", policy), ("X-Content-Type-Options", "nosniff"), ("Referrer-Policy", "no-referrer"),
                ("Cross-Origin-Resource-Policy", "same-origin"), ("X-Frame-Options", "DENY"),
            ):  # fmt: skip
                self.send_header(name, value)
            self.end_headers()
            self.wfile.write(body)

        def log_message(self, *arguments: object) -> None:
            """Nothing is noted down: the address has the token in it."""

    return _Answers
