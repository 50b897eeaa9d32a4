"""The worksheet against a second computation, a maker's report, and how one weighs."""

import math

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from fairline.core.calc.added_charge import AddedChargeRequest, added_charge
from fairline.core.charge.entry import ChargeEntry, Weighing
from fairline.core.charge.weigh_steps import PORTION_KG, WAYS, marks, way_of
from fairline.core.charge.weighed import cylinder_checks
from fairline.core.practice import Practice
from fairline.core.quantities import parse
from tests.core.test_proofs import finished
from tests.core.test_stages import NOW, OSMUND, charged

OZ, FT = 0.028349523125, 0.3048
RATE = 0.22 * OZ / FT  # TRADE §8: 0.22 oz/ft beyond 25 ft
RULE_KG = (10.0 - 25 * FT) * RATE  # of ten metres, by that rule


@pytest.mark.parametrize(
    ("feet", "rate", "ounces"), [(30, 0.22, 1.1), (20, 0.22, -1.1), (50, 0.5, 12.5)]
)
def test_worked_values_of_practitioners(feet, rate, ounces):
    """Common practice, no source: pre-charged for 25 ft."""
    asked = {
        "segments": [{"id": "a", "liquid_od_mm": 6.35, "length_m": feet * FT}],
        "rule": {
            "included_length_m": 25 * FT,
            "included_applies_to": "system",
            "rates": [{"liquid_od_mm": 6.35, "kg_per_m": rate * OZ / FT}],
        },
        "short_line": "recover",
    }
    found = added_charge(AddedChargeRequest.model_validate(asked)).result.added_kg
    assert found / OZ == pytest.approx(ounces)


SIZES = (6.35, 9.52, 12.7)
SEGMENTS = st.lists(
    st.tuples(st.sampled_from(SIZES), st.floats(0, 60), st.sampled_from(["A", "B", "C", None])),
    min_size=1,
    max_size=8,
)


@settings(max_examples=200)
@given(
    SEGMENTS,
    st.tuples(*[st.floats(0.001, 0.12) for _ in SIZES]),
    st.floats(0, 30),
    st.sampled_from(["system", "each_zone"]),
    st.sampled_from(["recover", "leave"]),
    st.randoms(use_true_random=False),
)
def test_random_systems_are_additive_monotone_and_equal_to_a_plain_computation(
    rows, rates, covered, applies, short, chance
):
    by_size = dict(zip(SIZES, rates, strict=True))

    def added(rows):
        asked = {
            "segments": [
                {"id": f"s{n}", "liquid_od_mm": mm, "length_m": m, "zone": zone}
                for n, (mm, m, zone) in enumerate(rows)
            ],
            "rule": {
                "included_length_m": covered,
                "included_applies_to": applies,
                "included_rate_kg_per_m": rates[0],
                "rates": [{"liquid_od_mm": mm, "kg_per_m": kg} for mm, kg in by_size.items()],
            },
            "short_line": short,
        }
        return added_charge(AddedChargeRequest.model_validate(asked)).result

    line = math.fsum(by_size[mm] * m for mm, m, _ in rows)
    zones = {zone for *_, zone in rows if zone} if applies == "each_zone" else {None}
    credit = 0.0
    for zone in zones:
        own = math.fsum(m for _, m, z in rows if applies == "system" or z == zone)
        credit += (min(covered, own) if short == "leave" else covered) * rates[0]
    plain = line - credit
    result = added(rows)
    assert result.added_kg == pytest.approx(max(plain, 0.0) if short == "leave" else plain)
    assert math.fsum(s.kg for s in result.breakdown) == pytest.approx(result.added_kg)
    mixed = [*rows]
    chance.shuffle(mixed)
    assert added(mixed).added_kg == pytest.approx(result.added_kg)  # however the tree was built
    longer = [(rows[0][0], rows[0][1] + 1.0, rows[0][2]), *rows[1:]]
    if applies == "system" and short == "recover":
        step = added(longer).added_kg - result.added_kg
        assert step == pytest.approx(by_size[rows[0][0]])


def test_a_makers_report_counts_as_the_sheet_beside_our_own():
    said = {"report_kg": 0.06, "report_page": "design report, page 3"}
    stage, found = charged(10.0, ChargeEntry(**said))
    call = stage.checks[0].call
    assert found["added"] == "holds" and "design report, page 3" in call.because
    assert f"{(0.06 - RULE_KG) * 1000:.0f}" in call.because and "a difference of" in call.because
    assert stage.governed_by[0].limit == "design report" and stage.checks[0].value == 0.06
    _, found = charged(10.0, ChargeEntry(report_kg=0.06))
    assert found["added"] == "unknown"  # which report?
    _, found = charged(10.0, ChargeEntry(**said | {"report_kg": 5.0}))
    assert found["added"] == "stop"  # over what the unit may hold


@pytest.mark.parametrize(
    ("length", "verdict"), [(10.3, "holds"), (10.301, "short"), (9.7, "holds")]
)
def test_a_report_is_for_the_line_that_it_was_made_for(length, verdict):
    said = {"report_kg": 0.06, "report_page": "page 3", "report_length_m": length}
    assert charged(10.0, ChargeEntry(**said))[1]["added"] == verdict


def weighing(kg, **more):
    return Weighing(before_kg=9.0, after_kg=9.0 - kg, cylinder="C", by="I", at=NOW, **more)


@pytest.mark.parametrize(("kg", "verdict"), [(0.7, None), (0.7006, "unknown")])
def test_more_than_the_system_holds_is_a_scale_set_to_nought(kg, verdict):
    found = cylinder_checks([weighing(kg)], "R-32", 0.7)
    assert (found[0].call.verdict if found else None) == verdict


def test_a_hose_takes_its_air_along_or_nothing_more():
    (told,) = cylinder_checks([weighing(0.1, hose="neither")], "R-32", 2.0)
    assert told.call.verdict == "watch" and "air" in told.call.because
    assert not cylinder_checks([weighing(0.1, hose="vacuum")], "R-32", 2.0)
    assert weighing(0.1, hose="purged").into_system_kg == pytest.approx(0.1)
    with pytest.raises(ValueError, match="it was full"):
        weighing(0.1, hose="purged", hose_kg=0.02)


def test_a_metered_charge_is_stopped_in_portions():
    assert marks(8.0, 8.0 - PORTION_KG) == [pytest.approx(8.0 - PORTION_KG)]
    assert len(marks(8.0, 8.0 - PORTION_KG - 0.001)) == 2
    assert marks(8.0, 8.1) == []
    found = marks(9.0, parse("8.1 kg", "cylinder"))
    steps = [a - b for a, b in zip([9.0, *found], found, strict=False)]
    assert found[-1] == pytest.approx(8.1) and max(steps) <= PORTION_KG + 0.001


def test_how_one_weighs_follows_what_is_in_the_pipes():
    site = finished("branch box", released=False)
    rules, running = site.worked.rules, Practice(schools={"charge_into": "running"})
    assert way_of(0.1, rules, site.contents) is WAYS["vacuum"]
    assert (
        way_of(0.1, OSMUND.model_copy(update={"practice": running}), site.contents)
        is WAYS["running"]
    )
    assert way_of(-0.1, rules, site.contents) is WAYS["recover"]
    site.weigh()
    site.open()
    assert way_of(0.1, site.worked.rules, site.contents) is WAYS["running"]


@pytest.mark.parametrize(("metres", "grams"), [(5.0, 0.0), (9.0, 20.0), (30.0, 440.0)])
def test_a_head_added_later_is_the_difference_of_two_worksheets(metres, grams):
    """Of 20 m covered 12 are used: run × rate alone would be 20 g a metre from the first one on."""

    def added(*lengths):
        rows = [
            {"id": f"s{n}", "liquid_od_mm": 6.35, "length_m": m, "zone": f"z{n}"}
            for n, m in enumerate(lengths)
        ]
        rule = {
            "included_length_m": 20.0,
            "included_applies_to": "system",
            "rates": [{"liquid_od_mm": 6.35, "kg_per_m": 0.02}],
        }
        asked = {"segments": rows, "rule": rule, "short_line": "leave"}
        return added_charge(AddedChargeRequest.model_validate(asked)).result.added_kg

    assert (added(12.0, metres) - added(12.0)) * 1000 == pytest.approx(grams)
