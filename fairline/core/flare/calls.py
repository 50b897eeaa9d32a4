"""The call of one joint: made, looked at, within torque; open, leaking, or another one by now."""

from collections.abc import Sequence

from fairline.core import kit
from fairline.core.calc.flare_torque import FlareTorqueResult
from fairline.core.call import Answer, Call, Verdict
from fairline.core.check import capitalized, fault_call
from fairline.core.contents.state import Contents
from fairline.core.contents.steps import before_opening
from fairline.core.flare.records import LOOKS, MENDS, SEAMS, JointRecord, look_words
from fairline.core.practice import Rules
from fairline.core.proofs import Difference, Proofs, undecided
from fairline.core.quantities import both
from fairline.core.route.joints import JointSpec


def latest_making(made: Sequence[JointRecord]) -> JointRecord | None:
    """The last making, with the torque of its tightening where it was tightened since."""
    if not made or made[-1].did != "tightened":
        return made[-1] if made else None
    making = next((r for r in reversed(made) if r.did != "tightened"), made[-1])
    kept = ("look", "flare", "nitrogen", "cooled", "did")
    return made[-1].model_copy(update={name: getattr(making, name) for name in kept})


def call_of(
    spec: JointSpec,
    answer: Answer[FlareTorqueResult] | None,
    made: Sequence[JointRecord],
    former: Sequence[JointRecord],
    rules: Rules,
    proofs: Proofs | None,
    contents: Contents | None,
) -> Call:
    """The call of a joint; before all that nothing closes it, and that it may be another one."""
    if spec.cap:
        gone = _taken_out(spec, proofs) if proofs is not None and not made else []
        if gone:
            return undecided(gone, "what closes this end")
        closed = made and answer is not None
        return _joint_call(rules, spec, answer, made) if closed else _cap_call(made, contents)
    doubts = _doubts(spec, [*made, *former], proofs)
    if doubts:
        return undecided(doubts, "this joint")
    if made and proofs is not None and _leaks_still(spec, made, proofs):
        anew = "cut it out and braze it again" if spec.kind == "braze" else "make it again"
        return fault_call("It was found leaking.", f"{capitalized(anew)}, then from the test on.")
    if not made and former:
        opened = former[-1].did == "opened"
        return Call(
            verdict=Verdict.WAIT,
            because="It stands open."
            if opened
            else "What was made up here was another joint: what is here now is not made up yet.",
            do_next="Make it up anew.",
        )
    return _joint_call(rules, spec, answer, made)


def _leaks_still(spec: JointSpec, made: Sequence[JointRecord], proofs: Proofs) -> bool:
    """Whether a leak was found at a joint since something was done at it."""
    last = max(record.at for record in made)
    return any(part == f"joint:{spec.key}" and when >= last for part, when in proofs.leaks)


def _doubts(
    spec: JointSpec, records: Sequence[JointRecord], proofs: Proofs | None
) -> list[Difference]:
    """What differs of a joint's machine and tube since it was made, and nobody said why."""
    if proofs is None or not records:
        return []
    last = max(records, key=lambda record: record.at)
    machine = spec.sides[0].partition(".")[0]

    def own(name: str) -> bool:
        return name == f"tube:{spec.run}" or proofs.now.get(name, ("",))[0] == machine

    kinds = ("unit", "head", "box", "tee", "tube")
    found = proofs.differences(last.subject, last.at, kinds, own)
    # A piece that a tee parted is of the tube that it was.
    return [d for d in found if not d.answered and d.then is not None]


def _taken_out(spec: JointSpec, proofs: Proofs) -> list[Difference]:
    """What stood on an open end and is not drawn any more, while nobody said whether it is gone."""
    acts = [a for a in proofs.acts if a.key.startswith(f"{spec.line}:{spec.sides[0]}|")]
    kinds = ("tube", "head", "box", "tee")
    found = proofs.differences(acts[-1].subject, acts[-1].at, kinds) if acts else []
    return [d for d in found if not d.answered and d.then is not None]


def unsafe_or(call: Call, spec: JointSpec, contents: Contents | None) -> Call:
    """A call that sends hands to a joint, with what has to be let out of it before."""
    if contents is None or call.do_next is None or call.verdict is Verdict.STOP:
        return call
    if not (steps := before_opening(contents.of(f"joint:{spec.key}"))):
        return call
    return call.model_copy(update={"do_next": f"{steps} {call.do_next}"})


def _cap_call(made: Sequence[JointRecord], contents: Contents | None) -> Call:
    """An end that nothing is on any more: open until it is capped."""
    if made:
        return Call(verdict=Verdict.HOLDS, because=f"Capped by {made[-1].by}.")
    if contents is not None and (let_in := contents.words):
        return fault_call(
            f"Nothing closes this end, and {let_in} is in the system.",
            "Shut it off at the valves, let out what is behind it, and cap it.",
            Verdict.STOP,
        )
    return Call(
        verdict=Verdict.WAIT,
        because="Nothing is on this end any more, and nothing closes it.",
        do_next="Put a cap on it, to torque.",
    )


def _joint_call(
    rules: Rules,
    spec: JointSpec,
    answer: Answer[FlareTorqueResult] | None,
    made: Sequence[JointRecord],
) -> Call:
    """What the last making of a joint came to; a charged connection is made once."""
    last = latest_making(made)
    # A nut left loose for the purge and torqued afterwards is one making.
    times = sum(r.how != "loose" and r.did != "tightened" for r in made)
    sealed = kit.stays_sealed(rules)
    if sealed and (again := kit.made_once(times, spec.label)) is not None:
        return again
    if sealed and last is not None and (told := _of_a_charged_kit(last, answer)) is not None:
        return told
    if spec.kind == "braze" or (last is not None and last.how == "brazed"):
        return _seam_call(last, spec.od_mm)
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
    return answer.call if last is None else _flared(rules, last, answer)


def _flared(rules: Rules, last: JointRecord, answer: Answer[FlareTorqueResult]) -> Call:
    """A flare as it was made last: its seat, how it was torqued, whose flare it is."""
    if last.look != "good":
        return fault_call(f"The flare is {look_words(last.look)}.", MENDS[last.look])
    if last.how == "by feel":
        return fault_call(
            "Tight by feel is not measured.", "Put a torque wrench on it.", Verdict.WATCH
        )
    if last.sealant == "threads":
        return fault_call(
            "Sealant is on the threads: they over-torque, and the reading no longer holds.",
            "Open it, clean the threads, look at the flare, and torque it dry.",
            Verdict.WATCH,
        )
    if (
        last is not None
        and last.flare == "factory"
        and not kit.stays_sealed(rules)
        and rules.school("factory_flares").name == ("recut")
        and answer.call.verdict is Verdict.HOLDS
    ):
        return fault_call(
            "A factory flare was used; the company cuts them off.",
            "Cut it off and make your own, or let this job differ with its reason.",
            Verdict.WATCH,
        )
    if asked := slip_of_torque(last.applied_nm, answer.result.target_nm):
        return Call(
            verdict=Verdict.WAIT,
            because=asked,
            do_next="Strike the record out and enter what the wrench showed.",
        )
    return answer.call


def _of_a_charged_kit(last: JointRecord, answer: Answer[FlareTorqueResult] | None) -> Call | None:
    """What is asked of a charged connection beyond its torque; None where nothing is wrong.

    It is never sawn, brazed or made again; its factory flares are used as they come.
    """
    if last.how == "brazed":
        return fault_call(
            "A charged connection was brazed: flame on refrigerant, and its charge is lost.",
            "No more flame. Air the room, ask the maker, take a new kit.",
            Verdict.STOP,
        )
    if last.look not in ("", "good"):
        return fault_call(
            f"The flare is {look_words(last.look)}: a charged line is never cut.",
            "Ask the maker for the written way, or take a new kit.",
        )
    if last.how == "by feel":
        return fault_call(
            "Tight by feel is not measured, and a charged connection cannot be tried again.",
            "Put a torque wrench on it now, once, with a second one on the fitting.",
        )
    if answer is not None and "over_torque" in answer.findings:
        return fault_call(
            f"{answer.call.because} A charged line is never cut.",
            "Look at it under refrigerant for its time; ask the maker for the written way.",
        )
    return None


def slip_of_torque(applied_nm: float | None, target: tuple[float, float] | None) -> str:
    """A torque that a decimal more or less would bring into its range, as it ought to be asked.

    >>> slip_of_torque(160.0, (14.0, 18.0)) != "", slip_of_torque(25.0, (14.0, 18.0))
    (True, '')
    """
    if applied_nm is None or target is None:
        return ""
    low, high = target
    meant = [applied_nm * by for by in (0.1, 10.0) if low <= applied_nm * by <= high * (1 + 1e-9)]
    if not meant:
        return ""
    return f"{both(applied_nm, 'torque')}: was it {both(meant[0], 'torque')}?"


SHALLOW = 0.5  # of the tube's diameter: a swage less deep does not hold; our own choice


def _swage_call(last: JointRecord, od_mm: float | None) -> Call | None:
    """A swage about as deep as the tube is wide is wanted (common practice, no source)."""
    if last.swage_m is None or od_mm is None:
        return None
    said = (
        f"The swage is {both(last.swage_m, 'small')} deep on a tube of {both(od_mm / 1000, 'tube')}"
    )
    if last.swage_m * 1000 < SHALLOW * od_mm - 1e-6:
        return fault_call(f"{said}: too shallow to hold.", "Cut it out, swage deeper, braze again.")
    if last.swage_m * 1000 < od_mm - 0.5:
        return fault_call(
            f"{said}; about its diameter is wanted.",
            "Look at this seam twice under nitrogen; swage the next one deeper.",
            Verdict.WATCH,
        )
    return None


def _seam_call(last: JointRecord | None, od_mm: float | None = None) -> Call:
    """A brazed joint: nitrogen flowed, and the seam is clean, continuous and evenly filled."""
    if last is None:
        return Call(
            verdict=Verdict.WAIT,
            because="Not brazed yet.",
            do_next="Wet cloth on what must stay cool, nitrogen flowing, braze, look at the seam.",
        )
    if last.look != "good":
        words = SEAMS.get(last.look, LOOKS.get(last.look, "not whole"))
        return fault_call(f"The seam is not good: {words}.", MENDS[last.look])
    if last.cooled == "no":
        return fault_call(
            "Nothing kept the valve or the insulation cool.",
            "Look for a melted seat or seal; wrap it in wet cloth and braze it again.",
        )
    if last.nitrogen != "yes":
        return fault_call(
            "Brazed without nitrogen flowing: scale is left inside.", "Cut it out, braze it again."
        )
    good = Call(verdict=Verdict.HOLDS, because="Brazed under nitrogen, the seam whole and even.")
    return _swage_call(last, od_mm) or good
