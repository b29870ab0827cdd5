"""The models of everyday work that ship, as they stand in `data/everyday`."""

from functools import lru_cache
from pathlib import Path

from ombix.core.decoding import shaped
from ombix.data.shipped import DATA, read_table
from ombix.text.effects.everyday_states import EverydayModel

FOLDER = DATA / "everyday"


@lru_cache(maxsize=1)
def everyday_models() -> tuple[EverydayModel, ...]:
    """All of them. An answer that is not the same in each takes the worst one."""
    return tuple(map(model_in, sorted(FOLDER.glob("*.toml"))))


def model_in(file: Path) -> EverydayModel:
    """The model in a file. Raises msgspec.ValidationError."""
    return shaped(read_table(file), EverydayModel)
