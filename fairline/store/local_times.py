"""Local times of a log as moments: in the job's zone, unfolded by their order.

On the night on which summer time begins some local times are none; on the one on which it ends an
hour stands twice. A log that goes back once in that hour tells the two apart, and one that came
into it and ended there was in it for the first time. Else it is asked.
"""

from collections.abc import Sequence
from datetime import UTC, datetime, timedelta, tzinfo
from itertools import pairwise

from fairline.core.entry import aware
from fairline.core.errors import FairLineError

HOUR = timedelta(hours=1)


class LocalTimeError(FairLineError, ValueError):
    """A local time that is none, or that stands twice and nothing tells which; ``at``: its row."""

    def __init__(self, at: int, told: str) -> None:
        super().__init__(told)
        self.at = at


def moments(times: Sequence[datetime], zone: tzinfo | None) -> list[datetime]:
    """Times of a log as moments; those that name no zone are local. Raises LocalTimeError.

    >>> from zoneinfo import ZoneInfo
    >>> night = [datetime(2026, 10, 25, 2, 50), datetime(2026, 10, 25, 2, 5)]  # it goes back
    >>> a, b = moments(night, ZoneInfo("Europe/Berlin"))
    >>> (b - a).total_seconds() / 60
    15.0
    """
    for at, time in enumerate(times):
        try:
            aware(time.replace(tzinfo=time.tzinfo or UTC))
        except ValueError as error:
            raise LocalTimeError(at, str(error)) from None
    if zone is None or all(time.tzinfo is not None for time in times):
        return [aware(time) for time in times]
    local = [time if time.tzinfo is not None else time.replace(tzinfo=zone) for time in times]
    second = _second_pass(times, [time.tzinfo is zone and _stands_twice(time) for time in local])
    found = []
    for at, time in enumerate(local):
        moment = time.replace(fold=int(at >= second)).astimezone(UTC)
        if time.tzinfo is zone and moment.astimezone(zone).replace(tzinfo=None) != times[at]:
            raise LocalTimeError(at, f"there was no {time:%H:%M} that night: summer time began")
        found.append(moment)
    return found


def _stands_twice(local: datetime) -> bool:
    """Whether the clocks were put back over this local time."""
    first, second = local.replace(fold=0), local.replace(fold=1)
    return first.astimezone(UTC) < second.astimezone(UTC)


def _second_pass(times: Sequence[datetime], twice: Sequence[bool]) -> int:
    """The row from which on an hour that stands twice is meant for the second time."""
    if not any(twice):
        return len(times)
    back = [
        n for n in range(1, len(times)) if twice[n] and twice[n - 1] and times[n] < times[n - 1]
    ]
    if len(back) == 1:
        return back[0]
    if not back and not twice[0] and twice[-1] and _often(times):
        return len(times)
    at = twice.index(True)
    raise LocalTimeError(
        at,
        f"{times[at]:%H:%M} stands twice that night, when summer time ended: give the times with "
        "their offset, as in 2026-10-25T02:30+01:00",
    )


def _often(times: Sequence[datetime]) -> bool:
    """Whether a log is read so often that none of its readings could lie an hour later unseen."""
    return all(b - a < HOUR for a, b in pairwise(times))
