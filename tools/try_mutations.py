"""Changes one thing in the code that decides, and sees whether a test fails: python tools/try_mutations.py [COUNT] [SEED].

Each mutation is made in a copy of the project, and the tests of the file that it is in are run there. What survives is printed as a
difference: it is a branch that no test needs, or one that changes nothing that can be seen.
"""

import ast
import os
import random
import shutil
import subprocess
import sys
import tempfile
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import NamedTuple

ROOT = Path(__file__).resolve().parent.parent
TESTS = {
    "core/conditions/boxes.py": "tests/core/test_conditions.py",
    "core/conditions/diagrams.py": "tests/core/test_conditions.py",
    "core/conditions/parsing.py": "tests/core/test_conditions.py tests/core/test_facts.py",
    "core/conditions/facts.py": "tests/core/test_conditions.py tests/core/test_facts.py",
    "core/keymap/deciding.py": "tests/core/test_deciding.py tests/core/test_comparing.py tests/text/stage/test_machine.py",
    "core/keymap/comparing.py": "tests/core/test_comparing.py",
    "core/keymap/merge_decisions.py": "tests/core/test_merge_decisions.py tests/files/merging/test_decisions.py",
    "core/porting/translate_binding.py": "tests/editors/test_port_ways.py tests/editors/test_porting.py",
    "core/porting/translate_keymap.py": "tests/editors/test_port_ways.py tests/editors/test_porting.py",
    "core/porting/checking.py": "tests/editors/test_port_ways.py tests/editors/test_porting.py",
    "core/porting/arrival.py": "tests/editors/test_port_ways.py tests/editors/test_porting.py",
    "core/porting/macros.py": "tests/editors/test_port_ways.py tests/editors/test_porting.py",
    "core/porting/port_in_progress.py": "tests/editors/test_port_ways.py tests/editors/test_porting.py",
    "files/writer.py": "tests/files/test_files.py tests/security/test_kills.py",
    "files/journal.py": "tests/files/test_files.py tests/security/test_kills.py",
}
"""Files below `src/ombix` whose every branch decides something, and the tests that are to notice."""
SECONDS = 300
_SWAPS: dict[type[ast.AST], type[ast.AST]] = {
    ast.Lt: ast.LtE, ast.LtE: ast.Lt, ast.Gt: ast.GtE, ast.GtE: ast.Gt, ast.Eq: ast.NotEq, ast.NotEq: ast.Eq, ast.In: ast.NotIn,
    ast.NotIn: ast.In, ast.Is: ast.IsNot, ast.IsNot: ast.Is, ast.And: ast.Or, ast.Or: ast.And, ast.Add: ast.Sub, ast.Sub: ast.Add,
}  # fmt: skip


class Mutation(NamedTuple):
    """One thing that is changed in a file below `src/ombix`: the number of its node in the tree, in the order of the walk."""

    file: str
    number: int
    line: int


def mutations(file: str) -> Iterator[Mutation]:
    """All things that can be changed in a file."""
    tree = ast.parse((ROOT / "src/ombix" / file).read_text("utf-8"))
    # That a class is frozen is for its readers: nothing writes to it, so nothing shows.
    kinds = {id(word.value) for node in ast.walk(tree) if isinstance(node, ast.ClassDef) for word in node.keywords}
    for number, node in enumerate(ast.walk(tree)):
        if id(node) not in kinds and _changed(node, dry=True):
            yield Mutation(file, number, getattr(node, "lineno", 0))


def _changed(node: ast.AST, dry: bool = False) -> bool:
    """Change a node where there is something to change; whether there is."""
    if isinstance(node, ast.Compare) and len(node.ops) == 1 and type(node.ops[0]) in _SWAPS:
        if not dry:
            node.ops = [_SWAPS[type(node.ops[0])]()]  # type: ignore[list-item]
    elif isinstance(node, ast.BoolOp) or (isinstance(node, ast.BinOp) and type(node.op) in _SWAPS):
        if not dry:
            node.op = _SWAPS[type(node.op)]()  # type: ignore[assignment]
    elif isinstance(node, ast.If | ast.IfExp):
        if not dry:
            node.test = ast.UnaryOp(ast.Not(), node.test)
    elif isinstance(node, ast.Constant) and isinstance(node.value, bool):
        if not dry:
            node.value = not node.value
    elif isinstance(node, ast.Continue | ast.Break):
        return False
    else:
        return False
    return True


def survives(mutation: Mutation, project: Path) -> bool:
    """Whether the tests pass with a mutation, in a copy of the project."""
    path = project / "src/ombix" / mutation.file
    text = path.read_text("utf-8")
    tree = ast.parse(text)
    for number, node in enumerate(ast.walk(tree)):
        if number == mutation.number:
            _changed(node)
    path.write_text(ast.unparse(ast.fix_missing_locations(tree)), "utf-8")
    environment = {**os.environ, "PYTHONPATH": str(project / "src"), "PYTHONDONTWRITEBYTECODE": "1"}
    command = [
        sys.executable,
        "-m",
        "pytest",
        "-x",
        "-q",
        "-p",
        "no:cacheprovider",
        "-m",
        "not long and not every_pair",
    ]
    try:
        ran = subprocess.run(
            [*command, *TESTS[mutation.file].split()], cwd=project, env=environment, capture_output=True,
            stdin=subprocess.DEVNULL, timeout=SECONDS,
        )  # fmt: skip
        return ran.returncode == 0
    except subprocess.TimeoutExpired:
        return False  # it does not end any more, which is noticed
    finally:
        path.write_text(text, "utf-8")


def said(mutation: Mutation) -> str:
    """Where a mutation is, and what stands there."""
    line = (ROOT / "src/ombix" / mutation.file).read_text("utf-8").split("\n")[mutation.line - 1].strip()
    tree = ast.parse((ROOT / "src/ombix" / mutation.file).read_text("utf-8"))
    node = next(node for number, node in enumerate(ast.walk(tree)) if number == mutation.number)
    return f"{mutation.file}:{mutation.line} {type(node).__name__} {ast.unparse(node)[:90]!r} in: {line}"


def main() -> int:
    """Try so many, and print what survives."""
    count = int(sys.argv[1]) if len(sys.argv) > 1 else 200
    chance = random.Random(sys.argv[2] if len(sys.argv) > 2 else "0")
    each = -(-count // len(TESTS))
    chosen: list[Mutation] = []
    for file in TESTS:
        found = list(mutations(file))
        chosen += chance.sample(found, min(each, len(found)))
    chosen = chosen[:count]
    chance.shuffle(chosen)
    with tempfile.TemporaryDirectory(prefix="ombix-mutations-") as name:
        copies = [Path(name) / str(number) for number in range(os.cpu_count() or 1)]
        for copy in copies:
            ignored = shutil.ignore_patterns(".git", ".venv", "__pycache__", ".*_cache", ".hypothesis")
            shutil.copytree(ROOT, copy, ignore=ignored)
            (copy / ".venv").symlink_to(ROOT / ".venv")

        def some(number: int) -> list[Mutation]:
            left = []
            for mutation in chosen[number :: len(copies)]:
                if survives(mutation, copies[number]):
                    left.append(mutation)
                    print(said(mutation), flush=True)
            return left

        with ThreadPoolExecutor(len(copies)) as pool:
            left = [mutation for found in pool.map(some, range(len(copies))) for mutation in found]
    killed = len(chosen) - len(left)
    print(f"{killed} of {len(chosen)} noticed, {100 * killed / len(chosen):.1f} %")
    return 0


if __name__ == "__main__":
    sys.exit(main())
