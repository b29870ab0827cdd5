"""From the neutral model to another editor's means: for each binding a verdict, and what is to be written.

`port` makes it, `check` holds what was read back against it.
"""

from ombix.core.porting.checking import PortCheck, check
from ombix.core.porting.request import PortRequest, PortSource
from ombix.core.porting.translate_keymap import port
from ombix.core.porting.verdicts import (
    PORT_LAYER,
    VERDICTS,
    Judgement,
    Port,
    PortEntry,
    Rehomed,
    TargetCommand,
    TargetEditor,
    Verdict,
    said_plainly,
)

__all__ = [
    "PORT_LAYER", "VERDICTS", "Judgement", "Port", "PortCheck", "PortEntry", "PortRequest", "PortSource", "Rehomed",
    "TargetCommand", "TargetEditor", "Verdict", "check", "port", "said_plainly",
]  # fmt: skip
