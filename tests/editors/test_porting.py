"""Ports: every binding gets a verdict, every loss a reason, and what is written is what was meant."""

from itertools import permutations

import pytest
from hypothesis import given, settings

from ombix.core.conditions import Space
from ombix.core.errors import OutsideError, Place
from ombix.core.keymap.bindings import Binding, Keymap, Layer, LayerName
from ombix.core.keymap.deciding import decide_all
from ombix.core.keymap.outcomes import Do, Nothing, Only, Outcome
from ombix.core.keys.notation import parse, write
from ombix.core.pressing.terminals import as_arriving
from ombix.editors import editor_porting
from ombix.editors.dialect import Dialect
from ombix.editors.editor_porting import PortedFile, port_keymap
from ombix.editors.file_reading import FileReading, read_file
from tests.editors.test_conformance import layers
from tests.helpers import MORE, a_third, around, dialect, known, shipped
from tests.helpers import editors_space as space

CATALOGUE = shipped.catalogue()
LINUX = shipped.platform("linux")
PAIRS = list(permutations(known(), 2))


def port(layer: Layer, source: Dialect | None, target: str, states: Space | None = None) -> PortedFile:
    keymap = Keymap([layer])
    goal = dialect(target)
    here = around(states or space(), terminal=goal.description.terminal)
    return port_keymap(keymap, keymap.in_force(LINUX).bindings, source, goal, here)


def own(*rows: tuple[str, Outcome, str]) -> Layer:
    return Layer(
        LayerName("k", "k"),
        [Binding(parse(keys), outcome, Place("k"), LayerName("k", "k"), where) for keys, outcome, where in rows],
    )


@pytest.mark.parametrize(("source", "target"), a_third(PAIRS))
def test_a_whole_default_keymap(source: str, target: str) -> None:
    origin = dialect(source)
    file = port(origin.default_layer, origin, target)
    bindings = Keymap([origin.default_layer]).in_force(LINUX).bindings
    assert len(file.entries) == len(bindings) == sum(file.count(one) for one in ("exact", "adapted", "lost"))
    has_room = dialect(target).description.file.assigns != "one"
    if has_room and min(len(origin.vocabulary.by_action), len(dialect(target).vocabulary.by_action)) > 30:  # not a toy
        assert file.count("exact") + file.count("adapted") > 5
    for entry in file.entries:
        assert entry.how, "a verdict without a word"
    # Reading the written file again gives each exact binding the action that it had.
    here = space()
    goal = dialect(target)
    written = Keymap([goal.default_layer, read_file(goal, file.text, "x").layer]).in_force(LINUX).bindings
    after = decide_all(as_arriving(written, goal.terminal), here, CATALOGUE, goal.policy)
    for entry in file.entries:
        if entry.verdict == "exact" and not isinstance(entry.source.outcome, Nothing):
            found = after[goal.terminal.canonical(entry.source.trigger)]
            # The action itself, or to the letter what was to be written for it.
            assert any(
                row.binding.outcome == entry.source.outcome or row.binding.written in entry.written
                for row in found.rows
            )


@pytest.mark.parametrize(("source", "target"), a_third(PAIRS))
def test_random_keymaps_hold_after_the_port(source: str, target: str) -> None:
    origin, here = dialect(source), space()

    @settings(max_examples=3 * MORE)  # for each pair
    @given(layers(origin))
    def check(layer: Layer) -> None:
        # What fires before a sequence is complete hides it: then there is nothing to carry.
        bound = {one.trigger for one in layer.bindings if not isinstance(one.outcome, Nothing)}
        hidden = [
            one for one in layer.bindings
            if origin.policy.prefix == "fires" and any(one.trigger[:size] in bound for size in range(1, len(one.trigger)))
        ]  # fmt: skip
        count = len(port(layer, origin, target, here).entries)
        assert len(layer.bindings) - len(hidden) <= count <= len(layer.bindings)

    check()


def test_what_fires_before_a_sequence_and_cannot_be_taken_away_loses_the_sequence_alone() -> None:
    """Kate's file does not name what Enter does."""
    file = port(
        own(("Enter ArrowUp", Do("cursor.left"), "pane is text"), ("F6", Do("files.save"), "pane is text")),
        None,
        "kate",
    )
    found = {str(entry.source.outcome): entry for entry in file.entries}
    assert found["files.save"].verdict != "lost"
    assert (
        found["cursor.left"].verdict == "lost"
        or found["cursor.left"].trigger[:1] != found["cursor.left"].source.trigger[:1]
    )


@pytest.mark.parametrize(
    ("keys", "action", "where", "verdict", "how"),
    [
        ("Ctrl+S", "files.save", "pane is text", "exact", "so by default"),
        ("Ctrl+F", "search.find", "pane is text", "exact", "whereis"),
        ("Ctrl+I", "edit.tab", "pane is text", "adapted", "whether it does the same is not known for sure"),
        ("Ctrl+/", "go.line", "pane is text", "exact", "so by default"),
        ("Ctrl+Backspace", "edit.cut", "pane is text", "adapted", "Ctrl+H, which arrives as the same bytes"),
        ("Ctrl+K", "line.delete", "pane is text", "adapted", "something is selected"),
        ("F5", "files.save", "pane is text and selection is one", "adapted", "nano cannot tell selection"),
        ("F5", "files.save", "pane is terminal", "lost", "nothing like pane is terminal"),
        ("F5", "panes.next", "pane is text", "lost", "no command for panes.next"),
        ("Ctrl+ArrowUp", "files.save", "pane is text", "lost", "cannot bind Ctrl+ArrowUp"),
        ("Ctrl+K Ctrl+S", "files.save", "pane is text", "lost", "single chords only"),
        ("Meta+S", "files.save", "pane is text", "lost", "cannot bind Meta+S"),
        ("F5", "edit.cut", "pane in (text, question)", "adapted", "only in main"),
    ],
)
def test_verdicts(keys: str, action: str, where: str, verdict: str, how: str) -> None:
    (entry,) = port(own((keys, Do(action), where)), None, "nano").entries
    assert entry.verdict == verdict
    assert how in entry.how


def test_two_meanings_by_a_state_that_the_target_cannot_tell_are_both_lost() -> None:
    file = port(
        own(
            ("F8", Do("files.save"), "pane is text and selection is none"),
            ("F8", Do("edit.cut"), "pane is text and selection is one"),
        ),
        None,
        "nano",
    )
    assert [entry.verdict for entry in file.entries] == ["lost", "lost"]
    assert "selection" in file.entries[0].how
    assert file.text == ""


def test_two_chords_that_arrive_alike_cannot_both_be_had() -> None:
    file = port(
        own(("Ctrl+H", Do("app.help"), "pane is text"), ("Ctrl+Backspace", Do("edit.cut"), "pane is text")),
        None,
        "nano",
    )
    assert sorted(entry.verdict for entry in file.entries) == ["exact", "lost"]
    assert "same bytes" in next(entry.how for entry in file.entries if entry.verdict == "lost")


def test_the_default_that_lost_its_keys_is_named() -> None:
    (entry,) = port(own(("Ctrl+X", Do("edit.cut"), "pane is text")), None, "nano").entries
    assert entry.displaced == (("main", Do("app.quit")),)


def test_keys_taken_away_are_taken_away_in_the_target() -> None:
    file = port(own(("Ctrl+X", Nothing(), "pane is text"), ("F20", Nothing(), "pane is text")), None, "nano")
    assert [entry.verdict for entry in file.entries] == ["exact", "exact"]
    assert file.text == "# Keys taken away\nunbind ^X main\n"


def test_a_command_of_one_editor_only_is_lost_elsewhere_and_kept_at_home() -> None:
    layer = own(
        ("F5", Only("nano", "flipnewbuffer"), "pane is insert-file"), ("F6", Only("micro", "lua:a.b"), "pane is text")
    )
    verdicts = [entry.verdict for entry in port(layer, None, "nano").entries]
    assert verdicts == ["exact", "lost"]
    assert "bind F5 flipnewbuffer insert" in port(layer, None, "nano").text


def test_the_same_port_gives_the_same_text() -> None:
    origin = dialect("nano")
    assert port(origin.default_layer, origin, "micro").text == port(origin.default_layer, origin, "micro").text


def test_a_file_that_does_not_say_what_was_meant_is_refused(monkeypatch: pytest.MonkeyPatch) -> None:
    honest = editor_porting.read_file

    def forgetful(one: Dialect, text: str, file: str, layer: LayerName | None = None) -> FileReading:
        return honest(one, text.replace("bind ^F whereis main\n", ""), file, layer)

    monkeypatch.setattr(editor_porting, "read_file", forgetful)
    with pytest.raises(OutsideError, match=r"Ctrl\+F is search.find in the source and cursor.right in nano"):
        port(own(("Ctrl+F", Do("search.find"), "pane is text")), None, "nano")


def test_the_written_file_has_a_heading_for_each_kind_of_work() -> None:
    file = port(own(("F5", Do("search.find"), "pane is text"), ("F6", Do("edit.cut"), "pane is text")), None, "nano")
    assert file.text == "# Change text\nbind F6 cut main\n\n# Find and replace\nbind F5 whereis main\n"
    file = port(own(("F5", Do("search.find"), "pane is text")), None, "micro")
    assert file.text == '{\n    // Find and replace\n    "F5": "Find"\n}\n'
    assert write(parse("F5")) == "F5"
