"""Editors' own files of snippets: written, read again, and what became of each."""

from pathlib import Path

import pytest

from ombix.core.errors import InputError, Place
from ombix.core.snippets.model import Snippet
from ombix.core.snippets.parsing import parse
from ombix.editors.description_loading import Dialects
from ombix.editors.snippet_formats import SnippetSyntax, read_snippets, write_snippets
from ombix.evidence.editor_host import EditorHost, press
from ombix.evidence.editor_run import Start
from ombix.evidence.sandbox import Sandbox
from tests.helpers import dialect, ombix, shipped

PLACE = Place("k")


def syntax(name: str) -> SnippetSyntax:
    found = dialect(name).snippets
    assert found is not None
    return found


def snippet(name: str, body: str, words: tuple[str, ...] = (), languages: tuple[str, ...] = ()) -> Snippet:
    return Snippet(name, name, body, parse(body), PLACE, words or (name,), languages)


def written(
    editor: str, *snippets: Snippet, keys: dict[str, list[str]] | None = None
) -> tuple[str, list[tuple[str, str]]]:
    made = write_snippets(syntax(editor), snippets, keys or {}, "ferry")
    return made.text, [(one.verdict, one.how) for one in made.carried]


def test_a_word_a_text_and_keys_in_geany() -> None:
    text, verdicts = written(
        "geany",
        snippet("fog", "No crossings\n\tin fog \\\\ 50%"),
        snippet("p", " x$0", ("pi",), ("python",)),
        keys={"p": ["<Alt>p"]},
    )
    assert (
        text
        == "[Default]\nfog=No crossings\\n\\tin fog \\\\ 50%\n\n[Python]\npi=\\sx%cursor%\n\n[Keybindings]\npi=<Alt>p\n"
    )
    assert verdicts == [("exact", ""), ("exact", "")]


def test_what_geany_cannot_have_is_said() -> None:
    _text, verdicts = written(
        "geany", snippet("a", "${2:x} $1 $1"), snippet("b", "$TM_SELECTED_TEXT"), snippet("c", "{command:touch x}"),
        snippet("d", "${1/a/b/}"), snippet("e", "in $TM_FILENAME"), snippet("f", "x", (), ("python", "toml")),
    )  # fmt: skip
    assert [verdict for verdict, _how in verdicts] == ["adapted", "lost", "lost", "lost", "exact", "adapted"]
    hows = [how for _verdict, how in verdicts]
    assert "gap 2 is empty, without “x”" in hows[0]
    assert "in the order of the text" in hows[0]
    assert "filled in in each" in hows[0]
    assert "its other gaps show _" in hows[0]
    assert hows[1] == "it has no variable TM_SELECTED_TEXT"
    assert "{command: stands in its text" in hows[2]
    assert "transformations" in hows[3]
    assert "also for toml" in hows[5]


def test_one_without_words_is_expanded_by_its_name() -> None:
    one = Snippet("fog", "Fog", "x", parse("x"), PLACE)
    assert written("geany", one)[1] == [("adapted", "its name fog is the word for it")]
    assert written("geany", one, keys={"fog": ["F5"]})[1] == [("exact", "its name fog is the word for it")]


def test_kates_gaps_have_names() -> None:
    text, verdicts = written("kate", snippet("f", "f(${1:from}, ${2}) # $1 < \\$1$0"), snippet("g", "${1:two words}"))
    assert "<fillin>f(${from}, ${gap2}) # ${from} &lt; \\$1${cursor}</fillin>" in text
    assert verdicts[0][0] == "adapted"
    assert "gap 1 shows “two_words” in place of “two words”" in verdicts[1][1]


@pytest.mark.parametrize("editor", ["geany", "kate", "heddle"])
def test_what_is_written_is_read_again(editor: str) -> None:
    bodies = ["plain", "a\n\tb", "x < y & z", "\\$1 \\} \\\\ back", "f(${1:from}, ${2:to})$0", "${1:one} $1"]
    bodies = bodies if editor != "geany" else [*bodies[:4], "f(${1}, ${2})$0"]
    made = write_snippets(syntax(editor), [snippet(f"s{at}", body) for at, body in enumerate(bodies)], {}, "ferry")
    again = read_snippets(syntax(editor), made.text, "x")
    assert [(one.word, parse(one.body)) for one in again] == [(f"s{at}", parse(body)) for at, body in enumerate(bodies)]


def test_the_file_that_geany_ships_is_read_whole() -> None:
    path = Path("/usr/share/geany/snippets.conf")
    found = read_snippets(syntax("geany"), path.read_text("utf-8"), str(path))
    rows = [
        line for line in path.read_text("utf-8").split("\n")
        if "=" in line and not line.startswith("#") and not line.startswith(("brace_", "block"))
    ]  # fmt: skip
    assert len(found) == len(rows) > 60
    by = {(one.language, one.word): one.body for one in found}
    assert by["c", "for"] == "for (i = 0; i < ${1}; i++)\n{\n\t$0\n\\}"
    for one in found:
        parse(one.body)


@pytest.mark.parametrize(
    ("editor", "text", "what"),
    [
        ("geany", "no entry", "this is no entry"),
        ("geany", "[C]\n=x", "this is no entry"),
        ("kate", "<snippets", "this is no XML"),
        ("kate", "<other/>", "but of other"),
        ("kate", '<!DOCTYPE s [<!ENTITY a "b">]><snippets>&a;</snippets>', "entities"),
        ("kate", "", "this is no XML"),
    ],
)
def test_what_is_no_file_of_snippets_is_refused(editor: str, text: str, what: str) -> None:
    with pytest.raises(InputError) as found:
        read_snippets(syntax(editor), text, "x")
    assert what in found.value.what


def test_a_command_in_a_file_is_a_text_and_a_script_a_gap() -> None:
    (one,) = read_snippets(syntax("geany"), "[Default]\nx={command:touch x}\n", "x")
    assert one.body == "{command:touch x\\}"
    assert "kept as a text" in one.reason
    text = "<snippets><item><match>x</match><fillin>${a=run()} ${a}</fillin></item></snippets>"
    (one,) = read_snippets(syntax("kate"), text, "x")
    assert one.body == "${1:a} ${1}"
    assert "script" in one.reason


def test_the_commands(ferry: Path) -> None:
    steps = ferry / "macros"
    ran = ombix(steps, "macro", "port", "--to", "geany")
    assert ran.status == 1
    assert "round-trip  gone        it has no variable TM_SELECTED_TEXT" in ran.out
    assert ran.out.startswith("2 of 3 snippets work in geany, 1 of them with a difference; 1 cannot be had\nthere.")
    assert "notice=<Alt>n" in (steps / "ported/geany/snippets.conf").read_text("utf-8")
    ran = ombix(steps, "macro", "port", "--to", "nano")
    assert (ran.status, "Editors with snippets are geany, heddle, kate." in ran.err) == (2, True)
    ran = ombix(steps, "macro", "port", "--to", "kate", "--dry-run")
    assert "would write" in ran.out
    assert not (steps / "ported/kate").exists()
    before = (steps / "steps.keys.toml").read_text("utf-8")
    ran = ombix(steps, "macro", "adopt", "ported/geany/snippets.conf", "--editor", "geany")
    assert ran.status == 1  # its keys are not taken in
    after = (steps / "steps.keys.toml").read_text("utf-8")
    assert after.startswith(before)
    assert '[snippet.xing]\ntitle = "xing"\nwords = ["xing"]\nbody = "crossing(${1}, ${2}, at=${3})$0"' in after
    assert ombix(steps, "undo").status == 0
    assert (steps / "steps.keys.toml").read_text("utf-8") == before
    assert ombix(steps, "macro", "adopt", "ported/geany/snippets.conf").status == 2
    assert ombix(steps, "macro", "adopt", "none.conf", "--editor", "geany").status == 2


def test_a_snippet_is_expanded_in_geany() -> None:
    """Pressed: the word and the key that completes it, and the keys that it was given."""
    text, _verdicts = written("geany", snippet("fog", "a\n\tb ${1} c"), keys={"fog": ["<Alt>n"]})
    one = dialect("geany")
    program = one.description.program
    assert program is not None
    for start, at, keys in (("fog", 4, b"Tab"), ("", 1, b"Alt+N")):
        begun = Start(one.description.file.name, "", start, 1, at, ("snippets.conf", text))
        found = press(program, begun, [keys, b"x"], program.save.encode(), EditorHost(Sandbox((), "")))
        assert found.text == "a\n\tb x c", found


@pytest.mark.parametrize("editor", ["geany", "kate", "heddle"])
def test_words_and_texts_that_would_break_the_file_are_not_written(editor: str) -> None:
    some = [
        snippet("eq", "x", ("a=b", "ok1")), snippet("blank", "x", ("a b",)), snippet("head", "x", ("[C]", "ok2")),
        snippet("mark", "x", ("#c", "ok3")), snippet("bell", "x\x07y"), snippet("return", "a\r\nb"), snippet("sp ace", "x"),
        snippet("tag", "<a> & ]]> <!-- \"'"),
    ]  # fmt: skip
    made = write_snippets(syntax(editor), some, {"eq": ["F5"]}, 'fer"ry<&')
    verdicts = {one.name: one.verdict for one in made.carried}
    assert {verdicts[name] for name in ("blank", "bell", "return", "sp ace")} == {"lost"}
    again = read_snippets(syntax(editor), made.text, "x")
    words = {one.word for one in again}
    assert {"ok1", "ok2", "ok3", "tag"} <= words
    assert ("a=b" in words) == (editor == "kate")
    assert {parse(one.body) for one in again if one.word == "tag"} == {some[-1].parts}


def test_a_description_that_is_like_another_has_its_snippets_and_its_grammar(tmp_path: Path) -> None:
    for like, name in (("geany", "pier"), ("ex", "quay")):
        home = tmp_path / name
        home.mkdir()
        (home / "dialect.toml").write_text(f'like = "{like}"\nname = "{name}"\n', "utf-8")
    own = tmp_path / "pier" / "snippets.toml"
    own.write_text('like = "geany"\ngap = "<>"\nlast = "<>"\n', "utf-8")
    dialects = Dialects(shipped)
    pier, quay = dialects.load(str(tmp_path / "pier")), dialects.load(str(tmp_path / "quay"))
    assert pier.snippets is not None and (pier.snippets.gap, pier.snippets.everywhere) == ("<>", "Default")
    assert quay.grammar is not None and quay.vocabulary.parts("d2h", "command") is not None
    # What was trusted is no longer, when one of the files changes.
    before = dialects.digest_of(pier)
    own.write_text('like = "geany"\ngap = "<2>"\nlast = "<>"\n', "utf-8")
    assert before
    assert Dialects(shipped).digest_of(Dialects(shipped).load(str(tmp_path / "pier"))) != before
