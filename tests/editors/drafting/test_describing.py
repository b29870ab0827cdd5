"""Drafts of descriptions: of invented editors with as many forms of files, and of what is no key file."""

import json
import tomllib
from pathlib import Path

import pytest

from ombix.core.errors import InputError
from ombix.core.keymap.bindings import LayerName
from ombix.core.keys.notation import parse, write
from ombix.editors.drafting.command_lists import read_list
from ombix.editors.drafting.condition_words import state_of, wording_of
from ombix.editors.drafting.line_comments import lines_shape
from ombix.editors.drafting.sample_shape import Shape, with_alternatives
from ombix.editors.drafting.spellings import guess
from ombix.editors.drafting.tree_shapes import tree_shape
from ombix.editors.file_reading import read_file
from ombix.work.describe import describe_questions
from ombix.work.describe.describe import DraftRequest
from ombix.work.describe.describe_answer import DraftReport
from ombix.workspace.open_workspace import OpenWorkspace
from tests.editors.drafting.samples import SAMPLES
from tests.helpers import DIALECTS, ombix

EDITORS = Path(__file__).parent / "editors"
"""For each editor a sample of its key file, a list of its commands, and the actions that these stand for, written by hand."""
NAMES = sorted(path.name for path in EDITORS.iterdir())


def files_of(name: str) -> tuple[str, str]:
    """The sample and the list of an editor."""
    found = [path for path in (EDITORS / name).iterdir() if path.name != "truth.tsv"]
    (listed,) = (path for path in found if path.stem == "commands")
    (sample,) = (path for path in found if path.stem == name)
    return str(sample), str(listed)


def truth_of(name: str) -> dict[str, list[str]]:
    rows = [line.split("\t") for line in (EDITORS / name / "truth.tsv").read_text().splitlines()]
    return {command: actions.split(",") for command, actions in rows}


def drafted(name: str, folder: Path, *, listed: bool = True) -> DraftReport:
    sample, commands = files_of(name)
    session = OpenWorkspace(folder=str(folder), state=str(folder / "state"))
    return describe_questions.describe(session, DraftRequest([sample], commands=[commands] if listed else []))


@pytest.mark.parametrize("name", NAMES)
def test_an_invented_editor_is_drafted(name: str, tmp_path: Path) -> None:
    found = drafted(name, tmp_path)
    assert_its_sample_is_read(name, found, tmp_path)
    truth = truth_of(name)
    assert len(truth) == 60
    assert {one.command for one in found.commands} == set(truth)
    best = {one.command: one.action or next((each.action for each in one.candidates), "") for one in found.commands}
    assert sum(best[command] in actions for command, actions in truth.items()) >= 48
    sure = [one for one in found.commands if one.action]
    assert len(sure) >= 15
    assert [one.command for one in sure if one.action not in truth[one.command]] == []
    assert [(one.title, one.faults) for one in found.checks if one.faults] == []
    assert len(found.checks) >= 7


def assert_its_sample_is_read(name: str, found: DraftReport, folder: Path) -> None:
    """Every statement of the sample is a binding, but those of commands or states that are not known for sure."""
    sample = Path(files_of(name)[0])
    sure = {one.command for one in found.commands if one.action}
    unknown = [one.word for one in found.states if not one.means]
    made = DIALECTS.load(str(folder / name))
    sections = {"", made.description.file.every_section, *made.description.sections}
    text = sample.read_text()
    shape = tree_shape(text, frozenset(truth_of(name))) or lines_shape(text, frozenset(truth_of(name)))
    assert shape is not None
    expected = [
        shape.spelling.portable(one.key) for one in shape.records
        if one.command in {"", *sure} and one.section in sections and not any(word in one.where for word in unknown)
    ]  # fmt: skip
    layer = read_file(made, text, sample.name, LayerName("sample", "sample", "keymap")).layer
    assert sorted(write(parse(keys)) for keys in expected) == sorted(write(one.trigger) for one in layer.bindings)
    assert len(expected) >= 10


@pytest.mark.parametrize("name", NAMES)
def test_without_a_list_the_commands_are_those_of_the_sample(name: str, tmp_path: Path) -> None:
    found = drafted(name, tmp_path, listed=False)
    truth = truth_of(name)
    assert {one.command for one in found.commands} <= set(truth)
    assert len(found.commands) >= 25
    # A name alone can mislead: one that is called "in file" is not about several files.
    misled = {"find.inFile", "find.backwards"}
    assert {one.command for one in found.commands if one.action and one.action not in truth[one.command]} <= misled
    assert any("--commands" in text for text in found.missing)
    assert [one.faults for one in found.checks if one.faults] == []


def test_what_was_answered_is_written(tmp_path: Path) -> None:
    sample, listed = files_of("halyard")
    session = OpenWorkspace(folder=str(tmp_path), state=str(tmp_path / "state"))
    answers = {"walk.up": "cursor.up"}
    found = describe_questions.describe(
        session, DraftRequest([sample], commands=[listed], actions=answers, states={"editing": "pane is text"})
    )
    assert {one.command: one.action for one in found.commands}["walk.up"] == "cursor.up"
    assert 'editing = "pane is text"' in (tmp_path / "halyard" / "dialect.toml").read_text()
    assert "# selecting" in (tmp_path / "halyard" / "dialect.toml").read_text()
    with pytest.raises(InputError, match=r"there is no action cursor\.sideways"):
        describe_questions.describe(
            session, DraftRequest([sample], output="other", actions={"walk.up": "cursor.sideways"})
        )


def test_default_keys_come_from_a_list_or_a_key_file(tmp_path: Path) -> None:
    sample, listed = files_of("lantern")
    (tmp_path / "keys.md").write_text(
        "| keys | command |\n|---|---|\n| Ctrl+S | file_save |\n| Ctrl+Q | app_quit |\n| F3 | search_next |\n"
    )
    session = OpenWorkspace(folder=str(tmp_path), state=str(tmp_path / "state"))
    found = describe_questions.describe(
        session, DraftRequest([sample], commands=[listed], defaults=[str(tmp_path / "keys.md")])
    )
    assert found.default_keys == 3
    text = (tmp_path / "lantern" / "defaults.toml").read_text()
    assert '"Ctrl+s" = "file_save"' in text
    assert '"F3" = "search_next"' in text
    assert not any("--default-keys" in one for one in found.missing)
    again = describe_questions.describe(
        session, DraftRequest([sample], commands=[listed], defaults=[sample], output="again")
    )
    assert again.default_keys >= 15


@pytest.mark.parametrize(
    ("text", "what"),
    [
        ("", "is empty"),
        ("\n  \n", "is empty"),
        ("The ferry leaves at nine.\nBring your own bread.\n", "no keys can be seen"),
        ('{"berths": 4, "crew": ["one", "two"]}', "no keys can be seen"),
        ("<ferry><deck/></ferry>", "no keys can be seen"),
        ("\x01\x02", "no keys can be seen"),
        ("[" * 5000, "no keys can be seen"),
        ("a = b\nc = d\ne = f\n", "no keys can be seen"),
    ],
)
def test_what_is_no_key_file_is_refused(text: str, what: str, tmp_path: Path) -> None:
    (tmp_path / "sample.keys").write_text(text)
    session = OpenWorkspace(folder=str(tmp_path), state=str(tmp_path / "state"))
    with pytest.raises(InputError, match=what):
        describe_questions.describe(session, DraftRequest([str(tmp_path / "sample.keys")]))
    assert not (tmp_path / "sample").exists()


@pytest.mark.parametrize(
    ("text", "line", "what"),
    [
        ('[\n{"key": "ctrl+s", "run": "save"}\n{"key": "ctrl+q", "run": "quit"}]', 3, "expected , or ]"),
        ('<keys>\n<bind key="ctrl+s" run="save & quit"/>\n</keys>', 2, "this is not XML"),
        ('[[bind]]\nkey = "ctrl+s"\nrun = "save"\n\n[[bind]]\nkey = "ctrl+\\q"\n', 6, "this is not TOML"),
        ('(key "C-s" save)\n(key "C-q quit)\n', 2, "this text is never closed"),
    ],
)
def test_a_broken_file_is_shown_where_it_is_broken(text: str, line: int, what: str, tmp_path: Path) -> None:
    (tmp_path / "quay.keys").write_text(text)
    with pytest.raises(InputError, match=what) as refused:
        describe_questions.describe(
            OpenWorkspace(folder=str(tmp_path), state=str(tmp_path / "state")),
            DraftRequest([str(tmp_path / "quay.keys")]),
        )
    assert refused.value.place is not None
    assert (refused.value.place.file, refused.value.place.line) == ("quay.keys", line)


def test_a_file_of_one_form_is_not_read_as_lines(tmp_path: Path) -> None:
    keys = ("^s", "^q", "^z", "^y", "^o", "^w", "$x", "^$z")
    (tmp_path / "quay.json").write_text(
        "{\n" + ",\n".join(f'  "{one}": "do_{at}"' for at, one in enumerate(keys)) + "\n}\n"
    )
    session = OpenWorkspace(folder=str(tmp_path), state=str(tmp_path / "state"))
    with pytest.raises(InputError, match=r"no keys can be seen in quay\.json"):
        describe_questions.describe(session, DraftRequest([str(tmp_path / "quay.json")]))


def test_samples_of_two_forms_are_refused(tmp_path: Path) -> None:
    session = OpenWorkspace(folder=str(tmp_path), state=str(tmp_path / "state"))
    with pytest.raises(InputError, match="of different forms: json and xml"):
        describe_questions.describe(session, DraftRequest([files_of("bowline")[0], files_of("lantern")[0]]))


def test_a_sample_with_other_things_in_it_says_what_was_not_understood(tmp_path: Path) -> None:
    (tmp_path / "skiff.keys").write_text(
        "# the skiff\nset oars 2\nset anchor heavy\npress ctrl+s save_file\npress ctrl+q quit\npress f3 find_next\n"
        "press alt+up move_line_up\nlet go\n"
    )
    session = OpenWorkspace(folder=str(tmp_path), state=str(tmp_path / "state"))
    found = describe_questions.describe(session, DraftRequest([str(tmp_path / "skiff.keys")]))
    assert found.patterns == ("press {key} {command}",)
    assert found.bindings == 4
    assert any("3 statements say, like: set oars 2" in text for text in found.missing)
    assert {one.command: one.action for one in found.commands}["quit"] == "app.quit"


def test_nothing_is_written_over(tmp_path: Path) -> None:
    drafted("oarlock", tmp_path)
    before = {path: path.read_bytes() for path in (tmp_path / "oarlock").iterdir()}
    with pytest.raises(InputError, match="this file is there already"):
        drafted("oarlock", tmp_path)
    assert {path: path.read_bytes() for path in (tmp_path / "oarlock").iterdir()} == before


def test_a_known_editor_and_a_wrong_name_are_refused(tmp_path: Path) -> None:
    session = OpenWorkspace(folder=str(tmp_path), state=str(tmp_path / "state"))
    for name, what in (
        ("micro", "knows an editor called micro"),
        ("../up", "is no name for an editor"),
        ("Two Words", "is no name"),
    ):
        with pytest.raises(InputError, match=what):
            describe_questions.describe(session, DraftRequest([files_of("oarlock")[0]], name=name))


@pytest.mark.parametrize(
    ("keys", "joiner", "between", "modifiers"),
    [
        (["Ctrl+S", "Alt+F4", "Shift+F3"], "+", "", {"Ctrl": "Ctrl", "Alt": "Alt", "Shift": "Shift"}),
        (["C-x C-s", "M-x", "C-x k"], "-", " ", {"Ctrl": "C", "Alt": "M"}),
        (
            ["<Primary><Shift>z", "<Alt>Up", "<Primary>a"],
            "",
            "",
            {"Ctrl": "<Primary>", "Alt": "<Alt>", "Shift": "<Shift>"},
        ),
        (["ctrl-k,ctrl-s", "ctrl-a", "alt-minus"], "-", ",", {"Ctrl": "ctrl", "Alt": "alt"}),
        (["Ctrl++", "Ctrl+-", "Ctrl+F"], "+", "", {"Ctrl": "Ctrl"}),
        (["^S", "^Q", "F2"], "", "", {"Ctrl": "^"}),
        (["^s", "!q", "^+z", "F2"], "", "", {"Ctrl": "^", "Alt": "!", "Shift": "+"}),
        (["^s", "#q", "^+z", "#k"], "", "", {"Ctrl": "^", "Shift": "+", "Meta": "#"}),
    ],
)
def test_how_keys_are_spelt(keys: list[str], joiner: str, between: str, modifiers: dict[str, str]) -> None:
    found = guess(keys)
    assert found is not None
    assert (found.joiner, found.modifiers, found.unread) == (joiner, modifiers, [])
    assert found.longest == (2 if between else 1)
    assert not between or found.between == between


def test_a_sign_that_may_be_a_modifier_makes_no_sequence() -> None:
    found = guess(["^s", "^q", "^z", "^y", "^o", "^w", "^f", "^$z"])
    assert found is not None
    assert (found.unread, found.longest, found.guessed) == (["^$z"], 1, {})
    found = guess(["^s", "^q", "^k^c", "^kb"])
    assert found is not None
    assert (found.unread, [len(one) for one in found.chords.values()]) == ([], [1, 1, 2, 2])


def test_signs_that_programs_do_not_agree_about_are_said(tmp_path: Path) -> None:
    (tmp_path / "quay.keys").write_text("^s => save_file\n!+q => quit_all\nF3 => find_next\n")
    session = OpenWorkspace(folder=str(tmp_path), state=str(tmp_path / "state"))
    found = describe_questions.describe(session, DraftRequest([str(tmp_path / "quay.keys")]))
    assert "whether ! means Alt, + means Shift: taken is that" in found.missing
    assert [one.faults for one in found.checks if one.faults] == []


def test_a_misspelt_key_leaves_the_others_keys() -> None:
    found = guess(["ctrl+s", "ctrl+z", "ctrl+y", "alt+u", "f3", "ctrl+d", "ctrl+##"])
    assert found is not None
    assert (found.joiner, len(found.chords), found.unread) == ("+", 6, ["ctrl+##"])


def test_words_are_no_keys() -> None:
    assert guess(["save-file", "select-all", "a.b"]) is None
    assert guess(["one", "two", "x"]) is None
    assert guess([]) is None


def test_relatives_of_keys_are_spelt_alike() -> None:
    found = guess(["Ctrl+Page_Up", "Ctrl+UP", "Ctrl+del"])
    assert found is not None
    assert found.relatives() == {
        "ArrowDown": "DOWN", "ArrowLeft": "LEFT", "ArrowRight": "RIGHT", "PageDown": "Page_Down", "Insert": "ins",
    }  # fmt: skip


@pytest.mark.parametrize(
    ("text", "pattern", "assigns"),
    [
        ("ctrl+s = save_file\nctrl+q = quit_all\nf3 = find_next\n", "{key} = {command}", False),
        ("^s => save_file\n!+q => quit_all\nF3 => find_next\n", "{key} => {command}", False),
        ("save_file: ctrl+s\nquit_all: ctrl+q\nfind_next: f3\n", "{command}: {key}", True),
        ('map "C-s" save_file\nmap "C-q" quit_all\n', 'map "{key}" {command}', False),
        ("on deck press C-s do save_file\non deck press C-q do quit_all\non hold press F3 do find_next\n",
         "on {section} press {key} do {command}", False),
    ],
)  # fmt: skip
def test_forms_of_lines(text: str, pattern: str, assigns: bool) -> None:
    found = lines_shape(text, frozenset({"save_file", "quit_all", "find_next"}))
    assert found is not None
    assert ([form.pattern for form in found.forms], found.assigns) == ([pattern], assigns)


ACTIONS = (
    "files.save",
    "history.undo",
    "history.redo",
    "app.quit",
    "search.next",
    "files.open",
    "cursor.up",
    "cursor.down",
)
"""What the commands of small samples are taken to be."""


def shape_of(text: str) -> Shape:
    found = tree_shape(text, frozenset()) or lines_shape(text, frozenset())
    assert found is not None
    return found


@pytest.mark.parametrize("name", SAMPLES)
def test_what_a_sample_says(name: str) -> None:
    text, expected = SAMPLES[name]
    found = with_alternatives(shape_of(text))
    said = [f"{found.spelling.portable(one.key)} {one.command} {one.where} {one.section}" for one in found.records]
    assert sorted(said) == sorted(expected)
    assert found.others == []


@pytest.mark.parametrize("name", SAMPLES)
def test_the_draft_of_a_sample_passes_its_check_and_reads_it(name: str, tmp_path: Path) -> None:
    text, expected = SAMPLES[name]
    (tmp_path / "sample.keys").write_text(text)
    session = OpenWorkspace(folder=str(tmp_path), state=str(tmp_path / "state"))
    shape = with_alternatives(shape_of(text))
    wording = wording_of([one.where for one in shape.records])
    words = [*shape.sections, *(one.word for one in (wording.words if wording is not None else ()))]
    words = [one for one in words if one != "global"]
    actions = dict(zip(shape.commands, ACTIONS, strict=False))
    states = dict(zip(words, ("pane is text", "pane is files"), strict=False))
    found = describe_questions.describe(
        session, DraftRequest([str(tmp_path / "sample.keys")], actions=actions, states=states)
    )
    assert [(one.title, one.faults) for one in found.checks if one.faults] == []
    made = DIALECTS.load(str(tmp_path / "sample"))
    layer = read_file(made, text, "sample.keys", LayerName("sample", "sample", "keymap")).layer
    keys = [f"{write(parse(shape.spelling.portable(one.key)))} {one.command}" for one in shape.records]
    assert sorted(f"{write(one.trigger)} {one.written}" for one in layer.bindings) == sorted(keys)
    assert len(keys) == len(expected)


@pytest.mark.parametrize(
    ("text", "keys"),
    [
        ("key,ctrl,shift,command\ns,1,0,save\nz,1,1,redo\nf3,0,0,find-next\n", 'held-words = ["1", "0"]'),
        (
            '[{"k": "s", "held": "ctrl&shift", "run": "save"}, {"k": "z", "held": "ctrl", "run": "redo"}]',
            'modifiers-between = "&"',
        ),
        (
            '[{"k": "s", "held": ["ctrl", "shift"], "run": "save"}, {"k": "z", "run": "redo"}]',
            'modifiers-between = "\\n"',
        ),
    ],
)
def test_how_modifiers_beside_keys_are_said(text: str, keys: str, tmp_path: Path) -> None:
    (tmp_path / "sample.keys").write_text(text)
    session = OpenWorkspace(folder=str(tmp_path), state=str(tmp_path / "state"))
    found = describe_questions.describe(session, DraftRequest([str(tmp_path / "sample.keys")]))
    assert [one.faults for one in found.checks if one.faults] == []
    assert keys in (tmp_path / "sample" / "dialect.toml").read_text()


@pytest.mark.parametrize(
    ("text", "patterns", "missing"),
    [
        ("bind ctrl-s save when text\nbind ctrl-q quit when files\nbind alt-up raise when text\n",
         ("bind {key} {command} when {where}", "bind {key} {command}"), "without a condition is written"),
        ("save:\nredo: [Ctrl+Y, Ctrl+Shift+Z]\nfind.next: F3\nundo: Ctrl+Z\n",
         ('"{command}":\n  - "{key}"', '"{command}": "{key}"'), "what 1 statement says, like: null save"),
        ("Ctrl+S: save\nCtrl+Z: undo all [editing]\nF3: find next [editing]\nAlt+Up: line-up\n", ("{key}: {command}",),
         "what 2 statements say, like: Ctrl+Z: undo all [editing]"),
        ('local desk = require("desk")\nleader space\ndesk.map("<C-s>", "save")\ndesk.map("<M-up>", "raise")\n'
         'desk.map("<f3>", "next")\n', ('desk.map("{key}", "{command}")',), "what 2 statements say, like: local desk = "),
    ],
)  # fmt: skip
def test_what_cannot_be_a_form_is_said(text: str, patterns: tuple[str, ...], missing: str, tmp_path: Path) -> None:
    (tmp_path / "sample.keys").write_text(text)
    session = OpenWorkspace(folder=str(tmp_path), state=str(tmp_path / "state"))
    found = describe_questions.describe(session, DraftRequest([str(tmp_path / "sample.keys")]))
    assert found.patterns == patterns
    assert any(missing in one for one in found.missing)
    assert [one.faults for one in found.checks if one.faults] == []


@pytest.mark.parametrize(
    ("more", "said"),
    [
        ("", ""),
        (',{"command":"redo","key":"ctrl+y","args":{"all":true}}', "1 statement, like: "),
        (',{"command":"redo","key":"ctrl+y","often":{"n":2}},{"command":"quit","key":"ctrl+q","at":["a","b"],"n":1}',
         "2 statements, like: "),
    ],
)  # fmt: skip
def test_what_the_draft_does_not_read_is_said(more: str, said: str, tmp_path: Path) -> None:
    (tmp_path / "quay.json").write_text(
        '[{"command":"save","key":"ctrl+s"},{"command":"undo","key":"ctrl+z"},{"command":"find","key":"f3"}'
        + more
        + "]"
    )
    session = OpenWorkspace(folder=str(tmp_path), state=str(tmp_path / "state"))
    found = describe_questions.describe(session, DraftRequest([str(tmp_path / "quay.json")]))
    told = [one for one in found.missing if "does not read of the sample" in one]
    assert [said in one for one in told] == ([True] if said else [])


def test_of_sections_that_hold_at_once_one_is_not_known(tmp_path: Path) -> None:
    text = '{"global": {"ctrl+s": "save_it"}, "selection": {"tab": "indent_it"}, "editor": {"alt+up": "raise", "f3": "find"}}'
    (tmp_path / "sample.json").write_text(text)
    session = OpenWorkspace(folder=str(tmp_path), state=str(tmp_path / "state"))
    found = describe_questions.describe(session, DraftRequest([str(tmp_path / "sample.json")], name="quay"))
    assert [(one.word, one.means, one.may_mean) for one in found.states] == [
        ("selection", "", "selection is not none"), ("editor", "pane is text", ""),
    ]  # fmt: skip
    assert "what is meant by selection" in found.missing
    assert [one.faults for one in found.checks if one.faults] == []


def test_what_all_names_begin_with_tells_nothing(tmp_path: Path) -> None:
    commands = ("save_file", "undo", "redo", "select_all", "find_next", "go_to_line")
    sample = "".join(f'bind("F{number}", desk.{command})\n' for number, command in enumerate(commands, 1))
    sample += 'bind("ctrl+w", desk.wash_deck)\n'
    (tmp_path / "quay.keys").write_text(sample)
    session = OpenWorkspace(folder=str(tmp_path), state=str(tmp_path / "state"))
    found = describe_questions.describe(session, DraftRequest([str(tmp_path / "quay.keys")]))
    sure = {one.command: one.action for one in found.commands if one.action}
    assert sure["desk.undo"] == "history.undo"
    assert sure["desk.save_file"] == "files.save"
    assert "desk.wash_deck" not in sure


def test_unless_is_a_condition_that_does_not_hold(tmp_path: Path) -> None:
    (tmp_path / "sample.keys").write_text(SAMPLES["unless"][0])
    session = OpenWorkspace(folder=str(tmp_path), state=str(tmp_path / "state"))
    describe_questions.describe(
        session, DraftRequest([str(tmp_path / "sample.keys")], actions={"raise": "line.move-up"})
    )
    made = DIALECTS.load(str(tmp_path / "sample"))
    layer = read_file(made, SAMPLES["unless"][0], "sample.keys", LayerName("sample", "sample", "keymap")).layer
    assert [one.where for one in layer.bindings if str(one.outcome) == "line.move-up"] == ["not readonly"]


@pytest.mark.parametrize(
    ("text", "patterns"),
    [
        ('{"ctrl+s": "save_file", "ctrl+q": "quit_all", "f3": "find_next"}', ['{\n    "{key}": "{command}"\n}']),
        ('{"keys": [["ctrl+s", "save_file"], ["ctrl+q", "quit_all"]]}', None),
        ("[keys]\nsave_file = Ctrl+S\nquit_all = Ctrl+Q\n", ["[{section}]\n{command} = {key}"]),
    ],
)
def test_forms_of_trees(text: str, patterns: list[str] | None) -> None:
    found = tree_shape(text, frozenset())
    assert found is not None
    assert patterns is None or [form.pattern for form in found.forms] == patterns
    assert {one.command for one in found.records} >= {"save_file", "quit_all"}


@pytest.mark.parametrize(
    "text",
    [
        "save: Saves\nquit: Quits\n", "save - Saves\nquit - Quits\n", "  save   Saves\n  quit   Quits\n",
        '{"save": "Saves", "quit": "Quits"}', '[{"id": "save", "title": "Saves"}, {"id": "quit", "title": "Quits"}]',
        "- id: save\n  title: Saves\n- id: quit\n  title: Quits\n",
        "commands:\n  save: {says: Saves}\n  quit: {says: Quits}\n",
        '{"save": {"says": "Saves", "since": 3}, "quit": {"says": "Quits"}}', "name,help\nsave,Saves\nquit,Quits\n",
        "| name | does |\n|---|---|\n| `save` | Saves |\n| `quit` | Quits |\n",
    ],
)  # fmt: skip
def test_lists_of_commands(text: str) -> None:
    assert [(one.command, one.said) for one in read_list(text)] == [("save", "Saves"), ("quit", "Quits")]


def test_a_text_is_no_list_of_commands() -> None:
    assert read_list("The ferry leaves at nine, and it is late.\nBring your own bread, please.\n") == []
    assert read_list("") == []


def test_signs_and_words_of_conditions() -> None:
    found = wording_of(["inText && !readOnly", "atAnchor || inText", ""])
    assert found is not None
    assert (found.both, found.either, found.negated) == ("&&", "||", "!")
    assert {one.word: one.means for one in found.words} == {
        "inText": "pane is text",
        "readOnly": "readonly",
        "atAnchor": "",
    }
    assert state_of("editing").may_mean == "pane is text"
    assert wording_of([]) is None


def test_the_command_drafts_and_tests(tmp_path: Path) -> None:
    sample, listed = files_of("capstan")
    ran = ombix(tmp_path, "describe", sample, "--commands", listed)
    assert ran.status == 0, ran.err
    assert "of 60 commands are sure" in ran.out
    assert (tmp_path / "capstan" / "dialect.toml").exists()
    checked = ombix(tmp_path, "describe", "--check", "capstan")
    assert checked.status == 0
    assert "No fault." in checked.out
    assert ombix(tmp_path, "undo").status == 0
    assert not (tmp_path / "capstan").exists()
    for words, what in ((["describe"], "there is no sample"), (["describe", "nowhere.keys"], "nowhere.keys"),
                        (["describe", sample, "--check", "x"], "drafts none")):  # fmt: skip
        failed = ombix(tmp_path, *words)
        assert failed.status == 2
        assert what in failed.err


def test_a_draft_without_a_removal_passes_its_check(tmp_path: Path) -> None:
    (tmp_path / "tender.json").write_text(
        '[{"k": "ctrl+s", "c": "save"}, {"k": "alt+x", "c": "quit"}, {"k": "f3", "c": "find"}]'
    )
    session = OpenWorkspace(folder=str(tmp_path), state=str(tmp_path / "state"))
    found = describe_questions.describe(session, DraftRequest([str(tmp_path / "tender.json")]))
    assert [(one.title, one.faults) for one in found.checks if one.faults] == []
    assert any("how keys are taken away" in text for text in found.missing)


def test_nothing_of_a_sample_or_a_list_gets_out_of_its_place(tmp_path: Path) -> None:
    """Texts with quotes, line breaks and control characters stay texts: no table, and no program, is added to a draft."""
    evil = "x'''\n[program]\ncommand = ['sh']\n"
    rows = [
        {"k": "ctrl+s", "c": "save", "t": evil},
        {"k": "alt+x", "c": "quit", "t": evil},
        {"k": "f3", "c": "find", "t": evil},
    ]
    (tmp_path / "hull.json").write_text(json.dumps(rows))
    listed = {"save": "saves\r\x7f\x1b[2J it", "odd\n[program]\r": "odd\nand even", "quit": evil, "find": "finds"}
    (tmp_path / "list.json").write_text(json.dumps(listed))
    session = OpenWorkspace(folder=str(tmp_path), state=str(tmp_path / "state"))
    found = describe_questions.describe(
        session, DraftRequest([str(tmp_path / "hull.json")], commands=[str(tmp_path / "list.json")])
    )
    for name, tables in (("dialect", {"file", "sections", "policy", "commands", "keys"}), ("commands", {"command"})):
        table = tomllib.loads((tmp_path / "hull" / f"{name}.toml").read_text())
        assert {key for key, value in table.items() if isinstance(value, dict)} == tables
    assert (
        tomllib.loads((tmp_path / "hull" / "dialect.toml").read_text())["file"]["forms"][0]["pattern"].count(
            "[program]"
        )
        == 1
    )
    assert [one.faults for one in found.checks if one.faults] == []
    shown = ombix(tmp_path, "describe", "hull.json", "--commands", "list.json", "--output", "again", "--all")
    assert not any(char in shown.out for char in "\x1b\x7f\r")


def test_a_list_of_something_else_is_noticed(tmp_path: Path) -> None:
    (tmp_path / "list.txt").write_text("deck: wash\nrope: coil\n")
    session = OpenWorkspace(folder=str(tmp_path), state=str(tmp_path / "state"))
    found = describe_questions.describe(
        session, DraftRequest([files_of("oarlock")[0]], commands=[str(tmp_path / "list.txt")])
    )
    assert any("what is not in the list of commands: 3" in text for text in found.missing)


def test_a_folder_that_is_named_may_be_outside_and_is_taken_back(tmp_path: Path) -> None:
    here, away = tmp_path / "here", tmp_path / "away"
    here.mkdir()
    (here / "sample.keys").write_text(SAMPLES["calls"][0])
    assert ombix(here, "describe", "sample.keys", "--output", str(away)).status in (0, 1)
    assert sorted(one.name for one in away.iterdir()) == ["commands.toml", "defaults.toml", "dialect.toml"]
    again = ombix(here, "describe", "sample.keys", "--output", str(away))
    assert again.status == 2
    assert "this file is there already" in again.err
    assert ombix(here, "undo").status == 0
    assert not away.exists() or not list(away.iterdir())
