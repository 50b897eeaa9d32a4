"""Weighing in: the table of the door, the stop mark against a second computation, properties.

The tolerance, the hose and the parting of blends are common practice, no source; the rest is
arithmetic.
"""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from fairline.core.calc.weigh_in import WeighInRequest, weigh_in


def ask(*weighings, wanted=0.4, unit="R-32", **more):
    rows = [{"cylinder": "A", "refrigerant": unit, "way": "in"} | dict(w) for w in weighings]
    asked = {"wanted_kg": wanted, "unit_refrigerant": unit, "weighings": rows} | more
    return weigh_in(WeighInRequest.model_validate(asked))


TABLE = [  # weighings, what else, verdict, findings, in, stop at, short of
    ([(9.0, 8.6)], {}, "holds", (), 0.4, None, None),
    ([(9.0, 8.612)], {}, "holds", (), 0.388, None, None),  # 3 % of 0.4 kg: 12 g
    ([(9.0, 8.6121)], {}, "wait", (), 0.3879, None, None),
    ([(9.0, 8.588)], {}, "holds", (), 0.412, None, None),
    ([(9.0, 8.5879)], {}, "short", ("over",), 0.4121, None, None),
    ([(9.0, None)], {}, "wait", (), 0.0, 8.6, None),
    ([(9.0, None)], {"hose_kg": 0.02}, "wait", (), 0.0, 8.58, None),
    ([(9.0, 8.8), (8.8, None)], {"hose_kg": 0.02}, "wait", (), 0.18, 8.58, None),
    ([(9.0, 8.601), (8.601, None)], {}, "holds", (), 0.399, None, None),
    ([(8.6, 9.0)], {}, "unknown", ("weights_exchanged",), 0.0, None, None),
]


@pytest.mark.parametrize(("rows", "more", "verdict", "findings", "in_kg", "stop", "short"), TABLE)
def test_what_went_in_and_where_to_stop(rows, more, verdict, findings, in_kg, stop, short):
    answer = ask(*({"before_kg": b, "after_kg": a} for b, a in rows), **more)
    assert (answer.call.verdict, answer.findings) == (verdict, findings)
    assert answer.result.in_kg == pytest.approx(in_kg)
    assert answer.result.left_kg == pytest.approx(0.4 - in_kg)
    assert answer.result.stop_at_kg == (None if stop is None else pytest.approx(stop))
    assert answer.result.cylinder_short_kg == short


def test_the_tolerance_is_a_share_with_a_least_and_a_most():
    for wanted, tolerance in ((0.1, 0.005), (0.5, 0.015), (-0.5, 0.015), (1.0, 0.03), (9.0, 0.03)):
        assert ask(wanted=wanted).result.tolerance_kg == pytest.approx(tolerance)
    assert ask(tolerance_kg=0.002).result.tolerance_kg == 0.002


def test_a_cylinder_is_never_emptied_below_its_tare():
    answer = ask({"before_kg": 4.3, "tare_kg": 4.1})
    assert answer.findings == ("change_cylinder",) and answer.call.verdict == "wait"
    assert answer.result.stop_at_kg == 4.1
    assert answer.result.cylinder_short_kg == pytest.approx(0.2)
    enough = ask({"before_kg": 4.5, "tare_kg": 4.1})
    assert enough.findings == () and enough.result.stop_at_kg == pytest.approx(4.1)
    for row in ({"before_kg": 4.0}, {"before_kg": 4.2, "after_kg": 4.09}):
        light = ask(row | {"tare_kg": 4.1})
        assert light.findings[0] == "below_tare" and light.call.verdict == "unknown"


def test_taken_out_by_weight():
    part = ask({"way": "out", "before_kg": 5.0, "after_kg": 5.1}, wanted=-0.3)
    assert part.call.verdict == "wait" and part.result.left_kg == pytest.approx(-0.2)
    stands = [{"way": "out", "before_kg": 5.0, "after_kg": 5.1}, {"way": "out", "before_kg": 5.1}]
    assert ask(*stands, wanted=-0.3).result.stop_at_kg == pytest.approx(5.3)
    over = ask({"way": "out", "before_kg": 5.0, "after_kg": 5.32}, wanted=-0.3)
    assert over.findings == ("over",) and "back in" in over.call.do_next
    lost = ask({"way": "out", "before_kg": 5.1, "after_kg": 5.0}, wanted=-0.3)
    assert lost.findings == ("weights_exchanged",)
    nothing = ask({"way": "out", "before_kg": 5.0, "after_kg": 5.1}, wanted=0.0)
    assert nothing.findings == ("over",) and nothing.call.do_next.startswith("Weigh in")


def test_the_worst_is_said_first_and_all_are_named():
    answer = ask(
        {"refrigerant": "R-410A", "way": "out", "before_kg": 2.0, "after_kg": 2.1},
        {"before_kg": 3.0, "after_kg": 3.1},
        {"before_kg": 4.0, "after_kg": 3.0, "tare_kg": 3.5},
    )
    assert answer.findings == ("other_refrigerant", "weights_exchanged", "below_tare", "over")
    assert answer.call.verdict == "stop"
    for unit, found in (
        ("R-454B", ("blend_as_vapour",)),
        ("R-410A", ("blend_as_vapour",)),
        ("R-32", ()),
    ):
        row = {"before_kg": 9.0, "after_kg": 8.6, "phase": "vapour"}
        assert ask(row, unit=unit).findings == found
        assert ask(row | {"phase": "liquid"}, unit=unit).findings == ()
    out = {"way": "out", "before_kg": 5.0, "after_kg": 5.3, "phase": "vapour"}
    assert ask(out, wanted=-0.3, unit="R-410A").findings == ()


def test_what_cannot_be_is_refused():
    for row in (
        {"cylinder": " ", "before_kg": 1.0},
        {"before_kg": -1.0},
        {"before_kg": 1.0, "x": 1},
    ):
        with pytest.raises(ValidationError):
            ask(row)
    with pytest.raises(ValidationError, match="not the last"):
        ask({"before_kg": 9.0}, {"before_kg": 8.9})


NAMES = st.sampled_from(["A", "B"])
GRAMS = st.integers(0, 900)


@given(
    st.lists(st.tuples(NAMES, st.sampled_from(["in", "out"]), GRAMS), max_size=8),
    st.integers(0, 60),
)
def test_in_is_what_left_the_cylinders_less_the_hose_of_each_row_of_them(moves, hose):
    rows, net, last = [], 0, None
    for name, way, grams in moves:
        before, after = (5000, 5000 - grams) if way == "in" else (5000, 5000 + grams)
        rows.append(
            {"cylinder": name, "way": way, "before_kg": before / 1e3, "after_kg": after / 1e3}
        )
        lost = 0 if way == "out" or last == (name, "in") else hose
        net += max(0, grams - lost) if way == "in" else -grams
        last = (name, way)
    answer = ask(*rows, hose_kg=hose / 1e3)
    assert answer.result.in_kg == pytest.approx(net / 1e3, abs=1e-9)
    assert math.isclose(answer.result.left_kg, 0.4 - answer.result.in_kg)


@given(st.integers(-900, 900), st.integers(0, 60), st.integers(0, 300))
def test_stopped_at_the_mark_it_holds(wanted, hose, first):
    way = "in" if wanted >= 0 else "out"
    step = min(first, abs(wanted))
    after = 5.0 - step / 1e3 if way == "in" else 5.0 + step / 1e3
    rows = [{"way": way, "before_kg": 5.0, "after_kg": after}, {"way": way, "before_kg": after}]
    if not step:
        rows = rows[1:]
    more = {"wanted": wanted / 1e3, "hose_kg": hose / 1e3}
    stop = ask(*rows, **more).result.stop_at_kg
    if stop is not None:
        done = ask(*rows[:-1], rows[-1] | {"after_kg": stop}, **more)
        assert done.call.verdict == "holds" and done.result.left_kg == pytest.approx(0, abs=1e-9)
