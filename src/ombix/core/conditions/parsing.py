"""The language of conditions: `pane is text and not readonly and language in (python, lua)`, read into sets of states."""

import re
from collections.abc import Mapping, Sequence
from typing import NoReturn

from ombix.core.conditions.boxes import BoxedDiagrams
from ombix.core.conditions.diagrams import ALWAYS, NEVER, States
from ombix.core.conditions.facts import OPERATORS, Fact, Facts
from ombix.core.errors import NotationError, did_you_mean

MAX_CONDITION_LENGTH = 100_000

_TOKEN = re.compile(r"\s*(?:([A-Za-z0-9_][A-Za-z0-9_.+#-]*)|([(),])|(\S))")
_WORD = re.compile(r"[A-Za-z0-9_][A-Za-z0-9_.+#-]*")
_PRECEDENCE = {"or": 1, "and": 2, "not": 3}


class Scope:
    """The conditions with a name that a layer may use: its own, then those of the layers below it.

    A name means what it meant in the layer that defined it: a layer above that defines it anew changes nothing below.
    """

    __slots__ = ("_all", "below", "own")

    def __init__(self, own: Mapping[str, str], below: Sequence["Scope"] = ()) -> None:
        self.own = dict(own)
        self._all: frozenset[str] | None = None
        self.below = tuple(scope for scope in below if scope.names())

    def find(self, name: str) -> "tuple[str, Scope] | None":
        """The text of a condition with this name, and the scope that it is to be read in."""
        if name in self.own:
            return self.own[name], self
        return next((found for scope in reversed(self.below) if (found := scope.find(name))), None)

    def spelt_out(self, text: str) -> str:
        """A condition with what its names mean in their places."""

        def said(found: re.Match[str]) -> str:
            named = self.find(found[0])
            return found[0] if named is None else f"({named[1].spelt_out(named[0])})"

        return _WORD.sub(said, text)

    def is_used_in(self, text: str) -> bool:
        """Whether a word of a condition may be one of the names."""
        if self._all is None:
            self._all = frozenset(self.names())
        return bool(self._all) and not self._all.isdisjoint(_WORD.findall(text))

    def names(self) -> list[str]:
        """All names that can be used."""
        return list(dict.fromkeys([*self.own, *(name for scope in self.below for name in scope.names())]))


def fact_names(text: str, scope: Scope | None) -> list[str]:
    """The words of a condition that may be facts, in their order, those of named conditions where their names stand."""
    found: dict[str, None] = {}
    read: set[tuple[str, int]] = set()
    pending: list[tuple[str, Scope | None]] = [(word, scope) for word in reversed(_WORD.findall(text))]
    while pending:
        word, around = pending.pop()
        named = around.find(word) if around is not None else None
        if named is None:
            found[word] = None
        elif (word, id(named[1])) not in read:
            read.add((word, id(named[1])))
            pending += [(inner, named[1]) for inner in reversed(_WORD.findall(named[0]))]
    return list(found)


class ConditionParser(BoxedDiagrams):
    """Diagrams that conditions are read into."""

    def __init__(self, facts: Facts) -> None:
        super().__init__(facts)
        self._parsed: dict[str, States] = {}
        self._parsed_in: dict[Scope, dict[str, States]] = {}
        self._named: dict[tuple[Scope, str], States] = {}
        self._resolving: list[tuple[Scope, str]] = []

    def parse(self, text: str, scope: Scope | None = None) -> States:
        """The set of states in which the condition `text` is true, possible or not. Raises NotationError.

        `scope` has the conditions with a name that it may use.
        """
        node = self._parsed.get(text)
        if node is None:
            node = self._parse(text) if scope is None else self._parse_in(text, scope)
        return node

    def states(self, text: str, scope: Scope | None = None) -> States:
        """Like `parse`, with what the facts exclude taken away."""
        return self.both(self.parse(text, scope), self.possible)

    def _parse_in(self, text: str, scope: Scope) -> States:
        known = self._parsed_in.setdefault(scope, {})
        node = known.get(text)
        if node is None:
            if scope.is_used_in(text):
                node = known[text] = _Reading(self, text, scope).read()
            else:  # most use no names
                node = self._parse(text)
        return node

    def _parse(self, text: str) -> States:
        if len(text) > MAX_CONDITION_LENGTH:
            raise NotationError(
                f"the condition is longer than {MAX_CONDITION_LENGTH} characters", text[:60] + "…", 0, 1,
                "Give its parts names under [where].",
            )  # fmt: skip
        node = self._joined(text) if " and " in text else None
        if node is None:
            node = _Reading(self, text, None).read()
        self._parsed[text] = node
        return node

    def _joined(self, text: str) -> States | None:
        """The usual form, facts joined by "and": the same few facts stand in thousands of conditions. None where it is
        another form, or has a fault, whose place is that in the whole text."""
        try:
            parsed = self._parsed
            return self.all_of([
                known if (known := parsed.get(part)) is not None else self._part(part) for part in text.split(" and ")
            ])  # fmt: skip
        except NotationError:
            return None

    def _part(self, part: str) -> States:
        """What stands between two "and": a fact, or facts joined by "or" in parentheses. Raises NotationError for all
        else, also where an "or" would bind less than the "and" beside it."""
        if " or " in part:
            if not (part.startswith("(") and part.endswith(")")):
                raise NotationError("this is another form", part, 0, 1)
            node = NEVER
            for piece in part[1:-1].split(" or "):
                known = self._parsed.get(piece)
                node = self.disjunction(node, self._part(piece) if known is None else known)
        else:
            node = _Reading(self, part, None).read()
            self.note_single(node)
        self._parsed[part] = node
        return node

    def named(self, name: str, scope: Scope) -> States:
        """The states of a condition with a name. Raises NotationError when its definition goes round in a circle."""
        found = scope.find(name)
        assert found is not None
        _text, home = found
        known = self._named.get((home, name))
        if known is not None:
            return known
        if self._resolving:  # found inside another definition, which is read again when this one is known
            raise _Needs(home, name)
        try:
            self._resolving.append((home, name))
            while self._resolving:
                self._resolve_last()
        finally:
            self._resolving.clear()
        return self._named[home, name]

    def _resolve_last(self) -> None:
        home, name = self._resolving[-1]
        text = home.own[name]
        try:
            self._named[home, name] = self.parse(text, home)
            self._resolving.pop()
        except _Needs as needs:
            wanted = (needs.home, needs.name)
            if wanted in self._resolving:
                names = [one for _home, one in self._resolving[self._resolving.index(wanted) :]]
                raise NotationError(
                    f"conditions are defined by each other: {' → '.join([*names, needs.name])}", text, 0, len(text),
                    "Write one of them out.",
                ) from None  # fmt: skip
            self._resolving.append(wanted)


class _Needs(Exception):
    """A condition with a name that has to be read first."""

    def __init__(self, home: Scope, name: str) -> None:
        super().__init__(name)
        self.home = home
        self.name = name


class _Reading:
    """One pass over a condition, with a stack of its own, so that nesting costs memory and not the call stack."""

    def __init__(self, space: ConditionParser, text: str, scope: Scope | None) -> None:
        self.space = space
        self.text = text
        self.scope = scope
        self.tokens: list[tuple[str, int]] = []
        for match in _TOKEN.finditer(text.rstrip()):  # blanks at the end would be looked through from each of them
            if match[3]:
                self.fail(
                    f"unexpected character: {match[3]}", match.start(3), match.end(3), "Use and, or, not, is, in."
                )
            token = match[1] or match[2]
            if token:
                self.tokens.append((token, match.end() - len(token)))
        self.position = 0

    def read(self) -> States:
        operands: list[States] = []
        operators: list[tuple[str, int]] = []

        def reduce(least: int) -> None:
            while operators and operators[-1][0] != "(" and _PRECEDENCE[operators[-1][0]] >= least:
                operator, _start = operators.pop()
                right = operands.pop()
                if operator == "not":
                    operands.append(self.space.negation(right))
                elif operator == "and":
                    operands.append(self.space.conjunction(operands.pop(), right))
                else:
                    operands.append(self.space.disjunction(operands.pop(), right))

        wants_operand = True
        while self.position < len(self.tokens):
            token, start = self.tokens[self.position]
            if wants_operand:
                if token in ("not", "("):
                    operators.append((token, start))
                    self.position += 1
                else:
                    operands.append(self.atom())
                    wants_operand = False
            elif token in ("and", "or"):
                reduce(_PRECEDENCE[token])
                operators.append((token, start))
                self.position += 1
                wants_operand = True
            elif token == ")":
                reduce(0)
                if not operators:
                    self.fail("this parenthesis is closed but was never opened", start, start + 1)
                operators.pop()
                self.position += 1
                # A "not" before the parenthesis belongs to it.
                while operators and operators[-1][0] == "not":
                    operators.pop()
                    operands.append(self.space.negation(operands.pop()))
            else:
                self.fail(f"expected and, or, or the end, not {token}", start, start + len(token))
        if wants_operand:
            end = len(self.text)
            self.fail("the condition ends too early" if self.tokens else "the condition is empty", max(0, end - 1), end)
        reduce(0)
        if operators:
            start = operators[-1][1]
            self.fail("this parenthesis is never closed", start, start + 1)
        return operands[0]

    def atom(self) -> States:
        name, start = self.take("a fact")
        if name == "always":
            return ALWAYS
        if name == "never":
            return NEVER
        end = start + len(name)
        if name in OPERATORS or name in "(),":
            self.fail(f"expected a fact, not {name}", start, end)
        fact = self.space.facts.by_name.get(name)
        word = self.peek()
        if word not in ("is", "in", "not") or (word == "not" and self.peek(1) != "in"):
            if self.scope is not None and self.scope.find(name) is not None:
                return self.space.named(name, self.scope)
            if fact is None:
                names = self.scope.names() if self.scope is not None else []
                self.unknown(name, start, [*self.space.facts.by_name, *names], "fact or condition")
            elif fact.is_flag:
                return self.space.literal(name, ["yes"])
            else:
                self.fail(f"{name} needs a value", start, end, f"Write {name} is {fact.values[0]}.")
        if fact is None:
            self.unknown(name, start, list(self.space.facts.by_name), "fact")
        operator, _ = self.take("is or in")
        negative = False
        if operator == "not":
            negative = True
            operator, _ = self.take("in")
        elif operator == "is" and self.peek() == "not":
            negative = True
            self.take("not")
        values = [self.value(fact)] if operator == "is" else self.values(fact)
        node = self.space.literal(name, values)
        return self.space.negation(node) if negative else node

    def values(self, fact: Fact) -> list[str]:
        self.expect("(")
        values = [self.value(fact)]
        while self.peek() == ",":
            self.take(",")
            values.append(self.value(fact))
        self.expect(")")
        return values

    def value(self, fact: Fact) -> str:
        value, start = self.take(f"a value of {fact.name}")
        if value in "(),":
            self.fail(f"expected a value of {fact.name}, not {value}", start, start + 1)
        if not fact.is_open and value not in fact.values:
            shown = ", ".join(fact.values[:12]) + (", …" if len(fact.values) > 12 else "")
            self.fail(
                f"{fact.name} is never {value}", start, start + len(value),
                did_you_mean(value, fact.values) or f"Its values are {shown}.",
            )  # fmt: skip
        return value

    def peek(self, ahead: int = 0) -> str:
        index = self.position + ahead
        return self.tokens[index][0] if index < len(self.tokens) else ""

    def take(self, wanted: str) -> tuple[str, int]:
        if self.position >= len(self.tokens):
            end = len(self.text)
            self.fail(f"the condition ends where {wanted} should stand", max(0, end - 1), end)
        self.position += 1
        return self.tokens[self.position - 1]

    def expect(self, token: str) -> None:
        found, start = self.take(token)
        if found != token:
            self.fail(f"expected {token}, not {found}", start, start + len(found))

    def unknown(self, name: str, start: int, known: Sequence[str], kind: str) -> NoReturn:
        advice = did_you_mean(name, list(known)) or f"Facts are {', '.join(self.space.facts.by_name)}."
        self.fail(f"unknown {kind}: {name}", start, start + len(name), advice)

    def fail(self, what: str, start: int, end: int, advice: str = "") -> NoReturn:
        advice = advice or "Write it like: pane is text and not readonly."
        raise NotationError(what, self.text, start, end, advice)
