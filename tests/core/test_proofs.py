"""What a proof covers after a change on site, on every kind of system (TRADE: what a proof covers).

Each row is a finished job, one change, and the stages that ask again; what asks again is named by
the check that says so. Common practice of the trade and decisions of this project, no source.
"""

from datetime import timedelta
from functools import cache

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from fairline.core.copied import copied
from fairline.core.evacuate.circuit_group import EvacuateStageResult
from fairline.core.evacuate.void import ShutOff
from fairline.core.flare.records import JointRecord
from fairline.core.flare.stage import FlareStageResult
from fairline.core.job import Job, numbered
from fairline.core.line import work
from fairline.core.parts import Circuits, kind_of
from fairline.core.practice import Practice
from fairline.core.pressure_test.records import LeakCheck
from fairline.core.pressure_test.stage import PressureTestStageResult
from fairline.core.proofs import COVERS
from fairline.core.route.circuits import circuits_of
from fairline.core.route.entry import DrainRun
from fairline.core.route.stage import RouteStageResult
from fairline.core.strike import Strike
from fairline.core.survey.stage import WantedHead
from fairline.core.wire.stage import WireStageResult
from fairline.demo.jobs import bindery
from fairline.demo.load import named
from fairline.demo.systems import foundry, gallery, gatehouse, signal_house
from tests.job_site import BY, Site

ASKED = {"wait", "short", "stop"}


def roomy(job):
    """A job whose rooms are large enough for any charge: not what is asked here."""
    rooms = tuple(r.model_copy(update={"area_m2": 60.0}) for r in job.survey.rooms)
    return job.model_copy(update={"survey": job.survey.model_copy(update={"rooms": rooms})})


def brazed():
    """A single zone whose outdoor unit has brazed valves."""
    job = bindery()
    sheet = job.equipment.outdoor.sheet.model_copy(update={"valves": "braze"})
    outdoor = job.equipment.outdoor.model_copy(update={"sheet": sheet})
    return job.model_copy(
        update={"equipment": job.equipment.model_copy(update={"outdoor": outdoor})}
    )


SYSTEMS = {
    "home runs": gallery,
    "branch box": foundry,
    "trunk": signal_house,
    "kit": gatehouse,
    "brazed": brazed,
}


@cache
def _finished(name, released, tokens):
    return Site(roomy(SYSTEMS[name]()), tokens=tokens).finish(released).job


def finished(name, released=True, tokens=True):
    """A finished job to change, made once; without ``tokens`` as a program of before left it."""
    job = _finished(name, released, tokens)
    site = Site.__new__(Site)
    site.job, site.practice, site._count, site._states = job, Practice(), 1000, []
    times = [r.at for r in job.records] + [r.started_at for r in job.runs]
    site.now = max(times) + timedelta(hours=2)
    return site


def asks(site):
    """The stages that ask for something, with the checks that do; of Commission what changed."""
    found = {}
    for stage in ("flare", "pressure-test", "evacuate", "charge", "commission"):
        checks = {
            name
            for name, call in site.checks(stage).items()
            if call.verdict.value in ASKED and (stage != "commission" or "changed" in name)
        }
        if checks:
            found[stage] = checks
    return found


def order(words):
    def do(site):
        site.ordered(words)
        site.answer("changed")

    return do


def with_tee(end):
    def do(site):
        order(f"tee:{end}")(site)
        site.runs_edited(**{end: {"built_m": 2.0}})

    return do


def tube(end, **size):
    def do(site):
        site.runs_edited(**{end: size or {"gas_od_m": 0.0127}})
        site.answer("changed")

    return do


def head_out(zone, careful=True):
    def do(site):
        survey, route = site.job.survey, site.job.route
        heads = tuple(h for h in survey.heads if h.zone != zone)
        runs = {end: run for end, run in route.runs.items() if end != zone}
        site.edit(
            survey=survey.model_copy(update={"heads": heads}),
            route=route.model_copy(update={"runs": runs}),
        )
        site.answer("changed", careful)

    return do


def exchange(place, what="machine", careful=True):
    return lambda site: site.exchange(place, what, careful)


def again(*places):
    return lambda site: site.make(*places)


ALL = {"pressure-test", "evacuate", "charge", "commission"}
# what was proved, what changed on site, after release or before, and the stages that ask again
ROWS = [
    *(
        (system, again(place), released, ALL if released else ALL - {"commission"})
        for system, place in (
            ("home runs", "C.gas.end"),
            ("branch box", "C.gas.end"),
            ("trunk", "tee1.gas.end"),
            ("brazed", "A.gas.start"),
        )
        for released in (True, False)
    ),
    ("home runs", exchange("C"), True, ALL | {"flare"}),
    ("branch box", exchange("box1"), True, ALL | {"flare"}),
    ("trunk", exchange("tee2"), True, ALL | {"flare"}),
    ("brazed", exchange("outdoor"), True, ALL | {"flare"}),
    ("home runs", exchange("outdoor"), False, ALL - {"commission"} | {"flare"}),
    ("home runs", tube("C"), True, ALL | {"flare"}),
    ("home runs", order("connect:C:outdoor:D"), True, ALL | {"flare"}),
    ("trunk", with_tee("B"), True, ALL | {"flare"}),
    ("home runs", head_out("C"), True, {"flare", "evacuate", "charge"}),
    ("branch box", head_out("C"), True, {"flare", "evacuate", "charge"}),
    ("kit", exchange("A"), True, {"flare", "charge", "commission"}),
    ("kit", exchange("A", "tube"), True, {"flare", "charge", "commission"}),
]


@pytest.mark.parametrize("system", SYSTEMS)
@pytest.mark.parametrize("released", [True, False])
def test_a_finished_job_that_nothing_changed_asks_nothing(system, released):
    site = finished(system, released)
    left = {"charge": {"weighed", "release"}, "flare": set()} if not released else {}
    assert set(asks(site)) <= set(left)
    assert not site.asked()


@pytest.mark.parametrize(
    ("system", "change", "released", "stages"),
    ROWS,
    ids=[f"{r[0]} {n}{'' if r[2] else ' before release'}" for n, r in enumerate(ROWS)],
)
def test_what_changed_is_asked_again_and_nothing_else(system, change, released, stages):
    old = finished(system, released, tokens=False)
    change(old)
    assert set(asks(old)) == stages
    site = finished(system, released)
    change(site)
    assert set(asks(site)) == stages
    # What is asked for, done again, proves it again.
    site.make()
    if system != "kit":
        site.prove_again()
        site.weigh()
    site.open()
    site.look()
    if released:
        site.measure()
    assert not asks(site)


def test_a_joint_that_was_tightened_asks_for_no_proof_but_its_look():
    site = finished("branch box")
    before = site.verdicts()
    earlier = site.later()
    site.make("C.gas.end", did="tightened")
    assert set(asks(site)) == {"charge"} and set(asks(site)["charge"]) == {"looked"}
    site.look()
    assert site.verdicts() == before and not asks(site)
    look = LeakCheck(joint="C.gas.end", found="leak", by=BY, at=earlier)
    site.record(look)  # from before it was tightened: of that joint no more
    assert "joints" not in site.checks("pressure-test")


def test_a_leak_that_is_found_voids_what_was_proved_of_its_joint_and_circuit():
    site = finished("branch box")
    site.record(LeakCheck(joint="C.gas.end", found="leak", by=BY, at=site.later()))
    assert site.checks("pressure-test")["joints"].verdict == "short"
    site.make("C.gas.end", did="tightened")
    assert {b.label for b in site.worked.of(PressureTestStageResult).covered.bare} == {
        "Gas, at the head C"
    }
    assert site.verdicts()["evacuate"] == "wait" and site.verdicts()["charge"] == "unknown"
    assert site.checks("commission")["A_changed"].verdict == "watch"
    site.recover()  # all of it, its valves open: what leaked is known then
    for prove in (site.hold, site.pull, site.weigh, site.open, site.look):
        prove()
    assert site.verdicts() == finished("branch box").verdicts()


def test_a_valve_core_voids_its_circuit_unless_it_went_through_the_tool():
    for did, released, asked in (
        ("tightened", True, set()),
        ("tightened", False, set(asks(finished("home runs", released=False)))),
        ("made", True, ALL),
        ("made", False, ALL - {"commission"}),
    ):
        site = finished("home runs", released)
        site.core("C", did)
        assert set(asks(site)) == asked, (did, released)
    calls = {c.label: c.call for c in site.call("evacuate").checks}
    assert calls["Port C"].verdict == "wait"
    assert "was changed in the open after the decay" in calls["Port C"].because
    (bare,) = site.worked.of(PressureTestStageResult).covered.bare
    assert bare.label == "Valve core, port C of the outdoor unit"


def test_nitrogen_is_asked_on_the_changed_part_only():
    site = finished("home runs", released=False)
    site.make("C.gas.end")
    (bare,) = site.worked.of(PressureTestStageResult).covered.bare
    assert bare.label == "Gas, at the head C"
    site.hold("C")
    assert site.call("pressure-test").call.verdict == "holds"
    older = site.worked.of(PressureTestStageResult).covered.older
    assert len(older) == 1 and len(older[0][1]) > 4
    site.hold("B", lost_pa=400_000.0)  # a leak on B is B's, and A and C stand by theirs
    assert site.call("pressure-test").call.verdict == "short"


def test_a_hold_that_was_too_short_is_made_anew_once_another_was_begun():
    site = finished("home runs", released=False)
    site.make("C.gas.end")
    site.hold("C", share=0.5)
    assert "Hold for another" in site.call("pressure-test").call.do_next
    site.make("B.gas.end")
    site.hold("B")
    call = site.call("pressure-test").call
    assert (call.verdict, call.because[:15]) == ("wait", "An earlier hold")
    assert call.do_next.startswith("Raise the nitrogen on it again and hold ")


def test_ports_pulled_together_stand_alone_where_the_others_were_shut():
    site = finished("home runs", released=False)
    decay = next(r for r in site.job.runs if r.kind == "decay")
    site.make("C.gas.end")
    calls = {c.label: c.call for c in site.call("evacuate").checks}
    assert {calls[f"Port {p}"].verdict.value for p in "ABC"} == {"wait"}
    assert "shut off before C was opened" in calls["Port A"].do_next
    said = {"run": decay.uid, "opened": "C", "by": BY}
    yes = site.record(ShutOff(shut="yes", at=site.later(), **said))
    calls = {c.label: c.call.verdict.value for c in site.call("evacuate").checks}
    assert calls["Ports A and B"] == "holds" and calls["Port C"] == "wait"
    site.record(Strike(of="shut-off", of_uid=yes.uid, reason="no", by=BY, at=site.later()))
    site.record(ShutOff(shut="no", at=site.later(), **said))
    calls = {c.label: c.call for c in site.call("evacuate").checks}
    assert (
        calls["Port A"].verdict == "wait"
        and "proves this volume no more" in calls["Port A"].because
    )


@pytest.mark.parametrize(
    ("opened", "voided"),
    [
        (("A",), {"C"}),  # C stands behind its shut valves
        (("C",), {"C"}),  # and so does A
        (("A", "C"), {"A", "C"}),  # one after the other: they stand open to each other
        ((), {"C"}),
    ],
)
def test_what_is_opened_lets_into_every_circuit_whose_valves_stand_open(opened, voided):
    site = Site(roomy(gallery()))
    site.make()
    site.hold()
    for port in "ABC":
        site.pull(port)
    site.weigh()
    for port in opened:
        site.open(port)
    joint = next(j for j in site.joints if j.place == "C.gas.end")
    sides = tuple(joint.key.partition(":")[2].split("|"))
    fields = {"place": joint.place, "sides": sides, "look": "good", "applied_nm": 37.5}
    site.record(JointRecord(**fields, by=BY, at=site.later()))
    found = site.worked.of(EvacuateStageResult).voided
    assert {v.circuit for v in found if v.by} == voided


def later_head(site):
    """The head that was wanted later, now, on the port that is kept for it."""
    heads = tuple(h.model_copy(update={"when": "now"}) for h in site.job.survey.heads)
    survey = site.job.survey.model_copy(update={"heads": heads})
    site.edit(survey=survey)
    site.ordered("connect:D:outdoor:D")


def test_a_later_head_behind_its_kept_valve_leaves_the_others_proved():
    site = finished("home runs")
    assert {j.place for j in site.joints} >= {"outdoor-D.gas.port.valve"}
    later_head(site)
    site.answer("changed")
    calls = {c.label: c.call.verdict.value for c in site.call("evacuate").checks}
    assert calls["Ports A, B and C"] == "holds" and calls["Port D"] == "wait"
    made = {j.place: j.record is not None for j in site.joints if j.run == "D"}
    assert made["D.gas.start.valve"] and not made["D.gas.start"]  # the valve was there already
    assert "A_changed" not in site.checks("commission")


def test_a_head_on_a_free_port_after_release_stands_open_to_all():
    site = finished("home runs")
    heads = (*site.job.survey.heads, WantedHead(zone="E", room="x", sheet=""))
    survey = site.job.survey.model_copy(update={"heads": heads})
    site.edit(survey=survey)
    site.runs_edited(E={"fed_from": "outdoor", "outlet": "E"})
    site.answer("changed")
    checks = [c for c in site.call("evacuate").checks if not c.id.startswith("steps_")]
    calls = [c.call.verdict.value for c in checks]
    assert calls.count("wait") == 1  # its own valves were never opened


def test_an_end_that_nothing_is_on_is_a_stop_until_it_is_capped():
    site = finished("branch box")
    port = site.job.route.run("C").outlet
    head_out("C", careful=False)(site)
    caps = {j.place: j.call.verdict.value for j in site.joints if j.cap}
    assert caps == {f"box1-{port}.{line}.cap": "stop" for line in ("gas", "liquid")}
    site.recover()
    site.make(*caps)
    site.hold()
    assert site.call("flare").call.verdict == "holds"
    site = finished("branch box")
    head_out("C")(site)
    site.make(*caps)
    assert site.call("flare").call.verdict == "holds"
    bare = {b.label for b in site.worked.of(PressureTestStageResult).covered.bare}
    assert bare == {f"{line}, box 1, port {port}: cap" for line in ("Gas", "Liquid")}
    early = Site(roomy(foundry())).finish(released=False)
    early.job = early.job.model_copy(update={"runs": ()})  # nothing was let in yet
    head_out("C")(early)
    assert {j.call.verdict.value for j in early.joints if j.cap} == {"wait"}


def test_drawn_wrong_is_judged_anew_and_keeps_its_proofs():
    site = finished("home runs", released=False)
    site.runs_edited(C={"liquid_od_m": 0.00952})
    assert [q.difference.part for q in site.asked()] == ["tube:C"]
    assert {"the nitrogen hold", "the decay"} <= set(site.asked()[0].at_stake)
    assert site.verdicts()["evacuate"] == "wait"
    site.answer("corrected")
    assert not site.asked()
    assert site.verdicts()["evacuate"] == "holds" and site.verdicts()["pressure-test"] == "holds"
    joint = site.spec("C.liquid.end")
    assert joint.record is not None  # its torque is that of another size now
    site.undo().undo() if len(site._states) > 1 else site.undo()
    assert site.verdicts()["flare"] == "holds" and not site.asked()


def test_undo_brings_everything_back_and_asks_nothing():
    for change in (
        head_out("C", careful=False),
        exchange("C", careful=False),
        exchange("A", "tube", careful=False),
    ):
        site = finished("home runs")
        before = site.verdicts()
        change(site)
        assert site.verdicts() != before
        site.undo()
        assert site.verdicts() == before and not site.asked()


def test_a_tee_that_is_taken_out_and_set_elsewhere_is_another_one():
    site = finished("trunk")
    first = site.job.equipment.machine("tee1")
    order("out:tee1")(site)
    order("tee:F")(site)
    assert "tee1" in site.job.route.runs and site.job.equipment.machine("tee1") != first
    seams = [j for j in site.joints if j.place.startswith("tee1.")]
    assert seams and all(j.record is None for j in seams)


def test_a_log_is_parted_where_a_joint_was_made():
    site = Site(roomy(bindery()))
    site.make()
    plan = site.worked.of(PressureTestStageResult).plan
    rows = [
        {"t_s": 60.0 * n, "gauge_pa": plan.gauge_pa, "pipe_c": 20.0}
        for n in range(int(plan.hold_s / 60) + 30)
    ]
    began = site.later()
    site.run("hold", rows)
    assert site.call("pressure-test").call.verdict == "holds"
    site.make("A.gas.end", at=began + timedelta(minutes=20))
    found = site.worked.of(PressureTestStageResult)
    assert [round(h.run.readings.span_s / 60) for h, _ in found.earlier] == [19]
    assert found.hold.parted and found.answer.call.verdict == "holds"
    tight = Site(roomy(bindery()))
    tight.make()
    began = tight.later()
    tight.run("hold", rows[: int(plan.hold_s / 60) + 10])
    tight.make("A.gas.end", at=began + timedelta(minutes=20))
    assert tight.call("pressure-test").call.verdict == "wait"  # of the new joint not long enough


def test_what_was_done_before_the_proof_is_covered_by_it():
    site = finished("branch box", released=False)
    hold = next(r for r in site.job.runs if r.kind == "hold")
    site.make("C.gas.end", at=hold.started_at - timedelta(seconds=1))
    assert site.verdicts()["pressure-test"] == site.verdicts()["evacuate"] == "holds"
    site.make("C.gas.end", at=hold.started_at + timedelta(seconds=1))
    assert site.verdicts()["pressure-test"] == "wait"


def test_a_house_rule_changed_afterwards_changes_nothing_that_was_done():
    site = finished("home runs")
    digest = "aaaa"
    acts = tuple(r.model_copy(update={"practice": digest}) for r in site.job.records)
    runs = tuple(r.model_copy(update={"practice": digest}) for r in site.job.runs)
    kept = {"records": acts, "runs": runs, "practices": {digest: Practice()}}
    job = site.job.model_copy(update=kept)
    house = Practice(
        schools={"isolation": "always", "pressure": "overnight", "decay": "half-hour"},
        house={"decay_max": 7.0},
    )
    before, after = work(job, Practice()).calls, work(job, house).calls
    for stage in ("flare", "pressure-test", "evacuate", "charge"):
        assert after[stage].call == before[stage].call
    strict = {"head_left": 3.0, "max_bends": 1.0, "max_total_length_m": 3.0, "drain_bore_m": 0.09}
    others = [Practice(house={name: value}) for name, value in strict.items()]
    others.append(Practice(schools={"traps": "foot-and-rise", "plate_pitch": "slight"}))
    moved = []
    for other in others:
        later = work(job, other).calls
        assert all(later[s].call == before[s].call for s in ("mount", "route"))
        undone = job.model_copy(update={"records": (), "runs": ()})
        fresh = [work(undone, p).calls for p in (Practice(), other)]
        moved.append(any(fresh[0][s] != fresh[1][s] for s in ("mount", "route")))
    for name, value in (("drain_support_m", 6.0), ("drain_fall", 0.001)):
        work(undone, Practice(house={name: value}))  # at the ends of what a house may say
    assert all(moved)  # where nothing is done yet each of them says something
    bare = site.job.model_copy(update={"records": (), "runs": ()})
    asked = [len(work(bare, p).of(RouteStageResult).joints) for p in (Practice(), house)]
    assert asked[0] == asked[1]  # the outlets were written down with their valves, or without
    fresh = Site(roomy(gallery()))
    asked = [len(work(fresh.job, p).of(RouteStageResult).joints) for p in (Practice(), house)]
    assert asked[1] > asked[0]


def test_a_longer_length_or_a_note_voids_nothing():
    site = finished("trunk")
    route = site.job.route.model_copy(update={"notes": "seen"})
    site.edit(route=route)
    assert not asks(site) and not site.asked()
    site.runs_edited(A={"built_m": 9.0})
    assert set(asks(site)) <= {"charge"} and not site.asked()


def test_one_pair_of_valves_before_all_ports_is_one_circuit():
    site = Site(roomy(gallery()))
    sheet = site.job.equipment.outdoor.sheet.model_copy(update={"one_valve_pair": "yes"})
    outdoor = site.job.equipment.outdoor.model_copy(update={"sheet": sheet})
    site.edit(equipment=site.job.equipment.model_copy(update={"outdoor": outdoor}))
    assert not circuits_of(site.worked.of(RouteStageResult).pipes, site.worked.rules)
    assert Circuits(site.worked.of(FlareStageResult).proofs.now).one
    site.finish(released=False)
    site.make("C.gas.end")
    assert site.verdicts()["evacuate"] == "wait" and "void" in site.checks("evacuate")


def test_where_ports_differ_a_hold_that_names_none_proves_none():
    site = Site(roomy(gallery()))
    site.make()
    site.hold("A", "B", "C")
    unsaid = site.job.model_copy(
        update={"records": tuple(r for r in site.job.records if r.kind != "ports")}
    )
    assert work(unsaid, Practice()).calls["pressure-test"].call.verdict == "holds"
    site.hold("A")
    ports = [r for r in site.job.records if r.kind == "ports"]
    mixed = site.job.model_copy(
        update={"records": tuple(r for r in site.job.records if r is not ports[0])}
    )
    calls = work(mixed, Practice()).calls["pressure-test"]
    assert calls.call.verdict == "wait"


def test_valves_that_were_not_opened_are_named():
    site = finished("home runs", released=False)
    site.weigh()
    site.open("A", "B")
    call = site.checks("charge")["release"]
    assert call.verdict == "wait" and "C" in call.because
    site.open("C")
    assert site.checks("charge")["release"].verdict == "holds"


def test_another_outdoor_unit_takes_its_grams_and_its_first_start_along():
    site = finished("branch box")
    assert site.worked.of(WireStageResult).powered
    site.exchange("outdoor")
    assert not site.worked.of(WireStageResult).powered
    check = site.checks("charge")["weighed"]
    assert check.verdict == "wait"


def test_a_strike_takes_out_one_of_two_records_of_one_moment():
    site = finished("home runs")
    joint = site.job.joints[0]
    twin = site.record(joint.model_copy(update={"applied_nm": 1.0}))
    assert site.call("flare").call.verdict == "short"
    site.record(Strike(of="joint", of_uid=twin.uid, reason="slip", by=BY, at=site.later()))
    assert site.call("flare").call.verdict == "holds"


def test_old_records_are_of_the_job_as_it_was_found():
    site = finished("home runs")
    plain = {"subject": "", "practice": ""}
    job = site.job.model_copy(
        update={
            "records": tuple(r.model_copy(update=plain) for r in site.job.records),
            "runs": tuple(r.model_copy(update=plain) for r in site.job.runs),
            "since": site.job.since[:1],
        }
    )
    before = work(site.job, Practice()).calls
    assert {n: c.call for n, c in work(job, Practice()).calls.items()} == {
        n: c.call for n, c in before.items()
    }
    site.job = job
    head_out("C")(site)
    assert site.verdicts()["evacuate"] == "wait"


def test_a_copied_job_takes_no_observation_along():
    job = gallery()
    route = job.route.model_copy(update={"both_insulated": "yes"})
    route = route.model_copy(
        update={"drains": {"A": DrainRun(insulated="yes", reach="yes", trapped="no", bore_m=0.02)}}
    )
    seen = {"hazards_seen": ("none",), "hazards": "none", "frost": "no", "bedrooms_near": "no"}
    survey = job.survey.model_copy(update={**seen, "surveyed_by": "Ida"})
    plan = copied(job.model_copy(update={"route": route, "survey": survey}), "copy", lambda: "x")
    assert "both_insulated" not in plan["route"]
    assert plan["route"]["drains"]["A"] == {"bore_m": 0.02}
    assert not {*seen, "surveyed_by"} & plan["survey"].keys() and plan["survey"]["heads"]


def test_a_copied_job_has_machines_and_tubes_of_its_own():
    site = finished("home runs")
    names = iter(f"n{n}" for n in range(100))
    plan = copied(site.job, "copy", lambda: next(names))
    copy = Job.model_validate({"uid": "copy-of-it", "created_at": site.now, **plan})
    own = {*copy.equipment.machines.values(), *copy.equipment.tubes.values()}
    theirs = {*site.job.equipment.machines.values(), *site.job.equipment.tubes.values()}
    assert own and theirs and not own & theirs
    assert copy.equipment.machines.keys() == site.job.equipment.machines.keys()


def test_a_job_comes_back_from_its_file_with_the_same_calls():
    site = finished("home runs")
    head_out("B")(site)
    again_ = Job.model_validate_json(site.job.model_dump_json())
    assert work(again_, Practice()).calls == site.worked.calls
    assert numbered(again_.records) == again_.records


# --- over random edits and acts ------------------------------------------------------------------

ACTS = st.sampled_from(
    [
        again("C.gas.end"),
        again("A.liquid.start"),
        exchange("B"),
        exchange("outdoor"),
        tube("A"),
        tube("B", liquid_od_m=0.00952),
        order("connect:B:outdoor:E"),
        order("port:outdoor:E:capped"),
        head_out("C"),
        lambda site: site.make(),
        lambda site: site.hold(),
        lambda site: site.pull(),
        lambda site: site._states and site.undo(),
        lambda site: site.edit(route=site.job.route.model_copy(update={"notes": "n"})),
    ]
)


@settings(max_examples=12)
@given(st.lists(ACTS, min_size=1, max_size=5))
def test_nothing_holds_whose_parts_differ_and_nothing_is_void_whose_parts_are_the_same(acts):
    site = finished("home runs", released=False)
    for act in acts:
        act(site)
    worked = site.worked
    proofs = worked.of(FlareStageResult).proofs
    circuits = [c.id for c in circuits_of(worked.of(RouteStageResult).pipes, worked.rules)]
    said = {r.run: r.open for r in site.job.records if r.kind == "ports"}
    now = Circuits(proofs.now)
    decays = [r for r in site.job.runs if r.kind == "decay"]
    for check in site.call("evacuate").checks:
        if not check.label.startswith("Port"):
            continue
        mine = [c for c in circuits if f"ports-{c}" == check.id or c in check.id.split("-")[1:]]
        for circuit in mine:
            newest = [r for r in decays if circuit in said.get(r.uid, ())]
            if not newest:
                assert check.call.verdict != "holds"
                continue
            then = proofs.at_beginning(newest[-1].subject, newest[-1].started_at)
            was = {n: m[:1] for n, m in then.items() if Circuits(then).of(n) == circuit}
            is_ = {n: m[:1] for n, m in proofs.now.items() if now.of(n) == circuit}
            if was != is_ or then.get("unit", ())[:1] != proofs.now["unit"][:1]:
                assert check.call.verdict != "holds", check.call.because
    if proofs.now == _proved_then().now:
        assert not any(v.by for v in worked.of(EvacuateStageResult).voided) and not site.asked()


@cache
def _proved_then():
    return finished("home runs", released=False).worked.of(FlareStageResult).proofs


def test_every_kind_of_part_is_covered_by_a_proof():
    kinds = {kind_of(name) for name in finished("trunk").worked.of(FlareStageResult).proofs.now}
    assert kinds | {"box", "open"} == set().union(*(cover.kinds for cover in COVERS.values()))


def wired():
    """The demo's finished single zone, with every conductor landed and power on."""
    site = finished("brazed")
    site.job = named(bindery())
    site.now = max(r.at for r in site.job.records) + timedelta(hours=2)
    return site


def test_another_head_wants_its_own_end_landed_and_the_unit_stays_proved_dead():
    site = wired()
    assert site.call("wire").call.verdict == "holds"
    site.exchange("A")
    worked = site.worked.of(WireStageResult)
    ends = {e.id: e.call.verdict.value for e in worked.ends if e.cable.kind == "cable"}
    assert sorted(ends.values()) == ["holds", "wait"] and worked.powered
    assert worked.dead["outdoor"].call.verdict == "holds"


def test_another_outdoor_unit_is_proved_dead_anew_and_all_its_ends_are_landed():
    site = wired()
    site.exchange("outdoor")
    worked = site.worked.of(WireStageResult)
    assert not worked.powered and worked.dead["outdoor"].proof is None
    ends = {e.id: e.call.verdict.value for e in worked.ends}
    assert sorted(ends.values()).count("wait") == 2  # its supply, and the cable's end there


def test_a_serial_typed_anew_asks_before_what_was_landed_counts():
    site = wired()
    box = site.job.survey.box("outdoor").model_copy(update={"serial": "OTHER"})
    boxes = site.job.survey.boxes | {"outdoor": box}
    site.edit(survey=site.job.survey.model_copy(update={"boxes": boxes}))
    assert "drawn wrong" in site.call("wire").call.do_next
    site.answer("corrected")
    assert site.call("wire").call.verdict == "holds"
