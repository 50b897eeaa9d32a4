"""The sealed kit. One whose lines hold nitrogen is tested and pumped as any line is.

The pre-charged kit: where its sheet says that the head is not evacuated, no nitrogen and no
pump are ever connected. Its proof is its own: every connection made once, the hiss at each valve
as it opens, every joint looked at under refrigerant for its time, nothing to add.
"""

from fairline.core.call import Call, Check, Limit, StageCall, Verdict
from fairline.core.check import fault_call, stage_call
from fairline.core.practice import Rules
from fairline.core.readings import Run


def head_evacuation(rules: Rules) -> str:
    """What the kits' sheets say of evacuating the head: "yes", "no", "silent"; "" without kits."""
    if not rules.kits:
        return ""
    words = {"yes" if kit.lines_hold == "nitrogen" else kit.evacuate_head for kit in rules.kits}
    if None in words or len(words) > 1:
        return "silent"
    return str(next(iter(words)))


def may_be_evacuated(rules: Rules) -> bool:
    """Whether nitrogen and pump may be connected: no kit, or every kit's sheet says so."""
    return head_evacuation(rules) in ("", "yes")


def stays_sealed(rules: Rules) -> bool:
    """Whether neither nitrogen nor pump is asked for, by every kit's sheet."""
    return head_evacuation(rules) == "no"


def not_asked_call(rules: Rules, runs: tuple[Run, ...], what: str) -> StageCall | None:
    """The call of a stage that a kit's sheet does not ask for; None where it is asked.

    ``what`` is what would be connected: nitrogen, or the pump. A sheet that is silent leaves it
    unknown, and a run that was made all the same is a stop.
    """
    told = head_evacuation(rules)
    if told in ("", "yes"):
        return None
    kit = rules.kits[0]
    if told == "silent":
        call = Call(
            verdict=Verdict.UNKNOWN,
            because=f"{kit.name}: its sheet does not say whether the head is evacuated.",
            do_next=f"Find it on the kit's sheet; until then no {what} is connected.",
        )
    elif any(run.readings for run in runs):
        call = fault_call(
            f"A charged kit was connected to {what}: its charge is no longer what it was.",
            f"Shut the cylinder and the valves, disconnect the {what}, and ask the maker.",
            Verdict.STOP,
        )
    else:
        call = Call(
            verdict=Verdict.HOLDS,
            because=f"Not asked: {kit.source('evacuate_head')} says the head is not evacuated. "
            f"No {what} is ever connected.",
        )
    check = Check(id="kit", label="Pre-charged kit", call=call)
    return stage_call([check], call.because, summary="not asked", started=told == "no")


def made_once(makings: int, label: str) -> Call | None:
    """A charged connection that was made more than once; None where it was not."""
    if makings < 2:
        return None
    return fault_call(
        f"{label} was made {makings} times: a charged connection is made once.",
        "Refrigerant was lost: ask the maker, or take a new kit.",
    )


def nothing_to_add(rules: Rules, way_m: float | None) -> tuple[Call, tuple[Limit, ...]]:
    """Within the kit's own length nothing is added; ``way_m`` is what the way takes of it."""
    kit = rules.kits[0]
    if way_m is None or kit.length_m is None:
        what = "run" if way_m is None else "kit's length"
        return Call(
            verdict=Verdict.UNKNOWN,
            because=f"The {what} is not known.",
            do_next="Lay out the run." if way_m is None else "Enter the length on its sheet.",
        ), ()
    if way_m > kit.length_m + 1e-6:
        return fault_call(
            "The way is longer than the kit, which is never cut nor joined.",
            "Take a longer kit.",
        ), ()
    return Call(
        verdict=Verdict.HOLDS,
        because=f"{kit.name} is charged for its whole length: nothing is added.",
    ), ()
