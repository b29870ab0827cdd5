"""Keymap files for the tests of merging: random ones in every style that people write, and random changes to them."""

import random
from collections.abc import Callable

ACTIONS = (
    "line.copy-down",
    "line.delete",
    "line.move-up",
    "edit.cut",
    "edit.paste",
    "files.save",
    "search.find",
    "app.quit",
)
KEYS = ("Ctrl+K", "Ctrl+D", "Mod+J", "F3", "Alt+U", "Ctrl+K Ctrl+D", "Mod+Shift+Y", "Space s c")
FACTS = ("pane is text", "pane is files", "readonly", "not readonly", "selection is none")
NAMES = ("editing", "browsing", "reading")

Model = dict[str, dict[str, object]]
"""Table to name to value, as a keymap file has them."""


def condition(chance: random.Random, model: Model) -> str:
    """A condition that the file can use."""
    known = list(model.get("where", {}))
    if known and chance.random() < 0.4:
        return chance.choice(known)
    return " and ".join(dict.fromkeys(chance.choice(FACTS) for _ in range(chance.randint(1, 2))))


def row(chance: random.Random, model: Model) -> object:
    """One row of an entry."""
    keys = chance.choice(KEYS)
    kind = chance.random()
    if kind < 0.4:
        return keys
    if kind < 0.8:
        return {"press": keys, "where": condition(chance, model)}
    return {"press": keys, chance.choice(("mac", "windows")): chance.choice(KEYS)}


def entry(chance: random.Random, model: Model) -> object:
    """An entry: rows, or a removal."""
    if chance.random() < 0.1:
        return False
    rows = [row(chance, model) for _ in range(chance.choice((1, 1, 1, 2, 3)))]
    return rows[0] if len(rows) == 1 else rows


def keymap(chance: random.Random) -> Model:
    """A keymap."""
    model: Model = {"where": {}, "bind": {}, "unbind": {}, "macro": {}, "accept": {}}
    for name in chance.sample(NAMES, chance.randint(0, 2)):
        model["where"][name] = " and ".join(chance.sample(FACTS[:3], chance.randint(1, 2)))
    for name in chance.sample(ACTIONS, chance.randint(2, 6)):
        model["bind"][name] = entry(chance, model)
    for keys in chance.sample(KEYS, chance.randint(0, 2)):
        model["unbind"][keys] = True
    for name in chance.sample(("crossing", "tide"), chance.randint(0, 2)):
        model["macro"][name] = {"press": chance.choice(KEYS), "steps": [{"do": chance.choice(ACTIONS)}]}
    for rule in chance.sample(("clash", "slip"), chance.randint(0, 1)):
        model["accept"][rule] = {"rule": rule, "why": "meant so"}
    return model


def changed(chance: random.Random, model: Model, most: int = 3) -> Model:
    """The keymap with some changes."""
    new: Model = {table: dict(values) for table, values in model.items()}
    steps: tuple[Callable[[], None], ...] = (
        lambda: new["bind"].update({chance.choice(ACTIONS): entry(chance, new)}),
        lambda: new["bind"].update({chance.choice(ACTIONS): row(chance, new)}),
        lambda: _drop(chance, new["bind"]),
        lambda: new["where"].update({chance.choice(NAMES): chance.choice(FACTS)}),
        lambda: new["unbind"].update({chance.choice(KEYS): {"why": chance.choice(("too near", "by mistake"))}}),
        lambda: _drop(chance, new["unbind"]),
        lambda: new["macro"].update(
            {"tide": {"press": chance.choice(KEYS), "steps": [{"type": chance.choice("xyz")}]}}
        ),
        lambda: _drop(chance, new["macro"]),
        lambda: new["accept"].update({"slip": {"rule": "slip", "why": chance.choice(("a", "b"))}}),
    )
    for _ in range(chance.randint(0, most)):
        chance.choice(steps)()
    return new


def _drop(chance: random.Random, table: dict[str, object]) -> None:
    if table:
        del table[chance.choice(list(table))]


def text_of(value: object) -> str:
    """A value as TOML."""
    if isinstance(value, bool):
        return "true" if value else "false"
    if isinstance(value, dict):
        return "{ " + ", ".join(f"{key} = {text_of(one)}" for key, one in value.items()) + " }"
    if isinstance(value, list):
        return "[" + ", ".join(map(text_of, value)) + "]"
    return f'"{value}"'


def written(model: Model, style: int, remarks: bool = True) -> str:
    """The keymap as a file: `style` chooses among the ways in which people write one."""
    head = ["# our keys", "format = 1", 'name = "crew"']
    lines: list[str] = []
    if model["where"]:
        lines += ["", "[where]", *(f"{name} = {text_of(value)}" for name, value in model["where"].items())]
    domains: dict[str, list[tuple[str, object]]] = {}
    for name, value in model["bind"].items():
        domain, _, verb = name.partition(".")
        domains.setdefault(domain, []).append((verb, value))
    for domain, entries in domains.items():
        if style == 1:
            head += [f"bind.{domain}.{verb} = {text_of(value)}" for verb, value in entries]
            continue
        lines += ["", f"[bind.{domain}]"]
        if style == 2:  # what is a table of its own ends the one above it
            entries = sorted(entries, key=lambda one: isinstance(one[1], dict))
        for verb, value in entries:
            if style == 2 and isinstance(value, dict):
                lines += ["", f"[bind.{domain}.{verb}]", *(f"{key} = {text_of(one)}" for key, one in value.items())]
            elif isinstance(value, list) and style != 3:
                lines += [f"{verb} = [", *(f"    {text_of(one)},   # {domain}" for one in value), "]"]
            else:
                lines += [*([f"# about {verb}"] if remarks else []), f"{verb} = {text_of(value)}  # {domain} {verb}"]
    if model["unbind"]:
        lines += [
            "",
            "# keys that do nothing",
            "[unbind]",
            *(f'"{keys}" = {text_of(value)}' for keys, value in model["unbind"].items()),
        ]
    for name, value in model["macro"].items():
        assert isinstance(value, dict)
        lines += ["", f"[macro.{name}]", *(f"{key} = {text_of(one)}" for key, one in value.items())]
    for value in model["accept"].values():
        assert isinstance(value, dict)
        lines += ["", "[[accept]]", *(f"{key} = {text_of(one)}" for key, one in value.items())]
    return "\n".join([*head, *lines]) + "\n"
