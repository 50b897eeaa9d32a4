"""What the record says of the wiring: circuits, ends as they lie, power off and on."""

from collections.abc import Iterator

from fairline.core.charge.power import WHY
from fairline.core.wire.records import GROUND, PowerOn, ProvedDead, SwitchedOff
from fairline.core.wire.stage import WireStageResult
from fairline.core.wire.supply import SupplyResult
from fairline.web.frame.judged_job import JudgedJob
from fairline.web.frame.moments import moment
from fairline.web.record import NONE


def _amps(value: float | None) -> str:
    return NONE if value is None else f"{value:g} A"


def _connected(one: SupplyResult) -> str:
    e = one.entry
    licence = f", licence {e.licence}" if e.licence else ""
    return f"{e.who_name or e.who or NONE}{licence}" + ("" if e.been == "yes" else ", not yet")


def circuits(judged: JudgedJob) -> Iterator[tuple[str, ...]]:
    """Unit, MCA, MOP, breaker, conductor with what it carries, who connected it."""
    for one in judged.of(WireStageResult).supplies:
        e = one.entry
        if e.breaker_a is None and e.gauge is None:
            continue
        again = ", used again" if e.circuit == "reused" else ""
        carries = f"{e.gauge or NONE} {e.metal or ''}, {_amps(one.ampacity_a)}".replace(" ,", ",")
        asked = f"{_amps(one.rating.mca_a)} / {_amps(one.rating.mop_a)}"
        yield one.title, asked, f"{_amps(e.breaker_a)}{again}", carries, _connected(one)


def ends(judged: JudgedJob) -> Iterator[tuple[str, ...]]:
    """Where, which cable, each conductor under its screw, who finished it and when."""
    worked = judged.of(WireStageResult)
    for end in worked.ends:
        lies = worked.lies.at(end.cable.id, end.side)
        if not lies:
            continue
        order = [*end.block.terminals, GROUND]
        lies = tuple(sorted(lies, key=lambda x: (x.block, (*order, x.terminal).index(x.terminal))))
        told = ", ".join(
            f"{x.terminal} {x.colour}" + ("" if x.pulled else " not pulled") for x in lies
        )
        done = worked.lies.finish(end.cable.id, end.side)
        by, when = (done.by, moment(done.at)) if done else (NONE, NONE)
        yield end.block.title, end.cable.title, told, by, when


def power(judged: JudgedJob) -> Iterator[tuple[str, str, str, bool]]:
    """When, what, by whom, and whether it went on in spite of what lacked."""
    for r in judged.counted.records:
        if isinstance(r, SwitchedOff):
            locked = " and locked" if r.locked == "yes" else ", not locked"
            yield moment(r.at), f"{_unit(r.unit)}: off{locked}", r.by, False
        elif isinstance(r, ProvedDead):
            yield moment(r.at), f"{_unit(r.unit)}: {_proof(r)}", r.by, r.dead == "no"
        elif isinstance(r, PowerOn):
            told = f"Power on, {WHY[r.why]}"
            if r.overridden:
                told += f". Override of {r.override_by}: {r.override_reason}"
            yield moment(r.at), told, r.by, r.overridden


def _unit(unit: str) -> str:
    return "Outdoor unit" if unit == "outdoor" else f"Head {unit}"


def _proof(r: ProvedDead) -> str:
    if r.how == "not fed":
        return "no circuit reaches it, seen at both ends"
    if r.dead == "no":
        return "the tester showed voltage"
    tried = r.tester_before == r.tester_after == "yes"
    return "proved dead" + (", tester tried before and after" if tried else "")
