"""What is known of editors, and whether a description holds."""

from typing import NamedTuple


class KnownCommand(NamedTuple):
    """An editor's command: the action that it is, or what it does that no other editor has."""

    action: str | None
    only: str | None
    differs: str | None


class DefaultKey(NamedTuple):
    """A default key of an editor."""

    keys: str
    does: str
    when: str


class EditorAbilities(NamedTuple):
    """An editor: what its file can express, and how it decides."""

    name: str
    title: str
    version: str
    file: str
    format: str
    usual: tuple[str, ...]
    sections: dict[str, str]
    chords: int
    longest_sequence: int
    documented_commands: int
    mapped_commands: int
    default_keys: int
    installed: bool
    simulated: bool
    can_tell: tuple[str, ...]
    wins: str
    prefix: str
    wait_ms: int
    known_from: tuple[str, ...]
    notes: tuple[str, ...]
    commands: dict[str, KnownCommand]
    keys: tuple[DefaultKey, ...]


class EditorList(NamedTuple):
    """The editors that Ombix knows."""

    editors: tuple[EditorAbilities, ...]


class DescriptionTest(NamedTuple):
    """One test of a description: what was tested, on how much, and what is wrong."""

    title: str
    tested: int
    faults: tuple[str, ...]


class DescriptionReport(NamedTuple):
    """The tests of a description of an editor."""

    name: str
    title: str
    version: str
    checks: tuple[DescriptionTest, ...]

    @property
    def faults(self) -> int:
        """How many faults there are in all."""
        return sum(len(check.faults) for check in self.checks)
