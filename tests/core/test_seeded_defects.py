"""Known defects are planted in clean keymaps, and the audit has to find every one of them, and nothing else.

The planting knows what a defect is from its description alone: it shares no code with the rules.
"""

import random
from collections.abc import Callable
from dataclasses import dataclass, field

import pytest

from ombix.core.audit import Finding, all_rules, audit
from ombix.core.audit.model import AuditSubject, EditorView
from ombix.core.errors import Place
from ombix.core.keymap.bindings import Binding, Keymap, LayerName
from ombix.core.keymap.deciding import Policy, decide_all
from ombix.core.keymap.outcomes import Do
from ombix.core.keys.notation import parse, write
from tests.helpers import layer_of, shipped, space, subject

CATALOGUE, FACTS = shipped.catalogue(), shipped.facts()
RULES = all_rules()
PLANTED_PER_RULE = 56
LETTERS = "abcdefghijklmnopqrstuvwxyz"

# Actions over text with no risk and no place that they lead to; those with an opposite come with it.
_PLAIN = [
    action.name
    for action in CATALOGUE.actions.values()
    if action.needs == "pane is text" and action.risk == "none" and not action.enters and not action.leaves
    and not action.arguments
]  # fmt: skip
_RESERVED = ("view", "settings")
"""Kinds of work that defects are planted with, so that their lines stand where they are put: at the end."""
_PAIRED = [
    name
    for name in _PLAIN
    if (CATALOGUE.actions[name].inverse or name) in _PLAIN and CATALOGUE.actions[name].domain not in _RESERVED
]


@dataclass
class Draft:
    """A keymap file in the making: entries by action, and whatever else."""

    chance: random.Random
    entries: dict[str, list[str]] = field(default_factory=dict)
    tail: str = ""
    number: int = 0

    def keys(self) -> str:
        """Keys that nothing else has and that begin nothing."""
        self.number += 1
        first = ["Ctrl+Alt+J", "Ctrl+Alt+K", "Alt+F6", "Ctrl+F9", "Shift+F3"][self.number % 5]
        return f"{first} {LETTERS[self.number // 5 % 26]} {LETTERS[self.number // 130 % 26]}"

    def bind(self, action: str, keys: str, where: str = "") -> None:
        """One more entry."""
        condition = f', where = "{where}"' if where else ""
        self.entries.setdefault(action, []).append(f'{{ press = "{keys}"{condition} }}')

    def text(self) -> str:
        """The file; the entries of each action in their order, the actions in the order of their first entry."""
        domains: dict[str, list[str]] = {}
        for action, values in self.entries.items():
            domain, _, verb = action.partition(".")
            domains.setdefault(domain, []).append(f"{verb} = [{', '.join(values)}]")
        body = "".join(f"\n[bind.{domain}]\n" + "\n".join(lines) + "\n" for domain, lines in domains.items())
        return f'format = 1\nname = "seeded"\n{body}{self.tail}'


def clean(chance: random.Random, bindings: int, without: tuple[str, ...] = ()) -> Draft:
    """A keymap without any defect."""
    draft = Draft(chance)
    pool = [name for name in _PAIRED if name not in without and CATALOGUE.actions[name].inverse not in without]
    chance.shuffle(pool)
    conditions = ["", "", "modified", "selection is one", "language in (python, lua)", "pane is text and not readonly"]
    while sum(map(len, draft.entries.values())) < bindings:
        together = [pool[draft.number % len(pool)]]
        while (inverse := CATALOGUE.actions[together[-1]].inverse) and inverse not in together:
            together.append(inverse)
        for one in together:
            draft.bind(one, draft.keys(), chance.choice(conditions))
    return draft


def found(text: str, policy: Policy | None = None, workspace: str = "") -> list[Finding]:
    return audit(subject(text, policy, workspace), list(RULES.values()))


# Each planter puts one defect into a draft and returns the keys concerned ("" where there are none).

_FRESH = "F7"


def _two(draft: Draft) -> tuple[str, str]:
    one, other = (
        [action.name for action in CATALOGUE.actions.values() if action.toggles and action.domain == domain]
        for domain in _RESERVED
    )
    names = [
        draft.chance.choice([name for name in one if CATALOGUE.actions[name].needs == "pane is text"]),
        draft.chance.choice(other),
    ]
    draft.chance.shuffle(names)
    return names[0], names[1]


_HALVES = [("modified", "selection is one"), ("not readonly", "language is python"), ("recording", "modified")]
_NARROW = ["modified", "pane is text and selection is many", "readonly and language is lua", "program is running"]


def clash(draft: Draft) -> str:
    one, other = _two(draft)
    first, second = draft.chance.choice([*_HALVES, ("", "")])
    draft.bind(one, _FRESH, first)
    draft.bind(other, _FRESH, second)
    return _FRESH


def exception(draft: Draft) -> str:
    one, other = _two(draft)
    draft.bind(one, _FRESH)
    draft.bind(other, _FRESH, draft.chance.choice(_NARROW))
    return _FRESH


def covered(draft: Draft) -> str:
    one, other = _two(draft)
    draft.bind(one, _FRESH, draft.chance.choice(_NARROW))
    if draft.chance.random() < 0.5:
        draft.bind(other, _FRESH)
        return _FRESH
    fact = draft.chance.choice(["readonly", "recording"])
    draft.bind(other, _FRESH, f"pane is text and {fact}")
    draft.bind(other, _FRESH, f"pane is text and not {fact}")
    return _FRESH


def doubled(draft: Draft) -> str:
    one, _ = _two(draft)
    draft.bind(one, _FRESH)
    draft.bind(one, _FRESH, draft.chance.choice(["", *_NARROW]))
    return _FRESH


def impossible(draft: Draft) -> str:
    one, _ = _two(draft)
    where = draft.chance.choice([
        "readonly and not readonly", "pane is text and pane is files", "popup is suggestions and pane is search",
        "selection is one and selection in (none, many)", "recording and pane is help",
    ])  # fmt: skip
    draft.bind(one, _FRESH, where)
    return _FRESH


def unfit(draft: Draft) -> str:
    one, _ = _two(draft)
    draft.bind(one, _FRESH, draft.chance.choice(["pane is files", "pane in (search, replace)", "pane is not text"]))
    return _FRESH


def hidden_sequence(draft: Draft) -> str:
    one, other = _two(draft)
    draft.bind(one, "F7 x")
    draft.bind(other, "F7")
    return "F7 x"


def slow_key(draft: Draft) -> str:
    one, _ = _two(draft)
    if draft.chance.random() < 0.5:
        draft.bind(one, "q x")
        return "q"
    draft.bind("files.save", "F7")
    draft.bind(one, "F7 x")
    return "F7"


def unknown(draft: Draft) -> str:
    one, _ = _two(draft)
    kind = draft.chance.randrange(4)
    if kind == 0:
        draft.bind("line.copy-donw", _FRESH)
    else:
        draft.bind(one, "F7x" if kind == 1 else _FRESH, ["", "", "pain is text", "pane is txet"][kind])
    return ""


def needless_removal(draft: Draft) -> str:
    one, _ = _two(draft)
    domain, _, verb = one.partition(".")
    draft.tail += f"\n[bind.{domain}]\n{verb} = false\n"
    return ""


def no_way_back(draft: Draft) -> str:
    one, _ = _two(draft)
    draft.bind("edit.suggest", _FRESH)
    draft.bind(one, "F8", "popup is suggestions")
    return _FRESH


def slip(draft: Draft) -> str:
    save, revert = draft.chance.choice([
        ("Ctrl+Alt+S", "Ctrl+Alt+D"), ("Ctrl+Alt+S", "Ctrl+Alt+W"), ("Ctrl+Alt+S", "Ctrl+Alt+Shift+S"), ("F2", "Alt+F2"),
        ("F7 s", "F7 s s"), ("Alt+A", "Alt+Q"),
    ])  # fmt: skip
    draft.bind("files.save", save)
    draft.bind(draft.chance.choice(["files.revert", "files.delete", "app.quit-discarding"]), revert)
    return revert


def half_pair(draft: Draft) -> str:
    draft.bind(draft.chance.choice(["line.move-up", "bookmark.next", "tabs.previous"]), _FRESH)
    return _FRESH


def no_keys(draft: Draft) -> str:
    draft.entries = {name: values for name, values in draft.entries.items() if not name.startswith("history.")}
    draft.tail += "\n[bind.history]\nundo = false\nredo = false\n"
    return ""


def habit(draft: Draft) -> str:
    one, _ = _two(draft)
    keys = draft.chance.choice(["Mod+C", "Mod+X", "Mod+V", "Ctrl+Z", "Mod+S", "Ctrl+F"])
    draft.bind(one, keys)
    return keys.replace("Mod", "Ctrl")


def stale_acceptance(draft: Draft) -> str:
    draft.tail += (
        f'\n[[accept]]\nrule = "{draft.chance.choice(["clash", "habit"])}"\npress = "F7"\nwhy = "it was once so"\n'
    )
    return _FRESH


def conflict(draft: Draft) -> str:
    at = draft.chance.choice(["bind.line.sort", "where.editing", 'unbind."Ctrl+K"', "macro.tide"])
    draft.tail += f"\n[[conflict]]\nat = '{at}'\nwhy = \"both changed it\"\nours = '\"F7\"'\n"
    return ""


def no_press(draft: Draft) -> str:
    one, _ = _two(draft)
    keys = draft.chance.choice(["Ctrl+ß", "Alt+ö", "Ctrl+Alt+€", "Ctrl+ñ", "F13", "Alt+F17"])
    draft.bind(one, keys)
    return write(parse(keys))


def hard_press(draft: Draft) -> str:
    one, _ = _two(draft)
    keys = draft.chance.choice(["Ctrl+]", "Alt+{", "Alt+@", "Ctrl+´", "Alt+\\\\"])
    draft.bind(one, keys)
    return keys.replace("\\\\", "\\")


def system_key(draft: Draft) -> str:
    one, _ = _two(draft)
    keys = draft.chance.choice(["Meta+L", "Ctrl+Alt+Delete", "Alt+Tab", "Meta+D", "Ctrl+Shift+Escape", "Alt+Escape"])
    draft.bind(one, keys)
    return keys


def desktop_key(draft: Draft) -> str:
    one, _ = _two(draft)
    keys = draft.chance.choice(["Alt+F8", "Alt+F10", "Meta+H", "Ctrl+Alt+ArrowUp", "Alt+Space", "Ctrl+Alt+P"])
    draft.bind(one, keys)
    return keys


def not_sent(draft: Draft) -> str:
    one, _ = _two(draft)
    keys = draft.chance.choice(["Ctrl+;", "Meta+K", "Ctrl+1", "Shift Shift", "Ctrl+Click", "F7 Ctrl+.", "Ctrl+[KeyK]"])
    draft.bind(one, keys)
    return keys


def sent_alike(draft: Draft) -> str:
    one, other = _two(draft)
    pair = [*draft.chance.choice([
        ("Ctrl+I", "Tab"), ("Ctrl+M", "Enter"), ("Ctrl+K", "Ctrl+Shift+K"), ("Alt+U", "Escape u"), ("Ctrl+H", "Ctrl+Backspace"),
        ("Ctrl+_", "Ctrl+/"), ("F13", "Shift+F1"),
    ])]  # fmt: skip
    draft.chance.shuffle(pair)
    draft.bind(one, pair[0])
    draft.bind(other, pair[1])
    return ""


def swallowed_text(draft: Draft) -> str:
    one, _ = _two(draft)
    keys = draft.chance.choice(["Ctrl+Alt+Q", "Ctrl+Alt+E", "Ctrl+Alt+7", "Ctrl+Alt+M"])
    draft.bind(one, keys, draft.chance.choice(["", "modified"]))
    return keys


def one_platform(draft: Draft) -> str:
    one, _ = _two(draft)
    name = draft.chance.choice(["linux", "mac", "windows"])
    draft.entries.setdefault(one, []).append(f'{{ {name} = "{_FRESH}" }}')
    return _FRESH


def crossed_exceptions(draft: Draft) -> str:
    one, other = _two(draft)
    first, second = draft.chance.sample(["linux", "mac", "windows"], 2)
    draft.entries.setdefault(one, []).append(f'{{ press = "F8", {first} = "{_FRESH}" }}')
    draft.entries.setdefault(other, []).append(f'{{ press = "F9", {second} = "{_FRESH}" }}')
    return _FRESH


def argument(draft: Draft) -> str:
    kind = draft.chance.randrange(3)
    if kind == 0:
        draft.bind(draft.chance.choice(["bookmark.set", "bookmark.jump", "tabs.show"]), _FRESH)
    else:
        told = ['number = "0"', 'number = "third"'][kind - 1]
        draft.entries.setdefault("tabs.show", []).append(f'{{ press = "{_FRESH}", with = {{ {told} }} }}')
    return _FRESH


def other_press(draft: Draft) -> str:
    one, _ = _two(draft)
    keys = draft.chance.choice(["Ctrl+/", "Alt+;", "Ctrl+Alt+=", "Alt+Shift+/", "Alt+?"])
    draft.bind(one, keys)
    return keys.replace("Alt+Shift+/", "Alt+?")


def circle(draft: Draft) -> str:
    """Macros of which each plays the next, and the last one the first; or one that presses its own keys."""
    size = draft.chance.randrange(4)
    if not size:
        draft.tail += f'[macro.m0]\npress = "{_FRESH}"\nsteps = [{{ type = "x" }}, {{ press = "{_FRESH}" }}]\n'
    for number in range(size):
        play = f'{{ play = "m{(number + 1) % size}" }}'
        inner = draft.chance.choice(
            [play, f"{{ repeat = 2, steps = [{play}] }}", f'{{ until = "fails", steps = [{play}] }}']
        )
        draft.tail += f'[macro.m{number}]\nsteps = [{{ do = "cursor.up" }}, {inner}]\n'
    return ""


def pressed_keys(draft: Draft) -> str:
    """A macro that presses keys for an action that they do not run, or to which nothing is bound."""
    one, other = _two(draft)
    draft.bind(one, "Alt+F8")
    means = draft.chance.choice([f', means = "{other}"', f', means = "{other}"', ""])
    keys = "Alt+F8" if means and draft.chance.random() < 0.5 else "Alt+F7"
    draft.tail += f'[macro.m0]\nsteps = [{{ type = "x" }}, {{ press = "{keys}"{means} }}]\n'
    return keys


_ANYWHERE = (
    "cursor.left", "cursor.right", "cursor.up", "cursor.down", "cursor.line-start", "cursor.line-end", "cursor.document-start",
    "cursor.document-end", "cursor.word-left", "cursor.word-right", "cursor.next-word", "cursor.previous-word",
)  # fmt: skip


def longer_way(draft: Draft) -> str:
    """Ways that end where one action leads by itself: at the start or the end of the text, wherever the others went before; at
    the end of the line, from its start; and a line that is opened below."""
    draw = draft.chance
    before = [f'{{ do = "{draw.choice(_ANYWHERE)}" }}' for _ in range(draw.randint(1, 4))]
    steps = draw.choice([
        [*before, f'{{ do = "cursor.document-{draw.choice(["start", "end"])}" }}'],
        ['{ do = "cursor.line-start" }', '{ do = "cursor.line-end" }'], ['{ repeat = 3, steps = [{ do = "cursor.line-end" }] }'],
        ['{ do = "cursor.line-end" }', '{ do = "edit.newline" }'],
    ])  # fmt: skip
    draft.tail += f'[macro.m0]\npress = "{_FRESH}"\nwhere = "pane is text"\nsteps = [{", ".join(steps)}]\n'
    return _FRESH


PLANTERS: dict[str, Callable[[Draft], str]] = {
    "clash": clash, "exception": exception, "covered": covered, "doubled": doubled, "impossible": impossible,
    "unfit": unfit, "hidden-sequence": hidden_sequence, "slow-key": slow_key, "unknown": unknown,
    "needless-removal": needless_removal, "no-way-back": no_way_back, "slip": slip, "half-pair": half_pair,
    "no-keys": no_keys, "habit": habit, "stale-acceptance": stale_acceptance, "conflict": conflict, "no-press": no_press,
    "hard-press": hard_press, "system-key": system_key, "desktop-key": desktop_key, "not-sent": not_sent,
    "sent-alike": sent_alike, "swallowed-text": swallowed_text, "one-platform": one_platform,
    "crossed-exceptions": crossed_exceptions, "other-press": other_press,
    "argument": argument, "circle": circle, "pressed-keys": pressed_keys, "longer-way": longer_way,
}  # fmt: skip

# What one defect may bring along: a removal without a lower layer, and a key that waits where another editor fires.
COMPANIONS = {"no-keys": {"needless-removal", "half-pair"}, "needless-removal": {"half-pair", "no-keys"},
              "no-way-back": {"half-pair"}, "slip": {"slow-key"}, "hidden-sequence": {"slow-key"},
              "covered": {"exception", "clash"}, "other-press": {"habit"}}  # fmt: skip

_PIER = '[editor.pier]\ndialect = "nano"\nterminal = "xterm"'
WORKSPACES = {
    "no-press": 'layout = "us"', "hard-press": 'layout = "de"', "system-key": 'platform = "windows"',
    "desktop-key": 'desktop = "gnome"\n[reserved]\n"Ctrl+Alt+P" = "start the radio of the pier"', "not-sent": _PIER,
    "sent-alike": _PIER, "swallowed-text": 'platform = "windows"\nlayout = "de"', "other-press": 'layout = ["us", "de"]',
}  # fmt: skip


SLOW = ("longer-way",)
"""Rules whose planted defects are slow to find."""


@pytest.mark.parametrize("rule", [pytest.param(one, marks=[pytest.mark.long] * (one in SLOW)) for one in PLANTERS])
def test_every_planted_defect_is_found_and_nothing_else(rule: str) -> None:
    for seed in range(PLANTED_PER_RULE):
        chance = random.Random(f"{rule}{seed}")
        without = ("line.move-up", "line.move-down", "bookmark.next", "bookmark.previous", "tabs.next", "tabs.previous")
        draft = clean(chance, 24, without)
        keys = PLANTERS[rule](draft)
        findings = found(draft.text(), RULES[rule].policy, WORKSPACES.get(rule, ""))
        mine = [finding for finding in findings if finding.rule == rule]
        assert mine, (seed, draft.text())
        if keys:
            assert keys in [write(keys) for finding in mine for keys in finding.keys], (seed, draft.text())
        others = {finding.rule for finding in findings} - {rule} - COMPANIONS.get(rule, set())
        assert not others, (seed, others, draft.text())


def _view(name: str, *rows: tuple[str, str]) -> EditorView:
    here = space()
    bindings = [
        Binding(parse(keys), Do(action), Place(name), LayerName(name, name, "defaults"), "pane is text")
        for keys, action in rows
    ]
    return EditorView(name, decide_all(bindings, here, CATALOGUE, Policy()), here.states("pane is text"))


@pytest.mark.parametrize("rule", ["other-meaning", "other-keys"])
def test_every_difference_planted_between_two_editors_is_found(rule: str) -> None:
    frequent = [action.name for action in CATALOGUE.actions.values() if action.frequent]
    for seed in range(PLANTED_PER_RULE):
        chance = random.Random(f"{rule}{seed}")
        common = [(f"F{number}", action) for number, action in enumerate(chance.sample(frequent, 12), 1)]
        number = chance.randrange(12)
        keys, action = common[number]
        changed = list(common)
        seldom = chance.choice(["view.center", "macro.play", "app.suspend"])
        changed[number] = (keys, seldom) if rule == "other-meaning" else ("F20", action)
        keymap = Keymap([layer_of('format = 1\nname = "k"\n')])

        def views(
            other: list[tuple[str, str]], one: list[tuple[str, str]] = common, keymap: Keymap = keymap
        ) -> AuditSubject:
            seen = [_view("desk", *one), _view("pier", *other)]
            return AuditSubject(
                keymap, shipped.platform("linux"), keymap.space(FACTS), CATALOGUE, Policy(), lambda: seen
            )

        both = [RULES["other-meaning"], RULES["other-keys"]]
        assert audit(views(common), both) == []
        findings = audit(views(changed), both)
        assert [(finding.rule, [write(one) for one in finding.keys]) for finding in findings] == [(rule, [keys])]


def test_a_thousand_defects_are_planted() -> None:
    assert set(PLANTERS) | {"other-meaning", "other-keys", "not-in-editor"} == set(RULES)
    assert len(RULES) * PLANTED_PER_RULE >= 1000


@pytest.mark.parametrize("wins", ["last", "first", "innermost", "specific"])
def test_a_clean_keymap_of_five_hundred_bindings_gives_no_finding(wins: str) -> None:
    draft = clean(random.Random(wins), 500)
    assert sum(map(len, draft.entries.values())) >= 500
    assert found(draft.text(), Policy(wins)) == []  # type: ignore[arg-type]
    assert found(draft.text(), Policy(wins), f'layout = ["us", "de"]\n{_PIER}') == []  # type: ignore[arg-type]
