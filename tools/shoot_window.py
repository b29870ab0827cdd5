"""A picture of an editor's window with the demo's keymap, behind some keys: python tools/shoot_window.py EDITOR FILE.png KEYS…
The port is pressed as `ombix prove` does it."""

import sys
import threading

from PIL import Image

from ombix.data.shipped import DATA
from ombix.evidence.editor_host import EditorHost, opened
from ombix.evidence.editor_run import Start
from ombix.evidence.sandbox import best_sandbox
from ombix.evidence.window_run import WindowRun
from ombix.work.carry import carry_questions
from ombix.workspace.open_workspace import OpenWorkspace

TEXT = "pier = north\n08:10 out\n08:40 back\n09:10 out\n"


def main() -> int:
    editor, file, *keys = sys.argv[1:]
    (made,) = carry_questions.make_ports(OpenWorkspace(folder=str(DATA / "demo"), state=""), editor)
    description = made.target.description
    assert description.program is not None
    start = Start(description.file.name, made.file.text, TEXT, 3, 3)
    with opened(description.program, start, EditorHost(best_sandbox()), threading.Event()) as one:
        assert isinstance(one.run, WindowRun)
        if reason := one.run.wait_until_ready():
            print(reason, file=sys.stderr)
            return 3
        for key in keys:
            one.run.send(key.encode())
            one.run.wait(0.3)
        width, pixels = one.run.shot()
        Image.frombytes("RGB", (width, len(pixels) // width // 4), pixels, "raw", "BGRX").save(file)
    return 0


if __name__ == "__main__":
    sys.exit(main())
