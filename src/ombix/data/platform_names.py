"""The names of the platforms: those of their files, so that a file makes one more."""

import os
import sys

_FOLDER = os.path.join(os.path.dirname(__file__), "platforms")  # noqa: PTH118, PTH120 (asked at each start)
PLATFORMS = tuple(sorted(name.removesuffix(".toml") for name in os.listdir(_FOLDER) if name.endswith(".toml")))  # noqa: PTH208
_CALLED = {"darwin": "mac", "win32": "windows"}
"""What Python calls systems whose platform has another name (the documentation of `sys.platform`)."""


def this_platform() -> str:
    """The platform that Ombix runs on; of a system that has none, Linux, whose desktops the others share."""
    name = _CALLED.get(sys.platform, sys.platform.rstrip("0123456789"))
    return name if name in PLATFORMS else "linux"
