"""What the record says of changes under a proof: what was exchanged, what is older, what was there.

Nothing is deleted: a proof that is void stays, with what it proved and since when it does not.
"""

from collections.abc import Iterator

from fairline.core.check import capitalized
from fairline.core.contents.story import story
from fairline.core.flare.stage import FlareStageResult
from fairline.core.part_answers import changed_parts_of
from fairline.core.parts import CORE, part_words
from fairline.core.proofs import COVERS, difference_words
from fairline.core.units import System
from fairline.web.frame.judged_job import JudgedJob
from fairline.web.frame.moments import moment
from fairline.web.frame.pages import quantity
from fairline.web.record import NONE

HOW = {
    "corrected": "it had been drawn wrong",
    "changed": "changed on site",
    "exchanged": "exchanged",
}
Cells = tuple[str, ...]
Section = tuple[str, tuple[str | int, ...], Iterator[Cells]]


def sections(judged: JudgedJob, system: System) -> Iterator[Section]:
    """The titles, columns and rows of all that is told of changes."""
    act = ("When", 30, "What", 110, "By", 24)
    yield "Changed after it was proved", act, changes(judged)
    proof = ("Made", 30, "Proof", 40, "Proves no more, since", 70, "By", 24)
    yield "Proofs older than a change", proof, older_proofs(judged)
    joint = ("Made", 30, "Joint", 50, "What was done", 60, "By", 24)
    yield "Joints that are not there any more", joint, former_joints(judged, system)
    core = ("When", 30, "Valve core", 80, "Changed", 40, "By", 24)
    yield "Valve cores that were changed", core, cores(judged)


def changes(judged: JudgedJob) -> Iterator[Cells]:
    """What was exchanged or changed on site, and what had only been drawn wrong.

    And where a job of before was kept as it was found: what it had been before is not known.
    """
    job = judged.job
    first = job.subjects.get(job.since[0].subject) if job.since else None
    if first is not None and first.found:
        told = (
            "What was proved before this program kept it is taken to be of the job as it was found."
        )
        yield moment(job.since[0].at), told, NONE
    for r in judged.counted.part_changes:
        named = ", ".join(part_words(name) for name in r.parts)
        serial = f", serial of the one before {r.serial}" if r.serial else ""
        yield moment(r.at), f"{named}: {HOW[r.how]}{serial}. {r.reason}", r.by


def older_proofs(judged: JudgedJob) -> Iterator[Cells]:
    """What was proved before something changed: it proves no more than it proved."""
    for o in changed_parts_of(judged.counted, judged.of(FlareStageResult).proofs):
        first, name = o.differences[0], COVERS[o.kind].words
        when = f", {moment(first.at)}" if first.at else ""
        more = f" and {len(o.differences) - 1} more" if len(o.differences) > 1 else ""
        told = f"{difference_words(first)}{more}{when}"
        yield moment(o.proof.at), capitalized(name), told, o.by or NONE


def former_joints(judged: JudgedJob, system: System) -> Iterator[Cells]:
    """What was made of heads, tubes and ports that are others now."""
    worked = judged.of(FlareStageResult)
    now = {joint.key for joint in worked.joints}
    labels = worked.proofs.labels
    for act, r in zip(worked.proofs.acts, judged.counted.joints, strict=True):
        if act.key not in now and not act.key.endswith(f"|{CORE}"):
            nut = f", {quantity(r.applied_nm, 'torque', system)}" if r.applied_nm else ""
            label = labels.get(f"joint:{act.key}", r.place)
            yield moment(r.at), f"{label} ({r.place})", f"{r.did}{nut}", r.by


def cores(judged: JudgedJob) -> Iterator[Cells]:
    """The valve cores that were changed, in the open or through the core tool."""
    worked = judged.of(FlareStageResult)
    for act, r in zip(worked.proofs.acts, judged.counted.joints, strict=True):
        if act.key.endswith(f"|{CORE}"):
            how = "through the core tool" if r.did == "tightened" else "in the open"
            yield moment(r.at), worked.proofs.labels[f"joint:{act.key}"], how, r.by


def contents(judged: JudgedJob) -> Iterator[tuple[Cells, bool]]:
    """What was in the pipes, act by act; whether an act was out of order."""
    for line in story(judged.of(FlareStageResult).contents):
        wrong = f". {line.wrong}" if line.wrong else ""
        yield (moment(line.at), f"{line.words}{wrong}", line.by or NONE), bool(line.wrong)
