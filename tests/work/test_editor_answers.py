"""What is said of an editor is what the file that is written for it decides, when it is read back."""

import random
from collections.abc import Iterator
from pathlib import Path

import pytest

from ombix.core.catalogue.actions import Catalogue
from ombix.core.conditions import NEVER, Space, States
from ombix.core.keymap.bindings import Binding, effective_states
from ombix.core.keymap.deciding import DecisionTable
from ombix.core.keymap.outcomes import Do, Nothing
from ombix.core.keys.notation import Trigger, write
from ombix.work.carry import carry_questions
from ombix.work.draw import draw_questions
from ombix.work.learn import learn_questions
from ombix.work.look import look_questions
from ombix.workspace.effective_keymap import EffectiveKeymap
from ombix.workspace.not_in_editor import missing_entries
from ombix.workspace.open_workspace import OpenWorkspace
from tests.helpers import MORE, dialect, seed, shipped

EDITORS = [
    "dte", "ex", "geany", "joe", "kakoune", "kate", "mcedit", "micro", "mousepad", "nano", "heddle", "oxbow", "tarn",
]  # fmt: skip
KEYS = [
    *(f"F{number}" for number in range(2, 13)), *(f"Ctrl+{letter}" for letter in "ABDEGKLNOQRTUWY"),
    *(f"Alt+{letter}" for letter in "ACFHJMPQUX"), "Ctrl+K x", "Ctrl+K Ctrl+D", "Space l d", "Ctrl+/", "Alt+ArrowUp", "Shift+F6",
    "Ctrl+Shift+K", "Enter", "Tab", "Ctrl+I", "Ctrl+Home", "g l",
]  # fmt: skip
WHERES = [
    "", "", "", "pane is text", "readonly", "not readonly", "selection is none", "mode is normal", "mode is insert",
    "pane is files", "language is python",
]  # fmt: skip


def keymap_text(chance: random.Random, editor: str, catalogue: Catalogue) -> str:
    """A keymap of 20 bindings: of actions that the editor has, and of some that it has not."""
    vocabulary = dialect(editor).vocabulary
    plain = [name for name, action in catalogue.actions.items() if not action.arguments]
    had = [name for name in plain if vocabulary.can_do(name)]
    names = list(dict.fromkeys([*chance.sample(had, 14), *chance.sample(plain, 10)]))[:18]
    lines = ["format = 1", 'name = "k"']
    for name in names:
        domain, _, verb = name.partition(".")
        where = chance.choice(WHERES)
        row = f'{{ press = "{chance.choice(KEYS)}", where = "{where}" }}' if where else f'"{chance.choice(KEYS)}"'
        lines.append(f"bind.{domain}.{verb} = {row}")
    lines += ["[unbind]", *(f'"{keys}" = true' for keys in chance.sample(KEYS[:30], 2))]
    return "\n".join(lines) + "\n"


def written_rows(table: DecisionTable | None, within: States, space: Space) -> dict[str, States]:
    """The states in which each command, as the editor writes it, wins for keys."""
    found: dict[str, States] = {}
    for row in table.rows if table is not None else ():
        states = space.both(row.states, within)
        if states != NEVER:
            name = "nothing" if isinstance(row.binding.outcome, Nothing) else row.binding.written
            found[name] = space.either(found.get(name, NEVER), states)
    return found


def opened(folder: Path, editor: str, text: str) -> tuple[OpenWorkspace, EffectiveKeymap, EffectiveKeymap]:
    """A workspace with a keymap for an editor; what it says of that, and what the file that is written decides."""
    (folder / "ombix.toml").write_text(
        f'format = 1\nkeymap = "k.keys.toml"\nplatform = "linux"\n[editor.here]\ndialect = "{editor}"\n', "utf-8"
    )
    (folder / "k.keys.toml").write_text(text, "utf-8")
    workspace = OpenWorkspace(folder=str(folder), state=str(folder / "state"))
    (made,) = carry_questions.make_ports(workspace, "here", source="", on="", rehome=False, careful=False)
    file = folder / dialect(editor).description.file.name
    file.parent.mkdir(parents=True, exist_ok=True)
    file.write_text(made.file.text, "utf-8")
    read_back = OpenWorkspace(file, kind="file", editor=editor, folder=str(folder), state=str(folder / "state"))
    read_back._resources = workspace.resources  # so that their states can be compared
    return workspace, workspace.keymap("here"), read_back.keymap()


def wrong_decisions(here: EffectiveKeymap, truth: EffectiveKeymap) -> Iterator[str]:
    """Where the two do not run the same command in the same states."""
    space, arriving = truth.space, here.arriving
    assert here.space is space
    tables: dict[Trigger, DecisionTable] = {arriving(trigger): table for trigger, table in truth.tables.items()}
    for trigger in dict.fromkeys([*here.tables, *tables]):
        one = written_rows(here.tables.get(trigger), space.possible, space)
        other = written_rows(tables.get(trigger), space.possible, space)
        if one != other:
            yield f"{write(trigger)}: {sorted(one)} for {sorted(other)}"


def wrong_answers(workspace: OpenWorkspace, here: EffectiveKeymap) -> Iterator[str]:
    """Where an answer about the editor is not what its decisions are."""
    runs: dict[str, set[str]] = {}
    for trigger, table in here.tables.items():
        for row in table.rows:
            runs.setdefault(write(trigger), set()).add(str(row.binding.outcome))
    for keys in runs:
        said = look_questions.what(workspace, keys, editor="here")
        if {line.does for line in said.decisions} != runs[keys]:
            yield f"what {keys}"
    listed: dict[str, set[str]] = {}
    listing = look_questions.show(workspace, editor="here")
    for binding in listing.bindings:
        listed.setdefault(binding.keys, set()).add(binding.does)
    if listed != {keys: does for keys, does in runs.items() if does}:
        yield "show"
    by_action = actions_of(here)
    for found in look_questions.how(workspace, "line", editor="here", everything=True).actions:
        if {key.keys for key in found.keys} != by_action.get(found.action, set()):
            yield f"how {found.action}"
    printed = {
        (row.does, keys.keys)
        for group in learn_questions.sheet(workspace, editors=["here"]).groups
        for row in group.rows
        for column in row.keys
        for keys in column
    }
    wanted = {does for found in runs.values() for does in found} - {"nothing"}
    if {does for does, _keys in printed} != wanted:
        yield f"sheet: {sorted({does for does, _keys in printed} ^ wanted)}"
    practised = learn_questions.practice(workspace, editor="here").listed()
    for item in practised.new:
        keys = item.name.rpartition(" · ")[2].split(", ")
        if not any(item.does in runs.get(one, ()) for one in keys):
            yield f"practice {item.name}"
    assert here.obeyed is not None
    gone = [entry.source for entry in missing_entries(here.obeyed, here.tables, here.space, here.catalogue)]
    assert [(write(source.trigger), str(source.outcome)) for source in gone] == [
        (lost.keys, lost.does) for lost in listing.not_here
    ]
    for entry in here.obeyed.file.entries:  # each binding is there, or it is said that it is not
        source = entry.source
        if isinstance(source.outcome, Nothing) or source in gone:
            continue
        states = effective_states(source, here.space, here.catalogue)
        if states == NEVER:  # of a mode that the editor has not: it holds in all states there
            states = here.space.possible
        table = here.tables.get(here.arriving(source.trigger))
        rows = table.rows if table is not None else ()
        if not any(row.binding.outcome == source.outcome and here.space.overlap(row.states, states) for row in rows):
            yield f"neither there nor said: {write(source.trigger)} {source.outcome}"
    picture = draw_questions.picture(workspace, editor="here")
    for panel in picture.panels:
        for key in panel.keys:
            if key.does and key.does not in wanted:
                yield f"picture {key.does}"


def actions_of(here: EffectiveKeymap) -> dict[str, set[str]]:
    """The keys of each action."""
    found: dict[str, set[str]] = {}
    for trigger, table in here.tables.items():
        for row in table.rows:
            binding: Binding = row.binding
            if isinstance(binding.outcome, Do):
                found.setdefault(binding.outcome.action, set()).add(write(trigger))
    return found


@pytest.mark.parametrize("number", range(2 * MORE))
@pytest.mark.parametrize("editor", EDITORS)
def test_an_answer_about_an_editor_is_what_its_file_decides(editor: str, number: int, tmp_path: Path) -> None:
    text = keymap_text(random.Random(f"{seed()} {editor} {number}"), editor, shipped.catalogue())
    workspace, here, truth = opened(tmp_path, editor, text)
    assert list(wrong_decisions(here, truth)) == []
    assert list(wrong_answers(workspace, here)) == []
