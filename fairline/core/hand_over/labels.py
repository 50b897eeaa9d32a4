"""The labels of a job: the outdoor unit, each port, box and tee, each cable's ends, the breaker."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from fairline.core.hand_over.label import UnitLabel
from fairline.core.quantities import both
from fairline.core.wire.entry import Supply
from fairline.core.wire.wiring import Wiring

PRACTISED = "PRACTICE: it proves nothing"
STATES = {"kept": "kept for a later head", "open": "OPEN: nothing closes it", "capped": "capped"}


@dataclass(frozen=True)
class Label:
    """One label. ``lines`` stand below its ``title``; ``data`` is what its code holds, all of it.

    ``copies``: how many are stuck on, two of a cable: one an end.
    """

    id: str
    title: str
    lines: tuple[str, ...]
    data: str
    copies: int = 1


@dataclass(frozen=True)
class Job:
    """What every label of a job says of it."""

    name: str
    site: str
    company: str
    phone: str
    installers: Sequence[str]
    serial: str
    digest: str  # as it was sealed; blank before
    practice: bool = False


def labels(job: Job, unit: UnitLabel, wiring: Wiring, supply: Supply) -> list[Label]:
    """Every label, the outdoor unit's first."""
    return [
        _unit(job, unit),
        *_runs(job, unit),
        *_ports(job, unit),
        *_cables(job, wiring),
        *_breaker(job, supply),
    ]


def _made(job: Job, id: str, title: str, lines: Sequence[str], copies: int = 1) -> Label:
    who = " · ".join(x for x in (job.company, job.phone) if x)
    told = tuple(line for line in [*lines, who, PRACTISED if job.practice else ""] if line)
    return Label(id, title, told, "\n".join([f"{job.name}: {title}", *told]), copies)


def _unit(job: Job, unit: UnitLabel) -> Label:
    def line(words: str, value: float | None, kind: str) -> str:
        return f"{words} {both(value, kind)}" if value is not None else f"{words} not known"

    return _made(
        job,
        "outdoor",
        "Outdoor unit",
        [
            job.site,
            f"Serial {job.serial}" if job.serial else "",
            unit.refrigerant or "refrigerant not known",
            line("Line, in all", unit.length_m, "length"),
            line("Factory charge", unit.factory_kg, "charge"),
            line("Added" if unit.weighed else "Added, PLANNED", unit.added_kg, "charge"),
            line("Total charge", unit.total_kg, "charge"),
            unit.date.strftime("%Y-%m-%d") if unit.date else "not opened yet",
            f"By {', '.join(job.installers)}" if job.installers else "",
            f"Digest {job.digest}" if job.digest else "",
        ],
    )


def _runs(job: Job, unit: UnitLabel) -> Iterator[Label]:
    for run in unit.runs:
        length = both(run.length_m, "length") if run.length_m is not None else "length not known"
        built = ", as built" if run.built else ", as planned"
        yield _made(
            job,
            f"run-{run.end}",
            f"Line {run.tag.replace('tee', 'T')}",
            [
                f"Zone {run.zone}" if run.zone and run.zone != run.tag else "",
                f"Address {run.address}" if run.address else "",
                length + built,
            ],
            copies=2,
        )


def _ports(job: Job, unit: UnitLabel) -> Iterator[Label]:
    for port in unit.ports:
        at = "outdoor unit" if port.at == "outdoor" else port.at.replace("box", "box ")
        says = f"Zone {port.zone}" if port.state == "used" else STATES[port.state]
        yield _made(job, f"port-{port.at}-{port.port}", f"Port {port.port}, {at}", [says])


def _cables(job: Job, wiring: Wiring) -> Iterator[Label]:
    for cable in wiring.cables.values():
        if cable.kind != "supply":
            ends = [wiring.blocks[b].title for b in (cable.start, cable.end) if b in wiring.blocks]
            yield _made(
                job, f"cable-{cable.id}", f"Cable {cable.letter or cable.id}", ends, copies=2
            )


def _breaker(job: Job, supply: Supply) -> Iterator[Label]:
    if supply.breaker_a is not None:
        says = [f"{supply.breaker_a:g} A, nothing else on it", job.site]
        yield _made(job, "breaker", "Outdoor unit's breaker", says)
