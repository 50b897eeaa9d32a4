"""Hand over: the whole line judged, labels on, the customer told; then the job stands as it is."""

import hashlib
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from types import MappingProxyType

from fairline.core.call import Call, Check, StageCall, Verdict, worst
from fairline.core.charge.entry import Weighing
from fairline.core.charge.stage import ChargeStageResult
from fairline.core.check import stage_call
from fairline.core.commission.start_up import CommissionEntry
from fairline.core.evacuate.group_call import ACCEPTED
from fairline.core.flare.stage import FlareStageResult
from fairline.core.hand_over.entry import HandOverEntry
from fairline.core.hand_over.label import UnitLabel, unit_label
from fairline.core.hand_over.owner import Known, Part, owners_page
from fairline.core.hand_over.picture import Picture, missing, pictures_check, things
from fairline.core.hand_over.records import (
    Addition,
    AnswerToIt,
    DayCall,
    HandedOver,
    Question,
    Reopened,
    Visit,
    VisitDone,
)
from fairline.core.hand_over.visits import Due, visits
from fairline.core.mount.stage import MountEntry
from fairline.core.parts import digest, kind_of
from fairline.core.procedures.procedure import PROCEDURES, Asked, HandStep, asked
from fairline.core.proofs import Proofs
from fairline.core.route.entry import RouteEntry
from fairline.core.route.stage import RouteStageResult
from fairline.core.stage import Stage, StageContext, StageResult
from fairline.core.survey.stage import SurveyEntry
from fairline.core.wire.entry import WireEntry

TASKS = {
    "labels": "Label at the outdoor unit: length, added and total charge, date, company",
    "filters": "Customer shown the filters, to be washed every month to six weeks of running",
    "breaker": "Customer shown breaker and disconnect",
    "yearly": "Coil and drain to be looked after yearly",
    "manuals": "Manuals and remote handed over",
    "warranty": "Units registered for warranty",
}


TASKS_SHORT = {
    "labels": "label hangs",
    "filters": "filters shown",
    "breaker": "breaker shown",
    "yearly": "yearly care told",
    "manuals": "manuals and remote left",
    "warranty": "units registered",
}
KEPT_OF = {"labels": "label_of", "warranty": "registered_of"}
OTHERWISE = {
    "labels": "The label was written before something on it changed",
    "warranty": "Another machine stands there than was registered",
}


def left_open(stages: Mapping[str, StageCall]) -> list[str]:
    """The stages that neither hold nor were accepted by name.

    Handing over itself is among them for what is its own, not for the stages before it.
    """
    found = []
    for name, stage in stages.items():
        own = [c.call.verdict for c in stage.checks if c.id not in stages]
        holds = stage.call.verdict is Verdict.HOLDS or ACCEPTED in stage.findings
        if not holds and (name != "hand-over" or worst(own) is not Verdict.HOLDS):
            found.append(name)
    return found


def day_calls(stages: dict[str, StageCall]) -> dict[str, DayCall]:
    """The calls as a record of handing over keeps them."""
    return {
        name: DayCall(verdict=s.call.verdict, because=s.call.because[:2000])
        for name, s in stages.items()
    }


def called_otherwise(record: HandedOver, stages: dict[str, StageCall]) -> dict[str, DayCall]:
    """The stages whose verdict is another one than on the day: what it was then."""
    return {
        name: then
        for name, then in record.calls.items()
        if name in stages and stages[name].call.verdict is not then.verdict
    }


@dataclass(frozen=True, eq=False)
class HandOverStageResult(StageResult):
    """What goes on the label at the outdoor unit; ``now`` has digests of what ticks are for.

    ``visits``: those due and those made. ``owner``: the page that the owner is left with.
    """

    label: UnitLabel
    now: dict[str, str]
    visits: list[Due]
    owner: list[Part]


def work(context: StageContext) -> HandOverStageResult:
    done = context.all_before()
    calls = {name: worked.call for name, (_, worked) in done.items()}
    titles = {name: title for name, (title, _) in done.items()}
    label = unit_label(
        context.rules,
        context.of(RouteStageResult),
        context.of(ChargeStageResult),
        context.records(Weighing),
        {
            j.place.partition(".")[0]
            for j in context.of(FlareStageResult).joints
            if j.cap and not j.record
        },
    )
    if context.contents.lost is not None:  # nobody knows what is in it
        label = label.model_copy(update={"added_kg": None, "total_kg": None})
    now = {"labels": digest_of(label), "warranty": machines_of(context.proofs)}
    due = visits(
        context.entry(MountEntry),
        context.entry(CommissionEntry),
        [*context.records(Visit), *context.records(VisitDone)],
    )
    return HandOverStageResult(
        call=judge(context.entry(HandOverEntry), calls, titles, now, _pictures(context)),
        label=label,
        now=now,
        visits=due,
        owner=owners_page(
            Known(
                survey=context.entry(SurveyEntry),
                mount=context.entry(MountEntry),
                wire=context.entry(WireEntry),
                commission=context.entry(CommissionEntry),
                entry=context.entry(HandOverEntry),
                rules=context.rules,
                label=label,
                visits=tuple(due),
            )
        ),
    )


def _pictures(context: StageContext) -> list[Check]:
    """What the company's list of pictures still asks; nothing where it has none."""
    wanted = context.rules.practice.pictures
    if not wanted:
        return []
    joints = [j.place for j in context.of(FlareStageResult).joints]
    offered = things(context.entry(SurveyEntry), context.entry(RouteEntry), joints)
    return [pictures_check(missing(wanted, offered, context.records(Picture)))]


def digest_of(label: UnitLabel) -> str:
    """What a label says, as a digest."""
    return hashlib.sha256(label.model_dump_json().encode()).hexdigest()[:16]


def machines_of(proofs: Proofs) -> str:
    """The machines of a job with their serials, as a digest: those that are registered."""
    return digest({n: m for n, m in proofs.now.items() if kind_of(n) in ("unit", "head")})


def as_ticked(entry: HandOverEntry, before: HandOverEntry, now: Mapping[str, str]) -> HandOverEntry:
    """An entry that keeps what a tick was for: the label as it was, the machines there were."""
    update = {}
    for name, kept in KEPT_OF.items():
        done, was = getattr(entry, name), getattr(before, name)
        if done != was:
            update[kept] = now[name] if done else ""
    return entry.model_copy(update=update)


def judge(
    entry: HandOverEntry,
    stages: dict[str, StageCall],
    titles: dict[str, str],
    now: Mapping[str, str] = MappingProxyType({}),
    more: Sequence[Check] = (),
) -> StageCall:
    """Nothing is handed over as holding that does not hold; what is missing is said.

    ``now``: digests of the label and of the machines as they are. ``more``: what else is asked.
    """
    checks: list[Check] = []
    for name, stage in stages.items():
        verdict = stage.call.verdict
        title = titles[name]
        if verdict in (Verdict.HOLDS, Verdict.WATCH):
            call = Call(
                verdict=verdict,
                because=f"{title}: {stage.call.because}",
                do_next=stage.call.do_next,
            )
        else:
            call = Call(
                verdict=verdict,
                because=f"{title} is not done: {stage.call.because}",
                do_next=stage.call.do_next,
            )
        checks.append(Check(id=name, label=title, call=call))
    for name, label in TASKS.items():
        done, kept = getattr(entry, name), getattr(entry, KEPT_OF.get(name, ""), "")
        if done and kept and kept != now.get(name, kept):
            call = Call(
                verdict=Verdict.WAIT, because=f"{OTHERWISE[name]}.", do_next=f"Again: {label}."
            )
        elif done:
            call = Call(verdict=Verdict.HOLDS, because=f"{label}.")
        else:
            call = Call(verdict=Verdict.WAIT, because=f"Not done: {label}.", do_next=f"{label}.")
        checks.append(Check(id=name, label=label, call=call))
    checks += more
    done = sum(c.call.verdict is Verdict.HOLDS for c in checks)
    started = entry != HandOverEntry()
    return stage_call(
        checks,
        "Every stage holds, and the customer has been told.",
        summary=f"{done} of {len(checks)}" if started else "",
        started=started,
    )


def procedures(context: StageContext, _: HandOverStageResult) -> Iterator[Asked]:
    """Every joint's insulation, as its own open item; then what is done before leaving."""
    joints = [j for j in context.of(FlareStageResult).joints if not j.cap and j.record]
    steps = [HandStep(name=j.key, words=j.label, risk="A bare joint drips.") for j in joints]
    yield from asked("wrap", {}, steps=steps)
    own = [
        HandStep(name=f"own-{hashlib.sha256(words.encode()).hexdigest()[:8]}", words=words)
        for words in context.rules.practice.closing
    ]
    yield from asked("closing", {}, steps=[*PROCEDURES["closing"].steps, *own])


STAGE = Stage(
    name="hand-over",
    procedures=procedures,
    title="Hand over",
    entry=HandOverEntry,
    work=work,
    records=(Picture, HandedOver, Reopened, Addition, Visit, VisitDone, Question, AnswerToIt),
)
