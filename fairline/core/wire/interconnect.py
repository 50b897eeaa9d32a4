"""The interconnect as it lies: what is left, every fault, and which heads' cables are exchanged."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from fairline.core.calc.cross_wire import CrossWireRequest, CrossWireResult, cross_wire
from fairline.core.call import SEVERITY, Answer, Call, Check, Verdict, deciding
from fairline.core.check import capitalized, fault_call
from fairline.core.physics.conductor import area_mm2
from fairline.core.practice import Rules
from fairline.core.route.entry import OUTDOOR
from fairline.core.route.piping import Piping
from fairline.core.wire.cable_way import legs_of, way_calls
from fairline.core.wire.entry import WireEntry
from fairline.core.wire.faults import Fault, faults, left_at
from fairline.core.wire.landed import Landed
from fairline.core.wire.records import Side
from fairline.core.wire.wiring import Block, Cable, Wiring

COMMON_GAUGE = "14 AWG"  # four of them in an outdoor-rated jacket: common practice, no source


@dataclass(frozen=True, eq=False)
class CableResult:
    """A cable as it stands: its faults, what is left at each end, and one call for all of it."""

    cable: Cable
    faults: list[Fault]
    left: dict[Side, Call]
    call: Call


def cables(wiring: Wiring, lies: Landed) -> list[CableResult]:
    """Every cable, in the order of the system."""
    found = []
    for cable in wiring.cables.values():
        wrong = faults(cable, wiring, lies)
        left: dict[Side, Call] = {}
        for side in cable.sides:
            if (waits := left_at(cable, side, wiring, lies)) is not None:
                left[side] = waits
        done = Call(
            verdict=Verdict.HOLDS,
            because=f"{cable.title}: landed number to number, pulled, covers on.",
        )
        calls = [*(f.call for f in wrong), *left.values(), done]
        found.append(CableResult(cable, wrong, left, deciding(calls)))
    return found


@dataclass(frozen=True, eq=False)
class EndResult:
    """One end of a cable as it stands, at the block it belongs to.

    ``wrong``: the terminals that a fault is of, with the worst verdict of it.
    """

    cable: Cable
    side: Side
    block: Block
    call: Call
    wrong: Mapping[str, Verdict] = field(default_factory=dict)

    @property
    def id(self) -> str:
        return f"{self.cable.id}.{self.side}"


def ends(worked: Sequence[CableResult], wiring: Wiring, indoors_first: bool) -> list[EndResult]:
    """Every end in the order one walks: unit by unit, the supplies last."""
    found = []
    for one in worked:
        cable = one.cable
        for side in cable.sides:
            done = Call(verdict=Verdict.HOLDS, because="Landed, pulled, finished.")
            calls = [f.call for f in one.faults if f.side in (None, side)]
            call = deciding([*calls, one.left.get(side, done)])
            block = wiring.blocks[cable.block(side)]
            found.append(EndResult(cable, side, block, call, _wrong(one.faults, side)))
    rank = {OUTDOOR: 2 if indoors_first else 0}

    def order(end: EndResult) -> tuple[bool, int, str]:
        return end.cable.kind == "supply", rank.get(end.block.unit, 1), end.block.unit

    return sorted(found, key=order)


def _wrong(found: Sequence[Fault], side: Side) -> dict[str, Verdict]:
    """The worst verdict of each terminal of an end that a fault is of."""
    named = [(t, f.call.verdict) for f in found for at, t in f.screws if at == side]
    named.sort(key=lambda one: SEVERITY.index(one[1]), reverse=True)
    return dict(named)


def part_of(cable: Cable) -> str:
    """The part of the page on which a cable is landed."""
    return f"cable-{cable.id}"


def _walked(
    worked: Sequence[CableResult], walk: Sequence[EndResult]
) -> list[tuple[CableResult, Call | None]]:
    """Cables with what is left of each, the one whose end is next in the walk first."""
    ends = [(e.cable.id, e.side) for e in walk]
    found = []
    for one in worked:
        sides = sorted(one.left, key=lambda side: ends.index((one.cable.id, side)))
        at = ends.index((one.cable.id, sides[0])) if sides else len(ends)
        found.append((at, one, one.left[sides[0]] if sides else None))
    found.sort(key=lambda f: f[0])
    return [(one, waits) for _, one, waits in found]


def checks(
    entry: WireEntry,
    wiring: Wiring,
    lies: Landed,
    worked: Sequence[CableResult],
    walk: Sequence[EndResult],
    pipes: Piping,
    rules: Rules,
) -> list[Check]:
    """Every check of the interconnect: names, each cable with its faults, the crossing.

    ``walk``: the ends in the order one walks; what is left to do is said in it.
    """
    found = [*_named(wiring), *_strangers(wiring, lies)]
    if (crossed := crossing_call(crossing(wiring, lies), wiring)) is not None:
        found.append(Check(id="crossed", label="Cables and tubes", call=crossed, part="cables"))
    for one, waits in _walked(worked, walk):
        cable = one.cable
        call = waits or Call(
            verdict=Verdict.HOLDS, because=f"{cable.title}: landed, pulled, finished."
        )
        title = capitalized(cable.title) if cable.kind == "supply" else cable.title
        found.append(_check(f"{cable.id}_landed", title, call, cable))
        found += [
            _check(f"{cable.id}_{f.code}_{n}", title, f.call, cable)
            for n, f in enumerate(one.faults, 1)
        ]
        if cable.kind != "supply":
            found += [
                _check(f"{cable.id}_{name}", title, call, cable)
                for name, call in _made_of(cable, entry, wiring, pipes, rules).items()
            ]
    return found


def _check(id: str, label: str, call: Call, cable: Cable) -> Check:
    label = capitalized(label)
    call = call.model_copy(update={"because": capitalized(call.because)})
    return Check(id=id, label=label, call=call, part=part_of(cable))


def _named(wiring: Wiring) -> list[Check]:
    """What keeps a cable from being drawn at all."""
    found = []
    for id, label, what, because, do_next in (
        (
            "terminals",
            "Names of terminals",
            wiring.unnamed,
            "No sheet names the terminals of the {}.",
            "Read them off the terminal block and enter them on the sheet.",
        ),
        (
            "unlike",
            "Terminals at both ends",
            wiring.unlike,
            "The terminals of {} are not as many at both ends.",
            "Read both blocks again: these units may not belong together.",
        ),
        (
            "unrouted",
            "Heads and ports",
            wiring.unrouted,
            "Which port head {} is on is not known.",
            "Lay the system out in Route: a cable follows its tubes.",
        ),
    ):
        if what:
            call = Call(
                verdict=Verdict.UNKNOWN, because=because.format(", ".join(what)), do_next=do_next
            )
            found.append(Check(id=id, label=label, call=call, part="cables"))
    return found


def _strangers(wiring: Wiring, lies: Landed) -> list[Check]:
    """Conductors of cables or on screws that the job as it is planned now does not have."""
    found = []
    for (name, side), all_ in lies.conductors.items():
        known = name in wiring.cables and side in wiring.cables[name].sides
        lost = [
            x
            for x in all_
            if not known
            or x.block not in wiring.blocks
            or x.terminal not in wiring.blocks[x.block].places
        ]
        if lost:
            places = ", ".join(f"{x.block} {x.terminal}" for x in lost)
            call = fault_call(
                f"Recorded at {places}, cable {name}: the job as planned has no such place.",
                "Take it off and strike the landing out, or mend the plan.",
            )
            found.append(
                Check(id=f"stranger_{name}_{side}", label="Lost", call=call, part="cables")
            )
    for block in wiring.blocks.values():
        of = {c for t in block.places for c, _, _ in lies.on(block.id, t)}
        kinds = [wiring.cables[c].kind for c in of if c in wiring.cables]
        if len(of) > 1 and "pair" not in kinds:
            names = ", ".join(sorted(of))
            call = fault_call(
                f"Several cables lie on the {block.title}: {names}.",
                "One cable to a block: find the one whose tubes are there.",
                Verdict.STOP,
            )
            found.append(Check(id=f"shared_{block.id}", label="Shared", call=call, part="cables"))
    return found


def _made_of(
    cable: Cable, entry: WireEntry, wiring: Wiring, pipes: Piping, rules: Rules
) -> dict[str, Call]:
    """What a cable is made of and how it runs: outdoors, its gauge, what it keeps apart from."""
    is_, pair = entry.cable(cable.id), cable.kind == "pair"
    found: dict[str, Call] = {}
    if is_.kind is None:
        found["kind"] = Call(
            verdict=Verdict.WAIT,
            because=f"{cable.title}: which cable it is, is not said.",
            do_next="Read its jacket: outdoor-rated, indoor building cable, or a shielded pair.",
        )
    elif is_.kind == "building":
        found["kind"] = fault_call(
            f"{cable.title} is indoor building cable; it runs outdoors.",
            "Pull stranded cable rated for outdoors.",
        )
    elif pair and is_.kind != "shielded" and rules.outdoor and rules.outdoor.shield != "none":
        found["kind"] = fault_call(
            f"{cable.title} is not shielded.", "Pull a shielded pair, as the sheet wants it."
        )
    if not pair:
        found |= _gauge(cable, is_.gauge, rules)
    return found | dict(way_calls(cable, is_, legs_of(cable, wiring, pipes), rules))


def _gauge(cable: Cable, own: str | None, rules: Rules) -> dict[str, Call]:
    said = rules.outdoor.cable_gauge if rules.outdoor else None
    least, who = said or COMMON_GAUGE, "the sheet" if said else "common practice"
    if own is None:
        call = Call(
            verdict=Verdict.WAIT,
            because=f"{cable.title}: the conductors' gauge is not entered.",
            do_next=f"Read it off the jacket; {who} wants {least}.",
        )
        return {"gauge": call}
    if area_mm2(own) < area_mm2(least) * 0.95:  # 1.5 mm² is no 14 AWG, 2 mm² would be
        return {
            "gauge": fault_call(
                f"{cable.title} is {own}; {who} wants {least} at least.", "Pull the larger cable."
            )
        }
    return {}


def crossing(wiring: Wiring, lies: Landed) -> Answer[CrossWireResult] | None:
    """Each head held against the port its cable comes from, as far as both ends are landed."""
    own = {c.id: c for c in wiring.cables.values() if c.kind == "cable"}
    intended = {wiring.blocks[c.end].unit: c.start for c in own.values()}
    observed: dict[str, list[str]] = {}
    for cable in own.values():
        start, end = lies.block_of(cable.id, "start"), lies.block_of(cable.id, "end")
        head = wiring.blocks[end].unit if end in wiring.blocks else ""
        if start in wiring.blocks and head in intended:
            observed.setdefault(head, []).append(start)
    if len(intended) < 2 or not observed:
        return None
    return cross_wire(CrossWireRequest(intended=intended, observed=observed))


def crossing_call(answer: Answer[CrossWireResult] | None, wiring: Wiring) -> Call | None:
    """Heads whose cables come from another's port, and how to put them right before power."""
    if answer is None:
        return None
    result = answer.result
    if result.cycles:
        heads = "; ".join(" and ".join(cycle) for cycle in result.cycles)
        swaps = ", then ".join(
            f"{wiring.blocks[a].title} and {wiring.blocks[b].title}" for a, b in result.swaps
        )
        return fault_call(
            f"Crossed: the cables of heads {heads} come from each other's ports.",
            f"Dead and locked, exchange what lies on {swaps}; or exchange the tubes.",
        )
    if "ambiguous" in answer.findings:
        return fault_call(
            "A cable comes from a port that its head's tubes are not on.",
            "Land each cable on the port of its own tubes.",
        )
    return None
