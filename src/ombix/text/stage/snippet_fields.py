"""Snippets on the stage: put in, their stops filled in one after the other, what is in several places kept alike."""

from collections.abc import Callable, Iterable

from msgspec.structs import replace

from ombix.core.snippets.expanding import StopPlace, expand, transformed
from ombix.core.snippets.model import Snippet
from ombix.core.snippets.surroundings import Enclosing, indentation_at, values
from ombix.core.text_changes import alike
from ombix.text.stage.stage_state import Filling, State


def put_in(snippet: Snippet, state: State, language: Enclosing | None = None) -> State:
    """The state with a snippet in place of what is selected, its first stop at hand. Raises InputError for one that cannot
    be put in."""
    start, end = state.selection
    told = values(state.text, state.cursor, (start, end), state.file, language)
    found = expand(snippet.parts, told, indentation_at(state.text, start))
    text = state.text[:start] + found.text + state.text[end:]
    places = tuple(place._replace(start=place.start + start, end=place.end + start) for place in found.places)
    cursor = start + len(found.text)
    placed = replace(state, text=text, cursor=cursor, anchor=None, marking=False, goal=None, others=())
    return _at_stop(placed, Filling(places, found.numbers[0]))


def word_before(state: State, snippets: Iterable[Snippet]) -> tuple[Snippet, str] | None:
    """The snippet that is expanded by the longest word before the cursor, and that word; None where there is none."""
    before = state.text[: state.cursor]
    found = [
        (snippet, word) for snippet in snippets for word in snippet.words
        if before.endswith(word) and not (_is_word(word[0]) and _is_word(before[-len(word) - 1 : -len(word)]))
    ]  # fmt: skip
    return max(found, key=lambda one: len(one[1]), default=None)


def _is_word(text: str) -> bool:
    return text.isalnum() or text == "_"


def to_stop(state: State, step: int) -> State:
    """The state at the next stop (1), or the one before (-1); behind the last one nothing is filled in any more."""
    if state.filling is None:
        return state
    state = _left(state)
    filling = state.filling
    assert filling is not None
    numbers = list(dict.fromkeys(place.number for place in filling.places))
    index = numbers.index(filling.number) + step
    if not 0 <= index < len(numbers):
        return state if step < 0 else replace(state, filling=None)
    return _at_stop(state, replace(filling, number=numbers[index]))


def choose(state: State, choice: str) -> State:
    """The state with one of its choices in the stop at hand."""
    place = _at_hand(state.filling)
    if place is None or state.filling is None:
        return state
    chosen = replace(
        state,
        text=state.text[: place.start] + choice + state.text[place.end :],
        cursor=place.start + len(choice),
        anchor=None,
    )
    return follow(state, chosen)


def _at_stop(state: State, filling: Filling) -> State:
    place = _at_hand(filling)
    assert place is not None
    anchor = place.start if place.end > place.start else None
    return replace(
        state, cursor=place.end, anchor=anchor, marking=False, goal=None, filling=filling if filling.number else None
    )


def _at_hand(filling: Filling | None) -> StopPlace | None:
    if filling is None:
        return None
    return next(
        (place for place in filling.places if place.number == filling.number and place.change is None), None
    ) or next((place for place in filling.places if place.number == filling.number), None)


def _left(state: State) -> State:
    """The state with the transformations of the stop at hand made."""
    filling, place = state.filling, _at_hand(state.filling)
    if filling is None or place is None:
        return state
    word = state.text[place.start : place.end]
    text, places = _alike(
        state.text, filling.places, place, lambda one: transformed(word, one.change) if one.change else word
    )
    if place.change is not None:  # the only place of it
        changed = transformed(word, place.change)
        text, places = _edited(text, places, (place.start, place.end), changed, place.number)
    return replace(state, text=text, filling=replace(filling, places=places))


def follow(before: State, after: State) -> State:
    """The state behind a change, with the stops where they are now, and what stands in several places alike; without stops where
    the change was made elsewhere than in the one at hand."""
    filling = before.filling
    if filling is None or after.filling is not filling or before.text == after.text:
        return after
    # What was typed stands before the cursor: of alike characters those there are the new ones.
    start, behind = alike(before.text, after.text, after.cursor)
    end = len(before.text) - behind
    place = _at_hand(filling)
    if place is None or not (place.start <= start and end <= place.end):
        return replace(after, filling=None)
    word = after.text[start : len(after.text) - behind]
    text, places = _edited(before.text, filling.places, (start, end), word, filling.number)
    found = replace(filling, places=places)
    place = _at_hand(found)
    assert place is not None
    offset = after.cursor - place.start
    written = text[place.start : place.end]
    text, places = _alike(text, places, place, lambda one: written if one.change is None else text[one.start : one.end])
    found = replace(filling, places=places)
    place = _at_hand(found)
    assert place is not None
    return replace(after, text=text, cursor=place.start + offset, filling=found)


def _alike(
    text: str, places: tuple[StopPlace, ...], place: StopPlace, words: Callable[[StopPlace], str]
) -> tuple[str, tuple[StopPlace, ...]]:
    """A text with the other places of a stop written anew, the last one first."""
    others = [index for index, one in enumerate(places) if one.number == place.number and one != place]
    for index in sorted(others, key=lambda at: -places[at].start):
        one = places[index]
        text, places = _edited(text, places, (one.start, one.end), words(one), one.number)
    return text, places


def _edited(
    text: str, places: tuple[StopPlace, ...], span: tuple[int, int], word: str, number: int
) -> tuple[str, tuple[StopPlace, ...]]:
    """A text with a word in place of a span, which belongs to the stop of a number, and the places then."""
    start, end = span
    grown = len(word) - (end - start)

    def moved(one: StopPlace) -> StopPlace:
        is_inside = one.start <= start and end <= one.end
        if is_inside and (
            one.number == number or one.start < start or end < one.end or (start < end and one.start < one.end)
        ):
            return one._replace(end=one.end + grown)
        if one.start >= end and not (one.end == start and (one.number or number + 1) < number and one.start == one.end):
            return one._replace(start=one.start + grown, end=one.end + grown)
        if start <= one.start and one.end <= end:  # it stood in what was written anew
            return one._replace(start=start + len(word), end=start + len(word))
        return one

    return text[:start] + word + text[end:], tuple(map(moved, places))
