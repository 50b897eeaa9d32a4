"""Added charge: worked values of the trade, the rules of its variants, the physics of a rate."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fairline.core.calc.added_charge import AddedChargeRequest, added_charge
from fairline.core.physics.tubing import full_liquid_kg_per_m, table

FOOT, OUNCE = 0.3048, 0.028349523125
OZ_FT = OUNCE / FOOT


def ask(
    runs,
    included=25.0,
    rates=((6.35, 0.22),),
    short_line="recover",
    applies="system",
    included_rate=None,
    **more,
):
    """A request in the trade's units: feet and oz/ft."""
    rule = {
        "included_length_m": included * FOOT,
        "included_applies_to": applies,
        "rates": [{"liquid_od_mm": od, "kg_per_m": r * OZ_FT} for od, r in rates],
    }
    if included_rate is not None:
        rule["included_rate_kg_per_m"] = included_rate * OZ_FT
    rule |= more.pop("rule", {})
    segments = [
        {"id": f"s{i}", "liquid_od_mm": od, "length_m": feet * FOOT, "zone": f"z{i}"}
        for i, (od, feet) in enumerate(runs)
    ]
    return added_charge(
        AddedChargeRequest.model_validate(
            {"segments": segments, "rule": rule, "short_line": short_line, **more}
        )
    )


@pytest.mark.parametrize(  # worked values: common practice, no published source
    ("run_ft", "rate", "ounces", "finding"),
    [(30, 0.22, 1.1, ()), (20, 0.22, -1.1, ("recover",)), (50, 0.5, 12.5, ())],
)
def test_worked_values_of_the_trade(run_ft, rate, ounces, finding):
    answer = ask([(6.35, run_ft)], rates=((6.35, rate),))
    assert answer.result.added_kg / OUNCE == pytest.approx(ounces, abs=1e-9)
    assert answer.findings == finding


def test_a_short_line_that_is_left_adds_nothing():
    assert ask([(6.35, 20)], short_line="leave").result.added_kg == 0


def test_each_zone_is_credited_up_to_its_own_length_when_left():
    runs = [(6.35, 10), (6.35, 40)]
    left = ask(runs, included=25, applies="each_zone", short_line="leave")
    assert left.result.added_kg / OUNCE == pytest.approx(15 * 0.22)
    recovered = ask(runs, included=25, applies="each_zone")
    assert recovered.result.added_kg / OUNCE == pytest.approx((50 - 50) * 0.22, abs=1e-9)


def test_several_rates_need_the_one_of_the_included_length():
    runs, rates = [(6.35, 30), (9.52, 20)], ((6.35, 0.2), (9.52, 0.5))
    assert ask(runs, rates=rates).findings == ("included_rate_missing",)
    named = ask(runs, rates=rates, included_rate=0.2)
    assert named.result.added_kg / OUNCE == pytest.approx(6 + 10 - 5)
    assert ask([(12.7, 30)], rates=rates).findings == ("rate_missing",)
    assert ask(runs, rates=rates, included=0).result.added_kg / OUNCE == pytest.approx(16)


def test_one_tube_takes_its_own_rate_whatever_else_the_sheet_lists():
    rates = ((6.35, 0.2), (9.52, 0.5))
    for od, rate in rates:
        assert ask([(od, 30), (od, 10)], rates=rates).result.added_kg / OUNCE == pytest.approx(
            15 * rate
        )
    assert ask([(6.35, 30), (6.5, 30)], rates=rates).findings == ("rate_missing",)
    assert ask([(6.45, 30)], rates=rates).result.added_kg / OUNCE == pytest.approx(1.0)


@pytest.mark.parametrize(("short_line", "ounces"), [("leave", 40 + 15), ("recover", 40 + 0)])
def test_a_main_run_belongs_to_no_zone_and_is_charged_in_full(short_line, ounces):
    segments = [
        {"id": "main", "length_m": 40 * FOOT},
        {"id": "a", "zone": "A", "length_m": 40 * FOOT},
        {"id": "b", "zone": "B", "length_m": 10 * FOOT},
    ]
    answer = added_charge(
        AddedChargeRequest.model_validate(
            {
                "segments": [s | {"liquid_od_mm": 6.35} for s in segments],
                "short_line": short_line,
                "rule": {
                    "included_length_m": 25 * FOOT,
                    "included_applies_to": "each_zone",
                    "rates": [{"liquid_od_mm": 6.35, "kg_per_m": OZ_FT}],
                },
            }
        )
    )
    assert answer.result.added_kg / OUNCE == pytest.approx(ounces)


def test_limits_on_added_and_total_charge():
    answer = ask([(6.35, 80)], rule={"max_added_kg": 0.2}, factory_charge_kg=1.0, max_total_kg=1.3)
    assert answer.call.verdict == "stop"
    assert set(answer.findings) == {"over_max_added", "over_max_total"}
    heads = [{"id": "a", "class": "cassette"}, {"id": "b", "class": "wall"}]
    adders = {"head_adders_kg": {"cassette": 0.05, "wall": 0.0}, "base_adder_kg": 0.1}
    assert ask([(6.35, 25)], rule=adders, heads=heads).result.added_kg == pytest.approx(0.15)


@pytest.mark.parametrize(  # oz/ft of a tube full of liquid at 75 °F: CoolProp, ASTM B280 walls
    ("refrigerant", "od_mm", "oz_ft"),
    [
        ("R-410A", 6.35, 0.21),
        ("R-410A", 9.52, 0.56),
        ("R-410A", 12.7, 1.10),
        ("R-32", 6.35, 0.19),
        ("R-32", 9.52, 0.51),
        ("R-32", 12.7, 1.00),
    ],
)
def test_a_full_tube_and_the_rate_that_exceeds_it(refrigerant, od_mm, oz_ft):
    full = full_liquid_kg_per_m(refrigerant, od_mm) / OZ_FT
    assert full == pytest.approx(oz_ft, abs=0.006)
    for share, expected in ((1.2, ()), (1.3, ("rate_exceeds_full_tube",))):
        answer = ask([(od_mm, 30)], rates=((od_mm, full * share),), refrigerant=refrigerant)
        assert answer.findings == expected


def test_liquid_densities_are_coolprops():
    coolprop = pytest.importorskip("CoolProp.CoolProp")
    fluids = {"R-410A": "R410A", "R-32": "R32", "R-454B": "HEOS::R454B.mix"}
    for name, density in table("liquid_density")["kg_per_m3"].items():
        truth = coolprop.PropsSI("D", "T", 297.15, "Q", 0, fluids[name])
        assert density == pytest.approx(truth, rel=1e-4)


@given(
    st.lists(st.floats(0.5, 100), min_size=1, max_size=8),
    st.floats(0, 60),
    st.floats(0.05, 0.6),
    st.sampled_from(["system", "each_zone"]),
)
def test_the_breakdown_adds_up_and_left_is_never_below_recovered(feet, included, rate, applies):
    runs = [(6.35, f) for f in feet]
    answers = {s: ask(runs, included, ((6.35, rate),), s, applies) for s in ("recover", "leave")}
    recover = answers["recover"].result
    assert sum(s.kg for s in recover.breakdown) == pytest.approx(recover.added_kg, abs=1e-9)
    assert answers["leave"].result.added_kg >= max(0.0, recover.added_kg) - 1e-9


# --- a rate that has slipped, zones of one rate each, a floor that adds up -----------------------


TWO_RATES = [
    {"liquid_od_mm": 6.35, "kg_per_m": 0.02},
    {"liquid_od_mm": 9.52, "kg_per_m": 0.05},
]


def zones(**more):
    rule = {"included_length_m": 5.0, "included_applies_to": "each_zone"}
    rule |= {
        "rates": [
            {"liquid_od_mm": 6.35, "kg_per_m": 0.02},
            {"liquid_od_mm": 9.52, "kg_per_m": 0.05},
        ]
    }
    segments = [
        {"id": "a", "liquid_od_mm": 6.35, "length_m": 9.0, "zone": "A"},
        {"id": "b", "liquid_od_mm": 9.52, "length_m": 7.0, "zone": "B"},
    ]
    asked = {"segments": segments, "rule": rule, "short_line": "recover"} | more
    return added_charge(AddedChargeRequest.model_validate(asked))


def test_where_each_zone_uses_one_rate_no_other_rate_is_asked():
    answer = zones()
    assert answer.call.verdict == "holds"
    assert answer.result.added_kg == pytest.approx(4 * 0.02 + 2 * 0.05)
    mixed = zones(
        segments=[
            {"id": "a", "liquid_od_mm": 6.35, "length_m": 9.0, "zone": "A"},
            {"id": "b", "liquid_od_mm": 9.52, "length_m": 7.0, "zone": "A"},
        ]
    )
    assert mixed.findings == ("included_rate_missing",)
    main = zones(
        segments=[
            {"id": "main", "liquid_od_mm": 9.52, "length_m": 10.0},
            {"id": "a", "liquid_od_mm": 6.35, "length_m": 9.0, "zone": "A"},
        ]
    )
    assert main.result.added_kg == pytest.approx(10 * 0.05 + 4 * 0.02)


@given(
    st.lists(st.tuples(st.sampled_from([6.35, 9.52]), st.floats(0, 30)), min_size=1, max_size=5),
    st.sampled_from(["recover", "leave"]),
    st.sampled_from(["system", "each_zone"]),
    st.floats(0.001, 0.2),
    st.floats(0, 20),
)
def test_the_breakdown_adds_up_to_what_is_added(runs, short, applies, included_rate, included):
    segments = [
        {"id": str(n), "liquid_od_mm": od, "length_m": m, "zone": "AB"[n % 2]}
        for n, (od, m) in enumerate(runs)
    ]
    rule = {
        "included_length_m": included,
        "included_applies_to": applies,
        "included_rate_kg_per_m": included_rate,
        "rates": [
            {"liquid_od_mm": 6.35, "kg_per_m": 0.02},
            {"liquid_od_mm": 9.52, "kg_per_m": 0.05},
        ],
        "base_adder_kg": 0.1,
    }
    result = zones(segments=segments, rule=rule, short_line=short).result
    assert sum(s.kg for s in result.breakdown) == pytest.approx(result.added_kg, abs=1e-9)


@pytest.mark.parametrize(  # ¼ in full of R-32 at 24 °C: 0.19 oz/ft (CoolProp, ASTM B280 wall)
    ("share", "findings"),
    [
        *((0.1, ("rate_below_tube",)), (0.299, ("rate_below_tube",)), (0.301, ()), (1.249, ())),
        *((1.251, ("rate_exceeds_full_tube",)), (0.0, ())),
    ],
)
def test_a_rate_is_asked_where_its_tube_cannot_be_meant(share, findings):
    full = full_liquid_kg_per_m("R-32", 6.35)
    rule = {"included_length_m": 5.0, "included_applies_to": "system"}
    rule |= {"rates": [{"liquid_od_mm": 6.35, "kg_per_m": full * share}]}
    segments = [{"id": "a", "liquid_od_mm": 6.35, "length_m": 9.0}]
    answer = zones(segments=segments, rule=rule, refrigerant="R-32")
    assert answer.findings == findings
    assert answer.call.verdict == ("watch" if findings else "holds")
