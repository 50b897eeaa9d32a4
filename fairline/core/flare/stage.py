"""Flare: every joint of the system, each with its torque or seam, look, maker and time."""

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace
from datetime import datetime

from fairline.core import kit
from fairline.core.calc.flare_torque import FlareTorqueRequest, FlareTorqueResult, flare_torque
from fairline.core.call import (
    Answer,
    Authority,
    Call,
    Check,
    Frozen,
    Place,
    StageCall,
    Verdict,
)
from fairline.core.check import plural, stage_call
from fairline.core.contents.act import Act
from fairline.core.contents.fold import fold
from fairline.core.contents.state import Contents
from fairline.core.flare.calls import call_of, latest_making, unsafe_or
from fairline.core.flare.parts import proofs_of
from fairline.core.flare.records import (
    LOOKS,
    SEAMS,
    JointRecord,
    WrenchEntry,
    acts_of,
)
from fairline.core.parts import PartChange
from fairline.core.practice import Rules
from fairline.core.procedures.procedure import Asked, Figure, asked
from fairline.core.proofs import Proofs
from fairline.core.route.joints import JointSpec
from fairline.core.route.stage import RouteStageResult
from fairline.core.sheet.part import torque_nm
from fairline.core.stage import Stage, StageContext, StageResult
from fairline.core.survey.stage import SurveyEntry


class Joint(Frozen):
    """A joint as it stands: its answer from the torque computation, its last making.

    ``key`` says what it joins, whatever its place is called. ``former`` are makings of what stood
    at its place before.
    """

    place: str
    label: str
    key: str
    run: str
    size: str | None
    od_mm: float | None
    brazed: bool
    answer: Answer[FlareTorqueResult] | None
    record: JointRecord | None
    makings: int
    call: Call
    former: tuple[JointRecord, ...] = ()
    cap: bool = False


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
    entry: WrenchEntry,
    specs: Sequence[JointSpec],
    records: Sequence[JointRecord],
    rules: Rules,
    proofs: Proofs | None = None,
    rules_on: Callable[[str | None], Rules] | None = None,
    contents: Contents | None = None,
) -> list[Joint]:
    """Every joint as it stands, in the order one works.

    ``rules_on`` gives the rules with the practice of a making's day; ``contents`` what is in the
    pipes, for what is to be mended.
    """
    by_key = _by_key(specs, records, proofs)
    found = []
    for spec in specs:
        made = _since_opened(by_key.get(spec.key, []))
        last = latest_making(made)
        of_day = rules_on(last.practice) if rules_on is not None and last is not None else rules
        answer = _torque_answer(spec, entry, of_day, last)
        former = tuple(r for r in records if r.place == spec.id and r not in made)
        found.append(
            Joint(
                place=spec.id,
                label=spec.label,
                key=spec.key,
                run=spec.run,
                record=last,
                makings=sum(r.did != "tightened" for r in made),
                answer=answer,
                size=spec.size,
                od_mm=spec.od_mm,
                brazed=spec.kind == "braze" or (last is not None and last.how == "brazed"),
                call=unsafe_or(
                    call_of(spec, answer, made, former, of_day, proofs, contents), spec, contents
                ),
                former=former,
                cap=spec.cap,
            )
        )
    return found


def _by_key(
    specs: Sequence[JointSpec], records: Sequence[JointRecord], proofs: Proofs | None
) -> dict[str, list[JointRecord]]:
    """The records of every joint, by what it joins."""
    named = {spec.id: spec.key for spec in specs}
    found: dict[str, list[JointRecord]] = {}
    for n, record in enumerate(records):
        key = proofs.acts[n].key if proofs else named.get(record.place, "")
        found.setdefault(key, []).append(record)
    return found


def _since_opened(records: Sequence[JointRecord]) -> list[JointRecord]:
    """What was done at a joint since it was opened last."""
    found: list[JointRecord] = []
    for record in sorted(records, key=lambda r: r.at):
        found = [] if record.did == "opened" else [*found, record]
    return found


@dataclass(frozen=True, eq=False)
class FlareStageResult(StageResult):
    """Every joint as it stands, and the parts of the job with what proofs are compared by."""

    joints: list[Joint]
    proofs: Proofs
    contents: Contents


def work(context: StageContext) -> FlareStageResult:
    entry, records = context.entry(WrenchEntry), context.records(JointRecord)
    proofs, specs = proofs_of(
        context.equipment,
        context.entry(SurveyEntry),
        context.of(RouteStageResult),
        records,
        context.records(PartChange),
        context.subjects,
        context.since,
        _leaks(context),
    )
    acts = placed(context.acts, records, proofs, specs)
    required = {spec.key: spec.label for spec in specs if not spec.cap}
    contents = fold(acts, proofs, kit.head_evacuation(context.rules) in ("no", "silent"), required)
    found = joints(entry, specs, records, context.rules, proofs, context.rules_on, contents)
    return FlareStageResult(judged(found, records), found, proofs, contents)


def placed(
    acts: Sequence[Act], records: Sequence[JointRecord], proofs: Proofs, specs: Sequence[JointSpec]
) -> list[Act]:
    """Acts at joints with the joint's key in place of where it is drawn."""
    keys = {r.uid: f"joint:{a.key}" for r, a in zip(records, proofs.acts, strict=True)}
    drawn = {spec.id: f"joint:{spec.key}" for spec in specs}
    back = {  # edits that were taken back since: nothing was opened
        (change.uid, name)
        for change in proofs.changes
        for name, ends in change.parts.items()
        if ends.then and tuple(proofs.now.get(name, ())) == tuple(ends.then)
    }

    def place(act: Act) -> str:
        if act.kind == "joint":
            return keys.get(act.uid, act.place)
        zone = act.place.removeprefix("coil.")
        return drawn.get(act.place, f"head:{zone}" if zone != act.place else "")

    of = ("joint", "look")
    return [
        replace(act, place=place(act)) if act.kind in of else act
        for act in acts
        if act.kind != "machine" or (act.uid, act.place) not in back
    ]


def _leaks(context: StageContext) -> list[tuple[str, datetime]]:
    """Where a leak was found, of the looks that the pressure test or a charged kit records."""
    looks = context.of_kind("leak-check")
    return [
        (str(getattr(look, "joint", "")), look.at)
        for look in looks
        if getattr(look, "found", "") == "leak"
    ]


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
        checks = [Check(id="joints", label="Joints", call=call, mend=Place(stage="route"))]
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


def procedures(context: StageContext, worked: FlareStageResult) -> Iterator[Asked]:
    """How joints are made up, where any is flared; and brazing, where any is brazed."""
    rules, joints = context.rules, worked.joints
    if any(not j.brazed and not j.cap for j in joints):
        three = rules.school("tightening").name == "three_times" and not kit.stays_sealed(rules)
        yield from asked("joint", {"three_times": "yes" if three else ""})
    if any(j.brazed for j in joints):
        watch = rules.value("fire_watch")
        figures: dict[str, Figure] = {} if watch is None else {"watch": (watch, "duration")}
        yield from asked("braze", {"brazed": "yes"}, figures=figures)


STAGE = Stage(
    name="flare",
    procedures=procedures,
    title="Flare",
    entry=WrenchEntry,
    work=work,
    records=(JointRecord, PartChange),
    acts=acts_of,
)
