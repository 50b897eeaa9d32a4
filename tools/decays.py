"""Decays from physics that is not the fitter's own, for the tests and the bench.

What happens in a system (a hole, water that cools as it boils, gas behind a narrow way, walls that
give off gas, a pump that is still there) is integrated by SciPy on a volume, or taken from the
simulated system; then a gauge reads it with its noise, its steps, its lag. Pressures in microns,
times in s. Saturation over ice is the Murphy and Koop (2005) formula, over water Bolton's (1980),
both quoted from memory: neither is the core's.
"""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.integrate import solve_ivp

from fairline.instruments.vacuum import FREE_M3_S, VacuumSystem

Floats = NDArray[np.float64]
Generator = np.random.Generator

MICRON_PA = 101_325 / 760_000
ATMOSPHERE = 760_000.0
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


def integrated(t: Floats, start: float, slope: Callable[[float, float], float]) -> Floats:
    """p' = slope(t, p) on the times asked, by SciPy's LSODA."""
    found = solve_ivp(
        lambda at, p: [slope(at, float(p[0]))],
        (float(t[0]), float(t[-1])),
        [start],
        method="LSODA",
        t_eval=t,
        rtol=1e-7,
        atol=1e-5,
    )
    return np.asarray(found.y[0])


def plant(t: Floats, rng: Generator, start: float, **parts: float) -> Floats:
    """The simulated system shut at a pressure, with what is wrong with it."""
    system = VacuumSystem(
        volume_m3=rng.uniform(0.001, 0.012), air_pa=start * MICRON_PA, outgas_pa_m3=0.0
    )
    for name, value in parts.items():
        setattr(system, name, value)
    system.pumped_s = rng.uniform(300, 3000)
    system.isolate()
    found = [system.pressure_pa]
    for step in np.diff(t):
        system.advance(float(step), pumping=False)
        found.append(system.pressure_pa)
    return np.array(found) / MICRON_PA


def viscous_pocket(t: Floats, start: float, most: float, tau_s: float) -> Floats:
    """Gas behind a screw: its way is viscous, so that it goes with the pressures' squares.

    ``most`` is what all of it would add; a hundredth of the volume holds it, at a hundred times.
    """
    first = start + 100 * most

    def slope(_: float, p: float) -> float:
        inside = start + 100 * (start + most - p)
        return max(inside**2 - p**2, 0.0) / first**2 * most / tau_s

    return integrated(t, start, slope)


def given_off(t: Floats, rng: Generator, most: float) -> Floats:
    """Gas given off by walls and oil: a rate that falls as about 1/t (handbooks of vacuum)."""
    t0, alpha = rng.uniform(20, 200), rng.uniform(0.9, 1.2)
    rate = (t0 / (t + t0)) ** alpha
    total = np.concatenate([[0.0], np.cumsum((rate[1:] + rate[:-1]) / 2 * np.diff(t))])
    return np.asarray(total / total[-1] * rng.uniform(0.2, 1.0) * most)


def steady(t: Floats, hold: float, rng: Generator) -> Floats:
    return np.full(len(t), rng.uniform(60, 380))


def settling(t: Floats, hold: float, rng: Generator) -> Floats:
    """Gas that was trapped at the valve spreads: a viscous way, over within a tenth of the hold."""
    return viscous_pocket(t, rng.uniform(60, 330), rng.uniform(2, 80), rng.uniform(2, 0.03 * hold))


def outgassing(t: Floats, hold: float, rng: Generator) -> Floats:
    return rng.uniform(60, 250) + given_off(t, rng, 60)


def leak(t: Floats, hold: float, rng: Generator) -> Floats:
    """A hole: it slows as p₁² − p₂², and not before the atmosphere is near."""
    rate = np.exp(rng.uniform(np.log(500), np.log(60_000))) / hold
    return integrated(
        t, rng.uniform(60, 380), lambda _, p: rate * max(0.0, 1 - (p / ATMOSPHERE) ** 2)
    )


def slow_leak(t: Floats, hold: float, rng: Generator) -> Floats:
    """Needs two to five holds, counted from closing, to cross."""
    start = rng.uniform(60, 380)
    return start + (LIMIT - start) / rng.uniform(2, 5) * t / hold


def leak_and_outgassing(t: Floats, hold: float, rng: Generator) -> Floats:
    start = rng.uniform(60, 300)
    return start + given_off(t, rng, 80) + (LIMIT - start) / rng.uniform(0.5, 2) * t / hold


def water(t: Floats, hold: float, rng: Generator) -> Floats:
    """Water in a tube or under oil: it boils, cools, and is warmed again."""
    return plant(
        t,
        rng,
        rng.uniform(60, 380),
        water_kg=np.exp(rng.uniform(np.log(5e-4), np.log(2e-2))),
        boil_m3_s=np.exp(rng.uniform(np.log(3e-6), np.log(FREE_M3_S))),
    )


def water_nearly_gone(t: Floats, hold: float, rng: Generator) -> Floats:
    """Drops that shrink as they boil, by their surface, until there are none: m' = −k·m^⅔.

    They end at a level far below saturation, often over the limit.
    """
    start, gone = rng.uniform(60, 350), rng.uniform(420, 3000)
    left = np.clip(1 - t / (hold * rng.uniform(0.2, 1.2)), 0, 1)
    return np.asarray(start + (gone - start) * (1 - left**3))


def ice(t: Floats, hold: float, rng: Generator) -> Floats:
    """Frozen water in a tube whose temperature drifts; the gauge follows its vapour."""
    first = rng.uniform(-27, -18)
    celsius = first + rng.uniform(-1, 4) * t / hold
    return np.asarray(over_ice(celsius) * (1 - 0.5 * np.exp(-t / rng.uniform(5, 60))))


def fast_pocket(t: Floats, hold: float, rng: Generator) -> Floats:
    tau = hold * rng.uniform(0.01, 0.08)
    return viscous_pocket(t, rng.uniform(60, 250), rng.uniform(10, 120), tau)


def slow_pocket(t: Floats, hold: float, rng: Generator) -> Floats:
    """Gas behind a narrow way comes out over holds: some end over the limit."""
    tau = hold * rng.uniform(0.3, 3)
    return viscous_pocket(t, rng.uniform(60, 350), rng.uniform(40, 900), tau)


def pump_falling(t: Floats, hold: float, rng: Generator) -> Floats:
    """The pump draws on through a long hose: the speed falls with the pressure."""
    start = rng.uniform(150, 450)
    end = start * rng.uniform(0.2, 0.85)
    tau = hold * rng.uniform(0.3, 2)
    return integrated(t, start, lambda _, p: -(p - end) * (0.5 + 0.5 * p / start) / tau)


def pump_noisy(t: Floats, hold: float, rng: Generator) -> Floats:
    """The pump's own unrest: a level that wanders by some hundredths, drawn back in a minute."""
    level, share, lasts = rng.uniform(60, 380), rng.uniform(0.005, 0.03), rng.uniform(5, 60)
    keep = float(np.exp(-(t[1] - t[0]) / lasts))
    walk = np.zeros(len(t))
    for n in range(1, len(t)):
        walk[n] = keep * walk[n - 1] + rng.normal(0, share * np.sqrt(1 - keep**2))
    return level * (1 + walk)


def valve_passing(t: Floats, hold: float, rng: Generator) -> Floats:
    """Closed, but the pump still draws through the valve: a little leak is drawn away again."""
    start, balance = rng.uniform(200, 400), rng.uniform(100, 180)
    tau = hold * rng.uniform(0.3, 1.5)
    return integrated(t, start, lambda _, p: -(p**2 - balance**2) / (2 * balance) / tau)


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
    "gauge steps of 1, not told": steady,
    "gauge steps of 5, told": steady,
    "gauge steps of 5, not told": steady,
    "gauge steps of 25, told": steady,
    "gauge steps of 25, not told": steady,
    "a lagging gauge": settling,
    "inner pocket, fast": fast_pocket,
    "inner pocket, slow": slow_pocket,
    "leak": leak,
    "leak, steps of 25, not told": leak,
    "leak, two to five holds": slow_leak,
    "leak with outgassing": leak_and_outgassing,
    "boiling water": water,
    "water nearly gone": water_nearly_gone,
    "ice": ice,
    "pump connected, level, not confirmed": steady,
    "pump connected, noisy, not confirmed": pump_noisy,
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
    "gauge steps of 1, not told",
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
    "pump connected, noisy, not confirmed",
    "pump connected, falling",
    "valve passing to the pump",
    "ice",
)
GIVES_OFF = {"outgassing", "moisture"}  # a rise that slows: a pocket, walls, water below 611 Pa
LEAKS = {"leak", "leak_and_moisture"}
RIGHT: dict[str, set[str]] = {  # what may be called a decay of a kind; ``undecided`` always may
    **{kind: {"steady"} for kind in DRY},
    "settling": {"steady"} | GIVES_OFF,
    "a lagging gauge": {"steady"} | GIVES_OFF,
    "outgassing": {"steady"} | GIVES_OFF,
    "inner pocket, fast": {"steady"} | GIVES_OFF,
    "inner pocket, slow": GIVES_OFF,
    "leak": LEAKS,
    "leak, steps of 25, not told": LEAKS,
    "leak, two to five holds": LEAKS,
    "leak with outgassing": LEAKS,
    "boiling water": {"moisture"},
    "water nearly gone": GIVES_OFF,
    "ice": {"ice"},
    "pump connected, level, not confirmed": {"not_isolated"},
    "pump connected, noisy, not confirmed": {"not_isolated"},
    "pump connected, falling": {"not_isolated"},
    "valve passing to the pump": {"not_isolated"},
}


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
    step = float(kind.split("steps of ")[1].split(",")[0]) if "steps of" in kind else 1.0
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
