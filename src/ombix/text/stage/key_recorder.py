"""Keys that are recorded, to be pressed again: the last ones, and those in registers."""

from ombix.core.keys.notation import Chord, Trigger


class KeyRecorder:
    """Records chords. `last` are the keys that were recorded or played last."""

    def __init__(self) -> None:
        self.last: Trigger = ()
        self._recorded: dict[str, Trigger] = {}
        self._recording: list[Chord] | None = None
        self._slot = ""

    @property
    def is_recording(self) -> bool:
        """Whether keys are being recorded."""
        return self._recording is not None

    def add(self, chord: Chord) -> None:
        """A chord was pressed."""
        if self._recording is not None:
            self._recording.append(chord)

    def begin(self, slot: str = "") -> None:
        """Record from now on, into a register; without a name, into none."""
        self._recording, self._slot = [], slot

    def end(self, by: int) -> None:
        """Record no more: the last `by` chords asked for that, and are left out."""
        if self._recording is not None:
            self.last = self._recorded[self._slot] = tuple(self._recording[: len(self._recording) - by])
            self._recording = None

    def keys(self, slot: str = "") -> Trigger:
        """What was recorded into a register, or into none; empty for nothing."""
        found = self._recorded.get(slot, ())
        self.last = found or self.last
        return found
