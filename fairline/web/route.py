"""Route page: the legs, and the run drawn to scale."""

from typing import Any

from fairline.core import route
from fairline.web.drawing import elevation
from fairline.web.stage import stage_view
from fairline.web.visit import Judged, Visit


@stage_view("route")
def view(visit: Visit, judged: Judged) -> dict[str, Any]:
    entry, rules = judged.job.route, judged.rules
    answer = route.lengths(entry, rules)
    radius_m, radius_from = route.bend_radius_m(entry, rules)
    points = route.points_m(entry)
    tight = answer.result.tight_legs if answer else ()
    drawn = []
    if answer:
        drawn = [
            elevation.elevation(points, tight, paper, visit.system)
            for paper in (elevation.WIDE, elevation.NARROW)
        ]
    return {
        "checks": {c.id: c for c in judged.stages["route"].checks},
        "run": answer.result if answer else None,
        "left": route.left_of_limits(entry, rules),
        "radius_m": radius_m,
        "radius_from": radius_from,
        "drawings": drawn,
        "directions": tuple(route.STEP),
    }
