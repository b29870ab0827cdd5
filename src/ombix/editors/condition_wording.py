"""How an editor's file writes conditions: its own words for states, joined by its own signs, read and written."""

import re
from collections.abc import Iterator, Sequence
from functools import cached_property
from itertools import combinations

from ombix.core.conditions import ALWAYS, ANY_OTHER, NEVER, Literal, Space, States
from ombix.core.errors import InputError, NotationError, TangledError, did_you_mean
from ombix.editors.description import Conditions

_VALUE = "{value}"
_OPEN_VALUE = r"[A-Za-z0-9_][A-Za-z0-9_.+#-]*"


class Wording:
    """The words of an editor for conditions."""

    def __init__(self, conditions: Conditions, editor: str) -> None:
        self._conditions = conditions
        self._editor = editor
        signs = [conditions.both, conditions.either, conditions.negated, *conditions.group]
        # A sign of letters is a word of its own; another one stands for itself wherever it is.
        marks = [re.escape(sign) for sign in sorted(signs, key=len, reverse=True) if not sign[:1].isalnum()]
        apart = "".join(re.escape(sign[0]) for sign in signs if not sign[:1].isalnum())
        self._token = re.compile(rf"\s*(?:({'|'.join(marks)})|([^\s{apart}]+)|(\S))" if marks else r"\s*()(?:(\S+))()")

    def read(self, text: str) -> str:
        """The condition in Ombix's words. Raises InputError for a word that the editor does not have."""
        conditions = self._conditions
        said = {
            conditions.both: " and ", conditions.either: " or ", conditions.negated: " not ",
            conditions.group[0]: "(", conditions.group[1]: ")",
        }  # fmt: skip
        pieces = []
        for match in self._token.finditer(text):
            token = match[1] or match[2] or match[3]
            pieces.append(said[token] if token in said else f"({self._meaning(token)})")
        return re.sub(r"\s+", " ", "".join(pieces)).strip() or "always"

    def _meaning(self, word: str) -> str:
        known = self._conditions.words.get(word)
        if known is not None:
            return known
        for pattern, meaning in self._conditions.words.items():
            if _VALUE in pattern:
                shape = re.escape(pattern).replace(re.escape(_VALUE), f"({_OPEN_VALUE})")
                if match := re.fullmatch(shape, word):
                    return meaning.replace(_VALUE, match[1])
        raise InputError(
            f"{self._editor} has no condition {word}", did_you_mean(word, list(self._conditions.words))
        )  # fmt: skip

    @cached_property
    def open_facts(self) -> dict[str, str]:
        """Each open fact of which any value can be said, and the word for one."""
        found = {}
        for pattern, meaning in self._conditions.words.items():
            if _VALUE in pattern and (match := re.fullmatch(r"([\w-]+) is \{value\}", meaning)):
                found[match[1]] = pattern
        return found

    def expressible(self, states: States, space: Space) -> States:
        """The least set of states that has `states` in it and that the words can express."""
        classes = {fact: self._classes(fact, space) for fact in space.mentioned(states) if fact not in self.open_facts}
        return space.coarsened(states, classes)

    def _classes(self, fact: str, space: Space) -> list[list[str]]:
        """The values of a fact that no word tells from each other."""
        values = space.facts.by_name[fact].domain
        words = [node for _word, node in self._words_on(fact, space)]
        by_signature: dict[tuple[bool, ...], list[str]] = {}
        for value in values:
            signature = tuple(space.holds(node, {fact: value}) for node in words)
            by_signature.setdefault(signature, []).append(value)
        return [group for group in by_signature.values() if len(group) > 1]

    def _words_on(self, fact: str, space: Space) -> Iterator[tuple[str, States]]:
        for word, meaning in self._conditions.words.items():
            if _VALUE not in word:
                node = space.parse(meaning)
                if space.mentioned(node) == {fact}:
                    yield word, node

    def write(self, states: States, within: States, space: Space, about: frozenset[str] = frozenset()) -> str | None:
        """The condition that is true in `states`, as far as `within` goes, in the editor's words; "" for all of it.

        It speaks of the facts `about`, where it can. None where the editor's words do not tell these states.
        """
        raw, states = states, space.both(states, within)
        if states == within and not about:
            return ""
        # What the facts exclude makes conditions shorter, but may bring in values that no word tells.
        coarse = self.expressible(states, space)
        ways = [(states, within), (raw, ALWAYS)]
        if space.both(coarse, within) == states:
            ways += [(coarse, within), (coarse, ALWAYS)]
        texts: list[tuple[bool, int, str]] = []
        for node, care in ways:
            try:
                terms = space.terms(node, care)
            except TangledError:
                continue  # too long for a file
            if (text := self._write(terms, space)) is not None:
                facts = {fact for term in terms for fact, _values, _is_so in term}
                texts.append((not about <= facts, len(text), text))
        return min(texts)[2] if texts else None

    def _write(self, alternatives: list[list[Literal]], space: Space) -> str | None:
        terms: list[list[str]] = []
        for term in alternatives:
            literals = [self._literal(fact, values, is_so, space) for fact, values, is_so in term]
            if None in literals:
                return None
            terms.append([str(literal) for literal in literals])
        if not terms or [] in terms:
            return None
        both, either = f" {self._conditions.both} ", f" {self._conditions.either} "
        if len(terms) == 1:
            return both.join(self._grouped(one) if len(terms[0]) > 1 else one for one in terms[0])
        return either.join(
            self._in_group(both.join(self._grouped(one) for one in term)) if len(term) > 1 else term[0]
            for term in terms
        )

    def _literal(self, fact: str, values: Sequence[str], is_so: bool, space: Space) -> str | None:
        word = self.open_facts.get(fact)
        if word is not None:
            if ANY_OTHER in values:
                return None
            said = [word.replace(_VALUE, value) for value in values]
            return self._any_of(said) if is_so else self._none_of(said)
        known = space.facts.by_name[fact]
        chosen = [value for value in known.domain if (value in values) == is_so]
        nodes = dict(self._words_on(fact, space))

        def is_exactly(node: States, wanted: list[str]) -> bool:
            return all(space.holds(node, {fact: value}) == (value in wanted) for value in known.domain)

        others = [value for value in known.values if value not in chosen]
        for name, node in nodes.items():
            if is_exactly(node, chosen):
                return name
        for name, node in nodes.items():
            if is_exactly(node, others) and not known.is_open:
                return self._none_of([name])
        inside = [name for name, node in nodes.items() if not any(space.holds(node, {fact: other}) for other in others)]
        covered = space.union(nodes[name] for name in inside)
        if inside and is_exactly(covered, chosen):
            return self._any_of(self._needed(inside, nodes, covered, space))
        outside = [name for name, node in nodes.items() if not any(space.holds(node, {fact: one}) for one in chosen)]
        covered = space.union(nodes[name] for name in outside)
        if outside and is_exactly(space.negate(covered), chosen):
            return self._none_of(self._needed(outside, nodes, covered, space))
        return self._of_classes(chosen, nodes, fact, space)

    def _of_classes(self, chosen: Sequence[str], nodes: dict[str, States], fact: str, space: Space) -> str | None:
        """The values as groups that no word parts, each by the fewest words that are true or false for it alone."""
        domain = space.facts.by_name[fact].domain
        has = {value: tuple(space.holds(node, {fact: value}) for node in nodes.values()) for value in domain}
        signatures = {has[value] for value in chosen}
        if any(has[value] in signatures for value in domain if value not in chosen):
            return None
        found = []
        for signature in sorted(signatures, reverse=True):
            signed = list(zip(nodes, signature, strict=True))
            others = [dict(zip(nodes, other, strict=True)) for other in set(has.values()) if other != signature]
            fewest = next(
                some
                for count in range(1, len(signed) + 1)
                for some in combinations(signed, count)
                if all(any(other[word] != is_so for word, is_so in some) for other in others)
            )
            found.append([word if is_so else self._none_of([word]) for word, is_so in fewest])
        both = f" {self._conditions.both} "
        if len(found) == 1:
            return both.join(found[0])
        return self._any_of([self._in_group(both.join(one)) if len(one) > 1 else one[0] for one in found])

    @staticmethod
    def _needed(words: list[str], nodes: dict[str, States], covered: States, space: Space) -> list[str]:
        """Those of the words that are needed for what all of them cover."""
        kept = list(words)
        for word in words:
            rest = [one for one in kept if one != word]
            if rest and space.union(nodes[one] for one in rest) == covered:
                kept = rest
        return kept

    def _any_of(self, words: list[str]) -> str:
        return f" {self._conditions.either} ".join(words)

    def _none_of(self, words: list[str]) -> str:
        sign = self._conditions.negated
        space = " " if sign[-1:].isalnum() else ""
        if len(words) == 1:
            return f"{sign}{space}{words[0]}"
        return f"{sign}{space}{self._in_group(self._any_of(words))}"

    def _grouped(self, text: str) -> str:
        """A literal that has an "or" of its own is put into a group."""
        return self._in_group(text) if f" {self._conditions.either} " in text and not self._is_in_group(text) else text

    def _is_in_group(self, text: str) -> bool:
        opening, closing = self._conditions.group
        return opening in text and text.endswith(closing)

    def _in_group(self, text: str) -> str:
        opening, closing = self._conditions.group
        return f"{opening}{text}{closing}"


def check_wording(wording: Wording, conditions: Conditions, space: Space) -> Iterator[str]:
    """What is wrong with an editor's words: meanings that are no condition, or hold always or never."""
    for word, meaning in conditions.words.items():
        text = meaning.replace(_VALUE, "x")
        try:
            node = space.states(text)
        except NotationError as error:
            yield f"the word {word} means {meaning}: {error.what}"
            continue
        if node in (NEVER, ALWAYS, space.possible):
            yield f"the word {word} means {meaning}, which holds {'never' if node == NEVER else 'always'}"
        if wording.read(word.replace(_VALUE, "x")) != f"({text})":
            yield f"the word {word} is not read as itself"
