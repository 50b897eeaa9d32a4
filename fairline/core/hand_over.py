"""Hand over: the whole line judged, labels on, the customer told."""

from fairline.core.call import Call, Check, StageCall, Verdict
from fairline.core.check import stage_call
from fairline.core.entry import Entry, LongText, Text

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
