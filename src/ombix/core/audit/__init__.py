"""The audit: rules, one file each, that find what is wrong with a keymap. A new file here is a new rule."""

import importlib
import pkgutil
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Literal

from ombix.core.actions import Catalogue
from ombix.core.conditions import Space
from ombix.core.deciding import Policy
from ombix.core.keymap import Binding, Keymap, by_trigger, effective_states
from ombix.core.keys import Trigger
from ombix.core.platforms import Platform

Severity = Literal["error", "warning", "note"]
SEVERITIES: tuple[Severity, ...] = ("error", "warning", "note")


@dataclass(frozen=True, slots=True)
class Finding:
    """One result: what is wrong, the bindings concerned, in which states, and what would mend it."""

    rule: str
    severity: Severity
    trigger: Trigger
    message: str
    bindings: tuple[Binding, ...]
    states: int
    mend: str


@dataclass
class Ground:
    """What the rules look at: a keymap on one platform, and how its editor decides."""

    keymap: Keymap
    platform: Platform
    space: Space
    catalogue: Catalogue
    policy: Policy

    @cached_property
    def bindings(self) -> list[Binding]:
        """The bindings in force, the lowest layer first."""
        return self.keymap.in_force(self.platform)

    @cached_property
    def by_layer_and_trigger(self) -> list[list[Binding]]:
        """Groups of two or more bindings that share a trigger and a layer, apart from editors' defaults."""
        groups = []
        for group in by_trigger(self.bindings).values():
            layers: dict[str, list[Binding]] = {}
            for binding in group:
                layers.setdefault(binding.layer, []).append(binding)
            groups += [one for layer, one in layers.items() if len(one) > 1 and not layer.endswith(" defaults")]
        return groups

    def states(self, binding: Binding) -> int:
        """The possible states in which a binding applies."""
        return effective_states(binding, self.space, self.catalogue)

    def winner(self, first: Binding, second: Binding) -> Binding:
        """Which of two bindings of a layer wins where both apply."""
        return second if self.policy.wins == "last" else first


@dataclass(frozen=True, slots=True)
class Rule:
    """A rule: its name and severity, four short parts of explanation, and the check.

    `example` is a keymap file that triggers it.
    """

    name: str
    severity: Severity
    what: str
    why: str
    example: str
    mend: str
    check: Callable[[Ground], Iterable[Finding]]


def rules() -> dict[str, Rule]:
    """All rules by name."""
    found = {}
    for module in pkgutil.iter_modules(__path__):
        rule = importlib.import_module(f"{__name__}.{module.name}").RULE
        found[rule.name] = rule
    return dict(sorted(found.items()))


def audit(ground: Ground, chosen: Sequence[Rule]) -> list[Finding]:
    """The findings of the chosen rules, errors first, then in the order of the files."""
    findings = [finding for rule in chosen for finding in rule.check(ground)]
    return sorted(findings, key=_order)


def _order(finding: Finding) -> tuple[int, str, str, int, int]:
    place = finding.bindings[0].place
    return SEVERITIES.index(finding.severity), finding.rule, place.file, place.line, place.column
