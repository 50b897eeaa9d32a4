"""Hand over: the whole line judged, labels on, the customer told; then the job stands as it is."""

from dataclasses import dataclass
from typing import Annotated, Literal

from pydantic import Field

from fairline.core.call import Call, Check, StageCall, Verdict
from fairline.core.charge.entry import Release, Weighing
from fairline.core.charge.stage import ChargeWorked
from fairline.core.check import stage_call
from fairline.core.entry import Entry, LongText, Record, Text
from fairline.core.hand_over.label import UnitLabel, unit_label
from fairline.core.hand_over.picture import Picture
from fairline.core.route.stage import RouteWorked
from fairline.core.stage import Basis, Stage, Worked

TASKS = {
    "labels": "Label at the outdoor unit: length, added and total charge, date, company",
    "filters": "Customer shown the filters, to be washed every month to six weeks of running",
    "breaker": "Customer shown breaker and disconnect",
    "yearly": "Coil and drain to be looked after yearly",
    "manuals": "Manuals and remote handed over",
    "warranty": "Units registered for warranty",
}


class HandOverEntry(Entry):
    labels: bool = False
    filters: bool = False
    breaker: bool = False
    yearly: bool = False
    manuals: bool = False
    warranty: bool = False
    received_by: Text = ""
    notes: LongText = ""


class DayCall(Entry):
    """What a stage was called on the day of handing over."""

    verdict: Verdict
    because: Annotated[str, Field(max_length=2000)] = ""


class HandedOver(Record):
    """The job was handed over: it changes no more, and keeps the calls of that day.

    ``version`` is the program's that called them.
    """

    kind: Literal["handed-over"] = "handed-over"
    to: Text = ""
    calls: Annotated[dict[str, DayCall], Field(max_length=40)] = {}
    version: Text = ""


class Reopened(Record):
    """A job that was handed over was opened again: by whom, and why."""

    kind: Literal["reopened"] = "reopened"
    reason: Annotated[Text, Field(min_length=1)]


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
class HandOverWorked(Worked):
    """What goes on the label at the outdoor unit."""

    label: UnitLabel


def work(basis: Basis) -> HandOverWorked:
    done = basis.all_before()
    calls = {name: worked.call for name, (_, worked) in done.items()}
    titles = {name: title for name, (title, _) in done.items()}
    return HandOverWorked(
        call=judge(basis.entry(HandOverEntry), calls, titles),
        label=unit_label(
            basis.rules,
            basis.of(RouteWorked),
            basis.of(ChargeWorked),
            basis.records(Weighing),
            basis.records(Release),
        ),
    )


def judge(entry: HandOverEntry, stages: dict[str, StageCall], titles: dict[str, str]) -> StageCall:
    """Nothing is handed over as holding that does not hold; what is missing is said."""
    checks = []
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
        done = getattr(entry, name)
        call = (
            Call(verdict=Verdict.HOLDS, because=f"{label}.")
            if done
            else Call(verdict=Verdict.WAIT, because=f"Not done: {label}.", do_next=f"{label}.")
        )
        checks.append(Check(id=name, label=label, call=call))
    done = sum(c.call.verdict is Verdict.HOLDS for c in checks)
    started = entry != HandOverEntry()
    return stage_call(
        checks,
        "Every stage holds, and the customer has been told.",
        summary=f"{done} of {len(checks)}" if started else "",
        started=started,
    )


STAGE = Stage(
    name="hand-over",
    title="Hand over",
    entry=HandOverEntry,
    work=work,
    records=(Picture, HandedOver, Reopened),
)
