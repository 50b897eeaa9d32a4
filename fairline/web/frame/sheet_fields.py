"""The sheets' forms: for each kind its groups of fields, in the order of a data plate."""

from typing import Any, NamedTuple, get_args, get_origin

from pydantic import BaseModel

from fairline.core.entry import kind_of
from fairline.core.sheet import KINDS
from fairline.core.sheet.head import FORMS
from fairline.core.sheet.needs import needs_of
from fairline.core.sheet.outdoor import SYSTEMS

SPARE_ROWS = 2


class Field(NamedTuple):
    """A field of a sheet: its name, what it is called, and how it is entered."""

    name: str
    label: str
    options: tuple[tuple[str, str], ...] = ()
    columns: tuple["Field", ...] = ()  # of a list: what one row holds


class Group(NamedTuple):
    """Fields that stand together: ``stage`` is the first that asks for them."""

    title: str
    fields: tuple[Field, ...]
    stage: str


# Which systems, or forms of a head, have a field at all; of what a stage needs core/sheet/needs
# says it, and all others have it always.
ONLY = {
    "min_connected_w": "multi branch-box trunk",
    "min_heads": "multi branch-box trunk",
    "one_valve_pair": "multi",
    "max_main_length_m": "branch-box trunk",
    "max_first_to_last_m": "trunk",
    "max_head_lift_m": "multi branch-box trunk",
    "included_applies_to": "multi branch-box trunk",
    "head_adders": "multi branch-box trunk",
    "clear_ceiling_m": "high-wall console",
    "plate_pitch": "high-wall console",
    "mark_x_m": "high-wall console",
    "mark_y_m": "high-wall console",
    "opening_width_m": "cassette ducted",
    "opening_length_m": "cassette ducted",
    "hanger_width_m": "cassette ducted",
    "hanger_length_m": "cassette ducted",
    "min_void_m": "cassette ducted",
    "hatch_m": "ducted",
}
STAGE_OF_GROUP = {
    "Names": "survey",
    "What it carries": "survey",
    "Capacity and air": "commission",
    "Line": "route",
    "Ports": "route",
    "Tubes": "route",
    "Line set": "route",
    "Lines and drain": "route",
    "Line and charge": "charge",
    "Charge": "charge",
    "Pressure test and vacuum": "pressure-test",
    "Flare torque": "flare",
    "Electrical": "wire",
    "Interconnect": "wire",
    "Supply of its own": "wire",
    "Running": "commission",
}  # all others: Mount


REFRIGERANTS = tuple((r, r) for r in ("R-32", "R-454B", "R-410A"))
SILENT = (("", "not in the manual"),)
CHOICES: dict[str, tuple[tuple[str, str], ...]] = {
    "refrigerant": REFRIGERANTS,
    "system": tuple(SYSTEMS.items()),
    "form": tuple(FORMS.items()),
    "discharge": (("side", "at the side"), ("top", "at the top")),
    "valves": (("flare", "flared"), ("braze", "brazed")),
    "joints": (("braze", "brazed"), ("flare", "flared")),
    "traps": (*SILENT, ("none", "forbidden"), ("foot-and-rise", "at the foot and along the rise")),
    "included_applies_to": (("system", "the whole system"), ("each_zone", "each zone")),
    "short_line": (*SILENT, ("leave", "leave as it is"), ("recover", "recover")),
    "frost_base": (*SILENT, ("open", "open base"), ("heated", "heated base")),
    "plate_pitch": (*SILENT, ("level", "dead level"), ("slight", "slight pitch to the drain")),
    "lettered_from": (("bottom", "the bottom"), ("top", "the top"), ("left", "the left")),
    "vacuum_gauge": (*SILENT, ("micron", "a micron gauge"), ("needle", "a needle")),
    "lines_hold": (
        *SILENT,
        ("refrigerant", "refrigerant, charged"),
        ("nitrogen", "nitrogen, let out"),
    ),
    "evacuate_head": (*SILENT, ("yes", "yes"), ("no", "no")),
    "shield": (
        *SILENT,
        ("none", "nowhere"),
        ("outdoor", "at the outdoor unit only"),
        ("every", "at every unit"),
    ),
    "test_plug": (*SILENT, ("yes", "yes"), ("no", "no")),
    "own_supply": (*SILENT, ("yes", "yes"), ("no", "no")),
    "way": (("back", "through the back"), ("side", "at the side")),
}
LABELS = {
    "maker": "Maker",
    "model": "Model",
    "series": "Series",
    "edition": "Edition of the manual",
    "cool_w": "Rated cooling",
    "heat_w": "Rated heating",
    "head_class": "Class, for charge adders",
    "min_connected_w": "Minimum connected",
    "max_connected_w": "Maximum connected",
    "min_heads": "Minimum heads",
    "max_heads": "Maximum heads",
    "ports": "Ports",
    "one_valve_pair": "One pair of valves for all ports",
    "letter": "Letter",
    "liquid_od_m": "Liquid tube",
    "gas_od_m": "Gas tube",
    "min_length_m": "Minimum length",
    "max_length_m": "Maximum length of a zone",
    "max_total_length_m": "Maximum length in all",
    "max_main_length_m": "Maximum main run",
    "max_first_to_last_m": "First tee to last head",
    "max_lift_m": "Maximum height difference",
    "max_lift_below_m": "With the outdoor unit below",
    "max_head_lift_m": "Head to head",
    "max_bends": "Maximum bends",
    "traps": "Oil traps",
    "trap_every_m": "A trap every",
    "factory_charge_kg": "Factory charge",
    "included_length_m": "Pre-charged length",
    "included_applies_to": "It covers",
    "rates": "Rates beyond it",
    "kg_per_m": "Per length",
    "included_rate_kg_per_m": "Rate of the pre-charged length",
    "head_adders": "Adders by head class",
    "kg": "Adds",
    "base_adder_kg": "Adder for the system",
    "max_added_kg": "Maximum added",
    "max_total_charge_kg": "Maximum in all",
    "short_line": "Short line",
    "room_charges": "The sheet's room table",
    "area_m2": "Floor",
    "max_kg": "At most",
    "test_gauge_pa": "Test pressure",
    "max_test_gauge_pa": "Maximum test pressure",
    "test_hold_s": "Hold of the test",
    "pull_to_pa": "Pull down to",
    "decay_max_pa": "Decay limit",
    "decay_hold_s": "Hold of the decay",
    "torques": "Flare torque",
    "od_m": "Tube",
    "low_nm": "Minimum",
    "high_nm": "Maximum",
    "voltage_v": "Voltage",
    "mca_a": "MCA, minimum circuit ampacity",
    "mop_a": "MOP, maximum overcurrent protection",
    "rated_current_a": "Rated current",
    "rated_input_w": "Rated input, cooling",
    "start_up_s": "Starts by itself within",
    "lamp_codes": "Lamps and display codes",
    "code": "Code",
    "means": "Means",
    "do_next": "Do",
    "page": "Page",
    "modes": "Other modes of the remote, by commas",
    "board": "On the board",
    "what": "What",
    "x_percent": "From the left, %",
    "y_percent": "From the top, %",
    "supply_terminals": "Supply terminals, in order",
    "largest_gauge": "Largest wire the supply terminal takes",
    "discharge_s": "Wait for stored charge",
    "terminals": "Interconnect terminals, in order",
    "main_terminals": "Terminals of the main cable, in order",
    "cable_gauge": "Interconnect conductors, at least",
    "shield": "Shield grounded",
    "to_ground_v": "Interconnect, voltage to ground",
    "test_plug": "Test plug from the factory",
    "own_supply": "Fed by a circuit of its own",
    "weight_kg": "Weight",
    "width_m": "Width",
    "height_m": "Height",
    "depth_m": "Depth",
    "feet_width_m": "Feet apart, across",
    "feet_depth_m": "Feet apart, deep",
    "clear_behind_m": "Clear behind",
    "clear_left_m": "Clear left",
    "clear_right_m": "Clear right",
    "clear_front_m": "Clear in front",
    "clear_above_m": "Clear above",
    "clear_under_m": "Clear under",
    "supports": "May stand on",
    "frost_base": "Base in frost",
    "refrigerant": "Refrigerant",
    "system": "System",
    "discharge": "Blows out",
    "valves": "Valves",
    "form": "Form",
    "airflows": "Airflow by speed",
    "speed": "Speed",
    "m3_s": "Air",
    "throw_m": "Throw",
    "drain_od_m": "Drain",
    "pump_lift_m": "Pump lifts",
    "pump_within_m": "Lift within",
    "clear_ceiling_m": "Clear above",
    "clear_below_m": "Clear below",
    "min_height_m": "Underside at least",
    "max_height_m": "Underside at most",
    "min_ceiling_m": "Ceiling at least",
    "max_ceiling_m": "Ceiling at most",
    "hole_m": "Hole",
    "plate_pitch": "Plate",
    "mark_x_m": "Mark right of the centre line",
    "mark_y_m": "Mark above the underside",
    "screws": "Screw holes, from the mark",
    "x_m": "Right",
    "y_m": "Up",
    "outlets": "Outlets, from the mark",
    "name": "Name",
    "way": "Leaves",
    "opening_width_m": "Opening, wide",
    "opening_length_m": "Opening, long",
    "hanger_width_m": "Hangers apart, wide",
    "hanger_length_m": "Hangers apart, long",
    "min_void_m": "Void above the ceiling",
    "hatch_m": "Service hatch",
    "main_liquid_od_m": "Main, liquid",
    "main_gas_od_m": "Main, gas",
    "lettered_from": "Ports lettered from",
    "max_branch_length_m": "Maximum length of a branch",
    "max_branch_total_m": "Maximum of all branches",
    "adder_kg": "Charge it adds",
    "clear_service_m": "Clear for service",
    "liquid_in_m": "Liquid in",
    "liquid_on_m": "Liquid on",
    "liquid_off_m": "Liquid off",
    "gas_in_m": "Gas in",
    "gas_on_m": "Gas on",
    "gas_off_m": "Gas off",
    "joints": "Joints",
    "straight_before_m": "Straight before it",
    "length_m": "Length",
    "lines_hold": "Its lines hold",
    "evacuate_head": "Head side is evacuated",
    "min_coil_m": "Minimum coil across",
    "coil_m3": "Volume of the coil",
    "vacuum_gauge": "Vacuum is read on",
    "needle_pull_s": "Pump runs at the needle's end",
    "needle_hold_s": "Needle still for",
}

_GROUPS: dict[str, tuple[tuple[str, str], ...]] = {
    "outdoor": (
        ("Names", "maker model series edition refrigerant system discharge valves"),
        (
            "What it carries",
            "cool_w heat_w min_connected_w max_connected_w min_heads max_heads "
            "ports one_valve_pair",
        ),
        (
            "Line",
            "min_length_m max_length_m max_total_length_m max_main_length_m "
            "max_first_to_last_m max_lift_m max_lift_below_m max_head_lift_m max_bends traps "
            "trap_every_m",
        ),
        (
            "Charge",
            "factory_charge_kg included_length_m included_applies_to short_line "
            "included_rate_kg_per_m base_adder_kg max_added_kg max_total_charge_kg rates "
            "head_adders room_charges",
        ),
        (
            "Pressure test and vacuum",
            "max_test_gauge_pa test_gauge_pa test_hold_s pull_to_pa "
            "decay_max_pa decay_hold_s vacuum_gauge needle_pull_s needle_hold_s",
        ),
        ("Flare torque", "torques"),
        (
            "Electrical",
            "voltage_v mca_a mop_a rated_current_a rated_input_w supply_terminals largest_gauge "
            "discharge_s",
        ),
        ("Running", "start_up_s lamp_codes"),
        ("Interconnect", "terminals cable_gauge shield to_ground_v test_plug"),
        (
            "Body and place",
            "width_m height_m depth_m weight_kg feet_width_m feet_depth_m "
            "clear_behind_m clear_left_m clear_right_m clear_front_m clear_above_m clear_under_m "
            "supports frost_base",
        ),
    ),
    "head": (
        ("Names", "maker model series edition refrigerant form head_class"),
        ("Capacity and air", "cool_w heat_w throw_m airflows"),
        (
            "Body and place",
            "width_m height_m depth_m weight_kg clear_left_m clear_right_m "
            "clear_ceiling_m clear_below_m clear_front_m min_height_m max_height_m min_ceiling_m "
            "max_ceiling_m",
        ),
        ("Plate and hole", "hole_m plate_pitch mark_x_m mark_y_m screws outlets"),
        (
            "In a ceiling",
            "opening_width_m opening_length_m hanger_width_m hanger_length_m min_void_m hatch_m",
        ),
        (
            "Lines and drain",
            "liquid_od_m gas_od_m coil_m3 drain_od_m pump_lift_m pump_within_m torques",
        ),
        ("Running", "modes lamp_codes"),
        ("Interconnect", "terminals board"),
        ("Supply of its own", "own_supply voltage_v mca_a mop_a supply_terminals largest_gauge"),
    ),
    "branch-box": (
        ("Names", "maker model series edition refrigerant"),
        ("Ports", "main_liquid_od_m main_gas_od_m lettered_from min_heads max_heads ports"),
        ("Line and charge", "max_branch_length_m max_branch_total_m adder_kg torques"),
        ("Body", "width_m height_m depth_m weight_kg clear_service_m drain_od_m"),
        ("Interconnect", "main_terminals terminals"),
    ),
    "tee": (
        ("Names", "maker model series edition refrigerant joints"),
        (
            "Tubes",
            "liquid_in_m liquid_on_m liquid_off_m gas_in_m gas_on_m gas_off_m "
            "straight_before_m adder_kg",
        ),
    ),
    "kit": (
        ("Names", "maker model series edition refrigerant"),
        ("Line set", "length_m liquid_od_m gas_od_m min_coil_m lines_hold evacuate_head torques"),
    ),
}


def row_model(model: type[BaseModel], name: str) -> type[BaseModel] | None:
    """What one row of a list field is made of; None where the field is no list of rows."""
    annotation: Any = model.model_fields[name].annotation
    if get_origin(annotation) is tuple:
        inner = get_args(annotation)[0]
        if isinstance(inner, type) and issubclass(inner, BaseModel):
            return inner
    return None


def _field(model: type[BaseModel], name: str) -> Field:
    row = row_model(model, name)
    columns = tuple(_field(row, n) for n in row.model_fields) if row else ()
    choices = CHOICES.get(name, ())
    if name == "refrigerant" and not model.model_fields[name].is_required():
        choices = (*SILENT, *choices)
    return Field(name, LABELS[name], choices, columns)


def short_form(kind: str) -> list[Field]:
    """The fields that the stages cannot do without, of one kind of sheet."""
    return [field_of(kind, name) for name in needs_of(kind)]


def field_of(kind: str, name: str) -> Field:
    return _field(KINDS[kind], name)


def groups(kind: str) -> list[Group]:
    """The rest of the form of one kind of sheet, by the stage that asks for it."""
    short = needs_of(kind)
    found = []
    for title, names in _GROUPS[kind]:
        left = tuple(field_of(kind, name) for name in names.split() if name not in short)
        if left:
            found.append(Group(title, left, STAGE_OF_GROUP.get(title, "mount")))
    return found


def quantity_kind(kind: str, name: str, column: str = "") -> str | None:
    """The kind of quantity behind a field, or behind a column of its rows."""
    model: type[BaseModel] = KINDS[kind]
    if column:
        found = row_model(model, name)
        assert found is not None
        return kind_of(found, column)
    return kind_of(model, name)
