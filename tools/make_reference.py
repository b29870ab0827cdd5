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


def page() -> str:
    """The page, made anew."""
    return (HEAD + "\n".join([*_methods(), *_results()])).rstrip("\n") + "\n"


if __name__ == "__main__":
    PAGE.write_text(page(), "utf-8")
    print(f"wrote {PAGE.name}")
