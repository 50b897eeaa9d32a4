"""What is entered around the pull: the coldest tube, what the gauge resolves, the rig."""

from typing import Any

from pydantic import model_validator

from fairline.core.entry import AmbientC, Entry, LongText, VacuumStepPa
from fairline.core.evacuate.rig import RigEntry

DEFAULT_AMBIENT_C = 20.0


class EvacuateEntry(Entry):
    """Around the pull: how warm the coldest tube is, what the gauge resolves, the rig."""

    ambient_c: AmbientC = None
    gauge_resolution_pa: VacuumStepPa = None
    fresh_oil: bool = False
    rig: RigEntry = RigEntry()
    notes: LongText = ""

    @property
    def coldest_c(self) -> float:
        """How warm the coldest tube is: as entered, or as in a room."""
        return DEFAULT_AMBIENT_C if self.ambient_c is None else self.ambient_c

    @model_validator(mode="before")
    @classmethod
    def _ticked_once(cls, value: Any) -> Any:
        """Entries kept before the rig was asked say of core and gauge by a tick."""
        if not isinstance(value, dict) or not value.keys() & {"core_out", "gauge_far"}:
            return value
        rest = {k: v for k, v in value.items() if k not in ("core_out", "gauge_far")}
        said = {"cores": "out"} if value.get("core_out") in (True, "true") else {}
        said |= {"gauge_at": "far"} if value.get("gauge_far") in (True, "true") else {}
        rig = rest.get("rig", {})
        own = rig.model_dump(exclude_defaults=True) if isinstance(rig, RigEntry) else rig
        return rest | {"rig": said | own}
