"""Every document that `--json` prints is what `ombix schema` says of it."""

import json
import re
import subprocess
from pathlib import Path

import jsonschema
import pytest

from ombix.console.command_files import called
from tests.helpers import ombix

CALLS = [
    ("what", "F8"), ("what", "F24"), ("what", "Ctrl+/", "--layout", "de"), ("what", "F8", "--in", "program is paused"),
    ("how", "duplicate", "line"), ("how", "xyzzy"), ("show",), ("show", "--platforms"), ("show", "--unbound"),
    ("show", "--editor", "pier"), ("audit",), ("audit", "--explain", "clash"), ("port", "--to", "pier", "--dry-run"),
    ("port", "--dry-run", "--rehome"), ("compare", "desk", "pier"), ("prove", "--to", "pier", "--on-stage"),
    ("press", "Alt+C", "Mod+D"), ("adopt", "desk/bindings.json", "--dry-run"), ("bind", "app.help", "F8", "--dry-run"),
    ("unbind", "F8", "--dry-run"), ("editors",), ("editors", "nano"), ("describe", "--check", "rowboat"), ("layouts",),
    ("layouts", "de"), ("undo",), ("editors", "trust", "rowboat"), ("editors", "packages",), ("undo", "--list"),
    ("effort", "Mod+K", "--beside", "Ctrl+ß"),
    ("free", "line.sort"), ("free", "--keys", "Mod+D"), ("bind", "line.sort"), ("move", "app.help", "F12", "--dry-run"),
    ("narrow", "app.help", "--where", "modified", "--dry-run"), ("settle", "--rule", "clash"),
    ("settle", "--rule", "clash", "--take", "all", "--dry-run"), ("status",), ("status", "--workspace", "machines.toml"),
    ("apply", "--workspace", "machines.toml", "--yes", "--dry-run"), ("apply",), ("macro", "list", "--workspace", "macros"),
    ("macro", "show", "crossing", "--workspace", "macros"), ("macro", "show", "first-of-day", "--workspace", "macros"),
    ("macro", "try", "cancel-two", "--workspace", "macros"), ("macro", "try", "crossing", "--workspace", "macros"),
    ("macro", "record", "two", "Alt+D", "--workspace", "macros", "--dry-run"),
    ("macro", "port", "--to", "kate", "--workspace", "macros"),
    ("sheet", "--layout", "de"), ("sheet", "--on", "linux", "--on", "mac", "--by", "key"), ("sheet", "--against", "keyboards"),
    ("picture", "--with", "Ctrl"), ("picture", "--strain", "--keyboard", "split"), ("picture", "--editor", "nano"),
    ("practice", "--list"), ("page",), ("page", "--editor", "nano", "--to", "pier"),
    ("merge", "two-piers/before.keys.toml", "two-piers/north.keys.toml", "two-piers/south.keys.toml"),
    ("use", "use/crew.jsonl"), ("use", "use/crew.jsonl", "--strain"), ("use", "savings", "--log", "use/crew.jsonl"),
    ("use", "savings", "line.copy-down", "100/day"), ("use", "suggest", "--log", "use/crew.jsonl"),
    ("changes",), ("changes", "blame", "F8"), ("git", "check"), ("git", "audit"),
    ("fold", "x.keys.toml", "linux=keyboards/desk.keys.toml", "mac=keyboards/drawing-room.keys.toml", "--dry-run"),
]  # fmt: skip


@pytest.mark.parametrize("call", CALLS, ids=" ".join)
def test_a_document_is_what_its_schema_says(ferry: Path, call: tuple[str, ...]) -> None:
    if call[0] in ("changes", "git"):
        for words in (
            ["init", "-q"],
            ["add", "."],
            ["-c", "user.name=x", "-c", "user.email=x@y.invalid", "commit", "-qm", "x"],
        ):
            subprocess.run(["git", *words], cwd=ferry, check=True, capture_output=True)
        keymap = ferry / "crew.keys.toml"
        keymap.write_text(keymap.read_text().replace('"F3"', '"F4"').replace("Alt+U", "Alt+I"))
        subprocess.run(["git", "add", "."], cwd=ferry, check=True)
    if call[0] == "undo":
        assert ombix(ferry, "bind", "app.help", "F12").status == 0
    ran = ombix(ferry, *call, "--json")
    assert ran.status in (0, 1), ran.err
    schema = json.loads(ombix(ferry, "schema", *called(call)[0].split()).out)
    jsonschema.Draft202012Validator.check_schema(schema)
    validator = jsonschema.Draft202012Validator(schema)
    validator.validate(json.loads(ran.out))
    # A document of something else is none.
    assert not validator.is_valid({"keys": 5})


def test_init_too(tmp_path: Path) -> None:
    folder = tmp_path / "new"
    folder.mkdir()
    schema = json.loads(ombix(folder, "schema", "init").out)
    jsonschema.validate(json.loads(ombix(folder, "init", "--json").out), schema)


def test_every_command_with_a_document_has_a_schema(ferry: Path) -> None:
    table = ombix(ferry, "schema")
    assert table.status == 0
    named = {re.split("  +", line)[0] for line in table.out.split("\n")[1:] if line and not line.startswith(" ")}
    assert named == {called(call)[0] for call in CALLS} | {"init"}
    assert ombix(ferry, "schema", "waht").status == 2
