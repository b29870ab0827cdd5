"""Templates that somebody else may have written, filled in a process of their own: it looks at an answer, and at nothing else.

What a template can have Python work out has no end of forms (a slice of two thousand million, a number padded with zeros, a text
that doubles itself), and a limit on each of them in the language would miss one. So what fills it has limits of the system: on
time, on memory, and no file that it could write.
"""

import contextlib
import json
import subprocess
import sys
from types import SimpleNamespace
from typing import Any

SECONDS = 5
"""How long a template may take, of the processor and by the clock twice that."""
MEMORY = 512 * 2**20
"""Bytes of address space: Python with Jinja needs about 60 MiB."""
MOST = 10_000_000
"""Characters that a template makes."""


class TemplateFault(Exception):
    """What is wrong with a template, and its line (0: none)."""

    def __init__(self, what: str, line: int = 0) -> None:
        super().__init__(what)
        self.line = line


def filled(text: str, answer: Any, markup: bool) -> str:
    """A template's text, filled with an answer (a JSON document); in `markup` what is put in is made harmless. Raises
    TemplateFault."""
    # -P: the folder of the call, in which a stranger's files may lie, is not searched for modules.
    call = [sys.executable, "-P", "-m", __name__]
    request = json.dumps({"text": text, "answer": answer, "markup": markup}).encode()
    try:
        done = subprocess.run(call, input=request, capture_output=True, timeout=2 * SECONDS, check=False)
    except subprocess.TimeoutExpired:
        raise TemplateFault("it takes too long") from None
    try:
        found = json.loads(done.stdout)
    except ValueError:  # the system ended it
        what = "it takes too long" if done.returncode in (-24, -9) else "it makes something that is too large"
        raise TemplateFault(what) from None
    if "fault" in found:
        raise TemplateFault(found["fault"], found["line"])
    return str(found["text"])


def _main() -> None:
    request = json.loads(sys.stdin.buffer.read())
    from jinja2 import TemplateSyntaxError

    try:
        _limit()
        found: dict[str, Any] = {"text": _filled(request["text"], _as_names(request["answer"]), request["markup"])}
    except TemplateSyntaxError as error:
        found = {"fault": str(error.message), "line": error.lineno}
    except MemoryError:
        found = {"fault": "it makes something that is too large", "line": 0}
    except Exception as error:
        found = {"fault": f"it cannot be filled: {error}", "line": 0}
    sys.stdout.write(json.dumps(found))


def _limit() -> None:
    """Take time, memory and files from this process, where the system can (POSIX, setrlimit)."""
    with contextlib.suppress(ImportError, ValueError, OSError):
        import resource

        resource.setrlimit(resource.RLIMIT_CPU, (SECONDS, SECONDS))
        resource.setrlimit(resource.RLIMIT_FSIZE, (0, 0))
        resource.setrlimit(resource.RLIMIT_AS, (MEMORY, MEMORY))


def _filled(text: str, answer: Any, markup: bool) -> str:
    from jinja2 import StrictUndefined
    from jinja2.exceptions import SecurityError
    from jinja2.sandbox import ImmutableSandboxedEnvironment

    sandbox = ImmutableSandboxedEnvironment(undefined=StrictUndefined, autoescape=markup, keep_trailing_newline=True)
    pieces, length = [], 0
    for piece in sandbox.from_string(text).generate(answer=answer):
        length += len(piece)
        if length > MOST:
            raise SecurityError("it makes a text that is too long")
        pieces.append(piece)
    return "".join(pieces)


def _as_names(value: Any) -> Any:
    """Objects whose members are told by a point, also where these are called like something that a table has."""
    if isinstance(value, dict):
        return SimpleNamespace(**{name: _as_names(one) for name, one in value.items()})
    return [_as_names(one) for one in value] if isinstance(value, list) else value


if __name__ == "__main__":
    _main()
