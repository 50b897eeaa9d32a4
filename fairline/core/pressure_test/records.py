"""What is recorded on the pressure test besides its readings: looks for leaks."""

from collections.abc import Iterator
from dataclasses import replace
from datetime import timedelta
from typing import Annotated, Literal

from pydantic import Field

from fairline.core.contents.act import Act, act_of, words
from fairline.core.contents.part import NOUGHT_PA
from fairline.core.entry import DurationS, Record, Text, YesNo
from fairline.core.readings import HoldRun, Run
from fairline.core.route.circuits import Ports

METHODS = {"bubbles": "bubbles", "detector": "detector"}

Method = Literal["bubbles", "detector"]


class LeakCheck(Record):
    """A look at one joint or coil while it is under pressure.

    ``tracer``: of a look with a detector at nitrogen, whether a tracer was in it.
    """

    struck = "a look for leaks"

    kind: Literal["leak-check"] = "leak-check"
    joint: Annotated[Text, Field(min_length=1)]
    method: Method = "bubbles"
    found: Literal["clean", "leak"]
    watched_s: DurationS = None
    tracer: YesNo = None


def acts_of(record: Record) -> Iterator[Act]:
    """What a record of this stage says of what is in the pipes."""
    if isinstance(record, LeakCheck):
        probe = record.method == "detector"
        said = words(leak=record.found == "leak", probe=probe, tracer=record.tracer == "yes")
        yield act_of("look", record, place=record.joint, said=said)
    if isinstance(record, Ports):
        yield act_of("ports", record, ports=record.open, run=record.run)


def acts_of_run(run: Run) -> Iterator[Act]:
    """Nitrogen that was let in, as its first reading has it; bled where the last reads nought."""
    if not isinstance(run, HoldRun) or not run.readings:
        return
    first, last = run.readings[0], run.readings[-1]
    let_in = Act(
        kind="nitrogen",
        of=run.kind,
        uid=run.uid,
        at=run.started_at,
        by=run.started_by,
        subject=run.subject,
        gauge_pa=float(first.gauge_pa),
    )
    yield let_in
    if last.gauge_pa <= NOUGHT_PA < first.gauge_pa:
        at = run.started_at + timedelta(seconds=float(last.t_s))
        yield replace(let_in, kind="bled", at=at, gauge_pa=0.0)
