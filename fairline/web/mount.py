"""Mount page: every clearance beside its call."""

from typing import Any

from fairline.core.mount import CLEARANCES, OUTDOOR, weight_caution
from fairline.web.stage import stage_view
from fairline.web.visit import Judged, Visit


@stage_view("mount")
def view(visit: Visit, judged: Judged) -> dict[str, Any]:
    return {
        "checks": {c.id: c for c in judged.stages["mount"].checks},
        "clearances": CLEARANCES,
        "outdoor": OUTDOOR,
        "weight": weight_caution(judged.rules),
    }
