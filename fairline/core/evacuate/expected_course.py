"""A pull beside the course that its rig would take on a dry, tight system, and what it looks like
where it lies off that course."""

from dataclasses import dataclass

import numpy as np

from fairline.core.calc.vacuum_decay import TRIPLE_PA
from fairline.core.evacuate.rig import RigResult
from fairline.core.physics.constants import ATMOSPHERE_PA, MINUTE_S
from fairline.core.physics.moist_air import saturation_pa
from fairline.core.physics.vacuum_flow import Floats, pull_course
from fairline.core.quantities import both, duration
from fairline.core.readings import VacuumRun

BAND = 2.0  # volume and speed are known to about a factor; our own choice
STUCK_SHARE = 0.05  # of its pressure a minute: below it a pull stands still; our own choice
SOUND_S = 5 * MINUTE_S  # a small, sound job takes as long with a good rig: common practice
FALLING_S = 20 * MINUTE_S  # and one that still falls is within what is usual: common practice
LOOK_BACK_S = 3 * MINUTE_S
NEAR_BOILING = (0.25, 1.15)  # of the saturation at the coldest tube


IN_PRACTICE = (  # common practice, no source: what a dry, tight calculation leaves out
    "In practice: a small dry system minutes, most 20 min to 2 h, a wet or large one 6 to 15 h."
)


@dataclass(frozen=True, eq=False)
class Expected:
    """The course of a dry, tight pull: seconds from its first reading, pressures in Pa."""

    t_s: Floats
    pa: Floats


@dataclass(frozen=True)
class OffCourse:
    """What a pull that is slower than its rig allows looks like, and what tells it apart."""

    looks: str
    tells: str


def expected_course(rig: RigResult, run: VacuumRun | None) -> Expected | None:
    """The dry, tight course from a pull's own first reading on; None without rig or readings."""
    read = run.readings.absolute() if run is not None else None
    if rig.answer is None or rig.volume_m3 is None or rig.drive is None or not read:
        return None
    first = min(float(read.pa[0]), ATMOSPHERE_PA)
    lowest = max(rig.drive.ultimate_pa * 1.02, 1.0)
    if first <= lowest:
        return None
    t, p = pull_course(rig.drive, rig.volume_m3, first)
    inside = p >= lowest
    return Expected(t[inside], p[inside])


def off_course(
    run: VacuumRun, expected: Expected | None, ambient_c: float, target_pa: float = 0.0
) -> OffCourse | None:
    """What it looks like where it takes over twice the time of a dry, tight one; None on course.

    Once the target is reached the decay tells more than the pull can: None.
    """
    read = run.readings.absolute()
    if expected is None or len(read) < 3:
        return None
    now, took = float(read.pa[-1]), float(read.t_s[-1] - read.t_s[0])
    if now <= max(target_pa, float(expected.pa[-1]) * 1.05):
        return None
    due = float(np.interp(-now, -expected.pa, expected.t_s))
    falls = _falls(read.t_s, read.pa)
    if took <= max(BAND * due, FALLING_S if falls else SOUND_S):
        return None
    late = (
        f"{both(now, 'vacuum')} after {duration(took)}; a dry, tight system takes {duration(due)}"
    )
    if falls:
        return OffCourse(
            f"{late}. It still falls: hose, core or oil slow it down, or water is going.",
            "Read the gauge at the pump for a moment: much lower there means the hose; the same "
            "means oil or water.",
        )
    boils = saturation_pa(ambient_c)
    if NEAR_BOILING[0] * boils <= now <= NEAR_BOILING[1] * boils and now > TRIPLE_PA:
        return OffCourse(
            f"{late}. It stands where water boils at {both(ambient_c, 'temperature')}.",
            "Shut the valve a few minutes: it rises and levels off if it is water, goes straight "
            "on if it is a leak.",
        )
    if now <= TRIPLE_PA:
        return OffCourse(
            f"{late}. It stands still below where water boils: frozen water, wet oil, or a small "
            "leak.",
            "Shut the valve a few minutes: level means the pump's oil or the hose, a slowing rise "
            "ice or water in oil, a straight one a leak. Feel for a cold spot.",
        )
    return OffCourse(
        f"{late}. It stands still far up: a leak, an open valve, or a hose that does not seal.",
        "Shut the valve at the pump: if the pump alone goes deep, look at hose and system.",
    )


def _falls(t: Floats, p: Floats) -> bool:
    """Whether it still falls by more than a share of itself a minute."""
    since = min(int(np.searchsorted(t, t[-1] - LOOK_BACK_S)), len(t) - 2)
    span = float(t[-1] - t[since]) / MINUTE_S
    if span <= 0:
        return True
    return float(np.log(p[since] / p[-1])) / span > STUCK_SHARE
