"""The working days of a company: from hour to hour, on some days of the week, in its time zone."""

from bisect import bisect_right
from collections.abc import Iterable
from datetime import UTC, date, datetime, time, timedelta

from fairline.core.schedule import SECONDS


class WorkingDays:
    """Working hours as ms from ``begins``, a moment with its zone; a clock that is changed counts.

    ``weekdays``: 0 for Monday to 6; at least one.
    """

    def __init__(
        self, begins: datetime, opens: time, closes: time, weekdays: Iterable[int]
    ) -> None:
        self.begins, self.opens, self.closes = begins, opens, closes
        self.weekdays = frozenset(weekdays)
        self._dates: list[date] = []
        self._closes: list[int] = []

    def units(self, at: datetime) -> int:
        """A moment as ms from the beginning."""
        past = at.astimezone(UTC) - self.begins.astimezone(UTC)
        return round(past.total_seconds() * SECONDS)

    def moment(self, units: int) -> datetime:
        """The moment that is so many ms from the beginning, in its zone."""
        at = self.begins.astimezone(UTC) + timedelta(milliseconds=units)
        return at.astimezone(self.begins.tzinfo)

    def _add(self) -> None:
        """One more working day; the first is one that is not over at the beginning."""
        day = self._dates[-1] + timedelta(days=1) if self._dates else self.begins.date()
        while True:
            closes = self.units(self._at(day, self.closes))
            if day.weekday() in self.weekdays and closes > 0:
                self._dates.append(day)
                self._closes.append(closes)
                return
            day += timedelta(days=1)

    def _at(self, day: date, clock: time) -> datetime:
        return datetime.combine(day, clock, self.begins.tzinfo)

    def day(self, number: int) -> date:
        """The date of a working day."""
        while len(self._dates) <= number:
            self._add()
        return self._dates[number]

    def window(self, number: int) -> tuple[int, int]:
        opens = self.units(self._at(self.day(number), self.opens))
        return max(opens, 0), self._closes[number]

    def day_at(self, at: int) -> int:
        self.day(0)
        while self._closes[-1] < at:
            self._add()
        return bisect_right(self._closes, at - 1)

    def until(self, end: int) -> int:
        number = self.day_at(end)
        while self.window(number)[0] <= end:
            number += 1
        return number + 1

    def numbers(self, dates: Iterable[date]) -> frozenset[int]:
        """The working days that are on these dates, by their number."""
        wanted = {d for d in dates if d >= self.begins.date()}
        if not wanted:
            return frozenset()
        last, number, found = max(wanted), 0, set[int]()
        while (day := self.day(number)) <= last:
            if day in wanted:
                found.add(number)
            number += 1
        return frozenset(found)
