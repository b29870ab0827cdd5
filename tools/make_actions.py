"""Writes docs/actions.md: every action of the catalogue, by kind of work.

Usage: python tools/make_actions.py.
"""

from collections.abc import Iterator
from pathlib import Path

from ombix.core.actions import Action
from ombix.data.shipped import Shipped

PAGE = Path(__file__).resolve().parent.parent / "docs" / "actions.md"
HEAD = """\
# The actions

What people put on keys, independently of any editor: {count} actions in {domains} kinds of work. `ombix how` finds them by
everyday words, `ombix bind` gives them keys. An action with an exact effect on text and cursor (`=`) is compared and pressed
to the letter; of the others it is known what they lead to. `!` closes something, leaves the editor (`!!`), or loses work (`!!!`).
"""
_RISKS = {"none": "", "closes": " !", "leaves": " !!", "loses work": " !!!"}


def _row(one: Action) -> str:
    told = ", ".join(f"{name}: {kind}" for name, kind in one.arguments.items())
    sign = " =" if one.effect else ""
    words = ", ".join(one.words)
    return f"| `{one.name}`{sign}{_RISKS[one.risk]} | {one.does}{f' ({told})' if told else ''} | {words} |"


def _lines() -> Iterator[str]:
    catalogue = Shipped().catalogue()
    yield HEAD.format(count=len(catalogue.actions), domains=len(catalogue.domains))
    for domain, title in catalogue.domains.items():
        yield f"## {title}: `{domain}`\n\n| action | does | words |\n|---|---|---|"
        yield from (_row(one) for one in catalogue.actions.values() if one.domain == domain)
        yield ""


def page() -> str:
    """The page, made anew."""
    return "\n".join(_lines()).replace("|\n\n", "|\n\n").rstrip("\n") + "\n"


if __name__ == "__main__":
    PAGE.write_text(page(), "utf-8")
    print(f"wrote {PAGE.name}")
