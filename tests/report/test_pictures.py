"""Pictures of keyboards: each key shows what is decided for it, and colours hold for every kind of sight."""

import io
from itertools import combinations
from pathlib import Path

import pytest
from defusedxml.ElementTree import fromstring
from PIL import Image

from ombix.core.keys.notation import MODIFIERS, parse, write
from ombix.core.pressing.layouts import Stroke, as_typed
from ombix.report.drawing import pdf, png, svg
from ombix.report.drawing.colours import SIGHTS, apart, contrast, contrasting, heat, lab
from ombix.report.drawing.drawn_items import Box, Label
from ombix.report.drawing.typefaces import Typefaces
from ombix.work.draw import draw_questions
from ombix.work.draw.picture import PictureOptions
from ombix.work.draw.picture_answer import KeyboardPicture
from ombix.work.draw.picture_layout import picture_pages, sign_of
from ombix.work.look import look_questions
from ombix.workspace.open_workspace import OpenWorkspace
from tests.helpers import others_long, shipped

TYPEFACES = Typefaces(folders=())
LAYOUTS = ["us", "de", "fr", "es", "us-dvorak", "jp"]


@pytest.mark.parametrize("layout", others_long(LAYOUTS, "de", "us-dvorak"))
@pytest.mark.parametrize("editor", ["", "nano"])
def test_each_key_shows_what_is_decided(ferry: Path, layout: str, editor: str) -> None:
    """Against the answers of `what`, for every key of every panel."""
    session = OpenWorkspace(folder=str(ferry))
    found = draw_questions.picture(session, editor=editor, layout=layout)
    setup = session.keymap(editor, layout=layout).context.setups[0]
    checked = 0
    for panel in found.panels:
        held = sum(MODIFIERS[name] for name in panel.modifiers.split("+") if name)
        after = parse(panel.after) if panel.after else ()
        for key in panel.keys:
            if key.kind in ("held", "modifier"):
                continue
            chord = as_typed(Stroke(key.place, held), setup.layout)
            if key.kind in ("free", "types", "kept"):
                answer = look_questions.what(session, write((*after, chord)), editor=editor, layout=layout)
                is_read = answer.keys == write((*after, chord))  # an arrow that is a character is read as the key
                assert answer.decisions == () or not is_read, (panel.title, key)
            if key.kind == "taken":
                answer = look_questions.what(session, key.keys, editor=editor, layout=layout)
                titles = {row.title for row in answer.decisions}
                assert key.title in titles, (panel.title, key, titles)
                assert key.does in {row.does for row in answer.decisions}
                checked += 1
            if key.kind == "begins":
                assert look_questions.what(session, key.keys, editor=editor, layout=layout).follows
    assert checked > 40
    shown = {key.keys for panel in found.panels for key in panel.keys if key.kind in ("taken", "begins")}
    for one in look_questions.show(session, editor=editor, layout=layout).bindings:
        press = one.presses[0]
        if one.kind != "nothing" and press.press is not None and "," not in press.press and " " not in one.keys:
            assert one.shown in shown or not press.plain, one.keys


@pytest.mark.parametrize("layout", LAYOUTS)
def test_svg_and_png_agree_with_the_answer(ferry: Path, layout: str) -> None:
    found = draw_questions.picture(OpenWorkspace(folder=str(ferry)), layout=layout)
    (page,) = picture_pages(found, False, TYPEFACES)
    keys = [key for panel in found.panels for key in panel.keys]
    boxes = [item for item in page.items if isinstance(item, Box) and item.radius == 4.0]
    assert len(boxes) == len(keys)
    root = fromstring(svg.text(page))
    rects = [one for one in root.iter("{http://www.w3.org/2000/svg}rect") if one.get("rx") == "4"]
    image = Image.open(io.BytesIO(png.data(page, TYPEFACES, 1.0))).convert("RGB")
    colours = {one.name: one.colour for one in found.families}
    for key, box, rect in zip(keys, boxes, rects, strict=True):
        wanted = box.fill
        if key.kind == "taken" and not key.elsewhere:
            assert wanted == colours[key.family]
        assert rect.get("fill") == wanted
        red, green, blue = image.getpixel((int(box.x + box.width / 2), int(box.y + box.height - 4)))
        assert apart(f"#{red:02x}{green:02x}{blue:02x}", wanted) < 3, key
        tip = rect.findtext("{http://www.w3.org/2000/svg}title") or ""
        for row in key.rows:
            assert row in tip
    drawn = {item.text for item in page.items if isinstance(item, Label)}
    assert all(sign_of(key, found) in drawn for key in keys if sign_of(key, found))


def test_signs_and_colours_tell_the_families_apart_for_every_sight() -> None:
    families = shipped.families()
    assert len({one.sign for one in families}) == len(families)
    for sight in SIGHTS:
        for one, other in combinations([*(family.colour for family in families), "#ffffff"], 2):
            assert apart(one, other, sight) >= (8 if sight == "grey" else 18), (sight, one, other)
    for family in families:
        assert contrast(contrasting(family.colour), family.colour) >= 4.5
    assert {name for one in families for name in one.domains} == set(shipped.catalogue().domains)


def test_colours_are_reckoned_as_published() -> None:
    assert lab("#ffffff") == pytest.approx((100, 0, 0), abs=0.02)
    assert lab("#ff0000") == pytest.approx((53.24, 80.09, 67.20), abs=0.05)  # sRGB red under D65
    assert contrast("#ffffff", "#000000") == pytest.approx(21)
    assert contrast("#777777", "#ffffff") == pytest.approx(4.48, abs=0.01)  # WCAG 2.2, just too little
    lights = [lab(heat(part / 10))[0] for part in range(11)]
    assert lights == sorted(lights, reverse=True)
    assert lights[0] - lights[-1] > 60


def test_a_state_a_step_and_a_group_can_be_asked_for(ferry: Path) -> None:
    session = OpenWorkspace(folder=str(ferry))
    (panel,) = draw_questions.picture(session, PictureOptions(modifiers=("Ctrl",))).panels
    assert (panel.title, panel.modifiers) == ("Ctrl", "Ctrl")
    running = draw_questions.picture(session, PictureOptions(within="program is running", modifiers=("none",)))
    titles = {key.place: key.title for key in running.panels[0].keys}
    assert titles["F8"] == "Stop the program"
    loom = OpenWorkspace(str(ferry / "loom" / "ombix.toml"))
    after = draw_questions.picture(loom, PictureOptions(after="Mod+T"))
    assert {one.after for one in after.panels} == {"Ctrl+T"}
    assert all(one.title.startswith("Ctrl+T, then") for one in after.panels)


def test_numbers_take_the_place_of_kinds(ferry: Path) -> None:
    session = OpenWorkspace(folder=str(ferry))
    strain = draw_questions.picture(session, PictureOptions(strain=True, modifiers=("none",)))
    values = {key.place: key.value for key in strain.panels[0].keys}
    assert strain.value == "seconds"
    assert values["KeyF"] == look_questions.effort(session, "f").efforts[0].seconds
    assert values["F12"] > values["KeyF"]
    fingers = {key.place: key.finger for key in strain.panels[0].keys}
    assert (fingers["KeyF"], fingers["KeyP"], fingers["ShiftLeft"]) == ("left index", "right little", "")
    (page,) = picture_pages(strain, False, TYPEFACES)
    assert "F\n0.2 s, by the left index" in {
        item.tip.replace("f\ntyped", "F") for item in page.items if isinstance(item, Box)
    }
    counts = draw_questions.picture(session, PictureOptions(counts={"Ctrl+S": 40, "Mod+D": 2}))
    assert {key.keys: key.value for panel in counts.panels for key in panel.keys if key.value is not None} == {
        "Ctrl+S": 40.0, "Ctrl+D": 2.0,
    }  # fmt: skip


@pytest.mark.parametrize("keyboard", ["full", "laptop", "mac-laptop", "no-keypad", "split", "columnar"])
def test_every_keyboard_is_drawn_with_all_of_its_keys(ferry: Path, keyboard: str) -> None:
    session = OpenWorkspace(folder=str(ferry))
    found = draw_questions.picture(session, PictureOptions(keyboard=keyboard, modifiers=("Ctrl",)))
    assert {key.place for key in found.panels[0].keys} == set(shipped.keyboard(keyboard, "ansi").positions)
    (page,) = picture_pages(found, False, TYPEFACES)
    boxes = [item for item in page.items if isinstance(item, Box) and item.radius == 4.0]
    for one, other in combinations(boxes, 2):
        apart_across = one.x + one.width <= other.x or other.x + other.width <= one.x
        assert apart_across or one.y + one.height <= other.y or other.y + other.height <= one.y
    for item in page.items:
        if isinstance(item, Label):
            assert 0 <= item.x <= page.width and 0 <= item.y <= page.height
    assert pdf.data(picture_pages(found, True, TYPEFACES), TYPEFACES).startswith(b"%PDF")


def test_all_layouts_have_a_picture(ferry: Path) -> None:
    session = OpenWorkspace(folder=str(ferry))
    names = [one.name for one in look_questions.hardware(session).layouts]
    assert len(names) >= 47
    for name in names:
        found = draw_questions.picture(session, PictureOptions(modifiers=("Alt",)), layout=name)
        assert isinstance(found, KeyboardPicture)
        assert sum(key.kind == "taken" for key in found.panels[0].keys) > 5, name


@pytest.mark.parametrize("title", ["x" * 10_000, "<script>", "שלום", "a\nb", "\x1b[31m"], ids=range(5))
def test_titles_of_every_kind_stay_on_the_page(ferry: Path, title: str) -> None:
    found = draw_questions.picture(OpenWorkspace(folder=str(ferry)), PictureOptions(title=title, modifiers=("Ctrl",)))
    for on_paper in (False, True):
        for page in picture_pages(found, on_paper, TYPEFACES):
            for item in page.items:
                if isinstance(item, Label) and item.anchor == "start":
                    assert item.x + TYPEFACES.width(item.text, item.size, item.bold) <= page.width
            assert "<script" not in svg.text(page)
            assert fromstring(svg.text(page)).tag.endswith("svg")
