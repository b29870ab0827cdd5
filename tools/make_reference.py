"""Writes the reference of the library into docs/reference.md, from its docstrings: python tools/make_reference.py."""

import ast
import importlib
import inspect
import pkgutil
import re
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from ombix.core import results

ROOT = Path(__file__).resolve().parent.parent
PAGE = ROOT / "docs" / "reference.md"
SESSION = ROOT / "src" / "ombix" / "session" / "session.py"
HEAD = """\
# The library, function by function

Made from the docstrings. [How it is used](library.md). `ombix.open(path)` gives a session; all questions are its methods. What they
answer are named tuples, which stand below, and which `ombix.core.results` has by module. A place is an
`ombix.core.errors.Place`: a file, with lines and columns from 1.

## Session

"""


def _methods() -> Iterator[str]:
    """The public methods of a session, each with its signature and its docstring."""
    (session,) = [one for one in ast.parse(SESSION.read_text("utf-8")).body if isinstance(one, ast.ClassDef)]
    for one in session.body:
        if isinstance(one, ast.FunctionDef) and not one.name.startswith("_"):
            yield _method(one)


def _method(one: ast.FunctionDef) -> str:
    is_property = any(isinstance(each, ast.Name) and each.id == "property" for each in one.decorator_list)
    one.args.args = one.args.args[1:]
    signature = "" if is_property else f"({_plain(ast.unparse(one.args))})"
    answer = _plain(ast.unparse(one.returns)) if one.returns is not None else "None"
    return f"### `{one.name}{signature}`\n\n{_text(ast.get_docstring(one))}\n\nGives `{answer}`.\n"


def _plain(text: str) -> str:
    """Without the quotes around the names of types."""
    return re.sub(r"(?<=: )'([^']*)'|^'(.*)'$", r"\1\2", text).replace("=''", '=""')


def _text(docstring: str | None) -> str:
    """A docstring as paragraphs, each in lines of the page's width."""
    found = []
    for part in re.split(r"\n\s*\n", inspect.cleandoc(docstring or "")):
        lines, line = [], ""
        for word in part.split():
            if line and len(line) + 1 + len(word) > 130:
                lines.append(line)
                line = word
            else:
                line = f"{line} {word}".strip()
        found.append("\n".join([*lines, line]))
    return "\n\n".join(found)


def _results() -> Iterator[str]:
    """What is answered, module by module."""
    for found in sorted(pkgutil.iter_modules(results.__path__), key=lambda one: one.name):
        module = importlib.import_module(f"{results.__name__}.{found.name}")
        yield f"## ombix.core.results.{found.name}\n\n{_text(module.__doc__)}\n"
        for name, kind in vars(module).items():
            if inspect.isclass(kind) and issubclass(kind, tuple) and kind.__module__ == module.__name__:
                yield _result(name, kind)


def _result(name: str, kind: Any) -> str:
    rows = [f"- `{field}`: `{_kind(kind.__annotations__[field])}`" for field in kind._fields]
    return f"### {name}\n\n{_text(kind.__doc__)}\n\n" + "\n".join(rows) + "\n"


def _kind(annotation: Any) -> str:
    text = (
        annotation.__name__
        if isinstance(annotation, type) and not getattr(annotation, "__args__", ())
        else str(annotation)
    )
    return re.sub(r"\b(?:ombix\.core\.results\.\w+|ombix\.core\.errors|typing)\.", "", text)


MODEL = (
    "core/errors.py", "core/keys.py", "core/outcomes.py", "core/keymap.py", "core/conditions/space.py", "core/changes.py",
    "core/audit/model.py", "core/report_forms.py", "dialects/formats/__init__.py",
)  # fmt: skip
"""What rules, reports and forms of files of other packages work with."""


def _model() -> Iterator[str]:
    """The public classes and functions of the modules that packages build on."""
    yield "# What packages build on\n\n[How a package brings something along](packages.md).\n"
    for name in MODEL:
        tree = ast.parse((SESSION.parent.parent / name).read_text("utf-8"))
        module = "ombix." + name.removesuffix(".py").removesuffix("/__init__").replace("/", ".")
        yield f"## {module}\n\n{_text(ast.get_docstring(tree))}\n"
        for one in tree.body:
            if isinstance(one, ast.FunctionDef) and not one.name.startswith("_"):
                yield _function(one)
            elif isinstance(one, ast.ClassDef) and not one.name.startswith("_"):
                yield _class(one)


def _function(one: ast.FunctionDef) -> str:
    answer = _plain(ast.unparse(one.returns)) if one.returns is not None else "None"
    return (
        f"### `{one.name}({_plain(ast.unparse(one.args))})`\n\n{_text(ast.get_docstring(one))}\n\nGives `{answer}`.\n"
    )


def _class(one: ast.ClassDef) -> str:
    """A class with its fields and its public methods."""
    rows = []
    for each in one.body:
        if isinstance(each, ast.AnnAssign) and isinstance(each.target, ast.Name) and not each.target.id.startswith("_"):
            rows.append(f"- `{each.target.id}`: `{_plain(ast.unparse(each.annotation))}`")
        elif isinstance(each, ast.FunctionDef) and not each.name.startswith("_"):
            is_property = any(ast.unparse(mark).endswith("property") for mark in each.decorator_list)
            each.args.args = each.args.args[1:]
            call = "" if is_property else f"({_plain(ast.unparse(each.args))})"
            answer = f" → `{_plain(ast.unparse(each.returns))}`" if each.returns is not None else ""
            said = " ".join((ast.get_docstring(each) or "").split())
            rows.append(f"- `{each.name}{call}`{answer}: {said}".rstrip(": "))
    body = "\n\n" + "\n".join(rows) if rows else ""
    return f"### {one.name}\n\n{_text(ast.get_docstring(one))}{body}\n"


def page() -> str:
    """The page, made anew."""
    return (HEAD + "\n".join([*_methods(), *_results(), *_model()])).rstrip("\n") + "\n"


if __name__ == "__main__":
    PAGE.write_text(page(), "utf-8")
    print(f"wrote {PAGE.name}")
