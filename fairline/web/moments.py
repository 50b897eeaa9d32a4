"""Moments as a person reads them: in the company's time zone, which is named."""

from contextvars import ContextVar
from datetime import datetime
from zoneinfo import ZoneInfo

from fairline.store.house import zone_named

# The zone of the request that a thread answers; none: this machine's own.
_ZONE: ContextVar[ZoneInfo | None] = ContextVar("zone", default=None)


def in_zone(name: str) -> None:
    """From here on this request's moments are shown in a zone; blank for the machine's own."""
    _ZONE.set(zone_named(name))


def moment(at: datetime) -> str:
    """A moment in the company's zone, or this machine's own where none is set."""
    return at.astimezone(_ZONE.get()).strftime("%Y-%m-%d %H:%M %Z")
