"""Twenty workspaces with a fault: all that the fault does not concern can be asked, and it is said once."""

from pathlib import Path

import pytest

from tests.helpers import ombix, others_long

KEYMAP_FAULTS = [
    ('next = "F7"', 'nxet = "F7"', "unknown action: search.nxet"),
    ('next = "F7"', 'next = "F77"', "unknown key: F77"),
    ('next = "F7"', 'next = "Ctlr+F7"', "unknown modifier: Ctlr"),
    ('next = "F7"', "next = F7", "this is not TOML"),
    ('next = "F7"', 'next = { pres = "F7" }', "unknown key: pres"),
    ('next = "F7"', 'next = { press = "F7", where = "pain is text" }', "unknown fact: pain"),
    ('next = "F7"', 'next = { press = "F7", where = "pane is txt" }', "txt"),
    ('next = "F7"', "next = 7", "keys are a text, not 7"),
    ("[bind.search]", "[bind.serach]", "unknown action: serach.next"),
    ('name = "crew"', 'name = "crew"\ntitel = "x"', "unknown key: titel"),
    ('editing = "pane is text and not readonly"', 'editing = "pane is text and not redonly"', "redonly"),
    ('help = "F1"', 'help = "F1"\n[macro.tide]\npress = "F12"', "the macro tide has no steps"),
]
WORKSPACE_FAULTS = [
    ('platform = "linux"', 'platform = "lunix"', "unknown platform: lunix"),
    ('platform = "linux"', 'layout = "dee"', "unknown layout: dee"),
    ('platform = "linux"', 'desktop = "gnom"', "unknown desktop: gnom"),
    ('platform = "linux"', 'platfrom = "linux"', "unknown key: platfrom"),
    ('dialect = "micro"', 'dialcet = "micro"', "unknown key: dialcet"),
    ('dialect = "micro"', "dialect = micro", "this is not TOML"),
    ('platform = "linux"', 'platform = "linux"\nlayers = "x"', "layers takes a list"),
    ('terminal = "xterm"', 'terminal = "xterm"\n[severity]\nclahs = "note"', "unknown rule: clahs"),
]
CALLS = [
    ("what", "F3"), ("what", "Ctrl+S", "--editor", "pier"), ("how", "save"), ("show", "--own"), ("macro", "list"),
    ("press", "F3"), ("free", "--count", "1"), ("sheet", "--own"), ("practice", "--list"), ("compare", "joe", "nano"),
    ("show", "--editor", "pier", "--own"),
]  # fmt: skip


@pytest.mark.parametrize("call", others_long(CALLS, *CALLS[:5]), ids=" ".join)
@pytest.mark.parametrize(
    ("name", "old", "new", "said"),
    [*(("crew.keys.toml", *one) for one in KEYMAP_FAULTS), *(("ombix.toml", *one) for one in WORKSPACE_FAULTS)],
    ids=[one[2] for one in (*KEYMAP_FAULTS, *WORKSPACE_FAULTS)],
)
def test_what_a_fault_does_not_concern_can_be_asked(
    name: str, old: str, new: str, said: str, call: tuple[str, ...], ferry: Path
) -> None:
    file = ferry / name
    text = file.read_text()
    assert old in text
    file.write_text(text.replace(old, new, 1))
    ran = ombix(ferry, *call, columns=200)
    assert (ran.status in (0, 1), "error:" in ran.err) == (True, False), ran.err
    assert ran.out
    told = " ".join(ran.err.split())
    assert told.count(said) == 1, ran.err
    assert "It is left out" in told and "see: ombix audit" in told
    if call == CALLS[0]:
        found = ombix(ferry, "audit", "--rule", "unknown", columns=200)
        assert (found.status, said in " ".join(found.out.split())) == (1, True), found.out
        assert "files.save-as" in ran.out
