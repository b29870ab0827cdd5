"""What keys arrive as in the target: others that are pressed alone, or text."""

from ombix.core.conditions import States
from ombix.core.keymap.bindings import Binding
from ombix.core.keymap.outcomes import Nothing
from ombix.core.keys.notation import Trigger, types_text, write
from ombix.core.porting.port_in_progress import PortInProgress


def collides_with_plain_key(work: PortInProgress, binding: Binding, pressed: Trigger, held: States) -> str:
    """That the target takes keys for one pressed alone, like Enter, that the source tells from them and does something
    else with; empty where not."""
    place, source = work.canonical(pressed), work.request.source
    if len(place) > 1 or place[0].modifiers or source.canonical(pressed) == source.canonical(place):
        return ""
    table = source.tables.get(place)
    rows = [row for row in table.rows if row.binding.outcome == binding.outcome] if table else []
    if rows and work.space.covers(work.space.union(row.states for row in rows), held):
        return ""
    return f"it arrives as {write(place)} in {work.target.name}"


def behaviour_when_unbound(work: PortInProgress, states: States, trigger: Trigger, held: States) -> list[str]:
    """What becomes of keys that nothing is bound to in the target, where that is not nothing: they are typed, come apart, or
    wait."""
    becomes, name = work.target.unbound(trigger), work.target.name
    is_text = len(trigger) == 1 and types_text(trigger[0]) and not work.space.overlap(states, work.typing)
    if (is_text or becomes == "typed") and work.space.overlap(held, work.typing):
        return [f"it is typed in {name}"]
    if text := text_default(work, trigger):
        return text
    if becomes == "apart":
        return [f"it arrives as Escape and another key in {name}"]
    other = next((one for one in work.longer(trigger) if _goes_on(work, one, held)), None)
    return [f"it waits in {name}, as {write(other)} begins with it"] if other is not None else []


def text_default(work: PortInProgress, trigger: Trigger) -> list[str]:
    """That the text does something by itself with keys in the target where nothing is bound to them; nothing where it does not."""
    is_own = work.target.unbound(trigger) == "text"
    return [f"where nothing is bound to it, {work.target.name} does something in the text with it"] if is_own else []


def falls_through(work: PortInProgress, trigger: Trigger, written: str) -> list[str]:
    """What else becomes of the keys of a command in the target where it cannot be run; nothing where that is nothing."""
    becomes, name = work.target.unbound(trigger), work.target.name
    said = {"typed": f"{name} types it", "apart": f"{name} takes it for Escape and another key",
            "text": f"{name} does something in the text with it"}  # fmt: skip
    return [f"where {written} cannot be run, {said[becomes]}"] if becomes and work.target.passes_on(written) else []


def _goes_on(work: PortInProgress, other: Trigger, held: States) -> bool:
    """Whether the target has something of its own on longer keys in some of these states."""
    return any(not isinstance(row.outcome, Nothing) for row, _part in work.default_rows(other, held))
