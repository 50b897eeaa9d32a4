"""What was weighed against what was wanted, and whether the valves may open."""

from collections.abc import Sequence

from fairline.core.calc.added_charge import AddedChargeResult
from fairline.core.calc.weigh_in import (
    EPSILON_KG,
    Reason,
    Weighed,
    WeighInRequest,
    WeighInResult,
    drawn_as_vapour,
    faults,
    tolerance_of,
    weigh_in,
)
from fairline.core.call import Answer, Call, Check, Place, Verdict, deciding, sheet_limit
from fairline.core.charge.entry import ChargeEntry, Release, Standing, Weighing
from fairline.core.charge.override import NAMES, words_of
from fairline.core.charge.worksheet import TOLD_KG
from fairline.core.check import check_limit, fault_call
from fairline.core.quantities import both, same_print

DOUBTS = frozenset({"rate_exceeds_full_tube", "rate_below_tube"})  # of a rate, for its tube


def added_call(
    worked: Answer[AddedChargeResult],
    entry: ChargeEntry,
    weighings: tuple[Weighing, ...],
    weighed: float,
) -> Call:
    """The added charge's call; a recovery that was done, or a rate read again, settles it."""
    call, added = worked.call, worked.result.added_kg
    if DOUBTS & {*worked.findings} and call.verdict is Verdict.WATCH:
        call = _read_again(worked, entry)
    settled = call.verdict is Verdict.WATCH and "recover" in worked.findings
    if settled and added is not None and weighings and _close(weighed, added):
        call = Call(
            verdict=Verdict.HOLDS,
            because=f"{both(-added, 'charge')} was recovered for the short line.",
        )
    return call


def _read_again(worked: Answer[AddedChargeResult], entry: ChargeEntry) -> Call:
    """A doubted rate as it was read a second time: by whom, from which page."""
    call, added, again = worked.call, worked.result.added_kg, entry.rate_again
    if again is None:
        return call
    doubted = [x for x in worked.governed_by if x.unit == "kg/m"]
    if not any(same_print(again, x.value, "rate") for x in doubted):
        return fault_call(
            f"Read again it is {both(again, 'rate')}: the sheet on the shelf says otherwise.",
            "Put the rate right on the sheet, then take that sheet again in Survey.",
        )
    if not (entry.rate_by and entry.rate_page) or added is None:
        asked = "Say who read the rate again, and on which page of the sheet."
        return call.model_copy(update={"do_next": asked})
    return Call(
        verdict=Verdict.HOLDS,
        because=f"{both(added, 'charge')} belongs in; the rate, {both(again, 'rate')}, "
        f"was read again by {entry.rate_by} on {entry.rate_page}.",
        do_next=f"Weigh in {both(added, 'charge')} as liquid." if added > 0 else None,
    )


def _close(weighed: float, wanted: float) -> bool:
    return abs(weighed - wanted) <= tolerance_of(wanted) + EPSILON_KG


def _unweighed_call(added: float, closed: list[str]) -> Call:
    if abs(added) <= 1e-9:
        return Call(verdict=Verdict.HOLDS, because="Nothing has to be weighed.")
    if closed:
        return Call(
            verdict=Verdict.WAIT,
            because=f"Nothing is weighed before the {_gate_words(closed)} holds.",
            do_next=f"Bring the {_gate_words(closed)} to hold first.",
        )
    return Call(
        verdict=Verdict.WAIT,
        because="Nothing is weighed yet.",
        do_next=f"Weigh the cylinder, move {both(abs(added), 'charge')}, weigh it again.",
    )


def _weighed_call(added: float, weighed: float, weighings: tuple[Weighing, ...]) -> Call:
    """What went in or came out, in all, against what was wanted."""
    said, wanted = both(abs(weighed), "charge"), both(abs(added), "charge")
    if _close(weighed, added):
        return Call(
            verdict=Verdict.HOLDS,
            because=f"{said} {'went in' if added >= 0 else 'came out'}, "
            f"{wanted} is wanted{_within(added - weighed)}.",
        )
    if weighed < added and any(w.emptied == "yes" for w in weighings):
        return Call(
            verdict=Verdict.WAIT,
            because="Refrigerant was recovered; what belongs in is not back yet.",
            do_next=f"After the decay, weigh in {both(added - weighed, 'charge')} as liquid.",
        )
    if weighed * added < 0:
        wrong, way = ("came out", "in") if added > 0 else ("went in", "out")
        return fault_call(
            f"{said} {wrong}, and {wanted} has to go {way}: were the two weights exchanged?",
            "Strike the weighing out and record it again, or put it right by weight.",
        )
    differ = both(abs(added - weighed), "charge")
    if abs(weighed) < abs(added):
        return Call(
            verdict=Verdict.WAIT,
            because=f"{said} of {wanted} is {'recovered' if added < 0 else 'in'}.",
            do_next=f"{'Take out' if added < 0 else 'Add'} another {differ}.",
        )
    if added < 0:
        return fault_call(
            f"{said} came out, {differ} more than wanted.", f"Weigh {differ} back in as liquid."
        )
    return fault_call(f"{said} went in, {differ} more than wanted.", f"Recover {differ} by weight.")


def weighed_check(
    added: float, weighings: tuple[Weighing, ...], weighed: float, closed: list[str]
) -> Check:
    """What was ``weighed`` against what was to be ``added``, both beyond the factory's charge."""
    call = _weighed_call(added, weighed, weighings) if weighings else _unweighed_call(added, closed)
    if weighings and closed:
        call = fault_call(
            f"Refrigerant was weighed before the {_gate_words(closed)} held.",
            "Shut the cylinder; bring the gates to hold, or strike the weighing out.",
        )
    mend = Place(stage=closed[0]) if closed and call.verdict is Verdict.WAIT else None
    return Check(id="weighed", label="Weighed", call=call, value=weighed, unit="kg", mend=mend)


def _within(missing_kg: float) -> str:
    """What is too little or too much within the scale's tolerance, in words."""
    if abs(missing_kg) < TOLD_KG:
        return ""
    less = "less" if missing_kg > 0 else "more"
    return f": {both(abs(missing_kg), 'charge')} {less}, within the scale's tolerance"


def total_check(total_kg: float | None, most_kg: float | None, source: str) -> Check | None:
    """All that is in the system against the most that the sheet allows; None where it is silent."""
    if total_kg is None or most_kg is None:
        return None
    limit = sheet_limit(
        limit="most total charge",
        value=most_kg,
        unit="kg",
        source=source,
    )
    over = total_kg - most_kg
    return check_limit(
        "total",
        "In the system",
        total_kg,
        limit,
        "charge",
        "max",
        f"Recover {both(max(over, 0.0), 'charge')} by weight.",
    )


def _gate_words(closed: Sequence[str]) -> str:
    return " and ".join(NAMES[s] for s in closed)


def _shut_call(closed: list[str]) -> Call:
    if not closed:
        return Call(
            verdict=Verdict.WAIT,
            because="What comes before holds: the valves may be opened.",
            do_next="Open both valves fully, then put the caps on to torque.",
        )
    words, verb = _gate_words(closed), "do" if len(closed) > 1 else "does"
    return Call(
        verdict=Verdict.WAIT,
        because=f"The valves stay shut: the {words} {verb} not hold yet.",
        do_next=f"Bring the {words} to hold first.",
    )


def _released_call(last: Release, closed: list[str]) -> Call:
    """How the valves stand; an override counts for what it names."""
    left = [name for name in closed if name not in last.named]
    if not last.full_open and "full-open" not in last.named:
        return fault_call("A valve is not full open.", "Back both valves out to the stop.")
    if left:
        words, verb = _gate_words(left), "do" if len(left) > 1 else "does"
        any_more = "" if last.named else " any more"
        return fault_call(
            f"The valves are open, and the {words} {verb} not hold{any_more}.",
            "Look at what changed there; leak-check the running system.",
            Verdict.WATCH,
        )
    if not last.caps_on and "caps" not in last.named:
        return fault_call(
            "The caps are off, and a cap is a seal.", "Put the caps on to torque.", Verdict.WATCH
        )
    if last.overridden:
        over = f", over {words_of(last.passed)}" if last.passed else ""
        return Call(
            verdict=Verdict.WATCH,
            because=f"Released by override of {last.override_by}{over}: {last.override_reason}",
            do_next="Leak-check the running system.",
        )
    return Call(verdict=Verdict.HOLDS, because="Both valves are open to the stop, caps on.")


def release_check(releases: Sequence[Release], closed: list[str]) -> Check:
    """Whether the valves may open, and how those of every circuit stand: the worst of them.

    An override counts for what it names (``passed``), and is said for good.
    """
    found = [_released_call(release, closed) for release in releases]
    call = deciding(found) if found else _shut_call(closed)
    mend = Place(stage=closed[0]) if closed and not releases else None
    return Check(id="release", label="Valves", call=call, mend=mend)


def cylinder_checks(
    weighings: Sequence[Weighing], unit_refrigerant: str, whole_kg: float | None = None
) -> list[Check]:
    """Whether every cylinder was one for this unit: its refrigerant, its tare, how it was drawn.

    ``whole_kg``: all that belongs in the system; more than that out of one cylinder at once is a
    scale that was set to nought in between.
    """
    rows = [of_cylinder(w, unit_refrigerant, w.after_kg) for w in weighings]
    asked = WeighInRequest(wanted_kg=0.0, unit_refrigerant=unit_refrigerant, weighings=rows)
    found = [*faults(asked), *drawn_as_vapour(asked)]
    found += [*_zeroed(weighings, whole_kg), *_air(weighings)]
    return [
        Check(id="cylinder", label="The cylinder", call=fault_call(because, act, verdict))
        for _, verdict, because, act in found[:1]
    ]


def _zeroed(weighings: Sequence[Weighing], whole_kg: float | None) -> list[Reason]:
    """A weighing of more than the whole system holds."""
    found: list[Reason] = []
    for w in weighings:
        moved = abs((w.before_kg or 0.0) - (w.after_kg or 0.0))
        if whole_kg is not None and moved > whole_kg + TOLD_KG:
            because = f"{both(moved, 'charge')} in one weighing is more than the system holds."
            act = "Was the scale set to nought in between? Read both weights again."
            found.append(("scale_zeroed", Verdict.UNKNOWN, because, act))
    return found


def _air(weighings: Sequence[Weighing]) -> list[Reason]:
    if any(w.way == "in" and w.hose == "neither" for w in weighings):
        because = "The hose was neither purged nor under vacuum: its air went in with the charge."
        act = "Purge the hose next time; look at the head pressure when it runs."
        return [("air_in_hose", Verdict.WATCH, because, act)]
    return []


def of_cylinder(
    weighing: Weighing | Standing, unit_refrigerant: str, after_kg: float | None
) -> Weighed:
    """A weighing as the computation has it; what nobody said of the cylinder is the unit's own.

    ``after_kg`` is None while the cylinder stands on the scale.
    """
    return Weighed(
        cylinder=weighing.cylinder.strip() or "unnamed",
        refrigerant=weighing.refrigerant.strip() or unit_refrigerant,
        way=weighing.way,
        before_kg=weighing.before_kg or 0.0,
        after_kg=after_kg,
        tare_kg=weighing.tare_kg,
        phase=weighing.phase,
    )


def stop_mark(left_kg: float, standing: Standing, unit_refrigerant: str) -> Answer[WeighInResult]:
    """The weight at which to stop a cylinder on the scale; ``left_kg``: still wanted."""
    return moved_so_far(left_kg, standing, unit_refrigerant, None)


def moved_so_far(
    left_kg: float, standing: Standing, unit_refrigerant: str, now_kg: float | None
) -> Answer[WeighInResult]:
    """What moved of it with a cylinder that reads ``now_kg``; None: it stands, nothing read yet.

    A hose that was full when the cylinder was weighed keeps nothing more.
    """
    asked = WeighInRequest(
        wanted_kg=left_kg,
        hose_kg=0.0 if standing.hose == "purged" else standing.hose_kg or 0.0,
        unit_refrigerant=unit_refrigerant,
        weighings=[of_cylinder(standing, unit_refrigerant, now_kg)],
    )
    return weigh_in(asked)
