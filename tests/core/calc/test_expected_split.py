"""The split of a sound head against moist air of CoolProp, and both sides of each call."""

import CoolProp.CoolProp as CoolProp
import pytest
from scipy.optimize import brentq

from fairline.core.calc.expected_split import ExpectedSplitRequest, expected_split

P = 101_325.0


def ask(split=None, mode="cool", dry=27.0, rh=0.5, airflow=0.15, rated=3500.0, **more):
    air = {"dry_bulb_c": dry} | ({} if rh is None else {"relative_humidity": rh})
    asked = {"rated_w": rated, "mode": mode, "airflow_m3_s": airflow, "return_air": air}
    asked |= {} if split is None else {"split_k": split}
    if "airflows_m3_s" in more:
        del asked["airflow_m3_s"]
    return expected_split(ExpectedSplitRequest.model_validate(asked | more))


def air(what, dry, rh):
    """CoolProp's humid air (ASHRAE RP-1485), a source beside PsychroLib."""
    return CoolProp.HAPropsSI(what, "T", dry + 273.15, "P", P, "R", rh)


@pytest.mark.parametrize("dry", [20.0, 24.0, 27.0, 32.0])
@pytest.mark.parametrize("rh", [0.3, 0.5, 0.7])
@pytest.mark.parametrize("airflow", [0.1, 0.18])
@pytest.mark.parametrize("rated", [2600.0, 3500.0])
def test_cooling_against_coolprops_moist_air(dry, rh, airflow, rated):
    low, high = ask(dry=dry, rh=rh, airflow=airflow, rated=rated).result.split_k
    flow, w = airflow / air("V", dry, rh), air("W", dry, rh)
    heat = 1006 + 1860 * w
    most = min(1.3 * rated / (flow * heat), dry - 2)
    wanted = air("H", dry, rh) - 0.6 * rated / (0.85 * flow)
    surface = brentq(lambda t: air("H", t, 1.0) - wanted, -40, dry)
    dew = air("D", dry, rh) - 273.15
    least = 0.6 * rated / (flow * heat) if surface > dew else 0.85 * (dry - surface)
    least = min(least, 0.85 * (dry - 8), most)
    assert high == pytest.approx(most, rel=0.01)
    assert low == pytest.approx(least, rel=0.01, abs=0.05)


@pytest.mark.parametrize(
    ("outdoor", "factor"), [(None, 1), (7, 1), (6, 0.98), (-10, 0.66), (-23, 0.4), (-40, 0.4)]
)
def test_heating_by_hand_and_outdoors_it_falls(outdoor, factor):
    more = {} if outdoor is None else {"outdoor_c": outdoor}
    low, high = ask(mode="heat", dry=20.0, rh=0.4, **more).result.split_k
    flow, w = 0.15 / air("V", 20.0, 0.4), air("W", 20.0, 0.4)
    k = 3500.0 / (flow * (1006 + 1860 * w))
    assert (low, high) == pytest.approx((0.45 * k * factor, 1.4 * k), rel=0.01)


def test_where_a_speed_or_the_humidity_is_not_known_the_range_widens():
    known = ask().result.split_k
    speeds = ask(airflows_m3_s=[0.1, 0.2]).result.split_k
    assert speeds[0] == pytest.approx(ask(airflow=0.2).result.split_k[0])
    assert speeds[1] == pytest.approx(ask(airflow=0.1).result.split_k[1])
    blind = ask(rh=None).result.split_k
    assert blind[0] == pytest.approx(ask(rh=0.7).result.split_k[0])
    assert blind[1] == pytest.approx(ask(rh=0.3).result.split_k[1])
    assert blind[0] < known[0] and blind[1] > known[1] * 0.99
    shared = ask(unit_share=0.7).result.split_k
    assert shared == pytest.approx(ask(load=[0.42, 1.3]).result.split_k)
    assert ask(unit_share=1.2).result == ask().result


@pytest.mark.parametrize(
    ("split", "verdict", "findings"),
    [
        (None, "wait", ()),
        (0.0, "short", ("not_changed",)),
        (0.3, "short", ("not_changed",)),
        (-0.31, "short", ("wrong_way",)),
        (0.31, "short", ("weak",)),
        (1 / 1.8, "short", ("weak",)),  # 1, 3 and 6 °F do not cool a room
        (3 / 1.8, "short", ("weak",)),
        (6 / 1.8, "short", ("weak",)),
    ],
)
def test_a_split_that_no_sound_head_gives_is_short(split, verdict, findings):
    answer = ask(split)
    assert (answer.call.verdict, answer.findings) == (verdict, findings)


@pytest.mark.parametrize("mode", ["cool", "heat"])
def test_both_ends_of_the_range(mode):
    of = {"mode": mode, "dry": 27.0 if mode == "cool" else 20.0}
    low, high = ask(**of).result.split_k
    for split, verdict, findings in (
        (low - 1e-3, "short", ("weak",)),
        (low + 1e-3, "holds", ()),
        (high - 1e-3, "holds", ()),
        (high + 1e-3, "watch", ("explain_first",)),
    ):
        answer = ask(split, **of)
        assert (answer.call.verdict, answer.findings) == (verdict, findings)


@pytest.mark.parametrize(
    ("outdoor", "split", "findings"),
    [
        (6.9, 0.0, ("defrost",)),
        (6.9, -8.0, ("defrost",)),
        (7.0, 0.0, ("not_changed",)),
        (7.0, -8.0, ("wrong_way",)),
        (6.9, 0.2, ("not_changed",)),
    ],
)
def test_a_unit_that_defrosts_is_waited_for(outdoor, split, findings):
    answer = ask(split, mode="heat", dry=20.0, outdoor_c=outdoor)
    assert answer.findings == findings
    assert answer.call.verdict == ("wait" if findings == ("defrost",) else "short")


@pytest.mark.parametrize(
    "wrong",
    [
        {"airflows_m3_s": [0.2, 0.1]},
        {"airflows_m3_s": [0.2]},
        {"load": [1.0, 0.5]},
        {"unit_share": 0.0},
        {"rated": 0.0},
        {"dry": float("nan")},
    ],
)
def test_what_cannot_be_is_refused(wrong):
    with pytest.raises(ValueError):
        ask(**wrong)
    with pytest.raises(ValueError, match="give one of it"):
        ExpectedSplitRequest.model_validate(
            {"rated_w": 1.0, "mode": "cool", "return_air": {"dry_bulb_c": 20.0}}
        )
