"""Charge of a charged kit: nothing to add, the hiss at each valve, every joint looked at."""

from collections.abc import Sequence

from fairline.core import kit
from fairline.core.call import Call, Check, StageCall, Verdict
from fairline.core.charge.entry import Release, Weighing
from fairline.core.charge.weighed import release_check
from fairline.core.check import fault_call, plural, stage_call
from fairline.core.practice import Rules
from fairline.core.pressure_test.leak_search import Suspect, next_to_look_at
from fairline.core.route.piping import Piping
from fairline.core.survey.proposal import Wanted
from fairline.core.survey.stage import room_check


def of_kit(
    pipes: Piping,
    weighings: tuple[Weighing, ...],
    releases: tuple[Release, ...],
    closed: list[str],
    rules: Rules,
    heads: list[Wanted],
    looked: Sequence[Suspect],
) -> StageCall:
    """A charged kit: nothing to add, the hiss as each valve opens, every joint looked at."""
    ways = [s.result.cut_length_m - s.coil_m for s in pipes.stretches if s.kit and s.result]
    within, limits = kit.nothing_to_add(rules, max(ways, default=None))
    checks = [Check(id="added", label="Added charge", call=within, value=0.0, unit="kg")]
    if any(w.way == "in" for w in weighings):
        call = fault_call("Refrigerant was weighed into a charged kit.", "Recover it by weight.")
        checks.append(Check(id="weighed", label="Weighed", call=call))
    charge_kg = rules.outdoor.factory_charge_kg if rules.outdoor else None
    if (in_room := room_check(charge_kg, heads, rules)) is not None:
        checks.append(in_room)
    release = release_check(releases, closed)
    last = releases[-1] if releases else None
    silent = last is not None and last.hiss == "none"  # an empty kit: nobody passes that over
    passed_over = last is not None and "hiss" in last.named and not silent
    judged = release.call.verdict in (Verdict.HOLDS, Verdict.WATCH)
    if last is not None and judged and last.hiss != "heard" and not passed_over:
        call = (
            fault_call(
                "No hiss as the valves opened: the kit has lost its charge.",
                "Shut the valves, look at every joint, and ask the maker.",
            )
            if silent
            else Call(
                verdict=Verdict.WAIT,
                because="Whether each valve hissed as it opened is not said.",
                do_next="Say whether each valve hissed as it opened.",
            )
        )
        release = release.model_copy(update={"call": call})
    checks.append(release)
    checks.append(_looked_at(looked, bool(releases)))
    return stage_call(
        checks,
        "The kit is open: made once, hissed, every joint dry under refrigerant, nothing to add.",
        summary="nothing to add",
        started=bool(releases),
        governed_by=limits,
    )


def _looked_at(looked: Sequence[Suspect], open_: bool) -> Check:
    """Every joint under refrigerant, with bubbles or detector for its time."""
    leaking = next((s for s in looked if s.call.verdict is Verdict.SHORT), None)
    left = next_to_look_at(looked)
    done = sum(s.call.verdict is Verdict.HOLDS for s in looked)
    if not open_:
        call = Call(
            verdict=Verdict.WAIT,
            because="No joint is under refrigerant yet.",
            do_next="Open both valves, listen for the hiss, then look at every joint.",
        )
    elif leaking is not None:
        call = leaking.call
    elif left is not None or not looked:
        name = left.label if left else "each joint"
        call = Call(
            verdict=Verdict.WAIT,
            because=f"{done} of {plural(len(looked), 'joint')} looked at under refrigerant.",
            do_next=f"Bubble {name}, two to three minutes, or pass it twice with a detector.",
        )
    else:
        call = Call(
            verdict=Verdict.HOLDS, because=f"{plural(done, 'joint')} dry under refrigerant."
        )
    return Check(id="looked", label="Joints under refrigerant", call=call)
