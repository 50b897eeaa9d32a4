"""Flare: every joint of the system, each with its torque or seam, look, maker and time."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Annotated, Literal

from pydantic import BeforeValidator, model_validator

from fairline.core import kit
from fairline.core.calc.flare_torque import (
    FlareTorqueRequest,
    FlareTorqueResult,
    flare_torque,
    wrench_setting_nm,
)
from fairline.core.call import Answer, Authority, Call, Check, Frozen, StageCall, Verdict
from fairline.core.check import fault, plural, stage_call
from fairline.core.entry import Degrees, Entry, LongText, Record, SpanM, Text, TorqueNm
from fairline.core.practice import Rules
from fairline.core.route.joints import JointSpec
from fairline.core.route.stage import RouteWorked
from fairline.core.sheet.part import torque_nm
from fairline.core.stage import Basis, Stage, Worked

Look = Literal[
    "good",
    "uneven",
    "split",
    "step",
    "scratch",
    "burr",
    "thinned",
    "small",
    "large",
    "gap",
    "pinhole",
    "overheated",
]

FIRST_NAMES = {  # of the four joints of a single zone, before there were several runs
    "gas_head": "A.gas.end",
    "liquid_head": "A.liquid.end",
    "gas_outdoor": "A.gas.start",
    "liquid_outdoor": "A.liquid.start",
}
MENDS: dict[Look, str] = {  # what to do about a fault of the seat
    "good": "",
    "uneven": "Cut it off square with a sharp wheel and flare again.",
    "split": "Cut back to soft tube, ream less deep, flare again.",
    "step": "Clamp the bar tighter, oil the cone lightly, flare again.",
    "scratch": "Cut it off; keep bar and cone clean.",
    "burr": "Cut it off, ream with the end pointing down, tap the chips out.",
    "thinned": "Cut it off; stop the yoke as the cone bottoms.",
    "small": "Cut it off and set the tube higher in the bar.",
    "large": "Cut it off and set the tube lower in the bar.",
    "gap": "Cut it out and braze it again, heat on the fitting first.",
    "pinhole": "Cut it out and braze it again; never over a leak.",
    "overheated": "Cut it out, with the seat that was heated, and braze it again.",
}
SEAMS: dict[Look, str] = {
    "good": "clean, whole, evenly filled",
    "gap": "a gap: not filled all round",
    "pinhole": "a pinhole or a bubble",
    "overheated": "overheated: black, sagging or burnt",
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


def look_words(look: Look) -> str:
    """How a flare or a seam looks, in words."""
    return LOOKS.get(look) or SEAMS[look]


class WrenchEntry(Entry):
    """The wrench at hand: length to the grip, adapter offset and its angle (0 in line)."""

    wrench_m: SpanM = None
    adapter_m: SpanM = None
    adapter_deg: Degrees = None
    reads: Literal["", "lbf·ft", "lbf·in", "N·m"] = ""
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


class JointRecord(Record):
    """One making of a joint. ``applied_nm`` is at the nut; None where it went by feel.

    ``loose``: the nut is left loose on purpose while nitrogen purges the line. ``simulated``: no
    wrench read it. ``place`` is the joint's id, ``flare`` whose it is. A brazed joint has no
    torque: ``nitrogen`` flowed meanwhile, and what must stay cool was ``cooled``.
    """

    struck = "the making of a joint"

    kind: Literal["joint"] = "joint"
    place: Annotated[Text, BeforeValidator(lambda v: FIRST_NAMES.get(str(v), v))]
    look: Look
    how: Literal["measured", "by feel", "brazed", "loose"] = "measured"
    flare: Literal["own", "factory"] = "own"
    nitrogen: Literal["", "yes", "no"] = ""
    cooled: Literal["", "yes", "no"] = ""
    wrench_nm: TorqueNm = None
    applied_nm: TorqueNm = None
    simulated: bool = False

    @model_validator(mode="after")
    def _measured_has_torque(self) -> "JointRecord":
        if self.how == "measured" and self.applied_nm is None:
            raise ValueError("enter the torque, or say that it went by feel")
        return self


class Joint(Frozen):
    """A joint as it stands: its answer from the torque computation, its last making."""

    place: str
    label: str
    size: str | None
    od_mm: float | None
    brazed: bool
    answer: Answer[FlareTorqueResult] | None
    record: JointRecord | None
    makings: int
    call: Call


def looked(joint: Joint) -> str:
    """How a joint looked, in the words of its kind: a flare's, or a brazed seam's."""
    if joint.record is None:
        return "–"
    first, other = (SEAMS, LOOKS) if joint.brazed else (LOOKS, SEAMS)
    return first.get(joint.record.look) or other[joint.record.look]


def torque_request(
    spec: JointSpec, entry: WrenchEntry, rules: Rules, applied_nm: float | None
) -> FlareTorqueRequest | None:
    """What is asked of the torque computation for one joint; None while its tube is unknown."""
    if rules.outdoor is None or spec.od_mm is None or spec.kind == "braze":
        return None
    found = _sheet_torque(spec, rules)
    torque = found[1] if found else None
    return FlareTorqueRequest(
        od_mm=spec.od_mm,
        sheet_torque_nm=list(torque) if torque else None,
        wrench_length_mm=entry.wrench_m * 1000 if entry.wrench_m else None,
        adapter_offset_mm=entry.adapter_m * 1000 if entry.adapter_m else None,
        adapter_angle_deg=float(entry.adapter_deg) if entry.adapter_deg is not None else None,
        applied_nm=applied_nm,
    )


def _sheet_torque(spec: JointSpec, rules: Rules) -> tuple[str, tuple[float, float]] | None:
    """Source and torque of the unit the joint is at, else of the outdoor unit; None: silent."""
    head = rules.heads.get(spec.run) if spec.end == "end" else None
    for sheet in (head, rules.box if spec.end == "end" else None, rules.outdoor):
        found = torque_nm(sheet.torques, spec.od_mm or 0.0) if sheet is not None else None
        if sheet is not None and found is not None:
            return sheet.source("torques"), found
    return None


def _torque_answer(
    spec: JointSpec, entry: WrenchEntry, rules: Rules, last: JointRecord | None
) -> Answer[FlareTorqueResult] | None:
    """The torque computation's answer, its limits naming the very sheet they stand in."""
    request = torque_request(spec, entry, rules, last.applied_nm if last else None)
    if request is None:
        return None
    answer = flare_torque(request)
    told = _sheet_torque(spec, rules)
    if told is None:
        return answer
    governed = tuple(
        limit.model_copy(update={"source": told[0]})
        if limit.authority is Authority.SHEET
        else limit
        for limit in answer.governed_by
    )
    return answer.model_copy(update={"governed_by": governed})


def joints(
    entry: WrenchEntry, specs: list[JointSpec], records: tuple[JointRecord, ...], rules: Rules
) -> list[Joint]:
    """Every joint as it stands, in the order one works."""
    found = []
    for spec in specs:
        made = [r for r in records if r.place == spec.id]
        last = made[-1] if made else None
        answer = _torque_answer(spec, entry, rules, last)
        found.append(
            Joint(
                place=spec.id,
                label=spec.label,
                record=last,
                makings=len(made),
                answer=answer,
                size=spec.size,
                od_mm=spec.od_mm,
                brazed=spec.kind == "braze" or (last is not None and last.how == "brazed"),
                call=_joint_call(rules, spec, answer, made),
            )
        )
    return found


def _joint_call(
    rules: Rules,
    spec: JointSpec,
    answer: Answer[FlareTorqueResult] | None,
    made: Sequence[JointRecord],
) -> Call:
    """What the last making of a joint came to; a charged connection is made once."""
    last = made[-1] if made else None
    # A nut left loose for the purge and torqued afterwards is one making.
    times = sum(r.how != "loose" for r in made)
    if kit.sealed(rules) and (again := kit.made_once(times, spec.label)) is not None:
        return again
    if spec.kind == "braze" or (last is not None and last.how == "brazed"):
        return _seam_call(last)
    if answer is None:
        return Call(
            verdict=Verdict.UNKNOWN,
            because="The sheet gives no tube size.",
            do_next="Enter the tube sizes on the sheet.",
        )
    if last is not None and last.how == "loose":
        return Call(
            verdict=Verdict.WAIT,
            because="The nut is left loose for the purge.",
            do_next="Once nitrogen has run through, torque it with a second wrench.",
        )
    if last is not None and last.look != "good":
        return fault(f"The flare is {look_words(last.look)}.", MENDS[last.look])
    if last is not None and last.how == "by feel":
        return fault("Tight by feel is not measured.", "Put a torque wrench on it.", Verdict.WATCH)
    if (
        last is not None
        and last.flare == "factory"
        and rules.school("factory_flares").name == ("recut")
        and answer.call.verdict is Verdict.HOLDS
    ):
        return fault(
            "A factory flare was used; house practice cuts them off.",
            "Cut it off and make your own, or let this job differ with its reason.",
            Verdict.WATCH,
        )
    return answer.call


def _seam_call(last: JointRecord | None) -> Call:
    """A brazed joint: nitrogen flowed, and the seam is clean, continuous and evenly filled."""
    if last is None:
        return Call(
            verdict=Verdict.WAIT,
            because="Not brazed yet.",
            do_next="Wet cloth on what must stay cool, nitrogen flowing, braze, look at the seam.",
        )
    if last.look != "good":
        words = SEAMS.get(last.look, LOOKS.get(last.look, "not whole"))
        return fault(f"The seam is not good: {words}.", MENDS[last.look])
    if last.cooled == "no":
        return fault(
            "Nothing kept the valve or the insulation cool.",
            "Look for a melted seat or seal; wrap it in wet cloth and braze it again.",
        )
    if last.nitrogen != "yes":
        return fault(
            "Brazed without nitrogen flowing: scale is left inside.", "Cut it out, braze it again."
        )
    return Call(verdict=Verdict.HOLDS, because="Brazed under nitrogen, the seam whole and even.")


@dataclass(frozen=True, eq=False)
class FlareWorked(Worked):
    """Every joint as it stands."""

    joints: list[Joint]


def work(basis: Basis) -> FlareWorked:
    entry, records = basis.entry(WrenchEntry), basis.records(JointRecord)
    found = joints(entry, basis.of(RouteWorked).joints, records, basis.rules)
    return FlareWorked(call=judged(found, records), joints=found)


def judge(
    entry: WrenchEntry, specs: list[JointSpec], records: tuple[JointRecord, ...], rules: Rules
) -> StageCall:
    return judged(joints(entry, specs, records, rules), records)


def judged(found: list[Joint], records: tuple[JointRecord, ...]) -> StageCall:
    """The call of all joints together."""
    good = sum(j.call.verdict is Verdict.HOLDS for j in found)
    checks = [
        Check(
            id=j.place,
            label=j.label,
            call=j.call.model_copy(update={"because": f"{j.label}: {j.call.because}"}),
            value=j.record.applied_nm if j.record else None,
            unit="N·m",
            part=j.place,
        )
        for j in found
    ]
    if not found:
        call = Call(
            verdict=Verdict.UNKNOWN,
            because="No run is laid out, so no joint is known.",
            do_next="Lay the system out in Route.",
        )
        checks = [Check(id="joints", label="Joints", call=call)]
    limits = {
        (j.size, limit.limit, limit.source): limit
        for j in found
        if j.answer
        for limit in j.answer.governed_by
    }
    labelled = [
        limit.model_copy(update={"limit": f"{str(size).split(' (')[0]}: {limit.limit}"})
        for (size, _, _), limit in limits.items()
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


STAGE = Stage(name="flare", title="Flare", entry=WrenchEntry, work=work, records=(JointRecord,))
