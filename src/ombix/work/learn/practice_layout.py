"""How questions, answers and what is due are laid out: `practice`."""

from collections.abc import Sequence
from datetime import datetime

from ombix.report.blocks import Blank, Block, Cell, Grid, Title, line
from ombix.report.terminal_text import Display
from ombix.work.learn.practice_answer import PracticeAnswer, PracticeItem, PracticeList
from ombix.workspace.condition_words import in_words


def question_blocks(item: PracticeItem, number: str, end: str) -> list[Block]:
    """A question: the task in words, and where it changes a text, by the text before and after."""
    blocks: list[Block] = [Blank(), line(Cell(f"{number}: ", "quiet"), Cell(item.title, "strong"))]
    if item.when:
        blocks.append(line(Cell(in_words(item.when), "quiet"), indent=2))
    if item.about:
        blocks.append(line(item.about, indent=2))
    if item.before:
        rows = [(Cell(word, "quiet"), text) for word, text in (("before", item.before), ("after", item.after))]
        blocks.append(Grid([(word, text.replace("\n", "⏎")) for word, text in rows], indent=2))
    how = "Press the keys" if item.is_sent else "This terminal does not send them: write the keys"
    blocks.append(line(Cell(f"{how}. Enter shows them, {end} ends.", "quiet"), indent=2))
    return blocks


def answer_blocks(item: PracticeItem, answer: PracticeAnswer | None, is_last: bool) -> list[Block]:
    """What came of an answer, in words."""
    keys = " or ".join(item.keys)
    if answer is None:
        return [line("  It is ", Cell(keys, "key"), ".")]
    if answer.is_right:
        return [line("  Right: ", Cell(answer.pressed, "key"), Cell(".", "good"))]
    said = [line("  ", Cell(answer.pressed, "key"), f": {answer.title}. Not that.")]
    return [*said, line("  It is ", Cell(keys, "key"), ".") if is_last else line("  Once more.")]


def practice_list(found: PracticeList, display: Display) -> list[Block]:
    """What is due, what comes later, and what was never asked."""
    blocks: list[Block] = []
    for title, items in (("Due now", found.due), ("Later", found.later)):
        if items:
            rows = [
                (
                    Cell(", ".join(item.keys), "key"),
                    item.title,
                    Cell(in_words(item.when), "quiet"),
                    _when(item, found),
                    _known(item),
                )
                for item in items
            ]
            blocks += [*([Blank()] if blocks else []), Title(title), Grid(rows, indent=2)]
    if not blocks:
        blocks.append(line("Nothing was practised yet."))
    if found.new:
        count = len(found.new)
        first = ", ".join(one.title for one in found.new[:3])
        blocks += [Blank(), line(f"{count} {'is' if count == 1 else 'are'} new, first: {first}.")]
    return blocks


def _known(one: PracticeItem) -> Cell:
    return Cell(f"{one.right} right, {one.wrong} wrong", "quiet")


def _when(one: PracticeItem, found: PracticeList) -> str:
    """When it is due, in words."""
    seconds = (datetime.fromisoformat(one.due) - datetime.fromisoformat(found.now)).total_seconds()
    return "now" if seconds <= 0 else f"in {span(seconds)}"


def span(seconds: float) -> str:
    """A time in words, in its largest unit."""
    for size, name in ((86400, "day"), (3600, "hour"), (60, "minute")):
        count = round(seconds / size)
        if seconds >= size * 0.95 and count:
            return f"{count} {name}{'s' if count > 1 else ''}"
    return "a minute"


def tally_blocks(right: int, second: int, shown: int, items: Sequence[PracticeItem], at: str) -> list[Block]:
    """How a session went, and when the next ones are due."""
    said = [f"{right} right at once"]
    said += [f"{second} at the second try"] * bool(second) + [f"{shown} shown"] * bool(shown)
    blocks: list[Block] = [Blank(), line(Cell(", ".join(said) + ".", "strong"))]
    times: dict[str, int] = {}
    for one in sorted(items, key=lambda item: item.due):
        seconds = (datetime.fromisoformat(one.due) - datetime.fromisoformat(at)).total_seconds()
        words = span(max(seconds, 60))
        times[words] = times.get(words, 0) + 1
    if times:
        blocks.append(line("Next: " + ", ".join(f"{count} in {words}" for words, count in times.items()) + "."))
    return blocks
