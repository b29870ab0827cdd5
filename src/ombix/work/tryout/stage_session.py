"""Keys pressed one by one on the stage, on a text."""

import re
from collections.abc import Iterator, Sequence
from typing import NamedTuple

from ombix.core.conditions import Space
from ombix.core.errors import InputError
from ombix.core.keymap.bindings import Layer
from ombix.core.keys.notation import Chord, write
from ombix.core.keys.platforms import Platform
from ombix.core.pressing.terminals import in_terminal
from ombix.editors.dialect import Dialect
from ombix.editors.editor_porting import Surroundings
from ombix.editors.file_reading import read_file
from ombix.evidence.stage_proof import StagedEditor
from ombix.files.workspace_file import WorkspaceEditor
from ombix.text.stage.machine import Machine, start_state
from ombix.text.stage.macro_player import Happening, StageKeymap
from ombix.text.stage.stage_state import State
from ombix.work.carry import port
from ombix.work.look.what import read_keys
from ombix.work.tryout.press_answer import StagePress, StageReport, StageStep
from ombix.workspace.context import Opener, terminal_of
from ombix.workspace.effective_keymap import EffectiveKeymap
from ombix.workspace.resources import Resources, user_path

TEXT = "07:10 north pier to skerry\n07:45 skerry to north pier\n08:20 north pier to south pier\n"
"""What is pressed on where no text is given: a morning's timetable."""
LONGEST_TEXT = 1_000_000
"""Characters; what is pressed on is a sample."""

_PAUSE = re.compile(r"(\d+)ms")


class StagePlace(NamedTuple):
    """What keys are pressed on: a text, the cursor as an offset from 0, and the condition of the state at the start; the other
    end of what is selected, and the path of the text's file."""

    text: str
    cursor: int
    condition: str
    anchor: int | None = None
    file: str = ""


class TypedKey(NamedTuple):
    """A chord, or a pause in milliseconds, and how it is shown."""

    shown: str
    chord: Chord | None
    pause: int = 0


def place_on(text: str, at: str, condition: str, select: str = "", file: str = "") -> StagePlace:
    """A text with the cursor `at` a line and column, both from 1, and what is between that and `select` selected. Raises
    InputError."""
    if len(text) > LONGEST_TEXT:
        raise InputError(f"the text is longer than {LONGEST_TEXT:,} characters", "Press on a sample of it.")
    anchor = _offset(text, select) if select else None
    return StagePlace(text, _offset(text, at), condition, anchor, file)


def _offset(text: str, at: str) -> int:
    match = re.fullmatch(r"(\d+)(?::(\d+))?", at)
    if match is None:
        raise InputError(f"{at} is no place in a text", "Write a line and a column, like 2:7.")
    lines = text.split("\n")
    line, column = int(match[1]), int(match[2] or 1)
    if not 1 <= line <= len(lines) or not 1 <= column <= len(lines[line - 1]) + 1:
        raise InputError(f"the text has no place {at}", f"It has {len(lines)} lines.")
    return sum(len(one) + 1 for one in lines[: line - 1]) + column - 1


def strokes(words: Sequence[str], platform: Platform) -> list[TypedKey]:
    """Keys as a user typed them, chord by chord; `700ms` is a pause. Raises InputError."""
    found: list[TypedKey] = []
    for word in " ".join(words).split():
        pause = _PAUSE.fullmatch(word)
        if pause is not None:
            found.append(TypedKey(word, None, int(pause[1])))
        else:
            chords = platform.resolve(read_keys(word)[0])
            found += [TypedKey(platform.show((chord,)), chord) for chord in chords]
    if not found:
        raise InputError("no keys are given", "Write keys like Ctrl+Shift+K or Space o f.")
    return found


class OnStage(NamedTuple):
    """What keys are pressed in, what it is called, and its platform."""

    machine: Machine
    title: str
    platform: Platform


class StageSetting(NamedTuple):
    """Which editor (empty: none; that of a file is known from it), with which file of its own, on which platform."""

    editor: str = ""
    file: str = ""
    on: str = ""


def put_on_stage(setting: StageSetting, place: StagePlace, opener: Opener, resources: Resources) -> OnStage:
    """The keymap by itself; or an editor with the keymap ported to it, or with a file of its own. Raises OmbixError."""
    editor, file, on = setting
    opened = opener.open_file(user_path(file, opener.folder), editor, lenient=True) if file else None
    if not file and opener.is_file():
        opened = opener.file(lenient=True)
    if opened is not None and not opened.is_keymap and opened.editor is not None:
        called = file or opened.layers[-1].name.name
        return _in_editor(opened.editor, opened.layers, f", with {called}", on, place, opener, resources)
    if not editor:
        here = EffectiveKeymap(
            opener.bare(opened, on) if opened is not None else opener.context(on=on, lenient=True), resources
        )
        title = f"the keymap {here.keymap.layers[-1].name.name} by itself"
        return OnStage(keymap_machine(here, place), title, here.context.platform)
    chosen = opener.editor(editor)
    if opened is None and opener.workspace() is None:
        return _in_editor(chosen, (), "", on, place, opener, resources)
    origin = port.origin(opener, resources, file, lenient=True)
    made = port.port(origin, editor, opener.target(editor, on), resources)
    layer = read_file(made.target, made.file.text, "the ported file").layer
    staged = StagedEditor(made.target, [layer], made.around, resources.shipped.languages())
    title = f"{_title(made.target)}, with the ported keymap {made.source}"
    return OnStage(editor_machine(staged, place), title, made.around.platform)


def put_own_on_stage(editor: str, file: str, place: StagePlace, opener: Opener, resources: Resources) -> OnStage:
    """An editor with its own key file (empty: with its defaults alone), and no port. Raises OmbixError."""
    if file:
        return put_on_stage(StageSetting(editor, file), place, opener, resources)
    return _in_editor(opener.editor(editor), (), "", "", place, opener, resources)


def _in_editor(
    editor: WorkspaceEditor, layers: Sequence[Layer], note: str, on: str, place: StagePlace, opener: Opener,
    resources: Resources,
) -> OnStage:  # fmt: skip
    dialect = resources.dialect(editor)
    terminal = terminal_of(editor, dialect, resources)
    around = Surroundings(
        in_terminal(opener.platform(on, editor), terminal), terminal, dialect.space, resources.shipped.catalogue()
    )
    machine = editor_machine(StagedEditor(dialect, layers, around, resources.shipped.languages()), place)
    return OnStage(machine, f"{_title(dialect)}{note}", around.platform)


def _title(dialect: Dialect) -> str:
    description = dialect.description
    return description.title if description.simulated else f"{description.title}, simulated by its description"


def keymap_machine(here: EffectiveKeymap, place: StagePlace) -> Machine:
    """A keymap by itself on the stage, as in an editor that takes the usual way. Raises InputError."""
    space = here.space
    if here.context.dialect is not None:
        facts = _start(space, place.condition, here.context.dialect.description.never, here.context.dialect.name)
    else:
        never = [f"{fact.name} is not {fact.without}" for fact in space.facts.facts if fact.without]
        facts = _start(space, place.condition, never, "an editor without modes")
    keymap = StageKeymap(
        here.pressed_tables,
        here.keymap.macros,
        here.policy,
        space,
        here.catalogue,
        here.keymap.snippets,
        here.shipped.languages(),
    )
    return Machine(keymap, State(place.text, place.cursor, place.anchor, file=place.file), facts)


def editor_machine(staged: StagedEditor, place: StagePlace) -> Machine:
    """An editor on the stage. Raises InputError where it is never in the state."""
    _start(staged.space, place.condition, staged.dialect.description.never, staged.dialect.name)
    return staged.machine(place.text, place.cursor, place.condition)


def _start(space: Space, condition: str, never: Sequence[str], name: str) -> dict[str, str]:
    try:
        return start_state(space, condition, never)
    except ValueError:
        raise InputError(
            f"{name} is never in this state",
            "Say another one with --in, or try it without --editor.",
            None,
            condition,
            len(condition),
        ) from None


def report(staged: OnStage, pressed: Sequence[TypedKey]) -> StageReport:
    """Press keys, and tell what came of each."""
    machine, title, platform = staged
    start, facts = machine.state, dict(machine.facts)
    presses, past = [], start
    for stroke in pressed:
        before = len(machine.happened)
        if stroke.chord is None:
            machine.pause(stroke.pause)
        else:
            machine.press([stroke.chord])
        steps = []
        for one in machine.happened[before:]:
            steps.append(step_of(one, past))
            past = one.state
        presses.append(StagePress(stroke.shown, tuple(steps)))
    waits, end = machine.waits_for_more, machine.state
    return StageReport(
        title, platform.name, platform.title, tuple(presses), platform.show(waits) if waits else None, start.text,
        start.cursor, facts, end.text, end.cursor, end.selection,
        _folded(end), tuple(sorted(other.cursor for other in end.others)),
    )  # fmt: skip


def step_of(one: Happening, before: State) -> StageStep:
    """What happened, as it is told, beside what was there before."""
    state = one.state
    return StageStep(
        write(one.keys), one.kind, _does(one), one.why, state.text, state.cursor, state.selection, one.facts,
        tuple(_beside(before, state)),
    )  # fmt: skip


def _beside(before: State, after: State) -> Iterator[str]:
    """What a step changed beside the text and the facts, in words."""
    for name, text in after.registers:
        if dict(before.registers).get(name) != text:
            yield f"register {name} holds {text!r}"
    if after.register != before.register and after.register:
        yield f"register {after.register} is used next"
    yield from (
        f"lines {first} to {last} are folded away"
        for first, last in _folded(after)
        if (first, last) not in _folded(before)
    )
    if len(after.folds) < len(before.folds):
        yield "what was folded away is shown"


def _folded(state: State) -> tuple[tuple[int, int], ...]:
    """The lines that are folded away, from 1: the first and the last of each fold."""
    rows = [
        (state.text.count("\n", 0, fold.start) + 2, state.text.count("\n", 0, fold.end) + 1) for fold in state.folds
    ]
    return tuple(
        row for row in rows if not any(other[0] <= row[0] and row[1] <= other[1] and other != row for other in rows)
    )


def _does(one: Happening) -> str:
    if one.kind == "types":
        return f"types {one.text!r}"
    if one.kind == "waits":
        return "waits"
    return str(one.outcome) if one.outcome is not None and one.kind == "runs" else "nothing"
