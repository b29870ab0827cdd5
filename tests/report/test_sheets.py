"""Sheets on paper: what is read back from the file are the bindings, and nothing stands on anything else or is cut."""

import io
import unicodedata
from collections import Counter
from collections.abc import Iterable
from pathlib import Path

import pytest
from pdfminer.high_level import extract_pages
from pdfminer.layout import LAParams, LTTextContainer, LTTextLine

from ombix.report.drawing import pdf, png, svg
from ombix.report.drawing.drawn_items import Label, Page, Segment
from ombix.report.drawing.typefaces import Typefaces
from ombix.report.terminal_text import visible
from ombix.work.learn import learn_questions
from ombix.work.learn.sheet import SheetOptions
from ombix.work.learn.sheet_answer import Sheet, SheetGroup, SheetKeys, SheetRow
from ombix.work.learn.sheet_layout import PAPERS, sheet_pages
from ombix.work.look import look_questions
from ombix.workspace.open_workspace import OpenWorkspace
from tests.helpers import others_long

TYPEFACES = Typefaces(folders=())


def box(label: Label, typefaces: Typefaces) -> tuple[float, float, float, float]:
    """What a text covers: left, top, right, bottom."""
    width = typefaces.width(visible(label.text), label.size, label.bold)
    left = label.x - width * {"start": 0.0, "middle": 0.5, "end": 1.0}[label.anchor]
    return left, label.y - label.size * 0.72, left + width, label.y + label.size * 0.2


def check(page: Page, typefaces: Typefaces = TYPEFACES) -> None:
    """All is on the page, and no text on another one."""
    boxes = [(box(item, typefaces), item.text) for item in page.items if isinstance(item, Label) and item.text]
    for (left, top, right, bottom), text in boxes:
        assert left >= 0 and right <= page.width and top >= 0 and bottom <= page.height, text[:80]
    boxes.sort(key=lambda one: one[0][1])
    for index, (one, text) in enumerate(boxes):
        for other, also in boxes[index + 1 :]:
            if other[1] >= one[3]:
                break
            assert one[2] <= other[0] + 0.01 or other[2] <= one[0] + 0.01, (text[:80], also[:80])
    rules = [item for item in page.items if isinstance(item, Segment)]
    assert all(0 <= one.x < one.to_x <= page.width for one in rules)


def read_back(data: bytes) -> list[list[str]]:
    """The lines of text of each page."""
    found = []
    for page in extract_pages(io.BytesIO(data), laparams=LAParams(char_margin=0.4, line_margin=0.1, boxes_flow=None)):
        lines = [
            line for part in page if isinstance(part, LTTextContainer) for line in part if isinstance(line, LTTextLine)
        ]
        for line in lines:
            assert line.x0 >= 0 and line.x1 <= page.width + 0.5 and line.y0 >= 0 and line.y1 <= page.height
        found.append([line.get_text().strip() for line in lines])
    return found


def characters(texts: Iterable[str]) -> Counter[str]:
    """How often each character is there, but for blanks."""
    return Counter(char for text in texts for char in unicodedata.normalize("NFKC", text) if not char.isspace())


def arrows(text: str) -> str:
    """Keys with the signs that are printed on the arrows."""
    for name, sign in (("Up", "↑"), ("Down", "↓"), ("Left", "←"), ("Right", "→")):
        text = text.replace(f"Arrow{name}", sign)
    return text


@pytest.mark.parametrize("paper", sorted(PAPERS))
@pytest.mark.parametrize("layout", others_long(["us", "de", "fr", "jp"], "de"))
@pytest.mark.parametrize("editor", ["", "kate"])
def test_what_is_on_paper_are_the_bindings(ferry: Path, paper: str, layout: str, editor: str) -> None:
    session = OpenWorkspace(folder=str(ferry))
    editors = [editor] if editor else []
    found = learn_questions.sheet(session, SheetOptions(), editors=editors, layouts=[layout])
    pages = sheet_pages(found, paper, TYPEFACES)
    for page in pages:
        check(page)
        assert (page.width, page.height) == PAPERS[paper]
    texts = read_back(pdf.data(pages, TYPEFACES))
    assert len(texts) == len(pages)
    labels = [item.text for page in pages for item in page.items if isinstance(item, Label)]
    assert characters(text for page in texts for text in page) == characters(labels)
    joined = "".join("".join(text.split()) for text in labels)
    listed = [
        one for one in look_questions.show(session, editor=editor, layout=layout).bindings if one.kind != "nothing"
    ]
    assert len(listed) > 40
    for one in listed:
        press = one.presses[0]
        told = [one.shown] if press.press is None else [press.press] if press.plain else [one.shown, press.press]
        assert any("".join(arrows(keys).split()) in joined for keys in told), told
        if press.press is not None:
            assert "".join(arrows(press.press).split()) in joined, press.press
        title = one.does if one.kind == "only" else one.title
        assert "".join(title.split()) in joined, title
    shown = {(row.does, row.when) for group in found.groups for row in group.rows}
    assert len(shown) == len({(one.does, one.when) for one in listed})


def test_a_sheet_of_one_page_is_one(ferry: Path) -> None:
    found = learn_questions.sheet(OpenWorkspace(folder=str(ferry)), editors=["kate"])
    several, one = sheet_pages(found, "a4", TYPEFACES), sheet_pages(found, "a4", TYPEFACES, one_page=True)
    assert len(several) > 1 or several == one
    assert len(one) == 1
    check(one[0])
    assert (one[0].width, one[0].height) == PAPERS["a4"]


def test_columns_are_about_as_high_as_each_other(ferry: Path) -> None:
    """No column is longer than the mean by more than the largest group that is kept together."""
    for found in (
        learn_questions.sheet(OpenWorkspace(folder=str(ferry))),
        learn_questions.sheet(OpenWorkspace(folder=str(ferry)), editors=["nano"]),
    ):
        page = sheet_pages(found, "", TYPEFACES)[0]
        columns: dict[float, float] = {}
        for item in page.items:
            if isinstance(item, Segment):
                columns.setdefault(item.x, 0.0)
        assert len(columns) == 3
        for item in page.items:
            if isinstance(item, Label) and item.y > 60:
                start = max(x for x in columns if x <= item.x + 0.01)
                columns[start] = max(columns[start], item.y)
        assert max(columns.values()) - min(columns.values()) < 0.25 * page.height


ODD = [
    "<script>alert(1)</script>", "&amp; ]]> --", "\x1b[31mred\x07", "x" * 10_000, "שלום עולם", "مرحبا بالعالم", "漢字かな交じり文",
    "a\u202eb\u2066c", "\ud7ff\ufffd", "𝄞 music", "e\u0301\u0302", "",
]  # fmt: skip


def odd_sheet(text: str) -> Sheet:
    row = SheetRow("x", text, text, ((SheetKeys(text or "F1", text),),))
    return Sheet(text, text, "work", ("one",), (SheetGroup(text, (row, row)),), (text,))


@pytest.mark.parametrize("text", others_long(ODD, *ODD[::3]), ids=range(len(ODD)))
def test_texts_of_every_kind_are_drawn(text: str) -> None:
    typefaces = Typefaces()
    for paper in ("a4", ""):
        pages = sheet_pages(odd_sheet(text), paper, typefaces)
        for one in pages:
            check(one, typefaces)
        assert pdf.data(pages, typefaces).startswith(b"%PDF")
        assert png.data(pages[0], typefaces, 0.3).startswith(b"\x89PNG")
        drawn = svg.text(pages[0])
        assert "<script" not in drawn
        assert not any(char < " " and char != "\n" for char in drawn)
        from defusedxml.ElementTree import fromstring

        assert fromstring(drawn).tag.endswith("svg")


def test_characters_that_no_typeface_has_are_told() -> None:
    faces = Typefaces(folders=())
    assert faces.width("漢a字", 10) > 0
    assert list(faces.missing) == ["漢", "字"]
    assert Typefaces(folders=()).missing == {}


def test_letters_that_join_are_joined_in_pdf_and_read_back() -> None:
    data = pdf.data(sheet_pages(odd_sheet("שלום"), "a4", TYPEFACES), TYPEFACES)
    text = "".join(line for page in read_back(data) for line in page)
    assert "שלום" in text or "םולש" in text


def test_boxes_would_be_found_one_on_another() -> None:
    first, second = Label(10, 20, "crossing", 10), Label(20, 22, "pier", 10)
    with pytest.raises(AssertionError):
        check(Page(100, 100, [first, second]))
    with pytest.raises(AssertionError):
        check(Page(30, 100, [first]))
    check(Page(100, 100, [first, second._replace(y=40)]))
