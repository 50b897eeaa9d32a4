"""The way out of what is in the pipes: the steps to where an act may be done, and how far they are.

Which steps there are follows from the table (``needs``); which of them are done, from the state.
"""

from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass
from datetime import datetime

from fairline.core.call import Verdict
from fairline.core.contents.act import Act
from fairline.core.contents.needs import MEND
from fairline.core.contents.part import Part
from fairline.core.contents.state import Contents, Finding
from fairline.core.contents.steps import STEPS, Step

DONE: Mapping[str, Callable[[Part], bool]] = {  # what a part is like once a step is done
    "shut": lambda p: not p.valves,
    "take-out": lambda p: p.content not in ("refrigerant", "mixed"),
    "recover": lambda p: p.content not in ("refrigerant", "mixed"),
    "read": lambda p: not p.seat,
    "bleed": lambda p: not p.pressed,
    "break": lambda p: p.content != "vacuum",
    "dry": lambda p: p.raining is None,
}


@dataclass(frozen=True)
class OneStep:
    """A step of the way out; ``done``, and by whose act and when, as far as that is known."""

    name: str
    step: Step
    done: bool
    at: datetime | None = None
    by: str = ""


@dataclass(frozen=True)
class WayOut:
    """Why something may not be done now, on which circuits, and the steps to where it may."""

    verdict: Verdict
    because: str
    circuits: tuple[str, ...]
    steps: tuple[OneStep, ...]

    @property
    def next(self) -> OneStep | None:
        """The first step that is not done; None where there is none."""
        return next((s for s in self.steps if not s.done), None)


def way_out(contents: Contents, found: Iterable[Finding]) -> WayOut | None:
    """The way out of what refuses an act: of the worst that was found; None where nothing was."""
    refused = [f for f in found if f.verdict is not Verdict.WATCH]
    if not refused:
        return None
    first = next((f for f in refused if f.verdict is Verdict.STOP), refused[0])
    circuits = tuple(dict.fromkeys(c for f in refused for c in f.circuits))
    return WayOut(first.verdict, first.because, circuits, _steps(contents, circuits, first.steps))


def leak(contents: Contents) -> WayOut | None:
    """The way out of a leak that was found under refrigerant; None where there is none."""
    circuits = tuple(c for c, part in contents.parts().items() if part.leaks)
    if not circuits:
        return None
    where = f"port {circuits[0]}" if contents.many else "the lines"
    because = f"A leak was found in {where}, and refrigerant is in it."
    return WayOut(Verdict.STOP, because, circuits, _steps(contents, circuits, MEND))


def _steps(
    contents: Contents, circuits: tuple[str, ...], names: Iterable[str]
) -> tuple[OneStep, ...]:
    found: list[OneStep] = []
    parts = [contents.part(c) for c in circuits]
    for name in names:
        before = all(step.done for step in found)  # a step counts in its turn
        over = before and name in DONE and all(DONE[name](part) for part in parts)
        act = _answer(contents, circuits, STEPS[name].act) if over else None
        at, by = (act.at, act.by) if act is not None else (None, "")
        found.append(OneStep(name, STEPS[name], over, at, by))
    return tuple(found)


def _answer(contents: Contents, circuits: Iterable[str], wanted: str) -> Act | None:
    """The newest act that answers for a step on some circuits."""
    on = set(circuits)
    kinds = [kind.partition(".")[::2] for kind in wanted.split("|")]
    for told in reversed(contents.story):
        fits = any(told.act.kind == k and (not s or s in told.act.said) for k, s in kinds)
        if fits and on & set(told.circuits):
            return told.act
    return None
