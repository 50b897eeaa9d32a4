"""What the record tells of the lists of steps: how far each is, by whom and until when."""

from collections.abc import Iterator

from fairline.core.procedures.progress import Progress
from fairline.web.frame.judged_job import JudgedJob
from fairline.web.frame.moments import moment


def lists(judged: JudgedJob) -> Iterator[tuple[str, str, str, str]]:
    """Every list that was begun or passed over: its name, how far, by whom, the last moment."""
    for done in judged.worked.done.values():
        for one in done.worked.procedures:
            if one.done or one.passed is not None:
                yield one.asked.title, _how_far(one), _who(one), _last(one)


def _how_far(one: Progress) -> str:
    count = len(one.asked.steps)
    said = f"{count - len(one.left)} of {count} steps"
    wrong = "; ".join(f"{s.words}: {s.unless.lower()}" for s in one.wrong)
    passed = one.passed.passed_because if one.passed is not None and one.left else ""
    left = f"; passed over: {passed}" if passed else ""
    return said + (f"; {wrong}" if wrong else "") + left


def _who(one: Progress) -> str:
    names = [d.by for d in one.done] + ([one.passed.by] if one.passed is not None else [])
    return ", ".join(dict.fromkeys(names))


def _last(one: Progress) -> str:
    times = [d.at for d in one.done] + ([one.passed.at] if one.passed is not None else [])
    return moment(max(times))
