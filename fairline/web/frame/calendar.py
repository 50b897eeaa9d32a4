"""Entries for a person's own calendar, as iCalendar (RFC 5545)."""

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import date, datetime


@dataclass(frozen=True)
class CalendarEntry:
    """One entry. ``uid`` stays the same when it is sent again; ``starts`` is a day or a moment.

    ``monthly``: it comes back every month.
    """

    uid: str
    made_at: datetime
    summary: str
    starts: date
    ends: datetime | None = None
    place: str = ""
    words: str = ""
    monthly: bool = False


def calendar_file(entries: Iterable[CalendarEntry]) -> bytes:
    """The entries as a file that calendars read."""
    from icalendar import Calendar, Event

    made = Calendar()
    made.add("prodid", "-//Fair Line//EN")
    made.add("version", "2.0")
    for entry in entries:
        event = Event()
        event.add("uid", f"{entry.uid}@fairline")
        event.add("dtstamp", entry.made_at)
        event.add("summary", entry.summary)
        event.add("dtstart", entry.starts)
        for name, value in (
            ("dtend", entry.ends),
            ("location", entry.place),
            ("description", entry.words),
            ("rrule", {"freq": "monthly"} if entry.monthly else None),
        ):
            if value:
                event.add(name, value)
        made.add_component(event)
    return bytes(made.to_ical())
