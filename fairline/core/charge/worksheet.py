"""The worksheet of the added charge: the sheet's rule on every run, or a maker's own report.

A design report of the maker for this very job counts as its sheet; what the rule gives stands
beside it.
"""

from typing import Literal

from fairline.core.calc.added_charge import (
    AddedChargeRequest,
    AddedChargeResult,
    ChargedHead,
    ChargeRule,
    Rate,
    Segment,
    added_charge,
)
from fairline.core.call import Answer, Call, Verdict, sheet_limit
from fairline.core.charge.entry import ChargeEntry
from fairline.core.check import fault_call
from fairline.core.physics.tubing import size_label
from fairline.core.practice import Rules
from fairline.core.quantities import both
from fairline.core.route.piping import Piping
from fairline.core.sheet.outdoor import Outdoor

REPORT_LENGTH_M = 0.3  # a report for a line that differs by more is for another; our own choice
TOLD_KG = 0.0005  # a difference that is told: half a gram; our own choice


def request(pipes: Piping, entry: ChargeEntry, rules: Rules) -> AddedChargeRequest | None:
    """The sheet's charge rule on every run; None while a run or the rule is unknown.

    What box and tees add by their own sheets is part of the base adder.
    """
    unit = rules.outdoor
    if unit is None or pipes.total_m is None:
        return None
    rule = _charge_rule(unit, pipes)
    if rule is None or any(s.tube.liquid_mm is None for s in pipes.stretches):
        return None
    return AddedChargeRequest(
        segments=_segments(pipes),
        rule=rule,
        heads=_charged_heads(unit, pipes, rules),
        short_line=short_line(entry, rules)[0],
        factory_charge_kg=unit.factory_charge_kg,
        max_total_kg=unit.max_total_charge_kg,
        refrigerant=unit.refrigerant,
    )


def _charge_rule(unit: Outdoor, pipes: Piping) -> ChargeRule | None:
    if unit.included_length_m is None or not unit.rates:
        return None
    adders = [kg for kg in (unit.base_adder_kg, *pipes.adders_kg) if kg]
    return ChargeRule(
        included_length_m=unit.included_length_m,
        included_applies_to=unit.included_applies_to,
        rates=[
            Rate(liquid_od_mm=round(r.liquid_od_m * 1000, 3), kg_per_m=r.kg_per_m)
            for r in unit.rates
            if r.liquid_od_m is not None and r.kg_per_m is not None
        ],
        included_rate_kg_per_m=unit.included_rate_kg_per_m,
        head_adders_kg={a.head_class: a.kg or 0.0 for a in unit.head_adders} or None,
        base_adder_kg=sum(adders) if adders else None,
        max_added_kg=unit.max_added_kg,
    )


def _segments(pipes: Piping) -> list[Segment]:
    single = len(pipes.stretches) == 1
    return [
        Segment(
            id="line" if single else s.id,
            liquid_od_mm=s.tube.liquid_mm or 0.0,
            length_m=s.length_m or 0.0,
            zone=s.id if s.kind == "head" else None,
        )
        for s in pipes.stretches
    ]


def _charged_heads(unit: Outdoor, pipes: Piping, rules: Rules) -> list[ChargedHead] | None:
    if not unit.head_adders:
        return None
    classes = {z.id: head.head_class for z in pipes.tree.zones if (head := rules.heads.get(z.id))}
    return [
        ChargedHead.model_validate({"id": f"head {zone}", "class": name})
        for zone, name in classes.items()
        if name
    ] or None


def short_line(entry: ChargeEntry, rules: Rules) -> tuple[Literal["recover", "leave"], str]:
    """What is done about a short line, and who says so: sheet, this job, or the house."""
    if rules.outdoor and rules.outdoor.short_line:
        return rules.outdoor.short_line, "the sheet"
    if entry.short_line:
        return entry.short_line, f"this job: {entry.short_line_reason}"
    recover = rules.school("short_line").name == "recover"
    return "recover" if recover else "leave", rules.who_chose("short_line")


def answer(
    ours: Answer[AddedChargeResult] | None, pipes: Piping, entry: ChargeEntry, rules: Rules
) -> Answer[AddedChargeResult] | None:
    """What is to be added: by the maker's report for this job, else by the sheet's rule (``ours``).

    None while neither is known.
    """
    return (
        ours if entry.report_kg is None else by_report(entry.report_kg, ours, pipes, entry, rules)
    )


def by_report(
    report_kg: float,
    ours: Answer[AddedChargeResult] | None,
    pipes: Piping,
    entry: ChargeEntry,
    rules: Rules,
) -> Answer[AddedChargeResult]:
    """The maker's report as the charge to add, beside what the sheet's rule gives (``ours``)."""
    unit = rules.outdoor
    factory = unit.factory_charge_kg if unit is not None else None
    total = None if factory is None else factory + report_kg
    limit = sheet_limit(
        limit="design report", value=report_kg, unit="kg", source=entry.report_page or "no page"
    )
    result = ours.result if ours is not None else AddedChargeResult(added_kg=None)
    return Answer[AddedChargeResult](
        call=_report_call(report_kg, total, ours, pipes, entry, rules),
        governed_by=(limit, *(ours.governed_by if ours is not None else ())),
        working=ours.working if ours is not None else (),
        findings=tuple(f for f in (ours.findings if ours is not None else ()) if f == "recover"),
        result=result.model_copy(update={"added_kg": report_kg, "total_kg": total}),
    )


def _report_call(
    report_kg: float,
    total: float | None,
    ours: Answer[AddedChargeResult] | None,
    pipes: Piping,
    entry: ChargeEntry,
    rules: Rules,
) -> Call:
    most = rules.outdoor.max_total_charge_kg if rules.outdoor is not None else None
    if total is not None and most is not None and total > most + 1e-9:
        return fault_call(
            f"{both(total, 'charge')} in all is over the most the unit may hold, "
            f"{both(most, 'charge')}.",
            "Do not add charge: read the report and the sheet again.",
            Verdict.STOP,
        )
    if not entry.report_page:
        return Call(
            verdict=Verdict.UNKNOWN,
            because=f"{both(report_kg, 'charge')} by a report that nobody can find again.",
            do_next="Say which report, and its page.",
        )
    length, now = entry.report_length_m, pipes.total_m
    if length is not None and now is not None and abs(length - now) > REPORT_LENGTH_M + 1e-9:
        return fault_call(
            f"The report is for {both(length, 'length')} of line, and {both(now, 'length')} is "
            "there.",
            "Have the report made again for the line as it is.",
        )
    own = ours.result.added_kg if ours is not None else None
    beside = "" if own is None else f" By the sheet's rule {both(own, 'charge')}"
    beside += "." if own is not None else ""
    if own is not None and abs(own - report_kg) >= TOLD_KG:
        beside = f"{beside[:-1]}, a difference of {both(abs(own - report_kg), 'charge')}."
    act = f"Weigh in {both(report_kg, 'charge')} as liquid." if report_kg > 0 else None
    if report_kg < 0:
        act = f"Recover {both(-report_kg, 'charge')} into a cylinder, by weight."
    return Call(
        verdict=Verdict.HOLDS,
        because=f"{both(report_kg, 'charge')} by the maker's report for this job, "
        f"{entry.report_page}.{beside}",
        do_next=act,
    )


def by_rule(pipes: Piping, entry: ChargeEntry, rules: Rules) -> Answer[AddedChargeResult] | None:
    asked = request(pipes, entry, rules)
    if asked is None or rules.outdoor is None:
        return None
    unit = rules.outdoor
    sizes = sorted({s.liquid_od_mm for s in asked.segments})
    limits = tuple(
        sheet_limit(limit=name, value=value, unit=u, source=unit.source(field))
        for name, value, u, field in (
            ("pre-charged length", unit.included_length_m, "m", "included_length_m"),
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
