"""All kinds of piping through the later stages: joints, charge, pressure, zones."""

from datetime import UTC, datetime
from types import SimpleNamespace

import pytest

from fairline.core.charge import worksheet
from fairline.core.commission import stage as commission
from fairline.core.commission.records import Running
from fairline.core.flare import stage as flare
from fairline.core.flare.records import MENDS, JointRecord, WrenchEntry
from fairline.core.kit import nothing_to_add
from fairline.core.line import judge, rules_of
from fairline.core.practice import Departure, Practice
from fairline.demo.jobs import bindery
from fairline.demo.systems import foundry, gallery, gatehouse, signal_house
from tests.support import joints_of, piping_of

NOW = datetime(2026, 3, 1, tzinfo=UTC)


def worked(job, practice=None):
    rules = rules_of(job, practice or Practice())
    return rules, piping_of(job, rules)


def listed(job, practice=None):
    rules, pipes = worked(job, practice)
    return joints_of(job, rules, pipes)


# --- joints ------------------------------------------------------------------------------------


def test_a_single_zone_has_four_flares_head_first_or_outdoors_first():
    """Four joints a single zone, four a zone on a multi (the trade's own count)."""
    ids = [j.id for j in listed(bindery())]
    assert ids == ["A.gas.end", "A.liquid.end", "A.gas.start", "A.liquid.start"]
    out = [j.id for j in listed(bindery(), Practice(schools={"connect_first": "outdoors"}))]
    assert out == [*ids[2:], *ids[:2]]
    assert len(listed(gallery())) == 14  # three zones, and the valves that wait for the fourth
    assert len(listed(gatehouse())) == 4


def test_home_runs_get_valves_where_the_school_wants_them_or_the_run_says_so():
    always = Practice(schools={"isolation": "always"})
    valves = [j for j in listed(gallery(), always) if j.id.endswith("valve")]
    assert len(valves) == 8  # two more joints a zone, and two for the head that comes later
    assert not any(j.id.endswith("valve") for j in listed(bindery(), always))
    job = gallery()
    run = job.route.run("B").model_copy(update={"isolation": "yes"})
    job = job.model_copy(
        update={"route": job.route.model_copy(update={"runs": job.route.runs | {"B": run}})}
    )
    valves = [j.id for j in listed(job) if j.id.endswith("valve")]
    assert valves[:2] == ["B.gas.start.valve", "B.liquid.start.valve"]
    assert valves[2:] == ["outdoor-D.gas.port.valve", "outdoor-D.liquid.port.valve"]
    none = job.route.model_copy(update={"ports": {"outdoor-D": "capped"}})
    assert len(listed(job.model_copy(update={"route": none}))) == 14


def test_tees_and_top_discharge_valves_are_brazed_and_the_rest_is_flared():
    kinds = {j.id: j.kind for j in listed(signal_house())}
    assert kinds["tee1.gas.start"] == "flare"  # this unit's own valves
    assert kinds["tee1.gas.end"] == kinds["tee2.liquid.start"] == "braze"
    assert kinds["A.gas.start"] == "braze" and kinds["A.gas.end"] == "flare"
    job = signal_house()
    top = job.equipment.outdoor.sheet.model_copy(update={"valves": "braze"})
    planned = job.equipment.outdoor.model_copy(update={"sheet": top})
    job = job.model_copy(
        update={"equipment": job.equipment.model_copy(update={"outdoor": planned})}
    )
    assert {j.id: j.kind for j in listed(job)}["tee1.gas.start"] == "braze"


def test_a_brazed_joint_holds_on_its_seam_and_on_nitrogen():
    job = signal_house()
    rules, pipes = worked(job)
    specs = joints_of(job, rules, pipes)

    def call(**more):
        fields = {"place": "A.gas.start", "look": "good", "how": "brazed", "by": "I", "at": NOW}
        record = JointRecord(**(fields | more))
        found = flare.joints(WrenchEntry(), specs, (record,), rules)
        return next(j.call for j in found if j.place == "A.gas.start")

    assert call(nitrogen="yes").verdict == "holds"
    assert call(nitrogen="no").verdict == "short" and "scale" in call().because
    assert call(nitrogen="yes", cooled="no").verdict == "short"
    for seam in flare.SEAMS:
        told = call(nitrogen="yes", look=seam)
        assert told.verdict == ("holds" if seam == "good" else "short")
        assert seam == "good" or told.do_next == MENDS[seam]
    waiting = next(j for j in flare.joints(WrenchEntry(), specs, (), rules) if j.brazed)
    assert waiting.call.verdict == "wait" and "nitrogen" in waiting.call.do_next
    assert waiting.answer is None  # no torque is asked of a seam


def test_joints_at_a_box_take_the_boxs_own_torque():
    job = foundry()
    rules, pipes = worked(job)
    specs = {s.id: s for s in joints_of(job, rules, pipes)}
    asked = flare.torque_request(specs["box1.gas.end"], WrenchEntry(), rules, None)
    assert asked.od_mm == 15.88 and asked.sheet_torque_nm == [64.0, 76.0]
    half = flare.torque_request(specs["C.gas.start"], WrenchEntry(), rules, None)
    assert half.od_mm == 12.7


def test_records_of_the_first_four_joints_keep_their_places():
    old = {"place": "liquid_outdoor", "look": "good", "applied_nm": 16.0, "by": "I", "at": NOW}
    assert JointRecord.model_validate(old).place == "A.liquid.start"


# --- charge ------------------------------------------------------------------------------------


def test_home_runs_count_every_run_against_the_whole_covered_length():
    """Four ports cover 4 × 25 ft at 0.22 oz/ft; what is over it is added."""
    job = gallery()
    rules, pipes = worked(job)
    answer = worksheet.by_rule(pipes, job.charge, rules)
    rate = 0.22 * 0.028349523125 / 0.3048
    over = pipes.total_m - 4 * 25 * 0.3048
    assert answer.result.added_kg == pytest.approx(over * rate)
    assert {s.id for s in answer.result.breakdown} == {"A", "B", "C", "pre-charged length"}


def test_a_branch_box_counts_main_and_branches_by_their_own_liquid_tube_and_the_adders():
    """Main 3/8 at 45 g/m, branches 1/4 at 18 g/m, 30 m covered at 45 g/m, 50 g a cassette."""
    job = foundry()
    rules, pipes = worked(job)
    by_end = {s.id: s.length_m for s in pipes.stretches}
    line = by_end["box1"] * 0.045 + sum(by_end[z] for z in "ABC") * 0.018 - 30 * 0.045
    answer = worksheet.by_rule(pipes, job.charge, rules)
    assert answer.result.added_kg == pytest.approx(max(line, 0.0) + 0.05)
    recover = Practice(schools={"short_line": "recover"})
    rules, pipes = worked(job, recover)
    assert worksheet.by_rule(pipes, job.charge, rules).result.added_kg == pytest.approx(line + 0.05)


def test_a_trunk_counts_the_same_over_its_tree():
    job = signal_house()
    rules, pipes = worked(job)
    wanted = 0.4 + sum(
        s.length_m * (0.059 if s.tube.liquid_mm == 9.52 else 0.022) for s in pipes.stretches
    )
    assert worksheet.by_rule(pipes, job.charge, rules).result.added_kg == pytest.approx(wanted)


def test_a_kit_is_charged_by_its_whole_length_and_its_surplus_is_coiled():
    _, pipes = worked(gatehouse())
    run = pipes.get("A")
    assert pipes.total_m == run.length_m == pytest.approx(25 * 0.3048)
    assert run.cut_m is None
    assert run.coil_m == pytest.approx(25 * 0.3048 - run.result.developed_length_m - 2 * 6 * 0.0254)


def test_a_run_without_length_or_a_fault_leaves_the_charge_unknown():
    job = gallery()
    for change in ({"legs": (), "along": ""}, {"fed_from": ""}):
        run = job.route.run("B").model_copy(update=change)
        runs = job.route.runs | {"B": run}
        broken = job.model_copy(update={"route": job.route.model_copy(update={"runs": runs})})
        stages = judge(broken, Practice())
        assert {c.id: c.call.verdict for c in stages["charge"].checks}["added"] == "unknown"


# --- pressure and zones ------------------------------------------------------------------------


def test_boxes_and_trunks_are_tested_overnight_unless_the_job_departs():
    plain = rules_of(bindery(), Practice())
    assert plain.school("pressure").name == "hour"
    for make in (foundry, signal_house):
        rules = rules_of(make(), Practice())
        assert rules.school("pressure").name == "overnight"
        assert rules.who_chose("pressure") == "always for branch boxes and trunks"
    own = Departure(topic="pressure", school="hour", reason="re-test of one coil", by="I", at=NOW)
    job = foundry().model_copy(update={"records": (own,)})
    assert rules_of(job, Practice()).school("pressure").name == "hour"


def running(zone, mode="cool", supply=13.0):
    return Running(
        zone=zone,
        mode=mode,
        return_c=26.0,
        return_rh=0.5,
        supply_c=supply,
        fan="high",
        supply_rh=0.9,
        current_a=4.0,
        drain="runs",
        by="I",
        at=NOW,
    )


def test_every_zone_is_commissioned_by_itself():
    job = gallery()
    rules, _ = worked(job)
    zones = ["A", "B", "C"]
    one = commission.judge((running("B"),), rules, zones)
    verdicts = {c.id: c.call.verdict for c in one.checks}
    assert verdicts["B_cool"] == "holds" and verdicts["A_cool"] == "wait"
    assert one.call.because.startswith("A:") and one.summary == "0 of 3 zones"
    wrong = commission.judge((running("C", supply=30.0),), rules, zones)
    assert {c.id: c.call.verdict for c in wrong.checks}["C_cool"] == "short"
    lost = commission.judge((running(""),), rules, zones)  # names no zone: counts for none
    assert {c.id: c.call.verdict for c in lost.checks}["A_cool"] == "wait"
    assert {c.id: c.call.verdict for c in lost.checks}["zone"] == "wait"
    both = tuple(running(z, m, s) for z in zones for m, s in (("cool", 13.0), ("heat", 40.0)))
    warm = {"return_c": 19.0, "return_rh": 0.4, "supply_rh": 0.12}
    cold = [r if r.mode == "cool" else r.model_copy(update=warm) for r in both]
    assert commission.judge(tuple(cold), rules, zones).summary == "3 of 3 zones"


@pytest.mark.parametrize(
    ("way_m", "length_m", "said"),
    [(None, 5.0, "run"), (4.0, None, "length"), (None, None, "run")],
)
def test_what_a_kit_adds_is_unknown_without_its_length_or_its_way(way_m, length_m, said):
    kit = SimpleNamespace(length_m=length_m, name="kit")
    call, limits = nothing_to_add(SimpleNamespace(kits=(kit,)), way_m)
    assert (call.verdict, said in call.because, limits) == ("unknown", True, ())
