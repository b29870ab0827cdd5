"""The page's data: the decisions of the one deciding function, laid out so that a script only has to look them up."""

from collections.abc import Callable, Mapping
from typing import NamedTuple

from ombix.core.keys.notation import MODIFIERS, Trigger, parse
from ombix.text.stage.machine import start_state
from ombix.work.carry.port_answer import PortReport
from ombix.work.draw.page_answer import PageData, PageDecisions, PageFact, PageQuestion, PageRow, PageSearch
from ombix.work.draw.picture_answer import KeyboardPicture
from ombix.work.learn.practice import Practice
from ombix.work.learn.sheet_answer import Sheet
from ombix.workspace.build_decision_index import action_index
from ombix.workspace.effective_keymap import EffectiveKeymap, kind_of
from ombix.workspace.findings_answer import FoundFault


class PageBeside(NamedTuple):
    """What is on the page beside decisions and practice."""

    sheet: Sheet
    picture: KeyboardPicture
    findings: tuple[FoundFault, ...]
    ports: tuple[PortReport, ...]


def decisions(here: EffectiveKeymap) -> tuple[PageDecisions, Callable[[Mapping[str, str]], tuple[int, ...]]]:
    """All decisions, and what gives a state by the numbers of its values."""
    space = here.space
    rows = {trigger: table.rows for trigger, table in here.pressed_tables.items() if table.rows}
    wanted = [row.states for some in rows.values() for row in some]
    exported = space.exported([*wanted, space.typing, space.text])
    numbers = exported.numbers
    mentioned = frozenset[str]().union(*(space.mentioned(states) for states in {*wanted, space.typing}))
    dialect = here.context.dialect
    without = [f"{fact.name} is not {fact.without}" for fact in space.facts.facts if fact.without]
    never = dialect.description.never if dialect is not None else without
    first = start_state(space, "always", never)

    def value(name: str, state: Mapping[str, str]) -> int:
        level = exported.names.index(name)
        known = exported.values[level]
        return known.index(state[name]) if state.get(name) in known else exported.last[level]

    titles = {fact.name: fact.title or fact.name for fact in space.facts.facts}
    facts = tuple(
        PageFact(
            level, name, titles[name],
            (*enumerate(exported.values[level]), *([(-1, "another")] if exported.last[level] == -1 else [])),
            value(name, first),
        )
        for level, name in enumerate(exported.names)
        if name in mentioned
    )  # fmt: skip
    folder = str(here.context.folder).rstrip("/") + "/"
    triggers = {
        keys_id(trigger): tuple(
            PageRow(
                numbers[row.states], here.when(row), str(row.binding.outcome), here.title(row.binding.outcome),
                kind_of(row.binding.outcome), row.binding.layer.name, str(row.binding.place).removeprefix(folder), row.binding.why,
            )
            for row in some
        )
        for trigger, some in rows.items()
    }  # fmt: skip
    pressed = {}
    for trigger in rows:
        presses = here.presses(trigger)
        if presses and not presses[0].plain:
            pressed[keys_id(trigger)] = presses[0].press or f"not possible: {presses[0].why_not}"
    made = PageDecisions(
        here.policy.prefix, here.policy.wait_ms, here.policy.unmatched == "types", numbers[space.typing], numbers[space.text],
        {name: bit for name, bit in MODIFIERS.items() if name != "Mod"}, exported.last, exported.rows, facts,
        tuple(value(name, first) for name in exported.names), triggers,
        {keys_id(trigger): here.context.platform.show(trigger) for trigger in rows}, pressed,
    )  # fmt: skip
    return made, lambda state: tuple(value(name, state) for name in exported.names)


def keys_id(trigger: Trigger) -> str:
    """Keys in the page's form."""
    return " ".join(f"{modifiers}:{key}" for modifiers, key in trigger)


def searching(here: EffectiveKeymap) -> PageSearch:
    """What actions are found by."""
    index = action_index(here)
    rows, postings, alike = index.searched
    actions = {
        name: (title, does, tuple(dict.fromkeys(key.shown for key in keys)))
        for name, (title, does, keys, _lacking) in index.actions.items()
    }
    return PageSearch(
        tuple((row[0], row[1], row[2], row[3], row[4], row[5]) for row in rows),
        {stem: tuple(some) for stem, some in postings.items()}, {stem: tuple(some) for stem, some in alike.items()}, actions,
        tuple(
            name for name, (_title, _does, _keys, lacking) in index.actions.items()
            if lacking and len(lacking) == len(index.editors)
        ),
    )  # fmt: skip


def page_data(here: EffectiveKeymap, practice: Practice, beside: PageBeside) -> PageData:
    """All that the page has."""
    found, numbered = decisions(here)
    states: dict[tuple[int, ...], int] = {}
    listed, questions = practice.listed(), []
    for one in (*listed.due, *listed.later, *listed.new):
        own = tuple(keys_id(parse(keys)) for keys in one.name.rpartition(" · ")[2].split(", "))
        state = states.setdefault(numbered(practice.state_of(one)), len(states))
        questions.append(
            PageQuestion(one.title, one.about, one.when, one.before, one.after, one.does, own, one.keys, state)
        )
    return PageData(
        beside.sheet.title, beside.picture.about, here.context.platform.name, found, searching(here), beside.sheet,
        beside.picture, beside.findings, beside.ports, tuple(questions), tuple(states),
    )  # fmt: skip
