"""Lines of a sample that take keys away."""

import re
from collections.abc import Sequence

from ombix.editors.drafting.line_blocks import CLOSING, OPENING, SampleLine, run_of
from ombix.editors.drafting.sample_shape import TAKES_AWAY, ShapeForm, ShownBinding
from ombix.editors.drafting.spellings import SpellingGuess
from ombix.editors.formats.lines import expression_of

NO_COMMAND = re.compile(r"[\"'`]?\b(null|none|nil|unbound|nothing|false)\b[\"'`]?\W*$", re.IGNORECASE)
"""An end that says that there is no command."""
_WITHOUT = re.compile(
    rf"{TAKES_AWAY.pattern}|no(?=bind|map|key|op|ne|[-_ ]|$)|dis|off|forget|ignore|erase|kill|block|mute", re.IGNORECASE
)
"""What a word begins with behind which keys alone say that they are taken away."""
_Removed = tuple[str, list[str], list[str]]
"""A form of lines that take keys away, their keys, and their sections, if they name any."""


def removals_of(
    verb: str, lines: Sequence[SampleLine], forms: Sequence[ShapeForm], spelling: SpellingGuess
) -> tuple[ShapeForm, list[tuple[SampleLine, ShownBinding]]] | None:
    """The form of lines that take keys away: like those that bind, with a word for no command, or with nothing but keys."""
    rests = [line.text[len(verb) :] for line in lines]
    found = (
        next(
            (
                one
                for form in forms
                if form.means == "bind" and form.pattern.startswith(verb)
                if (one := _without_command(form.pattern[len(verb) :], rests)) is not None
            ),
            None,
        )
        or _shorter(verb, lines, forms)
        or (_only_keys(rests) if _WITHOUT.match(verb) else None)
    )
    if found is None or not all(spelling.reads(key) for key in found[1]):
        return None
    pattern, keys, sections = found
    return ShapeForm(verb + pattern, "remove"), [
        (line, ShownBinding(key, "", section=section))
        for line, key, section in zip(lines, keys, sections or [""] * len(keys), strict=True)
    ]


def _shorter(
    verb: str, lines: Sequence[SampleLine], forms: Sequence[ShapeForm]
) -> _Removed | None:  # fmt: skip
    """The form, the keys and the sections of lines that are with another word as those that bind up to the keys."""
    for form in forms:
        before, sign, _after = form.pattern.partition("{key}")
        _word, blank, rest = before.partition(" ")
        if not (verb and sign and blank and "{section}" in rest) or "{command}" in rest:
            continue
        pattern = f"{verb.split()[0]} {rest}{{key}}"
        matches = [expression_of(pattern, "").fullmatch(line.text) for line in lines]
        found = [match for match in matches if match is not None]
        if len(found) == len(matches):
            return pattern.removeprefix(verb), [match["key"] for match in found], [match["section"] for match in found]
    return None


def _without_command(pattern: str, rests: Sequence[str]) -> _Removed | None:
    """The form and the keys of texts that are as a form of bindings up to the keys, and then say that these have no command."""
    before, _, after = pattern.partition("{key}")
    if "{" in before or not after or not all(rest.startswith(before) and NO_COMMAND.search(rest) for rest in rests):
        return None
    stops = [rest.find(after[0], len(before) + 1) for rest in rests]
    tails = {rest[stop:].rstrip(",;") for rest, stop in zip(rests, stops, strict=True)}
    if min(stops) < 0 or len(tails) > 1:
        return None
    keys = [rest[len(before) : stop].strip() for rest, stop in zip(rests, stops, strict=True)]
    return f"{before}{{key}}{max((rest[stop:] for rest, stop in zip(rests, stops, strict=True)), key=len)}", keys, []


def _only_keys(rests: Sequence[str]) -> _Removed | None:
    """The form and the keys of texts in which there is nothing else."""
    start, end = run_of(rests, OPENING), run_of([rest[::-1] for rest in rests], CLOSING)[::-1]
    if not end.strip():  # a sign at the beginning is part of the keys
        start, end = run_of(rests, " \t"), ""
    keys = [rest[len(start) : len(rest) - len(end)].strip() for rest in rests]
    return (f"{start}{{key}}{end}", keys, []) if all(keys) else None
