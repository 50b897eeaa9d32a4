"""What Route works out for hands: covers by run, dips, nitrogen, tools."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fairline.core.calc.flare_torque import FlareTorqueRequest, flare_torque
from fairline.core.calc.materials import MaterialsRequest, materials
from fairline.core.flare.calls import call_of
from fairline.core.flare.records import JointRecord
from fairline.core.line import work
from fairline.core.physics.constants import ATMOSPHERE_PA, PSI_PA
from fairline.core.practice import Practice
from fairline.core.route.dips import dips
from fairline.core.route.entry import Leg
from fairline.core.route.joints import JointSpec
from fairline.core.route.stage import RouteStageResult
from fairline.core.route.tools import CYLINDER_M3, PURGES, TESTS, nitrogen_needed
from fairline.demo.jobs import bindery
from fairline.demo.systems import gallery
from tests.core.test_stages import NOW, OSMUND


def routed(job, practice=None, **entry):
    route = job.route.model_copy(update=entry)
    return work(job.model_copy(update={"route": route}), practice or Practice())


def laid(*ways):
    legs = tuple(Leg(direction=way, length_m=length) for way, length in ways)
    run = bindery().route.runs["A"].model_copy(update={"legs": legs})
    return routed(bindery(), runs={"A": run})


@pytest.mark.parametrize(
    ("ways", "deep"),
    [
        ([("up", 2.0), ("right", 3.0), ("up", 1.0)], []),
        ([("up", 2.0), ("down", 0.5), ("up", 1.0)], [0.5]),
        ([("up", 2.0), ("down", 0.5), ("right", 2.0), ("up", 0.3)], [0.3]),
        ([("up", 2.0), ("down", 1.0), ("in", 1.0)], []),  # falls one way to the head
        ([("up", 2.0), ("down", 0.5), ("up", 0.019)], []),
        ([("up", 2.0), ("down", 0.5), ("up", 0.021)], [0.021]),
        ([("up", 1.0), ("down", 0.4), ("up", 0.6), ("down", 0.3), ("up", 0.5)], [0.4, 0.3]),
    ],
)
def test_a_dip_is_where_the_line_goes_down_and_comes_up_again(ways, deep):
    worked = laid(*ways)
    (stretch,) = worked.of(RouteStageResult).pipes.stretches
    assert [d.deep_m for d in dips(stretch)] == pytest.approx(deep)
    told = [c for c in worked.calls["route"].checks if c.id == "dips_A"]
    assert bool(told) == bool(deep) and all(c.call.verdict == "watch" for c in told)


def test_where_traps_are_wanted_a_dip_is_not_told():
    run = (
        bindery()
        .route.runs["A"]
        .model_copy(
            update={"legs": tuple(Leg(direction=w, length_m=1.0) for w in ("up", "down", "up"))}
        )
    )
    traps = Practice(schools={"traps": "foot-and-rise"})
    worked = routed(bindery(), traps, runs={"A": run})
    assert not [c for c in worked.calls["route"].checks if c.id.startswith("dips")]


@pytest.mark.parametrize(
    ("across", "deep", "verdict"), [(0.064, 0.050, "holds"), (0.040, 0.040, "short")]
)
def test_the_cover_at_hand_takes_what_lies_in_it(across, deep, verdict):
    worked = routed(bindery(), cover_across_m=across, cover_deep_m=deep)
    (check,) = [c for c in worked.calls["route"].checks if c.id.startswith("cover_")]
    assert check.call.verdict == verdict


def test_runs_that_keep_to_a_path_lie_in_one_cover_and_a_cable_apart_does_not():
    covers = work(gallery(), Practice()).of(RouteStageResult).covers
    assert sorted(run for c in covers for run in c.bundle.runs) == ["A", "B", "C"]
    assert all(not c.bundle.cables_m for c in covers)  # the school keeps them apart
    strapped = work(gallery(), Practice(schools={"cable": "with"})).of(RouteStageResult).covers
    assert all(len(c.bundle.cables_m) == len(c.bundle.runs) for c in strapped)
    assert routed(gallery(), covered="no").of(RouteStageResult).covers == []


@given(st.floats(1e-4, 0.02), st.floats(1e5, 4e6))
def test_the_cylinder_pushes_the_last_test_still(volume, test_pa):
    """What leaves the cylinder is what the tests and the purge take (Boyle's law)."""
    need = nitrogen_needed(volume, test_pa)
    assert need.free_m3 == pytest.approx(TESTS * volume * test_pa / ATMOSPHERE_PA + PURGES * volume)
    left_pa = need.cylinder_pa - need.free_m3 * ATMOSPHERE_PA / CYLINDER_M3
    assert left_pa == pytest.approx(test_pa)


def test_the_tools_are_those_of_this_job():
    words = " · ".join(s.words for s in work(bindery(), Practice()).of(RouteStageResult).tools)
    assert "hole saw" in words and "Torque wrench from 15.0" in words and "it burns" in words
    assert "Torch" not in words
    assert nitrogen_needed(0.001, 300 * PSI_PA).cylinder_pa > 300 * PSI_PA


@pytest.mark.parametrize(
    ("sealant", "verdict"),
    [("", "holds"), ("none", "holds"), ("seat", "holds"), ("threads", "watch")],
)
def test_sealant_on_the_threads_makes_the_torque_a_doubt(sealant, verdict):
    made = JointRecord(
        place="A.gas.end", look="good", applied_nm=37.5, sealant=sealant, by="I", at=NOW
    )
    spec = JointSpec(
        id="A.gas.end", run="A", line="gas", end="end", kind="flare", od_mm=9.52, label="Gas"
    )
    answer = flare_torque(FlareTorqueRequest(od_mm=9.52, applied_nm=37.5))
    assert call_of(spec, answer, [made], [], OSMUND, None, None).verdict == verdict


@pytest.mark.parametrize(
    ("deep_mm", "verdict"),
    [
        (None, "holds"),
        (12.7, "holds"),
        (12.3, "holds"),
        (12.1, "watch"),
        (6.4, "watch"),
        (6.3, "short"),
    ],
)
def test_a_swage_is_about_as_deep_as_its_tube_is_wide(deep_mm, verdict):
    """A punched swage seats a quarter inch in a half-inch tube (common practice, no source)."""
    spec = JointSpec(
        id="A.gas.join1", run="A", line="gas", end="way", kind="braze", od_mm=12.7, label="Join"
    )
    made = JointRecord(
        place=spec.id,
        look="good",
        how="brazed",
        nitrogen="yes",
        cooled="yes",
        swage_m=deep_mm / 1000 if deep_mm else None,
        by="I",
        at=NOW,
    )
    assert call_of(spec, None, [made], [], OSMUND, None, None).verdict == verdict


@pytest.mark.parametrize(
    ("leg", "told", "verdict"),
    [
        ({"setting": "outside", "kept": "bare"}, "bare_A", "watch"),
        ({"setting": "room", "kept": "bare"}, "", ""),
        ({"setting": "outside", "kept": "tape"}, "", ""),
        ({"setting": "buried"}, "buried_A", "short"),
        ({"setting": "buried", "kept": "sleeve"}, "buried_A", "watch"),
    ],
)
def test_each_leg_is_kept_in_its_own_way(leg, told, verdict):
    legs = (Leg(direction="up", length_m=2.0), Leg(direction="right", length_m=3.0, **leg))
    run = bindery().route.runs["A"].model_copy(update={"legs": legs})
    worked = routed(bindery(), runs={"A": run})
    found = {c.id: c.call.verdict for c in worked.calls["route"].checks}
    assert {k: v for k, v in found.items() if k in ("bare_A", "buried_A")} == (
        {told: verdict} if told else {}
    )


def test_materials_follow_each_legs_own_way():
    legs = [
        {"direction": "up", "length_m": 2.4},
        {"direction": "right", "length_m": 2.4, "kept": "tape"},
        {"direction": "left", "length_m": 3.0, "setting": "buried", "kept": "sleeve"},
        {"direction": "up", "length_m": 1.0, "kept": "bare"},
    ]
    asked = {"runs": [{"id": "A", "tube_m": 9.0, "legs": legs, "gas_od_mm": 9.52}]}
    found = materials(MaterialsRequest.model_validate(asked)).result
    assert found.quantity("Cover section") == 2 and found.quantity("Pipe sleeve") == 3.0
    taped = materials(MaterialsRequest.model_validate(asked | {"cover": False})).result
    tape = "Ultraviolet-resistant tape, from the bottom up"
    assert 0 < found.quantity(tape) < taped.quantity(tape)
    assert found.quantity("Clamp or hanger") == 2 + 2 + 1  # none in the ground
