"""Every limit of the job by name: where the sheet has it, what common practice says of it."""

import csv
from importlib.resources import files

from fairline.core.call import Frozen
from fairline.core.quantities import both, parse
from fairline.core.units import System


class LimitDef(Frozen):
    """A limit of the job: where the sheet has it, what common practice says, how it is shown."""

    name: str
    label: str
    unit: str
    kind: str
    on_sheet: str | None = None  # "outdoor.max_length_m"
    common: float | None = None
    common_source: str = "no published source"
    low: float = 0.0
    high: float = 1000.0

    def read(self, text: str) -> float:
        """A value of this limit as people type it, in SI."""
        return self.typed(text, "si")

    def typed(self, text: str, system: System) -> float:
        """A value as a person of these units types it, in SI; ValueError where it is no number."""
        if self.kind:
            return parse(text, self.kind, system)
        try:
            return float(text)
        except ValueError:
            raise ValueError("type a number") from None

    def check(self, value: float) -> float:
        """The value where it can be a limit of this kind; else ValueError with a sentence."""
        if not self.low <= value <= self.high:
            ends = [both(v, self.kind) if self.kind else f"{v:g}" for v in (self.low, self.high)]
            raise ValueError(f"{self.label}: must lie between {ends[0]} and {ends[1]}")
        return value


BOUNDS = {
    "gauge": (1e5, 1.5e7),
    "vacuum": (1.0, 2e4),
    "duration": (60.0, 1e6),
    "small": (0.0, 100.0),
    "weight": (0.1, 1000.0),
    "factor": (1.0, 100.0),
    "slope": (0.0, 1.0),
    "tube": (0.003, 0.1),
    "power": (0.0, 1e6),
    "fraction": (0.0, 1.0),
    "yes_no": (0.0, 1.0),
}


def _limits() -> list[LimitDef]:
    """The limits of ``tables/limits.csv``; what common practice says is typed as people do."""
    found = []
    text = (files("fairline.core") / "tables" / "limits.csv").read_text("utf-8")
    for row in csv.DictReader(text.splitlines()):
        low, high = BOUNDS.get(row["kind"], (0.0, 1000.0))
        plain = row["kind"] in ("factor", "slope")
        d = LimitDef(
            name=row["name"],
            label=row["label"],
            unit=row["unit"],
            kind="" if plain else row["kind"],
            on_sheet=row["on_sheet"] or None,
            common_source=row["source"] or "no published source",
            low=low,
            high=high,
        )
        common = d.read(row["common"]) if row["common"] else None
        found.append(d.model_copy(update={"common": common}))
    return found


TREE_LIMITS = (
    "max_length_m",
    "min_length_m",
    "max_total_length_m",
    "max_main_length_m",
    "max_first_to_last_m",
    "max_branch_length_m",
    "max_branch_total_m",
    "max_lift_m",
    "max_lift_below_m",
    "max_head_lift_m",
)
LIMITS: dict[str, LimitDef] = {d.name: d for d in _limits()}
