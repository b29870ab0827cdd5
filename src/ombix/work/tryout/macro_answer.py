"""Macros and snippets: what there is, what is in one, and what came of trying it."""

from typing import Literal, NamedTuple

from ombix.core.errors import Place
from ombix.core.keymap.changes import NamedKind
from ombix.workspace.change_answer import ChangeReport

RemarkKind = Literal[
    "more-places", "beyond-selection", "other-lines", "several-undos", "leaves-text", "failed", "cut-short", "nothing"
]  # fmt: skip


class ListedMacro(NamedTuple):
    """A macro or a snippet. `keys` run it, `words` expand it; `size` is its number of steps, or of its gaps."""

    name: str
    kind: NamedKind
    title: str
    keys: tuple[str, ...]
    words: tuple[str, ...]
    when: str
    languages: tuple[str, ...]
    size: int
    layer: str
    place: Place


class MacroList(NamedTuple):
    """All macros and snippets of a keymap."""

    platform: str
    found: tuple[ListedMacro, ...]


class MacroStep(NamedTuple):
    """A step in words, how deep it stands in others, and what the keys that it presses do here."""

    does: str
    depth: int
    relies_on: str


class MacroReport(NamedTuple):
    """One macro or snippet in full: its steps, or its text with its gaps and variables."""

    macro: ListedMacro
    steps: tuple[MacroStep, ...]
    body: tuple[str, ...]
    gaps: tuple[str, ...]
    variables: tuple[str, ...]
    circle: tuple[str, ...]
    shorter: tuple[str, ...]


class TrialStep(NamedTuple):
    """One thing that was done, in which round (from 1), and the lines that it changed, each behind `-`, `+` or a number."""

    round: int
    does: str
    because: str
    done: bool
    difference: tuple[str, ...]
    line: int
    column: int


class TrialRemark(NamedTuple):
    """What is to be known before it is trusted."""

    kind: RemarkKind
    said: str


class TriedExample(NamedTuple):
    """An example, with | for the cursor: the text before, the text that was wanted, and what was found."""

    before: str
    wanted: str
    found: str
    agrees: bool


class MacroTrial(NamedTuple):
    """A macro or snippet that was tried on a text. `places` and the lines are what differs between the text before and after;
    `undos` is how many times undo has to be pressed to have it back; `written` is the file that was written."""

    name: str
    kind: NamedKind
    title: str
    times: int
    start_text: str
    start_cursor: int
    start_selection: tuple[int, int]
    steps: tuple[TrialStep, ...]
    text: str
    cursor: int
    selection: tuple[int, int]
    places: int
    lines_changed: int
    lines_added: int
    lines_removed: int
    undos: int
    remarks: tuple[TrialRemark, ...]
    examples: tuple[TriedExample, ...]
    written: str

    @property
    def is_as_expected(self) -> bool:
        """Whether every example agrees, and nothing happened that is not to be expected."""
        meant = ("several-undos", "leaves-text")
        return all(example.agrees for example in self.examples) and all(remark.kind in meant for remark in self.remarks)


class RecordReport(NamedTuple):
    """A macro that was recorded: its steps in words, the keys that it was made of, what is to be known, and the change."""

    name: str
    keys: str
    steps: tuple[str, ...]
    remarks: tuple[str, ...]
    change: ChangeReport


class CarriedSnippetReport(NamedTuple):
    """What became of a snippet on its way to an editor, and how."""

    name: str
    verdict: Literal["exact", "adapted", "lost"]
    how: str


class SnippetPort(NamedTuple):
    """The snippets of a keymap carried to an editor: the file that was written (empty: none), where the editor reads it, and what
    became of each."""

    editor: str
    file: str
    usual: str
    counts: dict[str, int]
    snippets: tuple[CarriedSnippetReport, ...]


class AdoptedSnippets(NamedTuple):
    """The snippets of an editor's own file that were taken in, what was not, and the change."""

    editor: str
    taken: tuple[str, ...]
    left: tuple[str, ...]
    change: ChangeReport
