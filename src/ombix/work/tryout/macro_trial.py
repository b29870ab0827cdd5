"""Macros and snippets tried on a text: what each step does, and what is to be known before they are trusted."""

import re
from collections.abc import Iterator, Sequence
from typing import NamedTuple

from ombix.core.errors import InputError
from ombix.core.keymap.changes import NamedKind
from ombix.core.keymap.outcomes import MAX_COUNT, Do, Macro, MacroExample, Only
from ombix.core.keys.notation import write
from ombix.core.snippets.macro_steps import every_step
from ombix.core.snippets.model import Snippet
from ombix.core.text_changes import as_lines, changes_between
from ombix.text.stage.machine import Machine
from ombix.text.stage.macro_player import Happening
from ombix.text.stage.stage_state import State
from ombix.work.tryout.macro_answer import MacroTrial, TrialRemark, TrialStep, TriedExample
from ombix.work.tryout.macros import named
from ombix.work.tryout.stage_session import StagePlace, keymap_machine
from ombix.workspace.effective_keymap import EffectiveKeymap

_FILL = re.compile(r"(\d{1,4})=(.*)", re.DOTALL)
_SELECTED = re.compile(r"\[([^\[\]|]*)\|\]|\[\|([^\[\]|]*)\]")


class TrialOptions(NamedTuple):
    """How something is tried: how many times; what goes into the gaps of a snippet, like `1=north`; examples, each a text
    before and after with | for the cursor."""

    times: int = 1
    fill: Sequence[str] = ()
    examples: Sequence[tuple[str, str]] = ()


class _Round(NamedTuple):
    """One run: the states before and behind it, and what happened."""

    before: State
    after: State
    happened: Sequence[Happening]


def try_on(name: str, place: StagePlace, here: EffectiveKeymap, options: TrialOptions, written: str = "") -> MacroTrial:
    """Try a macro or a snippet on a text. `written` is the file that the text is to be written to. Raises InputError."""
    one = named(name, here)
    if not 1 <= options.times <= MAX_COUNT:
        raise InputError(f"not a number of times: {options.times}", f"Write one from 1 to {MAX_COUNT}.")
    machine = keymap_machine(here, place)
    start = machine.state
    rounds = list(_rounds(one, machine, options))
    end = machine.state
    changes = changes_between(start.text, end.text)
    examples = [
        *(one.examples if isinstance(one, Macro) else ()),
        *(_told(*example, one) for example in options.examples),
    ]
    kind: NamedKind = "macro" if isinstance(one, Macro) else "snippet"
    return MacroTrial(
        one.name, kind, one.title, options.times, start.text, start.cursor, start.selection,
        tuple(step for number, each in enumerate(rounds) for step in _steps(number + 1, each)),
        end.text, end.cursor, end.selection, changes.places, changes.changed, changes.added, changes.removed,
        machine.changes, tuple(_remarks(one, rounds, machine, here)),
        tuple(_tried(example, one, place, here, options) for example in examples), written if end.text != start.text else "",
    )  # fmt: skip


def _rounds(one: Macro | Snippet, machine: Machine, options: TrialOptions) -> Iterator[_Round]:
    for _ in range(options.times):
        before, count = machine.state, len(machine.happened)
        if isinstance(one, Macro):
            machine.play(one.name)
        else:
            machine.put_in(one.name)
            _fill(machine, options.fill)
        yield _Round(before, machine.state, machine.happened[count:])
        if machine.is_stopped:
            return


def _fill(machine: Machine, fill: Sequence[str]) -> None:
    """Fill in the gaps of a snippet, one after the other."""
    words: dict[int, str] = {}
    for one in fill:
        match = _FILL.fullmatch(one)
        if match is None:
            raise InputError(f"{one} fills in no gap", "Write the number of the gap and what goes in, like 1=north.")
        words[int(match[1])] = match[2]
    while machine.state.filling is not None:
        number = machine.state.filling.number
        if number in words:
            machine.fill(words.pop(number))
        machine.perform(Do("cursor.next-placeholder"))
    if words:
        raise InputError(f"the snippet has no gap {min(words)}", "See: ombix macro show")


# --- steps


_MOST_STEPS = 200
"""Steps of the first run that are shown one by one."""


def _steps(number: int, one: _Round) -> Iterator[TrialStep]:
    """What was done: of the first run step by step, of another one all at once."""
    before = one.before
    if number > 1:
        is_done = not any(each.kind == "nothing" for each in one.happened)
        yield TrialStep(
            number, "the same again", "", is_done, as_lines(before.text, one.after.text, 8), *_place(one.after)
        )
        return
    for each in one.happened[:_MOST_STEPS]:
        if each.kind == "waits":
            continue
        state = each.state
        does = f"types {each.text!r}" if each.kind == "types" else str(each.outcome or f"press {write(each.keys)}")
        is_done = each.kind in ("runs", "types") and not each.why.startswith("there is no such")
        yield TrialStep(number, does, each.why, is_done, as_lines(before.text, state.text, 8), *_place(state))
        before = state


def _place(state: State) -> tuple[int, int]:
    """The line and the column of the cursor, from 1."""
    return state.text.count("\n", 0, state.cursor) + 1, state.cursor - state.text.rfind("\n", 0, state.cursor)


# --- what is to be known


def _remarks(
    one: Macro | Snippet, rounds: list[_Round], machine: Machine, here: EffectiveKeymap
) -> Iterator[TrialRemark]:
    first, start, end = rounds[0], rounds[0].before, rounds[-1].after
    if (kind := _failure(rounds, machine)) is not None:
        yield kind
    elif start.text == end.text and (start.cursor, start.selection, start.clipboard) == (
        end.cursor,
        end.selection,
        end.clipboard,
    ):
        yield TrialRemark("nothing", "nothing came of it: text, cursor, selection and what is kept are as before")
    yield from _many_places(one, rounds)
    if start.has_selection and not _stays_within(start, end):
        yield TrialRemark("beyond-selection", "what is changed goes beyond what was selected")
    lines = _changed_lines(first)
    for number, each in enumerate(rounds[1:], 2):
        if (others := _changed_lines(each)) != lines:
            said = f"run {number} changes {_said(others)}, where the first one changes {_said(lines)}"
            yield TrialRemark("other-lines", said)
            break
    if machine.changes > 1:
        yield TrialRemark("several-undos", f"undo has to be pressed {machine.changes} times to have the text back")
    if isinstance(one, Macro):
        yield from _leaving(one, here)


def _failure(rounds: list[_Round], machine: Machine) -> TrialRemark | None:
    for number, each in enumerate(rounds, 1):
        for happened in each.happened:
            if happened.kind == "nothing" and happened.why.startswith("stopped after"):
                return TrialRemark("cut-short", f"it was {happened.why}, in run {number}")
            if happened.kind == "nothing" or happened.why.startswith("there is no such"):
                what = f"{happened.outcome}: " if happened.outcome is not None else ""
                return TrialRemark("failed", f"a step did nothing in run {number}: {what}{happened.why}")
    return TrialRemark("cut-short", "it was stopped") if machine.is_stopped else None


def _many_places(one: Macro | Snippet, rounds: list[_Round]) -> Iterator[TrialRemark]:
    """Steps that change more than one place where there is one cursor, and runs that change more places than the first."""
    if isinstance(one, Snippet):
        return
    for number, each in enumerate(rounds, 1):
        before = each.before
        for happened in each.happened[:_MOST_STEPS]:
            places = changes_between(before.text, happened.state.text).places
            if places > 1 + len(before.others) and isinstance(happened.outcome, Do) and not before.has_selection:
                yield TrialRemark("more-places", f"{happened.outcome} changes {places} places at once, in run {number}")
                return
            before = happened.state
    counts = [changes_between(each.before.text, each.after.text).places for each in rounds]
    more = next((number for number, count in enumerate(counts, 1) if count > counts[0]), 0)
    if more:
        said = f"run {more} changes {counts[more - 1]} places, where the first one changes {counts[0]}"
        yield TrialRemark("more-places", said)


def _stays_within(start: State, end: State) -> bool:
    first, last = start.selection
    behind = len(start.text) - last
    return start.text[:first] == end.text[:first] and (
        not behind or start.text[last:] == end.text[len(end.text) - behind :]
    )


def _changed_lines(one: _Round) -> tuple[int, ...]:
    """The lines that a run changes, counted from the cursor's."""
    line = one.before.text.count("\n", 0, one.before.cursor)
    found = changes_between(one.before.text, one.after.text).groups
    return tuple(number - line for start, end, *_new in found for number in range(start, max(end, start + 1)))


def _said(lines: tuple[int, ...]) -> str:
    if not lines:
        return "no line"
    names = {0: "the line of the cursor", 1: "the line below", -1: "the line above"}
    said = [names.get(line, f"the {abs(line)}th line {'below' if line > 0 else 'above'}") for line in lines[:4]]
    more = f" and {len(lines) - 4} more" if len(lines) > 4 else ""
    return f"{', '.join(said)}{more}"


_BESIDE = ("files", "app", "versions", "program", "terminal", "run", "tests")
"""Kinds of work that are not taken back by undo."""


def _leaving(one: Macro, here: EffectiveKeymap) -> Iterator[TrialRemark]:
    """What a macro does beside the text."""
    said = {
        str(step): action.risk for step in every_step(one.steps)
        if isinstance(step, Do) and (action := here.catalogue.actions.get(step.action)) is not None
        and (action.risk != "none" or action.reaches != "text" or action.domain in _BESIDE)
    }  # fmt: skip
    commands = [str(step) for step in every_step(one.steps) if isinstance(step, Only)]
    if said:
        yield TrialRemark("leaves-text", f"undo does not take back {', '.join(said)}")
    if commands:
        yield TrialRemark("leaves-text", f"{', '.join(dict.fromkeys(commands))}: not done here, only that editor can")


# --- examples


def marked(text: str) -> tuple[str, int, int | None]:
    """A text with | for the cursor, and [ ] around what is selected where one of them is beside it: the text, the cursor, and
    the other end. Raises InputError."""
    selected = _SELECTED.search(text)
    if selected is not None:
        inside = selected[1] if selected[1] is not None else selected[2]
        plain = text[: selected.start()] + inside + text[selected.end() :]
        ends = (selected.start() + len(inside), selected.start())
        cursor, anchor = ends if selected[1] is not None else ends[::-1]
        return plain, cursor, anchor
    if text.count("|") != 1:
        raise InputError(f"the text has not one | for the cursor: {text!r}", "Write it where the cursor is.")
    return text.replace("|", ""), text.index("|"), None


def _told(before: str, after: str, one: Macro | Snippet) -> MacroExample:
    return MacroExample(before.replace("\\n", "\n"), after.replace("\\n", "\n"), one.place)


def _tried(
    example: MacroExample, one: Macro | Snippet, place: StagePlace, here: EffectiveKeymap, options: TrialOptions
) -> TriedExample:  # fmt: skip
    text, cursor, anchor = marked(example.before)
    marked(example.after)
    machine = keymap_machine(here, StagePlace(text, cursor, place.condition, anchor, place.file))
    list(_rounds(one, machine, options))
    state = machine.state
    found = (
        _shown(state)
        if _SELECTED.search(example.after)
        else f"{state.text[: state.cursor]}|{state.text[state.cursor :]}"
    )
    return TriedExample(example.before, example.after, found, found == example.after)


def _shown(state: State) -> str:
    start, end = state.selection
    if start == end:
        return f"{state.text[:start]}|{state.text[start:]}"
    inside = state.text[start:end]
    shown = f"[{inside}|]" if state.cursor == end else f"[|{inside}]"
    return state.text[:start] + shown + state.text[end:]
