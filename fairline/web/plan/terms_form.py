"""What a plan goes by, as a form: typed moments, people, another trade's slot, days of rain."""

from collections.abc import Mapping
from datetime import date, datetime, timedelta
from typing import Any

from fairline.core.plan.crew import CrewBook
from fairline.core.plan.job_plan import JobPlan
from fairline.core.plan.tasks import ELECTRICIAN
from fairline.core.quantities import parse, typed
from fairline.core.units import System
from fairline.web.frame.forms import Form
from fairline.web.frame.merging import whole_number
from fairline.web.frame.moments import wall_field, wall_moment

MOST_PEOPLE = 20


def trades_of(terms: JobPlan) -> list[str]:
    """The other trades of a job, the electrician first."""
    own = [t.trade for t in terms.own if t.by == "trade" and t.trade]
    return list(dict.fromkeys([ELECTRICIAN, *own]))


def shown(terms: JobPlan, system: System) -> Form:
    """A plan's terms as they are typed."""
    values: dict[str, Any] = {
        "start": wall_field(terms.start),
        "count": str(terms.count),
        "names": list(terms.names),
        "travel": typed(terms.travel_s, "duration", system) if terms.travel_s else "",
        "rain": [d.isoformat() for d in terms.rain],
    }
    for n, trade in enumerate(trades_of(terms)):
        values[f"slot-{n}"] = wall_field(terms.slots.get(trade))
    return Form(values)


def read_terms(
    fields: Mapping[str, Any], before: JobPlan, book: CrewBook, now: datetime, system: System
) -> tuple[JobPlan | None, Form]:
    """The terms as typed; None with what is wrong beside each field."""
    reader = Reader(fields, now, system)
    known = [p.name for p in book.people]
    names = tuple(n for n in _listed(fields.get("names")) if n in known)
    found: dict[str, Any] = {
        "start": reader.moment("start"),
        "names": names,
        "count": reader.count("count", before.count),
        "travel_s": reader.duration("travel"),
        "rain": reader.days("rain"),
        "slots": {
            trade: at
            for n, trade in enumerate(trades_of(before))
            if (at := reader.moment(f"slot-{n}")) is not None
        },
    }
    if book.people and not names:
        reader.errors["names"] = "choose who works on it"
    form = Form(dict(fields), reader.errors)
    if reader.errors:
        return None, form
    return before.model_copy(update=found), form


def _listed(value: Any) -> list[str]:
    return [str(v) for v in value] if isinstance(value, list | tuple) else []


class Reader:
    """Reads fields; what is wrong is kept by the field's name."""

    def __init__(self, fields: Mapping[str, Any], now: datetime, system: System) -> None:
        self.fields, self.now, self.system = fields, now, system
        self.errors: dict[str, str] = {}

    def said(self, name: str) -> str:
        return str(self.fields.get(name, "")).strip()

    def moment(self, name: str) -> datetime | None:
        if not self.said(name):
            return None
        try:
            found = wall_moment(self.said(name))
        except ValueError as error:
            self.errors[name] = str(error)
            return None
        if name != "start" and found < self.now - timedelta(days=1):
            self.errors[name] = "that day is over"
        return found

    def count(self, name: str, usual: int) -> int:
        said = self.said(name)
        if not said:
            return usual
        if not 1 <= whole_number(said) <= MOST_PEOPLE:
            self.errors[name] = f"between 1 and {MOST_PEOPLE} people"
            return usual
        return int(said)

    def duration(self, name: str, most_s: float = 86_400.0, blank: float | None = 0.0) -> Any:
        if not self.said(name):
            return blank
        try:
            found = parse(self.said(name), "duration", self.system)
        except ValueError as error:
            self.errors[name] = str(error)
            return blank
        if not 0 <= found <= most_s:
            self.errors[name] = f"between nothing and {most_s / 3600:g} h"
        return found

    def days(self, name: str) -> tuple[date, ...]:
        found = set()
        for said in _listed(self.fields.get(name)):
            try:
                found.add(date.fromisoformat(said))
            except ValueError:
                self.errors[name] = "type a day like 2026-12-02"
        return tuple(sorted(found))
