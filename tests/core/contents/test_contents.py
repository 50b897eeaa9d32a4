"""What is in the pipes: the table of what may follow what, the fold, and the way out.

The table is common practice without a source (docs/trade.md names it); what is checked here is that
each row refuses on one side and lets pass on the other, on each kind of system.
"""

from dataclasses import replace
from datetime import UTC, datetime, timedelta
from functools import cache
from itertools import permutations

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from fairline.core.charge.entry import PumpedDown, Release, ValvesShut, Weighing
from fairline.core.contents.act import Act, in_order
from fairline.core.contents.fold import fold
from fairline.core.contents.needs import NEEDS, ROWS, STATES
from fairline.core.contents.part import NOUGHT_PA, Part
from fairline.core.contents.state import judged
from fairline.core.contents.steps import STEPS
from fairline.core.contents.story import ACT_WORDS, story
from fairline.core.contents.way_out import leak, way_out
from fairline.core.evacuate.records import Bled, Exposure, PumpEvent, PumpOverride
from fairline.core.flare.stage import FlareStageResult
from fairline.core.job import Job
from fairline.core.line import acts_of, rules_of
from fairline.core.physics.constants import PSI_PA
from fairline.core.practice import Practice
from fairline.core.pressure_test.records import LeakCheck
from fairline.core.proofs import Proofs
from fairline.core.strike import Strike
from tests.core.test_proofs import SYSTEMS, finished, roomy
from tests.job_site import BY, Site

NOW = datetime(2026, 7, 1, 8, tzinfo=UTC)
WET = Part("refrigerant", valves=True)
SHUT = Part("refrigerant")
HIGH = Part("nitrogen", gauge_pa=300 * PSI_PA)
FLAT = Part("nitrogen", gauge_pa=0.0, tested=True)
PULLED = Part("vacuum", pumped=True, tested=True)
AIR, MIXED, KIT = Part(), Part("mixed", valves=True), Part("charged")


def act(kind, *said, **more):
    return Act(kind, kind, kind, NOW, BY, said=frozenset(said), **more)


def verdicts(one, part, ends=()):
    """How an act on a part is judged: the verdict of each row that refuses it."""
    return [f.verdict.value for f in judged(one, {"A": part}, ends={"A": ends})]


# each row of the table: the act, a part that refuses it and how, a part that lets it pass
TABLE = [
    (act("joint", "made"), WET, ["stop"], AIR),
    (act("joint", "made"), SHUT, ["stop"], Part("recovered")),
    (act("joint", "opened"), MIXED, ["stop"], Part("pumped-down")),
    (act("joint", "made"), HIGH, ["stop"], FLAT),
    (act("joint", "made"), replace(FLAT, gauge_pa=1.01 * NOUGHT_PA), ["stop"], FLAT),
    (act("joint", "made"), Part("nitrogen"), ["stop"], replace(FLAT, gauge_pa=NOUGHT_PA)),
    (act("joint", "made"), PULLED, ["wait"], FLAT),
    (act("joint", "made"), replace(AIR, raining=NOW), ["wait"], AIR),
    (act("joint", "made"), replace(AIR, seat=True), ["wait"], AIR),
    (act("joint", "opened"), KIT, ["stop"], AIR),
    (act("joint", "tightened"), WET, ["wait"], SHUT),
    (act("joint", "made", "brazed"), WET, ["stop", "stop"], AIR),
    (act("joint", "made", "brazed"), HIGH, ["stop", "stop"], FLAT),
    (act("joint", "made", "brazed"), KIT, ["stop"], AIR),
    (act("joint", "made", "purge"), KIT, ["stop"], AIR),
    (act("machine", place="unit"), WET, ["stop"], Part("recovered")),
    (act("exposure", "opened"), WET, ["stop"], AIR),
    (act("sweep"), WET, ["stop"], PULLED),
    (act("nitrogen"), WET, ["stop"], AIR),
    (act("nitrogen"), SHUT, ["stop"], Part("recovered")),
    (act("nitrogen"), MIXED, ["stop"], FLAT),
    (act("nitrogen"), KIT, ["stop"], AIR),
    (act("nitrogen"), replace(PULLED, pump=True), ["wait"], PULLED),
    (act("nitrogen"), replace(AIR, ends=frozenset({"x"})), ["wait"], AIR),
    (act("pump"), WET, ["stop"], FLAT),
    (act("pump"), replace(HIGH, tested=True), ["stop"], FLAT),
    (act("pump"), KIT, ["stop"], FLAT),
    (act("pump"), AIR, ["wait"], replace(AIR, tested=True)),
    (act("decay"), WET, ["stop"], PULLED),
    (act("decay"), FLAT, ["unknown"], PULLED),
    (act("decay", "seen"), AIR, ["wait"], FLAT),
    (act("look"), AIR, ["wait"], HIGH),
    (act("look"), replace(FLAT, gauge_pa=0.99 * NOUGHT_PA), ["wait"], SHUT),
    (act("look", "probe"), HIGH, ["wait"], WET),
    (act("weighed"), AIR, ["wait"], PULLED),
    (act("weighed"), HIGH, ["stop"], PULLED),
    (act("weighed"), replace(PULLED, pump=True), ["wait"], PULLED),
    (act("weighed"), WET, ["wait"], SHUT),
    (act("weighed", "running"), SHUT, ["wait"], WET),
    (act("weighed", "out"), PULLED, ["wait"], WET),
    (act("weighed", "out"), replace(WET, leaks=frozenset({"x"})), ["stop"], WET),
    (act("pumped-down"), replace(WET, leaks=frozenset({"x"})), ["stop"], WET),
    (act("pumped-down"), SHUT, ["wait"], WET),
    (act("released"), HIGH, ["stop"], PULLED),
    (act("released"), replace(PULLED, pump=True), ["stop"], PULLED),
    (act("released"), FLAT, ["wait"], PULLED),
    (act("released"), MIXED, ["stop"], Part("pumped-down")),
]


@pytest.mark.parametrize(("one", "bad", "refused", "good"), TABLE)
def test_each_row_refuses_on_one_side_and_lets_pass_on_the_other(one, bad, refused, good):
    assert verdicts(one, bad) == refused
    if good.content == "pumped-down" and one.kind == "released":
        return  # what was pumped down and never opened is let back in by name of no one
    assert verdicts(one, good) == []


def test_words_that_an_act_says_let_it_pass():
    assert verdicts(act("look", "probe", "tracer"), HIGH) == []
    assert verdicts(act("joint", "made", "roof"), replace(AIR, raining=NOW)) == []
    assert verdicts(act("joint", "tightened", "core"), WET) == []
    assert verdicts(act("weighed", "running"), WET) == []
    leaking = replace(WET, leaks=frozenset({"x"}))
    assert verdicts(act("weighed", "out", "by machine"), leaking) == []
    assert verdicts(act("pump", "read"), replace(HIGH, tested=True)) == []  # it was gone by then


def test_what_can_hurt_is_passed_over_by_nobody_and_a_name_stays_said():
    named = act("released", "by name", why="the crane leaves")
    assert verdicts(named, HIGH) == ["stop"]
    (found,) = judged(named, {"A": AIR})
    assert found.verdict.value == "watch" and "Ida Marsh: the crane leaves" in found.because
    assert verdicts(act("released"), AIR, ["Gas, at the head A"]) == [
        "stop"
    ]  # nobody knows it shut
    tested = replace(PULLED, tested=True)
    assert verdicts(act("released"), tested, ["Gas, at the head A"]) == []  # Flare's gate says it


def test_every_row_is_asked_by_an_act_and_every_step_is_told():
    assert {name for _, _, names in ROWS for name in names} == set(NEEDS)
    used = {row.state for rows in NEEDS.values() for row in rows}
    assert used <= set(STATES)
    assert {s for rows in NEEDS.values() for row in rows for s in row.steps} <= set(STEPS)
    assert {kind for kind, _, _ in ROWS} <= set(ACT_WORDS)
    assert all(row.verdict.value != "holds" for rows in NEEDS.values() for row in rows)


# --- the fold on whole jobs -------------------------------------------------------------------


def contents(site):
    return site.worked.of(FlareStageResult).contents


def standing(site, stage):
    return {n: c for n, c in site.checks(stage).items() if n.startswith("order_")}


@pytest.mark.parametrize("system", [s for s in SYSTEMS if s != "kit"])
def test_a_job_done_in_order_has_nothing_out_of_order(system):
    site = finished(system)
    found = contents(site)
    assert not [f for f in found.findings if f.verdict.value == "stop"]
    assert {p.content for p in found.parts().values()} == {"refrigerant"}
    assert all(p.valves for p in found.parts().values()) and found.lost is None


@pytest.mark.parametrize("system", SYSTEMS)
def test_nitrogen_pump_and_flame_on_refrigerant_are_a_stop_until_all_is_out(system):
    site = finished(system)
    kit = system == "kit"
    rows = [{"t_s": 0.0, "gauge_pa": 2e6, "pipe_c": 20.0}]
    site.run("hold", rows, site.circuits())
    assert site.call("pressure-test").call.verdict == "stop"
    site.run("pull", [{"t_s": 0.0, "pa": 900.0}], site.circuits())
    assert site.call("evacuate").call.verdict == "stop"
    assert {p.content for p in contents(site).parts().values()} == {"mixed"}
    if kit:
        return  # there is no way out but a new kit
    site.recover()
    assert not standing(site, "pressure-test") and not standing(site, "evacuate")
    assert contents(site).findings  # what was wrong stays told
    assert any("stop" in line.wrong for line in story(contents(site)))


@pytest.mark.parametrize("system", ["home runs", "branch box", "trunk", "brazed"])
def test_a_joint_opened_under_refrigerant_is_a_stop_and_the_grams_are_unknown(system):
    site = finished(system)
    place = site.joints[0].place
    joint = site.spec(place)
    made = joint.record.model_copy(update={"uid": "again", "at": site.later()})
    site.record(made)
    assert site.call("flare").call.verdict == "stop"
    assert site.checks("charge")["weighed"].verdict == "unknown"
    site.recover()
    assert "grams" not in site.checks("charge")


def test_valves_shut_part_one_port_of_home_runs_and_all_of_a_box():
    site = finished("home runs")
    site.record(ValvesShut(ports=("C",), by=BY, at=site.later()))
    found = contents(site).parts()
    assert [found[c].valves for c in "ABC"] == [True, True, False]
    assert site.checks("charge")["release"].verdict == "wait"
    site.recover("C")
    assert [p.content for p in contents(site).parts().values()] == ["refrigerant"] * 2 + [
        "recovered"
    ]
    box = finished("branch box")
    box.record(ValvesShut(by=BY, at=box.later()))
    assert not any(p.valves for p in contents(box).parts().values())


def test_what_was_pumped_down_may_be_opened_and_let_back_in():
    site = finished("home runs")
    site.record(PumpedDown(by=BY, at=site.later()))
    assert {p.content for p in contents(site).parts().values()} == {"pumped-down"}
    assert not standing(site, "charge") and contents(site).lost is None
    site.open()
    leaking = finished("home runs")
    place = leaking.joints[0].place
    leaking.record(LeakCheck(joint=place, found="leak", by=BY, at=leaking.later()))
    leaking.record(PumpedDown(by=BY, at=leaking.later()))
    assert site.call("charge").call.verdict != "stop"
    assert leaking.call("charge").call.verdict == "stop"


def test_a_leak_under_refrigerant_leads_out_step_by_step():
    site = finished("branch box")
    place = "C.gas.end"
    site.record(LeakCheck(joint=place, found="leak", by=BY, at=site.later()))
    assert site.checks("flare")[place].verdict == "short"
    steps = [s.name for s in leak(contents(site)).steps]
    assert steps[:3] == ["shut", "recover", "mend"] and "take-out" not in steps
    assert "never pump down" in site.checks("pressure-test")["joints"].do_next
    assert leak(contents(site)).next.name == "shut"
    site.record(ValvesShut(by=BY, at=site.later()))
    assert leak(contents(site)).next.name == "recover" and leak(contents(site)).steps[0].by == BY
    site.recover()
    assert leak(contents(site)).next.name == "mend"
    site.make(place)
    assert leak(contents(site)) is None and site.checks("flare")[place].verdict == "holds"


def test_a_sweep_after_a_decay_puts_it_out_of_use_and_asks_no_new_hold():
    site = Site(roomy(SYSTEMS["brazed"]())).finish(released=False)
    assert site.verdicts()["evacuate"] == "holds"
    site.record(PumpEvent(what="sweep", by=BY, at=site.later()))
    assert site.verdicts()["evacuate"] == "wait" and site.verdicts()["pressure-test"] == "holds"
    site.pull()
    assert site.verdicts()["evacuate"] == "holds" and not standing(site, "evacuate")


def test_a_decay_without_nitrogen_or_a_pull_before_it_does_not_hold():
    job = SYSTEMS["brazed"]()
    site = Site(roomy(job))
    site.make()
    rows = [{"t_s": 60.0 * n, "pa": 22.0 + 0.002 * (n % 2)} for n in range(62)]
    site.run("decay", rows)
    assert site.call("evacuate").call.verdict in ("unknown", "wait")
    site.record(PumpOverride(reason="tested at the works", by=BY, at=site.later()))
    site.pull()
    named = site.call("evacuate").call
    assert named.verdict == "watch" and "By name of Ida Marsh: tested at the works" in named.because
    site.hold()  # a proof that comes later unsays nothing of that evacuation
    assert any("By name of" in f.because for f in contents(site).findings)
    site.pull()
    assert site.call("evacuate").call.verdict == "holds"  # one with nitrogen before it
    site.make(site.joints[0].place)
    site.run("pull", [{"t_s": 0.0, "pa": 900.0}])
    assert standing(site, "evacuate")  # the old name covers no later evacuation


def test_looks_at_lines_with_nothing_in_them_do_not_count():
    site = Site(roomy(SYSTEMS["brazed"]()))
    site.make()
    site.hold()  # and bled
    place = site.joints[0].place
    site.record(LeakCheck(joint=place, found="clean", watched_s=150.0, by=BY, at=site.later()))
    found = contents(site).findings[-1]
    assert (found.row, found.verdict.value) == ("bubbles", "wait")
    from fairline.core.pressure_test.stage import PressureTestStageResult

    suspects = site.worked.of(PressureTestStageResult).suspects
    assert next(s for s in suspects if s.id == place).call.verdict == "wait"


def test_a_later_head_behind_its_valve_is_read_first_and_its_rise_is_undecided():
    site = finished("home runs")
    port = next(j for j in site.joints if j.place.startswith("outdoor-"))
    key = f"joint:{port.key}"
    circuit = contents(site).places(key)[0]
    opening = Act("joint", "joint", "x", site.now, BY, place=key, said=frozenset({"opened"}))
    fresh = replace(contents(site), now={c: p for c, p in contents(site).now.items() if c in "ABC"})
    assert [f.state for f in fresh.refused(opening)] == ["seat unread"]
    site.record(Bled(gauge_pa=0.0, ports=(circuit,), by=BY, at=site.later()))
    fresh = replace(contents(site), now={c: p for c, p in contents(site).now.items() if c in "ABC"})
    assert fresh.refused(opening) == []
    site.record(ValvesShut(ports=("C",), by=BY, at=site.later()))
    site.recover("C")
    site.make("C.gas.end")
    site.hold("C")
    site.run("pull", [{"t_s": 60.0 * n, "pa": pa} for n, pa in enumerate((9000.0, 30.0))], ("C",))
    rows = [{"t_s": 60.0 * n, "pa": 30.0 + 8.0 * n} for n in range(40)]
    from fairline.core.evacuate.records import Isolation

    uid = site.run("decay", rows, ("C",))
    site.record(Isolation(run=uid, by=BY, at=site.now))
    (group,) = [c for c in site.call("evacuate").checks if c.label == "Port C"]
    assert group.call.verdict == "unknown" and "seat nobody proved" in group.call.because


def test_rain_is_told_and_a_roof_lets_the_work_go_on():
    site = Site(roomy(SYSTEMS["brazed"]()))
    site.record(Exposure(state="opened", weather="rain", by=BY, at=site.later()))
    site.make()
    assert {f.state for f in contents(site).findings} == {"raining"}
    site.record(Exposure(state="capped", weather="dry", by=BY, at=site.later()))
    site.make(site.joints[0].place)
    assert len(contents(site).story[-1].findings) == 0


def test_a_strike_takes_its_act_out_of_the_state():
    site = finished("brazed")
    shut = ValvesShut(by=BY, at=site.later())
    site.record(shut)
    site.recover()
    site.make(site.joints[0].place)
    assert site.call("flare").call.verdict == "holds"
    weighed = [r for r in site.job.records if r.kind == "weighing"][-1]
    strike = Strike(of="weighing", of_uid=weighed.uid, reason="other job", by=BY, at=site.later())
    site.record(strike)
    assert site.call("flare").call.verdict == "stop"


def test_a_release_names_what_it_passes_over():
    site = Site(roomy(SYSTEMS["brazed"]())).finish(released=False)
    how = {"order": "gas_first", "override_by": BY, "override_reason": "late", "by": BY}

    def release(**more):
        one = Release(**how | more, at=site.now + timedelta(minutes=1))
        job = site.job.model_copy(update={"records": (*site.job.records, one)})
        other = Site.__new__(Site)
        other.job, other.practice = job, Practice()
        return other.checks("charge")["release"]

    assert release(full_open=True, caps_on=True, passed=()).verdict == "watch"
    assert "a missing cap" in release(full_open=True, passed=("caps",)).because
    assert release(full_open=True, passed=()).because.startswith("The caps are off")
    assert release(caps_on=True, passed=()).verdict == "short"  # half open, and not named
    assert release(caps_on=True, passed=("full-open",)).verdict == "watch"
    assert release(full_open=True, caps_on=True, passed=None).verdict == "watch"  # one of before


def test_weighings_that_took_everything_out_begin_the_figure_anew():
    site = finished("brazed")
    from fairline.core.charge.stage import ChargeStageResult

    factory = rules_of(site.job, Practice()).outdoor.factory_charge_kg
    before = site.worked.of(ChargeStageResult).weighed_kg
    site.recover()
    assert site.worked.of(ChargeStageResult).weighed_kg == pytest.approx(-factory)
    assert "belongs in is not back yet" in site.checks("charge")["weighed"].because
    much = Weighing(way="in", before_kg=9.0, after_kg=4.0, by=BY, at=site.later())
    site.pull()
    site.record(much.model_copy(update={"at": site.later()}))
    assert site.checks("charge")["total"].verdict == "short"
    assert "Recover" in site.checks("charge")["total"].do_next
    assert before != site.worked.of(ChargeStageResult).weighed_kg


# --- properties -------------------------------------------------------------------------------

KINDS = [a for a, _, _, _ in TABLE] + [
    act("bled", gauge_pa=0.0),
    act("shut"),
    act("released"),
    act("weighed", "out", "emptied", "by machine"),
    act("look", "leak"),
]
ACTS = st.lists(st.sampled_from(KINDS), min_size=1, max_size=12)


@cache
def proofs():
    return finished("brazed").worked.of(FlareStageResult).proofs


def placed(found):
    """Acts a minute apart, each with an id of its own."""
    return [
        replace(a, uid=f"a{n}", number=n, at=NOW + timedelta(minutes=n))
        for n, a in enumerate(found)
    ]


def folded(found):
    bare = Proofs(proofs().now)
    return fold(found, bare)


@settings(max_examples=60)
@given(ACTS, st.randoms(use_true_random=False))
def test_the_state_is_a_function_of_the_acts_and_of_their_moments_alone(found, random):
    acts = placed(found)
    shuffled = list(acts)
    random.shuffle(shuffled)
    one, other = folded(acts), folded(shuffled)
    assert one.now == other.now and one.story == other.story and one.lost == other.lost


@settings(max_examples=100)
@given(ACTS)
def test_no_accepted_order_puts_nitrogen_pump_flame_or_an_open_joint_on_refrigerant(found):
    """Replayed act by act: whatever was done on refrigerant has a stop on record."""
    acts = placed(found)
    told = folded(acts).story
    state = {}
    for one in told:
        wet = [c for c in one.circuits if state.get(c, Part()).content in ("refrigerant", "mixed")]
        opens = one.act.kind in ("machine", "nitrogen", "pump", "sweep") or (
            one.act.kind == "joint" and "tightened" not in one.act.said
        )
        if wet and opens:
            assert any(f.verdict.value == "stop" for f in one.findings), (one.act, wet)
        state |= one.after


@settings(max_examples=60)
@given(ACTS, st.integers(0, 11))
def test_without_an_act_the_state_is_that_of_the_others_replayed(found, out):
    acts = placed(found)
    kept = [a for n, a in enumerate(acts) if n != out % len(acts)]
    assert folded(kept).now == folded([*kept]).now
    cut = acts[: out % len(acts)]
    whole = folded(acts)
    if cut:
        assert folded(cut).now == {
            c: whole.at(cut[-1].at, c) for c in folded(cut).now
        }  # what comes later changes nothing of before


def test_acts_of_one_moment_stand_by_their_number_and_runs_where_the_work_has_them():
    same = [act(k) for k in ("joint", "nitrogen", "bled", "pump", "decay")]
    for order in permutations(same):
        numbered = [replace(a, number=n) for n, a in enumerate(order)]
        kinds = [a.kind for a in in_order(numbered)]
        records = [a.kind for a in numbered if a.kind in ("joint", "bled")]
        assert [k for k in kinds if k in ("joint", "bled")] == records
        assert kinds.index("nitrogen") < kinds.index("pump") < kinds.index("decay")
        if records == ["joint", "bled"]:
            assert kinds == ["joint", "nitrogen", "bled", "pump", "decay"]


def test_a_job_of_before_without_ports_or_moments_of_valves_is_judged_as_it_was():
    for system in ("brazed", "branch box", "trunk"):
        job = finished(system).job
        assert isinstance(job, Job) and acts_of(job)
        assert way_out(contents(finished(system)), []) is None
