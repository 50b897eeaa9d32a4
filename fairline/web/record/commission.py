"""What the record tells of Commission besides the measurements: calls, water, all zones on."""

from collections.abc import Iterator
from datetime import datetime

from fairline.core.commission.records import MODE_WORDS, SEEN_WORDS, Called, Running, WaterTest
from fairline.core.commission.records import WholeSystem as Whole
from fairline.web.frame.judged_job import JudgedJob

Told = tuple[str, str, datetime]  # in words, by whom, when
AFTER = {"dry": ", nothing came back after three minutes", "back": ", and it came back"}


def told(judged: JudgedJob) -> Iterator[Told]:
    """Every call of a zone, every water test, every look at the whole system, in words."""
    job = judged.counted
    for call in job.recorded(Called):
        ports = ", ".join(call.ports) or "none"
        yield f"Zone {call.zone} called alone: {ports} answered", call.by, call.at
    for test in job.recorded(WaterTest):
        head = f"Head {test.zone}: " if test.zone else ""
        ran = "water leaves" if test.runs == "runs" else "water stands"
        yield f"{head}{ran}{AFTER.get(test.after_stop or '', '')}", test.by, test.at
    for look in job.recorded(Whole):
        yield _whole(look), look.by, look.at


def _whole(look: Whole) -> str:
    said = [f"All zones on, {MODE_WORDS[look.mode].lower()}"]
    said += [f"{look.current_a:.1f} A"] if look.current_a is not None else []
    said += [f"{look.watts:.0f} W"] if look.watts is not None else []
    return ", ".join(said)


def seen(record: Running) -> str:
    """What was only seen with a measurement, in words; blank where nothing was."""
    return ", ".join(SEEN_WORDS[word] for word in record.seen)
