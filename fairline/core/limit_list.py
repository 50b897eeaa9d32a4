"""Every limit of the job by name: where the sheet has it, what common practice says of it."""

from fairline.core.call import Frozen
from fairline.core.quantities import both

PSI, INCH, FOOT, MICRON, MINUTE, HOUR = 6894.757293168, 0.0254, 0.3048, 0.133322368, 60.0, 3600.0
POUND = 0.45359237

NIOSH = "NIOSH lifting equation, load constant 23 kg (1991; quoted from memory)"
CHOSEN = "our own choice, no published source"


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
}


def _d(
    name: str, label: str, unit: str, kind: str, on_sheet: str | None = None,
    common: float | None = None, source: str = "no published source",
) -> LimitDef:  # fmt: skip
    low, high = BOUNDS.get(kind, (0.0, 1000.0))
    return LimitDef(
        name=name, label=label, unit=unit, kind="" if kind in ("factor", "slope") else kind,
        on_sheet=on_sheet, common=common, common_source=source, low=low, high=high,
    )  # fmt: skip


_LIST = (
    # the head on its wall
    _d("head_left", "clear at the head's left", "m", "small", "head.clear_left_m", 12 * INCH),
    _d("head_right", "clear at the head's right", "m", "small", "head.clear_right_m", 12 * INCH),
    _d("head_ceiling", "clear above the head", "m", "small", "head.clear_ceiling_m", 4 * INCH),
    _d("head_below", "clear below the head", "m", "small", "head.clear_below_m"),
    _d("head_front", "free room in front of the head", "m", "length", "head.clear_front_m"),
    _d("head_low", "least height of the head", "m", "length", "head.min_height_m", 6 * FOOT),
    _d("head_high", "most height of the head", "m", "length", "head.max_height_m", 7.5 * FOOT),
    _d("throw", "throw of the head's air", "m", "length", "head.throw_m"),
    _d("hole_size", "hole diameter", "m", "small", "head.hole_m"),
    _d("hole_fall", "fall of the hole to the outside", "m", "small", None, 0.5 * INCH),
    _d("hole_stud", "hole clear of studs", "m", "small", None, 0.0),
    _d("hole_service", "hole and screws clear of pipes and wires", "m", "small", None,
       1.0 * INCH, CHOSEN),
    _d("anchor_rated", "load one anchor is rated for", "kg", "weight", None, 75 * POUND),
    _d("anchor_factor", "margin on anchors and lags", "1", "factor", None, 4.0),
    _d("lines_weight", "weight of the lines a head carries", "kg", "weight", None, 3.0, CHOSEN),
    # the head in its ceiling
    _d("ceiling_low", "least ceiling height", "m", "length", "head.min_ceiling_m"),
    _d("ceiling_high", "most ceiling height", "m", "length", "head.max_ceiling_m"),
    _d("void", "height of the void above the ceiling", "m", "small", "head.min_void_m"),
    _d("hatch", "service hatch", "m", "small", "head.hatch_m", 24 * INCH),
    _d("pump_lift", "lift of the condensate pump", "m", "small", "head.pump_lift_m"),
    _d("pump_within", "lift within this of the drain outlet", "m", "small",
       "head.pump_within_m", 12 * INCH),
    # the outdoor unit
    _d("outdoor_behind", "clear behind the outdoor unit", "m", "small",
       "outdoor.clear_behind_m", 4 * INCH),
    _d("outdoor_left", "clear at its left", "m", "small", "outdoor.clear_left_m", 4 * INCH),
    _d("outdoor_right", "clear at its right", "m", "small", "outdoor.clear_right_m", 24 * INCH),
    _d("outdoor_front", "clear in front", "m", "small", "outdoor.clear_front_m", 28 * INCH),
    _d("outdoor_above", "clear above the outdoor unit", "m", "small", "outdoor.clear_above_m"),
    _d("outdoor_under", "clear under the outdoor unit, above snow and flood", "m", "small",
       "outdoor.clear_under_m", 0.0),
    _d("vent_distance", "distance from a dryer or gas vent", "m", "length"),
    _d("bedroom_distance", "distance from a bedroom window", "m", "length"),
    _d("boundary_distance", "distance from the property line", "m", "length"),
    _d("rail_studs", "studs a bracket's rail reaches", "studs", "", None, 2.0),
    _d("one_person", "weight one person lifts", "kg", "weight", None, 23.0, NIOSH),
    # capacity
    _d("min_connected", "least connected capacity", "W", "power", "outdoor.min_connected_w"),
    _d("max_connected", "most connected capacity", "W", "power", "outdoor.max_connected_w"),
    _d("min_heads", "least number of heads", "heads", "", "outdoor.min_heads"),
    _d("max_heads", "most heads", "heads", "", "outdoor.max_heads"),
    # the line
    _d("min_length_m", "least length", "m", "length", "outdoor.min_length_m", 10 * FOOT),
    _d("max_length_m", "most length", "m", "length", "outdoor.max_length_m"),
    _d("max_total_length_m", "most length in all", "m", "length", "outdoor.max_total_length_m"),
    _d("max_main_length_m", "most length of the main run", "m", "length",
       "outdoor.max_main_length_m"),
    _d("max_first_to_last_m", "first tee to last head", "m", "length",
       "outdoor.max_first_to_last_m"),
    _d("max_branch_length_m", "most length of a branch", "m", "length", "box.max_branch_length_m"),
    _d("max_branch_total_m", "most length of all branches", "m", "length",
       "box.max_branch_total_m"),
    _d("max_lift_m", "most height difference", "m", "length", "outdoor.max_lift_m"),
    _d("max_lift_below_m", "most height difference, outdoor unit below", "m", "length",
       "outdoor.max_lift_below_m"),
    _d("max_head_lift_m", "most height between heads", "m", "length", "outdoor.max_head_lift_m"),
    _d("max_bends", "most bends", "bends", "", "outdoor.max_bends"),
    _d("straight_before_m", "straight tube before a tee", "m", "small", "tee.straight_before_m"),
    _d("trap_every_m", "rise between oil traps", "m", "length", "outdoor.trap_every_m", 16 * FOOT),
    # cover, supports, drain
    _d("cover_section_m", "length of a cover section", "m", "length", None, 4 * FOOT),
    _d("support_every_m", "supports of the line at least every", "m", "length", None, 5 * FOOT,
       CHOSEN),
    _d("drain_support_m", "supports of the drain at least every", "m", "length", None, 40 * INCH),
    _d("drain_fall", "least fall of the drain", "1", "slope", None, 1 / 96,
       "IMC 307.2.1, 1/8 unit in 12 units (quoted from memory)"),
    _d("drain_bore_m", "least inside of the drain", "m", "tube", None, 0.75 * INCH,
       "IMC 307.2.2 (quoted from memory)"),
    # pressure and vacuum
    _d("max_test", "most test pressure", "Pa", "gauge", "outdoor.max_test_gauge_pa"),
    _d("test_pressure", "test pressure", "Pa", "gauge", "outdoor.test_gauge_pa"),
    _d("test_hold", "hold of the test", "s", "duration", "outdoor.test_hold_s"),
    _d("pull_to", "pull down to", "Pa", "vacuum", "outdoor.pull_to_pa"),
    _d("decay_max", "decay limit", "Pa", "vacuum", "outdoor.decay_max_pa"),
    _d("decay_hold", "hold of the decay", "s", "duration", "outdoor.decay_hold_s"),
    _d("needle_pull", "pump running at the needle's end", "s", "duration",
       "outdoor.needle_pull_s", 10 * MINUTE),
    _d("needle_hold", "hold of the needle", "s", "duration", "outdoor.needle_hold_s", 5 * MINUTE),
)  # fmt: skip

TREE_LIMITS = (
    "max_length_m", "min_length_m", "max_total_length_m", "max_main_length_m",
    "max_first_to_last_m", "max_branch_length_m", "max_branch_total_m", "max_lift_m",
    "max_lift_below_m", "max_head_lift_m",
)  # fmt: skip
LIMITS: dict[str, LimitDef] = {d.name: d for d in _LIST}
LABEL_KINDS: dict[str, str] = {d.label: d.kind for d in _LIST if d.kind} | {
    "load on one lag": "weight",
    "load on one anchor": "weight",
}
