"""The directions of the house: core knows nobody, only the interface knows all."""

import ast
from pathlib import Path

import pytest

from tests.helpers import ROOT

SOURCE = ROOT / "src" / "ombix"
ALLOWED = {
    "core": {"core"},
    "data": {"core", "data"},  # reads what ships
    "store": {"core", "data", "store"},
    "stage": {"core", "stage"},
    "report": {"core", "report"},
    "dialects": {"core", "data", "dialects"},
    # Proving presses what a dialect describes and compares with what the stage says.
    "proving": {"core", "dialects", "stage", "proving"},
}


def imports(file: Path) -> set[str]:
    found = set()
    for node in ast.walk(ast.parse(file.read_text("utf-8"))):
        names = []
        if isinstance(node, ast.ImportFrom) and node.module:
            assert not node.level, f"{file} has a relative import"
            names = [node.module]
        elif isinstance(node, ast.Import):
            names = [alias.name for alias in node.names]
        found |= {name.split(".")[1] for name in names if name.startswith("ombix.")}
        found |= {name.split(".")[0] for name in names if not name.startswith("ombix")}
    return found


PACKAGES = {path.name for path in SOURCE.iterdir() if path.is_dir() and (path / "__init__.py").exists()}


@pytest.mark.parametrize("package", sorted(ALLOWED))
def test_directions(package: str) -> None:
    files = list((SOURCE / package).rglob("*.py"))
    assert files
    for file in files:
        assert imports(file) & PACKAGES <= ALLOWED[package], file


def test_only_the_interface_imports_the_interface_libraries() -> None:
    for package in ALLOWED:
        for file in (SOURCE / package).rglob("*.py"):
            assert not imports(file) & {"typer", "rich", "click"}, file


def test_every_package_is_covered() -> None:
    assert {*ALLOWED, "cli"} == PACKAGES


def test_every_module_opens_with_a_sentence() -> None:
    for file in SOURCE.rglob("*.py"):
        text = file.read_text("utf-8")
        if text.strip():
            doc = ast.get_docstring(ast.parse(text))
            assert doc, file
            assert doc.split("\n")[0][0].isupper() or doc.startswith("`"), file


def test_no_editor_is_named_outside_its_folder_and_what_users_read() -> None:
    """The neutral model knows no editor by name."""
    for package in ("core", "store", "stage", "report", "proving"):
        for file in (SOURCE / package).rglob("*.py"):
            text = file.read_text("utf-8")
            code = ast.unparse(_without_docstrings(ast.parse(text)))
            for name in ("'micro'", "'nano'"):
                assert name not in code, file


def _without_docstrings(tree: ast.Module) -> ast.Module:
    for node in ast.walk(tree):
        if isinstance(node, ast.Module | ast.ClassDef | ast.FunctionDef) and ast.get_docstring(node):
            node.body = node.body[1:] or [ast.Pass()]
    return tree
