"""Survey: what is wanted and loaded, what carries it, what came out of the boxes."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fairline.core.calc.system_capacity import (
    CarryRule,
    SystemCapacityRequest,
    WantedHeadLoad,
    system_capacity,
)
from fairline.core.practice import Rules
from fairline.core.sheet import Outdoor
from fairline.core.survey.proposal import Wanted, belongs, propose
from fairline.core.survey.stage import Room, SurveyEntry, WantedHead, judge, open_coils
from fairline.core.survey.stage import wanted as wanted_heads
from fairline.demo import jobs as demo
from fairline.demo.heads import OSMUND_H26, PELLOW_W35
from fairline.demo.sheet_parts import BTU_H
from fairline.demo.sheets import OSMUND_26, OSMUND_50, OSMUND_80, PELLOW_35, SHELF

SURVEYED = demo.survey("Loft", 8200, OSMUND_26, OSMUND_H26)
PLANNED = demo.planned(OSMUND_26, OSMUND_H26)
RULES = Rules(outdoor=OSMUND_26, head=OSMUND_H26)
OUTDOORS = [s for s in SHELF if isinstance(s, Outdoor)]


def verdicts(entry, equipment=PLANNED, rules=RULES):
    return {c.id: str(c.call.verdict) for c in judge(entry, equipment, rules).checks}


def boxed(key, **change):
    box = SURVEYED.boxes[key].model_copy(update=change)
    return {"boxes": SURVEYED.boxes | {key: box}}


def loft(**change):
    room = {"name": "Loft", "area_m2": 34.0, "load_w": 8200 * BTU_H} | change
    return {"rooms": (Room(**room),)}


@pytest.mark.parametrize(
    ("change", "check", "verdict"),
    [
        ({}, "load_A", "holds"),
        (loft(load_w=9100 * BTU_H), "load_A", "short"),
        (loft(load_w=5900 * BTU_H), "load_A", "watch"),
        (loft(load_w=None), "load_A", "wait"),
        (loft(heat_load_w=11_000 * BTU_H), "heat_A", "short"),
        (loft(heat_load_w=10_000 * BTU_H), "heat_A", "holds"),
        ({"rooms": ()}, "room", "wait"),
        ({"heads": ()}, "room", "wait"),
        (boxed("outdoor", damage="found"), "damage_outdoor", "short"),
        (boxed("A", damage=None), "damage_A", "wait"),
        (boxed("A", parts_seen=("Head",)), "parts_A", "short"),
        (boxed("A", parts_seen=()), "parts_A", "wait"),
        (boxed("outdoor", codes_belong="no"), "codes_outdoor", "short"),
        (boxed("A", hiss="none"), "hiss_A", "short"),
        (boxed("A", hiss="none", no_hiss_leak_test="sound"), "hiss_A", "watch"),
        (boxed("A", hiss="none", no_hiss_leak_test="leaks"), "hiss_A", "short"),
        ({"hazards_seen": ()}, "hazards", "wait"),
        ({"hazards_seen": ("old_siding",)}, "hazard_old_siding", "stop"),
        ({"hazards_seen": ("old_siding",), "siding_tested": "yes"}, "hazard_old_siding", "holds"),
        ({"hazards_seen": ("coast",)}, "hazard_coast", "watch"),
    ],
)
def test_survey_checks(change, check, verdict):
    found = verdicts(SURVEYED.model_copy(update=change))
    assert found.pop(check) == verdict
    found = {k: v for k, v in found.items() if not k.startswith(("load", "room"))}
    assert set(found.values()) <= {"holds"}


@pytest.mark.parametrize(("pair", "verdict"), [(None, "watch"), ("yes", "holds"), ("no", "short")])
def test_a_pair_that_no_sheet_names_is_answered_from_the_makers_table(pair, verdict):
    planned = PLANNED.heads[0]
    nameless = planned.model_copy(update={"sheet": planned.sheet.model_copy(update={"series": ""})})
    equipment = PLANNED.model_copy(update={"heads": (nameless,)})
    head = SURVEYED.heads[0].model_copy(update={"pair": pair})
    entry = SURVEYED.model_copy(update={"heads": (head,)})
    assert verdicts(entry, equipment)["pair_A"] == verdict
    asks = [p.asks for p in propose(wanted_heads(entry, equipment), [RULES.outdoor])]
    assert any("series" in a for a in asks[0]) is (pair != "yes")


def test_without_equipment_nothing_is_guessed():
    found = verdicts(SURVEYED, demo.Equipment(), Rules())
    assert (found["sheet"], found["load_A"]) == ("unknown", "unknown")
    assert not judge(SurveyEntry(), demo.Equipment(), Rules()).started


def test_a_missing_hiss_stays_open_until_the_coil_is_sound():
    silent = SURVEYED.model_copy(update=boxed("A", hiss="none"))
    assert open_coils(silent) == ["A"]
    sound = SURVEYED.model_copy(update=boxed("A", hiss="none", no_hiss_leak_test="sound"))
    assert open_coils(sound) == open_coils(SURVEYED) == []


def test_a_letter_stands_for_one_zone():
    twice = (WantedHead(zone="A"), WantedHead(zone="A"))
    with pytest.raises(ValueError, match="letter"):
        SurveyEntry(heads=twice)
    with pytest.raises(ValueError, match="no unit"):
        SurveyEntry(boxes={"cellar": {}})


# --- capacity and what the shelf carries ---------------------------------------------------------


def capacity(loads, later=(), **rule):
    heads = [WantedHeadLoad(id=str(i), cool_w=w, later=i in later) for i, w in enumerate(loads)]
    return system_capacity(SystemCapacityRequest(heads=heads, rule=CarryRule(**rule)))


@pytest.mark.parametrize(
    ("loads", "later", "findings"),
    [
        ([2000, 2000], (), ()),
        ([3500, 3500], (), ("over_capacity",)),
        ([3000, 3000, 1000], (2,), ("over_capacity",)),  # only with the head of later
        ([1500], (), ("under_capacity", "too_few_heads")),
        ([1500, 1500], (1,), ("under_capacity", "too_few_heads")),  # later does not help now
        ([1200, 1200, 1200, 1200], (), ("too_many_heads",)),
    ],
)
def test_the_range_holds_now_and_later(loads, later, findings):
    rule = {"min_connected_w": 2000, "max_connected_w": 6750, "min_heads": 2, "max_heads": 3}
    answer = capacity(loads, later, **rule)
    assert answer.findings == findings
    assert answer.call.verdict == ("short" if findings else "holds")


@given(st.lists(st.floats(500, 9000), min_size=1, max_size=9), st.floats(500, 60_000))
def test_connected_capacity_is_the_sum_of_the_heads(loads, most):
    answer = capacity(loads, max_connected_w=most, max_heads=20)
    assert answer.result.connected_w == pytest.approx(sum(loads))
    assert (answer.call.verdict == "short") == (sum(loads) > most + 1e-6)


def test_a_silent_sheet_is_unknown():
    assert capacity([2000.0]).call.verdict == "unknown"


def wanted(zone="A", **more):
    return Wanted(zone=zone, **{"area_m2": 30.0, "load_w": 2400.0, "sheet": OSMUND_H26} | more)


def named(proposals, clear):
    return [p.outdoor.name for p in proposals if bool(p.reasons) is not clear]


def test_what_carries_one_head_and_why_the_rest_drop_out():
    found = propose([wanted()], OUTDOORS)
    assert named(found, True) == [OSMUND_26.name]
    why = {p.outdoor.name: " ".join(p.reasons) for p in found}
    assert "at least 2 wanted" in why[OSMUND_50.name]
    assert "two makers" in why[PELLOW_35.name] or "is for R-32" in why[PELLOW_35.name]


def test_a_head_of_later_must_fit_the_unit_bought_now():
    two = [wanted("A"), wanted("B", later=True)]
    assert OSMUND_26.name not in named(propose(two, OUTDOORS), True)
    now = [wanted("A"), wanted("B")]
    assert named(propose(now, OUTDOORS), True)[0] == OSMUND_50.name
    four = [*now, wanted("C"), wanted("D", later=True)]
    assert named(propose(four, OUTDOORS), True) == [OSMUND_80.name]


def test_a_run_longer_than_it_allows_drops_a_unit_out():
    for length, reasons in ((20.0, 0), (20.2, 1)):  # the sheet's 66 ft are 20.12 m
        found = propose([wanted()], [OSMUND_26], length)[0]
        assert len(found.reasons) == reasons
    assert "20.2" in found.reasons[0] and "of line so far" in found.reasons[0]


def test_where_it_cannot_know_it_asks():
    unknown = propose([wanted(load_w=None, sheet=None)], [OSMUND_26])[0]
    assert unknown.call.verdict == "unknown" and "Capacity or load" in unknown.asks[0]
    bare = OSMUND_26.model_copy(update={"series": "", "factory_charge_kg": None})
    asks = propose([wanted()], [bare])[0].asks
    assert any("belong" in a for a in asks) and any("factory charge" in a for a in asks)


def test_a_room_too_small_for_the_charge_drops_a_unit_out():
    heavy = OSMUND_26.model_copy(update={"factory_charge_kg": 2.6})
    tiny = propose([wanted(area_m2=3.0)], [heavy])[0]
    assert "too much for" in tiny.reasons[0]


@pytest.mark.parametrize(
    ("head", "verdict"),
    [
        (OSMUND_H26, "holds"),
        (PELLOW_W35, "stop"),
        (OSMUND_H26.model_copy(update={"series": "Heron"}), "short"),
        (OSMUND_H26.model_copy(update={"maker": "Other"}), "short"),
        (OSMUND_H26.model_copy(update={"series": ""}), "watch"),
    ],
)
def test_indoor_and_outdoor_codes_belong_together(head, verdict):
    assert belongs(OSMUND_26, head).verdict == verdict
