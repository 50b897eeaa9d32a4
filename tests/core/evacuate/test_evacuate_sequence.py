"""The rig, and the pull as one does it: bled first, dwelt, compared, and accepted by name."""

from datetime import UTC, datetime, timedelta

import pytest

from fairline.core.call import Call, StageCall, Verdict
from fairline.core.charge.gates import blocked_by
from fairline.core.evacuate.entry import EvacuateEntry
from fairline.core.evacuate.gauge_removal import readings_while_on
from fairline.core.evacuate.pulling import dwell_s
from fairline.core.evacuate.records import Accepted, Bled, Isolation, PumpEvent
from fairline.core.evacuate.rig import HoseRow, RigEntry, oil_words, pieces, rig_result
from fairline.core.physics.constants import MICRON_PA, PSI_PA
from fairline.core.practice import Practice, Rules
from fairline.core.readings import HoldReading, HoldReadings, HoldRun, VacuumReading, VacuumReadings
from fairline.core.readings import VacuumRun as Vacuum
from fairline.demo.sheets import OSMUND_26
from tests.support import evacuate_call

START = datetime(2026, 3, 1, 8, tzinfo=UTC)
TESTED = StageCall(call=Call(verdict=Verdict.HOLDS, because=""))
RULES = Rules(outdoor=OSMUND_26)
RUN_ON = Rules(
    outdoor=OSMUND_26.model_copy(update={"decay_max_pa": None}),
    practice=Practice(schools={"decay": "run-on"}),
)
FAR = EvacuateEntry(rig=RigEntry(gauge_at="far"))
CFM = 0.3048**3 / 60


def run(kind, minute, levels, every_s=60.0, uid=""):
    """A pull or a decay begun so many minutes after eight, its readings in microns."""
    began = START + timedelta(minutes=minute)
    return Vacuum(
        uid=uid or f"{kind}-{minute}",
        kind=kind,
        started_at=began,
        started_by="Ida",
        readings=VacuumReadings.of(
            [
                VacuumReading(instrument="g", seq=n, t_s=n * every_s, pa=m * MICRON_PA)
                for n, m in enumerate(levels)
            ]
        ),
    )


def nitrogen(minute, psi):
    reading = HoldReading(instrument="n", seq=0, t_s=0.0, gauge_pa=psi * PSI_PA, pipe_c=20.0)
    return HoldRun(
        uid=f"hold-{minute}",
        kind="hold",
        started_at=START + timedelta(minutes=minute),
        started_by="Ida",
        readings=HoldReadings.of([reading]),
    )


def seen(*runs):
    return tuple(Isolation(run=r.uid, by="Ida", at=r.started_at) for r in runs)


def checks(stage):
    return {c.id: c.call for c in stage.checks}


@pytest.mark.parametrize(
    ("records", "runs", "verdict"),
    [
        ((), (nitrogen(0, 300.0),), "wait"),
        ((), (nitrogen(0, 0.9),), None),  # what a nitrogen gauge cannot tell from nought
        ((), (nitrogen(0, 1.1),), "wait"),
        ((Bled(by="Ida", at=START + timedelta(minutes=5)),), (nitrogen(0, 300.0),), None),
        ((Bled(by="Ida", at=START - timedelta(minutes=5)),), (nitrogen(0, 300.0),), "wait"),
        (
            (Bled(gauge_pa=2 * PSI_PA, by="Ida", at=START + timedelta(minutes=5)),),
            (nitrogen(0, 300.0),),
            "wait",
        ),
        ((), (nitrogen(0, 300.0), run("pull", 10, [])), "stop"),
        ((), (nitrogen(0, 300.0), run("pull", 10, [9000, 400])), None),
    ],
)
def test_nitrogen_is_bled_and_read_before_pump_and_gauge(records, runs, verdict):
    found = checks(evacuate_call(runs, FAR, RULES, TESTED, bled=records)).get("bled")
    assert (found.verdict.value if found else None) == verdict


DRY = [*[9000, 280], *[280] * 3]


@pytest.mark.parametrize(
    ("entry", "before", "after"),
    [
        (EvacuateEntry(), "wait", "wait"),
        (EvacuateEntry(gauge_far=True), "holds", "holds"),
        (FAR, "holds", "holds"),
        (EvacuateEntry(rig=RigEntry(gauge_at="core-tool")), "holds", "holds"),
        (EvacuateEntry(rig=RigEntry(gauge_at="pump")), "unknown", "unknown"),
        (
            EvacuateEntry(gauge_far=True, rig=RigEntry(gauge_at="pump")),
            "unknown",
            "unknown",
        ),
    ],
)
def test_a_gauge_at_the_pump_proves_nothing_before_and_after(entry, before, after):
    pull, decay = run("pull", 0, DRY), run("decay", 10, [281, *[282] * 11])
    assert checks(evacuate_call((pull,), entry, RULES, TESTED))["gauge"].verdict.value == before
    stage = evacuate_call((pull, decay), entry, RULES, TESTED, (), seen(decay))
    assert stage.call.verdict.value == after


def test_the_dwell_is_counted_by_readings_and_starts_anew_above_the_target():
    target = 500 * MICRON_PA
    assert dwell_s(run("pull", 0, [9000, 501, 500, 480, 470]), target) == 120.0
    assert dwell_s(run("pull", 0, [9000, 480, 700, 480, 470]), target) == 60.0
    assert dwell_s(run("pull", 0, [9000, 480, 700]), target) == 0.0
    assert dwell_s(None, target) == 0.0


@pytest.mark.parametrize(("minutes", "verdict"), [(29, "watch"), (30, "holds")])
def test_the_run_on_school_keeps_the_pump_on_for_half_an_hour(minutes, verdict):
    pull = run("pull", 0, [9000, 490, *[490] * minutes])
    on_the_way = evacuate_call((pull,), FAR, RUN_ON, TESTED)
    asked = "Keep the pump on" in (on_the_way.call.do_next or "")
    assert asked is (verdict == "watch")
    decay = run("decay", 60, [491, *[500] * 11])
    stage = evacuate_call((pull, decay), FAR, RUN_ON, TESTED, (), seen(decay))
    assert checks(stage)["dwelt"].verdict.value == verdict
    assert stage.call.verdict.value == verdict


@pytest.mark.parametrize(("level", "shut"), [(1001, False), (1000, True)])
def test_an_open_ballast_is_shut_at_about_a_thousand_microns(level, shut):
    open_ = PumpEvent(what="ballast-open", by="Ida", at=START)
    pull = run("pull", 0, [9000, level])
    stage = evacuate_call((pull,), FAR, RULES, TESTED, events=(open_,))
    assert ("Shut the gas ballast now" in stage.call.do_next) is shut
    closed = PumpEvent(what="ballast-shut", by="Ida", at=START + timedelta(minutes=1))
    stage = evacuate_call((pull,), FAR, RULES, TESTED, events=(open_, closed))
    assert "ballast" not in stage.call.do_next


def straight(minute, per_minute, start=280):
    return run("decay", minute, [start + per_minute * n for n in range(16)])


def level(minute, to):
    return run("decay", minute, [to - (to - 280) * 0.72**n for n in range(30)])


SWEPT = PumpEvent(what="sweep", by="Ida", at=START + timedelta(minutes=60))


@pytest.mark.parametrize(
    ("first", "second", "events", "told"),
    [
        (straight(10, 40), straight(90, 42), (SWEPT,), "drying changed nothing"),
        (straight(10, 40), straight(90, 53), (SWEPT,), "drying changed nothing"),
        (straight(10, 40), straight(90, 54), (SWEPT,), None),  # over a quarter of the faster
        (level(10, 2900), level(90, 2800), (SWEPT,), "the water is not gone yet"),
        (level(10, 2900), level(90, 2490), (SWEPT,), "the water is not gone yet"),
        (level(10, 2900), level(90, 2430), (SWEPT,), None),  # over 15 % of the higher
        (straight(10, 40), run("decay", 90, [281, *[282] * 11]), (SWEPT,), None),
    ],
)
def test_the_same_again_says_what_it_is(first, second, events, told):
    runs = (run("pull", 0, DRY), first, run("pull", 80, DRY), second)
    stage = evacuate_call(runs, FAR, RULES, TESTED, (), seen(first, second), events=events)
    found = checks(stage).get("attempts")
    assert (found is not None) is (told is not None)
    if told:
        assert told in found.because and stage.call == found


def test_by_the_run_on_school_a_second_failure_is_a_leak():
    first, second = level(40, 2900), level(130, 1500)
    runs = (run("pull", 0, DRY), first, run("pull", 80, DRY), second)
    found = checks(evacuate_call(runs, FAR, RUN_ON, TESTED, (), seen(first, second)))
    assert "by this school that is a leak" in found["attempts"].because
    held = run("decay", 40, [281, *[282] * 30])  # the one before it did not fail
    runs = (run("pull", 0, DRY), held, run("pull", 80, DRY), second)
    found = checks(evacuate_call(runs, FAR, RUN_ON, TESTED, (), seen(held, second)))
    assert "attempts" not in found


def test_a_hold_is_accepted_by_name_stays_what_it_was_and_opens_the_gate():
    decay = run("decay", 10, [281, *[282] * 4])  # stopped short
    runs = (run("pull", 0, DRY), decay)
    waits = evacuate_call(runs, FAR, RULES, TESTED, (), seen(decay))
    assert waits.call.verdict.value == "wait"
    named = Accepted(run=decay.uid, reason="the crane leaves", by="Ida", at=START)
    stage = evacuate_call(runs, FAR, RULES, TESTED, (), seen(decay), accepted=(named,))
    assert stage.call.verdict.value == "watch"
    assert "Accepted by Ida: the crane leaves. It was called wait" in stage.call.because
    passed = {"flare": TESTED, "pressure-test": TESTED, "evacuate": stage}
    assert blocked_by(passed, RULES) == []
    assert blocked_by(passed | {"evacuate": waits}, RULES) == ["evacuate"]
    other = named.model_copy(update={"run": "another"})
    assert evacuate_call(runs, FAR, RULES, TESTED, (), seen(decay), accepted=(other,)) == waits


def test_an_acceptance_adds_nothing_to_a_hold_that_holds():
    decay = run("decay", 10, [281, *[282] * 11])
    named = Accepted(run=decay.uid, reason="to be sure", by="Ida", at=START)
    stage = evacuate_call(
        (run("pull", 0, DRY), decay), FAR, RULES, TESTED, (), seen(decay), accepted=(named,)
    )
    assert stage.call.verdict.value == "holds"


@pytest.mark.parametrize(
    ("rig", "names"),
    [
        (RigEntry(), []),
        (RigEntry(hoses=(HoseRow(bore_m=0.006, length_m=1.5), HoseRow(bore_m=0.01))), ["hose 1"]),
        (
            RigEntry(
                hoses=(HoseRow(bore_m=0.006, length_m=1.5), HoseRow(bore_m=0.01, length_m=1.0)),
                manifold="yes",
                adapter="yes",
                cores="in",
            ),
            ["hose 1", "manifold", "hose 2", "adapter", "core"],
        ),
    ],
)
def test_what_lies_between_pump_and_system(rig, names):
    assert [name for name, _ in pieces(rig)] == names


def test_what_limits_a_pull_and_what_another_rig_would_do():
    thin = RigEntry(pump_m3_s=6 * CFM, cores="in", hoses=(HoseRow(bore_m=0.00635, length_m=1.83),))
    found = rig_result(thin, 0.003, 300 * MICRON_PA, 20.0)
    assert found.limits.startswith("Hose 1 decides: one part in 1")
    slow = found.answer.result.time_s
    by_words = {o.words: o.time_s for o in found.options}
    assert slow > by_words["with the core out"] > by_words["core out, one hose of 3/4 in, 3 ft"]
    wide = thin.model_copy(update={"cores": "out", "hoses": (HoseRow(bore_m=0.019, length_m=0.9),)})
    assert rig_result(wide, 0.003, 300 * MICRON_PA, 20.0).limits.startswith("The pump decides")
    assert rig_result(RigEntry(), 0.003, 40.0, 20.0).answer is None
    assert rig_result(thin, None, 40.0, 20.0).answer is None


@pytest.mark.parametrize(
    ("done", "fresh", "told"),
    [(None, False, False), (0, False, False), (1, False, True), (1, True, False)],
)
def test_oil_that_has_done_an_evacuation_is_changed(done, fresh, told):
    assert bool(oil_words(RigEntry(oil_evacuations=done), fresh)) is told


@pytest.mark.parametrize(
    ("after_min", "levels", "gap_s", "verdict"),
    [
        (12, (11_000, 700_000), 5, "holds"),  # off after the hold: no failure
        (12, (9000, 700_000), 5, "short"),  # under about ten thousand microns: a rise
        (12, (15_000, 700_000), 29, "holds"),
        (12, (15_000, 700_000), 31, "short"),  # too long between: it may have risen
        (12, (15_000, 400), 5, "short"),  # it came down again
        (8, (15_000, 700_000), 5, "wait"),  # off before the hold was over
        # water that boils at 20 °C stands at 17 500 microns: a third more is no water
        (12, (17_600, 17_500), 5, "short"),
        (12, (17_600, 22_700), 5, "short"),
        (12, (17_600, 22_900), 5, "holds"),
    ],
)
def test_a_puff_while_the_gauge_is_taken_off_is_no_failure(after_min, levels, gap_s, verdict):
    pull, decay = run("pull", 0, [900, 180]), run("decay", 5, [185, *[210] * after_min])
    ends = decay.readings[-1]
    puff = [
        VacuumReading(
            instrument="g",
            seq=1000 + n,
            t_s=ends.t_s + gap_s * (n + 1),
            pa=level * MICRON_PA,
        )
        for n, level in enumerate(levels)
    ]
    readings = VacuumReadings.of([*decay.readings, *puff])
    decay = decay.model_copy(update={"readings": readings})
    stage = evacuate_call((pull, decay), FAR, RULES, TESTED, (), seen(decay))
    assert stage.call.verdict == verdict, stage.call


@pytest.mark.parametrize(("puff", "off_s"), [(11_900, 780.0), (12_100, 775.0)])
def test_a_jump_is_twenty_times_the_reading_before(puff, off_s):
    levels = [*[210] * 12, 600]
    read = [(n * 60.0 if n < 12 else 770.0, m) for n, m in enumerate(levels)]
    rows = [*read, (775.0, puff), (780.0, 700_000)]
    log = VacuumReadings.of(
        [
            VacuumReading(instrument="g", seq=n, t_s=t, pa=m * MICRON_PA)
            for n, (t, m) in enumerate(rows)
        ]
    )
    kept, at = readings_while_on(log, 20.0)
    assert at == off_s and len(kept) == (14 if puff == 11_900 else 13)


@pytest.mark.parametrize(
    ("level", "minutes", "verdict"),
    [(16, 12, "watch"), (17, 12, "holds"), (None, 12, "holds")],
)
def test_a_decay_that_stays_where_the_pump_alone_goes_is_looked_at(level, minutes, verdict):
    """The pump goes to 15 microns by itself: a tenth more is what the walls give in minutes."""
    entry = EvacuateEntry(
        rig=RigEntry(gauge_at="far", ultimate_pa=None if level is None else 15 * MICRON_PA)
    )
    pull = run("pull", 0, [900, 20])
    decay = run("decay", 5, [level or 20] * (minutes + 1))
    stage = evacuate_call((pull, decay), entry, RULES, TESTED, (), seen(decay))
    assert stage.call.verdict == verdict
    assert ("ultimate" in checks(stage)) is (verdict == "watch")


@pytest.mark.parametrize(("every_s", "looked"), [(59.0, False), (61.0, True)])
def test_five_minutes_tell_whether_a_decay_stays_where_the_pump_goes(every_s, looked):
    entry = EvacuateEntry(rig=RigEntry(gauge_at="far", ultimate_pa=15 * MICRON_PA))
    pull, decay = run("pull", 0, [900, 20]), run("decay", 5, [16] * 6, every_s=every_s)
    stage = evacuate_call((pull, decay), entry, RULES, TESTED, (), seen(decay))
    assert ("ultimate" in checks(stage)) is looked
