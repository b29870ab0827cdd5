"""The workspace that `ombix.open` gives: what scripts ask most, as methods; all else are functions of the rooms."""

from ombix.work.audit import audit_questions
from ombix.work.carry import carry_questions
from ombix.work.change import change_questions
from ombix.work.look import look_questions
from ombix.work.tryout import tryout_questions
from ombix.workspace.open_workspace import OpenWorkspace


class Workspace(OpenWorkspace):
    """A workspace, a keymap file or an editor's own file, opened once. Each method is the function of the same name of a room:
    `workspace.audit()` is `ombix.audit.audit(workspace)`."""

    what = look_questions.what
    how = look_questions.how
    show = look_questions.show
    free = look_questions.free
    audit = audit_questions.audit
    bind = change_questions.bind
    unbind = change_questions.unbind
    move = change_questions.move
    port = carry_questions.port
    compare = carry_questions.compare
    prove = carry_questions.prove
    press = tryout_questions.press
