"""Input for the benchmarks: keymaps and conditions of a given size, the same at every run."""

import random
from pathlib import Path

from ombix.data.shipped import Shipped

FACTS = {
    "pane": ["text", "files", "search", "terminal"],
    "selection": ["none", "one", "many"],
    "language": ["python", "lua", "go", "rust", "c"],
    "mode": ["normal", "insert", "select"],
    "program": ["stopped", "running", "paused"],
    "popup": ["none", "suggestions"],
}
FLAGS = ["readonly", "modified", "recording"]


def literal(chance: random.Random, fact: str) -> str:
    """A condition on one fact."""
    if fact in FLAGS:
        return fact if chance.random() < 0.5 else f"not {fact}"
    kind = chance.random()
    if kind < 0.6:
        return f"{fact} is {chance.choice(FACTS[fact])}"
    if kind < 0.8:
        return f"{fact} is not {chance.choice(FACTS[fact])}"
    return f"{fact} in ({', '.join(chance.sample(FACTS[fact], 2))})"


def condition(chance: random.Random) -> str:
    """A condition of two to four different facts."""
    parts = [literal(chance, fact) for fact in chance.sample([*FACTS, *FLAGS], chance.randint(2, 4))]
    if len(parts) > 2 and chance.random() < 0.2:
        return f"({parts[0]} or {parts[1]}) and " + " and ".join(parts[2:])
    return " and ".join(parts)


def keymap_files(folder: Path, bindings: int, layers: int = 3, seed: int = 7) -> list[Path]:
    """Keymap files of `bindings` bindings in all, each extending the one before; each binding has a condition."""
    chance = random.Random(seed)
    actions = list(Shipped().catalogue().actions)
    letters = "abcdefghijklmnopqrstuvwxyz"
    modifiers = ["Ctrl", "Alt", "Ctrl+Alt", "Mod+Shift", "Meta"]
    paths: list[Path] = []
    number = 0
    for layer in range(layers):
        count = bindings // layers + (1 if layer < bindings % layers else 0)
        mine = actions[layer::layers]  # an entry replaces what lower layers say of its action: each has its own
        entries: dict[str, list[str]] = {}
        for _ in range(count):
            first = f"{modifiers[number % 5]}+{letters[number // 5 % 26].upper()}"
            keys = f"{first} {letters[number // 130 % 26]} {letters[number // 3380 % 26]}{' x' * (number // 87880)}"
            action = mine[number % len(mine)]
            entries.setdefault(action, []).append(f'{{ press = "{keys}", where = "{condition(chance)}" }}')
            number += 1
        text = f'format = 1\nname = "layer{layer}"\n'
        if paths:
            text += f'extends = ["{paths[-1].name}"]\n'
        domains: dict[str, list[str]] = {}
        for action, values in entries.items():
            domain, _, verb = action.partition(".")
            domains.setdefault(domain, []).append(f"{verb} = [\n  " + ",\n  ".join(values) + ",\n]")
        for domain, lines in domains.items():
            text += f"\n[bind.{domain}]\n" + "\n".join(lines) + "\n"
        path = folder / f"layer{layer}.keys.toml"
        path.write_text(text, "utf-8")
        paths.append(path)
    return paths
