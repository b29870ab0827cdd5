"""Texts in large letters for a terminal, drawn with half blocks (Unicode 16, Block Elements)."""

from ombix.report.drawing.typefaces import Typefaces

_BLOCKS = {(False, False): " ", (True, False): "▀", (False, True): "▄", (True, True): "█"}
_HALF = 110
"""How light a point is at the least to be shown, from 0 to 255."""


def large(text: str, rows: int, width: int, typefaces: Typefaces) -> list[str]:
    """A text so many rows high, in lines of at most `width` cells; in fewer rows, or as it is, where it would not fit."""
    from PIL import Image, ImageDraw

    for height in range(rows, 3, -1):
        size = height * 2 * 0.95
        needed = round(typefaces.width(text, size, True)) + 1
        if needed > width:
            continue
        image = Image.new("L", (needed, height * 2))
        draw, x = ImageDraw.Draw(image), 0.0
        for run in typefaces.runs(text, True):
            font = typefaces.loaded(run.file, size)
            draw.text((x, height * 2 * 0.78), run.text, fill=255, font=font, anchor="ls")
            x += font.getlength(run.text)
        bits = image.point(lambda value: 255 * (value >= _HALF)).tobytes()
        return [
            "".join(
                _BLOCKS[bool(bits[2 * row * needed + at]), bool(bits[(2 * row + 1) * needed + at])]
                for at in range(needed)
            ).rstrip()
            for row in range(height)
        ]
    return [text]
