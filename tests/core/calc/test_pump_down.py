"""Pulling down: conductance at its limits, the closed form, hoses, leaks and water."""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from fairline.core.calc.pump_down import PumpDownRequest, pump_down
from fairline.core.physics.constants import MICRON_PA
from fairline.core.physics.vacuum_flow import Hose, Rig, pull_s

AIR_VISCOSITY = 18.2e-6  # Pa·s at 20 °C, handbook value from memory
AIR_MEAN_SPEED = math.sqrt(8 * 8.314462618 * 293.15 / (math.pi * 0.028965))  # m/s, kinetic theory
CFM = 0.3048**3 / 60


def asked(**changes):
    base = {"volume_m3": 0.003, "pump_m3_s": 0.0019, "hoses": [], "target_pa": 500 * MICRON_PA}
    return pump_down(PumpDownRequest.model_validate(base | changes))


@pytest.mark.parametrize("bore", [0.005, 0.00635, 0.0095, 0.0127])
def test_a_hose_at_its_viscous_and_its_molecular_limit(bore):
    """Poiseuille: π·d⁴·p̄/(128·η·l); free molecules: π·d³·v̄/(12·l). Neither is Knudsen's own."""
    hose = Hose(bore, 1.5)
    viscous = math.pi * bore**4 * 20_000 / (128 * AIR_VISCOSITY * 1.5)
    assert hose.conductance_m3_s(20_000.0) == pytest.approx(viscous, rel=0.02)
    molecular = math.pi * bore**3 * AIR_MEAN_SPEED / (12 * 1.5)
    assert hose.conductance_m3_s(1e-6) == pytest.approx(molecular, rel=0.01)


def test_what_a_quarter_inch_hose_leaves_of_any_pump():
    """6 ft of 1/4 in bore: 0.34 m³/h where the mean is 500 microns; a system at 500 microns on a
    deep pump gets 0.19 m³/h, for there the mean is half of it (Knudsen, from memory)."""
    hose = Hose(0.00635, 1.8288)
    assert hose.conductance_m3_s(500 * MICRON_PA) * 3600 == pytest.approx(0.34, abs=0.005)
    huge = Rig(1.0, 0.0, (hose,))
    assert huge.speed_m3_s(500 * MICRON_PA) * 3600 == pytest.approx(0.19, abs=0.005)


@given(
    st.floats(1e-4, 0.05), st.floats(1e-4, 0.02), st.floats(20, 5000), st.sampled_from([0.0, 5.0])
)
def test_dry_tight_and_without_a_hose_it_is_the_closed_form(volume, speed, target, ultimate):
    found = pull_s(Rig(speed, ultimate, ()), volume, 101_325.0, target, 0.0)
    closed = volume / speed * math.log((101_325 - ultimate) / (target - ultimate))
    assert found == pytest.approx(closed, rel=2e-3)


@given(st.floats(0.004, 0.013), st.floats(0.3, 3.0), st.floats(30, 2000))
def test_hoses_in_series_pass_less_than_each_and_a_split_hose_passes_the_same(bore, length, target):
    one, two = Hose(bore, length), (Hose(bore, length / 2), Hose(bore, length / 2))
    whole = Rig(0.002, 0.0, (one,)).speed_m3_s(target)
    assert Rig(0.002, 0.0, two).speed_m3_s(target) == pytest.approx(whole, rel=0.08)
    wider = Rig(0.002, 0.0, (Hose(bore * 1.2, length),)).speed_m3_s(target)
    assert whole < wider < 0.002 * 1.0001
    more = Rig(0.002, 0.0, (one, Hose(0.006, 0.5))).speed_m3_s(target)
    assert more < whole


def test_a_leak_that_balances_the_pump_is_never_pulled_through():
    """At the target the pump takes S·p: a leak just under it is outrun, one just over is not."""
    most = 0.0019 * 500 * MICRON_PA
    assert asked(leak_pa_m3_s=most * 0.999).result.time_s is not None
    answer = asked(leak_pa_m3_s=most * 1.001)
    assert (answer.result.time_s, answer.findings) == (None, ("never_reaches",))
    assert answer.call.verdict.value == "short"
    assert asked(ultimate_pa=500 * MICRON_PA).result.time_s is None
    assert asked(ultimate_pa=499 * MICRON_PA).result.time_s is not None


def test_a_gram_of_water_takes_its_vapours_time():
    """1 g at 20 °C is 135.3 Pa·m³ of vapour (R·T/M, by hand); boiling at 2 339 Pa through 1.9 l/s
    it is gone in 30.4 s; below its saturation nothing boils on the way."""
    dry, wet = asked().result, asked(water_kg=0.001).result
    assert wet.boil_s == pytest.approx(135.3 / (0.0019 * 2339), rel=3e-3)
    assert wet.time_s == pytest.approx(dry.time_s + wet.boil_s)
    assert asked(water_kg=0.001, target_pa=3000.0).result.boil_s is None
    cold = asked(water_kg=0.001, ambient_c=-20.0).result
    assert cold.boil_s > 15 * wet.boil_s  # ice gives 103 Pa


@pytest.mark.parametrize(("bore", "limited"), [(6.35, True), (19.0, False)])
def test_a_hose_that_passes_less_than_half_is_told(bore, limited):
    answer = asked(hoses=[{"bore_mm": bore, "length_m": 1.5}], pump_m3_s=6 * CFM)
    assert ("hose_limited" in answer.findings) is limited
    assert answer.call.verdict.value == ("watch" if limited else "holds")
    share = answer.result.effective_m3_s_at_target / answer.result.pump_m3_s_at_target
    assert (share < 0.5) is limited


@pytest.mark.parametrize(
    "changes",
    [
        {"volume_m3": 0.0},
        {"pump_m3_s": -1.0},
        {"hoses": [{"bore_mm": 0, "length_m": 1}]},
        {"target_pa": 0.0},
        {"ambient_c": -300.0},
        {"pump": 1.0},
    ],
)
def test_what_cannot_be_is_refused(changes):
    with pytest.raises(ValidationError):
        asked(**changes)
