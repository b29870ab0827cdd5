"""The language of effects: `if selected { delete selection } else { delete to left }`, read into programs that run.

A program is steps, one after the other with `;` between. A step is a word with what it is about, `times NUMBER { … }` or
`together NUMBER { … }`, `over KIND OPERATOR { MOVEMENT }`, or `if TEST { … } else { … }`, where a test is words with `and`,
`or` and `not`. The words are those of `ombix.text.effects.step_words`. A step that cannot do its work ends the whole program, as
an editor does that beeps.
"""

import re
from collections.abc import Callable
from functools import lru_cache

from ombix.core.errors import InputError, did_you_mean
from ombix.core.keymap.outcomes import MAX_COUNT
from ombix.text.effects.buffer import Buffer
from ombix.text.effects.operators import KINDS, OPERATORS, over
from ombix.text.effects.program_words import TESTS, Stop, Test
from ombix.text.effects.step_words import STEPS

_TOKEN = re.compile(r'\s*(?:([{};])|("(?:[^"\\]|\\.)*")|([^\s{};"]+))')

Run = Callable[[Buffer], None]


_TOPICS = {
    "words": re.compile(
        r"\b(?:next-start|previous-start|next-end|past-word|before-word|chop-(?:left|right)|run-(?:left|right)|select-word"
        r"|word|word-last|previous-last|(?:next|previous)-(?:part|same-word)|selection-or-word|words)\b"
    ),
    "tabs": re.compile(r"\bindent|\boutdent|\\t|\btabs|\bspaces|-indent|\blevel-"),
    "rows": re.compile(
        r"\b(?:up|down|top|bottom|goal|line-start|line-end|line-above|line-after|last-sign|text-start|column|level-(?:above|below))\b"
    ),
    "breaks": re.compile(r"\bbreak"),
    "line-start": re.compile(r"\b(?:line-start|text-start)\b"),
    "deleting": re.compile(r"\b(?:delete|remove)\b"),
    "paragraphs": re.compile(r"\b(?:block-start|next-block|previous-blank|next-blank|paragraph|filled)"),
    "typing": re.compile(r"\b(?:insert|type|fill)\b"),
}  # fmt: skip
"""What programs are about that settings of an editor may change, and the words that tell it."""
TOPICS = ("all", *_TOPICS)
FACT_STEPS = frozenset({"does", "now", "ends"})
"""Steps that change facts of the editor, and not its text."""
_NO_TEXT = FACT_STEPS | {"stop", "stay", "changed", "always"}


class EffectProgram:
    """What a command does, ready to be run. `text` is how it is written; two with the same text are equal. `about` are the
    words that it is made of: of steps, and of tests."""

    __slots__ = ("_steps", "about", "adds_up", "keeps_goal", "text", "topics")

    def __init__(self, text: str) -> None:
        self.text = text
        reader = _Reader(text)
        self._steps = reader.program()
        self.about = frozenset(reader.words)
        self.adds_up = "adds-up" in text or "kill" in text
        self.topics = frozenset({"all", *(name for name, words in _TOPICS.items() if words.search(text))})
        is_only_test = re.fullmatch(r"if [^{}]* \{ stop \}", text) is not None
        self.keeps_goal = is_only_test or re.search(r"\b(up|down|top|bottom|goal)\b", text) is not None

    def __eq__(self, other: object) -> bool:
        return isinstance(other, EffectProgram) and self.text == other.text

    def __hash__(self) -> int:
        return hash(self.text)

    def __repr__(self) -> str:
        return f"EffectProgram({self.text!r})"

    @property
    def has_facts(self) -> bool:
        """Whether it does something beside the text."""
        return bool(self.about & FACT_STEPS)

    @property
    def is_only_facts(self) -> bool:
        """Whether it does nothing to the text, and does not go by it."""
        return self.about <= _NO_TEXT

    def run(self, buffer: Buffer) -> bool:
        """Run on a buffer, which is changed; whether it came to its end."""
        try:
            for step in self._steps:
                step(buffer)
        except Stop:
            return False
        finally:
            if not self.keeps_goal:
                buffer.goal = None
        return True


@lru_cache(maxsize=4096)
def program(text: str) -> EffectProgram:
    """The program that a text says. Raises InputError with what is wrong with it."""
    return EffectProgram(text)


class _Reader:
    def __init__(self, text: str) -> None:
        self._text = text
        self.words: set[str] = set()
        self._tokens = [match[1] or match[2] or match[3] for match in _TOKEN.finditer(text)]
        if re.sub(r"\s", "", "".join(self._tokens)) != re.sub(r"\s", "", text):
            raise InputError(f"this is no program of effects: {text}", "Look at the quotes in it.")
        self._at = 0

    def program(self) -> tuple[Run, ...]:
        steps = self._block()
        if self._at < len(self._tokens):
            raise InputError(f"}} closes nothing in the program {self._text}", "Take it out.")
        return steps

    def _peek(self) -> str:
        return self._tokens[self._at] if self._at < len(self._tokens) else ""

    def _take(self) -> str:
        self._at += 1
        return self._tokens[self._at - 1] if self._at <= len(self._tokens) else ""

    def _block(self) -> tuple[Run, ...]:
        steps: list[Run] = []
        while self._peek() not in ("", "}"):
            if self._peek() == ";":
                self._take()
            elif self._peek() == "if":
                steps.append(self._branch())
            elif self._peek() in ("times", "together"):
                steps.append(self._repeated())
            elif self._peek() == "over":
                steps.append(self._operated())
            else:
                steps.append(self._step())
        return tuple(steps)

    def _step(self) -> Run:
        words = []
        while self._peek() not in ("", ";", "{", "}"):
            words.append(self._take())
        self.words.add(words[0])
        build = STEPS.get(words[0])
        if build is None:
            raise InputError(f"there is no step {words[0]} in {self._text}", did_you_mean(words[0], list(STEPS)))
        try:
            return build(words[1:])
        except (KeyError, IndexError, ValueError):
            raise InputError(
                f"the step {' '.join(words)} is not complete, or names no place", "See: docs/effects.md"
            ) from None

    def _repeated(self) -> Run:
        """Steps that are run so many times: as often as they can do their work, at least once, or `together` all or none."""
        is_whole = self._take() == "together"
        number = self._take()
        if not number.isdigit() or not 0 < int(number) <= MAX_COUNT:
            raise InputError(f"{number or 'nothing'} is no number of times in {self._text}", "Write one from 1 on.")
        steps, times = self._braces(), int(number)

        def run(buffer: Buffer) -> None:
            before = buffer.copy() if is_whole else None
            for index in range(times):
                try:
                    for step in steps:
                        step(buffer)
                except Stop:
                    if before is not None:
                        buffer.become(before)
                    if index and before is None:
                        return
                    raise

        return run

    def _operated(self) -> Run:
        """An operator over what the steps in braces move over."""
        self._take()
        kind, operator = self._take(), self._take()
        self.words.add("over")
        steps = self._braces()
        try:
            return over(kind, operator, steps)
        except KeyError as error:
            known = ", ".join((*KINDS, *OPERATORS))
            raise InputError(f"there is no {error.args[0]} in {self._text}", f"Known are {known}.") from None

    def _branch(self) -> Run:
        self._take()
        words = []
        while self._peek() not in ("", "{"):
            words.append(self._take())
        self.words.update(word for word in words if word not in ("not", "and", "or"))
        test = _test(words, self._text)
        yes = self._braces()
        no: tuple[Run, ...] = ()
        if self._peek() == "else":
            self._take()
            no = (self._branch(),) if self._peek() == "if" else self._braces()

        def run(buffer: Buffer) -> None:
            for step in yes if test(buffer) else no:
                step(buffer)

        return run

    def _braces(self) -> tuple[Run, ...]:
        if self._take() != "{":
            raise InputError(f"{{ is missing in the program {self._text}", "Write if TEST { STEPS }.")
        steps = self._block()
        if self._take() != "}":
            raise InputError(f"}} is missing in the program {self._text}", "Add it.")
        return steps


def _test(words: list[str], text: str) -> Test:
    """A test: words, each perhaps behind `not`, joined by `and`; such rows joined by `or`."""
    if "or" in words:
        at = words.index("or")
        first, second = _test(words[:at], text), _test(words[at + 1 :], text)
        return lambda buffer: first(buffer) or second(buffer)
    found: list[tuple[Test, bool]] = []
    is_so = True
    for word in words:
        if word == "not":
            is_so = not is_so
        elif word != "and":
            if word not in TESTS:
                raise InputError(f"there is no test {word} in {text}", did_you_mean(word, list(TESTS)))
            found.append((TESTS[word], is_so))
            is_so = True
    if not found:
        raise InputError(f"a test is missing in {text}", f"Tests are {', '.join(TESTS)}.")
    if len(found) == 1:
        one, wanted = found[0]
        return one if wanted else lambda buffer: not one(buffer)
    return lambda buffer: all(one(buffer) == wanted for one, wanted in found)
