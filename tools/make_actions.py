"""Writes docs/actions.md: every action of the catalogue, by kind of work.

Usage: python tools/make_actions.py.
"""

from collections.abc import Iterator
from pathlib import Path

from ombix.core.catalogue.actions import Action
from ombix.data.shipped import Shipped
from ombix.text.effects.examples import Example, examples

PAGE = Path(__file__).resolve().parent.parent / "docs" / "actions.md"
HEAD = """\
# The actions

What people put on keys, independently of any editor: {count} actions in {domains} kinds of work. `ombix how` finds them by
everyday words, `ombix bind` gives them keys. An action with an exact effect on text and cursor (`=`) is compared and pressed
to the letter, and has an example: `|` is the cursor, `«` or `»` the other end of what is selected, `⏎` a line end, `→` a tab. Of
the others it is known what they lead to. `!` closes something, leaves the editor (`!!`), or loses work (`!!!`).
"""
_RISKS = {"none": "", "closes": " !", "leaves": " !!", "loses work": " !!!"}


def _shown(one: Example) -> str:
    """An example in a cell of a table."""
    before, after = (text.replace("\n", "⏎").replace("\t", "→").replace("|", "\\|") for text in (one.before, one.after))
    told = f"{', '.join(value for _name, value in one.arguments)}: " if one.arguments else ""
    kept = f" and keeps `{one.keeps}`" if one.keeps else ""
    becomes = "stays" if before == after else f"becomes {_code(after)}"
    return f" {told}{_code(before)} {becomes}{kept}.".replace("\n", "⏎")


def _code(text: str) -> str:
    return f"`` {text} ``" if "`" in text else f"`{text}`"


def _row(one: Action, known: dict[str, tuple[Example, ...]]) -> str:
    told = ", ".join(f"{name}: {kind}" for name, kind in one.arguments.items())
    sign = " =" if one.effect else ""
    words = ", ".join(one.words)
    shown = _shown(known[one.name][0]) if one.name in known else ""
    return f"| `{one.name}`{sign}{_RISKS[one.risk]} | {one.does}{f' ({told})' if told else ''}{shown} | {words} |"


def _lines() -> Iterator[str]:
    shipped = Shipped()
    catalogue = shipped.catalogue()
    yield HEAD.format(count=len(catalogue.actions), domains=len(catalogue.domains))
    for domain, title in catalogue.domains.items():
        known = examples(domain, shipped.examples(domain))
        yield f"## {title}: `{domain}`\n\n| action | does | words |\n|---|---|---|"
        yield from (_row(one, known) for one in catalogue.actions.values() if one.domain == domain)
        yield ""


def page() -> str:
    """The page, made anew."""
    return "\n".join(_lines()).replace("|\n\n", "|\n\n").rstrip("\n") + "\n"


if __name__ == "__main__":
    PAGE.write_text(page(), "utf-8")
    print(f"wrote {PAGE.name}")
