"""Numbers with their nouns."""


def counted(number: int, one: str, several: str) -> str:
    """A number with the noun that goes with it."""
    return f"{number} {one if number == 1 else several}"
