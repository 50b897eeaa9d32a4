"""Ports that no run is on: capped, or kept with an isolation valve for a head that comes later."""

from fairline.core.call import Frozen
from fairline.core.route.entry import OUTDOOR, RouteEntry
from fairline.core.route.piping import Piping, Size
from fairline.core.survey.stage import SurveyEntry


class SparePort(Frozen):
    """A port without a run. ``said``: somebody said so; else it follows from the heads wanted."""

    at: str
    name: str
    kept: bool
    said: bool
    size: Size = Size()

    @property
    def key(self) -> str:
        return f"{self.at}-{self.name}"

    @property
    def words(self) -> str:
        return f"port {self.name}" + ("" if self.at == OUTDOOR else f" of box {self.at[3:]}")


def spare_ports(entry: RouteEntry, survey: SurveyEntry, pipes: Piping) -> tuple[SparePort, ...]:
    """Every port without a run, of things that are connected.

    Both schools of isolation set a valve where a head comes later: as many ports as later heads
    are kept, unless somebody says otherwise. Those of a box come before the outdoor unit's.
    """
    connected = {OUTDOOR, *(s.id for s in pipes.stretches)}
    free = [
        (at, name)
        for at, names in sorted(pipes.outlets.items(), key=lambda x: x[0] == OUTDOOR)
        for name in names
        if at in connected and f"{at}-{name}" not in pipes.used
    ]
    keys = {f"{at}-{name}" for at, name in free}
    said = {key: state for key, state in entry.ports.items() if key in keys}
    later = sum(h.when == "later" for h in survey.heads)
    later -= sum(state == "kept" for state in said.values())
    found = []
    for at, name in free:
        key = f"{at}-{name}"
        kept = said.get(key) == "kept"
        if key not in said and later > 0:
            kept, later = True, later - 1
        size = pipes.sizes.get(key, Size())
        found.append(SparePort(at=at, name=name, kept=kept, said=key in said, size=size))
    return tuple(sorted(found, key=lambda p: p.at != OUTDOOR))
