"""What the record says of runs of readings, and of what was done at the pump between them."""

from collections.abc import Iterator

from fairline.core.check import capitalized
from fairline.core.evacuate.records import WHAT, Accepted, Bled, Exposure, PumpEvent
from fairline.core.instrument import WHAT as WHAT_IS
from fairline.core.instrument import InstrumentOn
from fairline.core.quantities import show
from fairline.core.readings import AnyReading, HoldReading, Run
from fairline.core.route.circuits import Ports
from fairline.core.units import System
from fairline.web.frame.judged_job import JudgedJob
from fairline.web.frame.moments import moment
from fairline.web.frame.pages import hms
from fairline.web.record import NONE

RUN_WORDS = {"hold": "Nitrogen hold", "pull": "Pull", "decay": "Decay"}
STATES = {
    "opened": "opened to the air",
    "capped": "capped",
    "taped": "taped; tape is no seal",
    "sealed": "sealed with nitrogen",
}


def tests(judged: JudgedJob, system: System) -> Iterator[tuple[str, ...]]:
    """Run, begun, by, how many readings, the first, the last."""
    for run in judged.job.runs:
        if not run.readings:
            continue
        first, last = run.readings[0], run.readings[-1]
        simulated = ", simulated" if run.simulated else ""
        yield (
            f"{RUN_WORDS[run.kind]}{simulated}{_open(judged, run)}{_seen(judged, run)}",
            moment(run.started_at),
            run.started_by or NONE,
            str(len(run.readings)),
            _read(first, system),
            f"{_read(last, system)}, after {hms(last.t_s)}",
        )


def _open(judged: JudgedJob, run: Run) -> str:
    """Which ports were open to the rig, where a unit has several."""
    said = [p.open for p in judged.counted.recorded(Ports) if p.run == run.uid]
    return f", ports {', '.join(said[-1])}" if said else ""


def _seen(judged: JudgedJob, run: Run) -> str:
    seen = next((i for i in judged.job.isolations if i.run == run.uid), None)
    return f", valve shut and pump off seen by {seen.by}" if seen else ""


def _say(value: float | None, kind: str, system: System) -> str:
    return NONE if value is None else show(value, kind, system).text


def _read(reading: AnyReading, system: System) -> str:
    if isinstance(reading, HoldReading):
        pipe = _say(reading.pipe_c, "temperature", system)
        return f"{_say(reading.gauge_pa, 'gauge', system)}, pipe {pipe}"
    if reading.pa is not None:
        return _say(reading.pa, "vacuum", system)
    return _say(reading.gauge_pa, "needle", system)


def acts(judged: JudgedJob, system: System) -> Iterator[tuple[str, str, str]]:
    """When, what, by whom: open ends, nitrogen bled, ballast, oil, sweeps, a hold accepted."""
    for r in judged.counted.records:
        if isinstance(r, Exposure):
            runs = "All runs" if r.run == "all" else f"Run {r.run}"
            weather = f", {r.weather}" if r.weather else ""
            yield moment(r.at), f"{runs} {STATES[r.state]}{weather}", r.by
        elif isinstance(r, Bled):
            read = _say(r.gauge_pa or 0.0, "gauge", system)
            yield moment(r.at), f"Nitrogen bled, the gauge read {read}", r.by
        elif isinstance(r, PumpEvent):
            yield moment(r.at), capitalized(WHAT[r.what]), r.by
        elif isinstance(r, InstrumentOn):
            what = f"{capitalized(WHAT_IS[r.what])} on the job: {r.name}"
            yield moment(r.at), what + (", simulated" if r.simulated else ""), r.by
        elif isinstance(r, Accepted):
            yield moment(r.at), f"The hold was accepted as it is: {r.reason}", r.by
