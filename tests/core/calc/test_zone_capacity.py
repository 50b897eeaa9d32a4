"""Capacity from air states, against CoolProp's humid air."""

import CoolProp.CoolProp as CoolProp
import pytest

from fairline.core.calc.zone_capacity import ZoneCapacityRequest, zone_capacity


def ask(back, out, mode="cool", airflow=0.18, **more):
    return zone_capacity(
        ZoneCapacityRequest.model_validate(
            {"airflow_m3_s": airflow, "return_air": back, "supply_air": out, "mode": mode, **more}
        )
    )


def air(dry, rh):
    return {"dry_bulb_c": dry, "relative_humidity": rh}


@pytest.mark.parametrize(
    ("back", "out", "mode"),
    [
        ((27, 0.5), (13, 0.92), "cool"),
        ((30, 0.65), (17, 0.9), "cool"),
        ((20, 0.45), (42, 0.12), "heat"),
        ((24, 0.3), (12, 0.6), "cool"),
    ],
)
@pytest.mark.parametrize("pressure", [101_325.0, 84_000.0])
def test_against_coolprops_humid_air(back, out, mode, pressure):
    def state(of, dry, rh):
        return CoolProp.HAPropsSI(of, "T", dry + 273.15, "R", rh, "P", pressure)

    flow = 0.18 / state("V", *back)
    truth = flow * (state("H", *back) - state("H", *out))
    result = ask(air(*back), air(*out), mode, pressure_pa=pressure).result
    if mode == "heat":  # no latent part: the supply with the water that the return air had
        warmed = CoolProp.HAPropsSI(
            "H", "T", out[0] + 273.15, "W", state("W", *back), "P", pressure
        )
        assert result.total_w == pytest.approx(flow * (warmed - state("H", *back)), rel=0.01)
        assert result.latent_w == 0
        return
    assert result.total_w == pytest.approx(truth, rel=0.01)
    assert result.sensible_w + result.latent_w == pytest.approx(result.total_w)
    water = max(0.0, flow * (state("W", *back) - state("W", *out)) * 3600)
    assert result.condensate_kg_h == pytest.approx(water, rel=0.02, abs=0.02)


def test_dry_bulbs_alone_prove_a_split_and_in_heating_a_capacity():
    cool = ask({"dry_bulb_c": 27.0}, {"dry_bulb_c": 13.0})
    assert (cool.call.verdict, cool.findings) == ("watch", ("capacity_not_proven",))
    assert (cool.result.total_w, cool.result.latent_w, cool.result.condensate_kg_h) == (None,) * 3
    humid = ask(air(27, 0.5), air(13, 0.92)).result
    assert cool.result.sensible_w == pytest.approx(humid.sensible_w, rel=0.01)
    assert ask(air(27, 0.5), {"dry_bulb_c": 13.0}).findings == ("capacity_not_proven",)
    heat = ask({"dry_bulb_c": 20.0}, {"dry_bulb_c": 42.0}, "heat", rated_w=5000.0)
    assert heat.call.verdict == "holds"
    assert heat.result.total_w == heat.result.sensible_w
    assert ask({"dry_bulb_c": 13.0}, {"dry_bulb_c": 27.0}).findings == ("wrong_way",)


@pytest.mark.parametrize(
    ("mode", "supply", "doubtful"),
    [
        # of a return at 20 °C, 45 % (6.54 g/kg): a twentieth of the sensible part is 0.45 g/kg
        ("heat", (42, 0.135), False),
        ("heat", (42, 0.142), True),
        ("heat", (42, 0.114), True),
        ("cool", (10, 0.85), False),
        ("cool", (10, 0.92), True),
        ("cool", (10, 0.60), False),
    ],
)
def test_humidity_that_no_head_makes_is_told_and_the_sensible_counts(mode, supply, doubtful):
    known = ask(air(20, 0.45), air(*supply), mode).result.total_w  # unknown without a rated value
    answer = ask(air(20, 0.45), air(*supply), mode, rated_w=known)
    assert (answer.findings == ("humidity_doubtful",)) is doubtful
    assert answer.call.verdict == ("watch" if doubtful else "holds")
    if doubtful:
        assert answer.result.total_w == answer.result.sensible_w
        assert answer.result.condensate_kg_h == (0.0 if mode == "cool" else None)


@pytest.mark.parametrize(("share", "doubtful"), [(0.048, False), (0.053, True)])
def test_water_that_a_heating_head_cannot_make_is_told_from_a_twentieth_on(share, doubtful):
    """Both airs by CoolProp: the latent part is that share of the sensible one."""

    def enthalpy(t, w):
        return CoolProp.HAPropsSI("H", "T", t + 273.15, "W", w, "P", 101_325)

    w = CoolProp.HAPropsSI("W", "T", 293.15, "R", 0.45, "P", 101_325)
    sensible = enthalpy(42, w) - enthalpy(20, w)
    per_water = (enthalpy(42, w + 1e-4) - enthalpy(42, w)) / 1e-4
    more = w + share * sensible / per_water
    humidity = CoolProp.HAPropsSI("R", "T", 315.15, "W", more, "P", 101_325)
    answer = ask(air(20, 0.45), air(42, humidity), "heat", rated_w=5000.0)
    assert ("humidity_doubtful" in answer.findings) is doubtful


def test_wet_bulb_and_humidity_say_the_same():
    wet = CoolProp.HAPropsSI("B", "T", 300.15, "R", 0.5, "P", 101_325) - 273.15
    out = air(13, 0.9)
    one = ask({"dry_bulb_c": 27.0, "wet_bulb_c": wet}, out).result.total_w
    assert one == pytest.approx(ask(air(27, 0.5), out).result.total_w, rel=0.01)


def test_the_wrong_way_and_the_share_of_the_rated_value():
    assert ask(air(22, 0.5), air(28, 0.4)).findings == ("wrong_way",)
    assert ask(air(22, 0.5), air(20, 0.5), "heat").call.verdict == "short"
    total = ask(air(27, 0.5), air(13, 0.92)).result.total_w
    for share, findings in ((1.0, ()), (0.5, ("low_capacity",)), (2.0, ("implausible_capacity",))):
        assert ask(air(27, 0.5), air(13, 0.92), rated_w=total / share).findings == findings


@pytest.mark.parametrize(
    "bad",
    [
        {"dry_bulb_c": 20.0, "wet_bulb_c": 21.0},
        {"dry_bulb_c": 20.0, "relative_humidity": 1.2},
        {"dry_bulb_c": 20.0, "relative_humidity": 0.5, "wet_bulb_c": 12.0},
    ],
)
def test_impossible_air_is_refused(bad):
    with pytest.raises(ValueError):
        ask(bad, air(13, 0.9))


@pytest.mark.parametrize(
    ("back", "out", "mode", "findings"),
    [
        ((27, 0.5), (13, 0.9), "cool", ("no_rated_value",)),
        ((20, 0.45), (42, 0.135), "heat", ("no_rated_value",)),
        ((13, 0.5), (27, 0.3), "cool", ("wrong_way",)),  # before all else
    ],
)
def test_without_a_rated_value_the_amounts_are_given_and_nothing_is_proven(
    back, out, mode, findings
):
    answer = ask(air(*back), air(*out), mode)
    assert answer.findings == findings
    assert answer.call.verdict == ("unknown" if findings == ("no_rated_value",) else "short")
    assert answer.result.sensible_w is not None


@pytest.mark.parametrize(("mode", "most"), [("cool", 1.3), ("heat", 1.4)])
def test_more_than_a_machine_gives_is_watched(mode, most):
    ends = ((27, 0.5), (13, 0.9)) if mode == "cool" else ((20, 0.42), (40, 0.13))
    given = ask(air(*ends[0]), air(*ends[1]), mode).result.total_w
    inside, over = (
        ask(air(*ends[0]), air(*ends[1]), mode, rated_w=given / (most * by))
        for by in (0.999, 1.001)
    )
    assert (inside.call.verdict, over.findings) == ("holds", ("implausible_capacity",))
