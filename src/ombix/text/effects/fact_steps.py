"""Steps that change what an editor is, beside its text: what was done, and facts of its state; and taking changes back."""

from collections.abc import Sequence

from ombix.text.effects.buffer import Buffer
from ombix.text.effects.program_words import Run


def does(words: Sequence[str]) -> Run:
    """An action is done that is not about the text: `does files.save`."""
    said = " ".join(words) if words else words[0]

    def does(b: Buffer) -> None:
        b.facts = (*b.facts, said)

    return does


def now(words: Sequence[str]) -> Run:
    """A fact of the editor's state gets a value: `now pane search`. `now modified no`: the text is that of its file."""
    name, value = words[0], words[1]
    said = f"{name} is {value}"

    def now(b: Buffer) -> None:
        if name == "modified":
            b.saved = b.text if value == "no" else None
        b.facts = (*(fact for fact in b.facts if not fact.startswith(f"{name} is ")), said)

    return now


def ends(words: Sequence[str]) -> Run:
    """The editor is closed: nothing that follows is run."""

    def ends(b: Buffer) -> None:
        b.has_ended = True

    return ends


def take_back(words: Sequence[str]) -> Run:
    """The last change is taken back. The cursor goes to where it was `before`, or to the first of the places where it was
    before and behind the change (`first`), what was selected at the `moment` when text was taken away is so again, or what was
    taken away is selected (`restored`). Where nothing was changed, the action of taking back is done."""
    to = words[0]
    if to not in ("before", "first", "moment", "restored"):
        raise KeyError(to)

    def take_back(b: Buffer) -> None:
        if not b.past:
            b.facts = (*b.facts, "history.undo")
            return
        last, b.past = b.past[-1], b.past[:-1]
        more = len(last.text) - len(b.text)
        b.text, b.cursor, b.taken_back = last.text, last.cursor, b.taken_back + 1
        b.drop()
        if to == "first":
            b.cursor = min(last.cursor, last.after)
        elif to == "moment" and last.moment is not None:
            b.cursor, b.anchor, b.held = last.moment
        elif to == "restored":
            b.anchor = min(last.after, len(b.text))
            b.cursor = max(0, min(last.after + more, len(b.text)))

    return take_back
