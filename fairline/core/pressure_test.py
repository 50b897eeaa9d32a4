"""Pressure test: nitrogen holds, judged on what the pipe's temperature does not explain."""

from collections.abc import Sequence
from datetime import datetime, timedelta

from fairline.core import kit
from fairline.core.calc.leak_rate import LeakRateRequest, LeakRateResult, leak_rate
from fairline.core.calc.nitrogen import expected_gauge_pa
from fairline.core.calc.pressure_hold import PressureHoldResult, uncertainty_pa
from fairline.core.call import Answer, Call, Check, Frozen, StageCall, Verdict
from fairline.core.check import fault, plural, stage_call
from fairline.core.hold_plan import Plan, PlanStep, plan, steps
from fairline.core.hold_readings import TestEntry, judged
from fairline.core.holds import Hold, holds
from fairline.core.leak_search import Suspect, next_to_look_at
from fairline.core.practice import Rules
from fairline.core.quantities import both, duration
from fairline.core.readings import PROBES, Probe, Run
from fairline.core.volume import Volume


class StepDone(Frozen):
    """A step with the run that answers for it, and its call."""

    step: PlanStep
    run: Run | None
    call: Call


class CurvePoint(Frozen):
    """One instant of the chart: what was read, what temperature explains, and the doubt. Pa."""

    t_s: float
    gauge_pa: float
    pipe_c: float
    expected_pa: float
    doubt_pa: float


def steps_done(runs: tuple[Run, ...], entry: TestEntry, rules: Rules) -> list[StepDone]:
    """Every step judged on the newest hold that began at its pressure.

    A stop is passed where a later one has begun without a leak.
    """
    to_hold = plan(rules)
    if to_hold is None:
        return []
    all_holds = [h.run for h in holds(runs, entry.atmosphere_pa)]
    found: list[StepDone] = []
    passed = False
    for step in reversed(steps(to_hold)):
        above = found[-1].step.gauge_pa if found else None
        own = [r for r in all_holds if _began_at(r, step, above, entry)]
        run = own[-1] if own else None
        if run is not None:
            at = to_hold.model_copy(
                update={"gauge_pa": step.gauge_pa, "hold_s": step.hold_s, "limits": ()}
            )
            call = judged(run, entry, at).call
            passed = passed or call.verdict is not Verdict.SHORT
        elif passed:
            call = Call(verdict=Verdict.HOLDS, because="Passed on the way up.")
        else:
            call = Call(
                verdict=Verdict.WAIT,
                because=step.why,
                do_next=f"Bring dry nitrogen to {both(step.gauge_pa, 'gauge')}.",
            )
        found.append(StepDone(step=step, run=run, call=call))
    return found[::-1]


def _began_at(run: Run, step: PlanStep, above: float | None, entry: TestEntry) -> bool:
    first = run.readings[0].gauge_pa or 0.0
    high_enough = first >= step.gauge_pa - entry.resolution_pa - 1e-6
    return high_enough and (above is None or first < above - entry.resolution_pa)


def leaks(
    run: Run | None, entry: TestEntry, rules: Rules, held: Volume | None
) -> Answer[LeakRateResult] | None:
    """What leak the hold shows or could have shown; None while volume or hold is not known."""
    worked = answer(run, entry, rules)
    if worked is None or run is None or held is None or rules.outdoor is None:
        return None
    first = run.readings[0].gauge_pa or 0.0
    if first <= 1000:
        return None
    wanted = entry.show_leak_kg
    return leak_rate(
        LeakRateRequest(
            volume_m3=held.total_m3,
            gauge_pa=first,
            uncertainty_pa=max(worked.result.uncertainty_pa, 1.0),
            held_s=worked.result.held_s,
            refrigerant=rules.outdoor.refrigerant,
            atmosphere_pa=entry.atmosphere_pa,
            lost_pa=min(-worked.result.unexplained_pa, first),
            leak_g_year=wanted * 1000 if wanted else None,
        )
    )


def latest(runs: Sequence[Run], entry: TestEntry) -> Hold | None:
    """The hold that counts: the last one begun that has a reading."""
    newest = next((r for r in reversed(runs) if r.kind == "hold" and r.readings), None)
    return holds([newest], entry.atmosphere_pa)[-1] if newest else None


def since(hold: Hold) -> datetime:
    """When a hold began: its log, or the change that parted it from the one before."""
    began_s = hold.run.readings[0].t_s if hold.began else 0.0
    return hold.run.started_at + timedelta(seconds=began_s)


def answer(run: Run | None, entry: TestEntry, rules: Rules) -> Answer[PressureHoldResult] | None:
    to_hold = plan(rules)
    if run is None or not run.readings or to_hold is None:
        return None
    return judged(run, entry, to_hold)


def earlier(runs: Sequence[Run], entry: TestEntry, rules: Rules) -> list[tuple[Hold, Call]]:
    """The holds before the one that counts, each judged for what it lost while it lasted."""
    to_hold = plan(rules)
    if to_hold is None:
        return []
    found = []
    for hold in holds(runs, entry.atmosphere_pa)[:-1]:
        first, last = hold.run.readings[0], hold.run.readings[-1]
        asked = {
            "gauge_pa": max(1.0, min(to_hold.gauge_pa, first.gauge_pa or 0.0)),
            "hold_s": min(to_hold.hold_s, last.t_s - first.t_s),
        }
        found.append((hold, judged(hold.run, entry, to_hold.model_copy(update=asked)).call))
    return found


def curve(run: Run, entry: TestEntry, points: int = 200) -> list[CurvePoint]:
    """The chart's points, thinned to at most ``points`` with first and last kept."""
    if not run.readings:
        return []
    step = max(1, (len(run.readings) - 1) // max(points - 1, 1))
    chosen = list(run.readings[::step])
    if chosen[-1] is not run.readings[-1]:
        chosen.append(run.readings[-1])
    first, atmosphere = run.readings[0], entry.atmosphere_pa
    found = []
    for r in chosen:
        gauge, pipe = r.gauge_pa or 0.0, r.pipe_c or 0.0
        found.append(
            CurvePoint(
                t_s=r.t_s - first.t_s,
                gauge_pa=gauge,
                pipe_c=pipe,
                expected_pa=expected_gauge_pa(
                    first.gauge_pa or 0.0, first.pipe_c or 0.0, pipe, atmosphere
                ),
                doubt_pa=uncertainty_pa(
                    gauge + atmosphere, pipe + 273.15, entry.resolution_pa, entry.thermometer_k
                ),
            )
        )
    return found


def judge(
    runs: tuple[Run, ...], entry: TestEntry, rules: Rules, open_coils: Sequence[str] = (),
    held: Volume | None = None, found: Sequence[Suspect] = (),
) -> StageCall:  # fmt: skip
    """The nitrogen hold; zones in ``open_coils`` have a coil whose leak check is still open.

    ``held`` is the system's volume, ``found`` every joint with what was seen at it.
    """
    nitrogen = tuple(r for r in runs if r.kind == "hold")
    if (unasked := kit.not_asked(rules, nitrogen, "nitrogen")) is not None:
        return unasked
    to_hold = plan(rules)
    hold = latest(runs, entry)
    run = hold.run if hold else None
    if to_hold is None:
        call = Call(
            verdict=Verdict.UNKNOWN,
            because="The sheet gives no maximum test pressure.",
            do_next="Find the maximum test pressure on the sheet. Never guess it.",
        )
        return stage_call(
            [Check(id="hold", label="Nitrogen hold", call=call), *_coils(open_coils)],
            "",
            started=run is not None,
        )
    worked = answer(run, entry, rules)
    if worked is None or run is None:
        call = Call(
            verdict=Verdict.WAIT,
            because="No nitrogen hold has begun.",
            do_next=f"Bring dry nitrogen to {both(to_hold.gauge_pa, 'gauge')} and take the "
            "first reading with the pipe's temperature.",
        )
        return stage_call(
            [Check(id="hold", label="Nitrogen hold", call=call), *_coils(open_coils)],
            "",
            started=False,
            governed_by=to_hold.limits,
        )
    call = worked.call
    if "leak" in worked.findings and found:
        call = call.model_copy(update={"do_next": _search(found)})
    check = Check(
        id="hold",
        label="Nitrogen hold",
        call=call,
        value=worked.result.unexplained_pa,
        unit="Pa",
    )
    return stage_call(
        [
            check,
            *_looked(found, rules, "leak" in worked.findings),
            *_probe(run, entry),
            *_over(runs, run, to_hold),
            *_coils(open_coils),
        ],
        worked.call.because,
        summary=duration(worked.result.held_s) if worked.result.held_s else "begun",
        governed_by=worked.governed_by,
        working=(
            *worked.working,
            *(held.working if held else ()),
            *(rates.working if (rates := leaks(run, entry, rules, held)) else ()),
        ),
        findings=worked.findings,
        progress=min(1.0, worked.result.held_s / to_hold.hold_s),
    )


def _search(found: Sequence[Suspect]) -> str:
    """What to do while it falls: mend what was found, else look at the next suspect."""
    leaking = next((s for s in found if s.call.verdict is Verdict.SHORT), None)
    if leaking is not None:
        return f"{leaking.call.because} {leaking.call.do_next}"
    following = next_to_look_at(found)
    if following is None:
        return "Every joint was looked at: test the coils by themselves, part by part."
    return f"Bubble {following.label}, two to three minutes: {following.why}."


def _looked(found: Sequence[Suspect], rules: Rules, falling: bool) -> list[Check]:
    """What was seen at the joints: a leak counts at any time; the soak asks a look at each."""
    leaking = next((s for s in found if s.call.verdict is Verdict.SHORT), None)
    if leaking is not None and not falling:
        return [Check(id="joints", label="Joints looked at", call=leaking.call)]
    if rules.school("pressure").name != "soak":
        return []
    done = [s for s in found if s.call.verdict is Verdict.HOLDS]
    following = next_to_look_at(found)
    if following is None:
        call = Call(verdict=Verdict.HOLDS, because=f"{plural(len(done), 'joint')} looked at: dry.")
    else:
        call = Call(
            verdict=Verdict.WAIT,
            because=f"{len(done)} of {plural(len(found), 'joint')} looked at; this school asks "
            "for bubbles on every one.",
            do_next=f"Bubble {following.label}, two to three minutes.",
        )
    return [Check(id="joints", label="Joints looked at", call=call)]


def places(run: Run, entry: TestEntry) -> list[Probe]:
    """Where the temperature of the two readings that decide was read, as far as it was said."""
    said = [r.probe or entry.probe for r in (run.readings[0], run.readings[-1])]
    return list(dict.fromkeys(place for place in said if place is not None))


def _probe(run: Run, entry: TestEntry) -> list[Check]:
    """Where the temperature was read: only the pipe's own counts, and one place for both ends."""
    found = places(run, entry)
    wrong = next((place for place in found if place in ("sun", "air")), None)
    if wrong is not None:
        because = f"The temperature was read {PROBES[wrong]}: that is not the nitrogen's."
    elif len(found) > 1:
        because = f"It was read {PROBES[found[0]]} first and {PROBES[found[1]]} last."
    else:
        return []
    call = fault(
        because, "Put the probe on the pipe, in the shade or under insulation.", Verdict.WATCH
    )
    return [Check(id="probe", label="Place of the probe", call=call)]


def _over(runs: Sequence[Run], now: Run, to_hold: Plan) -> list[Check]:
    """An earlier hold that went over the most the equipment may see: bled off, not undone."""
    others = [r for r in runs if r.kind == "hold" and r.readings is not now.readings]
    peak = max((r.gauge_pa or 0.0 for run in others for r in run.readings), default=0.0)
    if peak <= to_hold.max_gauge_pa or peak <= max(r.gauge_pa or 0.0 for r in now.readings):
        return []
    call = fault(
        f"An earlier hold stood at {both(peak, 'gauge')}, over the most this equipment may see, "
        f"{both(to_hold.max_gauge_pa, 'gauge')}.",
        "Ask the maker whether the unit may still be used; write the answer into the notes.",
        Verdict.WATCH,
    )
    return [Check(id="over", label="Pressure seen before", call=call)]


def _coils(zones: Sequence[str]) -> list[Check]:
    """A head whose cap did not hiss keeps the test shut until its coil is proven sound."""
    return [
        Check(
            id=f"coil_{zone}",
            label=f"Coil of head {zone}",
            call=fault(
                f"The coil of head {zone} did not hiss, and its leak check is open.",
                "Leak-test that coil and write the result under Survey.",
            ),
        )
        for zone in zones
    ]
