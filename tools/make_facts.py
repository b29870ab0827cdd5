"""Writes the list of facts into docs/facts.md: python tools/make_facts.py."""

from collections.abc import Iterator
from pathlib import Path

from ombix.core.conditions.facts import Fact
from ombix.data.shipped import Shipped

PAGE = Path(__file__).resolve().parent.parent / "docs" / "facts.md"
HEAD = """\
# Facts

What [conditions](files.md#conditions) speak of: {count} properties of an editor's state. One of yes and no stands alone: `not
files-shown`. A key that shows a pane when it is hidden and hides it when it is shown is two bindings with such conditions.

A keymap, or the [description](describing.md) of an editor, declares facts of its own with `[fact.NAME]`, and gives a known one
more values: `[fact.pane]` with `more = ["charts"]` adds a pane.

| fact | says | values |
|---|---|---|
"""


def _values(fact: Fact) -> str:
    if fact.is_flag:
        return "yes, no"
    return ", ".join(f"`{value}`" for value in fact.values) + (", or any other" if fact.is_open else "")


def _rows() -> Iterator[str]:
    for fact in Shipped().facts().facts:
        yield f"| `{fact.name}` | {fact.title} | {_values(fact)} |"


def page() -> str:
    """The page, made anew."""
    return HEAD.format(count=len(Shipped().facts().facts)) + "\n".join(_rows()) + "\n"


if __name__ == "__main__":
    PAGE.write_text(page(), "utf-8")
    print(f"wrote {PAGE.name}")
