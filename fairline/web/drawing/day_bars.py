"""A plan across time: each day a block, nights narrow between them, a bar for each task."""

import json
from collections.abc import Callable, Collection, Mapping, Sequence
from datetime import date, datetime, time, timedelta
from textwrap import shorten

from markupsafe import Markup

from fairline.core.plan.job_plan import DayPlan, Slot
from fairline.web.drawing.svg import drawing, tag, text

WIDE, LEFT, ROW, TOP = 980.0, 250.0, 30.0, 44.0
NIGHT = 26.0  # across, however long it is
DAY_LEAST = 46.0  # across; more days make the drawing wider
Here = Callable[[datetime], datetime]


class Days:
    """Where a moment stands: days side by side, each night as narrow as the others."""

    def __init__(self, first: date, count: int, opens: str, closes: str) -> None:
        self.days = [first + timedelta(days=n) for n in range(count)]
        self.opens, self.closes = (time.fromisoformat(t) for t in (opens, closes))
        room = WIDE - LEFT - 12 - NIGHT * (count - 1)
        self.day = max(room / count, DAY_LEAST)
        self.wide = LEFT + 12 + NIGHT * (count - 1) + self.day * count

    def start(self, number: int) -> float:
        """Where a day begins, across."""
        return LEFT + number * (self.day + NIGHT)

    def x(self, at: datetime) -> float:
        """Where a local moment stands; before the first day or after the last at its edge."""
        n = min(max((at.date() - self.days[0]).days, 0), len(self.days) - 1)
        opens, closes = (_hours(t) for t in (self.opens, self.closes))
        share = (_hours(at.time()) - opens) / (closes - opens)
        if at.date() != self.days[n]:
            share = 0.0 if at.date() < self.days[0] else 1.0
        after = max(0.0, share - 1.0) * (closes - opens) / 24 * NIGHT
        return self.start(n) + min(max(share, 0.0), 1.0) * self.day + after

    def ground(self, high: float) -> list[Markup]:
        """The days behind the bars, each with its name."""
        parts = []
        for n, day in enumerate(self.days):
            x, weekend = self.start(n), " off" if day.weekday() > 4 else ""
            parts.append(
                tag("rect", x=x, y=24.0, width=self.day, height=high - 30, class_=f"day{weekend}")
            )
            form = "%a %d %b" if self.day > 90 else "%a %d"
            parts.append(text(x + 2, 16, day.strftime(form), "cylinder-text"))
        return parts

    @property
    def scale(self) -> str:
        """The days for the script that moves bars: where each begins and ends, and its hours."""
        return json.dumps(
            [
                [
                    round(self.start(n), 1),
                    round(self.start(n) + self.day, 1),
                    f"{day.isoformat()}T{self.opens:%H:%M}",
                    f"{day.isoformat()}T{self.closes:%H:%M}",
                ]
                for n, day in enumerate(self.days)
            ]
        )


def _hours(at: time) -> float:
    return at.hour + at.minute / 60 + at.second / 3600


def _days_of(slots: Sequence[Slot], opens: str, closes: str, here: Here) -> Days:
    first = here(min(s.start for s in slots)).date()
    last = here(max(s.end for s in slots)).date()
    return Days(first, (last - first).days + 1, opens, closes)


def _look(slot: Slot, over: Collection[str]) -> str:
    if slot.task in over:
        return "over"
    if slot.waits or slot.trade:
        return "waits"
    return "decides" if slot.critical else "spare"


def _bar(slot: Slot, days: Days, y: float, over: Collection[str], here: Here) -> Markup:
    start, end = here(slot.start), here(slot.end)
    x0 = days.x(start)
    x1 = max(days.x(end), x0 + 6)
    who = ", ".join(slot.people) or slot.trade or "needs nobody"
    said = f"{slot.words}, {start:%a %H:%M} to {end:%a %H:%M}, {who}"
    movable = slot.task not in over and not slot.waits
    about = {
        "role": "button" if movable else None,
        "class_": f"bar {_look(slot, over)}",
        "data_task": slot.task,
        "data_start": f"{start:%Y-%m-%dT%H:%M}",
        "tabindex": "0" if movable else None,
        "aria_label": f"{said}; arrow keys move it" if movable else None,
        "data_movable": "yes" if movable else None,
    }
    touch = tag("rect", x=x0 - 4, y=y - 1, width=x1 - x0 + 8, height=ROW - 2, class_="touch")
    shape = tag("rect", x=x0, y=y + 3, width=x1 - x0, height=ROW - 10, rx=3.0)
    return tag("g", tag("title", said), touch, shape, **about)


def by_task(plan: DayPlan, over: Collection[str], opens: str, closes: str, here: Here) -> Markup:
    """Every task a bar in its row; what decides when all is ready is full, a wait is hollow."""
    days = _days_of(plan.slots, opens, closes, here)
    high = TOP + ROW * len(plan.slots) + 8
    parts = days.ground(high)
    for n, slot in enumerate(plan.slots):
        y = TOP + ROW * n
        named = shorten(slot.words, 32, placeholder=" …")
        parts.append(text(4, y + 18, named, "cylinder-text"))
        parts.append(_bar(slot, days, y, over, here))
    said = f"{len(plan.slots)} tasks over {len(days.days)} days"
    return drawing(
        days.wide, high, f"The plan by task: {said}", "day-bars", *parts, data_days=days.scale
    )


def by_people(plan: DayPlan, over: Collection[str], opens: str, closes: str, here: Here) -> Markup:
    """A row for each person and other trade, and one for the waits."""
    rows: dict[str, list[Slot]] = {}
    for slot in plan.slots:
        for name in slot.people:
            rows.setdefault(name, [])
    for slot in plan.slots:
        for name in slot.people or (slot.trade or "Needs nobody",):
            rows.setdefault(name, []).append(slot)
    days = _days_of(plan.slots, opens, closes, here)
    high, y, parts = TOP + ROW * len(rows) * 1.4 + 8, TOP, list[Markup]()
    people = {name for slot in plan.slots for name in slot.people}
    for name, slots in rows.items():
        label = tag("g", text(4, y + 20, shorten(name, 30, placeholder=" …"), "cylinder-text"))
        parts.append(label)
        for slot in slots:
            bar = _bar(slot, days, y, over, here)
            parts.append(tag("g", bar, **({"data_who": name} if name in people else {})))
        y += ROW * 1.4
    said = f"{len(rows)} rows over {len(days.days)} days"
    return drawing(
        days.wide,
        high,
        f"The plan by person: {said}",
        "day-bars people",
        *days.ground(high),
        *parts,
        data_days=days.scale,
        data_row=f"{ROW * 1.4:g}",
    )


def by_jobs(
    stays: Mapping[str, Sequence[tuple[datetime, datetime, str, str]]],
    first: date,
    count: int,
    hours: tuple[str, str],
    here: Here,
) -> Markup:
    """Each person a row over so many days: where each is, as (from, to, job, how to call it)."""
    days = Days(first, count, *hours)
    high, y = TOP + ROW * 1.4 * max(1, len(stays)) + 8, TOP
    parts = days.ground(high)
    for name, own in stays.items():
        parts.append(text(4, y + 20, shorten(name, 30, placeholder=" …"), "cylinder-text"))
        for start, end, job, mark in own:
            a, b = here(start), here(end)
            if not days.days[0] <= a.date() <= days.days[-1]:
                continue
            x0 = days.x(a)
            x1 = max(days.x(b), x0 + 6)
            said = f"{name}: {job}, {a:%a %H:%M} to {b:%a %H:%M}"
            box = tag("rect", x=x0, y=y + 3, width=x1 - x0, height=ROW - 8, rx=3.0)
            fits = x1 - x0 > 9.0 * len(mark) + 4
            label = text((x0 + x1) / 2, y + 18, mark, "cylinder-text in-bar") if fits else None
            parts.append(tag("g", tag("title", said), box, label, class_="bar decides"))
        y += ROW * 1.4
    return drawing(
        days.wide, high, f"Where {len(stays)} people are over {count} days", "day-bars", *parts
    )


def job_tubes(
    jobs: Mapping[str, DayPlan], first: date, count: int, hours: tuple[str, str], here: Here
) -> Markup:
    """A twin tube for each job across the days: work full, holds and other waits hollow."""
    days = Days(first, count, *hours)
    high, y = TOP + ROW * 1.4 * max(1, len(jobs)) + 8, TOP
    parts = days.ground(high)
    for name, plan in jobs.items():
        parts.append(text(4, y + 20, shorten(name, 30, placeholder=" …"), "cylinder-text"))
        shown = [
            (slot, here(slot.start), here(slot.end))
            for slot in plan.slots
            if here(slot.end).date() >= days.days[0] and here(slot.start).date() <= days.days[-1]
        ]
        if shown:
            x0 = days.x(min(start for _, start, _ in shown))
            x1 = max(days.x(max(end for _, _, end in shown)), x0 + 6)
            for down in (11.0, 15.0):
                line = tag("path", d=f"M{x0:.1f} {y + down:.1f}H{x1:.1f}", class_="tube")
                parts.append(line)
        parts += [_length(name, slot, days, y, (start, end)) for slot, start, end in shown]
        y += ROW * 1.4
    said = f"{len(jobs)} jobs over {count} days"
    return drawing(days.wide, high, f"The jobs: {said}", "day-bars", *parts)


def _length(job: str, slot: Slot, days: Days, y: float, at: tuple[datetime, datetime]) -> Markup:
    """A stretch of a job's tube; a wait is a length that ends at a clock time."""
    start, end = at
    x0 = days.x(start)
    x1 = max(days.x(end), x0 + 3)
    alone = slot.waits or bool(slot.trade)
    who = ", ".join(slot.people) or slot.trade or f"until {end:%a %H:%M}"
    said = f"{job}: {slot.words}, {start:%a %H:%M} to {end:%a %H:%M}, {who}"
    box = tag("rect", x=x0, y=y + 3, width=x1 - x0, height=ROW - 10, rx=2.0)
    fits = slot.waits and x1 - x0 > 40
    told = text(x1 - 38, y + 18, f"{end:%H:%M}", "cylinder-text") if fits else None
    look = f"on-tube {'waits' if alone else 'decides'}"
    return tag("g", tag("title", said), box, told, class_=look)
