"""What the record tells of Charge: weighings, valves as they were opened, looks, in their order."""

from collections.abc import Callable, Iterator
from datetime import datetime

from fairline.core.charge.entry import Release, Weighing
from fairline.core.charge.stage import ChargeStageResult
from fairline.core.charge.valve_order import STEPS, ValveSteps
from fairline.web.frame.judged_job import JudgedJob

Told = tuple[str, str, datetime, bool]  # in words, by whom, when, whether it is set off
Say = Callable[[float | None, str], str]


def charged(judged: JudgedJob, say: Say) -> Iterator[Told]:
    """Every act of Charge in words."""
    job = judged.counted
    for o in job.pump_overrides:
        told = f"Pump on before the pressure test held. Override of {o.by}: {o.reason}"
        yield told, o.by, o.at, True
    for w in job.weighings:
        yield _weighed(w, say), w.by, w.at, False
    for r in job.releases:
        yield _opened(r), r.by, r.at, r.overridden
    for s in job.valve_steps:
        yield _stepped(s), s.by, s.at, s.went_wrong
    for suspect in judged.of(ChargeStageResult).suspects:
        for last in suspect.checks[-1:]:
            words = f"Under refrigerant: {suspect.call.because}"
            yield words, last.by, last.at, last.found == "leak"


def _weighed(w: Weighing, say: Say) -> str:
    ends = " to ".join(say(kg, "cylinder") for kg in (w.before_kg, w.after_kg))
    of_it = (
        f"cylinder {w.cylinder}" if w.cylinder else "",
        w.refrigerant,
        f"drawn as {w.phase}" if w.phase else "",
        "simulated" if w.simulated else "",
    )
    cylinder = "".join(f", {words}" for words in of_it if words)
    return f"{ends}{cylinder}: {say(w.into_system_kg, 'charge')} into the system"


def _opened(r: Release) -> str:
    of = f" of {', '.join(r.ports)}" if r.ports else ""
    words = f"Valves{of} opened, {r.order.replace('_', ' ')}"
    words += "" if r.full_open else ", not full open"
    words += "" if r.caps_on else ", caps off"
    if r.hiss:
        words += ", each valve hissed" if r.hiss == "heard" else ", no hiss"
    if r.overridden:
        words += f". Override of {r.override_by}: {r.override_reason}"
    return words


def _stepped(s: ValveSteps) -> str:
    of = f"Port {', '.join(s.ports)}: " if s.ports else ""
    done = "; ".join(STEPS[name].words for name in s.steps)
    return of + done + (f": {STEPS[s.steps[-1]].unless.lower()}" if s.went_wrong else "")
