"""What several tests ask of a job: its piping, its joints, what could leak, a stage's call."""

from typing import Any

from httpx2 import Response

from fairline.core.call import StageCall
from fairline.core.evacuate import lane as evacuate
from fairline.core.hand_over.label import UnitLabel
from fairline.core.hand_over.stage import HandOverWorked
from fairline.core.job import Job
from fairline.core.line import rules_of, work
from fairline.core.practice import Practice, Rules
from fairline.core.pressure_test import stage as pressure_test
from fairline.core.pressure_test.leak_search import Suspect
from fairline.core.pressure_test.stage import PressureTestWorked
from fairline.core.route.cutting import joins_of
from fairline.core.route.joints import JointSpec, joints
from fairline.core.route.piping import Piping, piping
from fairline.core.route.ports import spare_ports
from fairline.core.route.stage import RouteWorked


def words(answer: Response) -> str:
    """What a page says, however its lines are broken."""
    return " ".join(answer.text.split())


def piping_of(job: Job, rules: Rules) -> Piping:
    return piping(job.route, job.survey, job.equipment, rules)


def joints_of(job: Job, rules: Rules, pipes: Piping) -> list[JointSpec]:
    joins = joins_of(job.cutting.pieces) if job.cutting else {}
    spare = spare_ports(job.route, job.survey, pipes)
    return joints(pipes, job.route, job.equipment, rules, joins, spare)


def suspects_of(job: Job, practice: Practice) -> list[Suspect]:
    return work(job, practice).of(PressureTestWorked).suspects


def routed(job: Job, practice: Practice | None = None) -> RouteWorked:
    return work(job, practice or Practice()).of(RouteWorked)


def label_of(job: Job, practice: Practice | None = None) -> UnitLabel:
    return work(job, practice or Practice()).of(HandOverWorked).label


def hold_call(*of: Any) -> StageCall:
    """The call of the pressure test alone: of runs, what is entered, rules and the like."""
    return pressure_test.worked_out(*of).call


def evacuate_call(
    runs: Any,
    entry: Any,
    rules: Any,
    test: Any,
    overrides: Any = (),
    isolations: Any = (),
    **more: Any,
) -> StageCall:
    """The call of Evacuate alone; ``more``: other records of the stage, by their fields."""
    recorded = evacuate.Recorded(isolations=isolations, by_name=bool(overrides), **more)
    return evacuate.worked_out(runs, entry, rules, test, recorded).call


__all__ = [
    "evacuate_call",
    "hold_call",
    "joints_of",
    "label_of",
    "piping_of",
    "routed",
    "rules_of",
    "suspects_of",
    "words",
]
