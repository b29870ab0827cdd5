"""The steps of macros: all of them, one after the other without repetitions and macros in them, and circles among macros."""

from collections.abc import Iterable, Iterator, Mapping, Sequence

from ombix.core.errors import InputError
from ombix.core.keymap.outcomes import Macro, Play, Repeat, Step, Until, When

MOST_STEPS = 10_000
"""Steps of one run of a macro."""
MOST_ROUNDS = 1000
"""How many times steps are done until something holds, where nothing else is said."""


def in_languages(languages: Sequence[str]) -> str:
    """The condition that an entry for some languages has; `always` for one that is for all."""
    if len(languages) < 2:
        return f"language is {languages[0]}" if languages else "always"
    return f"language in ({', '.join(languages)})"


def every_step(steps: Iterable[Step]) -> Iterator[Step]:
    """All steps, also those inside repetitions and conditions, in their order."""
    for step in steps:
        yield step
        if isinstance(step, Repeat | Until | When):
            yield from every_step(step.steps)


def played(steps: Iterable[Step]) -> Iterator[str]:
    """The macros that steps play themselves."""
    return (step.macro for step in every_step(steps) if isinstance(step, Play))


def circles(plays: Mapping[str, Iterable[str]]) -> Iterator[tuple[str, ...]]:
    """The circles among names of which each leads to others, each once, from the first name in it on."""
    done: set[str] = set()
    for first in plays:
        if first in done:
            continue
        path: list[str] = []
        waiting: list[Iterator[str]] = [iter((first,))]
        while waiting:
            name = next(waiting[-1], None)
            if name is None:
                waiting.pop()
                if path:
                    done.add(path.pop())
            elif name in path:
                yield tuple(path[path.index(name) :])
            elif name not in done:
                path.append(name)
                waiting.append(iter(plays.get(name, ())))


def circle_from(name: str, macros: Mapping[str, Macro]) -> tuple[str, ...]:
    """The first circle that playing a macro would come to; empty where there is none."""
    reached: dict[str, list[str]] = {}
    left = [name]
    while left:
        one = left.pop()
        if one in macros and one not in reached:
            reached[one] = list(dict.fromkeys(played(macros[one].steps)))
            left += reached[one]
    return next(circles(reached), ())


def flat(steps: Iterable[Step], macros: Mapping[str, Macro]) -> tuple[Step, ...]:
    """Steps without repetitions of a fixed number, and with those of other macros in place of these. Raises InputError for
    a circle, a macro that is not there, and more than MOST_STEPS."""
    found: list[Step] = []

    def add(some: Iterable[Step], within: tuple[str, ...]) -> None:
        for step in some:
            if isinstance(step, Repeat):
                for _ in range(step.times):
                    add(step.steps, within)
            elif isinstance(step, Play):
                if step.macro in within:
                    raise InputError(f"the macro {step.macro} plays itself", "Take the circle apart.")
                macro = macros.get(step.macro)
                if macro is None:
                    raise InputError(f"there is no macro {step.macro}")
                for _ in range(step.times):
                    add(macro.steps, (*within, step.macro))
            elif isinstance(step, When):
                found.append(When(step.where, flat_inside(step.steps, within), step.scope))
            elif isinstance(step, Until):
                found.append(Until(flat_inside(step.steps, within), step.until, step.most))
            else:
                found.append(step)
            if len(found) > MOST_STEPS:
                raise InputError(f"the steps are more than {MOST_STEPS:,}")

    def flat_inside(some: Iterable[Step], within: tuple[str, ...]) -> tuple[Step, ...]:
        nonlocal found
        outer, found = found, []
        add(some, within)
        inner, found = tuple(found), outer
        return inner

    add(steps, ())
    return tuple(found)
