"""Grams in the system: in less out, whatever the order of acts, what is struck out left aside; the
ledger of the company and the job agree."""

import math
from datetime import UTC, datetime, timedelta

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from fairline.core.charge.entry import Weighing, weighed_kg
from fairline.core.charge.ledger import Move, cylinders, years
from fairline.core.charge.stage import ChargeStageResult
from fairline.core.counted import counts
from fairline.core.flare.records import JointRecord
from fairline.core.line import work
from fairline.core.practice import Practice
from fairline.core.strike import Strike
from tests.core.test_proofs import finished
from tests.core.test_standing import LATER, calls, kit_job, looked, opened, with_records

NOW = datetime(2026, 11, 2, 9, tzinfo=UTC)
FACTORY_KG = 1.2
GRAMS = st.integers(0, 900)
ACTS = st.lists(st.tuples(st.sampled_from(["in", "out", "all"]), GRAMS, st.booleans()), max_size=12)


def weighings(rows):
    """Weighings with ids, and the strikes of those that were struck out."""
    made, strikes = [], []
    for n, (what, grams, struck) in enumerate(rows):
        way, after = ("in", 5.0 - grams / 1000) if what == "in" else ("out", 5.0 + grams / 1000)
        at = NOW + timedelta(minutes=n)
        one = Weighing(
            way=way,
            before_kg=5.0,
            after_kg=after,
            cylinder=f"C{n % 3}",
            emptied="yes" if what == "all" else None,
            by="I",
            at=at,
        ).model_copy(update={"uid": f"w{n}"})
        made.append(one)
        if struck:
            said = {"of": "weighing", "of_uid": f"w{n}", "reason": "misread"}
            strikes.append(Strike(**said, by="I", at=NOW + timedelta(hours=1)))
    return made, strikes


@given(ACTS)
def test_in_less_out_whatever_the_order_strikes_included(rows):
    made, strikes = weighings(rows)
    count = [w for w in made if counts(w, strikes, practice=False)]
    assert {w.uid for w in count} == {f"w{n}" for n, row in enumerate(rows) if not row[2]}
    whole = {w.uid for w in count if w.emptied == "yes"}
    found = weighed_kg(count, FACTORY_KG, whole)
    plain = 0.0  # once all of it was out, the factory's charge is gone too
    for w in count:
        moved = (w.before_kg - w.after_kg) if w.way == "in" else -(w.after_kg - w.before_kg)
        plain = -FACTORY_KG if w.uid in whole else plain + moved
    assert found == pytest.approx(plain)
    if not whole:
        grams = [g if what == "in" else -g for what, g, gone in rows if not gone]
        assert found == pytest.approx(sum(grams) / 1000)


@given(ACTS)
def test_the_ledger_and_the_job_hold_the_same_grams(rows):
    made, strikes = weighings(rows)
    count = [w for w in made if counts(w, strikes, practice=False)]
    moves = [
        Move(w.at, w.cylinder, "R-32", w.way, w.before_kg, w.after_kg, 1, "job", w.by)
        for w in count
    ]
    for found in (cylinders(moves), years(moves)):
        assert math.fsum(x.charged_kg - x.recovered_kg for x in found) == pytest.approx(
            weighed_kg(count)
        )
        assert all(x.charged_kg >= 0 and x.recovered_kg >= 0 for x in found)


@settings(max_examples=25)
@given(st.lists(st.sampled_from(["hold", "pull", "weigh", "open"]), max_size=6))
def test_valves_stand_open_only_after_their_gates_or_by_name(acts):
    site = finished("branch box", released=False)
    site.job = site.job.model_copy(update={"runs": (), "records": site.job.records})
    for act in acts:
        charged = site.worked.of(ChargeStageResult)
        if act == "open" and charged.before_release:
            site.open()
            checks = site.checks("charge")
            told = {checks["release"].verdict.value, site.verdicts()["charge"]}
            assert "holds" not in told
            return
        getattr(site, act)()
    charged = site.worked.of(ChargeStageResult)
    if site.verdicts()["charge"] == "holds":
        assert not charged.blocked


def test_a_joint_of_a_kit_that_went_by_feel_keeps_the_power_off_until_it_was_looked_at():
    job = kit_job()
    felt = [
        JointRecord(place=r.place, look="good", how="by feel", by="I", at=LATER)
        if r.kind == "joint"
        else r
        for r in job.records
    ]
    job = job.model_copy(update={"records": tuple(felt)})

    def lacks(*more):
        worked = work(with_records(job, *more), Practice())
        return [x.name for x in worked.of(ChargeStageResult).lacks]

    assert "looked" in lacks(opened())
    assert "looked" in lacks(opened(), *looked(job)[:-1])
    assert "looked" not in lacks(opened(), *looked(job))
    assert calls(with_records(job, opened(hiss="none"), *looked(job)))["charge"] == "stop"
