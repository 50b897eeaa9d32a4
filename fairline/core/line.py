"""The line: the stages of a job in order, and the call of each."""

from fairline.core import (
    charge,
    commission,
    evacuate,
    flare,
    hand_over,
    kit,
    mount,
    pressure_test,
    route,
    survey,
)
from fairline.core.calc.nitrogen import atmosphere_pa
from fairline.core.call import StageCall, Verdict
from fairline.core.cutting import joins_of
from fairline.core.job import Job
from fairline.core.joints import JointSpec, joints
from fairline.core.leak_search import Suspect, suspects
from fairline.core.piping import Piping, piping
from fairline.core.ports import spare_ports
from fairline.core.practice import Practice, Rules, departures
from fairline.core.sheet import BranchBox, Kit, Tee
from fairline.core.standing import standing
from fairline.core.volume import volume

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
    fittings = [f.sheet for f in job.equipment.fittings]
    return Rules(
        outdoor=planned.sheet if planned else None,
        head=job.equipment.head(zone),
        heads={h.zone: h.sheet for h in job.equipment.heads},
        box=next((f for f in fittings if isinstance(f, BranchBox)), None),
        tee=next((f for f in fittings if isinstance(f, Tee)), None),
        kits=_kits(job),
        practice=practice,
        departures=departures(job.departures),
    )


def _kits(job: Job) -> tuple[Kit, ...]:
    """The pre-charged kits of a job whose every head of now has one; else none."""
    found = {f.at: f.sheet for f in job.equipment.fittings if isinstance(f.sheet, Kit)}
    zones = [head.zone for head in job.survey.now]
    named = [found[z] for z in zones if z in found and job.route.run(z).kit]
    return tuple(named) if zones and len(named) == len(zones) else ()


def altitude_m(job: Job) -> float:
    """How high the site lies: as the pressure test says it, else as the survey does."""
    own = job.pressure_test.altitude_m
    return own if own is not None else job.survey.altitude_m or 0.0


def piping_of(job: Job, rules: Rules) -> Piping:
    """The job's runs worked out: what every stage from Route on rests on."""
    return piping(job.route, job.survey, job.equipment, rules)


def joints_of(job: Job, rules: Rules, pipes: Piping) -> list[JointSpec]:
    """Every joint of the job: at both ends of each run, and where the tube was joined."""
    joins = joins_of(job.cutting.pieces) if job.cutting else {}
    spare = spare_ports(job.route, job.survey, pipes)
    return joints(pipes, job.route, job.equipment, rules, joins, spare)


def suspects_of(job: Job, rules: Rules, pipes: Piping) -> list[Suspect]:
    """What could leak, in the order to look; looks since the hold that counts began.

    Of a charged kit: looks since its valves opened, when it came under refrigerant.
    """
    hold = pressure_test.latest(job.runs, job.pressure_test)
    made = flare.joints(job.flare, joints_of(job, rules, pipes), job.joints, rules)
    since = pressure_test.since(hold) if hold else job.created_at
    if kit.sealed(rules) and job.releases:
        since = job.releases[0].at
    return suspects(made, survey.open_coils(job.survey), job.leak_checks, since)


def judge(job: Job, practice: Practice) -> dict[str, StageCall]:
    """The call of every stage of a job under a house practice."""
    counted = standing(job)
    rules = rules_of(counted, practice)
    return stages_of(counted, rules, piping_of(counted, rules))


def stages_of(job: Job, rules: Rules, pipes: Piping) -> dict[str, StageCall]:
    """The call of every stage, in the order of work; each may rest on those before it.

    ``job`` is the job as it counts (``standing``).
    """
    suspected = suspects_of(job, rules, pipes)
    tested = job.pressure_test
    if tested.altitude_m is None:
        tested = tested.model_copy(update={"altitude_m": altitude_m(job)})
    air_pa = atmosphere_pa(altitude_m(job))
    stages = {
        "survey": survey.judge(job.survey, job.equipment, rules),
        "mount": mount.judge(job.mount, job.survey, job.equipment, rules),
        "route": route.judge(job.route, job.survey, pipes, rules, job.cutting),
        "flare": flare.judge(job.flare, joints_of(job, rules, pipes), job.joints, rules),
        "pressure-test": pressure_test.judge(
            job.runs,
            tested,
            rules,
            survey.open_coils(job.survey),
            volume(pipes, rules),
            suspected,
        ),
    }
    stages["evacuate"] = evacuate.judge(
        job.runs,
        job.evacuate,
        rules,
        stages["pressure-test"],
        job.pump_overrides,
        job.isolations,
        air_pa,
    )
    stages["charge"] = charge.judge(
        pipes,
        job.charge,
        job.weighings,
        job.releases,
        stages,
        rules,
        survey.wanted(job.survey, job.equipment),
        suspected,
    )
    stages["commission"] = commission.judge(
        job.runnings, rules, [h.zone for h in job.survey.now], bool(job.releases), air_pa
    )
    stages["hand-over"] = hand_over.judge(job.hand_over, stages, STAGES)
    return stages


def where(stages: dict[str, StageCall]) -> str:
    """The stage the job stands at: the first that does not hold yet."""
    for name, stage in stages.items():
        if stage.call.verdict not in (Verdict.HOLDS, Verdict.WATCH):
            return name
    return "hand-over"
