"""Templates that somebody else may have written: they look at an answer, and can neither change it nor take all memory."""

import signal
from collections.abc import Iterator
from contextlib import contextmanager
from types import FrameType
from typing import Any

from jinja2 import StrictUndefined
from jinja2.exceptions import SecurityError
from jinja2.runtime import Context
from jinja2.sandbox import ImmutableSandboxedEnvironment

_MOST = 10_000_000
"""Characters that a template makes, and the greatest number that it reckons with."""
_SECONDS = 5.0
"""How long it may take."""


class TemplateSandbox(ImmutableSandboxedEnvironment):
    """Where templates are filled; in `markup` what is put in is made harmless."""

    intercepted_binops = frozenset(["*", "**"])

    def __init__(self, markup: bool) -> None:
        super().__init__(undefined=StrictUndefined, autoescape=markup, keep_trailing_newline=True)

    def call_binop(self, context: Context, operator: str, left: Any, right: Any) -> Any:
        """Multiply, or raise to a power, where that makes nothing huge."""
        sizes = [len(one) if isinstance(one, str | list | tuple) else abs(one) for one in (left, right)]
        if (sizes[0] * sizes[1] if operator == "*" else sizes[0].bit_length() * sizes[1]) > _MOST:
            raise SecurityError("it makes something that is too large")
        return super().call_binop(context, operator, left, right)

    def filled(self, text: str, answer: Any) -> str:
        """A template's text, filled with an answer. Raises TemplateError, and what Python raises for what cannot be done."""
        found, length = [], 0
        with _in_time():
            for piece in self.from_string(text).generate(answer=answer):
                length += len(piece)
                if length > _MOST:
                    raise SecurityError("it makes a text that is too long")
                found.append(piece)
        return "".join(found)


@contextmanager
def _in_time() -> Iterator[None]:
    """End what takes too long, where the system can tell that (POSIX, setitimer)."""
    if not hasattr(signal, "setitimer"):
        yield
        return

    def stop(number: int, frame: FrameType | None) -> None:
        raise SecurityError("it takes too long")

    before = signal.signal(signal.SIGALRM, stop)
    signal.setitimer(signal.ITIMER_REAL, _SECONDS)
    try:
        yield
    finally:
        signal.setitimer(signal.ITIMER_REAL, 0)
        signal.signal(signal.SIGALRM, before)
