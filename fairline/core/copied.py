"""A job copied as a new one: its plan, without what was read, recorded, built or named."""

from collections.abc import Callable
from typing import Any

from fairline.core.job import Job, JobHead
from fairline.core.tokens import renewed

AS_BUILT = (  # of Mount: what was looked at on the wall, which is another one there
    *("looked", "plate", "hole_m", "hole_fall_m", "drain_low", "drain_side", "cable_fed"),
    *("level", "anchored"),
)
SEEN = (  # what was looked at, and holds of that house and that work only
    *("bedrooms_near", "frost", "flood_m", "snow_m", "altitude_m", "hazards_seen", "hazards"),
    *("siding_tested", "access", "low_reason", "siding_steps"),
    *("both_insulated", "insulated", "reach", "trapped", "join_access"),
)
PLANNED = ("survey", "mount", "route")  # the stages whose entries are a plan


def copied(job: Job, name: str, fresh: Callable[[], str]) -> dict[str, Any]:
    """The parts of a new job that are planned as this one is, by the fields of ``Job``.

    Its machines and tubes are others: ``fresh`` gives a token for each.

    The house is another one: customer, place, what came out of the boxes and what was seen there
    stay behind, and so do names, measured lengths and all of the later stages.
    """
    whole = job.model_dump(mode="json", exclude_defaults=True)
    plan = {stage: _unnamed(whole[stage]) for stage in PLANNED if stage in whole}
    plan.get("survey", {}).pop("boxes", None)
    head = JobHead(
        name=name,
        company=job.head.company,
        company_phone=job.head.company_phone,
        practice=job.head.practice,
    )
    equipment = renewed(job.equipment, fresh)
    return {"head": head, "equipment": equipment, **plan}


def _unnamed(value: Any) -> Any:
    """A document without who did it and without what was measured or looked at as it was built."""
    if isinstance(value, dict):
        return {
            k: _unnamed(v)
            for k, v in value.items()
            if k not in ("by", "serial", "built_m", *AS_BUILT, *SEEN) and not k.endswith("_by")
        }
    return [_unnamed(v) for v in value] if isinstance(value, list) else value
