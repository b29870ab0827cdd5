"""The same tests over every folder in `editors/`: whoever adds an editor adds no test."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from ombix.core.conditions import ALWAYS
from ombix.core.errors import InputError, Place
from ombix.core.keymap.bindings import Binding, Keymap, Layer, LayerName
from ombix.core.keymap.comparing import compare
from ombix.core.keymap.deciding import decide_all
from ombix.core.keymap.outcomes import Do, Nothing, Only, Outcome
from ombix.core.keys.notation import Trigger, is_tap, parse, write
from ombix.editors.abilities import DescribedTarget, can_take_away, can_write
from ombix.editors.dialect import Dialect
from ombix.editors.file_reading import read_file
from ombix.editors.file_writing import write_file
from ombix.files import keymap_reading, keymap_writing
from tests.helpers import dialect, known, shipped
from tests.helpers import editors_space as space

EDITORS = known()
CATALOGUE = shipped.catalogue()
LINUX = shipped.platform("linux")
PLACE = Place("x")


@pytest.mark.parametrize("name", EDITORS)
def test_every_command_is_an_action_or_the_editors_own(name: str) -> None:
    one = dialect(name)
    for command, row in one.vocabulary.commands.items():
        assert bool(row.action) != bool(row.only), command
        assert not row.action or row.action in CATALOGUE.actions, command
        assert set(row.sections) <= set(one.description.sections), command
    assert set(one.vocabulary.compositions) <= set(CATALOGUE.actions)
    for action, found in one.vocabulary.compositions.items():
        for each in found:
            for section in one.vocabulary.sections_of(each):
                has_command = one.vocabulary.command_for(Do(action), section) is not None
                assert each.exact or not has_command, "a composition for what has a command, and no better"


@pytest.mark.parametrize("name", EDITORS)
def test_every_default_key_that_is_not_fixed_can_be_written(name: str) -> None:
    one = dialect(name)
    for platform in shipped.platform_names():
        for binding in Keymap([one.default_layer]).in_force(shipped.platform(platform)).bindings:
            if not binding.fixed:
                assert can_write(one, binding.trigger), write(binding.trigger)
                spelt = one.spelling.write(binding.trigger)
                assert spelt is None or one.spelling.read(spelt) == binding.trigger


@pytest.mark.parametrize("name", EDITORS)
def test_every_chord_is_read_as_it_is_written(name: str) -> None:
    one = dialect(name)
    for chord in one.spelling.chords():
        spelt = one.spelling.write((chord,))
        assert spelt is not None
        assert one.spelling.read(spelt) == (chord,)


@pytest.mark.parametrize("name", EDITORS)
def test_no_two_defaults_contradict_each_other(name: str) -> None:
    one, here = dialect(name), space()
    for platform in shipped.platform_names():
        bindings = Keymap([one.default_layer]).in_force(shipped.platform(platform)).bindings
        decided = decide_all(bindings, here, CATALOGUE, one.policy)
        assert [write(trigger) for trigger, table in decided.items() if table.losers] == []


def layers(one: Dialect) -> st.SearchStrategy[Layer]:
    """Random keymaps within the editor's abilities: no key twice in a section."""
    sections = list(one.description.sections)
    outcomes: list[tuple[Outcome, tuple[str, ...]]] = []
    if can_take_away(one):
        outcomes.append((Nothing(), tuple(sections)))
    for command, row in one.vocabulary.commands.items():
        if not row.fixed and not row.read:
            outcomes.append((one.vocabulary.meaning(command), one.vocabulary.sections_of(row)))
    runs: dict[Trigger, list[str]] = {}
    for binding in one.default_layer.bindings:
        runs.setdefault(binding.trigger, []).append(binding.written)
    # Of chords that arrive alike in its terminal an editor may know only one.
    chord = st.sampled_from([trigger[0] for trigger in DescribedTarget(one).bindable()])
    trigger = (
        st.lists(chord, min_size=1, max_size=min(3, one.description.keys.longest))
        .map(tuple)
        .filter(lambda keys: can_write(one, keys))
    )

    @st.composite
    def build(draw: st.DrawFn) -> Layer:
        layer = Layer(LayerName("random", "random", "adopted"), facts=one.facts)
        for keys in draw(st.lists(trigger, max_size=12, unique=True)):
            outcome, homes = draw(st.sampled_from(outcomes))
            file_names = all(DescribedTarget(one).can_take_away([command]) for command in runs.get(keys, ()))
            if isinstance(outcome, Nothing) and not file_names:
                continue  # its command is not in the file
            if one.description.file.assigns == "one" and any(outcome == other.outcome for other in layer.bindings):
                continue  # a command has one key
            home = draw(st.sampled_from(sorted(homes)))
            if not one.description.keys.beginnings and any(
                keys[: len(other.trigger)] == other.trigger or other.trigger[: len(keys)] == keys
                for other in layer.bindings
            ):
                continue  # a chord that begins keys cannot do something itself there
            layer.bindings.append(Binding(keys, outcome, PLACE, LayerName("random", "random"), one.where([home])))
        return layer

    return build()


@pytest.mark.parametrize("name", EDITORS)
def test_a_random_keymap_is_the_same_after_writing_and_reading(name: str) -> None:
    one, here = dialect(name), space()

    @given(layers(one))
    def check(layer: Layer) -> None:
        text = write_file(one, layer, here, CATALOGUE)
        reading = read_file(one, text, "file")
        assert not reading.layer.kept
        # A file that gives each command its keys says as well what becomes of the default ones.
        below = [one.default_layer] if one.description.file.assigns else []
        first = decide_all(Keymap([*below, layer]).in_force(LINUX).bindings, here, CATALOGUE, one.policy)
        second = decide_all(Keymap([*below, reading.layer]).in_force(LINUX).bindings, here, CATALOGUE, one.policy)
        if one.description.file.assigns:
            own = {binding.trigger for binding in layer.bindings}
            first, second = ({keys: table for keys, table in each.items() if keys in own} for each in (first, second))
        differences = [
            one_difference
            for one_difference in compare(first, second, here, ALWAYS)
            # Taking a key away in a section that does not have it says nothing, and may be left out.
            if {str(one_difference.first), str(one_difference.second)} != {"nothing", "None"}
        ]
        assert differences == []
        headings = not one.description.file.assigns  # what is taken away is there under its command
        text = write_file(one, layer, here, CATALOGUE, headings)
        assert write_file(one, reading.layer, here, CATALOGUE, headings) == text

    check()


@pytest.mark.parametrize("name", EDITORS)
def test_an_adopted_keymap_is_the_same_as_a_keymap_file(name: str) -> None:
    one, here = dialect(name), space()

    @given(layers(one))
    def check(layer: Layer) -> None:
        again = keymap_reading.read(keymap_writing.dump(layer), "k.keys.toml", CATALOGUE, shipped.facts())
        first = decide_all(Keymap([layer]).in_force(LINUX).bindings, here, CATALOGUE, one.policy)
        second = decide_all(Keymap([again]).in_force(LINUX).bindings, here, CATALOGUE, one.policy)
        assert compare(first, second, here, ALWAYS) == []

    check()


@pytest.mark.parametrize("name", EDITORS)
@pytest.mark.parametrize("keys", ["Shift Shift", "Meta+AltGr+K", "Ctrl+[KeyK]", " ".join("abcdefghijkl")])
def test_what_the_editor_cannot_bind_is_refused_with_a_reason(name: str, keys: str) -> None:
    one = dialect(name)
    if len(keys.split()) > 2 and one.description.commands.declare_prefix:
        assert can_write(one, parse(keys))  # with a table of keys behind each
        return
    if keys == "Shift Shift" and any(map(is_tap, one.spelling.chords())):
        assert one.spelling.read(str(one.spelling.write(parse(keys)))) == parse(keys)
        return
    layer = Layer(
        LayerName("x", "x", "adopted"),
        [Binding(parse(keys), Do("files.save"), PLACE, LayerName("x", "x"), "pane is text")],
    )
    with pytest.raises(InputError, match=name):
        write_file(one, layer, space(), CATALOGUE)


@pytest.mark.parametrize("name", EDITORS)
def test_another_editors_command_is_refused(name: str) -> None:
    one = dialect(name)
    layer = Layer(
        LayerName("x", "x", "adopted"),
        [Binding((one.spelling.chords()[0],), Only("other", "zzz"), PLACE, LayerName("x", "x"))],
    )
    with pytest.raises(InputError, match="other only"):
        write_file(one, layer, space(), CATALOGUE)


@pytest.mark.parametrize("name", EDITORS)
def test_a_description_names_its_sources(name: str) -> None:
    assert dialect(name).description.sources
