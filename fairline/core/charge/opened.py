"""Which valves stand open as they were opened, and which weighings are of what is there now."""

from collections.abc import Sequence
from dataclasses import dataclass

from fairline.core.call import Call, Check, Verdict
from fairline.core.charge.entry import Release, Weighing
from fairline.core.evacuate.void import KINDS, Opened, voided
from fairline.core.parts import UNIT, Circuits
from fairline.core.proofs import Difference, Proof, Proofs, asked_again


@dataclass(frozen=True)
class Valves:
    """``release`` is the opening that stands for all circuits; None where none does.

    ``void`` is what is another one since the valves were opened; ``shut`` names circuits whose
    valves nobody opened.
    """

    release: Release | None
    void: tuple[Difference, ...] = ()
    shut: tuple[str, ...] = ()

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
            names = ", ".join(self.shut)
            call = Call(
                verdict=Verdict.WAIT,
                because=f"The valves of {names} are not open.",
                do_next=f"Open both valves of {names} fully, then put the caps on to torque.",
            )
        else:
            return None
        return Check(id="release", label="Valves", call=call)


def valves(releases: Sequence[Release], proofs: Proofs, circuits: Sequence[str]) -> Valves:
    """Of every circuit its newest opening, and whether that still stands."""
    opened = [Opened(r.at, r.ports) for r in releases]
    void: list[Difference] = []
    shut = []
    for circuit in circuits or ("",):
        own = [r for r in releases if not circuit or not r.ports or circuit in r.ports]
        if not own:
            shut.append(circuit)
            continue
        key = () if not circuits else (circuit,)
        void += voided(Proof.of(own[-1]), key, proofs, opened, ())[0].by
    stands = bool(releases) and not void and not shut
    shut_names = tuple(shut) if releases and circuits else ()
    return Valves(releases[-1] if stands else None, tuple(void), shut_names)


def weighings_now(weighings: Sequence[Weighing], proofs: Proofs) -> tuple[Weighing, ...]:
    """The weighings into the outdoor unit that is there now: another one took its grams along."""
    return tuple(w for w in weighings if not any(d.answered for d in _of_unit(Proof.of(w), proofs)))


def _of_unit(proof: Proof, proofs: Proofs) -> list[Difference]:
    return proofs.differences(proof.subject, proof.at, (UNIT,))


def grams_check(
    weighings: Sequence[Weighing], release: Release | None, proofs: Proofs
) -> Check | None:
    """What makes the grams in the system unknown: a circuit that was opened since, not weighed.

    A run that came or went is the difference of two worksheets; that is weighed as what is added.
    """
    last: Weighing | Release | None = weighings[-1] if weighings else release
    if last is None:
        return None
    proof = Proof.of(last)
    then, now = Circuits(proofs.at_beginning(proof.subject, proof.at)), Circuits(proofs.now)
    both = {then.root(run) for run in then.starts.values()}
    both &= {now.root(run) for run in now.starts.values()}
    different = [
        d
        for d in proofs.differences(proof.subject, proof.at, KINDS)
        if d.part == UNIT or {then.root(then.run(d.part)), now.root(now.run(d.part))} <= both
    ]
    if not different or any(d.part == UNIT and d.answered for d in different):
        return None  # another unit begins anew, with the charge that it came with
    call = asked_again(
        different,
        "what was weighed",
        "after the last weighing: what is in the system is not known.",
        "Recover what is in it by weight, and weigh it in again after the decay.",
    )
    return Check(id="grams", label="Grams in the system", call=call)
