"""How long a press takes in each real editor, in one that runs already and in one that is started for it:
python bench/pressing.py [EDITOR…]."""

import platform
import sys
import time

from ombix.data.shipped import Shipped
from ombix.editors.description_loading import Dialects
from ombix.evidence import effect_conformance
from ombix.evidence.editor_host import EditorHost, Runs, is_ready
from ombix.evidence.sandbox import best_sandbox

COUNT = 20


def seconds(editor: str, is_fresh: bool) -> float:
    """Seconds for a press, without the first one, which starts the editor."""
    shipped = Shipped()
    dialect = Dialects(shipped).load(editor)
    program = dialect.description.program
    assert program is not None
    commands = effect_conformance.commands_of(dialect, dialect.edited_sections[0], shipped.catalogue())
    some = list(effect_conformance.cases(commands, COUNT * 2, 7, alone=True))[: COUNT + 1]
    with Runs(program, EditorHost(best_sandbox())) as runs:
        effect_conformance.run(some[0], commands, runs, is_fresh)
        begun = time.monotonic()
        for case in some[1:]:
            effect_conformance.run(case, commands, runs, is_fresh)
        return (time.monotonic() - begun) / (len(some) - 1)


def main() -> None:
    """Print a row for each editor."""
    dialects = Dialects(Shipped())
    print(f"{platform.machine()}, Python {platform.python_version()}, {COUNT} presses each, one after the other")
    for name in sys.argv[1:] or dialects.names():
        program = dialects.load(name).description.program
        if program is None or not is_ready(program):
            continue
        fresh = seconds(name, True)
        again = seconds(name, False) if program.again else fresh
        kind = "window" if program.window else "terminal"
        print(f"{name:10} {kind:9} started each time {fresh:.2f} s; running {again:.2f} s ({again / fresh:.2f})")


if __name__ == "__main__":
    main()
