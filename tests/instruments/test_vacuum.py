"""The simulated system: closed forms, mass kept, and each fault told or left open, never held."""

import math

import pytest

from fairline.core.calc.vacuum_decay import VacuumDecayRequest, vacuum_decay
from fairline.core.physics.constants import MICRON_PA, WATER_VAPOUR_CONSTANT, ZERO_C_K
from fairline.core.physics.moist_air import saturation_pa
from fairline.core.physics.vacuum_flow import Hose, Rig
from fairline.instruments.gauge import Sensor
from fairline.instruments.vacuum import MicronGauge, Sizes, VacuumSystem, system

BARE = Rig(0.0009, 0.0, ())


def test_a_dry_tight_system_without_a_hose_follows_the_closed_form():
    plant = VacuumSystem(rig=BARE, outgas_pa_m3=0.0)
    plant.advance(10.0, pumping=True)
    expected = 101_325 * math.exp(-0.0009 / plant.volume_m3 * 10)
    assert plant.pressure_pa == pytest.approx(expected, rel=2e-3)


def test_a_leak_rises_by_its_rate_over_volume_and_ends_at_the_atmosphere():
    plant = VacuumSystem(leak_pa_m3_s=1e-3, outgas_pa_m3=0.0, air_pa=30.0)
    plant.advance(100, pumping=False)
    assert plant.pressure_pa == pytest.approx(30 + 1e-3 / plant.volume_m3 * 100, rel=1e-3)
    open_ = VacuumSystem(leak_pa_m3_s=1.0, outgas_pa_m3=0.0, air_pa=30.0)
    open_.advance(200, pumping=False)
    early = open_.pressure_pa - 30
    open_.advance(200, pumping=False)
    assert open_.pressure_pa - early < 0.7 * early and open_.pressure_pa <= 101_325


def test_outgassing_slows_as_one_over_time():
    plant = VacuumSystem(rig=BARE)
    plant.advance(540, pumping=True)
    plant.isolate()
    start = plant.pressure_pa
    plant.advance(60, pumping=False)
    # 1.2e-3 Pa·m³ over (540 + 60) s, in the volume, for a minute: by hand.
    assert plant.pressure_pa - start == pytest.approx(1.2e-3 / 600 * 60 / plant.volume_m3, rel=0.01)


@pytest.mark.parametrize("boil", [2e-3, 1e-5])
def test_water_is_kept_as_liquid_as_vapour_or_as_what_the_pump_took(boil):
    plant = VacuumSystem(water_kg=0.001, boil_m3_s=boil, air_pa=100.0)
    for pumping in (True, False, True):
        plant.advance(120, pumping)
        gas = WATER_VAPOUR_CONSTANT * (plant.ambient_c + ZERO_C_K)
        held = plant.vapour_pa * plant.volume_m3 / gas
        assert plant.water_kg + held + plant.vapour_out_kg == pytest.approx(0.001, rel=1e-6)


def test_water_left_to_itself_ends_at_its_saturation_and_cools_as_it_boils():
    plant = VacuumSystem(water_kg=0.01, outgas_pa_m3=0.0, air_pa=1.0, ambient_c=15.0)
    plant.advance(2400, pumping=False)
    assert plant.vapour_pa == pytest.approx(saturation_pa(15.0), rel=0.02)
    plant.advance(60, pumping=True)
    assert plant.water_c < 12.0


def test_a_pocket_gives_off_what_it_loses():
    plant = VacuumSystem(pocket_m3=1e-5, pocket_m3_s=1e-7, outgas_pa_m3=0.0, air_pa=10.0, rig=BARE)
    plant.advance(300, pumping=False)
    lost = (101_325 - plant.pocket_pa) * plant.pocket_m3
    assert (plant.air_pa - 10.0) * plant.volume_m3 == pytest.approx(lost, rel=1e-6)


def decayed(scenario, seed, pulled_s=1500, **how):
    plant = system(scenario, **how)
    gauge = MicronGauge(plant, seed)
    plant.advance(pulled_s, pumping=True)
    reached = plant.seen_pa
    plant.isolate()
    readings = []
    for i in range(181):
        readings.append({"t_s": i * 5.0, "pa": gauge.read_pa()})
        plant.advance(5, pumping=False)
    asked = {
        "readings": readings,
        "rule": {"max_pa": 500 * MICRON_PA, "hold_s": 900.0},
        "ambient_c": plant.ambient_c,
        "gauge_resolution_pa": MICRON_PA,
    }
    return reached, vacuum_decay(VacuumDecayRequest.model_validate(asked))


@pytest.mark.parametrize(
    ("scenario", "shapes", "verdicts"),
    [
        ("sound", ("steady", "outgassing"), ("holds",)),
        ("cold-night", ("steady", "outgassing"), ("holds",)),
        ("core", ("steady", "outgassing"), ("holds",)),
        ("hose", ("steady", "outgassing"), ("holds",)),
        ("wet", ("moisture", "undecided"), ("short",)),
        ("leaking", ("leak",), ("short",)),
        ("slow-leak", ("leak",), ("watch",)),
        ("frozen", ("ice", "moisture"), ("watch", "short")),
        ("passing", ("moisture", "outgassing", "undecided"), ("short", "watch")),
        ("pocket", ("undecided", "leak", "leak_and_moisture"), ("watch", "short")),
        ("oil", ("steady", "not_isolated", "outgassing"), ("short",)),
    ],
)
@pytest.mark.parametrize("seed", range(4))
def test_each_fault_is_told_by_its_decay(scenario, shapes, verdicts, seed):
    reached, told = decayed(scenario, seed)
    assert (reached < 300 * MICRON_PA) is (scenario != "oil")
    assert (told.result.shape in shapes, told.call.verdict.value in verdicts) == (True, True), told


def test_the_jobs_own_volume_and_rig_decide_how_fast_it_goes():
    small = system("sound", volume_m3=0.001, rig=Rig(0.0028, 2.0, (Hose(0.0127, 0.9),)))
    large = system("sound", volume_m3=0.02, rig=Rig(0.0028, 2.0, (Hose(0.00635, 1.8),)))
    for plant in (small, large):
        plant.advance(30, pumping=True)
    assert small.pressure_pa < 100 < 1000 < large.pressure_pa
    at_pump = system("at-pump")
    at_pump.advance(600, pumping=True)
    assert at_pump.seen_pa < at_pump.pressure_pa


def test_a_forgotten_valve_leaves_the_pump_on_it_and_a_night_takes_the_pressure_down():
    forgotten, night = system("open-valve", rig=BARE), system("cold-night", rig=BARE)
    for plant in (forgotten, night):
        plant.outgas_pa_m3 = 0.0
        plant.air_pa = 50.0
        plant.isolate()
    forgotten.advance(60, pumping=False)
    assert forgotten.pressure_pa < 1.0
    night.advance(6 * 3600, pumping=False)
    assert night.pressure_pa == pytest.approx(50.0 * 278.15 / 293.15, rel=1e-3)


def test_a_leak_and_water_of_a_size_come_on_top():
    plant = system("sound", sizes=Sizes(leak_pa_m3_s=5e-4, water_kg=0.002))
    assert (plant.leak_pa_m3_s, plant.water_kg) == (5e-4, 0.002)
    assert system("leaking", sizes=Sizes(leak_pa_m3_s=1e-2)).leak_pa_m3_s == 1e-2


def test_a_gauge_lags_by_its_time_constant_and_drops_out_now_and_then():
    plant = VacuumSystem(air_pa=100.0, outgas_pa_m3=0.0)
    gauge = MicronGauge(plant, noise_share=0.0, sensor=Sensor(lag_s=5.0))
    gauge.read_pa()
    plant.air_pa = 200.0
    assert gauge.read_pa(5.0) == pytest.approx(200 - 100 / math.e, abs=MICRON_PA)
    flaky = MicronGauge(plant, seed=2, sensor=Sensor(drops_each_s=100.0, dropped_s=10.0))
    read = [flaky.read_pa(1.0) for _ in range(2000)]
    lost = sum(r is None for r in read)
    assert 40 < lost < 400


def test_a_pump_with_wet_oil_gives_back_what_lies_under_its_own_pressure():
    plant = system("oil")
    plant.air_pa = 5.0
    plant.advance(300, pumping=True)
    assert plant.pressure_pa == pytest.approx(plant.rig.ultimate_pa, rel=0.05)
