"""Words that mean nothing corrected where they stand, in a text that cannot be read yet."""

from collections.abc import Sequence

from ombix.core.errors import InputError
from ombix.core.keymap.changes import Correct, in_words


def corrected(text: str, corrections: Sequence[Correct]) -> tuple[str, list[tuple[Correct, str, str]]]:
    """The text with other words at given places, the last place first; and for each its line before and after. Raises InputError
    where another word stands there."""
    lines, done = text.split("\n"), []
    for correction in sorted(corrections, key=lambda one: (one.line, one.column), reverse=True):
        line = lines[correction.line - 1] if 0 < correction.line <= len(lines) else ""
        if not line.startswith(correction.word, correction.column - 1):
            raise InputError(f"there is no {correction.word} to {in_words(correction)}", "See: ombix audit")
        lines[correction.line - 1] = (
            line[: correction.column - 1] + correction.to + line[correction.column - 1 + len(correction.word) :]
        )
        done.append((correction, line.strip(), lines[correction.line - 1].strip()))
    return "\n".join(lines), done
