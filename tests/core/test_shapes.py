"""Tables are read as shapes, by several threads at once too."""

import subprocess
import sys

PROGRAM = """
import sys, threading
import msgspec
from ombix.core.decoding import shaped

class Berth(msgspec.Struct):
    name: str
    metres: float = 0.0

class Quay(msgspec.Struct):
    berths: dict[str, Berth | list[Berth]]
    open: tuple[int, ...] | None = None

class Harbour(msgspec.Struct, forbid_unknown_fields=True):
    quays: dict[str, Quay]
    title: str

sys.setswitchinterval(1e-6)
table = {"title": "Skarv", "quays": {"north": {"berths": {"1": {"name": "ferry"}, "2": [{"name": "tug"}]}, "open": [6, 22]}}}
together, found = threading.Barrier(4), []

def read():
    together.wait()
    found.append(shaped(table, Harbour).quays["north"].berths["2"][0].name)

threads = [threading.Thread(target=read) for _ in range(4)]
for one in threads:
    one.start()
for one in threads:
    one.join()
print(*found)
"""


def test_threads_may_read_the_same_shape_for_the_first_time() -> None:
    """Without one waiting for the other the process crashes about every other time."""
    for _ in range(8):
        done = subprocess.run([sys.executable, "-c", PROGRAM], capture_output=True, text=True, check=False, timeout=60)
        assert (done.returncode, done.stdout.split()) == (0, ["tug"] * 4), done.stderr
