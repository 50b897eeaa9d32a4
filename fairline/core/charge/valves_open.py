"""Which valves stand open as they were opened, and which weighings are of what is there now."""

from collections.abc import Sequence
from dataclasses import dataclass

from fairline.core.call import Call, Check, Verdict
from fairline.core.charge.entry import Release, Weighing
from fairline.core.contents.state import Contents
from fairline.core.evacuate.void import Opened, voided
from fairline.core.parts import UNIT
from fairline.core.proofs import Difference, Proof, Proofs, asked_again


@dataclass(frozen=True)
class Valves:
    """``releases``: the openings that stand, one a circuit; none where one circuit's does not.

    ``void`` is what is another one since the valves were opened; ``shut`` names circuits whose
    valves nobody opened.
    """

    releases: tuple[Release, ...]
    void: tuple[Difference, ...] = ()
    shut: tuple[str, ...] = ()

    @property
    def stands(self) -> bool:
        """Whether the valves of every circuit stand open as they were opened."""
        return bool(self.releases)

    @property
    def doubted(self) -> bool:
        """Whether it is only not said yet whether anything changed since."""
        return bool(self.void) and not any(d.answered for d in self.void)

    @property
    def check(self) -> Check | None:
        """What keeps an opening of the valves from standing; None where nothing does."""
        if self.void:
            call = asked_again(
                self.void,
                "the opening of the valves",
                "after the valves were opened.",
                "Open them again once the decay holds, and look at the caps.",
            )
        elif self.shut:
            of = f" of {', '.join(self.shut)}" if any(self.shut) else ""
            call = Call(
                verdict=Verdict.WAIT,
                because=f"The valves{of} are not open.",
                do_next=f"Open both valves{of} fully, then put the caps on to torque.",
            )
        else:
            return None
        return Check(id="release", label="Valves", call=call)


def valves(
    releases: Sequence[Release], proofs: Proofs, circuits: Sequence[str], contents: Contents
) -> Valves:
    """Of every circuit its newest opening, and whether that still stands: not shut since."""
    opened = [Opened(r.at, r.ports) for r in releases]
    void: list[Difference] = []
    shut = []
    for circuit in circuits or ("",):
        own = [r for r in releases if not circuit or not r.ports or circuit in r.ports]
        if not own or not _stands_open(contents, circuit):
            shut.append(circuit)
            continue
        key = () if not circuits else (circuit,)
        void += voided(Proof.of(own[-1]), key, proofs, opened, (), contents)[0].by
    stands = bool(releases) and not void and not shut
    shut_names = tuple(shut) if releases else ()
    return Valves(tuple(releases) if stands else (), tuple(void), shut_names)


def _stands_open(contents: Contents, circuit: str) -> bool:
    """Whether the valves of a circuit stand open; of a system that is one, of all its runs."""
    return all(part.valves for part in contents.parts((circuit,)).values())


def weighings_now(weighings: Sequence[Weighing], proofs: Proofs) -> tuple[Weighing, ...]:
    """The weighings into the outdoor unit that is there now: another one took its grams along."""
    return tuple(w for w in weighings if not any(d.answered for d in _of_unit(Proof.of(w), proofs)))


def _of_unit(proof: Proof, proofs: Proofs) -> list[Difference]:
    return proofs.differences(proof.subject, proof.at, (UNIT,))


def grams_check(contents: Contents) -> Check | None:
    """What makes the grams in the system unknown; None where they are known.

    What leaked or came out unweighed is known again once all of it was taken out by weight.
    """
    lost = contents.lost
    if lost is None:
        return None
    how = "a leak was found" if lost.kind == "look" else "it was opened under refrigerant"
    call = Call(
        verdict=Verdict.UNKNOWN,
        because=f"What is in the system is not known: {how}, and what came out was not weighed.",
        do_next="Once it is mended, recover all of it by weight, then weigh the whole charge in.",
    )
    return Check(id="grams", label="Grams in the system", call=call)
