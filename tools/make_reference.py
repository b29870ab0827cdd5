"""Writes the reference of the library into docs/reference.md, from its docstrings: python tools/make_reference.py."""

import ast
import importlib
import inspect
import re
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import ombix
from ombix.library import Workspace

ROOT = Path(__file__).resolve().parent.parent
PAGE = ROOT / "docs" / "reference.md"
SOURCE = ROOT / "src" / "ombix"
HEAD = """\
# The library, function by function

Made from the docstrings. [How it is used](library.md), and what of it is stable. `ombix.open(path)` gives a workspace. What is
asked of it are functions that take it, by kind of work; those that scripts ask most are its methods, too. What they answer are
named tuples, which stand below each kind of work. A place is an `ombix.core.errors.Place`: a file, with lines and columns from 1.

"""


def _opened() -> Iterator[str]:
    """The workspace itself: what is opened, and what questions share."""
    tree = ast.parse((SOURCE / "workspace" / "open_workspace.py").read_text("utf-8"))
    (opened,) = [one for one in tree.body if isinstance(one, ast.ClassDef)]
    yield f"## Workspace\n\n{_text(ast.get_docstring(opened))}\n"
    asked = [name for name in vars(Workspace) if not name.startswith("_")]
    yield f"Asked as methods: {', '.join(f'`{name}`' for name in asked)}.\n"
    for one in opened.body:
        if isinstance(one, ast.FunctionDef) and not one.name.startswith("_"):
            yield _method(one)


def _rooms() -> Iterator[str]:
    """The questions by kind of work, with what they answer."""
    for room in ombix.ROOMS:
        tree = ast.parse((SOURCE / "work" / room / f"{room}_questions.py").read_text("utf-8"))
        yield f"## ombix.{room}\n\n{_text(ast.get_docstring(tree))}\n"
        for one in tree.body:
            if isinstance(one, ast.FunctionDef) and not one.name.startswith("_"):
                yield _method(one)
        for file in sorted((SOURCE / "work" / room).glob("*_answer.py")):
            yield from _answers(f"ombix.work.{room}.{file.stem}")
    for file in sorted((SOURCE / "workspace").glob("*_answer.py")):
        yield from _answers(f"ombix.workspace.{file.stem}")


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


def _answers(name: str) -> Iterator[str]:
    """What is answered, of a module."""
    module = importlib.import_module(name)
    yield f"### {name}\n\n{_text(module.__doc__)}\n"
    for kind_name, kind in vars(module).items():
        if inspect.isclass(kind) and issubclass(kind, tuple) and kind.__module__ == module.__name__:
            yield _result(kind_name, kind)


def _result(name: str, kind: Any) -> str:
    rows = [f"- `{field}`: `{_kind(kind.__annotations__[field])}`" for field in kind._fields]
    return f"#### {name}\n\n{_text(kind.__doc__)}\n\n" + "\n".join(rows) + "\n"


def _kind(annotation: Any) -> str:
    text = (
        annotation.__name__
        if isinstance(annotation, type) and not getattr(annotation, "__args__", ())
        else str(annotation)
    )
    return re.sub(r"\b(?:ombix\.work\.\w+\.\w+|ombix\.workspace\.\w+|ombix\.core\.errors|typing)\.", "", text)


MODEL = (
    "core/errors.py", "core/keys/notation.py", "core/keymap/outcomes.py", "core/keymap/bindings.py", "core/conditions/space.py",
    "core/keymap/changes.py",
    "core/audit/model.py", "core/report_forms.py", "editors/formats/__init__.py",
)  # fmt: skip
"""What rules, reports and forms of files of other packages work with."""


def _model() -> Iterator[str]:
    """The public classes and functions of the modules that packages build on."""
    yield "# What packages build on\n\n[How a package brings something along](editors-packages.md).\n"
    for name in MODEL:
        tree = ast.parse((SOURCE / name).read_text("utf-8"))
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
    return (HEAD + "\n".join([*_opened(), *_rooms(), *_model()])).rstrip("\n") + "\n"


if __name__ == "__main__":
    PAGE.write_text(page(), "utf-8")
    print(f"wrote {PAGE.name}")
