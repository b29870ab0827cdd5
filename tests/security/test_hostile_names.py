"""Names and texts that would steer a terminal, or turn a line round, in every output of every command."""

import json
import unicodedata
from pathlib import Path

import pytest

from tests.helpers import Ran, ombix

HOSTILE = "\x1b[31m\x07\x9b31m\u202eabc\u2066\u200f\x7f\u2028\u00ad"
"""An escape sequence, a bell, a C1 introducer, marks of direction, a delete, a line separator, a soft hyphen."""
TOML = HOSTILE.replace("\x1b", "\\u001b").replace("\x07", "\\u0007").replace("\x7f", "\\u007f")


@pytest.fixture(scope="module")
def place(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A workspace in which everything that can be named has such a name."""
    folder = tmp_path_factory.mktemp("h") / f"f{HOSTILE}"
    folder.mkdir()
    keymap = f"k{HOSTILE}.keys.toml"
    (folder / keymap).write_text(
        f'format = 1\nname = "n{TOML}"\nextends = ["base.keys.toml"]\n'
        f'[where]\n"busy" = "pane is text"\n'
        f'[bind.files]\nsave = {{ press = "F2", why = "w{TOML}", where = "busy" }}\nopen = "F2"\n'
        f'[bind.cursor]\nline-start = "Alt+A"\n'
        f'[unbind]\nF9 = {{ why = "u{TOML}" }}\n'
        f'[macro."m"]\ntitle = "t{TOML}"\nsteps = [{{ type = "x{TOML}" }}]\npress = "F4"\n'
        f'[only.pier]\n"c{TOML}" = "F6"\n'
        f'[[accept]]\nrule = "clash"\npress = "F12"\nwhy = "a{TOML}"\n', "utf-8",
    )  # fmt: skip
    (folder / "base.keys.toml").write_text(f'format = 1\nname = "b{TOML}"\n[bind.files]\nsave = "F3"\n', "utf-8")
    (folder / "ombix.toml").write_text(
        f'format = 1\nkeymap = "k{TOML}.keys.toml"\nplatform = "linux"\nlayout = "us"\n'
        f'[reserved]\n"Alt+A" = "r{TOML}"\n[editor.pier]\ndialect = "./dinghy"\n[editor.desk]\ndialect = "micro"\n', "utf-8",
    )  # fmt: skip
    (folder / "dinghy").mkdir()
    (folder / "dinghy" / "dialect.toml").write_text(
        f'like = "nano"\nname = "dinghy"\ntitle = "d{TOML}"\nversion = "v{TOML}"\nsources = ["s{TOML}"]\nnotes = ["o{TOML}"]\n'
        f'[program]\ncommand = ["p{TOML}"]\npackage = "q{TOML}"\n', "utf-8",
    )  # fmt: skip
    (folder / f"rc{HOSTILE}").write_text(f"bind F2 savefile main\nbind F3 nope{HOSTILE} main\n# {HOSTILE}\n", "utf-8")
    (folder / "broken.keys.toml").write_text(f'format = 1\nname = "{HOSTILE}"\n', "utf-8")
    (folder / "l.xkb").write_text(
        f'xkb_symbols "l{HOSTILE}" {{ name[Group1] = "g{HOSTILE}"; key <AC01> {{ [ a, A ] }}; }};\n', "utf-8"
    )
    return folder


RC, KEYMAP = f"rc{HOSTILE}", f"k{HOSTILE}.keys.toml"
CALLS: list[tuple[str, ...]] = [
    (), ("show",), ("show", "--by", "layer"), ("show", "--platforms"), ("show", "--unbound"), ("show", "--editor", "pier"),
    ("show", "--file", RC, "--editor", "nano"), ("show", "--file", KEYMAP), ("show", "--file", "broken.keys.toml"),
    ("what", "F2"), ("what", "F9"), ("what", "F4"), ("what", f"Ctrl+{HOSTILE}"), ("what", "F2", "--in", f"pane is {HOSTILE}"),
    ("what", "F2", "--layout", "l.xkb"), ("how", HOSTILE), ("how", "save"), ("audit",), ("audit", "--rule", HOSTILE),
    ("audit", "--editor", "pier"), ("port", "--to", "pier", "--dry-run"), ("port", "--dry-run"), ("port", "--to", HOSTILE),
    ("port", "--to", "joe", "--from", RC, "--dry-run"), ("compare", "pier", "desk"), ("compare", HOSTILE, "desk"),
    ("prove", "--to", "pier"), ("prove", "--to", "pier", "--on-stage", "--all"), ("press", "F4", "F2"),
    ("press", "F4", "--editor", "pier"), ("adopt", RC, "--editor", "pier", "--dry-run"), ("adopt", RC, "--name", HOSTILE),
    ("bind", "files.save", "F5", "--dry-run"), ("bind", HOSTILE, "F5"), ("bind", "files.save", f"F5{HOSTILE}"),
    ("unbind", "files.save", "--dry-run"), ("unbind", HOSTILE), ("fold", "x.keys.toml", f"linux={KEYMAP}", f"mac={KEYMAP}"),
    ("editors",), ("editors", "pier"), ("describe", "--check", "dinghy"), ("editors", HOSTILE), ("layouts", "l.xkb"),
    ("layouts", HOSTILE), ("trust", "dinghy"), ("trust", HOSTILE), ("undo", "--dry-run"), (HOSTILE,), ("show", f"--{HOSTILE}"),
    ("show", "--workspace", HOSTILE), ("init", "--name", HOSTILE), ("schema", HOSTILE),
    ("compare", KEYMAP, "desk"), ("compare", "desk", KEYMAP, "--all"), ("compare", RC, "nano", "--editor", "nano"), ("sheet",),
    ("sheet", "--editor", "pier"), ("sheet", "--title", HOSTILE), ("sheet", "--by", "state"), ("settle",), ("free",), ("effort",),
    ("status",), ("apply", "--dry-run"), ("apply", "--yes"), ("undo", "--list"), ("macro",), ("macro", "show", "m"),
    ("macro", "try", "m"),
    ("use",), ("savings",), ("suggest",), ("packages",), ("show", "--by", "keys", "--platforms"), ("move", "F2", "F5", "--dry-run"),
    ("narrow", "F2", HOSTILE), ("git", "text", KEYMAP), ("changes",), ("blame", "F2"), ("merge", KEYMAP, KEYMAP, KEYMAP),
]  # fmt: skip


def steering(text: str) -> set[str]:
    """Characters that do more than be seen."""
    return {char for char in text if char != "\n" and unicodedata.category(char) in ("Cc", "Cf", "Zl", "Zp", "Cs")}


@pytest.mark.parametrize("call", CALLS, ids=lambda call: " ".join(call)[:30].encode("ascii", "replace").decode())
def test_nothing_in_an_output_steers_the_terminal(place: Path, call: tuple[str, ...]) -> None:
    ran: Ran = ombix(place, *call)
    assert steering(ran.out + ran.err) == set()
    assert ran.out or ran.err


@pytest.mark.parametrize(
    "call",
    [call for call in CALLS if call and call[0] not in ("undo", "init", "schema", HOSTILE)],
    ids=lambda call: " ".join(call)[:30].encode("ascii", "replace").decode(),
)
def test_documents_are_escaped_and_can_be_read(place: Path, call: tuple[str, ...]) -> None:
    ran = ombix(place, *call, "--json")
    assert steering(ran.out + ran.err) == set()
    if ran.out.startswith(("{", "[")):
        assert json.loads(ran.out)


@pytest.mark.parametrize("ending", ["md", "html", "json", "sarif"])
@pytest.mark.parametrize(
    "command", ["show", "audit", "port --to pier", "compare pier desk", "prove --to pier --on-stage"]
)
def test_reports_are_clean_too(place: Path, command: str, ending: str) -> None:
    if ending == "sarif" and command != "audit":
        return
    report = place / f"report.{ending}"
    report.unlink(missing_ok=True)
    ran = ombix(place, *command.split(), "--report", report.name)
    assert steering(ran.out + ran.err) == set()
    assert steering(report.read_text("utf-8")) == set()


@pytest.mark.parametrize("ending", ["txt", "md", "html", "json", "svg"])
@pytest.mark.parametrize("command", ["sheet", "sheet --editor pier --by state", "picture"])
def test_what_is_drawn_is_clean_too(place: Path, command: str, ending: str) -> None:
    out = place / f"out.{ending}"
    out.unlink(missing_ok=True)
    ran = ombix(place, *command.split(), "--title", HOSTILE, "--output", out.name)
    assert steering(ran.out + ran.err) == set()
    assert out.exists() or "picture" in command
    if out.exists():
        assert steering(out.read_text("utf-8")) == set()


@pytest.mark.parametrize("target", ["nano", "micro", "kakoune", "joe", "heddle", "oxbow", "tarn"])
def test_a_file_for_an_editor_has_no_control_characters_that_it_does_not_call_for(place: Path, target: str) -> None:
    out = place / f"out-{target}"
    out.unlink(missing_ok=True)
    ran = ombix(place, "port", "--to", target, "--output", out.name)
    assert steering(ran.out + ran.err) == set()
    if out.exists():
        # A soft hyphen, or a mark of direction that only marks, may be what a macro is to type.
        assert not steering(out.read_text("utf-8")) - {"\t", "\u00ad", "\u200f"}
