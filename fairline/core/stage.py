"""A stage as one value, and what it works from.

A stage may rest on those before it and on nothing later: it imports their rooms, and asks the
``StageContext`` for what they worked out. What it asks for is noted, so that after a change only
the stages are worked out again that asked for something that changed.
"""

import re
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from datetime import datetime
from typing import Any, Protocol, TypeVar

from fairline.core.call import Check, StageCall, deciding
from fairline.core.contents import state as pipes
from fairline.core.contents.act import Act
from fairline.core.contents.state import Contents
from fairline.core.entry import Entry, Record
from fairline.core.equipment import Equipment
from fairline.core.parts import OUTDOOR, Subject, SubjectSince
from fairline.core.practice import Practice, Rules, limits_asked
from fairline.core.procedures.procedure import Asked
from fairline.core.procedures.progress import Progress, progress_of
from fairline.core.procedures.records import ProcedureSteps
from fairline.core.proofs import Proofs
from fairline.core.readings import Run, RunKind
from fairline.core.sheet.needs import with_sheets

AnyEntry = TypeVar("AnyEntry", bound=Entry)
AnyRecord = TypeVar("AnyRecord", bound=Record)


@dataclass(frozen=True, eq=False)
class StageResult:
    """A stage worked out: its call, and in each stage's own kind all that the call rests on.

    Pages, drawings, record, PDF and JSON show it; none works anything out. ``procedures``: the
    lists of steps that are ticked on it; ``beside``: checks that change the verdict and shut no
    gate.
    """

    call: StageCall
    beside: tuple[Check, ...] = field(default=(), kw_only=True)
    procedures: tuple[Progress, ...] = field(default=(), kw_only=True)


AnyResult = TypeVar("AnyResult", bound=StageResult)


class JobFacts(Protocol):
    """What of a job a stage can ask for (``core/job.Job``)."""

    @property
    def created_at(self) -> datetime: ...

    @property
    def equipment(self) -> Equipment: ...

    @property
    def runs(self) -> tuple[Run, ...]: ...

    @property
    def records(self) -> tuple[Record, ...]: ...

    @property
    def subjects(self) -> Mapping[str, Subject]: ...

    @property
    def since(self) -> tuple[SubjectSince, ...]: ...

    @property
    def practices(self) -> Mapping[str, Practice]: ...

    def entered(self, model: type[AnyEntry]) -> AnyEntry: ...

    def recorded(self, kind: type[AnyRecord]) -> tuple[AnyRecord, ...]: ...


Question = tuple[str, Any]


@dataclass
class StageContext:
    """The job as it counts, what governs it, and the stages before, as far as they are worked out.

    ``asked`` is what was asked for and what was answered.
    """

    job: JobFacts
    rules_: Rules
    before: Mapping[str, tuple["Stage", StageResult]]
    acts_: tuple[Act, ...] = ()
    asked: dict[Question, Any] = field(default_factory=dict)

    @property
    def rules(self) -> Rules:
        found: Rules = self._answer("rules")
        return found

    @property
    def equipment(self) -> Equipment:
        found: Equipment = self._answer("equipment")
        return found

    @property
    def created_at(self) -> datetime:
        found: datetime = self._answer("created_at")
        return found

    def entry(self, model: type[AnyEntry]) -> AnyEntry:
        """What is entered on a stage."""
        found: AnyEntry = self._answer("entry", model)
        return found

    def records(self, kind: type[AnyRecord]) -> tuple[AnyRecord, ...]:
        """The records of a kind that count, in order."""
        found: tuple[AnyRecord, ...] = self._answer("records", kind)
        return found

    def runs(self, *kinds: str) -> tuple[Run, ...]:
        """The runs of these kinds, in order."""
        found: tuple[Run, ...] = self._answer("runs", kinds)
        return found

    @property
    def proofs(self) -> Proofs:
        """The parts of the job with all that proofs are compared by (of Flare, for those after)."""
        found: Proofs = self._answer("proofs")
        return found

    @property
    def subjects(self) -> Mapping[str, Subject]:
        found: Mapping[str, Subject] = self._answer("subjects")
        return found

    @property
    def since(self) -> tuple[SubjectSince, ...]:
        found: tuple[SubjectSince, ...] = self._answer("since")
        return found

    @property
    def acts(self) -> tuple[Act, ...]:
        """What was done that says what is in the pipes, of every stage."""
        found: tuple[Act, ...] = self._answer("acts")
        return found

    @property
    def contents(self) -> Contents:
        """What is in the pipes (of Flare, for those after)."""
        found: Contents = self._answer("contents")
        return found

    def of_kind(self, kind: str) -> tuple[Record, ...]:
        """The records of a kind that a later stage makes and that concerns the pipes."""
        found: tuple[Record, ...] = self._answer("of_kind", kind)
        return found

    def rules_on(self, practice: str | None) -> Rules:
        """The rules with the house practice of the day on which an act was done; None: no act.

        Blank is the practice under which a job of before was found.
        """
        kept: Practice | None = None if practice is None else self._answer("practice", practice)
        return self.rules if kept is None else self.rules.model_copy(update={"practice": kept})

    def rules_since(self, *tokens: str) -> Rules:
        """The rules of the day on which the last of some machines and tubes got its first joint.

        From then on they hang and lie where they are; until then the rules are those of today. What
        the house learns of local code later holds for them too: they are there still.
        """
        then = self.rules_on(self._answer("joined_under", tokens))
        code = {"code": self.rules.practice.code}
        return then.model_copy(update={"practice": then.practice.model_copy(update=code)})

    @property
    def rules_begun(self) -> Rules:
        """The rules of the day on which the job's first joint was made; until then today's.

        What a house decides later about its lists of steps asks nothing of jobs begun before.
        """
        kept: Practice | None = self._answer("practice_begun")
        return self.rules if kept is None else self.rules.model_copy(update={"practice": kept})

    @property
    def asks_lists(self) -> bool:
        """Whether lists of steps are asked: not of a job handed over before there were any."""
        return bool(self.records(ProcedureSteps) or not self.of_kind("handed-over"))

    def of(self, kind: type[AnyResult]) -> AnyResult:
        """What an earlier stage worked out."""
        found: AnyResult = self._answer("worked", kind)
        return found

    def all_before(self) -> dict[str, tuple[str, StageResult]]:
        """Every earlier stage by name: its title, and what it worked out."""
        found: dict[str, tuple[str, StageResult]] = self._answer("all_before")
        return found

    def stands(self, asked: Mapping[Question, Any]) -> bool:
        """Whether all that was asked for is answered the same here."""
        return all((now := self._look(*key)) is then or now == then for key, then in asked.items())

    def _answer(self, what: str, of: Any = None) -> Any:
        key = (what, of)
        if key not in self.asked:
            self.asked[key] = self._look(what, of)
        return self.asked[key]

    def _look(self, what: str, of: Any) -> Any:
        look = _LOOKS.get(what)
        return getattr(self.job, what) if look is None else look(self, of)


def _joined_under(job: JobFacts, tokens: Sequence[str]) -> str | None:
    """The practice of the day on which the last of some parts got its first joint; None till then.

    A record of before names no sides: it is of the run that its place begins with, and of the unit.
    """
    first: dict[str, Record] = {}
    for record in sorted((r for r in job.records if r.kind == "joint"), key=lambda r: r.at):
        sides = getattr(record, "sides", ()) or (getattr(record, "place", ""), OUTDOOR)
        for side in sides:
            first.setdefault(re.split(r"[.+]", side)[0], record)
    if not tokens or any(token not in first for token in tokens):
        return None
    return max((first[token] for token in tokens), key=lambda r: r.at).practice


def _practice_begun(job: JobFacts) -> Practice | None:
    """The practice of the day on which a job's first joint was made; None till then."""
    made = [r for r in job.records if r.kind == "joint"]
    return job.practices.get(min(made, key=lambda r: r.at).practice) if made else None


_LOOKS: dict[
    str, Callable[[StageContext, Any], Any]
] = {  # where an answer is found; else on the job
    "rules": lambda context, _: context.rules_,
    "entry": lambda context, model: context.job.entered(model),
    "records": lambda context, kind: context.job.recorded(kind),
    "of_kind": lambda context, kind: tuple(r for r in context.job.records if r.kind == kind),
    "runs": lambda context, kinds: tuple(r for r in context.job.runs if r.kind in kinds),
    "joined_under": lambda context, tokens: _joined_under(context.job, tokens),
    "practice_begun": lambda context, _: _practice_begun(context.job),
    "practice": lambda context, digest: context.job.practices.get(digest),
    "acts": lambda context, _: context.acts_,
    "contents": lambda context, _: next(
        w.contents for _, w in context.before.values() if hasattr(w, "contents")
    ),
    "worked": lambda context, kind: next(
        w for _, w in context.before.values() if isinstance(w, kind)
    ),
    "proofs": lambda context, _: next(
        w.proofs for _, w in context.before.values() if hasattr(w, "proofs")
    ),
    "all_before": lambda context, _: {n: (s.title, w) for n, (s, w) in context.before.items()},
}


@dataclass(frozen=True)
class Stage:
    """One stage of the job: what it is called, what is entered and recorded on it, how it works.

    ``name`` stands in addresses and JSON. ``records`` and ``runs``: the
    kinds that are made on it. ``beside``: what follows does not wait for it, until power comes on.
    ``procedures``: the lists of steps that are asked on it, of the context and what it worked out.
    ``acts`` and ``run_acts``: what its records and runs do to what is in the pipes.
    """

    name: str
    title: str
    entry: type[Entry]
    work: Callable[[StageContext], StageResult]
    records: tuple[type[Record], ...] = ()
    runs: tuple[RunKind, ...] = ()
    beside: bool = False
    procedures: Callable[[StageContext, Any], Iterable[Asked]] | None = None
    acts: Callable[[Record], Iterable[Act]] | None = None
    run_acts: Callable[[Run], Iterable[Act]] | None = None

    @property
    def field(self) -> str:
        """The stage's field of ``Job``, and its name in Python."""
        return self.name.replace("-", "_")

    @property
    def kinds(self) -> tuple[str, ...]:
        """The kinds of its records, by name."""
        return tuple(str(record.model_fields["kind"].default) for record in self.records)

    def judged(self, context: StageContext) -> StageResult:
        """The stage worked out, with what was done out of order of its acts in its call.

        Every limit that it asked for is shown by it.
        """
        with limits_asked() as asked:
            found = self.work(context)
            lists = self._lists(found, context)
        shown = {limit.limit for limit in found.call.governed_by}
        more = tuple(limit for label, limit in asked.items() if label not in shown)
        call = with_sheets(found.call, self.name, lambda: context.equipment)
        found = replace(found, call=call.model_copy(update={"also_asked": more}))
        found = replace(found, call=_with_checks(found.call, self._out_of_order(found, context)))
        beside = [*found.beside, *(one.check for one in lists)]
        if not beside:
            return found
        call = _with_checks(found.call, beside)
        begun = found.call.started or any(one.done for one in lists)
        changed = {"started": begun, "proof_call": found.call.call}
        return replace(found, call=call.model_copy(update=changed), procedures=lists)

    def _out_of_order(self, found: StageResult, context: StageContext) -> Sequence[Check]:
        """What of its acts was done out of order, by what was in the pipes."""
        if self.acts is None and self.run_acts is None:
            return ()
        own: Contents | None = getattr(found, "contents", None)
        return pipes.checks(own if own is not None else context.contents, {*self.kinds, *self.runs})

    def _lists(self, found: StageResult, context: StageContext) -> tuple[Progress, ...]:
        """The lists of steps that are ticked on it."""
        if self.procedures is None or not context.asks_lists:
            return ()
        asked, records = self.procedures(context, found), context.records(ProcedureSteps)
        return progress_of(asked, records, context.rules_begun)


def _with_checks(call: StageCall, checks: Sequence[Check]) -> StageCall:
    """A stage's call with more checks, the worst of all deciding; with them it is begun."""
    if not checks:
        return call
    decides = deciding([call.call, *(check.call for check in checks)])
    changed = {"call": decides, "checks": (*call.checks, *checks), "started": True}
    return call.model_copy(update=changed)
