"""What an edit changed of the whole system, in words: length, charge, joints, built lengths."""

from fairline.core.charge.stage import ChargeStageResult
from fairline.core.quantities import show
from fairline.core.route.stage import RouteStageResult
from fairline.core.units import System
from fairline.web.frame.judged_job import JudgedJob

NONE = "not known"


def edit_effects(before: JudgedJob, after: JudgedJob, system: System) -> str:
    """One sentence for each figure of the system that is another one now; blank for none."""
    found = []
    for words, kind, ends in (
        ("Line in all", "length", (before.pipes.total_m, after.pipes.total_m)),
        ("Added charge", "charge", (_added_kg(before), _added_kg(after))),
    ):
        old, new = (NONE if v is None else show(v, kind, system).text for v in ends)
        if old != new:
            found.append(f"{words}: {old}, now {new}.")
    joints = [len(j.of(RouteStageResult).joints) for j in (before, after)]
    if joints[0] != joints[1]:
        found.append(f"Joints: {joints[0]}, now {joints[1]}.")
    return " ".join([*_built(before, after, system), *found])


def _added_kg(judged: JudgedJob) -> float | None:
    answer = judged.of(ChargeStageResult).answer
    return answer.result.added_kg if answer else None


def _built(before: JudgedJob, after: JudgedJob, system: System) -> list[str]:
    """Built lengths that stand elsewhere, or no more, after an edit."""
    was = {e: r.built_m for e, r in before.job.route.runs.items() if r.built_m is not None}
    now = {e: r.built_m for e, r in after.job.route.runs.items() if r.built_m is not None}
    found = []
    for end in sorted(was.keys() | now.keys()):
        old, new = was.get(end), now.get(end)
        if old != new:
            words = (NONE if v is None else show(v, "length", system).text for v in (old, new))
            found.append("Built length of run {}: {}, now {}.".format(end, *words))
    return found
