"""What is to be wired: every block of terminals, and every cable with the ends it belongs to."""

from collections.abc import Iterator, Sequence

from fairline.core.call import Frozen
from fairline.core.equipment import Equipment
from fairline.core.practice import Rules
from fairline.core.route.entry import OUTDOOR
from fairline.core.route.piping import Piping, Stretch
from fairline.core.sheet import BranchBox, Head
from fairline.core.sheet.part import Shield
from fairline.core.survey.stage import WantedHead
from fairline.core.wire.circuit import rating
from fairline.core.wire.entry import Colour, WireEntry
from fairline.core.wire.records import GROUND, Side

CONTROLLER = "controller"
SIDES: tuple[Side, Side] = ("start", "end")


class Block(Frozen):
    """A row of terminals: ``unit`` is what it is in, ``fed_by`` whose circuit makes it live."""

    id: str
    unit: str
    title: str
    terminals: tuple[str, ...]
    grounded: bool = True
    fed_by: str = OUTDOOR

    @property
    def places(self) -> tuple[str, ...]:
        """Every screw of it, the ground last."""
        return (*self.terminals, GROUND) if self.grounded else self.terminals


class Cable(Frozen):
    """A cable between two blocks; a supply has only the end at its unit.

    ``letter`` is what both ends are to be marked with. ``colours`` go by terminal, the ground's
    last where it has one; None of a pair that nobody has looked at.
    """

    id: str
    title: str
    letter: str
    start: str
    end: str
    kind: str  # "cable", "pair" or "supply"
    colours: tuple[Colour | None, ...]

    @property
    def sides(self) -> tuple[Side, ...]:
        return SIDES if self.start else ("end",)

    @property
    def white_is_hot(self) -> bool:
        """Whether a white conductor is planned for a terminal that is hot."""
        return self.kind == "cable" and "white" in self.colours

    def block(self, side: Side) -> str:
        return self.start if side == "start" else self.end


class Wiring(Frozen):
    """The blocks and cables of a job. ``unnamed``: units whose terminals no sheet names.

    ``unlike``: cables whose two ends have another number of terminals. ``unrouted``: heads that
    Route has on no port yet. ``fed``: every unit with a circuit of its own, by its title.
    ``shield``: where the sheet wants a pair's shield grounded.
    """

    blocks: dict[str, Block] = {}
    cables: dict[str, Cable] = {}
    fed: dict[str, str] = {}
    unnamed: tuple[str, ...] = ()
    unlike: tuple[str, ...] = ()
    unrouted: tuple[str, ...] = ()
    shield: Shield | None = None
    plug: bool = False  # one may be in at the heads' terminals, or none says otherwise

    def asks_plug(self, cable: Cable, side: Side) -> bool:
        """Whether a factory's test plug may be in at this end."""
        at = self.blocks.get(cable.block(side))
        return self.plug and cable.kind == "cable" and at is not None and len(at.unit) == 1

    def grounds_shield(self, unit: str) -> bool:
        """Whether the sheet wants a pair's shield grounded at a unit."""
        return self.shield == "every" or (self.shield == OUTDOOR and unit == OUTDOOR)

    def planned(self, cable: str, side: Side) -> Block | None:
        """Where a cable's end belongs."""
        found = self.cables.get(cable)
        return self.blocks.get(found.block(side)) if found else None

    def colour_at(self, cable: Cable, side: Side, terminal: str) -> Colour | None:
        """The colour that belongs under a terminal of the cable's own block."""
        block = self.planned(cable.id, side)
        if block is None or terminal not in block.places:
            return None
        return cable.colours[block.places.index(terminal)]


def own_supply(zone: str, rules: Rules) -> bool:
    """Whether a head is fed by a circuit of its own: on a trunk, or where its sheet says so."""
    head = rules.heads.get(zone)
    if head is not None and head.own_supply is not None:
        return head.own_supply == "yes"
    return rules.outdoor is not None and rules.outdoor.system == "trunk"


class _Builder:
    """Gathers blocks and cables; what is missing is told, never raised."""

    def __init__(
        self,
        entry: WireEntry,
        pipes: Piping,
        heads: Sequence[WantedHead],
        equipment: Equipment,
        rules: Rules,
    ) -> None:
        self.entry, self.pipes, self.heads = entry, pipes, heads
        self.equipment, self.rules = equipment, rules
        self.blocks: dict[str, Block] = {}
        self.cables: dict[str, Cable] = {}
        self.unnamed: list[str] = []
        self.unlike: list[str] = []
        self.unrouted: list[str] = []

    def block(
        self, id: str, unit: str, title: str, names: tuple[str, ...], pair: bool = False
    ) -> None:
        if not names:
            self.unnamed.append(title)
            return
        fed_by = unit if len(unit) == 1 and own_supply(unit, self.rules) else OUTDOOR
        self.blocks[id] = Block(
            id=id, unit=unit, title=title, terminals=names, grounded=not pair, fed_by=fed_by
        )

    def cable(self, id: str, letter: str, start: str, end: str, pair: bool = False) -> None:
        first, last = self.blocks.get(start), self.blocks.get(end)
        if first is None or last is None:
            return
        if len(first.terminals) != len(last.terminals):
            self.unlike.append(f"{first.title} and {last.title}")
            return
        numbers = range(1, len(last.terminals) + 1)
        colours: list[Colour | None] = [
            self.entry.pair_colour(n) if pair else self.entry.colour(n) or "orange" for n in numbers
        ]
        self.cables[id] = Cable(
            id=id,
            title=_cable_title(id, letter, last.title, pair),
            letter=letter,
            start=start,
            end=end,
            kind="pair" if pair else "cable",
            colours=tuple(colours if pair else [*colours, self.entry.ground]),
        )

    def head_title(self, zone: str) -> str:
        return f"head {zone}"

    def interconnect(self) -> None:
        outdoor = self.rules.outdoor
        assert outdoor is not None
        several = outdoor.system == "multi"
        for name in self.pipes.outlets.get(OUTDOOR, ("A",)):
            title = f"outdoor unit, port {name}" if several else "outdoor unit"
            self.block(f"{OUTDOOR}.{name}", OUTDOOR, title, outdoor.terminals)
        self.boxes()
        for wanted in self.heads:
            self.head(wanted.zone)

    def boxes(self) -> None:
        outdoor = self.rules.outdoor
        for stretch in self.pipes.stretches:
            sheet = self.equipment.fitting(stretch.id)
            if stretch.kind != "box" or not isinstance(sheet, BranchBox):
                continue
            common = outdoor.terminals if outdoor else ()
            main = sheet.main_terminals or common
            self.block(f"{stretch.id}.main", stretch.id, f"{stretch.id}, main", main)
            names = self.pipes.outlets.get(stretch.id, ())
            for name in reversed(names) if sheet.lettered_from == "bottom" else names:
                title = f"{stretch.id}, port {name}"
                self.block(f"{stretch.id}.{name}", stretch.id, title, sheet.terminals or common)
            start = f"{stretch.start}.{stretch.outlet}"
            self.cable(stretch.id, stretch.id, start, f"{stretch.id}.main")

    def head(self, zone: str) -> None:
        stretch = self._from_a_port(self.pipes.get(zone))
        outdoor, sheet = self.rules.outdoor, self.rules.heads.get(zone)
        names = sheet.terminals if sheet else ()
        if stretch is None:
            if outdoor is None or outdoor.system != "single":
                self.unrouted.append(zone)
                return
            start, letter = f"{OUTDOOR}.A", "A"
        else:
            start, letter = f"{stretch.start}.{stretch.outlet}", stretch.tag
        at = self.blocks.get(start)
        self.block(zone, zone, self.head_title(zone), names or (at.terminals if at else ()))
        self.cable(zone, letter, start, zone)

    def _from_a_port(self, stretch: Stretch | None) -> Stretch | None:
        """The stretch that leaves the port a head is on, past any tee."""
        while stretch is not None and stretch.start.startswith("tee"):
            stretch = self.pipes.get(stretch.start)
        return stretch

    def trunk(self) -> None:
        """One shielded pair from head to head, in the order in which the tubes pass them."""
        outdoor = self.rules.outdoor
        assert outdoor is not None
        self.block(f"{OUTDOOR}.pair", OUTDOOR, "outdoor unit", outdoor.terminals, pair=True)
        before, now = f"{OUTDOOR}.pair", [h.zone for h in self.heads]
        passed = [z for z in self.pipes.addresses if z in now]
        self.unrouted += [z for z in now if z not in passed]
        for zone in passed:
            sheet = self.rules.heads.get(zone)
            names = (sheet.terminals if sheet else ()) or outdoor.terminals
            self.block(zone, zone, self.head_title(zone), names, pair=True)
            self.cable(zone, zone, before, zone, pair=True)
            before = zone
        if (at := self.entry.controller) and at in self.blocks:
            names = self.blocks[at].terminals
            self.block(CONTROLLER, CONTROLLER, "controller", names, pair=True)
            self.cable(CONTROLLER, CONTROLLER, at, CONTROLLER, pair=True)

    def supplies(self) -> Iterator[tuple[str, str]]:
        """The units with a circuit of their own, each with its block and its cable."""
        outdoor = self.rules.outdoor
        assert outdoor is not None
        self._supply(OUTDOOR, "outdoor unit", outdoor.supply_terminals)
        yield OUTDOOR, "outdoor unit"
        for wanted in self.heads:
            zone, sheet = wanted.zone, self.rules.heads.get(wanted.zone)
            if own_supply(zone, self.rules) and isinstance(sheet, Head):
                self._supply(zone, self.head_title(zone), sheet.supply_terminals)
                yield zone, self.head_title(zone)

    def _supply(self, unit: str, title: str, names: tuple[str, ...]) -> None:
        supply = self.entry.supply(unit)
        low = rating(unit, supply, self.rules).low
        names = names or (("L", "N") if low else ("L1", "L2"))
        id = f"{unit}.supply"
        self.blocks[id] = Block(
            id=id, unit=unit, title=f"{title}, supply", terminals=names, fed_by=unit
        )
        sheathed = supply.way == "sheathed"
        hots: list[Colour] = ["black", "white" if sheathed else "red", "blue"]
        colours: list[Colour] = []
        for name in names:
            colours.append("white" if name.upper() == "N" else hots.pop(0) if hots else "orange")
        self.cables[f"supply.{unit}"] = Cable(
            id=f"supply.{unit}",
            title=f"supply of the {title}",
            letter="",
            start="",
            end=id,
            kind="supply",
            colours=(*colours, self.entry.ground),
        )


def _cable_title(id: str, letter: str, to: str, pair: bool) -> str:
    if pair:
        return f"pair to {to}"
    return f"cable {letter}" if letter == id else f"cable {letter} to {to}"


def wiring(
    entry: WireEntry,
    pipes: Piping,
    heads: Sequence[WantedHead],
    equipment: Equipment,
    rules: Rules,
) -> Wiring:
    """Every block and cable of a job, by its kind of system."""
    if rules.outdoor is None:
        return Wiring()
    builder = _Builder(entry, pipes, heads, equipment, rules)
    if rules.outdoor.system == "trunk":
        builder.trunk()
    else:
        builder.interconnect()
    fed = dict(builder.supplies())
    return Wiring(
        blocks=builder.blocks,
        cables=builder.cables,
        fed=fed,
        unnamed=tuple(dict.fromkeys(builder.unnamed)),
        unlike=tuple(builder.unlike),
        unrouted=tuple(builder.unrouted),
        shield=rules.outdoor.shield,
        plug=rules.outdoor.test_plug != "no",
    )
