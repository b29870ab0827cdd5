"""Rules that an installed package brings: the entry point's name is the rule's, its object a `Rule`."""

from collections.abc import Callable, Iterator
from functools import lru_cache
from typing import Any

from msgspec.structs import replace

from ombix.core.audit.model import AuditSubject, Finding, Rule
from ombix.core.errors import InputError
from ombix.core.plug_ins import PlugIn


@lru_cache
def brought(plug_in: PlugIn) -> Rule:
    """The rule, which is told apart where it fails. One that does not load is a rule whose check says so: it is left out with
    `--not-rule`, and never passed over silently."""
    try:
        rule = load(plug_in)
    except InputError as error:
        return Rule(
            plug_in.name, "error", error.what, "It finds nothing until it loads.", "", error.advice, _raising(error)
        )
    return replace(rule, check=_watched(rule, plug_in))


def load(plug_in: PlugIn) -> Rule:
    """The rule as it is. Raises InputError where it does not load, or is none."""
    found: Any = plug_in.load()
    if not isinstance(found, Rule) or found.name != plug_in.name:
        raise InputError(
            f"the rule {plug_in.name} of the package {plug_in.package} is not a Rule of this name",
            "See: docs/editors-packages.md",
        )
    return found


def _raising(error: InputError) -> Callable[[AuditSubject], Iterator[Finding]]:
    def check(subject: AuditSubject) -> Iterator[Finding]:
        raise InputError(error.what, f"{error.advice} Or leave the rule out: --not-rule")

    return check


def _watched(rule: Rule, plug_in: PlugIn) -> Callable[[AuditSubject], Iterator[Finding]]:
    def check(subject: AuditSubject) -> Iterator[Finding]:
        with plug_in.running():
            for one in rule.check(subject):
                if not isinstance(one, Finding) or one.rule != rule.name:
                    raise TypeError(f"what it found is no Finding of this rule: {one!r}")
                yield one

    return check
