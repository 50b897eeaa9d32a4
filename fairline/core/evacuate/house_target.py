"""A house target that is stricter than what governs: a decay that misses it holds, and is told."""

from collections.abc import Callable, Sequence

from fairline.core.call import Check, Verdict
from fairline.core.check import fault_call
from fairline.core.evacuate.circuit_group import EvacuateStageResult
from fairline.core.limits import WHO_SAYS
from fairline.core.practice import Rules
from fairline.core.quantities import above, both


def missed_targets(
    groups: Sequence[EvacuateStageResult], rules_on: Callable[[str | None], Rules]
) -> tuple[Check, ...]:
    """One check of each decay that holds by what governs and ends above the house's own limit.

    ``rules_on``: the rules with the house practice of the day on which a decay was timed.
    """
    found = [_missed(group, rules_on(group.decay.practice)) for group in groups if group.decay]
    return tuple(check for check in found if check is not None)


def _missed(group: EvacuateStageResult, rules: Rules) -> Check | None:
    answer, own_pa = group.answer, rules.practice.house.get("decay_max")
    governs = rules.limit("decay_max")
    if answer is None or answer.call.verdict is not Verdict.HOLDS:
        return None
    if own_pa is None or governs is None or governs.value <= own_pa:
        return None
    end_pa = answer.result.end_pa
    if not above(end_pa, own_pa, "vacuum"):
        return None
    ports = ", ".join(group.ports)
    call = fault_call(
        f"{ports + ': ' if ports else ''}{both(end_pa, 'vacuum')} is inside what "
        f"{WHO_SAYS[governs.authority]} wants, {both(governs.value, 'vacuum')}, and over the "
        f"house's own {both(own_pa, 'vacuum')}.",
        "Pull on for the house's target, or leave it: it holds.",
        Verdict.WATCH,
    )
    return Check(
        id=f"house_target{'_' + '-'.join(group.ports) if ports else ''}",
        label="House target",
        call=call,
        value=end_pa,
        unit="Pa",
        kind="vacuum",
    )
