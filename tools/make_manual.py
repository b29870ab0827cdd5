"""Writes the manual page docs/ombix.1 from the help of the commands: python tools/make_manual.py."""

from collections.abc import Iterator
from pathlib import Path

from ombix.cli.program import commands_by_group
from ombix.console.environment import Status
from ombix.version import __version__

PAGE = Path(__file__).resolve().parent.parent / "docs" / "ombix.1"
_STATUSES = {
    Status.FINE: "Fine.",
    Status.FOUND: "There are findings, differences, or keys that are gone.",
    Status.WRONG: "The call or the input is wrong.",
    Status.OUTSIDE: "Something outside failed: an editor is not installed, a disk is full.",
    Status.FAULT: "A fault in Ombix itself; a report was written.",
    Status.INTERRUPTED: "Stopped by Ctrl+C.",
}
_EXAMPLES = (
    ("What works of your keys in another editor; nothing has to be set up:", "ombix port --from ~/.nanorc --to joe"),
    ("What a key does in an editor by default, and what is free there:", "ombix what Ctrl+K --editor joe"),
    ("A workspace from the key files of this machine:", "ombix init --adopt all"),
    ("A key for saving, checked in all editors of the workspace:", "ombix bind files.save Mod+S"),
    ("The keymap into the editors' own files; and back again:", "ombix apply; ombix undo"),
)
_FILES = (
    ("ombix.toml", "The workspace: the keymap, its layers, the editors, the machines."),
    ("*.keys.toml", "A keymap: bindings by kind of work, macros, snippets, conditions."),
)
_VARIABLES = (
    ("NO_COLOR", "Without colours, where it is set to anything."),
    ("COLUMNS", "How wide results are laid out."),
)


def page() -> str:
    """The manual page, in the man macros of roff."""
    return "\n".join(_lines()) + "\n"


def _lines() -> Iterator[str]:
    yield f'.TH OMBIX 1 "" "ombix {__version__}" "User commands"'
    yield ".SH NAME"
    yield r"ombix \- define, audit and port keyboard bindings across editors, with evidence"
    yield ".SH SYNOPSIS"
    yield ".B ombix"
    yield r"\fICOMMAND\fR [\fIOPTIONS\fR]"
    yield ".SH DESCRIPTION"
    yield _text("A keymap is written once, by what the keys are to do. Ombix says what each key does in each state of an editor, "
                "finds what clashes, writes the keymap for other editors with an account of what works there, and presses the "
                "keys in the real editor to prove it. Every change can be undone.")  # fmt: skip
    yield ".SH COMMANDS"
    yield _text("ombix COMMAND --help has the options of each.")
    for title, rows in commands_by_group().items():
        yield f'.SS "{_text(title)}"'
        for name, sentence in rows:
            yield from (".TP", rf"\fB{_text(name)}\fR", _text(sentence))
    yield ".SH EXAMPLES"
    for sentence, command in _EXAMPLES:
        yield from (".PP", _text(sentence), ".PP", ".RS", ".nf", _text(command), ".fi", ".RE")
    for heading, rows in (("FILES", _FILES), ("ENVIRONMENT", _VARIABLES)):
        yield f".SH {heading}"
        for name, sentence in rows:
            yield from (".TP", rf"\fI{_text(name)}\fR", _text(sentence))
    yield '.SH "EXIT STATUS"'
    for status, sentence in _STATUSES.items():
        yield from (".TP", rf"\fB{int(status)}\fR", _text(sentence))


def _text(text: str) -> str:
    """A text without what steers roff; a hyphen that is typed stays one."""
    return text.replace("\\", r"\e").replace("-", r"\-").replace("…", "...").replace("’", "'")


if __name__ == "__main__":
    PAGE.write_text(page(), "utf-8")
