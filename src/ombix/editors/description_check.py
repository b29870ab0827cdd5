"""Tests a description of an editor: what is missing, what is ambiguous, and whether what is written is read back."""

from collections.abc import Iterator, Sequence
from itertools import combinations, product

from msgspec import Struct

from ombix.core.catalogue.actions import Catalogue
from ombix.core.conditions import NEVER, Facts, Space
from ombix.core.errors import OmbixError, Place
from ombix.core.keymap.bindings import Binding, Keymap, Layer, LayerName
from ombix.core.keymap.comparing import compare
from ombix.core.keymap.deciding import decide_all
from ombix.core.keymap.outcomes import Nothing, Outcome
from ombix.core.keys.notation import Trigger, write
from ombix.core.keys.notation import parse as parse_keys
from ombix.core.keys.platforms import Platform
from ombix.core.snippets.model import Part, Snippet, Text
from ombix.core.snippets.parsing import parse
from ombix.editors.abilities import can_write, expressible
from ombix.editors.command_effects import check_settings
from ombix.editors.condition_wording import check_wording
from ombix.editors.description_loading import Dialects
from ombix.editors.dialect import Dialect
from ombix.editors.editor_porting import Surroundings, port_keymap
from ombix.editors.file_reading import read_file
from ombix.editors.file_writing import write_file
from ombix.editors.modal_grammar import Grammar
from ombix.editors.snippet_formats import SnippetSyntax, read_snippets, write_snippets
from ombix.text.effects.program_language import program

SAMPLE = 60
"""Bindings that are written and read back."""
_NEIGHBOURS = ("nano", "micro")
"""The editors that the default keys are ported from and to, the first that is not the one described."""


class DescriptionCheck(Struct, frozen=True):
    """One test: what was tested, on how much, and what is wrong (nothing where it holds)."""

    title: str
    count: int
    faults: tuple[str, ...] = ()


def check(
    one: Dialect, catalogue: Catalogue, facts: Facts, platform: Platform, dialects: Dialects
) -> Iterator[DescriptionCheck]:
    """The tests of a description, one after the other; where the sections are wrong, the last ones are left out, and that
    is said."""
    sections = one.description.sections
    wrong = tuple(_commands(one, catalogue, dialects))
    yield DescriptionCheck("commands", len(one.vocabulary.commands), wrong)
    try:
        space = Space(facts.extended(one.facts, []))
        nodes = {name: space.states(text) for name, text in sections.items()}
    except (OmbixError, ValueError) as error:
        yield DescriptionCheck("sections", len(sections), (f"{error}; reading, writing and porting cannot be tested",))
        return
    overlapping = [
        f"{first} and {second} hold in the same states, when {space.describe(space.both(nodes[first], nodes[second]))}"
        for first, second in combinations(nodes, 2)
        if space.both(nodes[first], nodes[second]) != NEVER
    ]
    empty = [f"{name} holds in no state" for name, node in nodes.items() if node == NEVER]
    if one.description.file.default_section not in sections:
        empty.append(f"the default section {one.description.file.default_section} is not there")
    yield DescriptionCheck("sections", len(sections), (*overlapping, *empty))
    words = one.description.conditions
    if one.wording is not None and words is not None:
        yield DescriptionCheck("conditions", len(words.words), tuple(check_wording(one.wording, words, space)))
    yield DescriptionCheck("keys", len(one.spelling.chords()), tuple(_keys(one)))
    bad_defaults = tuple(_defaults(one, space, catalogue, platform))
    yield DescriptionCheck("default keys", sum(len(group.keys) for group in one.groups), bad_defaults)
    if one.grammar is not None:
        yield DescriptionCheck("operators", len(one.grammar.syntax.operators), tuple(_grammar(one, one.grammar)))
    if one.snippets is not None:
        yield DescriptionCheck("snippets", len(_SNIPPETS), tuple(_snippets(one.snippets)))
    if overlapping or empty or wrong or bad_defaults:
        return  # writing, reading and porting are tested when these are mended
    layer = _sample(one)
    yield DescriptionCheck(
        "written and read back", len(layer.bindings), tuple(_read_back(one, layer, space, catalogue, platform))
    )
    other = dialects.load(next(name for name in _NEIGHBOURS if name != one.name))
    both = Space(facts.extended([*one.facts, *other.facts], []))
    for source, target in ((one, other), (other, one)):
        keymap = Keymap([source.default_layer])
        faults: tuple[str, ...] = ()
        try:
            around = Surroundings(platform, one.terminal, both, catalogue)
            port_keymap(keymap, keymap.in_force(platform).bindings, source, target, around)
        except (OmbixError, ValueError) as error:
            faults = (str(error),)
        yield DescriptionCheck(
            f"ported from {source.name} to {target.name}", len(source.default_layer.bindings), faults
        )


def _commands(one: Dialect, catalogue: Catalogue, dialects: Dialects) -> Iterator[str]:
    def at(*keys: str) -> str:
        place = dialects.place_in(one.home / "commands.toml", *keys)
        return f"commands.toml:{place.line}: " if place.line else ""

    for name, row in one.vocabulary.commands.items():
        where = at("command", name)
        if bool(row.action) == bool(row.only):
            yield f"{where}{name} needs either an action, or what it does here only"
        elif row.action and row.action not in catalogue.actions:
            yield f"{where}{name} has an unknown action: {row.action}"
        else:
            action = catalogue.actions.get(row.action)
            taken = {*row.arguments, *row.given} - {*(action.arguments if action else ())}
            if taken:
                yield f"{where}{name} has arguments that {row.action or 'nothing'} does not take: {', '.join(sorted(taken))}"
            if row.arguments and not row.next and not one.description.commands.call:
                yield f"{where}{name} takes arguments, but commands.call does not say how it is called"
        for section in row.sections:
            if section not in one.description.sections:
                yield f"{where}{name} has an unknown section: {section}"
    yield from check_settings(one)
    for composed in one.vocabulary.compositions:
        if composed not in catalogue.actions:
            yield f"{at('composition', composed)}a composition has an unknown action: {composed}"


def _keys(one: Dialect) -> Iterator[str]:
    unbound = one.description.keys.unbound
    for name in unbound.commands:
        if not one.vocabulary.has(name):
            yield f"the commands of keys.unbound have {name} among them, which is none"
    for keys in unbound.text:
        try:
            is_key = can_write(one, parse_keys(keys))
        except OmbixError:
            is_key = False
        if not is_key:
            yield f"the text of keys.unbound has {keys} among its keys, which cannot be bound"
    seen: dict[str, Trigger] = {}
    for chord in one.spelling.chords():
        spelt = one.spelling.write((chord,))
        if spelt is None:
            continue
        if spelt in seen:
            yield f"{write((chord,))} is written like {write(seen[spelt])}: {spelt}"
        seen[spelt] = (chord,)
        try:
            read = one.spelling.read(spelt)
        except OmbixError as error:
            yield f"{write((chord,))} is written {spelt}, which is not read: {error}"
            continue
        if read != (chord,):
            yield f"{write((chord,))} is written {spelt}, which is read as {write(read)}"


def _defaults(one: Dialect, space: Space, catalogue: Catalogue, platform: Platform) -> Iterator[str]:
    try:
        layer = one.default_layer
    except (OmbixError, ValueError) as error:
        yield str(error)
        return
    for binding in Keymap([layer]).in_force(platform).bindings:
        if not binding.fixed and not can_write(one, binding.trigger):
            yield f"{write(binding.trigger)} is a default key, but cannot be bound; is it fixed?"
    nodes = [space.states(text) for text in one.description.sections.values()]
    for binding in layer.bindings if one.wording is not None else ():
        states = space.states(binding.where)
        if any(
            expressible(one, states, node, space) != space.both(states, node)
            for node in nodes
            if space.overlap(states, node)
        ):
            yield f"{write(binding.trigger)} is a default key in a condition that no words tell: {binding.where}"
    for trigger, table in decide_all(Keymap([layer]).in_force(platform).bindings, space, catalogue, one.policy).items():
        for loser in table.losers:
            yield f"{write(trigger)} has {loser.outcome} by default, which another default covers"


def _grammar(one: Dialect, grammar: Grammar) -> Iterator[str]:
    syntax = grammar.syntax
    if syntax.section not in one.description.sections:
        yield f"the grammar has an unknown section: {syntax.section}"
    both = {operator + movement for operator in syntax.operators for movement in syntax.movements}
    for key in dict.fromkeys((*syntax.unsure, *syntax.without)):
        if key.removesuffix(" counted") not in both | syntax.operators.keys():
            yield f"{key} is no operator of the grammar, nor one with a movement"
    for operator, movement in product(syntax.operators, syntax.movements):
        for command in (f"{operator}{movement}", f"2{operator}{movement}"):
            row = grammar.row_of(command)
            try:
                if row is not None:
                    program(row.effect)
                    program(f"if {row.unsure or 'always'} {{ }}")
            except OmbixError as error:
                yield f"{command}: {error}"


_SNIPPETS = {"plain": "out.", "lines": "a\n\t$1\n b\\$ & <c> = \\\\n", "ended": "in $1, $0"}
"""Texts that each file of snippets must keep, by the words for them."""


def _snippets(syntax: SnippetSyntax) -> Iterator[str]:
    some = [Snippet(word, word, body, parse(body), Place("sample"), (word,)) for word, body in _SNIPPETS.items()]
    written = write_snippets(syntax, some, {}, "sample")
    yield from (f"{one.name} cannot be written: {one.how}" for one in written.carried if one.verdict == "lost")
    try:
        found = read_snippets(syntax, written.text, "sample")
        texts = {one.word: "".join(_signs(parse(one.body))) for one in found}
    except OmbixError as error:
        yield f"what was written is not read: {error}"
        return
    for one in some:
        said, wanted = texts.get(one.name), "".join(_signs(one.parts))
        if said is not None and said != wanted:
            yield f"{one.name} was written as {wanted!r}, and is read as {said!r}"


def _signs(parts: Sequence[Part]) -> Iterator[str]:
    """A snippet's texts, and a sign for each gap."""
    for part in parts:
        yield part.text if isinstance(part, Text) else "·"


def _sample(one: Dialect) -> Layer:
    """A binding for each command in turn, and keys taken away, on the chords in their order."""
    layer = Layer(LayerName("sample", "sample", "adopted"), facts=one.facts)
    rows: list[tuple[Outcome, tuple[str, ...]]] = [
        (one.vocabulary.meaning(name), one.vocabulary.sections_of(row))
        for name, row in one.vocabulary.commands.items()
        if not row.read and not row.fixed
    ]
    if one.description.file.takes_defaults_away:
        rows.append((Nothing(), tuple(one.description.sections)))
    if not rows:
        return layer  # no command is known
    most = len(rows) if one.description.file.assigns == "one" else SAMPLE  # each command once
    for index, chord in enumerate(one.spelling.chords()[: min(most, SAMPLE)]):
        outcome, homes = rows[index % len(rows)]
        where = one.where([homes[index % len(homes)]])
        layer.bindings.append(Binding((chord,), outcome, Place("sample"), layer.name, where))
    return layer


def _read_back(one: Dialect, layer: Layer, space: Space, catalogue: Catalogue, platform: Platform) -> Iterator[str]:
    try:
        text = write_file(one, layer, space, catalogue)
        reading = read_file(one, text, "sample")
    except (OmbixError, ValueError) as error:
        yield str(error)
        return
    for line in reading.account:
        if line.is_fault:
            yield f"{line.written} was written, and is not read: {line.became}"
    first, second = (
        decide_all(Keymap([side]).in_force(platform).bindings, space, catalogue, one.policy)
        for side in (layer, reading.layer)
    )
    assigns = one.description.file.assigns  # such a file says the usual keys of a command again
    again = {binding.trigger for binding in one.default_layer.bindings} - first.keys() if assigns else set()
    for found in compare(
        first, {key: table for key, table in second.items() if key not in again}, space, space.possible
    ):
        if {str(found.first), str(found.second)} != {"nothing", "None"}:
            yield f"{write(found.trigger)} was {found.first or 'not bound'}, and is {found.second or 'not bound'}"
    if not reading.layer.kept and not assigns and write_file(one, reading.layer, space, catalogue) != text:
        yield "written once more, the file is not the same"
