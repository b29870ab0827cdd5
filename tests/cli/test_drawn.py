"""`ombix sheet` and `ombix picture`: what they print, what they write, and what is wrong."""

import json
import subprocess
from pathlib import Path

import pytest

from ombix.work.learn import learn_questions
from ombix.workspace.open_workspace import OpenWorkspace
from tests.helpers import ombix


def git(folder: Path, *arguments: str) -> None:
    who = ("-c", "user.name=crew", "-c", "user.email=crew@ferry.example")
    subprocess.run(["git", "-C", str(folder), *who, *arguments], check=True, capture_output=True)


def commit(folder: Path) -> None:
    git(folder, "add", "-A")
    git(folder, "commit", "-q", "-m", "keys")


def test_each_form_is_written_and_can_be_taken_back(ferry: Path) -> None:
    names = ["k.pdf", "k.png", "k.svg", "k.html", "k.md", "k.txt", "k.json"]
    ran = ombix(ferry, "sheet", *(part for name in names for part in ("--output", name)))
    assert (ran.status, ran.out) == (0, "")
    assert ran.err == "".join(f"wrote {name}\n" for name in names)
    starts = {name: (ferry / name).read_bytes()[:8] for name in names}
    assert starts["k.pdf"].startswith(b"%PDF-")
    assert starts["k.png"] == b"\x89PNG\r\n\x1a\n"
    assert starts["k.svg"].startswith(b"<svg")
    assert json.loads((ferry / "k.json").read_text())["title"] == "Keys of crew"
    assert ombix(ferry, "undo").status == 0
    assert not any((ferry / name).exists() for name in names)


def test_only_what_changed_since_a_version(ferry: Path) -> None:
    git(ferry, "init", "-q")
    commit(ferry)
    assert ombix(ferry, "sheet", "--since", "HEAD").status == 1  # nothing
    assert ombix(ferry, "bind", "line.join", "Alt+G").status == 0
    assert ombix(ferry, "unbind", "line.copy-down").status == 0
    assert ombix(ferry, "move", "app.help", "F11").status == 0
    found = json.loads(ombix(ferry, "sheet", "--since", "HEAD", "--json").out)
    rows = {
        row["does"]: (row["change"], row["keys"][0][0]["keys"]) for group in found["groups"] for row in group["rows"]
    }
    assert rows == {
        "line.join": ("new", "Alt+G"), "line.copy-down": ("gone", "Ctrl+D"), "app.help": ("moved", "F11"),
    }  # fmt: skip
    assert "now: Show the help, before F1" in ombix(ferry, "sheet", "--since", "HEAD").out
    commit(ferry)
    assert json.loads(ombix(ferry, "sheet", "--since", "HEAD~1", "--json").out) == found
    for wrong in ("nowhere", "--output=/tmp/x", "HEAD:crew.keys.toml"):
        ran = ombix(ferry, "sheet", f"--since={wrong}")
        assert ran.status == 2
        assert "git knows no version" in ran.err


def test_nothing_that_a_repository_names_is_started(ferry: Path) -> None:
    git(ferry, "init", "-q")
    commit(ferry)
    trap = ferry / "trap.sh"
    trap.write_text("#!/bin/sh\ntouch started\n")
    trap.chmod(0o755)
    (ferry / ".gitattributes").write_text("* filter=trap diff=trap\n")
    for name in (
        "core.fsmonitor",
        "core.pager",
        "diff.external",
        "filter.trap.smudge",
        "core.sshCommand",
        "core.editor",
    ):
        git(ferry, "config", name, str(trap))
    for hook in ("post-checkout", "pre-commit", "reference-transaction"):
        (ferry / ".git" / "hooks").mkdir(exist_ok=True)
        (ferry / ".git" / "hooks" / hook).write_bytes(trap.read_bytes())
        (ferry / ".git" / "hooks" / hook).chmod(0o755)
    assert ombix(ferry, "sheet", "--since", "HEAD").status == 1
    assert not (ferry / "started").exists()


def test_what_a_repository_leaves_out_is_not_fetched(ferry: Path) -> None:
    """A part of it is missing, and it names a command that would bring that."""
    git(ferry, "init", "-q")
    commit(ferry)
    trap = ferry / "trap.sh"
    trap.write_text(f"#!/bin/sh\ntouch {ferry}/started\n")
    trap.chmod(0o755)
    blob = subprocess.run(
        ["git", "-C", str(ferry), "rev-parse", "HEAD:crew.keys.toml"], check=True, capture_output=True, text=True
    ).stdout.strip()
    (ferry / ".git" / "objects" / blob[:2] / blob[2:]).unlink()
    for name, value in (
        ("core.repositoryFormatVersion", "1"), ("extensions.partialClone", "origin"), ("remote.origin.url", str(ferry)),
        ("remote.origin.promisor", "true"), ("remote.origin.uploadpack", str(trap)), ("protocol.file.allow", "always"),
    ):  # fmt: skip
        git(ferry, "config", name, value)
    subprocess.run(["git", "-C", str(ferry), "cat-file", "blob", blob], check=False, capture_output=True)
    assert (ferry / "started").exists()  # so would it be
    (ferry / "started").unlink()
    ran = ombix(ferry, "sheet", "--since", "HEAD")
    assert (ran.status, "the version cannot be read" in ran.err) == (2, True)
    assert not (ferry / "started").exists()


def test_another_repository_that_is_named_around_is_not_meant(ferry: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    git(ferry, "init", "-q")
    commit(ferry)
    monkeypatch.setenv("GIT_DIR", str(ferry / "nowhere"))
    assert learn_questions.sheet(OpenWorkspace(folder=str(ferry)), since="HEAD").groups == ()


def test_what_a_list_names_in_its_order(ferry: Path) -> None:
    (ferry / "few.txt").write_text("# the first\nSave\n\nwrap-crossing  # our own\nline.sort\n")
    found = json.loads(ombix(ferry, "sheet", "--only", "few.txt", "--json").out)
    assert [row["does"] for group in found["groups"] for row in group["rows"]] == ["files.save", "macro wrap-crossing"]
    assert found["notes"] == ["line.sort has no keys."]
    (ferry / "few.txt").write_text("Savve\n")
    ran = ombix(ferry, "sheet", "--only", "few.txt")
    assert (ran.status, "few.txt:1" in ran.err) == (2, True)


def test_what_differs_from_the_defaults_and_from_another_keymap(ferry: Path) -> None:
    whole = json.loads(ombix(ferry, "sheet", "--editor", "nano", "--own", "--json").out)
    differing = json.loads(ombix(ferry, "sheet", "--editor", "nano", "--differing", "--json").out)
    defaults = json.loads(ombix(ferry, "show", "--editor", "nano", "--json").out)["bindings"]
    usual = {(one["keys"], one["does"]) for one in defaults if one["is_default"]}
    assert 0 < len(_rows(differing)) < len(_rows(whole))
    assert usual.isdisjoint((row["keys"][0][0]["keys"], row["does"]) for row in _rows(differing))
    (ferry / "other.keys.toml").write_text('format = 1\nname = "o"\n[bind.files]\nsave = ["Mod+S", "F2"]\n')
    against = json.loads(ombix(ferry, "sheet", "--against", "other.keys.toml", "--json").out)
    assert "files.save" not in {row["does"] for row in _rows(against)}


def _rows(found: dict[str, object]) -> list[dict[str, object]]:
    return [row for group in found["groups"] for row in group["rows"]]  # type: ignore[attr-defined,index]


@pytest.mark.parametrize(
    "text",
    [
        "{{ ''.__class__.__mro__ }}", "{{ answer.__init__.__globals__ }}", "{{ answer.title.format.__self__.__class__ }}",
        "{% for x in range(999999999) %}{% endfor %}", "{{ nothing }}", "{{ answer.nothing }}", "{% if %}", "{{ 1/0 }}",
        "{% include 'crew.keys.toml' %}", "{{ answer.groups.append(1) }}", "{{ 'x' * answer }}", "{% import 'os' as o %}",
        "{% for a in range(99999) %}{% for b in range(99999) %}{% endfor %}{% endfor %}",
        "{{ 'x' * 999999999 }}", "{{ 9 ** 999999999 }}", "{% for a in range(9999) %}{{ 'x' * 9999 }}{% endfor %}",
        "{{ [1]|slice(2000000000)|list }}", "{{ '%2000000000d' % 1 }}", "{{ 'x'.zfill(2000000000) }}",
        "{{ 'x'|center(2000000000) }}",
        "{{ 'x'.ljust(2000000000) }}", "{{ '{:2000000000}'.format(1) }}", "{{ ('x' * 99999).replace('x', 'y' * 99999) }}",
        "{% set n = namespace(t='x') %}{% for a in range(40) %}{% set n.t = n.t + n.t %}{% endfor %}{{ n.t|length }}",
        "{{ range(99999)|map('string')|join(' ' * 99999) }}", "{{ [0] * 999999999 }}", "{{ 'x'.expandtabs(1)|indent(999999999) }}",
        "{{ '\\t'.expandtabs(2000000000) }}", "{{ 'x'|batch(2000000000, 'y')|list }}", "{{ lipsum(n=99999) }}",
        "{{ (9 ** 99999) ** 99999 }}", "{{ 'a'.encode('utf-8').decode('x' * 9) }}", "{{ 'x'|wordwrap(0) }}",
    ],
)  # fmt: skip
def test_a_template_can_do_nothing_but_look(ferry: Path, text: str) -> None:
    (ferry / "t.txt").write_text(text)
    ran = ombix(ferry, "sheet", "--template", "t.txt", "--output", "out.txt")
    assert ran.status == 2, ran.out + ran.err
    assert "t.txt" in ran.err
    assert "Traceback" not in ran.err
    assert not (ferry / "out.txt").exists()


def test_a_template_for_markup_has_no_markup_from_names(ferry: Path) -> None:
    (ferry / "t.txt").write_text("<p>{{ answer.title }}</p>\n")
    title = "<script>alert(1)</script>"
    assert ombix(ferry, "sheet", "--title", title, "--template", "t.txt", "--output", "o.html").status == 0
    assert (ferry / "o.html").read_text() == "<p>&lt;script&gt;alert(1)&lt;/script&gt;</p>\n"
    for name in ("s.html", "s.svg", "s.md"):
        assert ombix(ferry, "sheet", "--title", title, "--output", name).status == 0
        assert "<script" not in (ferry / name).read_text()


@pytest.mark.parametrize(
    ("call", "said"),
    [
        (("sheet", "--output", "k.doc"), "there is no form for k.doc"),
        (("sheet", "--paper", "a5"), "there is no paper a5"),
        (("sheet", "--by", "keys"), "unknown order: keys"),
        (("sheet", "--since", "HEAD"), "this is in no repository of git"),
        (("sheet", "--since", "HEAD", "--against", "x"), "two things to compare with"),
        (("sheet", "--against", "none.keys.toml"), "none.keys.toml"),
        (("sheet", "--against", "keyboards", "--on", "mac", "--on", "linux"), "one editor, platform and layout"),
        (("sheet", "--template", "t"), "--template says nothing about a terminal"),
        (("sheet", "--layout", "xx"), "xx"),
        (("sheet", "--editor", "nnao"), "nnao"),
        (("sheet", "--only", "none.txt"), "none.txt"),
        (("picture", "--output", "k.html"), "there is no form for k.html"),
        (("picture", "--with", "Foo"), "these are no modifiers: Foo"),
        (("picture", "--after", "Crtl+K"), "Crtl"),
        (("picture", "--after", "Alt+Q"), "nothing begins with Alt+Q"),
        (("picture", "--keyboard", "round"), "round"),
        (("picture", "--strain", "--counts", "x"), "several scales"),
        (("picture", "--counts", "crew.keys.toml"), "crew.keys.toml:3"),
        (("picture", "--in", "pain is text"), "pain"),
    ],
    ids=lambda value: " ".join(value) if isinstance(value, tuple) else "",
)
def test_what_is_wrong_is_said(ferry: Path, call: tuple[str, ...], said: str) -> None:
    ran = ombix(ferry, *call)
    assert ran.status == 2, ran.out + ran.err
    assert said in ran.err
    assert "Traceback" not in ran.err


def test_a_picture_says_in_a_terminal_what_fits_its_width(ferry: Path) -> None:
    narrow = ombix(ferry, "picture", "--with", "Ctrl", columns=80)
    assert narrow.status == 0
    assert all(len(row) <= 80 for row in narrow.out.split("\n"))
    assert "do not fit this width" in narrow.out
    wide = ombix(ferry, "picture", "--with", "Ctrl", columns=140)
    assert "do not fit this width" not in wide.out
    assert "S   F│D   C│" in wide.out.replace("F2", "") or "S  F│" in wide.out


def test_an_empty_keymap_and_one_with_thousands_of_bindings(tmp_path: Path) -> None:
    (tmp_path / "ombix.toml").write_text('format = 1\nkeymap = "k.keys.toml"\nplatform = "linux"\n')
    (tmp_path / "k.keys.toml").write_text('format = 1\nname = "k"\n')
    assert ombix(tmp_path, "sheet", "--output", "s.pdf").status == 1
    assert (tmp_path / "s.pdf").read_bytes().startswith(b"%PDF")
    assert ombix(tmp_path, "picture", "--output", "s.svg").status == 0
    many = "\n".join(f'{{ press = "F5", where = "language is x{number}" }},' for number in range(300))
    (tmp_path / "k.keys.toml").write_text(f'format = 1\nname = "k"\n[bind.files]\nsave = [\n{many}\n]\n')
    ran = ombix(tmp_path, "sheet", "--output", "s.pdf", "--output", "s.svg")
    assert ran.status == 0, ran.err
    assert ombix(tmp_path, "picture", "--output", "s.svg").status == 0
