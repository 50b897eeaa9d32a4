"""Which limit governs, and what it displaced."""

import itertools

import pytest

from fairline.core.limits import code, common, governing, house, sheet
from fairline.core.practice import LIMITS, SCHOOLS, CodeEntry, Practice, Rules
from fairline.core.pressure_test import plan
from fairline.core.sheet import Head, Outdoor, Sheet
from fairline.demo.sheets import PELLOW_35


def bare_sheet(**outdoor):
    return Sheet(
        maker="M", head=Head(model="H"), outdoor=Outdoor(model="O", refrigerant="R-32", **outdoor)
    )


@pytest.mark.parametrize("said", list(itertools.product([None, 1.0], repeat=4)))
def test_the_first_authority_that_says_something_governs(said):
    makers = (sheet, lambda v: code(v, "code 1"), house, common)
    candidates = [
        make(v if v is None else v + i)
        for i, (make, v) in enumerate(zip(makers, said, strict=True))
    ]
    limit = governing("x", "m", candidates[::-1])
    speaking = [c for c in candidates if c.value is not None]
    if not speaking:
        assert limit is None
        return
    assert (limit.authority, limit.value) == (speaking[0].authority, speaking[0].value)
    assert [d.authority for d in limit.displaced] == [c.authority for c in speaking[1:]]


def test_a_blank_field_falls_through_sheet_code_house_common_and_unknown():
    practice = Practice(
        house={"head_left": 0.5, "max_length_m": 20.0},
        code={"max_length_m": CodeEntry(value=15.0, source="Local 7.2")},
    )
    rules = Rules(sheet=bare_sheet(max_lift_m=9.0), practice=practice)
    found = {name: rules.limit(name) for name in LIMITS}
    assert found["max_lift_m"].authority == "sheet"
    assert (found["max_length_m"].authority, found["max_length_m"].source) == ("code", "Local 7.2")
    assert [d.authority for d in found["max_length_m"].displaced] == ["house"]
    assert found["head_left"].authority == "house"
    assert found["head_right"].authority == "common"
    assert found["hole_size"] is None and found["max_test"] is None


def test_a_school_gives_its_limits_and_the_sheet_displaces_them():
    rules = Rules(sheet=PELLOW_35, practice=Practice(pressure="quick"))
    hold = rules.limit("test_hold")
    assert (hold.authority, hold.value) == ("sheet", 12 * 3600)
    assert hold.displaced[0].value == 600
    for topic in ("pressure", "decay"):
        for school in SCHOOLS[topic]:
            assert set(school.values) <= set(LIMITS)


def test_the_test_pressure_never_goes_over_the_sheets_maximum():
    rules = Rules(sheet=bare_sheet(max_test_gauge_pa=1.0e6), practice=Practice())
    assert plan(rules).gauge_pa == 1.0e6
    assert plan(rules).lowered
    assert plan(Rules(sheet=bare_sheet(), practice=Practice())) is None


@pytest.mark.parametrize(
    "wrong",
    [
        {"min_length_m": 9.0, "max_length_m": 3.0},
        {"mca_a": 20.0, "mop_a": 15.0},
        {"liquid_torque_low_nm": 14.0},
        {"test_gauge_pa": 5e6, "max_test_gauge_pa": 4e6},
        {"max_lift_m": -1.0},
    ],
)
def test_a_sheet_that_contradicts_itself_is_refused(wrong):
    with pytest.raises(ValueError):
        bare_sheet(**wrong)
