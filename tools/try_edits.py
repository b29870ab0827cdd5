"""Edits keymaps as people write them by hand: in every form that TOML allows, with comments, marks and mixed line ends.

Usage: python tools/try_edits.py [KEYMAPS]. After each change nothing but what was named is different, by another reader's
word, and every comment is still there; `undo` gives back every byte. Prints what was done, and ends with status 1 where that
did not hold.
"""

import random
import sys
import tempfile
import tomllib
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from ombix.core.errors import OmbixError
from ombix.data.shipped import Shipped
from ombix.work.change import change_questions
from ombix.work.change.edits import WantedBinding
from ombix.workspace.open_workspace import OpenWorkspace

_KEYS = [f"{modifiers}{key}" for modifiers in ("Ctrl+", "Alt+", "Mod+Shift+") for key in "ABDEGHJKL"] + [
    "F2",
    "F7",
    "F9 x",
]
_CONDITIONS = ["pane is text", "not readonly", "selection is one and modified", "busy"]
_COMMENTS = ["# mine", "# don't touch", '# "quoted" = [', "#", "# ß € 漢字", "#: odd"]
_ACTIONS = [name for name, action in Shipped().catalogue().actions.items() if not action.arguments]


class Hand:
    """Writes a keymap as somebody does who never saw another one."""

    def __init__(self, chance: random.Random) -> None:
        self._chance = chance

    def keymap(self) -> bytes:
        """A whole file."""
        chance = self._chance
        parts = list(self._parts())
        head = ["format = 1", chance.choice(['name = "k"', "name = 'k'", 'name="""k"""'])]
        chance.shuffle(head)
        where = ["[where]", 'busy = "pane is text"'] if chance.random() < 0.7 else ['where.busy = "pane is text"']
        lines = [*head, *(where if where[0][0] != "[" else []), *self._filler()]
        dotted = [line for part in parts if part[0].startswith("bind.") for line in part]
        tables = [part for part in parts if not part[0].startswith("bind.")]
        if where[0][0] == "[":
            tables.insert(chance.randrange(len(tables) + 1), where)
        lines += dotted
        for table in tables:
            lines += [*table, *self._filler()]
        ends = chance.choice([["\n"], ["\r\n"], ["\n", "\r\n"]])
        text = "".join(line + chance.choice(ends) for piece in lines for line in piece.split("\n"))
        if chance.random() < 0.3:
            text = text.rstrip("\r\n")
        return (b"\xef\xbb\xbf" if chance.random() < 0.1 else b"") + text.encode("utf-8")

    def _parts(self) -> Iterator[list[str]]:
        chance = self._chance
        domains: dict[str, list[str]] = {}
        for name in chance.sample(_ACTIONS, chance.randint(1, 9)):
            domain, _, verb = name.partition(".")
            domains.setdefault(domain, []).append(verb)
        form = chance.choice(["tables", "dotted", "one table", "mixed"])
        inside: list[str] = ["[bind]"]
        for domain, verbs in domains.items():
            lines = [self._entry(verb) for verb in verbs]
            kind = chance.choice(["tables", "dotted"]) if form == "mixed" else form
            if kind == "tables":
                title = chance.choice([f"[bind.{domain}]", f'[bind."{domain}"]', f"[ bind . {domain} ]"])
                yield [title + self._behind(), *(line for one in lines for line in (*self._filler(0.2), one))]
            elif kind == "dotted":
                yield [f"bind.{domain}.{line}" for line in lines]
            else:
                inside += [f"{domain}.{line}" for line in lines]
        if len(inside) > 1:
            yield inside
        if chance.random() < 0.4:
            yield [
                "[unbind]",
                f'"{chance.choice(_KEYS)}" = {chance.choice(["true", "{ why = " + chr(34) + "x" + chr(34) + " }"])}',
            ]
        if chance.random() < 0.3:
            yield [
                "[macro.twice]",
                'steps = [ { do = "line.copy-down" },',
                '  { type = "# no comment" } ] # steps',
                'press = "F11"',
            ]
        if chance.random() < 0.2:
            yield ["[[accept]]", 'rule = "habit"', 'why = "so"', "[[accept]]", 'rule = "slip"', 'why = "x"']
        if chance.random() < 0.1:
            yield ["[[ accept ]]", 'rule = "covered"', 'why = "elsewhere"']

    def _entry(self, verb: str) -> str:
        chance = self._chance
        return f"{verb}{chance.choice([' = ', '=', '   =  '])}{self._value()}{self._behind()}"

    def _value(self) -> str:
        chance = self._chance
        kind = chance.randrange(6)
        if kind == 0:
            return "false"
        if kind == 1:
            return "[" + ", ".join(f'"{key}"' for key in chance.sample(_KEYS, 2)) + "]"
        if kind == 2:
            first, second = chance.sample(_KEYS, 2)
            return f'[\n  "{first}", {chance.choice(_COMMENTS)}\n  "{second}"\n]'
        if kind == 3:
            return f'{{ press = "{chance.choice(_KEYS)}", where = "{chance.choice(_CONDITIONS)}" }}'
        if kind == 4:
            one, other = chance.sample(_KEYS, 2)
            return f'[ {{press="{one}"}},\n   {chance.choice(_COMMENTS)}\n   {{ press = \'{other}\', where = "modified" }},\n]'
        return chance.choice(['"{}"', "'{}'"]).format(chance.choice(_KEYS))

    def _behind(self) -> str:
        return f" {self._chance.choice(_COMMENTS)}" if self._chance.random() < 0.3 else ""

    def _filler(self, likely: float = 0.6) -> list[str]:
        chance = self._chance
        return (
            [chance.choice(["", "", *_COMMENTS]) for _ in range(chance.randint(1, 2))]
            if chance.random() < likely
            else []
        )


def entries(data: bytes) -> dict[tuple[str, str], Any]:
    """What a file says, by another reader: each entry of `bind`, and each other key."""
    table = tomllib.loads(data.decode("utf-8-sig").replace("\r\n", "\n"))
    found: dict[tuple[str, str], Any] = {
        ("bind", f"{domain}.{verb}"): value
        for domain, verbs in table.pop("bind", {}).items()
        for verb, value in verbs.items()
    }
    for key, value in table.items():
        found |= {(key, name): one for name, one in value.items()} if isinstance(value, dict) else {("", key): value}
    return found


def fault(chance: random.Random, folder: Path) -> tuple[str, str]:
    """One keymap, changed and taken back: what kind of end it had, and what was wrong."""
    file = folder / "k.keys.toml"
    before = Hand(chance).keymap()
    file.write_bytes(before)
    file.chmod(chance.choice([0o644, 0o600, 0o664]))
    session = OpenWorkspace(folder=str(folder), state=str(folder.parent / "state"))
    action, keys = chance.choice(_ACTIONS), chance.choice(["F5", "Ctrl+Q", *_KEYS])
    kind = chance.choice(["bind", "bind", "also", "where", "take", "unbind"])
    try:
        if kind == "take":
            change_questions.unbind(session, action, why="so")
        elif kind == "unbind":
            change_questions.unbind(session, keys)
        else:
            where = "selection is one" if kind == "where" else ""
            change_questions.bind(session, WantedBinding(action, keys, where=where, also=kind == "also"))
    except OmbixError as error:
        return f"refused: {error.what}", "" if file.read_bytes() == before else "a refusal changed the file"
    after = file.read_bytes()
    named = {("bind", action)}
    if kind == "unbind":
        named = {name for name in entries(before) if name[0] in ("bind", "macro")} | {
            ("unbind", name) for _k, name in entries(after)
        }
    one, other = (
        {name: value for name, value in entries(data).items() if name not in named} for data in (before, after)
    )
    if one != other:
        return (
            kind,
            f"more than was named is different: {[name for name in one | other if one.get(name) != other.get(name)]}",
        )
    lost = [
        text
        for text in _COMMENTS[:5]
        if before.decode().count(text.lstrip("# ")) > after.decode().count(text.lstrip("# ")) and text != "#"
    ]
    if lost and kind not in ("unbind", "take"):
        return kind, f"comments are lost: {lost}"
    kept = set(before.split(b"\n")) - set(after.split(b"\n"))
    if len(kept) > 6 and kind != "unbind":
        return kind, f"{len(kept)} lines are no longer what they were"
    change_questions.undo(session)
    return kind, "" if file.read_bytes() == before else "undo did not give back every byte"


def main() -> None:
    """Try it."""
    count = int(sys.argv[1]) if len(sys.argv) > 1 else 10_000
    chance, faults, ends = random.Random(17), 0, dict[str, int]()
    with tempfile.TemporaryDirectory(prefix="ombix-edits-") as name:
        folder = Path(name) / "place"
        folder.mkdir()
        (folder / "ombix.toml").write_text('format = 1\nkeymap = "k.keys.toml"\nplatform = "linux"\n', "utf-8")
        for _ in range(count):
            end, wrong = fault(chance, folder)
            ends[end.split(":")[0]] = ends.get(end.split(":")[0], 0) + 1
            if wrong:
                faults += 1
                if faults <= 5:
                    print(f"{end}: {wrong}\n{(folder / 'k.keys.toml').read_bytes()!r}")
    print(f"{count} keymaps: {', '.join(f'{end} {number}' for end, number in sorted(ends.items()))}; {faults} faults")
    sys.exit(1 if faults else 0)


if __name__ == "__main__":
    main()
