"""Which limit governs, and what it displaced."""

import itertools
from datetime import UTC, datetime

import pytest

from fairline.core.limit_list import LIMITS
from fairline.core.limits import code, common, governing, house, sheet
from fairline.core.practice import CodeEntry, Departure, Practice, Rules, departures
from fairline.core.pressure_test.stage import plan
from fairline.core.schools import TOPICS
from fairline.core.sheet import Head, Outdoor
from fairline.core.sheet.part import Torque
from fairline.demo.sheets import PELLOW_35

NOW = datetime(2026, 3, 1, tzinfo=UTC)


def bare_sheet(**outdoor):
    return Outdoor(maker="M", model="O", refrigerant="R-32", **outdoor)


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
    head = Head(maker="M", model="H")
    rules = Rules(outdoor=bare_sheet(max_lift_m=9.0), head=head, practice=practice)
    found = {name: rules.limit(name) for name in LIMITS}
    assert found["max_lift_m"].authority == "sheet"
    assert (found["max_length_m"].authority, found["max_length_m"].source) == ("code", "Local 7.2")
    assert [d.authority for d in found["max_length_m"].displaced] == ["house"]
    assert found["head_left"].authority == "house"
    assert found["head_right"].authority == "common"
    assert found["hole_size"] is None and found["max_test"] is None


def test_a_school_gives_its_limits_and_the_sheet_displaces_them():
    rules = Rules(outdoor=PELLOW_35, practice=Practice(schools={"pressure": "quick"}))
    hold = rules.limit("test_hold")
    assert (hold.authority, hold.value) == ("sheet", 12 * 3600)
    assert hold.displaced[0].value == 600
    for topic in TOPICS.values():
        assert topic.default in [s.name for s in topic.schools] and topic.reason
        for school in topic.schools:
            assert set(school.values) <= set(LIMITS)
            assert school.does and school.right_when and school.costs


def test_a_job_departs_from_the_house_with_its_reason_and_comes_back():
    house = Practice(schools={"pressure": "hour"}, house={"test_hold": 1800.0})
    away = Departure(
        topic="pressure", school="overnight", reason="joints will be closed in", by="Ida", at=NOW
    )
    back = Departure(topic="pressure", by="Ida", at=NOW)
    plain = Rules(outdoor=bare_sheet(), practice=house)
    assert plain.limit("test_hold").value == 1800.0
    differs = plain.model_copy(update={"departures": departures((away,))})
    assert differs.limit("test_hold").value == 24 * 3600.0
    assert "joints will be closed in" in differs.limit("test_hold").source
    assert departures((away, back)) == {}
    for wrong in ({"reason": ""}, {"school": "guess"}, {"topic": "weather"}):
        with pytest.raises(ValueError):
            Departure.model_validate(away.model_dump() | wrong)


def test_a_page_of_the_manual_follows_the_number_into_the_call():
    sheet = bare_sheet(max_length_m=20.0, cites={"max_length_m": "p. 14"})
    assert Rules(outdoor=sheet).limit("max_length_m").source == "M O, p. 14"
    with pytest.raises(ValueError, match="no field"):
        bare_sheet(cites={"weather": "p. 1"})


def test_a_practice_of_the_first_form_is_still_read():
    old = Practice.model_validate({"pressure": "soak", "sealant": "seat"})
    assert (old.school("pressure").name, old.school("sealant").name) == ("soak", "seat")


def test_the_test_pressure_never_goes_over_the_sheets_maximum():
    rules = Rules(outdoor=bare_sheet(max_test_gauge_pa=1.0e6))
    assert plan(rules).gauge_pa == 1.0e6
    assert plan(rules).lowered
    assert plan(Rules(outdoor=bare_sheet())) is None


@pytest.mark.parametrize(
    "wrong",
    [
        {"min_length_m": 9.0, "max_length_m": 3.0},
        {"mca_a": 20.0, "mop_a": 15.0},
        {"min_heads": 4, "max_heads": 2},
        {"min_connected_w": 9000.0, "max_connected_w": 7000.0},
        {"test_gauge_pa": 5e6, "max_test_gauge_pa": 4e6},
        {"max_lift_m": -1.0},
    ],
)
def test_a_sheet_that_contradicts_itself_is_refused(wrong):
    with pytest.raises(ValueError) as caught:
        bare_sheet(**wrong)
    assert list(wrong)[-1] in str(caught.value)  # the field is named


def test_a_torque_needs_both_ends_in_order():
    for low, high in ((14.0, None), (None, 14.0), (18.0, 14.0)):
        with pytest.raises(ValueError):
            Torque(od_m=0.00635, low_nm=low, high_nm=high)
