"""Nothing from a file runs: descriptions, kept lines, includes, hooks, and keys bound to what starts programs.

Each attack would leave a file behind; none may.
"""

import shutil
import subprocess
from pathlib import Path

import pytest

from ombix.core.errors import InputError
from ombix.core.keymap.bindings import Keymap
from ombix.core.keys.notation import write
from ombix.editors.dialect import Dialect
from ombix.editors.file_reading import read_file
from ombix.editors.safe_to_press import COULD_REACH, COULD_RUN, harmless_layer
from ombix.evidence.editor_host import EditorHost, press
from ombix.evidence.editor_run import Start
from ombix.evidence.sandbox import WAYS, Sandbox, Way, best_sandbox, limits_only, sandbox_of
from ombix.work.carry import carry_questions
from ombix.work.describe import describe_questions
from ombix.workspace.open_workspace import OpenWorkspace
from tests.helpers import REAL, STAND_INS, dialect, known, ombix, others_long, shipped

CATALOGUE = shipped.catalogue()
WINDOWS = [name for name in REAL if (program := dialect(name).description.program) is not None and program.window]
KEYMAP = 'format = 1\nname = "crew"\n\n[bind.cursor]\nline-start = "Alt+A"\nline-end = "Alt+E"\n\n[bind.files]\nsave = "Ctrl+S"\n'


@pytest.fixture
def marker(tmp_path: Path) -> Path:
    """What an attack that gets through leaves behind."""
    return tmp_path / "was-here"


@pytest.fixture
def place(tmp_path: Path) -> Path:
    folder = tmp_path / "place"
    folder.mkdir()
    (folder / "k.keys.toml").write_text(KEYMAP)
    return folder


def described(place: Path, text: str, name: str = "dinghy") -> None:
    """A workspace with a description of its own that is like nano."""
    folder = place / name
    folder.mkdir()
    (folder / "dialect.toml").write_text(text)
    (place / "ombix.toml").write_text(
        f'format = 1\nkeymap = "k.keys.toml"\nplatform = "linux"\n[editor.pier]\ndialect = "./{name}"\n'
    )


def script(place: Path, marker: Path) -> str:
    """A program that leaves the mark."""
    file = place / "evil"
    file.write_text(f"#!/bin/sh\ntouch {marker}\n")
    file.chmod(0o755)
    return str(file)


EVERY_COMMAND = (
    ("show",), ("show", "--editor", "pier"), ("what", "Alt+A", "--editor", "pier"), ("audit",), ("port", "--to", "pier"),
    ("prove", "--to", "pier"), ("press", "Alt+A", "--editor", "pier"), ("compare", "pier", "nano"), ("editors", "pier"),
    ("describe", "--check", "dinghy"), ("trust", "dinghy"),
)  # fmt: skip


def test_a_description_in_the_workspace_starts_nothing_before_its_user_trusts_it(place: Path, marker: Path) -> None:
    program = script(place, marker)
    described(
        place, f'like = "nano"\nname = "dinghy"\ntitle = "the dinghy"\n[program]\ncommand = ["{program}", "{{text}}"]\n'
    )
    for command in EVERY_COMMAND:
        ombix(place, *command)
        assert not marker.exists(), command
    assert "could start any program" in " ".join(ombix(place, "prove", "--to", "pier").err.split())
    shown = ombix(place, "trust", "dinghy")
    assert shown.status == 1
    assert program in "".join(shown.out.split())
    assert ombix(place, "trust", "dinghy", "--yes").status == 0
    assert not marker.exists()
    (place / "dinghy" / "commands.toml").write_text("[command]\n")
    changed = ombix(place, "prove", "--to", "pier")
    assert changed.status == 2
    assert "has changed since you trusted it" in changed.err
    assert not marker.exists()
    assert ombix(place, "trust", "dinghy", "--forget").status == 0
    assert "could start any program" in " ".join(ombix(place, "prove", "--to", "pier").err.split())


def test_a_description_that_is_trusted_is_pressed_in(place: Path) -> None:
    described(place, 'like = "nano"\nname = "dinghy"\ntitle = "the dinghy"\n')
    assert ombix(place, "prove", "--to", "pier").status == 2
    assert ombix(place, "trust", "dinghy", "--yes").status == 0
    ran = ombix(place, "prove", "--to", "pier")
    assert ran.status == 0, ran.err
    assert "All that was pressed does what the port says." in ran.out


@pytest.mark.parametrize("name", ["nano", "micro"])
def test_a_workspace_shadows_no_known_editor(place: Path, name: str) -> None:
    described(place, f'like = "nano"\nname = "{name}"\n', "dinghy")
    assert "is the name of an editor that Ombix knows" in " ".join(ombix(place, "prove", "--to", "pier").err.split())
    (place / "dinghy" / "dialect.toml").write_text('like = "nano"\nname = "dinghy"\n')
    (place / "ombix.toml").write_text(f'format = 1\nkeymap = "k.keys.toml"\n[editor.{name}]\ndialect = "./dinghy"\n')
    ran = ombix(place, "show")
    assert ran.status == 2
    assert "is called like one that Ombix knows" in " ".join(ran.err.split())


def test_a_program_beside_the_call_is_not_taken_for_an_editor(place: Path, marker: Path) -> None:
    described(place, 'like = "nano"\nname = "dinghy"\n')
    (place / "ombix.toml").write_text('format = 1\nkeymap = "k.keys.toml"\n[editor.pier]\ndialect = "nano"\n')
    shutil.copy(script(place, marker), place / "nano")
    ombix(place, "prove", "--to", "pier", PATH=f".::{Path(shutil.which('ombix') or '/usr/bin/x').parent}")
    assert not marker.exists()


# --- what is pressed

EVIL: dict[str, tuple[tuple[str, str], ...]] = {
    "kakoune": (
        ("evaluate-commands %sh{{ touch {mark} }}\nmap global normal <a-a> gh\n", ""),
        ("hook global KakBegin .* %{{ nop %sh{{ touch {mark} }} }}\n", ""),
        ("nop %sh{{touch {mark}}}\n", ""),
        ("map global normal <a-a> '!touch {mark}<ret>'\n", "Alt+A"),
        ("map global normal <a-a> ':nop %sh{{touch {mark}}}<ret>'\n", "Alt+A"),
        ("map global insert <a-a> '<esc>|touch {mark}<ret>'\n", "Alt+A"),
        ("map global normal <c-s> ':w<ret>:nop %sh{{touch {mark}}}<ret>'\n", "Ctrl+S"),
        ("source {mark}\n", ""),
    ),
    "joe": (
        (":main\nrun,\"touch {mark}\",rtn\t^[ a\n", "Alt+A"),
        (":main\nsys,\"touch {mark}\",rtn\t^[ a\n", "Alt+A"),
        (":main\nfilt,\"touch {mark}\",rtn\t^[ a\n", "Alt+A"),
        (":main\nexecmd,\"run\",rtn,\"touch {mark}\",rtn\t^[ a\n", "Alt+A"),
        (":def evil run,\"touch {mark}\",rtn\n:main\nevil\t^[ a\n", "Alt+A"),
        (":main\nbol,run,\"touch {mark}\",rtn\t^[ a\n", "Alt+A"),
        (":include {mark}\n:main\nbol\t^[ a\n", ""),
    ),
    "micro": (
        ('{{ "Alt-a": "command:run touch {mark}" }}\n', "Alt+A"),
        ('{{ "Alt-a": "StartOfLine,command:run touch {mark}" }}\n', "Alt+A"),
        ('{{ "Alt-a": "command-edit:run touch {mark}" }}\n', "Alt+A"),
        ('{{ "Alt-a": "lua:initlua.evil" }}\n', "Alt+A"),
        ('{{ "Ctrl-s": "Save,command:run touch {mark}" }}\n', "Ctrl+S"),
        ('{{ "Alt-a": "ShellMode" }}\n', "Alt+A"),
    ),
    "nano": (
        ('bind M-A "{{execute}}touch {mark}{{enter}}" main\n', "Alt+A"),
        ('bind M-A "{{writeout}}{mark}{{enter}}" main\n', "Alt+A"),
        ("bind M-A execute main\n", "Alt+A"),
        ('bind M-A "\x14touch {mark}\r" main\n', "Alt+A"),
        ("include {mark}\nbind M-A home main\n", ""),
        ("set backupdir {mark}\nset speller \"touch {mark}\"\nbind M-A speller main\n", "Alt+A"),
        ("syntax sh\nformatter touch {mark}\nbind M-A formatter main\n", "Alt+A"),
    ),
    "ex": (
        ("map q :!touch {mark}\x16\r\n", "Q"),
        ("!touch {mark}\n", ""),
        ("map q !!touch {mark}\x16\r\n", "Q"),
        ("map! \x16\x1ba \x16\x1b:!touch {mark}\x16\ri\n", "Alt+A"),
        ("source {mark}\n", ""),
    ),
    "dte": (
        ("bind M-a 'run touch {mark}'\n", "Alt+A"),
        ("bind M-a 'eol; run touch {mark}'\n", "Alt+A"),
        ("bind M-a 'pipe-from touch {mark}'\n", "Alt+A"),
        ("bind M-a 'eval touch {mark}'\n", "Alt+A"),
        ("bind M-a 'save {mark}'\n", "Alt+A"),
        ("alias eol 'run touch {mark}'\nbind M-a eol\n", ""),
        ("include {mark}\nbind M-a bol\n", ""),
    ),
    "mcedit": (
        ("[editor]\nExternalCommand = alt-a\n", "Alt+A"),
        ("[editor]\nShell = alt-a\n", "Alt+A"),
        ("[editor]\nSort = alt-a\n", "Alt+A"),
        ("[editor]\nUserMenu = alt-a\n", "Alt+A"),
    ),
    "geany": (
        ("[Bindings]\nedit_sendtocmd1=<Alt>a\n", "Alt+A"),
        ("[Bindings]\nbuild_run=<Alt>a\n", "Alt+A"),
        ("[Bindings]\nbuild_make=<Alt>a\n", "Alt+A"),
        ("[Bindings]\npopup_contextaction=<Alt>a\n", "Alt+A"),
    ),
    "mousepad": (
        ('(gtk_accel_path "<Actions>/win.file.open" "<Alt>a")\n', "Alt+A"),
        ('(gtk_accel_path "<Actions>/win.file.print" "<Alt>a")\n', "Alt+A"),
    ),
    "kate": tuple(
        (
            f'<gui><ActionProperties><Action name="{name}" shortcut="Alt+A"/><Action name="file_save" shortcut="Ctrl+S"/>'
            "</ActionProperties></gui>\n", "Alt+A",
        ) for name in ("edit_filter", "file_open")
    ),
}  # fmt: skip


@pytest.mark.long
@pytest.mark.parametrize(("name", "index"), [(name, index) for name in REAL for index in range(len(EVIL[name]))])
def test_no_line_and_no_key_of_a_file_runs_anything_in_a_proof(
    place: Path, marker: Path, name: str, index: int
) -> None:
    text, keys = EVIL[name][index]
    (place / "ombix.toml").write_text(f'format = 1\nkeymap = "k.keys.toml"\n[editor.pier]\ndialect = "{name}"\n')
    file = place / "file"
    file.write_text(text.format(mark=marker))
    # A key that the file has not differs, and is pressed many times before that is believed.
    without = (
        'line-end = "Alt+E"\n' if name in WINDOWS else '\n[bind.files]\nsave = "Ctrl+S"\n' if keys != "Ctrl+S" else ""
    )
    (place / "k.keys.toml").write_text(KEYMAP.replace(without, ""))
    ran = ombix(place, "prove", "--to", "pier", "--file", "file", "--all")
    assert ran.status in (0, 1), ran.err
    assert not marker.exists()
    assert list(place.parent.glob("was-here*")) == []


@pytest.mark.parametrize(("name", "index"), [(name, index) for name in REAL for index in range(len(EVIL[name]))])
def test_what_could_run_a_program_is_left_out_of_what_is_pressed(name: str, index: int) -> None:
    text, keys = EVIL[name][index]
    one = dialect(name)
    layer = read_file(one, text.format(mark="/nowhere/x"), "file").layer
    safe, reasons = harmless_layer(layer, one, CATALOGUE)
    assert safe.kept == []
    written = {str(binding.outcome) + binding.written for binding in safe.bindings}
    assert not any("touch" in each or "nowhere" in each for each in written)
    if keys and layer.bindings:
        assert set(reasons.values()) <= {COULD_RUN, COULD_REACH}
        assert reasons


@pytest.mark.long
@pytest.mark.parametrize("name", REAL)
def test_a_command_that_the_workspace_explains_is_not_pressed(place: Path, marker: Path, name: str) -> None:
    """Whoever says that a command stands for a harmless action may be wrong."""
    (place / "ombix.toml").write_text(
        f'format = 1\nkeymap = "k.keys.toml"\n[editor.pier]\ndialect = "{name}"\n'
        f'actions = {{ "command:run touch {marker}" = "cursor.line-start" }}\n'
    )
    ombix(place, "prove", "--to", "pier")
    assert not marker.exists()


@pytest.mark.parametrize("name", known())
def test_every_command_says_what_it_may_touch(name: str) -> None:
    for command, row in dialect(name).vocabulary.commands.items():
        assert row.action or row.reaches in ("text", "files", "programs"), command
        if row.action:
            assert CATALOGUE.actions[row.action].reaches in ("text", "files", "programs")


TOLD = {
    "micro": '{ "Alt-a": "command:open /etc/passwd", "Alt-b": "command:save /tmp/x", "Alt-c": "OpenFile" }',
    "kakoune": "map global normal <a-a> ':e /etc/passwd<ret>'\nmap global normal <a-b> ':w /tmp/x<ret>'\n",
    "dte": "bind M-a 'open /etc/passwd'\nbind M-b 'save /tmp/x'\n",
    "joe": ':main\nedit,"/etc/passwd",rtn\t^[ a\nedit\t^[ c\n',
    "ex": "map q :w /tmp/x\x16\r\n",
}


@pytest.mark.parametrize("name", TOLD)
def test_no_file_that_a_key_is_told_is_reached_where_the_editor_is_shut_in(name: str) -> None:
    """Keys that ask for a file are pressed there; those that name one, or could run a program, are not."""
    one = dialect(name)
    safe, _reasons = harmless_layer(read_file(one, TOLD[name], "file").layer, one, CATALOGUE, shuts_files=True)
    assert {str(binding.outcome) for binding in safe.bindings} == (
        {"files.open"} if name in ("micro", "joe") else set()
    )
    for text, _keys in EVIL[name]:
        layer = read_file(one, text.format(mark="/nowhere/x"), "file").layer
        safe, _reasons = harmless_layer(layer, one, CATALOGUE, shuts_files=True)
        assert not any("nowhere" in str(binding.outcome) + binding.written for binding in safe.bindings)


ASKING = {
    "micro": ('{ "Alt-a": "CommandMode", "Alt-b": "command:run ls", "Alt-c": "ShellMode" }', {"Alt+A", "Alt+C"}),
    "nano": ("bind M-A execute main\nbind M-B speller main\n", {"Alt+A", "Alt+B"}),
    "dte": ("bind M-a command\nbind M-b 'exec ls'\nbind M-c compile\n", {"Alt+A", "Alt+C"}),
    "kakoune": ("map global normal <a-a> :\nmap global normal <a-b> ':nop %sh{{ls}}<ret>'\n", {"Alt+A"}),
}


@pytest.mark.parametrize("name", ASKING)
def test_what_asks_for_a_command_is_pressed_only_where_the_editor_is_shut_in(name: str) -> None:
    """And never what a file tells which program to run."""
    one, (text, wanted) = dialect(name), ASKING[name]
    layer = read_file(one, text, "file").layer
    assert len(layer.bindings) >= len(wanted)
    safe, _reasons = harmless_layer(layer, one, CATALOGUE, shuts_files=True)
    assert {write(binding.trigger) for binding in safe.bindings} == wanted
    safe, reasons = harmless_layer(layer, one, CATALOGUE)
    assert not safe.bindings
    assert set(reasons.values()) <= {COULD_RUN, COULD_REACH}


SUSPICIOUS = (
    "shell", "run a", "runs", "external", "program", "unix command", "pipe", "execute", "build", "macro periodically",
    "filter over", "load file", "open the file", "save file", "save and", "into a file", "tags file", "named buffer",
    "user mode", "single command", "expansion",
)  # fmt: skip


@pytest.mark.parametrize("name", known())
def test_no_command_whose_words_speak_of_programs_or_files_is_called_harmless(name: str) -> None:
    innocent = {"keeps the command's", "windows"}
    for command, row in dialect(name).vocabulary.commands.items():
        words = row.only.lower()
        if any(word in words for word in SUSPICIOUS) and not any(word in words for word in innocent):
            assert row.reaches != "text", (command, row.only)


def runs(one: Dialect, written: str) -> bool:
    """Whether a command may run a program, like one that does again whatever was done before."""
    row = one.vocabulary.row_of(one.vocabulary.called(written)[0])
    return row is not None and row.reaches == "programs"


@pytest.mark.parametrize("name", [*REAL, *STAND_INS])
def test_the_default_keys_of_actions_that_are_pressed_are_harmless(name: str) -> None:
    """Else nothing could be proven of them."""
    one = dialect(name)
    _safe, reasons = harmless_layer(one.default_layer, one, CATALOGUE)
    bound = Keymap([one.default_layer]).layers[0].bindings
    left_out = {str(binding.outcome) for binding in bound if id(binding) in reasons and not runs(one, binding.written)}
    for domain in ("cursor.", "edit.", "line.", "select.", "history."):
        assert not [each for each in left_out if each.startswith(domain)], left_out


# --- the sandbox


def inside(sandbox: Sandbox, home: Path, command: str) -> subprocess.CompletedProcess[str]:
    return subprocess.run(
        sandbox.around(["/bin/sh", "-c", command], home),
        cwd=home,
        capture_output=True,
        text=True,
        timeout=30,
        check=False,
    )


def test_bwrap_is_taken_where_it_is_there() -> None:
    assert "bwrap" in best_sandbox().title, "bwrap is one of the packages that the tests install"


def sandbox_by(way: Way) -> Sandbox:
    found = sandbox_of(way)
    assert found is not None, f"this machine cannot shut a program off {way.title}"
    assert found.title == f"{way.title}, with limits"
    return found


@pytest.mark.parametrize("way", WAYS, ids=str)
def test_in_a_sandbox_nothing_can_be_written_but_in_its_own_folder(tmp_path: Path, way: Way) -> None:
    home, outside = tmp_path / "home", tmp_path / "outside"
    home.mkdir()
    done = inside(
        sandbox_by(way), home,
        f"echo in > {home}/file; echo out > {outside}; echo t > /dev/shm/ombix-x; mount -o remount,bind,rw / 2>&1; "
        f"echo again > {outside}; cat {home}/file; rm -f /dev/shm/ombix-x",
    )  # fmt: skip
    assert done.stdout.splitlines()[-1] == "in"
    assert outside.exists() is not way.shuts_files
    assert not Path("/dev/shm/ombix-x").exists()


@pytest.mark.parametrize("way", WAYS, ids=str)
def test_in_a_sandbox_there_is_no_network_and_nothing_outlives_it(tmp_path: Path, way: Way) -> None:
    command = "cat /proc/net/dev | grep -v lo: | grep -c :; (sleep 61.7 & ) ; echo started"
    assert inside(sandbox_by(way), tmp_path, command).stdout.split() == ["0", "started"]
    assert "61.7" not in subprocess.run(["ps", "-eo", "args"], capture_output=True, text=True, check=True).stdout


def test_a_sandbox_that_does_not_hold_is_not_taken(tmp_path: Path) -> None:
    """It is tried, and not believed: what lets a file be written, or does not start, is no sandbox."""
    assert sandbox_of(Way(("env",), "by nothing", True)) is None
    assert sandbox_of(Way(("false",), "by nothing", False)) is None
    assert sandbox_of(Way(("no-such-program",), "by nothing", False)) is None
    assert sandbox_of(Way(("env",), "by nothing", False)) is not None


@pytest.mark.parametrize("sandbox", [*(sandbox_of(way) for way in WAYS), limits_only()], ids=str)
@pytest.mark.parametrize("name", ["nano", "kakoune"])
def test_an_editor_can_be_pressed_in_every_sandbox(name: str, sandbox: Sandbox) -> None:
    one = dialect(name)
    assert one.description.program is not None
    save = one.description.program.save.encode() or b"\x13"
    result = press(
        one.description.program,
        Start(one.description.file.name, "", "text\n"),
        [b"ix\x1b" if name == "kakoune" else b"x"],
        save,
        EditorHost(sandbox),
    )
    assert result.text == "xtext\n"


def test_a_program_that_fills_the_disk_or_never_ends_is_bounded(tmp_path: Path) -> None:
    done = inside(
        best_sandbox(), tmp_path, "head -c 200000000 /dev/zero > big; ls -l big | awk '{print $5}'; ulimit -t"
    )
    size, seconds = (int(word) for word in done.stdout.split()[:2])
    assert size <= 64 * 1024 * 1024
    assert seconds <= 60


@pytest.mark.parametrize("name", others_long(REAL, "nano", "kakoune", "geany"))
def test_the_editors_are_pressed_in_the_sandbox(name: str) -> None:
    """What is written by them outside of their own folder is not there afterwards."""
    one = dialect(name)
    program = one.description.program
    assert program is not None
    result = press(
        program,
        Start(one.description.file.name, "", "text\n"),
        [],
        program.save.encode() or b"\x13",
        EditorHost(best_sandbox()),
    )
    assert result.text is None or result.text.startswith("text")


def test_what_is_trusted_is_what_was_looked_at(place: Path) -> None:
    """Whoever exchanges a file between the look and the yes, or between the reading and the check, gains nothing."""
    described(place, 'like = "nano"\nname = "dinghy"\n')
    session = OpenWorkspace(folder=str(place), state=str(place.parent / "state"))
    assert describe_questions.trust(session, "dinghy").is_trusted == "new"
    text = (place / "dinghy" / "dialect.toml").read_text()
    (place / "dinghy" / "dialect.toml").write_text(f'{text}[program]\ncommand = ["evil"]\n')
    with pytest.raises(InputError, match="has changed while it was looked at"):
        describe_questions.trust(session, "dinghy", accept=True)
    fresh = OpenWorkspace(folder=str(place), state=str(place.parent / "state"))
    assert describe_questions.trust(fresh, "dinghy").command == ("evil",)
    assert describe_questions.trust(fresh, "dinghy").is_trusted == "new"
    (place / "dinghy" / "dialect.toml").write_text(text)
    assert (
        describe_questions.trust(
            OpenWorkspace(folder=str(place), state=str(place.parent / "state")), "dinghy", accept=True
        ).is_trusted
        == "trusted"
    )
    # Read while it was evil, checked when it looks as it did: not trusted.
    (place / "dinghy" / "dialect.toml").write_text(f'{text}[program]\ncommand = ["evil"]\n')
    late = OpenWorkspace(folder=str(place), state=str(place.parent / "state"))
    assert describe_questions.trust(late, "dinghy").is_trusted == "changed"
    (place / "dinghy" / "dialect.toml").write_text(text)
    with pytest.raises(InputError, match="has changed since you trusted it"):
        carry_questions.prove(late, "pier")


def installed(place: Path, name: str, dialect_text: str, value: str = "ferry_keys.boat") -> dict[str, str]:
    """A package beside the others that describes an editor; the environment in which it is installed."""
    packages = place.parent / "packages"
    boat = packages / "ferry_keys" / "boat"
    boat.mkdir(parents=True)
    (boat / "dialect.toml").write_text(dialect_text)
    (packages / "ferry_keys" / "__init__.py").write_text("raise SystemExit('code of the package was run')\n")
    info = packages / "ferry_keys-1.0.dist-info"
    info.mkdir()
    (info / "METADATA").write_text("Metadata-Version: 2.1\nName: ferry-keys\nVersion: 1.0\n")
    (info / "entry_points.txt").write_text(f"[ombix.editors]\n{name} = {value}\n")
    return {"PYTHONPATH": str(packages)}


def test_a_description_of_an_installed_package_needs_no_trust(place: Path) -> None:
    env = installed(place, "dinghy", 'like = "nano"\nname = "dinghy"\n')
    assert "dinghy" in ombix(place, "editors", **env).out
    assert "dinghy" not in ombix(place, "editors").out
    (place / "ombix.toml").write_text('format = 1\nkeymap = "k.keys.toml"\n')
    (place / "k.keys.toml").write_text('format = 1\nname = "k"\n[bind.files]\nsave = "F3"\n')
    assert ombix(place, "port", "--to", "dinghy", **env).status == 0
    ran = ombix(place, "prove", "--to", "dinghy", **env)
    assert "trust" not in ran.err
    assert "pressed" in ran.out.lower()


@pytest.mark.parametrize(
    ("name", "value"), [("nano", "ferry_keys.boat"), ("../x", "ferry_keys.boat"), ("dinghy", "ferry_keys.none")]
)
def test_a_package_describes_no_editor_anew_and_none_that_is_not_there(place: Path, name: str, value: str) -> None:
    env = installed(place, name, 'like = "micro"\nname = "nano"\ntitle = "another"\n', value)
    assert ombix(place, "editors", **env).out == ombix(place, "editors").out
