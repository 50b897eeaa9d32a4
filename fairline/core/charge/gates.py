"""What keeps the valves shut: the stages that prove the line, and grams that are not in."""

from fairline.core import kit
from fairline.core.call import StageCall, Verdict
from fairline.core.charge.override import Lacking
from fairline.core.evacuate.group_call import ACCEPTED
from fairline.core.practice import Rules

GATES = ("flare", "pressure-test", "evacuate")


def blocked_by(stages: dict[str, StageCall], rules: Rules) -> list[str]:
    """The gates that keep the valves shut: stages whose call does not yet hold.

    Of a charged kit it is the making of its joints, since neither nitrogen nor pump is asked.
    """
    if kit.stays_sealed(rules):
        passed = (Verdict.HOLDS, Verdict.WATCH)
        made = stages.get("flare")
        return [] if made is not None and made.proof.verdict in passed else ["flare"]
    return [s for s in GATES if s not in stages or not _open(stages[s])]


def before_release(call: StageCall, stages: dict[str, StageCall], rules: Rules) -> list[Lacking]:
    """What is not as it should be before the valves open: gates, and grams that are not in.

    A gate that is a stop is passed over by nobody.
    """
    found = []
    for name in blocked_by(stages, rules):
        gate = stages[name].proof if name in stages else None
        because = gate.because if gate is not None else "It is not judged yet."
        found.append(Lacking(name, because, gate is not None and gate.verdict is Verdict.STOP))
    weighed = next((c.call for c in call.checks if c.id == "weighed"), None)
    into_vacuum = rules.school("charge_into").name != "running"
    if weighed is not None and into_vacuum and not kit.stays_sealed(rules) and not found:
        if weighed.verdict not in (Verdict.HOLDS, Verdict.WATCH):
            found.append(Lacking("grams", weighed.because))
    return found


def _open(gate: StageCall) -> bool:
    """A gate that holds, or that somebody answers for by name and reason."""
    return gate.proof.verdict is Verdict.HOLDS or ACCEPTED in gate.findings
