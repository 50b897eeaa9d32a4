"""Torque, flare size and the wrench with an adapter."""

import math

import pytest

from fairline.core.calc.flare_torque import FlareTorqueRequest, flare_torque, wrench_setting_nm

NM_PER_LBF_FT = 1.3558179483


@pytest.mark.parametrize(  # EN 378-2 and JIS B 8607 class 2, both quoted from memory
    ("od_mm", "low", "high", "lbf_ft", "flare"),
    [
        (6.35, 14, 18, (10.3, 13.3), 9.1),
        (9.52, 33, 42, (24.3, 31.0), 13.2),
        (12.70, 50, 62, (36.9, 45.7), 16.6),
        (15.88, 63, 77, (46.5, 56.8), 19.7),
        (19.05, 90, 110, (66.4, 81.1), 24.0),
    ],
)
def test_published_torque_and_flare_size(od_mm, low, high, lbf_ft, flare):
    result = flare_torque(FlareTorqueRequest(od_mm=od_mm)).result
    assert result.target_nm == (low, high)
    assert [t / NM_PER_LBF_FT for t in result.target_nm] == pytest.approx(lbf_ft, abs=0.05)
    assert result.aim_nm == (low + high) / 2
    assert result.flare_od_mm == pytest.approx((flare - 0.4, flare))


@pytest.mark.parametrize(  # statics, worked by hand: T·L/(L + E·cos φ)
    ("length", "offset", "angle", "expected"),
    [(250, 50, 0, 40.0), (250, 50, 90, 48.0), (300, 60, 60, 48 * 300 / 330), (250, 0, 0, 48.0)],
)
def test_an_adapter_changes_what_the_wrench_is_set_to(length, offset, angle, expected):
    assert wrench_setting_nm(48, length, offset, angle) == pytest.approx(expected)
    request = FlareTorqueRequest(
        od_mm=6.35,
        wrench_length_mm=length,
        adapter_offset_mm=offset,
        adapter_angle_deg=angle,
        sheet_torque_nm=[46.0, 50.0],
    )
    assert flare_torque(request).result.set_wrench_nm == pytest.approx(expected)


@pytest.mark.parametrize(
    ("applied", "verdict", "findings"),
    [
        (None, "wait", ()),
        (13.9, "short", ("under_torque",)),
        (14.0, "holds", ()),
        (18.0, "holds", ()),
        (18 * NM_PER_LBF_FT, "short", ("over_torque",)),
    ],
)
def test_the_call_on_what_was_applied(applied, verdict, findings):
    answer = flare_torque(FlareTorqueRequest(od_mm=6.35, applied_nm=applied))
    assert (answer.call.verdict, answer.findings) == (verdict, findings)


@pytest.mark.parametrize(
    ("applied", "asked"),
    [(127.9, False), (128.0, True), (200.0, True), (200.1, False), (1.6, True)],
)
def test_a_slipped_point_is_asked_for_before_a_flare_is_cut_off(applied, asked):
    call = flare_torque(FlareTorqueRequest(od_mm=6.35, applied_nm=applied)).call
    assert call.verdict == "short" and ("Read the wrench again" in call.do_next) == asked


def test_a_sheet_outside_the_standard_governs_and_says_what_it_displaced():
    request = FlareTorqueRequest(od_mm=12.7, sheet_torque_nm=[35.0, 36.1], applied_nm=35.5)
    answer = flare_torque(request)
    assert answer.call.verdict == "holds"
    assert answer.findings == ("sheet_differs_from_standard",)
    assert answer.governed_by[0].authority == "sheet"
    assert answer.governed_by[0].displaced[0].value == 50
    inside = FlareTorqueRequest(od_mm=6.35, sheet_torque_nm=[14.9, 16.0])
    assert flare_torque(inside).findings == ()


def test_a_tube_nobody_knows_is_unknown():
    answer = flare_torque(FlareTorqueRequest(od_mm=28.6, applied_nm=100.0))
    assert answer.call.verdict == "unknown"
    assert answer.result.target_nm is None


def test_an_adapter_past_the_grip_is_refused():
    with pytest.raises(ValueError, match="past the grip"):
        FlareTorqueRequest(
            od_mm=6.35, wrench_length_mm=100, adapter_offset_mm=200, adapter_angle_deg=180
        )
    assert math.isfinite(wrench_setting_nm(10, 100, 99, 180))


@pytest.mark.parametrize(
    ("applied", "finding", "said"),
    [
        (18.0, None, "18.0 N·m"),
        (13.3 * NM_PER_LBF_FT, None, "18.0 N·m"),  # typed as the limit is printed in lbf·ft
        (18.02, "over_torque", "18.020 N·m"),
        (13.31 * NM_PER_LBF_FT, "over_torque", "18.046 N·m"),
        (14.0, None, "14.0 N·m"),
        (10.3 * NM_PER_LBF_FT, None, "14.0 N·m"),
        (13.98, "under_torque", "13.980 N·m"),
    ],
)
def test_what_prints_as_its_limit_and_is_beyond_it_is_said_with_more_digits(applied, finding, said):
    answer = flare_torque(FlareTorqueRequest.model_validate({"od_mm": 6.35, "applied_nm": applied}))
    assert answer.findings == ((finding,) if finding else ())
    assert answer.call.because.replace("\u00a0", " ").startswith(said)
