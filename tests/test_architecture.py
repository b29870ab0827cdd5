"""The house: which part may use which, no circles, one name for one thing, and no editor or fact written into the code."""

import ast
from collections.abc import Iterator
from functools import cache
from pathlib import Path

import pytest

from tests.helpers import ROOT, known, shipped

SOURCE = ROOT / "src" / "ombix"
FILES = sorted(SOURCE.rglob("*.py"))
ALLOWED = {
    "core": {"core"},
    "data": {"core", "data"},  # reads what ships
    "report": {"core", "report"},
    "effects": {"core", "effects"},
    "stage": {"core", "effects", "stage"},
    "store": {"core", "data", "store"},
    "merging": {"core", "store", "merging"},
    "dialects": {"core", "data", "effects", "dialects"},
    # Proving presses what a dialect describes and compares with what its programs and the stage say.
    "proving": {"core", "data", "dialects", "effects", "stage", "proving"},
    "drafting": {"core", "dialects", "drafting"},
    "session": {"core", "data", "store", "merging", "dialects", "drafting", "effects", "stage", "proving", "session"},
    # A command parses, asks a session, and renders; three completions and the demo look at the data that ships.
    "language": {"core", "session", "report", "language"},
    "cli": {"core", "data", "dialects", "proving", "session", "report", "language", "cli"},
}
LONGEST_FILE = 500
"""Lines; a longer file does two jobs, unless it is named here."""
ONE_THING = {
    "store/keymap_reading.py": "one reader",
    "session/session.py": "one class, a method a question",
}
MOST_PARAMETERS = 7


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


@pytest.mark.parametrize("package", sorted(ALLOWED))
def test_directions(package: str) -> None:
    files = list((SOURCE / package).rglob("*.py"))
    assert files
    for file in files:
        assert packages(file) & PACKAGES <= ALLOWED[package], file


def test_only_the_interface_imports_the_interface_libraries() -> None:
    for package in set(ALLOWED) - {"cli"}:
        for file in (SOURCE / package).rglob("*.py"):
            assert not packages(file) & {"typer", "rich", "click"}, file


def test_tables_become_shapes_in_one_place() -> None:
    """msgspec must not look into a shape in two threads at once; `shaped` sees to it."""
    users = [file.relative_to(SOURCE).as_posix() for file in FILES if "msgspec.convert(" in file.read_text("utf-8")]
    assert users == ["core/shapes.py"]


def test_every_package_is_covered() -> None:
    assert set(ALLOWED) == PACKAGES


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
    assert set(long) <= set(ONE_THING), long


def _functions() -> Iterator[tuple[Path, ast.FunctionDef]]:
    for file in FILES:
        for node in ast.walk(_parsed(file)):
            if isinstance(node, ast.FunctionDef):
                yield file, node


def test_no_function_has_more_than_seven_parameters() -> None:
    """Options that are given by name count, too; a command's are what its user can type."""
    for file, node in _functions():
        if file.parent.name == "commands" and (node.name == "run" or node.decorator_list):
            continue
        found = [one.arg for one in (*node.args.posonlyargs, *node.args.args, *node.args.kwonlyargs)]
        count = len(found) - (found[:1] == ["self"])
        assert count <= MOST_PARAMETERS, f"{file.relative_to(SOURCE)}: {node.name} has {count}"


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
    for package in ("core", "store", "stage", "report", "proving", "session"):
        for file in (SOURCE / package).rglob("*.py"):
            named = _texts(file) & set(known())
            assert named <= _FOR_EXAMPLE.get(str(file.relative_to(SOURCE)), set()), (file, named)


_FOR_EXAMPLE = {"session/adopting.py": {"joe", "micro"}}
"""Where a step to go on with needs some editor to name."""


def test_no_value_of_a_fact_is_written_into_the_code() -> None:
    """Facts, their order and what they mean to the rules stand in data; examples of rules and messages may name them."""
    values = {
        value
        for fact in shipped.facts().facts
        for value in fact.values
        if value not in ("no", "yes", "none") and not _is_another_word(value)
    }
    for package in ("core", "store", "stage", "proving", "session", "report", "dialects"):
        for file in (SOURCE / package).rglob("*.py"):
            if file.parent.name != "rules":
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
    for file in sorted(SOURCE.rglob("*.py")):
        lines = [
            (number, line) for number, line in enumerate(file.read_text().splitlines(), 1)
            if line.strip() and not line.startswith(("from ", "import "))
        ]  # fmt: skip
        for start in range(len(lines) - 7):
            run = tuple(line for _number, line in lines[start : start + 8])
            assert run not in seen, f"{file}:{lines[start][0]} is written at {seen.get(run)} already"
            seen[run] = file, lines[start][0]
