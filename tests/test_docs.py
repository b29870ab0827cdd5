"""The documentation is true: every call in it gives the output that stands below it."""

import doctest
import re
import sys
from pathlib import Path

import msgspec
import msgspec.structs
import pytest

from ombix.console.command_files import command_modules
from ombix.editors import description, modal_grammar, snippet_formats
from tests.helpers import ROOT, ombix

sys.path.insert(0, str(ROOT / "tools"))
import refresh_docs

PAGES = refresh_docs.PAGES
COMMANDS = sorted(command_modules())


LONG = ("prove.md",)
"""The pages whose calls press keys in many editors."""


@pytest.mark.parametrize(
    "page",
    [pytest.param(page, id=page.name, marks=[pytest.mark.long(first=True)] * (page.name in LONG)) for page in PAGES],
)
def test_every_call_gives_the_output_that_stands_below_it(page: Path) -> None:
    text = page.read_text("utf-8")
    assert refresh_docs.refreshed(text) == text


@pytest.mark.parametrize("command", COMMANDS)
def test_every_command_has_a_page_with_a_real_call_and_names_its_options(command: str, tmp_path: Path) -> None:
    text = (ROOT / "docs" / f"{command.replace(' ', '-')}.md").read_text("utf-8")
    assert re.search(rf"^\$ ombix {command}\b", text, re.MULTILINE)
    helps = [ombix(tmp_path, *command.split(), "--help").out]
    inner = re.findall(r"(?m)^  ([a-z]+)  ", helps[0].split("Commands:")[1]) if "Commands:" in helps[0] else []
    helps += [ombix(tmp_path, *command.split(), one, "--help").out for one in inner]
    options = set(re.findall(r"(--[a-z][a-z-]+)", "\n".join(helps))) - {"--help"}
    assert {option for option in options if f"`{option}" not in text and f"{option} " not in text} == set()


@pytest.mark.parametrize("page", PAGES, ids=lambda page: page.name)
def test_every_link_leads_somewhere(page: Path) -> None:
    for target in re.findall(r"\]\(([^)#]+)\)", page.read_text("utf-8")):
        assert (page.parent / target).exists(), target


def test_the_readme_links_every_page_and_picture() -> None:
    readme = (ROOT / "README.md").read_text("utf-8")
    for page in (ROOT / "docs").glob("*.md"):
        assert f"docs/{page.name}" in readme
    pictures = list((ROOT / "docs" / "screenshots").glob("*.png"))
    assert 0 < len(pictures) < 20
    for picture in pictures:
        assert f"docs/screenshots/{picture.name}" in readme


@pytest.mark.long
def test_the_page_of_all_pairs_is_what_the_script_makes() -> None:
    import make_pairs

    assert make_pairs.PAGE.read_text("utf-8") == make_pairs.page()


def test_the_pages_of_actions_and_facts_are_what_the_scripts_make() -> None:
    import make_actions
    import make_facts
    import make_manual
    import make_reference

    for one in (make_actions, make_facts, make_manual, make_reference):
        assert one.PAGE.read_text("utf-8") == one.page()


def test_every_key_of_a_description_is_explained() -> None:
    """Each field of each shape, in the code of the page that lists them."""
    page = (ROOT / "docs" / "description.md").read_text("utf-8")
    named = {word for code in re.findall(r"`([^`]+)`", page) for word in re.findall(r"[a-z-]+", code)}
    shapes = [
        one
        for module in (description, modal_grammar, snippet_formats)
        for one in vars(module).values()
        if isinstance(one, type) and issubclass(one, msgspec.Struct) and one.__module__.startswith("ombix.editors")
    ]
    assert len(shapes) > 15
    missing = {
        f"{shape.__name__}.{field.encode_name}"
        for shape in shapes
        if shape is not msgspec.Struct
        for field in msgspec.structs.fields(shape)
        if field.encode_name not in named
    }
    assert missing == set()


def test_the_examples_of_the_library_run(ferry: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.chdir(ferry)
    monkeypatch.setenv("XKB_DEFAULT_LAYOUT", "us")
    text = (ROOT / "docs" / "library.md").read_text("utf-8")
    examples = doctest.DocTestParser().get_doctest(text, {}, "library.md", "library.md", 0)
    assert len(examples.examples) > 15
    said: list[str] = []
    results = doctest.DocTestRunner(verbose=False).run(examples, out=said.append)
    assert results.failed == 0, "".join(said)
