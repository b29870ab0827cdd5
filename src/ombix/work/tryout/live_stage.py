"""An editor on the stage whose keys come from a terminal, one by one."""

from ombix.core.pressing.sent_keys import keys_sent
from ombix.core.pressing.terminals import Terminal
from ombix.work.tryout.press_answer import StagePress
from ombix.work.tryout.stage_session import OnStage, step_of

_ALWAYS_TOLD = ("mode", "pane")
"""Facts that tell where keys go."""


class LiveStage:
    """An editor on the stage whose keys come from a terminal, as bytes."""

    def __init__(self, staged: OnStage, terminal: Terminal) -> None:
        self.title = staged.title
        self._staged = staged
        self._terminal = terminal
        self._plain = dict(staged.machine.facts)

    def press(self, data: bytes) -> list[StagePress]:
        """Press what a terminal sent; what came of each key."""
        machine, _title, platform = self._staged
        found = []
        for chord in keys_sent(data, self._terminal)[0]:
            before, past = len(machine.happened), machine.state
            machine.press([chord])
            steps = []
            for one in machine.happened[before:]:
                steps.append(step_of(one, past))
                past = one.state
            found.append(StagePress(platform.show((chord,)), tuple(steps)))
        return found

    def state(self) -> dict[str, str]:
        """The facts that are others than in the beginning, with the mode and the pane."""
        facts = self._staged.machine.facts
        return {name: value for name, value in facts.items() if name in _ALWAYS_TOLD or self._plain.get(name) != value}
