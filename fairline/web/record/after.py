"""What the record says of lines in the wall, visits, additions and questions to the maker."""

from collections.abc import Callable, Iterator

from fairline.core.hand_over.records import Addition, AnswerToIt, Question
from fairline.core.hand_over.stage import HandOverStageResult
from fairline.core.pressure_test.stage import PressureTestStageResult
from fairline.web.frame.judged_job import JudgedJob
from fairline.web.frame.moments import moment

Cells = tuple[str, ...]
Rows = Iterator[Cells]
READ = {"test": "test", "left": "left on it", "again": "read again"}
Say = Callable[[float | None, str], str]


def in_the_wall(judged: JudgedJob, say: Say) -> Iterator[Cells]:
    """Lines that were left in the wall: how, and every reading on them."""
    for line in judged.of(PressureTestStageResult).rough:
        ends = f"ends {line.record.ends}" if line.record.ends else "ends not said"
        yield moment(line.record.at), f"Line {line.tag} into the wall, {ends}", line.record.by
        for r in line.reads:
            said = f"{say(r.gauge_pa, 'gauge')} at {say(r.pipe_c, 'temperature')}"
            yield moment(r.at), f"Line {line.tag}, {READ[r.what]}: {said}", r.by


def visits(judged: JudgedJob) -> Iterator[Cells]:
    """Visits with their day, and how each went."""
    for due in judged.of(HandOverStageResult).visits:
        went = f"made {moment(due.made.at)}: {due.made.found}" if due.made else "due"
        yield due.on, due.words, went, due.made.by if due.made else ""


def additions(judged: JudgedJob) -> Iterator[Cells]:
    """Words that were added, each with its day and name."""
    for one in judged.counted.recorded(Addition):
        yield moment(one.at), one.words, one.by


def questions(judged: JudgedJob) -> Iterator[Cells]:
    """What the maker was asked, and answered."""
    answers = judged.counted.recorded(AnswerToIt)
    for one in judged.counted.recorded(Question):
        asked_of = f" (asked of {one.asked_of})" if one.asked_of else ""
        yield moment(one.at), f"{one.words}{asked_of}", one.by
        for a in answers:
            if a.question == one.uid:
                to = f" to {a.changes_to}" if a.changes_to else ""
                limit = f"; it changes {a.limit}{to}" if a.limit else ""
                yield moment(a.at), f"Answer of {a.given_by}: {a.words}{limit}", a.by


def sections(judged: JudgedJob, say: Say) -> list[tuple[str, tuple[str | int, ...], Rows]]:
    """Each with its title, its columns and their widths, and its rows."""
    told = ("When", 30, "What", 110, "By", 24)
    days = ("On", 22, "What for", 60, "How it went", 66, "By", 22)
    return [
        ("Lines in the wall", told, in_the_wall(judged, say)),
        ("Visits", days, visits(judged)),
        ("Added", told, additions(judged)),
        ("Questions to the maker", told, questions(judged)),
    ]
