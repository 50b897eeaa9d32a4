"""Changes of the system drawing, made in place: each takes an entry and gives the next one.

An order is words parted by colons, as the drawing's buttons send it: ``connect:A:outdoor:B``,
``tee:A``, ``box``, ``out:tee1``, ``loose:A``, ``port:outdoor:D:kept``, ``lay-out``.

Two rules hold for all of them. A run that no order names keeps its way: where it kept to the path
of one that moves, the shared legs become its own. And what was measured as built stays with the
tube that was measured: where a tee parts a built run, the person says how much lies before it;
where two runs become one, both lengths are added, or asked for.
"""

from collections.abc import Collection, Mapping, Sequence

from fairline.core.equipment import LETTERS, Equipment
from fairline.core.errors import FairLineError
from fairline.core.quantities import both
from fairline.core.route.entry import OUTDOOR, Leg, LineRun, RouteEntry
from fairline.core.route.piping import kind_of, outlet_names, own_legs
from fairline.core.sheet import BranchBox
from fairline.core.sheet.part import TubePair
from fairline.core.survey.stage import SurveyEntry

MOST_LEGS = 60  # of one run


class EditError(FairLineError, ValueError):
    """Why an order cannot be done: a sentence for the person, beside the field it is about."""

    def __init__(self, reason: str, field: str = "") -> None:
        super().__init__(reason)
        self.field = field


def edited(
    entry: RouteEntry,
    order: str,
    survey: SurveyEntry,
    equipment: Equipment,
    before_m: float | None = None,
    valves: Collection[str] = (),
) -> RouteEntry:
    """The entry after one order. Raises EditError.

    ``before_m``: of a tee in a built run, how much of what was measured lies before it.
    ``valves``: ports on which an isolation valve was made (``outdoor-D``): what is connected there
    lies behind it.
    """
    after = ways_kept(entry, _ordered(entry, order, survey, equipment, before_m))
    return _behind_valves(entry, after, valves)


def _behind_valves(before: RouteEntry, after: RouteEntry, valves: Collection[str]) -> RouteEntry:
    """Heads that were connected to a port with a valve on it have that valve."""
    moved = {
        end: run.model_copy(update={"isolation": "yes"})
        for end, run in after.runs.items()
        if kind_of(end) == "head"
        and f"{run.fed_from}-{run.outlet}" in valves
        and (before.run(end).fed_from, before.run(end).outlet) != (run.fed_from, run.outlet)
    }
    return after.model_copy(update={"runs": after.runs | moved}) if moved else after


def ways_kept(before: RouteEntry, after: RouteEntry) -> RouteEntry:
    """The entry with the way of every run that kept to another's path and would lose it."""
    runs = dict(after.runs)
    for end, run in before.runs.items():
        if end not in runs or not run.along or runs[end].along != run.along:
            continue
        if runs[end].legs != run.legs:
            continue
        had = tuple(leg for _, leg in own_legs(before, end))
        if tuple(leg for _, leg in own_legs(after, end)) != had:
            own = {"legs": had[:MOST_LEGS], "along": "", "along_legs": None}
            runs[end] = runs[end].model_copy(update=own)
    return after.model_copy(update={"runs": runs})


def _ordered(
    entry: RouteEntry,
    order: str,
    survey: SurveyEntry,
    equipment: Equipment,
    before_m: float | None,
) -> RouteEntry:
    name, *words = order.split(":")
    zones = [h.zone for h in survey.now]
    if name == "lay-out":
        return laid_out(entry, survey, equipment)
    if name == "box":
        return _with_box(entry)
    if name == "connect" and len(words) == 3:
        return connected(entry, words[0], words[1], words[2], zones)
    if name == "tee" and len(words) == 1:
        return _with_tee(entry, words[0], before_m)
    if name == "out" and len(words) == 1:
        return _without(entry, words[0])
    if name == "loose" and len(words) == 1 and words[0] in entry.runs:
        return _changed(entry, words[0], fed_from="", outlet="")
    if name == "port" and len(words) == 3 and words[2] in ("kept", "capped"):
        return entry.model_copy(
            update={"ports": entry.ports | {f"{words[0]}-{words[1]}": words[2]}}
        )
    raise EditError("this order is not understood")


def _changed(entry: RouteEntry, end: str, **fields: object) -> RouteEntry:
    run = entry.run(end).model_copy(update=fields)
    return entry.model_copy(update={"runs": entry.runs | {end: run}})


def connected(entry: RouteEntry, end: str, start: str, outlet: str, zones: list[str]) -> RouteEntry:
    """``end`` on an outlet; what was there takes the outlet that ``end`` had."""
    if end not in entry.runs and end not in zones:
        raise EditError(f"there is no {end} to connect")
    if start != OUTDOOR and start not in entry.runs:
        raise EditError(f"there is no {start} to connect to")
    if end == start or end in fed_by(entry, start):
        raise EditError(f"{end} would feed itself: connect it nearer to the outdoor unit")
    before = entry.run(end)
    for other, run in entry.runs.items():
        if other != end and run.fed_from == start and run.outlet == outlet:
            if other in fed_by(entry, end):
                raise EditError(f"{other} is there and feeds {end}: set a tee in its run instead")
            entry = _changed(entry, other, fed_from=before.fed_from, outlet=before.outlet)
    return _changed(entry, end, fed_from=start, outlet=outlet)


def fed_by(entry: RouteEntry, end: str) -> list[str]:
    """What feeds a thing, one after the other back to the outdoor unit."""
    found: list[str] = []
    at = entry.run(end).fed_from
    while at and at != OUTDOOR and at not in found:
        found.append(at)
        at = entry.run(at).fed_from
    return found


def _next(entry: RouteEntry, kind: str, most: int) -> str:
    free = [n for n in range(1, most + 1) if f"{kind}{n}" not in entry.runs]
    if not free:
        raise EditError(f"there are {most} already")
    return f"{kind}{free[0]}"


def _with_box(entry: RouteEntry) -> RouteEntry:
    return _changed(entry, _next(entry, "box", 9), fed_from=OUTDOOR, outlet="")


def _with_tee(entry: RouteEntry, end: str, before_m: float | None = None) -> RouteEntry:
    """A tee in the run that ends in ``end``: it takes the run's legs and its place.

    Of a built run what was measured is parted at the tee: ``before_m`` of it lies before.
    """
    if end not in entry.runs or not entry.run(end).fed_from:
        raise EditError(f"connect {end} first, then set a tee in its run")
    run, tee = entry.run(end), _next(entry, "tee", 99)
    like = next((r.sheet for e, r in entry.runs.items() if kind_of(e) == "tee" and r.sheet), "")
    built = run.built_m
    if built is not None and before_m is None:
        raise EditError(
            f"run {end} is built, {both(built, 'length')}: say how much of it lies before the tee",
            f"_before.{end}",
        )
    if built is not None and before_m is not None and not 0 < before_m < built:
        raise EditError(
            f"the tee lies within the {both(built, 'length')} that run {end} is built",
            f"_before.{end}",
        )
    before = LineRun(
        fed_from=run.fed_from,
        outlet=run.outlet,
        legs=run.legs,
        sheet=like,
        along=run.along,
        along_legs=run.along_legs,
        built_m=None if built is None else before_m,
    )
    after = run.model_copy(
        update={
            "fed_from": tee,
            "outlet": "off",
            "legs": (),
            "along": "",
            "along_legs": None,
            "built_m": None if built is None else built - (before_m or 0.0),
        }
    )
    runs = entry.runs | {tee: before, end: after}
    for other, follower in entry.runs.items():  # they run beside the tube before the tee now
        if other != end and follower.along == end and follower.fed_from == run.fed_from:
            runs[other] = follower.model_copy(update={"along": tee})
    return entry.model_copy(update={"runs": runs})


def _heir(gone: str, fed: list[str], runs: Mapping[str, LineRun]) -> str | None:
    """The run that takes the place of a box's or tee's: a tee's way on, or the only one."""
    only = fed[0] if len(fed) == 1 else None
    if kind_of(gone) == "tee":
        return next((e for e in fed if runs[e].outlet == "on"), only)
    return only if only is not None and kind_of(only) == "head" else None


def _without(entry: RouteEntry, end: str) -> RouteEntry:
    """A box or tee taken out; of a tee the run on takes its place, others come loose."""
    if end not in entry.runs or kind_of(end) == "head":
        raise EditError(f"there is no box or tee called {end}")
    gone, runs = entry.run(end), {e: r for e, r in entry.runs.items() if e != end}
    fed = [e for e, r in runs.items() if r.fed_from == end]
    heir = _heir(end, fed, runs)
    if gone.built_m is not None and heir is None:
        raise EditError(
            f"the run to {end} is built, {both(gone.built_m, 'length')}, and nothing takes it on: "
            "blank its built length first, if that tube comes out"
        )
    for child in fed:
        update: dict[str, object] = {"fed_from": "", "outlet": ""}
        if child == heir:
            update = {
                "fed_from": gone.fed_from,
                "outlet": gone.outlet,
                "legs": _joined_legs(entry, end, child),
                "along": gone.along,
                "along_legs": gone.along_legs,
                "built_m": _joined_m(gone, runs[child], end, child),
            }
        runs[child] = runs[child].model_copy(update=update)
    for other, follower in entry.runs.items():
        if other in runs and follower.along == end and heir is not None:
            runs[other] = runs[other].model_copy(update={"along": heir})
    return entry.model_copy(update={"runs": runs})


def _joined_legs(entry: RouteEntry, gone: str, heir: str) -> tuple[Leg, ...]:
    """The legs of two runs that become one, in order, the second's shared ones as its own."""
    own = tuple(leg for _, leg in own_legs(entry, heir))
    legs = (*entry.run(gone).legs, *own)
    if len(legs) > MOST_LEGS:
        raise EditError(f"{gone} and {heir} together have more than {MOST_LEGS} legs")
    return legs


def _joined_m(gone: LineRun, heir: LineRun, end: str, child: str) -> float | None:
    """The built length of two runs that become one: both are measured, or neither."""
    if gone.built_m is None and heir.built_m is None:
        return None
    if gone.built_m is None or heir.built_m is None:
        built, other = (end, child) if heir.built_m is None else (child, end)
        raise EditError(
            f"the run to {built} is built and the one to {other} is not: type the built length of "
            f"{other} first, then take {end} out"
        )
    return gone.built_m + heir.built_m


def laid_out(entry: RouteEntry, survey: SurveyEntry, equipment: Equipment) -> RouteEntry:
    """Every head that is loose connected as its outdoor unit's kind of piping asks.

    Home runs take the ports in order, those of a head's own tube sizes first; a box or the tees
    are set where there are none; the last head of a trunk goes on the last tee's way on.
    """
    outdoor = equipment.outdoor.sheet if equipment.outdoor else None
    if outdoor is None:
        raise EditError("choose the outdoor unit in Survey first")
    zones = [h.zone for h in survey.now]
    if not zones:
        raise EditError("enter the heads wanted in Survey first")
    loose = [z for z in zones if not entry.run(z).fed_from]
    if outdoor.system == "trunk":
        return _trunk(entry, loose)
    if outdoor.system == "branch-box":
        return _on_box(entry, loose, equipment)
    names = outlet_names(outdoor.ports) or tuple(LETTERS[: len(zones)])
    return _on_ports(entry, loose, OUTDOOR, names, outdoor.ports, equipment)


def _on_box(entry: RouteEntry, loose: list[str], equipment: Equipment) -> RouteEntry:
    """Heads on the ports of the first box; one is set where there is none."""
    if not any(kind_of(e) == "box" for e in entry.runs):
        entry = _with_box(entry)
    box = next(e for e in entry.runs if kind_of(e) == "box")
    sheet = equipment.fitting(box)
    ports = sheet.ports if isinstance(sheet, BranchBox) else ()
    names = outlet_names(ports) or tuple(LETTERS[:8])
    return _on_ports(entry, loose, box, names, ports, equipment)


def _on_ports(
    entry: RouteEntry,
    loose: list[str],
    start: str,
    names: Sequence[str],
    ports: Sequence[TubePair],
    equipment: Equipment,
) -> RouteEntry:
    """Heads on the free ports in order, those of a head's own tube sizes first."""
    sizes = {n: (p.liquid_od_m, p.gas_od_m) for n, p in zip(names, ports, strict=False)}
    for zone in loose:
        taken = {r.outlet for r in entry.runs.values() if r.fed_from == start}
        free = [n for n in names if n not in taken]
        if not free:
            raise EditError(f"no port is free for zone {zone}")
        head = equipment.head(zone)
        own = (head.liquid_od_m, head.gas_od_m) if head else None
        outlet = next((n for n in free if n in sizes and sizes[n] == own), free[0])
        entry = _changed(entry, zone, fed_from=start, outlet=outlet)
    return entry


def _trunk(entry: RouteEntry, loose: list[str]) -> RouteEntry:
    """Tees in a row, a head on each; the last head on the way on of the last tee."""
    tees = sorted((e for e in entry.runs if kind_of(e) == "tee"), key=lambda e: int(e[3:]))
    taken = {(r.fed_from, r.outlet) for r in entry.runs.values() if r.fed_from}
    at, outlet = (tees[-1], "on") if tees else (OUTDOOR, "")
    for n, zone in enumerate(loose):
        free = [t for t in tees if (t, "off") not in taken]
        if free:
            entry = _changed(entry, zone, fed_from=free[0], outlet="off")
            taken.add((free[0], "off"))
            continue
        if n == len(loose) - 1 and (at, outlet) not in taken:
            return _changed(entry, zone, fed_from=at, outlet=outlet)
        if (at, outlet) in taken:  # a head has the way on: a tee goes before it
            last = next(e for e, r in entry.runs.items() if (r.fed_from, r.outlet) == (at, outlet))
            entry = _with_tee(entry, last)
            tee = next(r.fed_from for e, r in entry.runs.items() if e == last)
            entry = _changed(entry, last, outlet="on")
        else:
            tee = _next(entry, "tee", 99)
            entry = _changed(entry, tee, fed_from=at, outlet=outlet)
        entry = _changed(entry, zone, fed_from=tee, outlet="off")
        tees.append(tee)
        taken = {(r.fed_from, r.outlet) for r in entry.runs.values() if r.fed_from}
        at, outlet = tee, "on"
    return entry
