"""What a drawing of the system calls its parts."""

from fairline.core.route.entry import OUTDOOR
from fairline.web.frame.judged_job import JudgedJob


def part_names(judged: JudgedJob) -> dict[str, str]:
    """Rooms of heads with their addresses, the model of the outdoor unit."""
    found = {
        h.zone: " ".join(x for x in (judged.pipes.addresses.get(h.zone), h.room) if x)
        for h in judged.job.survey.now
    }
    outdoor = judged.rules.outdoor
    return found | {OUTDOOR: outdoor.model if outdoor else "outdoor unit"}
