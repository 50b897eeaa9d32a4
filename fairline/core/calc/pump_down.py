"""How long a pull takes, and whether the hose or the pump decides it."""

from typing import Annotated

from pydantic import Field

from fairline.core.call import Answer, Asked, Authority, Call, Frozen, Limit, Request, Step, Verdict
from fairline.core.check import fault_call
from fairline.core.physics.constants import ATMOSPHERE_PA
from fairline.core.physics.moist_air import saturation_pa
from fairline.core.physics.vacuum_flow import Hose, Rig, boil_off_s, pull_s
from fairline.core.quantities import both, duration

HALF = 0.5  # a hose that passes less than this share of the pump's own speed decides the pull
ROOM_C = 20.0


class PumpHose(Asked):
    bore_mm: Annotated[float, Field(gt=0, le=200)]
    length_m: Annotated[float, Field(gt=0, le=100)]


class PumpDownRequest(Request):
    """A volume, a pump and its hoses in series; air leaks in and water boils where there is any.

    ``ambient_c``: of the coldest tube, where the water lies; 20 °C where nobody says.
    """

    volume_m3: Annotated[float, Field(gt=0, le=10)]
    pump_m3_s: Annotated[float, Field(gt=0, le=1)]
    ultimate_pa: Annotated[float, Field(ge=0, le=10_000)] = 0.0
    hoses: Annotated[list[PumpHose], Field(max_length=10)]
    start_pa: Annotated[float, Field(gt=0, le=200_000)] = ATMOSPHERE_PA
    target_pa: Annotated[float, Field(gt=0, le=200_000)]
    leak_pa_m3_s: Annotated[float, Field(ge=0, le=1000)] = 0.0
    water_kg: Annotated[float, Field(ge=0, le=10)] = 0.0
    ambient_c: Annotated[float, Field(ge=-60, le=80)] = ROOM_C


class PumpDownResult(Frozen):
    """``time_s``: None where the target is never reached. ``boil_s``: of it, to boil water off.

    ``effective_m3_s_at_target``: what pump and hoses together draw there; ``pump_m3_s_at_target``
    what the pump alone could.
    """

    time_s: float | None
    effective_m3_s_at_target: float
    pump_m3_s_at_target: float
    boil_s: float | None = None


def rig_of(request: PumpDownRequest) -> Rig:
    """The request's pump and hoses as a rig: bores in m instead of mm, speeds in m³/s.

    >>> hose = PumpHose(bore_mm=6.35, length_m=1.5)
    >>> asked = {"volume_m3": 0.004, "pump_m3_s": 0.001, "hoses": [hose], "target_pa": 40}
    >>> rig_of(PumpDownRequest.model_validate(asked)).hoses[0].bore_m
    0.00635
    """
    hoses = tuple(Hose(h.bore_mm / 1000, h.length_m) for h in request.hoses)
    return Rig(request.pump_m3_s, request.ultimate_pa, hoses)


def pump_down(request: PumpDownRequest) -> Answer[PumpDownResult]:
    """Predict a pull: pump and hoses in series, with Knudsen's conductance at each pressure.

    Water holds the pressure at its saturation until the rig has taken it all.

    >>> asked = {"volume_m3": 0.003, "pump_m3_s": 0.001, "hoses": [], "target_pa": 66.7}
    >>> round(pump_down(PumpDownRequest.model_validate(asked)).result.time_s, 1)
    22.0
    """
    r, rig = request, rig_of(request)
    bare = Rig(r.pump_m3_s, r.ultimate_pa, ())
    speed, alone = rig.speed_m3_s(r.target_pa), bare.speed_m3_s(r.target_pa)
    boils = saturation_pa(r.ambient_c)
    wet = r.water_kg > 0 and r.target_pa < boils
    boil = boil_off_s(rig, r.water_kg, r.ambient_c, r.leak_pa_m3_s) if wet else 0.0
    pull = pull_s(rig, r.volume_m3, r.start_pa, r.target_pa, r.leak_pa_m3_s)
    time_s = None if pull is None or boil is None else pull + boil
    findings = []
    if time_s is None:
        findings.append("never_reaches")
    if r.hoses and speed < HALF * alone:
        findings.append("hose_limited")
    return Answer[PumpDownResult](
        call=_call(r, time_s, speed, alone),
        governed_by=(
            Limit(
                limit="pull down to",
                value=r.target_pa,
                unit="Pa",
                kind="vacuum",
                authority=Authority.HOUSE,
                source="request",
            ),
        ),
        working=_working(r, speed, alone, pull, boil if wet else None),
        findings=tuple(findings),
        result=PumpDownResult(
            time_s=time_s,
            effective_m3_s_at_target=speed,
            pump_m3_s_at_target=alone,
            boil_s=boil if wet else None,
        ),
    )


def _call(r: PumpDownRequest, time_s: float | None, speed: float, alone: float) -> Call:
    target = both(r.target_pa, "vacuum")
    if time_s is None:
        why = (
            "the pump's own ultimate pressure lies above it"
            if r.target_pa <= r.ultimate_pa
            else f"{both(speed, 'airflow')} at the system cannot keep up with what comes in"
        )
        return fault_call(
            f"{target} is never reached: {why}.",
            "Find what comes in, or take a deeper pump, fresh oil and a wider, shorter hose.",
        )
    if r.hoses and speed < HALF * alone:
        return fault_call(
            f"{target} in {duration(time_s)}; the hose passes {speed / alone:.0%} of what the pump "
            "could.",
            "Take cores out and a wide, short hose: the pump's rating changes little here.",
            Verdict.WATCH,
        )
    return Call(verdict=Verdict.HOLDS, because=f"{target} in about {duration(time_s)}.")


def _working(
    r: PumpDownRequest, speed: float, alone: float, pull: float | None, boil: float | None
) -> tuple[Step, ...]:
    found = [
        Step(
            step="pump alone at the target",
            expression=f"{r.pump_m3_s:.3g} · (1 − {r.ultimate_pa:g}/{r.target_pa:g})",
            value=alone,
            unit="m³/s",
            kind="airflow",
        ),
        Step(
            step="with its hoses, Knudsen at each mean pressure",
            expression=" + ".join(f"{h.bore_mm:g} mm × {h.length_m:g} m" for h in r.hoses)
            or "none",
            value=speed,
            unit="m³/s",
            kind="airflow",
        ),
    ]
    if pull is not None:
        found.append(
            Step(
                step="dry volume pulled down",
                expression=f"∫ {r.volume_m3 * 1000:.2f} l · dp / (throughput − leak)",
                value=pull,
                unit="s",
            )
        )
    if boil is not None:
        found.append(
            Step(
                step="water boiled off at its saturation",
                expression=f"{r.water_kg * 1000:g} g · R·T / throughput there",
                value=boil,
                unit="s",
            )
        )
    return tuple(found)
