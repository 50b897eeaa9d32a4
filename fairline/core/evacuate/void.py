"""Which decays still prove their circuits: air that is let into a volume voids all of it.

A circuit is what stood open to each other when a change was made: by itself while its valves are
shut, with all others once the valves were opened. What was pulled together stands alone only where
the others were shut off before (asked).
"""

from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Annotated, Literal

from pydantic import Field

from fairline.core.call import Call, Verdict
from fairline.core.contents.act import Act, act_of, words
from fairline.core.contents.state import Contents
from fairline.core.entry import Record, Text
from fairline.core.parts import UNIT, Circuits
from fairline.core.proofs import COVERS, Difference, Proof, Proofs, asked_again
from fairline.core.route.joints import LINES, VALVE

KINDS = COVERS["decay"].kinds


class ShutOff(Record):
    """Of ports that were pulled together: whether the others were shut off before one was opened.

    ``run`` is the decay, ``opened`` the circuit that was opened again.
    """

    struck = "what was said of the other ports"

    kind: Literal["shut-off"] = "shut-off"
    run: Annotated[Text, Field(min_length=1)]
    opened: Annotated[Text, Field(min_length=1)]
    shut: Literal["yes", "no"]


def acts_of(record: Record) -> Iterator[Act]:
    """What is said of ports that were pulled together."""
    if isinstance(record, ShutOff):
        said = words(open=record.shut == "no")
        yield act_of("parted", record, run=record.run, place=record.opened, said=said)


@dataclass(frozen=True)
class Opened:
    """When valves were opened, and of which circuits; none named: of all."""

    at: datetime
    ports: tuple[str, ...] = ()

    def opens(self, circuit: str) -> bool:
        return not self.ports or circuit in self.ports


@dataclass(frozen=True)
class Voided:
    """What a change did to the proof of one circuit.

    ``asks``: a port whose opening is asked. ``let_in``: what came into it since, in words.
    """

    circuit: str
    by: tuple[Difference, ...] = ()
    asks: str = ""
    let_in: str = ""

    @property
    def stands(self) -> bool:
        return not self.by and not self.let_in


def voided(
    proof: Proof,
    key: Sequence[str],
    proofs: Proofs,
    opened: Iterable[Opened],
    said: Iterable[ShutOff],
    contents: Contents,
) -> list[Voided]:
    """Each circuit of a proof, and what of it is another one since; ``key`` is empty for all.

    Circuits stand open to each other from the opening of their valves until one is shut again.
    """
    at, opened = proof.at, [o for o in opened if o.at >= proof.at]
    different = proofs.differences(proof.subject, at, KINDS)
    then = Circuits(proofs.at_beginning(proof.subject, at))
    now = Circuits(proofs.now)
    if not key:
        return [Voided("", tuple(different))]
    shut = {(s.run, s.opened): s.shut for s in said}
    of = {d.part: (then if d.then is not None else now).of(d.part) for d in different}
    dates = _dates(different, of, proofs)
    found = []
    for circuit in key:
        own, asks = [], ""
        for d in different:
            there, when = of[d.part], dates.get(d.part)
            if d.part == UNIT or there == circuit:
                own.append(d)
                continue
            if _behind_a_valve(d, then, now):
                continue
            joined = _joined((circuit, there), when, opened, contents)
            if joined is None and there in key:  # nobody can tell but who shut the valves
                answer = shut.get((proof.uid, there))
                asks = there if not answer else "" if answer != "yes" else asks
                joined = answer != "yes"
            if joined:
                own.append(d)
        found.append(Voided(circuit, tuple(own), asks if _only(own, of, asks) else ""))
    return found


def _dates(
    different: Iterable[Difference], of: Mapping[str, str], proofs: Proofs
) -> dict[str, datetime]:
    """When each part was changed; what went, went with the last change on its circuit."""
    dates = {d.part: done for d in different if (done := _done(d, proofs)) is not None}
    latest = {of[part]: done for part, done in sorted(dates.items(), key=lambda x: x[1])}
    for d in different:
        if (d.now is None or d.part not in dates) and of[d.part] in latest:
            dates[d.part] = latest[of[d.part]]
    return dates


def _joined(
    pair: tuple[str, str], when: datetime | None, opened: Iterable[Opened], contents: Contents
) -> bool | None:
    """Whether two circuits stood open to each other at a moment; None where not both had been."""
    if not all(_opened(circuit, when, opened) for circuit in pair):
        return None
    return when is None or all(contents.at(when, circuit).valves for circuit in pair)


def _opened(circuit: str, when: datetime | None, opened: Iterable[Opened]) -> bool:
    """Whether the valves of a circuit had been opened at a moment; None: at all."""
    return any(o.opens(circuit) and (when is None or when >= o.at) for o in opened)


def _done(difference: Difference, proofs: Proofs) -> datetime | None:
    """When a change was made on site: as was said of it, else as the edit has it."""
    said = [c.at for c in proofs.changes if c.how != "corrected" and difference.part in c.parts]
    return max([*said, *([difference.at] if difference.at else [])], default=None)


def _only(own: Sequence[Difference], of: dict[str, str], circuit: str) -> bool:
    """Whether nothing speaks against a circuit but that another one was opened."""
    return bool(circuit) and all(of[d.part] == circuit for d in own)


def _behind_a_valve(difference: Difference, then: Circuits, now: Circuits) -> bool:
    """Whether a change lies behind an isolation valve that was kept shut for a later head."""
    if difference.now is None:
        return False
    run = now.of(difference.part)
    port = next((place for place, fed in now.starts.items() if fed == run), "")
    if not port or port in then.starts:
        return False
    unit, outlet = then.parts.get(UNIT, ("",))[0], port.partition(".")[2]
    return any(f"joint:{line}:{unit}.{outlet}|{VALVE}" in then.parts for line in LINES)


def void_call(found: Voided) -> Call:
    """The call of a circuit whose decay does not prove it any more, or may not."""
    if not found.by:
        return Call(
            verdict=Verdict.WAIT,
            because=f"{found.let_in} after this decay: it is out of use.",
            do_next="Bleed the nitrogen to nought, then pull again."
            if found.let_in.startswith("Nitrogen")
            else "Pull again and hold.",
        )
    if found.asks and all(d.answered for d in found.by):
        return Call(
            verdict=Verdict.WAIT,
            because=f"It was pulled together with {found.asks}, which was opened since. "
            "Whether this one was shut off before is not said.",
            do_next=f"Say whether it was shut off before {found.asks} was opened.",
        )
    return asked_again(
        found.by,
        "the decay",
        "after the decay: it proves this volume no more.",
        "Pull again and hold, once the joints are made and nitrogen was on them.",
    )
