"""The simulated nitrogen: it follows its temperature, loses what leaks, and is judged rightly."""

import pytest

from fairline.core.calc.pressure_hold import PressureHoldRequest, pressure_hold
from fairline.core.physics.constants import PSI_PA
from fairline.core.physics.nitrogen import expected_gauge_pa
from fairline.instruments.nitrogen import DigitalGauge, NitrogenSystem, system
from fairline.instruments.torque_wrench import TorqueWrench


def run(scenario, hours=4.0):
    plant = system(scenario, 300 * PSI_PA, 0.0015)
    gauge, readings = DigitalGauge(plant, seed=3), []
    for minute in range(int(hours * 60) + 1):
        pressure, pipe = gauge.read()
        readings.append({"t_s": minute * 60.0, "gauge_pa": pressure, "pipe_c": pipe})
        plant.advance(60)
    return pressure_hold(
        PressureHoldRequest.model_validate(
            {
                "readings": readings,
                "required": {"gauge_pa": 299 * PSI_PA, "hold_s": 3600.0},
                "max_gauge_pa": 4.2e6,
                "gauge_resolution_pa": 0.1 * PSI_PA,
                "thermometer_uncertainty_k": 0.15,
            }
        )
    )


@pytest.mark.parametrize(
    ("scenario", "verdict"),
    [
        ("sound", "holds"),
        ("cooling", "holds"),
        ("leaking", "short"),
    ],
)
def test_each_scenario_is_what_it_says(scenario, verdict):
    assert run(scenario).call.verdict == verdict


def test_a_tight_system_reads_what_the_gas_law_says_when_it_cools():
    plant = NitrogenSystem(gauge_pa=500 * PSI_PA, pipe_c=30.0, air_c=5.0)
    plant.advance(48 * 3600)
    assert plant.pipe_c == pytest.approx(5.0, abs=1e-3)
    assert plant.gauge_pa == pytest.approx(expected_gauge_pa(500 * PSI_PA, 30.0, 5.0), rel=1e-4)


def test_a_leak_loses_what_its_rate_says():
    plant = NitrogenSystem(gauge_pa=2.0e6, volume_m3=0.002, leak_pa_m3_s=0.001)
    for _ in range(60):
        plant.advance(60)
    # Q = V·Δp/t, but for a real gas's last few parts in a hundred
    assert 2.0e6 - plant.gauge_pa == pytest.approx(0.001 * 3600 / 0.002, rel=0.03)


def test_the_wrench_clicks_within_its_class_and_the_same_for_the_same_seed():
    """ISO 6789-1: within 4 % of the setting (quoted from memory)."""
    clicks = [TorqueWrench(16.0, seed=s).click() for s in range(400)]
    assert sum(abs(c - 16.0) <= 0.04 * 16.0 for c in clicks) >= 0.93 * len(clicks)
    assert TorqueWrench(16.0, seed=5).click() == TorqueWrench(16.0, seed=5).click()
    with pytest.raises(ValueError):
        TorqueWrench(0.0)
