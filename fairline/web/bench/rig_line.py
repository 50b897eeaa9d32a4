"""What an instrument asks of a job before it reads: its volume, its rig, its test."""

from fairline.core.calc.pump_down import PumpHose
from fairline.core.call import Frozen
from fairline.core.evacuate.circuit_group import EvacuateStageResult
from fairline.core.pressure_test.stage import PressureTestStageResult
from fairline.web.frame.judged_job import JudgedJob


class RigLine(Frozen):
    """What a job's pull depends on: m³, m³/s, Pa, bores in mm and lengths in m, °C.

    ``test_gauge_pa``: what the pressure test asks for.
    """

    volume_m3: float | None
    pump_m3_s: float | None
    ultimate_pa: float
    hoses: tuple[PumpHose, ...]
    ambient_c: float
    test_gauge_pa: float | None


def rig_line(judged: JudgedJob, group: EvacuateStageResult | None = None) -> RigLine:
    """Volume, pump, hoses and coldest tube of a job, or of some ports of it; its test pressure."""
    worked = (group or judged.of(EvacuateStageResult)).rig
    plan = judged.of(PressureTestStageResult).plan
    entry = judged.job.evacuate
    return RigLine(
        volume_m3=worked.volume_m3,
        pump_m3_s=entry.rig.pump_m3_s,
        ultimate_pa=entry.rig.ultimate_pa or 0.0,
        hoses=tuple(piece for _, piece in worked.pieces),
        ambient_c=entry.coldest_c,
        test_gauge_pa=plan.gauge_pa if plan is not None else None,
    )
