"""The shape of a sample of lines, some of which have comments behind what they say."""

import re
from collections.abc import Iterator

from ombix.editors.drafting.line_blocks import END
from ombix.editors.drafting.line_shapes import begun_comments, shape_of_lines
from ombix.editors.drafting.sample_shape import Shape
from ombix.editors.formats.lines import without_comment

_WORD = re.compile(r"[A-Za-z][\w.-]*")
_USUAL = ("#", "//")
"""What begins a comment behind a statement where no line is a comment."""


def lines_shape(text: str, known: frozenset[str]) -> Shape | None:
    """The form of a file with a statement on each line, behind which comments may stand; None where no keys stand in it."""
    plain = shape_of_lines(text, known)
    for sign in _signs(text):
        bare = shape_of_lines("\n".join(_bare(line, sign) for line in text.splitlines()), known)
        if bare is not None and _is_better(bare, plain, sign):
            bare.comment, bare.has_trailing_comments = sign, True
            return bare
    return plain


def _bare(line: str, sign: str) -> str:
    """A line without the comment behind what it says; with it, where only a word would be left, so that the sign is a key."""
    bare = without_comment(line, sign)
    return line if _WORD.fullmatch(bare.strip()) and not END.fullmatch(bare.strip()) else bare


def _signs(text: str) -> Iterator[str]:
    """What may begin a comment behind a statement of a text: what begins one on a line of its own, or else what usually does."""
    lines = [line.strip() for line in text.splitlines() if line.strip()]
    own = begun_comments(lines)
    for sign in own or _USUAL:
        if any(without_comment(line, sign) != line for line in lines if not line.startswith(sign)):
            yield sign


def _is_better(bare: Shape, plain: Shape | None, sign: str) -> bool:
    """Whether more is understood without what stands behind the sign."""
    if plain is None:
        return True
    has_sign = any(f" {sign} " in f" {form.pattern} " for form in plain.forms)
    has_sign = has_sign or any(f" {sign} " in f" {record.command} " for record in plain.records)
    return len(bare.records) >= len(plain.records) and (len(bare.others) < len(plain.others) or has_sign)
