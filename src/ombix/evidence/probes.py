"""What is pressed where: texts, cursors, and actions before and after, chosen for each action with an exact effect."""

import itertools
from collections.abc import Iterator, Sequence

from msgspec import Struct

from ombix.core.catalogue.actions import Catalogue
from ombix.core.keymap.outcomes import Do, Step, Type
from ombix.text.effects.buffer import Settings
from ombix.text.stage.action_effects import insert, program_of, run
from ombix.text.stage.stage_state import State

MARKER = "@"
"""Typed after the press; where it lands shows the cursor. It stands in no probe's text."""

TEXT = "one two_three four\n\tfive (six seven) eight\n\nnine ten\neleven\n"
_LINES = "alpha\nbeta gamma\n\tdelta\nlast\n"


class Probe(Struct, frozen=True):
    """A situation: a text, a cursor (an offset from 0), and actions that lead up to the press or make it visible."""

    text: str
    cursor: int
    before: tuple[str, ...] = ()
    after: tuple[str, ...] = ()

    @property
    def is_at_line_end(self) -> bool:
        """Whether the cursor is behind the last character of a line."""
        return self.text[self.cursor : self.cursor + 1] in ("", "\n")

    def expected(self, what: str | Sequence[Step], settings: Settings, catalogue: Catalogue) -> str:
        """The text after the press of an action, or of steps of a macro, and the marker."""
        state = State(self.text, self.cursor, settings=settings)
        for name in (*self.before, what, *self.after):
            for step in (Do(name),) if isinstance(name, str) else name:
                if isinstance(step, Type):
                    state = insert(state, step.text)
                elif isinstance(step, Do):
                    state = run(step, state, catalogue)
        if settings.typing_replaces_selection:
            return insert(state, MARKER).text
        return state.text[: state.cursor] + MARKER + state.text[state.cursor :]


def has_effect(steps: Sequence[Step], catalogue: Catalogue) -> bool:
    """Whether a macro does nothing but what has an exact effect on text, and types in one line."""
    return bool(steps) and all(
        (isinstance(step, Do) and program_of(step, catalogue) is not None)
        or (isinstance(step, Type) and "\n" not in step.text)
        for step in steps
    )


def probes_for_steps(steps: Sequence[Step], catalogue: Catalogue) -> list[Probe]:
    """The situations in which a macro is tried. Empty for one that does more than what has an exact effect on text."""
    places = ("three", "seven", "ten")
    return [Probe(TEXT, TEXT.index(word)) for word in places] if has_effect(steps, catalogue) else []


_OTHERS = (
    TEXT,
    _LINES,
    "x = f(one, [two], 'it is')  # 07\n\tsee <b>the tide</b> \n\n\n\nHigh. Low. High?\n",
    "b\n\tpierOne = 1; two  three\n\n\na\n",
    "        # one\n\n\n\n\tb%20 &amp; \\t\n",
)
"""Texts in which most of what can be done to a text can be seen."""
_LEADING = ((), ("select.word-right",), ("select.line",), ("select.down", "select.down"), ("edit.copy-line",))
"""What comes before a press, so that something is selected or kept."""
_MOST = 2


def _telling(action: str, after: tuple[str, ...], settings: Settings, catalogue: Catalogue) -> Iterator[Probe]:
    """Situations in which it is seen that an action was run."""
    found = 0
    behinds = (after, ("select.left", *after), ("cursor.document-end", "edit.paste"))
    for behind, text, before in itertools.product(behinds, _OTHERS, _LEADING):
        for cursor in range(len(text)):
            probe = Probe(text, cursor, before, behind)
            if probe.expected(action, settings, catalogue) != probe.expected((), settings, catalogue):
                yield probe
                found += 1
                break
        if found == _MOST:
            return


def probes_for(action: str, typing_replaces: bool, shows_selection_by: str, catalogue: Catalogue) -> list[Probe]:
    """The situations in which an action with an exact effect is tried. Empty for an action without one."""
    if program_of(Do(action), catalogue) is None:
        return []
    settings = Settings(typing_replaces_selection=typing_replaces)
    probes = _usual_probes(action, typing_replaces, shows_selection_by)
    if any(probe.expected(action, settings, catalogue) != probe.expected((), settings, catalogue) for probe in probes):
        return probes
    is_selecting = action.startswith("select.") and shows_selection_by and not typing_replaces
    return [*_telling(action, (shows_selection_by,) if is_selecting else (), settings, catalogue)]


def _usual_probes(action: str, typing_replaces: bool, shows_selection_by: str) -> list[Probe]:
    """The situations in which actions of a kind are tried."""
    middle = TEXT.index("three")
    bracket = TEXT.index("(")
    selected = ("select.right", "select.right", "select.right")
    after: tuple[str, ...] = () if typing_replaces or not shows_selection_by else (shows_selection_by,)
    if action == "select.clear":
        return [Probe(TEXT, TEXT.index("two"), ("select.right", "select.right"), after)]
    if action == "select.line":
        # Where typing does not replace the selection, it is thrown away; so would be the line if none were selected.
        return [Probe(TEXT, TEXT.index("seven"), (), ("select.right", *after) if after else ())]
    if action in _SPECIAL:
        return list(_SPECIAL[action])
    if action.startswith("select."):
        return [Probe(TEXT, TEXT.index("seven"), (), after), Probe(TEXT, TEXT.index("ten"), (), after)]
    probes = [Probe(TEXT, middle), Probe(TEXT, TEXT.index("nine"))]
    if action == "cursor.matching-bracket":
        return [Probe(TEXT, bracket)]
    if action.startswith("cursor."):
        return [*probes, Probe(TEXT, TEXT.index("four") - 1), Probe(TEXT, TEXT.index("ten") + 1)]
    if action.startswith(("edit.delete", "line.indent", "line.outdent", "comment.")):
        return [*probes, Probe(TEXT, TEXT.index("\tfive"))]
    if action in ("edit.cut", "edit.copy"):
        return [*probes, Probe(TEXT, middle, (), ("cursor.down", "edit.paste")), Probe(TEXT, middle, selected)]
    return probes


_SPECIAL = {
    "edit.paste": (
        Probe(TEXT, TEXT.index("four"), ("select.right", "select.right", "edit.copy", "cursor.line-end")),
        Probe(_LINES, 2, ("edit.cut", "cursor.right", "cursor.right")),
    ),
    "select.toggle-mark": (
        Probe(TEXT, TEXT.index("three"), (), ("cursor.right", "cursor.right", "edit.discard")),
        Probe(TEXT, TEXT.index("three"), ("select.toggle-mark", "cursor.right"), ("cursor.right",)),
    ),
    "edit.copy-selection": (
        Probe(TEXT, TEXT.index("four"), ("select.right", "select.right"), ("cursor.line-end", "edit.paste")),
    ),
    "edit.copy-line": (Probe(_LINES, 6, (), ("cursor.down", "edit.paste")),),
    "edit.discard": (Probe(_LINES, 6), Probe(TEXT, TEXT.index("two"), ("select.right", "select.right"))),
    "line.indent-selection": (Probe(_LINES, 6, ("select.right", "select.right")),),
    "line.outdent-selection": (Probe(_LINES, 18, ("select.right", "select.right")),),
    "line.move-up": (Probe(_LINES, 6), Probe(_LINES, 8)),
    "line.move-down": (Probe(_LINES, 0), Probe(_LINES, 7)),
    "line.copy-down": (Probe(_LINES, 6), Probe(_LINES, 8)),
    "edit.newline": (Probe(_LINES, 2), Probe(_LINES, 16), Probe(_LINES, 20)),
    "line.outdent": (Probe(_LINES, 17), Probe(_LINES, 6)),
    "line.outdent-line": (Probe(_LINES, 17), Probe(_LINES, 6)),
    "comment.toggle": (Probe(_LINES, 6), Probe("# alpha\nbeta\n", 8), Probe("#alpha\nbeta\n", 8)),
}
