"""Decays from physics that is not the fitter's own, for the tests and the bench.

Each is integrated or closed-form from what happens in the tube (a hole, water, ice, gas behind a
narrow way, a pump that is still there), then read by a gauge with its noise, its steps, its lag.
Pressures in microns, times in s. Saturation over ice is the Murphy and Koop (2005) formula,
quoted from memory; over water that of Bolton (1980), quoted from memory: neither is the core's.
"""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
Generator = np.random.Generator

MICRON_PA = 101_325 / 760_000
LIMIT = 500.0


@dataclass(frozen=True)
class Decay:
    """One decay: what the gauge showed, and what was true until the end of the next hold."""

    t_s: Floats
    microns: Floats
    hold_s: float
    ambient_c: float
    confirmed: bool
    resolution: float | None
    true_max: float  # highest of the true course until the end of the next hold
    dry: bool  # dry and tight: ought to hold


def over_ice(celsius: Floats | float) -> Floats:
    """Vapour pressure of ice in microns."""
    k = np.asarray(celsius) + 273.15
    pa = np.exp(9.550426 - 5723.265 / k + 3.53068 * np.log(k) - 0.00728332 * k)
    return np.asarray(pa / MICRON_PA)


def over_water(celsius: float) -> float:
    """Vapour pressure of water in microns."""
    return float(611.2 * np.exp(17.67 * celsius / (celsius + 243.5)) / MICRON_PA)


def _integrated(t: Floats, start: float, slope: Callable[[float, float], float]) -> Floats:
    """p' = slope(t, p) by Heun's method on the times asked."""
    p = np.empty(len(t))
    p[0] = start
    for i in range(1, len(t)):
        h = (t[i] - t[i - 1]) / 4
        at, value = t[i - 1], p[i - 1]
        for _ in range(4):
            a = slope(at, value)
            b = slope(at + h, value + h * a)
            value, at = value + h * (a + b) / 2, at + h
        p[i] = value
    return p


def _outgassing(t: Floats, rng: Generator, most: float) -> Floats:
    """Gas given off by walls and oil: a rate that falls as about 1/t (handbooks of vacuum)."""
    t0, alpha = rng.uniform(20, 200), rng.uniform(0.9, 1.2)
    rate = (t0 / (t + t0)) ** alpha
    total = np.concatenate([[0.0], np.cumsum((rate[1:] + rate[:-1]) / 2 * np.diff(t))])
    return np.asarray(total / total[-1] * rng.uniform(0.2, 1.0) * most)


def steady(t: Floats, hold: float, rng: Generator) -> Floats:
    return np.full(len(t), rng.uniform(60, 380))


def settling(t: Floats, hold: float, rng: Generator) -> Floats:
    return rng.uniform(60, 330) + rng.uniform(2, 80) * (
        1 - np.exp(-t / rng.uniform(2, 0.06 * hold))
    )


def outgassing(t: Floats, hold: float, rng: Generator) -> Floats:
    return rng.uniform(60, 250) + _outgassing(t, rng, 60)


def leak(t: Floats, hold: float, rng: Generator) -> Floats:
    return rng.uniform(60, 380) + np.exp(rng.uniform(np.log(500), np.log(20_000))) * t / hold


def slow_leak(t: Floats, hold: float, rng: Generator) -> Floats:
    """Needs two to five holds, counted from closing, to cross."""
    start = rng.uniform(60, 380)
    return start + (LIMIT - start) / rng.uniform(2, 5) * t / hold


def leak_and_outgassing(t: Floats, hold: float, rng: Generator) -> Floats:
    start = rng.uniform(60, 300)
    return start + _outgassing(t, rng, 80) + (LIMIT - start) / rng.uniform(0.5, 2) * t / hold


def water(t: Floats, hold: float, rng: Generator) -> Floats:
    start, plateau = rng.uniform(60, 380), over_water(20.0) * rng.uniform(0.3, 1.0)
    tau = hold * np.exp(rng.uniform(np.log(0.05), np.log(20)))
    return _integrated(t, start, lambda _, p: (plateau - p) / tau)


def water_nearly_gone(t: Floats, hold: float, rng: Generator) -> Floats:
    """Boils until there is none left: a plateau far below saturation, often over the limit."""
    start, gone = rng.uniform(60, 350), rng.uniform(420, 3000)
    tau = hold * rng.uniform(0.1, 1.5)
    return start + (gone - start) * (1 - np.exp(-t / tau))


def ice(t: Floats, hold: float, rng: Generator) -> Floats:
    """Frozen water in a tube whose temperature drifts; the gauge follows its vapour."""
    first = rng.uniform(-27, -18)
    celsius = first + rng.uniform(-1, 4) * t / hold
    return np.asarray(over_ice(celsius) * (1 - 0.5 * np.exp(-t / rng.uniform(5, 60))))


def fast_pocket(t: Floats, hold: float, rng: Generator) -> Floats:
    return rng.uniform(60, 250) + rng.uniform(10, 120) * (
        1 - np.exp(-t / (hold * rng.uniform(0.02, 0.15)))
    )


def slow_pocket(t: Floats, hold: float, rng: Generator) -> Floats:
    """Gas behind a narrow way comes out over holds: some end over the limit."""
    start = rng.uniform(60, 350)
    return start + rng.uniform(40, 900) * (1 - np.exp(-t / (hold * rng.uniform(0.5, 4))))


def pump_falling(t: Floats, hold: float, rng: Generator) -> Floats:
    start = rng.uniform(150, 450)
    end = start * rng.uniform(0.2, 0.85)
    return end + (start - end) * np.exp(-t / (hold * rng.uniform(0.3, 2)))


def valve_passing(t: Floats, hold: float, rng: Generator) -> Floats:
    """Closed, but the pump still draws through the valve: a little leak is drawn away again."""
    start, balance = rng.uniform(200, 400), rng.uniform(100, 180)
    return balance + (start - balance) * np.exp(-t / (hold * rng.uniform(0.3, 1.5)))


def drifting(t: Floats, hold: float, rng: Generator) -> Floats:
    """Dry and tight while the day warms or cools it: p follows T."""
    kelvin = rng.uniform(-4, 4) * np.sin(t / hold * rng.uniform(0.5, 2) + rng.uniform(0, 6))
    return rng.uniform(60, 380) * (1 + kelvin / 293)


def _coldest(microns: float) -> float:
    """The temperature at which ice gives this pressure."""
    celsius = np.linspace(-40, 0, 401)
    return float(np.interp(microns, over_ice(celsius), celsius))


KINDS: dict[str, Callable[[Floats, float, Generator], Floats]] = {
    "steady": steady,
    "settling": settling,
    "outgassing": outgassing,
    "drifting temperature": drifting,
    "a spike that decays": steady,
    "a sensor's step": steady,
    "gauge steps of 5, told": steady,
    "gauge steps of 5, not told": steady,
    "gauge steps of 25, told": steady,
    "gauge steps of 25, not told": steady,
    "a lagging gauge": settling,
    "inner pocket, fast": fast_pocket,
    "inner pocket, slow": slow_pocket,
    "leak": leak,
    "leak, two to five holds": slow_leak,
    "leak with outgassing": leak_and_outgassing,
    "boiling water": water,
    "water nearly gone": water_nearly_gone,
    "ice": ice,
    "pump connected, level, not confirmed": steady,
    "pump connected, falling": pump_falling,
    "valve passing to the pump": valve_passing,
}
DRY = (
    "steady",
    "settling",
    "outgassing",
    "drifting temperature",
    "a spike that decays",
    "a sensor's step",
    "gauge steps of 5, told",
    "gauge steps of 5, not told",
    "gauge steps of 25, told",
    "gauge steps of 25, not told",
    "a lagging gauge",
    "inner pocket, fast",
)
NEVER = (  # whatever the level, no careful person says that this holds
    "leak, two to five holds",
    "pump connected, level, not confirmed",
    "pump connected, falling",
    "valve passing to the pump",
    "ice",
)


def decay(kind: str, rng: Generator) -> Decay:
    """A random decay of one kind, read by a gauge for one hold."""
    hold = float(rng.choice([300, 600, 1800]))
    every = float(rng.choice([1, 2, 5, 10]))
    course_t = np.arange(0, 2 * hold + every / 2, every)
    true = KINDS[kind](course_t, hold, rng)
    here = course_t <= hold + 1e-9
    t, shown = course_t[here], true[here].copy()
    if kind == "a lagging gauge":
        lag = rng.uniform(3, 20)
        first = shown[0] * rng.uniform(0.7, 1.0)
        for i in range(len(shown)):
            first += (shown[i] - first) * (1 - np.exp(-every / lag))
            shown[i] = first
    shown = shown * (1 + rng.normal(0, rng.uniform(0, 0.012), len(t)))
    shown += rng.normal(0, rng.uniform(0.2, 2), len(t))
    if kind == "a spike that decays":
        at, size = rng.uniform(0, 0.8) * hold, rng.uniform(20, 110)
        tail = np.exp(-np.maximum(t - at, 0) / rng.uniform(3, 0.08 * hold))
        shown += np.where(t >= at, size * tail, 0.0)
    if kind == "a sensor's step":
        shown += np.where(t >= rng.uniform(0.1, 0.9) * hold, rng.uniform(-25, 40), 0.0)
    step = 1.0
    if kind.startswith("gauge steps"):
        step = float(kind.split()[3].rstrip(","))
    shown = np.maximum(np.round(shown / step) * step, 0.0)
    dry = kind in DRY and float(np.max(true)) <= 0.9 * LIMIT
    return Decay(
        t_s=t,
        microns=shown,
        hold_s=hold,
        ambient_c=_coldest(float(true[len(t) - 1])) if kind == "ice" else 20.0,
        confirmed="not confirmed" not in kind,
        resolution=None if "not told" in kind else step,
        true_max=float(np.max(true)),
        dry=dry,
    )
