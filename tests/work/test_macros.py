"""Macros and snippets of a keymap: read and written, run, tried, recorded, ported."""

from pathlib import Path

import pytest

from ombix.core.errors import InputError
from ombix.core.keymap.outcomes import Do, Insert, Play, Press, Repeat, Type, Until, When
from ombix.core.keys.notation import parse
from ombix.core.pressing.sent_keys import keys_sent
from ombix.files.keymap_writing import dump
from ombix.work.audit import audit_questions
from ombix.work.carry import carry_questions
from ombix.work.tryout import tryout_questions
from ombix.work.tryout.macro_answer import MacroTrial
from ombix.work.tryout.macro_recording import RecordOptions, keys_in
from ombix.work.tryout.macro_trial import TrialOptions
from ombix.work.tryout.stage_session import place_on
from ombix.workspace.open_workspace import OpenWorkspace
from tests.helpers import layer_of, shipped

HEAD = 'format = 1\nname = "k"\n\n'
KEYMAP = (
    HEAD
    + """\
[bind.line]
copy-down = "Alt+D"
delete = { press = "Alt+K", where = "selection is none" }

[bind.edit]
cut = { press = "Alt+K", where = "selection is not none" }

[macro.all]
title = "Each kind of step"
press = { press = "F5" }
"""
)


def folder(tmp_path: Path, text: str, workspace: str = "") -> OpenWorkspace:
    (tmp_path / "k.keys.toml").write_text(text, "utf-8")
    (tmp_path / "ombix.toml").write_text(
        f'format = 1\nkeymap = "k.keys.toml"\nplatform = "linux"\n{workspace}', "utf-8"
    )
    return OpenWorkspace(folder=str(tmp_path), state=str(tmp_path / "state"))


def tried(tmp_path: Path, steps: str, text: str, at: str = "1:1", times: int = 1, select: str = "") -> MacroTrial:
    session = folder(tmp_path, f"{HEAD}[macro.m]\nsteps = [{steps}]\n")
    return tryout_questions.try_macro(session, "m", place_on(text, at, "always", select), TrialOptions(times))


STEPS = """\
[where]
free = "selection is none"

[macro.all]
title = "Each kind of step"
press = "F5"
where = "pane is text"
languages = ["python", "lua"]
with = { count = 3 }
steps = [
    { do = "cursor.down", with = { count = 2 } }, { type = "x" }, { press = "Alt+D", means = "line.copy-down" },
    { play = "other", times = 2 }, { insert = "row" }, { only = "Autocomplete", editor = "micro" },
    { repeat = 3, steps = [{ do = "cursor.up" }, { type = "y" }] },
    { until = "fails", most = 20, steps = [{ do = "search.next" }] },
    { do = "line.delete", where = "free" },
    { steps = [{ type = "a" }, { type = "b" }], where = "readonly is no" },
]

[[macro.all.example]]
before = "a|b"
after = "ab|"

[macro.other]
steps = [{ do = "cursor.left" }]

[snippet.row]
title = "A row"
words = ["row", "r"]
languages = ["python"]
where = "free"
body = ["${1:from}", "$0"]
"""


def test_every_kind_of_step_is_read_and_written() -> None:
    layer = layer_of(HEAD + STEPS)
    macro = layer.macros["all"]
    assert macro.languages == ("python", "lua")
    assert macro.examples[0].before == "a|b"
    *first, last = macro.steps
    assert first[:7] == [
        Do("cursor.down", (("count", "2"),)), Type("x"), Press(parse("Alt+D"), "line.copy-down"), Play("other", 2),
        Insert("row"), macro.steps[5], Repeat((Do("cursor.up"), Type("y")), 3),
    ]  # fmt: skip
    assert first[7] == Until((Do("search.next"),), "fails", 20)
    assert isinstance(first[8], When) and first[8].steps == (Do("line.delete"),)
    assert isinstance(last, When) and last.steps == (Type("a"), Type("b"))
    (binding,) = layer.bindings
    assert (binding.outcome, binding.where) == (Play("all", 3), "(pane is text) and language in (python, lua)")
    assert layer.snippets["row"].words == ("row", "r")
    again = layer_of(dump(layer))
    assert [str(one) for one in again.macros["all"].steps] == [str(one) for one in macro.steps]
    assert (again.bindings[0].outcome, again.bindings[0].where) == (binding.outcome, binding.where)
    assert again.snippets["row"].body == layer.snippets["row"].body
    assert again.snippets["row"].where == layer.snippets["row"].where
    assert dump(again) == dump(layer)


@pytest.mark.parametrize(
    ("text", "what", "line"),
    [
        ("[macro.m]\nsteps = []", "the macro m has no steps", 1),
        ('[macro.m]\nsteps = [{ repeat = 0, steps = [{ type = "a" }] }]', "not a number of times: 0", 2),
        ("[macro.m]\nsteps = [{ repeat = 2 }]", "there are no steps", 2),
        ('[macro.m]\nsteps = [{ until = "never", steps = [{ type = "a" }] }]', "not an ending: never", 2),
        ('[macro.m]\nsteps = [{ press = "F5", means = "line.copy-donw" }]', "unknown action: line.copy-donw", 2),
        ('[macro.m]\nsteps = [{ do = "line.copy-donw" }]', "unknown action: line.copy-donw", 2),
        ('[macro.m]\nsteps = [{ go = "x" }]', "not a step", 2),
        ('[macro.m]\nsteps = [{ type = "a", whree = "x" }]', "unknown key: whree", 2),
        (
            '[macro.m]\nlanguages = ["python"]\nsteps = [{ type = "a" }]\nwith = { count = "x" }\npress = "F5"',
            "not a number of times",
            4,
        ),
        (
            '[macro.m]\nsteps = [{ type = "a" }]\n[[macro.m.example]]\nbefore = "a"\nafter = "b|"',
            "the text before has not one |",
            4,
        ),
        ("[snippet.s]\nwords = ['a']", "the snippet s has no body", 1),
        ("[snippet.s]\nbody = ['ok', 'a ${1:b']", "${ is never closed", 2),
        ("[snippet.s]\nbody = 'x'\nwords = ['a b']", "“a b” is no word", 3),
    ],
)
def test_what_is_wrong_is_said_with_its_place(text: str, what: str, line: int) -> None:
    with pytest.raises(InputError) as found:
        layer_of(HEAD + text)
    assert what in found.value.what
    assert found.value.place is not None and found.value.place.line == line + 3


def test_a_million_steps_are_refused_and_too_many_are_stopped(tmp_path: Path) -> None:
    with pytest.raises(InputError, match="more than 10,000 steps"):
        layer_of(HEAD + "[macro.m]\nsteps = [" + "{ type = 'a' }, " * 10_001 + "]\n")
    deep = "{ repeat = 1000, steps = [" * 3 + "{ type = 'a' }" + "] }" * 3
    found = tried(tmp_path, deep, "")
    assert len(found.text) < 10_001
    assert found.remarks[0].kind == "cut-short"
    assert not found.is_as_expected


# --- running


def test_steps_go_on_until_one_fails(tmp_path: Path) -> None:
    find = '{ do = "search.find" }, { type = "a" }, { do = "prompt.accept" }'
    steps = find + ', { until = "fails", steps = [{ type = "b" }, { do = "search.next" }] }'
    assert tried(tmp_path, steps, "a, a, a;").text == "b, b, b;"  # what it comes round to again is no more of it
    down = '{ until = "fails", steps = [{ type = "-" }, { do = "cursor.down" }, { do = "cursor.line-start" }] }'
    assert tried(tmp_path, down, "a\nb\nc").text == "-a\n-b\n-c"


def test_steps_go_on_until_the_text_ends(tmp_path: Path) -> None:
    steps = '{ until = "end", steps = [{ do = "cursor.line-end" }, { type = "." }, { do = "cursor.right" }] }'
    assert tried(tmp_path, steps, "a\nb\n").text == "a.\nb.\n"
    assert tried(tmp_path, steps, "a\nb").text == "a.\nb."
    still = '{ until = "end", most = 3, steps = [{ type = "x" }, { do = "edit.delete-left" }] }'
    assert tried(tmp_path, still, "a\n").text == "a\n"  # a round that changes nothing is the last one
    bounded = '{ until = "end", most = 3, steps = [{ do = "cursor.line-start" }, { type = "x" }] }'
    found = tried(tmp_path, bounded, "a\n")
    assert found.text == "xxxa\n"
    assert "stopped after 3 rounds" in found.remarks[0].said


def test_a_step_is_done_only_under_its_condition(tmp_path: Path) -> None:
    steps = '{ type = "x", where = "selection is none" }, { do = "edit.delete-right", where = "selection is not none" }'
    assert tried(tmp_path, steps, "abc", "1:1").text == "xabc"
    session = folder(tmp_path, f"{HEAD}[macro.m]\nsteps = [{steps}]\n")
    place = place_on("abc", "1:3", "selection is one", "1:2")
    assert tryout_questions.try_macro(session, "m", place, TrialOptions()).text == "ac"


def test_circles_are_found_before_anything_runs(tmp_path: Path) -> None:
    text = (
        HEAD
        + '[macro.a]\nsteps = [{ type = "x" }, { play = "b" }]\n[macro.b]\nsteps = [{ repeat = 2, steps = [{ play = "a" }] }]\n'
    )
    session = folder(tmp_path, text)
    found = tryout_questions.try_macro(session, "a", place_on("t", "1:1", "always"), TrialOptions())
    assert found.text == "t"
    assert "a plays b plays a" in found.remarks[0].said
    assert tryout_questions.macro(session, "a").circle == ("a", "b")
    assert "circle" in {one.rule for one in audit_questions.audit(session).findings}


def test_a_macro_equals_its_steps_and_repeats_equal_runs(tmp_path: Path) -> None:
    steps = '{ do = "cursor.line-end" }, { type = "!" }, { do = "cursor.down" }'
    once = tried(tmp_path, steps, "a\nb\nc\n")
    assert once.text == "a!\nb\nc\n"
    three = tried(tmp_path, steps, "a\nb\nc\n", times=3)
    assert tried(tmp_path, f"{{ repeat = 3, steps = [{steps}] }}", "a\nb\nc\n").text == three.text == "a!\nb!\nc!\n"


# --- what is to be known


def kinds(found: MacroTrial) -> list[str]:
    return [one.kind for one in found.remarks]


def test_what_is_more_than_expected_is_pointed_out(tmp_path: Path) -> None:
    assert kinds(tried(tmp_path, '{ do = "cursor.line-end" }', "ab")) == []
    assert kinds(tried(tmp_path, '{ type = "x" }, { do = "edit.delete-left" }', "ab")) == ["nothing", "several-undos"]
    assert "beyond-selection" in kinds(
        tried(tmp_path, '{ do = "cursor.document-end" }, { type = "x" }', "ab\nc", "1:2", select="1:1")
    )
    other = '{ do = "cursor.document-start" }, { type = "x" }, { do = "cursor.document-end" }'
    found = tried(tmp_path, other, "ab\ncd\nef\n", times=3)
    assert "other-lines" in kinds(found)
    assert "failed" in kinds(tried(tmp_path, '{ press = "F9" }', "ab"))
    assert "leaves-text" in kinds(tried(tmp_path, '{ type = "x" }, { do = "files.save" }', "ab"))
    found = tried(tmp_path, '{ type = "x" }, { do = "cursor.down" }, { type = "y" }', "a\nb\n")
    assert (found.places, found.lines_changed, found.undos) == (2, 2, 2)
    assert found.is_as_expected


def test_examples_are_checked(tmp_path: Path) -> None:
    session = folder(tmp_path, f'{HEAD}[macro.m]\nsteps = [{{ do = "cursor.line-end" }}, {{ type = ";" }}]\n'
                     '[[macro.m.example]]\nbefore = "a|b\\nc"\nafter = "ab;|\\nc"\n')  # fmt: skip
    options = TrialOptions(examples=[("|x", "x;|"), ("|x", "x|;"), ("[ab|]c", "abc;|")])
    found = tryout_questions.try_macro(session, "m", place_on("t", "1:1", "always"), options)
    assert [one.agrees for one in found.examples] == [True, True, False, True]
    assert found.examples[2].found == "x;|"
    assert not found.is_as_expected


def test_snippets_are_tried(tmp_path: Path) -> None:
    session = folder(tmp_path, HEAD + '[snippet.s]\nbody = "f(${1:a}, ${2:b}) # $1 in $TM_FILENAME"\n')
    place = place_on("", "1:1", "always", file="/piers/n.py")
    found = tryout_questions.try_macro(session, "s", place, TrialOptions(fill=["1=north", "2="]))
    assert found.text == "f(north, ) # north in n.py"
    with pytest.raises(InputError, match="no gap 7"):
        tryout_questions.try_macro(session, "s", place, TrialOptions(fill=["7=x"]))
    with pytest.raises(InputError, match="fills in no gap"):
        tryout_questions.try_macro(session, "s", place, TrialOptions(fill=["north"]))


def test_a_long_text_is_tried_in_bounded_time(tmp_path: Path) -> None:
    text = "07:10 north pier\n" * 50_000
    steps = '{ do = "cursor.line-end" }, { type = "!" }, { do = "cursor.down" }'
    found = tried(tmp_path, steps, text, times=20)
    assert found.lines_changed == 20
    with pytest.raises(InputError, match="longer than"):
        place_on("a" * 50_000_000, "1:1", "always")


# --- recording


def test_keys_become_actions_where_they_are_the_same_in_every_state(tmp_path: Path) -> None:
    session = folder(tmp_path, KEYMAP.split("[macro")[0])
    keys = keys_in("# a comment\nAlt+D Alt+D\nh i Alt+K")
    report = tryout_questions.record(
        session, keys, place_on("a\nb\n", "1:1", "always"), RecordOptions("two", "Two more", "F6")
    )
    assert report.steps == ("line.copy-down(count=2)", "type 'hi'", "press Alt+K for line.delete")
    assert "kept as a key" in report.remarks[0]
    text = (tmp_path / "k.keys.toml").read_text("utf-8")
    assert text.endswith(
        '[macro.two]\ntitle = "Two more"\npress = "F6"\nsteps = [{ do = "line.copy-down", with = { count = 2 } }, '
        '{ type = "hi" }, { press = "Alt+K", means = "line.delete" }]\n'
    )
    again = OpenWorkspace(folder=str(tmp_path), state=str(tmp_path / "state"))
    done = tryout_questions.try_macro(again, "two", place_on("a\nb\n", "1:1", "always"), TrialOptions())
    machine_text = "a\na\n"  # two copies, hi typed, and the line with it deleted
    assert done.text.replace("b\n", "") == machine_text
    with pytest.raises(InputError, match="there is a macro two"):
        tryout_questions.record(again, keys, place_on("a", "1:1", "always"), RecordOptions("two"))


def test_keys_are_read_from_what_a_terminal_sends() -> None:
    found, lost = keys_sent(b"a\x1bd\x1b[B\xc3\xa9\x04\xff", shipped.terminal("xterm"))
    assert found == [*parse("a Alt+D"), *parse("ArrowDown"), *parse("é Ctrl+D")] or lost == 1
    assert lost == 1


# --- ports


def test_repeats_macros_in_macros_and_relied_keys_are_carried(tmp_path: Path) -> None:
    text = (
        HEAD
        + """\
[bind.line]
copy-down = { press = "Alt+D", where = "pane is text" }

[macro.one]
steps = [{ do = "cursor.down" }, { press = "Alt+D", means = "line.copy-down" }]

[macro.m]
press = "F5"
where = "pane is text"
steps = [{ repeat = 2, steps = [{ play = "one" }] }, { type = "x", where = "pane is text" }]

[macro.never]
press = "F6"
where = "pane is text"
steps = [{ type = "y", where = "pane is files" }, { do = "cursor.up" }, { do = "cursor.line-end" }]

[macro.open]
press = "F7"
where = "pane is text"
steps = [{ until = "end", steps = [{ do = "cursor.down" }] }]

[macro.state]
press = "F8"
where = "pane is text"
steps = [{ do = "cursor.down", where = "selection is none" }]

[snippet.plain]
press = "F9"
where = "pane is text"
body = "fog"

[snippet.gap]
press = "F10"
where = "pane is text"
body = "$1"
"""
    )
    session = folder(tmp_path, text, '[editor.south]\ndialect = "joe"\n')
    (report,) = carry_questions.port(session, "south")
    how = {one.action: (one.verdict, one.how) for one in report.bindings}
    assert "dnarw,dupln" in how["macro m"][1].replace("dnarw,nmark", "dnarw,dupln") or "dnarw" in how["macro m"][1]
    assert "uparw,eol" in how["macro never"][1]
    assert how["macro open"] == (
        "lost",
        "not all steps of the macro can be had in main: joe cannot go on until something holds",
    )
    assert "is decided while it runs" in how["macro state"][1]
    assert '"fog"' in how["snippet plain"][1]
    assert how["snippet gap"] == ("lost", "joe has no key for a snippet with gaps")
