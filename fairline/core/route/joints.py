"""Every joint of the system, in the order one works: what the runs, ports and joins ask for."""

from typing import Literal

from fairline.core.call import Frozen
from fairline.core.check import capitalized
from fairline.core.equipment import Equipment
from fairline.core.parts import IN, JOIN
from fairline.core.physics.tubing import same_size, size_label
from fairline.core.practice import Rules
from fairline.core.route.entry import OUTDOOR, RouteEntry
from fairline.core.route.piping import Piping, Stretch, kind_of
from fairline.core.route.ports import SparePort
from fairline.core.sheet import Tee

Line = Literal["liquid", "gas"]
VALVE, REDUCER, CAP = "valve", "reducer", "cap"  # a joint's side that is neither machine nor tube
FIRST_PORT = "A"  # of a unit whose only pair of connections has no name
LINES: tuple[Line, ...] = ("gas", "liquid")


class JointSpec(Frozen):
    """One joint: where it is, on which tube, and how it is made.

    ``id`` is its place in the drawing. ``sides`` say what it joins: an opening of a machine and a
    tube, each by its token, so that it is another joint where one of them is another one. ``cap``:
    what closes an end that nothing is on any more.
    """

    id: str
    run: str
    line: Line
    end: Literal["start", "end", "way"]
    kind: Literal["flare", "braze"]
    od_mm: float | None
    label: str
    sides: tuple[str, str] = ("", "")
    cap: bool = False

    @property
    def key(self) -> str:
        """What tells it from every other joint: ``gas:outdoor.A|tubeA``."""
        return f"{self.line}:{self.sides[0]}|{self.sides[1]}"

    @property
    def size(self) -> str | None:
        return size_label(self.od_mm) if self.od_mm is not None else None


def joints(
    pipes: Piping,
    entry: RouteEntry,
    equipment: Equipment,
    rules: Rules,
    joins: dict[str, int],
    spare: tuple[SparePort, ...] = (),
    joined: Rules | None = None,
) -> list[JointSpec]:
    """All joints; ``joins`` counts what the cut plan joins of each run and line (``A.gas``).

    ``joined``: the rules of the day on which it was carried out, where another.

    A spare port that is kept has its isolation valve's joint on each tube.
    """
    indoors = rules.school("connect_first").name == "indoors"
    found: list[JointSpec] = []
    for stretch in pipes.stretches:
        head = _ends(stretch, "end", entry, equipment, rules)
        unit = _ends(stretch, "start", entry, equipment, rules)
        found += head + unit if indoors else unit + head
    for stretch in pipes.stretches:
        union = (joined or rules).school("joins").name == "union"
        how: Literal["flare", "braze"] = "flare" if union else "braze"
        each = 2 if how == "flare" else 1
        for line in LINES:
            count = joins.get(f"{stretch.id}.{line}", 0)
            found += _on_the_way(stretch, line, each * count, how, equipment.tube(stretch.id))
    return found + [j for port in spare if port.kept for j in _kept(port, equipment, rules)]


def _kept(port: SparePort, equipment: Equipment, rules: Rules) -> list[JointSpec]:
    """The joints of the isolation valves on a port that waits for a later head."""
    return [
        JointSpec(
            id=f"{port.key}.{line}.port.valve",
            run=port.key,
            line=line,
            end="start",
            kind="flare",
            od_mm=port.size.of(line),
            label=f"{capitalized(line)}, {_what(port.at)}, port {port.name}: isolation valve, kept",
            sides=(f"{equipment.machine(port.at)}.{port.name}", VALVE),
        )
        for line in LINES
    ]


def _what(at: str) -> str:
    if at == OUTDOOR:
        return "at the outdoor unit"
    if kind_of(at) == "head":
        return "at the head"
    return f"at {'the box' if kind_of(at) == 'box' else 'tee'} {at[3:]}".strip()


def _joint_kind(at: str, equipment: Equipment, rules: Rules) -> Literal["flare", "braze"]:
    """How tubes join to a thing: a tee as its sheet says, the unit as its valves are made."""
    sheet = equipment.fitting(at)
    if isinstance(sheet, Tee):
        return sheet.joints
    if at == OUTDOOR and rules.outdoor is not None:
        return rules.outdoor.valves
    return "flare"


def _ends(
    stretch: Stretch,
    end: Literal["start", "end"],
    entry: RouteEntry,
    equipment: Equipment,
    rules: Rules,
) -> list[JointSpec]:
    """The joints at one end: at the connection, and at reducer and isolation valve if any."""
    at = stretch.start if end == "start" else stretch.id
    kind = _joint_kind(at, equipment, rules)
    valve = end == "start" and isolated(stretch, entry, rules)
    opening = f"{equipment.machine(at)}.{stretch.outlet or FIRST_PORT if end == 'start' else IN}"
    piece = equipment.tube_start(stretch.id) if end == "start" else equipment.tube(stretch.id)
    its_head = stretch.kind == "head" and at == stretch.id
    where = f" {stretch.id}" if its_head else f", run {stretch.tag}"
    found = []
    for line in LINES:
        tube = stretch.tube.of(line)
        own = (stretch.at_start if end == "start" else stretch.at_end).of(line)
        reducer = reduced(tube, own)
        spec = JointSpec(
            id=f"{stretch.id}.{line}.{end}",
            run=stretch.id,
            line=line,
            end=end,
            kind=kind,
            od_mm=own or tube,
            label=f"{capitalized(line)}, {_what(at)}{where}",
            sides=(f"{opening}.{VALVE}" if valve else opening, REDUCER if reducer else piece),
        )
        found.append(spec)
        if valve:
            update: dict[str, object] = {
                "id": f"{spec.id}.valve",
                "kind": "flare",
                "label": f"{spec.label}: isolation valve",
                "sides": (opening, VALVE),
            }
            found.append(spec.model_copy(update=update))
        if reducer:
            update = {
                "id": f"{spec.id}.reducer",
                "od_mm": tube,
                "label": f"{spec.label}: reducer to tube",
                "sides": (f"{opening}.{REDUCER}", piece),
            }
            found.append(spec.model_copy(update=update))
    return found


def reduced(tube: float | None, connection: float | None) -> bool:
    """Whether tube and connection differ, so that a reducer or expander goes between."""
    return tube is not None and connection is not None and not same_size(tube, connection)


def isolated(stretch: Stretch, entry: RouteEntry, rules: Rules) -> bool:
    """Whether a valve goes on the port: as entered, else by the school, on home runs."""
    own = entry.run(stretch.id).isolation
    if own is not None:
        return own == "yes"
    return (
        stretch.start == OUTDOOR
        and stretch.kind == "head"
        and rules.outdoor is not None
        and rules.outdoor.system == "multi"
        and rules.school("isolation").name == "always"
    )


def _on_the_way(
    stretch: Stretch, line: Line, count: int, kind: Literal["flare", "braze"], tube: str
) -> list[JointSpec]:
    return [
        JointSpec(
            id=f"{stretch.id}.{line}.{JOIN}{n}",
            run=stretch.id,
            line=line,
            end="way",
            kind=kind,
            od_mm=stretch.tube.of(line),
            label=f"{capitalized(line)}, {JOIN} {n} of run {stretch.tag}",
            sides=(f"{JOIN}{n}.{stretch.id}", tube),
        )
        for n in range(1, count + 1)
    ]
