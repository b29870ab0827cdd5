"""Packages that bring editors, forms of files, rules and reports: the examples of the documentation, installed; and broken ones."""

import csv
import io
import subprocess
import sys
from collections.abc import Iterator
from pathlib import Path

import pytest

from tests.helpers import ROOT, ombix

EXAMPLES = ROOT / "docs" / "examples" / "plug-ins"
KEYMAP = 'format = 1\nname = "k"\n[bind.files]\nsave = "F2"\nclose = "Ctrl+W"\n[bind.edit]\ncut-line = "Ctrl+K"\n'


@pytest.fixture(scope="module")
def site(tmp_path_factory: pytest.TempPathFactory) -> dict[str, str]:
    """The example packages, installed in a folder of their own; the environment in which they are found."""
    folder = tmp_path_factory.mktemp("site")
    packages = sorted(str(path) for path in EXAMPLES.iterdir())
    assert len(packages) == 4
    options = (
        "--quiet",
        "--no-deps",
        "--no-build-isolation",
        "--no-input",
        "--disable-pip-version-check",
        "--target",
        str(folder),
    )
    copies = [str(_copied(Path(path), tmp_path_factory.mktemp("source"))) for path in packages]
    subprocess.run([sys.executable, "-m", "pip", "install", *options, *copies], check=True, capture_output=True)
    return {"PYTHONPATH": str(folder)}


def _copied(package: Path, folder: Path) -> Path:
    """A copy: what building leaves behind is not to lie among the examples."""
    for file in package.rglob("*"):
        if file.is_file() and "__pycache__" not in file.parts:
            to = folder / file.relative_to(package)
            to.parent.mkdir(parents=True, exist_ok=True)
            to.write_bytes(file.read_bytes())
    return folder


@pytest.fixture
def quay(tmp_path: Path) -> Iterator[Path]:
    folder = tmp_path / "quay"
    folder.mkdir()
    (folder / "ombix.toml").write_text('format = 1\nkeymap = "k.keys.toml"\nplatform = "linux"\n')
    (folder / "k.keys.toml").write_text(KEYMAP)
    yield folder


def test_the_examples_are_used(quay: Path, site: dict[str, str]) -> None:
    ran = ombix(quay, "packages", **site)
    assert ran.status == 0
    assert [line.split()[-2:] for line in ran.out.strip().split("\n")[1:]] == [["is", "used"]] * 4
    shown = (ROOT / "docs" / "editors-packages.md").read_text("utf-8").split("```text\n")[1].split("```")[0]
    assert ran.out == shown
    assert "No installed package" in ombix(quay, "packages").out


def test_a_rule(quay: Path, site: dict[str, str]) -> None:
    ran = ombix(quay, "audit", "--rule", "no-function-keys", **site)
    assert ran.status == 1
    assert "warning (no-function-keys): F2 for “Save” takes a function key\n  at k.keys.toml:4:1" in ran.out
    explained = ombix(quay, "audit", "--explain", "no-function-keys", **site)
    example = "\n".join(
        line.strip() for line in explained.out.split("Example\n")[1].split("What mends it")[0].split("\n")
    )
    (quay / "k.keys.toml").write_text(example)
    assert "no-function-keys" in ombix(quay, "audit", **site).out
    accepted = '\n[[accept]]\nrule = "no-function-keys"\nwhy = "the old tablets"\n'
    (quay / "k.keys.toml").write_text(KEYMAP + accepted)
    assert "no-function-keys" not in ombix(quay, "audit", **site).out
    (quay / "ombix.toml").write_text((quay / "ombix.toml").read_text() + '[severity]\nno-function-keys = "note"\n')
    (quay / "k.keys.toml").write_text(KEYMAP)
    assert "note (no-function-keys)" in ombix(quay, "audit", **site).out
    assert "unknown rule" in ombix(quay, "audit", "--rule", "no-function-keys").err


def test_a_report(quay: Path, site: dict[str, str]) -> None:
    ran = ombix(quay, "audit", "--format", "csv", **site)
    rows = list(csv.reader(io.StringIO(ran.out)))
    assert rows[0] == ["rule", "severity", "keys", "message"]
    assert ["no-function-keys", "warning", "F2", "F2 for files.save takes a function key"] in rows
    assert ombix(quay, "audit", "--report", "found.csv", **site).status == 1
    assert (quay / "found.csv").read_text() == ran.out.replace("\r\n", "\n")
    assert "annotations, csv" in ombix(quay, "audit", "--format", "cvs", **site).err
    assert ".json, .csv" in ombix(quay, "show", "--report", "keys.csv", **site).err


def test_an_editor_with_a_form_of_files(quay: Path, site: dict[str, str]) -> None:
    ran = ombix(quay, "port", "--to", "tender", "--output", "tender.keys", **site)
    assert (quay / "tender.keys").read_text() == "ctrl.k    haul\n", ran.out + ran.err
    assert "2 of 3 keys work in tender; 1 is gone." in ran.out
    adopted = ombix(quay, "adopt", "tender.keys", "--editor", "tender", **site)
    assert adopted.status == 0, adopted.err
    (quay / "tender.keys").write_text("ctrl.k\n")
    wrong = ombix(quay, "adopt", "tender.keys", "--editor", "tender", **site)
    assert "tender.keys:1:1" in wrong.err
    assert "this line has no command" in wrong.err


# --- packages that are broken

BROKEN = {
    "does not load": ("ombix.rules", "lost", "no_such_module:RULE", "", "does not load: No module named"),
    "is no rule": ("ombix.rules", "lost", "lost:RULE", "RULE = 1", "is not a Rule of this name"),
    "goes by another name": (
        "ombix.rules", "lost", "lost:RULE",
        "from ombix.core.audit import Rule\nRULE = Rule('found', 'error', '', '', '', '', lambda subject: ())",
        "is not a Rule of this name",
    ),
    "fails": (
        "ombix.rules", "lost", "lost:RULE",
        "from ombix.core.audit import Rule\nRULE = Rule('lost', 'error', '', '', '', '', lambda subject: [1 / 0])",
        "failed: ZeroDivisionError",
    ),
    "finds something else": (
        "ombix.rules", "lost", "lost:RULE",
        "from ombix.core.audit import Rule\nRULE = Rule('lost', 'error', '', '', '', '', lambda subject: [1])",
        "is no Finding of this rule: 1",
    ),
}  # fmt: skip


def brought(folder: Path, group: str, name: str, value: str, code: str) -> dict[str, str]:
    """A package in a folder beside: its module is called `lost`."""
    site = folder / "site"
    (site / "lost-2.dist-info").mkdir(parents=True)
    (site / "lost-2.dist-info" / "METADATA").write_text("Metadata-Version: 2.1\nName: lost\nVersion: 2\n")
    (site / "lost-2.dist-info" / "entry_points.txt").write_text(f"[{group}]\n{name} = {value}\n")
    (site / "lost.py").write_text(f"{code}\n")
    return {"PYTHONPATH": str(site)}


@pytest.mark.parametrize("kind", BROKEN)
def test_a_rule_that_is_broken_is_said_and_can_be_left_out(kind: str, quay: Path, tmp_path: Path) -> None:
    *parts, said = BROKEN[kind]
    env = brought(tmp_path, *parts)
    ran = ombix(quay, "audit", **env)
    assert ran.status == 2
    assert "the rule lost of the package lost 2" in ran.err
    assert said in " ".join(ran.err.split())
    assert ombix(quay, "audit", "--not-rule", "lost", **env).status in (0, 1)
    listed = ombix(quay, "packages", **env)
    assert listed.status == ("fail" not in kind and "finds" not in kind)


def test_a_report_that_fails(quay: Path, tmp_path: Path) -> None:
    code = (
        "from ombix.core.report_forms import ReportForm\nfrom ombix.workspace.findings_answer import AuditReport\n"
        "FORM = ReportForm((AuditReport,), '.lost', lambda report: report.nothing)"
    )
    env = brought(tmp_path, "ombix.reports", "lost", "lost:FORM", code)
    ran = ombix(quay, "audit", "--format", "lost", **env)
    assert ran.status == 2
    assert "the report lost of the package lost 2 failed: AttributeError" in " ".join(ran.err.split())
    assert ombix(quay, "audit", "--report", "x.lost", **env).status == 2
    assert not (quay / "x.lost").exists()


@pytest.mark.parametrize("name", ["clash", "../clash", "Clash"])
def test_no_package_puts_a_rule_in_the_place_of_another(name: str, quay: Path, tmp_path: Path) -> None:
    env = brought(tmp_path, "ombix.rules", name, "lost:RULE", "raise SystemExit('the package was run')")
    assert ombix(quay, "audit", **env).out == ombix(quay, "audit").out
    assert "Ombix has a rule of this name" in ombix(quay, "packages", **env).out or name != "clash"


def test_a_package_is_loaded_only_where_it_is_asked_for(quay: Path, tmp_path: Path) -> None:
    env = brought(tmp_path, "ombix.rules", "lost", "lost:RULE", "raise SystemExit('the package was run')")
    for call in (("show",), ("what", "Ctrl+K"), ("how", "cut"), ("port", "--to", "nano"), ("status",), ("editors",)):
        assert ombix(quay, *call, **env).out == ombix(quay, *call).out


def test_no_package_is_found_in_the_folder_of_a_workspace(quay: Path) -> None:
    brought(quay, "ombix.rules", "lost", "lost:RULE", "raise SystemExit('the package was run')")
    for file in list((quay / "site").iterdir()):
        file.rename(quay / file.name)
    ran = subprocess.run(
        [sys.executable, "-m", "ombix", "audit"], cwd=quay, capture_output=True, text=True, check=False
    )
    assert ran.stdout == ombix(quay, "audit").out
    assert "was run" not in ran.stderr
