"""The sheet's form: its groups of fields, in the order of a data plate."""

from typing import NamedTuple


class Field(NamedTuple):
    """A field of the sheet: its path, what it is called, and how it is entered."""

    path: str
    label: str
    hint: str = ""
    options: tuple[tuple[str, str], ...] = ()


GROUPS: tuple[tuple[str, tuple[Field, ...]], ...] = (
    ("Names", (
        Field("maker", "Maker"),
        Field("outdoor.model", "Outdoor unit"),
        Field("head.model", "Head"),
        Field("outdoor.refrigerant", "Refrigerant",
              options=(("R-32", "R-32"), ("R-454B", "R-454B"), ("R-410A", "R-410A"))),
    )),
    ("Line", (
        Field("outdoor.liquid_od_m", "Liquid tube"),
        Field("outdoor.gas_od_m", "Gas tube"),
        Field("outdoor.min_length_m", "Least length"),
        Field("outdoor.max_length_m", "Most length"),
        Field("outdoor.max_lift_m", "Most height difference"),
        Field("outdoor.max_bends", "Most bends"),
    )),
    ("Charge", (
        Field("outdoor.factory_charge_kg", "Factory charge"),
        Field("outdoor.included_length_m", "Covered length"),
        Field("outdoor.rate_kg_per_m", "Rate beyond it"),
        Field("outdoor.max_total_charge_kg", "Most total charge"),
        Field("outdoor.short_line", "Short line",
              options=(("", "silent"), ("leave", "leave as it is"), ("recover", "recover"))),
    )),
    ("Pressure test and vacuum", (
        Field("outdoor.max_test_gauge_pa", "Most test pressure", "Never guessed: no default."),
        Field("outdoor.test_gauge_pa", "Test pressure"),
        Field("outdoor.test_hold_s", "Hold of the test"),
        Field("outdoor.pull_to_pa", "Pull down to"),
        Field("outdoor.decay_max_pa", "Decay limit"),
        Field("outdoor.decay_hold_s", "Hold of the decay"),
    )),
    ("Flare torque", (
        Field("outdoor.liquid_torque_low_nm", "Liquid, least"),
        Field("outdoor.liquid_torque_high_nm", "Liquid, most"),
        Field("outdoor.gas_torque_low_nm", "Gas, least"),
        Field("outdoor.gas_torque_high_nm", "Gas, most"),
    )),
    ("Electrical", (
        Field("outdoor.mca_a", "MCA", "Minimum circuit ampacity"),
        Field("outdoor.mop_a", "MOP", "Maximum overcurrent protection"),
        Field("outdoor.rated_current_a", "Rated current"),
    )),
    ("Outdoor unit", (
        Field("outdoor.clear_behind_m", "Clear behind"),
        Field("outdoor.clear_left_m", "Clear left"),
        Field("outdoor.clear_right_m", "Clear right"),
        Field("outdoor.clear_front_m", "Clear in front"),
        Field("outdoor.weight_kg", "Weight"),
    )),
    ("Head", (
        Field("head.cool_w", "Rated cooling"),
        Field("head.heat_w", "Rated heating"),
        Field("head.airflow_m3_s", "Airflow, high fan"),
        Field("head.width_m", "Width"),
        Field("head.weight_kg", "Weight"),
        Field("head.clear_left_m", "Clear left"),
        Field("head.clear_right_m", "Clear right"),
        Field("head.clear_ceiling_m", "Clear above"),
        Field("head.min_height_m", "Least height"),
        Field("head.max_height_m", "Most height"),
        Field("head.hole_m", "Hole"),
        Field("head.plate_pitch", "Plate",
              options=(("", "silent"), ("level", "dead level"),
                       ("slight", "slight pitch to the drain"))),
    )),
)  # fmt: skip
