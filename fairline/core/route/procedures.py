"""The lists of steps along every run and drain, by what each run passes through."""

from collections.abc import Iterator

from fairline.core.equipment import Equipment
from fairline.core.procedures.procedure import Asked, At, asked
from fairline.core.route.drain import DRAINS, Drains
from fairline.core.route.entry import RouteEntry
from fairline.core.route.piping import Piping, Stretch


def _yes(said: bool) -> str:
    return "yes" if said else ""


def of_run(stretch: Stretch, entry: RouteEntry) -> dict[str, str]:
    """What is known of a run that its steps go by."""
    settings = {leg.setting for leg in stretch.legs if leg.number}
    outdoors = bool(settings & {"outside", "roof"})
    return {
        "covered": "no" if outdoors and entry.covered == "no" else _yes(entry.covered != "no"),
        "coil": _yes(stretch.coil_m > 0),
        "attic": _yes("attic" in settings),
        "wall": _yes("wall" in settings),
        "box": _yes(stretch.kind == "box"),
        "tee": _yes(stretch.kind == "tee"),
    }


def procedures(
    entry: RouteEntry, pipes: Piping, drains: Drains, equipment: Equipment
) -> Iterator[Asked]:
    """A list of every run that is laid out, and of every drain that has a length."""
    for stretch in pipes.stretches:
        if stretch.length_m is not None:
            at = At(stretch.id, equipment.tube(stretch.id), f"runs.{stretch.id}")
            yield from asked("run", of_run(stretch, entry), at)
    for zone, answer in drains.items():
        if answer is not None:
            yield from asked("drain-run", {}, At(zone, equipment.machine(zone), DRAINS))
