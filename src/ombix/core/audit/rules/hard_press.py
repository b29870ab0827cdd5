"""Keys that need a dead key, a third level or Fn."""

from collections.abc import Iterator, Sequence

from ombix.core.audit.model import AuditSubject, Finding, Rule, at, put_together
from ombix.core.keys.notation import ALTGR
from ombix.core.pressing.layouts import KeyboardSetup, PhysicalPress


def check(subject: AuditSubject) -> Iterator[Finding]:
    """Own bindings whose easiest press on the layout at hand needs one of them."""
    if not subject.setups:
        return
    setup = subject.setups[0]
    for binding in subject.own:
        found = setup.press_sequence(binding.trigger)
        if isinstance(found, str):
            continue
        needs = [
            need
            for press, chord in zip(found, binding.trigger, strict=True)
            if not chord.modifiers & ALTGR and (need := _need(press, setup))
        ]
        if needs:
            keys = subject.show(binding.keys)
            message = f"{keys} for {binding.outcome} is {setup.show(binding.trigger)}: it needs {needs[0]}"
            cause = f"need {needs[0]}"
            yield RULE.finding(message, at(binding), binding.trigger, subject.states(binding), cause=cause)


def _need(press: PhysicalPress, setup: KeyboardSetup) -> str:
    if press.first is not None or press.is_dead:
        return f"a dead key on the layout {setup.layout.title}"
    if press.third:
        return f"the third level of the layout {setup.layout.title}"
    return "Fn on this keyboard" if press.fn else ""


def together(subject: AuditSubject, findings: Sequence[Finding]) -> Finding:
    """One finding for all keys that need the same."""
    setup = subject.setups[0]
    shown = [f"{subject.show(keys)} ({setup.show(keys)})" for finding in findings for keys in finding.keys]
    return put_together(findings, f"{', '.join(dict.fromkeys(shown))} {findings[0].cause}")


RULE = Rule(
    name="hard-press",
    severity="note",
    what="On the layout at hand the character is a dead key or on the third level, or the key is behind Fn.",
    why="It takes a finger more, some programs do not see a dead key, and AltGr beside other modifiers often does not "
    "arrive.",
    example="""\
format = 1
name = "example"

[bind.line]
indent = "Alt+}"
outdent = "Alt+{"
""",
    workspace='layout = "de"',
    mend="Choose a key of the first level, or the place instead of the character, like [BracketLeft].",
    check=check,
    together=together,
)
