"""Do the tests notice? Forty lines of the rules are changed one at a time, related tests run.

Changed are numbers with a name (limits, margins, windows, shares, tolerances: a sixth more),
comparisons (turned round) and pairs of conditions (``and`` for ``or``), drawn by a seed. Each
change is made in a copy; what no test notices is printed as surviving. ``make mutants`` runs it;
``--seed`` draws others, ``--count`` more.
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
    "core/calc/vacuum_decay.py": ("core/test_vacuum_decay.py",),
    "core/physics/decay_course.py": ("core/test_vacuum_decay.py",),
    "core/calc/pressure_hold.py": (
        "core/test_pressure_hold.py",
        "core/test_stages.py",
    ),
    "core/calc/leak_rate.py": ("core/test_leak_rate.py",),
    "core/calc/added_charge.py": ("core/test_added_charge.py",),
    "core/calc/flare_torque.py": (
        "core/test_flare_torque.py",
        "core/test_quantities.py",
    ),
    "core/calc/room_charge_limit.py": ("core/test_room_charge_limit.py",),
    "core/calc/zone_capacity.py": (
        "core/test_zone_capacity.py",
        "core/test_stages.py",
    ),
    "core/calc/fastener_load.py": ("core/test_mount.py",),
    "core/calc/bracket_rail.py": (
        "core/test_mount.py",
        "core/test_placing_invariants.py",
    ),
    "core/calc/lift_plan.py": ("core/test_mount.py",),
    "core/calc/drain.py": ("core/test_materials.py",),
    "core/calc/outdoor_position.py": (
        "core/test_places.py",
        "core/test_mount.py",
    ),
    "core/calc/route.py": ("core/test_route.py",),
    "core/calc/system_tree.py": (
        "core/test_piping.py",
        "core/test_route.py",
        "core/test_kinds.py",
    ),
    "core/charge/stage.py": (
        "core/test_stages.py",
        "core/test_line.py",
        "core/test_standing.py",
    ),
    "core/charge/weighed.py": (
        "core/test_stages.py",
        "core/test_line.py",
        "core/test_standing.py",
    ),
    "core/commission/stage.py": (
        "core/test_stages.py",
        "core/test_kinds.py",
    ),
    "core/route/drain.py": ("core/test_materials.py",),
    "core/evacuate/stage.py": (
        "core/test_circuits.py",
        "core/test_stages.py",
        "core/test_line.py",
        "core/test_standing.py",
    ),
    "core/pressure_test/hold.py": (
        "core/test_holds.py",
        "core/test_pressure_hold.py",
        "core/test_stages.py",
        "core/test_leak_search.py",
    ),
    "core/pressure_test/holds.py": ("core/test_holds.py",),
    "core/pressure_test/leak_search.py": (
        "core/test_leak_search.py",
        "core/test_standing.py",
        "core/test_stages.py",
    ),
    "core/evacuate/needle.py": ("core/test_stages.py",),
    "core/pressure_test/stage.py": (
        "core/test_stages.py",
        "core/test_leak_rate.py",
        "core/test_leak_search.py",
    ),
    "core/survey/stage.py": (
        "core/test_survey.py",
        "core/test_room_charge_limit.py",
    ),
    "core/physics/tubing.py": (
        "core/test_added_charge.py",
        "core/test_flare_torque.py",
        "core/test_piping.py",
    ),
    "core/mount/yard_checks.py": ("core/test_mount.py",),
    "core/calc/circuit.py": (
        "core/test_circuit.py",
        "core/test_circuits.py",
    ),
    "core/physics/conductor.py": (
        "core/test_circuit.py",
        "core/test_circuits.py",
    ),
    "core/calc/expected_split.py": ("core/test_expected_split.py",),
    "core/physics/hold_course.py": ("core/test_pressure_hold.py",),
    "core/mount/wall_checks.py": ("core/test_mount.py",),
    "core/mount/yard_clear.py": ("core/test_mount.py",),
    "core/kit.py": (
        "core/test_stages.py",
        "core/test_kinds.py",
        "core/test_line.py",
        "web/test_first_hands.py",
    ),
    "core/counted.py": ("core/test_standing.py",),
    "core/wire/carrying.py": (
        "core/test_wire.py",
        "core/test_circuit.py",
        "core/test_circuits.py",
    ),
    "core/wire/circuit.py": (
        "core/test_wire.py",
        "core/test_circuit.py",
        "core/test_circuits.py",
    ),
    "core/wire/dead.py": (
        "core/test_wire.py",
        "core/test_circuit.py",
        "core/test_circuits.py",
    ),
    "core/wire/faults.py": (
        "core/test_wire.py",
        "core/test_circuit.py",
        "core/test_circuits.py",
    ),
    "core/wire/grounding.py": (
        "core/test_wire.py",
        "core/test_circuit.py",
        "core/test_circuits.py",
    ),
    "core/wire/interconnect.py": (
        "core/test_wire.py",
        "core/test_circuit.py",
        "core/test_circuits.py",
    ),
    "core/wire/visual_checks.py": (
        "core/test_wire.py",
        "core/test_circuit.py",
        "core/test_circuits.py",
    ),
    "core/wire/needed.py": (
        "core/test_wire.py",
        "core/test_circuit.py",
        "core/test_circuits.py",
        "core/test_materials.py",
    ),
    "core/wire/settings.py": (
        "core/test_wire.py",
        "core/test_circuit.py",
        "core/test_circuits.py",
    ),
    "core/wire/stage.py": (
        "core/test_wire.py",
        "core/test_circuit.py",
        "core/test_circuits.py",
    ),
    "core/wire/supply.py": (
        "core/test_wire.py",
        "core/test_circuit.py",
        "core/test_circuits.py",
    ),
    "core/wire/landed.py": (
        "core/test_wire.py",
        "core/test_circuit.py",
        "core/test_circuits.py",
    ),
    "core/evacuate/attempts.py": (
        "core/test_stages.py",
        "core/test_evacuate_sequence.py",
        "core/test_proofs.py",
    ),
    "core/evacuate/circuits.py": (
        "core/test_circuits.py",
        "core/test_stages.py",
        "core/test_evacuate_sequence.py",
        "core/test_proofs.py",
    ),
    "core/evacuate/expected_course.py": (
        "core/test_stages.py",
        "core/test_evacuate_sequence.py",
        "core/test_proofs.py",
        "core/test_pull_course.py",
    ),
    "core/evacuate/drying.py": (
        "core/test_stages.py",
        "core/test_evacuate_sequence.py",
        "core/test_proofs.py",
        "core/test_drying.py",
    ),
    "core/evacuate/gauge_removal.py": (
        "core/test_stages.py",
        "core/test_evacuate_sequence.py",
        "core/test_proofs.py",
    ),
    "core/evacuate/group_call.py": (
        "core/test_stages.py",
        "core/test_evacuate_sequence.py",
        "core/test_proofs.py",
    ),
    "core/evacuate/circuit_group.py": (
        "core/test_stages.py",
        "core/test_evacuate_sequence.py",
        "core/test_proofs.py",
    ),
    "core/evacuate/pulling.py": (
        "core/test_stages.py",
        "core/test_evacuate_sequence.py",
        "core/test_proofs.py",
    ),
    "core/evacuate/rig.py": (
        "core/test_stages.py",
        "core/test_evacuate_sequence.py",
        "core/test_proofs.py",
    ),
    "core/evacuate/void.py": (
        "core/test_circuits.py",
        "core/test_evacuate_sequence.py",
        "core/test_proofs.py",
    ),
    "store/edits.py": (
        "store/test_jobs.py",
        "web/test_two_people.py",
        "web/test_changes.py",
        "web/test_route_pages.py",
    ),
    "store/jobs.py": (
        "store/test_jobs.py",
        "store/test_subjects.py",
        "web/test_api.py",
        "web/test_instruments.py",
    ),
    "store/readings_csv.py": ("store/test_readings_csv.py",),
    "store/board.py": ("store/test_board.py",),
    "web/frame/merging.py": (
        "web/test_two_people.py",
        "web/test_forms.py",
        "web/test_route_pages.py",
    ),
}
TURNED = {
    ast.Lt: ">",
    ast.LtE: ">",
    ast.Gt: "<",
    ast.GtE: "<",
    ast.Eq: "!=",
    ast.NotEq: "==",
    ast.In: "not in",
    ast.NotIn: "in",
}
OUT_OF_REACH = (  # bounds of work and of what is shown, not rules
    "MAX_READINGS",
    "MAX_ROWS",
    "LOOK_AHEAD_HOLDS",
    "IN_ONE_GO",
    "MOST",
    "PAGE",
    "EVERYWHERE_M",
    "DENSE",
    "SPANS",
    "ONE_SIDED",
)
ROUNDING = 1e-4  # what is smaller is the slack of arithmetic, no rule


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


class Changes:
    """The changes that can be made to one file, gathered from its tree."""

    def __init__(self, file: str) -> None:
        self.file = file
        self.text = (ROOT / "fairline" / file).read_text("utf-8")
        self.lines = self.text.splitlines(keepends=True)
        self.found: list[Mutant] = []

    def words(self, node: ast.expr) -> str:
        return ast.get_source_segment(self.text, node) or ""

    def change(self, node: ast.expr, new: str) -> None:
        assert node.end_lineno is not None and node.end_col_offset is not None
        start = offset(self.lines, node.lineno, node.col_offset)
        end = offset(self.lines, node.end_lineno, node.end_col_offset)
        old = self.text[start:end]
        self.found.append(Mutant(self.file, node.lineno, old, new, start, end))

    def number(self, name: str, value: ast.expr) -> None:
        """A number with a name: a limit, margin, window, share or tolerance."""
        if not name.isupper() or name in OUT_OF_REACH:
            return
        if isinstance(value, ast.Constant) and isinstance(value.value, int | float):
            if abs(value.value) >= ROUNDING:
                more = "+ 1" if isinstance(value.value, int) else "* 7 / 6"
                self.change(value, f"({self.words(value)}) {more}")
        elif isinstance(value, ast.BinOp) and isinstance(value.op, ast.Mult):  # 5 * MINUTE_S
            self.change(value, f"({self.words(value)}) * 7 / 6")

    def condition(self, node: ast.AST) -> None:
        if isinstance(node, ast.Compare) and len(node.ops) == 1 and type(node.ops[0]) in TURNED:
            left, right = self.words(node.left), self.words(node.comparators[0])
            self.change(node, f"{left} {TURNED[type(node.ops[0])]} {right}")
        elif isinstance(node, ast.BoolOp) and len(node.values) == 2:
            first, last = (self.words(n) for n in node.values)
            other = "or" if isinstance(node.op, ast.And) else "and"
            self.change(node, f"({first}) {other} ({last})")


def mutants(file: str) -> list[Mutant]:
    """Every change that can be made to one file of the rules."""
    of = Changes(file)
    tree = ast.parse(of.text)
    for node in tree.body:
        if isinstance(node, ast.Assign) and isinstance(node.targets[0], ast.Name):
            of.number(node.targets[0].id, node.value)
    asserted = {id(n) for a in ast.walk(tree) if isinstance(a, ast.Assert) for n in ast.walk(a)}
    for node in ast.walk(tree):
        if id(node) not in asserted:  # what only the types need is no rule
            of.condition(node)
    return of.found


def survives(mutant: Mutant, tree: Path) -> bool:
    """Whether the related tests pass with the change in place, in this copy of the tree."""
    path = tree / "fairline" / mutant.file
    text = path.read_text("utf-8")
    path.write_text(text[: mutant.start] + mutant.new + text[mutant.end :], "utf-8")
    try:
        named = (*TESTS[mutant.file], "core/test_thresholds.py")
        whole = ("core/test_calls.py",) if mutant.file.startswith("core/") else ()
        tests = [f"tests/{name}" for name in (*named, *whole)]
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
    parser.add_argument("--numbers", action="store_true", help="every number with a name, no more")
    parser.add_argument("--most", type=int, default=3, help="how many may survive")
    arguments = parser.parse_args()
    every = [m for file in TESTS for m in mutants(file)]
    numbers = [m for m in every if m.new.endswith((") * 7 / 6", ") + 1")) and m.new[0] == "("]
    turned = [m for m in every if m not in numbers]
    chance = random.Random(arguments.seed)
    half = min(arguments.count // 2, len(numbers))
    chosen = chance.sample(numbers, half) + chance.sample(turned, arguments.count - half)
    if arguments.numbers:
        chosen = numbers
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
        print(f"survives: {m.file}:{m.line}  {m.old}  →  {m.new}")
    print(f"{len(chosen)} changed, {len(chosen) - len(alive)} noticed, {len(alive)} survived")
    return 0 if len(alive) <= arguments.most else 1


if __name__ == "__main__":
    sys.exit(main())
