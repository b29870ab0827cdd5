"""The picture of the keyboard and the page, of an opened workspace."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from ombix.work.draw.page_answer import PageData
    from ombix.work.draw.picture import PictureOptions
    from ombix.work.draw.picture_answer import KeyboardPicture
    from ombix.workspace.open_workspace import OpenWorkspace


def picture(
    workspace: OpenWorkspace, options: PictureOptions | None = None, *, editor: str = "", on: str = "", layout: str = ""
) -> KeyboardPicture:
    """The keyboard at hand, with what is on its keys."""
    from ombix.work.draw.picture import PictureOptions, picture

    return picture(workspace.keymap(editor, on, layout), options or PictureOptions(), workspace.resources)


def page(
    workspace: OpenWorkspace,
    *,
    editor: str = "",
    on: str = "",
    layout: str = "",
    keyboard: str = "",
    to: Sequence[str] = (),
) -> PageData:
    """All that one page has: decisions, what actions are found by, the sheet, the keyboard, what is wrong, the ports to the
    editors named, and what can be practised."""
    from ombix.work.audit import audit_questions
    from ombix.work.carry import carry_questions
    from ombix.work.draw.page import PageBeside, page_data
    from ombix.work.draw.picture import PictureOptions
    from ombix.work.learn import learn_questions
    from ombix.work.learn.practice import Practice, PracticeOptions

    here = workspace.keymap(editor, on, layout)
    practice = Practice(here, None, PracticeOptions(), workspace.resources)
    sheet = learn_questions.sheet(
        workspace, editors=[editor] * bool(editor), on=[on] * bool(on), layouts=[layout] * bool(layout)
    )
    keyboard_picture = picture(workspace, PictureOptions(keyboard=keyboard), editor=editor, on=on, layout=layout)
    findings = audit_questions.audit(workspace, editor=editor, on=on, layout=layout).findings
    return page_data(
        here,
        practice,
        PageBeside(sheet, keyboard_picture, findings, carry_questions.port(workspace, *to, on=on) if to else ()),
    )
