"""The line: the stages of a job in order, and the call of each."""

from fairline.core import (
    charge,
    commission,
    evacuate,
    flare,
    hand_over,
    mount,
    pressure_test,
    route,
    survey,
)
from fairline.core.call import StageCall, Verdict
from fairline.core.job import Job
from fairline.core.practice import Practice, Rules, departures

STAGES: dict[str, str] = {
    "survey": "Survey",
    "mount": "Mount",
    "route": "Route",
    "flare": "Flare",
    "pressure-test": "Pressure test",
    "evacuate": "Evacuate",
    "charge": "Charge",
    "commission": "Commission",
    "hand-over": "Hand over",
}


def rules_of(job: Job, practice: Practice) -> Rules:
    """What governs a job: its outdoor unit, its first head, the house and its departures."""
    planned = job.equipment.outdoor
    zone = job.survey.now[0].zone if job.survey.now else ""
    return Rules(
        outdoor=planned.sheet if planned else None,
        head=job.equipment.head(zone),
        practice=practice,
        departures=departures(job.departures),
    )


def judge(job: Job, practice: Practice) -> dict[str, StageCall]:
    """The call of every stage, in the order of work; each may rest on those before it."""
    rules = rules_of(job, practice)
    stages = {
        "survey": survey.judge(job.survey, job.equipment, rules),
        "mount": mount.judge(job.mount, job.survey, job.equipment, rules),
        "route": route.judge(job.route, rules, len(job.survey.now)),
        "flare": flare.judge(job.flare, job.joints, rules),
        "pressure-test": pressure_test.judge(
            job.runs, job.pressure_test, rules, survey.open_coils(job.survey)
        ),
        "evacuate": evacuate.judge(job.runs, job.evacuate, rules),
    }
    length_m = route.installed_length_m(job.route, rules, len(job.survey.now))
    stages["charge"] = charge.judge(
        length_m,
        job.charge,
        job.weighings,
        job.releases,
        stages,
        rules,
        survey.wanted(job.survey, job.equipment),
    )
    stages["commission"] = commission.judge(job.runnings, rules)
    stages["hand-over"] = hand_over.judge(job.hand_over, stages, STAGES)
    return stages


def where(stages: dict[str, StageCall]) -> str:
    """The stage the job stands at: the first that does not hold yet."""
    for name, stage in stages.items():
        if stage.call.verdict not in (Verdict.HOLDS, Verdict.WATCH):
            return name
    return "hand-over"
