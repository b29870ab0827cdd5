"""What is kept of what is pressed in an editor: counts of commands, and of what is typed no letter, by whatever way it is typed."""

import random
import re
import string
from datetime import UTC, datetime
from pathlib import Path

import pytest

from ombix.core.usage.counts import UseCounts
from ombix.files.usage_days import UseDays
from ombix.work.usage import usage_questions
from ombix.work.usage.watch import WatchedKeys
from ombix.workspace.open_workspace import OpenWorkspace
from tests.helpers import seed

NOW = datetime(2026, 6, 1, 9, tzinfo=UTC)
ESCAPE = "\x1b"
# Ways into typing by POSIX's vi and nvi's manual, and what leads back.
EX = (
    *"aAIoOsSRCi", "cc", "2o", "3s", "cfx", "c0", "cw", "c2w", "c$", "cG", "ct,", "2cw", "5i", "R", "\"acw", "c/two\r", "c`a",
    "2a", "O", "fxa", "xi", "ddO", "ui", ".A", ":5\ri", ":w\rA", "/two\ra", "\x06i", "ma`ai", "J3S", "~i", "c%", "Cxx\x1bi",
    "i\x16\x1b", "ixx\x16\x1b", "a\x04", "i\x18",
)  # fmt: skip
EX_QUESTIONS = (
    ":!passwd\r", "!!passwd\r", "!Gpasswd\r", ":sh\r", ":a\r", ":i\r", "1G:c\r", ":g/two/a\r", ":s/a/b/c\r", ":r !ssh pier\r",
    ":e other|a\r", "Q", "Qa\r", "@a", "@@", ":", "/", "?", "m", "'", "`", "\"", ":vi\r", ":so x\r",
    ":map q a\r", "z", "#", ":\x1b[A\r", ":so\x7fx\r",
)  # fmt: skip
KAKOUNE = (
    *"iaAIoOc", "\x1bc", "xc", "wc", "%c", "2o", "wi", "ea", "ggi", "gla", "da", "uA", "i\x16\x1b", "i\x1b;:", "a\x1b;",
    "i\x12", "i\x18", "c\x1b;:echo\r",
)  # fmt: skip
KAKOUNE_QUESTIONS = (
    "s", "S", "|", "!", "\x1b!", "\x1b|", "$", "/", "?", "\x1bk", "\x1bK", ":", ":prompt -password x nop\r", ":terminal\r",
    " ", "\"", "q", ":w\r:prompt x nop\r", ":e x;prompt y nop\r", "&", "z", "Z", "\x1ba", "\x1bi", "[", "{", "'", "V", "G",
)  # fmt: skip
MODELESS = {
    "nano": ("", "\x17", "\x0f", "\x12", "\x14", "\x1f", "\x1c", "\x18"),
    "micro": ("", "\x05", "\x06", "\x0f", "\x0c", "\x02", "\x11"),
    "joe": ("", "\x0bf", "\x0be", "\x0bd", "\x0b'", "\x0b/", "\x1bx", "\x0br", "\x0bl"),
    "dte": ("", "\x06", "\x0f", "\x1bx"),
    "mcedit": ("", "\x1b7", "\x1bl", "\x1b4"),
}


def watched(tmp_path: Path, program: str, *arguments: str) -> WatchedKeys:
    """An editor that is watched, as it starts."""
    found = usage_questions.watch(OpenWorkspace(folder=str(tmp_path), state=str(tmp_path / "state")), program)
    found.start(arguments)
    return found


def press(keys: WatchedKeys, text: str, with_alt: bool = False) -> None:
    """Press keys, each by itself; Escape and a character together where these are a key with Alt."""
    for sign in re.findall("\x1b\\[A|\x1b.|.", text, re.DOTALL) if with_alt else text:
        keys.note(sign.encode(), NOW)
        keys.pause(100, NOW)


def kept(tmp_path: Path, counts: UseCounts) -> set[str]:
    """All single letters that are among the keys, and all actions that one of them started, in what is stored."""
    days = UseDays(tmp_path / "kept")
    days.add(counts)
    stored = days.counts()
    keys = [one.keys for one in stored.used] + [row[2] for row in stored.slips] + [row[2] for row in stored.waits]
    return {part for one in keys for part in one.split() if len(part) == 1 or part.startswith("Shift+")}


@pytest.mark.parametrize(
    ("program", "ways"),
    [("nvi", EX + EX_QUESTIONS), ("kak", KAKOUNE + KAKOUNE_QUESTIONS), *MODELESS.items()],
    ids=lambda value: value if isinstance(value, str) else "",
)
def test_no_letter_of_what_is_typed_is_kept_by_any_way_into_typing(
    program: str, ways: tuple[str, ...], tmp_path: Path
) -> None:
    chance = random.Random(seed())
    letters = string.ascii_letters + string.digits + " .,;:!?'\"/"
    words = ["".join(chance.choices(letters, k=chance.randint(4, 12))) for _ in range(200)]
    found = {}
    for number, way in enumerate(ways):
        keys = watched(tmp_path, program)
        press(keys, way, with_alt=program != "nvi")
        before = keys.taken()
        for word in words[number % 7 :: 7] if len(ways) > 10 else words:
            press(keys, f"x{word}")
        counts = keys.taken()
        if kept(tmp_path / str(number), counts):
            found[way] = kept(tmp_path / str(number), counts)
        assert not counts.runs or not any(len(run[2]) > 4 for run in counts.runs), way
        assert before.typed or counts.typed, way  # that something was typed is counted
    assert found == {}


@pytest.mark.parametrize("program", ["nvi", "kak"])
def test_commands_are_counted_where_it_is_sure(program: str, tmp_path: Path) -> None:
    keys = watched(tmp_path, program, "timetable.txt")
    press(keys, "jjk" if program == "nvi" else "jjkx")
    press(keys, f"isecret{ESCAPE}k:w\rj")
    counts = keys.taken()
    used = {one.keys: times for one, times in counts.used.items()}
    assert used["j"] == 3 and used["k"] == 2 and used["i"] == used["Escape"] == 1, used
    assert sum(counts.typed.values()) == len("secret") + len("w")
    assert not counts.runs  # a word could be read from letters one behind the other


def test_behind_what_is_not_known_the_way_out_is_waited_for(tmp_path: Path) -> None:
    keys = watched(tmp_path, "nvi")
    press(keys, f"mjk{ESCAPE}")
    assert not keys.taken().used.keys() & {"K"}
    press(keys, "dd")
    assert {one.action for one in keys.taken().used} == {"edit.cut-line"}
    press(keys, f"Q{ESCAPE}{ESCAPE}ddjk")
    assert {one.action for one in keys.taken().used} <= {"mode.command"}


@pytest.mark.parametrize("arguments", [("-e", "x"), ("-c", "a", "x"), ("+a", "x"), ("-s",)])
def test_an_editor_that_is_told_to_do_something_is_not_known(arguments: tuple[str, ...], tmp_path: Path) -> None:
    keys = watched(tmp_path, "nvi", *arguments)
    press(keys, f"harbour{ESCAPE}dd")
    assert not keys.taken().used


def test_what_somebody_else_reads_is_not_counted(tmp_path: Path) -> None:
    for program in ("nvi", "nano"):
        keys = watched(tmp_path, program)
        keys.hide(True)
        press(keys, "ddsecret\r\x17")
        keys.hide(False)
        counts = keys.taken()
        assert not counts, counts.used


def test_what_is_pasted_without_a_word_is_text(tmp_path: Path) -> None:
    keys = watched(tmp_path, "nvi")
    keys.note(b"ddjkquay secret", NOW)
    press(keys, "harbour")
    counts = keys.taken()
    assert not counts.used and sum(counts.typed.values()) == len("ddjkquay secretharbour")
