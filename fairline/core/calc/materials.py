"""What the runs take besides tube: cover, supports, insulation, tape, cable, plates, sleeves."""

import math
from collections.abc import Iterator
from typing import Annotated, Literal

from pydantic import Field, model_validator

from fairline.core.call import Answer, Call, Frozen, Request, Verdict
from fairline.core.check import plural
from fairline.core.physics.tubing import size_label
from fairline.core.quantities import both

Group = Literal[
    "tube", "fittings", "insulation", "cover", "supports", "cable", "power", "drain", "seals"
]
GROUPS: dict[Group, str] = {  # in the order a van is loaded: the long and flat first
    "tube": "Tube and kits",
    "cover": "Cover and furring",
    "drain": "Drain",
    "cable": "Cable",
    "power": "Supply and landings",
    "insulation": "Insulation and tape",
    "fittings": "Fittings, valves, joins",
    "supports": "Supports and plates",
    "seals": "Sleeves and seals",
}
Unit = Literal["m", "pieces"]
Od = Annotated[float, Field(ge=3, le=100)]
Metres = Annotated[float, Field(ge=0, le=10_000)]
Positive = Annotated[float, Field(gt=0, le=1000)]
FLAT = ("up", "down", "left", "right")
ROUND_M = 1e-6


class MaterialLeg(Request):
    """``shared``: another run's path, whose cover and supports are counted there.

    ``kept``: in what it lies, where it is another than the request's ``cover`` says.
    """

    direction: Literal["up", "down", "left", "right", "in", "out"]
    length_m: Annotated[float, Field(gt=0, le=10_000)]
    setting: Literal["outside", "wall", "attic", "room", "roof", "buried"] = "outside"
    kept: Literal["cover", "tape", "bare", "sleeve"] | None = None
    crosses: bool = False
    shared: bool = False


class MaterialRun(Request):
    """``tube_m``: to be cut, tails and coil with it. ``cables``: cables of its length, or none.

    A ``kit`` brings its tube, insulated. ``cable_m``: the way of a cable, where it is another than
    the tube's (a coil of tube holds no cable). ``cable_tails``: ends of cable with a tail; two a
    cable where it is not said (a control pair runs uncut past a tee). ``trap_m``: of gas tube, in
    oil traps.
    """

    id: Annotated[str, Field(min_length=1, max_length=40)]
    legs: Annotated[list[MaterialLeg], Field(max_length=120)]
    tube_m: Metres
    liquid_od_mm: Od | None = None
    gas_od_mm: Od | None = None
    cables: Annotated[int, Field(ge=0, le=4)] = 1
    kit: bool = False
    cable_m: Metres | None = None
    cable_tails: Annotated[int, Field(ge=0, le=8)] | None = None
    trap_m: Metres = 0.0


class MaterialsRequest(Request):
    """Lengths in m. ``insulation_m``: wall of the insulation; ``tape_m``: the tape's width."""

    runs: Annotated[list[MaterialRun], Field(min_length=1, max_length=60)]
    cover: bool = True
    cover_section_m: Positive = 1.2192
    furring: bool = False
    support_every_m: Positive = 1.524
    stud_spacing_m: Positive = 0.4064
    insulation_m: Annotated[float, Field(gt=0, le=0.1)] = 0.009
    tape_m: Annotated[float, Field(gt=0, le=1)] = 0.05
    cable_tail_m: Metres = 1.0

    @model_validator(mode="after")
    def _ids_are_single(self) -> "MaterialsRequest":
        ids = [r.id for r in self.runs]
        if len(set(ids)) != len(ids):
            raise ValueError("runs: an id stands twice")
        return self


class Part(Frozen):
    """What one run brings to a line."""

    run: str
    quantity: float


class Line(Frozen):
    """One line of the list, in m or pieces; ``parts`` and ``origin`` say where it comes from."""

    group: Group
    item: str
    quantity: float
    unit: Unit
    parts: tuple[Part, ...] = ()
    origin: str = ""
    size: str = ""


class MaterialsResult(Frozen):
    lines: tuple[Line, ...]

    def quantity(self, item: str, size: str = "") -> float:
        """How much of an item in all."""
        return math.fsum(x.quantity for x in self.lines if x.item == item and size in ("", x.size))


Straight = tuple[list[MaterialLeg], float]


def straights(legs: list[MaterialLeg]) -> Iterator[Straight]:
    """Legs of one direction and setting taken together, each with its length in m.

    >>> up = MaterialLeg(direction="up", length_m=1.5)
    >>> [length for _, length in straights([up, up, up.model_copy(update={"direction": "left"})])]
    [3.0, 1.5]
    """
    at: list[MaterialLeg] = []
    for leg in legs:
        same = at and leg.model_copy(update={"length_m": at[-1].length_m}) == at[-1]
        if at and not same:
            yield at, math.fsum(x.length_m for x in at)
            at = []
        at.append(leg)
    if at:
        yield at, math.fsum(x.length_m for x in at)


def belt_m(first_m: float, second_m: float) -> float:
    """The way in m round two round things side by side, from their outer diameters in m.

    A belt round two circles that touch: 2·√(4rs) + π(r + s) + 2(r − s)·asin((r − s)/(r + s)) with
    radii r ≥ s (plane geometry).

    >>> round(belt_m(0.04, 0.04) / 0.04, 4)  # two equal: π + 2 diameters
    5.1416
    """
    r, s = max(first_m, second_m) / 2, min(first_m, second_m) / 2
    if s <= 0:
        return 2 * math.pi * r
    return 2 * math.sqrt(4 * r * s) + math.pi * (r + s) + 2 * (r - s) * math.asin((r - s) / (r + s))


def tape_length_m(length_m: float, round_m: float, width_m: float) -> float:
    """The length in m of tape wound with half laps round a bundle.

    L/p · √(C² + p²): L the bundle's length, C its girth, p half the tape's width (a helix).

    >>> round(tape_length_m(1.0, 0.2, 0.05), 2)
    8.06
    """
    pitch = width_m / 2
    return length_m / pitch * math.hypot(round_m, pitch)


def _covered(leg: MaterialLeg, request: MaterialsRequest) -> bool:
    own = request.cover if leg.kept is None else leg.kept == "cover"
    return own and leg.setting in ("outside", "room") and not leg.crosses


class _List:
    """Gathers lines: like items of one size add up, and keep what each run brings."""

    def __init__(self) -> None:
        self.rows: dict[tuple[Group, str, str, Unit], dict[str, float]] = {}

    def add(
        self, group: Group, item: str, quantity: float, unit: Unit, run: str, size: str = ""
    ) -> None:
        if quantity > ROUND_M:
            row = self.rows.setdefault((group, item, size, unit), {})
            row[run] = row.get(run, 0.0) + quantity

    def lines(self) -> tuple[Line, ...]:
        return tuple(
            Line(
                group=group,
                item=item,
                size=size,
                quantity=math.fsum(row.values()),
                unit=unit,
                parts=tuple(Part(run=run, quantity=q) for run, q in row.items()),
            )
            for (group, item, size, unit), row in self.rows.items()
        )


def materials(request: MaterialsRequest) -> Answer[MaterialsResult]:
    """Every run's cover, supports, insulation, tape, cable, plates and sleeves, in one list.

    Straights are counted in sections rounded up, with a coupling between two sections; an elbow
    lies flat between directions of one wall and stands where the run turns off it.

    >>> legs = [{"direction": "up", "length_m": 2.0}]
    >>> asked = {"runs": [{"id": "A", "tube_m": 3.0, "legs": legs}]}
    >>> [line.item for line in materials(MaterialsRequest.model_validate(asked)).result.lines][:2]
    ['Clamp or hanger', 'Cover section']
    """
    found = _List()
    for run in request.runs:
        _tube(run, found, request)
        _legs(run, found, request)
        way = run.tube_m if run.cable_m is None else run.cable_m
        tails = 2 * run.cables if run.cable_tails is None else run.cable_tails
        length = run.cables * way + tails * request.cable_tail_m
        found.add("cable", "Cable, tails with it", length, "m", run.id)
    lines = found.lines()
    total = math.fsum(x.quantity for x in lines if x.group == "cable")
    return Answer[MaterialsResult](
        call=Call(
            verdict=Verdict.HOLDS,
            because=f"{plural(len(lines), 'line')} from {plural(len(request.runs), 'run')}; "
            f"{both(total, 'length')} of cable.",
        ),
        result=MaterialsResult(lines=lines),
    )


def _tube(run: MaterialRun, found: _List, request: MaterialsRequest) -> None:
    for name, od in (("liquid", run.liquid_od_mm), ("gas", run.gas_od_mm)):
        if od is not None and not run.kit:
            length = run.tube_m + (run.trap_m if name == "gas" else 0.0)
            found.add("tube", f"Copper tube, {name}", length, "m", run.id, size_label(od))
            found.add("insulation", "Pipe insulation", length, "m", run.id, size_label(od))


def _legs(run: MaterialRun, found: _List, request: MaterialsRequest) -> None:
    parts = list(straights(run.legs))
    thick = 2 * request.insulation_m
    around = belt_m((run.liquid_od_mm or 0) / 1000 + thick, (run.gas_od_mm or 0) / 1000 + thick)
    for n, (legs, length) in enumerate(parts):
        leg = legs[0]
        after = parts[n + 1][0][0] if n + 1 < len(parts) else None
        before = parts[n - 1][0][0] if n else None
        if leg.shared:
            if after is not None and not after.shared and _covered(leg, request):
                found.add("cover", "Cover tee, where a run leaves the path", 1, "pieces", run.id)
            continue
        if leg.crosses:
            found.add("seals", "Wall sleeve", 1, "pieces", run.id)
            found.add("seals", "Seal, inside and out", 2, "pieces", run.id)
            continue
        if leg.kept == "sleeve" or leg.setting == "buried":
            found.add("cover", "Pipe sleeve", length, "m", run.id)
        elif leg.setting == "wall":
            if leg.direction not in ("up", "down"):
                plates = math.ceil(length / request.stud_spacing_m - ROUND_M)
                found.add("supports", "Nail plate", plates, "pieces", run.id)
        else:
            held = math.ceil(length / request.support_every_m - ROUND_M)
            found.add("supports", "Clamp or hanger", held, "pieces", run.id)
        if _covered(leg, request):
            _cover(run.id, leg, length, before, after, found, request)
        elif leg.setting in ("outside", "roof") and leg.kept not in ("bare", "sleeve"):
            tape = tape_length_m(length, around, request.tape_m)
            found.add(
                "insulation", "Ultraviolet-resistant tape, from the bottom up", tape, "m", run.id
            )


def _cover(
    run: str,
    leg: MaterialLeg,
    length: float,
    before: MaterialLeg | None,
    after: MaterialLeg | None,
    found: _List,
    request: MaterialsRequest,
) -> None:
    sections = math.ceil(length / request.cover_section_m - ROUND_M)
    found.add(
        "cover", "Cover section", sections, "pieces", run, both(request.cover_section_m, "length")
    )
    found.add("cover", "Coupling", sections - 1, "pieces", run)
    if request.furring and leg.setting == "outside":
        found.add("cover", "Furring strip", length, "m", run)
    for other, first in ((before, True), (after, False)):
        if other is None:
            if first:
                found.add("cover", "End fitting", 1, "pieces", run)
        elif other.crosses:
            found.add("cover", "Wall inlet", 1, "pieces", run)
        elif not _covered(other, request):
            found.add("cover", "End fitting", 1, "pieces", run)
    if after is not None and _covered(after, request) and after.direction != leg.direction:
        flat = leg.direction in FLAT and after.direction in FLAT
        found.add("cover", "Elbow, flat" if flat else "Elbow, round a corner", 1, "pieces", run)
