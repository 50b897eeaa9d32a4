"""The makers' sheets: what each kind says, what it refuses, and what follows from its rows."""

import pytest
from pydantic import ValidationError

from fairline.core.sheet import ANY_SHEET, KINDS, Head, Outdoor
from fairline.core.sheet.part import ChargeRate, Outlet, Torque, TubePair, torque_nm
from fairline.demo.heads import OSMUND_C35, OSMUND_H26
from fairline.demo.sheets import OSMUND_26, OSMUND_80, PELLOW_90, SHELF

NEEDED = {
    "outdoor": {"refrigerant": "R-32"},
    "head": {},
    "branch-box": {"refrigerant": "R-32"},
    "tee": {},
    "kit": {"refrigerant": "R-32"},
}
PAIRS = [(kind, low, high) for kind, model in KINDS.items() for low, high, _ in model.ORDERED]


def sheet(kind, **more):
    return {"kind": kind, "maker": "M", "model": "X"} | NEEDED[kind] | more


@pytest.mark.parametrize("kind", KINDS)
def test_each_kind_needs_no_more_than_its_names(kind):
    read = ANY_SHEET.validate_python(sheet(kind))
    assert (read.kind, read.name, read.source("model")) == (kind, "M X", "M X")
    assert ANY_SHEET.validate_json(read.model_dump_json()) == read
    for missing in ("maker", "model"):
        with pytest.raises(ValidationError, match=missing):
            ANY_SHEET.validate_python(sheet(kind, **{missing: " "}))
    with pytest.raises(ValidationError):
        ANY_SHEET.validate_python(sheet(kind, colour="blue"))


@pytest.mark.parametrize(("kind", "low", "high"), PAIRS)
def test_a_least_value_above_the_most_is_told_at_the_most(kind, low, high):
    base = ANY_SHEET.validate_python(sheet(kind))
    values = {low: 2e6, high: 1e6} if "pa" in low else {low: 12, high: 3}
    with pytest.raises(ValidationError) as caught:
        ANY_SHEET.validate_python(sheet(kind, **values))
    error = caught.value.errors()[0]
    assert error["loc"][-1] == high and "contradicts itself" in error["msg"]
    right = ANY_SHEET.validate_python(sheet(kind, **{low: values[high], high: values[low]}))
    assert getattr(right, low) < getattr(right, high)
    assert getattr(base, low) is None and getattr(base, high) is None


@pytest.mark.parametrize(
    ("kind", "wrong"),
    [
        ("outdoor", {"refrigerant": "R-22"}),
        ("outdoor", {"system": "loop"}),
        ("outdoor", {"max_lift_m": -1.0}),
        ("outdoor", {"weight_kg": -1.0}),
        ("outdoor", {"voltage_v": 5.0}),
        ("outdoor", {"max_test_gauge_pa": 5e4}),
        ("outdoor", {"clear_left_m": -0.1}),
        ("outdoor", {"width_m": 0.0}),
        ("outdoor", {"supports": ["shelf"]}),
        ("outdoor", {"ports": [{"liquid_od_m": 5.0}]}),
        ("outdoor", {"torques": [{"od_m": 0.00635, "low_nm": 17.0, "high_nm": 14.0}]}),
        ("outdoor", {"cites": {"weather": "p. 1"}}),
        ("outdoor", {"max_heads": 2.5}),
        ("head", {"form": "window"}),
        ("head", {"outlets": [{"name": "back"}]}),
        ("head", {"airflows": [{"speed": "", "m3_s": 0.1}]}),
        ("head", {"hole_m": 0.0}),
        ("kit", {"refrigerant": ""}),
        ("tee", {"liquid_in_m": float("nan")}),
        ("branch-box", {"lettered_from": "side"}),
    ],
)
def test_what_no_sheet_can_say_is_refused_with_its_field(kind, wrong):
    with pytest.raises(ValidationError) as caught:
        ANY_SHEET.validate_python(sheet(kind, **wrong))
    assert next(iter(wrong)) in [str(p) for p in caught.value.errors()[0]["loc"]]


def test_blank_rows_of_a_form_are_left_out_and_words_are_a_list():
    read = ANY_SHEET.validate_python(
        sheet(
            "outdoor",
            ports=[{"letter": "", "liquid_od_m": ""}, {"letter": "B", "gas_od_m": "1/2"}],
            supports="pad, stand",
            cites={"mop_a": "p. 3", "mca_a": " "},
        ),
        context={"system": "us"},
    )
    assert read.ports == (TubePair(letter="B", gas_od_m=0.0127),)
    assert read.supports == ("pad", "stand")
    assert read.cites == {"mop_a": "p. 3"}
    head = ANY_SHEET.validate_python(sheet("head", outlets=[{"name": "", "way": "back"}]))
    assert head.outlets == ()


def test_rates_and_torques_are_found_by_the_tube():
    assert PELLOW_90.rate_kg_per_m(9.52) == 0.045
    assert PELLOW_90.rate_kg_per_m(6.35) == 0.018
    assert PELLOW_90.rate_kg_per_m(12.7) is None
    assert torque_nm(OSMUND_26.torques, 6.35) == (15.0, 17.5)
    assert torque_nm(OSMUND_26.torques, 15.88) is None
    bare = Outdoor(maker="M", model="X", refrigerant="R-32")
    assert bare.port == TubePair()
    half = bare.model_copy(
        update={
            "rates": (ChargeRate(liquid_od_m=0.00635, kg_per_m=None),),
            "torques": (Torque(od_m=0.00635, low_nm=None, high_nm=None),),
        }
    )
    assert half.rate_kg_per_m(6.35) is None and torque_nm(half.torques, 6.35) is None


def test_only_home_runs_have_a_port_for_each_head():
    assert OSMUND_80.port_count() == 4
    assert OSMUND_26.port_count() is None and PELLOW_90.port_count() is None
    assert [p.letter for p in OSMUND_80.ports] == ["A", "B", "C", "D"]


def test_a_heads_plate_outlets_and_air():
    assert OSMUND_H26.outlet("right back").name == "right back"
    assert OSMUND_H26.outlet("cellar").name == "left back"  # the first through the back
    assert OSMUND_H26.outlet("left side").way == "side"
    assert Head(maker="M", model="X").outlet("") is None
    assert OSMUND_H26.from_mark(0.1, 0.02) == pytest.approx((0.055, 0.17))
    assert OSMUND_H26.airflow_m3_s == max(a.m3_s for a in OSMUND_H26.airflows)
    assert OSMUND_H26.on_wall and not OSMUND_C35.on_wall
    with pytest.raises(ValueError, match="hole's place"):
        Outlet(name="back", x_m=0.1)


def test_a_page_is_named_where_it_is_cited():
    assert OSMUND_26.source("max_length_m") == "Osmund Works OS-26, p. 14"
    assert OSMUND_26.source("mop_a") == "Osmund Works OS-26"


def test_the_demo_shelf_holds_every_kind_system_form_and_refrigerant():
    assert len(SHELF) >= 12 and len({s.name.casefold() for s in SHELF}) == len(SHELF)
    assert {s.kind for s in SHELF} == set(KINDS)
    outdoors = [s for s in SHELF if isinstance(s, Outdoor)]
    heads = [s for s in SHELF if isinstance(s, Head)]
    assert {o.system for o in outdoors} == {"single", "multi", "branch-box", "trunk"}
    assert {o.discharge for o in outdoors} == {"side", "top"}
    assert {o.refrigerant for o in outdoors} == {"R-32", "R-454B", "R-410A"}
    assert {h.form for h in heads} == {"high-wall", "console", "cassette", "ducted"}
    for outdoor in outdoors:  # complete for every later stage
        for field in (
            "factory_charge_kg",
            "max_length_m",
            "max_lift_m",
            "max_test_gauge_pa",
            "mca_a",
            "mop_a",
            "weight_kg",
            "width_m",
            "clear_behind_m",
        ):
            assert getattr(outdoor, field) is not None, (outdoor.name, field)
        assert outdoor.rates and outdoor.ports
        assert outdoor.torques or outdoor.model == "PX-35"  # the one that leaves it to EN 378-2


def test_a_ground_among_typed_terminals_is_no_terminal_and_what_is_kept_stays():
    told = {"maker": "Loom Works", "model": "L-26", "refrigerant": "R-32"}
    for typed in ("1 2 3 G", "1, 2, 3, gnd", "⏚ 1 2 3 PE", "1 2 3"):
        assert Outdoor.model_validate(told | {"terminals": typed}).terminals == ("1", "2", "3")
    kept = Outdoor.model_validate(told | {"terminals": ["1", "2", "G"]})
    assert kept.terminals == ("1", "2", "G")
