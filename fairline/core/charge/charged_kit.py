"""Charge of a charged kit: nothing to add, the hiss at each valve, every joint looked at."""

from collections.abc import Sequence

from fairline.core import kit
from fairline.core.call import Call, Check, StageCall, Verdict, deciding
from fairline.core.charge.entry import Release, Weighing
from fairline.core.charge.under_refrigerant import looked_check
from fairline.core.charge.weighed import release_check
from fairline.core.check import fault_call, stage_call
from fairline.core.practice import Rules
from fairline.core.pressure_test.leak_search import Suspect
from fairline.core.route.piping import Piping
from fairline.core.survey.proposal import Wanted
from fairline.core.survey.smallest_room import room_check


def of_kit(
    pipes: Piping,
    weighings: tuple[Weighing, ...],
    releases: Sequence[Release],
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
    if (unheard := _unheard(releases)) is not None:
        release = release.model_copy(update={"call": deciding([unheard, release.call])})
    checks.append(release)
    checks.append(looked_check(looked, bool(releases)))
    return stage_call(
        checks,
        "The kit is open: made once, hissed, every joint dry under refrigerant, nothing to add.",
        summary="nothing to add",
        started=bool(releases),
        governed_by=limits,
    )


def _unheard(releases: Sequence[Release]) -> Call | None:
    """What is said of a hiss that nobody heard; an empty kit is passed over by nobody."""
    if any(r.hiss == "none" for r in releases):
        return fault_call(
            "No hiss as the valves opened: the kit has lost its charge.",
            "Shut the valves, look at every joint, and ask the maker.",
            Verdict.STOP,
        )
    if any(r.hiss != "heard" and "hiss" not in r.named for r in releases):
        return Call(
            verdict=Verdict.WAIT,
            because="Whether each valve hissed as it opened is not said.",
            do_next="Say whether each valve hissed as it opened.",
        )
    return None
