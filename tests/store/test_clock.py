"""Moments in order, whatever is done to the computer's clock."""

from datetime import UTC, datetime, timedelta

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fairline.store import clock

NOON = datetime(2026, 11, 2, 12, tzinfo=UTC)


class Computer:
    """A computer whose clock can be set, and whose even seconds cannot."""

    def __init__(self):
        self.wall, self.seconds = NOON, 100.0

    def passes(self, seconds):
        self.wall += timedelta(seconds=seconds)
        self.seconds += seconds

    def clock(self, not_before=None):
        return clock.Clock(lambda: self.wall, lambda: self.seconds, not_before)


@pytest.mark.parametrize("hours", [-24, -1, 1, 24 * 365])
def test_a_clock_that_is_set_is_not_followed_and_told(hours):
    computer = Computer()
    ours = computer.clock()
    computer.passes(60)
    computer.wall += timedelta(hours=hours)
    assert ours.now() == NOON + timedelta(minutes=1)
    computer.passes(60)
    assert ours.now() == NOON + timedelta(minutes=2)
    assert ours.step() == (timedelta(hours=hours), NOON + timedelta(minutes=1))
    computer.wall -= timedelta(hours=hours)  # set right again
    assert ours.now() == NOON + timedelta(minutes=2) and ours.step() is None


@pytest.mark.parametrize(
    ("step_s", "after_s", "told"), [(5.0, 65, False), (5.1, 60, True), (-5.1, 60, True)]
)
def test_a_step_of_five_seconds_is_followed(step_s, after_s, told):
    computer = Computer()
    ours = computer.clock()
    computer.passes(60)
    computer.wall += timedelta(seconds=step_s)
    assert ours.now() == NOON + timedelta(seconds=after_s)
    assert (ours.step() is not None) is told


def test_a_small_step_back_stands_still_until_it_is_caught_up():
    computer = Computer()
    ours = computer.clock()
    computer.passes(60)
    before = ours.now()
    computer.wall -= timedelta(seconds=4)
    assert ours.now() == before and ours.step() is None
    computer.passes(3)
    assert ours.now() == before
    computer.passes(2)
    assert ours.now() == before + timedelta(seconds=1)


@given(st.lists(st.tuples(st.floats(0, 600), st.floats(-7200, 7200)), min_size=1, max_size=20))
def test_moments_keep_their_order_and_no_while_grows(steps):
    """However often it is set: never back, and never further on than has passed and is small."""
    computer = Computer()
    ours, passed, last = computer.clock(), 0.0, NOON
    for seconds, step in steps:
        computer.passes(seconds)
        computer.wall += timedelta(seconds=step)
        passed += seconds
        now = ours.now()
        assert last <= now
        last = now
    small = len(steps) * clock.SMALL
    assert abs(last - NOON - timedelta(seconds=passed)) <= small


@pytest.mark.parametrize(("ahead_s", "begins"), [(4, NOON), (3600, NOON + timedelta(hours=1))])
def test_a_start_goes_on_from_the_last_moment_where_the_computer_is_behind_it(ahead_s, begins):
    ours = Computer().clock(NOON + timedelta(seconds=ahead_s))
    assert ours.now() == begins
    assert (ours.step() is None) is (ahead_s < 5)


def test_the_last_moment_is_kept_and_can_be_forgotten(database, monkeypatch):
    computer = Computer()
    monkeypatch.setattr(clock._Ours, "clock", computer.clock())
    with database.session() as session:
        clock.begin(session)  # nothing was done here yet
        assert clock.step() is None
        computer.passes(3600)
        clock.keep(session)
        computer.wall = NOON  # and the program is started again
        clock.use(computer.clock())
        clock.begin(session)
        assert clock.now() == NOON + timedelta(hours=1)
        assert clock.step()[0] == timedelta(hours=-1)
        assert clock.follow_computer(session) == NOON + timedelta(hours=1)
        clock.use(computer.clock())
        clock.begin(session)
        assert clock.now() == NOON and clock.step() is None
