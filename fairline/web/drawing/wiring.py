"""The wiring drawn terminal by terminal: blocks, and each conductor from where it lies to where."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from markupsafe import Markup

from fairline.core.route.entry import OUTDOOR
from fairline.core.wire.records import GROUND
from fairline.core.wire.stage import WireStageResult
from fairline.core.wire.wiring import Block, Cable, Wiring
from fairline.web.drawing.svg import drawing, number, tag, text

WIDTH, BLOCK, GAP, HEAD = 400.0, 62.0, 12.0, 20.0
TAIL = 24.0  # of a supply, beside its block


@dataclass(frozen=True)
class Spot:
    """Where a terminal is drawn: its row, and the edges of its block."""

    left: float
    right: float
    y: float


def _columns(plan: Wiring, blocks: Sequence[Block]) -> list[list[Block]]:
    """Outdoor unit, boxes, heads: a column each, those that nothing stands in left out."""
    unit = [b for b in blocks if b.unit == OUTDOOR]
    boxes = [b for b in blocks if b.unit.startswith("box")]
    rest = [b for b in blocks if b not in unit and b not in boxes]
    order = list(plan.blocks)
    rest.sort(key=lambda b: (b.unit, order.index(b.id)))
    return [column for column in (unit, boxes, rest) if column]


def wiring_map(worked: WireStageResult, only: str = "", row: float = 17.0) -> Markup | None:
    """All of it, or one cable with the blocks that it touches; None where nothing is known."""
    plan, lies = worked.wiring, worked.lies
    cables = [c for c in plan.cables.values() if only in ("", c.id)]
    blocks = list(plan.blocks.values()) if not only else _touched(plan, worked, cables)
    if not cables or not blocks:
        return None
    columns = _columns(plan, blocks)
    spots: dict[tuple[str, str], Spot] = {}
    drawn: list[Markup] = []
    deepest = 0.0
    for n, column in enumerate(columns):
        left = 8.0
        if len(columns) > 1:
            left += (WIDTH - 16 - BLOCK - TAIL) * n / (len(columns) - 1)
        y = 4.0
        for block in column:
            y += HEAD
            drawn += _block(block, left, y, row, spots, last=n == len(columns) - 1 and n > 0)
            y += row * len(block.places) + GAP
        deepest = max(deepest, y)
    wires = [part for cable in cables for part in _cable(cable, plan, worked, spots)]
    lying = sum(len(lies.at(c.id, side)) for c in cables for side in c.sides)
    wanted = sum(len(plan.blocks[c.block(s)].places) for c in cables for s in c.sides)
    label = f"Wiring, terminal by terminal: {lying} of {wanted} conductor ends landed"
    return drawing(WIDTH, deepest, label, "wiring", *wires, *drawn)


def _touched(plan: Wiring, worked: WireStageResult, cables: Sequence[Cable]) -> list[Block]:
    named = {c.block(side) for c in cables for side in c.sides}
    named |= {x.block for c in cables for side in c.sides for x in worked.lies.at(c.id, side)}
    return [b for b in plan.blocks.values() if b.id in named]


def _block(
    block: Block,
    left: float,
    y: float,
    row: float,
    spots: dict[tuple[str, str], Spot],
    last: bool,
) -> Iterator[Markup]:
    """A block: its name above, a row for each screw."""
    height = row * len(block.places)
    at = left + BLOCK if last else left
    yield text(at, y - 6, block.title, "title end" if last else "title")
    yield tag("rect", x=left, y=y, width=BLOCK, height=height, rx=3.0, class_="block")
    for n, name in enumerate(block.places):
        middle = y + row * (n + 0.5)
        spots[block.id, name] = Spot(left, left + BLOCK, middle)
        if name == GROUND:
            x, top = left + BLOCK / 2, middle - 6
            mark = f"M{number(x)} {number(top)}v6m-7 0h14m-11 3.5h8m-5.5 3.5h3"
            yield tag("path", d=mark, class_="ground")
        else:
            yield text(left + BLOCK / 2, middle + 5, name, "terminal")


def _cable(
    cable: Cable, plan: Wiring, worked: WireStageResult, spots: dict[tuple[str, str], Spot]
) -> Iterator[Markup]:
    """Every conductor of a cable: whole where both ends lie, broken where one does not yet."""
    for n, colour in enumerate(cable.colours):
        ends: list[tuple[Spot, bool]] = []
        for side in cable.sides:
            block = plan.blocks[cable.block(side)]
            lying = next((x for x in worked.lies.at(cable.id, side) if x.colour == colour), None)
            at = (lying.block, lying.terminal) if lying else (block.id, block.places[n])
            if at in spots:
                ends.append((spots[at], lying is not None))
        if ends:
            yield from _conductor(colour, ends)
    yield from _strays(cable, worked, spots)


def _conductor(colour: str | None, ends: Sequence[tuple[Spot, bool]]) -> Iterator[Markup]:
    landed = all(lies for _, lies in ends)
    way = _way([spot for spot, _ in ends])
    state = "landed" if landed else "half" if any(lies for _, lies in ends) else "open"
    yield tag("path", d=way, class_=f"casing {state}")
    yield tag("path", d=way, class_=f"wire wire-{colour or 'none'} {state}")


def _way(spots: Sequence[Spot]) -> str:
    """A curve between two terminals; a short tail of a supply, whose other end is elsewhere."""
    a = spots[0]
    if len(spots) < 2:
        return f"M{number(a.right)} {number(a.y)}h{number(TAIL)}"
    b = spots[1]
    if abs(a.left - b.left) < 1:  # from head to head down one column
        x = a.left if a.left > WIDTH / 2 else a.right
        bend = x + (-60 if a.left > WIDTH / 2 else 60)
        return (
            f"M{number(x)} {number(a.y)}C{number(bend)} {number(a.y)} {number(bend)} "
            f"{number(b.y)} {number(x)} {number(b.y)}"
        )
    start, end = (a.right, b.left) if a.left < b.left else (a.left, b.right)
    middle = (start + end) / 2
    return (
        f"M{number(start)} {number(a.y)}C{number(middle)} {number(a.y)} {number(middle)} "
        f"{number(b.y)} {number(end)} {number(b.y)}"
    )


def _strays(
    cable: Cable, worked: WireStageResult, spots: dict[tuple[str, str], Spot]
) -> Iterator[Markup]:
    """Conductors of a colour that the cable was not planned with: a stub where each lies."""
    for side in cable.sides:
        for x in worked.lies.at(cable.id, side):
            if x.colour not in cable.colours and (x.block, x.terminal) in spots:
                yield from _conductor(x.colour, [(spots[x.block, x.terminal], True)])
