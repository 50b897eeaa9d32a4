"""The line: the stages of a job in order, each worked out on those before it."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, fields, replace
from typing import Any, TypeVar

from fairline.core.call import Call, StageCall, Verdict
from fairline.core.contents.act import Act
from fairline.core.counted import counted_job
from fairline.core.entry import Record
from fairline.core.flare.stage import STAGE as FLARE
from fairline.core.flare.stage import FlareStageResult
from fairline.core.job import Job
from fairline.core.parts import Mark, is_entered
from fairline.core.practice import Practice, Rules, departures
from fairline.core.route.stage import RouteStageResult
from fairline.core.sheet import BranchBox, Kit, Tee
from fairline.core.stage import Question, Stage, StageContext, StageResult
from fairline.core.stages import BESIDE, IN_ORDER

AnyResult = TypeVar("AnyResult", bound=StageResult)


@dataclass(frozen=True, eq=False)
class CachedStage:
    """A stage that was worked out, and what it had asked for."""

    stage: Stage
    worked: StageResult
    asked: Mapping[Question, Any]


@dataclass(frozen=True, eq=False)
class LineResult:
    """A whole job worked out: what of it counts, what governs it, and every stage.

    ``counted``: nothing struck out, nothing simulated but on a practice job.
    """

    counted: Job
    rules: Rules
    done: dict[str, CachedStage]

    def of(self, kind: type[AnyResult]) -> AnyResult:
        """What a stage worked out, by its own kind."""
        return next(d.worked for d in self.done.values() if isinstance(d.worked, kind))

    @property
    def calls(self) -> dict[str, StageCall]:
        """The call of every stage, in the order of work."""
        return {name: d.worked.call for name, d in self.done.items()}


def work(job: Job, practice: Practice, before: LineResult | None = None) -> LineResult:
    """Every stage of a job worked out, each on those before it.

    Of ``before``, the same job earlier, stages stand that asked for nothing that has changed.
    """
    counted = counted_job(job)
    rules = rules_of(counted, practice)
    done: dict[str, CachedStage] = {}
    acts = acts_of(counted)
    for stage in IN_ORDER:
        worked = {name: (d.stage, d.worked) for name, d in done.items()}
        context = StageContext(counted, rules, worked, acts)
        held = before.done.get(stage.name) if before else None
        if held is None or not context.stands(held.asked):
            found = stage.judged(context)
            same = held is not None and _alike(held.worked, found)
            held = CachedStage(stage, held.worked if held and same else found, context.asked)
        done[stage.name] = held
    return LineResult(counted=counted, rules=rules, done=done)


def acts_of(job: Job) -> tuple[Act, ...]:
    """What was done on a job that says what is in its pipes, each stage's acts in its own words."""
    found: list[Act] = []
    for number, record in enumerate(job.records):
        found += (replace(act, number=number) for act in acts_of_record(record))
    of_run = [stage.run_acts for stage in IN_ORDER if stage.run_acts]
    for number, run in enumerate(job.runs):
        found += (replace(act, number=number) for acts in of_run for act in acts(run))
    return tuple(found)


def acts_of_record(record: Record) -> Iterator[Act]:
    """What a record of any stage does to what is in the pipes."""
    of_record = [stage.acts for stage in IN_ORDER if stage.acts]
    return (act for acts in of_record for act in acts(record))


def _alike(before: StageResult, now: StageResult) -> bool:
    """Whether a stage came to the very same: then what rests on it stands.

    What holds arrays, or a value that compares by identity, is never taken for the same.
    """
    try:
        return all(getattr(before, f.name) == getattr(now, f.name) for f in fields(now))
    except ValueError:  # arrays
        return False


def up_to_flare(job: Job, practice: Practice) -> tuple[RouteStageResult, FlareStageResult]:
    """A job worked out as far as its parts are known: no stage after Flare."""
    counted = counted_job(job)
    rules, worked = rules_of(counted, practice), dict[str, tuple[Stage, StageResult]]()
    acts = acts_of(counted)
    for stage in IN_ORDER:
        worked[stage.name] = stage, stage.judged(StageContext(counted, rules, worked, acts))
        if stage is FLARE:
            break
    context = StageContext(counted, rules, worked, acts)
    return context.of(RouteStageResult), context.of(FlareStageResult)


def parts_of(job: Job, practice: Practice) -> dict[str, Mark]:
    """The machines and tubes of a job (``core/proofs``)."""
    now = up_to_flare(job, practice)[1].proofs.now
    return {name: mark for name, mark in now.items() if is_entered(name)}


def judge(job: Job, practice: Practice) -> dict[str, StageCall]:
    """The call of every stage of a job under a house practice."""
    return work(job, practice).calls


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


def current_stage(stages: dict[str, StageCall]) -> str:
    """The stage the job stands at: the first that does not hold yet.

    One that was begun and is a stop comes before all, somebody can be hurt there; then one that is
    short: an earlier stage that is open hides neither. What goes on beside the next is passed over
    while it only waits and the next has begun.
    """
    names = list(stages)
    for verdict in (Verdict.STOP, Verdict.SHORT):
        for name, stage in stages.items():
            if stage.started and stage.call.verdict is verdict:
                return name
    for name, stage in stages.items():
        later = names[names.index(name) + 1 :]
        if _passed(stage.call) or (
            _passed(stage.proof) and any(stages[after].started for after in later)
        ):
            continue  # lists that nobody ticked hold up nothing that was begun after them
        following = later[0] if name in BESIDE else ""
        goes_on = following in stages and stages[following].started
        if not (goes_on and stage.call.verdict is Verdict.WAIT):
            return name
    open_ = (n for n in names if n in BESIDE and not _passed(stages[n].call))
    return next(open_, "hand-over")


def _passed(call: Call) -> bool:
    return call.verdict in (Verdict.HOLDS, Verdict.WATCH)
