"""Fixtures that several tests use."""

import shutil
from pathlib import Path

import pytest
from hypothesis import settings

from ombix.data.shipped import DATA
from tests import warm
from tests.helpers import MORE

# Examples are the same from run to run; a machine under load must not fail a property by its clock.
settings.register_profile("ombix", deadline=None, derandomize=True, max_examples=40 * MORE)
settings.load_profile("ombix")


def pytest_configure(config: pytest.Config) -> None:
    """Where tests run in several processes, these share one server of the program's runs."""
    if not hasattr(config, "workerinput") and config.getoption("numprocesses", None):
        warm.share()


def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    """What takes longest begins first, so that nothing waits for it at the end."""
    for item in items:
        if item.get_closest_marker("long"):
            item.add_marker(pytest.mark.timeout(1500))
    items.sort(key=lambda item: not any(mark.kwargs.get("first") for mark in item.iter_markers("long")))


@pytest.fixture
def ferry(tmp_path: Path) -> Path:
    """A copy of the demo workspace."""
    folder = tmp_path / "ferry"
    shutil.copytree(DATA / "demo", folder)
    return folder
