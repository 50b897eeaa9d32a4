"""What the record says of handing over: by whom, sealed, opened again, and what was struck out."""

from collections.abc import Iterator

from fairline.core.hand_over.stage import called_otherwise
from fairline.core.job import Job
from fairline.core.seal import spoken
from fairline.core.stages import STRUCK_WORDS, TITLES
from fairline.core.strike import READING, Strike
from fairline.web.frame.judged_job import JudgedJob
from fairline.web.frame.moments import moment

IN_A_SENTENCE = {"hold": "the nitrogen hold", "pull": "the pull", "decay": "the decay"}


def signatures_of(judged: JudgedJob) -> Iterator[tuple[str, str]]:
    """Each drawn signature's strokes, and whose they are."""
    day = judged.job.handed_over
    if day is not None and day.signed:
        yield day.signed, f"{day.by}, handed over {moment(day.at)}"
    if day is not None and day.to_signed:
        yield day.to_signed, f"{day.to or 'Received'}, {moment(day.at)}"


def handed_words(judged: JudgedJob) -> list[str]:
    """When the job was handed over and opened again, and what is judged otherwise since."""
    job, found = judged.job, []
    if day := job.handed_over:
        found.append(f"Handed over {moment(day.at)} by {day.by}.")
        if day.seal:
            found.append(f"Sealed, digest {spoken(day.seal)}.")
        for name, then in called_otherwise(day, judged.stages).items():
            found.append(
                f"That day {TITLES[name]} was called {then.verdict}; judged now it is "
                f"{judged.stages[name].call.verdict}."
            )
    for again in job.reopenings:
        found.append(f"Opened again {moment(again.at)} by {again.by}: {again.reason}")
    if job.hand_over.received_by:
        found.append(f"Received by {job.hand_over.received_by}.")
    return found


def struck_words(job: Job, strike: Strike) -> str:
    """What was struck out, in a few words."""
    if strike.of == READING:
        run = next((r for r in job.runs if r.uid == strike.run), None)
        name = IN_A_SENTENCE[run.kind] if run else "a run"
        return f"reading {(strike.seq or 0) + 1} of {name}, {strike.instrument}"
    return STRUCK_WORDS.get(strike.of, strike.of)
