"""What is written lies inside the workspace, or where the command line says; what is read by name stays in its folder."""

import os
from pathlib import Path

import pytest

from ombix.files.xkb import folder_finder
from tests.helpers import ombix

KEYMAP = 'format = 1\nname = "k"\n[bind.files]\nsave = "F2"\n'


@pytest.fixture
def place(tmp_path: Path) -> Path:
    folder = tmp_path / "place"
    folder.mkdir()
    (folder / "k.keys.toml").write_text(KEYMAP)
    (folder / "ombix.toml").write_text('format = 1\nkeymap = "k.keys.toml"\nplatform = "linux"\n')
    (tmp_path / "profile").write_text("kept\n")
    return folder


def workspace(place: Path, text: str) -> None:
    (place / "ombix.toml").write_text(f'format = 1\nkeymap = "k.keys.toml"\nplatform = "linux"\n{text}')


def outside(place: Path) -> dict[str, bytes]:
    """All that lies beside the workspace, Ombix's own folders left out."""
    return {
        str(file): file.read_bytes()
        for file in place.parent.rglob("*")
        if file.is_file() and place not in file.parents and ".home" not in str(file)
    }


@pytest.mark.parametrize("name", ["../../x", "..", ".", "/tmp/x", "a/b", "", "a\\u0000b", "-x", "a\\nb", ".profile"])
def test_an_editors_name_is_no_path(place: Path, name: str) -> None:
    before = outside(place)
    workspace(place, f'[editor."{name}"]\ndialect = "nano"\n')
    ran = ombix(place, "port")
    assert ran.status == 2, ran.out
    assert "is no name for an editor" in " ".join(ran.err.split())
    assert outside(place) == before


@pytest.mark.parametrize("name", ["../profile", "/etc/x", "..", "a/b", "x\\u0000", ""])
def test_a_descriptions_file_name_is_no_path(place: Path, name: str) -> None:
    before = outside(place)
    (place / "dinghy").mkdir()
    (place / "dinghy" / "dialect.toml").write_text(f'like = "nano"\nname = "dinghy"\n[file]\nname = "{name}"\n')
    workspace(place, '[editor.pier]\ndialect = "./dinghy"\n')
    ran = ombix(place, "port", "--to", "pier")
    assert ran.status == 2
    assert outside(place) == before
    assert not (place / "ported").exists()


@pytest.mark.parametrize("link", ["ported", "ported/pier", "ported/pier/nanorc"])
def test_a_link_in_the_way_of_a_port_is_not_followed_out(place: Path, link: str) -> None:
    workspace(place, '[editor.pier]\ndialect = "nano"\n')
    before = outside(place)
    target = place.parent / "profile" if link.endswith("nanorc") else place.parent
    (place / link).parent.mkdir(parents=True, exist_ok=True)
    (place / link).symlink_to(target)
    ran = ombix(place, "port", "--to", "pier")
    assert ran.status == 2
    assert "outside of the workspace's folder" in " ".join(ran.err.split())
    assert str(target) in "".join(ran.err.split()) or "../" in ran.err
    assert outside(place) == before


@pytest.mark.parametrize("keymap", ["../other.keys.toml", "{top}/other.keys.toml", "link.keys.toml"])
@pytest.mark.parametrize("call", [("bind", "files.open", "F3"), ("unbind", "F2")])
def test_a_keymap_outside_is_not_edited(place: Path, keymap: str, call: tuple[str, ...]) -> None:
    other = place.parent / "other.keys.toml"
    other.write_text(KEYMAP)
    (place / "link.keys.toml").symlink_to(other)
    (place / "ombix.toml").write_text(f'format = 1\nkeymap = "{keymap.format(top=place.parent)}"\n')
    before = outside(place)
    ran = ombix(place, *call)
    assert ran.status == 2
    assert "outside of the workspace's folder" in " ".join(ran.err.split())
    assert outside(place) == before


def test_adopt_follows_no_link_out(place: Path) -> None:
    (place / "nanorc").write_text("bind F5 savefile main\n")
    (place / "nano.keys.toml").symlink_to(place.parent / "profile")
    before = outside(place)
    ran = ombix(place, "adopt", "nanorc", "--editor", "nano")
    assert ran.status == 2
    assert outside(place) == before
    assert "nano.keys.toml" not in (place / "ombix.toml").read_text()


def test_what_the_user_names_is_written_wherever_it_is(place: Path) -> None:
    workspace(place, '[editor.pier]\ndialect = "nano"\n')
    assert ombix(place, "port", "--to", "pier", "--output", "../rc", "--report", "../r.md").status in (0, 1)
    assert "savefile" in (place.parent / "rc").read_text()
    assert (place.parent / "r.md").exists()
    assert ombix(place, "undo").status == 0
    assert not (place.parent / "rc").exists()


def test_symbols_stay_in_their_folder(tmp_path: Path) -> None:
    folder = tmp_path / "symbols"
    folder.mkdir()
    (tmp_path / "secret").write_text("s")
    (folder / "de").write_text("d")
    (folder / "link").symlink_to(tmp_path / "secret")
    (folder / "loop").symlink_to(folder / "loop")
    find = folder_finder(folder, Path.read_text)
    assert find("de") is not None
    for name in ("../secret", str(tmp_path / "secret"), "link", "loop", "x/../../secret", "a\0b", "x" * 5000, ""):
        assert find(name) is None, name


def test_new_files_have_the_users_permissions_and_ombixs_own_are_private(place: Path) -> None:
    workspace(place, '[editor.pier]\ndialect = "nano"\n')
    mask = os.umask(0o027)
    try:
        assert ombix(place, "port", "--to", "pier").status in (0, 1)
        assert ombix(place, "what", "F2").status == 0
    finally:
        os.umask(mask)
    assert (place / "ported" / "pier" / "nanorc").stat().st_mode & 0o777 == 0o640
    home = place.parent / ".home-place"
    own = list(home.rglob("*"))
    assert {path.name for path in own} >= {"cache", "state", "changes"}
    for path in own:
        assert path.stat().st_mode & 0o077 == 0, path


def test_the_notes_of_somebody_else_are_not_obeyed(place: Path) -> None:
    """Whoever can write the notes of changes could have `undo` write any file."""
    assert ombix(place, "bind", "files.open", "F3").status == 0
    state = place.parent / ".home-place" / "state"
    for folder in (state, state / "changes"):
        folder.chmod(0o777)
        ran = ombix(place, "undo")
        assert ran.status == 3
        assert "can be written by others" in " ".join(ran.err.split())
        folder.chmod(0o700)
    state.parent.chmod(0o777)
    assert "everybody can write to" in " ".join(ombix(place, "undo").err.split())
    state.parent.chmod(0o755)
    assert ombix(place, "undo").status == 0


def test_a_cache_of_somebody_else_is_not_read(place: Path) -> None:
    assert ombix(place, "what", "F2").status == 0
    cache = place.parent / ".home-place" / "cache"
    cache.chmod(0o777)
    stamps = {path: path.stat().st_mtime_ns for path in cache.iterdir()}
    assert "files.save" in ombix(place, "what", "F2").out
    assert stamps == {path: path.stat().st_mtime_ns for path in cache.iterdir()}


SHELL_FORM = """like = "nano"
name = "dinghy"
[file]
name = "rc"
usual = ["{usual}"]
"""


def own_description(place: Path, usual: str) -> None:
    """A description that came with the workspace, and that says where its editor's keys are."""
    (place / "d").mkdir()
    (place / "d" / "dialect.toml").write_text(SHELL_FORM.format(usual=usual))
    workspace(place, '[editor.quay]\ndialect = "./d"\n')


@pytest.mark.parametrize("usual", ["~/.bashrc", "~/.ssh/authorized_keys", "{top}/profile", "../profile"])
def test_a_description_of_a_workspace_names_no_place_outside(place: Path, usual: str) -> None:
    home = place.parent / "home"
    (home / ".ssh").mkdir(parents=True)
    (home / ".bashrc").write_text("umask 022\n")
    before = outside(place)
    own_description(place, usual.format(top=place.parent))
    ran = ombix(place, "apply", "--yes", HOME=str(home))
    assert ran.status == 2, ran.out
    assert "the description of quay, which names it, came with the workspace" in " ".join(ran.err.split())
    assert "ombix editors trust FOLDER" in " ".join(ran.err.split())
    assert outside(place) == before


def test_a_description_that_is_trusted_names_places_until_it_changes(place: Path) -> None:
    own_description(place, "~/.quayrc")
    home = place.parent / "home"
    home.mkdir()
    looked_at = ombix(place, "trust", "d", "--yes", HOME=str(home))
    assert "writes ~/.quayrc" in " ".join(looked_at.out.split())
    assert ombix(place, "apply", "--yes", HOME=str(home)).status == 0
    assert "savefile" in (home / ".quayrc").read_text()
    # What it has become since is another thing, also at a place that was written before.
    description = place / "d" / "dialect.toml"
    description.write_text(description.read_text().replace('name = "rc"', 'name = "rc"\npreamble = ["rm -r ."]'))
    (place / "k.keys.toml").write_text(KEYMAP.replace("F2", "F6"))
    before = outside(place)
    assert ombix(place, "apply", "--yes", HOME=str(home)).status == 2
    assert outside(place) == before
    named = ombix(place, "apply", "--yes", "--to", "quay", "--into", "~/.quayrc", "--dry-run", HOME=str(home))
    assert named.status == 0, named.err
    assert "+ rm -r ." in named.out


def test_nothing_is_written_into_a_repositorys_own_folder(place: Path) -> None:
    (place / ".git").mkdir()
    (place / ".git" / "config").write_text("[core]\n")
    for file in (".git/config", ".git/hooks/pre-commit", "x/../.git/config"):
        workspace(place, f'[editor.pier]\ndialect = "nano"\nfile = "{file}"\n')
        ran = ombix(place, "apply", "--yes")
        assert ran.status == 2, ran.out
        assert "git's own" in " ".join(ran.err.split())
    assert (place / ".git" / "config").read_text() == "[core]\n"
    assert not (place / ".git" / "hooks").exists()


SECRET = "machine pier login quay password secret-word\n"


@pytest.mark.parametrize("named", ["layout", "keyboard", "layers", "file", "dialect", "keymap"])
@pytest.mark.parametrize(
    "call",
    [
        ("show",),
        ("audit",),
        ("what", "F2"),
        ("what", "/"),
        ("what", "~"),
        ("status",),
        ("free",),
        ("port", "--dry-run"),
    ],
)
def test_no_line_of_a_file_that_a_workspace_names_outside_is_shown(
    place: Path, named: str, call: tuple[str, ...]
) -> None:
    for file, text in (
        ("netrc", SECRET),
        ("c.toml", 'token = "secret-word"\n'),
        ("c.json", '{"token": "secret-word"}\n'),
    ):
        (place.parent / file).write_text(text)
        name = f'"../{file}"' if named != "layers" else f'["../{file}"]'
        if named in ("file", "dialect"):
            more = 'dialect = "nano"\n' if named == "file" else ""
            workspace(place, f"[editor.pier]\n{more}{named} = {name}\n")
        elif named == "keymap":
            (place / "ombix.toml").write_text(f"format = 1\nkeymap = {name}\n")
        else:
            workspace(place, f"{named} = {name}\n")
        ran = ombix(place, *call)
        assert "secret-word" not in ran.out + ran.err


@pytest.mark.parametrize(
    ("editor", "line"),
    [("ex", "source {}"), ("kakoune", "source {}"), ("joe", ":include {}"), ("nano", 'include "{}"')],
)
def test_a_strangers_key_file_takes_no_lines_of_others_in(place: Path, editor: str, line: str) -> None:
    (place.parent / "netrc").write_text(SECRET)
    (place / "link").symlink_to("../netrc")
    (place / "rc").write_text(
        "".join(line.format(name) + "\n" for name in ("../netrc", place.parent / "netrc", "link"))
    )
    ran = ombix(place, "adopt", "rc", "--editor", editor)
    assert "secret-word" not in ran.out + ran.err
    assert "secret-word" not in "".join(one.read_text() for one in place.glob("*.keys.toml"))
