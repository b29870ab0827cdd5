"""Edits random bindings in workspaces with three layers, and compares all decisions before and after with what was asked for.

Usage: python tools/try_layer_edits.py [COUNT [SEED]]. A keymap extends another one, above a layer that was adopted from an editor's
file. What each key does in each of some states is decided here once more, by hand, from the tables of the workspace before: an edit
changes that for what it names and for nothing else, or is refused. Prints what was found, and ends with status 1 where that did
not hold.
"""

import random
import re
import shutil
import sys
import tempfile
from collections import Counter
from itertools import product
from pathlib import Path

from ombix.work.carry import carry_questions
from ombix.work.change import change_questions

ROOT = Path(__file__).resolve().parent.parent
sys.path.insert(0, str(ROOT))
from ombix.core.errors import OmbixError  # noqa: E402
from ombix.core.keymap.outcomes import Nothing  # noqa: E402
from ombix.core.keys.notation import parse  # noqa: E402
from ombix.workspace.keymap_file import entry_name_of  # noqa: E402
from ombix.workspace.open_workspace import OpenWorkspace  # noqa: E402
from ombix.workspace.what_if import WorkspaceWhatIf  # noqa: E402

ACTIONS = ("files.save", "files.open", "edit.cut", "line.delete", "search.find")
KEYS = ("F2", "F3", "F4", "F6", "Ctrl+K")
WHERES = ("", "", "readonly", "not readonly", "selection is none", "language is python", "busy", "readonly and busy")
NAMES = {"house": 'busy = "program is running"', "crew": 'busy = "selection is many"'}
COMMANDS = {"savefile": "files.save", "cut": "edit.cut", "whereis": "search.find"}
STATES = [
    dict(zip(("readonly", "selection", "language", "program"), values, strict=True))
    for values in product(("yes", "no"), ("none", "one", "many"), ("python", "any other"), ("running", "stopped"))
]
PLATFORMS = ("linux", "mac", "windows")

State = dict[str, str]
Decisions = dict[tuple[str, str, int], str]
"""Platform, keys and the number of a state to what the keys do there."""


def _entry(chance: random.Random, adds: bool) -> str:
    rows = []
    for _ in range(chance.choice((1, 1, 2, 3))):
        fields = [f'press = "{chance.choice(KEYS)}"']
        if adds and not rows:
            fields = [f'also = "{chance.choice(KEYS)}"']
        if chance.random() < 0.2:
            fields.append(f'mac = "{chance.choice(KEYS)}"')
        if where := chance.choice(WHERES):
            fields.append(f'where = "{where}"')
        rows.append(f"{{ {', '.join(fields)} }}")
    return rows[0] if len(rows) == 1 else f"[{', '.join(rows)}]"


def _keymap(chance: random.Random, name: str, head: str) -> str:
    lines = ["format = 1", f'name = "{name}"', *([head] if head else [])]
    for action in chance.sample(ACTIONS, chance.randint(1, 4)):
        is_taken = name == "crew" and chance.random() < 0.1
        lines.append(
            f"bind.{action} = {'false' if is_taken else _entry(chance, name == 'crew' and chance.random() < 0.3)}"
        )
    lines += ["[where]", NAMES[name]]
    if chance.random() < 0.3:
        lines += ["[unbind]", f'{chance.choice(KEYS[:4])} = {{ where = "{chance.choice(WHERES[2:6])}" }}']
    return "\n".join(lines) + "\n"


def make(chance: random.Random, folder: Path) -> None:
    """A workspace."""
    (folder / "house.keys.toml").write_text(_keymap(chance, "house", ""))
    (folder / "crew.keys.toml").write_text(_keymap(chance, "crew", 'extends = ["house.keys.toml"]'))
    rows = [
        f"bind {chance.choice(('F2', 'F3', 'F4', 'F6', '^K'))} {name} main"
        for name in COMMANDS
        if chance.random() < 0.5
    ]
    (folder / "rc").write_text("".join(f"{row}\n" for row in rows))
    (folder / "ombix.toml").write_text('format = 1\nkeymap = "crew.keys.toml"\n')
    if rows:
        carry_questions.adopt(
            OpenWorkspace(folder=str(folder), state=str(folder / ".state")), "rc", editor="nano", name="pier"
        )


def decisions(folder: Path) -> Decisions:
    """What every key does in every state, on every platform."""
    found: Decisions = {}
    session = OpenWorkspace(folder=str(folder), state=str(folder / ".state"))
    trial = WorkspaceWhatIf(session.opener, session.resources, {})
    for platform in PLATFORMS:
        here = trial.keymap(platform)
        space = here.space
        for keys in KEYS:
            table = here.tables.get(here.context.platform.resolve(parse(keys)))
            for number, state in enumerate(STATES):
                does = ""
                for row in table.rows if table is not None else ():
                    full = {
                        **{fact.name: fact.values[0] for fact in space.facts.facts},
                        "pane": "text",
                        "mode": "plain",
                        **state,
                    }
                    if space.holds(row.states, full):
                        does = "" if isinstance(row.binding.outcome, Nothing) else entry_name_of(row.binding.outcome)
                        break
                found[platform, keys, number] = does
    return found


def fault(seed: int) -> tuple[str, str]:
    """What became of one edit, and what is wrong with it."""
    chance = random.Random(seed)
    folder = Path(tempfile.mkdtemp(prefix="ombix-layers-"))
    try:
        make(chance, folder)
        before = decisions(folder)
        text = (folder / "crew.keys.toml").read_text()
        done = sorted({(does, keys) for (_platform, keys, _number), does in before.items() if does})
        action, keys = (
            chance.choice(done) if done and chance.random() < 0.9 else (chance.choice(ACTIONS), chance.choice(KEYS))
        )
        to = chance.choice(KEYS)
        where = chance.choice(("readonly", "selection is none", "language is python"))
        kind = chance.choice(("move", "narrow", "unbind", "narrow all", "unbind all"))
        session = OpenWorkspace(folder=str(folder), state=str(folder / ".state"))
        words = [action] if kind.endswith("all") else [action, keys]
        try:
            if kind == "move":
                report = change_questions.move(session, *words, to=to)
            elif kind.startswith("narrow"):
                report = change_questions.narrow(session, *words, where=where)
            else:
                report = change_questions.unbind(session, *words)
        except OmbixError as error:
            changed = (folder / "crew.keys.toml").read_text() != text
            what = re.sub(r"[\w-]+\.[\w-]+|(Ctrl\+)?[FK]\d?|when .*", "…", error.what)
            return f"{kind}: {what}", "changed though it raised" if changed else ""
        if report.refused:
            changed = (folder / "crew.keys.toml").read_text() != text
            why = "it takes keys from others" if report.consequences.takes else "it brings errors"
            return f"{kind}, refused: {why}", "changed though refused" if changed else ""
        after = decisions(folder)
        said = f"seed {seed}: {kind} {' '.join(words)}" + (f" to {to}" if kind == "move" else "")
        return f"{kind}, done", _wrong(before, after, kind, action, keys, to, where, said)
    finally:
        shutil.rmtree(folder, ignore_errors=True)


def _wrong(
    before: Decisions, after: Decisions, kind: str, action: str, keys: str, to: str, where: str, said: str
) -> str:
    everywhere = kind.endswith("all")
    for (platform, pressed, number), did in before.items():
        does, state = after[platform, pressed, number], STATES[number]
        at = f"{said}: {pressed} on {platform} in {state} did {did or 'nothing'} and does {does or 'nothing'}"
        is_named = everywhere or pressed in ((keys, to) if kind == "move" else (keys,))
        if did not in ("", action) and does != did:
            return f"{at}; nobody asked for that"
        if did == action and does != action and not is_named:
            return f"{at}; another key was meant"
        if does == action and did != action and not (kind == "move" and pressed == to):
            return f"{at}; it came from nowhere"
        if did == action and is_named:
            if kind == "move" and pressed == keys != to and does == action:
                return f"{at}; it was to be moved away"
            if kind.startswith("unbind") and does == action:
                return f"{at}; it was to be taken away"
            if kind.startswith("narrow") and (does == action) != _holds(where, state):
                return f"{at}; it was to hold when {where}"
        if kind == "move" and pressed == to and before[platform, keys, number] == action and does != action and not did:
            return f"{at}; it was to be moved here"
    return ""


def _holds(where: str, state: State) -> bool:
    return {
        "readonly": state["readonly"] == "yes", "selection is none": state["selection"] == "none",
        "language is python": state["language"] == "python",
    }[where]  # fmt: skip


def main(count: int, seed: int) -> int:
    """Try so many edits; the status to end with."""
    ends: Counter[str] = Counter()
    wrong = []
    for number in range(seed, seed + count):
        end, what = fault(number)
        ends[end] += 1
        if what:
            wrong.append(what)
            print(what)
    for end, times in sorted(ends.items()):
        print(f"{times:5}  {end}")
    print(f"{count} edits, {len(wrong)} wrong")
    return int(bool(wrong))


if __name__ == "__main__":
    sys.exit(main(int((sys.argv[1:] or ["60"])[0]), int((sys.argv[2:] or ["1"])[0])))
