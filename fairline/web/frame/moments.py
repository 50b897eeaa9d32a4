"""Moments as a person reads them: in the company's time zone, which is named."""

import re
import time
from contextvars import ContextVar
from datetime import date, datetime, timedelta
from zoneinfo import ZoneInfo

from fairline.core.quantities import duration
from fairline.store import clock
from fairline.store.house import zone_named

# The zone of the request that a thread answers; none: this machine's own.
_ZONE: ContextVar[ZoneInfo | None] = ContextVar("zone", default=None)


def use_zone(name: str) -> None:
    """From here on this request's moments are shown in a zone; blank for the machine's own."""
    _ZONE.set(zone_named(name))


def moment(at: datetime) -> str:
    """A moment in the zone at hand, which a page names once; in an hour that comes twice, always.

    >>> from datetime import UTC
    >>> in_zone("Europe/Berlin")
    >>> [moment(datetime(2026, 10, 25, h, 30, tzinfo=UTC)) for h in (0, 1, 2)]
    ['2026-10-25 02:30 CEST', '2026-10-25 02:30 CET', '2026-10-25 03:30']
    >>> in_zone("America/Chicago"); moment(datetime(1, 1, 1, tzinfo=UTC)).split()[1:]
    ['00:00', 'UTC']
    >>> in_zone("")
    """
    try:
        here = at.astimezone(_ZONE.get())
    except (OverflowError, ValueError):  # the first or the last day of all: of no zone but UTC
        return at.strftime("%Y-%m-%d %H:%M UTC")
    other = here.replace(fold=1 - here.fold)
    twice = other.utcoffset() != here.utcoffset() and _ZONE.get() is not None
    return here.strftime("%Y-%m-%d %H:%M %Z" if twice else "%Y-%m-%d %H:%M")


def here(at: datetime) -> datetime:
    """A moment in the zone at hand."""
    return at.astimezone(_ZONE.get())


def day(at: datetime) -> date:
    """The day that a moment is on, in the zone at hand."""
    return at.astimezone(_ZONE.get()).date()


def zone_words() -> str:
    """Which zone moments are shown in, in a sentence."""
    zone = _ZONE.get()
    if zone is None:
        return f"Times are those of the computer that Fair Line runs on ({time.tzname[0]})."
    place = zone.key.rpartition("/")[2].replace("_", " ")
    return "Times are UTC." if place == "UTC" else f"Times are {place} time."


def clock_warning() -> str:
    """What is told where the computer's clock was set; blank where it goes as it should."""
    step = clock.step()
    if step is None:
        return ""
    by, seen = step
    way = "forward" if by > timedelta() else "back"
    return (
        f"This computer's clock was set {way} by {duration(abs(by).total_seconds())}, seen "
        f"{moment(seen)}. Times here go on as they were, so no hold grows. To follow it, start "
        "Fair Line again."
    )


def wall_moment(text: str) -> datetime:
    """A moment of any day, as a field for day and hour gives it, in the zone at hand.

    Raises ValueError with a sentence.
    """
    try:
        found = datetime.fromisoformat(text)
    except ValueError:
        raise ValueError("type a day and an hour like 2026-12-02T08:00") from None
    if not EARLIEST_YEAR <= found.year <= LATEST_YEAR:
        raise ValueError(f"a day between {EARLIEST_YEAR} and {LATEST_YEAR}")
    if found.tzinfo is not None:
        return here(found)
    zone = _ZONE.get()
    return found.replace(tzinfo=zone) if zone is not None else found.astimezone()


def wall_field(at: datetime | None) -> str:
    """A moment as a field for day and hour holds it; blank for none."""
    return here(at).strftime("%Y-%m-%dT%H:%M") if at is not None else ""


AGO = re.compile(r"(\d{1,4}) ?(min|h|d)( ago)?")
LATEST_YEAR = 2100
EARLIEST_YEAR = 2000  # of anything that was done on a job here; before it is a slip of the hand
AGO_S = {"min": 60, "h": 3600, "d": 86_400}
DONE_WORDS = "say when it was done: 14:30, 2026-11-27 14:30, or 40 min ago; not later than now"


def moment_typed(text: str, now: datetime, zone: ZoneInfo | None) -> datetime | None:
    """A moment up to now as a person types it; None where it is not understood.

    >>> from datetime import UTC
    >>> noon = datetime(2026, 7, 1, 12, tzinfo=UTC)
    >>> [str(moment_typed(t, noon, ZoneInfo("UTC")))[5:16] for t in ("11:30", "40 min", "")]
    ['07-01 11:30', '07-01 11:20', '07-01 12:00']
    >>> moment_typed("13:30", noon, ZoneInfo("UTC")) is None  # later than now
    True
    >>> [moment_typed(f"{y:04}-01-01 10:00", noon, None) is None for y in (1, 1999, 2000)]
    [True, True, False]
    """
    if not text:
        return now
    if ago := AGO.fullmatch(text.casefold()):
        return now - timedelta(seconds=int(ago[1]) * AGO_S[ago[2]])
    here = now.astimezone(zone)
    for form in ("%Y-%m-%d %H:%M", "%Y-%m-%dT%H:%M", "%H:%M"):
        try:
            found = datetime.strptime(text, form)
        except ValueError:
            continue
        if form == "%H:%M":
            found = datetime.combine(here.date(), found.time())
        if found.year < EARLIEST_YEAR:
            return None
        found = found.replace(tzinfo=zone) if zone is not None else found.astimezone()
        return found if found <= now else None
    return None
