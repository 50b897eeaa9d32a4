"""What people type, in both systems, and back."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fairline.core.quantities import above, below, both, parse, preferring, scale, show, typed
from fairline.core.units import KINDS

TYPED = [
    ("12' 6\"", "length", "us", 3.81),
    ("12'6", "length", "us", 3.81),
    ("12 ft 6 1/2 in", "length", "us", 3.8227),
    ("6-1/2 in", "small", "us", 0.1651),
    ("½", "small", "us", 0.0127),
    ('4½"', "small", "us", 0.1143),
    ("3.8 m", "length", "us", 3.8),
    ("3,8 m", "length", "si", 3.8),
    ("380cm", "length", "us", 3.8),
    ("12.5", "length", "us", 3.81),
    ("12.5", "length", "si", 12.5),
    ("-2' 6\"", "length", "us", -0.762),
    ("300 psig", "gauge", "si", 300 * 6894.757293168),
    ("20.7", "gauge", "si", 2.07e6),
    ("500 µ", "vacuum", "us", 66.661184),  # 1 micron = 0.13332 Pa
    ("1 torr", "vacuum", "si", 133.322368),
    ("68 F", "temperature", "si", 20.0),
    ("-40", "temperature", "us", -40.0),
    ("1 lb 4 oz", "charge", "us", 0.56699046),
    ("0.22 oz/ft", "rate", "si", 0.020462254),
    ("1 ton", "power", "us", 3516.8528),
    ("12000 BTU/h", "power", "si", 3516.8528),
    ("680 m3/h", "airflow", "us", 0.188888889),
    ("18 ft-lb", "torque", "us", 24.404724),
    ("18 lb-ft", "torque", "si", 24.404724),
    ("120 in-lb", "torque", "us", 13.558180),
    ("16 N-m", "torque", "us", 16.0),
    ("18 000", "power", "us", 18_000 * 0.29307107),
    ("18,000", "power", "us", 18_000 * 0.29307107),
    ("14.5k", "power", "us", 14_500 * 0.29307107),
    ("14.5k btu", "power", "si", 14_500 * 0.29307107),
    ("3.5k", "power", "si", 3500.0),
    ("12 000 microns", "vacuum", "si", 1599.868416),
    ("1,250", "vacuum", "us", 166.652960),
    ("9,525 mm", "tube", "us", 0.009525),  # three decimals: no tube is nine metres
    ("0,219", "rate", "us", 0.219 * 0.0283495231 / 0.3048),
    ("1,234,567 mm", "length", "si", 1234.567),
    ("4,250", "length", "si", 4.25),
    ("1h 30", "duration", "us", 5400.0),
    ("68 deg", "temperature", "us", 20.0),
    ("20°", "temperature", "si", 20.0),
    ("16x20", "area", "us", 29.7289728),
    ("4 x 5 m", "area", "us", 20.0),
    ("16' by 20'", "area", "si", 29.7289728),
    ("95#", "weight", "us", 43.0912751),
    ("208/230 V", "voltage", "us", 208.0),
    ("-30 inHg", "gauge", "us", -101_325.0),
    ("-29 inHg", "needle", "us", -98_205.281),
    ("−0.1 MPa", "needle", "si", -100_000.0),
    ("-29 inHg", "vacuum", "us", 3119.719),
    ("10 feet up", "length", "us", 3.048),
    ("about 10 ft", "length", "us", 3.048),
    ("1 1/2", "small", "us", 0.0381),
    ("1,200 ft²", "area", "us", 111.48364799999999),
    ("1,200", "vacuum", "us", 159.98684210526315),
    ("3,500", "area", "si", 3.5),
    ("16 N·m", "torque", "us", 16.0),
    ("1 h 30 min", "duration", "us", 5400.0),
    ("55 %", "fraction", "us", 0.55),
]


@pytest.mark.parametrize(("text", "kind", "system", "si"), TYPED)
def test_typed_text_becomes_si(text, kind, system, si):
    assert parse(text, kind, system) == pytest.approx(si, rel=1e-6)


@pytest.mark.parametrize(
    ("text", "kind", "told"),
    [
        ("around ten", "length", "not understood"),
        ("12 furlongs", "length", "use one of"),
        ("1,000", "length", "two ways"),
        ("3,500", "length", "two ways"),
        ("29 inHg", "vacuum", "below nought"),
        ("", "length", "type a number"),
        ("1/0", "small", "zero below"),
        ("nan", "length", "not understood"),
        ("1e9", "length", "."),
        ("99999 m", "length", "outside anything"),
        ("-300 C", "temperature", "outside anything"),
        ("3 4", "length", "not understood"),
        ("68 F 3", "temperature", "not understood"),
        ("9" * 80, "length", "too long"),
    ],
)
def test_bad_text_is_told_in_a_sentence(text, kind, told):
    with pytest.raises(ValueError, match=told):
        parse(text, kind, "us")


POWER = (200.0, 100_000.0)


def test_a_power_that_is_too_little_takes_kilowatts_or_is_asked_for_its_unit():
    for text, si in {"3,5": 3500.0, "3.5": 3500.0, "200": 200.0, "100": 1e5, "0": 0.0}.items():
        assert parse(text, "power", "si", POWER) == pytest.approx(si)
    for text, system in (("101", "si"), ("3,5", "us"), ("9", "us"), ("682", "us")):
        with pytest.raises(ValueError, match="type its unit"):  # 682 BTU/h is 199.9 W
            parse(text, "power", system, POWER)
    assert parse("683", "power", "us", POWER) == pytest.approx(200.17, abs=0.01)
    assert parse("9k", "power", "us", POWER) == pytest.approx(2637.6, abs=0.1)


ROUGH = {"length": 0.0017, "small": 0.0009, "tube": 0.0017}


@given(
    kind=st.sampled_from(sorted(set(KINDS) - {"duration"})),
    system=st.sampled_from(["us", "si"]),
    share=st.floats(0.01, 0.99),
)
def test_what_a_field_shows_parses_back_to_the_same_showing(kind, system, share):
    k = KINDS[kind]
    low, high = max(k.minimum, 0.0), min(k.maximum, 900.0)
    value = low + (high - low) * share
    once = typed(value, kind, system)
    assert typed(parse(once, kind, system), kind, system) == once


@pytest.mark.parametrize(
    ("text", "system", "metres"),
    [
        # a wall's side, 1.2 to 31 m: a bare number takes the unit that makes it one
        ("8", "us", 2.4384),
        ("12", "us", 3.6576),
        ("48", "us", 1.2192),
        ("47", "us", 14.3256),
        ("4.2", "si", 4.2),
        ("270", "si", 2.7),
        ("2700", "si", 2.7),
        ("8 in", "us", 0.2032),
        ("0.5", "us", 0.0127),
    ],
)
def test_a_bare_number_takes_the_unit_that_is_plausible(text, system, metres):
    assert parse(text, "small", system, (1.2, 31.0)) == pytest.approx(metres)


@pytest.mark.parametrize(
    ("value", "limit", "kind", "over"),
    [
        (42.03, 42.0, "torque", False),
        (42.1, 42.0, "torque", True),  # 31.0 lbf·ft is 42.03 N·m
        (66.72, 66.66, "vacuum", False),
        (66.75, 66.66, "vacuum", True),  # 500.4 and 500.6 microns
    ],
)
def test_what_prints_as_inside_is_inside(value, limit, kind, over):
    assert above(value, limit, kind) is over
    assert below(2 * limit - value, limit, kind) is over


def test_a_sentence_carries_both_systems_and_shows_one():
    sentence = f"A lift of {both(3.81, 'length')} at {both(80000.0, 'vacuum')}."
    assert preferring(sentence, "us") == "A lift of 12' 6\" at 600\u202f049 microns."
    assert preferring(sentence, "si").startswith("A lift of 3.81\u00a0m at 80\u202f000.0\u00a0Pa")
    assert show(3.81, "length", "us").other == "3.81 m"


def test_our_units_are_pints_own():
    """Every factor of the short list against the library's full one (NIST, CODATA)."""
    import pint

    full = pint.UnitRegistry()
    full.define("micron_of_mercury = 1e-3 * torr")
    full.define("inch_of_mercury = inch_Hg")
    for kind in KINDS.values():
        for unit in {kind.us_unit, kind.si_unit, *(u for _, u in kind.accepts)}:
            offset = full.Quantity(0.0, unit).to(kind.si).magnitude
            factor = full.Quantity(1.0, unit).to(kind.si).magnitude - offset
            assert scale(unit, kind.si) == pytest.approx((factor, offset), rel=1e-6), unit
