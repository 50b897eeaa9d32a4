"""Which machine and which tube stands where: a token for each, given when it first comes in.

A token stays with its machine or tube through every edit of what describes it. Two runs that a tee
parted are of one tube, and share its token.
"""

from collections.abc import Callable
from dataclasses import dataclass

from fairline.core.equipment import Equipment
from fairline.core.route.entry import OUTDOOR, RouteEntry
from fairline.core.survey.stage import SurveyEntry


@dataclass(frozen=True)
class Plan:
    """What is planned: the machines by where they stand, and the runs by what they end in."""

    survey: SurveyEntry
    route: RouteEntry

    @property
    def machines(self) -> set[str]:
        unit = {OUTDOOR} if self.survey.outdoor else set()
        others = {end for end in self.route.runs if len(end) > 1}
        return unit | others | {head.zone for head in self.survey.heads}

    def start(self, end: str) -> tuple[str, str]:
        run = self.route.run(end)
        return run.fed_from, run.outlet


def with_tokens(
    equipment: Equipment, before: Plan, after: Plan, fresh: Callable[[], str]
) -> Equipment:
    """The equipment with a token for all that came in, and without those of what went."""
    machines = {
        name: equipment.machines.get(name) or (None if name in before.machines else fresh())
        for name in sorted(after.machines)
    }
    tubes: dict[str, str | None] = {}
    connections = {e: t for e, t in equipment.connections.items() if e in after.route.runs}
    for end in sorted(after.route.runs):
        parted = _parted_by(end, before, after) if end not in before.route.runs else None
        if end in equipment.tubes:
            tubes[end] = equipment.tubes[end]
        elif parted is not None:
            tubes[end] = tubes[parted] = equipment.tube(parted)
            if anew := connections.pop(parted, ""):
                connections[end] = anew
        else:
            kept = tubes.get(end)
            tubes[end] = kept or (None if end in before.route.runs else fresh())
    return equipment.model_copy(
        update={
            "machines": {name: token for name, token in machines.items() if token},
            "tubes": {end: token for end, token in tubes.items() if token},
            "connections": connections,
        }
    )


def _parted_by(tee: str, before: Plan, after: Plan) -> str | None:
    """The run that a new tee parts: the tee took its start, and it starts at the tee now."""
    return next(
        (
            end
            for end in before.route.runs
            if end in after.route.runs
            and before.start(end)[0]
            and before.start(end) == after.start(tee)
            and after.start(end)[0] == tee
        ),
        None,
    )


def renewed(equipment: Equipment, fresh: Callable[[], str]) -> Equipment:
    """The same equipment as other machines and tubes: of a job that is copied."""
    named = {name: fresh() for name in sorted(equipment.machines)}
    tubes = {token: fresh() for token in sorted(set(equipment.tubes.values()))}
    return equipment.model_copy(
        update={
            "machines": named,
            "tubes": {end: tubes[token] for end, token in equipment.tubes.items()},
            "connections": {},
        }
    )
