"""The cut plan against an independent solver: SciPy's mixed-integer programme (HiGHS)."""

import random

import numpy as np
import pytest
from scipy.optimize import Bounds, LinearConstraint, milp

from fairline.core.calc.cut_plan import CutPlanRequest, cut_plan

PIECES = 4  # of an endless kind, that the programme may use: enough for these cases


def by_programme(request):
    """Joins, bought length and pieces of the best plan, in three programmes; None for none.

    Stock pieces are listed one by one. x: length of run r from piece b; y: b is used for r;
    u: b is used. A run of k cuts loses k − 1 joins.
    """
    pieces = [
        s.length_m
        for s in request.stock
        for _ in range(PIECES if s.count is None else min(s.count, PIECES))
    ]
    runs = [r.length_m for r in request.runs]
    n, m, loss = len(runs), len(pieces), request.joint_loss_m
    if not m:
        return None
    size = 2 * n * m + m
    at_x, at_y, at_u = (
        (lambda r, b: r * m + b),
        (lambda r, b: n * m + r * m + b),
        (lambda b: 2 * n * m + b),
    )
    rows = Rows(size)
    row = rows.add
    for r, length in enumerate(runs):
        row(
            [(at_x(r, b), 1) for b in range(m)] + [(at_y(r, b), -loss) for b in range(m)],
            length - loss,
            np.inf,
        )
        if not request.allow_joints:
            row([(at_y(r, b), 1) for b in range(m)], 1, 1)
        for b, long in enumerate(pieces):
            row([(at_x(r, b), 1), (at_y(r, b), -long)], -np.inf, 0)
            row([(at_y(r, b), 1), (at_u(b), -1)], -np.inf, 0)
    for b, long in enumerate(pieces):
        row([(at_x(r, b), 1) for r in range(n)] + [(at_u(b), -long)], -np.inf, 0)
        if b and pieces[b - 1] == long:  # of like pieces the first is taken first
            row([(at_u(b - 1), 1), (at_u(b), -1)], 0, 1)
    goals = (
        [(at_y(r, b), 1) for r in range(n) for b in range(m)],
        [(at_u(b), long) for b, long in enumerate(pieces)],
        [(at_u(b), 1) for b in range(m)],
    )
    best = in_turn(goals, n * m, rows)
    return best and (round(best[0]) - n, best[1], round(best[2]))


class Rows:
    """The rows of a programme: each the factors of its places, between two ends."""

    def __init__(self, size):
        self.size, self.lines, self.low, self.high = size, [], [], []

    def line(self, terms):
        found = np.zeros(self.size)
        for place, factor in terms:
            found[place] += factor
        return found

    def add(self, terms, low, high):
        self.lines.append(self.line(terms)), self.low.append(low), self.high.append(high)


def in_turn(goals, free, rows):
    """Each goal at its least, the earlier ones kept; the first ``free`` places are no counts."""
    whole = np.ones(rows.size)
    whole[:free] = 0
    best = []
    for goal in goals:
        found = milp(
            rows.line(goal),
            integrality=whole,
            options={"mip_rel_gap": 0},
            constraints=LinearConstraint(np.array(rows.lines), rows.low, rows.high),
            bounds=Bounds(0, np.where(whole == 1, 1, np.inf)),
        )
        if found.x is None:
            return None
        best.append(found.fun)
        rows.add(goal, -np.inf, found.fun + 1e-6)
    return best


def check(request, result):
    """The plan is one: every run whole, no piece overdrawn, no more pieces than there are."""
    stock = {s.id: s for s in request.stock}
    for piece in result.pieces:
        used = sum(c.length_m for c in piece.cuts)
        assert used + piece.left_m == pytest.approx(stock[piece.stock_id].length_m, abs=1e-6)
        assert piece.left_m >= 0 and all(c.length_m > 0 for c in piece.cuts)
    joints = 0
    for run in request.runs:
        cuts = [c.length_m for p in result.pieces for c in p.cuts if c.run_id == run.id]
        joints += len(cuts) - 1
        wanted = run.length_m + request.joint_loss_m * (len(cuts) - 1)
        assert sum(cuts) == pytest.approx(wanted, abs=1e-6)
    assert joints == result.joints
    for item in request.stock:
        taken = sum(p.stock_id == item.id for p in result.pieces)
        assert item.count is None or taken <= item.count


def random_request(seed):
    chance = random.Random(seed)
    joints = chance.random() < 0.5
    n = chance.randint(1, 3 if joints else 5)
    stock = [
        {
            "id": f"s{i}",
            "length_m": round(chance.uniform(5, 16), 2),
            "count": chance.choice([None, 1, 1, 2]),
        }
        for i in range(chance.randint(1, 3))
    ]
    return CutPlanRequest.model_validate(
        {
            "runs": [
                {"id": f"r{i}", "length_m": round(chance.uniform(1, 17 if joints else 12), 2)}
                for i in range(n)
            ],
            "stock": stock,
            "allow_joints": joints,
            "joint_loss_m": chance.choice([0.0, 0.02]),
        }
    )


@pytest.mark.parametrize("seed", range(40))
def test_against_an_independent_programme(seed):
    request = random_request(seed)
    answer, wanted = cut_plan(request), by_programme(request)
    result = answer.result
    assert result.proven
    if wanted is None:
        assert answer.findings == ("stock_too_short",)
        assert answer.call.verdict == "short"
        return
    assert (result.joints, result.bought_m) == (wanted[0], pytest.approx(wanted[1], abs=1e-4))
    assert len(result.pieces) == wanted[2]
    check(request, result)


def ask(runs, stock, **more):
    return cut_plan(
        CutPlanRequest.model_validate(
            {
                "runs": [{"id": f"r{i}", "length_m": r} for i, r in enumerate(runs)],
                "stock": [
                    {"id": f"s{i}", "length_m": s, "count": c} for i, (s, c) in enumerate(stock)
                ],
                **more,
            }
        )
    )


@pytest.mark.parametrize(
    ("runs", "stock", "joints", "bought", "pieces"),
    [  # by hand: three 5 m runs out of one roll; an off-cut before a roll; two joined, sharing
        ([5.0, 5.0, 5.0], [(15.0, None)], 0, 15.0, 1),
        ([4.0, 9.0], [(15.0, None), (4.2, 1), (9.5, 1)], 0, 13.7, 2),
        ([16.0, 16.0], [(15.0, 3)], 2, 45.0, 3),
        ([16.0], [(15.0, None), (4.5, None), (7.6, None)], 1, 19.5, 2),
    ],
)
def test_plans_worked_by_hand(runs, stock, joints, bought, pieces):
    result = ask(runs, stock, allow_joints=joints > 0).result
    assert (result.joints, len(result.pieces)) == (joints, pieces)
    assert result.bought_m == pytest.approx(bought)
    cuts = [c.length_m for p in result.pieces for c in p.cuts]
    assert min(cuts) > 0.3 - 1e-9  # no end shorter than can be held


def test_more_runs_than_can_be_compared_are_laid_and_said_not_to_be_proven():
    answer = ask([3.0 + 0.25 * i for i in range(40)], [(15.24, None)])
    assert answer.findings == ("not_proven",)
    assert answer.call.verdict == "watch"
    assert sum(len(p.cuts) for p in answer.result.pieces) == 40
