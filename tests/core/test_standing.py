"""What counts: not what was struck out, nothing simulated on a real job; the kit's own gate."""

from datetime import timedelta

import pytest

from fairline.core import kit
from fairline.core.call import Call, StageCall
from fairline.core.charge.entry import Release, Weighing
from fairline.core.charge.gates import blocked_by
from fairline.core.counted import counted_job
from fairline.core.evacuate.records import Isolation
from fairline.core.flare.records import JointRecord
from fairline.core.line import judge, rules_of
from fairline.core.practice import Practice
from fairline.core.pressure_test.records import LeakCheck
from fairline.core.readings import HoldReading, HoldRun, VacuumReading, VacuumRun
from fairline.core.strike import Strike
from fairline.demo.jobs import DAY_ONE, bindery
from fairline.demo.systems import gatehouse
from tests.support import joints_of, piping_of

LATER = DAY_ONE + timedelta(days=90)


def real(job):
    return job.model_copy(update={"head": job.head.model_copy(update={"practice": False})})


def with_records(job, *records):
    return job.model_copy(update={"records": (*job.records, *records)})


def calls(job):
    return {name: str(s.proof.verdict) for name, s in judge(job, Practice()).items()}


# --- practice and strikes ------------------------------------------------------------------------


def test_simulated_readings_decide_on_a_practice_job_only():
    job = bindery()
    practised, at_work = calls(job), calls(real(job))
    assert practised["pressure-test"] == practised["evacuate"] == practised["charge"] == "holds"
    assert at_work["pressure-test"] == at_work["evacuate"] == "wait"
    assert at_work["charge"] != "holds"  # its gates are open no more
    assert counted_job(job) is job and not any(r.readings for r in counted_job(real(job)).runs)
    simulated = tuple(
        r.model_copy(update={"simulated": True}) if r.kind == "joint" else r for r in job.records
    )
    job = job.model_copy(update={"records": simulated})
    assert calls(job)["flare"] == "holds"
    assert calls(real(job))["flare"] == "wait"


def test_what_is_struck_out_counts_no_more_and_stays():
    job = bindery()
    weighing = next(r for r in job.records if isinstance(r, Weighing))
    strike = Strike(of="weighing", of_at=weighing.at, reason="wrong cylinder", by="I", at=LATER)
    struck = with_records(job, strike)
    assert counted_job(struck).weighings == () and struck.weighings == (weighing,)
    assert calls(job)["charge"] == "holds" and calls(struck)["charge"] == "wait"
    other = Isolation(run="r", by="I", at=weighing.at)  # of the same moment, of another kind
    assert counted_job(with_records(struck, other)).records[-2:] == (strike, other)
    elsewhere = strike.model_copy(update={"of_at": LATER})
    assert calls(with_records(job, elsewhere))["charge"] == "holds"
    hold = job.runs[0]
    last = hold.readings[-1]
    out = Strike(
        of="reading",
        run=hold.uid,
        instrument=last.instrument,
        seq=last.seq,
        reason="r",
        by="I",
        at=LATER,
    )
    assert counted_job(with_records(job, out)).runs[0].readings == hold.readings.only(slice(0, -1))
    assert counted_job(with_records(job, out)).runs[1] is job.runs[1]
    for wrong in ({"of": "reading"}, {"of": "weighing"}):
        with pytest.raises(ValueError, match="name the"):
            Strike.model_validate(wrong | {"reason": "r", "by": "I", "at": LATER})


# --- the pre-charged kit -------------------------------------------------------------------------


def kit_job(evacuate_head="no"):
    """The demo's kit, its joints made once."""
    job = real(gatehouse())
    fitting = job.equipment.fittings[0]
    sheet = fitting.sheet.model_copy(update={"evacuate_head": evacuate_head})
    fitted = job.equipment.model_copy(
        update={"fittings": (fitting.model_copy(update={"sheet": sheet}),)}
    )
    job = job.model_copy(update={"equipment": fitted})
    rules = rules_of(job, Practice())
    made = [
        JointRecord(
            place=s.id, look="good", applied_nm=37.5 if s.line == "gas" else 16.0, by="I", at=LATER
        )
        for s in joints_of(job, rules, piping_of(job, rules))
    ]
    return with_records(job, *made)


def opened(**more):
    fields = {"order": "gas_first", "full_open": True, "caps_on": True, "hiss": "heard"}
    return Release(**fields | more, by="I", at=LATER + timedelta(hours=1))


def looked(job, **more):
    rules = rules_of(job, Practice())
    fields = {"method": "bubbles", "found": "clean", "watched_s": 150.0} | more
    return [
        LeakCheck(joint=s.id, **fields, by="I", at=LATER + timedelta(hours=2))
        for s in joints_of(job, rules, piping_of(job, rules))
    ]


def test_a_charged_kit_passes_by_its_own_gate_without_nitrogen_pump_or_override():
    job = kit_job()
    found = calls(job)
    assert (found["flare"], found["pressure-test"], found["evacuate"]) == ("holds",) * 3
    stages = judge(job, Practice())
    assert "not evacuated" in stages["evacuate"].call.because
    assert found["charge"] == "wait" and "Open both valves" in stages["charge"].call.do_next
    assert calls(with_records(job, opened()))["charge"] == "wait"  # not looked at yet
    done = with_records(job, opened(), *looked(job))
    assert calls(done)["charge"] == "holds"
    assert (
        calls(done)["commission"] == "wait"
        and "Power stays off" in judge(done, Practice())["commission"].call.because
    )


@pytest.mark.parametrize(
    ("records", "verdict"),
    [
        (lambda job: (opened(hiss=""), *looked(job)), "wait"),
        (lambda job: (opened(hiss="none"), *looked(job)), "stop"),
        (lambda job: (opened(), *looked(job)[:3]), "wait"),
        (lambda job: (opened(), *looked(job, watched_s=119.0)), "wait"),
        (lambda job: (opened(), *looked(job, watched_s=120.0)), "holds"),
        (lambda job: (opened(), *looked(job, found="leak")), "short"),
        (lambda job: (opened(), *looked(job, method="detector")), "wait"),
        (
            lambda job: (
                opened(),
                *looked(job, method="detector"),
                *looked(job, method="detector"),
            ),
            "holds",
        ),
        (
            lambda job: (
                opened(),
                *looked(job),
                Weighing(before_kg=5.0, after_kg=4.9, by="I", at=LATER),
            ),
            "short",
        ),
    ],
)
def test_what_the_kits_gate_asks(records, verdict):
    job = kit_job()
    assert calls(with_records(job, *records(job)))["charge"] == verdict


@pytest.mark.parametrize(
    ("flare", "shut"),
    [("holds", []), ("watch", []), ("wait", ["flare"]), ("unknown", ["flare"]), (None, ["flare"])],
)
def test_a_kits_valves_wait_for_the_making_of_its_joints(flare, shut):
    rules = rules_of(kit_job(), Practice())
    made = {} if flare is None else {"flare": StageCall(call=Call(verdict=flare, because="x"))}
    assert blocked_by(made, rules) == shut


def test_kits_whose_sheets_disagree_say_nothing():
    rules = rules_of(kit_job(), Practice())
    other = rules.kits[0].model_copy(update={"evacuate_head": "yes"})
    assert kit.head_evacuation(rules) == "no"
    assert kit.head_evacuation(rules.model_copy(update={"kits": (*rules.kits, other)})) == "silent"


def test_a_kit_whose_lines_hold_nitrogen_goes_as_any_line():
    rules = rules_of(kit_job(), Practice())
    nitrogen = rules.kits[0].model_copy(update={"lines_hold": "nitrogen"})
    assert kit.stays_sealed(rules)
    assert kit.may_be_evacuated(rules.model_copy(update={"kits": (nitrogen,)}))
    assert kit.head_evacuation(rules.model_copy(update={"kits": (*rules.kits, nitrogen)})) == (
        "silent"
    )


def test_a_charged_connection_is_made_once_and_nitrogen_is_a_stop():
    job = kit_job()
    first = next(r for r in job.records if isinstance(r, JointRecord))
    again = first.model_copy(update={"at": LATER + timedelta(minutes=5)})
    assert calls(with_records(job, again))["flare"] == "short"
    loose = again.model_copy(update={"how": "loose", "applied_nm": None})
    torqued = again.model_copy(update={"at": LATER + timedelta(minutes=9)})
    others = tuple(r for r in job.records if r is not first)
    once = job.model_copy(update={"records": (*others, loose, torqued)})
    assert calls(once)["flare"] == "stop"  # no nitrogen is purged through a charged kit
    hold = HoldRun(
        uid="n",
        kind="hold",
        started_at=LATER,
        readings=(HoldReading(seq=0, t_s=0, gauge_pa=2e6, pipe_c=20.0),),
    )
    assert calls(job.model_copy(update={"runs": (hold,)}))["pressure-test"] == "stop"
    pull = VacuumRun(
        uid="p", kind="pull", started_at=LATER, readings=(VacuumReading(seq=0, t_s=0, pa=90.0),)
    )
    assert calls(job.model_copy(update={"runs": (pull,)}))["evacuate"] == "stop"


def test_a_kit_whose_head_is_evacuated_or_whose_sheet_is_silent():
    assert calls(kit_job("yes"))["pressure-test"] == "wait"
    silent = judge(kit_job(None), Practice())
    assert silent["pressure-test"].call.verdict == silent["evacuate"].call.verdict == "unknown"
    assert "sheet" in silent["evacuate"].call.do_next


def test_who_saw_the_pump_off_is_asked_for_each_decay():
    job = bindery()
    rest = tuple(r for r in job.records if not isinstance(r, Isolation))
    assert calls(job.model_copy(update={"records": rest}))["evacuate"] in ("unknown", "holds")
