"""The calls of the demo jobs, check by check, are those on file.

A change of a rule that alters one is seen here, and looked at: then
``python -m tests.core.test_calls`` writes the file anew.
"""

from collections.abc import Iterator
from datetime import UTC, datetime
from pathlib import Path

from fairline.core.call import Call
from fairline.core.job import Job
from fairline.core.line import judge
from fairline.core.practice import Practice
from fairline.core.schools import TOPICS
from fairline.demo.systems import demo_jobs

FILE = Path(__file__).parent / "calls.txt"
DAY = datetime(2026, 4, 7, 8, tzinfo=UTC)
OTHER = Practice(schools={name: topic.schools[-1].name for name, topic in TOPICS.items()})


def planned(job: Job) -> Job:
    """A job before anything was done on it."""
    return job.model_copy(update={"records": (), "runs": (), "since": (), "subjects": {}})


def said(call: Call) -> str:
    return " → ".join(part for part in (call.because, call.do_next) if part)


def calls(job: Job, practice: Practice) -> list[str]:
    """A line for each stage, check and step of the working."""
    found = []
    for stage, call in judge(job, practice).items():
        found.append(f"{stage}: {call.call.verdict.value}: {said(call.call)}")
        found.append(f"{stage}: {', '.join(call.findings)}; {call.summary}; {call.progress}")
        for check in call.checks:
            limit = None if check.limit is None else f"{check.limit.value:.6g}"
            value = None if check.value is None else f"{check.value:.6g}"
            numbers = f"{value} {check.bound} {limit}"
            verdict = check.call.verdict.value
            found.append(f"{stage} / {check.id}: {verdict} {numbers}: {said(check.call)}")
        for step in call.working:
            worked = f"{step.step} = {step.expression} = {step.value:.6g} {step.unit}"
            found.append(f"{stage} | {worked}")
    return found


def lines() -> Iterator[str]:
    """Every demo job; then what is called otherwise by other schools, and before it was begun."""
    for job in demo_jobs():
        found = calls(job, Practice())
        yield from ("", f"# {job.head.name}", *found)
        for way, of, practice in (
            ("by other schools", job, OTHER),
            ("as planned", planned(job), Practice()),
        ):
            others = set(calls(of, practice)) - set(found)
            yield from (f"## {way}", *sorted(others))


def test_the_calls_of_the_demo_jobs_are_those_on_file():
    kept = FILE.read_text("utf-8").splitlines()
    assert list(lines()) == kept


if __name__ == "__main__":
    FILE.write_text("\n".join(lines()) + "\n", "utf-8")
