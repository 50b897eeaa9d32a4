"""A whole job as one value: what is stored, exported, imported and judged."""

from collections.abc import Iterator
from itertools import count
from typing import TYPE_CHECKING, Annotated, Any, Literal, TypeVar, Union

from pydantic import Field, TypeAdapter, field_validator, model_validator

from fairline.core.charge.entry import ChargeEntry, Release, Weighing
from fairline.core.charge.valve_order import ValveSteps
from fairline.core.commission.records import Running
from fairline.core.commission.start_up import CommissionEntry
from fairline.core.entry import Entry, LongText, Moment, Record, Text
from fairline.core.equipment import Equipment
from fairline.core.evacuate.entry import EvacuateEntry
from fairline.core.evacuate.records import Isolation, PumpOverride
from fairline.core.first_form import upgraded
from fairline.core.flare.records import JointRecord, WrenchEntry
from fairline.core.hand_over.entry import HandOverEntry
from fairline.core.hand_over.picture import Picture
from fairline.core.hand_over.records import HandedOver, Reopened
from fairline.core.mount.stage import MountEntry
from fairline.core.parts import PartChange, Subject, SubjectSince
from fairline.core.practice import Departure, Practice
from fairline.core.pressure_test.hold import TestEntry
from fairline.core.pressure_test.records import LeakCheck
from fairline.core.readings import AnyRun, HoldRun, VacuumRun
from fairline.core.route.cutting import Cutting
from fairline.core.route.entry import RouteEntry
from fairline.core.seal import Chain, Seal
from fairline.core.stages import IN_ORDER, RECORDS
from fairline.core.strike import Strike
from fairline.core.survey.stage import SurveyEntry
from fairline.core.wire.entry import WireEntry

if TYPE_CHECKING:
    AnyRecord = Record
else:  # by kind, of all that the stages record
    AnyRecord = Annotated[Union[RECORDS], Field(discriminator="kind")]  # noqa: UP007

AnyRecords: TypeAdapter[list[Record]] = TypeAdapter(list[AnyRecord])
Entered = TypeVar("Entered", bound=Entry)
Recorded = TypeVar("Recorded", bound=Record)


def numbered(records: tuple[Record, ...]) -> tuple[Record, ...]:
    """Records with an id each; those that have one keep it."""
    if all(r.uid for r in records):
        return records
    taken = {r.uid for r in records}
    free = (name for n in count(1) if (name := f"r{n}") not in taken)
    return tuple(r if r.uid else r.model_copy(update={"uid": next(free)}) for r in records)


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
    """One job: head, equipment, what was entered, what was recorded, what was read.

    ``subjects`` are the parts that records and runs name, by their digests, and ``since`` from when
    on the job had which (``core/proofs``); ``practices`` the house practices they were made under.
    ``seals`` are the chains of the days on which it was handed over, ``chain`` that of a file: both
    are only in files, and in what the store keeps beside a job.
    """

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
    wire: WireEntry = WireEntry()
    evacuate: EvacuateEntry = EvacuateEntry()
    charge: ChargeEntry = ChargeEntry()
    commission: CommissionEntry = CommissionEntry()
    hand_over: HandOverEntry = HandOverEntry()
    records: Annotated[tuple[AnyRecord, ...], Field(max_length=20_000)] = ()
    runs: Annotated[tuple[AnyRun, ...], Field(max_length=1_000)] = ()
    subjects: Annotated[dict[str, Subject], Field(max_length=20_000)] = {}
    since: Annotated[tuple[SubjectSince, ...], Field(max_length=20_000)] = ()
    practices: Annotated[dict[str, Practice], Field(max_length=1_000)] = {}
    seals: Annotated[tuple[Seal, ...], Field(max_length=200)] = ()
    chain: Chain | None = None

    @model_validator(mode="before")
    @classmethod
    def _from_first_form(cls, value: Any) -> Any:
        return upgraded(value) if isinstance(value, dict) else value

    @field_validator("records")
    @classmethod
    def _records_have_an_id(cls, value: tuple[Record, ...]) -> tuple[Record, ...]:
        """Records of before have none: they are numbered, so that a strike takes out one."""
        known = [r.uid for r in value if r.uid]
        if len(set(known)) != len(known):
            raise ValueError("records: an id stands twice")
        return numbered(value)

    @model_validator(mode="after")
    def _runs_are_single(self) -> "Job":
        uids = [r.uid for r in self.runs]
        if len(set(uids)) != len(uids):
            raise ValueError("runs: a uid stands twice")
        return self

    def entered(self, model: type[Entered]) -> Entered:
        """What is entered on the stage that this model is of."""
        return next(e for e in self._entries() if isinstance(e, model))

    def _entries(self) -> Iterator[Entry]:
        return (getattr(self, stage.field) for stage in IN_ORDER)

    def recorded(self, kind: type[Recorded]) -> tuple[Recorded, ...]:
        """The records of a kind, in order."""
        return tuple(r for r in self.records if isinstance(r, kind))

    @property
    def holds(self) -> tuple[HoldRun, ...]:
        return tuple(r for r in self.runs if isinstance(r, HoldRun))

    @property
    def vacua(self) -> tuple[VacuumRun, ...]:
        return tuple(r for r in self.runs if isinstance(r, VacuumRun))

    @property
    def departures(self) -> tuple[Departure, ...]:
        return self.recorded(Departure)

    @property
    def cutting(self) -> Cutting | None:
        """The cut plan as it was last carried out."""
        return next(reversed(self.recorded(Cutting)), None)

    @property
    def leak_checks(self) -> tuple[LeakCheck, ...]:
        return self.recorded(LeakCheck)

    @property
    def pump_overrides(self) -> tuple[PumpOverride, ...]:
        return self.recorded(PumpOverride)

    @property
    def isolations(self) -> tuple[Isolation, ...]:
        return self.recorded(Isolation)

    @property
    def strikes(self) -> tuple[Strike, ...]:
        return self.recorded(Strike)

    @property
    def handed_over(self) -> HandedOver | None:
        """How the job was handed over, while it was not opened again."""
        both = [r for r in self.records if isinstance(r, HandedOver | Reopened)]
        return both[-1] if both and isinstance(both[-1], HandedOver) else None

    @property
    def reopenings(self) -> tuple[Reopened, ...]:
        return self.recorded(Reopened)

    @property
    def part_changes(self) -> tuple[PartChange, ...]:
        return self.recorded(PartChange)

    @property
    def joints(self) -> tuple[JointRecord, ...]:
        return self.recorded(JointRecord)

    @property
    def pictures(self) -> tuple[Picture, ...]:
        return self.recorded(Picture)

    @property
    def weighings(self) -> tuple[Weighing, ...]:
        return self.recorded(Weighing)

    @property
    def releases(self) -> tuple[Release, ...]:
        return self.recorded(Release)

    @property
    def valve_steps(self) -> tuple[ValveSteps, ...]:
        return self.recorded(ValveSteps)

    @property
    def runnings(self) -> tuple[Running, ...]:
        return self.recorded(Running)
