"""Answers that are drawn, or laid out as a page, written to files: the name's ending says in which form."""

from collections.abc import Callable, Sequence
from pathlib import Path
from typing import Any, NamedTuple

from ombix.console import page_files
from ombix.console.environment import Environment
from ombix.core.errors import InputError, Place
from ombix.report.drawing.drawn_items import Page
from ombix.report.drawing.typefaces import Typefaces
from ombix.workspace.open_workspace import OpenWorkspace

DRAWN = (".pdf", ".png", ".svg")
FORMS = (*DRAWN, ".html", ".md", ".txt", ".json")
_MARKUP = (".html", ".svg", ".xml")


class DrawnAnswer(NamedTuple):
    """An answer with its two ways to be laid out: in blocks, and on pages (for paper, or as one that is as high as it needs)."""

    title: str
    result: Any
    blocks: page_files.Blocks
    drawn: Callable[[Typefaces, bool], Sequence[Page]]


def check_forms(files: Sequence[Path], forms: Sequence[str] = FORMS) -> None:
    """Raise InputError for a file whose ending is no form."""
    for file in files:
        if file.suffix not in forms:
            raise InputError(f"there is no form for {file.name}", f"Let its name end in {', '.join(forms)}.")


def write_drawn(
    environment: Environment,
    session: OpenWorkspace,
    files: Sequence[Path],
    answer: DrawnAnswer,
    template: Path | None = None,
) -> None:
    """Write an answer to files, and say so, and which characters no typeface has. Raises InputError."""
    typefaces = Typefaces()
    contents: dict[str, str | bytes] = {}
    for file in files:
        if template is not None:
            contents[str(file)] = _templated(environment, session, template, file, answer.result)
        elif file.suffix in DRAWN:
            contents |= _drawn(file, answer, typefaces)
        else:
            contents[str(file)] = page_files.page(environment, file, answer.title, answer.result, answer.blocks)
    for path in session.write(f"write {', '.join(file.name for file in files)}", contents):
        environment.say(f"wrote {environment.messages.display.path(str(path))}")
    if typefaces.missing:
        signs = ", ".join(f"{char} (U+{ord(char):04X})" for char in list(typefaces.missing)[:8])
        more = f" and {len(typefaces.missing) - 8} more" if len(typefaces.missing) > 8 else ""
        environment.say(f"No typeface here has {signs}{more}: a box stands for it. Install one that has it.")


def _drawn(file: Path, answer: DrawnAnswer, typefaces: Typefaces) -> dict[str, str | bytes]:
    """The pages of an answer in their form: of PDF in one file, else one for each."""
    drawn = answer.drawn(typefaces, file.suffix == ".pdf")
    if file.suffix == ".pdf":
        from ombix.report.drawing import pdf

        return {str(file): pdf.data(drawn, typefaces)}
    from ombix.report.drawing import png, svg

    found: dict[str, str | bytes] = {}
    for number, one in enumerate(drawn, 1):
        name = file if number == 1 else file.with_stem(f"{file.stem}-{number}")
        found[str(name)] = svg.text(one) if file.suffix == ".svg" else png.data(one, typefaces)
    return found


def _templated(environment: Environment, session: OpenWorkspace, template: Path, file: Path, result: Any) -> str:
    """What a template makes of an answer: it can look at it, and at nothing else."""
    from ombix.console.template_process import TemplateFault, filled
    from ombix.report.json import document

    try:
        return filled(session.read(str(template)), document(result, environment.display), file.suffix in _MARKUP)
    except TemplateFault as fault:
        place = Place(str(template), fault.line, 1 if fault.line else 0)
        raise InputError(f"the template fails: {fault}", "See: docs/sheet.md", place) from None
