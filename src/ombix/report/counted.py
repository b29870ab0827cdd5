"""Numbers with their nouns."""


def _count(number: int, one: str, several: str) -> str:
    return f"{number} {one if number == 1 else several}"
