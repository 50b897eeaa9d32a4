"""Every limit of the job by name: where the sheet has it, what common practice says of it."""

import csv
from importlib.resources import files
from typing import Literal, get_args

from fairline.core.call import Frozen
from fairline.core.quantities import both, parse
from fairline.core.units import System

LimitName = Literal[
    "head_left",
    "head_right",
    "head_ceiling",
    "head_below",
    "head_front",
    "head_low",
    "head_high",
    "throw",
    "hole_size",
    "hole_fall",
    "hole_stud",
    "hole_service",
    "anchor_rated",
    "anchor_factor",
    "lines_weight",
    "ceiling_low",
    "ceiling_high",
    "void",
    "hatch",
    "pump_lift",
    "pump_within",
    "outdoor_behind",
    "outdoor_left",
    "outdoor_right",
    "outdoor_front",
    "outdoor_above",
    "design_wind",
    "outdoor_under",
    "vent_distance",
    "bedroom_distance",
    "boundary_distance",
    "rail_studs",
    "one_person",
    "min_connected",
    "max_connected",
    "min_heads",
    "max_heads",
    "min_length_m",
    "max_length_m",
    "max_total_length_m",
    "max_main_length_m",
    "max_first_to_last_m",
    "max_branch_length_m",
    "max_branch_total_m",
    "max_lift_m",
    "max_lift_below_m",
    "max_head_lift_m",
    "max_bends",
    "straight_before_m",
    "trap_every_m",
    "cover_section_m",
    "support_every_m",
    "drain_support_m",
    "drain_fall",
    "drain_bore_m",
    "max_test",
    "test_pressure",
    "test_hold",
    "pull_to",
    "decay_max",
    "decay_hold",
    "pull_dwell",
    "needle_pull",
    "needle_hold",
    "disconnect_distance",
    "receptacle_distance",
    "voltage_drop",
    "supply_window",
    "stored_charge",
    "gfci_asked",
    "licence_asked",
    "cable_apart",
    "fire_watch",
]


class LimitDef(Frozen):
    """A limit of the job: where the sheet has it, what common practice says, how it is shown.

    ``low`` and ``high``: what it can be at all (our own choice, within what the computations take).
    """

    name: LimitName
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
        slack = 1e-9 * max(abs(self.low), abs(self.high))
        if not self.low - slack <= value <= self.high + slack:
            ends = [both(v, self.kind) if self.kind else f"{v:g}" for v in (self.low, self.high)]
            raise ValueError(f"{self.label}: must lie between {ends[0]} and {ends[1]}")
        return value


def limit_named(name: str) -> LimitName:
    """A limit's name that came as text; ValueError where there is no such limit."""
    for known in get_args(LimitName):
        if known == name:
            found: LimitName = known
            return found
    raise ValueError(f"no limit is called {name}")


def _limits() -> list[LimitDef]:
    """The limits of ``tables/limits.csv``; what common practice says is typed as people do."""
    found = []
    text = (files("fairline.core") / "tables" / "limits.csv").read_text("utf-8")
    for row in csv.DictReader(text.splitlines()):
        plain = row["kind"] in ("factor", "slope")
        d = LimitDef(
            name=limit_named(row["name"]),
            label=row["label"],
            unit=row["unit"],
            kind="" if plain else row["kind"],
            on_sheet=row["on_sheet"] or None,
            common_source=row["source"] or "no published source",
        )
        common = d.read(row["common"]) if row["common"] else None
        ends = {"low": d.read(row["least"]), "high": d.read(row["most"])}
        found.append(d.model_copy(update={"common": common, **ends}))
    return found


TREE_LIMITS: tuple[LimitName, ...] = (
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
