"""The label at the outdoor unit: refrigerant, length of line, charge as it stands, date."""

from datetime import datetime

from fairline.core import charge, route
from fairline.core.call import Frozen
from fairline.core.job import Job
from fairline.core.practice import Rules


class UnitLabel(Frozen):
    """SI; None where it is not known. ``weighed`` tells a weighed charge from a planned one."""

    refrigerant: str | None
    length_m: float | None
    factory_kg: float | None
    added_kg: float | None
    weighed: bool
    total_kg: float | None
    date: datetime | None


def unit_label(job: Job, rules: Rules) -> UnitLabel:
    """What was weighed in counts; before any weighing, what the sheet's rule asks for."""
    length_m = route.installed_length_m(job.route, rules, len(job.survey.now))
    planned = charge.answer(length_m, job.charge, rules)
    added_kg = planned.result.added_kg if planned else None
    if job.weighings:
        added_kg = charge.weighed_kg(job.weighings)
    factory_kg = rules.outdoor.factory_charge_kg if rules.outdoor else None
    known = factory_kg is not None and added_kg is not None
    return UnitLabel(
        refrigerant=rules.outdoor.refrigerant if rules.outdoor else None,
        length_m=length_m,
        factory_kg=factory_kg,
        added_kg=added_kg,
        weighed=bool(job.weighings),
        total_kg=(factory_kg or 0.0) + (added_kg or 0.0) if known else None,
        date=job.releases[-1].at if job.releases else None,
    )
