"""The list of steps for the rig with nitrogen, until a hold was read with it."""

from collections.abc import Iterator

from fairline.core import kit
from fairline.core.flare.stage import FlareStageResult
from fairline.core.parts import JOIN
from fairline.core.procedures.procedure import Asked, asked
from fairline.core.procedures.records import ProcedureSteps
from fairline.core.stage import StageContext


def rig_list(context: StageContext, held: bool) -> Iterator[Asked]:
    """The rig for nitrogen, where nitrogen is let in at all; once a hold was read it has done."""
    joints = context.of(FlareStageResult).joints
    begun = any(r.procedure == "nitrogen" for r in context.records(ProcedureSteps))
    past = held and not begun
    if joints and kit.may_be_evacuated(context.rules) and not past:
        on_the_way = any(f".{JOIN}" in j.place for j in joints)
        yield from asked("nitrogen", {"purges": "yes", "joins": "yes" if on_the_way else ""})
