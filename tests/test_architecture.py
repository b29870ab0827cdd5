"""The house: which part may use which, no circles, one name for one thing, and no editor or fact written into the code."""

import ast
import re
from collections.abc import Iterator
from functools import cache
from pathlib import Path

import pytest

import ombix
from tests.helpers import ROOT, known, shipped

SOURCE = ROOT / "src" / "ombix"
FILES = sorted(SOURCE.rglob("*.py"))
LEVELS = (
    "core", "data", "text", "files", "editors", "evidence", "workspace", "report", "console", "work", "language", "library", "cli",
)  # fmt: skip
"""The folders, and the public face, from below: each uses only those named before it."""
NOT_USED = {
    "data": {"text", "files"}, "text": {"data"}, "files": {"text"}, "editors": {"files"}, "evidence": {"files"},
    "report": {"data", "text", "files", "editors", "evidence", "workspace"},
}  # fmt: skip
"""What a folder does without, though it is below."""
FOR_THE_CONSOLE = ("_command", "_console")
"""The endings of the files of a room that may ask and print."""
LONGEST_FILE = 600
"""Lines. What counts is one job a module; this only shows what has grown out of sight."""


@cache
def _parsed(file: Path) -> ast.Module:
    return ast.parse(file.read_text("utf-8"))


@cache
def modules(file: Path) -> tuple[str, ...]:
    """The modules that a file imports, wherever in it."""
    return tuple(_imported(file))


def _imported(file: Path) -> Iterator[str]:
    for node in ast.walk(_parsed(file)):
        if isinstance(node, ast.ImportFrom) and node.module:
            assert not node.level, f"{file} has a relative import"
            yield node.module
            yield from (f"{node.module}.{alias.name}" for alias in node.names)
        elif isinstance(node, ast.Import):
            yield from (alias.name for alias in node.names)


@cache
def packages(file: Path) -> set[str]:
    """The packages of Ombix that a file imports, and the libraries."""
    names = set(modules(file))
    return {name.split(".")[1] for name in names if name.startswith("ombix.")} | {
        name.split(".")[0] for name in names if not name.startswith("ombix")
    }


PACKAGES = {path.name for path in SOURCE.iterdir() if path.is_dir() and (path / "__init__.py").exists()}


@pytest.mark.parametrize("package", [one for one in LEVELS if one != "library"])
def test_directions(package: str) -> None:
    files = list((SOURCE / package).rglob("*.py"))
    assert files
    below = set(LEVELS[: LEVELS.index(package) + 1]) - NOT_USED.get(package, set())
    for file in files:
        assert packages(file) & PACKAGES <= below, file


def _rooms_used(file: Path) -> set[str]:
    return {name.split(".")[2] for name in modules(file) if name.startswith("ombix.work.") and name.count(".") > 2}


@pytest.mark.parametrize("room", ombix.ROOMS)
def test_a_room_uses_only_rooms_named_before_it(room: str) -> None:
    before = set(ombix.ROOMS[: ombix.ROOMS.index(room) + 1])
    for file in (SOURCE / "work" / room).glob("*.py"):
        assert _rooms_used(file) <= before, file


def test_the_rooms_are_those_that_are_named() -> None:
    assert {path.name for path in (SOURCE / "work").iterdir() if (path / "__init__.py").exists()} == set(ombix.ROOMS)
    said = (ROOT / "docs" / "architecture.md").read_text("utf-8")
    assert re.findall(r"^\| `work/(\w+)/`", said, re.MULTILINE) == list(ombix.ROOMS)


def test_in_a_room_only_commands_ask_and_only_layouts_lay_out() -> None:
    for file in (SOURCE / "work").rglob("*.py"):
        used = packages(file)
        if not file.stem.endswith(FOR_THE_CONSOLE):
            assert "console" not in used, file
            assert "report" not in used or file.stem.endswith("_layout"), file


def test_an_answer_is_values() -> None:
    """What a question is answered with knows nothing of how it was worked out, or is shown."""
    for file in (SOURCE / "work").rglob("*_answer.py"):
        assert packages(file) & PACKAGES <= {"core", "workspace", "work"}, file
        assert all(one.endswith("_answer") for one in _modules_of_work(file)), file


def _modules_of_work(file: Path) -> set[str]:
    names = {_module(one) for one in FILES}
    return {one for one in modules(file) if one in names and one.startswith(("ombix.work.", "ombix.workspace."))}


def test_only_the_interface_imports_the_interface_libraries() -> None:
    for file in FILES:
        inside = file.relative_to(SOURCE).parts[0] in ("console", "cli") or file.stem.endswith(FOR_THE_CONSOLE)
        assert inside or not packages(file) & {"typer", "rich", "click"}, file


def test_tables_become_shapes_in_one_place() -> None:
    """msgspec must not look into a shape in two threads at once; `shaped` sees to it."""
    users = [file.relative_to(SOURCE).as_posix() for file in FILES if "msgspec.convert(" in file.read_text("utf-8")]
    assert users == ["core/decoding.py"]


def test_every_package_is_covered() -> None:
    assert {*LEVELS} - {"library"} == PACKAGES


def test_no_circle_of_files() -> None:
    """Not even one that is hidden in functions, or in types."""
    names = {_module(file): file for file in FILES}
    graph = {name: {one for one in modules(file) if one in names and one != name} for name, file in names.items()}
    # `from package import module` needs the package's own file only to find the module.
    for name, uses in graph.items():
        graph[name] = {one for one in uses if not (names[one].name == "__init__.py" and _only_finds(names[name], one))}
        # What is in another package is read behind the package's own file.
        graph[name] |= {
            around for one in uses for around in _around(one)
            if around in names and not f"{name}.".startswith(f"{around}.")
        }  # fmt: skip
    done: set[str] = set()
    path: list[str] = []

    def visit(name: str) -> None:
        assert name not in path, " → ".join([*path[path.index(name) :], name])
        if name in done:
            return
        path.append(name)
        for other in sorted(graph[name]):
            visit(other)
        path.pop()
        done.add(name)

    for name in sorted(graph):
        visit(name)


def _around(module: str) -> Iterator[str]:
    """The packages that a module is in."""
    while "." in module:
        module = module.rpartition(".")[0]
        yield module


def _module(file: Path) -> str:
    parts = ("ombix", *file.relative_to(SOURCE).with_suffix("").parts)
    return ".".join(parts[:-1] if parts[-1] == "__init__" else parts)


def _only_finds(file: Path, package: str) -> bool:
    """Whether a file takes nothing of a package but modules in it."""
    for node in ast.walk(_parsed(file)):
        if isinstance(node, ast.ImportFrom) and node.module == package:
            folder = SOURCE.parent / package.replace(".", "/")
            if not all((folder / f"{one.name}.py").exists() or (folder / one.name).is_dir() for one in node.names):
                return False
        if isinstance(node, ast.Import) and any(one.name == package for one in node.names):
            return False
    return True


def test_no_file_does_two_jobs() -> None:
    long = {
        str(file.relative_to(SOURCE)): lines
        for file in FILES
        if (lines := file.read_text("utf-8").count("\n")) > LONGEST_FILE
    }
    assert long == {}


def test_a_class_name_stands_once() -> None:
    seen: dict[str, Path] = {}
    for file in FILES:
        for node in ast.walk(_parsed(file)):
            if isinstance(node, ast.ClassDef):
                assert node.name not in seen, f"{node.name} in {file} and {seen[node.name]}"
                seen[node.name] = file


def test_every_module_opens_with_a_sentence() -> None:
    for file in FILES:
        text = file.read_text("utf-8")
        if text.strip():
            doc = ast.get_docstring(ast.parse(text))
            assert doc, file
            assert doc.split("\n")[0][0].isupper() or doc.startswith("`"), file


def _texts(file: Path) -> set[str]:
    """The texts in a file's code, without docstrings."""
    tree = _parsed(file)
    docs = {
        id(node.value) for node in ast.walk(tree) if isinstance(node, ast.Expr) and isinstance(node.value, ast.Constant)
    }
    return {
        node.value
        for node in ast.walk(tree)
        if isinstance(node, ast.Constant) and isinstance(node.value, str) and id(node) not in docs
    }


def test_no_editor_is_named_outside_its_folder_and_what_users_read() -> None:
    """The neutral model knows no editor by name."""
    for package in ("core", "files", "text", "report", "evidence", "workspace", "work"):
        for file in (SOURCE / package).rglob("*.py"):
            named = _texts(file) & set(known())
            assert named <= _FOR_EXAMPLE.get(str(file.relative_to(SOURCE)), set()), (file, named)


_FOR_EXAMPLE = {"work/carry/adopt.py": {"joe", "micro"}}
"""Where a step to go on with needs some editor to name."""


def test_no_value_of_a_fact_is_written_into_the_code() -> None:
    """Facts, their order and what they mean to the rules stand in data; examples of rules and messages may name them."""
    values = {
        value
        for fact in shipped.facts().facts
        for value in fact.values
        if value not in ("no", "yes", "none") and not _is_another_word(value)
    }
    for package in ("core", "files", "text", "evidence", "workspace", "work", "report", "editors"):
        for file in (SOURCE / package).rglob("*.py"):
            # Drafting guesses what the words of an unknown editor mean, and so knows words.
            is_other = file.parent.name in ("rules", "drafting") or file.stem.endswith(FOR_THE_CONSOLE)
            if not is_other:
                assert not _texts(file) & values, (file, _texts(file) & values)


def _is_another_word(value: str) -> bool:
    """Whether a fact's value is a word of something else in the code, too: a field, a form of files, a platform."""
    return value in (
        "text", "search", "command", "line", "json", "toml", "one", "many", "plain", "files", "html", "markdown", "insert",
        "select", "replace", "help", "menu", "c", "go", "terminal", "question", "alternate", "tree", "list", "input", "settings",
        "form", "normal", "passed", "failed", "filter", "documentation", "comparison", "tests", "versions",
    )  # fmt: skip


def test_no_test_of_a_names_ending_tells_defaults() -> None:
    for file in FILES:
        text = file.read_text("utf-8")
        assert 'endswith(" defaults")' not in text, file


def test_no_lines_are_written_twice() -> None:
    """No run of eight identical lines, blank ones and imports left out."""
    seen: dict[tuple[str, ...], tuple[Path, int]] = {}
    for file in FILES:
        imports = {
            number
            for node in ast.walk(_parsed(file))
            if isinstance(node, ast.Import | ast.ImportFrom)
            for number in range(node.lineno, (node.end_lineno or node.lineno) + 1)
        }
        lines = [
            (number, line) for number, line in enumerate(file.read_text("utf-8").splitlines(), 1)
            if line.strip() and number not in imports
        ]  # fmt: skip
        for start in range(len(lines) - 7):
            run = tuple(line for _number, line in lines[start : start + 8])
            assert run not in seen, f"{file}:{lines[start][0]} is written at {seen.get(run)} already"
            seen[run] = file, lines[start][0]
