"""Builds the page: sheet, keyboard, findings and ports as they are, and the decisions as data for its script."""

import base64
import hashlib
import json
from collections.abc import Iterator, Sequence
from html import escape, unescape
from pathlib import Path
from typing import Any, NamedTuple

from ombix.core.catalogue.searching import BESIDES, FILLERS
from ombix.core.porting.everyday import ANSWERS
from ombix.report.drawing import svg
from ombix.report.drawing.typefaces import Typefaces
from ombix.report.json import document
from ombix.report.terminal_text import Display, visible
from ombix.work.audit.audit_layout import said
from ombix.work.carry.answer_words import by_weight, in_a_hundred, in_short, instead
from ombix.work.carry.port_answer import PortReport
from ombix.work.draw.page_answer import PageData, PageQuestion, PageRow
from ombix.work.draw.picture_layout import panel_pages
from ombix.work.learn.sheet_answer import Sheet, SheetKeys
from ombix.workspace.condition_words import in_words
from ombix.workspace.findings_answer import FoundFault

_KEPT = "Ctrl+W, Ctrl+T, Ctrl+N and, in a window of its own, Ctrl+Tab; on a Mac the same with ⌘, and ⌘Q"
"""Keys that browsers do not give to a page; as several do."""
_PARTS = (
    ("press", "Press keys"), ("find", "Find an action"), ("keyboard", "The keyboard"), ("sheet", "All keys"),
    ("findings", "What is wrong"), ("ports", "In other editors"), ("practice", "Practice"),
)  # fmt: skip
_MOST_FOLDED = 12
"""Bindings of a port that are shown at once."""


def page(data: PageData, display: Display, version: str = "") -> str:
    """The page's text. With a `version` it asks where it came from whether there is another, and then loads that."""
    style, script = (_own_file(name) for name in ("page.css", "page.js"))
    allowed = (
        "default-src 'none'", f"script-src '{_digest(script)}'", f"style-src '{_digest(style)}'", "base-uri 'none'",
        "form-action 'none'", *(["connect-src 'self'"] if version else []),
    )  # fmt: skip
    policy = escape("; ".join(allowed))
    parts = [part for part in _PARTS if part[0] != "ports" or data.ports]
    body = [line for name, title in parts for line in _section(name, title, data, display)]
    links = "".join(f'<li><a href="#{name}">{title}</a></li>' for name, title in parts)
    name = _text(data.title)
    return "\n".join([
        '<!doctype html>', '<html lang="en">', "<head>", '<meta charset="utf-8">',
        f'<meta http-equiv="Content-Security-Policy" content="{policy}">',
        '<meta name="viewport" content="width=device-width, initial-scale=1">', f"<title>{name}</title>",
        f"<style>{style}</style>", "</head>", "<body>", '<a class="skip" href="#press">To the keys</a>', "<header>",
        f"<h1>{name}</h1>", f'<p class="quiet">{_text(data.about)}</p>',
        f'<nav aria-label="Parts of the page"><ul>{links}</ul></nav>', "</header>", "<main>", *body, "</main>",
        f'<script type="application/json" id="data">{_data(data, display, version)}</script>',
        f"<script>{script}</script>", "</body>", "</html>", "",
    ])  # fmt: skip


def policy_of(text: str) -> str:
    """The policy of a page, as a server tells it, too."""
    policy = text.partition('Content-Security-Policy" content="')[2].partition('"')[0]
    return f"{unescape(policy)}; frame-ancestors 'none'"


def _own_file(name: str) -> str:
    return (Path(__file__).parent / "page_files" / name).read_text("utf-8")


def _digest(text: str) -> str:
    return "sha256-" + base64.b64encode(hashlib.sha256(text.encode()).digest()).decode()


def _data(data: PageData, display: Display, version: str) -> str:
    """The data of the script, in which nothing can end the element that it stands in."""
    decisions = document(data.decisions._replace(triggers={}), display)
    decisions["triggers"] = {keys: _rows(rows) for keys, rows in data.decisions.triggers.items()}
    whole: dict[str, Any] = {
        "platform": data.platform, "decisions": decisions, "search": document(data.search, display),
        "questions": _rows(data.questions), "states": data.states, "fields": [PageRow._fields, PageQuestion._fields],
        "words": {"fillers": sorted(FILLERS), "besides": list(BESIDES)},
        "version": version,
    }  # fmt: skip
    text = json.dumps(whole, ensure_ascii=True, separators=(",", ":"))
    return text.replace("<", "\\u003c").replace(">", "\\u003e").replace("&", "\\u0026")


def _rows(rows: Sequence[NamedTuple]) -> list[list[Any]]:
    """Rows without the names of their members, which the script knows."""
    return [list(row) for row in rows]


def _text(text: str) -> str:
    return escape("\n".join(map(visible, text.split("\n"))))


def _section(name: str, title: str, data: PageData, display: Display) -> Iterator[str]:
    yield f'<section id="{name}" aria-labelledby="{name}-title"><h2 id="{name}-title">{title}</h2>'
    match name:
        case "press":
            yield from _press()
        case "find":
            yield '<p><label>In your own words <input id="words" type="search" size="40" autocomplete="off"></label></p>'
            yield '<p id="found-count" role="status" class="quiet"></p>'
            yield '<div class="scroll"><table><thead><tr><th>keys</th><th>what it does</th><th>more</th></tr></thead>'
            yield '<tbody id="found"></tbody></table></div>'
        case "keyboard":
            yield from _keyboard(data)
        case "sheet":
            yield from _sheet(data.sheet, frozenset(data.decisions.shown.values()))
        case "findings":
            yield from _findings(data.findings, display)
        case "ports":
            for port in data.ports:
                yield from _port(port)
        case _:
            yield from _practice()
    yield "</section>"


def _press() -> Iterator[str]:
    yield f"<p>Go to the field and press keys. Tab leaves it. Some keys the browser keeps for itself: {_text(_KEPT)}; for those,"
    yield " choose the keys by name, or from the list of all keys.</p>"
    yield '<div class="pressing"><div><label class="quiet" for="pad">Press keys here</label>'
    yield '<input class="pad" id="pad" readonly value="" placeholder="press keys" autocomplete="off">'
    yield '<p><label>or choose them <input id="picked" list="all-keys" autocomplete="off"></label></p>'
    yield '<datalist id="all-keys"></datalist>'
    yield '<div class="answer" id="answer" role="status"><p class="quiet">Nothing was pressed yet.</p></div></div>'
    yield '<fieldset class="state" id="facts"><legend>The state of the editor</legend></fieldset></div>'


def _keyboard(data: PageData) -> Iterator[str]:
    legend = ", ".join(f"{family.sign} {family.title.lower()}" for family in data.picture.families)
    yield f"<p>{_text(data.picture.layout)}, {_text(data.picture.keyboard)}. The signs: {_text(legend)}; … begins longer keys,"
    yield " × is kept by the system, – cannot be pressed, + has more in other states, ( ) holds only outside of the text.</p>"
    typefaces = Typefaces()
    for panel, drawn in zip(data.picture.panels, panel_pages(data.picture, typefaces), strict=True):
        taken = sum(key.kind == "taken" for key in panel.keys)
        title = panel.title[:1].upper() + panel.title[1:]
        yield f"<h3>{_text(title)}</h3>"
        yield f'<figure tabindex="0" aria-label="{_text(title)}: {taken} keys are taken">{svg.text(drawn)}</figure>'


def _sheet(found: Sheet, names: frozenset[str]) -> Iterator[str]:
    for group in found.groups:
        yield f'<h3>{_text(group.title)}</h3><div class="scroll"><table><tbody>'
        for row in group.rows:
            keys = " ".join(_key(one, names) for one in row.keys[0])
            when = f' <span class="quiet">{_text(in_words(row.when))}</span>' if row.when else ""
            yield f"<tr><td>{keys}</td><td>{_text(row.title)}{when}</td></tr>"
        yield "</tbody></table></div>"
    if not found.groups:
        yield "<p>Nothing is bound.</p>"


def _key(one: SheetKeys, names: frozenset[str]) -> str:
    said = f' <span class="quiet">({_text(one.press or "no such key")})</span>' if one.press or one.why_not else ""
    shown = _text(one.keys)
    return (f"<button>{shown}</button>" if one.keys in names else f"<b>{shown}</b>") + said


def _findings(findings: Sequence[FoundFault], display: Display) -> Iterator[str]:
    if not findings:
        yield "<p>Nothing was found.</p>"
        return
    styles = {"error": "bad", "warning": "warn", "note": "quiet"}
    yield f"<p>{len(findings)} found.</p><ol>"
    for finding in findings:
        places = ", ".join(display.place(spot.place) for spot in finding.places[:4])
        severity = f'<span class="{styles[finding.severity]}">{finding.severity}, {_text(finding.rule)}</span>'
        yield f"<li>{severity}: {_text(said(finding))}"
        if finding.when:
            yield f' <span class="quiet">{_text(in_words(finding.when))}</span>'
        yield f'<br><span class="quiet">{_text(places)}</span>'
        ways = [change.does for change in finding.changes[:4]] or ([finding.mend] if finding.mend else [])
        if ways:
            yield "<br>Ways out: " + "; ".join(map(_text, ways))
        yield "</li>"
    yield "</ol>"


def _port(found: PortReport) -> Iterator[str]:
    yield f"<h3>{_text(found.source)} to {_text(found.target)}</h3><p>{_text(in_short(found.answers))}.</p>"
    rows = []
    for answer in reversed(ANSWERS):
        for one in by_weight([each for each in found.bindings if each.answer == answer]):
            said = " ".join(instead(one) if answer == "gone" else [*one.says, one.now] if one.now else one.says)
            cells = (one.keys, one.title, answer, in_a_hundred(one), said)
            rows.append(f"<tr>{''.join(f'<td>{_text(cell)}</td>' for cell in cells)}</tr>")
    head = "<thead><tr><th>keys</th><th>what they do</th><th></th><th>in 100 presses</th><th>how otherwise</th></tr></thead>"
    whole = f'<div class="scroll"><table>{head}<tbody>{"".join(rows)}</tbody></table></div>'
    yield (
        whole if len(rows) <= _MOST_FOLDED else f"<details><summary>All {len(rows)} bindings</summary>{whole}</details>"
    )


def _practice() -> Iterator[str]:
    yield '<p><button type="button" id="begin">Ask me</button> <button type="button" id="reveal">Show the keys</button></p>'
    yield '<div id="question" role="status"></div>'
    yield '<label class="quiet" for="practice-pad">Press the keys here</label>'
    yield '<input class="pad" id="practice-pad" readonly value="" placeholder="press keys" autocomplete="off">'
    yield '<div class="answer" id="judged" role="status"></div><p id="tally" class="quiet"></p>'
    yield '<p class="quiet">What you answer here is forgotten with the page. At a terminal it is kept: ombix practice.</p>'
