"""One run of nitrogen judged: what its readings show, and what its instruments cannot tell."""

from typing import Annotated

import numpy as np
from pydantic import BeforeValidator

from fairline.core.calc.pressure_hold import (
    HoldReading,
    PressureHoldRequest,
    PressureHoldResult,
    RequiredHold,
    pressure_hold,
    under_test_pressure,
)
from fairline.core.call import Answer, Call, Verdict
from fairline.core.entry import (
    AltitudeM,
    ChargeKg,
    Entry,
    LongText,
    PressureDifferencePa,
    TemperatureDifferenceK,
    blank,
)
from fairline.core.physics.constants import DAY_S, PSI_PA
from fairline.core.physics.nitrogen import atmosphere_pa
from fairline.core.pressure_test.plan import Plan
from fairline.core.quantities import both, duration
from fairline.core.readings import HoldRun, Probe

DEFAULT_RESOLUTION_PA = 1.0 * PSI_PA
DEFAULT_THERMOMETER_K = 0.5
UNDER_SHARE = 0.01  # of the test pressure: 3 K of filling's warmth; our own choice
BAROMETER_PA = 300.0  # by which the barometer moves in a day (WMO, quoted from memory)
PROBE_LAG_S = 120.0  # by which a probe on a pipe lags behind it; our own choice
SLIP = 0.1  # a reading within a tenth of ten times the one before, or of a tenth of it


class TestEntry(Entry):
    """The instruments of the test: what the gauge resolves, how far the thermometer may be off.

    ``probe`` is where the temperature was read if a reading does not say it. ``show_leak_kg``: the
    leak, in kg of refrigerant a year, that the hold is asked to show.
    """

    __test__ = False

    gauge_resolution_pa: PressureDifferencePa = None
    thermometer_uncertainty_k: TemperatureDifferenceK = None
    altitude_m: AltitudeM = None
    probe: Annotated[Probe | None, BeforeValidator(blank)] = None
    show_leak_kg: ChargeKg = None
    notes: LongText = ""

    @property
    def resolution_pa(self) -> float:
        return (
            DEFAULT_RESOLUTION_PA if self.gauge_resolution_pa is None else self.gauge_resolution_pa
        )

    @property
    def thermometer_k(self) -> float:
        return (
            DEFAULT_THERMOMETER_K
            if self.thermometer_uncertainty_k is None
            else self.thermometer_uncertainty_k
        )

    @property
    def atmosphere_pa(self) -> float:
        return atmosphere_pa(self.altitude_m or 0.0)


def request(
    run: HoldRun, entry: TestEntry, to_hold: Plan, volume_m3: float | None = None
) -> PressureHoldRequest:
    """A run as the computation wants it, of its readings the first, the highest and the last.

    The others go with it as arrays.
    """
    readings = run.readings
    at = {0, int(np.argmax(readings.gauge_pa)), len(readings) - 1}
    return PressureHoldRequest(
        readings=[
            HoldReading(t_s=r.t_s, gauge_pa=r.gauge_pa, pipe_c=r.pipe_c)
            for r in (readings[n] for n in sorted(at))
        ],
        required=RequiredHold(gauge_pa=to_hold.gauge_pa, hold_s=to_hold.hold_s),
        max_gauge_pa=to_hold.max_gauge_pa,
        atmosphere_pa=entry.atmosphere_pa,
        gauge_resolution_pa=entry.resolution_pa,
        thermometer_uncertainty_k=min(50.0, entry.thermometer_k + lag_k(run)),
        barometer_uncertainty_pa=BAROMETER_PA * min(1.0, readings.span_s / DAY_S) ** 0.5,
        volume_m3=volume_m3,
    )


def lag_k(run: HoldRun) -> float:
    """By how much a probe may lag behind a pipe that warms or cools at the first or last reading.

    The pipe's rate there, in K/s, times the probe's lag.
    """
    t, pipe = run.readings.t_s, run.readings.pipe_c
    if len(t) < 2:
        return 0.0
    rates = [0.0]
    for end, nearest in ((0, 0), (-1, -1)):  # seen from either end, the nearest far enough away
        far = np.flatnonzero(np.abs(t - t[end]) >= PROBE_LAG_S)
        if len(far):
            other = int(far[nearest])
            rates.append(float(abs(pipe[end] - pipe[other]) / abs(t[end] - t[other])))
    return PROBE_LAG_S * max(rates)


def slip(run: HoldRun) -> tuple[float, float] | None:
    """A typed pressure with a digit too few or too many, after the one before it; None: none."""
    gauge = run.readings.gauge_pa
    before, after = gauge[:-1], gauge[1:]
    ratio = np.divide(after, before, out=np.zeros(len(after)), where=(before != 0) & (after > 0))
    slipped = np.abs(ratio[:, None] / np.array([0.1, 10.0]) - 1) <= SLIP
    at = np.flatnonzero(slipped.any(axis=1))
    return (float(before[at[0]]), float(after[at[0]])) if len(at) else None


def judged(
    run: HoldRun, entry: TestEntry, to_hold: Plan, volume_m3: float | None = None
) -> Answer[PressureHoldResult]:
    """A hold judged: from its first reading, or from where its gas had come to rest.

    The system has borne its test pressure then; gas that filling had warmed gives back a little.
    """
    of, columns = request(run, entry, to_hold, volume_m3), run.readings
    whole = pressure_hold(of, to_hold.limits, (columns.t_s, columns.gauge_pa, columns.pipe_c))
    wrong = slip(run) if {"leak", "unexplained_rise"} & set(whole.findings) else None
    if wrong is not None:
        before, reading = (both(pa, "gauge") for pa in wrong)
        call = Call(
            verdict=Verdict.WAIT,
            because=f"{reading} after {before}: is a digit missing, or one too many?",
            do_next="Read the gauge again and record it; strike out the reading that is wrong.",
        )
        return whole.model_copy(update={"call": call, "findings": ("reading_doubtful",)})
    began_s = columns.t_s[0] + whole.result.from_s
    if whole.result.from_s == 0 or whole.findings:
        return whole
    began = float(columns.gauge_pa[np.searchsorted(columns.t_s, began_s)])
    if to_hold.gauge_pa - began > UNDER_SHARE * to_hold.gauge_pa:
        call = under_test_pressure(began, to_hold.gauge_pa)
        return whole.model_copy(
            update={"call": call, "findings": ("under_test_pressure", "came_to_rest")}
        )
    return whole.model_copy(update={"findings": ("came_to_rest",)})


def if_closed(
    found: Answer[PressureHoldResult], run: HoldRun, to_hold: Plan
) -> Answer[PressureHoldResult]:
    """A hold that was closed before its time is not read on: the next one begins anew."""
    if run.ended_at is None or found.call.verdict is not Verdict.WAIT or found.findings:
        return found
    told = {
        "because": f"{found.call.because} It was closed before its time.",
        "do_next": f"Begin a new hold at {both(to_hold.gauge_pa, 'gauge')}, and read it for "
        f"{duration(to_hold.hold_s)}.",
    }
    return found.model_copy(update={"call": found.call.model_copy(update=told)})


def as_earlier(call: Call, plan: Plan) -> Call:
    """The call of a hold that was closed when the next one began: it cannot be read on."""
    said = {"because": f"An earlier hold: {call.because}"}
    if call.verdict is Verdict.WAIT:
        said["do_next"] = f"Raise the nitrogen on it again and hold {duration(plan.hold_s)}."
    return call.model_copy(update=said)
