"""The stages of a job in the order of work: the one list that everything else reads."""

from fairline.core.charge.stage import STAGE as CHARGE
from fairline.core.commission.stage import STAGE as COMMISSION
from fairline.core.entry import Entry, Record
from fairline.core.evacuate.stage import STAGE as EVACUATE
from fairline.core.flare.stage import STAGE as FLARE
from fairline.core.hand_over.stage import STAGE as HAND_OVER
from fairline.core.mount.stage import STAGE as MOUNT
from fairline.core.practice import Departure
from fairline.core.pressure_test.stage import STAGE as PRESSURE_TEST
from fairline.core.procedures.records import ProcedureSteps
from fairline.core.readings import RunKind
from fairline.core.route.stage import STAGE as ROUTE
from fairline.core.stage import Stage
from fairline.core.strike import Strike
from fairline.core.survey.stage import STAGE as SURVEY
from fairline.core.wire.stage import STAGE as WIRE

IN_ORDER = (
    SURVEY,
    MOUNT,
    ROUTE,
    FLARE,
    PRESSURE_TEST,
    WIRE,
    EVACUATE,
    CHARGE,
    COMMISSION,
    HAND_OVER,
)
STAGES: dict[str, Stage] = {stage.name: stage for stage in IN_ORDER}
TITLES: dict[str, str] = {stage.name: stage.title for stage in IN_ORDER}
BESIDE = frozenset(stage.name for stage in IN_ORDER if stage.beside)
ENTRIES: dict[str, type[Entry]] = {stage.name: stage.entry for stage in IN_ORDER}
RECORDS: tuple[type[Record], ...] = (
    *(record for stage in IN_ORDER for record in stage.records),
    Departure,
    ProcedureSteps,
    Strike,
)


def kind_of(record: type[Record]) -> str:
    """The kind by which a record's model is known."""
    return str(record.model_fields["kind"].default)


STAGE_OF_RECORD: dict[str, str] = {
    kind_of(record): stage.name for stage in IN_ORDER for record in stage.records
}
STAGE_OF_RUN: dict[RunKind, str] = {kind: stage.name for stage in IN_ORDER for kind in stage.runs}
STRUCK_WORDS: dict[str, str] = {kind_of(r): r.struck for r in RECORDS if r.struck}
