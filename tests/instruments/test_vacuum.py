"""The simulated system against closed forms, and its decays against the shapes they are for."""

import math

import pytest

from fairline.core.calc.vacuum_decay import VacuumDecayRequest, vacuum_decay
from fairline.instruments.vacuum import MICRON_PA, MicronGauge, VacuumSystem, system


def test_a_dry_tight_system_without_a_hose_follows_the_closed_form():
    plant = VacuumSystem(bore_m=0.5, hose_m=0.1, ultimate_pa=0.0, outgas_pa_m3_s=0.0)
    plant.advance(10.0, pumping=True)
    expected = 101_325 * math.exp(-plant.pump_m3_s / plant.volume_m3 * 10)
    assert plant.pressure_pa == pytest.approx(expected, rel=1e-3)


def test_a_leak_rises_by_its_rate_over_volume():
    plant = VacuumSystem(leak_pa_m3_s=1e-3, outgas_pa_m3_s=0.0, air_pa=30.0)
    plant.advance(100, pumping=False)
    assert plant.pressure_pa == pytest.approx(30 + 1e-3 / plant.volume_m3 * 100)


@pytest.mark.parametrize(
    ("scenario", "shape"), [("sound", "steady"), ("wet", "moisture"), ("leaking", "leak")]
)
@pytest.mark.parametrize("seed", range(5))
def test_each_scenario_is_told_by_its_decay(scenario, shape, seed):
    plant = system(scenario)
    gauge = MicronGauge(plant, seed)
    plant.advance(1500, pumping=True)
    assert plant.pressure_pa < 300 * MICRON_PA
    plant.isolate()
    readings = []
    for i in range(181):
        readings.append({"t_s": i * 5.0, "pa": gauge.read_pa()})
        plant.advance(5, pumping=False)
    told = vacuum_decay(
        VacuumDecayRequest.model_validate(
            {
                "readings": readings,
                "rule": {"max_pa": 500 * MICRON_PA, "hold_s": 900.0},
                "ambient_c": 20.0,
                "gauge_resolution_pa": MICRON_PA,
            }
        )
    )
    assert told.result.shape == shape
    assert (told.call.verdict == "holds") == (scenario == "sound")
