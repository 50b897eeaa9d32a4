"""A pull beside the course of a dry, tight one, and what it looks like off that course."""

import math

import numpy as np
import pytest

from fairline.core.evacuate.expected_course import expected_course, off_course
from fairline.core.evacuate.rig import HoseRow, RigEntry, rig_result
from fairline.core.physics.constants import MICRON_PA
from fairline.core.physics.moist_air import saturation_pa
from fairline.core.physics.vacuum_flow import Hose, Rig, pull_course, pull_s
from tests.core.evacuate.test_evacuate_sequence import run

CFM = 0.3048**3 / 60
RIG = RigEntry(pump_m3_s=6 * CFM, ultimate_pa=2.0, hoses=(HoseRow(bore_m=0.0095, length_m=1.5),))
WORKED = rig_result(RIG, 0.004, 300 * MICRON_PA, 20.0)


def test_the_course_takes_as_long_as_the_pull_is_predicted_to():
    rig = Rig(6 * CFM, 2.0, (Hose(0.0095, 1.5),))
    t, p = pull_course(rig, 0.004, 101_325.0)
    for target in (5000.0, 200.0, 40.0, 5.0):
        at = float(np.interp(-target, -p, t))
        assert at == pytest.approx(pull_s(rig, 0.004, 101_325.0, target, 0.0), rel=0.01)


def due_s(level_pa):
    course = expected_course(WORKED, run("pull", 0, [400_000, level_pa / MICRON_PA]))
    return float(np.interp(-level_pa, -course.pa, course.t_s))


def stuck(level_pa, minutes=30):
    """Down to a level in a minute, and there it stays."""
    return run("pull", 0, [400_000, *[level_pa / MICRON_PA] * minutes])


def looks(pull, ambient_c=20.0):
    return off_course(pull, expected_course(WORKED, pull), ambient_c)


BOILS = saturation_pa(20.0)


@pytest.mark.parametrize(
    ("level_pa", "told"),
    [
        (BOILS * 1.10, "where water boils"),
        (BOILS * 1.20, "far up"),
        (BOILS * 0.30, "where water boils"),
        (620.0, "where water boils"),
        (600.0, "frozen water, wet oil, or a small leak"),
        (60.0, "frozen water, wet oil, or a small leak"),
        (20_000.0, "far up"),
    ],
)
def test_a_pull_that_stands_still_is_told_by_its_level(level_pa, told):
    assert told in looks(stuck(level_pa)).looks


@pytest.mark.parametrize(("factor", "off"), [(2 * 0.98, False), (2 * 1.02, True)])
def test_a_pull_is_off_its_course_at_twice_the_time(factor, off):
    """A big system that falls all the while, so that a minute is not what decides."""
    big = rig_result(RIG, 0.4, 300 * MICRON_PA, 20.0)
    pull = run("pull", 0, [760_000, 400])
    due = float(
        np.interp(-400 * MICRON_PA, -expected_course(big, pull).pa, expected_course(big, pull).t_s)
    )
    slow = run("pull", 0, [760_000, 9000, 400], every_s=due * factor / 2)
    found = off_course(slow, expected_course(big, slow), 20.0)
    assert (found is not None) is off
    if off:
        assert "It still falls" in found.looks


@pytest.mark.parametrize(
    ("levels", "every_s", "said"),
    [
        ([12_000] * 10, 29.0, None),  # 4:50: a small, sound job may take five minutes
        ([12_000] * 10, 31.0, "It stands"),
        # falling by 6 % a minute it has twenty minutes, by 4 % it stands
        ([40_000 * math.exp(-0.06 * n) for n in range(20)], 59.0, None),
        ([40_000 * math.exp(-0.06 * n) for n in range(20)], 61.0, "It still falls"),
        ([40_000 * math.exp(-0.052 * n) for n in range(10)], 60.0, None),
        ([40_000 * math.exp(-0.048 * n) for n in range(10)], 60.0, "It stands"),
        # only the last three minutes tell whether it falls
        ([60_000] * 10 + [12_000] * 5, 33.0, None),
        ([60_000] * 10 + [12_000] * 6, 33.0, "It stands"),
    ],
)
def test_how_long_a_pull_may_take_before_anything_is_said(levels, every_s, said):
    found = looks(run("pull", 0, [400_000, *levels], every_s=every_s))
    assert said in found.looks if said else found is None


def test_nothing_is_said_without_a_rig_and_near_the_pumps_own_end():
    assert expected_course(rig_result(RigEntry(), 0.004, 40.0, 20.0), stuck(600.0)) is None
    assert looks(stuck(2.05)) is None
    assert looks(run("pull", 0, [400_000, 9000])) is None  # two readings tell nothing yet
    assert due_s(600.0) < 60.0
