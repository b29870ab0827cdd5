"""All states of an editor, and the sets of them that conditions describe.

What the facts exclude (`Facts.never`) is held in `Space.possible`; a set of states is always taken within it.
"""

from functools import cached_property

from ombix.core.conditions.diagrams import NEVER, States
from ombix.core.conditions.facts import Facts
from ombix.core.conditions.parsing import ConditionParser


class Space(ConditionParser):
    """All states over some facts: conditions in, exact answers, and words out. Sets of states are of the type `States`."""

    def __init__(self, facts: Facts) -> None:
        super().__init__(facts)
        self.exclude([self.parse(text) for text in facts.never])
        self._described: dict[States, str] = {}

    def is_over(self, facts: Facts) -> bool:
        """Whether these are its facts."""
        return self.facts is facts or self.facts == facts

    def means(self, name: str) -> States:
        """The possible states of one of the facts' meanings; none where these facts do not have it."""
        text = self.facts.meaning.get(name)
        return self.states(text) if text is not None else NEVER

    @cached_property
    def text(self) -> States:
        """The states in which the keys go to the text."""
        return self.means("text")

    @cached_property
    def typing(self) -> States:
        """The states in which a character that is not bound is typed into the text."""
        return self.means("typing")

    @cached_property
    def changing(self) -> States:
        """The states in which what is typed changes the text."""
        return self.means("changing")

    def example(self, a: States) -> dict[str, str]:
        """One possible state of `a`, with the facts that matter; raises ValueError when there is none."""
        return self.one_of(self.both(a, self.possible))

    def describe(self, a: States) -> str:
        """A short condition for the possible states of `a`; `parse` reads it back to the same possible states.

        Raises TangledError where it would be too long for a reader.
        """
        node = self.both(a, self.possible)
        if node == NEVER:
            return "never"
        if node == self.possible:
            return "always"
        known = self._described.get(a)
        if known is None:
            known = self._described[a] = self._described_anew(a, node)
        return known

    def _described_anew(self, a: States, node: States) -> str:
        from ombix.core.conditions import wording

        valid = [text for text in wording.candidates(a, self) if self.states(text) == node]
        return min(valid or [wording.exact(node, self)], key=lambda text: (len(text), text))
