"""What happens when keys are pressed, and why: answered from an index."""

from collections.abc import Callable

from ombix.core.errors import NotationError, nearest
from ombix.core.keys.loose_notation import capital_note, read_loosely
from ombix.core.keys.notation import CTRL, META, SHIFT, Chord, Trigger, parse, types_text, write
from ombix.core.keys.platforms import Platform, platform
from ombix.workspace.decision_index import DecisionIndex, decision_rows, gone_bindings, not_here, presses
from ombix.workspace.lookup_cache import Settled
from ombix.workspace.what_answer import DecisionLine, Explanation, NotApplying

Settle = Callable[[Trigger], Settled]
NotHere = Callable[[Trigger], tuple[NotApplying, ...]]


def explain(
    index: DecisionIndex, text: str, settle: Settle, within: str = "", not_applying: NotHere = lambda trigger: ()
) -> Explanation:
    """What `text`, keys as a user typed them, does. Raises NotationError where it is no keys.

    `index` holds in the states of the condition `within`; `not_applying` finds bindings of keys that do not apply there.
    """
    here = platform(index.platform["name"], index.platform)
    asked, reading = read_keys(text)
    trigger = here.resolve(asked)
    plain = trigger
    found_presses = presses(index, write(trigger))
    arrives = trigger
    assumed = becomes = ""
    is_known = write(trigger) in index.triggers
    if not is_known and (index.layouts or index.editor or _has_shifted_sign(trigger)):
        trigger, found_presses, arrives, assumed, becomes = settle(trigger)
    if trigger != plain:
        on = f"on the layout {assumed}, which is assumed" if assumed else f"on the layout {index.layouts[0]}"
        said = f"{here.show(plain)} is {here.show(trigger)} {on}."
        reading = f"{reading} {said}" if reading else said
    if arrives != trigger:
        said = f"{here.show(trigger)} arrives as {here.show(arrives)} in {index.editor}."
        reading, trigger = f"{reading} {said}" if reading else said, arrives
    if not _is_known(index, trigger):
        other = _on_main_modifier(trigger, here)
        if other is not None and _is_known(index, other):
            reading = _other_platform(trigger, other, here)
            trigger, found_presses = other, presses(index, write(other))
    keys = write(trigger)
    rows = decision_rows(index, keys)
    follows = _follows(index, keys)
    fires = index.prefix == "fires"
    starts = [write(trigger[:length]) for length in range(1, len(trigger))] if fires else []
    typed = index.types and not rows and not follows and all(map(types_text, trigger))
    bound = bool(rows or follows)
    return Explanation(
        text, keys, here.show(trigger), here.name, here.title, within, reading, found_presses, rows, follows,
        tuple(row for start in starts for row in decision_rows(index, start)),
        not_applying(trigger), gone_bindings(index, keys), _wait(index) if rows and follows else "", typed,
        keys in index.hidden, () if bound or within or keys in index.hidden else _nearby(index, trigger), index.about, index.editor,
        not_here(index, keys), "" if bound or typed else becomes,
    )  # fmt: skip


def read_keys(text: str) -> tuple[Trigger, str]:
    """Keys that a user typed, in the portable notation or as others write them; and a sentence on how they were read,
    where that is another one. Raises NotationError."""
    loose = read_loosely(text)
    if loose is None:
        return parse(text), capital_note(text)
    try:
        trigger = parse(loose)
    except NotationError:
        return parse(text), ""  # the error is about what was typed
    return trigger, f"{text} is read as {write(trigger)}."


def _has_shifted_sign(trigger: Trigger) -> bool:
    """Whether Shift is held beside a sign that it chooses another one for: which, only the layout tells."""
    return any(
        chord.modifiers & SHIFT and len(chord.key) == 1 and chord.key.lower() == chord.key.upper() for chord in trigger
    )


def _is_known(index: DecisionIndex, trigger: Trigger) -> bool:
    keys = write(trigger)
    return (
        keys in index.triggers
        or keys in index.hidden
        or any(trigger.startswith(f"{keys} ") for trigger in index.triggers)
    )


def _on_main_modifier(trigger: Trigger, here: Platform) -> Trigger | None:
    """The keys with this platform's main modifier where another one's was typed."""
    other = META if here.main_modifier == CTRL else CTRL
    if not any(chord.modifiers & other for chord in trigger):
        return None
    return tuple(
        Chord(chord.modifiers & ~other | here.main_modifier, chord.key) if chord.modifiers & other else chord
        for chord in trigger
    )


def _other_platform(typed: Trigger, trigger: Trigger, here: Platform) -> str:
    if here.main_modifier == CTRL and "Meta" in here.symbols:
        return f"A terminal does not send {here.show(typed)}; this is {here.show(trigger)}, which Mod is there."
    elsewhere = "a Mac" if here.main_modifier == CTRL else "Linux and Windows"
    return (
        f"{here.show(typed)} itself is not bound on {here.title}; this is {here.show(trigger)}, which it stands for when it "
        f"is written for {elsewhere}."
    )


def _follows(index: DecisionIndex, keys: str) -> tuple[DecisionLine, ...]:
    start = f"{keys} "
    return tuple(
        row for longer in index.triggers if longer.startswith(start) for row in decision_rows(index, longer)
        if row.kind != "nothing"
    )  # fmt: skip


def _wait(index: DecisionIndex) -> str:
    if index.prefix == "fires":
        return "It fires at once: what follows is not reached."
    until = f"for {index.wait_ms} ms" if index.prefix == "timed" else "until they come or another key is pressed"
    return f"It waits {until}, where more keys may follow."


def _nearby(index: DecisionIndex, trigger: Trigger) -> tuple[str, ...]:
    key = trigger[-1].key
    same = [keys for keys in index.triggers if len(parse(keys)) == len(trigger) and parse(keys)[-1].key == key]
    return tuple(same[:5] or nearest(write(trigger), list(index.triggers), 3, 75))
