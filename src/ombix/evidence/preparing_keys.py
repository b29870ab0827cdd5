"""Keys that come before others, so that these have something to do, and behind them, so that what they did shows: the same
commands in an editor with a ported file, and in one without it."""

from collections.abc import Callable, Iterable, Mapping, Sequence
from typing import NamedTuple

from ombix.core.conditions import NEVER, Space
from ombix.core.keymap.deciding import DecisionTable
from ombix.core.keymap.outcomes import Do
from ombix.core.keys.notation import Trigger, parse
from ombix.core.preparation import ComesFirst, FirstStep, first_step
from ombix.core.pressing.terminals import Terminal
from ombix.editors.abilities import DescribedTarget
from ombix.editors.dialect import Dialect
from ombix.evidence.command_references import Bindings, bound, default_key, free_keys, is_writable

_Keys = tuple[bytes, ...]


class PreparedSide(NamedTuple):
    """The keys before and behind, in one of the two editors, and the bindings that its file needs for them."""

    before: _Keys = ()
    behind: _Keys = ()
    bindings: Bindings = ()


class Preparation(NamedTuple):
    """What comes before and behind keys: with the ported file, and without it; and whether in a long text."""

    ported: PreparedSide = PreparedSide()
    plain: PreparedSide = PreparedSide()
    is_long: bool = False


class Preparer:
    """Finds what comes first in a section of an editor, whose keys with the ported file are decided by `tables` in a space."""

    def __init__(
        self, dialect: Dialect, terminal: Terminal, section: str, space: Space, tables: Mapping[Trigger, DecisionTable],
        may_be_pressed: Callable[[Trigger, str], bool],
    ) -> None:  # fmt: skip
        self._dialect, self._terminal, self._section = dialect, terminal, section
        self._tables = tables
        self._space = space
        self._may_be_pressed = may_be_pressed
        self._target = DescribedTarget(dialect)
        program = dialect.description.program
        assert program is not None
        self._program = program
        self._used = {keys[0] for keys in tables} | {binding.trigger[0] for binding in dialect.default_layer.bindings}

    def ways(self, action: str, known: Iterable[ComesFirst], taken: Sequence[bytes]) -> list[Preparation]:
        """All ways to give an action something to do that this editor has; `taken` are keys that are not free."""
        found = []
        for way in known:
            if way.is_for(action) and (self._program.window or not way.windows):
                steps = [first_step(one) for one in way.first], [first_step(one) for one in way.then]
                made = _Making(self, list(taken)).first(*steps)
                if made is not None and made not in found:
                    found.append(made._replace(is_long=way.long))
        return found

    def typed(self, text: str) -> bytes:
        """A text as keys, in a terminal or in a window."""
        return (" ".join("Space" if char == " " else char for char in text) if self._program.window else text).encode()

    def into_text(self, text: str) -> bytes:
        """A text as keys that type it into the text."""
        mode = self._program.modes.get(self._section)
        around = mode.typing if mode is not None else "{text}"
        return around.encode().replace(b"{text}", self.typed(text))

    def pressed(self, keys: str) -> bytes | None:
        """What keys send."""
        sent = self._terminal.send(parse(keys))
        return sent if isinstance(sent, bytes) else None

    def command(self, action: str) -> str | None:
        """The command for an action, if it may be pressed."""
        found = self._target.command_for(Do(action), self._section)
        if found is None or not self._may_be_pressed(parse("F6"), found.written):
            return None
        return found.written

    def key_of(self, written: str) -> bytes | None:
        """A key that runs a command with the ported file, whatever the state of the text."""
        space = self._space
        states = space.states(self._dialect.description.sections[self._section])
        for keys, table in self._tables.items():
            rows = [row for row in table.rows if space.both(row.states, states) != NEVER]
            if len(rows) == 1 and rows[0].binding.written == written and space.covers(rows[0].states, states):
                sent = self._terminal.send(keys)
                if isinstance(sent, bytes) and sent:
                    return sent
        return None

    def default_key_of(self, written: str) -> bytes | None:
        """A key that runs a command by default."""
        found = default_key(self._dialect, self._terminal, self._section, written)
        return found[1] if found is not None else None

    def free(self, taken: Sequence[bytes]) -> tuple[Trigger, bytes] | None:
        """A key that runs nothing with the ported file, or by default."""
        for trigger, sent in free_keys(self._dialect, self._terminal, self._section, self._used):
            if sent not in taken and trigger[0] not in self._used:
                return trigger, sent
        return None

    def binding(self, trigger: Trigger, written: str) -> Bindings | None:
        """A command on a key, where the file can have that."""
        made = (bound(self._dialect, self._section, trigger, written),)
        return made if is_writable(self._dialect, made) else None


class _Making:
    """One way, being made: the keys that it has taken, and the bindings that each of the two files needs."""

    def __init__(self, preparer: Preparer, taken: list[bytes]) -> None:
        self._preparer = preparer
        self._taken = taken
        self._ported: Bindings = ()
        self._plain: Bindings = ()
        self._bound: dict[str, tuple[bytes, bytes]] = {}

    def first(self, before: Sequence[FirstStep], behind: Sequence[FirstStep]) -> Preparation | None:
        pairs = [[self._pair(step) for step in steps] for steps in (before, behind)]
        sides: list[list[_Keys]] = [[], []]
        for row in pairs:
            for at, side in enumerate(sides):
                keys = tuple(pair[at] for pair in row if pair is not None)
                if len(keys) < len(row):
                    return None
                side.append(keys)
        (ported, late), (plain, later) = sides
        return Preparation(PreparedSide(ported, late, self._ported), PreparedSide(plain, later, self._plain))

    def _pair(self, step: FirstStep) -> tuple[bytes, bytes] | None:
        """The keys of a step, with the ported file and without it; None where there are none in one of them."""
        preparer = self._preparer
        if step.kind == "action":
            return self._action(step.what)
        made = {"press": preparer.pressed, "type": preparer.typed, "text": preparer.into_text}[step.kind](step.what)
        return (made, made) if made is not None else None

    def _action(self, action: str) -> tuple[bytes, bytes] | None:
        preparer = self._preparer
        written = preparer.command(action)
        if written is None:
            return None
        if written not in self._bound:
            found = preparer.key_of(written), preparer.default_key_of(written)
            keys = []
            for at, own in enumerate(found):
                sent = own if own is not None and own not in self._taken else self._newly_bound(written, at)
                if sent is None:
                    return None
                keys.append(sent)
            self._bound[written] = keys[0], keys[1]
        return self._bound[written]

    def _newly_bound(self, written: str, at: int) -> bytes | None:
        free = self._preparer.free(self._taken)
        if free is None or (made := self._preparer.binding(free[0], written)) is None:
            return None
        self._taken.append(free[1])
        if at:
            self._plain += made
        else:
            self._ported += made
        return free[1]
