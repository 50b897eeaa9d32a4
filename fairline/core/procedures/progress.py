"""How far each procedure is: what was done by whom and when, what is next, what went wrong."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from datetime import datetime

from fairline.core.call import Call, Check, Verdict
from fairline.core.check import fault_call
from fairline.core.practice import Rules
from fairline.core.procedures.procedure import Asked, HandStep
from fairline.core.procedures.records import ProcedureSteps, of_place

HANDS = "hands"  # the topic of the house's rules: whether lists are ticked at all
KNOWN = "known"


@dataclass(frozen=True)
class StepDone:
    """One step as it was done."""

    name: str
    by: str
    at: datetime
    wrong: bool = False


@dataclass(frozen=True)
class Progress:
    """A procedure at its place as far as it is done; ``passed``: what is left is passed over."""

    asked: Asked
    done: tuple[StepDone, ...] = ()
    passed: ProcedureSteps | None = None

    @property
    def names(self) -> frozenset[str]:
        """The steps that went as they should, by their newest doing."""
        last = {d.name: d for d in self.done}
        return frozenset(name for name, d in last.items() if not d.wrong)

    @property
    def left(self) -> tuple[HandStep, ...]:
        return tuple(s for s in self.asked.steps if s.name not in self.names)

    @property
    def wrong(self) -> tuple[HandStep, ...]:
        """The steps that did not go as they should, and were not done again since."""
        last = {d.name: d for d in self.done}
        return tuple(s for s in self.asked.steps if s.name in last and last[s.name].wrong)

    @property
    def passable(self) -> bool:
        """Whether what is left may be passed over: nobody can be hurt by it."""
        return not any(s.hurts for s in self.left)

    @property
    def call(self) -> Call:
        title, left = self.asked.title, self.left
        if self.wrong:
            step = self.wrong[0]
            return fault_call(f"{title}: {step.wrong}", step.do_next, step.wrong_verdict)
        if not left:
            return Call(verdict=Verdict.HOLDS, because=f"{title}: every step done.")
        if self.passed is not None and self.passable:
            return Call(
                verdict=Verdict.WATCH,
                because=f"{title}: {len(left)} of {len(self.asked.steps)} steps passed over by "
                f"{self.passed.by}: {self.passed.passed_because}",
            )
        done = len(self.asked.steps) - len(left)
        return Call(
            verdict=Verdict.WAIT,
            because=f"{title}: {done} of {len(self.asked.steps)} steps done.",
            do_next=f"{left[0].words}.",
        )

    @property
    def check(self) -> Check:
        asked = self.asked
        return Check(
            id=asked.id, label=asked.title, call=self.call, zone=asked.zone, part=asked.at.part
        )


def steps_known(rules: Rules) -> bool:
    """Whether the house knows its hands, and ticks no lists but of what can hurt someone."""
    return rules.school(HANDS).name == KNOWN


def progress_of(
    asked: Iterable[Asked], records: Sequence[ProcedureSteps], rules: Rules
) -> tuple[Progress, ...]:
    """Every procedure that is asked, as far as it is done.

    A house that knows its hands is asked only for the steps that can hurt someone.
    """
    known = steps_known(rules)
    found = []
    for one in asked:
        steps = tuple(s for s in one.steps if s.hurts) if known else one.steps
        if steps:
            found.append(_folded(replace(one, steps=steps), records))
    return tuple(found)


def _folded(asked: Asked, records: Sequence[ProcedureSteps]) -> Progress:
    done: list[StepDone] = []
    passed: ProcedureSteps | None = None
    for record in of_place(records, asked.procedure.name, asked.at):
        for name in record.steps:
            wrong = record.went_wrong and name == record.steps[-1]
            done.append(StepDone(name, record.by, record.at, wrong))
        if record.passed_because:
            passed = record
    return Progress(asked, tuple(done), passed)
