"""What pages show of a stage's call: its plate, and the bar under a phone's thumb."""

from collections.abc import Mapping
from typing import Any, NamedTuple
from urllib.parse import quote

from fairline.core.call import Check, Limit, Place, StageCall, Verdict, deciding_check, worst
from fairline.core.contents.way_out import WayOut
from fairline.core.job import Job
from fairline.core.proofs import DRAWN_OR_CHANGED
from fairline.core.stages import TITLES
from fairline.web.frame.forms import Form
from fairline.web.frame.moments import moment

VERDICT_WORDS = {
    Verdict.HOLDS: "Holds",
    Verdict.WATCH: "Watch",
    Verdict.WAIT: "Wait",
    Verdict.SHORT: "Short",
    Verdict.STOP: "Stop",
    Verdict.UNKNOWN: "Unknown",
}
PART_OF_PAGE = {
    "survey": "part",
    "mount": "part",
    "route": "part",
    "flare": "joint",
    "wire": "part",
    "evacuate": "ports",
}  # how an address names it
HEADS = ("walls.", "ceilings.")
NOT_KEPT = "Not kept"
MOST_LETTERS = 26  # of a name on the button under the thumb


def plate_check(call: StageCall) -> Check | None:
    """The check the plate draws: the one that decides, where it has a value and a limit.

    Where everything holds it is the first that has both.
    """
    drawn = [c for c in call.checks if c.value is not None and c.limit is not None]
    if call.call.verdict is Verdict.HOLDS:
        return next(iter(drawn), None)
    decides = deciding_check(call)
    return decides if decides in drawn else None


def plate_limit(call: StageCall) -> Limit | None:
    """The limit the plate names: the drawn one; never one that the call does not rest on."""
    if drawn := plate_check(call):
        return drawn.limit
    own = any(c.limit is not None for c in call.checks)
    return None if own else next(iter(call.governed_by), None)


def place_of(check: Check, stage: str, job_id: int) -> str:
    """Where on the pages a check can be mended: an anchor, on the part of the page it is on."""
    if check.mend is not None and check.mend.stage == stage and not check.mend.part:
        return f"#at-{check.mend.id}"
    if check.mend is not None:
        return _address(check.mend, job_id)
    if check.id in TITLES:
        return f"/jobs/{job_id}/{check.id}"
    if stage == "commission" and check.zone:
        return f"/jobs/{job_id}/commission?zone={check.zone}#at-{check.part}"
    if check.part and stage in PART_OF_PAGE:
        return _address(Place(stage=stage, part=check.part, id=check.id), job_id)
    return f"#at-{check.id}"


def _address(place: Place, job_id: int) -> str:
    part = f"?{PART_OF_PAGE[place.stage]}={quote(place.part)}" if place.part else ""
    return f"/jobs/{job_id}/{place.stage}{part}" + (f"#at-{place.id}" if place.id else "")


def place_next(call: StageCall, stage: str, job_id: int) -> str | None:
    """Where the check that decides a call can be mended; None where no check does."""
    if call.call.do_next == DRAWN_OR_CHANGED:
        return "#changed"
    at = deciding_check(call)
    return None if at is None else place_of(at, stage, job_id)


class Bar(NamedTuple):
    """What the bar says: the verdict with its word, of what, the sentence, where its link leads."""

    verdict: Verdict
    word: str
    subject: str
    words: str
    place: str | None
    goes: str = ""  # what the link to the place says
    wrong: bool = False  # it leads to the field that was not understood


def bar(
    call: StageCall, stage: str, job_id: int, refused: bool = False, way: WayOut | None = None
) -> Bar:
    """The bar of a stage's page.

    ``way`` is the way out that the page asks for before anything else; its step is under the thumb.
    ``refused``: what was just entered was not kept: that is said, for the call is of what was kept
    before.
    """
    if way is not None:
        words = way.next.step.words if way.next else way.because
        return Bar(way.verdict, VERDICT_WORDS[way.verdict], "", words, "#way-out", "To the steps")
    if refused:
        words = "What was just entered was not understood. The call is of what was kept before."
        return Bar(Verdict.SHORT, NOT_KEPT, "", words, "#work", "To the field", wrong=True)
    said = call.call.do_next or call.call.because
    place = place_next(call, stage, job_id) if call.call.do_next else None
    word, goes = VERDICT_WORDS[call.call.verdict], goes_to(call, stage)
    return Bar(call.call.verdict, word, subject(call), said, place, goes)


def sealed_bar(job: Job, job_id: int) -> Bar:
    """The bar of a job that was handed over: nothing is next but its record."""
    day = job.handed_over
    assert day is not None
    verdict = worst(then.verdict for then in day.calls.values())
    words = f"Handed over {moment(day.at)} by {day.by}."
    place = f"/jobs/{job_id}/record"
    return Bar(verdict, "Sealed", "", words, place, "The record")


def goes_to(call: StageCall, stage: str) -> str:
    """What a link to the place of the deciding check says: the stage, or what is mended there."""
    check = deciding_check(call)
    if check is None or call.call.do_next == DRAWN_OR_CHANGED:
        return "To the question"
    if check.mend is not None and check.mend.id.startswith("sheet-"):
        return "To its sheet"
    at = check.mend.stage if check.mend is not None else check.id
    if at in TITLES and at != stage:
        return f"Go to {TITLES[at]}"
    name = _name(check)
    return f"Go to {name}" if len(name) <= MOST_LETTERS else "Go there"


def subject(call: StageCall) -> str:
    """What a call's sentence is of; nothing where the sentence says it itself, or all holds."""
    check = deciding_check(call)
    if check is None or call.call.verdict is Verdict.HOLDS:
        return ""
    name, said = _name(check), (call.call.do_next or call.call.because).lower()
    first = name.partition(",")[0].lower()
    own = name.lower() in said or (" " in first and first in said)
    return "" if own else name


def _name(check: Check) -> str:
    if check.zone and check.part.startswith(HEADS):
        return f"Head {check.zone}"
    return "Outdoor unit" if check.part == "outdoor" else check.label


def does(call: StageCall, check: str = "", words: str = "", part: str = "", zone: str = "") -> bool:
    """Whether a button does what the bar says.

    ``check`` decides, or the one on ``part`` or of ``zone`` does, and ``words`` are said; what is
    left out is not asked.
    """
    decides = deciding_check(call)
    if decides is None:
        return False
    asked = ((check, decides.id), (part, decides.part), (zone, decides.zone))
    return all(mine in ("", its) for mine, its in asked) and words in (call.call.do_next or "")


def is_refused(context: Mapping[str, Any]) -> bool:
    """Whether something that was entered on a page was not kept."""
    return any(isinstance(form, Form) and form.errors for form in context.values())
