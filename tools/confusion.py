"""The confusion table: a thousand random decays of each kind of other physics, and what is said."""

import multiprocessing
import sys
from collections import Counter
from dataclasses import dataclass, field
from pathlib import Path

import numpy as np

sys.path.insert(0, str(Path(__file__).resolve().parent.parent))
from fairline.core.calc.vacuum_decay import DecayQuestion, decay
from fairline.core.physics.decay_course import DecayRule
from tools import decays

EACH = 1000
VERDICTS = ("holds", "watch", "wait", "short", "unknown")
SHAPES = {
    "steady": "steady",
    "outgassing": "outgas",
    "moisture": "moist",
    "leak": "leak",
    "leak_and_moisture": "both",
    "ice": "ice",
    "not_isolated": "pump",
    "undecided": "undec.",
}


@dataclass
class Row:
    """What was said of the decays of one kind."""

    kind: str
    verdicts: Counter[str] = field(default_factory=Counter)
    shapes: Counter[str] = field(default_factory=Counter)
    falsely: int = 0  # said to hold, and may not be
    dry: int = 0
    held: int = 0

    @property
    def right(self) -> float:
        """The share that is called what it is, or left undecided."""
        may = decays.RIGHT[self.kind] | {"undecided"}
        return sum(self.shapes[s] for s in may) / max(1, self.shapes.total())


def ask(d: decays.Decay) -> tuple[str, str, float | None]:
    """Verdict, shape, and when the fitted course passes the limit."""
    question = DecayQuestion(
        ambient_c=d.ambient_c,
        rule=DecayRule(max_pa=decays.LIMIT * decays.MICRON_PA, hold_s=d.hold_s),
        gauge_resolution_pa=d.resolution and d.resolution * decays.MICRON_PA,
        isolation="confirmed" if d.confirmed else "not_confirmed",
    )
    answer = decay(question, d.t_s, d.microns * decays.MICRON_PA)
    return str(answer.call.verdict), answer.result.shape, answer.result.limit_in_s


def row(kind: str, each: int = EACH, seed: int = 7) -> Row:
    """Random decays of one kind, judged."""
    chance, found = np.random.default_rng(seed), Row(kind)
    for _ in range(each):
        d = decays.decay(kind, chance)
        verdict, shape, limit_in = ask(d)
        found.verdicts[verdict] += 1
        found.shapes[shape] += 1
        holds = verdict == "holds"
        crosses = limit_in is not None and limit_in <= 2 * d.hold_s
        may_not = kind in decays.NEVER or d.true_max > decays.LIMIT or crosses
        found.falsely += holds and may_not
        found.dry += d.dry
        found.held += d.dry and holds
    return found


def table(each: int = EACH) -> bool:
    """Print what is said of each kind; whether all is as it must be."""
    title = f"decays, {each} a kind"
    heads = "".join(f"{v:>8}" for v in VERDICTS) + "  falsely  dry held   right |"
    print(f"\n{title:<38}{heads}" + "".join(f"{s:>7}" for s in SHAPES.values()))
    good = True
    with multiprocessing.Pool(2) as pool:
        for found in pool.imap(row_of, [(kind, each) for kind in decays.KINDS]):
            counts = "".join(f"{found.verdicts[v]:8}" for v in VERDICTS)
            share = f"{found.held}/{found.dry}" if found.dry else "–"
            shapes = "".join(f"{found.shapes[s]:7}" for s in SHAPES)
            print(
                f"{found.kind:<38}{counts}  {found.falsely:7}  {share:>9}"
                f"  {found.right:6.1%} |{shapes}",
                flush=True,
            )
            enough = not found.dry or found.held >= 0.98 * found.dry
            good = good and not found.falsely and enough and found.right >= 0.95
    return good


def row_of(asked: tuple[str, int]) -> Row:
    return row(*asked)


if __name__ == "__main__":
    sys.exit(0 if table(int(sys.argv[1]) if len(sys.argv) > 1 else EACH) else 1)
