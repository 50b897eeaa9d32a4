"""Developed length against plane geometry, and the run's calls."""

import math
from itertools import pairwise

import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from fairline.core.calc.route import RouteLimits, RouteRequest, route
from fairline.core.calc.system_tree import SystemTreeRequest, system_tree
from fairline.core.line import judge
from fairline.core.practice import Practice
from fairline.demo.jobs import bindery


def ask(points, radius=0.0, **more):
    return route(RouteRequest(points_m=points, bend_radius_m=radius, **more))


def test_a_right_angle_saves_what_geometry_says():
    result = ask([[0, 0, 0], [0, 0, 3], [2, 0, 3]], 0.1).result
    assert result.developed_length_m == pytest.approx(5 - 0.2 + 0.1 * math.pi / 2)
    assert (result.bends, result.bend_degrees, result.lift_m) == (1, pytest.approx(90), 3)


def sampled_length(points, radius):
    """The run walked in small steps: straight to each tangent point, then around its circle."""
    place, total = np.array(points[0], float), 0.0
    for a, b, c in zip(points, points[1:], points[2:], strict=False):
        u, v = (np.subtract(q, p) / math.dist(p, q) for p, q in ((a, b), (b, c)))
        turn = math.acos(np.clip(u @ v, -1, 1))
        start, end = (
            np.array(b) - u * radius * math.tan(turn / 2),
            np.array(b) + v * radius * (math.tan(turn / 2)),
        )
        total += np.linalg.norm(start - place)
        inward = v - u * (u @ v)
        inward /= np.linalg.norm(inward)
        centre = start + inward * radius
        angles = np.linspace(0, turn, 4001)
        arc = centre + radius * (np.outer(np.sin(angles), u) - np.outer(np.cos(angles), inward))
        total += np.linalg.norm(np.diff(arc, axis=0), axis=1).sum()
        place = end
    return total + np.linalg.norm(np.subtract(points[-1], place))


corner = st.tuples(*[st.integers(-20, 20).map(float)] * 3).map(list)


@given(st.lists(corner, min_size=3, max_size=7), st.floats(0.02, 0.12))
def test_developed_length_is_that_of_the_bent_tube(points, radius):
    assume(all(math.dist(a, b) > 0.9 for a, b in pairwise(points)))
    answer = ask(points, radius)
    turns = [
        np.degrees(
            np.arccos(
                np.clip(
                    np.dot(np.subtract(b, a), np.subtract(c, b))
                    / math.dist(a, b)
                    / math.dist(b, c),
                    -1,
                    1,
                )
            )
        )
        for a, b, c in zip(points, points[1:], points[2:], strict=False)
    ]
    assume(all(1 < t < 150 for t in turns) and "bend_does_not_fit" not in answer.findings)
    assert answer.result.developed_length_m == pytest.approx(
        sampled_length(points, radius), abs=1e-4
    )
    backwards = ask(points[::-1], radius).result
    assert backwards.developed_length_m == pytest.approx(answer.result.developed_length_m)
    assert backwards.lift_m == -answer.result.lift_m
    assert answer.result.developed_length_m <= answer.result.corner_length_m + 1e-9


@pytest.mark.parametrize(
    ("limits", "finding"),
    [
        ({"max_length_m": 4.9}, "too_long"),
        ({"min_length_m": 5.1}, "too_short"),
        ({"max_lift_m": 2.9}, "lift_exceeded"),
        ({"max_bends": 0}, "too_many_bends"),
    ],
)
def test_each_limit_is_held(limits, finding):
    answer = ask([[0, 0, 0], [0, 0, -3], [2, 0, -3]], limits=RouteLimits(**limits))
    assert answer.findings == (finding,)
    assert answer.call.verdict == "short"
    assert (
        ask(
            [[0, 0, 0], [0, 0, -3], [2, 0, -3]],
            limits=RouteLimits(max_length_m=5.0, max_lift_m=3.0),
        ).call.verdict
        == "holds"
    )


def test_a_bend_that_does_not_fit_and_a_run_back_on_itself_are_short():
    tight = ask([[0, 0, 0], [0, 0, 3], [0.1, 0, 3], [0.1, 0, 6]], 0.08)
    assert tight.findings == ("bend_does_not_fit",)
    assert tight.result.tight_legs == (2,)
    back = ask([[0, 0, 0], [0, 0, 3], [0, 0, 1]], 0.08)
    assert back.findings == ("bend_does_not_fit",)
    assert math.isfinite(back.result.developed_length_m)


def test_no_radius_makes_a_run_shorter_than_its_straight_way():
    points = [[0, 0, 0], [0, 0, 3], [2, 0, 3]]
    absurd = ask(points, 100.0)
    assert absurd.call.verdict == "short"
    assert absurd.result.developed_length_m == pytest.approx(math.dist(points[0], points[-1]))


@pytest.mark.parametrize(
    ("limits", "lift", "verdict", "told"),
    [
        ({"max_total_length_m": 9.9}, 1.0, "short", "in all"),  # with one run too
        ({"max_total_length_m": 10.0}, 1.0, "holds", "that applies"),
        ({"max_total_length_m": 10.0, "max_lift_m": 5.0}, None, "unknown", "not known"),
        ({"max_total_length_m": 10.0, "max_lift_below_m": 5.0}, None, "unknown", "not known"),
        ({"max_total_length_m": 10.0, "max_head_lift_m": 5.0}, None, "holds", "that applies"),
    ],
)
def test_every_limit_that_is_given_is_compared_or_asked_for(limits, lift, verdict, told):
    nodes = [{"id": "outdoor", "kind": "outdoor"}, {"id": "A", "kind": "head"}]
    run = {"id": "A", "start": "outdoor", "end": "A", "length_m": 10.0, "lift_m": lift}
    answer = system_tree(
        SystemTreeRequest.model_validate({"nodes": nodes, "runs": [run], "limits": limits})
    )
    assert (answer.call.verdict, told in answer.call.because) == (verdict, True)


def test_cut_length_adds_tails_and_coil():
    result = ask([[0, 0, 0], [4, 0, 0]], end_allowance_m=0.15, coil_m=1.0).result
    assert result.cut_length_m == pytest.approx(5.3)
    assert result.installed_length_m == pytest.approx(5.0)


def test_without_the_sheets_limits_the_run_is_unknown_never_guessed():
    job = bindery()
    silent = job.equipment.outdoor.sheet.model_copy(
        update={"max_length_m": None, "max_lift_m": None}
    )
    planned = job.equipment.outdoor.model_copy(update={"sheet": silent})
    equipment = job.equipment.model_copy(update={"outdoor": planned})
    call = judge(job.model_copy(update={"equipment": equipment}), Practice())["route"].call
    assert call.verdict == "unknown"
    assert "length and height" in call.because
