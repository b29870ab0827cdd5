"""Audits in pipelines: forms that other programs read, baselines, earlier versions, severities of a workspace's own."""

import dataclasses
import json
import os
import random
import re
import subprocess
import sys
import typing
from pathlib import Path
from typing import Any
from xml.etree import ElementTree

import jsonschema
import pysarif
import pytest
import tomli

from ombix.work.audit import audit_questions
from tests.files.merging.keymaps import keymap, written
from tests.helpers import ROOT, STAND_INS, ombix

WORKSPACE = (
    'format = 1\nkeymap = "crew.keys.toml"\nplatform = "linux"\nlayout = "de"\n\n[editor.pier]\ndialect = "nano"\n'
)
CREW = """\
format = 1
name = "crew"

[bind.line]
copy-down = "Alt+Y"
delete = "Alt+Y"
sort = "Ctrl+ä"

[bind.files]
save = { press = "F7", where = "pane is text and readonly" }
save-as = { press = "F7", where = "pane is text" }
"""


@pytest.fixture
def pier(tmp_path: Path) -> Path:
    folder = tmp_path / "pier"
    folder.mkdir()
    (folder / "ombix.toml").write_text(WORKSPACE)
    (folder / "crew.keys.toml").write_text(CREW)
    return folder


def sarif(folder: Path, *more: str) -> dict[str, Any]:
    """The log of an audit."""
    ran = ombix(folder, "audit", "--format", "sarif", *more)
    assert ran.status in (0, 1), ran.err
    found = json.loads(ran.out)
    assert isinstance(found, dict)
    return found


# --- SARIF


def check_against(value: Any, kind: Any, path: str) -> None:
    """Whether an object of a log is one of the standard: only properties that it has, all that it needs, of the right types."""
    origin, inner = typing.get_origin(kind), typing.get_args(kind)
    if origin is typing.Union:
        check_against(value, next(one for one in inner if one is not type(None)), path)
    elif origin is list:
        assert isinstance(value, list), path
        for number, one in enumerate(value):
            check_against(one, inner[0], f"{path}[{number}]")
    elif origin is typing.Literal:
        assert value in inner, path
    elif dataclasses.is_dataclass(kind):
        assert isinstance(value, dict), path
        hints = typing.get_type_hints(kind)
        names = {
            re.sub(r"_(.)", lambda match: match[1].upper(), one.name).rstrip("_"): one
            for one in dataclasses.fields(kind)
        }
        names["$schema"] = names.get("schema", next(iter(names.values())))
        needed = {
            name for name, one in names.items()
            if one.default is dataclasses.MISSING and one.default_factory is dataclasses.MISSING and name != "$schema"
        }  # fmt: skip
        assert value.keys() <= names.keys(), (path, value.keys() - names.keys())
        assert needed <= value.keys(), (path, needed - value.keys())
        for name, one in value.items():
            check_against(one, hints[names[name].name], f"{path}.{name}")
    elif kind in (str, int, bool):
        assert isinstance(value, kind), path


def test_a_log_is_one_of_the_standard(pier: Path) -> None:
    log = sarif(pier)
    check_against(log, pysarif.SarifLog, "log")
    (run,) = log["runs"]
    rules = [one["id"] for one in run["tool"]["driver"]["rules"]]
    assert run["results"]
    for one in run["results"]:
        assert rules[one["ruleIndex"]] == one["ruleId"]
        assert one["message"]["text"].strip()
        assert one["level"] in ("error", "warning", "note")
        assert len(one["locations"]) == 1
        region = one["locations"][0]["physicalLocation"]["region"]
        assert 1 <= region["startLine"] <= region["endLine"]
        assert one["locations"][0]["physicalLocation"]["artifactLocation"]["uri"] == "crew.keys.toml"


def test_a_fix_mends_its_finding(pier: Path) -> None:
    (clash,) = [one for one in sarif(pier)["runs"][0]["results"] if one["ruleId"] == "clash"]
    (fix,) = clash["fixes"]
    (change,) = fix["artifactChanges"]
    (replacement,) = change["replacements"]
    lines = CREW.splitlines(keepends=True)
    region = replacement["deletedRegion"]
    assert (region["startColumn"], region["endColumn"]) == (1, 1)
    lines[region["startLine"] - 1 : region["endLine"] - 1] = [replacement["insertedContent"]["text"]]
    (pier / "crew.keys.toml").write_text("".join(lines))
    assert not [one for one in sarif(pier)["runs"][0]["results"] if one["ruleId"] == "clash"]


ELSEWHERE = (
    lambda text, chance: text.replace("[bind.files]", f"# {chance.randrange(10**6)}\n\n[bind.files]", 1),
    lambda text, chance: "# first\n" * chance.randrange(1, 4) + text,
    lambda text, chance: text + f'\n[bind.app]\nhelp = "Ctrl+F{chance.randrange(1, 13)}"\n' if "[bind.app]" not in text else text,
    lambda text, chance: text.replace('name = "crew"\n\n', f'name = "crew"\nextends = []  # {chance.random()}\n'),
    lambda text, chance: text.replace("copy-down =", "copy-down" + " " * chance.randrange(1, 9) + "=", 1),
    lambda text, chance: text.replace('"Ctrl+ä"', '"Ctrl+ä"' + "   # tides"),
)  # fmt: skip


@pytest.mark.long
def test_fingerprints_are_the_same_behind_a_thousand_edits_elsewhere(pier: Path) -> None:
    from ombix.workspace.open_workspace import OpenWorkspace

    def fingerprints(text: str) -> dict[str, str]:
        session = OpenWorkspace(pier / "ombix.toml", folder=str(pier), texts={str(pier / "crew.keys.toml"): text})
        found = audit_questions.audit(session, rules=["clash", "covered", "hard-press", "no-press"]).findings
        return {one.rule: one.fingerprint for one in found}

    known = fingerprints(CREW)
    assert {"clash", "covered"} <= known.keys()
    assert len(set(known.values())) == len(known)
    chance = random.Random(7)
    for _ in range(250):
        text = CREW
        for _edit in range(4):
            text = chance.choice(ELSEWHERE)(text, chance)
        tomli.loads(text)
        assert fingerprints(text) == known
    assert fingerprints(CREW.replace("Alt+Y", "Alt+X"))["clash"] != known["clash"]


# --- other forms


def test_annotations_are_lines_that_say_where(pier: Path) -> None:
    ran = ombix(pier, "audit", "--rule", "clash", "--format", "annotations")
    assert ran.status == 1
    assert re.fullmatch(r"crew\.keys\.toml:5:1: error: Alt\+Y is .* \[clash\]\n", ran.out)


def test_each_rule_is_a_test(pier: Path) -> None:
    ran = ombix(pier, "audit", "--format", "junit")
    suite = ElementTree.fromstring(ran.out)[0]
    cases = suite.findall("testcase")
    failed = {one.get("name") for one in cases if one.find("failure") is not None}
    assert int(suite.get("tests", "")) == len(cases) > 20
    assert int(suite.get("failures", "")) == len(failed)
    assert {"clash", "covered"} <= failed
    assert "no-keys" not in failed


def test_markdown_and_json(pier: Path) -> None:
    assert ombix(pier, "audit", "--format", "markdown").out.startswith("# Audit\n")
    assert json.loads(ombix(pier, "audit", "--format", "json").out) == json.loads(ombix(pier, "audit", "--json").out)
    assert "Formats are text, json" in ombix(pier, "audit", "--format", "pdf").err


# --- what is new


def test_only_what_a_baseline_does_not_know(pier: Path) -> None:
    wrote = ombix(pier, "audit", "--write-baseline", "known.json")
    assert wrote.status == 0
    quiet = ombix(pier, "audit", "--baseline", "known.json")
    assert quiet.status == 0, quiet.out
    assert "known before left out" in quiet.out
    (pier / "crew.keys.toml").write_text(
        "# moved\n\n" + CREW.replace('sort = "Ctrl+ä"', 'sort = "Ctrl+ä"\njoin = "F7"')
    )
    loud = json.loads(ombix(pier, "audit", "--baseline", "known.json", "--json").out)
    assert "F7" in {keys for one in loud["findings"] for keys in one["keys"]}
    assert "Alt+Y" not in {keys for one in loud["findings"] if one["rule"] == "clash" for keys in one["keys"]}
    for wrong in ("{}", "[1]", '{"format": 1, "known": [{"fingerprints": [1]}]}', "x", "[" * 5000):
        (pier / "known.json").write_text(wrong)
        ran = ombix(pier, "audit", "--baseline", "known.json")
        assert ran.status == 2
        assert "this is no baseline" in ran.err


def test_only_what_a_version_did_not_have(pier: Path) -> None:
    for words in (
        ["init", "-q"],
        ["add", "."],
        ["-c", "user.name=x", "-c", "user.email=x@y.invalid", "commit", "-qm", "x"],
    ):
        subprocess.run(["git", *words], cwd=pier, check=True, capture_output=True)
    assert ombix(pier, "audit", "--changed-since", "HEAD").status == 0
    (pier / "crew.keys.toml").write_text(CREW.replace('save-as = { press = "F7"', 'save-as = { press = "Alt+Y"'))
    ran = ombix(pier, "audit", "--changed-since", "HEAD", "--severity", "error", "--format", "annotations")
    assert ran.status == 1
    assert "files.save-as" in ran.out
    assert ombix(pier, "audit", "--changed-since", "nowhere").status == 2


# --- severities


def test_a_workspace_says_how_bad_things_are(pier: Path) -> None:
    place = pier / "ombix.toml"
    place.write_text(WORKSPACE + '\n[severity]\nclash = "note"\ncovered = "error"\n')
    found = {one["rule"]: one["severity"] for one in json.loads(ombix(pier, "audit", "--json").out)["findings"]}
    assert (found["clash"], found["covered"]) == ("note", "error")
    errors = {one["rule"] for one in json.loads(ombix(pier, "audit", "--severity", "error", "--json").out)["findings"]}
    assert "covered" in errors
    assert "clash" not in errors
    place.write_text(WORKSPACE + '\n[severity]\nclash = "off"\ncovered = "off"\nno-keys = "off"\n')
    found = {one["rule"] for one in json.loads(ombix(pier, "audit", "--json").out)["findings"]}
    assert not found & {"clash", "covered", "no-keys"}
    for wrong, said in (
        ('clahs = "note"', "Did you mean clash?"),
        ('clash = "bad"', "Severities are error"),
        ("clash = 5", "unknown severity"),
    ):
        place.write_text(WORKSPACE + f"\n[severity]\n{wrong}\n")
        ran = ombix(pier, "audit")
        assert ran.status == 1
        assert said in ran.out


# --- schemas of files


@pytest.fixture(scope="module")
def schemas(tmp_path_factory: pytest.TempPathFactory) -> dict[str, Any]:
    folder = tmp_path_factory.mktemp("schemas")
    kinds = ("keymap", "workspace", "description", "commands", "defaults")
    found = {kind: json.loads(ombix(folder, "schema", "--file", kind).out) for kind in kinds}
    for one in found.values():
        jsonschema.Draft202012Validator.check_schema(one)
    return found


def faults(schema: Any, text: str) -> list[str]:
    """What a schema finds wrong with a file."""
    return [one.message for one in jsonschema.Draft202012Validator(schema).iter_errors(tomli.loads(text))]


def test_all_files_that_ship_are_as_their_schemas_say(schemas: dict[str, Any]) -> None:
    demo = ROOT / "src/ombix/data/demo"
    kinds = {"dialect.toml": "description", "commands.toml": "commands", "defaults.toml": "defaults"}
    files = [(path, "keymap") for path in demo.rglob("*.keys.toml")]
    files += [(path, "workspace") for path in demo.rglob("*.toml") if "keymap =" in path.read_text()]
    dialects = ROOT / "src/ombix/editors"
    files += [(dialects / name / file, kind) for name in STAND_INS for file, kind in kinds.items()]
    assert len(files) > 15
    for path, kind in files:
        assert not faults(schemas[kind], path.read_text()), path


@pytest.mark.long
@pytest.mark.parametrize("seed", range(60))
def test_keymaps_that_are_read_are_as_the_schema_says(seed: int, schemas: dict[str, Any]) -> None:
    assert not faults(schemas["keymap"], written(keymap(random.Random(seed)), seed % 4))


WRONG_KEYMAPS = (
    'name = "x"\n', "format = 2\n", "format = 1\nbinds = 1\n", 'format = 1\nextends = "x"\n', "format = 1\n[bind]\nline = 5\n",
    'format = 1\n[bind.line]\ncopydown = "F7"\n', "format = 1\n[bind.line]\nsort = 7\n",
    'format = 1\n[bind.line]\nsort = { keys = "F7" }\n',
    'format = 1\n[bind.lines]\nsort = "F7"\n', "format = 1\n[where]\na = 1\n", "format = 1\n[unbind]\nF7 = 3\n",
    'format = 1\n[macro.a]\npress = "F7"\n', 'format = 1\n[macro.a]\nsteps = []\n', 'format = 1\n[[accept]]\nrule = "clash"\n',
    "format = 1\n[snippet.a]\n", 'format = 1\n[[conflict]]\nwho = "x"\n', "format = 1\n[fact.a]\nvalues = []\n",
)  # fmt: skip


@pytest.mark.parametrize("text", WRONG_KEYMAPS)
def test_what_the_reader_refuses_the_schema_refuses(text: str, schemas: dict[str, Any], tmp_path: Path) -> None:
    (tmp_path / "x.keys.toml").write_text(text)
    ran = ombix(tmp_path, "port", "--file", "x.keys.toml", "--to", "nano", "--dry-run")
    assert ran.status == 2, ran.out
    assert faults(schemas["keymap"], text)


WRONG_WORKSPACES = (
    'keymap = "crew.keys.toml"\n', "format = 1\n", 'format = 1\nkeymap = "crew.keys.toml"\nplatform = "amiga"\n',
    'format = 1\nkeymap = "crew.keys.toml"\n[editor.x]\nfile = "x"\n', 'format = 1\nkeymap = "crew.keys.toml"\nlayers = "x"\n',
    'format = 1\nkeymap = "crew.keys.toml"\n[severity]\nclash = "bad"\n', 'format = 1\nkeymap = "crew.keys.toml"\nkeys = "x"\n',
    'format = 1\nkeymap = "crew.keys.toml"\n[reserved]\n"F7" = 5\n',
)  # fmt: skip


@pytest.mark.parametrize("text", WRONG_WORKSPACES)
def test_what_the_reader_of_workspaces_refuses_the_schema_refuses(
    text: str, schemas: dict[str, Any], pier: Path
) -> None:
    (pier / "ombix.toml").write_text(text)
    assert ombix(pier, "port", "--to", "nano", "--dry-run").status == 2
    assert faults(schemas["workspace"], text)


def test_a_kind_of_file_that_is_none(tmp_path: Path) -> None:
    ran = ombix(tmp_path, "schema", "--file", "keympa")
    assert ran.status == 2
    assert "Did you mean keymap?" in ran.err


@pytest.mark.long(first=True)
def test_the_recipe_for_pipelines_is_as_it_is_written(pier: Path) -> None:
    page = (ROOT / "docs/pipelines.md").read_text("utf-8")
    (recipe,) = re.findall(r"```sh\n(.*?)```", page, re.DOTALL)
    for words in (
        ["init", "-q"],
        ["add", "."],
        ["-c", "user.name=x", "-c", "user.email=x@y.invalid", "commit", "-qm", "x"],
    ):
        subprocess.run(["git", *words], cwd=pier, check=True, capture_output=True)
    (pier / "crew.keys.toml").write_text(CREW.replace('save-as = { press = "F7"', 'save-as = { press = "Alt+Y"'))
    (pier / "ombix").symlink_to(ROOT)
    path = f"{Path(sys.executable).parent}{os.pathsep}{os.environ['PATH']}"
    ran = subprocess.run(
        ["sh", "-e", "-c", recipe], cwd=pier,
        # What is installed is compiled when it is used: 0 is how pip's environment says no to that.
        env={**os.environ, "PATH": path, "TARGET": "HEAD", "PIP_NO_COMPILE": "0"}, capture_output=True, text=True, check=False,
        stdin=subprocess.DEVNULL,
    )  # fmt: skip
    assert ran.returncode == 1, ran.stderr
    assert re.match(r"crew\.keys\.toml:\d+:\d+: error: Alt\+Y is .* \[clash\]", ran.stdout)
