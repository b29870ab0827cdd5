"""Porting into an editor that has a description: the request, the file, and the check that the file holds what it should."""

from collections.abc import Callable, Iterable, Mapping, Sequence

from msgspec import Struct, field

from ombix.core.catalogue.actions import Catalogue
from ombix.core.conditions import Space, States
from ombix.core.errors import OutsideError
from ombix.core.gc_pause import no_garbage_collection
from ombix.core.keymap.bindings import Binding, Keymap, Layer
from ombix.core.keymap.deciding import DecisionTable, Policy, decide_all
from ombix.core.keymap.outcomes import Do, Macro, Outcome
from ombix.core.keys.notation import META, Trigger, parse, write
from ombix.core.keys.platforms import Platform
from ombix.core.porting import PORT_LAYER, Judgement, PortEntry, PortRequest, PortSource, Rehomed, check, port
from ombix.core.porting.everyday import ANSWERS, Answer
from ombix.core.pressing.terminals import Terminal, as_arriving
from ombix.editors.abilities import DescribedTarget
from ombix.editors.command_effects import EffectJudge, manner_of
from ombix.editors.dialect import Dialect
from ombix.editors.everyday_models import everyday_models
from ombix.editors.file_reading import read_file
from ombix.editors.file_writing import write_file
from ombix.editors.known_command_rows import way_to

_USUAL = 0.95
"""A fact has a value usually that it has in such a share of everyday states."""
_NOT_WRITTEN = "Nothing was written. This is a fault in the description of the editor."


class Surroundings(Struct, frozen=True):
    """Where a port is made: on which platform, for which terminal, over which states."""

    platform: Platform
    terminal: Terminal
    space: Space
    catalogue: Catalogue
    writes_careful: bool = False
    """Whether commands that can throw text away where the source keeps it are carried over."""
    homes: Mapping[str, Dialect] = {}
    """The editors of adopted layers, by their names in the workspace."""


class PortedFile(Struct, frozen=True):
    """A port that holds: its entries and the text of the target's file."""

    target: str
    entries: tuple[PortEntry, ...]
    text: str
    checked: int
    """How many decisions (trigger and set of states) were compared after reading the text back."""
    rehomed: tuple[Rehomed, ...] = ()
    layer: Layer = field(default_factory=lambda: Layer(PORT_LAYER))
    """What was read back from the text."""

    @property
    def answers(self) -> dict[Answer, int]:
        """How many entries have which answer."""
        return {answer: sum(1 for entry in self.entries if entry.answer == answer) for answer in ANSWERS}

    def count(self, verdict: str) -> int:
        """How many entries have this verdict."""
        return sum(1 for entry in self.entries if entry.verdict == verdict)


def port_keymap(
    keymap: Keymap, bindings: Sequence[Binding], source: Dialect | None, target: Dialect, around: Surroundings,
    rehome: bool = False,
) -> PortedFile:  # fmt: skip
    """Port the bindings in force of a keymap to `target`, read the result back and compare it decision by decision.

    `source` is the editor that decides them, where there is one. Raises OutsideError, with nothing written, when a
    difference is not accounted for by a verdict.
    """
    with no_garbage_collection():
        return _port(keymap, bindings, source, target, around, rehome)


def _port(
    keymap: Keymap, bindings: Sequence[Binding], source: Dialect | None, target: Dialect, around: Surroundings,
    rehome: bool,
) -> PortedFile:  # fmt: skip
    space, catalogue = around.space, around.catalogue
    decided = decide_all(bindings, space, catalogue, source.policy if source is not None else Policy())
    judge = judge_of(keymap, source, target, catalogue, around.homes)
    request = PortRequest(
        _source(decided, keymap, source, target, around), DescribedTarget(target, judge.home_of, around.terminal),
        decisions_with(target, [], around), around.terminal.canonical, space, rehome,
        # Systems and desktops keep most of what is pressed with their own modifier.
        lambda trigger: bool(trigger[0].modifiers & META and not around.platform.main_modifier & META),
        lambda binding: target.policy.rank(binding, space, catalogue),
        _judge(source, target, judge, catalogue), around.writes_careful, _search(target, judge), _usual(space),
    )  # fmt: skip
    result = port(request)
    kept = [one for layer in keymap.layers for one in layer.kept if one.editor == target.name]
    result.layer.kept = kept
    text = write_file(target, result.layer, space, catalogue)
    layer = read_file(target, text, f"{target.name} port", PORT_LAYER).layer
    known = {one.text for one in kept}
    for piece in layer.kept:
        if piece.text not in known:
            raise OutsideError(
                f"the port does not hold: {piece.text} was written, and is not read: {piece.reason}", _NOT_WRITTEN
            )
    sections = [space.states(condition) for condition in target.description.sections.values()]
    after = decisions_with(target, [layer], around)
    found = check(result, decided, after, sections, around.terminal.canonical, space, catalogue)
    if found.unaccounted:
        one = found.unaccounted[0]
        raise OutsideError(
            f"the port does not hold: {write(one.trigger)} is {one.first or 'not bound'} in the source and "
            f"{one.second or 'not bound'} in {target.name}, when {space.describe(one.states)}", _NOT_WRITTEN,
        )  # fmt: skip
    if found.waiting:
        raise OutsideError(
            f"the port does not hold: {write(found.waiting[0])} waits in {target.name} for what may follow, and not in "
            "the source", _NOT_WRITTEN,
        )  # fmt: skip
    return PortedFile(target.name, tuple(result.entries), text, found.compared, tuple(result.rehomed), layer)


def kept_lines(keymap: Keymap, dialect: Dialect | None) -> list[str]:
    """The lines of an editor's file that bind nothing."""
    return [
        one.text for layer in keymap.layers for one in layer.kept if dialect is not None and one.editor == dialect.name
    ]


def judge_of(
    keymap: Keymap, source: Dialect | None, target: Dialect, catalogue: Catalogue, homes: Mapping[str, Dialect]
) -> EffectJudge:
    """Compares what the bindings of a keymap do with what commands of a target do; `homes` are the editors of adopted
    layers, by their names."""
    every = [target, *([source] if source is not None else []), *homes.values()]
    return EffectJudge(source, target, catalogue, {one.name: kept_lines(keymap, one) for one in every}, homes)


def _judge(
    source: Dialect | None, target: Dialect, judge: EffectJudge, catalogue: Catalogue
) -> Callable[[Binding, Macro | None, str, str], Judgement | None]:
    """Compares what a binding of the source does with a command of the target. Of a text that is left nobody sees where the cursor
    ends up."""
    if source is not None and source.name == target.name:
        return lambda binding, macro, section, written: None

    def judged(binding: Binding, macro: Macro | None, section: str, written: str) -> Judgement | None:
        found = judge.compare(binding, macro, section, written)
        if found is None or found.is_equal:
            return None if found is None else Judgement("")
        is_known = found.is_sure or found.start is not None or bool(found.when)
        action = catalogue.actions.get(binding.outcome.action) if isinstance(binding.outcome, Do) else None
        if action is not None and action.risk == "leaves":
            return Judgement(found.sentence, is_known=is_known)
        return Judgement(found.sentence, lambda: judge.counted(binding, macro, section, written), is_known)

    return judged


def _usual(space: Space) -> States:
    """The states that an editor usually is in, by the models of everyday work."""
    found = space.possible
    for fact in space.facts.facts:
        values = [model.usual(fact.name) for model in everyday_models()]
        for value in fact.values:
            if values and all(shares.get(value, 0) >= _USUAL for shares in values):
                found = space.both(found, space.literal(fact.name, [value]))
    return found


def _search(target: Dialect, judge: EffectJudge) -> Callable[[Binding, Macro | None, str], str]:
    """Finds commands in a row that do in the target what a binding does, by the table that ships."""

    known: dict[tuple[Outcome, str], str] = {}
    usual: dict[str, bool] = {}

    def is_usual(section: str) -> bool:
        """Whether the target is set as it was when the table was made."""
        if section not in usual:
            usual[section] = judge.manner(section) == manner_of(target, section)
        return usual[section]

    def searched(binding: Binding, macro: Macro | None, section: str) -> str:
        side = judge.source_side(binding, macro, section) if is_usual(section) else None
        if side is None or side.unsure or side.has_facts:  # rows are looked for that change a text
            return ""
        return way_to(side, target, section)

    def search(binding: Binding, macro: Macro | None, section: str) -> str:
        if not isinstance(binding.outcome, Do) or judge.home_of(binding)[0] is not None:
            return searched(binding, macro, section)
        key = binding.outcome, section
        if key not in known:  # what an action promises is the same for all of its keys
            known[key] = searched(binding, macro, section)
        return known[key]

    return search


def _source(
    decided: dict[Trigger, DecisionTable], keymap: Keymap, source: Dialect | None, target: Dialect, around: Surroundings
) -> PortSource:  # fmt: skip
    """What is known of where a port comes from."""

    def editor_of(binding: Binding) -> str:
        if source is not None:
            return source.name
        name = binding.layer.editor if binding.layer.kind == "adopted" else ""
        return around.homes[name].name if name in around.homes else name

    known: dict[str, dict[Trigger, DecisionTable]] = {}

    def beneath(binding: Binding) -> dict[Trigger, DecisionTable]:
        home = source if source is not None else around.homes.get(binding.layer.editor)
        if home is None:
            return {}
        if home.name not in known:
            own = Keymap([home.default_layer]).in_force(around.platform).bindings
            known[home.name] = decide_all(own, around.space, around.catalogue, home.policy)
        return known[home.name]

    if source is None:
        return PortSource(decided, keymap.macros, keymap.snippets, editor_of, beneath=beneath)
    within = _within(source, around.space)
    policy = source.policy if source.name != target.name else None
    by_itself = frozenset(map(parse, source.description.keys.unbound.text)) if policy is not None else frozenset()
    return PortSource(
        decided,
        keymap.macros,
        keymap.snippets,
        editor_of,
        policy,
        within,
        source.terminal.canonical,
        by_itself,
        beneath,
    )


def _within(source: Dialect, space: Space) -> States:
    """The states that the source can be in; of an editor without a fact, like modes, whatever its value."""
    within = space.minus(space.possible, space.union(map(space.parse, source.description.never)))
    for fact in space.facts.facts:
        if fact.without and not space.overlap(within, space.negate(space.literal(fact.name, [fact.without]))):
            within = space.without(within, [fact.name])
    return within


def decisions_with(dialect: Dialect, layers: Iterable[Layer], around: Surroundings) -> dict[Trigger, DecisionTable]:
    """The decisions of an editor with these layers on top of its defaults, by canonical trigger."""
    bindings = Keymap([dialect.default_layer, *layers]).in_force(around.platform).bindings
    return decide_all(as_arriving(bindings, around.terminal), around.space, around.catalogue, dialect.policy)
