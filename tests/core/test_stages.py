"""Each stage's own checks, at and around their limits."""

from datetime import UTC, datetime, timedelta

import pytest

from fairline.core.call import SEVERITY, Call, Check, StageCall, Verdict, deciding, worst
from fairline.core.charge import stage as charge
from fairline.core.charge import worksheet
from fairline.core.charge.entry import ChargeEntry, Release, Weighing, weighed_kg
from fairline.core.charge.gates import GATES, blocked_by
from fairline.core.charge.weighed import _within as within_the_tolerance
from fairline.core.check import check_choice, check_limit, stage_call
from fairline.core.commission import stage as commission
from fairline.core.commission import zone
from fairline.core.commission.records import Running
from fairline.core.evacuate import pulling
from fairline.core.evacuate.entry import EvacuateEntry
from fairline.core.evacuate.records import Isolation, PumpOverride
from fairline.core.flare import stage as flare
from fairline.core.flare.stage import LOOKS, JointRecord, WrenchEntry
from fairline.core.hand_over import stage as hand_over
from fairline.core.hand_over.entry import HandOverEntry
from fairline.core.hand_over.stage import TASKS
from fairline.core.line import judge, rules_of
from fairline.core.practice import Practice, Rules
from fairline.core.pressure_test import hold as hold_readings
from fairline.core.pressure_test import stage as test_stage
from fairline.core.pressure_test.altitude import two_altitudes
from fairline.core.pressure_test.hold import TestEntry
from fairline.core.pressure_test.records import LeakCheck
from fairline.core.readings import (
    MOST_DRAWN,
    HoldReading,
    HoldReadings,
    HoldRun,
    VacuumReading,
    VacuumRun,
)
from fairline.core.route.entry import LineRun, RouteEntry
from fairline.core.sheet.part import Torque, TubePair
from fairline.core.stages import TITLES as STAGES
from fairline.demo.heads import OSMUND_H26
from fairline.demo.jobs import bindery
from fairline.demo.sheets import OSMUND_26, OSMUND_KIT_25
from tests.support import evacuate_call, hold_call, joints_of, piping_of

NOW = datetime(2026, 3, 1, 9, tzinfo=UTC)
OSMUND = Rules(outdoor=OSMUND_26, head=OSMUND_H26, heads={"A": OSMUND_H26})
NO_SHEET = Rules()


def verdicts(stage):
    return {c.id: str(c.call.verdict) for c in stage.checks}


# --- the shared vocabulary ---------------------------------------------------------------------


def test_the_worst_verdict_decides_and_the_first_of_the_worst_speaks():
    order = ["stop", "short", "unknown", "wait", "watch", "holds"]
    assert [str(v) for v in SEVERITY] == order
    assert worst([]) == "holds"
    for i, verdict in enumerate(SEVERITY):
        assert worst(SEVERITY[i:]) == verdict
    calls = [
        Call(verdict=Verdict(v), because=str(n))
        for n, v in enumerate(["holds", "short", "watch", "short"])
    ]
    assert deciding(calls).because == "1"


@pytest.mark.parametrize(
    ("value", "bound", "verdict"),
    [
        (None, "min", "wait"),
        (0.30, "min", "holds"),
        (0.299, "min", "short"),
        (0.30, "max", "holds"),
        (0.301, "max", "short"),
        (0.2999999, "min", "holds"),
    ],
)
def test_a_value_is_judged_against_its_limit(value, bound, verdict):
    limit = Rules(practice=Practice(house={"head_left": 0.30})).limit("head_left")
    check = check_limit("x", "Left", value, limit, "small", bound, "Move it.")
    assert check.call.verdict == verdict
    assert (check.call.do_next == "Move it.") == (verdict == "short")
    if value is not None:
        assert "the company wants" in check.call.because


def test_a_value_without_a_limit_is_unknown_and_a_blank_choice_waits():
    assert check_limit("x", "Left", 0.3, None, "small", "min", "").call.verdict == "unknown"
    bad = {"no": Call(verdict=Verdict.STOP, because="No.")}
    for answer, verdict in (("", "wait"), (None, "wait"), ("yes", "holds"), ("no", "stop")):
        assert check_choice("x", "It", answer, ("yes",), bad, "Look.").call.verdict == verdict


def test_a_stage_keeps_every_check_and_the_limits_they_used():
    limit = OSMUND.limit("head_left")
    good = Check(id="a", label="A", call=Call(verdict=Verdict.HOLDS, because="ok"), limit=limit)
    bad = Check(id="b", label="B", call=Call(verdict=Verdict.SHORT, because="b", do_next="Do."))
    stage = stage_call([good, bad], "All hold.")
    assert (stage.call.because, stage.call.do_next) == ("b", "Do.")
    assert stage.governed_by == (limit,)
    assert stage_call([good], "All hold.").call.because == "All hold."


# --- flare -------------------------------------------------------------------------------------


SPECS = joints_of(bindery(), OSMUND, piping_of(bindery(), OSMUND))


def made(place="A.gas.end", nm=37.5, **more):
    return JointRecord(
        place=place, look=more.pop("look", "good"), applied_nm=nm, by="I", at=NOW, **more
    )


ALL_MADE = tuple(made(s.id, 37.5 if s.line == "gas" else 16.0) for s in SPECS)


@pytest.mark.parametrize(
    ("record", "verdict"),
    [
        (made(), "holds"),
        (made(nm=33.9), "short"),
        (made(nm=41.1), "short"),
        (made(nm=None, how="by feel"), "watch"),
        (made(nm=None, how="loose"), "wait"),
        (made(nm=None, how="brazed", nitrogen="yes", cooled="yes"), "holds"),
        (made(nm=None, how="brazed", nitrogen="no"), "short"),
        *((made(look=look), "holds" if look == "good" else "short") for look in LOOKS),
    ],
)
def test_the_last_making_of_a_joint_counts(record, verdict):
    stage = flare.judge(WrenchEntry(), SPECS, (*ALL_MADE, record), OSMUND)
    assert verdicts(stage)["A.gas.end"] == verdict
    joint = flare.joints(WrenchEntry(), SPECS, (*ALL_MADE, record), OSMUND)[0]
    assert (joint.makings, joint.record) == (2, record)


CHARGED = OSMUND.model_copy(update={"kits": (OSMUND_KIT_25,)})


@pytest.mark.parametrize(
    ("record", "verdict", "said"),
    [
        (made(), "holds", ""),
        (made(flare="factory"), "holds", ""),  # used as it comes, whatever house practice says
        (made(nm=None, how="brazed", nitrogen="yes", cooled="yes"), "stop", "flame"),
        (made(nm=None, how="by feel"), "short", "cannot be tried again"),
        (made(nm=41.2), "short", "never cut"),
        *((made(look=look), "short", "never cut") for look in ("split", "burr", "scratch")),
    ],
)
def test_a_charged_connection_is_never_cut_brazed_or_felt(record, verdict, said):
    recut = Practice(schools={"factory_flares": "recut"})
    rules = CHARGED.model_copy(update={"practice": recut})
    rest = tuple(r for r in ALL_MADE if r.place != "A.gas.end")
    joint = next(
        j
        for j in flare.joints(WrenchEntry(), SPECS, (*rest, record), rules)
        if j.place == "A.gas.end"
    )
    assert joint.call.verdict == verdict and said in f"{joint.call.because} {joint.call.do_next}"
    if verdict != "holds":
        words = f"{joint.call.because} {joint.call.do_next}".casefold()
        assert "cut it off" not in words and "flare again" not in words


@pytest.mark.parametrize(
    ("nm", "verdict", "asked"),
    [
        (375.0, "wait", True),  # 37.5 with its decimal slipped
        (3.75, "wait", True),
        (339.0, "short", False),  # 33.9 would be short too
        (340.0, "wait", True),
        (410.0, "wait", True),
        (411.0, "short", False),
        (3.39, "short", False),
    ],
)
def test_a_decimal_that_slipped_is_asked_before_a_flare_is_cut_off(nm, verdict, asked):
    stage = flare.judge(WrenchEntry(), SPECS, (*ALL_MADE, made(nm=nm)), OSMUND)
    call = next(c.call for c in stage.checks if c.id == "A.gas.end")
    assert (call.verdict, "was it" in call.because) == (verdict, asked)
    assert asked is (
        "cut" not in (call.do_next or "").casefold() and "Bring" not in (call.do_next or "")
    )


def test_a_tube_size_that_no_tube_has_is_refused():
    for slipped in (0.0635, 0.0952, 0.127, 0.00159):  # of 6.35, 9.52, 12.7 and 15.88 mm
        with pytest.raises(ValueError, match="must lie between"):
            TubePair(liquid_od_m=slipped)
    assert TubePair(liquid_od_m=0.05).liquid_od_m == 0.05


def test_three_joints_of_four_wait_for_the_fourth():
    stage = flare.judge(WrenchEntry(), SPECS, ALL_MADE[:3], OSMUND)
    assert (stage.call.verdict, stage.summary) == ("wait", "3 of 4")
    assert flare.judge(WrenchEntry(), SPECS, (), NO_SHEET).call.verdict == "unknown"
    sources = {x.source for x in stage.governed_by}
    assert sources == {f"{OSMUND_26.name}, p. 17"}


def test_the_wrench_reads_less_than_the_nut_gets_with_an_adapter():
    wrench = WrenchEntry(wrench_m=0.25, adapter_m=0.05, adapter_deg=0)
    assert wrench.share() == pytest.approx(0.25 / 0.30)
    assert WrenchEntry().share() == 1
    with pytest.raises(ValueError, match="wrench's length"):
        WrenchEntry(adapter_m=0.05)
    with pytest.raises(ValueError, match="by feel"):
        made(nm=None)


# --- pressure test and vacuum ------------------------------------------------------------------


def hold(*rows):
    readings = tuple(
        HoldReading(seq=i, t_s=t, gauge_pa=p, pipe_c=c) for i, (t, p, c) in enumerate(rows)
    )
    return HoldRun(uid="h", kind="hold", started_at=NOW, readings=readings)


def test_altitude_lowers_the_atmosphere_that_gauges_are_read_against():
    """ISO 2533: 101 325 Pa at sea level, 89 875 Pa at 1000 m, 70 109 Pa at 3000 m (from memory)."""
    for altitude, pascal in ((0.0, 101_325), (1000.0, 89_875), (3000.0, 70_109)):
        assert TestEntry(altitude_m=altitude).atmosphere_pa == pytest.approx(pascal, abs=15)
    with pytest.raises(ValueError, match="altitude"):
        TestEntry(altitude_m=9000.0)


def psi_hold(*rows):
    return hold(*((t, psi * 6894.757, c) for t, psi, c in rows))


@pytest.mark.parametrize(
    ("rows", "verdict", "held"),
    [
        # warm from filling: it falls by up to 3 % until a reading 10 to 30 min later, then stands
        (((0, 309, 20), (600, 301, 20), (4200, 301, 20)), "holds", 3600),
        (((0, 309, 20), (599, 301, 20), (4199, 301, 20)), "short", 4199),
        (((0, 309, 20), (1800, 301, 20), (5400, 301, 20)), "holds", 3600),
        (((0, 309, 20), (1801, 301, 20), (5401, 301, 20)), "short", 5401),
        (((0, 312, 20), (600, 302, 20), (4200, 302, 20)), "short", 4200),  # more than 3 %
        (((0, 309, 20), (600, 301, 20), (4200, 297, 20)), "short", 3600),  # and it goes on falling
        (((0, 301, 20), (600, 307, 20), (4200, 307, 20)), "holds", 3600),  # cold from filling
        (((0, 309, 20), (600, 301, 20), (3600, 301, 20)), "wait", 3000),
        (((0, 309, 20), (3600, 301, 20)), "short", 3600),  # nothing between: it may be a leak
    ],
)
def test_a_hold_counts_from_when_its_gas_has_come_to_rest(rows, verdict, held):
    worked = test_stage.answer(psi_hold(*rows), TestEntry(), OSMUND)
    assert (worked.call.verdict, worked.result.held_s) == (verdict, held)


@pytest.mark.parametrize(("wrong", "asked"), [(29, True), (32, True), (33.5, False), (2900, True)])
def test_a_digit_too_few_is_asked_not_called_a_leak(wrong, asked):
    run = psi_hold((0, 300, 20), (1800, 300, 20), (3600, wrong, 20))
    worked = test_stage.answer(run, TestEntry(), OSMUND)
    if wrong > 600:
        assert worked.call.verdict == "stop"  # over the most is over the most, typed or not
    else:
        assert worked.call.verdict == ("wait" if asked else "short")
        assert ("digit" in worked.call.because) is asked


def test_a_lagging_probe_and_a_night_widen_the_doubt():
    calm = psi_hold((0, 300, 20), (600, 300, 20), (3600, 300, 20))
    assert hold_readings.lag_k(calm) == 0
    sunny = psi_hold((0, 300, 20), (600, 300, 20), (3000, 300, 20), (3600, 306, 26))
    assert hold_readings.lag_k(sunny) == pytest.approx(120 * 6 / 600)
    plan = test_stage.plan(OSMUND)
    for held, pascal in ((3600, 300 * (3600 / 86_400) ** 0.5), (86_400, 300), (200_000, 300)):
        asked = hold_readings.request(psi_hold((0, 300, 20), (held, 300, 20)), TestEntry(), plan)
        assert asked.barometer_uncertainty_pa == pytest.approx(pascal)


def test_the_soak_asks_for_bubbles_on_every_joint_and_a_leak_counts_under_any_school():
    job = bindery()
    before = [r for r in job.records if r.kind != "leak-check"]
    job = job.model_copy(update={"records": tuple(before)})
    soak = Practice(schools={"pressure": "soak"})
    begun = job.runs[0].started_at
    looks = [
        LeakCheck(
            joint=s.id,
            method="bubbles",
            found="clean",
            watched_s=150.0,
            by="I",
            at=begun + timedelta(minutes=n),
        )
        for n, s in enumerate(SPECS, 1)
    ]

    def tested(practice, records):
        return judge(job.model_copy(update={"records": (*job.records, *records)}), practice)[
            "pressure-test"
        ]

    assert tested(Practice(), []).call.verdict == "holds"
    three = tested(soak, looks[:3])
    assert three.call.verdict == "wait" and "3 of 4" in three.call.because
    assert tested(soak, looks).call.verdict == "holds"
    brief = looks[-1].model_copy(update={"watched_s": 119.0})
    assert tested(soak, [*looks[:3], brief]).call.verdict == "wait"
    wet = looks[0].model_copy(update={"found": "leak"})
    assert tested(Practice(), [wet]).call.verdict == "short"


def test_the_newest_hold_with_a_reading_counts():
    good = hold((0, 2.1e6, 20), (3600, 2.1e6, 20))
    empty = good.model_copy(update={"uid": "e", "readings": HoldReadings({}, 0)})
    assert hold_call((good, empty), TestEntry(), OSMUND).call.verdict == "holds"
    begun = hold((0, 2.1e6, 20))
    stage = hold_call((good, begun), TestEntry(), OSMUND)
    assert (stage.call.verdict, stage.progress) == ("wait", 0.0)
    assert hold_call((good,), TestEntry(), NO_SHEET).call.verdict == "unknown"


def test_a_coil_that_did_not_hiss_keeps_the_pressure_test_shut():
    good = hold((0, 2.1e6, 20), (3600, 2.1e6, 20))
    for runs in ((), (good,)):
        stage = hold_call(runs, TestEntry(), OSMUND, ["B"])
        assert verdicts(stage)["coil_B"] == "short"
    assert stage.call.verdict == "short"


def test_the_chart_is_thinned_and_keeps_first_and_last():
    rows = [(float(i), 2.1e6 - i, 20 - i / 1000) for i in range(5000)]
    points = test_stage.curve(hold(*rows), TestEntry())
    assert len(points) == MOST_DRAWN
    assert (points[0].t_s, points[-1].t_s) == (0, 4999)
    assert points[-1].gauge_pa == 2.1e6 - 4999


def vacuum(kind, *pascals):
    readings = tuple(VacuumReading(seq=i, t_s=i * 60.0, pa=p) for i, p in enumerate(pascals))
    return VacuumRun(uid=kind, kind=kind, started_at=NOW, readings=readings)


SEEN = (Isolation(run="decay", by="I", at=NOW),)
TESTED = StageCall(call=Call(verdict=Verdict.HOLDS, because=""))


def test_the_pump_stays_off_until_the_pressure_test_holds_or_somebody_answers():
    entry = EvacuateEntry(gauge_far=True)
    good = (vacuum("pull", 30.0), vacuum("decay", 30.0, *[31.0] * 10))
    waiting = StageCall(call=Call(verdict=Verdict.WAIT, because=""))
    named = PumpOverride(reason="tested at the works", by="Ida", at=NOW)
    for test, overrides, runs, verdict, off in (
        (waiting, (), (), "wait", True),
        (waiting, (), good, "holds", True),
        (waiting, (named,), good, "holds", False),
        (TESTED, (), good, "holds", False),
        (None, (), good, "holds", True),
    ):
        assert pulling.pump_must_stay_off(test, bool(overrides)) == off
        stage = evacuate_call(runs, entry, OSMUND, test, overrides, SEEN)
        assert stage.call.verdict == verdict
    # The vacuum holds for itself; that the test does not is told there, and keeps the valves shut.
    stages = {"flare": TESTED, "pressure-test": waiting, "evacuate": stage}
    assert blocked_by(stages, OSMUND) == ["pressure-test"]
    with pytest.raises(ValueError):
        PumpOverride(reason="", by="Ida", at=NOW)


@pytest.mark.parametrize(
    ("runs", "verdict", "told"),
    [
        ((), "wait", "No vacuum"),
        ((vacuum("pull"),), "wait", "no reading"),
        ((vacuum("pull", 9000.0),), "wait", "on the way"),
        ((vacuum("pull", 9000.0, 30.0),), "wait", "proves nothing"),
        ((vacuum("pull", 30.0), vacuum("decay", 30.0)), "wait", "so far"),
        ((vacuum("pull", 30.0), vacuum("decay", 30.0, *[31.0] * 10)), "holds", "at most"),
        ((vacuum("pull", 30.0), vacuum("decay", 30.0, *[90.0] * 10)), "short", "allowed"),
    ],
)
def test_pull_and_decay_one_after_the_other(runs, verdict, told):
    stage = evacuate_call(runs, EvacuateEntry(gauge_far=True), OSMUND, TESTED, (), SEEN)
    assert stage.call.verdict == verdict
    assert told in stage.call.because


def test_a_level_decay_rests_on_the_act_and_nitrogen_puts_it_out_of_use():
    good = (vacuum("pull", 30.0), vacuum("decay", 30.0, *[31.0] * 10))
    entry = EvacuateEntry(gauge_far=True)
    assert evacuate_call(good, entry, OSMUND, TESTED).call.verdict == "unknown"
    other = Isolation(run="another", by="I", at=NOW)
    assert evacuate_call(good, entry, OSMUND, TESTED, (), (other,)).call.verdict == "unknown"
    let_in = "Nitrogen was let in"
    again = evacuate_call(good, entry, OSMUND, TESTED, (), SEEN, let_in=let_in)
    assert again.call.verdict == "wait" and "let in after" in again.call.because


@pytest.mark.parametrize(
    ("closed", "verdict"),
    [
        (40.0, "holds"),
        (40.05, "holds"),
        (40.2, "watch"),
        (50.0, "watch"),  # 300 microns: 40.0 Pa
    ],
)
def test_how_deep_it_was_pulled_is_judged_too(closed, verdict):
    runs = (vacuum("pull", 9000.0, closed), vacuum("decay", closed, *[closed] * 10))
    stage = evacuate_call(runs, EvacuateEntry(gauge_far=True), OSMUND, TESTED, (), SEEN)
    assert verdicts(stage) == {"decay": "holds", "pulled": verdict, "gauge": "holds"}
    short = Rules(outdoor=OSMUND_26, practice=Practice(schools={"decay": "short"}))
    stage = evacuate_call(runs, EvacuateEntry(gauge_far=True), short, TESTED, (), SEEN)
    assert verdicts(stage)["pulled"] == ("holds" if closed < 46.7 else "watch")  # 350 microns


def needle(kind, *rows, at=NOW):
    readings = tuple(VacuumReading(seq=i, t_s=t, gauge_pa=p) for i, (t, p) in enumerate(rows))
    return VacuumRun(uid=kind, kind=kind, started_at=at, readings=readings)


PULLED = needle("pull", (0, -101_000.0), at=NOW - timedelta(minutes=10))
BY_NEEDLE = OSMUND_26.model_copy(update={"vacuum_gauge": "needle", "cites": {}})
END = -101_000.0


@pytest.mark.parametrize(
    ("decay", "sheet", "seen", "verdict"),
    [
        # five minutes still; half an inch of mercury is a movement; an inch short is not pulled
        (((0, END), (300, END)), True, True, "holds"),
        (((0, END), (299, END)), True, True, "wait"),
        (((0, END), (300, END)), False, True, "watch"),
        (((0, END), (300, END)), True, False, "unknown"),
        (((0, END), (300, END + 1690)), True, True, "holds"),
        (((0, END), (300, END + 1694)), True, True, "short"),
        (((0, -97_940.0), (300, -97_940.0)), True, True, "holds"),
        (((0, -97_930.0), (300, -97_930.0)), True, True, "wait"),
    ],
)
def test_a_needle_stands_still_and_proves_only_what_the_sheet_lets_it(decay, sheet, seen, verdict):
    rules = Rules(outdoor=BY_NEEDLE if sheet else OSMUND_26)
    runs = (PULLED, needle("decay", *decay))
    stage = evacuate_call(
        runs, EvacuateEntry(gauge_far=True), rules, TESTED, (), SEEN if seen else ()
    )
    assert stage.call.verdict == verdict
    if verdict == "holds":
        assert "not dry" in stage.call.because
        hasty = (PULLED.model_copy(update={"started_at": NOW - timedelta(seconds=599)}), runs[1])
        entry = EvacuateEntry(gauge_far=True)
        assert evacuate_call(hasty, entry, rules, TESTED, (), SEEN).call.verdict == "watch"


# --- charge ------------------------------------------------------------------------------------

OPEN = {s: StageCall(call=Call(verdict=Verdict.HOLDS, because="")) for s in GATES}


def pipes_of(length_m, rules):
    """One run of this length, as it was built."""
    only = LineRun(fed_from="outdoor", built_m=length_m, legs=bindery().route.run("A").legs)
    runs = {"A": only} if length_m is not None else {}
    job = bindery().model_copy(update={"route": RouteEntry(runs=runs)})
    equipment = bindery().equipment
    if rules.outdoor is not None:
        planned = equipment.outdoor.model_copy(update={"sheet": rules.outdoor})
        job = job.model_copy(
            update={"equipment": equipment.model_copy(update={"outdoor": planned})}
        )
    return piping_of(job, rules)


def charged(length_m=10.0, entry=None, weighings=(), releases=(), stages=OPEN, rules=OSMUND):
    pipes, entry = pipes_of(length_m, rules), entry or ChargeEntry()
    worked = worksheet.answer(worksheet.by_rule(pipes, entry, rules), pipes, entry, rules)
    stage = charge.judge(
        pipes,
        entry,
        weighings,
        releases,
        stages,
        rules,
        [],
        (),
        worked,
    )
    return stage, verdicts(stage)


def weighed(kg, hose=None):
    return Weighing(before_kg=5.0, after_kg=5.0 - kg, hose_kg=hose, by="I", at=NOW)


def test_charge_by_length_and_what_is_missing():
    stage, found = charged(10.0)
    added = stage.checks[0].value
    assert added == pytest.approx((10.0 - 7.62) * 0.020462254, rel=1e-6)
    assert found == {
        "added": "holds",
        "weighed": "wait",
        "room_charge": "holds",
        "release": "wait",
    }
    assert charged(None)[0].call.verdict == "unknown"
    assert charged(rules=NO_SHEET)[0].call.verdict == "unknown"
    assert charged(20.0, rules=OSMUND)[0].checks[0].call.verdict == "holds"
    far = charged(60.0)[0]
    assert (far.call.verdict, far.findings[0]) == ("stop", "over_max_total")


def test_several_weighings_add_up_and_the_hose_is_taken_off():
    two = (weighed(0.030), weighed(0.020, hose=0.002))
    assert weighed_kg(two) == pytest.approx(0.048)
    assert charged(10.0, weighings=two)[1]["weighed"] == "holds"
    with pytest.raises(ValueError, match="before and after"):
        Weighing(before_kg=5.0, after_kg=None, by="I", at=NOW)


def test_a_short_line_is_left_or_recovered_by_sheet_job_or_house():
    assert charged(5.0)[1]["weighed"] == "holds"
    recover = ChargeEntry(short_line="recover", short_line_reason="critical charge")
    stage, found = charged(5.0, recover)
    assert (found["added"], stage.findings) == ("watch", ("recover",))
    out = stage.checks[0].value
    assert charged(5.0, recover, (weighed(out),))[1]["added"] == "holds"
    assert worksheet.short_line(recover, OSMUND) == ("recover", "this job: critical charge")
    sheet = OSMUND_26.model_copy(update={"short_line": "leave"})
    assert worksheet.short_line(recover, Rules(outdoor=sheet)) == ("leave", "the sheet")
    with pytest.raises(ValueError, match="say why"):
        ChargeEntry(short_line="recover")


@pytest.mark.parametrize(
    ("release", "verdict"),
    [
        ({}, "holds"),
        ({"full_open": False}, "short"),
        ({"caps_on": False}, "watch"),
        ({"override_by": "I", "override_reason": "r"}, "watch"),
    ],
)
def test_the_valves(release, verdict):
    fields = {"order": "gas_first", "full_open": True, "caps_on": True, "by": "I", "at": NOW}
    assert charged(releases=(Release(**fields | release),))[1]["release"] == verdict


@pytest.mark.parametrize("verdict", list(Verdict))
def test_only_what_holds_opens_the_gates(verdict):
    stages = {s: StageCall(call=Call(verdict=verdict, because="")) for s in GATES}
    assert (blocked_by(stages, OSMUND) == []) == (verdict == "holds")
    assert blocked_by({}, OSMUND) == list(GATES)
    stage, found = charged(stages=stages)
    shut = verdict != "holds"
    assert found["weighed"] == found["release"] == "wait"
    assert ("hold first" in (stage.call.do_next or "")) is shut
    _, found = charged(weighings=(weighed(0.05),), stages=stages)
    assert (found["weighed"] == "short") is shut


@pytest.mark.parametrize(
    ("weighings", "verdict", "told"),
    [
        ((-0.027,), "wait", "Take out another"),
        ((-0.054,), "holds", "came out"),
        ((-0.09,), "short", "more than wanted"),
        ((0.02,), "short", "exchanged"),
    ],
)
def test_a_recovery_is_told_in_its_own_direction(weighings, verdict, told):
    recover = ChargeEntry(short_line="recover", short_line_reason="critical charge")
    done = tuple(weighed(kg) for kg in weighings)  # of 5 m where 7.62 are covered: 54 g too much
    stage, found = charged(5.0, recover, done)
    check = next(c for c in stage.checks if c.id == "weighed")
    assert found["weighed"] == verdict
    assert told in check.call.because + (check.call.do_next or "")


def test_weights_that_were_exchanged_are_asked():
    with pytest.raises(ValueError, match="more after"):
        Weighing(way="in", before_kg=4.8, after_kg=5.0, by="I", at=NOW)
    with pytest.raises(ValueError, match="less after"):
        Weighing(way="out", before_kg=5.0, after_kg=4.8, by="I", at=NOW)
    kept = Weighing.model_validate({"before_kg": 4.8, "after_kg": 5.0, "by": "I", "at": NOW})
    assert kept.way == "out"  # kept before the way was asked


def test_a_rate_read_again_on_the_sheet_settles_the_doubt():
    steep = OSMUND_26.model_copy(
        update={"rates": (OSMUND_26.rates[0].model_copy(update={"kg_per_m": 0.04}),)}
    )
    rules = Rules(outdoor=steep)
    who = {"rate_by": "Ida", "rate_page": "page 41"}
    for again, said, verdict in (
        (None, {}, "watch"),
        (0.04, {}, "watch"),  # by whom, and from where?
        (0.04, who, "holds"),
        (0.02, who, "short"),
    ):
        stage, found = charged(10.0, ChargeEntry(rate_again=again, **said), rules=rules)
        assert (found["added"], stage.findings) == (verdict, ("rate_exceeds_full_tube",))
        if verdict == "holds":
            do_next = stage.checks[0].call.do_next or ""
            assert do_next.startswith("Weigh in 95") and do_next.endswith("as liquid.")


# --- commission and hand-over ------------------------------------------------------------------


def running(mode="cool", **more):
    fields = {
        "fan": "high",
        "return_c": 26.0,
        "return_rh": 0.53,
        "supply_c": 13.6,
        "supply_rh": 0.94,
        "current_a": 4.9,
        "drain": "runs",
    }
    if mode == "heat":
        fields = {
            "fan": "high",
            "return_c": 19.4,
            "return_rh": 0.42,
            "supply_c": 36.2,
            "supply_rh": 0.16,
            "current_a": 5.6,
        }
    return Running(mode=mode, by="I", at=NOW, **fields | more)


@pytest.mark.parametrize(
    ("records", "check", "verdict"),
    [
        ((), "cool", "wait"),
        ((running(),), "heat", "wait"),
        ((running(), running("heat")), "heat", "holds"),
        ((running(supply_c=24.0, supply_rh=0.58),), "cool", "short"),  # 3.6 °F of split is weak
        ((running(supply_c=26.0, supply_rh=0.53),), "cool", "short"),  # not changed
        ((running(supply_c=27.0, supply_rh=0.5),), "cool", "short"),
        ((running(supply_c=27.0, supply_rh=0.5), running()), "cool", "holds"),
        ((running(current_a=6.9),), "current_cool", "watch"),  # over the rated 6.8 A
        ((running(current_a=9.6),), "current_cool", "short"),  # over the MCA of 9.5 A
        ((running(current_a=None),), "current_cool", None),  # nobody clamped it: no fault
        ((running(drain="stands"),), "drain", "short"),
        ((running(drain=""),), "drain", "wait"),
        ((running(fan=""),), "cool", "holds"),  # right at any speed
        ((running(fan="HIGH"),), "cool", "holds"),
        ((running(fan="quiet"),), "cool", "short"),  # at the speed that ran, not at the highest
        ((running(fan="", supply_c=25.0, supply_rh=0.55),), "cool", "short"),  # weak at any speed
        ((running(current_a=0.0),), "current_cool", "wait"),
        ((running(current_a=0.33),), "current_cool", "wait"),  # 5 % of 6.8 A is 0.34 A
        ((running(current_a=0.99),), "current_cool", "wait"),  # beside 2.5 kW
        ((running(current_a=1.0),), "current_cool", "watch"),  # little for that capacity
        ((running(current_a=0.35, supply_rh=None, return_rh=None),), "current_cool", "holds"),
        ((running(current_a=0.33, supply_rh=None, return_rh=None),), "current_cool", "wait"),
        ((running(current_a=490.0),), "current_cool", "wait"),
        ((running(current_a=34.1),), "current_cool", "wait"),  # five times 6.8 A is 34 A
        ((running(current_a=34.0),), "current_cool", "short"),
        ((running(return_rh=None, supply_rh=None),), "cool", "holds"),  # two dry-bulbs will do
        ((running("heat", return_rh=None, supply_rh=None),), "heat", "holds"),
    ],
)
def test_commission_checks(records, check, verdict):
    assert verdicts(commission.judge(records, OSMUND, ["A"])).get(check) == verdict


@pytest.mark.parametrize(
    ("wrong", "told"),
    [
        ({"return_c": None}, "dry-bulb"),
        ({"return_wet_c": 18.0}, "not both"),
        ({"supply_c": 200.0}, "no air"),
        ({"return_rh": None, "return_wet_c": 27.0}, "above dry-bulb"),
    ],
)
def test_air_that_cannot_be_is_refused(wrong, told):
    with pytest.raises(ValueError, match=told):
        running(**wrong)


def test_nothing_runs_before_the_valves_are_open_and_altitude_thins_the_air():
    shut = commission.judge((), OSMUND, ["A"], opened=False)
    assert (shut.call.verdict, "Charge" in shut.call.do_next) == ("wait", True)
    assert commission.judge((running(),), OSMUND, ["A"], opened=False).call.verdict == "short"
    low, high = (
        zone.answer(running(), OSMUND, pa).result.sensible_w for pa in (101_325.0, 83_436.0)
    )
    assert high == pytest.approx(low * 83_436 / 101_325, rel=0.01)


def test_capacity_needs_an_airflow_from_somewhere():
    assert verdicts(commission.judge((running(),), NO_SHEET, ["A"]))["cool"] == "watch"
    measured = commission.judge((running(airflow_m3_s=0.15),), NO_SHEET, ["A"])
    assert verdicts(measured)["cool"] == "watch"  # no rated value either


def test_hand_over_counts_stages_and_tasks():
    stages = dict.fromkeys(list(STAGES)[:-1], OPEN[GATES[0]])
    done = HandOverEntry(**dict.fromkeys(TASKS, True))
    assert hand_over.judge(done, stages, STAGES).call.verdict == "holds"
    for task in TASKS:
        stage = hand_over.judge(done.model_copy(update={task: False}), stages, STAGES)
        assert (stage.call.verdict, stage.call.do_next) == ("wait", f"{TASKS[task]}.")


def test_a_long_log_is_judged_as_its_computation_judges_all_of_it():
    rows = [
        (i * 60.0, 2.1e6 - 40 * i + 3e5 * ((i == 700) - (i == 300)), 20 - i / 200)
        for i in range(1440)
    ]
    run, entry = hold(*rows), TestEntry()
    to_hold = test_stage.plan(OSMUND)
    short = hold_readings.request(run, entry, to_hold)
    whole = short.model_copy(
        update={
            "readings": [hold_readings.HoldReading(t_s=t, gauge_pa=p, pipe_c=c) for t, p, c in rows]
        }
    )
    assert len(short.readings) == 3  # first, highest, last
    judged = hold_readings.judged(run, entry, to_hold)
    assert judged == hold_readings.pressure_hold(whole, to_hold.limits)


def test_a_nut_at_the_head_is_torqued_as_the_heads_own_sheet_says():
    own = Torque(od_m=0.00635, low_nm=12.0, high_nm=13.0)
    head = OSMUND_H26.model_copy(update={"torques": (own,)})
    job = bindery()
    rules = rules_of(job, Practice())
    asked = rules.model_copy(update={"heads": {"A": head}, "head": head})
    at = {
        spec.end: flare.torque_request(spec, WrenchEntry(), asked, None).sheet_torque_nm
        for spec in joints_of(job, rules, piping_of(job, rules))
        if spec.line == "liquid"
    }
    assert at == {"end": [12.0, 13.0], "start": [15.0, 17.5]}
    stranger = head.model_copy(update={"torques": ()})  # its sheet is silent: the outdoor unit's
    silent = rules.model_copy(update={"heads": {"A": stranger}, "head": stranger})
    spec = next(s for s in joints_of(job, rules, piping_of(job, rules)) if s.end == "end")
    assert flare.torque_request(spec, WrenchEntry(), silent, None).sheet_torque_nm is not None


@pytest.mark.parametrize(
    ("verdict", "said"),
    [
        ("holds", "Wire: It is landed."),
        ("watch", "Wire: It is landed."),
        ("wait", "Wire is not done: It is landed."),
        ("short", "Wire is not done: It is landed."),
        ("unknown", "Wire is not done: It is landed."),
    ],
)
def test_what_is_not_done_is_said_to_be_not_done(verdict, said):
    of_wire = StageCall(call=Call(verdict=verdict, because="It is landed."))
    found = hand_over.judge(HandOverEntry(), {"wire": of_wire}, {"wire": "Wire"})
    assert next(c.call.because for c in found.checks if c.id == "wire") == said
    left = next(c.call for c in found.checks if c.id == next(iter(TASKS)))
    assert (left.verdict, left.because.partition(":")[0]) == ("wait", "Not done")


@pytest.mark.parametrize(
    ("grams", "told"), [(0.4, False), (0.55, True), (-0.4, False), (-0.55, True)]
)
def test_half_a_gram_too_much_or_too_little_is_told(grams, told):
    assert bool(within_the_tolerance(grams / 1000)) == told


@pytest.mark.parametrize(("own_m", "told"), [(129.0, False), (131.0, True), (None, False)])
def test_another_altitude_than_the_surveys_is_told_from_thirty_metres_on(own_m, told):
    assert bool(two_altitudes(own_m, 100.0)) is told
