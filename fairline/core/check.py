"""Judging one value of a stage, and gathering the checks of a stage into its call."""

from collections.abc import Sequence
from typing import Literal

from fairline.core.call import Call, Check, Limit, StageCall, Step, Verdict, deciding
from fairline.core.limits import WHO_SAYS
from fairline.core.quantities import above, below, both


def check_limit(
    id: str,
    label: str,
    value: float | None,
    limit: Limit | None,
    kind: str,
    bound: Literal["min", "max"],
    fix: str,
) -> Check:
    """Judge a measured value against a limit: ``min`` wants at least it, ``max`` at most.

    Nothing measured waits; no limit is unknown. ``fix`` is what to do where it falls outside.
    """
    unit = limit.unit if limit else None
    said = both(value, kind) if value is not None else ""
    if value is None:
        call = Call(
            verdict=Verdict.WAIT,
            because=f"{label}: not measured yet.",
            do_next=f"Measure it: {label.lower()}.",
        )
    elif limit is None:
        call = Call(
            verdict=Verdict.UNKNOWN,
            because=f"{label} is {said}; nobody gives a limit.",
            do_next="Enter the sheet's limit.",
        )
    else:
        who = WHO_SAYS[limit.authority]
        beyond = below if bound == "min" else above
        outside = beyond(value, limit.value, kind)
        word = "at least" if bound == "min" else "at most"
        text = f"{label} is {said}; {who} wants {word} {both(limit.value, kind)}."
        call = Call(
            verdict=Verdict.SHORT if outside else Verdict.HOLDS,
            because=text,
            do_next=fix if outside else None,
        )
    return Check(
        id=id,
        label=label,
        call=call,
        value=value,
        unit=unit,
        bound=bound,
        limit=limit,
        kind=kind,
    )


def check_choice(
    id: str,
    label: str,
    answer: str | None,
    good: Sequence[str],
    bad: dict[str, Call],
    ask: str,
) -> Check:
    """Judge a choice: blank waits, one of ``good`` holds, else the call named in ``bad``."""
    if not answer:
        call = Call(verdict=Verdict.WAIT, because=f"{label}: not looked at yet.", do_next=ask)
    elif answer in good:
        call = Call(verdict=Verdict.HOLDS, because=f"{label}: in order.")
    else:
        call = bad[answer]
    return Check(id=id, label=label, call=call)


def stage_call(
    checks: Sequence[Check],
    holds_because: str,
    summary: str = "",
    started: bool = True,
    governed_by: Sequence[Limit] = (),
    working: Sequence[Step] = (),
    findings: Sequence[str] = (),
    progress: float | None = None,
) -> StageCall:
    """The worst check decides the stage; where all hold, ``holds_because`` says so."""
    call = deciding([c.call for c in checks])
    if call.verdict is Verdict.HOLDS:
        call = Call(verdict=Verdict.HOLDS, because=holds_because)
    limits = list(governed_by) or [c.limit for c in checks if c.limit is not None]
    return StageCall(
        call=call,
        summary=summary,
        checks=tuple(checks),
        governed_by=tuple(limits),
        working=tuple(working),
        findings=tuple(findings),
        started=started,
        progress=progress,
    )


def fault_call(because: str, do_next: str, verdict: Verdict = Verdict.SHORT) -> Call:
    return Call(verdict=verdict, because=because, do_next=do_next)


def slip_of_ten(value: float, wanted: float) -> bool:
    """Whether a value is about ten times what is wanted, or a tenth of it: a slipped point.

    >>> slip_of_ten(170.0, 17.0), slip_of_ten(1.7, 17.0), slip_of_ten(70.0, 17.0)
    (True, True, False)
    """
    if value <= 0 or wanted <= 0:
        return False
    times = max(value / wanted, wanted / value)
    return 8.0 <= times <= 12.5


def capitalized(words: str) -> str:
    """Words as a sentence begins; what stands in them (head E, EMT, Pa) is left alone.

    >>> capitalized("head E, by EMT")
    'Head E, by EMT'
    """
    return words[:1].upper() + words[1:]


def plural(count: int, word: str) -> str:
    return f"{count} {word}" if count == 1 else f"{count} {word}s"


def waiting_check(id: str, label: str, because: str, do_next: str) -> Check:
    call = Call(verdict=Verdict.WAIT, because=because, do_next=do_next)
    return Check(id=id, label=label, call=call)


def unknown_check(id: str, label: str, because: str, do_next: str) -> Check:
    call = Call(verdict=Verdict.UNKNOWN, because=because, do_next=do_next)
    return Check(id=id, label=label, call=call)
