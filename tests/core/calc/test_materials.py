"""Cover, supports, tape and drains, worked by hand and held against geometry."""

import math
from itertools import pairwise

import pytest
from CoolProp.CoolProp import PropsSI

from fairline.core.calc.drain import (
    VAPORISATION_J_KG,
    DrainRequest,
    condensate_kg_h,
    drain,
)
from fairline.core.calc.materials import (
    MaterialsRequest,
    belt_m,
    materials,
    tape_length_m,
)
from fairline.core.line import rules_of
from fairline.core.practice import Practice
from fairline.core.route import drain as drain_stage
from fairline.core.route.entry import DrainPart
from fairline.demo.jobs import bindery


def ask(*legs, **more):
    rows = [{"direction": d, "length_m": n} | extra for d, n, extra in legs]
    run = {"id": "A", "legs": rows, "tube_m": 9.0, "liquid_od_mm": 6.35, "gas_od_mm": 9.52}
    return materials(MaterialsRequest.model_validate({"runs": [run]} | more)).result


OUT, CROSS, ATTIC = {}, {"setting": "wall", "crosses": True}, {"setting": "attic"}


def test_a_run_worked_by_hand():
    """Up 2.5 m and right 3 m on the wall, through it, in the attic: 4 ft sections of cover."""
    found = ask(
        ("up", 2.5, OUT),
        ("right", 3.0, OUT),
        ("in", 0.3, CROSS),
        ("in", 4.0, ATTIC),
        cover_section_m=1.2192,
        support_every_m=1.5,
        furring=True,
    )
    assert found.quantity("Cover section") == 3 + 3
    assert found.quantity("Coupling") == 2 + 2
    assert found.quantity("Elbow, flat") == 1 and found.quantity("Elbow, round a corner") == 0
    assert found.quantity("End fitting") == 1 and found.quantity("Wall inlet") == 1
    assert found.quantity("Wall sleeve") == 1 and found.quantity("Seal, inside and out") == 2
    assert found.quantity("Clamp or hanger") == 2 + 2 + 3
    assert found.quantity("Furring strip") == pytest.approx(5.5)
    assert found.quantity("Copper tube, gas", "3/8 in (9.52 mm)") == 9.0
    assert found.quantity("Pipe insulation") == 18.0
    assert found.quantity("Cable, tails with it") == 11.0
    assert found.quantity("Ultraviolet-resistant tape, from the bottom up") == 0


def test_a_shared_path_is_covered_once_and_a_kit_brings_its_tube():
    legs = [
        {"direction": "up", "length_m": 2.0, "shared": True},
        {"direction": "left", "length_m": 1.0},
    ]
    run = {"id": "B", "legs": legs, "tube_m": 7.6, "liquid_od_mm": 6.35, "kit": True}
    found = materials(MaterialsRequest.model_validate({"runs": [run]})).result
    assert found.quantity("Cover section") == 1
    assert found.quantity("Cover tee, where a run leaves the path") == 1
    assert found.quantity("Copper tube, liquid") == 0 and found.quantity("Pipe insulation") == 0


def test_in_a_wall_plates_and_on_the_roof_tape():
    found = ask(
        ("left", 2.0, {"setting": "wall"}),
        ("up", 1.0, {"setting": "roof"}),
        stud_spacing_m=0.4064,
        cover=False,
    )
    assert found.quantity("Nail plate") == 5
    assert found.quantity("Ultraviolet-resistant tape, from the bottom up") > 1.0


def test_tape_and_belt_against_geometry_walked_in_small_steps():
    """A helix of half laps; the hull of two circles side by side, from its support points."""
    steps = 20_000
    turns, pitch, round_m = 3.0 / 0.025, 0.025, 0.11
    radius = round_m / (2 * math.pi)
    walked = [
        (radius * math.cos(a), radius * math.sin(a), pitch * a / (2 * math.pi))
        for a in (turns * 2 * math.pi * i / (steps * 10) for i in range(steps * 10 + 1))
    ]
    helix = sum(math.dist(a, b) for a, b in pairwise(walked))
    assert tape_length_m(3.0, round_m, 0.05) == pytest.approx(helix, rel=1e-4)
    r, s = 0.014, 0.011
    hull = 0.0
    for i in range(steps):  # Cauchy: the length of a convex line is the integral of its support
        angle = 2 * math.pi * i / steps
        hull += max(r, s + (r + s) * math.cos(angle)) * 2 * math.pi / steps
    assert belt_m(2 * r, 2 * s) == pytest.approx(hull, rel=1e-4)
    assert belt_m(0.03, 0.0) == pytest.approx(math.pi * 0.03)


# --- drains ------------------------------------------------------------------------------------


def drained(*sections, **more):
    rows = [{"way": w, "length_m": n, "fall_m": f} for w, n, f in sections]
    return drain(DrainRequest.model_validate({"sections": rows} | more))


@pytest.mark.parametrize(
    ("sections", "more", "finding"),
    [
        ([("along", 3.0, 3.0 / 96), ("down", 1.0, 0.0)], {}, None),
        ([("along", 3.0, 3.0 / 97)], {}, "too_little_fall"),
        ([("along", 2.0, 0.05), ("along", 1.0, -0.01), ("along", 2.0, 0.05)], {}, "dip"),
        ([("along", 0.2, 0.01), ("up", 0.4, 0.0), ("along", 2.0, 0.05)], {}, "dip"),
        ([("along", 0.2, 0.01), ("up", 0.4, 0.0), ("along", 2.0, 0.05)], {"pumped": True}, None),
        ([("up", 0.4, 0.0), ("up", 0.1, 0.0)], {"pumped": True}, None),
        ([("up", 0.8, 0.0)], {"pumped": True, "limits": {"max_pump_lift_m": 0.76}}, "pump_lift"),
        (
            [("along", 0.5, 0.02), ("up", 0.3, 0.0)],
            {"pumped": True, "limits": {"pump_within_m": 0.3048}},
            "lift_too_far",
        ),
        ([("down", 1.0, 0.0)], {"joined": 2, "bore_m": 0.0188}, "too_thin"),
        ([("down", 1.0, 0.0)], {"bore_m": 0.0188}, "too_thin"),
        ([("down", 1.0, 0.0)], {"joined": 2, "bore_m": 0.01905}, None),
        (
            [("up", 0.2, 0.0), ("up", 0.2, 0.0), ("down", 1.0, 0.0)],
            {"pumped": True, "limits": {"max_pump_lift_m": 0.4}},
            None,
        ),
        (
            [("up", 0.2, 0.0), ("up", 0.21, 0.0), ("down", 1.0, 0.0)],
            {"pumped": True, "limits": {"max_pump_lift_m": 0.4}},
            "pump_lift",
        ),
    ],
)
def test_water_runs_away_or_it_is_told_where_it_stands(sections, more, finding):
    """IMC 307.2.1 (1/8 in 12) and 307.2.2 (3/4 in where drains join), quoted from memory."""
    answer = drained(*sections, **more)
    assert answer.findings == ((finding,) if finding else ())
    assert answer.call.verdict == ("short" if finding else "holds")


def test_heights_and_supports_of_a_drain():
    result = drained(("along", 2.0, 0.04), ("down", 1.2, 0.0), ("along", 3.0, 0.05)).result
    assert result.fall_m == pytest.approx(1.29) and result.length_m == pytest.approx(6.2)
    assert [round(s.to_m, 3) for s in result.sections] == [-0.04, -1.24, -1.29]
    assert result.supports == (2 + 1) + (3 + 1)
    dip = drained(("along", 2.0, 0.05), ("along", 1.0, -0.02)).result.dips
    assert [(d.after, round(d.deep_m, 3)) for d in dip] == [(1, 0.02)]


def test_expected_water_follows_capacity_and_the_heat_of_vaporisation():
    """Latent heat of water at 20 °C against CoolProp (IAPWS-95)."""
    steam = PropsSI("H", "T", 293.15, "Q", 1, "Water") - PropsSI("H", "T", 293.15, "Q", 0, "Water")
    assert pytest.approx(steam, rel=1e-3) == VAPORISATION_J_KG
    assert condensate_kg_h([3500.0, 2600.0]) == pytest.approx(0.3 * 6100 / steam * 3600, rel=1e-3)


@pytest.mark.parametrize(
    ("change", "verdict", "told"),
    [
        ({}, "holds", "falls"),
        ({"bore_m": None}, "wait", "inside"),
        ({"bore_m": 0.0188}, "short", "inside"),
        ({"insulated": None}, "wait", "insulated"),
        ({"insulated": "no"}, "watch", "sweats"),
        ({"reach": None}, "watch", "reach"),
        ({"ends": "stack"}, "wait", "trap"),
        ({"ends": "stack", "trapped": "no"}, "short", "trap"),
        ({"ends": "stack", "trapped": "yes"}, "holds", "falls"),
        ({"ends": None}, "wait", "end"),
        ({"parts": (DrainPart(length_m=1.0, fall_m=2.0),)}, "short", "cannot fall"),
    ],
)
def test_a_drain_of_a_job_holds_only_where_all_of_it_is_answered(change, verdict, told):
    job = bindery()
    drain_a = job.route.drain("A").model_copy(update=change)
    entry = job.route.model_copy(update={"drains": {"A": drain_a}})
    worked = drain_stage.drains(entry, job.survey, rules_of(job, Practice()))
    (check,) = drain_stage.checks(entry, worked)
    assert (check.call.verdict, told in check.call.because) == (verdict, True)


def test_a_pipe_falls_no_further_than_it_is_long():
    for fall, fine in ((1.0, True), (1.01, False), (-1.01, False)):
        asked = {"sections": [{"length_m": 1.0, "fall_m": fall}]}
        if fine:
            assert drain(DrainRequest.model_validate(asked)).call.verdict == "holds"
        else:
            with pytest.raises(ValueError, match="cannot fall"):
                DrainRequest.model_validate(asked)
