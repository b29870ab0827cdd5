"""An accepted finding that is not found any more."""

from collections.abc import Iterator

from msgspec.structs import replace

from ombix.core.audit.model import AuditSubject, Finding, Rule, Spot
from ombix.core.keymap.bindings import Accepted
from ombix.core.keymap.changes import RemoveAccept
from ombix.core.keys.notation import write


def check(subject: AuditSubject) -> Iterator[Finding]:
    """Nothing by itself: what no finding needs is known only when all rules have been asked; see `audit`."""
    return iter(())


def stale_finding(one: Accepted) -> Finding:
    """The finding for an acceptance that no finding needs."""
    keys = f" for {write(one.trigger)}" if one.trigger else ""
    message = f"no finding of {one.rule}{keys} is left that this accepts"
    found = RULE.finding(message, (Spot(one.place, f"accept {one.rule}"),), one.trigger)
    return replace(found, changes=(RemoveAccept(one.rule, one.trigger or ()),))


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
