"""The keyboard at hand, with what is on its keys: read from the decisions, press by press."""

from collections.abc import Callable, Mapping, Sequence
from functools import cached_property

from msgspec import Struct

from ombix.core.conditions import NEVER, States
from ombix.core.errors import InputError, NotationError
from ombix.core.keymap.outcomes import Do, Nothing, Outcome
from ombix.core.keys.keyboards import Keyboard
from ombix.core.keys.notation import ALT, CTRL, META, MODIFIERS, NAMED_KEYS, SHIFT, Chord, Trigger, write
from ombix.core.pressing.effort import effortful
from ombix.core.pressing.layouts import KeyboardSetup, Stroke, as_typed
from ombix.core.pressing.terminals import Terminal
from ombix.work.draw.picture_answer import KeyboardPicture, PictureFamily, PictureKey, PicturePanel
from ombix.work.look.what import read_keys
from ombix.workspace.context import reserved, setup_at_hand, terminals
from ombix.workspace.effective_keymap import EffectiveKeymap
from ombix.workspace.resources import Resources

MOST_PANELS = 12
_KEYPAD = " on the numeric pad"
_SHORT = {
    "ArrowUp": "↑", "ArrowDown": "↓", "ArrowLeft": "←", "ArrowRight": "→", "Escape": "Esc", "PageUp": "PgUp", "PageDown": "PgDn",
    "PrintScreen": "Print", "ScrollLock": "Scroll", "ContextMenu": "Menu", "CapsLock": "Caps", "NumLock": "Num",
}  # fmt: skip
"""What is printed on keys whose names are longer than they are wide."""
_HELD_PLACES = {SHIFT: "Shift", CTRL: "Control", ALT: "Alt", META: "Meta"}


class PictureOptions(Struct, frozen=True):
    """What a picture shows: in which state, behind which keys, with which modifiers (none named: all that are used), on which
    keyboard, whether the strain of each key, or how often it is used, by keys."""

    within: str = ""
    after: str = ""
    modifiers: tuple[str, ...] = ()
    keyboard: str = ""
    strain: bool = False
    counts: Mapping[str, int] = {}
    title: str = ""


def picture(here: EffectiveKeymap, options: PictureOptions, resources: Resources) -> KeyboardPicture:
    """The picture. Raises InputError for keys, modifiers or a state that cannot be."""
    return _Picturing(here, options, resources).picture()


class _Picturing:
    def __init__(self, here: EffectiveKeymap, options: PictureOptions, resources: Resources) -> None:
        self._here = here
        self._options = options
        context = here.context
        self._setup: KeyboardSetup = setup_at_hand(context, resources, options.keyboard)
        self._families = resources.shipped.families()
        self._states = here.within(options.within)
        self._kept = {
            chord: f"{one.by} keeps it: {one.does}"
            for one in reserved(context, resources)
            for chord in context.platform.resolve((one.chord,))
        }
        known = terminals(context, (), resources) if context.editor is not None else {}
        self._terminal: Terminal | None = next(iter(known.values()), None)
        self._strain = effortful(resources.shipped.effort(), self._setup) if options.strain else None
        self._counts = {_trigger(keys, context.platform.resolve): count for keys, count in options.counts.items()}
        self._typed = here.space.typing

    def picture(self) -> KeyboardPicture:
        here, options = self._here, self._options
        steps = self._steps()
        panels = [self._panel(after, held) for after, held in steps[:MOST_PANELS]]
        names = ", ".join(layer.name.name for layer in here.context.layers)
        dialect = here.context.dialect
        title = (
            options.title
            or f"Keys of {names or (dialect.description.title if dialect else here.context.platform.title)}"
        )
        said = [dialect.description.title] if dialect is not None and names else []
        said += [here.context.platform.title, f"when {options.within}" if options.within else ""]
        value = "seconds" if options.strain else "times" if options.counts else ""
        return KeyboardPicture(
            title, ", ".join(filter(None, said)), self._setup.layout.title, self._setup.keyboard.title, tuple(panels),
            tuple(PictureFamily(*family[:4]) for family in self._families), value, max(0, len(steps) - MOST_PANELS),
        )  # fmt: skip

    # --- which panels

    def _steps(self) -> list[tuple[Trigger, int]]:
        """The panels: what was pressed before, and which modifiers are held."""
        options, resolve = self._options, self._here.context.platform.resolve
        after = resolve(read_keys(options.after)[0]) if options.after else ()
        wanted = [_modifiers(modifier, resolve) for modifier in options.modifiers]
        if after:
            self._check_begins(after)
        used: dict[Trigger, set[int]] = {}
        for trigger in self._rows:
            for number, chord in enumerate(trigger):
                held = self._held_for(chord)
                if held is not None:
                    used.setdefault(trigger[:number], set()).add(held)
        found: list[tuple[Trigger, int]] = []
        for one in sorted(used, key=len):
            if one[: len(after)] == after:
                groups = sorted(used[one], key=lambda held: (held.bit_count(), held))
                found += [(one, held) for held in groups if not wanted or held in wanted]
        found += [(after, held) for held in wanted if (after, held) not in found]
        return found or [(after, 0)]

    @cached_property
    def _rows(self) -> list[Trigger]:
        """The triggers that do something in the states that are meant."""
        return [trigger for trigger in self._here.pressed_tables if self._in_states(trigger)]

    def _in_states(self, trigger: Trigger) -> list[tuple[Outcome, States]]:
        space, states = self._here.space, self._states
        found: list[tuple[Outcome, States]] = []
        for row in self._here.pressed_tables[trigger].rows:
            part = row.states if states is None else space.both(row.states, states)
            if part != NEVER and not isinstance(row.binding.outcome, Nothing):
                found.append((row.binding.outcome, part))
        return found

    def _check_begins(self, after: Trigger) -> None:
        if not any(trigger[: len(after)] == after and len(trigger) > len(after) for trigger in self._rows):
            raise InputError(f"nothing begins with {write(after)}", "See: ombix show --by key")

    def _held_for(self, chord: Chord) -> int | None:
        """The modifiers that are held for a chord here; None where it cannot be pressed."""
        strokes = self._setup.strokes(chord)
        return strokes[0].held if strokes else None

    # --- one panel

    def _panel(self, after: Trigger, held: int) -> PicturePanel:
        on_places: dict[str, list[Trigger]] = {}
        by_chord: dict[Chord, list[Trigger]] = {}
        for trigger in self._rows:
            if len(trigger) > len(after) and trigger[: len(after)] == after:
                by_chord.setdefault(trigger[len(after)], []).append(trigger)
                for stroke in self._setup.strokes(trigger[len(after)]):
                    if stroke.held == held:
                        on_places.setdefault(stroke.place, []).append(trigger)
        keys = []
        for place, spot in _spots(self._setup.keyboard).items():
            chord = as_typed(Stroke(place, held), self._setup.layout)
            one = self._key(spot, chord, held, after, on_places.get(place) or by_chord.get(chord, []))
            keys.append(self._with_finger(one, (*after, chord)))
        names = "+".join(name for name, one in MODIFIERS.items() if held & one)
        shown = self._modifier_words(held)
        before = f"{self._here.context.platform.show(after)}, then " if after else ""
        return PicturePanel(
            f"{before}{shown or ('alone' if not after else 'a key alone')}", write(after), names, tuple(keys)
        )

    def _modifier_words(self, held: int) -> str:
        platform = self._here.context.platform
        names = [name for name in platform.order if held & MODIFIERS[name]]
        if platform.symbols:
            return "".join(platform.symbols.get(name, name) for name in names)
        return "+".join(
            self._setup.printed(f"{_HELD_PLACES[MODIFIERS[name]]}Left") if MODIFIERS[name] in _HELD_PLACES else name
            for name in names
        )

    def _with_finger(self, key: PictureKey, trigger: Trigger) -> PictureKey:
        """A key with the finger that presses it, where the strain of each is shown."""
        found = self._strain.effort(trigger) if self._strain is not None and key.value is not None else ""
        if isinstance(found, str):
            return key
        finger = next((press.finger for press in found.chords[-1] if press.place == key.place), "")
        return key._replace(finger=finger.replace("-", " "))

    def _key(
        self, spot: PictureKey, chord: Chord, held: int, after: Trigger, triggers: Sequence[Trigger]
    ) -> PictureKey:
        place = spot.place
        legend = self._setup.printed(place).removesuffix(_KEYPAD)
        blank = spot._replace(legend=_SHORT.get(legend, legend))
        modifier = next((one for one, name in _HELD_PLACES.items() if place.startswith(name)), 0)
        if modifier:
            return blank._replace(kind="held" if held & modifier else "modifier")
        whole = [trigger for trigger in triggers if len(trigger) == len(after) + 1]
        if whole or _can_be_named(chord):
            keys = (*after, whole[0][-1] if whole else chord)
            blank = blank._replace(keys=self._here.context.platform.show(keys), value=self._value(keys))
        if triggers:
            return self._taken(blank, whole, [trigger for trigger in triggers if len(trigger) > len(after) + 1])
        if not _can_be_named(chord):
            return blank._replace(kind="impossible", rows=("it gives no key that can be bound",))
        why_not = self._why_not(chord)
        if why_not:
            return blank._replace(kind="kept" if chord in self._kept else "impossible", rows=(why_not,))
        is_sign = len(chord.key) == 1 or chord.key == "Space"
        return blank._replace(kind="types" if is_sign and not after and not chord.modifiers & ~SHIFT else "free")

    def _taken(self, key: PictureKey, whole: Sequence[Trigger], longer: Sequence[Trigger]) -> PictureKey:
        found = [pair for trigger in whole for pair in self._in_states(trigger)]
        rows = [f"{self._here.title(outcome)}{self._when(states)}" for outcome, states in found]
        rows += [
            f"begins {self._here.context.platform.show(trigger)}: {self._here.title(self._in_states(trigger)[0][0])}"
            for trigger in longer
        ]
        chord = whole[0][-1] if whole else None
        if chord is not None and chord in self._kept:
            rows.append(self._kept[chord])
        if not found:
            return key._replace(kind="begins", rows=tuple(rows))
        outcome = found[0][0]
        return key._replace(
            kind="taken",
            does=str(outcome),
            title=self._here.title(outcome),
            family=self._family(outcome),
            rows=tuple(rows),
        )

    def _when(self, states: States) -> str:
        space = self._here.space
        if states == space.possible or states == space.both(space.text, space.possible):
            return ""
        return f", when {space.describe(states)}"

    def _family(self, outcome: Outcome) -> str:
        domain = outcome.domain if isinstance(outcome, Do) else ""
        return next((family.name for family in self._families if domain in family.domains), self._families[-1].name)

    def _why_not(self, chord: Chord) -> str:
        """Why a chord does not reach the editor; empty where it does."""
        if chord in self._kept:
            return self._kept[chord]
        if self._terminal is not None:
            sent = self._terminal.send_chord(chord)
            return sent if isinstance(sent, str) else ""
        return ""

    def _value(self, trigger: Trigger) -> float | None:
        if self._strain is not None:
            found = self._strain.effort(trigger)
            return None if isinstance(found, str) else round(found.seconds, 3)
        return float(self._counts[trigger]) if trigger in self._counts else None


def _can_be_named(chord: Chord) -> bool:
    """Whether a chord is one that can be bound: no dead key, and no level without a character."""
    return len(chord.key) == 1 or chord.key in NAMED_KEYS


def _spots(keyboard: Keyboard) -> dict[str, PictureKey]:
    """Where each key is drawn, by its place. A key that stands on two rows is in the upper half of the lower one, above another."""
    found = {
        place: PictureKey(place, one.x, one.y, one.width, 1.0, "", "free") for place, one in keyboard.positions.items()
    }
    over = {
        place: [
            other
            for other, spot in found.items()
            if 0 < spot.y - one.y < 1 and spot.x < one.x + one.width - 0.01 and one.x < spot.x + spot.width - 0.01
        ]
        for place, one in found.items()
    }
    for place, below in over.items():
        if below and any(place in others for others in over.values()):
            row = found[below[0]].y
            for other in below:
                found[other] = found[other]._replace(y=row + 0.5, height=0.5)
            found[place] = found[place]._replace(y=row, height=0.5)
    return found


def _trigger(keys: str, resolve: Callable[[Trigger], Trigger]) -> Trigger:
    return resolve(read_keys(keys)[0])


def _modifiers(name: str, resolve: Callable[[Trigger], Trigger]) -> int:
    """The modifiers of a name like `Ctrl+Shift`; `none` for none. Raises InputError."""
    if name.lower() == "none":
        return 0
    try:
        (chord,) = resolve(read_keys(f"{name}+F1")[0])
    except (NotationError, ValueError) as error:
        advice = getattr(error, "advice", "") or "Write them like Ctrl+Shift, or none."
        raise InputError(f"these are no modifiers: {name}", advice) from None
    return chord.modifiers
