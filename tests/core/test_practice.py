"""Company rules: the topics practitioners differ on, and who governs every single limit."""

import pytest

from fairline.core.limit_list import LIMITS, LimitDef
from fairline.core.practice import CodeEntry, Practice, Rules, check_school
from fairline.core.schools import TOPICS
from fairline.core.sheet import BranchBox, Head, Outdoor, Tee
from fairline.core.stages import TITLES as STAGES
from fairline.core.units import KINDS
from fairline.demo.sheets import HARTWICK_TEE, PELLOW_BOX

OUTDOOR = Outdoor(maker="M", model="O", refrigerant="R-32")
HEAD = Head(maker="M", model="H")
ON_SHEET = [name for name, d in LIMITS.items() if d.on_sheet]


def inside(d: LimitDef, share: float) -> float:
    """A value this limit can have, a share of the way from its least to its most."""
    return d.low + share * (min(d.high, d.low + 60.0) - d.low)


SHEETS = {"outdoor": OUTDOOR, "head": HEAD, "box": PELLOW_BOX, "tee": HARTWICK_TEE}


def rules(name, sheet=None, **practice):
    """Sheets that are silent on a limit, or say ``sheet``."""
    found = {}
    if on := LIMITS[name].on_sheet:
        part, field = on.split(".")
        found[part] = SHEETS[part].model_copy(update={field: sheet})
    return Rules(**({"outdoor": OUTDOOR, "head": HEAD} | found), practice=Practice(**practice))


@pytest.mark.parametrize("name", LIMITS)
def test_every_limit_falls_through_code_house_and_common(name):
    d = LIMITS[name]
    house, code = inside(d, 0.3), inside(d, 0.6)
    both = {"house": {name: house}, "code": {name: CodeEntry(value=code, source="Local 1")}}
    governed = rules(name, **both).limit(name)
    assert (governed.authority, governed.value, governed.source) == ("code", code, "Local 1")
    assert (governed.limit, governed.unit) == (d.label, d.unit)
    own = rules(name, house={name: house}).limit(name)
    assert (own.authority, own.value) == ("house", house)
    plain = rules(name).limit(name)
    schools = [s for t in TOPICS.values() for s in [t.school(t.default)] if name in s.values]
    if schools:
        assert (plain.authority, plain.value) == ("house", schools[0].values[name])
    elif d.common is not None:
        assert (plain.authority, plain.value) == ("common", d.common)
        assert plain.source == d.common_source
    else:
        assert plain is None


@pytest.mark.parametrize("name", ON_SHEET)
def test_the_sheet_ranks_above_all_and_what_it_displaced_stays_to_be_seen(name):
    d = LIMITS[name]
    house, code, sheet = inside(d, 0.3), inside(d, 0.6), inside(d, 0.8)
    both = {"house": {name: house}, "code": {name: CodeEntry(value=code, source="Local 1")}}
    governed = rules(name, sheet, **both).limit(name)
    assert (governed.authority, governed.value) == ("sheet", sheet)
    assert [x.authority for x in governed.displaced][:2] == ["code", "house"]
    part, field = d.on_sheet.split(".")
    model = {"outdoor": Outdoor, "head": Head, "box": BranchBox, "tee": Tee}[part]
    assert field in model.model_fields


@pytest.mark.parametrize("name", LIMITS)
def test_a_limit_outside_what_it_can_be_is_refused(name):
    d = LIMITS[name]
    for value in (d.low - 1.0, d.high * 1.1 + 1.0):
        with pytest.raises(ValueError, match="must lie between"):
            Practice(house={name: value})
        with pytest.raises(ValueError, match="must lie between"):
            Practice(code={name: CodeEntry(value=value, source="Local")})
    assert d.kind in KINDS or d.kind == ""


def test_what_no_practice_can_hold_is_refused():
    for wrong in (
        {"house": {"weather": 1.0}},
        {"schools": {"weather": "fair"}},
        {"schools": {"pressure": "guess"}},
        {"colour": 1},
    ):
        with pytest.raises(ValueError):
            Practice.model_validate(wrong)
    with pytest.raises(ValueError, match="no topic"):
        check_school("weather", "fair")


def test_every_topic_of_the_trade_is_there_with_at_least_two_schools():
    """Twenty questions on which practitioners differ (common practice, no source)."""
    assert set(TOPICS) == {
        "pressure",
        "decay",
        "gauge",
        "factory_flares",
        "sealant",
        "traps",
        "short_line",
        "charge_into",
        "valve_order",
        "support",
        "cable",
        "surplus",
        "joins",
        "isolation",
        "connect_first",
        "plate_pitch",
        "head_height",
        "hands",
        "masonry_hole",
        "tightening",
    }
    for name, topic in TOPICS.items():
        assert len(topic.schools) >= 2 and topic.name == name
        assert topic.stage in {*STAGES, "wire"}
        assert len({s.name for s in topic.schools}) == len(topic.schools)


def test_labels_tell_the_kind_of_quantity_of_a_limit():
    labels = [d.label for d in LIMITS.values()]
    assert len(set(labels)) == len(labels)
    kinds = {n: Rules().limit(n).kind for n in ("head_low", "outdoor_front", "decay_max")}
    assert kinds == {"head_low": "length", "outdoor_front": "small", "decay_max": "vacuum"}


def test_who_chose_is_told():
    assert Rules().who_chose("support") == "the company"
    assert Rules().value("hole_size") is None
    assert Rules(practice=Practice(house={"one_person": 20.0})).value("one_person") == 20.0
