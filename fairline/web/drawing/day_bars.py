"""A plan across time: each working day a block, nights narrow between them, a bar for each task."""

from collections.abc import Sequence
from datetime import datetime, timedelta
from textwrap import shorten

from markupsafe import Markup

from fairline.core.plan.day import Slot
from fairline.web.drawing.svg import drawing, tag, text

WIDE, LEFT, ROW, TOP = 980.0, 250.0, 26.0, 44.0
NIGHT = 26.0  # across, however long it is


class _Scale:
    """Where a moment stands: days side by side, each night as narrow as the others."""

    def __init__(self, slots: Sequence[Slot], opens: str, closes: str) -> None:
        first, last = slots[0].start, max(s.end for s in slots)
        self.days = [
            first.date() + timedelta(days=n) for n in range((last.date() - first.date()).days + 1)
        ]
        self.zone = first.tzinfo
        self.opens, self.closes = (_hours(t) for t in (opens, closes))
        room = WIDE - LEFT - 12 - NIGHT * (len(self.days) - 1)
        self.day = room / len(self.days)

    def x(self, at: datetime) -> float:
        n = self.days.index(min(max(at.date(), self.days[0]), self.days[-1]))
        hour = at.hour + at.minute / 60 + at.second / 3600
        share = (hour - self.opens) / (self.closes - self.opens)
        within = min(max(share, 0.0), 1.0) * self.day
        after = max(0.0, share - 1.0) * (self.closes - self.opens) / 24 * NIGHT
        return LEFT + n * (self.day + NIGHT) + within + after


def _hours(clock: str) -> float:
    hour, _, minute = clock.partition(":")
    return int(hour) + int(minute) / 60


def day_bars(slots: Sequence[Slot], opens: str, closes: str) -> Markup:
    """Every task a bar in its row; what decides when all is ready is full, a wait is hollow."""
    scale = _Scale(slots, opens, closes)
    high = TOP + ROW * len(slots) + 8
    parts: list[Markup] = []
    for n, day in enumerate(scale.days):
        x = LEFT + n * (scale.day + NIGHT)
        parts.append(tag("rect", x=x, y=24.0, width=scale.day, height=high - 30, class_="day"))
        parts.append(text(x + 4, 16, f"{day:%a %d %b}", "cylinder-text"))
    for n, slot in enumerate(slots):
        y = TOP + ROW * n
        x0, x1 = scale.x(slot.start), max(scale.x(slot.end), scale.x(slot.start) + 4)
        hollow = slot.task.waits or bool(slot.task.trade)
        look = "waits" if hollow else "decides" if slot.critical else "spare"
        parts.append(
            text(4, y + 15, shorten(slot.task.words, 32, placeholder=" …"), "cylinder-text")
        )
        parts.append(tag("rect", x=x0, y=y + 3, width=x1 - x0, height=ROW - 9, rx=3.0, class_=look))
    said = f"{len(slots)} tasks over {len(scale.days)} days"
    return drawing(WIDE, high, f"The plan across time: {said}", "day-bars", *parts)
