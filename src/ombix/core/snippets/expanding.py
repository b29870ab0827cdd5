"""What a snippet puts into a text: its words with the values of the surroundings, and where its stops are."""

from collections.abc import Mapping, Sequence
from typing import NamedTuple

from ombix.core.errors import InputError
from ombix.core.snippets.model import GroupFormat, Part, TabStop, Text, Transformation, Variable, every_part
from ombix.core.snippets.patterns import EcmaPattern

LONGEST = 1_000_000
"""Characters that a snippet may come to."""


class StopPlace(NamedTuple):
    """Where a stop is: offsets in a text; the place itself, and what becomes there of what is filled in."""

    number: int
    start: int
    end: int
    choices: tuple[str, ...] = ()
    change: Transformation | None = None


class Expansion(NamedTuple):
    """A text with the places of its stops, those to be filled in first before the others; the last one has the number 0 and is
    always there."""

    text: str
    places: tuple[StopPlace, ...]

    @property
    def numbers(self) -> tuple[int, ...]:
        """The numbers of the stops, in the order in which they are filled in."""
        return tuple(dict.fromkeys(place.number for place in self.places))


def expand(parts: Sequence[Part], values: Mapping[str, str | None], indentation: str = "") -> Expansion:
    """Parts with values of variables: None, or one that is left out among those that are known, is a variable that is not set;
    of one that is not known at all its name becomes a stop. Lines after the first begin with `indentation`.

    Raises InputError for a pattern that takes too long, and for more than LONGEST characters.
    """
    maker = _Maker(parts, values, indentation)
    maker.put(parts)
    places = list(maker.places)
    if not any(place.number == 0 for place in places):
        places.append(StopPlace(0, len(maker.text), len(maker.text)))
    places.sort(key=lambda one: (one.number == 0, one.number))  # those of one number stay in their order
    return Expansion(maker.text, tuple(places))


class _Maker:
    def __init__(self, parts: Sequence[Part], values: Mapping[str, str | None], indentation: str) -> None:
        self.text = ""
        self.places: list[StopPlace] = []
        self._values = values
        self._indentation = indentation
        self._given: dict[int, TabStop] = {}
        for one in every_part(tuple(parts)):
            if isinstance(one, TabStop) and (one.default or one.choices):
                self._given.setdefault(one.number, one)
        numbers = [one.number for one in every_part(tuple(parts)) if isinstance(one, TabStop)]
        self._next = max(numbers, default=0) + 1
        self._unknown: dict[str, int] = {}

    def add(self, text: str) -> None:
        self.text += text.replace("\n", f"\n{self._indentation}")
        if len(self.text) > LONGEST:
            raise InputError(f"the snippet comes to more than {LONGEST:,} characters", "Make it shorter.")

    def put(self, parts: Sequence[Part]) -> None:
        for part in parts:
            if isinstance(part, Text):
                self.add(part.text)
            elif isinstance(part, TabStop):
                self.stop(part)
            else:
                self.variable(part)

    def stop(self, one: TabStop) -> None:
        start, index = len(self.text), len(self.places)
        given = self._given.get(one.number)
        if given is one:
            self.put(one.default) if one.default else self.add(one.choices[0])
        elif given is not None:  # the same words stand in each of its places, without the stops in them
            words = self._plain(given)
            self.add(transformed(words, one.change) if one.change is not None else words)
        choices = given.choices if given is not None else ()
        self.places.insert(index, StopPlace(one.number, start, len(self.text), choices, one.change))

    def _plain(self, given: TabStop) -> str:
        if not given.default:
            return given.choices[0]
        inner = _Maker(given.default, self._values, "")
        inner.put(given.default)
        return inner.text

    def variable(self, one: Variable) -> None:
        if one.name not in self._values:
            number = self._unknown.setdefault(one.name, self._next)
            self._next += number == self._next
            start = len(self.text)
            self.add(one.name)
            self.places.append(StopPlace(number, start, len(self.text)))
            return
        value = self._values[one.name]
        if not value and one.default:
            self.put(one.default)
        else:
            self.add(transformed(value or "", one.change) if one.change is not None else value or "")


def transformed(value: str, change: Transformation) -> str:
    """A value after a transformation. Raises InputError where its pattern takes too long."""

    def by(match: object) -> str:
        return "".join(one.text if isinstance(one, Text) else _group(match, one) for one in change.replacement)

    return EcmaPattern(change.pattern, change.options).replaced(value, by)


def _group(match: object, one: GroupFormat) -> str:
    try:
        text = match.group(one.group) or ""  # type: ignore[attr-defined]
    except IndexError:
        text = ""
    if one.case == "upcase":
        return str(text).upper()
    if one.case == "downcase":
        return str(text).lower()
    if one.case == "capitalize":
        return str(text[:1].upper() + text[1:])
    if text:
        return str(text) if one.present is None else one.present
    return one.absent or ""
