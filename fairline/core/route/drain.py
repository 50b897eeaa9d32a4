"""Drains: of each head a route of its own, to where it ends or joins another's."""

from collections.abc import Collection

from fairline.core.calc.drain import DrainLimits, DrainRequest, DrainResult, DrainSection
from fairline.core.calc.drain import drain as work_out
from fairline.core.call import Answer, Call, Check, Verdict
from fairline.core.check import fault_call
from fairline.core.limit_list import LimitName
from fairline.core.practice import Rules
from fairline.core.quantities import both
from fairline.core.route.entry import DrainRun, RouteEntry
from fairline.core.survey.stage import SurveyEntry

DRAINS = "drains"  # the part of the page
Drains = dict[str, Answer[DrainResult] | None]

ENDS = {
    "ground": "open, above the ground",
    "gutter": "open, into a gutter",
    "sink": "over a trapped sink",
    "stack": "into a stack",
    "joins": "joins another head's drain",
}


def joined_by(entry: RouteEntry, zone: str, now: Collection[str]) -> list[str]:
    """The zones of now whose water runs through this zone's drain, its own with them."""
    found = [zone]
    for at in found:
        found += [
            z
            for z, d in entry.drains.items()
            if z in now and d.ends == "joins" and d.joins == at and z not in found
        ]
    return found


def answer(
    zone: str, entry: RouteEntry, rules: Rules, now: Collection[str], cooling: dict[str, float]
) -> Answer[DrainResult] | None:
    """One drain worked out; None while nothing of it has a length. ``now``: the zones of now."""
    run = entry.drain(zone)
    parts = [p for p in run.parts if p.length_m]
    if not parts or not all(p.can_be for p in parts):
        return None
    head = rules.head
    heads = joined_by(entry, zone, now)
    names: tuple[LimitName, ...] = (
        "drain_fall",
        "drain_support_m",
        "drain_bore_m",
        "pump_lift",
        "pump_within",
    )
    limits = {n: limit for n in names if (limit := rules.limit(n)) is not None}
    request = DrainRequest(
        sections=[
            DrainSection(way=p.way, length_m=p.length_m or 0.0, fall_m=p.fall_m or 0.0)
            for p in parts
        ],
        limits=DrainLimits(
            min_fall=max(limits["drain_fall"].value, 1e-6),
            support_every_m=min(max(limits["drain_support_m"].value, 0.05), 100.0),
            max_pump_lift_m=limits["pump_lift"].value if "pump_lift" in limits else None,
            pump_within_m=limits["pump_within"].value if "pump_within" in limits else None,
            min_bore_m=limits["drain_bore_m"].value,
        ),
        pumped=head is not None and not head.on_wall,
        bore_m=run.bore_m,
        joined=len(heads),
        cooling_w=[cooling[z] for z in heads if z in cooling],
    )
    return work_out(request, {n: limits[n] for n in ("drain_fall", "drain_support_m")})


def drains(entry: RouteEntry, survey: SurveyEntry, rules: Rules) -> Drains:
    """Every head's drain worked out, by zone; None while nothing of it has a length."""
    now = {h.zone for h in survey.now}
    cooling = {z: h.cool_w for z, h in rules.heads.items() if h.cool_w}
    return {h.zone: answer(h.zone, entry, rules.of(h.zone), now, cooling) for h in survey.now}


def checks(entry: RouteEntry, worked: Drains) -> list[Check]:
    """Every head's drain: its fall, where it ends, whether it can be reached."""
    return [
        Check(
            id=f"drain_{zone}",
            label=f"Drain {zone}",
            call=_call(f"Drain {zone}", entry.drain(zone), answered, entry, zone, worked),
            zone=zone,
            part=DRAINS,
        )
        for zone, answered in worked.items()
    ]


def _call(
    label: str,
    run: DrainRun,
    worked: Answer[DrainResult] | None,
    entry: RouteEntry,
    zone: str,
    now: Collection[str],
) -> Call:
    impossible = next((n for n, p in enumerate(run.parts, 1) if not p.can_be), None)
    if impossible is not None:
        part = run.parts[impossible - 1]
        return fault_call(
            f"{label}: part {impossible} cannot fall {both(abs(part.fall_m or 0.0), 'small')} in "
            f"{both(part.length_m or 0.0, 'length')}.",
            f"Measure length and fall of part {impossible} again.",
        )
    if worked is None:
        return _wait(
            f"{label} is not laid out yet.",
            "Enter its parts from the head's outlet, each with its fall.",
        )
    if worked.call.verdict is not Verdict.HOLDS:
        return worked.call.model_copy(update={"because": f"{label}: {worked.call.because}"})
    astray = run.ends == "joins" and _joins_nothing(run, entry, zone, now)
    found = _where_it_ends(label, run, astray) or _as_it_runs(label, run)
    return found or Call(verdict=Verdict.HOLDS, because=f"{label}: {worked.call.because}")


def _wait(because: str, do_next: str) -> Call:
    return Call(verdict=Verdict.WAIT, because=because, do_next=do_next)


def _where_it_ends(label: str, run: DrainRun, astray: bool) -> Call | None:
    """What is wrong with where it ends, or not said of it; None where all is in order."""
    if run.ends is None:
        return _wait(
            f"{label}: where does it end?",
            "Say where the drain ends: open above ground or water, or into what.",
        )
    if astray:
        return fault_call(
            f"{label} joins a drain that is not there, or itself.",
            "Name the zone whose drain it joins.",
        )
    if run.bore_m is None:
        return _wait(
            f"{label}: how wide is the pipe inside?",
            "Enter the inside of the pipe after the maker's hose.",
        )
    if run.ends == "stack" and run.trapped is None:
        return _wait(
            f"{label} ends in a stack: has it trap and air gap?",
            "Say whether the stack has a trap and an air gap, as the local code allows.",
        )
    if run.ends == "stack" and run.trapped != "yes":
        return fault_call(
            f"{label} ends in a stack without trap and air gap.",
            "Trap and air gap as the local code allows, or end it in the open.",
        )
    return None


def _as_it_runs(label: str, run: DrainRun) -> Call | None:
    """What is to be looked at on its way; None where all is in order."""
    if run.insulated is None:
        return _wait(
            f"{label}: is it insulated where it runs indoors?",
            "Say whether the drain is insulated indoors: cold water sweats outside too.",
        )
    if run.insulated == "no":
        return fault_call(
            f"{label} is not insulated: indoors it sweats and drips.",
            "Insulate it wherever it runs indoors.",
            Verdict.WATCH,
        )
    if run.reach != "yes":
        return fault_call(
            f"{label}: no place to reach it with a vacuum.",
            "Leave a tee or an open end that can be reached.",
            Verdict.WATCH,
        )
    return None


def _joins_nothing(run: DrainRun, entry: RouteEntry, zone: str, now: Collection[str]) -> bool:
    """Whether the drain it joins is no head's of now, or its own."""
    there = run.joins in entry.drains and run.joins in now
    return not there or zone in _onward(entry, run.joins)


def _onward(entry: RouteEntry, zone: str) -> list[str]:
    """The zones whose drains one drain runs on through."""
    found: list[str] = []
    at = zone
    while at and at not in found:
        found.append(at)
        run = entry.drain(at)
        at = run.joins if run.ends == "joins" else ""
    return found
