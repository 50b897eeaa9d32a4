"""Flare: the four joints of a single-zone line, each with its torque, look, maker and time."""

from datetime import datetime
from typing import Annotated, Literal

from pydantic import Field, model_validator

from fairline.core.calc.flare_torque import (
    FlareTorqueRequest,
    FlareTorqueResult,
    flare_torque,
    wrench_setting_nm,
)
from fairline.core.call import Answer, Authority, Call, Check, Frozen, StageCall, Verdict
from fairline.core.check import fault, plural, stage_call
from fairline.core.entry import Degrees, Entry, LongText, SpanM, Text, TorqueNm
from fairline.core.practice import Rules
from fairline.core.tubing import size_label

Place = Literal["liquid_outdoor", "gas_outdoor", "liquid_head", "gas_head"]
Look = Literal["good", "uneven", "split", "step", "scratch", "burr", "thinned", "small", "large"]

PLACES: dict[Place, str] = {
    "gas_head": "Gas, at the head",
    "liquid_head": "Liquid, at the head",
    "gas_outdoor": "Gas, at the outdoor unit",
    "liquid_outdoor": "Liquid, at the outdoor unit",
}
LOOKS: dict[Look, str] = {
    "good": "even, bright, no mark",
    "uneven": "uneven: the bar was not square",
    "split": "split: the tube was hard or cut too deep",
    "step": "a step: the cone slipped",
    "scratch": "scratched seat",
    "burr": "a burr is left",
    "thinned": "thinned: the yoke was over-tightened",
    "small": "too small for the nut",
    "large": "too large: it touches the thread",
}


class WrenchEntry(Entry):
    """The wrench at hand: length to the grip, adapter offset and its angle (0 in line)."""

    wrench_m: SpanM = None
    adapter_m: SpanM = None
    adapter_deg: Degrees = None
    notes: LongText = ""

    @model_validator(mode="after")
    def _adapter_needs_wrench(self) -> "WrenchEntry":
        if self.adapter_m and not self.wrench_m:
            raise ValueError("an adapter needs the wrench's length too")
        return self

    def share(self) -> float:
        """What the wrench reads as a share of what the nut gets."""
        if not self.wrench_m:
            return 1.0
        return wrench_setting_nm(
            1.0, self.wrench_m * 1000, (self.adapter_m or 0.0) * 1000, self.adapter_deg or 0
        )


class JointRecord(Entry):
    """One making of a joint. ``applied_nm`` is at the nut; None where it went by feel."""

    kind: Literal["joint"] = "joint"
    place: Place
    look: Look
    how: Literal["measured", "by feel"] = "measured"
    wrench_nm: TorqueNm = None
    applied_nm: TorqueNm = None
    by: Annotated[Text, Field(min_length=1)]
    at: datetime

    @model_validator(mode="after")
    def _measured_has_torque(self) -> "JointRecord":
        if self.how == "measured" and self.applied_nm is None:
            raise ValueError("enter the torque, or say that it went by feel")
        return self


class Joint(Frozen):
    """A joint as it stands: its answer from the torque computation, its last making."""

    place: Place
    label: str
    size: str | None
    answer: Answer[FlareTorqueResult] | None
    record: JointRecord | None
    makings: int
    call: Call


def torque_request(
    place: Place, entry: WrenchEntry, rules: Rules, applied_nm: float | None
) -> FlareTorqueRequest | None:
    """What is asked of the torque computation for one joint; None while its tube is unknown."""
    if rules.outdoor is None:
        return None
    line: Literal["liquid", "gas"] = "liquid" if place.startswith("liquid") else "gas"
    od = rules.outdoor.od_mm(line)
    if od is None:
        return None
    torque = rules.outdoor.torque_nm(od)
    return FlareTorqueRequest(
        od_mm=od,
        sheet_torque_nm=list(torque) if torque else None,
        wrench_length_mm=entry.wrench_m * 1000 if entry.wrench_m else None,
        adapter_offset_mm=entry.adapter_m * 1000 if entry.adapter_m else None,
        adapter_angle_deg=float(entry.adapter_deg) if entry.adapter_deg is not None else None,
        applied_nm=applied_nm,
    )


def joints(entry: WrenchEntry, records: tuple[JointRecord, ...], rules: Rules) -> list[Joint]:
    """The four joints in the order one works: head first, then the outdoor unit."""
    found = []
    for place, label in PLACES.items():
        made = [r for r in records if r.place == place]
        last = made[-1] if made else None
        request = torque_request(place, entry, rules, last.applied_nm if last else None)
        answer = flare_torque(request) if request else None
        found.append(
            Joint(
                place=place,
                label=label,
                record=last,
                makings=len(made),
                answer=answer,
                size=size_label(request.od_mm) if request else None,
                call=_joint_call(answer, last),
            )
        )
    return found


def _joint_call(answer: Answer[FlareTorqueResult] | None, last: JointRecord | None) -> Call:
    if answer is None:
        return Call(
            verdict=Verdict.UNKNOWN,
            because="The sheet gives no tube size.",
            do_next="Enter the tube sizes on the sheet.",
        )
    if last is not None and last.look != "good":
        return fault(
            f"The flare is {LOOKS[last.look]}.", "Cut it off, make it again and look again."
        )
    if last is not None and last.how == "by feel":
        return fault("Tight by feel is not measured.", "Put a torque wrench on it.", Verdict.WATCH)
    return answer.call


def judge(entry: WrenchEntry, records: tuple[JointRecord, ...], rules: Rules) -> StageCall:
    found = joints(entry, records, rules)
    good = sum(j.call.verdict is Verdict.HOLDS for j in found)
    checks = [
        Check(
            id=j.place,
            label=j.label,
            call=j.call.model_copy(update={"because": f"{j.label}: {j.call.because}"}),
            value=j.record.applied_nm if j.record else None,
            unit="N·m",
        )
        for j in found
    ]
    limits = {
        (j.size, limit.limit): limit for j in found if j.answer for limit in j.answer.governed_by
    }
    source = rules.outdoor.source("torques") if rules.outdoor else ""
    labelled = [
        limit.model_copy(
            update={
                "limit": f"{str(size).split(' (')[0]}: {limit.limit}",
                "source": source if limit.authority is Authority.SHEET else limit.source,
            }
        )
        for (size, _), limit in limits.items()
    ]
    findings = sorted({f for j in found if j.answer for f in j.answer.findings})
    working = {(j.size, s.step): s for j in found if j.answer for s in j.answer.working}
    return stage_call(
        checks,
        f"{plural(good, 'joint')} made up, looked at and within torque.",
        summary=f"{good} of {len(found)}" if records else "",
        started=bool(records),
        governed_by=labelled,
        working=[
            step.model_copy(update={"step": f"{size}: {step.step}"})
            for (size, _), step in working.items()
        ],
        findings=findings,
    )
