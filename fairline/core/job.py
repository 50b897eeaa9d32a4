"""A whole job as one value: what is stored, exported, imported and judged."""

from typing import Annotated, Any, Literal

from pydantic import Field, model_validator

from fairline.core.charge_entry import ChargeEntry, Release, Weighing
from fairline.core.commission import CommissionEntry, Running
from fairline.core.cutting import Cutting
from fairline.core.entry import Entry, LongText, Moment, Text
from fairline.core.equipment import Equipment
from fairline.core.evacuate import EvacuateEntry, Isolation, PumpOverride
from fairline.core.first_form import upgraded
from fairline.core.flare import JointRecord, WrenchEntry
from fairline.core.hand_over import HandedOver, HandOverEntry, Reopened
from fairline.core.hold_readings import TestEntry
from fairline.core.leak_search import LeakCheck
from fairline.core.mount import MountEntry
from fairline.core.picture import Picture
from fairline.core.practice import Departure
from fairline.core.readings import Run
from fairline.core.route_entry import RouteEntry
from fairline.core.strike import Strike
from fairline.core.survey import SurveyEntry

AnyRecord = Annotated[
    JointRecord
    | Picture
    | Weighing
    | Release
    | Running
    | Departure
    | Cutting
    | LeakCheck
    | PumpOverride
    | Isolation
    | HandedOver
    | Reopened
    | Strike,
    Field(discriminator="kind"),
]

ENTRIES: dict[str, type[Entry]] = {
    "survey": SurveyEntry,
    "mount": MountEntry,
    "route": RouteEntry,
    "flare": WrenchEntry,
    "pressure-test": TestEntry,
    "evacuate": EvacuateEntry,
    "charge": ChargeEntry,
    "commission": CommissionEntry,
    "hand-over": HandOverEntry,
}


class JobHead(Entry):
    """What a job is called and where it is.

    ``practice``: begun to practise. Only there do simulated readings decide anything.
    """

    name: Annotated[Text, Field(min_length=1)]
    site: Text = ""
    customer: Text = ""
    company: Text = ""
    company_phone: Text = ""
    notes: LongText = ""
    practice: bool = False


class Job(Entry):
    """One job: head, equipment, what was entered, what was recorded, what was read."""

    format: Literal["fairline-job"] = "fairline-job"
    format_version: Literal[3] = 3
    uid: Annotated[Text, Field(min_length=8, max_length=64, pattern=r"^[A-Za-z0-9-]+$")]
    created_at: Moment
    head: JobHead
    equipment: Equipment = Equipment()
    survey: SurveyEntry = SurveyEntry()
    mount: MountEntry = MountEntry()
    route: RouteEntry = RouteEntry()
    flare: WrenchEntry = WrenchEntry()
    pressure_test: TestEntry = TestEntry()
    evacuate: EvacuateEntry = EvacuateEntry()
    charge: ChargeEntry = ChargeEntry()
    commission: CommissionEntry = CommissionEntry()
    hand_over: HandOverEntry = HandOverEntry()
    records: Annotated[tuple[AnyRecord, ...], Field(max_length=20_000)] = ()
    runs: Annotated[tuple[Run, ...], Field(max_length=1_000)] = ()

    @model_validator(mode="before")
    @classmethod
    def _from_first_form(cls, value: Any) -> Any:
        return upgraded(value) if isinstance(value, dict) else value

    @model_validator(mode="after")
    def _runs_are_single(self) -> "Job":
        uids = [r.uid for r in self.runs]
        if len(set(uids)) != len(uids):
            raise ValueError("runs: a uid stands twice")
        return self

    @property
    def departures(self) -> tuple[Departure, ...]:
        return tuple(r for r in self.records if isinstance(r, Departure))

    @property
    def cutting(self) -> Cutting | None:
        """The cut plan as it was last carried out."""
        return next((r for r in reversed(self.records) if isinstance(r, Cutting)), None)

    @property
    def leak_checks(self) -> tuple[LeakCheck, ...]:
        return tuple(r for r in self.records if isinstance(r, LeakCheck))

    @property
    def pump_overrides(self) -> tuple[PumpOverride, ...]:
        return tuple(r for r in self.records if isinstance(r, PumpOverride))

    @property
    def isolations(self) -> tuple[Isolation, ...]:
        return tuple(r for r in self.records if isinstance(r, Isolation))

    @property
    def strikes(self) -> tuple[Strike, ...]:
        return tuple(r for r in self.records if isinstance(r, Strike))

    @property
    def handed_over(self) -> HandedOver | None:
        """How the job was handed over, while it was not opened again."""
        both = [r for r in self.records if isinstance(r, HandedOver | Reopened)]
        return both[-1] if both and isinstance(both[-1], HandedOver) else None

    @property
    def reopenings(self) -> tuple[Reopened, ...]:
        return tuple(r for r in self.records if isinstance(r, Reopened))

    @property
    def joints(self) -> tuple[JointRecord, ...]:
        return tuple(r for r in self.records if isinstance(r, JointRecord))

    @property
    def pictures(self) -> tuple[Picture, ...]:
        return tuple(r for r in self.records if isinstance(r, Picture))

    @property
    def weighings(self) -> tuple[Weighing, ...]:
        return tuple(r for r in self.records if isinstance(r, Weighing))

    @property
    def releases(self) -> tuple[Release, ...]:
        return tuple(r for r in self.records if isinstance(r, Release))

    @property
    def runnings(self) -> tuple[Running, ...]:
        return tuple(r for r in self.records if isinstance(r, Running))
