"""Seed small mistakes into the core, one at a time, and print those that no test notices.

``make mutants`` tries a sample; ``N=200 SEED=3 make mutants`` another one. A mistake is a swapped
comparison, ``min`` for ``max``, plus for minus, ``and`` for ``or``, or a check that finds nothing.
"""

from __future__ import annotations

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

ROOT = Path(__file__).parent.parent
CORE = "src/ready_trail/core"
SUSPECT = (
    "review",
    "sizing",
    "supply",
    "budget",
    "fuses.py",
    "heat.py",
    "conductors.py",
    "loads.py",
    "relays.py",
    "heating.py",
    "faults.py",
)
QUICK = (
    "tests/core/review/test_findings.py",
    "tests/core/sizing/test_worked_examples.py",
    "tests/core/sizing/test_oracle.py",
    "tests/core/review/test_review.py",
    "tests/core/supply/test_tree.py",
    "tests/core/budget/test_budget.py",
    "tests/core/test_faults.py",
    "tests/core/test_design.py",
    "tests/core/sizing/test_trunk.py",
    "tests/core/test_arithmetic.py",
)
SWAPS = {ast.Lt: "<=", ast.LtE: "<", ast.Gt: ">=", ast.GtE: ">", ast.Eq: "!=", ast.NotEq: "=="}
SIGNS = {ast.Lt: "<", ast.LtE: "<=", ast.Gt: ">", ast.GtE: ">=", ast.Eq: "==", ast.NotEq: "!="}
Mutant = tuple[Path, int, str, str]


def mutants(path: Path) -> Iterator[Mutant]:
    """Yield each mistake of a file as its line before and after."""
    lines = path.read_text(encoding="utf-8").splitlines()
    tree = ast.parse("\n".join(lines))
    for node in ast.walk(tree):
        at = getattr(node, "lineno", 0)
        if not at:
            continue
        line = lines[at - 1]
        swaps: list[tuple[str, str]] = []
        if isinstance(node, ast.Compare) and len(node.ops) == 1 and type(node.ops[0]) in SWAPS:
            swaps.append((f" {SIGNS[type(node.ops[0])]} ", f" {SWAPS[type(node.ops[0])]} "))
        elif isinstance(node, ast.Call) and isinstance(node.func, ast.Name):
            swaps += [
                (f"{a}(", f"{b}(") for a, b in (("min", "max"), ("max", "min")) if node.func.id == a
            ]
        elif isinstance(node, ast.BinOp) and isinstance(node.op, ast.Add | ast.Sub):
            swaps.append((" + ", " - ") if isinstance(node.op, ast.Add) else (" - ", " + "))
        elif isinstance(node, ast.BoolOp):
            swaps.append((" and ", " or ") if isinstance(node.op, ast.And) else (" or ", " and "))
        elif isinstance(node, ast.FunctionDef) and node.name.startswith("check_"):
            body = next(n.lineno for n in node.body if not isinstance(n, ast.Expr))
            indent = " " * 4
            yield path, body, lines[body - 1], f"{indent}if design: return\n{lines[body - 1]}"
            continue
        for before, after in swaps:
            if line.count(before) == 1 and '"' not in line:
                yield path, at, line, line.replace(before, after)


def survives(mutant: Mutant) -> bool:
    """Whether the quick tests pass with the mistake in place, in a copy of the tree."""
    path, at, _, after = mutant
    with tempfile.TemporaryDirectory() as folder:
        for part in ("src", "tests", "scripts", "docs"):
            shutil.copytree(ROOT / part, Path(folder) / part)
        shutil.copy(ROOT / "pyproject.toml", folder)
        copy = Path(folder) / path.relative_to(ROOT)
        lines = copy.read_text(encoding="utf-8").splitlines()
        lines[at - 1] = after
        copy.write_text("\n".join(lines) + "\n", encoding="utf-8")
        command = [sys.executable, "-m", "pytest", "-q", "-x", "-p", "no:cacheprovider", *QUICK]
        env = {**os.environ, "PYTHONPATH": "src"}
        return (
            subprocess.run(
                command, cwd=folder, env=env, capture_output=True, timeout=900, check=False
            ).returncode
            == 0
        )


def main() -> None:
    files = [p for name in SUSPECT for p in sorted((ROOT / CORE / name).rglob("*.py"))] + [
        ROOT / CORE / name for name in SUSPECT if name.endswith(".py")
    ]
    every = [m for path in files for m in mutants(path)]
    pick = random.Random(int(os.environ.get("SEED", "1")))
    chosen = pick.sample(every, min(len(every), int(os.environ.get("N", "16"))))
    print(f"{len(chosen)} of {len(every)} mistakes", flush=True)
    first = files[0].read_text(encoding="utf-8").splitlines()[0]
    if not survives((files[0], 1, first, first)):
        sys.exit("the tests fail without any mistake: mend that first")
    with ThreadPoolExecutor(os.cpu_count()) as pool:
        alive = [m for m, lives in zip(chosen, pool.map(survives, chosen), strict=True) if lives]
    for path, at, before, after in alive:
        print(
            f"not noticed: {path.relative_to(ROOT)}:{at}\n  {before.strip()}\n  "
            f"{after.splitlines()[0].strip()}"
        )
    print(f"{len(chosen) - len(alive)} noticed, {len(alive)} not")


if __name__ == "__main__":
    main()
