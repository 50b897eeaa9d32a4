"""By needle: one side or both, the end where the altitude puts it, each step on its own clock."""

from datetime import UTC, datetime, timedelta

import pytest

from fairline.core.evacuate.needle import at_end, at_end_s, needle_hold, needle_steps, reached_at
from fairline.core.physics.constants import ATMOSPHERE_PA, INCH_MERCURY_PA
from fairline.core.practice import Rules
from fairline.core.readings import VacuumReading, VacuumReadings, VacuumRun
from fairline.demo.sheets import OSMUND_26

START = datetime(2026, 4, 1, 9, tzinfo=UTC)
RULES = Rules(outdoor=OSMUND_26.model_copy(update={"vacuum_gauge": "needle", "cites": {}}))
END = -101_000.0
MILE_PA = 83_437.0  # of the standard atmosphere at 1609 m (ICAO, from memory)


def run(kind, minute, *rows):
    """Rows of (s, Pa) or (s, Pa, side)."""
    readings = [
        VacuumReading(instrument="eye", seq=n, t_s=t, gauge_pa=pa, side=side[0] if side else None)
        for n, (t, pa, *side) in enumerate(rows)
    ]
    began = START + timedelta(minutes=minute)
    return VacuumRun(uid=kind, kind=kind, started_at=began, readings=VacuumReadings.of(readings))


def judged(*rows, pulled_s=900.0, atmosphere=ATMOSPHERE_PA):
    return needle_hold(run("decay", 30, *rows), RULES, pulled_s, atmosphere, True).call


@pytest.mark.parametrize(
    ("gas", "liquid", "verdict", "said"),
    [
        (0.0, 0.0, "holds", "on both sides"),
        (0.49, 0.0, "holds", "on both sides"),
        (0.51, 0.0, "short", "on the gas side moved"),
        (0.0, 0.51, "short", "on the liquid side moved"),
        (0.6, 2.0, "short", "on the liquid side moved"),  # the one that moved more
    ],
)
def test_either_side_that_moves_fails_the_hold(gas, liquid, verdict, said):
    rows = []
    for t, share in ((0, 0.0), (300, 1.0)):
        rows += [
            (t, END + share * gas * INCH_MERCURY_PA, "gas"),
            (t, END + share * liquid * INCH_MERCURY_PA, "liquid"),
        ]
    call = judged(*rows)
    assert (call.verdict, said in call.because) == (verdict, True)
    if verdict == "short":
        assert call.do_next.startswith("Prove hose and seal of the rig first")


def test_two_needles_that_differ_are_not_a_movement_and_the_worse_one_decides_the_end():
    sides = ("gas", "liquid")
    still = [(t, END + 1000 * (side == "gas"), side) for t in (0, 300) for side in sides]
    assert judged(*still).verdict == "holds"
    short = [(t, END + 3100 * (side == "gas"), side) for t in (0, 300) for side in sides]
    assert judged(*short).verdict == "wait"


def test_the_end_of_the_needle_lies_where_the_altitude_puts_it():
    assert at_end(-MILE_PA + INCH_MERCURY_PA * 0.99, MILE_PA)
    assert not at_end(-MILE_PA + INCH_MERCURY_PA * 1.01, MILE_PA)
    high = [(0, -83_000.0), (300, -83_000.0)]
    assert judged(*high, atmosphere=MILE_PA).verdict == "holds"
    assert judged(*high).verdict == "wait"


def test_the_pumps_time_counts_from_when_both_needles_stood_at_their_end():
    pull = run("pull", 0, (0, -50_000.0, "gas"), (60, END, "gas"), (60, -60_000.0, "liquid"))
    assert reached_at(pull, ATMOSPHERE_PA) is None
    pull = run("pull", 0, (60, END, "gas"), (240, END, "liquid"))
    assert reached_at(pull, ATMOSPHERE_PA) == START + timedelta(minutes=4)
    # By the clock until the valve was shut, or by the readings where they reach further.
    assert at_end_s(pull, START + timedelta(minutes=14), ATMOSPHERE_PA) == 600.0
    typed = run("pull", 0, (0, END), (720, END))
    assert at_end_s(typed, START + timedelta(seconds=30), ATMOSPHERE_PA) == 720.0
    rows = [(0, END), (300, END)]
    for ran, verdict in ((599.0, "watch"), (601.0, "holds"), (None, "watch")):
        assert judged(*rows, pulled_s=ran).verdict == verdict
    assert "nobody read how long" in judged(*rows, pulled_s=None).because


def test_each_step_is_done_in_turn_and_has_its_clock():
    def done(pull, hold, seen):
        steps = needle_steps(pull, hold, RULES, ATMOSPHERE_PA, seen)
        return [s.done for s in steps], [s.since for s in steps]

    pull = run("pull", 0, (120, END))
    assert done(None, None, False) == ([False] * 4, [None] * 4)
    began = START + timedelta(minutes=2)
    assert done(pull, None, False) == ([True, False, False, False], [None, began, None, None])
    hold = run("decay", 30, (0, END), (200, END))
    assert done(pull, hold, False)[0] == [True, True, False, False]
    steps, since = done(pull, hold, True)
    assert steps == [True, True, True, False] and since[3] == hold.started_at
    assert done(pull, run("decay", 30, (0, END), (300, END)), True)[0] == [True] * 4


def test_only_a_needle_sits_on_a_side():
    with pytest.raises(ValueError, match="only a needle"):
        VacuumReading(seq=0, t_s=0, pa=30.0, side="gas")
