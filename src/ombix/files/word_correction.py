"""Words that mean nothing corrected where they stand, in a text that cannot be read yet."""

from collections.abc import Sequence

from ombix.core.errors import InputError
from ombix.core.keymap.changes import Correct, in_words


def corrected(text: str, corrections: Sequence[Correct]) -> tuple[str, list[tuple[Correct, str, str]]]:
    """The text with other words at given places, the last place first; and for each its line before and after. Raises InputError
    where another word stands there."""
    lines, done = text.split("\n"), []
    for one in sorted(corrections, key=lambda one: (one.line, one.column), reverse=True):
        line = lines[one.line - 1] if 0 < one.line <= len(lines) else ""
        if not line.startswith(one.word, one.column - 1):
            raise InputError(f"there is no {one.word} to {in_words(one)}", "See: ombix audit")
        lines[one.line - 1] = line[: one.column - 1] + one.to + line[one.column - 1 + len(one.word) :]
        done.append((one, line.strip(), lines[one.line - 1].strip()))
    return "\n".join(lines), done
