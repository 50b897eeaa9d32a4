"""Do the tests notice? Forty lines of the rules are changed one at a time, related tests run.

Changed are numbers with a name (limits, margins, windows, shares, tolerances: a sixth more) and
comparisons (turned round), drawn by a seed. Each change is made in a copy; what no test notices
is printed as surviving. ``make mutants`` runs it; ``--seed`` draws others, ``--count`` more.
"""

import argparse
import ast
import os
import random
import shutil
import subprocess
import sys
import tempfile
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import NamedTuple

ROOT = Path(__file__).resolve().parent.parent
TESTS: dict[str, tuple[str, ...]] = {  # the rules, and the tests that ought to notice
    "calc/vacuum_decay.py": ("test_vacuum_decay.py",),
    "physics/decay_course.py": ("test_vacuum_decay.py",),
    "calc/pressure_hold.py": ("test_pressure_hold.py", "test_stages.py"),
    "calc/leak_rate.py": ("test_leak_rate.py",),
    "calc/added_charge.py": ("test_added_charge.py",),
    "calc/flare_torque.py": ("test_flare_torque.py", "test_quantities.py"),
    "calc/room_charge_limit.py": ("test_room_charge_limit.py",),
    "calc/zone_capacity.py": ("test_zone_capacity.py", "test_stages.py"),
    "calc/fastener_load.py": ("test_mount.py",),
    "calc/bracket_rail.py": ("test_mount.py", "test_placing_invariants.py"),
    "calc/lift_plan.py": ("test_mount.py",),
    "calc/drain.py": ("test_materials.py",),
    "calc/outdoor_position.py": ("test_places.py", "test_mount.py"),
    "calc/route.py": ("test_route.py",),
    "calc/system_tree.py": ("test_piping.py", "test_route.py", "test_kinds.py"),
    "charge/stage.py": ("test_stages.py", "test_line.py", "test_standing.py"),
    "charge/weighed.py": ("test_stages.py", "test_line.py", "test_standing.py"),
    "commission/stage.py": ("test_stages.py", "test_kinds.py"),
    "route/drain.py": ("test_materials.py",),
    "evacuate/stage.py": ("test_stages.py", "test_line.py", "test_standing.py"),
    "pressure_test/hold.py": ("test_stages.py", "test_leak_search.py"),
    "pressure_test/holds.py": ("test_holds.py",),
    "pressure_test/leak_search.py": ("test_leak_search.py", "test_standing.py", "test_stages.py"),
    "evacuate/needle.py": ("test_stages.py",),
    "pressure_test/stage.py": ("test_stages.py", "test_leak_search.py"),
    "survey/stage.py": ("test_survey.py", "test_room_charge_limit.py"),
    "physics/tubing.py": ("test_added_charge.py", "test_flare_torque.py", "test_piping.py"),
    "mount/yard_checks.py": ("test_mount.py",),
}
TURNED = {ast.Lt: ">", ast.LtE: ">", ast.Gt: "<", ast.GtE: "<"}
OUT_OF_REACH = ("MAX_READINGS", "LOOK_AHEAD_HOLDS")  # bounds of work, not rules


class Mutant(NamedTuple):
    file: str
    line: int
    old: str
    new: str
    start: int  # offsets into the file
    end: int


def offset(lines: list[str], line: int, column: int) -> int:
    return sum(len(text) for text in lines[: line - 1]) + len(
        lines[line - 1].encode()[:column].decode()
    )


def mutants(file: str) -> list[Mutant]:
    """Every change that can be made to one file of the rules."""
    text = (ROOT / "fairline" / "core" / file).read_text("utf-8")
    lines, found = text.splitlines(keepends=True), []
    tree = ast.parse(text)

    def change(node: ast.expr, new: str) -> None:
        assert node.end_lineno is not None and node.end_col_offset is not None
        start = offset(lines, node.lineno, node.col_offset)
        end = offset(lines, node.end_lineno, node.end_col_offset)
        found.append(Mutant(file, node.lineno, text[start:end], new, start, end))

    for node in tree.body:
        if not isinstance(node, ast.Assign) or not isinstance(node.targets[0], ast.Name):
            continue
        name, value = node.targets[0].id, node.value
        number = isinstance(value, ast.Constant) and isinstance(value.value, int | float)
        if name.isupper() and number and name not in OUT_OF_REACH:
            source = ast.get_source_segment(text, value)
            whole = isinstance(value.value, int)  # type: ignore[attr-defined]
            change(value, f"({source}) + 1" if whole else f"({source}) * 7 / 6")
    for node in ast.walk(tree):
        if isinstance(node, ast.Compare) and len(node.ops) == 1 and type(node.ops[0]) in TURNED:
            left, right = (
                ast.get_source_segment(text, n) for n in (node.left, node.comparators[0])
            )
            change(node, f"{left} {TURNED[type(node.ops[0])]} {right}")
    return found


def survives(mutant: Mutant, tree: Path) -> bool:
    """Whether the related tests pass with the change in place, in this copy of the tree."""
    path = tree / "fairline" / "core" / mutant.file
    text = path.read_text("utf-8")
    path.write_text(text[: mutant.start] + mutant.new + text[mutant.end :], "utf-8")
    try:
        tests = [f"tests/core/{name}" for name in (*TESTS[mutant.file], "test_thresholds.py")]
        command = [sys.executable, "-m", "pytest", "-x", "-q", "-p", "no:cacheprovider", *tests]
        done = subprocess.run(
            command,
            cwd=tree,
            capture_output=True,
            timeout=600,
            env=os.environ | {"PYTHONPATH": str(tree), "PYTHONDONTWRITEBYTECODE": "1"},
        )
        return done.returncode == 0
    except subprocess.TimeoutExpired:
        return False
    finally:
        path.write_text(text, "utf-8")


def main() -> int:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--count", type=int, default=40)
    parser.add_argument("--most", type=int, default=4, help="how many may survive")
    arguments = parser.parse_args()
    every = [m for file in TESTS for m in mutants(file)]
    numbers = [m for m in every if m.new.endswith(("7 / 6", "+ 1"))]
    turned = [m for m in every if m not in numbers]
    chance = random.Random(arguments.seed)
    half = min(arguments.count // 2, len(numbers))
    chosen = chance.sample(numbers, half) + chance.sample(turned, arguments.count - half)
    with tempfile.TemporaryDirectory() as folder:
        copies = []
        for n in range(2):
            copy = Path(folder) / str(n)
            for part in ("fairline", "tests", "tools"):
                shutil.copytree(ROOT / part, copy / part, ignore=shutil.ignore_patterns("__pyc*"))
            shutil.copy(ROOT / "pyproject.toml", copy)
            copies.append(copy)

        def share(n: int) -> list[Mutant]:
            return [m for m in chosen[n :: len(copies)] if survives(m, copies[n])]

        with ThreadPoolExecutor(len(copies)) as pool:
            alive = [m for part in pool.map(share, range(len(copies))) for m in part]
    for m in alive:
        print(f"survives: core/{m.file}:{m.line}  {m.old}  →  {m.new}")
    print(f"{len(chosen)} changed, {len(chosen) - len(alive)} noticed, {len(alive)} survived")
    return 0 if len(alive) <= arguments.most else 1


if __name__ == "__main__":
    sys.exit(main())
