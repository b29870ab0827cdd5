"""An accepted finding that is not found any more."""

from collections.abc import Iterator

from ombix.core.audit import Finding, Ground, Rule


def check(ground: Ground) -> Iterator[Finding]:
    """Nothing by itself: what no finding needs is known only when all rules have been asked; see `audit`."""
    return iter(())


RULE = Rule(
    name="stale-acceptance",
    severity="warning",
    what="The keymap accepts a finding, and there is no such finding.",
    why="The next real finding of that kind would stay quiet unseen.",
    example="""\
format = 1
name = "example"

[[accept]]
rule = "clash"
press = "Ctrl+D"
why = "the second one is meant to win"
""",
    mend="Take the acceptance out.",
    check=check,
)
