"""The page in a real browser: it decides as the one deciding function does, finds what `how` finds, and gives nothing away."""

import json
import random
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from axe_core_python.selenium import Axe
from selenium import webdriver
from selenium.webdriver.chrome.service import Service
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from ombix.core.keymap.deciding import decision
from ombix.core.keymap.outcomes import Nothing
from ombix.core.keys.notation import Trigger, types_text
from ombix.report.terminal_text import Display
from ombix.work.draw import draw_questions
from ombix.work.draw.page import keys_id
from ombix.work.draw.page_layout import page
from ombix.work.look import look_questions
from ombix.workspace.open_workspace import OpenWorkspace
from tests.helpers import ombix, shipped


@pytest.fixture(scope="module")
def browser() -> Iterator[webdriver.Chrome]:
    options = webdriver.ChromeOptions()
    options.binary_location = "/usr/bin/chromium"
    for argument in ("--headless=new", "--no-sandbox", "--disable-dev-shm-usage", "--window-size=1280,800"):
        options.add_argument(argument)
    options.set_capability("goog:loggingPrefs", {"browser": "ALL"})
    found = webdriver.Chrome(options=options, service=Service("/usr/bin/chromedriver"))
    yield found
    found.quit()


def opened(browser: webdriver.Chrome, session: OpenWorkspace, folder: Path, **options: Any) -> None:
    """The page of a session, in the browser."""
    file = folder / "page.html"
    file.write_text(page(draw_questions.page(session, **options), Display()), "utf-8")
    browser.get(file.as_uri())


def script(browser: webdriver.Chrome, text: str, *given: Any) -> Any:
    return browser.execute_script(text, *given)


@pytest.mark.parametrize("where", [("", ""), ("", "nano"), ("", "ex"), ("loom/ombix.toml", "")])
def test_it_decides_as_the_deciding_function(
    browser: webdriver.Chrome, ferry: Path, tmp_path: Path, where: tuple[str, str]
) -> None:
    """500 random pairs of a state and keys, half of these bound, half made of keys that are."""
    workspace, editor = where
    session = OpenWorkspace(str(ferry / workspace) if workspace else None, folder=str(ferry))
    opened(browser, session, tmp_path, editor=editor)
    here = session.keymap(editor)
    draw, space = random.Random(7), here.space
    facts = script(browser, "return JSON.parse(document.getElementById('data').textContent).decisions.facts")
    triggers = list(here.tables)
    chords = sorted({chord for trigger in triggers for chord in trigger})
    asked: list[tuple[Trigger, dict[str, str]]] = []
    states: list[dict[str, int]] = []
    while len(asked) < 500:
        trigger = draw.choice(triggers) if draw.random() < 0.5 else tuple(draw.choices(chords, k=draw.randint(1, 2)))
        values = {fact["name"]: draw.choice([one for one in fact["values"] if one[0] >= 0]) for fact in facts}
        asked.append((trigger, {name: value for name, (_number, value) in values.items()}))
        states.append({str(fact["number"]): values[fact["name"]][0] for fact in facts})
    found = script(
        browser,
        """return arguments[0].map(([keys, values]) => {
            const state = ombix.state();
            for (const [fact, value] of Object.entries(values)) state[fact] = value;
            const one = ombix.decide(keys, state);
            return [one.kind, one.row ? one.row.does : ""];
        })""",
        [[keys_id(trigger), values] for (trigger, _state), values in zip(asked, states, strict=True)],
    )
    full = {fact.name: fact.values[0] for fact in space.facts.facts}
    kinds = set()
    for (trigger, chosen), (kind, does) in zip(asked, found, strict=True):
        state = {name: chosen.get(name, value) for name, value in full.items()}
        wanted = decision(trigger, state, here.tables, space, here.catalogue, here.policy)
        outcome = wanted.binding.outcome if wanted.binding is not None else None
        assert does == ("" if outcome is None else str(outcome)), (trigger, chosen, wanted)
        is_nothing = isinstance(outcome, Nothing)
        said = "nothing" if wanted.kind == "runs" and is_nothing else wanted.kind
        if said in ("runs", "waits") or is_nothing:
            assert kind in (said, "nothing" if is_nothing else said), (trigger, chosen, wanted)
        elif len(trigger) == 1:
            is_typed = here.policy.unmatched == "types" and types_text(trigger[0]) and space.holds(space.typing, state)
            assert kind == ("types" if is_typed else "free"), (trigger, chosen, wanted)
        kinds.add(kind)
    assert {"runs", "free"} <= kinds or editor == "ex"


def test_it_finds_what_how_finds(browser: webdriver.Chrome, ferry: Path, tmp_path: Path) -> None:
    """200 questions: everyday words, several together, misspelt, unknown, and none."""
    session = OpenWorkspace(folder=str(ferry))
    opened(browser, session, tmp_path)
    draw = random.Random(3)
    words = sorted({word for one in shipped.catalogue().actions.values() for word in one.words})
    questions = [
        "",
        "the of",
        "gtd",
        "xyzzy",
        "duplicate line",
        "how do i close the window",
        "colour",
        "SORT lines",
        "é ß İ",
        "toString",
    ]
    while len(questions) < 200:
        text = " ".join(draw.sample(words, draw.choice((1, 1, 2))))
        if draw.random() < 0.4:
            at = draw.randrange(len(text))
            text = text[:at] + draw.choice(("", "x", text[at] * 2)) + text[at + 1 :]
        questions.append(text)
    found = script(browser, "return arguments[0].map((one) => ombix.find(one))", questions)
    for question, names in zip(questions, found, strict=True):
        assert names == [one.action for one in look_questions.how(session, question).actions], question
    assert sum(bool(names) for names in found) > 150


def test_everything_is_done_by_keyboard(browser: webdriver.Chrome, ferry: Path, tmp_path: Path) -> None:
    session = OpenWorkspace(folder=str(ferry))
    opened(browser, session, tmp_path, to=["pier"])
    reached = []
    for _ in range(40):
        browser.switch_to.active_element.send_keys(Keys.TAB)
        one = browser.switch_to.active_element
        reached.append(one.get_attribute("id") or one.get_attribute("name") or one.text or one.tag_name)
    for name in ("To the keys", "Press keys", "Practice", "pad", "picked", "pane", "program", "words"):
        assert name in reached, (name, reached)
    assert reached.index("pad") < reached.index("program") < reached.index("words")
    pad = browser.find_element(By.ID, "pad")
    answer = browser.find_element(By.ID, "answer")
    pad.send_keys(Keys.F8)
    assert "Start the program" in answer.text
    browser.find_element(By.NAME, "program").send_keys("running")
    assert "Stop the program" in answer.text  # the keys change with the state
    assert "In other states:" in answer.text
    pad.send_keys(Keys.CONTROL, "d")
    assert answer.text.startswith("Ctrl+D\nCopy the line down")
    pad.send_keys("q")
    assert "not bound: it is typed" in answer.text
    browser.get(f"{browser.current_url}#F1")
    assert "Show the help" in answer.text
    browser.get(f"{browser.current_url.partition('#')[0]}#%E0%A4%A")  # no text at all
    assert "Show the help" in answer.text
    picked = browser.find_element(By.ID, "picked")
    picked.send_keys("Ctrl+Q")
    assert "Close or quit" in answer.text
    browser.find_element(By.ID, "words").send_keys("duplicate line")
    assert "Ctrl+D" in browser.find_element(By.ID, "found").text
    button = browser.find_element(By.CSS_SELECTOR, "#sheet button")
    button.send_keys(Keys.ENTER)
    assert button.text in answer.text
    begin = browser.find_element(By.ID, "begin")
    begin.send_keys(Keys.ENTER)
    assert browser.switch_to.active_element.get_attribute("id") == "practice-pad"
    asked = browser.find_element(By.CSS_SELECTOR, "#question .big").text
    browser.find_element(By.ID, "reveal").send_keys(Keys.ENTER)
    assert "It is " in browser.find_element(By.ID, "judged").text
    listed = {row.title: row for row in look_questions.show(session).bindings}
    assert asked in listed


def test_practice_judges_by_the_decisions(browser: webdriver.Chrome, ferry: Path, tmp_path: Path) -> None:
    (ferry / "one.keys.toml").write_text('format = 1\nname = "one"\n[bind.line]\ncopy-down = ["Alt+D", "F5"]\n')
    opened(browser, OpenWorkspace(str(ferry / "one.keys.toml"), kind="file", folder=str(ferry)), tmp_path)
    browser.find_element(By.ID, "begin").click()
    pad, judged = browser.find_element(By.ID, "practice-pad"), browser.find_element(By.ID, "judged")
    pad.send_keys(Keys.F6)
    assert "F6 is not it: it is not bound. Once more." in judged.text
    for key in (Keys.F5, Keys.ALT + "d"):
        pad.send_keys(key)
        assert judged.text.startswith("Right: ")
    assert browser.find_element(By.ID, "tally").text == "2 right, 1 not"


_TOO_WIDE = """return [...document.querySelectorAll('main *, header *')].filter((one) =>
  one.getBoundingClientRect().right > arguments[0] && !one.closest('.scroll') && !one.closest('figure') &&
  one.tagName !== 'OPTION').map((one) => `${one.tagName} ${one.id} ${one.textContent.slice(0, 60)}`)"""


def test_axe_finds_nothing_and_nothing_is_loaded(browser: webdriver.Chrome, ferry: Path, tmp_path: Path) -> None:
    session = OpenWorkspace(folder=str(ferry))
    opened(browser, session, tmp_path, to=["pier", "desk"])
    browser.find_element(By.ID, "pad").send_keys(Keys.F8)
    browser.find_element(By.ID, "words").send_keys("sort")
    browser.find_element(By.ID, "begin").click()
    # The colours are all that is otherwise in the dark.
    for scheme, options, least in (("light", {}, 16), ("dark", {"runOnly": ["color-contrast"]}, 1)):
        features = [{"name": "prefers-color-scheme", "value": scheme}]
        browser.execute_cdp_cmd("Emulation.setEmulatedMedia", {"features": features})
        found = Axe().run(browser, options=options)
        assert [(one["id"], one["nodes"][0]["html"]) for one in found["violations"]] == []
        assert len(found["passes"]) >= least
    assert script(browser, "return performance.getEntriesByType('resource').length") == 0
    assert script(browser, "return performance.getEntriesByType('navigation').length") == 1
    for width in (375, 1280):
        browser.execute_cdp_cmd(
            "Emulation.setDeviceMetricsOverride",
            {"width": width, "height": 800, "deviceScaleFactor": 1, "mobile": False},
        )
        assert script(browser, _TOO_WIDE, width) == []
    browser.execute_cdp_cmd("Emulation.clearDeviceMetricsOverride", {})
    assert browser.get_log("browser") == []


LONG = ["a" * 10_000, "<" * 2000, "&" * 2000, '"' * 500, "'" * 500, "\\" * 500]
ATTACKS = [*json.loads((Path(__file__).parent / "attacks.json").read_text("utf-8")), *LONG]


def test_no_text_has_an_effect(browser: webdriver.Chrome, tmp_path: Path) -> None:
    """Each as the title of a macro, as words of a reason, as a value of a fact, and as a text that is inserted."""
    assert len(ATTACKS) >= 60
    rows = ["format = 1", f"name = {json.dumps(ATTACKS[1])}", ""]
    for number, text in enumerate(ATTACKS):
        safe = "".join(char for char in text if char == "\n" or char.isprintable())
        title, keys = json.dumps(safe or "none"), f"Ctrl+Alt+F{number + 1}"
        rows += [f"[macro.m{number}]", f"title = {title}", f'press = "{keys}"', f"steps = [{{ type = {title} }}]"]
        rows += [f"[snippet.s{number}]", f"title = {title}", f"body = {json.dumps(safe.replace('$', '') or 'x')}"]
    (tmp_path / "k.keys.toml").write_text("\n".join(rows), "utf-8")
    (tmp_path / "ombix.toml").write_text('format = 1\nkeymap = "k.keys.toml"\nplatform = "linux"\n')
    session = OpenWorkspace(folder=str(tmp_path))
    opened(browser, session, tmp_path)
    assert script(browser, "return [window.hit, document.scripts.length, document.title]")[:2] == [None, 2]
    for selector in (
        "iframe",
        "img",
        "form",
        "object",
        "embed",
        "base",
        "video",
        "template",
        "textarea",
        "math",
        "link",
        "#sheet script",
    ):
        assert browser.find_elements(By.CSS_SELECTOR, selector) == [], selector
    pad = browser.find_element(By.ID, "pad")
    for number in range(1, 13):
        pad.send_keys(Keys.CONTROL, Keys.ALT, getattr(Keys, f"F{number}"))
        assert browser.find_element(By.CSS_SELECTOR, "#answer .big").text == f"Ctrl+Alt+F{number}"
    browser.find_element(By.ID, "words").send_keys("<img src=x onerror=window.hit=1>")
    browser.find_element(By.ID, "begin").click()
    for _ in range(10):
        browser.find_element(By.ID, "reveal").click()
        browser.find_element(By.ID, "begin").click()
    assert script(browser, "return window.hit") is None
    assert script(browser, "return document.querySelectorAll('#answer *, #question *, #found *').length") < 100
    assert browser.get_log("browser") == []
    text = (tmp_path / "page.html").read_text("utf-8")
    assert text.count("<script") == 2
    assert text.count("</script") == 2


def test_an_empty_keymap_has_a_page(browser: webdriver.Chrome, tmp_path: Path) -> None:
    (tmp_path / "ombix.toml").write_text('format = 1\nkeymap = "k.keys.toml"\nplatform = "linux"\n')
    (tmp_path / "k.keys.toml").write_text('format = 1\nname = "k"\n')
    opened(browser, OpenWorkspace(folder=str(tmp_path)), tmp_path)
    browser.find_element(By.ID, "pad").send_keys(Keys.F5)
    assert "not bound" in browser.find_element(By.ID, "answer").text
    browser.find_element(By.ID, "begin").click()
    assert browser.get_log("browser") == []


def test_it_is_written_as_one_file(ferry: Path) -> None:
    ran = ombix(ferry, "page", "--to", "pier", "--output", "out.html")
    assert (ran.status, ran.out, ran.err) == (0, "", "wrote out.html\n")
    text = (ferry / "out.html").read_text()
    assert "default-src 'none'" in text.replace("&#x27;", "'")
    assert len(text) < 1_500_000
    assert ombix(ferry, "page", "--serve", "--output", "x.html").status == 2
    assert ombix(ferry, "page", "--to", "nnao").status == 2
