"""`ombix page --serve`: for its user alone, and up to date."""

import http.client
import re
import signal
import socket
import subprocess
import sys
from collections.abc import Iterator
from pathlib import Path
from typing import NamedTuple

import pytest


class Served(NamedTuple):
    process: "subprocess.Popen[str]"
    port: int
    token: str
    folder: Path

    def get(self, path: str, **headers: str) -> tuple[int, str, http.client.HTTPMessage]:
        """The status, the text and the headers of an answer."""
        connection = http.client.HTTPConnection("127.0.0.1", self.port, timeout=20)
        given = {name.replace("_", "-"): value for name, value in headers.items()}
        connection.request("GET", path, headers=given)
        answer = connection.getresponse()
        try:
            return answer.status, answer.read().decode(), answer.headers
        finally:
            connection.close()


@pytest.fixture
def served(ferry: Path) -> Iterator[Served]:
    program = str(Path(sys.executable).parent / "ombix")
    process = subprocess.Popen(
        [program, "page", "--serve"], cwd=ferry, stderr=subprocess.PIPE, stdout=subprocess.DEVNULL, text=True,
        env={"PATH": "/usr/bin:/bin", "HOME": str(ferry.parent), "OMBIX_HOME": str(ferry.parent / "home"), "COLUMNS": "200"},
    )  # fmt: skip
    assert process.stderr is not None
    found = re.match(r"http://127\.0\.0\.1:(\d+)/([\w-]{20,})/\n", process.stderr.readline())
    assert found is not None
    yield Served(process, int(found[1]), found[2], ferry)
    process.kill()
    process.wait(10)
    process.stderr.close()


def test_the_page_is_given_to_who_knows_its_address(served: Served) -> None:
    status, text, headers = served.get(f"/{served.token}/")
    assert status == 200
    assert text.startswith("<!doctype html>")
    policy = headers["Content-Security-Policy"]
    assert policy.startswith("default-src 'none'; script-src 'sha256-")
    assert "connect-src 'self'" in policy
    assert "unsafe" not in policy
    assert headers["X-Content-Type-Options"] == "nosniff"
    assert headers["Cache-Control"] == "no-store"
    assert served.get(f"/{served.token}/version")[:2] == (200, re.findall(r'"version":"(\w+)"', text)[0])
    assert served.get(f"/{served.token}/crew.keys.toml")[0] == 404


def test_without_the_secret_nothing_is_given(served: Served) -> None:
    for path in ("/", "/x/", "/crew.keys.toml", "/../../etc/passwd", "//", "/%2e%2e/", "/" + "a" * 5000):
        status, text, headers = served.get(path)
        assert (status, text) == (403, "This address is somebody else's.\n"), path
        assert "Ombix" in headers["Server"]
        assert served.token not in str(headers)


def test_no_other_origin_and_no_other_name_is_answered(served: Served) -> None:
    path, own = f"/{served.token}/", f"127.0.0.1:{served.port}"
    assert served.get(path, Host=own, Origin=f"http://{own}")[0] == 200
    for headers in (
        {"Host": f"ferry.example:{served.port}"}, {"Host": f"localhost:{served.port}"}, {"Origin": "http://ferry.example"},
        {"Origin": "null"}, {"Sec_Fetch_Site": "cross-site"}, {"Sec_Fetch_Site": "same-site"},
    ):  # fmt: skip
        assert served.get(path, **headers)[0] == 403, headers
    connection = http.client.HTTPConnection("127.0.0.1", served.port, timeout=20)
    connection.request("POST", path, body="x")
    assert connection.getresponse().status == 501
    connection.close()
    listening = Path("/proc/net/tcp").read_text() + Path("/proc/net/tcp6").read_text()
    addresses = re.findall(rf": (\w+):{served.port:04X} \w+:0000 0A", listening)
    assert addresses == ["0100007F"]  # 127.0.0.1


def test_it_follows_the_keymap_and_stays_right_while_that_is_wrong(served: Served) -> None:
    file = served.folder / "crew.keys.toml"
    text = file.read_text()
    before = served.get(f"/{served.token}/version")[1]
    file.write_text(text.replace('copy-down = "Mod+D"', 'copy-down = "Mod+Shift+D"'))
    after = served.get(f"/{served.token}/version")[1]
    assert after != before
    shown = served.get(f"/{served.token}/")[1]
    assert "Ctrl+Shift+D" in shown
    assert f'"version":"{after}"' in shown
    file.write_text(text[: len(text) // 2] + "\n[[[")
    status, kept, _headers = served.get(f"/{served.token}/")
    assert (status, "Ctrl+Shift+D" in kept) == (200, True)
    assert f'"version":"{served.get(f"/{served.token}/version")[1]}"' in kept  # the browser does not load for ever
    file.write_text(text)
    assert "Ctrl+Shift+D" not in served.get(f"/{served.token}/")[1]


def test_files_that_come_later_are_watched_too(served: Served) -> None:
    (served.folder / "more.keys.toml").write_text('format = 1\nname = "more"\n[bind.line]\njoin = "Alt+G"\n')
    crew = served.folder / "crew.keys.toml"
    crew.write_text(crew.read_text().replace('name = "crew"\n', 'name = "crew"\nextends = ["more.keys.toml"]\n', 1))
    assert "Join" in served.get(f"/{served.token}/")[1]
    before = served.get(f"/{served.token}/version")[1]
    assert before in served.get(f"/{served.token}/")[1]
    (served.folder / "more.keys.toml").write_text('format = 1\nname = "more"\n[bind.line]\njoin = "Alt+Shift+G"\n')
    assert served.get(f"/{served.token}/version")[1] != before
    assert "Alt+Shift+G" in served.get(f"/{served.token}/")[1]


def test_its_user_ends_it(served: Served) -> None:
    served.process.send_signal(signal.SIGTERM)
    assert served.process.wait(10) == 143
    assert served.process.stderr is not None
    assert served.token not in served.process.stderr.read()


def test_a_port_that_is_taken_is_told(ferry: Path) -> None:
    with socket.socket() as taken:
        taken.bind(("127.0.0.1", 0))
        taken.listen()
        program = str(Path(sys.executable).parent / "ombix")
        call = [program, "page", "--serve", "--port", str(taken.getsockname()[1])]
        ran = subprocess.run(call, cwd=ferry, capture_output=True, text=True, timeout=30, check=False)
    assert ran.returncode == 3
    assert "cannot be used" in ran.stderr


def test_slow_and_leaving_clients_hold_nothing_up(served: Served) -> None:
    slow = [socket.create_connection(("127.0.0.1", served.port), timeout=20) for _ in range(40)]
    for one in slow:
        one.sendall(b"GET /")  # and never more
    assert served.get(f"/{served.token}/")[0] == 200
    threads = len(list(Path(f"/proc/{served.process.pid}/task").iterdir()))
    assert threads <= 20
    for one in slow[::2]:
        one.setsockopt(socket.SOL_SOCKET, socket.SO_LINGER, b"\x01\0\0\0\0\0\0\0")  # reset in the middle
        one.close()
    for _ in range(5):
        leaving = socket.create_connection(("127.0.0.1", served.port), timeout=20)
        leaving.sendall(f"GET /{served.token}/ HTTP/1.1\r\nHost: 127.0.0.1:{served.port}\r\n\r\n".encode())
        leaving.setsockopt(socket.SOL_SOCKET, socket.SO_LINGER, b"\x01\0\0\0\0\0\0\0")
        leaving.close()
    assert served.get(f"/{served.token}/")[0] == 200
    for one in slow:
        one.close()
    served.process.send_signal(signal.SIGINT)
    _, said = served.process.communicate(timeout=20)
    assert "Traceback" not in said
