"""Ombix in a repository of git: merges by meaning, readable differences, a check before each commit."""

import os
import re
import shlex
import subprocess
import tempfile
from collections.abc import Callable, Iterator, Mapping, Sequence
from pathlib import Path
from typing import Literal, NamedTuple

from ombix.core.errors import InputError, OutsideError, Place
from ombix.files.disk import absolute
from ombix.files.writer import Writer
from ombix.work.versions.git_answer import SetUpPart, SetUpReport
from ombix.workspace.context import Opener
from ombix.workspace.git_versions import Repository
from ombix.workspace.resources import user_path

BEGIN, END = "# begin: ombix", "# end: ombix"
PATTERNS = ("*.keys.toml", "ombix.toml")
"""The files that are Ombix's own."""
_AWKWARD = r"""[\s\\*?\[\]!#"]"""
"""What means something in a pattern of git's attributes; there, ? stands for any sign."""
HOOKS = ("pre-commit", "pre-merge-commit", "prepare-commit-msg")
"""Of git's hooks those that can refuse a commit: of one's own, of a merge without conflicts, and in a rebase, which calls no other
(githooks(5), and what git 2.39 does)."""
_SHELLS = ("#!/bin/sh", "#!/bin/bash", "#!/usr/bin/env sh", "#!/usr/bin/env bash", "#!/usr/bin/sh", "#!/usr/bin/bash")


class SetUpOptions(NamedTuple):
    """For a `user` instead of one repository; `program` is how Ombix is called there; `files` are key files of the workspace's
    editors, of which those in the repository are merged, too."""

    user: bool
    program: str
    files: tuple[Path, ...] = ()


def settings(program: str) -> dict[str, str]:
    """What is set in git's own configuration."""
    return {
        "merge.ombix.name": "keymaps, by what they mean",
        "merge.ombix.driver": driver(program),
        "diff.ombix.textconv": f"{program} git text",
    }


def driver(program: str) -> str:
    """What git calls to merge a file (gitattributes(5), merge drivers).

    Git takes what then stands in %A for the merged file, also where the call failed: without more, ours would stand there, and
    theirs be gone. So %A is merged line by line with marks before Ombix is called, and any end of Ombix but its own two (0: merged,
    1: something is left open in the file) is a conflict."""
    return (
        't="$(git rev-parse --git-path "ombix-ours.$$")" && cp %A "$t" || exit 1; '
        "git merge-file -q -L ours -L base -L theirs %A %O %B; "
        f'{program} merge %O "$t" %B --output %A --path %P; '
        's=$?; rm -f "$t"; [ "$s" -le 1 ] || s=1; exit "$s"'
    )


class GitSetUp:
    """Sets up, checks and removes what git needs to know of Ombix."""

    def __init__(
        self, repository: Repository, options: SetUpOptions, writer_of: Callable[[Sequence[Path]], Writer]
    ) -> None:
        self._repository = repository
        self._options = options
        self._writer_of = writer_of

    @property
    def _where(self) -> str:
        return "" if self._options.user else absolute(self._repository.top)

    # --- the files

    @property
    def _config(self) -> Path:
        """The file of git's configuration."""
        if not self._options.user:
            return self._inside("config")
        named = os.environ.get("GIT_CONFIG_GLOBAL")
        if named:
            return Path(named)
        usual, xdg = Path.home() / ".gitconfig", self._user_folder / "config"
        return xdg if xdg.is_file() and not usual.is_file() else usual

    @property
    def _user_folder(self) -> Path:
        return Path(os.environ.get("XDG_CONFIG_HOME") or Path.home() / ".config") / "git"

    @property
    def _attributes(self) -> Path:
        """The file that says which files are merged and compared by Ombix."""
        if not self._options.user:
            return self._inside("info/attributes")
        named = self._repository.ask(["config", "--global", "core.attributesFile"], "", none=b"").decode().strip()
        return Path(named).expanduser() if named else self._user_folder / "attributes"

    @property
    def _attribute_lines(self) -> list[str]:
        lines = [f"{pattern} merge=ombix diff=ombix" for pattern in PATTERNS]
        top = None if self._options.user else Path(absolute(self._repository.top))
        for path in self._options.files:
            if top is not None and path.is_relative_to(top):
                name = re.sub(_AWKWARD, "?", f"/{path.relative_to(top).as_posix()}")
                lines.append(f"{name} merge=ombix")
        return list(dict.fromkeys(lines))

    def _hook(self, name: str) -> Path:
        scopes = ("--local", "--global", "--system")
        told = (self._repository.ask(["config", scope, "core.hooksPath"], "", none=b"") for scope in scopes)
        hooks = next((text for one in told if (text := one.decode().strip("\n"))), "")
        return self._repository.top / Path(hooks).expanduser() / name if hooks else self._inside(f"hooks/{name}")

    def _hook_lines(self, name: str) -> list[str]:
        """What a hook does."""
        if name != "prepare-commit-msg":
            return [f"{self._options.program} git audit || exit 1"]
        # It is called for each commit, and asked only where nothing else was.
        return [
            'if [ -d "$(git rev-parse --git-path rebase-merge)" ] || [ -d "$(git rev-parse --git-path rebase-apply)" ]; then',
            f"    {self._options.program} git audit --open || exit 1",
            "fi",
        ]

    def _inside(self, name: str) -> Path:
        """A file of the repository's own, the same for all its working trees."""
        self._repository.top  # noqa: B018 (there is to be one)
        found = self._repository.ask(["rev-parse", "--git-common-dir"]).decode().strip("\n")
        return Path(absolute(self._repository.folder / found)) / name

    def _check_inside(self, path: Path) -> None:
        """Raise InputError for a file that is, or is a link to, one outside of the repository: whoever made it may mean another."""
        homes = (self._repository.top.resolve(), self._inside("").resolve())
        real = path.resolve()
        if not self._options.user and not any(real.is_relative_to(home) for home in homes):
            raise InputError(
                f"{path.name} leads out of this repository", f"Look at it first: {real}", Place(absolute(path))
            )

    def _check_pointer(self) -> None:
        """Raise InputError where a file called .git leads to a repository that does not know of this folder.

        Whoever packs a folder can put such a file into it, and what is set up there would change somebody else's repository. A
        working tree of git's own and a submodule are known where they lead: by the file gitdir, or by core.worktree
        (gitrepository-layout(5))."""
        top = self._repository.top
        pointer = top / ".git"
        if self._options.user or not pointer.is_file():
            return
        said = self._repository.ask(["rev-parse", "--git-dir"]).decode().strip("\n")
        home = Path(absolute(self._repository.folder / said))
        knows = [home / Path(line) for line in _text(home / "gitdir").splitlines()[:1]]
        told = self._repository.ask(["config", "--file", str(home / "config"), "core.worktree"], "", none=b"")
        knows += [home / Path(line) / ".git" for line in told.decode(errors="surrogateescape").splitlines()[:1]]
        if not any(known.resolve() == pointer.resolve() for known in knows):
            raise InputError(
                "this file leads to a repository that does not know of this folder", f"Call it there, if you mean it: {home}",
                Place(absolute(pointer)),
            )  # fmt: skip

    # --- what is done

    def set_up(self, dry_run: bool = False) -> SetUpReport:
        """Put in what is missing. Raises InputError for a check before commits that is no shell script."""
        contents = self._contents(settings(self._options.program), in_place=True)
        return self._changed("set up", contents, dry_run)

    def remove(self, dry_run: bool = False) -> SetUpReport:
        """Take out what `set_up` puts in."""
        return self._changed("removed", self._contents({}, in_place=False), dry_run)

    def check(self) -> SetUpReport:
        """How each part stands."""
        return SetUpReport(self._where, "checked", tuple(self._parts()), ())

    def _changed(self, did: str, contents: Mapping[Path, str], dry_run: bool) -> SetUpReport:
        self._check_pointer()
        for path in contents:
            self._check_inside(path)
        known = {path: _text(path) for path in contents}
        wanted = {path: text for path, text in contents.items() if text != known[path]}
        wrote = self._writer_of(tuple(wanted)).change(f"git {did}", lambda: wanted, dry_run) if wanted else []
        for hook in () if self._options.user or dry_run else map(self._hook, HOOKS):
            if wanted.get(hook):
                hook.chmod(hook.stat().st_mode | 0o111)
        return SetUpReport(self._where, did, tuple(self._parts()), tuple(map(str, wrote)))  # type: ignore[arg-type]

    def _contents(self, wanted: Mapping[str, str], in_place: bool) -> dict[Path, str]:
        lines = self._attribute_lines if in_place else []
        found = {
            self._config: _configured(_text(self._config), wanted),
            self._attributes: _with_block(_text(self._attributes), lines),
        }
        if not self._options.user:
            found |= {self._hook(name): self._hook_text(name, in_place) for name in HOOKS}
        return found

    def _hook_text(self, name: str, in_place: bool) -> str:
        text = _text(self._hook(name))
        first = text.split("\n", 1)[0]
        if not in_place:
            rest = _with_block(text, [])
            return "" if rest.strip() in ("", "#!/bin/sh") else rest
        if text.strip() and not first.startswith(_SHELLS):
            raise InputError(
                "there is a check before commits already, and it is no shell script",
                f"Call from it: {self._options.program} git audit", Place(absolute(self._hook(name))),
            )  # fmt: skip
        lines = self._hook_lines(name)
        head, _newline, rest = (_with_block(text, []) or "#!/bin/sh\n").partition("\n")
        return "\n".join([head, BEGIN, *lines, END, rest]) if rest else "\n".join([head, BEGIN, *lines, END, ""])

    # --- how it stands

    def _parts(self) -> Iterator[SetUpPart]:
        own = self._repository
        scope = "--global" if self._options.user else "--local"
        for name, value in settings(self._options.program).items():
            found = own.ask(["config", scope, name], "", none=b"").decode().strip("\n")
            stands: Literal["right", "other", "missing"] = (
                "right" if found == value else "other" if found else "missing"
            )
            is_driver = stands == "right" and name.endswith("driver")
            said = f"{self._options.program} merge; where that fails, lines with marks" if is_driver else found
            yield SetUpPart(name, str(self._config), stands, said)
        lines = self._attribute_lines
        *names, last = [line.partition(" merge=")[0].removeprefix("/") for line in lines]
        text, said = _text(self._attributes), f"{', '.join(names)} and {last}"
        stands = _stands(text, lines)
        yield SetUpPart("attributes", str(self._attributes), stands, said if stands == "right" else "")
        if self._options.user:
            yield SetUpPart("check before commits", "", "not there for a user", "set it up in each repository")
            return
        for name in HOOKS:
            hook = self._hook(name)
            stands = _stands(_text(hook), self._hook_lines(name))
            if stands == "right" and not os.access(hook, os.X_OK):
                stands = "other"  # git does not run it
            yield SetUpPart(f"check: {name}", str(hook), stands, "ombix git audit" if stands == "right" else "")


def editor_files(opener: Opener) -> tuple[Path, ...]:
    """The key files that the workspace names for its editors; none where there is no workspace that can be read."""
    try:
        workspace = opener.workspace()
    except InputError:
        return ()
    editors = workspace.editors.values() if workspace is not None else ()
    return tuple(
        Path(absolute(user_path(editor.file, opener.needed_workspace().folder))) for editor in editors if editor.file
    )


def _stands(text: str, lines: Sequence[str]) -> Literal["right", "missing", "other"]:
    """How a block stands in a file: as it should be, not at all, or with other lines."""
    if BEGIN not in text:
        return "missing"
    return "right" if "\n".join([BEGIN, *lines, END]) in text else "other"


def _text(path: Path) -> str:
    try:
        return path.read_text("utf-8", errors="surrogateescape")
    except FileNotFoundError:
        return ""
    except OSError as error:
        raise OutsideError(f"the file cannot be read: {error.strerror}", "", Place(absolute(path))) from None


def _with_block(text: str, lines: list[str]) -> str:
    """A text with lines between marks at its end, in place of those that were there."""
    before, begin, rest = text.partition(f"{BEGIN}\n")
    if begin:
        _inside, end, behind = rest.partition(f"{END}\n")
        text = before + (behind if end else "")
    if not lines:
        return text
    return "\n".join([*([text.rstrip("\n")] if text.strip() else []), BEGIN, *lines, END, ""])


def _configured(text: str, wanted: Mapping[str, str]) -> str:
    """The text of a configuration of git with these settings, and no others of Ombix, as git itself writes it."""
    with tempfile.TemporaryDirectory() as folder:
        copy = Path(folder) / "config"
        copy.write_text(text, "utf-8", errors="surrogateescape")
        for section in ("merge.ombix", "diff.ombix"):
            if not any(name.startswith(section) for name in wanted):
                _git_config(copy, "--remove-section", section)
        for name, value in wanted.items():
            _git_config(copy, name, value)
        return copy.read_text("utf-8", errors="surrogateescape")


def _git_config(file: Path, *arguments: str) -> None:
    try:
        subprocess.run(
            ["git", "config", "--file", str(file), *arguments],
            capture_output=True,
            stdin=subprocess.DEVNULL,
            timeout=30,
            check=False,
        )
    except FileNotFoundError:
        raise OutsideError("git is not installed", "Install it first.") from None


def program_name(found: str | None, own: str, interpreter: str) -> str:
    """How the program is called by git: by its name alone where that is `found` on the way of programs and is this one; else by the
    path of what was called, or by its `interpreter`."""
    script = Path(interpreter).parent / "ombix"
    if found is not None and os.path.realpath(found) in (os.path.realpath(own), os.path.realpath(script)):
        return "ombix"
    if own.endswith(".py") or not os.access(own, os.X_OK):
        return shlex.quote(str(script)) if os.access(script, os.X_OK) else f"{shlex.quote(interpreter)} -m ombix"
    return shlex.quote(absolute(own))
