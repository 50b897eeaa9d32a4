"""The chart of a hold: what was read, and what the pipe's temperature explains of it."""

from fairline.core.call import Frozen
from fairline.core.physics.constants import ZERO_C_K
from fairline.core.physics.hold_course import uncertainty_pa
from fairline.core.physics.nitrogen import expected_gauge_pa
from fairline.core.pressure_test.hold import TestEntry
from fairline.core.readings import HoldRun


class CurvePoint(Frozen):
    """One instant of the chart: what was read, what temperature explains, and the doubt. Pa."""

    t_s: float
    gauge_pa: float
    pipe_c: float
    expected_pa: float
    doubt_pa: float


def curve(run: HoldRun, entry: TestEntry) -> list[CurvePoint]:
    """The chart's points, thinned with first and last kept."""
    if not run.readings:
        return []
    first, atmosphere = run.readings[0], entry.atmosphere_pa
    return [
        CurvePoint(
            t_s=r.t_s - first.t_s,
            gauge_pa=r.gauge_pa,
            pipe_c=r.pipe_c,
            expected_pa=expected_gauge_pa(first.gauge_pa, first.pipe_c, r.pipe_c, atmosphere),
            doubt_pa=uncertainty_pa(
                r.gauge_pa + atmosphere,
                r.pipe_c + ZERO_C_K,
                entry.resolution_pa,
                entry.thermometer_k,
            ),
        )
        for r in run.readings.thinned()
    ]
