"""Flare joints: torque, wrench setting with an adapter, flare size; the four joints of a job."""

import math
from typing import Annotated

from pydantic import Field, model_validator

from fairline.core.call import (
    Answer,
    Authority,
    Call,
    Displaced,
    Frozen,
    Limit,
    Request,
    Step,
    Verdict,
    sheet_limit,
)
from fairline.core.check import slip_of_ten
from fairline.core.physics.tubing import same_size, size_label, table
from fairline.core.quantities import both, exact, same_print, typed_alike

Positive = Annotated[float, Field(gt=0)]


class FlareTorqueRequest(Request):
    """``adapter_angle_deg`` is 0 in line with the wrench, 90 square to it. N·m, m, mm."""

    od_mm: Annotated[float, Field(gt=0, le=200)]
    sheet_torque_nm: Annotated[list[Positive], Field(min_length=2, max_length=2)] | None = None
    wrench_length_mm: Annotated[float, Field(gt=0, le=100_000)] | None = None
    adapter_offset_mm: Annotated[float, Field(ge=0, le=100_000)] | None = None
    adapter_angle_deg: Annotated[float, Field(ge=-180, le=180)] | None = None
    applied_nm: Annotated[float, Field(ge=0, le=10_000)] | None = None

    @model_validator(mode="after")
    def _sane(self) -> "FlareTorqueRequest":
        if self.sheet_torque_nm and self.sheet_torque_nm[0] > self.sheet_torque_nm[1]:
            raise ValueError("sheet_torque_nm: the low end is above the high end")
        if self.wrench_length_mm and self.wrench_length_mm + self._reach_mm() <= 0:
            raise ValueError("adapter_offset_mm: the adapter reaches back past the grip")
        return self

    def _reach_mm(self) -> float:
        return (self.adapter_offset_mm or 0.0) * math.cos(math.radians(self.adapter_angle_deg or 0))


class FlareTorqueResult(Frozen):
    target_nm: tuple[float, float] | None
    aim_nm: float | None
    set_wrench_nm: float | None = None
    flare_od_mm: tuple[float, float] | None = None


def _row(name: str, od_mm: float) -> dict[str, float] | None:
    rows = table(name)["rows"]
    near: dict[str, float] = min(rows, key=lambda row: abs(row["od_mm"] - od_mm))
    return near if same_size(near["od_mm"], od_mm) else None


def standard_torque_nm(od_mm: float) -> tuple[float, float] | None:
    """Standard tightening torque of a flare nut in N·m, lowest and highest; None where unlisted.

    ``od_mm``: outside diameter of the tube. EN 378-2, quoted from memory.

    >>> standard_torque_nm(9.52)
    (33, 42)
    >>> standard_torque_nm(7.0) is None
    True
    """
    row = _row("flare_torque", od_mm)
    return (row["low_nm"], row["high_nm"]) if row else None


def flare_od_mm(od_mm: float) -> tuple[float, float] | None:
    """The smallest and the largest outside diameter of a flare, mm; None where unlisted.

    ``od_mm``: outside diameter of the tube. JIS B 8607 class 2 (+0/−0.4 mm), quoted from memory.

    >>> flare_od_mm(6.35)
    (8.7, 9.1)
    """
    row = _row("flare_size", od_mm)
    if row is None:
        return None
    return round(row["flare_od_mm"] - table("flare_size")["minus_mm"], 3), row["flare_od_mm"]


def wrench_setting_nm(
    torque_nm: float, wrench_length_mm: float, offset_mm: float = 0, angle_deg: float = 0
) -> float:
    """What to set on the wrench: T·L / (L + E·cos φ) (statics). L is measured to the grip.

    >>> round(wrench_setting_nm(16, 250, 50), 2)
    13.33
    """
    reach_mm = offset_mm * math.cos(math.radians(angle_deg))
    return torque_nm * wrench_length_mm / (wrench_length_mm + reach_mm)


def _torque_limits(
    sheet: tuple[float, float] | None, standard: tuple[float, float] | None
) -> tuple[Limit, ...]:
    """The low and the high end as limits; EN 378-2 stands as common where the sheet is silent."""
    source = table("flare_torque")["source"]
    limits = []
    for index, name in enumerate(("least torque", "most torque")):
        displaced: tuple[Displaced, ...] = ()
        if sheet:
            if standard and standard[index] != sheet[index]:
                displaced = (
                    Displaced(
                        value=standard[index], unit="N·m", authority=Authority.COMMON, source=source
                    ),
                )
            limits.append(
                sheet_limit(
                    limit=name,
                    value=sheet[index],
                    unit="N·m",
                    source="equipment sheet",
                    displaced=displaced,
                )
            )
        elif standard:
            limits.append(
                Limit(
                    limit=name,
                    value=standard[index],
                    unit="N·m",
                    authority=Authority.COMMON,
                    source=source,
                )
            )
    return tuple(limits)


def _said(applied: float, limit: float) -> str:
    """A torque beyond a limit in words; finer where it would print as the limit itself."""
    alike = same_print(applied, limit, "torque")
    return exact(applied, "torque") if alike else both(applied, "torque")


def _read_again(applied: float, aim: float) -> str:
    """What is asked before anything is undone, where a decimal point may have slipped."""
    if not slip_of_ten(applied, aim):
        return ""
    times = "ten times" if applied > aim else "a tenth of"
    return f"Read the wrench again: that is about {times} what was asked. If it is right: "


def flare_torque(request: FlareTorqueRequest) -> Answer[FlareTorqueResult]:
    """Target torque of a flare nut, what to set on the wrench, and the call on what was applied.

    >>> asked = {"od_mm": 9.52, "applied_nm": 37.5}
    >>> flare_torque(FlareTorqueRequest.model_validate(asked)).call.verdict.value
    'holds'
    """
    standard = standard_torque_nm(request.od_mm)
    sheet = (
        (request.sheet_torque_nm[0], request.sheet_torque_nm[1])
        if request.sheet_torque_nm
        else None
    )
    target = sheet or standard
    size = size_label(request.od_mm)
    findings: list[str] = []
    if target is None:
        return Answer[FlareTorqueResult](
            call=Call(
                verdict=Verdict.UNKNOWN,
                because=f"Neither the sheet nor EN 378-2 gives a torque for {size}.",
                do_next="Enter the torque from the equipment sheet.",
            ),
            findings=("torque_missing",),
            result=FlareTorqueResult(
                target_nm=None, aim_nm=None, flare_od_mm=flare_od_mm(request.od_mm)
            ),
        )
    low, high = target
    aim = (low + high) / 2
    working = [
        Step(
            step="aim for the middle", expression=f"({low:g} + {high:g}) / 2", value=aim, unit="N·m"
        )
    ]
    if sheet and standard and not (standard[0] <= sheet[0] and sheet[1] <= standard[1]):
        findings.append("sheet_differs_from_standard")
    setting = None
    if request.wrench_length_mm is not None:
        length = request.wrench_length_mm
        offset = request.adapter_offset_mm or 0.0
        angle = request.adapter_angle_deg or 0.0
        setting = wrench_setting_nm(aim, length, offset, angle)
        working.append(
            Step(
                step="wrench setting T·L/(L + E·cos φ)",
                expression=f"{aim:g} · {length:g} / ({length:g} + {offset:g}·cos {angle:g}°)",
                value=setting,
                unit="N·m",
            )
        )
    elif request.adapter_offset_mm:
        findings.append("wrench_length_missing")
    applied = request.applied_nm
    if applied is None:
        call = Call(
            verdict=Verdict.WAIT,
            because=f"The {size} nut has no measured torque yet.",
            do_next=f"Torque it to {both(aim, 'torque')} with a second wrench on the fitting.",
        )
    elif applied < low and not typed_alike(applied, low, "torque"):
        findings.append("under_torque")
        call = Call(
            verdict=Verdict.SHORT,
            because=f"{_said(applied, low)} is under the {both(low, 'torque')} that the nut "
            "needs: it can leak.",
            do_next=_read_again(applied, aim)
            + f"Bring it up to {both(aim, 'torque')} with a second wrench on the fitting.",
        )
    elif applied > high and not typed_alike(applied, high, "torque"):
        findings.append("over_torque")
        call = Call(
            verdict=Verdict.SHORT,
            because=f"{_said(applied, high)} is over {both(high, 'torque')}: the flare is "
            "thinned and may split.",
            do_next=_read_again(applied, aim) + "Cut the flare off, make it again and torque it.",
        )
    else:
        call = Call(
            verdict=Verdict.HOLDS,
            because=f"{both(applied, 'torque')} is within {both(low, 'torque')} to "
            f"{both(high, 'torque')}.",
        )
    return Answer[FlareTorqueResult](
        call=call,
        governed_by=_torque_limits(sheet, standard),
        working=tuple(working),
        findings=tuple(findings),
        result=FlareTorqueResult(
            target_nm=target,
            aim_nm=aim,
            set_wrench_nm=setting,
            flare_od_mm=flare_od_mm(request.od_mm),
        ),
    )
