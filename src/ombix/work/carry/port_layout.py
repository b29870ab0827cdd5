"""How a port is laid out: `port`."""

from collections.abc import Callable, Iterator, Sequence

from ombix.report.blocks import Blank, Block, Cell, Grid, Style, Title, line
from ombix.report.terminal_text import Display, visible
from ombix.work.carry.answer_words import by_weight, in_a_hundred, instead, rest_of, works_of
from ombix.work.carry.port_answer import PortedBinding, PortReport

_MOST_LINES = 12
"""Lines that are shown; the rest is counted."""
_MOST_NAMED = 4
ANSWER_STYLES: dict[str, Style] = {"works": "good", "works but": "warn", "careful": "bad", "gone": "bad"}
_LEGEND = "| is the cursor, [ or ] the other end of what is selected."
_CAREFUL = "--careful"
"""The option that has the careful ones written."""


def port_report(report: PortReport, display: Display, everything: bool = False) -> list[Block]:
    """The account of a port: which keys work, which with a difference, which are gone; with `everything` all of it."""
    blocks: list[Block] = [_headline(report)]
    blocks += [*(line(Cell(remark, "warn")) for remark in report.remarks), Blank()]
    blocks += [*_with_a_difference(report, everything), *_careful(report, everything), *_gone(report)]
    blocks += [*_not_compared(report), *_together(report)]
    if everything:
        blocks += [*_works(report), *_taken(report)]
    else:
        blocks += _taken_in_short(report)
    return [*blocks, *_rehomed(report), *_not_carried(report, display)]


def _headline(report: PortReport) -> Block:
    """How many keys work, in a sentence."""
    different = report.answers["works but"]
    rest = rest_of(report.answers)
    of_them = "" if different == different + report.answers["works"] else f"{different} of them "
    return line(
        Cell(works_of(report.answers, report.target), "strong"), f", {of_them}with a difference" if different else "",
        f"; {rest}." if rest else ".",
    )  # fmt: skip


def _by_cause(found: Sequence[PortedBinding]) -> list[list[PortedBinding]]:
    """Bindings by what is said of them, in their order."""
    causes: dict[tuple[str, ...], list[PortedBinding]] = {}
    for one in found:
        causes.setdefault(one.says, []).append(one)
    return list(causes.values())


def _rows(
    found: Sequence[PortedBinding], everything: bool, more: Callable[[PortedBinding], Sequence[str]] = lambda one: ()
) -> Iterator[tuple[Cell | str, ...]]:
    """A row for each of the bindings of one cause, and below what is said of them."""
    for one in found:
        yield Cell(one.keys, "key"), one.title, Cell(in_a_hundred(one), "quiet")
    for said in [*found[0].says, *(extra for one in found for extra in more(one))]:
        yield "", Cell(said, "quiet"), ""
    if everything:
        yield from _example(found[0])


def _example(one: PortedBinding) -> Iterator[tuple[Cell | str, ...]]:
    if one.example is None:
        return
    names = ("before", "wanted", "there")
    for name, lines in zip(names, one.example, strict=True):
        for number, text in enumerate(lines):
            yield "", f"{'' if number else name:<8}{visible(text)}", ""


def _with_a_difference(report: PortReport, everything: bool) -> Iterator[Block]:
    found = by_weight([one for one in report.bindings if one.answer == "works but"])
    if not found:
        return
    yield Title("Works, but", ANSWER_STYLES["works but"])
    rows = [row for some in _by_cause(found) for row in _rows(some, everything)]
    yield Grid(rows, ("keys", "what they do, and how otherwise", "in 100 presses"), 2)
    if everything and any(one.example is not None for one in found):
        yield line(_LEGEND, indent=2)
    yield Blank()


def _careful(report: PortReport, everything: bool) -> Iterator[Block]:
    found = by_weight([one for one in report.bindings if one.answer == "careful"])
    for is_written in (False, True):
        some = [one for one in found if (one.target_keys is not None) == is_written]
        if not some:
            continue
        title = "Careful" if is_written else f"Careful, so not written ({_CAREFUL} writes them)"
        yield Title(title, ANSWER_STYLES["careful"])
        rows = [
            row for each in _by_cause(some) for row in _rows(each, everything, lambda one: [one.now] if one.now else [])
        ]
        yield Grid(rows, ("keys", "what they would do, and how otherwise", "in 100 presses"), 2)
        yield Blank()


def _gone(report: PortReport) -> Iterator[Block]:
    found = [one for one in report.bindings if one.answer == "gone"]
    if not found:
        return
    yield Title("Gone", ANSWER_STYLES["gone"])
    rows: list[tuple[Cell | str, ...]] = []
    for one in found:
        rows.append((Cell(one.keys, "key"), one.title))
        if said := " ".join(instead(one)):
            rows.append(("", Cell(said, "quiet")))
    yield Grid(rows, indent=2)
    yield Blank()


def _not_compared(report: PortReport) -> Iterator[Block]:
    """The keys whose commands were never compared, in one sentence."""
    found = [one for one in report.bindings if not one.is_compared and one.answer == "works"]
    if not found:
        return
    keys = ", ".join(one.keys for one in found)
    commands = "command" if len(found) == 1 else "commands"
    yield line("Not compared: ", Cell(keys, "key"), f" ({report.target}'s own {commands} of that name).")
    yield Blank()


def _together(report: PortReport) -> Iterator[Block]:
    if report.together:
        yield Title("Works alone, and not one after the other", ANSWER_STYLES["works but"])
        yield Grid([(Cell(", ".join(one.keys), "key"), one.how) for one in report.together], indent=2)
        yield Blank()


def _not_carried(report: PortReport, display: Display) -> Iterator[Block]:
    found = report.not_carried
    if not found:
        return
    yield Title(f"Lines of the file that are not carried over ({len(found)})", "")
    shown = found[:_MOST_LINES]
    yield Grid([(Cell(visible(one.text), "key"), visible(one.reason)) for one in shown], indent=2)
    if len(found) > len(shown):
        yield line(f"and {len(found) - len(shown)} more", indent=2)
    yield Blank()


def _works(report: PortReport) -> Iterator[Block]:
    found = [one for one in report.bindings if one.answer == "works"]
    if found:
        yield Title("Works", ANSWER_STYLES["works"])
        yield Grid([(Cell(one.keys, "key"), one.title, Cell(one.how, "quiet")) for one in found], indent=2)
        yield Blank()
    yield line(f"Read back and compared: {report.decisions_compared} decisions, none differs unsaid.")
    yield Blank()


def _taken_in_short(report: PortReport) -> Iterator[Block]:
    """How many of the target's own keys do something else, and which of those that are used all day."""
    found = {
        one.target_keys or one.keys: any(each.is_frequent for each in one.displaced)
        for one in report.bindings
        if one.displaced
    }
    found |= {each.keys: False for one in report.bindings for each in one.cleared}
    if not found:
        return
    frequent = [keys for keys, is_frequent in found.items() if is_frequent][:_MOST_NAMED]
    named = f", {' and '.join(filter(None, (', '.join(frequent[:-1]), frequent[-1])))} among them" if frequent else ""
    count = len(found)
    yield line(
        f"{count} of {report.target}'s own keys {'does' if count == 1 else 'do'} something else now{named}. All of it: --all"
    )
    yield Blank()


def _taken(report: PortReport) -> Iterator[Block]:
    found = list(dict.fromkeys(_taken_keys(report.bindings)))
    if found:
        yield Title(f"{report.target}'s own keys that do something else now", "")
        yield Grid([(Cell(keys, "key"), f"was {was}", now) for keys, was, now in found], indent=2)
        yield Blank()


def _taken_keys(bindings: Sequence[PortedBinding]) -> Iterator[tuple[str, str, str]]:
    """What lost its keys in the target: the keys, what they did, and what they do now."""
    for binding in bindings:
        keys = binding.target_keys or binding.keys
        if binding.displaced:
            yield keys, ", ".join(dict.fromkeys(each.title for each in binding.displaced)), f"now {binding.title}"
        for other in binding.cleared:
            is_longer = other.keys.count(" ") > (binding.target_keys or "").count(" ")
            yield other.keys, other.action, f"gone: {keys} would {'wait' if is_longer else 'be out of reach'}"


def _rehomed(report: PortReport) -> Iterator[Block]:
    if report.rehomed:
        yield Title("Defaults with new keys", "")
        yield Grid(
            [
                (Cell(one.new, "key"), one.action, f"was {one.old}", Cell(", ".join(one.sections), "quiet"))
                for one in report.rehomed
            ],
            indent=2,
        )
        yield Blank()


def port_page(report: PortReport, display: Display) -> list[Block]:
    """The whole account of a port, a row a binding."""
    rows = []
    for answer in ANSWER_STYLES:
        for one in by_weight([each for each in report.bindings if each.answer == answer]):
            said = " ".join(instead(one) if answer == "gone" else (*one.says, one.now)).strip()
            where = "" if one.where == "always" else one.where
            rows.append((answer, Cell(one.keys, "key"), one.title, where, in_a_hundred(one), said))
    table = Grid(rows, ("answer", "keys", "what they do", "when", "in 100 presses", "how"))
    return [_headline(report), Blank(), table, Blank(), *_taken(report), *_rehomed(report)]
