"""Facts about an editor's state, conditions over them, and exact reasoning about the sets of states they describe."""

from ombix.core.conditions.diagrams import ALWAYS, NEVER, Literal, States
from ombix.core.conditions.facts import ANY_OTHER, Fact, Facts, facts_of
from ombix.core.conditions.parsing import MAX_CONDITION_LENGTH, Scope, fact_names
from ombix.core.conditions.space import Space

__all__ = [
    "ALWAYS", "ANY_OTHER", "MAX_CONDITION_LENGTH", "NEVER", "Fact", "Facts", "Literal", "Scope", "Space", "States",
    "fact_names", "facts_of",
]  # fmt: skip
