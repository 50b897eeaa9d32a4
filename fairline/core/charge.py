"""Charge: the added charge for the line, weighed in by cylinder, and the release of the valves."""

from datetime import datetime
from typing import Annotated, Literal

from pydantic import Field, model_validator

from fairline.core.calc.added_charge import (
    AddedChargeRequest,
    AddedChargeResult,
    ChargedHead,
    ChargeRule,
    Rate,
    Segment,
    added_charge,
)
from fairline.core.call import Answer, Authority, Call, Check, Limit, StageCall, Verdict
from fairline.core.check import fault, stage_call
from fairline.core.entry import ChargeKg, CylinderKg, Entry, LongText, Text
from fairline.core.piping import Piping
from fairline.core.practice import Rules
from fairline.core.proposal import Wanted
from fairline.core.quantities import both
from fairline.core.survey import room_check
from fairline.core.tubing import size_label

WEIGH_TOLERANCE_KG = 0.010  # a cylinder scale's two readings of 5 g; our own choice
WEIGH_TOLERANCE_SHARE = 0.03  # of the charge to add; our own choice

GATES = ("pressure-test", "evacuate")


class ChargeEntry(Entry):
    """What this job does differently with its charge, with the reason."""

    short_line: Literal["", "recover", "leave"] = ""
    short_line_reason: Text = ""
    notes: LongText = ""

    @model_validator(mode="after")
    def _says_why(self) -> "ChargeEntry":
        if self.short_line and not self.short_line_reason:
            raise ValueError("say why this job differs from house practice")
        return self


class Weighing(Entry):
    """One weighing: the cylinder before and after, less what stayed in the hose."""

    kind: Literal["weighing"] = "weighing"
    cylinder: Text = ""
    before_kg: CylinderKg
    after_kg: CylinderKg
    hose_kg: ChargeKg = None
    by: Annotated[Text, Field(min_length=1)]
    at: datetime

    @model_validator(mode="after")
    def _both_weights(self) -> "Weighing":
        if self.before_kg is None or self.after_kg is None:
            raise ValueError("weigh the cylinder before and after")
        return self

    @property
    def into_system_kg(self) -> float:
        """What went into the system; negative where refrigerant was taken out."""
        return (self.before_kg or 0.0) - (self.after_kg or 0.0) - (self.hose_kg or 0.0)


class Release(Entry):
    """The opening of the service valves; an override carries its name and reason for good."""

    kind: Literal["release"] = "release"
    order: Literal["gas_first", "liquid_cracked"]
    full_open: bool = False
    caps_on: bool = False
    override_by: Text = ""
    override_reason: Text = ""
    by: Annotated[Text, Field(min_length=1)]
    at: datetime

    @property
    def overridden(self) -> bool:
        return bool(self.override_by and self.override_reason)


def request(pipes: Piping, entry: ChargeEntry, rules: Rules) -> AddedChargeRequest | None:
    """The sheet's charge rule on every run; None while a run or the rule is unknown.

    What box and tees add by their own sheets is part of the base adder.
    """
    unit = rules.outdoor
    if unit is None or pipes.total_m is None or unit.included_length_m is None or not unit.rates:
        return None
    sizes = {s.id: s.tube.liquid_mm for s in pipes.stretches}
    if any(mm is None for mm in sizes.values()):
        return None
    single = len(pipes.stretches) == 1
    adders = [unit.base_adder_kg, *pipes.adders_kg]
    classes = {z.id: head.head_class for z in pipes.tree.zones if (head := rules.heads.get(z.id))}
    return AddedChargeRequest(
        segments=[
            Segment(
                id="line" if single else s.id,
                liquid_od_mm=s.tube.liquid_mm or 0.0,
                length_m=s.length_m or 0.0,
                zone=s.id if s.kind == "head" else None,
            )
            for s in pipes.stretches
        ],
        rule=ChargeRule(
            included_length_m=unit.included_length_m,
            included_applies_to=unit.included_applies_to,
            rates=[
                Rate(liquid_od_mm=round(r.liquid_od_m * 1000, 3), kg_per_m=r.kg_per_m)
                for r in unit.rates
                if r.liquid_od_m is not None and r.kg_per_m is not None
            ],
            included_rate_kg_per_m=unit.included_rate_kg_per_m,
            head_adders_kg={a.head_class: a.kg or 0.0 for a in unit.head_adders} or None,
            base_adder_kg=sum(kg for kg in adders if kg) if any(adders) else None,
            max_added_kg=unit.max_added_kg,
        ),
        heads=[
            ChargedHead.model_validate({"id": f"head {zone}", "class": name})
            for zone, name in classes.items()
            if name and unit.head_adders
        ]
        or None,
        short_line=short_line(entry, rules)[0],
        factory_charge_kg=unit.factory_charge_kg,
        max_total_kg=unit.max_total_charge_kg,
        refrigerant=unit.refrigerant,
    )


def short_line(entry: ChargeEntry, rules: Rules) -> tuple[Literal["recover", "leave"], str]:
    """What is done about a short line, and who says so: sheet, this job, or the house."""
    if rules.outdoor and rules.outdoor.short_line:
        return rules.outdoor.short_line, "the sheet"
    if entry.short_line:
        return entry.short_line, f"this job: {entry.short_line_reason}"
    recover = rules.school("short_line").name == "recover"
    return "recover" if recover else "leave", rules.who_chose("short_line")


def answer(pipes: Piping, entry: ChargeEntry, rules: Rules) -> Answer[AddedChargeResult] | None:
    asked = request(pipes, entry, rules)
    if asked is None or rules.outdoor is None:
        return None
    unit = rules.outdoor
    sizes = sorted({s.liquid_od_mm for s in asked.segments})
    limits = tuple(
        Limit(limit=name, value=value, unit=u, authority=Authority.SHEET, source=unit.source(field))
        for name, value, u, field in (
            ("covered length", unit.included_length_m, "m", "included_length_m"),
            *(
                (
                    f"rate beyond it, {size_label(mm)}" if len(sizes) > 1 else "rate beyond it",
                    unit.rate_kg_per_m(mm),
                    "kg/m",
                    "rates",
                )
                for mm in sizes
            ),
            ("factory charge", unit.factory_charge_kg, "kg", "factory_charge_kg"),
            ("most total charge", unit.max_total_charge_kg, "kg", "max_total_charge_kg"),
        )
        if value is not None
    )
    return added_charge(asked, limits=limits)


def weighed_kg(weighings: tuple[Weighing, ...]) -> float:
    return sum(w.into_system_kg for w in weighings)


def blocked_by(stages: dict[str, StageCall]) -> list[str]:
    """The gates that keep the valves shut: stages whose call does not yet hold."""
    return [s for s in GATES if s not in stages or stages[s].call.verdict is not Verdict.HOLDS]


def judge(
    pipes: Piping,
    entry: ChargeEntry,
    weighings: tuple[Weighing, ...],
    releases: tuple[Release, ...],
    stages: dict[str, StageCall],
    rules: Rules,
    heads: list[Wanted] | None = None,
) -> StageCall:
    """The added charge, what was weighed against it, the room, and whether the valves may open."""
    worked = answer(pipes, entry, rules)
    if worked is None:
        missing = "run" if pipes.total_m is None else "sheet's charge rule"
        call = Call(
            verdict=Verdict.UNKNOWN,
            because=f"The {missing} is not known.",
            do_next="Enter the run."
            if pipes.total_m is None
            else "Enter covered length, rate and tube size on the sheet.",
        )
        checks = [Check(id="added", label="Added charge", call=call)]
    else:
        added = worked.result.added_kg
        call = worked.call
        settled = (
            added is not None and call.verdict is Verdict.WATCH and "recover" in worked.findings
        )
        if settled and added is not None and weighings and _close(weighed_kg(weighings), added):
            call = Call(
                verdict=Verdict.HOLDS,
                because=f"{both(-added, 'charge')} was recovered for the short line.",
            )
        checks = [Check(id="added", label="Added charge", call=call, value=added, unit="kg")]
        if added is not None:
            checks.append(_weighed(added, weighings))
    total_kg = worked.result.total_kg if worked else None
    if (in_room := room_check(total_kg, heads or [], rules)) is not None:
        checks.append(in_room)
    checks.append(_release(releases, stages))
    added_kg = worked.result.added_kg if worked else None
    return stage_call(
        checks,
        "The charge is weighed in and the valves are open.",
        summary=both(added_kg, "charge") if added_kg is not None else "",
        started=bool(weighings or releases),
        governed_by=worked.governed_by if worked else (),
        working=worked.working if worked else (),
        findings=worked.findings if worked else (),
    )


def _close(weighed: float, wanted: float) -> bool:
    return abs(weighed - wanted) <= max(WEIGH_TOLERANCE_KG, WEIGH_TOLERANCE_SHARE * abs(wanted))


def _weighed(added: float, weighings: tuple[Weighing, ...]) -> Check:
    weighed = weighed_kg(weighings)
    said = both(weighed, "charge")
    if abs(added) <= 1e-9 and not weighings:
        call = Call(verdict=Verdict.HOLDS, because="Nothing has to be weighed.")
    elif not weighings:
        call = Call(
            verdict=Verdict.WAIT,
            because="Nothing is weighed yet.",
            do_next=f"Weigh the cylinder, move {both(abs(added), 'charge')}, weigh it again.",
        )
    elif _close(weighed, added):
        call = Call(
            verdict=Verdict.HOLDS, because=f"{said} went in, {both(added, 'charge')} was wanted."
        )
    elif weighed < added:
        call = Call(
            verdict=Verdict.WAIT,
            because=f"{said} of {both(added, 'charge')} is in.",
            do_next=f"Add another {both(added - weighed, 'charge')}.",
        )
    else:
        call = fault(
            f"{said} went in, {both(weighed - added, 'charge')} more than wanted.",
            f"Recover {both(weighed - added, 'charge')} by weight.",
        )
    return Check(id="weighed", label="Weighed", call=call, value=weighed, unit="kg")


def _release(releases: tuple[Release, ...], stages: dict[str, StageCall]) -> Check:
    closed = blocked_by(stages)
    names = " and ".join({"pressure-test": "pressure test", "evacuate": "decay"}[s] for s in closed)
    last = releases[-1] if releases else None
    if last is None and closed:
        call = Call(
            verdict=Verdict.WAIT,
            because=f"The valves stay shut: the {names} does not hold yet.",
            do_next=f"Bring the {names} to hold first.",
        )
    elif last is None:
        call = Call(
            verdict=Verdict.WAIT,
            because="Pressure test and decay hold: the valves may be opened.",
            do_next="Open both valves fully, then put the caps on to torque.",
        )
    elif last.override_by:
        call = Call(
            verdict=Verdict.WATCH,
            because=f"Released by override of {last.override_by}: {last.override_reason}",
            do_next="Leak-check the running system.",
        )
    elif not last.full_open:
        call = fault("A valve is not full open.", "Back both valves out to the stop.")
    elif not last.caps_on:
        call = fault(
            "The caps are off, and a cap is a seal.", "Put the caps on to torque.", Verdict.WATCH
        )
    else:
        call = Call(verdict=Verdict.HOLDS, because="Both valves are open to the stop, caps on.")
    return Check(id="release", label="Valves", call=call)
