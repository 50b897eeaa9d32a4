"""Decays told apart on random ones, and the calls on what passed in the trade."""

import numpy as np
import pytest

from fairline.core.calc.vacuum_decay import VacuumDecayRequest, vacuum_decay
from fairline.core.calc.zone_capacity import saturation_pa

MICRON = 133.322368 / 1000


def ask(times, microns, hold_s=600, limit=500, **more):
    return vacuum_decay(
        VacuumDecayRequest.model_validate(
            {
                "readings": [
                    {"t_s": float(t), "pa": float(u) * MICRON}
                    for t, u in zip(times, microns, strict=True)
                ],
                "rule": {"max_pa": limit * MICRON, "hold_s": hold_s},
                "ambient_c": 20.0,
                "gauge_resolution_pa": MICRON,
            }
            | more
        )
    )


def random_decay(kind, rng):
    """A decay of one kind with its gauge's noise, in microns; hold and sampling vary too."""
    hold = float(rng.choice([300, 600, 900, 1800]))
    t = np.arange(0, hold + 0.1, float(rng.choice([1, 2, 5, 10])))
    start = rng.uniform(60, 380)
    rise = {
        "leak": lambda: np.exp(rng.uniform(np.log(60), np.log(20_000))) * t / hold,
        "moisture": lambda: (
            np.exp(rng.uniform(np.log(500), np.log(15_000)))
            * (1 - np.exp(-t / (hold * rng.uniform(0.1, 0.8))))
        ),
        "settling": lambda: rng.uniform(2, 90) * (1 - np.exp(-t / rng.uniform(2, 0.1 * hold))),
        "noise": lambda: 0 * t,
        "not_isolated": lambda: -start * rng.uniform(0.1, 0.7) * t / hold,
    }[kind]()
    p = start + rise
    p = p * (1 + rng.normal(0, rng.uniform(0, 0.02), len(t)))
    p += rng.normal(0, rng.uniform(0.3, 3), len(t))
    return t, np.maximum(np.round(p) if rng.random() < 0.5 else p, 0), hold


@pytest.mark.parametrize(
    ("kind", "shape"),
    [
        ("leak", "leak"),
        ("moisture", "moisture"),
        ("settling", "steady"),
        ("noise", "steady"),
        ("not_isolated", "not_isolated"),
    ],
)
def test_shapes_are_told_apart_at_least_95_times_in_100(kind, shape):
    rng = np.random.default_rng(20)
    told = [
        ask(t, u, hold).result.shape for t, u, hold in (random_decay(kind, rng) for _ in range(100))
    ]
    assert told.count(shape) >= 95, {s: told.count(s) for s in set(told)}


def test_a_leak_beside_water_and_a_gauge_that_stands_still():
    t = np.arange(0, 901, 5)
    rng = np.random.default_rng(3)
    both = 200 + 2500 * (1 - np.exp(-t / 150)) + 2 * t + rng.normal(0, 2, len(t))
    assert ask(t, both, 900).result.shape == "leak_and_moisture"
    flat = ask(t, np.full(len(t), 180.0), 900)
    assert flat.result.shape == "not_isolated"
    assert flat.call.verdict != "holds"


@pytest.mark.parametrize(  # readings that passed on jobs: common practice, no published source
    ("start", "end", "minutes"), [(97, 109, 3), (180, 200, 5)]
)
def test_readings_that_passed_on_jobs_hold(start, end, minutes):
    t = np.arange(0, minutes * 60 + 1, 10)
    rng = np.random.default_rng(5)
    u = start + (end - start) * t / t[-1] + rng.normal(0, 0.7, len(t))
    answer = ask(t, np.round(u), minutes * 60)
    assert (answer.call.verdict, answer.result.shape) == ("holds", "steady")


def test_calls_over_time():
    rng = np.random.default_rng(9)

    def noisy(u):
        return u + rng.normal(0, 1, len(u))

    t = np.arange(0, 301, 5)
    assert ask(t, noisy(200 + 0 * t)).call.verdict == "wait"
    long = np.arange(0, 601, 5)
    assert ask(long, noisy(200 + 0 * long)).call.verdict == "holds"
    crossing = ask(long, noisy(200 + 0.45 * long))
    assert (crossing.call.verdict, crossing.result.shape) == ("watch", "leak")
    assert ask(long, noisy(200 + 2.0 * long)).call.verdict == "short"
    spike = 200 + 400.0 * (long == 5) + noisy(0 * long)
    assert ask(long, spike).result.passes  # trapped gas at closing is set aside
    assert not ask(long, 200 + 400.0 * (long == 300) + noisy(0 * long)).result.passes
    few = ask([0, 300, 600], [200, 205, 210])
    assert (few.result.shape, few.call.verdict) == ("undecided", "holds")


def test_leak_rate_from_volume_and_plateau():
    t = np.arange(0, 601, 5)
    rng = np.random.default_rng(2)
    leak = ask(t, 100 + 3 * t + rng.normal(0, 2, len(t)), volume_m3=0.003).result
    assert leak.rate_pa_s == pytest.approx(3 * MICRON, rel=0.02)
    assert leak.leak_pa_m3_s == pytest.approx(3 * MICRON * 0.003, rel=0.02)
    water = ask(t, 200 + 3300 * (1 - np.exp(-t / 180)) + rng.normal(0, 5, len(t))).result
    assert water.plateau_pa == pytest.approx(3500 * MICRON, rel=0.02)


@pytest.mark.parametrize(  # ASHRAE Handbook—Fundamentals ch. 1, quoted from memory; °F, microns
    ("fahrenheit", "microns", "off"),
    [(72, 20_100, 60), (32.018, 4_580, 8), (0, 957, 4), (-12, 502, 3)],
)
def test_water_boils_and_ice_gives_vapour(fahrenheit, microns, off):
    assert saturation_pa((fahrenheit - 32) / 1.8) / MICRON == pytest.approx(microns, abs=off)
