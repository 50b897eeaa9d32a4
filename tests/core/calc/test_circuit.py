"""Circuits against the code's tables, both sides of every limit, and a drop worked by hand."""

import pytest
from pydantic import ValidationError

from fairline.core.calc.circuit import CircuitRequest, circuit
from fairline.core.physics.conductor import area_mm2, conductors, equipment_ground, gauge
from fairline.core.wire.circuit import Rating, plate_limit

# NEC table 310.16, copper at 60 and 75 °C terminals; 240.4(D); chapter 9 table 8, stranded copper
# at 75 °C, ohms a thousand feet; areas in thousands of circular mils: all quoted from memory.
TABLE = [
    (14, 15, 20, 15, 3.14, 4.11),
    (12, 20, 25, 20, 1.98, 6.53),
    (10, 30, 35, 30, 1.24, 10.38),
    (8, 40, 50, None, 0.778, 16.51),
    (6, 55, 65, None, 0.491, 26.24),
]


def asked(**changes):
    base = {
        "mca_a": 12.0,
        "mop_a": 20.0,
        "breaker_a": 20.0,
        "conductor": {"awg": 12, "terminal_c": 60},
        "voltage_v": 240.0,
    }
    return circuit(CircuitRequest.model_validate(base | changes))


@pytest.mark.parametrize(("awg", "at_60", "at_75", "small", "ohm", "kcmil"), TABLE)
def test_every_value_of_the_tables(awg, at_60, at_75, small, ohm, kcmil):
    c = conductors()[awg]
    assert (c.at_60_a, c.at_75_a, c.small_a) == (at_60, at_75, small)
    assert (c.ohm_per_kft, c.kcmil) == (ohm, kcmil)
    # ASTM B258: a conductor's copper follows from its gauge alone.
    assert area_mm2(f"{awg} AWG") == pytest.approx(kcmil * 0.506707, rel=3e-3)


def test_the_table_has_no_other_gauge():
    assert list(conductors()) == [row[0] for row in TABLE]


@pytest.mark.parametrize(  # NEC table 250.122, copper, from memory: up to this breaker, this ground
    ("breaker", "ground"),
    [
        *((10, 14), (15, 14), (16, 12), (20, 12), (21, 10), (60, 10), (61, 8), (100, 8), (101, 6)),
        *((200, 6), (201, None)),
    ],
)
def test_the_equipment_ground_goes_by_the_breaker(breaker, ground):
    earth = equipment_ground(breaker, 6, 65, 75)  # 6 AWG is the smallest that carries 65 A
    assert (
        (earth.base_awg, earth.growth, earth.awg) == (ground, 1.0, ground) if ground else not earth
    )


@pytest.mark.parametrize(  # 250.122(B): from the smallest that carries MCA, by area, never above it
    ("breaker", "awg", "mca", "terminal", "ground"),
    [
        (20, 12, 20.0, 60, 12),
        (20, 12, 15.0, 60, 12),  # 14 would carry it: 6.53 · 6.53/4.11 is 10 AWG's, 12 is the most
        (20, 10, 20.0, 60, 10),
        (20, 10, 20.1, 60, 12),  # 10 is the smallest that carries it at 60 °C
        (15, 12, 15.0, 60, 12),
        (15, 12, 15.1, 60, 14),
        (30, 8, 30.0, 60, 8),
        (30, 8, 30.1, 60, 10),
        (50, 6, 50.1, 75, 10),
        (50, 6, 50.0, 75, 8),
        (50, 6, 65.1, 75, None),
    ],
)
def test_a_conductor_enlarged_enlarges_its_ground(breaker, awg, mca, terminal, ground):
    earth = equipment_ground(breaker, awg, mca, terminal)
    assert (earth.awg if earth else None) == ground


@pytest.mark.parametrize(  # NEC 240.6(A), from memory
    ("mop", "fits"),
    [
        *(
            (9.9, None),
            (10, 10),
            (14.9, 10),
            (15, 15),
            (19.9, 15),
            (20, 20),
            (34, 30),
            (35, 35),
            (44.9, 40),
            (45, 45),
        ),
        *((59, 50), (60, 60), (70, 70), (80, 80), (90, 90), (100, 100)),
        *((109, 100), (110, 110), (125, 125), (149, 125), (150, 150), (175, 175), (200, 200)),
    ],
)
def test_the_largest_standard_size_not_above_mop(mop, fits):
    answer = asked(mca_a=5.0, mop_a=float(mop), breaker_a=15.0)
    assert answer.result.largest_breaker_a == fits


@pytest.mark.parametrize(
    ("changes", "verdict", "findings"),
    [
        ({}, "holds", ()),
        ({"mop_a": 20.0, "breaker_a": 25.0}, "stop", ("breaker_over_mop",)),
        ({"mop_a": 25.0, "breaker_a": 25.0}, "holds", ()),
        ({"mca_a": 20.0}, "holds", ()),
        ({"mca_a": 20.0, "mop_a": 30.0, "breaker_a": 15.0}, "short", ("breaker_under_mca",)),
        ({"mca_a": 20.1, "mop_a": 30.0, "breaker_a": 25.0}, "stop", ("conductor_under_mca",)),
        (
            {"mca_a": 20.1, "mop_a": 30.0, "breaker_a": 25.0}
            | {"conductor": {"awg": 12, "terminal_c": 75}},
            "holds",
            (),
        ),
        ({"length_m": 45.0, "load_a": 12.3}, "holds", ()),
        ({"length_m": 45.0, "load_a": 12.4}, "watch", ("voltage_drop_high",)),
    ],
)
def test_both_sides_of_every_limit(changes, verdict, findings):
    answer = asked(**changes)
    assert (answer.call.verdict.value, answer.findings) == (verdict, findings)


def test_an_old_breaker_is_named_with_what_to_fit():
    answer = asked(breaker_a=50.0, conductor={"awg": 6, "terminal_c": 60})
    assert answer.call.verdict.value == "stop"
    assert answer.call.do_next == (
        "Fit 20 A; the wire may stay if it fits the terminal and its ground is 6 AWG (250.122(B); "
        "12 AWG by the exception, where a qualified person says so by name)."
    )
    own = asked(breaker_a=50.0, mca_a=50.0, mop_a=50.0, conductor={"awg": 6, "terminal_c": 60})
    assert own.call.verdict.value == "holds"
    thin = asked(breaker_a=50.0, mca_a=25.0, mop_a=40.0)  # 12 AWG carries 20 A: it leads
    assert thin.findings == ("conductor_under_mca", "breaker_over_mop")
    assert "Pull a larger conductor" in thin.call.do_next
    assert "may stay" not in str(thin)
    displaced = asked().governed_by[1].displaced
    assert displaced == ()  # 12 AWG and MOP 20 A say the same
    assert asked(mop_a=25.0).governed_by[1].displaced[0].value == 20.0


@pytest.mark.parametrize(
    ("mca", "breaker", "do_next"),
    [
        (20.0, 15.0, "Fit 20 A."),
        (
            *(20.1, 20.0),
            "No standard size lies between MCA and MOP: fit fuses of a size between them in the "
            "disconnect.",
        ),
    ],
)
def test_a_breaker_that_is_too_small_is_never_answered_with_its_like(mca, breaker, do_next):
    thick = {"awg": 6, "terminal_c": 60}
    answer = asked(mca_a=mca, mop_a=24.0, breaker_a=breaker, conductor=thick)
    assert answer.call.do_next == do_next


def test_a_voltage_drop_worked_by_hand():
    """100 ft of 12 AWG at 16 A and 240 V: 2 · 0.1 kft · 1.98 Ω/kft · 16 A = 6.336 V, 2.64 %."""
    answer = asked(length_m=30.48, load_a=16.0)
    assert answer.result.voltage_drop_pct == pytest.approx(100 * 6.336 / 240)
    assert asked().result.voltage_drop_pct is None


@pytest.mark.parametrize(
    ("changes", "said"),
    [
        ({"breaker_a": 22.0}, "20 or 25 A is"),
        ({"mca_a": 25.0}, "above mop_a"),
        ({"conductor": {"awg": 13, "terminal_c": 60}}, "not in our table"),
        ({"conductor": {"awg": 12, "terminal_c": 90}}, "60 or 75"),
        ({"length_m": 914.4}, "less than or equal to 500"),
        ({"mop_a": float("nan")}, "finite"),
    ],
)
def test_what_cannot_be_is_refused(changes, said):
    with pytest.raises(ValidationError, match=said):
        asked(**changes)


@pytest.mark.parametrize(
    ("typed", "read"),
    [
        *(("14", "14 AWG"), ("#12", "12 AWG"), ("awg 8", "8 AWG"), ("6awg", "6 AWG")),
        *(("2.5 mm2", "2.5 mm²"), ("1,5 mm²", "1.5 mm²")),
    ],
)
def test_gauges_as_people_type_them(typed, read):
    assert gauge(typed) == read == gauge(read)


@pytest.mark.parametrize("typed", ["13", "3 mm2", "thick", "12/2", "-14"])
def test_wire_that_is_not_made_is_refused(typed):
    with pytest.raises(ValueError, match=r"made|no wire"):
        gauge(typed)


@pytest.mark.parametrize(("small", "displaced"), [(15.0, (15.0,)), (20.0, ()), (None, ())])
def test_a_small_conductors_limit_is_told_only_where_it_is_another(small, displaced):
    rating = Rating(mca_a=14.0, mop_a=20.0, volts=230.0, source="sheet")
    found = plate_limit("largest breaker", 20.0, rating, small)
    assert (found.value, tuple(d.value for d in found.displaced)) == (20.0, displaced)
    assert plate_limit("largest breaker", None, rating, small) is None
